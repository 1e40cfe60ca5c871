"""The way of light through a stack of layers at one place: fuzz, coats and films over a metal, body colour or clear matter.

Light is walked through the stack as through real layers: at each boundary it is mirrored or passes, in a coat it is absorbed along
its slant, and what lies at the bottom throws it back; so a coat darkens and saturates what it covers, and nothing is gained or lost.
Every rough or matt event on the way, and the first rough boundary on the way out of what has met polished ones only, adds what it
sends to one lamp direction, bent through the layers above it; right after such an event the boundaries on the way out count as
polished, so that both ways of meeting the lamp agree. Sources: Guo, Hasan & Zhao 2018, Position-Free Monte Carlo Simulation for Arbitrary Layered BSDFs
(the walk); OpenPBR 1.1 (what the layers are); Veach 1997 (the balance with lamps met by chance).

Directions are in the frame of the surface: z is its normal, light on its way in has z < 0.
"""

from math import cos, exp, log, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import ONE, PI, TWO, ZERO, F, optic
from nineglass.optics.boundary import boundary_values, four_reflectances, rest4, sample_boundary, scale4, times4
from nineglass.optics.diffuse import VELVET, albedo_at, diffuse_parts, diffuse_value
from nineglass.optics.film import turned_over
from nineglass.optics.microfacet import SMOOTHEST
from nineglass.trace.ask_lamps import mis_weight
from nineglass.trace.random import BELOW_ONE, TO_UNIT, U, mix_bits
from nineglass.vectors import dot, frame, negate, reflect, refract, to_local, to_world

STEPS = 256
HARDLY_BENT = F(0.02)
"""Index ratios closer to 1 than this are treated as polished: their facets hardly turn light, and cannot be told from it."""

UP = (F(0), F(0), F(1))
NONE4 = (F(0), F(0), F(0), F(0))
ONES4 = (F(1), F(1), F(1), F(1))
OUTSIDE, INSIDE, LOST = 0, 1, 2


class Tables(NamedTuple):
    """What the responses need to have at hand."""

    albedo: np.ndarray
    mean_missing: np.ndarray
    mirror_albedo: np.ndarray
    diffuse: np.ndarray


class Stack(NamedTuple):
    """What kind of stack it is."""

    coats: int
    boundaries: int  # those that light may pass: the coats, and the interface if there is one
    metal: int
    grain: int  # of the body colour, -1 for none
    fuzzy: int


class Asked(NamedTuple):
    """The lamp direction that was drawn for the hit."""

    way: tuple
    density: np.float32  # 0 for none
    glossy_density: np.float32  # as polished and rough events would have drawn it; 0 where they must not ask
    by_chance: int  # whether a ray may meet that light by chance


@optic
def _next(state):
    """The next of a row of random numbers: (state, number in [0, 1))."""
    state = U(mix_bits(U(state) + U(0x9E3779B9)))
    return state, min(F(state) * TO_UNIT, BELOW_ONE)


@optic
def _four(row):
    return row[0], row[1], row[2], row[3]


@optic
def _films(layers, k):
    f = layers.films[k]
    return int(f[0]), f[1], f[2], f[3], f[4], f[5], f[6], f[7], f[8], f[9]


@optic
def _faced(normal, direction, up):
    """A normal, or the smooth one where light would come from its back."""
    away = dot(direction, normal)
    if abs(away) <= F(1e-4) or (away > ZERO) != up:
        return UP
    return normal


@optic
def _crossed(layers, level, cosine):
    """What is left of light that crosses a medium once at a slant."""
    clear = layers.clear[level]
    if clear[0] >= ONE and clear[1] >= ONE and clear[2] >= ONE and clear[3] >= ONE:
        return ONES4
    way = ONE / max(abs(cosine), F(0.01))
    return exp(way * log(clear[0])), exp(way * log(clear[1])), exp(way * log(clear[2])), exp(way * log(clear[3]))


@optic
def _to_lamp(layers, stack, level, way):
    """A direction to a lamp as seen from medium `level`: (it bent there, what passes, solid angle there over outside, chance that
    light on its way back passes); a chance of 0 where it cannot be."""
    shares, spread, chance = ONES4, ONE, ONE
    for k in range(level):
        normal = _faced((layers.normal[k, 0], layers.normal[k, 1], layers.normal[k, 2]), way, True)
        above, below = layers.index[k, 0], _four(layers.index[k + 1])
        eta, cos_a = below[0] / above, min(dot(way, normal), ONE)
        sin2 = (ONE - cos_a * cos_a) / (eta * eta)
        if sin2 >= F(0.9999) or cos_a <= F(1e-4):
            return way, NONE4, ZERO, ZERO
        cos_b = sqrt(ONE - sin2)
        mirrored, share = four_reflectances(_films(layers, k), cos_a, above, below, NONE4, _four(layers.nm))
        way = negate(refract(way, normal, eta, cos_a, cos_b))
        if way[2] <= F(1e-4):
            return way, NONE4, ZERO, ZERO
        shares = times4(shares, times4(rest4(mirrored), _crossed(layers, k + 1, way[2])))
        if k == stack.coats:
            shares = times4(shares, _four(layers.tint))
        spread, chance = spread * cos_a / (eta * eta * cos_b), chance * (ONE - share)
    return way, shares, spread, chance


@optic
def _matt_event(layers, tables, stack, wo, wi):
    """Body colour: (responses times cosine, pdf); wo and wi in its own frame."""
    single, more, mean = diffuse_parts(tables.diffuse, stack.grain, layers.body[1], wo, wi)
    color = _four(layers.body_color)
    values = (
        diffuse_value(single, more, mean, color[0]),
        diffuse_value(single, more, mean, color[1]),
        diffuse_value(single, more, mean, color[2]),
        diffuse_value(single, more, mean, color[3]),
    )
    return values, wi[2] / PI


@optic
def _event(layers, tables, stack, matt, wo, wi, alpha, films, before, beyond, extinction):
    """A rough boundary, a rough metal or body colour: (responses times cosine, pdf); directions in its own frame."""
    if matt:
        return _matt_event(layers, tables, stack, wo, wi)
    return boundary_values(
        tables.albedo,
        tables.mean_missing,
        tables.mirror_albedo,
        wo,
        wi,
        alpha,
        films,
        before,
        beyond,
        extinction,
        _four(layers.nm),
    )


@optic
def _even_direction(u, v):
    r, phi = sqrt(u), TWO * PI * v
    return r * cos(phi), r * sin(phi), sqrt(max(ONE - u, F(1e-8)))


@optic
def _in(own, w):
    return to_local(w, own[0], own[1], own[2])


@optic
def _out_of(own, w):
    return to_world(w, own[0], own[1], own[2])


@optic
def _sent(asked, matt, weight, values, shares, spread, pdf):
    """What one event sends to the lamp, balanced against meeting the lamp by chance, over the density of the direction."""
    own = asked.density if matt else asked.glossy_density
    if own <= ZERO:
        return NONE4
    balance = mis_weight(own, pdf) if asked.by_chance else ONE
    return scale4(times4(times4(weight, values), shares), spread * balance / asked.density)


@optic
def _plus(a, b):
    return a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3]


@optic
def _fuzz_event(layers, tables, wo, wi):
    single, _, _ = diffuse_parts(tables.diffuse, VELVET, layers.fuzz[1], wo, wi)
    return scale4(_four(layers.fuzz_color), layers.fuzz[0] * single), wi[2] / PI


@optic
def walk_layers(layers, tables, stack, direction, inside, asked, state, choice, u, v):
    """Walk light through the stack.

    direction: as the light goes, down from outside or up from inside. state, choice, u, v: random numbers.
    Returns (outcome, direction, weights, pdf or -1, whether it met something matt, what is sent to the lamp).
    """
    weight, sent, pdf, matt = ONES4, NONE4, -ONE, False
    level = stack.boundaries if inside else 0
    if not inside and stack.fuzzy:
        normal = _faced((layers.fuzz_normal[0], layers.fuzz_normal[1], layers.fuzz_normal[2]), direction, False)
        share = layers.fuzz[0] * albedo_at(tables.diffuse, VELVET, layers.fuzz[1], -dot(direction, normal))
        state, chance = _next(state)
        if chance < share:
            own_x, own_y = frame(normal)
            own = (own_x, own_y, normal)
            wo, toward = _in(own, negate(direction)), _in(own, asked.way)
            if asked.density > ZERO and asked.way[2] > ZERO and toward[2] > ZERO:
                values, p = _fuzz_event(layers, tables, wo, toward)
                sent = _sent(asked, True, ONES4, values, ONES4, ONE / share, p)
            onward = _even_direction(u, v)
            values, p = _fuzz_event(layers, tables, wo, onward)
            onward = _out_of(own, onward)
            if onward[2] <= ZERO:
                return LOST, direction, NONE4, -ONE, True, sent
            return OUTSIDE, onward, scale4(values, ONE / (p * share)), p, True, sent
    if inside and stack.grain >= 0:
        state, chance = _next(state)
        if chance < layers.body[0]:
            onward = _even_direction(u, v)
            values, p = _matt_event(layers, tables, stack, (-direction[0], -direction[1], direction[2]), onward)
            return INSIDE, (onward[0], onward[1], -onward[2]), scale4(values, ONE / p), -ONE, True, sent
    for step in range(STEPS):
        if step > 0:
            state, choice = _next(state)
        if step > 8:
            keep = min(max(weight[0], weight[1], weight[2], weight[3], F(0.05)), ONE)
            state, chance = _next(state)
            if chance >= keep:
                return LOST, direction, NONE4, -ONE, matt, sent
            weight = scale4(weight, ONE / keep)
        up = direction[2] > ZERO
        if up and level == 0:
            return OUTSIDE, direction, weight, pdf, matt, sent
        at_bottom = not up and level == stack.boundaries
        matt_event = at_bottom and not stack.metal
        if matt_event:
            state, chance = _next(state)
            if stack.grain < 0 or chance >= layers.body[0]:
                return INSIDE, direction, weight, -ONE, matt, sent
        k = level - 1 if up else level
        normal = (layers.normal[k, 0], layers.normal[k, 1], layers.normal[k, 2])
        if matt_event:
            normal = (layers.body_normal[0], layers.body_normal[1], layers.body_normal[2])
        normal = _faced(normal, direction, up)
        above, below = _four(layers.index[k]), _four(layers.index[k + 1])
        extinction = _four(layers.extinction) if at_bottom else NONE4
        alpha, films = layers.alpha[k], _films(layers, k)
        before, beyond = (below[0], above) if up else (above[0], below)
        if up:
            films = turned_over(films)
        bends = extinction[0] > ZERO or abs(beyond[0] / before - ONE) > HARDLY_BENT
        rough = matt_event or (alpha >= SMOOTHEST and bends and (not up or pdf < ZERO))
        own_z = negate(normal) if up else normal
        own_x, own_y = frame(own_z)
        own = (own_x, own_y, own_z)
        local = _in(own, negate(direction))
        if rough and asked.density > ZERO:
            seen, shares, spread, chance = _to_lamp(layers, stack, k if up else level, asked.way)
            toward = _in(own, seen)
            if chance > ZERO and (toward[2] < ZERO) == up:
                values, p = _event(
                    layers, tables, stack, matt_event, local, toward, alpha, films, before, beyond, extinction
                )
                if k == stack.coats and not matt_event:
                    values = times4(values, _four(layers.tint) if up else _four(layers.mirrored))
                sent = _plus(sent, _sent(asked, matt_event, weight, values, shares, spread, p * spread * chance))
        if rough:
            if matt_event:
                onward = _even_direction(u, v)
            else:
                onward = sample_boundary(
                    tables.albedo,
                    tables.mean_missing,
                    local,
                    alpha,
                    films,
                    before,
                    beyond,
                    extinction,
                    _four(layers.nm),
                    u,
                    v,
                    choice,
                )
            if onward[2] == ZERO:
                return LOST, direction, NONE4, -ONE, matt, sent
            values, pdf = _event(
                layers, tables, stack, matt_event, local, onward, alpha, films, before, beyond, extinction
            )
            if pdf <= F(1e-20):
                return LOST, direction, NONE4, -ONE, matt, sent
            weight, passed, matt = times4(weight, scale4(values, ONE / pdf)), onward[2] < ZERO, matt or matt_event
            state, u = _next(state)
            state, v = _next(state)
            if up and not passed:
                pdf = -ONE
        else:
            cos_i = min(local[2], ONE)
            shares, share = four_reflectances(films, cos_i, before, beyond, extinction, _four(layers.nm))
            eta = beyond[0] / before
            sin2 = (ONE - cos_i * cos_i) / (eta * eta)
            passed = not at_bottom and choice >= share and sin2 < ONE
            if passed:
                cos_t = sqrt(ONE - sin2)
                onward = refract(local, UP, eta, cos_i, cos_t)
                weight = times4(weight, scale4(rest4(shares), ONE / (ONE - share)))
                pdf = pdf * (ONE - share) * eta * eta * cos_t / cos_i if up and pdf >= ZERO else -ONE
            else:
                onward = reflect(local, UP)
                weight, pdf = times4(weight, shares if at_bottom else scale4(shares, ONE / max(share, F(1e-12)))), -ONE
        onward = _out_of(own, onward)
        if (onward[2] > ZERO) != (up == passed):
            onward = (onward[0], onward[1], -onward[2])
        direction = onward
        if k == stack.coats and not passed and not up and not matt_event:
            weight = times4(weight, _four(layers.mirrored))
        if passed:
            level += -1 if up else 1
            if k == stack.coats:
                weight = times4(weight, _four(layers.tint))
        elif up and inside and not matt and level == stack.boundaries:
            return INSIDE, direction, weight, -ONE, matt, sent
        weight = times4(weight, _crossed(layers, level, direction[2]))
    return LOST, direction, NONE4, -ONE, matt, sent
