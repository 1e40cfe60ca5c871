"""The pictures of a trial, made evenly: all are soon readable, and settle together."""

from collections import OrderedDict
from itertools import accumulate

import numpy as np

from nineglass.documents.trials import Trial
from nineglass.picture.smooth import Shot
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import Set, build_set

SIDE, SIDE_OF_FEW, FEW = 160, 320, 4
"""Pixels on a side of each picture; so few are made larger, to be held against each other."""

ROUNDS = (2, 2, 4, 8, 16)
"""Samples that a picture gets in each round."""

READABLE, QUIET = 0.08, 0.04
"""Noise left in a picture at which it can be judged, and at which it is done."""

MOST_SETS = 24
"""How many cells are held ready; others are built again when their turn comes."""


def side_for(trial: Trial) -> int:
    return SIDE_OF_FEW if trial.count <= FEW else SIDE


class Sheet:
    """The cells of a trial row by row, each with its film; a cell is built when it is worked on."""

    def __init__(self, trial: Trial, side: int = SIDE, readable_at: float = READABLE, most_samples: int = sum(ROUNDS)):
        """Raises Refused when a value cannot be set. readable_at: the noise at which a picture can be judged. most_samples: of each picture; those of
        the first round it has anyway."""
        self.documents = [trial.documents_at(k, trial.material, trial.stage) for k in range(trial.count)]
        self.side, self.readable_at = side, readable_at
        self.samples = [
            samples for samples, all_of_them in zip(ROUNDS, accumulate(ROUNDS)) if all_of_them <= most_samples
        ] or [ROUNDS[0]]
        """Of each round."""
        self.sets: OrderedDict[int, Set] = OrderedDict()
        self.exposures = [0.0] * len(self.documents)
        self.films = [Film(side, side) for _ in self.documents]
        self.rounds = [0] * len(self.documents)
        self.noise = [1.0] * len(self.documents)
        self._built: Set | None = None

    @property
    def done(self) -> bool:
        return self._next() is None

    @property
    def readable(self) -> bool:
        return all(noise <= self.readable_at for noise in self.noise) or self.done

    def set_of(self, k: int) -> Set:
        """The set of a cell; what is the same as in the one that was built before is taken over."""
        if k not in self.sets:
            self.sets[k] = self._built = build_set(*self.documents[k], before=self._built)
            self.exposures[k] = self._built.exposure
            if len(self.sets) > MOST_SETS:
                self.sets.popitem(last=False)
        self.sets.move_to_end(k)
        return self.sets[k]

    def _next(self) -> int | None:
        """The picture to work on: of those that cannot be judged yet, and then of all, the one with the fewest samples."""
        open_ones = [k for k, rounds in enumerate(self.rounds) if rounds < len(self.samples) and self.noise[k] > QUIET]
        return min(open_ones, key=lambda k: (self.noise[k] <= self.readable_at, self.rounds[k], k), default=None)

    def step(self, tracer: Tracer, stopped=lambda: False, most_bounces: int = 128) -> tuple[int, np.ndarray]:
        """One round for one picture: (its place, what it is now, (side, side, 3) linear with its noise taken out). Raises Interrupted."""
        k = self._next()
        film, samples = self.films[k], self.samples[self.rounds[k]]
        tracer.render(self.set_of(k), film, film.samples(), samples, most_bounces=most_bounces, stopped=stopped)
        picture, self.noise[k] = Shot.of(film, self.exposures[k]).smoothed()
        self.rounds[k] += 1
        return k, picture

    def mean(self, k: int) -> list[float]:
        """Of a picture."""
        return mean_of_middle(self.films[k].rgb(), self.exposures[k])


def mean_of_middle(rgb: np.ndarray, exposure_ev: float) -> list[float]:
    """Linear mean colour of the inner half of a picture's width and height, exposed."""
    high, wide = (size // 4 for size in rgb.shape[:2])
    middle = rgb[high:-high, wide:-wide] * 2.0**exposure_ev
    return [float(v) for v in middle.mean(axis=(0, 1))]
