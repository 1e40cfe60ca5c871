"""The picture while it settles: a copy freed of noise for looking at. The sums that it is made from stay as they are.

Single bright hits are left to the filter: lowering them to what lies around them first was measured to raise the error by 20 to 100 %.
"""

from dataclasses import dataclass

import numpy as np

from nineglass.picture.denoise import denoised
from nineglass.picture.noise import Errors, told, worst_told

TRUE_FROM, SMOOTHED_FROM = 0.01, 0.04
"""Noise of the noisiest block up to which the picture is shown as rendered, and from which it is shown smoothed; between them it is mixed."""

GUIDED_BELOW = 24
"""Samples from which the picture says more than its guides, which have noise of their own: they raise the error from there (measured: by up to a
quarter)."""

LOST = 2.6
"""Detail that the filter takes with the noise is missing in both halves, so that their difference tells too little: at the least by this over
the root of the samples, as measured against long renders of the demo stages."""


def least_lost(samples: float, share_of_true: float = 0.0) -> float:
    """By how much more a picture that is smoothed, but for a share, is off at the least than two of half of the samples differ by."""
    return 1 + LOST * (1 - share_of_true) / samples**0.5


@dataclass(frozen=True)
class Shot:
    """What a film holds at one moment, as far as showing it needs it."""

    rgb: np.ndarray
    """(h, w, 3) linear."""
    halves: tuple[np.ndarray, np.ndarray] | None
    """Two pictures of half of the samples each; None before there are two samples."""
    guidance: tuple[np.ndarray, np.ndarray] | None
    exposure_ev: float
    samples: float
    """Of a pixel, in the middle."""
    noise: float | None
    """Of the picture as rendered, as `picture.noise` tells it; None when it is not known yet."""
    worst: float | None
    """The same of its noisiest block."""

    @classmethod
    def of(cls, film, exposure_ev: float) -> "Shot":
        halves, noise, worst = None, None, None
        if film.samples() >= 2:
            halves = tuple(half.astype(np.float32) for half in film.halves())
            noise, worst = told(*halves, exposure_ev), worst_told(*halves, exposure_ev)
        samples = float(film.counts.mean())
        return cls(film.rgb().astype(np.float32), halves, film.guidance(), exposure_ev, samples, noise, worst)

    @property
    def share_of_true(self) -> float:
        """How much of the picture as rendered is shown beside the smoothed one."""
        if self.worst is None:
            return 0.0
        return float(np.clip((SMOOTHED_FROM - self.worst) / (SMOOTHED_FROM - TRUE_FROM), 0, 1))

    def smoothed(self, tells: bool = True) -> tuple[np.ndarray, float | None]:
        """(the picture to look at, how far it is from what it will be). tells: whether that is told, which costs two more runs of the filter."""
        share = self.share_of_true
        if share == 1:
            return self.rgb, self.noise
        mixed = self._filtered(self.rgb) * (1 - share) + self.rgb * share
        return mixed, self._noise_left(share) if tells and self.halves else None

    def _filtered(self, rgb: np.ndarray) -> np.ndarray:
        return denoised(rgb, self.guidance if self.samples < GUIDED_BELOW else None)

    def _noise_left(self, share: float) -> float:
        errors = Errors(self.exposure_ev)
        shown = [self._filtered(half) * (1 - share) + half * share for half in self.halves]
        errors.add_smoothed(self.halves, shown, least_lost(self.samples, share))
        return errors.noise
