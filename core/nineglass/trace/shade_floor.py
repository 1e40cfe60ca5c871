"""The matt floor."""

from math import cos, floor, sin, sqrt

from nineglass.kernels import INV_PI, ONE, PI, TWO, ZERO, F, kernel
from nineglass.trace.ask_lamps import queue_shadow, spectrum_at, to_lamp
from nineglass.trace.generate import DIRECTION, FIRST_BOUNCE, PER_BOUNCE
from nineglass.trace.paths import FLOORS, MEASURED
from nineglass.trace.random import pair
from nineglass.trace.scene import FLOOR_FIRST, FLOOR_SECOND
from nineglass.vectors import put3, vec3


@kernel
def shade_floor(batch, ground, lamps, spectra, clearance, seed):
    """Reflect every path at the floor evenly (Lambert), after asking the lamps."""
    paths = batch.paths
    for slot in range(batch.counts[FLOORS]):
        i = batch.floor_queue[slot]
        up = -ONE if paths.direction[1, i] > ZERO else ONE
        row = FLOOR_FIRST
        if ground.squares:
            x, z = floor(paths.origin[0, i] / ground.square_size), floor(paths.origin[2, i] / ground.square_size)
            if (int(x) + int(z)) & 1:
                row = FLOOR_SECOND
        for w in range(4):
            paths.weight[w, i] *= spectrum_at(spectra, row, paths.wavelength[w, i])
        paths.origin[1, i] = ground.height + up * clearance
        dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
        if lamps.area.size:
            k, way, distance = to_lamp(lamps, paths, i, seed)
            cosine = way[1] * up
            if distance > ZERO and cosine > ZERO:
                share = cosine * INV_PI
                queue_shadow(batch, lamps, spectra, i, vec3(paths.origin, i), k, way, distance, share, share)
        a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
        r, phi = sqrt(a), TWO * PI * b
        cosine = sqrt(max(ONE - a, F(1e-8)))
        put3(paths.direction, i, (r * cos(phi), up * cosine, r * sin(phi)))
        paths.pdf[i] = cosine * INV_PI
        paths.bounce[i] += 1
        paths.state[i] |= MEASURED
