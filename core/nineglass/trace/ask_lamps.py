"""Light straight from the lamps: a point on one of them, and how it is balanced against hitting it by chance."""

from math import sqrt

from nineglass.kernels import ONE, ZERO, F, optic
from nineglass.spectra.observer import LOW_NM
from nineglass.trace.generate import FIRST_BOUNCE, LAMP_CHOICE, LAMP_POINT, PER_BOUNCE
from nineglass.trace.paths import SHADOWS
from nineglass.trace.random import pair, single
from nineglass.trace.scene import LAMPS_FROM
from nineglass.vectors import add, dot, put3, scale, sub, vec3

LAST_BIN = 400


@optic
def spectrum_at(spectra, row, wavelength_nm):
    """A row of spectra on the 1 nm grid at one wavelength."""
    x = wavelength_nm - F(LOW_NM)
    k = min(max(int(x), 0), LAST_BIN - 1)
    return spectra[row, k] + (spectra[row, k + 1] - spectra[row, k]) * (x - F(k))


@optic
def lamp_pdf(lamps, k, distance, direction):
    """Density per solid angle with which sampling the lamps would have found this direction."""
    facing = -(
        direction[0] * lamps.normal[k, 0] + direction[1] * lamps.normal[k, 1] + direction[2] * lamps.normal[k, 2]
    )
    return distance * distance / (max(facing, F(1e-6)) * lamps.area[k] * F(lamps.area.size))


@optic
def mis_weight(own, other):
    """The power heuristic. Source: Veach 1997, Robust Monte Carlo Methods for Light Transport Simulation, 9.2.4."""
    if own > F(1e15):
        return ONE
    return own * own / (own * own + other * other)


@optic
def to_lamp(lamps, paths, i, seed):
    """A point on a lamp drawn by area: (lamp, unit direction, distance); a distance of 0 means its dark side."""
    dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_POINT)
    choice = single(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_CHOICE)
    k = min(int(choice * F(lamps.area.size)), lamps.area.size - 1)
    corner = (lamps.corner[k, 0], lamps.corner[k, 1], lamps.corner[k, 2])
    across = (lamps.across[k, 0], lamps.across[k, 1], lamps.across[k, 2])
    up = (lamps.up[k, 0], lamps.up[k, 1], lamps.up[k, 2])
    way = sub(add(corner, add(scale(across, a), scale(up, b))), vec3(paths.origin, i))
    distance = sqrt(max(dot(way, way), F(1e-20)))
    way = scale(way, ONE / distance)
    if dot(way, (lamps.normal[k, 0], lamps.normal[k, 1], lamps.normal[k, 2])) >= ZERO:
        return k, way, ZERO
    return k, way, distance


@optic
def queue_shadow(batch, lamps, spectra, i, start, k, way, distance, value, pdf):
    """Queue the light of lamp k along a way, for a response times cosine `value` whose own sampler has density `pdf`."""
    paths, shadows = batch.paths, batch.shadows
    density = lamp_pdf(lamps, k, distance, way)
    share = value * mis_weight(density, pdf) / density
    slot = batch.counts[SHADOWS]
    batch.counts[SHADOWS] += 1
    put3(shadows.origin, slot, start)
    put3(shadows.direction, slot, way)
    shadows.far[slot] = distance * F(0.9999)
    shadows.path[slot] = i
    for w in range(4):
        shadows.light[w, slot] = (
            paths.weight[w, i] * spectrum_at(spectra, LAMPS_FROM + k, paths.wavelength[w, i]) * share
        )
