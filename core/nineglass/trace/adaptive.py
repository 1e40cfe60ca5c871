"""Which pixels get the next samples: after some even passes, those where the picture as it is seen is farthest from settled.

Judged by stretches of a row, and by what lies around them, from two halves of the samples: a place that is bright by chance in one half
draws as many samples as one that is dark by chance, and no pixel is judged by its own samples alone. Sources: Rousselle, Knaus & Zwicker
2012, Adaptive Rendering with Non-Local Means Filtering (two halves); the greedy choice is common practice.
"""

import numpy as np

from nineglass.picture.noise import screen_luminance
from nineglass.trace.film import Film
from nineglass.trace.render import Job, even_jobs

STRETCH = 16
"""Pixels of a row that get samples together."""

EVEN_SAMPLES = 8
SAMPLES, MOST_SAMPLES = 4, 32
"""A round gives a stretch so many samples, or a multiple, at most so many."""

LEAST = 0.35
"""Of the mean error: that of a stretch that seems settled, so that what is not yet seen to be noisy is found."""

AROUND = (5, 3)
"""Rows and stretches that a stretch is judged with."""


def next_jobs(film: Film, samples: int, exposure_ev: float = 0.0) -> list[Job]:
    """The work of the next round. samples: rounds so far, each of about one sample a pixel."""
    if samples < EVEN_SAMPLES:
        return even_jobs(range(film.width * film.height), samples, 1)
    counts = film.counts.reshape(film.height, film.width)[:, ::STRETCH]
    wanted = _wanted(counts, film.halves(), exposure_ev)
    return _jobs(film, counts, _shared_out(np.maximum(wanted - counts, 0)))


def _wanted(counts, halves, exposure_ev: float) -> np.ndarray:
    """(h, stretches) samples of each stretch, when as many as there are stretches are given: those of least error stand to each other as
    the errors of single samples. Where none errs at all, every one alike."""
    from scipy.ndimage import uniform_filter

    first, second = (screen_luminance(half, exposure_ev) for half in halves)
    starts = np.arange(0, first.shape[1], STRETCH)
    lengths = np.diff([*starts, first.shape[1]])
    square = np.add.reduceat((first - second) ** 2, starts, axis=1) / lengths
    error = np.sqrt(np.maximum(uniform_filter(square * counts, AROUND, mode="nearest"), 0))
    error += LEAST * error.mean()
    if not error.any():
        error[:] = 1
    return error * ((counts.sum() + counts.size) / error.sum())


def _shared_out(lacking: np.ndarray) -> np.ndarray:
    """As many samples as there are stretches, in steps, to those that lack the most."""
    steps = np.clip(np.ceil(lacking / SAMPLES), 0, MOST_SAMPLES // SAMPLES).astype(int)
    order = np.argsort(-lacking, axis=None, kind="stable")
    enough = np.cumsum(steps.ravel()[order]) * SAMPLES > lacking.size
    steps.ravel()[order[enough]] = 0
    return steps * SAMPLES


def _jobs(film: Film, counts: np.ndarray, given: np.ndarray) -> list[Job]:
    jobs = []
    for row, column in zip(*np.nonzero(given), strict=True):
        start = int(column) * STRETCH
        pixels = min(STRETCH, film.width - start)
        jobs.append(Job(int(row) * film.width + start, pixels, int(counts[row, column]), int(given[row, column])))
    return jobs
