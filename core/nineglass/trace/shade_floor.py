"""The matt floor."""

from math import cos, floor, sin, sqrt

from nineglass.kernels import INV_PI, ONE, PI, TWO, ZERO, F, kernel
from nineglass.trace.generate import DIRECTION, FIRST_BOUNCE, LAMP_CHOICE, LAMP_POINT, PER_BOUNCE
from nineglass.trace.locate import lamp_pdf, mis_weight, spectrum_at
from nineglass.trace.paths import FLOORS, MEASURED, SHADOWS
from nineglass.trace.random import pair, single
from nineglass.trace.scene import FLOOR_FIRST, FLOOR_SECOND, LAMPS_FROM
from nineglass.trace.shade_interface import to_lamp
from nineglass.vectors import put3, vec3


@kernel
def shade_floor(batch, ground, lamps, spectra, clearance, seed):
    """Reflect every path at the floor evenly (Lambert), after asking the lamps."""
    paths, shadows, counts = batch.paths, batch.shadows, batch.counts
    for slot in range(counts[FLOORS]):
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
            a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_POINT)
            choice = single(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_CHOICE)
            k, way, distance = to_lamp(lamps, vec3(paths.origin, i), a, b, choice)
            cosine = way[1] * up
            if distance > ZERO and cosine > ZERO:
                density = lamp_pdf(lamps, k, distance, way)
                share = cosine * INV_PI * mis_weight(density, cosine * INV_PI) / density
                at = counts[SHADOWS]
                counts[SHADOWS] += 1
                put3(shadows.origin, at, vec3(paths.origin, i))
                put3(shadows.direction, at, way)
                shadows.far[at] = distance * F(0.9999)
                shadows.path[at] = i
                for w in range(4):
                    glow = spectrum_at(spectra, LAMPS_FROM + k, paths.wavelength[w, i])
                    shadows.light[w, at] = paths.weight[w, i] * glow * share
        a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
        r, phi = sqrt(a), TWO * PI * b
        cosine = sqrt(max(ONE - a, F(1e-8)))
        put3(paths.direction, i, (r * cos(phi), up * cosine, r * sin(phi)))
        paths.pdf[i] = cosine * INV_PI
        paths.bounce[i] += 1
        paths.state[i] |= MEASURED
