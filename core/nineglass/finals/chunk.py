"""One chunk of a final picture, made by one worker on one thread, so that it is the same bit for bit whoever makes it."""

from collections import OrderedDict
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

SEED_STEP, SEED_OF_FRAMES = 7919, 104729
"""Between the seeds of tiles, and of frames: each draws numbers of its own, so that noise does not stand still over what moves. All lights draw
the same, so that with one lamp they add up to the picture as it is without being kept apart, to the accuracy of single precision."""

MOST_SEEDS = 2**31 - 1
MOST_SETS = 8
"""Scenes that are held ready, of the lights and frames of one picture."""


@dataclass(frozen=True)
class Place:
    """Where in a final picture a chunk is."""

    light: int = 0
    tile: int = 0
    frame: int = 0
    number: int = 0


@dataclass
class Maker:
    """Makes chunks; the scene of a picture is built once. One at a time."""

    tracer: Tracer
    _key: str = ""
    _built: OrderedDict[tuple[int, int], Set] = field(default_factory=OrderedDict)
    """Of the picture under way, by frame and light."""

    def make(
        self,
        key: str,
        final: Final,
        material: Material,
        stage: Stage,
        place: Place,
        stopped: Callable[[], bool] = lambda: False,
    ) -> Film:
        """The sums of a chunk. key: a name of the picture's own; documents of the frame. Raises Interrupted when `stopped()`, Refused for bad
        documents."""
        the_set = self._set(key, final, material, stage, place)
        tiles = tiles_of(final)
        tile = tiles[place.tile]
        film = film_of(tile)
        first, samples = samples_of_chunk(final, tile, place.number)
        seed = (final.seed + SEED_STEP * place.tile + SEED_OF_FRAMES * place.frame - 1) % MOST_SEEDS + 1
        self.tracer.render(
            the_set.through(the_set.lens.framed(*tile.frame_in(final))) if len(tiles) > 1 else the_set,
            film,
            first,
            samples,
            most_bounces=final.most_bounces,
            **{name: most for name in ("most_matt", "most_within") if (most := getattr(final, name)) is not None},
            seed=seed,
            stopped=stopped,
        )
        return film

    def _set(self, key: str, final: Final, material: Material, stage: Stage, place: Place) -> Set:
        if self._key != key:
            self._key, self._built = key, OrderedDict()
        which = (place.frame, place.light)
        if which not in self._built:
            part = parts_of(material, stage, final.by_light, final.on_floor)[place.light]
            before = next(reversed(self._built.values()), None)
            self._built[which] = build_set(part.material, part.stage, final.width / final.height, before=before)
            if len(self._built) > MOST_SETS:
                self._built.popitem(last=False)
        self._built.move_to_end(which)
        return self._built[which]
