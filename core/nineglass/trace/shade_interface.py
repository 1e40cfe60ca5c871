"""The boundary of clear matter: polished or rough, reflection and transmission."""

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, optic
from nineglass.optics.absorption import sigma_at_depth
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.energy import rough_boundary, rough_dielectric, sample_rough_dielectric
from nineglass.optics.microfacet import SAME_INDEX, SMOOTHEST, alpha_of
from nineglass.spectra.upsampling import sigmoid, table_coefficients
from nineglass.trace.ask_lamps import queue_shadow, to_lamp
from nineglass.trace.generate import CHOICE, DIRECTION, FIRST_BOUNCE, PER_BOUNCE
from nineglass.trace.paths import FORMS, INSIDE
from nineglass.trace.random import pair, single
from nineglass.trace.scene import BLUE, C0, C1, C2, DEPTH, GREEN, IOR, RED, ROUGHNESS
from nineglass.vectors import add, dot, frame, negate, put3, reflect, refract, scale, to_local, to_world, unit, vec3

CM = F(0.01)
EVEN = F(0.4)
SHORTEST_DEPTH = F(1e-6)


@kernel
def fit_colors(batch, registers, dials, sigmoids):
    """Coefficients of a transmission colour that varies over the form."""
    for column in range(batch.counts[FORMS]):
        table_coefficients(
            sigmoids,
            registers[dials[RED], column],
            registers[dials[GREEN], column],
            registers[dials[BLUE], column],
            registers[dials[C0] : dials[C2] + 1, column],
        )


@optic
def enter(paths, i, registers, dials, column):
    """Take up the absorption of the matter."""
    depth = max(registers[dials[DEPTH], column] * CM, SHORTEST_DEPTH)
    c0, c1, c2 = registers[dials[C0], column], registers[dials[C1], column], registers[dials[C2], column]
    paths.state[i] |= INSIDE
    for w in range(4):
        paths.sigma_a[w, i] = sigma_at_depth(sigmoid(c0, c1, c2, paths.wavelength[w, i]), depth)


@optic
def bend(wo, normal, eta, choice, first):
    """Mirror or refract at a polished boundary: (direction, whether it passed, weight).

    The first boundary of a path is mirrored more often than it reflects, with less weight: highlights settle sooner.
    """
    cos_i = min(max(dot(wo, normal), ZERO), ONE)
    reflectance, cos_t = dielectric_reflectance(cos_i, eta)
    chance = reflectance
    if first and reflectance < ONE:
        chance = HALF * (reflectance + EVEN)
    if choice < chance:
        return reflect(wo, normal), False, reflectance / chance
    return unit(refract(wo, normal, eta, cos_i, cos_t)), True, (ONE - reflectance) / (ONE - chance)


@optic
def light_rough(batch, i, wo, normal, flat, boundary, scene, seed):
    """Queue a shadow ray from a rough boundary to a lamp, when the lamp is on the outer side."""
    origin = vec3(batch.paths.origin, i)
    k, way, distance = to_lamp(scene.lamps, batch.paths, i, seed)
    if distance <= ZERO or dot(way, flat) <= ZERO:
        return
    x, y = frame(normal)
    wi = to_local(way, x, y, normal)
    if (wi[2] > ZERO) != (dot(wo, flat) > ZERO):
        return
    value, pdf = rough_dielectric(scene.albedo, boundary, to_local(wo, x, y, normal), wi)
    if value > ZERO:
        start = add(origin, scale(flat, scene.clearance))
        queue_shadow(batch, scene.lamps, scene.spectra, i, start, k, way, distance, value, pdf)


@optic
def scatter_rough(albedo, boundary, wo, normal, a, b, choice):
    """A direction from a rough boundary: (direction, whether it passed, weight, pdf)."""
    x, y = frame(normal)
    wi, weight, pdf = sample_rough_dielectric(albedo, boundary, to_local(wo, x, y, normal), a, b, choice)
    return to_world(wi, x, y, normal), wi[2] < ZERO, weight, pdf


@kernel
def shade_interface(batch, registers, scene, seed):
    """Send every path at the boundary on its way. Normals are on the eye's side below."""
    paths, hits, dials = batch.paths, batch.hits, scene.dials
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        wo = negate(vec3(paths.direction, i))
        out = vec3(hits.flat, i)
        entering = dot(wo, out) > ZERO
        flat = out if entering else negate(out)
        normal = vec3(hits.normal, i)
        normal = normal if entering else negate(normal)
        if dot(wo, normal) <= F(1e-4):
            normal = flat
        ior = max(registers[dials[IOR], column], F(0.05))
        eta = ior if entering else ONE / ior
        alpha = alpha_of(min(max(registers[dials[ROUGHNESS], column], ZERO), ONE))
        passed, onward = True, negate(wo)
        if abs(eta - ONE) > SAME_INDEX:
            dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
            choice = single(seed, paths.pixel[i], paths.sample[i], dimension + CHOICE)
            if alpha < SMOOTHEST:
                first = paths.bounce[i] == 0
                onward, passed, weight = bend(wo, normal, eta, choice, first)
                if (dot(onward, flat) < ZERO) != passed:
                    onward, passed, weight = bend(wo, flat, eta, choice, first)
                paths.pdf[i] = -ONE
            else:
                boundary = rough_boundary(scene.albedo, scene.mean_missing, dot(wo, normal), alpha, eta)
                if scene.lamps.area.size:
                    light_rough(batch, i, wo, normal, out, boundary, scene, seed)
                a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
                onward, passed, weight, pdf = scatter_rough(scene.albedo, boundary, wo, normal, a, b, choice)
                if weight > ZERO and (dot(onward, flat) < ZERO) != passed:
                    onward, passed, weight, pdf = scatter_rough(scene.albedo, boundary, wo, flat, a, b, choice)
                paths.pdf[i] = pdf
            for w in range(4):
                paths.weight[w, i] *= weight
            paths.bounce[i] += 1
        if passed:
            if entering:
                enter(paths, i, registers, dials, column)
            else:
                paths.state[i] &= ~INSIDE
        put3(paths.direction, i, onward)
        side = scene.clearance if dot(onward, flat) > ZERO else -scene.clearance
        put3(paths.origin, i, add(vec3(paths.origin, i), scale(flat, side)))
