"""Bench notes on strands: highlights, colours that miss the skin, thickness, lamps that stand among them."""

import numpy as np

from nineglass.catalogue import FORMS, LAMPS
from nineglass.documents.as_the_skin import as_the_skin, color_dial_of, wire_into
from nineglass.documents.model import Band, Lamp, Material, Stack, skin_of
from nineglass.documents.note import Become, Change, Note
from nineglass.gauges import Reading
from nineglass.gauges.surface import strands_on_bench, worn
from nineglass.lamps.light import SUN
from nineglass.network.compile import Compiled, compile_network
from nineglass.optics.fibre import mirrored_share
from nineglass.trace.geometry.standing import standing_of
from nineglass.trace.growth import is_fibre
from nineglass.trace.scene import filled

TOO_SHINY, GOOD_SHARE = 0.055, 0.04
"""Share of the light that meets a strand which its surface mirrors. Common practice, no source: a few percent."""

THICKEST_UM = 400.0
"""Common practice, no source: fine fur 15 to 25, human hair 50 to 100, a boar's bristle up to 300 um."""

GOOD_UM = 80.0
FIBRE = Band(id="fibre", kind="fibre")


def notes_on_strands(reading: Reading) -> list[Note]:
    band = next((one for one in reading.material.section.bands if one.on and one.kind == "fibre"), None)
    notes = [*_no_fibre(reading)]
    if band is None:
        return notes
    notes += _too_shiny(reading, band)
    if reading.stage is not None:
        notes += [
            *_no_strands(reading, band),
            *_unlike_the_skin(reading, band),
            *_too_thick(reading),
            *_hides_a_lamp(reading),
        ]
    return notes


def _no_fibre(reading: Reading):
    strands = strands_on_bench(reading)
    if not strands or is_fibre(reading.material):
        return
    first = reading.material.section.bands[0]
    yield Note(
        "strands without a fibre",
        "The strands wear this material, which is no fibre: they are shown in plain grey.",
        float(len(strands)),
        first.id,
        "",
        "Make it a fibre",
        [Become(Material(name=reading.material.name, section=Stack(bands=[FIBRE])).model_dump(mode="json"))],
    )


def _no_strands(reading: Reading, band: Band):
    found = worn(reading)
    if not found or strands_on_bench(reading):
        return
    one, _ = found
    yield Note(
        "a fibre without strands",
        f"{one.name or one.id} wears this fibre, but no strands grow here: it is shown as strands that lie on the form.",
        0.0,
        band.id,
        "",
        "Add strands on the Stage",
        [],
    )


def _too_shiny(reading: Reading, band: Band):
    if reading.varies("fibre", "highlight") or reading.varies("fibre", "fibre_ior"):
        return
    ior, highlight = (float(reading.values["fibre", name]) for name in ("fibre_ior", "highlight"))
    across = np.linspace(-0.99, 0.99, 41)
    plain = float(np.mean([mirrored_share(np.float32(1), np.float32(h), np.float32(ior)) for h in across]))
    share = plain * highlight
    if share <= TOO_SHINY:
        return
    better = round(GOOD_SHARE / plain, 2)
    yield Note(
        "highlight stronger than a fibre's",
        f"The surface mirrors {share:.0%} of the light that meets a strand; hair and fur show a few percent.",
        share,
        band.id,
        "highlight",
        f"Set the highlight to {better:.2f}",
        [Change(band.id, "highlight", better)],
    )


PLACES, TEXTURE = {"x", "y", "z"}, {"u", "v"}


def _color_reads(compiled: Compiled, part: str, dial: str) -> set[str]:
    """The inputs that a colour dial depends on."""
    return set(compiled.program.only(set(compiled.by_band[part, dial])).inputs)


def _unlike_the_skin(reading: Reading, band: Band):
    for _, one in strands_on_bench(reading):
        skin = skin_of(one, reading.stage.objects)
        own = next((wear.material for wear in skin.wears.values() if wear.material), None)
        there = own and color_dial_of(own)
        if not there or wire_into(own, *there) is None:
            continue
        theirs = _color_reads(compile_network(own), *there) & (PLACES | TEXTURE)
        ours = _color_reads(reading.compiled, band.id, "fibre_color") & (PLACES | TEXTURE)
        matched = as_the_skin(reading.material, own)
        if ours and theirs and ours.isdisjoint(theirs):
            kinds = {True: "the place on it", False: "its texture coordinates"}
            rule, says = (
                "coloured by other coordinates",
                f"The colour of the strands follows {kinds[bool(ours & PLACES)]} at the root, that of the skin {kinds[bool(theirs & PLACES)]}: "
                "the patterns cannot match.",
            )
        elif not ours and wire_into(reading.material, band.id, "fibre_color") is None:
            name = skin.name or skin.id
            rule, says = "strands unlike their skin", f"The strands have one colour, {name} beneath them a pattern."
        else:
            continue
        yield Note(rule, says, 0.0, band.id, "fibre_color", "As the skin", [Become(matched.model_dump(mode="json"))])
        return


def _too_thick(reading: Reading):
    for k, one in strands_on_bench(reading):
        kind = FORMS.kinds[one.form.kind]
        dials = kind.defaults() | one.form.dials
        width = dials.get("root_width", 0.0)
        if width <= THICKEST_UM:
            continue
        thin = one.form.dials | {"root_width": GOOD_UM, "tip_width": min(GOOD_UM, dials["tip_width"])}
        yield Note(
            "strands thicker than an animal's",
            f"{one.name or one.id}: {width:.0f} um at the root; fine fur has 15 to 25, human hair 50 to 100, a bristle up to 300.",
            float(width),
            f"objects.{k}",
            "form",
            f"Set to {GOOD_UM:g} um",
            [Change(f"objects.{k}", "form", {"kind": one.form.kind, "dials": thin})],
        )


def _hides_a_lamp(reading: Reading):
    strands = {one.id: one for _, one in strands_on_bench(reading)}
    if not strands:
        return
    lit = _near_lamps(reading)
    for placed in standing_of(reading.stage).placed:
        one = strands.get(placed.object_id)
        if one is None:
            continue
        length = (FORMS.kinds[one.form.kind].defaults() | one.form.dials).get("length", 0.0) / 100
        low, high = placed.mesh.bounds()
        for lamp, centre in lit:
            own = (centre - placed.offset) @ placed.axes
            if not ((own > low - length) & (own < high + length)).all():
                continue
            yield Note(
                "strands hide a lamp",
                f"{lamp.name or lamp.id} stands {100 * float(np.linalg.norm(centre - placed.offset)):.1f} cm from the middle of the skin, among the strands: "
                "hardly any of its light comes out.",
                0.0,
                f"lamps.{reading.stage.lamps.index(lamp)}",
                "distance",
                "Move it 20 cm away",
                [
                    Change(
                        f"lamps.{reading.stage.lamps.index(lamp)}",
                        "distance",
                        float(lamp.dials.get("distance", 60)) + 20,
                    )
                ],
            )
            return


def _near_lamps(reading: Reading) -> list[tuple[Lamp, np.ndarray]]:
    """The lamps that stand at a place, with where that is (m)."""
    lights = [(one, LAMPS.kinds[one.kind].make().light(filled(one, LAMPS))) for one in reading.stage.lamps if one.on]
    return [(one, light.centre) for one, light in lights if light.shape != SUN]
