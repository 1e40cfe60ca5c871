"""Strands of hair, fur and bristles: light that each of them mirrors, passes and mirrors within; many times over in a pelt."""

from typing import NamedTuple

import numpy as np

from nineglass.documents.bands.fibre import DYE, SEEN
from nineglass.kernels import HALF, ONE, TWO, ZERO, F, kernel, step
from nineglass.matter.fibres import dye_absorption, pelt_table
from nineglass.matter.melanin import EUMELANIN, PHEOMELANIN, absorption_of
from nineglass.matter.pelts import STEPS
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.fibre import (
    LOBES,
    MIRRORED,
    MORE,
    ONCE_WITHIN,
    PASSED,
    azimuth_of,
    azimuthal,
    azimuthal_scale,
    bent_within,
    draw_lobe,
    lobe_variance,
    logistic_norm,
    longitudinal,
    longitudinal_norm,
    longitudinal_variance,
    mirrored_share,
    shares,
    tilted,
)
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.families.layout import layout_of
from nineglass.trace.geometry.strands import beside_axis, frame_of
from nineglass.trace.geometry.surface import to_stage
from nineglass.trace.geometry.triangles import texture_at
from nineglass.trace.light.ask import ASK_DRAWS, LIGHT, ask, balance_of, glow_at, offer, queue_light
from nineglass.trace.light.throw import mark_matt, queue_lens, toward_lens
from nineglass.trace.media.clear import held
from nineglass.trace.paths import ENDED, MEASURED, SCATTERED, THROWN
from nineglass.trace.random import pair, single
from nineglass.vectors import add, cross, dot, index_among, negate, put3, scale, sub, to_local, to_world, unit, vec3

LAYOUT = layout_of(__name__, "fibre")
FIBRE = LAYOUT.places["fibre"]

BY_PIGMENT, AS_SEEN, BY_DYE = range(3)
LEAST_SINE = F(0.1)
DEGREE = F(np.pi / 180)

ASKED_AT_ONCE = 4
"""Ways to lamps that a strand's lobes choose among: they are narrow, and most ways are not worth a ray. A lamp met by chance is weighed
against all of them."""

CHOICE, ALONG, AROUND, BESIDE, BEST, ASKING = range(6)
DRAWS = ASKING + ASKED_AT_ONCE * ASK_DRAWS
"""Random numbers that a path draws at a strand."""


class Rows(NamedTuple):
    """One row a material; registers are -1 where there are none."""

    dials: np.ndarray  # (m, LAYOUT.size) int32: the register of each dial
    there: np.ndarray  # (m,) int32: whether it is a fibre
    source: np.ndarray  # (m,) int32: what colours it
    dye: np.ndarray  # (m, 401) float32: absorption per diameter
    seen: np.ndarray  # (m, 65) float32: the root of the absorption per diameter, by even steps of the colour of a pelt
    eumelanin: np.ndarray  # (401,) float32: absorption per diameter
    pheomelanin: np.ndarray  # (401,) float32


REGISTERS = ("dials",)
"""Rows that name registers."""


class Strand(NamedTuple):
    """One strand where a path met it; arrays are scratch of a thread."""

    lobes: np.ndarray  # (4 lobes, 4 wavelengths) float32: the share of light that each sends on
    chance: np.ndarray  # (4,) float32: by which each lobe is drawn
    absorption: np.ndarray  # (4,) float32: per diameter, at the wavelengths
    tints: np.ndarray  # (4 lobes, 4 wavelengths) float32: what each lobe's light is weakened by
    along: np.ndarray  # (4 lobes, 4) float32: sine and cosine that it comes from, its variance, and what normalizes it
    nm: np.ndarray  # (4,) float32


class Eye(NamedTuple):
    """A strand as light leaves it towards the eye, wherever beside its axis."""

    sin_o: np.float32
    cos_o: np.float32
    azimuth: np.float32
    ior: np.float32
    highlight: np.float32
    medulla: np.float32
    tilt: np.float32
    variance: np.float32
    scale: np.float32
    norm: np.float32


def scratch() -> Strand:
    """What a thread needs for `shade`, made once."""
    square, row = (LOBES, 4), 4
    return Strand(*(np.zeros(shape, np.float32) for shape in (square, LOBES, row, square, square, row)))


def takes(leaf) -> bool:
    return "fibre" in leaf.order


def tables(wanted: bool) -> dict:
    """What all rows share."""
    return {"eumelanin": absorption_of(EUMELANIN), "pheomelanin": absorption_of(PHEOMELANIN)}


def row(side) -> dict:
    """The row of one stack. side: `matter.Side`."""
    nothing = {"dye": np.zeros(len(WAVELENGTHS_NM)), "seen": np.zeros(STEPS), "source": BY_PIGMENT}
    about = {"dials": LAYOUT.fill(side.leaf, side.registers), "there": int(takes(side.leaf))}
    if not takes(side.leaf):
        return about | nothing
    fibre = side.settled("fibre")
    return about | {
        "source": {SEEN: AS_SEEN, DYE: BY_DYE}.get(fibre["color_from"], BY_PIGMENT),
        "dye": dye_absorption(fibre["transmittance"]),
        "seen": pelt_table(fibre),
    }


@step
def _dial(registers, rows, m, entry, column, low, high):
    return held(registers[rows.dials[m, entry], column], low, high)


@step
def _color_at(registers, first, column, nm):
    return sigmoid(registers[first, column], registers[first + 1, column], registers[first + 2, column], nm)


@step
def _seen_absorption(table, color):
    """Absorption per diameter of strands whose pelt has a colour."""
    place = min(max(color, ZERO), ONE) * F(table.size - 1)
    k = index_among(place, table.size - 1)
    root = table[k] + (table[k + 1] - table[k]) * (place - F(k))
    return root * root


@step
def _absorption(registers, rows, m, column, nm):
    """Absorption per diameter at one wavelength."""
    if rows.source[m] == AS_SEEN:
        return _seen_absorption(rows.seen[m], _color_at(registers, rows.dials[m, FIBRE.fibre_color], column, nm))
    if rows.source[m] == BY_DYE:
        return _dial(registers, rows, m, FIBRE.dye_amount, column, ZERO, F(1000)) * curve_at(rows.dye[m], nm)
    eu = _dial(registers, rows, m, FIBRE.eumelanin, column, ZERO, F(1000))
    pheo = _dial(registers, rows, m, FIBRE.pheomelanin, column, ZERO, F(1000))
    return eu * curve_at(rows.eumelanin, nm) + pheo * curve_at(rows.pheomelanin, nm)


@step
def pelt_share(registers, rows, m, column, nm):
    """What a thick pelt of it throws back of one wavelength."""
    root, table = _absorption(registers, rows, m, column, nm) ** HALF, rows.seen[m]
    low, high = 0, table.size - 1
    while high - low > 1:
        middle = (low + high) // 2
        if table[middle] > root:
            low = middle
        else:
            high = middle
    return F(high) / F(table.size - 1)


@step
def _put_absorption(strand, registers, rows, m, column):
    """The absorption at the four wavelengths."""
    for w in range(4):
        strand.absorption[w] = _absorption(registers, rows, m, column, strand.nm[w])


@step
def _put_tint(strand, lobe, strength, registers, rows, m, entry, column):
    """What a lobe's light is weakened by at the four wavelengths. entry: of its tint."""
    for w in range(4):
        strand.tints[lobe, w] = strength * _color_at(registers, rows.dials[m, entry], column, strand.nm[w])


@step
def _seen_along(strand, registers, rows, m, column, wo):
    """A strand seen along wo (in its frame): what does not depend on how far beside its axis it was met."""
    sin_o = min(max(wo[0], -ONE), ONE)
    cos_o = max(ONE - sin_o * sin_o, F(1e-8)) ** HALF
    second = _dial(registers, rows, m, FIBRE.second_highlight, column, ZERO, ONE)
    passing = _dial(registers, rows, m, FIBRE.passing, column, ZERO, ONE)
    _put_absorption(strand, registers, rows, m, column)
    _put_tint(strand, MIRRORED, ONE, registers, rows, m, FIBRE.highlight_tint, column)
    _put_tint(strand, PASSED, passing, registers, rows, m, FIBRE.passing_tint, column)
    _put_tint(strand, ONCE_WITHIN, second, registers, rows, m, FIBRE.second_tint, column)
    strand.tints[MORE, :] = ONE
    tilt = _dial(registers, rows, m, FIBRE.cuticle_angle, column, F(-20), F(20)) * DEGREE
    variance = longitudinal_variance(_dial(registers, rows, m, FIBRE.longitudinal_roughness, column, ZERO, ONE))
    for lobe in range(LOBES):
        sine, cosine = tilted(lobe, sin_o, cos_o, tilt)
        spread = lobe_variance(lobe, variance)
        strand.along[lobe, 0], strand.along[lobe, 1] = sine, cosine
        strand.along[lobe, 2], strand.along[lobe, 3] = spread, longitudinal_norm(spread)
    scale = azimuthal_scale(_dial(registers, rows, m, FIBRE.azimuthal_roughness, column, ZERO, ONE))
    return Eye(
        sin_o,
        cos_o,
        azimuth_of(wo),
        _dial(registers, rows, m, FIBRE.fibre_ior, column, F(1.05), F(3)),
        _dial(registers, rows, m, FIBRE.highlight, column, ZERO, ONE),
        _dial(registers, rows, m, FIBRE.medulla, column, ZERO, ONE),
        tilt,
        variance,
        scale,
        logistic_norm(scale),
    )


@step
def _fill_lobes(strand, eye, h):
    """Fill the shares of the lobes and the chances to draw them, of light that was met so far beside the axis: (angle beside it outside,
    angle within)."""
    gamma_o, gamma_t, way = bent_within(eye.sin_o, eye.cos_o, h, eye.ior)
    mirrored = mirrored_share(eye.cos_o, h, eye.ior)
    strand.chance[:] = ZERO
    for w in range(4):
        parts = shares(strand.absorption[w], way, mirrored, eye.highlight, eye.medulla)
        for lobe in range(LOBES):
            strand.lobes[lobe, w] = parts[lobe] * strand.tints[lobe, w]
            strand.chance[lobe] += strand.lobes[lobe, w]
    total = strand.chance[0] + strand.chance[1] + strand.chance[2] + strand.chance[3]
    for lobe in range(LOBES):
        strand.chance[lobe] /= max(total, F(1e-12))
    return gamma_o, gamma_t


@step
def _values_toward(strand, eye, gamma, wi):
    """(responses times cosine at four wavelengths, density by which `_draw` gives wi). gamma: of `_fill_lobes`."""
    sin_i = min(max(wi[0], -ONE), ONE)
    cos_i = max(ONE - sin_i * sin_i, ZERO) ** HALF
    turn = azimuth_of(wi) - eye.azimuth
    a, b, c, d, density = ZERO, ZERO, ZERO, ZERO, ZERO
    for lobe in range(LOBES):
        if strand.chance[lobe] <= F(1e-9):
            continue
        sine, cosine, variance, norm = strand.along[lobe]
        own = longitudinal(cos_i, cosine, sin_i, sine, variance, norm)
        own *= azimuthal(lobe, turn, gamma[0], gamma[1], eye.scale, eye.norm)
        a += own * strand.lobes[lobe, 0]
        b += own * strand.lobes[lobe, 1]
        c += own * strand.lobes[lobe, 2]
        d += own * strand.lobes[lobe, 3]
        density += own * strand.chance[lobe]
    return (a, b, c, d), density


@step
def _draw(strand, eye, gamma, choice, u, v, w):
    """A direction drawn by the lobes."""
    lobe = 0
    while lobe < LOBES - 1 and choice >= strand.chance[lobe]:
        choice -= strand.chance[lobe]
        lobe += 1
    return draw_lobe(
        lobe,
        eye.sin_o,
        eye.cos_o,
        eye.azimuth,
        gamma[0],
        gamma[1],
        eye.tilt,
        eye.variance,
        eye.scale,
        u,
        v,
        w,
    )


@step
def _met(batch, scene, i, seed):
    """(direction of the strand, how far beside its axis it was met). On triangles strands lie along the first texture coordinate."""
    hits, paths, things, j = batch.hits, batch.paths, scene.geometry.things, batch.hits.thing[i]
    if things.strands[j]:
        return vec3(hits.flat, i), beside_axis(hits.v[i])
    _, slope, _ = texture_at(scene.geometry.triangles, things.first[j] + hits.primitive[i], hits.u[i], hits.v[i])
    slope = to_stage(things, j, slope)
    normal = vec3(hits.normal, i)
    slope = sub(slope, scale(normal, dot(slope, normal)))
    if dot(slope, slope) < F(1e-12):
        slope = cross(normal, (ZERO, ONE, ZERO)) if abs(normal[1]) < F(0.9) else (ONE, ZERO, ZERO)
    beside = single(seed, paths.pixel[i], paths.sample[i], paths.dimension[i] + BESIDE)
    return unit(slope), TWO * beside - ONE


@step
def _start(origin, way, own, clearance):
    """Where light sets out from a strand along a way: clear of its round side. own: the frame of the strand."""
    slant = dot(way, own[0])
    sine = max((max(ONE - slant * slant, ZERO)) ** HALF, LEAST_SINE)
    return add(origin, scale(way, clearance * F(1.01) / sine))


@step
def _blur(batch, i, radius):
    """How far to either side, of its radius, a strand is taken together: all that one pixel sees of it, and all of it where the light of
    many strands is gathered; nothing where a mirror or a lens shows it."""
    if batch.paths.state[i] & SCATTERED:
        return ONE
    if batch.paths.bounce[i] > 0:
        return ZERO
    return min(HALF * batch.hits.distance[i] * batch.pixel[0] / radius, ONE)


@step
def _blurred(h, blur, one):
    """How far beside its axis way number `one` to a lamp is looked at: evenly spread; what is off one edge comes in at the other."""
    h += blur * (TWO * F(one) / F(ASKED_AT_ONCE) - (TWO if TWO * one > ASKED_AT_ONCE else ZERO))
    return h - TWO if h > ONE else h + TWO if h < -ONE else h


@step
def _brought(paths, i, glow, values):
    """What light along a way brings, over the wavelengths of a path."""
    total = ZERO
    for w in range(paths.lines[i]):
        total += paths.weight[w, i] * glow[w] * values[w]
    return total


@step
def _ask_the_best(batch, scene, i, strand, eye, own, h, origin, seed, dimension):
    """Queue a shadow ray along one of a few ways to lamps, chosen by what each would bring if nothing stood in it. Source: Talbot, Cline and
    Egbert 2005, Importance Resampling for Global Illumination.

    own: the frame of the strand, h: how far beside its axis it was met. Fills the lobes anew.
    """
    paths, clearance = batch.paths, batch.hits.clearance[i]
    bit, blur = scene.geometry.things.bit[batch.hits.thing[i]], _blur(batch, i, clearance)
    u = single(seed, paths.pixel[i], paths.sample[i], dimension + BEST)
    total, best, best_way, best_distance, sent = ZERO, 0, (ZERO, ONE, ZERO), ZERO, (ZERO, ZERO, ZERO, ZERO)
    for one in range(ASKED_AT_ONCE):
        lamp, way, distance, density = ask(scene, paths, i, bit, LIGHT, seed, dimension + ASKING + one * ASK_DRAWS)
        if distance <= ZERO:
            continue
        gamma = _fill_lobes(strand, eye, _blurred(h, blur, one))
        values, pdf = _values_toward(strand, eye, gamma, to_local(way, own[0], own[1], own[2]))
        share = balance_of(scene, lamp, density, pdf / F(ASKED_AT_ONCE)) / (density * F(ASKED_AT_ONCE))
        worth = share * _brought(paths, i, glow_at(scene, paths, i, LIGHT, lamp, way), values)
        if worth <= ZERO:
            continue
        total, taken, u = offer(worth, total, u)
        if taken:
            best, best_way, best_distance, share = lamp, way, distance, share / worth
            sent = (values[0] * share, values[1] * share, values[2] * share, values[3] * share)
    if total > ZERO:
        start = _start(origin, best_way, own, clearance)
        sent = (sent[0] * total, sent[1] * total, sent[2] * total, sent[3] * total)
        queue_light(batch, scene, i, paths.medium[i], start, best, LIGHT, best_way, best_distance, sent)


@kernel
def shade(batch, places, count, registers, scene, rows, strand, seed):
    """Send every path at a strand on its way. places: where they stand in `Batch.form_queue`."""
    paths, hits, things = batch.paths, batch.hits, scene.geometry.things
    for place in range(count):
        column = places[place]
        i = batch.form_queue[column]
        m, dimension = hits.matter[i], paths.dimension[i]
        direction, origin, clearance = vec3(paths.direction, i), vec3(paths.origin, i), hits.clearance[i]
        tangent, h = _met(batch, scene, i, seed)
        if not (abs(h) <= ONE and dot(tangent, tangent) > HALF):
            # Neither beside an axis nor along one: a strand of no length, or texture coordinates that stand still.
            paths.state[i] |= ENDED
            continue
        own = frame_of(tangent, direction)
        for w in range(4):
            strand.nm[w] = paths.wavelength[w if w < paths.lines[i] else 0, i]
        eye = _seen_along(strand, registers, rows, m, column, to_local(negate(direction), own[0], own[1], own[2]))
        gamma = _fill_lobes(strand, eye, h)
        if paths.state[i] & THROWN:
            way, distance, share = toward_lens(scene, paths, i, origin, seed, dimension + ASKING)
            values, _ = _values_toward(strand, eye, gamma, to_local(way, own[0], own[1], own[2]))
            if distance > ZERO:
                values = (values[0] * share, values[1] * share, values[2] * share, values[3] * share)
                queue_lens(batch, scene, i, _start(origin, way, own, clearance), way, distance, values)
            paths.state[i] |= ENDED
            continue
        choice = single(seed, paths.pixel[i], paths.sample[i], dimension + CHOICE)
        u, v = pair(seed, paths.pixel[i], paths.sample[i], dimension + ALONG)
        turn = single(seed, paths.pixel[i], paths.sample[i], dimension + AROUND)
        onward = _draw(strand, eye, gamma, choice, u, v, turn)
        values, pdf = _values_toward(strand, eye, gamma, onward)
        _ask_the_best(batch, scene, i, strand, eye, own, h, origin, seed, dimension)
        paths.dimension[i] = dimension + DRAWS
        mark_matt(paths, i)
        share = ONE / pdf if pdf > F(1e-12) else ZERO
        paths.weight[0, i] *= values[0] * share
        paths.weight[1, i] *= values[1] * share
        paths.weight[2, i] *= values[2] * share
        paths.weight[3, i] *= values[3] * share
        onward = unit(to_world(onward, own[0], own[1], own[2]))
        put3(paths.direction, i, onward)
        put3(paths.origin, i, _start(origin, onward, own, clearance))
        paths.pdf[i] = pdf / F(ASKED_AT_ONCE)
        paths.bounce[i] += 1
        paths.bit[i] = things.bit[hits.thing[i]]
        paths.state[i] |= MEASURED | SCATTERED
