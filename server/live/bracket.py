"""A strip of small pictures across the range of one dial, made evenly: each gets its samples in turn."""

from dataclasses import dataclass, field

from nineglass.documents.model import Material, Stage, read
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import Set, build_set

SIDE = 160
MOST_PICTURES = 9
PASSES = (1, 3, 4, 8, 16, 32)
"""Samples of each round; every picture has had a round before the next begins."""

QUIET = 0.1
"""A picture is done when its noise is below this."""


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
    def of(cls, material: Material, stage: Stage, part: str, dial: str, values: list) -> "Bracket":
        """Raises Refused when a value cannot be set."""
        sets = []
        for value in values[:MOST_PICTURES]:
            changed = material.model_dump(mode="json")
            for one in [*changed["section"]["bands"], *changed["slips"]]:
                if one["id"] == part:
                    one["dials"][dial] = value
            changed["wires"] = [
                w for w in changed["wires"] if (w["target"]["part"], w["target"]["dial"]) != (part, dial)
            ]
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

    def step(self, tracer: Tracer, stopped, most_bounces: int) -> int:
        """One round for the picture that has had the fewest; gives its place in the strip. Raises Interrupted."""
        k = self._next()
        film, samples = self.films[k], PASSES[self.rounds[k]]
        tracer.render(self.sets[k], film, film.samples(), samples, most_bounces=most_bounces, stopped=stopped)
        self.rounds[k] += 1
        return k
