"""The media that the camera stands in."""

from typing import NamedTuple

import numpy as np

from nineglass.kernels import FAR, ZERO, F, builder
from nineglass.trace.intersect import to_own
from nineglass.trace.matter import CURVES, SIGMA
from nineglass.trace.paths import AIR, LEVELS
from nineglass.trace.tree import STACK, walk
from nineglass.vectors import cross, dot, unit

MOST_SURFACES = 256


class Start(NamedTuple):
    """Where every path begins."""

    levels: int
    within: np.ndarray  # (8,) int32
    medium: int
    sigma: np.ndarray  # (401,) float32: its absorption


@builder
def crossings(forest, things, j, origin, direction):
    """How many more times a ray leaves thing j than it enters it: 1 from within a closed form, 0 from outside."""
    stack, nears = np.empty(STACK, np.int32), np.empty(STACK, np.float32)
    start = (origin[0] - things.offset[j, 0], origin[1] - things.offset[j, 1], origin[2] - things.offset[j, 2])
    start, way = to_own(things, j, start), to_own(things, j, direction)
    near, count = ZERO, 0
    for _ in range(MOST_SURFACES):
        t, hit, _, _ = walk(forest, things.root[j], start, way, near, FAR, stack, nears, False)
        if hit < 0:
            break
        first = (forest.triangles[hit, 3], forest.triangles[hit, 4], forest.triangles[hit, 5])
        second = (forest.triangles[hit, 6], forest.triangles[hit, 7], forest.triangles[hit, 8])
        count += 1 if dot(way, unit(cross(first, second))) > ZERO else -1
        near = t * F(1.00001) + F(1e-7)
    return count


def media_at(scene, point) -> list[int]:
    """The things that a point (m) lies in, by the vote of three rays."""
    origin = tuple(np.float32(v) for v in point)
    ways = [(0.83, 0.41, -0.37), (-0.29, 0.91, 0.28), (0.11, -0.73, 0.67)]
    found = []
    for j in range(len(scene.things.root)):
        votes = [
            crossings(scene.forest, scene.things, j, origin, tuple(np.float32(v) for v in way)) > 0 for way in ways
        ]
        if sum(votes) >= 2:
            found.append(j)
    return found[:LEVELS]


def start_of(scene, lens) -> Start:
    """The media of a camera."""
    low, high = scene.things.low, scene.things.high
    inside_some_box = ((lens.eye >= low) & (lens.eye <= high)).all(axis=1).any()
    found = media_at(scene, lens.eye) if inside_some_box else []
    within = np.zeros(LEVELS, np.int32)
    within[: len(found)] = found
    if not found:
        return Start(0, within, AIR, np.zeros(401, np.float32))
    medium = max(found, key=lambda j: scene.things.priority[j])
    sigma = scene.matters.curves[scene.things.matter[medium] * CURVES + SIGMA]
    return Start(len(found), within, int(medium), sigma)
