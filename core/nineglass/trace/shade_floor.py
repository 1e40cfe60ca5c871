"""The matt floor, and what any matt surface does."""

from math import cos, floor, sin, sqrt

from nineglass.kernels import INV_PI, ONE, PI, TWO, ZERO, F, kernel, optic
from nineglass.trace.ask_lamps import FLOOR_FIRST, FLOOR_SECOND, LIGHT, ask, queue_shadow
from nineglass.trace.forest import FLOOR_BIT
from nineglass.trace.generate import DIRECTION, FIRST_BOUNCE, PER_BOUNCE, curve_at
from nineglass.trace.paths import FLOORS, MEASURED, SCATTERED
from nineglass.trace.random import pair
from nineglass.vectors import add, dot, frame, put3, scale, to_world, vec3


@optic
def scatter_matt(batch, scene, i, normal, bit, seed):
    """Ask the lamps, and send a path on evenly (Lambert) on the side of a unit normal. Its weight holds the colour already."""
    paths = batch.paths
    start = add(vec3(paths.origin, i), scale(normal, scene.clearance))
    lamp, way, distance, density = ask(scene, paths, i, LIGHT, seed)
    cosine = dot(way, normal)
    if distance > ZERO and cosine > ZERO:
        value = cosine * INV_PI
        values = (value, value, value, value)
        medium = paths.medium[i]
        queue_shadow(batch, scene, i, bit, medium, start, lamp, LIGHT, way, distance, density, values, value)
    dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
    r, phi = sqrt(a), TWO * PI * b
    cosine = sqrt(max(ONE - a, F(1e-8)))
    x, y = frame(normal)
    put3(paths.direction, i, to_world((r * cos(phi), r * sin(phi), cosine), x, y, normal))
    put3(paths.origin, i, start)
    paths.pdf[i] = cosine * INV_PI
    paths.bounce[i] += 1
    paths.bit[i] = bit
    paths.state[i] |= MEASURED | SCATTERED


@kernel
def shade_floor(batch, scene, seed):
    """Reflect every path at the floor."""
    paths, ground = batch.paths, scene.ground
    for slot in range(batch.counts[FLOORS]):
        i = batch.floor_queue[slot]
        row = FLOOR_FIRST
        if ground.squares:
            x, z = floor(paths.origin[0, i] / ground.square_size), floor(paths.origin[2, i] / ground.square_size)
            if (int(x) + int(z)) & 1:
                row = FLOOR_SECOND
        for w in range(4):
            paths.weight[w, i] *= curve_at(scene.spectra[row], paths.wavelength[w, i])
        paths.origin[1, i] = ground.height
        up = -ONE if paths.direction[1, i] > ZERO else ONE
        scatter_matt(batch, scene, i, (ZERO, up, ZERO), FLOOR_BIT, seed)
