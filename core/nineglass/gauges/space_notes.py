"""Bench notes on what varies in space: grids that are not read, light that no lamp gives, fog that is black."""

import numpy as np

from nineglass.catalogue import CAMERAS, LAMPS, SLIPS
from nineglass.documents.bands.flame import BLACK_BODY
from nineglass.documents.note import AddLamp, Change, Note, PutOnWire
from nineglass.gauges import Reading
from nineglass.gauges.ghost import fields_on_bench, flame_on_bench, ghost_of, glow_of
from nineglass.gauges.stage_notes import light_shares
from nineglass.gauges.surface import form_size_cm, places, values_at
from nineglass.gauges.within import MIDDLE, absorption_of, scattering_of
from nineglass.spectra.blackbody import COLDEST_SEEN_K
from nineglass.trace.geometry.standing import Placed
from nineglass.trace.matter import is_open, varying_of
from nineglass.trace.media.fields import Field
from nineglass.trace.media.varying import ABSORBS, GLOW
from nineglass.trace.scene import filled

BLACK_DEPTH = 6.0
"""Mean free paths from the camera to the middle of the stage beyond which nothing is seen through fog."""

GOOD_DEPTH = 1.5
BLOWN_OUT = 8.0
"""Luminance of a flame, looked at through its middle, past which nothing but white is seen in it."""

HELD_AT = 4.0
DIM = 0.02
"""Luminance of a surround that lights about nothing."""

FIRE_K = [900.0, 1600.0]


def notes_on_space(reading: Reading) -> list[Note]:
    notes = list(_unread_grids(reading))
    if not is_open(reading.compiled.leaves[0]) or reading.stage is None:
        return notes
    return [
        *notes,
        *_empty(reading),
        *_not_kelvin(reading),
        *_reads_a_surface(reading),
        *_finer_than_voxels(reading),
        *_on_flame(reading),
        *_black_fog(reading),
    ]


def _band(reading: Reading, kind: str) -> str:
    return next((band.id for band in reading.material.section.bands if band.kind == kind and band.on), "")


def _unread_grids(reading: Reading):
    for slip in reading.material.slips:
        kind = SLIPS.kinds.get(slip.kind)
        for fault in kind.make().faults(kind.defaults() | slip.dials) if kind and hasattr(kind.make, "faults") else ():
            yield Note(
                "grid not read",
                f"Grid {slip.id}: {fault}. It gives 0.",
                0.0,
                slip.id,
                "channel",
                "Choose one of them",
                [],
            )


def _values(reading: Reading, kind: str, dial: str) -> np.ndarray | None:
    """What drives a dial, at places within; None when nothing does."""
    band = _band(reading, kind)
    signal = reading.compiled.arriving.get((band, dial))
    if signal is None or not reading.varies(kind, dial):
        return None
    return values_at(reading, {dial: signal}, places(reading))[dial]


def _empty(reading: Reading):
    for kind, dial in (("interior", "density"), ("flame", "flame_density")):
        if kind not in reading.compiled.present:
            continue
        values = _values(reading, kind, dial)
        if (reading.values[kind, dial] if values is None else values.max()) <= 0:
            says = "What drives the density is 0 at every place within: there is nothing to see."
            yield Note("nothing in it", says, 0.0, _band(reading, kind), dial, "Look at what the wire brings", [])


def _not_kelvin(reading: Reading):
    if "flame" not in reading.compiled.present or reading.compiled.settings["flame"]["light_from"] != BLACK_BODY:
        return
    values = _values(reading, "flame", "temperature")
    if values is None or not 0 < values.max() < COLDEST_SEEN_K:
        return
    band, high = _band(reading, "flame"), float(values.max())
    dials = {"from_low": 0.0, "from_high": float(f"{high:.3g}"), "to_low": FIRE_K[0], "to_high": FIRE_K[1]}
    yield Note(
        "not kelvin",
        f"What arrives as temperature is at most {high:.3g}: a flame takes K, and nothing glows below {COLDEST_SEEN_K:g} K.",
        high,
        band,
        "temperature",
        f"Put a range on the wire: 0 to {high:.3g} becomes {FIRE_K[0]:g} to {FIRE_K[1]:g} K",
        [PutOnWire(band, "temperature", "remap", dials)],
    )


ON_SURFACES = ("facing", "normal_x", "view_x", "u", "piece")


def _reads_a_surface(reading: Reading):
    inputs = {name for varying in varying_of(reading.compiled) for name in varying.program.inputs}
    read = [name for name in ON_SURFACES if name in inputs]
    if read:
        words = {
            "facing": "facing",
            "normal_x": "the normal",
            "view_x": "the way to the eye",
            "u": "texture coordinates",
            "piece": "pieces",
        }
        says = f"The network reads {words[read[0]]}, which only surfaces have: within matter it is the same everywhere."
        yield Note(
            "no surface to read",
            says,
            0.0,
            _band(reading, "interior") or _band(reading, "flame"),
            "",
            "Read the position instead",
            [],
        )


def _finer_than_voxels(reading: Reading):
    """What a network says of the density between voxels, against what is laid out on them."""
    from scipy.ndimage import map_coordinates

    density = _values(reading, "interior", "density")
    others = any(reading.varies("interior", dial) for dial in ("transmission_depth", "transmission_color"))
    _, found = (not others and fields_on_bench(reading)) or (None, [])
    if density is None or len(found) != 1 or density.std() <= 0.01 * abs(density.mean()):
        return
    box, inputs = found[0].box, places(reading)
    sides = box.size * 100 / np.array(box.shape[::-1])
    own = np.stack([inputs[axis] for axis in "xyz"])
    middles = (own - box.low[:, None] * 100) / sides[:, None] - 0.5
    laid = map_coordinates(found[0].channels[ABSORBS][0], middles[::-1], order=1, mode="nearest")
    lost = 1 - (np.corrcoef(laid, density[0])[0, 1] ** 2 if laid.std() > 0 else 0.0)
    if lost > MOST_LOST:
        says = f"The density has detail finer than the voxels that it is laid out on, of {10 * sides.max():.2g} mm: {lost:.0%} of how it varies is lost."
        remedy = "Make the pattern larger, or the form smaller"
        yield Note("finer than a voxel", says, float(lost), _band(reading, "interior"), "density", remedy, [])


MOST_LOST = 0.3
"""The share of its variance that a density may lose between voxels before it is told."""


def _on_flame(reading: Reading):
    if "flame" not in reading.compiled.present:
        return
    found, band = flame_on_bench(reading), _band(reading, "flame")
    if found is None or found[1].channels[GLOW].max() <= 0:
        return
    placed, field = found
    glow, _ = glow_of(field)
    brightest = float((glow.sum(axis=0) * field.box.size[2] / glow.shape[0]).max())
    if brightest > BLOWN_OUT * 2.0 ** -reading.stage.camera.dials.get("exposure", 0):
        held = float(f"{HELD_AT / (field.box.size[2] * 100):.2g}")
        yield Note(
            "flame blown out",
            f"Looked through, the flame has a luminance of {brightest:.3g}: nothing but white is left of it.",
            brightest,
            band,
            "most_luminance",
            f"Hold it at {held:g}",
            [Change(band, "most_luminance", held)],
        )
    if reading.compiled.settings["flame"]["lights"]:
        yield from _only_light(reading, placed, field)


def _only_light(reading: Reading, placed: Placed, field: Field):
    stage = reading.stage
    on = [lamp for lamp in stage.lamps if lamp.on and filled(lamp, LAMPS).get("power", 1) > 0]
    luminance, weight = light_shares(stage).T
    if on or float(luminance @ weight) > DIM:
        return
    others = [one.id for one in stage.objects if one.id != placed.object_id] + ["floor"]
    ghost = ghost_of(placed, field, others)
    yield Note(
        "flame is the only light",
        f"The flame is the stage's only light, and is found by chance: it settles slowly. A lamp of {ghost['dials']['power']:.3g} W in its "
        "middle that nobody sees gives as much.",
        ghost["dials"]["power"],
        _band(reading, "flame"),
        "lights",
        "Let a ghost lamp light in its place",
        [AddLamp(ghost), Change(_band(reading, "flame"), "lights", False)],
    )


def _black_fog(reading: Reading):
    """Fog that the camera stands in, and through which it does not see what it looks at."""
    extinction = float((absorption_of(reading) + scattering_of(reading))[MIDDLE])
    size = form_size_cm(reading) or 0.0
    distance = filled(reading.stage.camera, CAMERAS)["distance"]
    density = _values(reading, "interior", "density")
    if density is not None:
        extinction *= float(density.mean()) / max(float(density.max()), 1e-9)  # `within` tells of the densest place
    depth = extinction * min(distance, size / 2) / 100
    if "interior" not in reading.compiled.present or size < distance or depth < BLACK_DEPTH:
        return
    band, better = _band(reading, "interior"), GOOD_DEPTH / depth
    dial = "transmission_depth"
    value = float(f"{reading.values['interior', dial] / better:.2g}")
    yield Note(
        "black fog",
        f"Of what is in the middle of the stage {np.exp(-depth):.1g} of the light comes through the fog: it is black, or its own colour, and nothing else.",
        depth,
        band,
        dial,
        f"Set the depth to {value:g} cm",
        [Change(band, dial, value)],
    )
