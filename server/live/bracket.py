"""A strip of small pictures across the range of one dial, made evenly: each gets its samples in turn."""

from dataclasses import dataclass, field

import numpy as np
from nineglass.describe import Fault, Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.picture.smooth import Shot
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import Set, build_set

SIDE = 160
MOST_PICTURES = 9
ROUNDS = (2, 2, 4, 8, 16)
"""Samples that a picture gets in each round."""

READABLE, QUIET = 0.1, 0.04
"""Noise left in a picture at which it can be judged, and at which it is done."""


ON_STAGE = "stage:"
"""Before the path of a part of the stage, as in `stage:lamps.0`."""


def _part_at(document: dict, path: str) -> dict:
    """A part of a document by its path; raises Refused when it is not there."""
    found = document
    for step in path.split("."):
        try:
            found = found[int(step) if isinstance(found, list) else step]
        except (KeyError, IndexError, ValueError, TypeError):
            found = None
    if not isinstance(found, dict) or "dials" not in found:
        raise Refused([Fault(path, "the stage has no such part", "a part with dials", "Choose another dial.")])
    return found


def _set(material: dict, module: str, part: str, dial: str, value) -> None:
    """Set a dial of a slip or band, in a module or not; a wire into it gives way."""
    network = next((one for one in material["modules"] if one["id"] == module), material)
    for one in [*material["section"]["bands"], *network["slips"]]:
        if one["id"] == part:
            one["dials"][dial] = value
    network["wires"] = [w for w in network["wires"] if (w["target"]["part"], w["target"]["dial"]) != (part, dial)]


@dataclass
class Bracket:
    """The pictures of one bracket, as far as they are."""

    part: str
    dial: str
    values: list
    sets: list[Set]
    films: list[Film] = field(default_factory=list)
    rounds: list[int] = field(default_factory=list)
    noise: list[float] = field(default_factory=list)

    @classmethod
    def of(cls, material: Material, stage: Stage, asked: dict) -> "Bracket":
        """Raises Refused when a value cannot be set. asked: `part` (in the module `module` if not empty, or `stage:path`), `dial`, `values`."""
        part, dial, values = asked["part"], asked["dial"], asked["values"][:MOST_PICTURES]
        sets = []
        for value in values:
            if part.startswith(ON_STAGE):
                changed = stage.model_dump(mode="json")
                _part_at(changed, part.removeprefix(ON_STAGE))["dials"][dial] = value
                sets.append(build_set(material, read(Stage, changed)))
                continue
            changed = material.model_dump(mode="json")
            _set(changed, asked["module"], part, dial, value)
            sets.append(build_set(read(Material, changed), stage))
        films = [Film(SIDE, SIDE) for _ in sets]
        return cls(part, dial, values, sets, films, [0] * len(sets), [1.0] * len(sets))

    @property
    def done(self) -> bool:
        return self._next() is None

    @property
    def readable(self) -> bool:
        return all(noise <= READABLE for noise in self.noise) or self.done

    def _next(self) -> int | None:
        """The picture to work on: of those that cannot be judged yet, and then of all, the one with the fewest samples."""
        open_ones = [k for k, rounds in enumerate(self.rounds) if rounds < len(ROUNDS) and self.noise[k] > QUIET]
        return min(open_ones, key=lambda k: (self.noise[k] <= READABLE, self.rounds[k], k), default=None)

    def step(self, tracer: Tracer, stopped, most_bounces: int) -> tuple[int, np.ndarray]:
        """One round for the picture that has had the fewest; gives its place in the strip and what it is now, (160, 160, 3) linear
        with its noise taken out. Raises Interrupted."""
        k = self._next()
        film, samples = self.films[k], ROUNDS[self.rounds[k]]
        tracer.render(self.sets[k], film, film.samples(), samples, most_bounces=most_bounces, stopped=stopped)
        picture, self.noise[k] = Shot.of(film, self.sets[k].exposure).smoothed()
        self.rounds[k] += 1
        return k, picture
