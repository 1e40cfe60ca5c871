"""What the camera meets first, pixel by pixel: for layers of depth, place and identity."""

from dataclasses import dataclass

import numpy as np

from nineglass.trace.generate import generate
from nineglass.trace.geometry.rays import intersect
from nineglass.trace.paths import FLOOR, FORM
from nineglass.trace.render import BATCH, Worker
from nineglass.trace.scene import Set


@dataclass(frozen=True)
class FirstHits:
    """thing and matter: numbers from 1, the floor the last thing and 0 of matter; 0 where nothing is met, and the depth there is infinite."""

    depth_cm: np.ndarray  # (h, w) along the camera's axis
    position_cm: np.ndarray  # (h, w, 3)
    thing: np.ndarray  # (h, w)
    matter: np.ndarray  # (h, w)


def first_hits(the_set: Set, width: int, height: int, rows: tuple[int, int] | None = None) -> FirstHits:
    """Of one place in each pixel of a picture, all sharp. rows: the first, and the one after the last; all when not given."""
    top, bottom = rows or (0, height)
    start, count = top * width, (bottom - top) * width
    depth, position = np.full(count, np.inf, np.float32), np.zeros((count, 3), np.float32)
    thing, matter = np.zeros(count, np.float32), np.zeros(count, np.float32)
    worker = Worker(min(BATCH, count))
    lens = the_set.lens._replace(radius=np.float32(0))
    for first in range(0, count, BATCH):
        pixels = min(BATCH, count - first)
        place = (start + first, pixels, 0, 0, pixels)
        _meet(the_set, lens, worker, (width, height), place, start, (depth, position, thing, matter))
    shape = (bottom - top, width)
    return FirstHits(depth.reshape(shape), position.reshape(*shape, 3), thing.reshape(shape), matter.reshape(shape))


def _meet(the_set: Set, lens, worker: Worker, size, place, start: int, out) -> None:
    """Fill in what some pixels meet. start: the pixel of the first row of `out`."""
    batch, scene = worker.batch, the_set.scene
    depth, position, thing, matter = out
    worker.clear()
    generate(batch, lens, the_set.start, the_set.sensor, *size, 1, *place)
    intersect(batch, scene)
    active = batch.active[: place[1]]
    on_form, on_floor = batch.hits.what[active] == FORM, batch.hits.what[active] == FLOOR
    met = active[on_form | on_floor]
    at = batch.paths.pixel[met] - start
    places = batch.paths.origin[:, met] + batch.hits.distance[met] * batch.paths.direction[:, met]
    depth[at] = (places.T - lens.eye) @ lens.forward * 100
    position[at] = places.T * 100
    things = scene.geometry.things
    forms = active[on_form]
    which = batch.hits.thing[forms]
    thing[batch.paths.pixel[forms] - start] = 1 + which
    matter[batch.paths.pixel[forms] - start] = 1 + things.matter[which]
    thing[batch.paths.pixel[active[on_floor]] - start] = 1 + len(things.matter)
