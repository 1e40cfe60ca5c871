"""Dyes: broad smooth absorption curves, as a spectrophotometer shows them. Invented for the demo; nothing here was measured.

A curve is a sum of bands, each (peak in nm, width in nm, height); the heights give the absorbance of 1 g/l over 1 cm.
"""

import numpy as np

from nineglass.matter.substances import NONE, WAVELENGTHS_NM
from nineglass.optics.limits import CLEAREST

DYES: dict[str, list[tuple[float, float, float]]] = {
    "rosehip": [(500, 42, 1.6), (440, 60, 1.9), (545, 26, 0.45)],
    "madder": [(520, 45, 2.2), (470, 40, 0.9), (400, 50, 0.5)],
    "weld": [(425, 38, 2.4), (385, 40, 1.5), (470, 22, 0.5)],
    "verdigris": [(690, 75, 1.8), (620, 45, 0.6), (395, 30, 0.5)],
    "woad": [(612, 48, 2.4), (560, 40, 0.7), (665, 24, 0.7)],
    "iron_gall": [(585, 85, 2.2), (480, 90, 1.15), (680, 60, 1.3)],
    "walnut": [(390, 95, 2.0), (470, 90, 1.0), (560, 90, 0.5)],
    "cobalt": [(590, 28, 1.5), (645, 26, 1.7), (540, 22, 0.8)],
}

PLACES = (1, 2, 3, 4)
"""Of dyes that are mixed in one liquid."""

OWN = "of one's own"
"""A dye that is told by a curve, as one that was measured."""


def dye_names() -> list[str]:
    return [NONE, *DYES, OWN]


def dye_sigma_a(name: str, grams_per_litre: float) -> np.ndarray:
    """(401,) absorption in 1/m of a dye in a clear liquid; concentrations add (Bouguer-Beer-Lambert law)."""
    return absorbance_of(DYES[name], WAVELENGTHS_NM) * np.log(10) / 0.01 * grams_per_litre


def own_sigma_a(let_through: list, grams_per_litre: float) -> np.ndarray:
    """The same of a dye of one's own. let_through: [nm, share of light that is left after 1 cm of 1 g/l]."""
    share = np.interp(WAVELENGTHS_NM, *np.transpose(np.asarray(let_through, float)))
    return -np.log(np.maximum(share, CLEAREST)) / 0.01 * grams_per_litre


def absorbance_of(bands: list[tuple[float, float, float]], wavelengths_nm: np.ndarray) -> np.ndarray:
    """(n,) decadic absorbance over 1 cm of a sum of bands."""
    return sum(height * np.exp(-0.5 * ((wavelengths_nm - peak) / width) ** 2) for peak, width, height in bands)
