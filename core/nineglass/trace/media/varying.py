"""Media that are not the same everywhere, as banks of fog, smoke, flames: what they do lies on voxels, and light goes from one tentative
collision to the next. How often those come is bounded in every cell of 8 x 8 x 8 voxels, so that a wrong bound is impossible.

All wavelengths of a path share the bound, so that what is drawn is alike for all of them; what a path carries never grows. Sources: Woodcock
et al. 1965; Kutz, Habel, Li & Novak 2017, Spectral and Decomposition Tracking; Novak et al. 2014, Residual Ratio Tracking; Miller, Georgiev
& Jarosz 2019, A Null-Scattering Path Integral Formulation.
"""

from math import exp, floor, log
from typing import NamedTuple

import numpy as np

from nineglass.kernels import FAR, ONE, ZERO, F, step
from nineglass.lattice import along, between
from nineglass.spectra.blackbody import SECOND_RADIATION_CONSTANT_NM_K
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.geometry.surface import offset_of, to_own
from nineglass.trace.paths import BY_MIRROR, SCATTERED
from nineglass.trace.random import next_random
from nineglass.vectors import add, scale, sub, vec3

CELL = 8
"""Voxels along the side of a cell."""

ABSORBS, SCATTERS, COLOR, ASYMMETRY, KELVIN, GLOW, GLOW_COLOR = range(7)
CHANNELS = GLOW_COLOR + 1
"""What may lie on voxels: shares of the absorption and of the scattering of the medium; three coefficients of what is scattered; the mean
cosine; K; radiance per m of the light that is sent out; and three coefficients of its colour."""

GLOW_STEPS = F(4)
"""Tentative collisions for the width of a cell that glows, at least: its light is gathered at them."""

COLDEST_K, HOTTEST_K = F(300), F(40000)
RADIATION_NM_K = F(SECOND_RADIATION_CONSTANT_NM_K)
MOST_COLLISIONS, MOST_CELLS = 16384, 4096
NOTHING_LEFT = F(1e-6)
"""Of light on its way straight through: less is none."""

FLEW, WAS_SCATTERED, IS_LOST = 0, 1, 2
"""How a flight ends: at its far end; at a scattering; nowhere, for nothing is left."""


class Fields(NamedTuple):
    """One row for each thing whose medium is not the same everywhere."""

    of: np.ndarray  # (k,) int32: the row of each thing, or -1
    low: np.ndarray  # (f, 3) float32, m: the lowest corner in the axes of the thing
    voxel: np.ndarray  # (f, 3) float32, m
    shape: np.ndarray  # (f, 3) int32: voxels along x, y, z
    first: np.ndarray  # (f, 7) int32: where each channel begins among the values, or -1
    values: np.ndarray  # (n,) float32: x runs fastest
    cells: np.ndarray  # (f, 3) int32
    first_cell: np.ndarray  # (f,) int32
    most: (
        np.ndarray
    )  # (c, 3) float32: the largest share of absorption and of scattering in and around a cell, and whether it glows
    lights: np.ndarray  # (f,) int32: whether it lights what is around it, or is but seen
    near: np.ndarray  # (f,) int32: whether a lamp stands in it or close by
    white: np.ndarray  # (401,) float32: what the colour of a glow filters, of luminance 1


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
def _is_taken(paths, i, fields, f):
    """Whether the light of a glowing medium is counted for a path: where another lamp takes its place it is but looked at."""
    return fields.first[f, GLOW] >= 0 and (
        fields.lights[f] != 0 or (paths.pdf[i] == BY_MIRROR and paths.state[i] & SCATTERED == 0)
    )


@step
def _largest(row, i, lines):
    most = row[0, i]
    for w in range(1, lines):
        most = max(most, row[w, i])
    return most


class Here(NamedTuple):
    """What a medium is at a place: its share of the absorption and of the scattering, and whether and how that is coloured."""

    absorbs: np.float32
    scatters: np.float32
    colored: int
    c0: np.float32
    c1: np.float32
    c2: np.float32


@step
def _here(fields, f, at):
    first = fields.first[f, COLOR]
    c0, c1, c2 = _coefficients_at(fields, f, first, at)
    return Here(share_of(fields, f, ABSORBS, at), share_of(fields, f, SCATTERS, at), 1 if first >= 0 else 0, c0, c1, c2)


@step
def _scattered_share(here, nm):
    """The share of the scattering at one wavelength."""
    return here.scatters * sigmoid(here.c0, here.c1, here.c2, nm) if here.colored else here.scatters


@step
def scattering_at(fields, f, own, nm, sigma_s):
    """Scattering (1/m) at a place and a wavelength. sigma_s: what it is a share of."""
    return sigma_s * _scattered_share(_here(fields, f, lattice_at(fields, f, own)), nm)


@step
def _rates(paths, i, w, here, rate):
    """(rate of scatterings, of collisions that change nothing) of a path at one of its wavelengths, 1/m. rate: of all collisions."""
    scatters = paths.sigma_s[w, i] * _scattered_share(here, paths.wavelength[w, i])
    return scatters, max(rate - scatters - paths.sigma_a[w, i] * here.absorbs, ZERO)


@step
def _collide(paths, i, here, rate, u):
    """Weigh a path at a tentative collision. Whether it is scattered there."""
    scattered, passed = ZERO, ZERO
    for w in range(paths.lines[i]):
        scatters, passes = _rates(paths, i, w, here, rate)
        scattered += paths.weight[w, i] * scatters
        passed += paths.weight[w, i] * passes
    both = scattered + passed
    is_scattered = u * both < scattered
    chance = (scattered if is_scattered else passed) / both if both > ZERO else ONE
    for w in range(paths.lines[i]):
        scatters, passes = _rates(paths, i, w, here, rate)
        paths.weight[w, i] *= (scatters if is_scattered else passes) / (rate * chance)
    return is_scattered


@step
def _to_collision(fields, f, walk, t, far, depth, absorbs, scatters, least):
    """(walk, distance, rate there) of the next tentative collision of a flight that has come to t; a rate of 0 where it comes to its end first.

    depth: the optical depth up to it. absorbs, scatters: the most of any wavelength, 1/m. least: the rate in cells that glow, at least.
    """
    for _ in range(MOST_CELLS):
        cell, end = _cell_of(fields, f, walk), min(_leaves_at(walk), far)
        rate = absorbs * fields.most[cell, 0] + scatters * fields.most[cell, 1]
        if fields.most[cell, 2] > ZERO:
            rate = max(rate, least)
        if rate * (end - t) > depth:
            return walk, t + depth / rate, rate
        depth -= rate * max(end - t, ZERO)
        if end >= far:
            break
        t, walk = max(end, t), _go_on(fields, f, walk)
    return walk, far, ZERO


@step
def fly(paths, i, things, fields, j, f, near, far, depth, state):
    """Have a path fly through the medium of thing j from `near` to `far` (m). depth: the optical depth to its first tentative collision.

    Returns (state of the random numbers, how the flight ended, how far it came).
    """
    origin = to_own(things, j, sub(vec3(paths.origin, i), offset_of(things, j)))
    direction = to_own(things, j, vec3(paths.direction, i))
    walk, t = _begin(fields, f, origin, direction, near), near
    absorbs, scatters = _largest(paths.sigma_a, i, paths.lines[i]), _largest(paths.sigma_s, i, paths.lines[i])
    glows, least = _is_taken(paths, i, fields, f), ZERO
    if glows:
        least = GLOW_STEPS / (F(CELL) * min(fields.voxel[f, 0], fields.voxel[f, 1], fields.voxel[f, 2]))
    for _ in range(MOST_COLLISIONS):
        walk, t, rate = _to_collision(fields, f, walk, t, far, depth, absorbs, scatters, least)
        if rate <= ZERO:
            return state, FLEW, far
        at = lattice_at(fields, f, add(origin, scale(direction, t)))
        if glows:
            _glow(paths, i, fields, f, at, rate)
        state, u = next_random(state)
        if _collide(paths, i, _here(fields, f, at), rate, u):
            return state, WAS_SCATTERED, t
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
    things, media, fields = scene.geometry.things, scene.media, scene.fields
    m = things.matter[j]
    origin = to_own(things, j, sub(origin, offset_of(things, j)))
    direction = to_own(things, j, direction)
    walk, t = _begin(fields, f, origin, direction, ZERO), ZERO
    absorbs, scatters = ZERO, ZERO
    for w in range(lines):
        absorbs = max(absorbs, curve_at(media.sigma[m], wavelengths[w, i]))
        scatters = max(scatters, curve_at(media.sigma_s[m], wavelengths[w, i]))
    for _ in range(MOST_COLLISIONS):
        state, u = next_random(state)
        walk, t, rate = _to_collision(fields, f, walk, t, far, -log(ONE - u), absorbs, scatters, ZERO)
        if rate <= ZERO:
            return state
        here = _here(fields, f, lattice_at(fields, f, add(origin, scale(direction, t))))
        for w in range(lines):
            nm = wavelengths[w, i]
            taken = curve_at(media.sigma[m], nm) * here.absorbs
            taken += curve_at(media.sigma_s[m], nm) * _scattered_share(here, nm)
            rows[w, column] *= max(ONE - taken / rate, ZERO)
        if _largest(rows, column, lines) <= NOTHING_LEFT:
            break
    for w in range(lines):
        rows[w, column] = ZERO
    return state
