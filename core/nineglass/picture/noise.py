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


class Errors:
    """The error of a picture, told of parts of it: each of two pictures of half of its samples."""

    def __init__(self, exposure_ev: float = 0.0):
        self.exposure_ev, self.is_known = exposure_ev, True
        self.squares, self.luminance, self.pixels = 0.0, 0.0, 0

    def add(self, first: np.ndarray, second: np.ndarray, times: float = 1.0) -> None:
        """times: by how much more it is off than the two say."""
        apart = screen_luminance(first, self.exposure_ev) - screen_luminance(second, self.exposure_ev)
        self.squares += float((apart * apart).sum(dtype=float)) * times**2
        self.luminance += float(screen_luminance((first + second) / 2, self.exposure_ev).sum(dtype=float))
        self.pixels += apart.size

    @property
    def level(self) -> float:
        return max(self.luminance / max(self.pixels, 1), DARK)

    @property
    def noise(self) -> float | None:
        """As `told` of the whole; None where a part could not tell."""
        if not (self.is_known and self.pixels):
            return None
        return (self.squares / self.pixels) ** 0.5 / 2 / self.level


def told(first: np.ndarray, second: np.ndarray, exposure_ev: float = 0.0) -> float:
    """The error of the mean of two pictures that differ in their samples alone."""
    errors = Errors(exposure_ev)
    errors.add(first, second)
    return errors.noise
