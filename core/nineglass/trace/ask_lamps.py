"""Light straight from lamps and pictures: a direction to one of them, and how it is balanced against meeting it by chance."""

from nineglass.kernels import FAR, ONE, ZERO, F, optic
from nineglass.lamps.light import POINT
from nineglass.trace.generate import FIRST_BOUNCE, LAMP_CHOICE, LAMP_POINT, PER_BOUNCE, curve_at
from nineglass.trace.lamps import BY_REFLECTIONS, outline_pdf, point_on
from nineglass.trace.paths import ASKED, SCATTERED, SHADOWS
from nineglass.trace.random import pair, single
from nineglass.trace.surround import direction_pdf, draw_direction, picture_color, surround_share
from nineglass.vectors import put3, vec3

RED_ROW, LAMPS_FROM = 8, 11
"""Rows of `Scene.spectra`: three of red, green and blue light, and the lamps. Before them: two for each of the surrounds
(light, reflections, camera), and two for the floor."""

FLOOR_FIRST, FLOOR_SECOND = 6, 7

LIGHT, REFLECTIONS, CAMERA = range(3)
"""Which of the surrounds a path sees."""


@optic
def mis_weight(own, other):
    """The power heuristic. Source: Veach 1997, Robust Monte Carlo Methods for Light Transport Simulation, 9.2.4."""
    if own > F(1e15):
        return ONE
    return own * own / (own * own + other * other)


@optic
def around_here(scene, paths, i):
    """Which surround a path sees when it leaves the stage."""
    if paths.bounce[i] == 0:
        return CAMERA
    if paths.state[i] & SCATTERED:
        return LIGHT
    return REFLECTIONS


@optic
def _around_glow(scene, around, direction, wavelength_nm):
    if around.pictured:
        red, green, blue = picture_color(around.picture, direction)
        return (
            red * curve_at(scene.spectra[RED_ROW], wavelength_nm)
            + green * curve_at(scene.spectra[RED_ROW + 1], wavelength_nm)
            + blue * curve_at(scene.spectra[RED_ROW + 2], wavelength_nm)
        )
    low = curve_at(scene.spectra[around.below], wavelength_nm)
    high = curve_at(scene.spectra[around.above], wavelength_nm)
    return low + (high - low) * surround_share(direction[1], around.softness)


@optic
def glow_at(scene, around, lamp, direction, wavelength_nm):
    """Radiance of a lamp, or, with lamp below 0, of a surround in a direction."""
    if lamp >= 0:
        return curve_at(scene.spectra[LAMPS_FROM + lamp], wavelength_nm)
    if around == CAMERA:
        return _around_glow(scene, scene.camera, direction, wavelength_nm)
    if around == REFLECTIONS:
        return _around_glow(scene, scene.reflections, direction, wavelength_nm)
    return _around_glow(scene, scene.light, direction, wavelength_nm)


@optic
def picks(scene, around):
    """(how many things may be asked for light, whether the last of them is the surround's picture)."""
    pictured = scene.light.pictured and (around == LIGHT or scene.same_reflections)
    return scene.lamps.shape.size + (1 if pictured else 0), pictured


@optic
def lamp_share(scene, paths, i, k, distance):
    """What share of a lamp's light a path that met it may take: some of it was asked for before."""
    if paths.bit[i] != 0 and scene.lamps.lights[k] & paths.bit[i] == 0:
        return ZERO
    if paths.pdf[i] < ZERO:
        return ONE
    count, _ = picks(scene, around_here(scene, paths, i))
    direction = vec3(paths.direction, i)
    start = vec3(paths.origin, i)
    return mis_weight(paths.pdf[i], outline_pdf(scene.lamps, k, start, direction, distance) / F(count))


@optic
def escaped_share(scene, paths, i):
    """What share of the surround's light a path that left the stage may take."""
    if paths.pdf[i] < ZERO:
        return ONE
    count, pictured = picks(scene, around_here(scene, paths, i))
    if not pictured:
        return ONE
    return mis_weight(paths.pdf[i], direction_pdf(scene.light, vec3(paths.direction, i)) / F(count))


@optic
def ask(scene, paths, i, around, seed):
    """A direction to a lamp or a bright place: (lamp, or -1 for the surround; direction; distance, 0 for none; density).

    around: which surround the light comes from at this point (LIGHT behind a matt surface).
    """
    count, _ = picks(scene, around)
    origin = vec3(paths.origin, i)
    if count == 0:
        return -1, (ZERO, ONE, ZERO), ZERO, ONE
    dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i]
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_POINT)
    choice = single(seed, paths.pixel[i], paths.sample[i], dimension + LAMP_CHOICE)
    k = min(int(choice * F(count)), count - 1)
    if k == scene.lamps.shape.size:
        way = draw_direction(scene.light, a, b)
        return -1, way, FAR, direction_pdf(scene.light, way) / F(count)
    way, distance = point_on(scene.lamps, k, origin, a, b)
    density = outline_pdf(scene.lamps, k, origin, way, max(distance, F(1e-9))) / F(count)
    return k, way, distance, density


@optic
def meets_by_chance(scene, lamp):
    """Whether a ray may meet a lamp (the surround below 0) by chance."""
    return lamp < 0 or (scene.lamps.shape[lamp] != POINT and scene.lamps.seen[lamp] & BY_REFLECTIONS != 0)


@optic
def balance_of(scene, lamp, density, pdf):
    """How much of the light asked for along a way counts, when a sampler of density `pdf` may find it by chance as well."""
    return mis_weight(density, pdf) if meets_by_chance(scene, lamp) else ONE


@optic
def queue_light(batch, scene, i, bit, medium, start, lamp, around, way, distance, sent):
    """Queue light along a way that sets out in a medium; sent: responses times cosine at four wavelengths, balanced and over the
    density of the way."""
    if lamp >= 0 and scene.lamps.lights[lamp] & bit == 0:
        return
    paths, shadows = batch.paths, batch.shadows
    slot = batch.counts[SHADOWS]
    batch.counts[SHADOWS] += 1
    put3(shadows.origin, slot, start)
    put3(shadows.direction, slot, way)
    shadows.far[slot] = -ONE if lamp >= 0 and scene.lamps.clear[lamp] else distance * F(0.9999)
    shadows.path[slot] = i
    shadows.medium[slot] = medium
    for w in range(4):
        glow = glow_at(scene, around, lamp, way, paths.wavelength[w, i])
        shadows.light[w, slot] = paths.weight[w, i] * glow * sent[w]
    if scene.fast_shadows:
        paths.state[i] |= ASKED


@optic
def queue_shadow(batch, scene, i, bit, medium, start, lamp, around, way, distance, density, values, pdf):
    """Queue light along a way, for responses times cosine `values` (four) whose own sampler has density `pdf`."""
    share = balance_of(scene, lamp, density, pdf) / density
    sent = (values[0] * share, values[1] * share, values[2] * share, values[3] * share)
    queue_light(batch, scene, i, bit, medium, start, lamp, around, way, distance, sent)
