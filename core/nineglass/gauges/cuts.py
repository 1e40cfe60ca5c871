"""What each band of the section is drawn from: colours and figures from its real values."""

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.describe import Cut
from nineglass.documents.bands.fibre import SEEN
from nineglass.documents.model import BOTH, SECOND
from nineglass.gauges import Reading
from nineglass.gauges.film import film_colors, to_show
from nineglass.gauges.flakes import flake_colors
from nineglass.gauges.index import metal_curves
from nineglass.gauges.surface import everywhere, values_at
from nineglass.matter.fibres import fibre_absorption, pelt_reflectance
from nineglass.matter.substances import D_NM, NONE, WAVELENGTHS_NM, substances
from nineglass.network.compile import Leaf
from nineglass.optics.conductor import conductor_reflectance
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex
from nineglass.spectra.upsampling import color_spectrum

FILM_STEPS = 9


def cuts_of(reading: Reading) -> dict[str, dict]:
    """For each band that is on: colours for its cut, how rugged its line is, and its figure in words."""
    values = reading.read(reading.compiled.by_band)
    bands = [band for band in reading.material.section.bands if band.on]
    stacks = [(leaf, reading.read(leaf.dials)) for leaf in reading.compiled.leaves]
    cuts = {}
    for band in bands:
        own = {dial: v for (one, dial), v in values.items() if one == band.id}
        leaf, leaf_values = stacks[-1 if band.side == SECOND else 0]
        cuts[band.id] = _cut(reading, band, own, leaf, leaf_values, _slot_of(band, bands, leaf))
    return cuts


def _slot_of(band, bands: list, leaf: Leaf) -> str:
    """The slot that a band has in a stack: by its place among those of its kind there."""
    same = [one for one in bands if one.kind == band.kind and one.side in (BOTH, band.side)]
    slots = [slot for slot in leaf.order if leaf.kinds[slot] == band.kind]
    return slots[same.index(band)] if same.index(band) < len(slots) else ""


def _cut(reading: Reading, band, own: dict, leaf: Leaf, values: dict, slot: str) -> dict:
    kind = BANDS.kinds[band.kind]
    cut = kind.rules.cut or Cut("boundary")
    rough = next((v for name, v in own.items() if name.endswith("roughness")), 0.0)
    colors = (
        WORKED_OUT[cut.worked_out](reading, leaf, values, own, slot)
        if cut.worked_out
        else [_hex(own[name]) for name in cut.colors]
    )
    settings = kind.defaults() | band.dials
    says = [words.format(own[name]) for name, words in cut.says.items() if kind.has_effect(name, settings)]
    measured = settings.get("substance", NONE)
    if "specular_ior" in cut.says and measured != NONE:
        index = substances()[measured].index
        says.insert(0, f"n {float(np.interp(D_NM, WAVELENGTHS_NM, index)):.3f}")
    return {"colors": colors, "roughness": float(rough), "says": ", ".join(says)}


def _hex(color) -> str:
    return to_hex(np.clip(color, 0, 1))


def _film(reading: Reading, leaf: Leaf, values: dict, own: dict, slot: str) -> list[str]:
    """From face-on to the rim."""
    angles = np.radians(np.linspace(0, 75, FILM_STEPS))
    colors = [film_colors(leaf, values, np.cos(a), [own["thin_film_thickness"]], slot) for a in angles]
    return to_show(np.concatenate(colors))


def _metal(reading: Reading, leaf: Leaf, values: dict, own: dict, slot: str) -> list[str]:
    n, k = (v.astype(np.float32) for v in metal_curves(leaf.settings["metal"], values))
    shares = [float(conductor_reflectance(np.float32(1), a, b)) for a, b in zip(n, k, strict=True)]
    return [_hex(rgb_of_filter(np.array(shares)))]


FLAKES_SHOWN = 11


def _flakes(reading: Reading, leaf: Leaf, values: dict, own: dict, slot: str) -> list[str]:
    """Of some flakes side by side."""
    tones = (np.arange(FLAKES_SHOWN) * 0.618034) % 1
    return [_hex(color) for color in flake_colors(leaf.settings[slot] | own, tones)]


STRAND_STEPS = 13


def _fibre(reading: Reading, leaf: Leaf, values: dict, own: dict, slot: str) -> list[str]:
    """What a thick pelt looks like along its strands, from the root to the tip."""
    colored = [name for name in ("eumelanin", "pheomelanin", "fibre_color", "dye_amount") if (slot, name) in leaf.dials]
    inputs = everywhere(reading) | {
        "along": np.linspace(0, 1, STRAND_STEPS, dtype=np.float32),
        "strand": np.float32(0.5),
    }
    found = values_at(reading, {name: leaf.dials[slot, name] for name in colored}, inputs)
    colors = []
    for step in range(STRAND_STEPS):
        here = {name: rows[:, step] if len(rows) > 1 else float(rows[0, step]) for name, rows in found.items()}
        fibre = (
            leaf.settings[slot] | own | {name: tuple(map(float, v)) if np.ndim(v) else v for name, v in here.items()}
        )
        if fibre["color_from"] == SEEN:
            colors.append(fibre["fibre_color"])
        else:
            colors.append(rgb_of_filter(pelt_reflectance(fibre, fibre_absorption(fibre, color_spectrum))))
    return [_hex(one) for one in colors]


WORKED_OUT = {"film": _film, "flakes": _flakes, "metal": _metal, "fibre": _fibre}
