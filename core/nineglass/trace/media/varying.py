"""Media that are not the same everywhere, as banks of fog, smoke, flames: what they do lies on voxels, and light goes from one tentative
collision to the next. How often those come is bounded in every cell of 8 x 8 x 8 voxels, so that a wrong bound is impossible.

All wavelengths of a path share the bound, so that what is drawn is alike for all of them; what a path carries never grows. Sources: Woodcock
et al. 1965; Kutz, Habel, Li & Novak 2017, Spectral and Decomposition Tracking; Novak et al. 2014, Residual Ratio Tracking; Miller, Georgiev
& Jarosz 2019, A Null-Scattering Path Integral Formulation.

Two media may be mixed in one place: each has its own row of `Fields`, and each its own chance to scatter.
"""

from math import exp, floor, log
from typing import NamedTuple

import numpy as np

from nineglass.kernels import FAR, ONE, ZERO, F, step
from nineglass.lattice import along, between
from nineglass.optics.absorption import sigma_at_depth
from nineglass.spectra.blackbody import SECOND_RADIATION_CONSTANT_NM_K
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.geometry.surface import offset_of, to_own
from nineglass.trace.paths import BY_MIRROR, SCATTERED
from nineglass.trace.random import next_random
from nineglass.vectors import add, scale, sub, vec3

CELL = 8
"""Voxels along the side of a cell."""

ABSORBS, SCATTERS, COLOR, ASYMMETRY, KELVIN, GLOW, GLOW_COLOR, TINT = range(8)
CHANNELS = TINT + 1
"""What may lie on voxels: shares of the absorption and of the scattering of the medium; three coefficients of what is scattered; the mean
cosine; K; radiance per m of the light that is sent out; three coefficients of its colour; and three of what 1 m of it lets pass."""

GLOW_STEPS = F(4)
"""Tentative collisions for the width of a cell that glows, at least: its light is gathered at them."""

COLDEST_K, HOTTEST_K = F(300), F(40000)
RADIATION_NM_K = F(SECOND_RADIATION_CONSTANT_NM_K)
MOST_COLLISIONS, MOST_CELLS = 2048, 4096
NOTHING_LEFT = F(1e-6)
"""Of light on its way straight through: less is none."""

FLEW, WAS_SCATTERED, WAS_SCATTERED_BY_OTHER, IS_LOST = range(4)
"""How a flight ends: at its far end; at a scattering, by the medium or by the other that is mixed with it; nowhere, for nothing is left."""


class Fields(NamedTuple):
    """One row for each thing whose medium is not the same everywhere."""

    of: np.ndarray  # (k,) int32: the row of each thing, or -1
    low: np.ndarray  # (f, 3) float32, m: the lowest corner in the axes of the thing
    voxel: np.ndarray  # (f, 3) float32, m
    shape: np.ndarray  # (f, 3) int32: voxels along x, y, z
    first: np.ndarray  # (f, 8) int32: where each channel begins among the values, or -1
    values: np.ndarray  # (n,) float32: x runs fastest
    cells: np.ndarray  # (f, 3) int32
    first_cell: np.ndarray  # (f,) int32
    most: (
        np.ndarray
    )  # (c, 3) float32: the largest share of absorption and of scattering in and around a cell, and whether it glows
    lights: np.ndarray  # (f,) int32: whether it lights what is around it, or is but seen
    near: np.ndarray  # (f,) int32: whether a lamp stands in it or close by
    matter: np.ndarray  # (f,) int32: the row of `Media` that its channels are shares of
    other: np.ndarray  # (f,) int32: the row of what is mixed with it, on the same voxels, or -1
    white: np.ndarray  # (401,) float32: what the colour of a glow filters, of luminance 1


class Most(NamedTuple):
    """The most that a medium, and what is mixed with it, absorb and scatter at any wavelength of a path, 1/m."""

    absorbs: np.float32
    scatters: np.float32
    other_absorbs: np.float32
    other_scatters: np.float32


class Lattice(NamedTuple):
    """Where a place lies among the voxels around it."""

    corner: int
    dx: int
    dy: int
    dz: int
    x: np.float32
    y: np.float32
    z: np.float32


@step
def lattice_at(fields, f, own):
    """own: a place (m) in the axes of the thing."""
    nx, ny, nz = fields.shape[f, 0], fields.shape[f, 1], fields.shape[f, 2]
    i, up_x, x = along((own[0] - fields.low[f, 0]) / fields.voxel[f, 0], nx)
    j, up_y, y = along((own[1] - fields.low[f, 1]) / fields.voxel[f, 1], ny)
    k, up_z, z = along((own[2] - fields.low[f, 2]) / fields.voxel[f, 2], nz)
    return Lattice((k * ny + j) * nx + i, up_x, up_y * nx, up_z * nx * ny, x, y, z)


@step
def value_at(values, first, at):
    """The value of a channel, linear between voxels."""
    return between(values, first + at.corner, at.dx, at.dy, at.dz, at.x, at.y, at.z)


@step
def share_of(fields, f, channel, at):
    """The value of a channel, 1 where it is the same everywhere."""
    first = fields.first[f, channel]
    return value_at(fields.values, first, at) if first >= 0 else ONE


@step
def _coefficients_at(fields, f, first, at):
    """The three coefficients of a colour; 0 where there is none."""
    if first < 0:
        return ZERO, ZERO, ZERO
    count = fields.shape[f, 0] * fields.shape[f, 1] * fields.shape[f, 2]
    return (
        value_at(fields.values, first, at),
        value_at(fields.values, first + count, at),
        value_at(fields.values, first + 2 * count, at),
    )


@step
def asymmetry_at(fields, f, own, asymmetry):
    """The mean cosine of scattering at a place. asymmetry: where it is the same everywhere."""
    first = fields.first[f, ASYMMETRY]
    return value_at(fields.values, first, lattice_at(fields, f, own)) if first >= 0 else asymmetry


@step
def planck(nm, kelvin):
    """Spectral radiance of a black body, 1 at 560 nm. Source: Planck's law; CODATA 2018."""
    at_560 = exp(min(RADIATION_NM_K / (F(560) * kelvin), F(80))) - ONE
    here = exp(min(RADIATION_NM_K / (nm * kelvin), F(80))) - ONE
    share = F(560) / nm
    return share * share * share * share * share * at_560 / here


class Walk(NamedTuple):
    """A way through cells: in each where it is, when it comes to the next along each axis, and how long it takes through a whole one."""

    place: tuple
    onward: tuple
    next: tuple
    width: tuple


@step
def _axis(place, direction, cells, near, side):
    """(cell, way on, distance to the next cell, distance through one) along one axis. place: in cells."""
    at = min(max(np.int32(floor(place)), 0), cells - 1)
    if direction > F(1e-9):
        return at, 1, near + (F(at + 1) - place) * side / direction, side / direction
    if direction < F(-1e-9):
        return at, -1, near + (F(at) - place) * side / direction, -side / direction
    return at, 0, FAR, FAR


@step
def _begin(fields, f, origin, direction, near):
    """origin, direction: in the axes of the thing."""
    x, y, z = fields.voxel[f, 0] * F(CELL), fields.voxel[f, 1] * F(CELL), fields.voxel[f, 2] * F(CELL)
    a = _axis((origin[0] + direction[0] * near - fields.low[f, 0]) / x, direction[0], fields.cells[f, 0], near, x)
    b = _axis((origin[1] + direction[1] * near - fields.low[f, 1]) / y, direction[1], fields.cells[f, 1], near, y)
    c = _axis((origin[2] + direction[2] * near - fields.low[f, 2]) / z, direction[2], fields.cells[f, 2], near, z)
    return Walk((a[0], b[0], c[0]), (a[1], b[1], c[1]), (a[2], b[2], c[2]), (a[3], b[3], c[3]))


@step
def _leaves_at(walk):
    return min(walk.next[0], walk.next[1], walk.next[2])


@step
def _stepped(place, onward, until, width, cells):
    place += onward
    if place < 0 or place >= cells:
        return place - onward, FAR
    return place, until + width


@step
def _go_on(fields, f, walk):
    """Into the next cell; from the outermost there is none."""
    x, y, z = walk.place
    u, v, w = walk.next
    if u <= v and u <= w:
        x, u = _stepped(x, walk.onward[0], u, walk.width[0], fields.cells[f, 0])
    elif v <= w:
        y, v = _stepped(y, walk.onward[1], v, walk.width[1], fields.cells[f, 1])
    else:
        z, w = _stepped(z, walk.onward[2], w, walk.width[2], fields.cells[f, 2])
    return Walk((x, y, z), walk.onward, (u, v, w), walk.width)


@step
def _cell_of(fields, f, walk):
    x, y, z = walk.place
    return fields.first_cell[f] + (z * fields.cells[f, 1] + y) * fields.cells[f, 0] + x


@step
def _glow(paths, i, fields, f, at, rate):
    """Give a path the light that is sent out at a tentative collision."""
    strength = value_at(fields.values, fields.first[f, GLOW], at) / rate
    if strength <= ZERO:
        return
    kelvin, first = ZERO, fields.first[f, KELVIN]
    if first >= 0:
        kelvin = min(max(value_at(fields.values, first, at), COLDEST_K), HOTTEST_K)
    c0, c1, c2 = _coefficients_at(fields, f, fields.first[f, GLOW_COLOR], at)
    for w in range(paths.lines[i]):
        nm = paths.wavelength[w, i]
        if kelvin > ZERO:
            glow = planck(nm, kelvin)
        else:
            glow = sigmoid(c0, c1, c2, nm) * curve_at(fields.white, nm)
        paths.light[w, i] += paths.weight[w, i] * strength * glow


@step
def _glows(fields, f):
    other = fields.other[f]
    return fields.first[f, GLOW] >= 0 or (other >= 0 and fields.first[other, GLOW] >= 0)


@step
def _is_taken(paths, i, fields, f):
    """Whether the light of a glowing medium is counted for a path: where another lamp takes its place it is but looked at."""
    return _glows(fields, f) and (
        fields.lights[f] != 0 or (paths.pdf[i] == BY_MIRROR and paths.state[i] & SCATTERED == 0)
    )


@step
def _largest(row, i, lines):
    most = row[0, i]
    for w in range(1, lines):
        most = max(most, row[w, i])
    return most


class Here(NamedTuple):
    """What a medium is at a place: its share of the absorption and of the scattering, and whether and how those are coloured."""

    absorbs: np.float32
    tinted: int
    t0: np.float32
    t1: np.float32
    t2: np.float32
    scatters: np.float32
    colored: int
    c0: np.float32
    c1: np.float32
    c2: np.float32


@step
def _here(fields, f, at):
    color, tint = fields.first[f, COLOR], fields.first[f, TINT]
    c0, c1, c2 = _coefficients_at(fields, f, color, at)
    t0, t1, t2 = _coefficients_at(fields, f, tint, at)
    absorbs, scatters = share_of(fields, f, ABSORBS, at), share_of(fields, f, SCATTERS, at)
    return Here(absorbs, 1 if tint >= 0 else 0, t0, t1, t2, scatters, 1 if color >= 0 else 0, c0, c1, c2)


@step
def _absorbed_share(here, nm):
    """The share of the absorption at one wavelength."""
    return here.absorbs * sigma_at_depth(sigmoid(here.t0, here.t1, here.t2, nm), ONE) if here.tinted else here.absorbs


@step
def _scattered_share(here, nm):
    """The share of the scattering at one wavelength."""
    return here.scatters * sigmoid(here.c0, here.c1, here.c2, nm) if here.colored else here.scatters


@step
def scattering_at(media, fields, f, own, nm):
    """Scattering (1/m) at a place and a wavelength."""
    share = _scattered_share(_here(fields, f, lattice_at(fields, f, own)), nm)
    return curve_at(media.sigma_s[fields.matter[f]], nm) * share


@step
def _most_of(media, fields, f, wavelengths, i, lines):
    """See `Most`. wavelengths: (4, n), of which path i has its own."""
    absorbs, scatters, other_absorbs, other_scatters = ZERO, ZERO, ZERO, ZERO
    for w in range(lines):
        m, nm = fields.matter[f], wavelengths[w, i]
        absorbs, scatters = max(absorbs, curve_at(media.sigma[m], nm)), max(scatters, curve_at(media.sigma_s[m], nm))
        if fields.other[f] >= 0:
            m = fields.matter[fields.other[f]]
            other_absorbs = max(other_absorbs, curve_at(media.sigma[m], nm))
            other_scatters = max(other_scatters, curve_at(media.sigma_s[m], nm))
    return Most(absorbs, scatters, other_absorbs, other_scatters)


@step
def _rate_in(fields, f, cell, most, least):
    """The rate of tentative collisions in a cell, 1/m. least: where it glows, at least."""
    rate, glows = most.absorbs * fields.most[cell, 0] + most.scatters * fields.most[cell, 1], fields.most[cell, 2]
    other = fields.other[f]
    if other >= 0:
        cell += fields.first_cell[other] - fields.first_cell[f]
        rate += most.other_absorbs * fields.most[cell, 0] + most.other_scatters * fields.most[cell, 1]
        glows += fields.most[cell, 2]
    return max(rate, least) if glows > ZERO else rate


@step
def _to_collision(fields, f, walk, t, far, depth, most, least):
    """(walk, distance, rate there) of the next tentative collision of a flight that has come to t; a rate of 0 where it comes to its end first.

    depth: the optical depth up to it. least: the rate in cells that glow, at least.
    """
    for _ in range(MOST_CELLS):
        cell, end = _cell_of(fields, f, walk), min(_leaves_at(walk), far)
        rate = _rate_in(fields, f, cell, most, least)
        if rate * (end - t) > depth:
            return walk, t + depth / rate, rate
        depth -= rate * max(end - t, ZERO)
        if end >= far:
            break
        t, walk = max(end, t), _go_on(fields, f, walk)
    return walk, far, ZERO


@step
def _rates(media, fields, f, here, there, nm, sigma_a, sigma_s):
    """(absorption, scattering, scattering by what is mixed with it), 1/m, at a place and a wavelength.

    there: what that other is. sigma_a, sigma_s: what the medium's own are shares of.
    """
    absorbs, scatters = sigma_a * _absorbed_share(here, nm), sigma_s * _scattered_share(here, nm)
    if fields.other[f] < 0:
        return absorbs, scatters, ZERO
    m = fields.matter[fields.other[f]]
    absorbs += curve_at(media.sigma[m], nm) * _absorbed_share(there, nm)
    return absorbs, scatters, curve_at(media.sigma_s[m], nm) * _scattered_share(there, nm)


@step
def _both_at(fields, f, at):
    """What a medium is at a place, and what the other is that is mixed with it; the same once more where there is none."""
    here = _here(fields, f, at)
    return here, _here(fields, fields.other[f], at) if fields.other[f] >= 0 else here


@step
def _collide(media, paths, i, fields, f, at, rate, u):
    """Weigh a path at a tentative collision: FLEW, WAS_SCATTERED or WAS_SCATTERED_BY_OTHER."""
    here, there = _both_at(fields, f, at)
    scattered, by_other, passed = ZERO, ZERO, ZERO
    for w in range(paths.lines[i]):
        own = paths.sigma_a[w, i], paths.sigma_s[w, i]
        absorbs, scatters, other = _rates(media, fields, f, here, there, paths.wavelength[w, i], own[0], own[1])
        scattered += paths.weight[w, i] * scatters
        by_other += paths.weight[w, i] * other
        passed += paths.weight[w, i] * max(rate - absorbs - scatters - other, ZERO)
    total, what, chance = scattered + by_other + passed, FLEW, passed
    if u * total < scattered:
        what, chance = WAS_SCATTERED, scattered
    elif u * total < scattered + by_other:
        what, chance = WAS_SCATTERED_BY_OTHER, by_other
    chance = chance / total if total > ZERO else ONE
    for w in range(paths.lines[i]):
        own = paths.sigma_a[w, i], paths.sigma_s[w, i]
        absorbs, scatters, other = _rates(media, fields, f, here, there, paths.wavelength[w, i], own[0], own[1])
        value = max(rate - absorbs - scatters - other, ZERO)
        if what != FLEW:
            value = scatters if what == WAS_SCATTERED else other
        paths.weight[w, i] *= value / (rate * chance)
    return what


@step
def _gather_glow(paths, i, fields, f, at, rate):
    if fields.first[f, GLOW] >= 0:
        _glow(paths, i, fields, f, at, rate)
    other = fields.other[f]
    if other >= 0 and fields.first[other, GLOW] >= 0:
        _glow(paths, i, fields, other, at, rate)


@step
def fly(paths, i, things, media, fields, j, f, near, far, depth, state):
    """Have a path fly through the medium of thing j from `near` to `far` (m). depth: the optical depth to its first tentative collision.

    Returns (state of the random numbers, how the flight ended, how far it came).
    """
    origin = to_own(things, j, sub(vec3(paths.origin, i), offset_of(things, j)))
    direction = to_own(things, j, vec3(paths.direction, i))
    walk, t = _begin(fields, f, origin, direction, near), near
    most = _most_of(media, fields, f, paths.wavelength, i, paths.lines[i])
    glows, least = _is_taken(paths, i, fields, f), ZERO
    if glows:
        least = GLOW_STEPS / (F(CELL) * min(fields.voxel[f, 0], fields.voxel[f, 1], fields.voxel[f, 2]))
    for _ in range(MOST_COLLISIONS):
        walk, t, rate = _to_collision(fields, f, walk, t, far, depth, most, least)
        if rate <= ZERO:
            return state, FLEW, far
        at = lattice_at(fields, f, add(origin, scale(direction, t)))
        if glows:
            _gather_glow(paths, i, fields, f, at, rate)
        state, u = next_random(state)
        what = _collide(media, paths, i, fields, f, at, rate, u)
        if what != FLEW:
            return state, what, t
        if _largest(paths.weight, i, paths.lines[i]) <= ZERO:
            break
        state, u = next_random(state)
        depth = -log(ONE - u)
    return state, IS_LOST, t


@step
def pass_straight(scene, rows, column, wavelengths, i, lines, j, f, origin, direction, far, state):
    """Weaken light (rows[w, column]) by what it meets straight on through the medium of thing j, by ratio tracking. origin, direction: of the stage.

    wavelengths: (4, n), of which path i has its own. Returns the state of the random numbers.
    """
    things, media, fields, m = scene.geometry.things, scene.media, scene.fields, scene.fields.matter[f]
    origin = to_own(things, j, sub(origin, offset_of(things, j)))
    direction = to_own(things, j, direction)
    walk, t = _begin(fields, f, origin, direction, ZERO), ZERO
    most = _most_of(media, fields, f, wavelengths, i, lines)
    for _ in range(MOST_COLLISIONS):
        state, u = next_random(state)
        walk, t, rate = _to_collision(fields, f, walk, t, far, -log(ONE - u), most, ZERO)
        if rate <= ZERO:
            return state
        here, there = _both_at(fields, f, lattice_at(fields, f, add(origin, scale(direction, t))))
        for w in range(lines):
            nm = wavelengths[w, i]
            own = curve_at(media.sigma[m], nm), curve_at(media.sigma_s[m], nm)
            absorbs, scatters, other = _rates(media, fields, f, here, there, nm, own[0], own[1])
            rows[w, column] *= max(ONE - (absorbs + scatters + other) / rate, ZERO)
        if _largest(rows, column, lines) <= NOTHING_LEFT:
            break
    for w in range(lines):
        rows[w, column] = ZERO
    return state
