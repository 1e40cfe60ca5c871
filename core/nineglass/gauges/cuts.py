"""What each band of the section is drawn from: colours and figures from its real values."""

import numpy as np

from nineglass.gauges import Reading
from nineglass.gauges.film import film_colors, to_show
from nineglass.gauges.index import metal_of
from nineglass.optics.conductor import conductor_reflectance
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

FILM_STEPS = 9


def cuts_of(reading: Reading) -> dict[str, dict]:
    """For each band that is on: colours for its cut, how rugged its line is, and its figure in words."""
    values = reading.read(reading.compiled.by_band)
    bands = [band for band in reading.material.section.bands if band.on]
    return {band.id: _cut(reading, band, {d: v for (i, d), v in values.items() if i == band.id}) for band in bands}


def _cut(reading: Reading, band, values: dict) -> dict:
    rough = next((v for name, v in values.items() if name.endswith("roughness")), 0.0)
    draw = {"film": _film, "metal": _metal}.get(band.kind)
    colors = draw(reading, values) if draw else [_hex(values[name]) for name in COLORS.get(band.kind, ())]
    says = {name: SAYS[name].format(values[name]) for name in SAYS if name in values}
    return {"colors": colors, "roughness": float(rough), "says": ", ".join(says.values())}


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


def _film(reading: Reading, values: dict) -> list[str]:
    """From face-on to the rim."""
    if "film" not in reading.compiled.present:
        return []
    angles = np.radians(np.linspace(0, 75, FILM_STEPS))
    return to_show(np.concatenate([film_colors(reading, np.cos(a), [values["thin_film_thickness"]]) for a in angles]))


def _metal(reading: Reading, values: dict) -> list[str]:
    if "metal" not in reading.compiled.present:
        return []
    n, k = (v.astype(np.float32) for v in metal_of(reading))
    shares = [float(conductor_reflectance(np.float32(1), a, b)) for a, b in zip(n, k, strict=True)]
    return [_hex(rgb_of_filter(np.array(shares)))]
