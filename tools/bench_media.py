"""What matter that scatters costs: passes of demo stages over those of clear matter."""

SIDE = 320


def bench_media(document, interleaved) -> dict:
    """document(model, name) reads one of the demo; interleaved(*acts) times acts in turn."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    def on_stage(material, stage):
        return build_set(document("Material", material), stage)

    harbour = document("Stage", "harbour")
    without = [one.model_copy(update={"on": one.id != "fog"}) for one in harbour.objects]
    sets = (
        on_stage("net-float", document("Stage", "window-bench")),
        on_stage("tallow", document("Stage", "candle-sill")),
        on_stage("harbour-fog", harbour.model_copy(update={"objects": without})),
        on_stage("harbour-fog", harbour),
    )
    tracer, film = Tracer(2), Film(SIDE, SIDE)
    glass, wax, clear, fog = interleaved(*(lambda s=s: tracer.render(s, film) for s in sets))
    return {"media.candle_pass_vs_float": wax / glass, "media.fog_vs_clear": fog / clear}
