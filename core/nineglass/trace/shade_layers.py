"""Sends paths on their way at stacks of bands: gathers the stack at each hit, and has light walk through it."""

from math import sqrt

from nineglass.kernels import ONE, TWO, ZERO, F, kernel, optic
from nineglass.optics.film import metal_of_colors
from nineglass.optics.microfacet import alpha_of
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.ask_lamps import LIGHT, REFLECTIONS, ask, meets_by_chance, picks, queue_light
from nineglass.trace.generate import BODY, CHOICE, DIRECTION, FIRST_BOUNCE, HERO, PER_BOUNCE, curve_at
from nineglass.trace.matter import (
    BODY_COLOR,
    BODY_NORMAL,
    BODY_ROUGHNESS,
    BODY_WEIGHT,
    COAT_COLOR,
    COAT_IOR,
    COAT_NORMAL,
    COAT_ROUGHNESS,
    COAT_WEIGHT,
    COATS,
    CURVES,
    EDGE,
    EXTINCTION,
    FACING,
    FILM_IOR,
    FILM_THICKNESS,
    FILM_WEIGHT,
    FILMS,
    FUZZ_COLOR,
    FUZZ_NORMAL,
    FUZZ_ROUGHNESS,
    FUZZ_WEIGHT,
    INDEX,
    LAYERED,
    MIRRORED,
    NORMAL,
    PER_COAT,
    PER_FILM,
    ROUGHNESS,
    TINT,
)
from nineglass.trace.media import enter, index_of, leave, medium_with, medium_without, take_up
from nineglass.trace.paths import AIR, ALONE, FORMS, MEASURED, SCATTERED, WHOLE
from nineglass.trace.random import U, key_of, mix_bits, pair, single
from nineglass.trace.shade_interface import driven_normal, index_at, living, parts_light
from nineglass.trace.walk_layers import LOST, OUTSIDE, UP, Asked, Stack, Tables, walk_layers
from nineglass.vectors import add, dot, frame, negate, put3, scale, to_local, to_world, vec3

ON_BASE = 2
"""Films on the base stand third in `Matters.films`, after those on the two coats."""

ROUGH_FROM = F(0.03)
"""Roughness from which a band is worth asking lamps for."""


@optic
def _dial(registers, dials, m, entry, column, low, high):
    r = dials[m, entry]
    return min(max(registers[r, column], low), high) if r >= 0 else low


@optic
def _put_color(row, registers, dials, m, entry, column, nm):
    """A colour dial at four wavelengths."""
    a, b = registers[dials[m, entry], column], registers[dials[m, entry + 1], column]
    c = registers[dials[m, entry + 2], column]
    for w in range(4):
        row[w] = sigmoid(a, b, c, nm[w])


@optic
def _put_films(row, registers, dials, films, m, column, place):
    """The films on one boundary, as `optics.film.NO_FILMS`."""
    start, stop = films[m, place], films[m, place + 1]
    weight = ONE
    for f in range(start, stop):
        entry, at = FILMS + PER_FILM * f, 2 + 2 * (f - start)
        weight *= _dial(registers, dials, m, entry + FILM_WEIGHT, column, ZERO, ONE)
        row[at] = _dial(registers, dials, m, entry + FILM_THICKNESS, column, ZERO, F(1e6))
        row[at + 1] = _dial(registers, dials, m, entry + FILM_IOR, column, F(0.1), F(10))
    row[0], row[1] = F(stop - start), weight


@optic
def _put_normal(row, axes, registers, dials, m, entry, column, j, frame_here):
    """The normal of one band in the frame of the surface: its own when it is driven."""
    own = UP
    if dials[m, entry] >= 0:
        own = to_local(
            driven_normal(axes, registers, dials, m, entry, column, j, frame_here[2]),
            frame_here[0],
            frame_here[1],
            frame_here[2],
        )
    row[0], row[1], row[2] = own


@optic
def _put_coat(layers, axes, registers, dials, films, m, which, k, column, j, frame_here):
    """One coat as boundary k and the medium beneath it."""
    entry = COATS + PER_COAT * which
    layers.alpha[k] = alpha_of(_dial(registers, dials, m, entry + COAT_ROUGHNESS, column, ZERO, ONE))
    _put_films(layers.films[k], registers, dials, films, m, column, which)
    _put_normal(layers.normal[k], axes, registers, dials, m, entry + COAT_NORMAL, column, j, frame_here)
    n = _dial(registers, dials, m, entry + COAT_IOR, column, F(0.2), F(10))
    _put_color(layers.clear[k + 1], registers, dials, m, entry + COAT_COLOR, column, layers.nm)
    for w in range(4):
        layers.index[k + 1, w] = n
        layers.clear[k + 1, w] = sqrt(max(layers.clear[k + 1, w], F(1e-6)))


@optic
def _put_metal(layers, registers, dials, curves, measured, m, k, column):
    """A metal as boundary k."""
    if measured:
        for w in range(4):
            layers.index[k + 1, w] = curve_at(curves[m * CURVES + INDEX], layers.nm[w])
            layers.extinction[w] = max(curve_at(curves[m * CURVES + EXTINCTION], layers.nm[w]), F(1e-6))
        return
    _put_color(layers.index[k + 1], registers, dials, m, FACING, column, layers.nm)
    _put_color(layers.extinction, registers, dials, m, EDGE, column, layers.nm)
    for w in range(4):
        n, extinction = metal_of_colors(layers.index[k + 1, w], layers.extinction[w])
        layers.index[k + 1, w], layers.extinction[w] = n, max(extinction, F(1e-6))


@optic
def _put_bottom(layers, axes, registers, dials, films, curves, mirror_tinted, m, k, column, j, frame_here):
    """The interface or the metal as boundary k."""
    layers.alpha[k] = alpha_of(_dial(registers, dials, m, ROUGHNESS, column, ZERO, ONE))
    _put_films(layers.films[k], registers, dials, films, m, column, ON_BASE)
    _put_normal(layers.normal[k], axes, registers, dials, m, NORMAL, column, j, frame_here)
    for w in range(4):
        layers.tint[w] = curve_at(curves[m * CURVES + TINT], layers.nm[w])
        layers.mirrored[w] = curve_at(curves[m * CURVES + MIRRORED], layers.nm[w]) if mirror_tinted else ONE
        layers.extinction[w] = ZERO


@optic
def _put_body(layers, axes, registers, dials, m, column, j, frame_here):
    layers.body[0] = _dial(registers, dials, m, BODY_WEIGHT, column, ZERO, ONE)
    layers.body[1] = _dial(registers, dials, m, BODY_ROUGHNESS, column, ZERO, ONE)
    _put_normal(layers.body_normal, axes, registers, dials, m, BODY_NORMAL, column, j, frame_here)
    _put_color(layers.body_color, registers, dials, m, BODY_COLOR, column, layers.nm)


@optic
def _put_fuzz(layers, axes, registers, dials, m, column, j, frame_here):
    layers.fuzz[0] = _dial(registers, dials, m, FUZZ_WEIGHT, column, ZERO, ONE)
    layers.fuzz[1] = _dial(registers, dials, m, FUZZ_ROUGHNESS, column, F(0.01), ONE)
    _put_color(layers.fuzz_color, registers, dials, m, FUZZ_COLOR, column, layers.nm)
    _put_normal(layers.fuzz_normal, axes, registers, dials, m, FUZZ_NORMAL, column, j, frame_here)


@optic
def _any_rough(alpha, count):
    for k in range(count):  # noqa: SIM110
        if alpha[k] > ROUGH_FROM * ROUGH_FROM:
            return True
    return False


@optic
def _bring_forward(paths, i, w):
    """Have wavelength w of a path stand first: directions in a stack of bands are those of the first."""
    if w == 0:
        return
    for row in (paths.wavelength, paths.weight, paths.light, paths.per_density, paths.sigma_a):
        row[0, i], row[w, i] = row[w, i], row[0, i]


@optic
def _keep_first(batch, i):
    """Let a path go on with its first wavelength alone, for all four. Source: Wilkie et al. 2014, 4."""
    paths = batch.paths
    paths.weight[0, i] *= F(4)
    for w in range(1, 4):
        paths.weight[w, i] = ZERO
    paths.state[i] |= ALONE
    batch.counts[WHOLE] -= 1


@kernel
def shade_layers(batch, registers, scene, seed):
    """Send every path at a stack of bands on its way."""
    paths, hits, things, matters, layers = batch.paths, batch.hits, scene.things, scene.matters, batch.layers
    dials = matters.dials
    tables = Tables(scene.albedo, scene.mean_missing, scene.mirror_albedo, scene.diffuse)
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        m = hits.matter[i]
        if matters.surface[m] != LAYERED:
            continue
        j = hits.thing[i]
        wo, flat, normal = negate(vec3(paths.direction, i)), vec3(hits.flat, i), vec3(hits.normal, i)
        entering = dot(wo, flat) > ZERO
        if (dot(wo, normal) > F(1e-4)) != entering or abs(dot(wo, normal)) < F(1e-4):
            normal = flat
        before = paths.medium[i]
        if not entering and before == AIR:
            before = j
        after = medium_with(paths, i, things.priority, j) if entering else medium_without(paths, i, things.priority, j)
        if before == after or (matters.metal[m] and not entering):
            if before != after:
                for w in range(4):
                    paths.weight[w, i] = ZERO
            elif entering:
                enter(paths, i, j)
            else:
                leave(paths, i, j)
            put3(
                paths.origin,
                i,
                add(vec3(paths.origin, i), scale(flat, -scene.clearance if entering else scene.clearance)),
            )
            continue
        dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
        alone = paths.state[i] & ALONE != 0
        parts = not alone and (parts_light(scene, before) or parts_light(scene, after))
        if alone:
            _bring_forward(paths, i, living(paths, i))
        elif parts:
            hero = single(seed, paths.pixel[i], paths.sample[i], dimension + HERO)
            _bring_forward(paths, i, min(int(hero * F(4)), 3))
        outside, within = (before, after) if entering else (after, before)
        x, y = frame(normal)
        here = (x, y, normal)
        lottery = single(seed, paths.pixel[i], paths.sample[i], dimension + BODY)
        coats = 0
        for w in range(4):
            layers.nm[w] = paths.wavelength[w, i]
            layers.index[0, w] = index_of(outside, layers.nm[0], things, matters)
            layers.clear[0, w] = ONE
        for which in range(matters.coats[m]):
            chance = lottery if which == 0 else ONE - lottery
            if chance < _dial(registers, dials, m, COATS + PER_COAT * which + COAT_WEIGHT, column, ZERO, ONE):
                _put_coat(layers, things.axes, registers, dials, matters.films, m, which, coats, column, j, here)
                coats += 1
        boundaries = coats + (1 if matters.base[m] else 0)
        for w in range(4):
            layers.clear[coats + 1, w] = ONE
            if matters.base[m]:
                layers.index[coats + 1, w] = index_at(things, matters, within, j, m, layers.nm[w], registers, column)
        _put_bottom(
            layers,
            things.axes,
            registers,
            dials,
            matters.films,
            matters.curves,
            matters.mirror_tinted[m],
            m,
            coats,
            column,
            j,
            here,
        )
        rough = _any_rough(layers.alpha, coats + 1)
        if matters.metal[m]:
            _put_metal(layers, registers, dials, matters.curves, matters.metal[m] == 1, m, coats, column)
        if matters.body[m] >= 0:
            _put_body(layers, things.axes, registers, dials, m, column, j, here)
        if matters.fuzz[m]:
            _put_fuzz(layers, things.axes, registers, dials, m, column, j, here)
        rough = rough or matters.body[m] >= 0 or matters.fuzz[m] != 0
        around = LIGHT if paths.state[i] & SCATTERED or matters.body[m] >= 0 else REFLECTIONS
        lamp, way, distance, density, glossy = -1, normal, ZERO, ZERO, ZERO
        start = add(vec3(paths.origin, i), scale(flat, scene.clearance))
        if rough:
            lamp, way, distance, density = ask(scene, paths, i, around, seed)
            if distance <= ZERO or dot(way, flat) <= ZERO or dot(way, normal) <= ZERO:
                density = ZERO
            glossy = density
            if not paths.state[i] & SCATTERED:
                glossy *= F(picks(scene, around)[0]) / F(max(picks(scene, REFLECTIONS)[0], 1))
                if lamp < 0 and around == LIGHT and not scene.same_reflections:
                    glossy = ZERO
        asked = Asked(to_local(way, x, y, normal), density, glossy, 1 if meets_by_chance(scene, lamp) else 0)
        a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
        state = U(key_of(seed, paths.pixel[i], dimension + BODY) ^ mix_bits(U(paths.sample[i]) * U(0x85EBCA6B)))
        choice = single(seed, paths.pixel[i], paths.sample[i], dimension + CHOICE)
        stack = Stack(coats, boundaries, matters.metal[m], matters.body[m], matters.fuzz[m])
        local = to_local(vec3(paths.direction, i), x, y, normal)
        outcome, onward, weights, pdf, matt, sent = walk_layers(
            layers, tables, stack, local, not entering, asked, state, choice, a, b
        )
        if density > ZERO and sent[0] + sent[1] + sent[2] + sent[3] > ZERO:
            queue_light(batch, scene, i, things.bit[j], outside, start, lamp, around, way, distance, sent)
        for w in range(4):
            paths.weight[w, i] *= weights[w]
        onward = to_world(onward, x, y, normal)
        goes_out = outcome == OUTSIDE
        if (dot(onward, flat) > ZERO) != goes_out:
            onward = add(onward, scale(flat, -TWO * dot(onward, flat)))
        if outcome != LOST and goes_out != entering:
            if entering:
                enter(paths, i, j)
            else:
                leave(paths, i, j)
            take_up(paths, i, after, things, matters, j, registers, column)
            if parts:
                _keep_first(batch, i)
            if matters.fan[m] and matters.dispersive[m]:
                paths.fan[i] = m + 1
        if matt:
            paths.state[i] |= MEASURED | SCATTERED
        paths.pdf[i] = pdf if goes_out else -ONE
        put3(paths.direction, i, onward)
        put3(paths.origin, i, start if goes_out else add(vec3(paths.origin, i), scale(flat, -scene.clearance)))
        paths.bounce[i] += 1
        paths.bit[i] = things.bit[j]
