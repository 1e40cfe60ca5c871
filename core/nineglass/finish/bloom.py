"""Light that a lens spreads over the picture: diffraction at its aperture, or a simple haze."""

from functools import lru_cache

import numpy as np

from nineglass.describe import choice, dial
from nineglass.finish import FINISHES, each_channel
from nineglass.spectra.channels import bands_of_channels

SHRINK = 2
"""The spread light is worked out so many times smaller: it is smooth."""

BEYOND = 4
"""The mirrored border is so many times narrower than the picture."""

GRID = 1024
FIRST_DARK = 3.0
"""Pixels of the grid from the middle of a round aperture's pattern to its first dark ring."""

GREEN_NM = 550.0
BANDS = 8
"""Wavelengths of each channel that a pattern is made of."""


@FINISHES.kind(title="Bloom and glare", family="finish")
class Bloom:
    """A part of the light is spread: into rays by the blades of an aperture, or into a haze. No light is lost or gained."""

    rank = 1
    amount = dial(0, 0, 0.5, hard=(0, 1), ends=("none", "all over"), help="The share of all light that is spread.")
    shape = choice("rays", "haze")
    size = dial(
        0.2,
        0.05,
        5,
        hard=(0.01, 50),
        unit="%",
        scale="log",
        ends=("tight", "wide"),
        help="Of the picture's height: to the first dark ring of green light, or to where the haze is a third.",
    )
    blades = dial(6, 3, 12, hard=(3, 32), when=("shape", "rays"), ends=("few", "nearly round"), help="Of the aperture.")
    turned = dial(
        12, 0, 90, hard=(-360, 360), unit="deg", when=("shape", "rays"), help="By which the aperture is turned."
    )

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        from PIL import Image

        if dials["amount"] == 0:
            return planes
        high, wide = planes.shape[1:]
        small = (max(high // SHRINK, 1), max(wide // SHRINK, 1))
        amount = np.float32(dials["amount"])
        given = (dials["shape"], dials["size"], round(dials["blades"]), dials["turned"])

        def bloomed(light: np.ndarray, waves: np.ndarray) -> np.ndarray:
            shrunk = np.asarray(Image.fromarray(light).resize(small[::-1], Image.Resampling.BOX))
            spread = Image.fromarray(_spread(shrunk, waves))
            large = np.asarray(spread.resize((wide, high), Image.Resampling.BILINEAR))
            # Made smaller and larger, and at the mirrored border, a little goes astray.
            total = float(large.sum(dtype=float))
            scale = float(light.sum(dtype=float)) / total if total > 0 else 0.0
            return light * (1 - amount) + amount * np.float32(scale) * large

        return each_channel(bloomed, planes, _pattern_waves(small, *given))


def _spread(light: np.ndarray, waves: np.ndarray) -> np.ndarray:
    """(h, w) folded with a pattern whose waves are given; beyond its border the picture goes on mirrored."""
    from scipy.fft import irfft2, rfft2

    high, wide = light.shape
    up, aside = (size // BEYOND for size in light.shape)
    mirrored = np.pad(light, ((up, up), (aside, aside)), mode="symmetric")
    folded = irfft2(rfft2(mirrored) * waves, mirrored.shape)
    return np.maximum(folded[up : up + high, aside : aside + wide], 0)


@lru_cache(2)
def _pattern_waves(small: tuple[int, int], shape: str, size: float, blades: int, turned: float) -> list[np.ndarray]:
    from scipy.fft import ifftshift, rfft2

    whole = tuple(size + 2 * (size // BEYOND) for size in small)
    radius = size / 100 * small[0]
    patterns = [haze(whole, radius)] * 3 if shape == "haze" else rays(whole, radius, blades, turned)
    return [rfft2(ifftshift(pattern), workers=2) for pattern in patterns]


def haze(whole: tuple[int, int], radius: float) -> np.ndarray:
    """(h, w) a pattern that falls off with the third power of the distance; common practice for haze in lenses. Its sum is 1."""
    y, x = (np.arange(size, dtype=np.float32) - size // 2 for size in whole)
    pattern = (1 + (x[None, :] ** 2 + y[:, None] ** 2) / np.float32(max(radius, 0.3) ** 2)) ** np.float32(-1.5)
    return pattern / pattern.sum()


def rays(whole: tuple[int, int], radius: float, blades: int, turned: float) -> list[np.ndarray]:
    """For red, green and blue (h, w): the diffraction of a regular aperture, as large as the wavelength is long. radius: pixels to the first
    dark ring at 550 nm. Each sums to 1. Source: Born & Wolf, Principles of Optics, 8.3.3 (Fraunhofer)."""
    pattern = diffraction(blades, turned)
    found = []
    for bands in bands_of_channels(BANDS):
        total = np.zeros(whole, np.float32)
        for nm in bands:
            _lay(total, pattern, radius / FIRST_DARK * nm / GREEN_NM)
        found.append(total / total.sum())
    return found


@lru_cache(4)
def diffraction(blades: int, turned: float) -> np.ndarray:
    """(GRID, GRID) of one wavelength, in the middle; its sum is 1."""
    from PIL import Image, ImageDraw
    from scipy.fft import fft2, fftshift

    across = 1.22 * GRID / FIRST_DARK
    fine = 4
    mask = Image.new("L", (GRID * fine, GRID * fine))
    ImageDraw.Draw(mask).regular_polygon(
        (GRID * fine / 2, GRID * fine / 2, across * fine / 2), blades, turned, fill=255
    )
    aperture = np.asarray(mask.resize((GRID, GRID), Image.Resampling.BOX), np.float32)
    pattern = fftshift(np.abs(fft2(aperture, workers=2)) ** 2)
    return (pattern / pattern.sum()).astype(np.float32)


def _lay(total: np.ndarray, pattern: np.ndarray, times: float) -> None:
    """Add a pattern made larger or smaller, middle on middle; what lies beyond the border is left out."""
    from PIL import Image

    side = max(round(GRID * times) // 2 * 2, 2)
    high, wide = total.shape
    shown = (min(side, wide), min(side, high))
    reach = [GRID * size / side / 2 for size in shown]
    box = (GRID / 2 - reach[0], GRID / 2 - reach[1], GRID / 2 + reach[0], GRID / 2 + reach[1])
    image = Image.fromarray(pattern).resize(
        shown, Image.Resampling.BOX if times < 1 else Image.Resampling.BILINEAR, box=box
    )
    top, left = high // 2 - shown[1] // 2, wide // 2 - shown[0] // 2
    total[top : top + shown[1], left : left + shown[0]] += np.float32(1 / times**2) * np.asarray(image)
