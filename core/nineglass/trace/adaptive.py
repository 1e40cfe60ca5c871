"""Which pixels get the next samples: after some even passes, those where the picture as it is seen is farthest from settled.

Judged by stretches of a row, and by what lies around them, from two halves of the samples: a place that is bright by chance in one half
draws as many samples as one that is dark by chance, and no pixel is judged by its own samples alone. Sources: Rousselle, Knaus & Zwicker
2012, Adaptive Rendering with Non-Local Means Filtering (two halves); the greedy choice is common practice.
"""

import numpy as np
from scipy.ndimage import uniform_filter

from nineglass.picture.noise import screen_luminance
from nineglass.trace.film import Film
from nineglass.trace.render import Job, even_jobs

STRETCH = 32
"""Pixels of a row that get samples together."""

EVEN_SAMPLES = 8
SAMPLES, ONE_IN = 4, 4
"""A round gives so many samples to one in so many stretches."""

EVEN_ROUND = 4
"""One round in so many is even, so that what is not yet seen to be noisy is found."""

AROUND = (9, 3)
"""Rows and stretches that a stretch is judged with."""


def next_jobs(film: Film, samples: int, exposure_ev: float = 0.0) -> list[Job]:
    """The work of the next round. samples: rounds so far, each of about one sample a pixel."""
    if samples < EVEN_SAMPLES:
        return even_jobs(range(film.width * film.height), samples, 1)
    first = film.counts.reshape(film.height, film.width)[:, ::STRETCH]
    if samples % EVEN_ROUND == 0:
        return _jobs(film, first, np.arange(first.size), 1)
    worth = _error(film, exposure_ev) * SAMPLES / (first + SAMPLES)
    chosen = np.argsort(-worth, axis=None, kind="stable")[: -(-first.size // ONE_IN)]
    return _jobs(film, first, np.sort(chosen), SAMPLES)


def _error(film: Film, exposure_ev: float) -> np.ndarray:
    """(h, stretches) mean square error of what is seen."""
    first, second = (screen_luminance(half, exposure_ev) for half in film.halves())
    square = ((first - second) / 2) ** 2
    starts = np.arange(0, film.width, STRETCH)
    lengths = np.diff([*starts, film.width])
    return uniform_filter(np.add.reduceat(square, starts, axis=1) / lengths, AROUND, mode="nearest")


def _jobs(film: Film, first: np.ndarray, chosen: np.ndarray, samples: int) -> list[Job]:
    jobs = []
    for k in chosen:
        row, column = divmod(int(k), first.shape[1])
        start = column * STRETCH
        pixels = min(STRETCH, film.width - start)
        jobs.append(Job(row * film.width + start, pixels, int(first[row, column]), samples))
    return jobs
