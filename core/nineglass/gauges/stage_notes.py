"""Bench notes on the stage: what the light, the size or the background does to the matter."""

from math import asin, atan, degrees

import numpy as np

from nineglass.catalogue import FLOORS, FORMS, LAMPS, SURROUNDS
from nineglass.documents.bands.interface import CHOSEN_FAN, TRUE_FAN
from nineglass.documents.note import Change, Note
from nineglass.gauges import Reading, reading_of
from nineglass.gauges.index import index_of
from nineglass.lamps.light import POINT, SUN
from nineglass.matter.substances import C_NM, D_NM, F_NM, NONE, WAVELENGTHS_NM, substances
from nineglass.spectra.observer import D65
from nineglass.trace.geometry.standing import meshes_of, standing_of
from nineglass.trace.matter import fan_response, is_open, sensor_response
from nineglass.trace.scene import filled, picture_of

DARK_SHARE = 0.4
CLIPPED_SHARE = 0.02
CHANNELS = ("red", "green", "blue")


def notes_on_stage(reading: Reading) -> list[Note]:
    if reading.stage is None:
        return []
    notes = [*_open_surface(reading), *_forms(reading), *_clipped(reading)]
    if "metal" in reading.compiled.present or is_open(reading.compiled.leaves[0]):
        return notes
    return [
        *notes,
        *_hidden_dispersion(reading),
        *_nothing_dark(reading),
        *_same_background(reading),
        *_low_index(reading),
        *_loose_liquid(reading),
        *_bubble(reading),
        *_chosen_fan(reading),
    ]


def _interface(reading: Reading) -> str:
    return next((b.id for b in reading.material.section.bands if b.kind == "interface"), "")


def fan_deg(n: np.ndarray) -> float:
    """The angle between F and C light behind a prism of 60 degrees at least deviation, 0 where it lets nothing out."""
    low, high = (min(float(np.interp(nm, WAVELENGTHS_NM, n)) / 2, 1.0) for nm in (C_NM, F_NM))
    return 2 * degrees(asin(high) - asin(low))


def lamp_deg(kind: str, dials: dict) -> float:
    """How wide a lamp looks from the middle of the stage, across its narrower side."""
    light = LAMPS.kinds[kind].make().light(dials)
    if light.shape == SUN:
        return 2 * degrees(light.spread)
    if light.shape == POINT:
        return 0.0
    half = min(float(np.linalg.norm(light.across)), float(np.linalg.norm(light.up)))
    return 2 * degrees(atan(half / max(float(np.linalg.norm(light.centre)), 1e-9)))


def _hidden_dispersion(reading: Reading):
    scale = reading.compiled.settings["interface"]["transmission_dispersion_scale"]
    lamps = [lamp for lamp in reading.stage.lamps if lamp.on and LAMPS.kinds[lamp.kind].family != "point"]
    if scale <= 0 or not lamps:
        return
    fan = fan_deg(index_of(reading))
    narrowest, at = min((lamp_deg(lamp.kind, filled(lamp, LAMPS)), i) for i, lamp in enumerate(lamps))
    if fan <= 0 or narrowest <= 2 * fan:
        return
    lamp = lamps[at]
    dial = next((name for name in ("width", "diameter") if name in LAMPS.kinds[lamp.kind].dials), "")
    index = reading.stage.lamps.index(lamp)
    value = float(f"{filled(lamp, LAMPS)[dial] * fan / narrowest:.2g}") if dial else 0.0
    yield Note(
        "dispersion hidden",
        f"The narrowest lamp is {narrowest:.1f} degrees wide, the fan of colours only {fan:.2f}: they lie over one another and look white.",
        narrowest / fan,
        _interface(reading),
        "transmission_dispersion_scale",
        f"Make the lamp {value:g} cm wide" if dial else "Choose a narrower lamp",
        [Change(f"lamps.{index}", dial, value)] if dial else [],
    )


def light_shares(stage) -> np.ndarray:
    """Luminance over the directions of what reflections see, weighed by solid angle: (n, 2) of luminance and weight."""
    part = stage.surround.reflections or stage.surround.light
    picture = picture_of(stage.surround, part)
    if picture is None:
        below, above, softness = SURROUNDS.kinds[part.kind].make().ends(filled(part, SURROUNDS))
        t = np.linspace(-1, 1, 64)
        share = np.clip(0.5 + 0.5 * t / max(softness, 1e-3), 0, 1)
        share = share * share * (3 - 2 * share)
        rgb = np.array(below) + np.outer(share, np.array(above) - np.array(below))
        return np.column_stack([rgb @ (0.2126, 0.7152, 0.0722), np.full(64, 1 / 64)])
    luminance = picture @ np.array([0.2126, 0.7152, 0.0722])
    weight = np.sin((np.arange(len(picture)) + 0.5) / len(picture) * np.pi)[:, None] * np.ones(picture.shape[1])
    return np.column_stack([luminance.ravel(), weight.ravel() / weight.sum()])


def _nothing_dark(reading: Reading):
    if "fibre" in reading.compiled.present:
        return
    luminance, weight = light_shares(reading.stage).T
    mean = float(luminance @ weight)
    if mean <= 1e-4:
        return
    dark = float(weight[luminance < DARK_SHARE * mean].sum())
    floor = reading.stage.floor
    if dark > 0.05 or (floor and sum(filled(floor, FLOORS)["color"]) / 3 < 0.1):
        return
    yield Note(
        "nothing dark",
        f"Only {dark:.0%} of what reflections see is dark: clear matter has no edge to show and looks like nothing.",
        dark,
        "surround",
        "reflections",
        "Let reflections see a dark surround",
        [
            Change(
                "surround",
                "reflections",
                {"kind": "gradient", "dials": {"above": [0.9, 0.9, 0.9], "below": [0.01, 0.01, 0.01], "softness": 0.2}},
            )
        ],
    )


def _same_background(reading: Reading):
    surround = reading.stage.surround
    plain = surround.light.kind == "plain" and surround.second is None
    same = surround.camera is None and surround.reflections is None
    on = [lamp for lamp in reading.stage.lamps if lamp.on]
    if not (plain and same and not on and reading.stage.floor is None):
        return
    yield Note(
        "background is the light",
        "Background and lighting are the same even colour, without a lamp: clear matter vanishes in it.",
        1.0,
        "surround",
        "camera",
        "Put a darker colour behind",
        [Change("surround", "camera", {"kind": "plain", "dials": {"color": [0.05, 0.05, 0.05], "strength": 0.5}})],
    )


def _low_index(reading: Reading):
    band = _interface(reading)
    if not band or reading.varies("interface", "specular_ior"):
        return
    ours = float(np.interp(587.56, WAVELENGTHS_NM, index_of(reading)))
    if ours < 1.02 and "interior" not in reading.compiled.present:
        yield Note(
            "index of air",
            f"The index is {ours:.3f}, that of what is around it: nothing bends, nothing is reflected.",
            ours,
            band,
            "specular_ior",
            "Set to 1.52, glass",
            [Change(band, "specular_ior", 1.52)],
        )


def _bubble(reading: Reading):
    """Matter of lower index within another object's: it looks like a bubble."""
    if reading.varies("interface", "specular_ior"):
        return
    ours = float(np.interp(D_NM, WAVELENGTHS_NM, index_of(reading)))
    standing = standing_of(reading.stage).placed
    if not any(placed.material for placed in standing):
        return
    boxes = [
        ((p.mesh.vertices @ p.axes.T + p.offset).min(axis=0), (p.mesh.vertices @ p.axes.T + p.offset).max(axis=0))
        for p in standing
    ]
    for inner, (low, high) in zip(standing, boxes, strict=True):
        for outer, (lowest, highest) in zip(standing, boxes, strict=True):
            if inner.material or not outer.material or not ((low > lowest).all() and (high < highest).all()):
                continue
            around = reading_of(outer.material)
            theirs = float(np.interp(D_NM, WAVELENGTHS_NM, index_of(around)))
            if "metal" in around.compiled.present or ours > theirs - 0.02 or "liquid" in (inner.part, outer.part):
                continue
            yield Note(
                "index below its surroundings",
                f"The index is {ours:.3f}, that of {outer.object_id} around it {theirs:.3f}: it mirrors like a bubble.",
                ours / theirs,
                _interface(reading),
                "specular_ior",
                f"Set to {theirs + 0.1:.2f}",
                [Change(_interface(reading), "specular_ior", round(theirs + 0.1, 3))],
            )
            return


def _chosen_fan(reading: Reading):
    """What recolouring the fan does to its energy, told so that nobody takes it for true."""
    dials = reading.compiled.settings["interface"]
    if dials["fan"] != CHOSEN_FAN or dials["transmission_dispersion_scale"] <= 0:
        return
    response = sensor_response()
    true, chosen = (response * D65).sum(axis=1), (fan_response(response, dials) * D65).sum(axis=1)
    weights = np.array([0.2126, 0.7152, 0.0722])
    kept = float(chosen @ weights / (true @ weights))
    yield Note(
        "fan in chosen colours",
        f"The fan of colours is recoloured, which no glass does. White light together keeps {kept:.0%} of its luminance.",
        kept,
        _interface(reading),
        "fan",
        "Show the true fan",
        [Change(_interface(reading), "fan", TRUE_FAN)],
    )


def _loose_liquid(reading: Reading):
    interface = reading.compiled.settings["interface"]
    name = interface["substance"]
    if name == NONE or substances()[name].family != "liquid":
        return
    for one in reading.stage.objects:
        for part in meshes_of(one) if one.on else ():
            wear = one.wears.get(part)
            on_bench = wear is None or wear.material is None
            if on_bench and part == "body" and one.form.kind != "water_surface":
                yield Note(
                    "liquid without a container",
                    f"{substances()[name].title} stands by itself as {one.form.kind.replace('_', ' ')}: a liquid shows by the glass around it.",
                    0.0,
                    f"objects.{reading.stage.objects.index(one)}",
                    "form",
                    "Fill it into a beaker",
                    [Change(f"objects.{reading.stage.objects.index(one)}", "form", {"kind": "beaker", "dials": {}})],
                )
                return


def _forms(reading: Reading):
    """What forms say against the way that they are set."""
    for k, one in enumerate(reading.stage.objects):
        kind = FORMS.kinds[one.form.kind]
        dials = kind.defaults() | one.form.dials
        for says, dial, better in kind.make().faults(dials) if one.on and hasattr(kind.make, "faults") else ():
            form = {"kind": one.form.kind, "dials": one.form.dials | {dial: better}}
            yield Note(
                "form at fault",
                f"{kind.title}: {says}.",
                float(dials[dial]),
                f"objects.{k}",
                "form",
                f"Set {kind.dials[dial].label.lower()} to {better:g}",
                [Change(f"objects.{k}", "form", form)],
            )


def _open_surface(reading: Reading):
    if "interior" not in reading.compiled.present:
        return
    for placed in standing_of(reading.stage).placed:
        found = placed.mesh.faults if placed.material is None else []
        if found:
            yield Note(
                "surface not closed",
                f"{placed.object_id}: {', '.join(found)}. A solid that holds an interior must be closed; light gets lost or never ends.",
                float(found[0].split()[0]),
                f"objects.{[o.id for o in reading.stage.objects].index(placed.object_id)}",
                "form",
                "Close the surface in the program that made it",
                [],
            )


def _clipped(reading: Reading):
    if not reading.clipped or max(reading.clipped) < CLIPPED_SHARE:
        return
    worst = int(np.argmax(reading.clipped))
    exposure = reading.stage.camera.dials.get("exposure", 0)
    yield Note(
        "picture clipped",
        f"{reading.clipped[worst]:.0%} of the picture is past white in {CHANNELS[worst]}; what is there is lost on screen.",
        float(reading.clipped[worst]),
        "camera",
        "exposure",
        "One stop darker",
        [Change("camera", "exposure", exposure - 1)],
    )
