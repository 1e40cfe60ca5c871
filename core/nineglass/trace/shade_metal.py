"""The surface of a metal, polished or rough."""

from nineglass.kernels import ONE, ZERO, F, kernel, optic
from nineglass.optics.conductor import conductor_reflectance, ggx_reflection, metal_gain, mirror_share
from nineglass.optics.microfacet import SMOOTHEST, alpha_of, sample_visible_normal
from nineglass.trace.ask_lamps import LIGHT, REFLECTIONS, ask, queue_shadow
from nineglass.trace.generate import DIRECTION, FIRST_BOUNCE, PER_BOUNCE, curve_at
from nineglass.trace.matter import CURVES, EXTINCTION, INDEX, METAL, ROUGHNESS
from nineglass.trace.media import index_of
from nineglass.trace.paths import FORMS, SCATTERED
from nineglass.trace.random import pair
from nineglass.vectors import add, dot, frame, negate, put3, reflect, scale, to_local, to_world, unit, vec3


@optic
def _color(scene, m, medium, nm, cosine):
    """Reflectance of metal m in a medium at one wavelength."""
    before = index_of(medium, nm, scene.things, scene.matters)
    curves = scene.matters.curves
    n, k = curve_at(curves[m * CURVES + INDEX], nm), curve_at(curves[m * CURVES + EXTINCTION], nm)
    return conductor_reflectance(cosine, n / before, k / before)


@optic
def metal_values(scene, m, medium, nm, wo, wi, alpha):
    """(response times cosine of a rough metal at one wavelength, pdf of its sampler); wo and wi on the outer side."""
    value, pdf = ggx_reflection(wo, wi, alpha)
    h = unit(add(wo, wi))
    facing = min(max(dot(wo, h), ZERO), ONE)
    gain = metal_gain(mirror_share(scene.mirror_albedo, wo[2], alpha), _color(scene, m, medium, nm, ONE))
    return value * _color(scene, m, medium, nm, facing) * gain, pdf


@optic
def _four_values(scene, paths, i, m, wo, wi, alpha):
    medium = paths.medium[i]
    a, pdf = metal_values(scene, m, medium, paths.wavelength[0, i], wo, wi, alpha)
    b, _ = metal_values(scene, m, medium, paths.wavelength[1, i], wo, wi, alpha)
    c, _ = metal_values(scene, m, medium, paths.wavelength[2, i], wo, wi, alpha)
    d, _ = metal_values(scene, m, medium, paths.wavelength[3, i], wo, wi, alpha)
    return (a, b, c, d), pdf


@kernel
def shade_metal(batch, registers, scene, seed):
    """Reflect every path that met a metal; from within, a metal ends it."""
    paths, hits = batch.paths, batch.hits
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        j = hits.thing[i]
        m = scene.things.matter[j]
        if scene.matters.surface[m] != METAL:
            continue
        wo, normal, flat = negate(vec3(paths.direction, i)), vec3(hits.normal, i), vec3(hits.flat, i)
        if dot(wo, flat) < ZERO:
            for w in range(4):
                paths.weight[w, i] = ZERO
            continue
        if dot(wo, normal) <= F(1e-4):
            normal = flat
        alpha = alpha_of(min(max(registers[scene.matters.dials[m, ROUGHNESS], column], ZERO), ONE))
        start = add(vec3(paths.origin, i), scale(flat, scene.clearance))
        bit = scene.things.bit[j]
        if alpha < SMOOTHEST:
            onward = reflect(wo, normal)
            cosine = min(dot(wo, normal), ONE)
            for w in range(4):
                paths.weight[w, i] *= _color(scene, m, paths.medium[i], paths.wavelength[w, i], cosine)
            paths.pdf[i] = -ONE
        else:
            x, y = frame(normal)
            local = to_local(wo, x, y, normal)
            around = LIGHT if paths.state[i] & SCATTERED else REFLECTIONS
            lamp, way, distance, density = ask(scene, paths, i, around, seed)
            wi = to_local(way, x, y, normal)
            if distance > ZERO and wi[2] > ZERO and dot(way, flat) > ZERO:
                values, pdf = _four_values(scene, paths, i, m, local, wi, alpha)
                queue_shadow(batch, scene, i, bit, start, lamp, around, way, distance, density, values, pdf)
            dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
            a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
            wi = reflect(local, sample_visible_normal(local, alpha, a, b))
            onward = to_world(wi, x, y, normal)
            paths.pdf[i] = ZERO
            if wi[2] > ZERO and dot(onward, flat) > ZERO:
                values, pdf = _four_values(scene, paths, i, m, local, wi, alpha)
                paths.pdf[i] = pdf
                for w in range(4):
                    paths.weight[w, i] *= values[w] / max(pdf, F(1e-20))
            else:
                for w in range(4):
                    paths.weight[w, i] = ZERO
        put3(paths.direction, i, onward)
        put3(paths.origin, i, start)
        paths.bounce[i] += 1
        paths.bit[i] = bit
