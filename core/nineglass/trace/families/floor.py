"""The matt floor."""

from math import floor

from nineglass.kernels import INV_PI, ONE, ZERO, kernel, step
from nineglass.optics.diffuse import even_direction
from nineglass.spectra.curves import curve_at
from nineglass.trace.geometry.standing import FLOOR_BIT
from nineglass.trace.geometry.surface import ACCURACY, largest
from nineglass.trace.light.ask import ASK_DRAWS, FLOOR_FIRST, FLOOR_SECOND, LIGHT, ask, queue_shadow
from nineglass.trace.light.throw import mark_matt, queue_lens, toward_lens
from nineglass.trace.paths import ENDED, FLOORS, MEASURED, SCATTERED, THROWN
from nineglass.trace.random import pair
from nineglass.vectors import add, dot, frame, put3, scale, to_world, vec3

DIRECTION, ASKING = range(2)
DRAWS = ASKING + ASK_DRAWS
"""Random numbers that a path draws at the floor."""


@step
def _scatter_matt(batch, scene, i, normal, bit, clearance, seed):
    """Ask the lamps, and send a path on evenly (Lambert) on the side of a unit normal. Its weight holds the colour already."""
    paths, dimension = batch.paths, batch.paths.dimension[i]
    start = add(vec3(paths.origin, i), scale(normal, clearance))
    if paths.state[i] & THROWN:
        way, distance, share = toward_lens(scene, paths, i, start, seed, dimension + ASKING)
        value = dot(way, normal) * INV_PI * share
        if distance > ZERO and value > ZERO:
            queue_lens(batch, scene, i, start, way, distance, (value, value, value, value))
        paths.state[i] |= ENDED
        return
    lamp, way, distance, density = ask(scene, paths, i, bit, LIGHT, seed, dimension + ASKING)
    cosine = dot(way, normal)
    if distance > ZERO and cosine > ZERO:
        value = cosine * INV_PI
        values = (value, value, value, value)
        queue_shadow(batch, scene, i, paths.medium[i], start, lamp, LIGHT, way, distance, density, values, value)
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
    onward = even_direction(a, b)
    cosine = onward[2]
    x, y = frame(normal)
    put3(paths.direction, i, to_world(onward, x, y, normal))
    put3(paths.origin, i, start)
    paths.pdf[i] = cosine * INV_PI
    paths.dimension[i] = dimension + DRAWS
    mark_matt(paths, i)
    paths.bounce[i] += 1
    paths.bit[i] = bit
    paths.state[i] |= MEASURED | SCATTERED


@step
def floor_row(scene, paths, i):
    """The row of `Scene.spectra` of the floor where a path met it."""
    ground = scene.ground
    if ground.squares:
        x, z = floor(paths.origin[0, i] / ground.square_size), floor(paths.origin[2, i] / ground.square_size)
        if (int(x) + int(z)) & 1:
            return FLOOR_SECOND
    return FLOOR_FIRST


@kernel
def shade_floor(batch, scene, seed):
    """Reflect every path at the floor."""
    paths, ground = batch.paths, scene.ground
    for slot in range(batch.counts[FLOORS]):
        i = batch.floor_queue[slot]
        row = floor_row(scene, paths, i)
        for w in range(paths.lines[i]):
            paths.weight[w, i] *= curve_at(scene.spectra[row], paths.wavelength[w, i])
        paths.origin[1, i] = ground.height
        up = -ONE if paths.direction[1, i] > ZERO else ONE
        clearance = ACCURACY * largest(vec3(paths.origin, i))
        _scatter_matt(batch, scene, i, (ZERO, up, ZERO), FLOOR_BIT, clearance, seed)
