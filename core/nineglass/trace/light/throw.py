"""Light thrown from lamps: through clear matter and off polished metal onto what is matt, and from there straight to the lens.

A path is counted this way, and not where the camera finds it by chance, when it sets out from a lamp (or a bright place of a lighting
picture), meets a surface of matter that throws light, goes on over such matter alone, comes to something matt, and is seen there by the
camera directly. Both ways go by the same rules (`FROM_MATT`, `BENT`, `is_thrown`), so that no light is counted twice and none is lost.
Sources: Arvo 1986, Backward Ray Tracing; Veach 1997, 5.3 (normals that are not those of the surface) and 10.
"""

from math import cos, exp, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.at_hand import remembered
from nineglass.kernels import HALF, ONE, PI, QUARTER, TWO, ZERO, F, kernel, step
from nineglass.lamps.light import POINT, SUN
from nineglass.trace.generate import draw_wavelengths
from nineglass.trace.geometry.standing import BY_REFLECTIONS, Standing, mesh_of
from nineglass.trace.geometry.surface import surface_at
from nineglass.trace.light.ask import LIGHT, SURROUND, glow_at, offer
from nineglass.trace.light.lamps import lamp_worth, outline_pdf, point_on
from nineglass.trace.light.surround import NO_BRIGHT, Around, bright_part, direction_pdf, draw_direction, place_in
from nineglass.trace.media.clear import read_medium
from nineglass.trace.media.start import media_at
from nineglass.trace.paths import (
    ACTIVE,
    AIMED,
    AIR,
    BENT,
    BY_MIRROR,
    FREE,
    FROM_MATT,
    LEVELS,
    MOST_MATT,
    ONE_MATT,
    SHADOWS,
    THROWN,
    THROWS,
    THROWS_ODD,
    WHOLE,
)
from nineglass.trace.random import is_odd, pair, single
from nineglass.vectors import add, dot, negate, put3, scale, sub, triple, unit

ONE_IN = 8
"""One path is thrown for so many samples of the camera."""

STREAMS = 1 << 30
"""Numbers of pixels from here on are keys of thrown paths: 1 for each 4096 pixels, whose samples they are spread over."""

WAVELENGTHS, TRIANGLE, PLACE, WHICH, POINT_ON, DRAWS = range(6)
"""Dimensions of the random numbers that a thrown path draws."""

FINE = 200_000
"""Triangles from which all of a mesh are aimed at alike: to look at each would hold up the dragging of a lamp."""

LEAST_FACING = 0.02
"""Triangles that face no lamp, or that other ones may hide from it, are aimed at with this share."""

SHARPEST = F(8)
"""The most that a smooth normal may weigh thrown light up."""


class Throwing(NamedTuple):
    """What light is thrown at, and from where. One row for each triangle of matter that throws it."""

    on: int
    thing: np.ndarray  # (c,) int32: things that throw light
    first: np.ndarray  # (c + 1,) int32: where their triangles begin
    shares: np.ndarray  # (t + 1,) float64, rising: the chance of the triangles before each
    density: np.ndarray  # (t,) float32, 1/m2: chance of each triangle over its area
    lamps: np.ndarray  # (l,) int32: of each lamp, whether its light is thrown
    levels: np.ndarray  # (l,) int32: how many media it stands in
    within: np.ndarray  # (l, 8) int32: those
    medium: np.ndarray  # (l,) int32: that of them that is there
    bright: Around  # the bright part of the surround
    reach: np.float32  # m: how far from the middle far light sets out
    power: np.float32  # about the radiance times area that is thrown: paths carry this as 1


def throwing_of(standing: Standing, rows, media, things, lamps, light: Around, wanted: bool, spectra) -> Throwing:
    """rows: of each thing the row of its material. spectra: (l, 401) radiance of the lamps."""
    casting = [k for k, row in enumerate(rows) if media.throws[row] and things.seen[k] & BY_REFLECTIONS]
    lamp_on = ((lamps.shape == POINT) | (lamps.seen & BY_REFLECTIONS != 0)) & (lamps.clear == 0) & (lamps.strength > 0)
    bright = bright_part(light) if wanted and casting else NO_BRIGHT
    wanted = wanted and bool(casting) and (bool(lamp_on.any()) or bright.worth > 0)
    weights, areas = [np.zeros(0)], [np.zeros(0)]
    for k in casting if wanted else ():
        weight, area = _aimed_at(standing.placed[k], lamps, lamp_on, bright, int(things.bit[k]))
        weights.append(weight * area)
        areas.append(area)
    weight, area = np.concatenate(weights), np.concatenate(areas)
    total = float(weight.sum())
    wanted = wanted and total > 0
    media_there = [_media_at(standing, lamps, k) if wanted else [] for k in range(len(lamp_on))]
    within = np.zeros((len(lamp_on), LEVELS), np.int32)
    for k, found in enumerate(media_there):
        within[k, : len(found)] = found
    medium = [max(found, key=lambda j: things.priority[j], default=AIR) for found in media_there]
    if not wanted:
        weight, area = np.zeros(0), np.zeros(0)
    share = weight / max(total, 1e-30)
    return Throwing(
        on=int(wanted),
        thing=np.array(casting if wanted else [], np.int32),
        first=np.cumsum([len(one) for one in weights]).astype(np.int32) if wanted else np.zeros(1, np.int32),
        shares=np.concatenate([[0], np.cumsum(share)]),
        density=(share / np.maximum(area, 1e-20)).astype(np.float32),
        lamps=lamp_on.astype(np.int32),
        levels=np.array([len(found) for found in media_there], np.int32),
        within=within,
        medium=np.array(medium, np.int32),
        bright=bright,
        reach=np.float32(4 * standing.size + 1),
        power=np.float32(_power(total, lamps, lamp_on, spectra)),
    )


def _power(total: float, lamps, lamp_on: np.ndarray, spectra: np.ndarray) -> float:
    """About what one thrown path carries at one wavelength."""
    known = [spectra[k].mean() / lamps.strength[k] for k in np.flatnonzero(lamp_on)]
    return max(total * float(np.mean(known) if known else 1.0), 1e-20)


def _media_at(standing: Standing, lamps, k: int) -> list[int]:
    return [] if lamps.shape[k] == SUN else media_at(standing, lamps.centre[k].astype(float))


@remembered
def _faces(key: tuple[str, str, str]) -> tuple[np.ndarray, np.ndarray | None, np.ndarray | None]:
    """(areas (t,) in m2, unit normals (t, 3), middles (t, 3)) of a mesh in its own axes; of a fine one the areas alone."""
    mesh = mesh_of(*key)
    a, b, c = (mesh.vertices[mesh.faces[:, k]] for k in range(3))
    across = np.cross(b - a, c - a)
    doubled = np.linalg.norm(across, axis=1)
    area = doubled.astype(float) / 2
    if len(area) > FINE:
        return area, None, None
    return area, across / np.maximum(doubled, 1e-30)[:, None], (a + b + c) / 3


def _aimed_at(placed, lamps, lamp_on: np.ndarray, bright: Around, bit: int) -> tuple[np.ndarray, np.ndarray]:
    """(about the luminous irradiance of each triangle of a thing, their areas in m2)."""
    area, normal, middle = _faces(placed.key)
    if normal is None:
        lit = bright.worth > 0 or (lamp_on & (lamps.lights & bit != 0)).any()
        return np.full(len(area), float(lit)), area
    normal, place = normal @ placed.axes.T, middle @ placed.axes.T + placed.offset
    weight = np.full(len(place), float(bright.worth) / 4)
    for k in np.flatnonzero(lamp_on):
        if lamps.lights[k] & bit == 0:
            continue
        far = lamps.shape[k] == SUN
        way = lamps.centre[k].astype(float) - (0 if far else place)
        square = (way**2).sum(axis=-1)
        facing = (normal * way).sum(axis=1) / np.sqrt(np.maximum(square, 1e-20))
        solid = np.pi * float(lamps.spread[k]) ** 2 if far else _size_m2(lamps, k) / np.maximum(square, 1e-8)
        weight += float(lamps.strength[k]) * solid * np.maximum(facing, LEAST_FACING)
    return weight, area


def _size_m2(lamps, k: int) -> float:
    """About the area that a lamp shows, in m2; 1 for one without size."""
    if lamps.shape[k] == POINT:
        return 1.0
    if lamps.spread[k] > 0:
        return float(np.pi * lamps.spread[k] ** 2)
    return float(4 * np.linalg.norm(np.cross(lamps.across[k], lamps.up[k])))


@step
def is_thrown(scene, lamp, way):
    """Whether the light of a lamp (or of the surround along a way) is thrown, where matter throws it."""
    throwing = scene.throwing
    if not throwing.on or lamp >= throwing.lamps.size:
        return False
    if lamp >= 0:
        return throwing.lamps[lamp] != 0
    return throwing.bright.worth > ZERO and direction_pdf(throwing.bright, way) > ZERO


@step
def mark_bent(paths, i, throws):
    """Note that a path was mirrored or bent. throws: whether the matter there throws light."""
    if paths.state[i] & (FROM_MATT | THROWN):
        if throws:
            paths.state[i] |= BENT
        else:
            paths.state[i] &= ~FROM_MATT


@step
def mark_matt(paths, i):
    """Note that a path of the camera met something matt. Before its bounce is counted."""
    if paths.bounce[i] == 0:
        paths.state[i] |= FROM_MATT
    else:
        paths.state[i] &= ~FROM_MATT
    if paths.state[i] // ONE_MATT & MOST_MATT < MOST_MATT:
        paths.state[i] += ONE_MATT


@step
def adjoint(back, onward, normal, flat):
    """What light on its way from a lamp is weighed by at a surface whose normal is not its own. Source: Veach 1997, 5.3.2.

    back: where the light comes from; onward: where it goes.
    """
    own = abs(dot(back, flat) * dot(onward, normal))
    return min(abs(dot(back, normal) * dot(onward, flat)) / max(own, F(1e-5)), SHARPEST)


@step
def weigh_thrown(paths, i, back, onward, normal, flat):
    """Weigh a thrown path by `adjoint`; others are let be."""
    if paths.state[i] & THROWN:
        weight = adjoint(back, onward, normal, flat)
        for w in range(paths.lines[i]):
            paths.weight[w, i] *= weight


@step
def _which(scene, place, bit, u):
    """(lamp that is thrown from, or SURROUND; the chance of it) for a place that is aimed at; a chance of 0 for none."""
    throwing, total, chosen, own = scene.throwing, ZERO, SURROUND, ZERO
    count = throwing.lamps.size
    for k in range(count + 1):
        worth = throwing.bright.worth
        if k < count:
            there = throwing.lamps[k] and scene.lamps.lights[k] & bit != 0
            worth = lamp_worth(scene.lamps, k, place) if there else ZERO
        if worth <= ZERO:
            continue
        total, taken, u = offer(worth, total, u)
        if taken:
            chosen, own = k if k < count else SURROUND, worth
    return chosen, own / max(total, F(1e-30))


@step
def _toward_light(scene, place, lamp, a, b):
    """(unit direction to a point drawn on a lamp, how far away thrown light sets out, density per solid angle)."""
    if lamp == SURROUND:
        way = draw_direction(scene.throwing.bright, a, b)
        return way, scene.throwing.reach, direction_pdf(scene.throwing.bright, way)
    way, distance = point_on(scene.lamps, lamp, place, a, b)
    density = outline_pdf(scene.lamps, lamp, place, way, max(distance, F(1e-9)))
    return way, min(distance, scene.throwing.reach) if scene.lamps.shape[lamp] == SUN else distance, density


@step
def _begin(batch, scene, sensor, i, pixel, sample, seed):
    """Have column i set out from a lamp towards what throws its light."""
    paths, throwing = batch.paths, scene.throwing
    t = place_in(throwing.shares, single(seed, pixel, sample, TRIANGLE))
    c = 0
    while throwing.first[c + 1] <= t:
        c += 1
    j = throwing.thing[c]
    a, b = pair(seed, pixel, sample, PLACE)
    root = sqrt(a)
    there = surface_at(scene.geometry, j, t - throwing.first[c], root * (ONE - b), root * b)
    lamp, chance = _which(scene, there.place, scene.geometry.things.bit[j], single(seed, pixel, sample, WHICH))
    a, b = pair(seed, pixel, sample, POINT_ON)
    way, distance, density = (ZERO, ONE, ZERO), ZERO, ONE
    if chance > ZERO:
        way, distance, density = _toward_light(scene, there.place, lamp, a, b)
    paths.levels[i], paths.medium[i] = 0, AIR
    if lamp >= 0:
        paths.levels[i], paths.medium[i] = throwing.levels[lamp], throwing.medium[lamp]
        for level in range(paths.levels[i]):
            paths.within[level, i] = throwing.within[lamp, level]
    draw_wavelengths(sensor, single(seed, pixel, sample, WAVELENGTHS), paths.wavelength, paths.per_density, i)
    paths.lines[i] = 4
    cosine = abs(dot(way, there.flat))
    share = ZERO
    if distance > ZERO and density > ZERO:
        share = cosine / (throwing.density[t] * density * chance * throwing.power)
    glow = glow_at(scene, paths, i, LIGHT, lamp, way)
    for w in range(4):
        paths.weight[w, i], paths.light[w, i] = glow[w] * share, ZERO
    read_medium(paths, i, scene.geometry.things, scene.media)
    put3(paths.origin, i, add(there.place, scale(way, distance)))
    put3(paths.direction, i, negate(way))
    paths.place[0, i], paths.place[1, i] = distance, ZERO


@kernel
def throw(batch, scene, sensor, seed, first_pixel, pixels, first_sample, done, count):
    """Start what is thrown with some samples of a job, as `generate` counts them."""
    paths, counts = batch.paths, batch.counts
    for k in range(count):
        pixel = first_pixel + (done + k) % pixels
        sample = first_sample + (done + k) // pixels
        if (pixel + sample) % ONE_IN != 0:
            continue
        counts[FREE] -= 1
        i = batch.free[counts[FREE]]
        stream = STREAMS + pixel // 4096
        index = sample * (4096 // ONE_IN) + pixel % 4096 // ONE_IN
        _begin(batch, scene, sensor, i, stream, index, seed)
        paths.pdf[i], paths.length[i] = BY_MIRROR, ZERO
        paths.pixel[i], paths.sample[i], paths.dimension[i] = stream, index, DRAWS
        paths.bounce[i] = 1
        paths.state[i] = THROWN | AIMED
        paths.bit[i], paths.parts[i], paths.fan[i] = 0, 1, 0
        batch.active[counts[ACTIVE]] = i
        counts[ACTIVE] += 1
        counts[WHOLE] += 1
        counts[THROWS] += 1
        counts[THROWS_ODD] += 1 if is_odd(index) else 0


@step
def toward_lens(scene, paths, i, start, seed, dimension):
    """From something matt that thrown light came to: (unit direction to a point drawn on the lens, distance, share), and notes in
    `Paths.place` where on the picture that is seen; a distance of 0 where it is not.

    share: what radiance there times cosine is weighed by, over the pixels of a picture of 1 by 1.
    """
    lens, state = scene.lens, paths.state[i]
    up = (ZERO, ONE, ZERO)
    if state & BENT == 0:
        return up, ZERO, ZERO
    right, rise, ahead = triple(lens.right), triple(lens.up), triple(lens.forward)
    shift = (ZERO, ZERO, ZERO)
    if lens.radius > ZERO:
        a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension)
        r, phi = lens.radius * sqrt(a), TWO * PI * b
        shift = add(scale(unit(right), r * F(cos(phi))), scale(unit(rise), r * F(sin(phi))))
    away = sub(start, add(triple(lens.eye), shift))
    depth = dot(away, ahead)
    if depth <= F(1e-6):
        return up, ZERO, ZERO
    seen = add(shift, scale(away, lens.focus / depth))
    wide, high = dot(right, right), dot(rise, rise)
    x = dot(seen, right) / (lens.focus * wide) - lens.aside
    y = dot(seen, rise) / (lens.focus * high) - lens.raised
    if abs(x) > F(1.2) or abs(y) > F(1.2):
        return up, ZERO, ZERO
    paths.place[0, i], paths.place[1, i] = HALF + HALF * x, HALF - HALF * y
    square = dot(away, away)
    distance = sqrt(square)
    cosine = depth / distance
    share = scene.throwing.power * QUARTER / (sqrt(wide * high) * cosine * cosine * cosine * square)
    return scale(away, -ONE / distance), distance, share


@step
def queue_lens(batch, scene, i, start, way, distance, sent):
    """Queue thrown light towards the lens; sent: responses times cosine at four wavelengths and the share of the lens."""
    paths, shadows = batch.paths, batch.shadows
    slot = batch.counts[SHADOWS]
    batch.counts[SHADOWS] += 1
    put3(shadows.origin, slot, start)
    put3(shadows.direction, slot, way)
    shadows.far[slot], shadows.path[slot], shadows.medium[slot] = distance, i, paths.medium[i]
    for w in range(4):
        shadows.light[w, slot] = ZERO
    # What media without a boundary take is taken where the way is looked at (`rays.lit_through`).
    medium = paths.medium[i]
    within = ZERO if medium == AIR or scene.media.open[scene.geometry.things.matter[medium]] else distance
    for w in range(paths.lines[i]):
        left = paths.weight[w, i] * F(exp(-(paths.sigma_a[w, i] + paths.sigma_s[w, i]) * within))
        shadows.light[w, slot] = left * sent[w]
