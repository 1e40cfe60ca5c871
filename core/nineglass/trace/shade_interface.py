"""The boundary between clear media: polished or rough, reflection and transmission, with or without dispersion.

Where the index changes over wavelength a path of four wavelengths parts at a polished boundary into one path each, with
the same random numbers, so that what noise there is stays grey. At a rough one the four stay together, each weighed by the
mean of all four densities (single-sample MIS). Sources: Wilkie et al. 2014, Hero Wavelength Spectral Sampling; Veach 1997.
"""

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.energy import rough_boundary, rough_dielectric, sample_rough_dielectric
from nineglass.optics.microfacet import SAME_INDEX, SMOOTHEST, alpha_of
from nineglass.spectra.upsampling import table_coefficients
from nineglass.trace.ask_lamps import LIGHT, REFLECTIONS, ask, queue_shadow
from nineglass.trace.generate import CHOICE, DIRECTION, FIRST_BOUNCE, HERO, PER_BOUNCE, curve_at
from nineglass.trace.intersect import to_stage
from nineglass.trace.matter import CLEAR, CURVES, INDEX, IOR, MIRRORED, NORMAL, ROUGHNESS, TINT
from nineglass.trace.media import enter, index_of, leave, medium_with, medium_without, take_up
from nineglass.trace.paths import ACTIVE, AIR, ALONE, FORMS, FREE, SCATTERED, WHOLE
from nineglass.trace.random import pair, single
from nineglass.vectors import add, dot, frame, negate, put3, reflect, refract, scale, to_local, to_world, unit, vec3

EVEN = F(0.4)
QUARTER = F(0.25)


@kernel
def fit_colors(registers, fit, sigmoids, first, last):
    """Coefficients of a colour that varies over the form, for some columns. fit: registers of red, green, blue and coefficients."""
    for column in range(first, last):
        table_coefficients(
            sigmoids,
            registers[fit[0], column],
            registers[fit[1], column],
            registers[fit[2], column],
            registers[fit[3] : fit[5] + 1, column],
        )


@optic
def driven_normal(axes, registers, dials, m, entry, column, j, smooth):
    """The normal of a band on the stage: its own when it is driven and leans less than 87 degrees, else the smooth one."""
    if dials[m, entry] < 0:
        return smooth
    x, y = registers[dials[m, entry], column], registers[dials[m, entry + 1], column]
    given = (x, y, registers[dials[m, entry + 2], column])
    if not dot(given, given) > F(1e-12):
        return smooth
    own = unit(to_stage(axes, j, given))
    return own if dot(own, smooth) > F(0.05) else smooth


@optic
def index_at(things, matters, medium, j, row, nm, registers, column):
    """Index of a medium at the surface of thing j, whose material is that of `row` there."""
    if medium == AIR:
        return ONE
    if medium != j:
        return index_of(medium, nm, things, matters)
    index = curve_at(matters.curves[row * CURVES + INDEX], nm)
    if matters.ior_driven[row]:
        index += max(registers[matters.dials[row, IOR], column], F(0.05)) - matters.ior[row]
    return index


@optic
def parts_light(scene, medium):
    """Whether the index of a medium changes over wavelength."""
    return medium != AIR and scene.matters.dispersive[scene.things.matter[medium]] != 0


@optic
def living(paths, i):
    """The first wavelength that still has weight."""
    for w in range(4):
        if paths.weight[w, i] > ZERO:
            return w
    return 0


@optic
def _ratio(things, matters, before, after, j, row, nm, registers, column):
    """Index beyond over index before at one wavelength."""
    beyond = index_at(things, matters, after, j, row, nm, registers, column)
    return beyond / index_at(things, matters, before, j, row, nm, registers, column)


@optic
def _ratios(scene, paths, i, before, after, j, row, registers, column):
    """(index beyond over index before at the four wavelengths, whether they are all alike)."""
    things, matters, n = scene.things, scene.matters, paths.wavelength
    alike = not (parts_light(scene, before) or parts_light(scene, after))
    if alike or paths.state[i] & ALONE:
        nm = paths.wavelength[living(paths, i), i]
        eta = _ratio(things, matters, before, after, j, row, nm, registers, column)
        return (eta, eta, eta, eta), True
    a = _ratio(things, matters, before, after, j, row, n[0, i], registers, column)
    b = _ratio(things, matters, before, after, j, row, n[1, i], registers, column)
    c = _ratio(things, matters, before, after, j, row, n[2, i], registers, column)
    d = _ratio(things, matters, before, after, j, row, n[3, i], registers, column)
    return (a, b, c, d), False


@optic
def _mirrored_chance(reflectance, first):
    """The first boundary of a path is mirrored more often than it reflects, with less weight: highlights settle sooner."""
    if first and reflectance < ONE:
        return HALF * (reflectance + EVEN)
    return reflectance


@optic
def bend(wo, normal, eta, choice, first):
    """Mirror or refract at a polished boundary: (direction, whether it passed, weight)."""
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    reflectance, cos_t = dielectric_reflectance(cos_i, eta)
    chance = _mirrored_chance(reflectance, first)
    if choice < chance:
        return reflect(wo, normal), False, reflectance / chance
    return unit(refract(wo, normal, eta, cos_i, cos_t)), True, (ONE - reflectance) / (ONE - chance)


@optic
def _four_reflectances(cos_i, etas):
    a, _ = dielectric_reflectance(cos_i, etas[0])
    b, _ = dielectric_reflectance(cos_i, etas[1])
    c, _ = dielectric_reflectance(cos_i, etas[2])
    d, _ = dielectric_reflectance(cos_i, etas[3])
    return a, b, c, d


@optic
def _copy(paths, i, k):
    """Column k becomes the same path as column i, without its light."""
    for axis in range(3):
        paths.origin[axis, k], paths.direction[axis, k] = paths.origin[axis, i], paths.direction[axis, i]
    for w in range(4):
        paths.weight[w, k], paths.light[w, k] = paths.weight[w, i], ZERO
        paths.wavelength[w, k], paths.per_density[w, k] = paths.wavelength[w, i], paths.per_density[w, i]
        paths.sigma_a[w, k] = paths.sigma_a[w, i]
    paths.pdf[k], paths.length[k] = paths.pdf[i], ZERO
    paths.pixel[k], paths.sample[k], paths.bounce[k] = paths.pixel[i], paths.sample[i], paths.bounce[i]
    paths.state[k], paths.levels[k], paths.medium[k] = paths.state[i], paths.levels[i], paths.medium[i]
    for level in range(paths.levels[i]):
        paths.within[level, k] = paths.within[level, i]
    paths.bit[k], paths.fan[k] = paths.bit[i], paths.fan[i]


@optic
def _set_off(paths, i, onward, flat, clearance):
    """Send a path on from just beside the surface."""
    put3(paths.direction, i, onward)
    side = clearance if dot(onward, flat) > ZERO else -clearance
    put3(paths.origin, i, add(vec3(paths.origin, i), scale(flat, side)))


@optic
def part(batch, i, wo, normal, flat, etas, reflectances, chance, clearance):
    """Part a path that passes a polished boundary into one path for each wavelength that passes."""
    paths, counts = batch.paths, batch.counts
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    passing = 0
    for w in range(4):
        share = (ONE - reflectances[w]) / (ONE - chance)
        paths.weight[w, i] *= share
        passing += 1 if paths.weight[w, i] > ZERO else 0
    paths.state[i] |= ALONE
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
        paths.parts[k] = -passing
        for other in range(4):
            if other != w:
                paths.weight[other, k] = ZERO
        _, cos_t = dielectric_reflectance(cos_i, etas[w])
        onward = unit(refract(wo, normal, etas[w], cos_i, cos_t))
        _set_off(paths, k, onward if dot(onward, flat) < ZERO else negate(wo), flat, clearance)
        batch.active[counts[ACTIVE]] = k
        counts[ACTIVE] += 1
    paths.parts[i] = max(passing, 1)
    for w in range(4):
        if w != kept:
            paths.weight[w, i] = ZERO
    eta = etas[max(kept, 0)]
    _, cos_t = dielectric_reflectance(cos_i, eta)
    onward = unit(refract(wo, normal, eta, cos_i, cos_t))
    return onward if dot(onward, flat) < ZERO else negate(wo)


@optic
def rough_values(scene, wo, wi, alpha, etas, alike):
    """(responses times |cos wi| at the four wavelengths, the mean density of their samplers); all in the surface's frame."""
    albedo, mean = scene.albedo, scene.mean_missing
    a, p = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[0]), wo, wi)
    if alike:
        return (a, a, a, a), p
    b, q = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[1]), wo, wi)
    c, r = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[2]), wo, wi)
    d, s = rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, etas[3]), wo, wi)
    return (a, b, c, d), QUARTER * (p + q + r + s)


@optic
def light_rough(batch, scene, i, m, bit, outside, wo, normal, out, alpha, etas, alike, seed):
    """Queue a shadow ray from a rough boundary of material m to a lamp, when the lamp is on the outer side, in the medium outside."""
    paths = batch.paths
    around = LIGHT if paths.state[i] & SCATTERED else REFLECTIONS
    lamp, way, distance, density = ask(scene, paths, i, around, seed)
    if distance <= ZERO or dot(way, out) <= ZERO:
        return
    x, y = frame(normal)
    wi = to_local(way, x, y, normal)
    if (wi[2] > ZERO) != (dot(wo, out) > ZERO):
        return
    values, pdf = rough_values(scene, to_local(wo, x, y, normal), wi, alpha, etas, alike)
    if scene.matters.mirror_tinted[m] and wi[2] > ZERO:
        a, b, c, d = values
        tint, nm = scene.matters.curves[m * CURVES + MIRRORED], paths.wavelength
        values = (
            a * curve_at(tint, nm[0, i]),
            b * curve_at(tint, nm[1, i]),
            c * curve_at(tint, nm[2, i]),
            d * curve_at(tint, nm[3, i]),
        )
    if values[0] + values[1] + values[2] + values[3] > ZERO:
        start = add(vec3(paths.origin, i), scale(out, scene.clearance))
        queue_shadow(batch, scene, i, bit, outside, start, lamp, around, way, distance, density, values, pdf)


@optic
def scatter_rough(scene, paths, i, wo, normal, flat, alpha, etas, alike, seed, choice):
    """Weigh a path by a rough boundary: (direction, whether it passed); a weight of 0 ends it."""
    dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
    eta = etas[0]
    if not alike:
        hero = min(int(single(seed, paths.pixel[i], paths.sample[i], dimension + HERO) * F(4)), 3)
        eta = etas[hero]
    onward, passed, weight = flat, False, ZERO
    axis = normal
    for attempt in range(2):
        axis = normal if attempt == 0 else flat
        x, y = frame(axis)
        local = to_local(wo, x, y, axis)
        boundary = rough_boundary(scene.albedo, scene.mean_missing, local[2], alpha, eta)
        wi, weight, pdf = sample_rough_dielectric(scene.albedo, boundary, local, a, b, choice)
        onward, passed = to_world(wi, x, y, axis), wi[2] < ZERO
        if weight <= ZERO or (dot(onward, flat) < ZERO) == passed:
            break
    if weight > ZERO and not alike:
        x, y = frame(axis)
        values, pdf = rough_values(scene, to_local(wo, x, y, axis), to_local(onward, x, y, axis), alpha, etas, alike)
        for w in range(4):
            paths.weight[w, i] *= values[w] / max(pdf, F(1e-20))
    else:
        for w in range(4):
            paths.weight[w, i] *= weight
    paths.pdf[i] = pdf
    return onward, passed


@optic
def _scatter_smooth(batch, i, wo, normal, flat, etas, alike, choice, clearance):
    """Weigh a path by a polished boundary, parting it where it must: (direction, whether it passed)."""
    paths = batch.paths
    first = paths.bounce[i] == 1
    paths.pdf[i] = -ONE
    if alike:
        onward, passed, weight = bend(wo, normal, etas[0], choice, first)
        if (dot(onward, flat) < ZERO) != passed:
            onward, passed, weight = bend(wo, flat, etas[0], choice, first)
        for w in range(4):
            paths.weight[w, i] *= weight
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
    return part(batch, i, wo, normal, flat, etas, reflectances, chance, clearance), True


@optic
def tint(paths, i, curve):
    for w in range(4):
        paths.weight[w, i] *= curve_at(curve, paths.wavelength[w, i])


@optic
def _pass(batch, scene, registers, column, i, j, m, entering, after):
    """Book that a path passed the surface of thing j into the medium `after`."""
    paths = batch.paths
    if entering:
        enter(paths, i, j)
    else:
        leave(paths, i, j)
    take_up(paths, i, after, scene.things, scene.matters, j, registers, column)
    if scene.matters.tinted[m]:
        tint(paths, i, scene.matters.curves[m * CURVES + TINT])
    if scene.matters.fan[m] and scene.matters.dispersive[m]:
        paths.fan[i] = m + 1


@kernel
def shade_interface(batch, registers, scene, seed):
    """Send every path at the boundary of clear matter on its way. Normals are on the eye's side below."""
    paths, hits, things, matters = batch.paths, batch.hits, scene.things, scene.matters
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        j = hits.thing[i]
        m = hits.matter[i]
        if matters.surface[m] != CLEAR:
            continue
        wo, out = negate(vec3(paths.direction, i)), vec3(hits.flat, i)
        entering = dot(wo, out) > ZERO
        flat = out if entering else negate(out)
        normal = driven_normal(things.axes, registers, matters.dials, m, NORMAL, column, j, vec3(hits.normal, i))
        normal = normal if entering else negate(normal)
        if dot(wo, normal) <= F(1e-4):
            normal = flat
        before = paths.medium[i]
        if not entering and before == AIR:
            before = j
        after = medium_with(paths, i, things.priority, j) if entering else medium_without(paths, i, things.priority, j)
        onward = negate(wo)
        if before != after:
            etas, alike = _ratios(scene, paths, i, before, after, j, m, registers, column)
            alpha = alpha_of(min(max(registers[matters.dials[m, ROUGHNESS], column], ZERO), ONE))
            if not alike or abs(etas[0] - ONE) > SAME_INDEX:
                bounce = paths.bounce[i]
                choice = single(seed, paths.pixel[i], paths.sample[i], FIRST_BOUNCE + PER_BOUNCE * bounce + CHOICE)
                if alpha >= SMOOTHEST:
                    outside = before if entering else after
                    light_rough(batch, scene, i, m, things.bit[j], outside, wo, normal, out, alpha, etas, alike, seed)
                    onward, passed = scatter_rough(scene, paths, i, wo, normal, flat, alpha, etas, alike, seed, choice)
                    paths.bounce[i] += 1
                else:
                    paths.bounce[i] += 1
                    first_new = batch.counts[ACTIVE]
                    paths.bit[i] = things.bit[j]
                    onward, passed = _scatter_smooth(batch, i, wo, normal, flat, etas, alike, choice, scene.clearance)
                    for slot in range(first_new, batch.counts[ACTIVE]):
                        _pass(batch, scene, registers, column, batch.active[slot], j, m, entering, after)
                paths.bit[i] = things.bit[j]
                if not passed:
                    if entering and matters.mirror_tinted[m]:
                        tint(paths, i, matters.curves[m * CURVES + MIRRORED])
                    _set_off(paths, i, onward, flat, scene.clearance)
                    continue
            _pass(batch, scene, registers, column, i, j, m, entering, after)
        elif entering:
            enter(paths, i, j)
        else:
            leave(paths, i, j)
        _set_off(paths, i, onward, flat, scene.clearance)
