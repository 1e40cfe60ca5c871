"""A lens whose enlargement depends on the wavelength."""

import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES, each_channel
from nineglass.spectra.channels import bands_of_channels

BLUE_NM, YELLOW_NM, RED_NM = 486.1, 587.6, 656.3
"""The lines F, d and C, between which dispersion is told. Source: ISO 7944 (d, F', C' are its like); handbooks of optics."""

FEWEST, MOST = 3, 16
"""Bands that the light of each channel is cut into: one for each pixel that they are spread over."""

ROWS = 32
"""Rows are worked on by so many, which stay in the fastest memory."""


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

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        if dials["spread"] == 0:
            return planes
        reach = 0.5 * max(planes.shape[1:])
        smear = reach * (enlarged(BLUE_NM, dials["spread"]) - enlarged(RED_NM, dials["spread"]))
        bands = bands_of_channels(min(max(int(np.ceil(abs(smear))), FEWEST), MOST))
        return each_channel(_shifted, planes, [[enlarged(nm, dials["spread"]) for nm in own] for own in bands])


def enlarged(wavelength_nm: float, spread_percent: float) -> float:
    """How many times larger than at d. Dispersion goes with the inverse square of the wavelength (Cauchy's first term)."""
    at = [1 / nm**2 for nm in (wavelength_nm, YELLOW_NM, BLUE_NM, RED_NM)]
    return 1 + spread_percent / 100 * (at[0] - at[1]) / (at[2] - at[3])


def _shifted(light: np.ndarray, scales: list[float]) -> np.ndarray:
    """(h, w) the mean of a picture enlarged by each of some scales about its middle, linear between pixels; what lies at the edge goes on beyond
    it."""
    out = np.zeros_like(light)
    ways = [(*_between(light.shape[0], times), *_between(light.shape[1], times)) for times in scales]
    for first in range(0, len(light), ROWS):
        part = slice(first, first + ROWS)
        for above, down, left, aside in ways:
            rows = light[above[part]]
            rows += down[part, None] * (light[above[part] + 1] - rows)
            between = rows[:, left]
            between += aside * (rows[:, left + 1] - between)
            out[part] += between
    return out / np.float32(len(scales))


def _between(size: int, times: float) -> tuple[np.ndarray, np.ndarray]:
    """For each pixel of a line that is enlarged: the pixel before the place that it shows, and how far it is to the next."""
    place = (np.arange(size) + 0.5 - size / 2) / times + size / 2 - 0.5
    below = np.clip(np.floor(place).astype(int), 0, max(size - 2, 0))
    return below, np.clip(place - below, 0, 1).astype(np.float32)
