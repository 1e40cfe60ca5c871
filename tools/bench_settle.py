"""How soon a picture settles: our way against the plain one (even samples, all light found by chance, no filter), and what is told of its noise, on
every demo stage."""

import sys
import time
from statistics import median

import numpy as np

TARGET = 0.05
"""The error of a settled picture, as a share of its mean luminance on the screen (`picture.noise`)."""

SIDE, TOLD_OF = 192, 480
"""Pixels on a side of what is measured, and of the picture that its seconds are told of: every pixel takes as long."""

PER_PIXEL = (TOLD_OF / SIDE) ** 2
REFERENCE_S, OURS_S, PLAIN_S, FILTER_S = 1.6, 22.0 / PER_PIXEL, 0.7, 10.0
TOLD_AT = (16, 64)
TOLD_SIDE = 96

STAGES = (
    *(("net-float", "lamp-room"), ("net-float", "window-bench"), ("rock-crystal", "slate-table")),
    *(("tourmaline", "slate-table-step"), ("ink", "ink-jars"), ("cordial", "cordial-table")),
    *(("signal-lens", "lens-stand"), ("signal-lens-ruby", "lens-stand"), ("abalone-film", "shell-shelf")),
    *(("shears", "workbench"), ("tea-caddy", "tea-shelf"), ("driftwood", "shelf"), ("oil-slate", "wet-step")),
    *(("scratched-beaker", "washing-up"), ("brass-cap", "under-the-spot"), ("sea-worn-float", "slipway")),
    *(
        ("prism", "slit-of-sun"),
        ("milk-glass", "milk-steps"),
        ("tallow", "candle-sill"),
        ("whale-tooth", "tooth-bench"),
    ),
    *(("jade", "seal-desk"), ("rosehip-syrup", "cordial-table"), ("harbour-fog", "harbour")),
    *(("fog-and-soot", "harbour"), ("chimney-smoke", "over-the-roofs"), ("wick-flame", "two-wicks")),
    *(("ruby-scattering", "four-ways"), ("open-sea", "off-the-skerry"), ("vase-blue", "two-vases")),
    *(("signal-cover", "signal-lamp"), ("otter-pelt", "pelt-table"), ("badger-hair", "brush-shelf")),
    *(("copper-hair", "three-locks"), ("wet-hair", "wet-and-dry")),
)
"""Every demo stage, with the material that stands on it."""


def round_of(tracer, the_set, film, number: int, seed: int = 1) -> None:
    """The next round of samples, as on the Bench."""
    from nineglass.trace.adaptive import next_jobs

    tracer.render(the_set, film, jobs=next_jobs(film, number, the_set.exposure), seed=seed)


def _long(tracer, the_set, side: int, spend_s: float, seed: int):
    """A long render of its own seed."""
    from nineglass.trace.film import Film

    film, number, began = Film(side, side), 0, time.perf_counter()
    while time.perf_counter() - began < spend_s:
        round_of(tracer, the_set, film, number, seed)
        number += 1
    return film.rgb()


def _ours(tracer, the_set, truths) -> float:
    """Seconds until the picture that is shown is as near to the truth as the target."""
    from nineglass.picture.noise import true_error
    from nineglass.picture.smooth import Shot
    from nineglass.trace.film import Film

    film, number, spent, looks = Film(SIDE, SIDE), 0, 0.0, 1
    before = None
    while spent < OURS_S:
        began = time.perf_counter()
        round_of(tracer, the_set, film, number)
        number += 1
        shot = Shot.of(film, the_set.exposure) if number == looks else None
        rgb = shot.smoothed()[0] if shot else None
        spent += time.perf_counter() - began
        if shot is None:
            continue
        looks = max(number + 1, int(number * 1.3))
        error = true_error(rgb, truths, the_set.exposure)
        if error <= TARGET:
            return _between(before, (spent, error))
        before = (spent, error)
    return before[0] * (before[1] / TARGET) ** 2


def _between(before, after) -> float:
    """When an error that falls as a power of time passes the target."""
    if before is None or before[1] <= after[1]:
        return after[0]
    share = np.log(before[1] / TARGET) / np.log(before[1] / max(after[1], 1e-6))
    return float(before[0] * (after[0] / before[0]) ** share)


def _plain(tracer, the_set, truths) -> float:
    """Seconds that the plain way takes to the target, from its error after some, which falls as their root."""
    from nineglass.picture.noise import true_error
    from nineglass.trace.film import Film

    film, began, samples = Film(SIDE, SIDE), time.perf_counter(), 0
    while time.perf_counter() - began < PLAIN_S:
        tracer.render(the_set.by_chance(), film, samples, 1)
        samples += 1
    spent = time.perf_counter() - began
    return spent * (true_error(film.rgb(), truths, the_set.exposure) / TARGET) ** 2


def _told_over_true(tracer, the_set) -> list[float | None]:
    """At each of `TOLD_AT`, as rendered and smoothed; None where the true one cannot be told from that of the references."""
    from nineglass.picture.noise import true_error
    from nineglass.picture.smooth import Shot
    from nineglass.trace.film import Film

    truths = [_long(tracer, the_set, TOLD_SIDE, REFERENCE_S, seed) for seed in (101, 202)]
    found = []
    film, number = Film(TOLD_SIDE, TOLD_SIDE), 0
    for count in TOLD_AT:
        while number < count:
            round_of(tracer, the_set, film, number)
            number += 1
        shot = Shot.of(film, the_set.exposure)
        for rgb, told in ((shot.rgb, shot.noise), shot.smoothed()):
            true = true_error(rgb, truths, the_set.exposure)
            found.append(told / true if true > 0 else None)
    return found


def bench_settle(document) -> dict:
    """document(model, name) reads one of the demo. Prints each stage as it is measured; a wide spread is a stage to look at."""
    ours, speedups = [], []
    for name, tracer, the_set in _stages(document):
        truths = [_long(tracer, the_set, SIDE, REFERENCE_S, seed) for seed in (101, 202)]
        took, plain = (PER_PIXEL * way(tracer, the_set, truths) for way in (_ours, _plain))
        ours.append(took)
        speedups.append(plain / took)
        _say(name, f"{took:.1f} s, plain {plain:.0f} s, {plain / took:.0f} times")
    return {"settle.speedup_median": median(speedups), "settle.worst_s_480": max(ours)}


def bench_noise(document) -> dict:
    """The noise that is told over the true one, of pictures as rendered and smoothed, at the least and at the most."""
    told = []
    for name, tracer, the_set in _stages(document):
        ratios = _told_over_true(tracer, the_set)
        told += [ratio for ratio in ratios if ratio is not None]
        _say(
            name,
            ", ".join("the true one is lost in that of the references" if r is None else f"{r:.2f}" for r in ratios),
        )
    return {"noise.told_over_true_least": min(told), "noise.told_over_true_most": max(told)}


def _stages(document):
    """(name, tracer, set) of each."""
    from nineglass.picture.smooth import Shot
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    tracer = Tracer(2)
    Shot.of(Film(SIDE, SIDE), 0.0).smoothed()
    for material, stage in STAGES:
        yield f"{material} on {stage}", tracer, build_set(document("Material", material), document("Stage", stage))


def _say(name: str, line: str) -> None:
    print(f"  {name}: {line}", file=sys.stderr, flush=True)


def bench_caustics(document) -> dict:
    """Variance at equal time in the part of the picture that thrown light comes to, over that by chance."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    tracer, side, worst = Tracer(2), 96, 0.0
    for material, stage in (("net-float", "lamp-room"), ("prism", "slit-of-sun")):
        the_set = build_set(document("Material", material), document("Stage", stage))
        truth = Film(side, side)
        tracer.render(the_set, truth, 0, 256, seed=99)
        thrown = truth.thrown[:, 1] / truth.throws[0]
        caustic = thrown > 0.25 * np.percentile(thrown, 99)
        products = []
        for one, samples in ((the_set, 16), (the_set.by_chance(), 64)):
            squares, spent = [], 0.0
            for seed in range(1, 9):
                film, began = Film(side, side), time.perf_counter()
                tracer.render(one, film, 0, samples, seed=seed)
                spent += time.perf_counter() - began
                squares.append(((film.rgb() - truth.rgb())[..., 1].ravel()[caustic] ** 2).mean())
            products.append(float(np.mean(squares)) * spent)
        print(f"  {stage}: {products[0] / products[1]:.4f} over {caustic.sum()} pixels", file=sys.stderr, flush=True)
        worst = max(worst, products[0] / products[1])
    return {"caustics.variance_ratio": worst}


def bench_filter(document) -> dict:
    """The share of the first ten seconds of a bench that its filter runs, beside tracing."""
    import io

    from live.renderer import Renderer
    from nineglass.picture import smooth

    spent, plainly = [0.0], smooth.Shot.smoothed

    def timed(shot, tells=True):
        began = time.perf_counter()
        made = plainly(shot, tells)
        spent[0] += time.perf_counter() - began
        return made

    from nineglass.trace.render import Tracer

    renderer, tracer = Renderer(None, io.BytesIO()), Tracer(2)
    documents = {"material": document("Material", "net-float").model_dump(mode="json")}
    documents["stage"] = document("Stage", "window-bench").model_dump(mode="json")
    smooth.Shot.smoothed = timed
    try:
        renderer.hear({"type": "show", "session": "a", "sequence": 1, **documents, "settings": {}, "inside": ""})
        bench, began = renderer.benches["a"], time.perf_counter()
        while time.perf_counter() - began < FILTER_S:
            bench.unacknowledged = 0
            if not bench.waiting():
                raise RuntimeError("the bench stands still")
            renderer.give_turn(bench, tracer)
        took = time.perf_counter() - began
    finally:
        smooth.Shot.smoothed = plainly
    return {"filter.share_of_time": spent[0] / took}
