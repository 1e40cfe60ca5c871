"""How far a picture is from what it will be, as it is seen: the root mean square error of its luminance, exposed and held at display white,
over the mean of that. The same measure is told of a picture as rendered and of one that is smoothed.

It is found from two pictures of half of the samples each: what they differ by is noise, and their mean has half of it.
"""

import numpy as np

from nineglass.spectra import observer

DARK = 0.05
"""Pictures of a lower mean are judged by this: in the dark noise is seen less."""

LUMINANCE = observer.LUMINANCE.astype(np.float32)
"""Of linear Rec.709 (IEC 61966-2-1)."""


def screen_luminance(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w) luminance of a linear picture as far as a screen shows it: beyond display white no noise is seen."""
    return np.clip(rgb @ LUMINANCE * 2.0**exposure_ev, 0, 1)


def level(rgb: np.ndarray, exposure_ev: float = 0.0) -> float:
    """What errors of a picture are judged by."""
    return max(float(screen_luminance(rgb, exposure_ev).mean()), DARK)


def error(rgb: np.ndarray, truth: np.ndarray, exposure_ev: float = 0.0) -> float:
    """How far a picture is from the truth."""
    apart = screen_luminance(rgb, exposure_ev) - screen_luminance(truth, exposure_ev)
    return float(np.sqrt(np.mean(apart**2))) / level(truth, exposure_ev)


BLOCKS = 8
"""Blocks of a picture along each side, of which the noisiest is looked for."""


def worst_told(first: np.ndarray, second: np.ndarray, exposure_ev: float = 0.0) -> float:
    """As `told`, of the block of the picture where it is largest."""
    square = (screen_luminance(first, exposure_ev) - screen_luminance(second, exposure_ev)) ** 2
    rows, columns = (max(size // BLOCKS, 1) for size in square.shape)
    blocks = np.add.reduceat(
        np.add.reduceat(square, range(0, len(square), rows)), range(0, square.shape[1], columns), axis=1
    )
    return float(np.sqrt(blocks.max() / (rows * columns))) / 2 / level((first + second) / 2, exposure_ev)


def told(first: np.ndarray, second: np.ndarray, exposure_ev: float = 0.0) -> float:
    """The error of the mean of two pictures that differ in their samples alone."""
    apart = screen_luminance(first, exposure_ev) - screen_luminance(second, exposure_ev)
    return float(np.sqrt(np.mean(apart**2))) / 2 / level((first + second) / 2, exposure_ev)
