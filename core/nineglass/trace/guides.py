"""What guides the filter that takes noise out of a picture: colour and normal of the first place along polished boundaries that is matt,
rough or a light, so that what stands behind glass, or in a mirror, stays sharp."""

import numpy as np

from nineglass.kernels import ONE, QUARTER, ZERO, F, kernel, step
from nineglass.spectra.curves import curve_at
from nineglass.spectra.observer import D65, WAVELENGTHS_NM
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.families.fibre import pelt_share
from nineglass.trace.families.floor import floor_row
from nineglass.trace.families.layers import COLORED_METAL, INTERFACE, METAL, ROUGH_FROM
from nineglass.trace.geometry.strands import frame_of
from nineglass.trace.light.ask import CAMERA, REFLECTIONS, around_here
from nineglass.trace.light.surround import picture_color, surround_share
from nineglass.trace.paths import ACTIVE, AIR, DIFFUSED, FLOOR, FORM, FORMS, GUIDED, GUIDED_SAMPLES, LAMP, THROWN
from nineglass.vectors import dot, negate, vec3

LEAST = F(1e-9)
RED_NM, GREEN_NM, BLUE_NM = F(610), F(550), F(465)
WHITE = tuple(F(v) for v in np.interp([610, 550, 465], WAVELENGTHS_NM, D65))


@step
def _note(paths, i, guides, color, normal):
    """Add the guides of a path to its pixel, by the light that it carries."""
    share = ZERO
    for w in range(paths.lines[i]):
        share += QUARTER * paths.weight[w, i]
    _add(guides[paths.pixel[i]], share, color, normal)
    paths.state[i] |= GUIDED


@step
def _add(into, share, color, normal):
    for axis in range(3):
        into[axis] += share * color[axis]
        into[3 + axis] += share * normal[axis]


@step
def _three(curve):
    return curve_at(curve, RED_NM), curve_at(curve, GREEN_NM), curve_at(curve, BLUE_NM)


@step
def _color_of(registers, first, column):
    a, b, c = registers[first, column], registers[first + 1, column], registers[first + 2, column]
    return sigmoid(a, b, c, RED_NM), sigmoid(a, b, c, GREEN_NM), sigmoid(a, b, c, BLUE_NM)


@step
def _mirrored(index, extinction):
    """Normal reflectance of a metal."""
    k = extinction * extinction
    return ((index - ONE) * (index - ONE) + k) / ((index + ONE) * (index + ONE) + k)


@step
def _surface(registers, rows, m, column):
    """(whether a place is matt or rough, its colour)."""
    white = (ONE, ONE, ONE)
    for k in range(rows.lobes[m]):
        if registers[rows.amount[m, k], column] > F(0.5) and rows.colors[m, k, 0] >= 0:
            return True, _color_of(registers, rows.colors[m, k, 0], column)
    entry = METAL.specular_roughness if rows.metal[m] else INTERFACE.specular_roughness
    register = rows.dials[m, entry]
    rough = register >= 0 and registers[register, column] > ROUGH_FROM
    if not rough or not rows.metal[m]:
        return rough, white
    if rows.metal[m] == COLORED_METAL:
        return True, _color_of(registers, rows.dials[m, METAL.base_color], column)
    n, k = _three(rows.metal_index[m]), _three(rows.metal_extinction[m])
    return True, (_mirrored(n[0], k[0]), _mirrored(n[1], k[1]), _mirrored(n[2], k[2]))


@step
def _scattered(scene, medium):
    """The colour of a scattering medium: of light that is scattered once. White where it has been left."""
    if medium == AIR:
        return ONE, ONE, ONE
    m = scene.geometry.things.matter[medium]
    scatters, absorbs = _three(scene.media.sigma_s[m]), _three(scene.media.sigma[m])
    return (
        scatters[0] / max(scatters[0] + absorbs[0], LEAST),
        scatters[1] / max(scatters[1] + absorbs[1], LEAST),
        scatters[2] / max(scatters[2] + absorbs[2], LEAST),
    )


@step
def _note_diffused(scene, paths, i, guides):
    """Note a path that was scattered in the midst of matter: by its colour, without a normal. It counts whole: what it carries by now says how long
    it wandered."""
    paths.state[i] &= ~DIFFUSED
    if paths.bounce[i] == 1:
        guides[paths.pixel[i], 6] += ONE
    if paths.state[i] & GUIDED == 0:
        _add(guides[paths.pixel[i]], ONE, _scattered(scene, paths.medium[i]), (ZERO, ZERO, ZERO))
        paths.state[i] |= GUIDED


@step
def _soft(value):
    return value / (ONE + max(value, ZERO))


@step
def _around(scene, around, direction):
    """The colour of the surround in a direction, within 1."""
    if around.pictured:
        color = picture_color(around.picture, direction)
    else:
        share = surround_share(direction[1], around.softness)
        low, high = _three(scene.spectra[around.below]), _three(scene.spectra[around.above])
        color = (
            (low[0] + (high[0] - low[0]) * share) / WHITE[0],
            (low[1] + (high[1] - low[1]) * share) / WHITE[1],
            (low[2] + (high[2] - low[2]) * share) / WHITE[2],
        )
    return _soft(color[0]), _soft(color[1]), _soft(color[2])


@step
def _left(scene, paths, i):
    """The colour of the surround that a path goes out to."""
    direction, around = vec3(paths.direction, i), around_here(paths, i)
    if around == CAMERA:
        return _around(scene, scene.camera, direction)
    if around == REFLECTIONS:
        return _around(scene, scene.reflections, direction)
    return _around(scene, scene.light, direction)


@step
def _note_strand(paths, hits, things, i, guides, registers, fibres, column):
    """Note a strand: the colour of a pelt of it, and its side that faces the eye."""
    m, normal = hits.matter[i], vec3(hits.normal, i)
    if things.strands[hits.thing[i]]:
        _, _, normal = frame_of(vec3(hits.flat, i), vec3(paths.direction, i))
    color = (
        pelt_share(registers, fibres, m, column, RED_NM),
        pelt_share(registers, fibres, m, column, GREEN_NM),
        pelt_share(registers, fibres, m, column, BLUE_NM),
    )
    _note(paths, i, guides, color, normal)


@kernel
def note_guides(batch, registers, scene, rows, fibres, guides):
    """Note the guides of every path that has come to what makes them. rows, fibres: those of the layers and of fibres, which hold every
    material.

    After the programs, before shading.
    """
    paths, hits, up = batch.paths, batch.hits, (ZERO, ONE, ZERO)
    for slot in range(batch.counts[ACTIVE]):
        i = batch.active[slot]
        if paths.state[i] & THROWN or paths.sample[i] >= GUIDED_SAMPLES:
            continue
        if paths.bounce[i] == 0:
            guides[paths.pixel[i], 6] += ONE
        if paths.state[i] & DIFFUSED:
            _note_diffused(scene, paths, i, guides)
        if paths.state[i] & GUIDED or hits.what[i] == FORM:
            continue
        if hits.what[i] == FLOOR:
            _note(paths, i, guides, _three(scene.spectra[floor_row(scene, paths, i)]), up)
        elif hits.what[i] >= LAMP:
            _note(paths, i, guides, (ONE, ONE, ONE), (ZERO, ZERO, ZERO))
        else:
            _note(paths, i, guides, _left(scene, paths, i), (ZERO, ZERO, ZERO))
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        if paths.state[i] & (GUIDED | THROWN) or paths.sample[i] >= GUIDED_SAMPLES:
            continue
        if fibres.there[hits.matter[i]]:
            _note_strand(paths, hits, scene.geometry.things, i, guides, registers, fibres, column)
            continue
        guides_here, color = _surface(registers, rows, hits.matter[i], column)
        if guides_here:
            normal = vec3(hits.normal, i)
            if dot(normal, vec3(paths.direction, i)) > ZERO:
                normal = negate(normal)
            _note(paths, i, guides, color, normal)
