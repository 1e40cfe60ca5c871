"""A picture whose lights are kept apart while it is made, so that each can be turned afterwards without making it again."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np

from nineglass.documents.lights import Gain, gains_between, lights_of
from nineglass.documents.model import Material, Stage
from nineglass.trace.film import Film
from nineglass.trace.render import Job, Tracer
from nineglass.trace.scene import Set, build_set

AS_MADE: Gain = (1, 1, 1)
COUNTED: dict[str, Callable[[Film], np.ndarray]] = {
    "sums": lambda film: film.counts,
    "odd": lambda film: film.odd_counts,
    "thrown": lambda film: film.throws[:1],
    "thrown_odd": lambda film: film.throws[1:],
}
"""The sums of a film, and how many samples each is of."""

MOST_LIGHTS = 8
"""That are kept apart: each is rendered by itself, and has sums of its own."""


@dataclass
class OneLight:
    """A set in which one light alone is on, and what it gave."""

    id: str
    the_set: Set
    film: Film
    gain: Gain = AS_MADE


@dataclass
class Apart:
    """The lights of one picture."""

    material: Material
    stage: Stage
    lights: list[OneLight]
    _under_way: list[tuple[OneLight, list[Job]]] = field(default_factory=list)
    """Of the round that is being made."""

    @classmethod
    def of(
        cls,
        material: Material,
        stage: Stage,
        whole: Set,
        aspect: float,
        seen: Callable[[Set], Set],
        size: tuple[int, int],
    ) -> "Apart | None":
        """whole: the set of all lights; seen: a set as the picture shows it; size: pixels across and down. None where there are too many."""
        lights = lights_of(material, stage)
        if len(lights) > MOST_LIGHTS:
            return None
        sets = [build_set(one.material, one.stage, aspect, before=whole) for one in lights]
        made = [OneLight(one.id, seen(the_set), Film(*size)) for one, the_set in zip(lights, sets, strict=True)]
        return cls(material, stage, made)

    @property
    def is_near(self) -> bool:
        """Whether it is the picture nearly and no more: a light was given a colour, which three channels tell nearly, or was switched off, and
        still hides what is behind it."""
        return any(max(one.gain) > min(one.gain) or max(one.gain) == 0 for one in self.lights)

    def turned(self, material: Material, stage: Stage) -> dict[str, Gain] | None:
        """The gains with which it is the picture of other documents that are alike unlit; None where there are none."""
        return gains_between((self.material, self.stage), (material, stage))

    def turn(self, material: Material, stage: Stage) -> None:
        gains = self.turned(material, stage)
        for one in self.lights:
            one.gain = gains[one.id]

    def render(self, tracer: Tracer, jobs: list[Job], **how) -> list[Job]:
        """The jobs of one round, for each light; gives back those of the light under way that are left when others need the time."""
        if not self._under_way:
            self._under_way = [(one, [replace(job) for job in jobs]) for one in self.lights]
        while self._under_way:
            one, asked = self._under_way[0]
            left = tracer.render(one.the_set, one.film, jobs=asked, **how)
            if left:
                self._under_way[0] = (one, left)
                return left
            self._under_way.pop(0)
        return []

    def put_together(self, film: Film) -> None:
        """Fill a film with what all lights give together; of those that are a part of a round ahead, what they have is taken."""
        films = [one.film for one in self.lights]
        for name in ("counts", "odd_counts", "throws"):
            getattr(film, name)[...] = np.maximum.reduce([getattr(one, name) for one in films])
        for name in ("open_counts", "through", "guides", "lengths", "cut"):
            getattr(film, name)[...] = getattr(films[0], name)
        for name, count_of in COUNTED.items():
            means = (
                getattr(one.film, name) / np.maximum(count_of(one.film), 1)[:, None] * np.array(one.gain)
                for one in self.lights
            )
            getattr(film, name)[...] = sum(means) * count_of(film)[:, None]
