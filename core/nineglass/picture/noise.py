"""How far a picture is from what it will be, as it is seen: the root mean square error of its luminance, exposed and held at display white,
over the mean of that. The same measure is told of a picture as rendered and of one that is smoothed.

It is found from two pictures of half of the samples each, that know nothing of each other: what they differ by is noise, and their mean, which
is the picture, is as far from the truth as from either of them.
"""

from collections.abc import Sequence

import numpy as np

from nineglass.spectra import observer

DARK = 0.05
"""Pictures of a lower mean are judged by this: in the dark noise is seen less."""

Pair = Sequence[np.ndarray]

LUMINANCE = observer.LUMINANCE.astype(np.float32)
"""Of linear Rec.709 (IEC 61966-2-1)."""


def screen_luminance(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w) luminance of a linear picture as far as a screen shows it: beyond display white no noise is seen."""
    return np.clip(rgb @ LUMINANCE * 2.0**exposure_ev, 0, 1)


def level(rgb: np.ndarray, exposure_ev: float = 0.0) -> float:
    """What errors of a picture are judged by."""
    return max(float(screen_luminance(rgb, exposure_ev).mean()), DARK)


def true_error(rgb: np.ndarray, truths: Pair, exposure_ev: float = 0.0) -> float:
    """How far a picture is from the truth, of which there are two long renders that know nothing of each other: their own noise cancels."""
    first, second = (screen_luminance(rgb, exposure_ev) - screen_luminance(truth, exposure_ev) for truth in truths)
    return float(np.sqrt(max(np.mean(first * second), 0))) / level(sum(truths) / 2, exposure_ev)


def error(rgb: np.ndarray, truth: np.ndarray, exposure_ev: float = 0.0) -> float:
    """How far a picture is from the truth."""
    apart = screen_luminance(rgb, exposure_ev) - screen_luminance(truth, exposure_ev)
    return float(np.sqrt(np.mean(apart**2))) / level(truth, exposure_ev)


BLOCKS = 8
"""Blocks of a picture along each side, of which the noisiest is looked for."""


def _block_sums(values: np.ndarray) -> np.ndarray:
    """Sums over the blocks of (h, w) values."""
    rows, columns = (max(size // BLOCKS, 1) for size in values.shape)
    of_rows = np.add.reduceat(values, range(0, len(values), rows), dtype=float)
    return np.add.reduceat(of_rows, range(0, values.shape[1], columns), axis=1)


def _squares(first: np.ndarray, second: np.ndarray, exposure_ev: float) -> np.ndarray:
    """(h, w) squares of what the mean of two halves is off by, as it is seen. Where a rare hit is past display white in one half and in the mean,
    it is their distance from the other that tells."""
    mean, *halves = (screen_luminance(one, exposure_ev) for one in ((first + second) / 2, first, second))
    return sum((mean - half) ** 2 for half in halves) / 2


def worst_told(first: np.ndarray, second: np.ndarray, exposure_ev: float = 0.0) -> float:
    """As `told`, of the block of the picture where it is largest."""
    squares = _squares(first, second, exposure_ev)
    worst = (_block_sums(squares) / _block_sums(np.ones_like(squares))).max()
    return float(np.sqrt(worst)) / level((first + second) / 2, exposure_ev)


RARE = 0.2
"""Of a block whose light comes in rare hits past display white, the halves are darker on the screen than their mean, by more than this of its
noise: they do not tell what it will be."""


class Errors:
    """The error of a picture, told of parts of it: each of two pictures of half of its samples."""

    def __init__(self, exposure_ev: float = 0.0):
        self.exposure_ev, self.is_known = exposure_ev, True
        self.squares, self.luminance, self.pixels = 0.0, 0.0, 0

    def add(self, first: np.ndarray, second: np.ndarray) -> None:
        """Two halves that are shown as they were rendered."""
        self._count(first, second, float(_squares(first, second, self.exposure_ev).sum(dtype=float)))

    def add_smoothed(self, rendered: Pair, shown: Pair, lost: float) -> None:
        """Two halves as they were rendered, and as they are shown. lost: by how much more these are off, at the least, than they differ by,
        since detail that both lack does not tell.

        Each that is shown is held against the half that it was not made of (cross-validation; Stone 1974): their distance is its error and
        the noise of that half, which is known.
        """
        halves, made = self._seen(*rendered), self._seen(*shown)
        between = _apart(made)
        crossed = (_apart((made[0], halves[1])) + _apart((made[1], halves[0]))) / 2
        least = between / 4 * lost**2
        # The picture has twice the samples of a half: of the noise left in one, half is left in it.
        checked = crossed - _apart(halves) / 2 - between / 4
        found = np.where(_is_rare(halves, self._seen(sum(rendered) / 2)[0]), least, checked)
        self._count(*shown, max(float(least.sum()), float(found.sum())))

    def _seen(self, *pictures: np.ndarray) -> list[np.ndarray]:
        return [screen_luminance(one, self.exposure_ev) for one in pictures]

    def _count(self, first: np.ndarray, second: np.ndarray, squares: float) -> None:
        seen = self._seen((first + second) / 2)[0]
        self.squares += squares
        self.luminance += float(seen.sum(dtype=float))
        self.pixels += seen.size

    @property
    def level(self) -> float:
        return max(self.luminance / max(self.pixels, 1), DARK)

    @property
    def noise(self) -> float | None:
        """As `told` of the whole; None where a part could not tell."""
        if not (self.is_known and self.pixels):
            return None
        return (self.squares / self.pixels) ** 0.5 / self.level


def _apart(pair: Pair) -> np.ndarray:
    """Sums over blocks of the squares of what two differ by."""
    return _block_sums((pair[0] - pair[1]) ** 2)


def _is_rare(halves: list[np.ndarray], whole: np.ndarray) -> np.ndarray:
    """Of which blocks `RARE` holds. halves, whole: their luminance as it is seen."""
    darker = _block_sums(whole - (halves[0] + halves[1]) / 2)
    pixels = _block_sums(np.ones_like(whole))
    return darker > RARE * np.sqrt(_apart(halves) / 4 * pixels)


def told(first: np.ndarray, second: np.ndarray, exposure_ev: float = 0.0) -> float:
    """The error of the mean of two pictures that differ in their samples alone."""
    errors = Errors(exposure_ev)
    errors.add(first, second)
    return errors.noise
