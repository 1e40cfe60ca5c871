"""Light straight from what gives light: one of them is chosen by what it can give to a place, a direction to it is drawn, and asking is
balanced against meeting it by chance. Lamps come first in order, then glowing things, then the picture of the surround."""

from nineglass.kernels import FAR, ONE, ZERO, F, optic, step
from nineglass.lamps.light import POINT
from nineglass.spectra.curves import curve_at
from nineglass.trace.geometry.standing import BY_REFLECTIONS
from nineglass.trace.light.beams import beam_share
from nineglass.trace.light.glowing import draw_on_glowing, glow_density, glow_worth
from nineglass.trace.light.lamps import lamp_worth, meet_lamp, outline_pdf, point_on
from nineglass.trace.light.surround import direction_pdf, draw_direction, picture_color, surround_share
from nineglass.trace.paths import ASKED, SCATTERED, SHADOWS
from nineglass.trace.random import pair, single
from nineglass.vectors import put3, vec3

RED_ROW, LAMPS_FROM = 8, 11
"""Rows of `Scene.spectra`: three of red, green and blue light, and the lamps. Before them: two for each of the surrounds
(light, reflections, camera), and two for the floor."""

FLOOR_FIRST, FLOOR_SECOND = 6, 7

LIGHT, REFLECTIONS, CAMERA = range(3)
"""Which of the surrounds a path sees."""

SURROUND = -1
"""In place of the number of a lamp."""

ASK_POINT, ASK_CHOICE, ASK_DRAWS = 0, 1, 2
"""Random numbers that `ask` draws, from a dimension on."""


@optic
def mis_weight(own, other):
    """The power heuristic. Source: Veach 1997, Robust Monte Carlo Methods for Light Transport Simulation, 9.2.4."""
    if own > F(1e15):
        return ONE
    return own * own / (own * own + other * other)


@step
def around_here(paths, i):
    """Which surround a path sees when it leaves the stage."""
    if paths.bounce[i] == 0:
        return CAMERA
    if paths.state[i] & SCATTERED:
        return LIGHT
    return REFLECTIONS


@step
def _picture_glow(scene, red, green, blue, nm):
    return (
        red * curve_at(scene.spectra[RED_ROW], nm)
        + green * curve_at(scene.spectra[RED_ROW + 1], nm)
        + blue * curve_at(scene.spectra[RED_ROW + 2], nm)
    )


@step
def white_glow(scene, nm):
    """Radiance of a surround of linear white 1."""
    return _picture_glow(scene, ONE, ONE, ONE, nm)


@step
def _two_color_glow(scene, around, share, nm):
    low, high = curve_at(scene.spectra[around.below], nm), curve_at(scene.spectra[around.above], nm)
    return low + (high - low) * share


@step
def _around_glow(scene, around, direction, nm, single_line):
    if around.pictured:
        red, green, blue = picture_color(around.picture, direction)
        first = _picture_glow(scene, red, green, blue, nm[0])
        if single_line:
            return first, ZERO, ZERO, ZERO
        return (
            first,
            _picture_glow(scene, red, green, blue, nm[1]),
            _picture_glow(scene, red, green, blue, nm[2]),
            _picture_glow(scene, red, green, blue, nm[3]),
        )
    share = surround_share(direction[1], around.softness)
    first = _two_color_glow(scene, around, share, nm[0])
    if single_line:
        return first, ZERO, ZERO, ZERO
    return (
        first,
        _two_color_glow(scene, around, share, nm[1]),
        _two_color_glow(scene, around, share, nm[2]),
        _two_color_glow(scene, around, share, nm[3]),
    )


@step
def _curve_glow(curve, share, nm):
    return (
        share * curve_at(curve, nm[0]),
        share * curve_at(curve, nm[1]),
        share * curve_at(curve, nm[2]),
        share * curve_at(curve, nm[3]),
    )


@step
def wavelengths_of(paths, i):
    row = paths.wavelength
    return row[0, i], row[1, i], row[2, i], row[3, i]


@step
def glow_at(scene, paths, i, around, lamp, direction):
    """Radiance at the wavelengths of a path from what a direction leads to: a lamp, a glowing thing, or the surround."""
    nm, lamps = wavelengths_of(paths, i), scene.lamps.shape.size
    if lamp >= lamps:
        return _curve_glow(scene.glowing.spectra[lamp - lamps], ONE, nm)
    if lamp >= 0:
        return _curve_glow(scene.spectra[LAMPS_FROM + lamp], beam_share(scene.lamps, lamp, direction), nm)
    single_line = paths.lines[i] == 1
    if around == CAMERA:
        return _around_glow(scene, scene.camera, direction, nm, single_line)
    if around == REFLECTIONS:
        return _around_glow(scene, scene.reflections, direction, nm, single_line)
    return _around_glow(scene, scene.light, direction, nm, single_line)


@step
def _worth(scene, k, origin, bit):
    """About what lamp or glowing thing k can give to a place of an object."""
    lamps = scene.lamps
    if k >= lamps.shape.size:
        return glow_worth(scene.glowing, k - lamps.shape.size, origin)
    if bit != 0 and lamps.lights[k] & bit == 0:
        return ZERO
    return lamp_worth(lamps, k, origin)


@step
def _surround_worth(scene, around):
    return scene.light.worth if around == LIGHT or scene.same_reflections else ZERO


@step
def offer(worth, total, u):
    """One more of some things that are chosen among by their worth, after others of worth `total`: (worth of all so far, whether it takes
    the place of what was chosen before, the random number that is left over)."""
    total += worth
    share = worth / total
    if u < share:
        return total, True, u / share
    return total, False, (u - share) / (ONE - share)


@step
def _choose(scene, origin, bit, around, u):
    """(which is asked, the chance of it, a random number left over); a chance of 0 when nothing gives light here."""
    total, chosen, own, count = ZERO, SURROUND, ZERO, scene.lamps.shape.size + scene.glowing.thing.size
    for k in range(count + 1):
        worth = _worth(scene, k, origin, bit) if k < count else _surround_worth(scene, around)
        if worth <= ZERO:
            continue
        total, taken, u = offer(worth, total, u)
        if taken:
            chosen, own = k if k < count else SURROUND, worth
    return chosen, own / max(total, F(1e-30)), min(u, F(0.9999999))


@step
def chance_of(scene, lamp, origin, bit, around):
    """The chance with which `ask` would ask this lamp (SURROUND for the surround's picture) at a place."""
    total, own, count = _surround_worth(scene, around), ZERO, scene.lamps.shape.size + scene.glowing.thing.size
    if lamp == SURROUND:
        own = total
    for k in range(count):
        worth = max(_worth(scene, k, origin, bit), ZERO)
        total += worth
        if k == lamp:
            own = worth
    return own / max(total, F(1e-30))


@step
def lamp_share(scene, paths, i, k, distance):
    """What share of a lamp's light a path that met it may take: some of it was asked for before."""
    if paths.bit[i] != 0 and scene.lamps.lights[k] & paths.bit[i] == 0:
        return ZERO
    if paths.pdf[i] < ZERO:
        return ONE
    start, direction = vec3(paths.origin, i), vec3(paths.direction, i)
    chance = chance_of(scene, k, start, paths.bit[i], around_here(paths, i))
    return mis_weight(paths.pdf[i], outline_pdf(scene.lamps, k, start, direction, distance) * chance)


@step
def glow_share(scene, paths, i, g, start, facing, distance):
    """The same for a glowing thing that was met under a cosine. start: where the path set out."""
    if paths.pdf[i] < ZERO:
        return ONE
    chance = chance_of(scene, scene.lamps.shape.size + g, start, paths.bit[i], around_here(paths, i))
    return mis_weight(paths.pdf[i], glow_density(scene.glowing, g, facing, distance) * chance)


@step
def escaped_share(scene, paths, i):
    """What share of the surround's light a path that left the stage may take."""
    around = around_here(paths, i)
    if paths.pdf[i] < ZERO or _surround_worth(scene, around) <= ZERO:
        return ONE
    chance = chance_of(scene, SURROUND, vec3(paths.origin, i), paths.bit[i], around)
    return mis_weight(paths.pdf[i], direction_pdf(scene.light, vec3(paths.direction, i)) * chance)


@step
def _is_hidden(lamps, lamp, origin, way, distance):
    """Whether another lamp stands before what is asked, as a path that goes there by chance would meet it."""
    for k in range(lamps.shape.size):
        if k == lamp or lamps.seen[k] & BY_REFLECTIONS == 0:
            continue
        if meet_lamp(lamps, k, origin, way) < distance:
            return True
    return False


@step
def ask(scene, paths, i, bit, around, seed, dimension):
    """A direction to a lamp or a bright place: (lamp, or SURROUND; direction; distance, 0 for none; density).

    bit: of the object that asks. around: which surround the light comes from there (LIGHT behind a matt surface).
    """
    origin, up = vec3(paths.origin, i), (ZERO, ONE, ZERO)
    choice = single(seed, paths.pixel[i], paths.sample[i], dimension + ASK_CHOICE)
    k, chance, u = _choose(scene, origin, bit, around, choice)
    if chance <= ZERO:
        return SURROUND, up, ZERO, ONE
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + ASK_POINT)
    lamps, distance = scene.lamps.shape.size, FAR
    if k == SURROUND:
        way = draw_direction(scene.light, a, b)
        density = direction_pdf(scene.light, way)
    elif k >= lamps:
        way, distance, density = draw_on_glowing(scene.geometry, scene.glowing, k - lamps, origin, u, a, b)
    else:
        way, distance = point_on(scene.lamps, k, origin, a, b)
        density = outline_pdf(scene.lamps, k, origin, way, max(distance, F(1e-9)))
    if _is_hidden(scene.lamps, k, origin, way, distance):
        distance = ZERO
    return k, way, distance, density * chance


@step
def meets_by_chance(scene, lamp):
    """Whether a ray may meet a lamp (or the surround, or a glowing thing) by chance."""
    if lamp < 0 or lamp >= scene.lamps.shape.size:
        return True
    return scene.lamps.shape[lamp] != POINT and scene.lamps.seen[lamp] & BY_REFLECTIONS != 0


@step
def balance_of(scene, lamp, density, pdf):
    """How much of the light asked for along a way counts, when a sampler of density `pdf` may find it by chance as well."""
    return mis_weight(density, pdf) if meets_by_chance(scene, lamp) else ONE


@step
def queue_light(batch, scene, i, medium, start, lamp, around, way, distance, sent):
    """Queue light along a way that sets out in a medium; sent: responses times cosine at four wavelengths, balanced and over the
    density of the way."""
    paths, shadows = batch.paths, batch.shadows
    slot = batch.counts[SHADOWS]
    batch.counts[SHADOWS] += 1
    put3(shadows.origin, slot, start)
    put3(shadows.direction, slot, way)
    clear = 0 <= lamp < scene.lamps.shape.size and scene.lamps.clear[lamp]
    shadows.far[slot] = -ONE if clear else distance * F(0.9999)
    shadows.path[slot] = i
    shadows.medium[slot] = medium
    glow = glow_at(scene, paths, i, around, lamp, way)
    shadows.light[0, slot] = paths.weight[0, i] * glow[0] * sent[0]
    if paths.lines[i] > 1:
        shadows.light[1, slot] = paths.weight[1, i] * glow[1] * sent[1]
        shadows.light[2, slot] = paths.weight[2, i] * glow[2] * sent[2]
        shadows.light[3, slot] = paths.weight[3, i] * glow[3] * sent[3]
    if scene.fast_shadows:
        paths.state[i] |= ASKED


@step
def queue_shadow(batch, scene, i, medium, start, lamp, around, way, distance, density, values, pdf):
    """Queue light along a way, for responses times cosine `values` (four) whose own sampler has density `pdf`."""
    share = balance_of(scene, lamp, density, pdf) / density
    sent = (values[0] * share, values[1] * share, values[2] * share, values[3] * share)
    queue_light(batch, scene, i, medium, start, lamp, around, way, distance, sent)
