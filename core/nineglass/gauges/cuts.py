"""What each band of the section is drawn from: colours and figures from its real values."""

import numpy as np

from nineglass.documents.model import SECOND
from nineglass.gauges import Reading
from nineglass.gauges.film import film_colors, to_show
from nineglass.gauges.index import metal_curves
from nineglass.network.compile import Leaf
from nineglass.optics.conductor import conductor_reflectance
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

FILM_STEPS = 9


def cuts_of(reading: Reading) -> dict[str, dict]:
    """For each band that is on: colours for its cut, how rugged its line is, and its figure in words."""
    values = reading.read(reading.compiled.by_band)
    bands = [band for band in reading.material.section.bands if band.on]
    stacks = [(leaf, reading.read(leaf.dials)) for leaf in reading.compiled.leaves]
    cuts = {}
    for band in bands:
        own = {dial: v for (one, dial), v in values.items() if one == band.id}
        cuts[band.id] = _cut(band, own, *stacks[-1 if band.side == SECOND else 0])
    return cuts


def _cut(band, own: dict, leaf: Leaf, values: dict) -> dict:
    rough = next((v for name, v in own.items() if name.endswith("roughness")), 0.0)
    draw = {"film": _film, "metal": _metal}.get(band.kind)
    colors = draw(leaf, values, own) if draw else [_hex(own[name]) for name in COLORS.get(band.kind, ())]
    says = [words.format(own[name]) for name, words in SAYS.items() if name in own]
    return {"colors": colors, "roughness": float(rough), "says": ", ".join(says)}


COLORS = {
    "coat": ("coat_color",),
    "fuzz": ("fuzz_color",),
    "body": ("base_color",),
    "interior": ("transmission_color",),
}
SAYS = {
    "thin_film_thickness": "{:.0f} nm",
    "thin_film_ior": "n {:.2f}",
    "coat_ior": "n {:.2f}",
    "mask": "mask {:.2f}",
    "specular_ior": "n {:.3f}",
}


def _hex(color) -> str:
    return to_hex(np.clip(color, 0, 1))


def _film(leaf: Leaf, values: dict, own: dict) -> list[str]:
    """From face-on to the rim."""
    angles = np.radians(np.linspace(0, 75, FILM_STEPS))
    colors = [film_colors(leaf, values, np.cos(a), [own["thin_film_thickness"]]) for a in angles]
    return to_show(np.concatenate(colors))


def _metal(leaf: Leaf, values: dict, own: dict) -> list[str]:
    n, k = (v.astype(np.float32) for v in metal_curves(leaf.settings["metal"], values))
    shares = [float(conductor_reflectance(np.float32(1), a, b)) for a, b in zip(n, k, strict=True)]
    return [_hex(rgb_of_filter(np.array(shares)))]
