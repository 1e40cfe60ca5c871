"""The boundary between clear media: polished or rough, reflection and transmission, with or without dispersion.

Where the index changes over wavelength a path of four wavelengths parts at a polished boundary into one path each, with
the same random numbers, so that what noise there is stays grey. At a rough one the four stay together, each weighed by the
mean of all four densities (single-sample MIS). Sources: Wilkie et al. 2014, Hero Wavelength Spectral Sampling; Veach 1997.
"""

from typing import NamedTuple

import numpy as np

from nineglass.kernels import HALF, INV_PI, ONE, QUARTER, ZERO, F, kernel, step
from nineglass.optics.dielectric import dielectric_reflectance, share_let_out
from nineglass.optics.diffuse import even_direction
from nineglass.optics.energy import energy_tables, rough_boundary, rough_dielectric, sample_rough_dielectric
from nineglass.optics.microfacet import SAME_INDEX, SMOOTHEST, alpha_of
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import color_spectrum
from nineglass.trace.families.facing import driven_normal, normal_registers
from nineglass.trace.families.sanded import is_sanded
from nineglass.trace.light.ask import ASK_DRAWS, LIGHT, REFLECTIONS, ask, queue_shadow
from nineglass.trace.light.throw import is_thrown, mark_bent, weigh_thrown
from nineglass.trace.media.clear import alone, held, index_at, parts_light, show_fan, take_up
from nineglass.trace.media.nesting import cross_surface, media_around
from nineglass.trace.paths import ACTIVE, AIR, BY_MIRROR, FREE, FROM_MATT, SCATTERED, THROWN, TURNED, WALKED, WHOLE
from nineglass.trace.random import pair, single
from nineglass.vectors import add, dot, frame, negate, put3, reflect, refract, scale, to_local, to_world, unit, vec3

EVEN = F(0.4)

POLISHED_TO = F(0.3)
"""Roughness (alpha) up to which light that was scattered within leaves as from a matt surface (`_leave_matt`)."""

CHOICE, DIRECTION, HERO, ASKING = range(4)
DRAWS = ASKING + ASK_DRAWS
"""Random numbers that a path draws at a boundary."""


class Rows(NamedTuple):
    """One row a material; registers are -1 where there are none."""

    roughness: np.ndarray  # (m,) int32: register
    normal: np.ndarray  # (m, 3) int32: registers
    tinted: np.ndarray  # (m,) int32: whether what passes is tinted
    mirror_tinted: np.ndarray  # (m,) int32: whether what is mirrored from outside is
    mirrored: np.ndarray  # (m, 401) float32
    albedo: np.ndarray
    mean_missing: np.ndarray


REGISTERS = ("roughness", "normal")
"""Rows that name registers."""

CLEAR = {"interface", "interior", "subsurface", "glow"}


def takes(leaf) -> bool:
    """Stacks of clear matter and its boundary alone, that is rugged alike in all directions."""
    return set(leaf.order) <= CLEAR and not is_sanded(leaf)


def tables(wanted: bool) -> dict:
    """What all rows share."""
    albedo, mean_missing = energy_tables()
    return {"albedo": albedo, "mean_missing": mean_missing}


def row(side) -> dict:
    """The row of one stack. side: `matter.Side`."""
    interface = side.settled("interface")
    [roughness] = side.registers.of(side.leaf, "interface", "specular_roughness")
    return {
        "roughness": roughness,
        "normal": normal_registers(side, "interface"),
        "tinted": int(min(interface["tint"]) < 0.9995),
        "mirror_tinted": int(min(interface["specular_color"]) < 0.9995),
        "mirrored": color_spectrum(interface["specular_color"]),
    }


def scratch() -> int:
    """What a thread needs for `shade`: nothing."""
    return 0


@step
def _ratio(things, media, before, after, j, row, nm, registers, column):
    """Index beyond over index before at one wavelength."""
    beyond = index_at(things, media, after, j, row, nm, registers, column)
    return beyond / index_at(things, media, before, j, row, nm, registers, column)


@step
def _ratios(scene, paths, i, before, after, j, row, registers, column):
    """(index beyond over index before at the four wavelengths, whether they are all alike)."""
    things, media, n = scene.geometry.things, scene.media, paths.wavelength
    a = _ratio(things, media, before, after, j, row, n[0, i], registers, column)
    if paths.lines[i] == 1 or not (parts_light(scene, before) or parts_light(scene, after)):
        return (a, a, a, a), True
    b = _ratio(things, media, before, after, j, row, n[1, i], registers, column)
    c = _ratio(things, media, before, after, j, row, n[2, i], registers, column)
    d = _ratio(things, media, before, after, j, row, n[3, i], registers, column)
    return (a, b, c, d), False


@step
def _mirrored_chance(reflectance, first):
    """The first boundary of a path is mirrored more often than it reflects, with less weight: highlights settle sooner."""
    if first and reflectance < ONE:
        return HALF * (reflectance + EVEN)
    return reflectance


@step
def _bend(wo, normal, eta, choice, first):
    """Mirror or refract at a polished boundary: (direction, whether it passed, weight)."""
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    reflectance, cos_t = dielectric_reflectance(cos_i, eta)
    chance = _mirrored_chance(reflectance, first)
    if choice < chance:
        return reflect(wo, normal), False, reflectance / chance
    return unit(refract(wo, normal, eta, cos_i, cos_t)), True, (ONE - reflectance) / (ONE - chance)


@step
def _four_reflectances(cos_i, etas):
    a, _ = dielectric_reflectance(cos_i, etas[0])
    b, _ = dielectric_reflectance(cos_i, etas[1])
    c, _ = dielectric_reflectance(cos_i, etas[2])
    d, _ = dielectric_reflectance(cos_i, etas[3])
    return a, b, c, d


@step
def _weigh(paths, i, weight):
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= weight


@step
def _copy(paths, i, k):
    """Column k becomes the same path as column i, without its light."""
    for axis in range(3):
        paths.origin[axis, k], paths.direction[axis, k] = paths.origin[axis, i], paths.direction[axis, i]
    for w in range(4):
        paths.weight[w, k], paths.light[w, k] = paths.weight[w, i], ZERO
        paths.wavelength[w, k], paths.per_density[w, k] = paths.wavelength[w, i], paths.per_density[w, i]
        paths.sigma_a[w, k], paths.sigma_s[w, k] = paths.sigma_a[w, i], paths.sigma_s[w, i]
    paths.asymmetry[k] = paths.asymmetry[i]
    paths.pdf[k], paths.length[k] = paths.pdf[i], ZERO
    paths.pixel[k], paths.sample[k], paths.bounce[k] = paths.pixel[i], paths.sample[i], paths.bounce[i]
    paths.dimension[k] = paths.dimension[i]
    paths.state[k], paths.levels[k], paths.medium[k] = paths.state[i], paths.levels[i], paths.medium[i]
    for level in range(paths.levels[i]):
        paths.within[level, k] = paths.within[level, i]
    paths.bit[k], paths.fan[k] = paths.bit[i], paths.fan[i]


@step
def _set_off(paths, i, onward, flat, clearance):
    """Send a path on from just beside the surface."""
    put3(paths.direction, i, onward)
    side = clearance if dot(onward, flat) > ZERO else -clearance
    put3(paths.origin, i, add(vec3(paths.origin, i), scale(flat, side)))


@step
def _bent(wo, normal, flat, cos_i, eta):
    """The way on of one wavelength beyond a polished boundary."""
    _, cos_t = dielectric_reflectance(cos_i, eta)
    onward = unit(refract(wo, normal, eta, cos_i, cos_t))
    return onward if dot(onward, flat) < ZERO else negate(wo)


@step
def _part(batch, i, wo, normal, flat, etas, reflectances, chance, clearance):
    """Part a path that passes a polished boundary into one path for each wavelength that passes."""
    paths, counts = batch.paths, batch.counts
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    passing = 0
    for w in range(4):
        paths.weight[w, i] *= (ONE - reflectances[w]) / (ONE - chance)
        passing += 1 if paths.weight[w, i] > ZERO else 0
    counts[WHOLE] -= 1
    kept = -1
    for w in range(4):
        if paths.weight[w, i] <= ZERO:
            continue
        if kept < 0:
            kept = w
            continue
        counts[FREE] -= 1
        k = batch.free[counts[FREE]]
        _copy(paths, i, k)
        alone(paths, k, w)
        paths.parts[k] = -passing
        onward = _bent(wo, normal, flat, cos_i, etas[w])
        weigh_thrown(paths, k, wo, onward, normal, flat)
        _set_off(paths, k, onward, flat, clearance)
        batch.active[counts[ACTIVE]] = k
        counts[ACTIVE] += 1
    paths.parts[i] = max(passing, 1)
    kept = max(kept, 0)
    alone(paths, i, kept)
    return _bent(wo, normal, flat, cos_i, etas[kept])


@step
def _rough_values(rows, wo, wi, alpha, etas, alike):
    """(responses times |cos wi| at the four wavelengths, the mean density of their samplers); all in the surface's frame."""
    albedo, mean = rows.albedo, rows.mean_missing
    a, p = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[0]), wo, wi)
    if alike:
        return (a, a, a, a), p
    b, q = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[1]), wo, wi)
    c, r = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[2]), wo, wi)
    d, s = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[3]), wo, wi)
    return (a, b, c, d), QUARTER * (p + q + r + s)


@step
def _light_rough(batch, scene, rows, i, m, bit, outside, wo, normal, out, clearance, alpha, etas, alike, seed):
    """Queue a shadow ray from a rough boundary of material m to a lamp, when the lamp is on the outer side, in the medium outside."""
    paths = batch.paths
    if paths.state[i] & THROWN:
        return
    around = LIGHT if paths.state[i] & SCATTERED else REFLECTIONS
    lamp, way, distance, density = ask(scene, paths, i, bit, around, seed, paths.dimension[i] + ASKING)
    if distance <= ZERO or dot(way, out) <= ZERO:
        return
    if paths.state[i] & FROM_MATT and scene.media.throws[m] and is_thrown(scene, lamp, way):
        return
    x, y = frame(normal)
    wi = to_local(way, x, y, normal)
    if (wi[2] > ZERO) != (dot(wo, out) > ZERO):
        return
    values, pdf = _rough_values(rows, to_local(wo, x, y, normal), wi, alpha, etas, alike)
    if rows.mirror_tinted[m] and wi[2] > ZERO:
        a, b, c, d = values
        tint, nm = rows.mirrored[m], paths.wavelength
        values = (
            a * curve_at(tint, nm[0, i]),
            b * curve_at(tint, nm[1, i]),
            c * curve_at(tint, nm[2, i]),
            d * curve_at(tint, nm[3, i]),
        )
    if values[0] + values[1] + values[2] + values[3] > ZERO:
        start = add(vec3(paths.origin, i), scale(out, clearance))
        queue_shadow(batch, scene, i, outside, start, lamp, around, way, distance, density, values, pdf)


@step
def _scatter_rough(rows, paths, i, wo, normal, flat, alpha, etas, alike, seed):
    """Weigh a path by a rough boundary: (direction, whether it passed); a weight of 0 ends it."""
    pixel, sample, dimension = paths.pixel[i], paths.sample[i], paths.dimension[i]
    choice = single(seed, pixel, sample, dimension + CHOICE)
    a, b = pair(seed, pixel, sample, dimension + DIRECTION)
    eta = etas[0]
    if not alike:
        hero = min(int(single(seed, pixel, sample, dimension + HERO) * F(4)), 3)
        eta = etas[hero]
    onward, passed, weight, pdf, axis = flat, False, ZERO, ZERO, normal
    for attempt in range(2):
        axis = normal if attempt == 0 else flat
        x, y = frame(axis)
        local = to_local(wo, x, y, axis)
        boundary = rough_boundary(rows.albedo, rows.mean_missing, local[2], alpha, eta)
        wi, weight, pdf = sample_rough_dielectric(rows.albedo, boundary, local, a, b, choice)
        onward, passed = to_world(wi, x, y, axis), wi[2] < ZERO
        if weight <= ZERO or (dot(onward, flat) < ZERO) == passed:
            break
    if weight > ZERO and not alike:
        x, y = frame(axis)
        values, pdf = _rough_values(rows, to_local(wo, x, y, axis), to_local(onward, x, y, axis), alpha, etas, alike)
        for w in range(4):
            paths.weight[w, i] *= values[w] / max(pdf, F(1e-20))
    else:
        _weigh(paths, i, weight)
    paths.pdf[i] = pdf
    return onward, passed


@step
def _scatter_smooth(batch, i, wo, normal, flat, etas, alike, clearance, seed):
    """Weigh a path by a polished boundary, parting it where it must: (direction, whether it passed)."""
    paths = batch.paths
    choice = single(seed, paths.pixel[i], paths.sample[i], paths.dimension[i] + CHOICE)
    first = paths.bounce[i] == 0
    paths.pdf[i] = BY_MIRROR
    paths.dimension[i] += DRAWS
    paths.bounce[i] += 1
    if alike:
        onward, passed, weight = _bend(wo, normal, etas[0], choice, first)
        if (dot(onward, flat) < ZERO) != passed:
            onward, passed, weight = _bend(wo, flat, etas[0], choice, first)
        _weigh(paths, i, weight)
        return onward, passed
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    reflectances = _four_reflectances(cos_i, etas)
    mean = QUARTER * (reflectances[0] + reflectances[1] + reflectances[2] + reflectances[3])
    chance = _mirrored_chance(mean, first)
    if choice < chance:
        for w in range(4):
            paths.weight[w, i] *= reflectances[w] / chance
        onward = reflect(wo, normal)
        return onward if dot(onward, flat) > ZERO else reflect(wo, flat), False
    return _part(batch, i, wo, normal, flat, etas, reflectances, chance, clearance), True


@step
def _leave_matt(batch, scene, i, m, bit, wo, normal, flat, clearance, etas, seed):
    """Send light that was scattered within on at a polished boundary into the open: (direction, whether it passed).

    As much of it is mirrored back as at any other boundary; what passes spreads as light does that came evenly from within, and not by its one
    direction. So lamps outside, however small, can be asked here. It is exact where light within is even, and keeps the flux always.
    """
    paths, dimension = batch.paths, batch.paths.dimension[i]
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    reflectances = _four_reflectances(cos_i, etas)
    mean = QUARTER * (reflectances[0] + reflectances[1] + reflectances[2] + reflectances[3])
    lamp, way, distance, density = ask(scene, paths, i, bit, LIGHT, seed, dimension + ASKING)
    cosine = -dot(way, flat)
    if distance > ZERO and cosine > ZERO and mean < ONE:
        value = cosine * INV_PI * share_let_out(cosine, ONE / etas[0])
        a, b, c, d = reflectances
        tint, nm = scene.media.tint[m], paths.wavelength
        values = (
            value * (ONE - a) * curve_at(tint, nm[0, i]),
            value * (ONE - b) * curve_at(tint, nm[1, i]),
            value * (ONE - c) * curve_at(tint, nm[2, i]),
            value * (ONE - d) * curve_at(tint, nm[3, i]),
        )
        start = add(vec3(paths.origin, i), scale(flat, -clearance))
        pdf = cosine * INV_PI * (ONE - mean)
        queue_shadow(batch, scene, i, AIR, start, lamp, LIGHT, way, distance, density, values, pdf)
    choice = single(seed, paths.pixel[i], paths.sample[i], dimension + CHOICE)
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
    paths.dimension[i] += DRAWS
    paths.bounce[i] += 1
    if choice < mean:
        for w in range(paths.lines[i]):
            paths.weight[w, i] *= reflectances[w] / mean
        paths.pdf[i] = BY_MIRROR
        onward = reflect(wo, normal)
        return onward if dot(onward, flat) > ZERO else reflect(wo, flat), False
    onward = even_direction(a, b)
    cosine = onward[2]
    share = share_let_out(cosine, ONE / etas[0]) / (ONE - mean)
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= (ONE - reflectances[w]) * share
    paths.pdf[i] = cosine * INV_PI * (ONE - mean)
    x, y = frame(negate(flat))
    return to_world(onward, x, y, negate(flat)), True


@step
def _tint(paths, i, curve):
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= curve_at(curve, paths.wavelength[w, i])


@step
def _pass(paths, scene, rows, registers, column, i, j, m, entering, after):
    """Book that a path passed the surface of thing j into the medium `after`."""
    cross_surface(paths, i, j, entering)
    take_up(paths, i, after, scene.geometry.things, scene.media, j, registers, column)
    if rows.tinted[m]:
        _tint(paths, i, scene.media.tint[m])
    show_fan(paths, i, scene.media, m)


@step
def _at_boundary(batch, scene, rows, registers, column, i, m, j, wo, normal, out, before, after, etas, alike, seed):
    """Send a path on at a boundary that bends light: (direction, whether it passed)."""
    paths, things, clearance = batch.paths, scene.geometry.things, batch.hits.clearance[i]
    entering = dot(wo, out) > ZERO
    flat = out if entering else negate(out)
    alpha = alpha_of(held(registers[rows.roughness[m], column], ZERO, ONE))
    bit = things.bit[j]
    if paths.state[i] & WALKED and after == AIR and alpha < POLISHED_TO:
        onward, passed = _leave_matt(batch, scene, i, m, bit, wo, normal, flat, clearance, etas, seed)
    elif alpha >= SMOOTHEST:
        outside = before if entering else after
        _light_rough(batch, scene, rows, i, m, bit, outside, wo, normal, out, clearance, alpha, etas, alike, seed)
        onward, passed = _scatter_rough(rows, paths, i, wo, normal, flat, alpha, etas, alike, seed)
        paths.dimension[i] += DRAWS
        paths.bounce[i] += 1
    else:
        first_new = batch.counts[ACTIVE]
        paths.bit[i] = bit
        onward, passed = _scatter_smooth(batch, i, wo, normal, flat, etas, alike, clearance, seed)
        for slot in range(first_new, batch.counts[ACTIVE]):
            mark_bent(paths, batch.active[slot], scene.media.throws[m])
            _pass(paths, scene, rows, registers, column, batch.active[slot], j, m, entering, after)
    paths.bit[i] = bit
    weigh_thrown(paths, i, wo, onward, normal, flat)
    mark_bent(paths, i, scene.media.throws[m])
    if not passed and entering and rows.mirror_tinted[m]:
        _tint(paths, i, rows.mirrored[m])
    return onward, passed


@kernel
def shade(batch, places, count, registers, scene, rows, scratch, seed):
    """Send every path at the boundary of clear matter on its way. places: where they stand in `Batch.form_queue`."""
    paths, hits, things = batch.paths, batch.hits, scene.geometry.things
    for place in range(count):
        column = places[place]
        i = batch.form_queue[column]
        j, m = hits.thing[i], hits.matter[i]
        wo, out = negate(vec3(paths.direction, i)), vec3(hits.flat, i)
        entering = dot(wo, out) > ZERO
        flat = out if entering else negate(out)
        normal = vec3(hits.normal, i)
        if rows.normal[m, 0] >= 0:
            normal = driven_normal(things, registers, rows.normal[m], column, j, normal)
        normal = normal if entering else negate(normal)
        if dot(wo, normal) <= F(1e-4):
            normal = flat
        before, after = media_around(paths, i, things.priority, j, entering)
        onward = negate(wo)
        if before == after:
            cross_surface(paths, i, j, entering)
        else:
            etas, alike = _ratios(scene, paths, i, before, after, j, m, registers, column)
            passed = True
            if not alike or abs(etas[0] - ONE) > SAME_INDEX:
                onward, passed = _at_boundary(
                    batch, scene, rows, registers, column, i, m, j, wo, normal, out, before, after, etas, alike, seed
                )
            if passed:
                _pass(paths, scene, rows, registers, column, i, j, m, entering, after)
            else:
                paths.state[i] |= TURNED
        _set_off(paths, i, onward, flat, hits.clearance[i])
