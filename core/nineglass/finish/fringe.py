"""A lens whose enlargement depends on the wavelength."""

from functools import cache
from itertools import pairwise

import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES
from nineglass.spectra.observer import CMF, D65, WAVELENGTHS_NM, XYZ_TO_RGB

BLUE_NM, YELLOW_NM, RED_NM = 486.1, 587.6, 656.3
"""The lines F, d and C, between which dispersion is told. Source: ISO 7944 (d, F', C' are its like); handbooks of optics."""

BANDS = 8
"""Into which the light of each channel is cut."""


@FINISHES.kind(title="Lens fringe", family="finish")
class Fringe:
    """Colours at edges, more toward the corners: lateral colour, of a lens that enlarges blue more than red."""

    rank = 0
    spread = dial(
        0,
        0,
        1,
        hard=(-5, 5),
        label="Blue over red",
        unit="%",
        ends=("corrected", "strong"),
        help="How much larger the picture is at 486 nm (F) than at 656 nm (C).",
    )

    def apply(self, rgb: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        if dials["spread"] == 0:
            return rgb
        out = np.empty_like(rgb)
        for channel, bands in enumerate(bands_of_channels()):
            light = np.ascontiguousarray(rgb[..., channel])
            out[..., channel] = sum(
                np.float32(share) * _enlarged(light, enlarged(nm, dials["spread"])) for nm, share in bands
            )
        return out


def enlarged(wavelength_nm: float, spread_percent: float) -> float:
    """How many times larger than at d. Dispersion goes with the inverse square of the wavelength (Cauchy's first term)."""
    at = [1 / nm**2 for nm in (wavelength_nm, YELLOW_NM, BLUE_NM, RED_NM)]
    return 1 + spread_percent / 100 * (at[0] - at[1]) / (at[2] - at[3])


@cache
def bands_of_channels() -> list[list[tuple[float, float]]]:
    """For red, green and blue: wavelengths, and what share of the channel's light each has, by the observer under D65 (what is negative is
    left out)."""
    weights = np.maximum((CMF * D65[:, None]) @ XYZ_TO_RGB.T, 0)
    found = []
    for own in weights.T:
        own = np.where(own > 0.02 * own.max(), own, 0)
        edges = np.interp(np.linspace(0, 1, BANDS + 1), np.cumsum(own) / own.sum(), WAVELENGTHS_NM)
        found.append([((low + high) / 2, 1 / BANDS) for low, high in pairwise(edges)])
    return found


def _enlarged(light: np.ndarray, times: float) -> np.ndarray:
    """(h, w) about the middle, linear between pixels; the edge goes on beyond the edge."""
    from PIL import Image

    high, wide = light.shape
    beyond = max(2, int(np.ceil(abs(1 - 1 / times) * max(high, wide) / 2)) + 2)
    padded = Image.fromarray(np.pad(light, beyond, mode="edge"))
    step = 1 / times
    first = [beyond + size / 2 * (1 - step) for size in (wide, high)]
    return np.asarray(
        padded.transform(
            (wide, high), Image.Transform.AFFINE, (step, 0, first[0], 0, step, first[1]), Image.Resampling.BILINEAR
        )
    )
