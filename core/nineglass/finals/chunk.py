"""One chunk of a final picture, made by one worker on one thread, so that it is the same bit for bit whoever makes it."""

from collections.abc import Callable
from dataclasses import dataclass, field

from nineglass.documents.final import Final
from nineglass.documents.lights import parts_of
from nineglass.documents.model import Material, Stage
from nineglass.finals.plan import samples_of_chunk, tiles_of
from nineglass.finals.sums import film_of
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import Set, build_set

SEED_STEP = 7919
"""Between the seeds of tiles: each draws numbers of its own. All lights draw the same, so that with one lamp they add up to the picture as it is
without being kept apart, to the accuracy of single precision."""


@dataclass
class Maker:
    """Makes chunks; the scene of a picture is built once. One at a time."""

    tracer: Tracer
    _key: str = ""
    _built: dict[int, Set] = field(default_factory=dict)
    """Of the picture under way, by light."""

    def make(
        self,
        key: str,
        final: Final,
        material: Material,
        stage: Stage,
        light: int,
        tile: int,
        number: int,
        stopped: Callable[[], bool] = lambda: False,
    ) -> Film:
        """The sums of a chunk. key: a name of the picture's own. Raises Interrupted when `stopped()`, Refused for bad documents."""
        the_set = self._set(key, final, material, stage, light)
        tiles = tiles_of(final)
        film = film_of(tiles[tile])
        first, samples = samples_of_chunk(final, tiles[tile], number)
        self.tracer.render(
            the_set.through(the_set.lens.framed(*tiles[tile].frame_in(final))) if len(tiles) > 1 else the_set,
            film,
            first,
            samples,
            most_bounces=final.most_bounces,
            seed=final.seed + SEED_STEP * tile,
            stopped=stopped,
        )
        return film

    def _set(self, key: str, final: Final, material: Material, stage: Stage, light: int) -> Set:
        if self._key != key:
            self._key, self._built = key, {}
        if light not in self._built:
            part = parts_of(material, stage, final.by_light)[light]
            before = next(iter(self._built.values()), None)
            self._built[light] = build_set(part.material, part.stage, final.width / final.height, before=before)
        return self._built[light]
