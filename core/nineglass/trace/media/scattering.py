"""Media that scatter light: walks through them, many scatterings in one step of the path.

The wavelengths of a path go together. How far it flies is drawn for one of them, chosen by what each carries, and all are weighed by the
mean of their densities (single-sample MIS): what a path carries never grows. Sources: Novak et al. 2018, Monte Carlo Methods for Volumetric
Light Transport; Wilkie et al. 2014, Hero Wavelength Spectral Sampling; Chiang, Kutz & Burley 2016, Practical and Controllable Subsurface
Scattering for Production Path Tracing.
"""

from math import cos, exp, log, sin, sqrt

from nineglass.kernels import HALF, ONE, PI, TWO, ZERO, F, kernel, step
from nineglass.optics.phase import henyey_greenstein, sample_henyey_greenstein, sample_tabled_phase, tabled_phase
from nineglass.trace.geometry.rays import lit_through, meet
from nineglass.trace.geometry.surface import ACCURACY, offset_of, surface_at, to_own
from nineglass.trace.light.ask import ASK_DRAWS, LIGHT, ask, queue_shadow
from nineglass.trace.media.along import place_along
from nineglass.trace.media.clear import read_medium
from nineglass.trace.media.nesting import cross_surface, media_around
from nineglass.trace.media.varying import (
    FLEW,
    IS_LOST,
    WAS_SCATTERED,
    WAS_SCATTERED_BY_OTHER,
    asymmetry_at,
    fly,
    pass_straight,
    scattering_at,
)
from nineglass.trace.paths import (
    ACTIVE,
    AIR,
    ASKED,
    BY_MIRROR,
    DIFFUSED,
    FORM,
    FROM_MATT,
    LEVELS,
    MEASURED,
    MOST_WITHIN,
    ONE_WITHIN,
    SCATTERED,
    SHADOWS,
    THROWN,
    WALKED,
)
from nineglass.trace.random import next_random, pair, row_of, single
from nineglass.trace.settle import strongest_of
from nineglass.vectors import add, dot, frame, put3, scale, sub, to_world, vec3

MOST_SCATTERINGS = 4096
"""Of one walk, from surface to surface. What is under way after so many is cut, and told."""

SPREAD = 2
"""The first scatterings of a walk draw numbers that are well spread over the samples of a pixel; what follows is too many for that."""

FLIGHT, WHICH, TURN, REST = range(4)
DRAWS = REST + 1
"""Random numbers that a path draws at one of the first scatterings."""

DENSE = F(4)
"""Mean free paths across the matter from which light counts as scattered evenly after one scattering (`paths.WALKED`); elsewhere after two."""

FAINT = F(0.5)
"""A path that carries less may end by lot."""

LEAST = F(1e-20)

ALONG_DRAWS = 3
"""Random numbers that say where along a flight lamps are asked, and begin the row that says how much gets there."""

FARTHEST = F(1e5)
"""m: how far flights are looked along."""


@step
def _extinctions(paths, i):
    """Absorption and scattering together, 1/m, at the four wavelengths that a path carries; 0 at those that it does not."""
    a = paths.sigma_a[0, i] + paths.sigma_s[0, i]
    if paths.lines[i] == 1:
        return a, ZERO, ZERO, ZERO
    b = paths.sigma_a[1, i] + paths.sigma_s[1, i]
    c = paths.sigma_a[2, i] + paths.sigma_s[2, i]
    d = paths.sigma_a[3, i] + paths.sigma_s[3, i]
    return a, b, c, d


@step
def _one_of(paths, i, sigma, u):
    """The extinction of one of the wavelengths of a path, chosen by what each carries."""
    if paths.lines[i] == 1:
        return sigma[0]
    a, b, c, d = paths.weight[0, i], paths.weight[1, i], paths.weight[2, i], paths.weight[3, i]
    left = u * (a + b + c + d)
    if left < a:
        return sigma[0]
    if left < a + b:
        return sigma[1]
    return sigma[2] if left < a + b + c else sigma[3]


@step
def _weigh(paths, i, sigma, length, scattered):
    """Weigh a path that flew a length, and was scattered at its end or not."""
    total, mean = ZERO, ZERO
    for w in range(paths.lines[i]):
        left = exp(-sigma[w] * length) * (sigma[w] if scattered else ONE)
        total += paths.weight[w, i]
        mean += paths.weight[w, i] * left
    for w in range(paths.lines[i]):
        left = exp(-sigma[w] * length)
        if scattered:
            left *= paths.sigma_s[w, i]
        paths.weight[w, i] *= left * total / max(mean, LEAST)


@step
def _phase(media, m, g, cosine):
    """Density (1/sr) of a turn. g: the mean cosine where it turns by one lobe."""
    return tabled_phase(media.phase[m], cosine) if media.tabled[m] else henyey_greenstein(cosine, g)


@step
def _turn(paths, i, media, m, g, u, v):
    """Send a path on by the phase function."""
    cosine = sample_tabled_phase(media.phase[m], u) if media.tabled[m] else sample_henyey_greenstein(g, u)
    sine, phi = sqrt(max(ONE - cosine * cosine, ZERO)), TWO * PI * v
    ahead = vec3(paths.direction, i)
    x, y = frame(ahead)
    put3(paths.direction, i, to_world((sine * cos(phi), sine * sin(phi), cosine), x, y, ahead))


@step
def _draw(paths, i, seed, state, scattering):
    """(state, four numbers for one scattering)."""
    if scattering < SPREAD:
        pixel, sample, first = paths.pixel[i], paths.sample[i], paths.dimension[i]
        paths.dimension[i] += DRAWS
        u, v = pair(seed, pixel, sample, first + TURN)
        flight, which = single(seed, pixel, sample, first + FLIGHT), single(seed, pixel, sample, first + WHICH)
        return row_of(seed, pixel, sample, first + REST), flight, which, u, v
    state, flight = next_random(state)
    state, which = next_random(state)
    state, u = next_random(state)
    state, v = next_random(state)
    return state, flight, which, u, v


@step
def _survives(paths, i, lot):
    """Play Russian roulette with a faint path."""
    strongest = strongest_of(paths, i)
    if strongest >= FAINT:
        return True
    chance = max(strongest, F(0.02))
    if lot >= chance:
        return False
    for w in range(paths.lines[i]):
        paths.weight[w, i] /= chance
    return True


@step
def _end(paths, i):
    for w in range(paths.lines[i]):
        paths.weight[w, i] = ZERO


@step
def _ask_in_fog(batch, scene, i, m, asymmetry, seed):
    """Give a path the light of a lamp that is asked where it is scattered in a medium without a boundary, that of row m of `Media`.

    There are no shadow rays to be cast yet in this step (`locate` begins them), so the first column of them is free.
    """
    paths, shadows = batch.paths, batch.shadows
    bit = scene.geometry.things.bit[paths.medium[i]]
    lamp, way, distance, density = ask(scene, paths, i, bit, LIGHT, seed, paths.dimension[i])
    paths.dimension[i] += ASK_DRAWS
    paths.bit[i] = bit
    if distance <= ZERO:
        return
    value = _phase(scene.media, m, asymmetry, dot(vec3(paths.direction, i), way))
    batch.counts[SHADOWS] = 0
    origin, values = vec3(paths.origin, i), (value, value, value, value)
    queue_shadow(batch, scene, i, paths.medium[i], origin, lamp, LIGHT, way, distance, density, values, value)
    if shadows.far[0] <= ZERO or lit_through(batch, scene, 0):
        for w in range(paths.lines[i]):
            paths.light[w, i] += shadows.light[w, 0]


@step
def _is_lit_along(paths, i, scene, m, f):
    """Whether lamps are asked somewhere along a flight, not where it is scattered: in media without a boundary, of what the eye looks along.
    What was scattered before is seen less sharply, and asks where it is scattered; so does what goes through smoke that lamps are far from."""
    if m == AIR or not (scene.media.open[m] and scene.media.scatters[m]) or paths.state[i] & SCATTERED:
        return False
    return f < 0 or scene.fields.near[f] != 0


@step
def _light_along(batch, scene, i, m, f, near, far, seed):
    """Give a path the light of lamps that is scattered into it once, anywhere on its flight through a medium without a boundary; whether it is
    scattered itself is drawn apart from that."""
    paths, media, fields, j = batch.paths, scene.media, scene.fields, batch.paths.medium[i]
    far = min(far, FARTHEST)
    if far - near < F(1e-7):
        return
    first = paths.dimension[i]
    paths.dimension[i] += ALONG_DRAWS
    which, u = pair(seed, paths.pixel[i], paths.sample[i], first)
    origin, direction = vec3(paths.origin, i), vec3(paths.direction, i)
    kept = (paths.weight[0, i], paths.weight[1, i], paths.weight[2, i], paths.weight[3, i])
    was, bit, sigma = paths.state[i], paths.bit[i], ZERO
    if f < 0:
        for w in range(paths.lines[i]):
            sigma += (paths.sigma_a[w, i] + paths.sigma_s[w, i]) / F(paths.lines[i])
    t, density = place_along(scene.lamps, origin, direction, sigma, near, far, which, u)
    asymmetry = media.asymmetry[m]
    if f >= 0:
        things = scene.geometry.things
        start = add(origin, scale(direction, near))
        state = row_of(seed, paths.pixel[i], paths.sample[i], first + ALONG_DRAWS - 1)
        state = pass_straight(
            scene,
            paths.weight,
            i,
            paths.wavelength,
            i,
            paths.lines[i],
            j,
            f,
            start,
            direction,
            t - near,
            state,
        )
        own = to_own(things, j, sub(add(origin, scale(direction, t)), offset_of(things, j)))
        f, chance = _scatters_there(media, fields, paths, i, f, own, state)
        m = fields.matter[f]
        asymmetry = asymmetry_at(fields, f, own, media.asymmetry[m])
        for w in range(paths.lines[i]):
            scatters = scattering_at(media, fields, f, own, paths.wavelength[w, i])
            paths.weight[w, i] *= scatters / (density * chance)
    else:
        for w in range(paths.lines[i]):
            left = exp(-(paths.sigma_a[w, i] + paths.sigma_s[w, i]) * (t - near))
            paths.weight[w, i] *= left * paths.sigma_s[w, i] / density
    if strongest_of(paths, i) > LEAST:
        put3(paths.origin, i, add(origin, scale(direction, t)))
        paths.state[i] = (was | SCATTERED) & ~(FROM_MATT | ASKED)
        _ask_in_fog(batch, scene, i, m, asymmetry, seed)
        put3(paths.origin, i, origin)
    for w in range(paths.lines[i]):
        paths.weight[w, i] = kept[w]
    paths.state[i], paths.bit[i] = was, bit


@step
def _scatters_there(media, fields, paths, i, f, own, state):
    """Which of two mixed media light is scattered by at a place, drawn by how much they scatter there: (its row of `Fields`, the chance of it)."""
    other, first, second = fields.other[f], ZERO, ZERO
    if other < 0:
        return f, ONE
    for w in range(paths.lines[i]):
        first += scattering_at(media, fields, f, own, paths.wavelength[w, i])
        second += scattering_at(media, fields, other, own, paths.wavelength[w, i])
    if second <= ZERO:
        return f, ONE
    chance, (_, u) = first / (first + second), next_random(state)
    return (f, chance) if u < chance else (other, ONE - chance)


@step
def _scatter(batch, scene, i, m, f, ahead, first, asks, seed, u, v):
    """Scatter a path so far ahead on its way, by row m of `Media` and f of `Fields`.

    first: whether it is for the first time on this walk; asks: whether lamps are asked there.
    """
    paths, media = batch.paths, scene.media
    put3(paths.origin, i, add(vec3(paths.origin, i), scale(vec3(paths.direction, i), ahead)))
    if first:
        paths.state[i] = (paths.state[i] | SCATTERED | MEASURED | DIFFUSED) & ~(FROM_MATT | ASKED)
        paths.bounce[i] += 1
        if paths.state[i] // ONE_WITHIN < MOST_WITHIN:
            paths.state[i] += ONE_WITHIN
    asymmetry = paths.asymmetry[i]
    if f >= 0:
        things, j = scene.geometry.things, paths.medium[i]
        own = to_own(things, j, sub(vec3(paths.origin, i), offset_of(things, j)))
        asymmetry = asymmetry_at(scene.fields, f, own, media.asymmetry[m])
    if asks and media.open[m]:
        _ask_in_fog(batch, scene, i, m, asymmetry, seed)
    before = vec3(paths.direction, i)
    _turn(paths, i, media, m, asymmetry, u, v)
    paths.pdf[i] = BY_MIRROR
    if media.open[m]:
        paths.pdf[i] = _phase(media, m, asymmetry, dot(before, vec3(paths.direction, i)))


@step
def _cross(batch, scene, i):
    """Take a path through the open surface that it meets, without ending its way there: it may still meet a lamp that was asked before."""
    paths, hits, things = batch.paths, batch.hits, scene.geometry.things
    j = hits.thing[i]
    place = surface_at(scene.geometry, j, hits.primitive[i], hits.u[i], hits.v[i])
    cosine = dot(place.flat, vec3(paths.direction, i))
    _, after = media_around(paths, i, things.priority, j, cosine < ZERO)
    cross_surface(paths, i, j, cosine < ZERO)
    paths.medium[i] = after
    read_medium(paths, i, things, scene.media)
    # The farther its origin, the less a path knows where it is.
    clearance = place.clearance + ACCURACY * hits.distance[i]
    meet(batch, scene, i, hits.distance[i] + clearance / max(abs(cosine), F(0.01)))


@step
def _meets_open(scene, hits, i):
    return hits.what[i] == FORM and scene.media.open[scene.geometry.things.matter[hits.thing[i]]] != 0


@step
def _set_off_before(batch, scene, i):
    """How far before the surface that a path meets it would set out again. Closed matter ends there for a flight, as each begins there: in large dense
    things more than a mean free path would lie between, and be flown through twice."""
    hits = batch.hits
    if hits.what[i] != FORM:
        return ZERO
    place = surface_at(scene.geometry, hits.thing[i], hits.primitive[i], hits.u[i], hits.v[i])
    return place.clearance / max(abs(dot(place.flat, vec3(batch.paths.direction, i))), F(0.01))


@step
def _walk(batch, scene, i, seed):
    """Have a path fly, and be scattered, until it comes to a surface that stops it."""
    paths, hits, media, things, fields = batch.paths, batch.hits, scene.media, scene.geometry.things, scene.fields
    state, scattered, behind = row_of(seed, 0, 0, 0), 0, ZERO
    is_counted, came = paths.state[i] & MEASURED == 0, vec3(paths.direction, i)
    was_within = paths.state[i] & WALKED != 0
    for _ in range(MOST_SCATTERINGS):
        m = things.matter[paths.medium[i]] if paths.medium[i] != AIR else AIR
        far = hits.distance[i] - behind
        f = fields.of[paths.medium[i]] if m != AIR else AIR
        done = m != AIR and media.scattered_once[m] != 0 and (scattered > 0 or was_within)
        if f >= 0 or (m != AIR and media.scatters[m] and not done):
            along = _is_lit_along(paths, i, scene, m, f)
            if along:
                _light_along(batch, scene, i, m, f, behind, hits.distance[i], seed)
            state, flight, which, u, v = _draw(paths, i, seed, state, scattered)
            length, ended = -log(ONE - flight), FLEW
            if f >= 0:
                reach, j = hits.distance[i], paths.medium[i]
                state, ended, length = fly(paths, i, things, media, fields, j, f, behind, reach, length, state)
                length -= behind
            else:
                sigma = _extinctions(paths, i)
                length /= max(_one_of(paths, i, sigma, which), LEAST)
                if not media.open[m]:
                    far = max(far - _set_off_before(batch, scene, i), ZERO)
                ended = WAS_SCATTERED if length < far else FLEW
                _weigh(paths, i, sigma, min(length, far), ended == WAS_SCATTERED)
            paths.length[i] += min(length, far) if is_counted and m == 0 else ZERO
            if ended == IS_LOST:
                _end(paths, i)
                return
            if ended != FLEW:
                is_dense, is_open = paths.sigma_s[0, i] * far > DENSE, media.open[m] != 0
                if f >= 0:
                    f = fields.other[f] if ended == WAS_SCATTERED_BY_OTHER else f
                    m = fields.matter[f]
                _scatter(batch, scene, i, m, f, behind + length, scattered == 0, not along, seed, u, v)
                if not is_open and (is_dense or scattered > 0):
                    paths.state[i] |= WALKED
                scattered, behind = scattered + 1, ZERO
                state, lot = next_random(state)
                if not _survives(paths, i, lot):
                    _end(paths, i)
                    return
                meet(batch, scene, i, ZERO)
                continue
        elif m != AIR and (media.open[m] or done):
            _pass_through(paths, i, _extinctions(paths, i), far)
        if m != AIR and media.from_behind[m] != ONE and scattered > 0 and not was_within:
            _strengthen(paths, i, media.from_behind[m], dot(came, vec3(paths.direction, i)))
        if not _meets_open(scene, hits, i):
            return
        behind = hits.distance[i]
        _cross(batch, scene, i)
    batch.cut[2] += strongest_of(paths, i)
    _end(paths, i)


@step
def _strengthen(paths, i, times, onward):
    """Weigh light that leaves matter, where it is wished untrue: fully what goes on the way it came, not what turned back. onward: the cosine."""
    share = min(max(HALF + onward, ZERO), ONE)
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= ONE + (times - ONE) * share


@step
def _pass_through(paths, i, sigma, distance):
    """What is left of light that is neither absorbed nor scattered."""
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= exp(-sigma[w] * distance)


@step
def _fly_thrown(batch, scene, i, seed):
    """Have thrown light fly on: what is scattered of it is found from the camera."""
    paths, hits, media, things = batch.paths, batch.hits, scene.media, scene.geometry.things
    behind, state = ZERO, row_of(seed, paths.pixel[i], paths.sample[i], paths.dimension[i])
    for _ in range(LEVELS):
        if paths.medium[i] != AIR:
            m, f = things.matter[paths.medium[i]], scene.fields.of[paths.medium[i]]
            if f >= 0:
                ahead = vec3(paths.direction, i)
                origin = add(vec3(paths.origin, i), scale(ahead, behind))
                state = pass_straight(
                    scene,
                    paths.weight,
                    i,
                    paths.wavelength,
                    i,
                    paths.lines[i],
                    paths.medium[i],
                    f,
                    origin,
                    ahead,
                    hits.distance[i] - behind,
                    state,
                )
            elif media.scatters[m] or media.open[m]:
                _pass_through(paths, i, _extinctions(paths, i), hits.distance[i] - behind)
        if not _meets_open(scene, hits, i):
            return
        behind = hits.distance[i]
        _cross(batch, scene, i)


@kernel
def walk_through_media(batch, scene, seed):
    """Scatter every active path on its way through what scatters. After `intersect`, whose hits it brings up to date."""
    paths = batch.paths
    for slot in range(batch.counts[ACTIVE]):
        i = batch.active[slot]
        if paths.state[i] & THROWN:
            _fly_thrown(batch, scene, i, seed)
        else:
            _walk(batch, scene, i, seed)
