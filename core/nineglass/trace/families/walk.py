"""The way of light through a stack of layers at one place: lobes atop, coats and films over a metal, body colour or clear matter.

Light is walked through the stack as through real layers: at each boundary it is mirrored or passes, in a coat it is absorbed along
its slant, and what lies at the bottom throws it back; so a coat darkens and saturates what it covers, and nothing is gained or lost.
Every rough or matt event on the way, and the first rough boundary on the way out of what has met polished ones only, adds what it
sends to one lamp direction, bent through the layers above it; right after such an event the boundaries on the way out count as
polished, so that both ways of meeting the lamp agree. Sources: Guo, Hasan & Zhao 2018, Position-Free Monte Carlo Simulation for Arbitrary Layered BSDFs
(the walk); OpenPBR 1.1 (what the layers are); Veach 1997 (the balance with lamps met by chance).

Directions are in the frame of the surface: z is its normal, light on its way in has z < 0.
"""

from math import exp, log, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import ONE, PI, QUARTER, ZERO, F, stand_alone, step
from nineglass.optics.boundary import (
    Energies,
    boundary_values,
    four_reflectances,
    plus4,
    rest4,
    sample_boundary,
    scale4,
    times4,
)
from nineglass.optics.diffuse import even_direction
from nineglass.optics.film import turned_over
from nineglass.optics.microfacet import SMOOTHEST, sample_visible_normal, sanded_density, smith_lambda
from nineglass.trace.families.lobes import lobe_albedo, lobe_values
from nineglass.trace.light.ask import mis_weight
from nineglass.trace.paths import BY_MIRROR
from nineglass.trace.random import next_random
from nineglass.vectors import cross, dot, frame, negate, reflect, refract, scale, sub, to_local, to_world, unit

STEPS = 256
ROULETTE_FROM = 8
HARDLY_BENT = F(0.02)
"""Index ratios closer to 1 than this are treated as polished: their facets hardly turn light, and cannot be told from it."""

UP = (F(0), F(0), F(1))
FLAKE = np.int32(2)
"""What `Stack.metal` is where a path meets flakes."""

NONE4 = (F(0), F(0), F(0), F(0))
ONES4 = (F(1), F(1), F(1), F(1))
OUTSIDE, INSIDE, LOST = 0, 1, 2
"""Where light goes from a stack: out of it, on into the matter, nowhere."""


class Tables(NamedTuple):
    """What the responses need to have at hand."""

    energies: Energies
    diffuse: np.ndarray


class Stack(NamedTuple):
    """What kind of stack it is."""

    coats: int
    boundaries: int  # those that light may pass: the coats, and the interface if there is one
    metal: int  # whether nothing passes the last boundary; FLAKE for flakes
    tops: int  # lobes atop everything, the first of all
    lobes: int  # all lobes


class Asked(NamedTuple):
    """The lamp direction that was drawn for the hit."""

    way: tuple
    density: np.float32  # 0 for none
    glossy_density: np.float32  # as polished and rough events would have drawn it; 0 where they must not ask
    by_chance: int  # whether a ray may meet that light by chance


class Boundary(NamedTuple):
    """A boundary as light meets it: z of its frame points to where the light comes from."""

    own: tuple  # the frame, three vectors
    wo: tuple  # where the light comes from, in that frame
    alpha: np.float32
    stretch: np.float32
    films: tuple
    before: np.float32  # index at the first wavelength
    beyond: tuple  # indices at the four
    extinction: tuple
    sheen: bool  # whether it is of many flakes


@step
def four(row):
    """What a row holds at the four wavelengths."""
    return row[0], row[1], row[2], row[3]


@step
def films_at(layers, k):
    """The films on boundary k, as `optics.film.NO_FILMS`."""
    f = layers.films[k]
    return int(f[0]), f[1], f[2], f[3], f[4], f[5], f[6], f[7], f[8]


@step
def _faced(row, direction, up):
    """A normal, or the smooth one where light would come from its back."""
    normal = (row[0], row[1], row[2])
    away = dot(direction, normal)
    if abs(away) <= F(1e-4) or (away > ZERO) != up:
        return UP
    return normal


@step
def _crossed(layers, level, cosine):
    """What is left of light that crosses a medium once at a slant."""
    clear = layers.clear[level]
    if clear[0] >= ONE and clear[1] >= ONE and clear[2] >= ONE and clear[3] >= ONE:
        return ONES4
    way = ONE / max(abs(cosine), F(0.01))
    return exp(way * log(clear[0])), exp(way * log(clear[1])), exp(way * log(clear[2])), exp(way * log(clear[3]))


@step
def _see_through(layers, stack, level):
    """Work out `layers.seen` of medium `level` from that of the medium above it."""
    above, into = layers.seen[level - 1], layers.seen[level]
    into[8] = ZERO
    if above[8] <= ZERO:
        return
    k, way = level - 1, (above[0], above[1], above[2])
    normal = _faced(layers.normal[k], way, True)
    before, below = layers.index[k, 0], four(layers.index[k + 1])
    eta, cos_a = below[0] / before, min(dot(way, normal), ONE)
    sin2 = (ONE - cos_a * cos_a) / (eta * eta)
    if sin2 >= F(0.9999) or cos_a <= F(1e-4):
        return
    cos_b = sqrt(ONE - sin2)
    mirrored, share = four_reflectances(films_at(layers, k), cos_a, before, below, NONE4, four(layers.nm))
    way = negate(refract(way, normal, eta, cos_a, cos_b))
    if way[2] <= F(1e-4):
        return
    shares = times4((above[3], above[4], above[5], above[6]), times4(rest4(mirrored), _crossed(layers, level, way[2])))
    if k == stack.coats:
        shares = times4(shares, four(layers.tint))
    into[0], into[1], into[2] = way
    into[3], into[4], into[5], into[6] = shares
    into[7] = above[7] * cos_a / (eta * eta * cos_b)
    into[8] = above[8] * (ONE - share)


@step
def _to_lamp(layers, stack, level, known):
    """The lamp direction as seen from medium `level`: (up to which medium it is worked out, it bent there, what passes, solid angle
    there over outside, chance that light on its way back passes); a chance of 0 where it cannot be."""
    for below in range(known + 1, level + 1):
        _see_through(layers, stack, below)
    s = layers.seen[level]
    return max(known, level), (s[0], s[1], s[2]), (s[3], s[4], s[5], s[6]), s[7], s[8]


@step
def _frame_about(normal):
    x, y = frame(normal)
    return x, y, normal


@step
def _frame_at(layers, k, normal):
    """The frame of boundary k about a normal, along its direction where it is sanded."""
    if layers.stretch[k] == ONE:
        return _frame_about(normal)
    way = (layers.along[k, 0], layers.along[k, 1], layers.along[k, 2])
    x = sub(way, scale(normal, dot(way, normal)))
    if dot(x, x) < F(1e-6):
        return _frame_about(normal)
    x = unit(x)
    return x, cross(normal, x), normal


@step
def _in(own, w):
    return to_local(w, own[0], own[1], own[2])


@step
def _out_of(own, w):
    return to_world(w, own[0], own[1], own[2])


@step
def _sent(asked, matt, weight, values, shares, spread, pdf):
    """What one event sends to the lamp, balanced against meeting the lamp by chance, over the density of the direction."""
    own = asked.density if matt else asked.glossy_density
    if own <= ZERO:
        return NONE4
    balance = mis_weight(own, pdf) if asked.by_chance else ONE
    return scale4(times4(times4(weight, values), shares), spread * balance / asked.density)


@step
def _lobe_event(layers, tables, k, wo, wi):
    """(responses times cosine of lobe k, pdf of an even direction)."""
    return lobe_values(layers.lobe[k], tables, layers.lobe_dials[k], wo, wi), wi[2] / PI


@step
def _at_top(layers, tables, stack, direction, asked, state, u, v):
    """Whether light is thrown back by a lobe atop: (state, whether, direction, weights, pdf, what is sent to the lamp)."""
    for k in range(stack.tops):
        own = _frame_about(_faced(layers.lobe_normal[k], direction, False))
        wo = _in(own, negate(direction))
        albedo = lobe_albedo(layers.lobe[k], tables, layers.lobe_dials[k], wo[2])
        state, chance = next_random(state)
        if chance >= layers.amount[k] * albedo:
            continue
        sent, toward, onward = NONE4, _in(own, asked.way), even_direction(u, v)
        if asked.density > ZERO and asked.way[2] > ZERO and toward[2] > ZERO:
            values, pdf = _lobe_event(layers, tables, k, wo, toward)
            sent = _sent(asked, True, ONES4, values, ONES4, ONE / albedo, pdf)
        values, pdf = _lobe_event(layers, tables, k, wo, onward)
        return state, True, _out_of(own, onward), scale4(values, ONE / (pdf * albedo)), pdf, sent
    return state, False, direction, ONES4, BY_MIRROR, NONE4


@step
def _at_bottom(layers, stack, state):
    """Which lobe at the bottom light meets, -1 for none: (state, lobe)."""
    for k in range(stack.tops, stack.lobes):
        state, chance = next_random(state)
        if chance < layers.amount[k]:
            return state, k
    return state, -1


@step
def _from_beneath(layers, tables, k, direction, u, v):
    """Light from within the matter that a lobe at the bottom throws back: (direction, weights)."""
    onward = even_direction(u, v)
    values, pdf = _lobe_event(layers, tables, k, (-direction[0], -direction[1], direction[2]), onward)
    return (onward[0], onward[1], -onward[2]), scale4(values, ONE / pdf)


@step
def _boundary(layers, stack, k, up, direction, own, ends):
    """Boundary k for light on its way up or down. ends: whether nothing passes it (a metal)."""
    sheen = ends and not up and stack.metal == FLAKE and layers.lean[0] == ZERO
    above, below, films = four(layers.index[k]), four(layers.index[k + 1]), films_at(layers, k)
    wo, extinction = _in(own, negate(direction)), four(layers.extinction) if ends else NONE4
    if up:
        return Boundary(
            own, wo, layers.alpha[k], layers.stretch[k], turned_over(films), below[0], above, extinction, sheen
        )
    return Boundary(own, wo, layers.alpha[k], layers.stretch[k], films, above[0], below, extinction, sheen)


@step
def _sheen(layers, b, wi):
    """(responses times cosine, pdf) of many flakes. Each lies by itself: none hides another, and what a steep one throws down is thrown up
    again, as off a single one."""
    values, pdf, nm = NONE4, ZERO, four(layers.nm)
    around = QUARTER / ((ONE + smith_lambda(b.wo[2], b.alpha)) * b.wo[2])
    for turned in (ONE, -ONE):
        h = unit((b.wo[0] + wi[0], b.wo[1] + wi[1], b.wo[2] + turned * wi[2]))
        facing = dot(b.wo, h)
        if wi[2] > ZERO and h[2] > ZERO and facing > ZERO:
            density = around * sanded_density(h, b.alpha, ONE)
            shares, _ = four_reflectances(b.films, min(facing, ONE), b.before, b.beyond, b.extinction, nm)
            values, pdf = plus4(values, scale4(shares, density)), pdf + density
    return values, pdf


@step
def _boundary_event(layers, tables, b, wi):
    """(responses times cosine, pdf) of a rough boundary."""
    if b.sheen:
        return _sheen(layers, b, wi)
    return boundary_values(
        tables.energies,
        b.wo,
        wi,
        b.alpha,
        b.stretch,
        b.films,
        b.before,
        b.beyond,
        b.extinction,
        four(layers.nm),
    )


@step
def _rough_event(layers, tables, b, lobe, u, v, choice):
    """Light at a matt bottom (lobe) or a rough boundary: (direction in its frame, weights, pdf); a pdf of 0 where it is lost."""
    stand_alone()
    if lobe >= 0:
        onward = even_direction(u, v)
        values, pdf = _lobe_event(layers, tables, lobe, b.wo, onward)
        return onward, scale4(values, ONE / pdf), pdf
    if b.sheen:
        onward = reflect(b.wo, sample_visible_normal(b.wo, b.alpha, u, v))
        onward = (onward[0], onward[1], abs(onward[2]))
    else:
        onward = sample_boundary(
            tables.energies,
            b.wo,
            b.alpha,
            b.stretch,
            b.films,
            b.before,
            b.beyond,
            b.extinction,
            four(layers.nm),
            u,
            v,
            choice,
        )
    if onward[2] == ZERO:
        return onward, NONE4, ZERO
    values, pdf = _boundary_event(layers, tables, b, onward)
    if pdf <= F(1e-20):
        return onward, NONE4, ZERO
    return onward, scale4(values, ONE / pdf), pdf


@step
def _polished_event(layers, b, ends, leaving, pdf, choice):
    """Light at a polished boundary: (direction in its frame, whether it passed, weights, pdf). leaving: on its way out."""
    cos_i = min(b.wo[2], ONE)
    shares, share = four_reflectances(b.films, cos_i, b.before, b.beyond, b.extinction, four(layers.nm))
    eta = b.beyond[0] / b.before
    sin2 = (ONE - cos_i * cos_i) / (eta * eta)
    if not ends and choice >= share and sin2 < ONE:
        cos_t = sqrt(ONE - sin2)
        if leaving and pdf >= ZERO:
            pdf = pdf * (ONE - share) * eta * eta * cos_t / cos_i
        else:
            pdf = BY_MIRROR
        return refract(b.wo, UP, eta, cos_i, cos_t), True, scale4(rest4(shares), ONE / (ONE - share)), pdf
    return reflect(b.wo, UP), False, shares if ends else scale4(shares, ONE / max(share, F(1e-12))), BY_MIRROR


@step
def _meet_another_flake(layers, k, direction, state):
    """Light that was thrown back into the coat comes down on a flake that leans otherwise."""
    state, a = next_random(state)
    state, b = next_random(state)
    normal = sample_visible_normal(negate(direction), layers.lean[0], a, b)
    layers.normal[k, 0], layers.normal[k, 1], layers.normal[k, 2] = normal
    return state


@step
def off_the_back(layers, stack, direction):
    """Light from within the matter that a flake on its boundary throws back: (direction, weights)."""
    k = stack.coats
    normal = _faced(layers.normal[k], direction, True)
    cosine = min(dot(direction, normal), ONE)
    extinction, before, beyond = four(layers.extinction), layers.index[k, 0], four(layers.index[k + 1])
    shares, _ = four_reflectances(films_at(layers, k), cosine, before, beyond, extinction, four(layers.nm))
    onward = sub(direction, scale(normal, cosine + cosine))
    return (onward[0], onward[1], -abs(onward[2])), times4(shares, four(layers.first))


@step
def walk_layers(layers, tables, stack, direction, inside, asked, state, choice, u, v):
    """Walk light through the stack.

    direction: as the light goes, down from outside or up from inside. state, choice, u, v: random numbers.
    Returns (outcome, direction, weights, pdf or BY_MIRROR, whether it met something matt, what is sent to the lamp).
    """
    weight, sent, pdf, matt, known = ONES4, NONE4, BY_MIRROR, False, 0
    s = layers.seen[0]
    s[0], s[1], s[2] = asked.way
    s[3], s[4], s[5], s[6], s[7], s[8] = ONE, ONE, ONE, ONE, ONE, ONE
    level = stack.boundaries if inside else 0
    if not inside:
        state, met, onward, weight, pdf, sent = _at_top(layers, tables, stack, direction, asked, state, u, v)
        if met:
            return OUTSIDE if onward[2] > ZERO else LOST, onward, weight, pdf, True, sent
    else:
        state, lobe = _at_bottom(layers, stack, state)
        if lobe >= 0:
            onward, weight = _from_beneath(layers, tables, lobe, direction, u, v)
            return INSIDE, onward, weight, BY_MIRROR, True, sent
    has_come_down = False
    for event in range(STEPS):
        if event > 0:
            state, choice = next_random(state)
        if event > ROULETTE_FROM:
            keep = min(max(weight[0], weight[1], weight[2], weight[3], F(0.05)), ONE)
            state, chance = next_random(state)
            if chance >= keep:
                return LOST, direction, NONE4, BY_MIRROR, matt, sent
            weight = scale4(weight, ONE / keep)
        up = direction[2] > ZERO
        if up and level == 0:
            return OUTSIDE, direction, weight, pdf, matt, sent
        if not up and level == stack.coats and not has_come_down:
            weight, has_come_down = times4(weight, four(layers.first)), True
        elif not up and level == stack.coats and stack.metal == FLAKE and layers.lean[0] > ZERO:
            state = _meet_another_flake(layers, level, direction, state)
        at_bottom, lobe = not up and level == stack.boundaries, -1
        if at_bottom and not stack.metal:
            state, lobe = _at_bottom(layers, stack, state)
            if lobe < 0:
                return INSIDE, direction, weight, BY_MIRROR, matt, sent
        k = level - 1 if up else level
        normal = _faced(layers.lobe_normal[lobe] if lobe >= 0 else layers.normal[k], direction, up)
        at = min(k, layers.alpha.size - 1)
        facing = negate(normal) if up else normal
        own = _frame_about(facing) if lobe >= 0 else _frame_at(layers, at, facing)
        b = _boundary(layers, stack, at, up, direction, own, at_bottom)
        bends = b.extinction[0] > ZERO or abs(b.beyond[0] / b.before - ONE) > HARDLY_BENT
        rough = lobe >= 0 or (b.alpha >= SMOOTHEST and bends and (not up or pdf < ZERO))
        if rough:
            if asked.density > ZERO:
                known, seen, shares, spread, chance = _to_lamp(layers, stack, k if up else level, known)
                toward = _in(own, seen)
                if chance > ZERO and (toward[2] < ZERO) == up:
                    if lobe >= 0:
                        values, p = _lobe_event(layers, tables, lobe, b.wo, toward)
                    else:
                        values, p = _boundary_event(layers, tables, b, toward)
                        if k == stack.coats:
                            values = times4(values, four(layers.tint) if up else four(layers.mirrored))
                    sent = plus4(sent, _sent(asked, lobe >= 0, weight, values, shares, spread, p * spread * chance))
            onward, gained, pdf = _rough_event(layers, tables, b, lobe, u, v, choice)
            if pdf <= ZERO:
                return LOST, direction, NONE4, BY_MIRROR, matt, sent
            weight, passed, matt = times4(weight, gained), onward[2] < ZERO, matt or lobe >= 0
            state, u = next_random(state)
            state, v = next_random(state)
            if up and not passed:
                pdf = BY_MIRROR
        else:
            onward, passed, gained, pdf = _polished_event(layers, b, at_bottom, up, pdf, choice)
            weight = times4(weight, gained)
        onward = _out_of(own, onward)
        if (onward[2] > ZERO) != (up == passed):
            onward = (onward[0], onward[1], -onward[2])
        direction = onward
        if k == stack.coats and not passed and not up and lobe < 0:
            weight = times4(weight, four(layers.mirrored))
        if passed:
            level += -1 if up else 1
            if k == stack.coats:
                weight = times4(weight, four(layers.tint))
        elif up and inside and not matt and level == stack.boundaries:
            return INSIDE, direction, weight, BY_MIRROR, matt, sent
        weight = times4(weight, _crossed(layers, level, direction[2]))
    return LOST, direction, NONE4, BY_MIRROR, matt, sent
