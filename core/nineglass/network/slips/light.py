from functools import lru_cache

import numpy as np

from nineglass.describe import color_dial, dial, gives
from nineglass.network.pictures import chart_of, film_chart
from nineglass.network.slips import SLIPS
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter


@SLIPS.kind(title="Fresnel", family="light", standard="fresnel")
class Fresnel:
    """The share of light that clear matter reflects towards the eye here (Born & Wolf 1.5.2)."""

    synonyms = "reflectance rim facing"
    ior = dial(1.5, 1.0, 2.6, hard=(0.2, 10), label="Index", ends=("air", "diamond"))
    out = gives("number")

    def emit(self, ops, dials):
        one, half = ops.constant(1), ops.constant(0.5)
        cos_i = ops.facing
        sin2 = ops.div(ops.one_minus(ops.mul(cos_i, cos_i)), ops.mul(dials.ior, dials.ior))
        cos_t = ops.sqrt(ops.one_minus(sin2))
        n_t, n_i = ops.mul(dials.ior, cos_t), ops.mul(dials.ior, cos_i)
        s = ops.div(ops.sub(cos_i, n_t), ops.add(cos_i, n_t))
        p = ops.div(ops.sub(n_i, cos_t), ops.add(n_i, cos_t))
        share = ops.mul(half, ops.add(ops.mul(s, s), ops.mul(p, p)))
        return ops.mix(one, share, ops.less(sin2, one))


@SLIPS.kind(title="Film colour", family="light", standard="thin_film_bsdf")
class FilmColor:
    """The colour of white light off a thin film on clear matter, 0 to 2000 nm thick; for a look that does not follow the light."""

    synonyms = "iridescence interference soap oil"
    thickness = dial(400, 0, 2000, hard=(0, 2000), unit="nm", ends=("nothing", "many orders"))
    cosine = dial(1.0, 0, 1, label="Facing", ends=("rim", "face-on"), help="Wire facing here.")
    ior = dial(1.4, 1.0, 2.6, hard=(1.0, 4.0), label="Index", ends=("air", "titania"), drivable=False)
    beyond = dial(1.5, 1.0, 2.6, hard=(1.0, 4.0), label="Index beneath", ends=("air", "diamond"), drivable=False)
    strength = dial(1.0, 0, 20, hard=(0, 1000), ends=("true", "stronger"))
    out = gives("color")

    def emit(self, ops, dials):
        chart = film_chart(round(ops.value_of(dials.ior), 2), round(ops.value_of(dials.beyond), 2))
        inset = ops.constant(0.5 / 256)
        u = ops.clamp(ops.div(dials.thickness, ops.constant(2000)), inset, ops.one_minus(inset))
        edge = ops.constant(0.5 / 32)
        v = ops.clamp(dials.cosine, edge, ops.one_minus(edge))
        return ops.each(ops.mul, ops.picture(chart, u, v), dials.strength)


@SLIPS.kind(title="Absorption at depth", family="light", standard="absorption_vdf")
class AbsorptionAtDepth:
    """What a colour that is reached at one depth becomes at another (law of Bouguer, Beer and Lambert)."""

    synonyms = "beer lambert thickness transmission"
    color = color_dial((0.3, 0.6, 0.4), label="Colour")
    at_depth = dial(
        2.0, 0.05, 100, hard=(1e-3, 1e5), label="Reached at", unit="cm", scale="log", ends=("inky", "clear")
    )
    depth = dial(1.0, 0, 20, hard=(0, 1e5), unit="cm", ends=("thin", "thick"))
    out = gives("color")

    def emit(self, ops, dials):
        share = ops.div(dials.depth, dials.at_depth)
        return tuple(ops.pow(ops.max(part, ops.constant(1e-6)), share) for part in dials.color)


@lru_cache(32)
def band_chart(width_nm: float) -> np.ndarray:
    """Bands of a width, about each wavelength from 380 to 780 nm in steps of 2."""
    return chart_of([band_color(nm, width_nm) for nm in range(380, 781, 2)])


@SLIPS.kind(title="Wavelength band", family="light", standard="constant")
class WavelengthBand:
    """The colour of a narrow band of white light, over its wavelength; too vivid for the screen, it is brought within it."""

    synonyms = "spectrum rainbow line colour nm"
    wavelength = dial(560, 380, 780, hard=(380, 780), unit="nm", ends=("violet", "red"))
    width = dial(30, 5, 200, hard=(1, 400), unit="nm", ends=("pure", "pale"), drivable=False)
    out = gives("color")

    def emit(self, ops, dials):
        share = ops.div(ops.sub(dials.wavelength, ops.constant(380)), ops.constant(400))
        return ops.along(band_chart(ops.value_of(dials.width)), share)


def band_color(wavelength_nm: float, width_nm: float) -> list[float]:
    """Linear Rec.709 of D65 within a bell of wavelengths, brought to 0..1 by grey and scale."""
    bell = np.exp(-0.5 * ((WAVELENGTHS_NM - wavelength_nm) / (width_nm / 2.3548)) ** 2)
    rgb = rgb_of_filter(bell)
    rgb = rgb - min(rgb.min(), 0)
    return (rgb / max(rgb.max(), 0.02)).tolist()
