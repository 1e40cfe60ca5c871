"""A strip of small pictures across the range of one dial, made evenly: each gets its samples in turn."""

from dataclasses import dataclass, field

import numpy as np
from nineglass.describe import Fault, Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.picture.denoise import denoised
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import Set, build_set

SIDE = 160
MOST_PICTURES = 9
PASSES = (2, 6, 8, 16, 32)
"""Samples of each round; every picture has had a round before the next begins."""

QUIET = 0.2
"""A picture is done when its noise is below this before it is taken out: half of that or less is left after (measured against long
renders of two demo materials)."""


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
        return cls(part, dial, values, sets, [Film(SIDE, SIDE) for _ in sets], [0] * len(sets))

    @property
    def done(self) -> bool:
        return self._next() is None

    def _next(self) -> int | None:
        open_ones = [
            k
            for k, film in enumerate(self.films)
            if self.rounds[k] < len(PASSES) and not (film.noise() is not None and film.noise() < QUIET)
        ]
        return min(open_ones, key=lambda k: (self.rounds[k], k), default=None)

    def picture(self, k: int) -> np.ndarray:
        """(160, 160, 3) linear, with its noise taken out."""
        film = self.films[k]
        return denoised(film.rgb(), film.variance().reshape(SIDE, SIDE))

    def step(self, tracer: Tracer, stopped, most_bounces: int) -> int:
        """One round for the picture that has had the fewest; gives its place in the strip. Raises Interrupted."""
        k = self._next()
        film, samples = self.films[k], PASSES[self.rounds[k]]
        tracer.render(self.sets[k], film, film.samples(), samples, most_bounces=most_bounces, stopped=stopped)
        self.rounds[k] += 1
        return k
