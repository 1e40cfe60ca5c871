"""Bench notes: rules of the trade that a material breaks, each with its figure and a remedy."""

from dataclasses import asdict

import numpy as np

from nineglass.documents.bands.interior import COLOR
from nineglass.documents.note import Change, Note
from nineglass.gauges import Reading
from nineglass.gauges.layer_notes import notes_on_layers
from nineglass.gauges.space_notes import notes_on_space
from nineglass.gauges.stage_notes import notes_on_stage
from nineglass.gauges.strand_notes import notes_on_strands
from nineglass.gauges.surface import form_size_cm
from nineglass.gauges.within import MIDDLE, is_subsurface, scattering_of, scatters, transmitted, varies_within
from nineglass.matter.material import reads_color
from nineglass.spectra.observer import CMF, D65

FULL = 0.9995
FULL_REMEDY = 0.95
BLACK_BELOW = 0.02
CLEAR_ABOVE = 0.97
PURE_BELOW = 0.02
CHANNELS = ("red", "green", "blue")


def notes_of(reading: Reading) -> list[Note]:
    """All notes on a material and its stage."""
    return [
        *_on_interior(reading),
        *_on_scattering(reading),
        *_channel_unscattered(reading),
        *notes_on_space(reading),
        *notes_on_layers(reading),
        *notes_on_strands(reading),
        *notes_on_stage(reading),
    ]


def _on_interior(reading: Reading) -> list[Note]:
    """All notes on the interior of a material. Driven dials are not judged: they have no one value."""
    band = next((b for b in reading.material.section.bands if b.kind == "interior" and b.on), None)
    if (
        band is None
        or not reads_color(reading.compiled.settings["interior"])
        or reading.varies("interior", "transmission_color")
    ):
        return []
    notes = [*_full_channels(reading, band.id), *_pure_primary(reading, band.id)]
    if not reading.varies("interior", "transmission_depth") and not reading.varies("interior", "density"):
        notes += _depth(reading, band.id)
    return notes


LONGEST_PATH, SHORTEST_PATH = 3.0, 1 / 1000
"""Mean free paths, of the size of the form, beyond which nothing is scattered, and below which the matter is matt."""

GOOD_PATH = 1 / 10
FAR_CM = 100
"""Longer ways are told in m."""


def _on_scattering(reading: Reading):
    """Notes on how far light goes until it is scattered, beside the form."""
    band = next((b for b in reading.material.section.bands if b.kind in ("interior", "subsurface") and b.on), None)
    size = form_size_cm(reading)
    if band is None or size is None or not scatters(reading) or varies_within(reading):
        return
    path = 100 / max(float(scattering_of(reading)[MIDDLE]), 1e-9)
    longer = GOOD_PATH * size / path
    # The mean free path is the dial itself, or goes against the amount.
    dial, times = ("subsurface_radius", longer) if is_subsurface(reading) else ("scatter_amount", 1 / longer)
    better = float(f"{reading.values[band.kind, dial] * times:.2g}")
    about = (path / size, band.id, dial, f"Set to {better:g}", [Change(band.id, dial, better)])
    if path > LONGEST_PATH * size:
        far = f"{path:.3g} cm" if path < FAR_CM else f"{path / 100:,.1f} m"
        says = f"Light goes {far} until it is scattered, {path / size:,.0f} times the form of {size:.2g} cm: nothing of it is seen."
        yield Note("nothing scatters", says, *about)
    elif path < SHORTEST_PATH * size:
        says = (
            f"Light goes {path:.2g} cm until it is scattered, a {size / path:.0f}th of the form of {size:.2g} cm: it looks matt. "
            "Body colour does, and settles sooner."
        )
        yield Note("matt", says, *about)


SCATTERS_NOT = 0.02
"""A channel of the scattered colour below which nothing of it is scattered."""

LEAST_SCATTERED = 0.1


def _channel_unscattered(reading: Reading):
    band = next((b for b in reading.material.section.bands if b.kind == "interior" and b.on), None)
    if band is None or reading.compiled.settings["interior"]["scattering"] != COLOR or not scatters(reading):
        return
    if reading.varies("interior", "transmission_scatter"):
        return
    color = reading.values["interior", "transmission_scatter"]
    never = [k for k in range(3) if color[k] < SCATTERS_NOT]
    if not never or len(never) == 3:
        return
    names = " and ".join(CHANNELS[k] for k in never)
    mended = [LEAST_SCATTERED if k in never else float(v) for k, v in enumerate(color)]
    yield Note(
        "channel that cannot scatter",
        f"Scattered colour: {names} {'is' if len(never) == 1 else 'are'} 0.00, so the matter stays clear in it, however much it scatters.",
        float(min(color)),
        band.id,
        "transmission_scatter",
        f"Set to {LEAST_SCATTERED:g}",
        [Change(band.id, "transmission_scatter", mended)],
    )


def as_json(notes: list[Note]) -> list[dict]:
    return [asdict(note) for note in notes]


def _full_channels(reading: Reading, band: str):
    color = reading.values["interior", "transmission_color"]
    full = [i for i in range(3) if color[i] >= FULL]
    if not full or min(color) >= FULL:
        return
    names = " and ".join(CHANNELS[i] for i in full)
    one = len(full) == 1
    mended = [min(float(v), FULL_REMEDY) if i in full else float(v) for i, v in enumerate(color)]
    yield Note(
        "channel at full",
        f"Transmission colour: the {names} {'channel is' if one else 'channels are'} 1.00, "
        f"so {'it never darkens' if one else 'they never darken'}, however thick the glass.",
        float(max(color)),
        band,
        "transmission_color",
        f"Set to {FULL_REMEDY:g}",
        [Change(band, "transmission_color", mended)],
    )


def _pure_primary(reading: Reading, band: str):
    color = np.array(reading.values["interior", "transmission_color"])
    first, second = np.sort(color)[::-1][:2]
    if first <= 0 or second > PURE_BELOW * first:
        return
    strongest = int(color.argmax())
    neighbour = {0: 1, 1: 0, 2: 1}[strongest]
    mended = [round(float(v), 4) for v in color]
    mended[neighbour] = round(float(first) * 0.3, 4)
    yield Note(
        "pure primary",
        f"Transmission colour: only {CHANNELS[strongest]} passes, the next channel has {second / first:.1%} of it. "
        "A pure primary has nothing to shift into: thin and thick look the same hue.",
        float(second / first),
        band,
        "transmission_color",
        f"Let {CHANNELS[neighbour]} pass at {mended[neighbour]:.2f}",
        [Change(band, "transmission_color", mended)],
    )


def _depth(reading: Reading, band: str):
    color = reading.values["interior", "transmission_color"]
    depth = reading.values["interior", "transmission_depth"]
    size = form_size_cm(reading)
    if reading.lengths:
        middle, longest, what = (
            reading.lengths["middle_cm"],
            reading.lengths["high_cm"],
            "the middle length in this form",
        )
    elif size:
        middle, longest, what = size / 4, size, "a quarter of this form"
    else:
        return
    seen = D65 * CMF[:, 1]
    luminance = transmitted(reading, [middle]) @ seen
    remedy = float(f"{middle:.2g}")
    change = [Change(band, "transmission_depth", remedy)]
    says = f"Set the depth to {remedy:g} cm"
    if luminance[0] < BLACK_BELOW:
        yield Note(
            "black",
            f"At depth {depth:.3g} cm only {luminance[0]:.2%} of the light is left after {middle:.2g} cm, {what}: it looks black.",
            float(luminance[0]),
            band,
            "transmission_depth",
            says,
            change,
        )
    least = transmitted(reading, [longest])[0]
    weakest = float(((least[:, None] * D65[:, None] * CMF).sum(axis=0) / (D65[:, None] * CMF).sum(axis=0)).min())
    if min(color) < CLEAR_ABOVE and weakest > CLEAR_ABOVE:
        yield Note(
            "clear",
            f"At depth {depth:.4g} cm {weakest:.1%} of every part of the light is left after {longest:.2g} cm, the longest way "
            "in this form: it looks like plain water.",
            weakest,
            band,
            "transmission_depth",
            says,
            change,
        )
