"""Stacks of bands: gathers the stack at each hit, and has light walk through it."""

from math import cos, sin, sqrt
from typing import NamedTuple

import numpy as np

from nineglass.documents.bands.metal import TWO_COLORS
from nineglass.documents.model import MOST_LOBES
from nineglass.kernels import INV_PI, ONE, TWO, ZERO, F, kernel, step
from nineglass.matter.substances import substances
from nineglass.optics.boundary import Energies, four_reflectances, scale4
from nineglass.optics.conductor import mirror_albedo_table, mirror_mean_table
from nineglass.optics.dielectric import share_let_out
from nineglass.optics.diffuse import diffuse_tables, even_direction
from nineglass.optics.energy import energy_tables
from nineglass.optics.film import metal_of_colors
from nineglass.optics.microfacet import alpha_of, alpha_of_sanded
from nineglass.optics.sanded import SandedTables, sanded_tables
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import color_spectrum, sigmoid
from nineglass.trace.families.facing import driven_normal, normal_registers
from nineglass.trace.families.flakes import (
    OF_METAL,
    OF_PLATES,
    PRESENT,
    RAMP_STEPS,
    SMOOTHEST_FLAKE,
    TONE,
    alpha_of_lean,
    alpha_of_sheen,
    below_coat,
    flake_at,
    lean_of,
    own_number,
    row_of_flakes,
    share_of_sheen,
)
from nineglass.trace.families.layout import layout_of
from nineglass.trace.families.lobes import (
    LOBES,
    MOST_COLORS,
    MOST_NUMBERS,
    NUMBERS,
    TOP,
)
from nineglass.trace.families.sanded import is_sanded
from nineglass.trace.families.stack import COATS, new_layers
from nineglass.trace.families.walk import (
    FLAKE,
    INSIDE,
    LOST,
    NONE4,
    OUTSIDE,
    UP,
    Asked,
    Stack,
    Tables,
    films_at,
    four,
    off_the_back,
    walk_layers,
)
from nineglass.trace.geometry.standing import BY_CAMERA
from nineglass.trace.geometry.surface import surface_at, to_stage
from nineglass.trace.geometry.triangles import texture_at
from nineglass.trace.light.ask import (
    ASK_DRAWS,
    LIGHT,
    REFLECTIONS,
    SURROUND,
    ask,
    chance_of,
    meets_by_chance,
    queue_light,
    queue_shadow,
)
from nineglass.trace.light.throw import adjoint, is_thrown, mark_bent, mark_matt, queue_lens, toward_lens, weigh_thrown
from nineglass.trace.media.clear import alone, held, index_at, index_of, lead, parts_light, show_fan, take_up
from nineglass.trace.media.nesting import cross_surface, media_around
from nineglass.trace.paths import AIR, BY_MIRROR, ENDED, FROM_MATT, MEASURED, SCATTERED, THROWN, TURNED, WALKED, WHOLE
from nineglass.trace.random import U, mix_bits, next_random, pair, row_of, single
from nineglass.vectors import add, dot, frame, index_among, negate, put3, scale, to_local, to_world, vec3

ROUGH_FROM = F(0.03)
"""Roughness from which a band is worth asking lamps for."""

LAYOUT = layout_of(__name__, "interface", "metal", "coat", "film", "flakes")
INTERFACE, METAL, COAT, FILM, FLAKES = (
    LAYOUT.places[kind] for kind in ("interface", "metal", "coat", "film", "flakes")
)
COAT_EACH, FILM_EACH = LAYOUT.each["coat"], LAYOUT.each["film"]
ON_BASE = COATS
"""Films on the base come after those on each of the coats."""

MEASURED_METAL, COLORED_METAL = 1, 2
NO_DIFFUSE = np.zeros((1, 1, 1), np.float32)
NONE_SANDED = SandedTables(np.zeros((1, 1, 1, 1, 1), np.float32), np.zeros((1, 1, 1), np.float32))

CHOICE, DIRECTION, HERO, WALK, ASKING = range(5)
DRAWS = ASKING + ASK_DRAWS
"""Random numbers that a path draws at a stack."""


class Rows(NamedTuple):
    """One row a material; registers are -1 where there are none."""

    dials: np.ndarray  # (m, LAYOUT.size) int32: the register of each dial
    metal: np.ndarray  # (m,) int32: 0 for none, else MEASURED_METAL or COLORED_METAL
    base: np.ndarray  # (m,) int32: whether an interface lies above what is at the bottom
    coats: np.ndarray  # (m,) int32: how many
    films: np.ndarray  # (m, COATS + 2) int32: those from films[0] to films[1] lie on the first coat, and so on; the last are on the base
    tops: np.ndarray  # (m,) int32: how many of its lobes lie atop everything
    lobes: np.ndarray  # (m,) int32: how many lobes there are
    lobe: np.ndarray  # (m, lobes) int32: the kind of each
    amount: np.ndarray  # (m, lobes) int32: register
    rest: (
        np.ndarray
    )  # (m, lobes) int32: whether it lies beside what is within, not over it: a path meets one of them, or the other
    lobe_normal: np.ndarray  # (m, lobes, 3) int32: registers
    numbers: np.ndarray  # (m, lobes, numbers) int32: registers
    colors: np.ndarray  # (m, lobes, colours) int32: the first of three registers
    mirror_tinted: np.ndarray  # (m,) int32: whether what is mirrored from outside is tinted
    mirrored: np.ndarray  # (m, 401) float32: what the interface lets be mirrored
    metal_index: np.ndarray  # (m, 401) float32
    metal_extinction: np.ndarray  # (m, 401) float32
    sanded: np.ndarray  # (m,) int32: whether anything of it is rugged more along than across
    flakes: np.ndarray  # (m,) int32: 0 for none, else what they are of, as `flakes.row_of_flakes`
    flakes_under: np.ndarray  # (m,) int32: how many coats lie above them
    flake_size: np.ndarray  # (m,) float32 m
    size_spread: np.ndarray  # (m,) float32
    flake_index: np.ndarray  # (m, 401) float32
    flake_extinction: np.ndarray  # (m, 401) float32
    flake_ramp: np.ndarray  # (m, RAMP_STEPS, 3) float32: coefficients of their colours
    albedo: np.ndarray
    mean_missing: np.ndarray
    mirror_albedo: np.ndarray
    mirror_mean: np.ndarray
    sanded_missing: np.ndarray
    sanded_mean: np.ndarray
    diffuse: np.ndarray


REGISTERS = ("dials", "amount", "lobe_normal", "numbers", "colors")
"""Rows that name registers."""


def takes(leaf) -> bool:
    """Any stack; those of clear matter alone are the interface family's before."""
    return True


def tables(wanted: bool) -> dict:
    """What all rows share. wanted: whether any stack is this family's; those of lobes take a while to make."""
    albedo, mean_missing = energy_tables()
    sanded = sanded_tables() if wanted else NONE_SANDED
    return {
        "albedo": albedo,
        "mean_missing": mean_missing,
        "mirror_albedo": mirror_albedo_table(),
        "mirror_mean": mirror_mean_table(),
        "sanded_missing": sanded.missing,
        "sanded_mean": sanded.mean,
        "diffuse": diffuse_tables() if wanted else NO_DIFFUSE,
    }


def row(side) -> dict:
    """The row of one stack. side: `matter.Side`."""
    leaf, order = side.leaf, side.leaf.order
    metal = side.settled("metal")
    measured = "metal" in order and metal["substance"] != TWO_COLORS
    index, extinction = np.zeros(401), np.zeros(401)
    if measured:
        index, extinction = substances()[metal["substance"]].index, substances()[metal["substance"]].extinction
    mirrored = side.settled("interface")["specular_color"]
    return {
        "dials": LAYOUT.fill(leaf, side.registers),
        "metal": 0 if "metal" not in order else MEASURED_METAL if measured else COLORED_METAL,
        "base": int("interface" in order),
        "coats": sum(leaf.kinds[slot] == "coat" for slot in order),
        "films": films_on([leaf.kinds[slot] for slot in order]),
        "mirror_tinted": int(min(mirrored) < 0.9995),
        "mirrored": color_spectrum(mirrored),
        "metal_index": index,
        "metal_extinction": extinction,
        "sanded": int(is_sanded(leaf)),
        **row_of_flakes(side),
        **_lobes(side),
    }


def films_on(kinds: list[str]) -> list[int]:
    """Where the films on each coat and on the base begin among all films, and where the last end. kinds: of a stack's bands."""
    starts, films, coats = [0], 0, 0
    for kind in kinds:
        films += kind == "film"
        if kind == "coat":
            starts.append(films)
            coats += 1
    return [*starts, *[starts[-1]] * (COATS - coats), films]


def _lobes(side) -> dict:
    slots = [(slot, LOBES[NUMBERS[kind]]) for slot, kind in side.leaf.kinds.items() if kind in NUMBERS]
    slots.sort(key=lambda one: one[1].lies != TOP)
    made = {
        "tops": sum(lobe.lies == TOP for _, lobe in slots),
        "lobes": len(slots),
        "lobe": np.zeros(MOST_LOBES, np.int32),
        "amount": np.full(MOST_LOBES, -1, np.int32),
        "rest": np.zeros(MOST_LOBES, np.int32),
        "lobe_normal": np.full((MOST_LOBES, 3), -1, np.int32),
        "numbers": np.full((MOST_LOBES, MOST_NUMBERS), -1, np.int32),
        "colors": np.full((MOST_LOBES, MOST_COLORS), -1, np.int32),
    }
    for k, (slot, lobe) in enumerate(slots):
        made["lobe"][k] = NUMBERS[lobe.kind]
        made["rest"][k] = slot in side.leaf.rests
        [made["amount"][k]] = side.registers.of(side.leaf, slot, lobe.amount)
        made["lobe_normal"][k] = normal_registers(side, slot)
        for at, name in enumerate(lobe.numbers):
            [made["numbers"][k, at]] = side.registers.of(side.leaf, slot, name)
        for at, name in enumerate(lobe.colors):
            made["colors"][k, at] = side.registers.of(side.leaf, slot, name)[0]
    return made


@step
def _dial(registers, rows, m, entry, column, low, high):
    r = rows.dials[m, entry]
    return held(registers[r, column], low, high) if r >= 0 else low


@step
def _put_color(row, at, registers, first, column, nm):
    """A colour dial at four wavelengths. first: the first of its coefficients' registers."""
    a, b, c = registers[first, column], registers[first + 1, column], registers[first + 2, column]
    for w in range(4):
        row[at + w] = sigmoid(a, b, c, nm[w])


@step
def _there(registers, rows, m, entry, column, state):
    """Whether a band that covers a share of the surface is there for this path, as `_is_met`."""
    return _is_met(_dial(registers, rows, m, entry, column, ZERO, ONE), state)


@step
def _is_met(share, state):
    """Whether a path meets what covers a share: (state, whether). A state of 0 asks for the likelier."""
    if share >= ONE or share <= ZERO:
        return state, share >= ONE
    if state == U(0):
        return state, share >= F(0.5)
    state, chance = next_random(state)
    return state, chance < share


@step
def _put_films(layers, k, registers, rows, m, column, place, state):
    """The films that this path meets on one boundary, as `optics.film.NO_FILMS`; each by the share that it covers."""
    into, count = layers.films[k], 0
    for f in range(rows.films[m, place], rows.films[m, place + 1]):
        shift = FILM_EACH * f
        state, there = _there(registers, rows, m, FILM.thin_film_weight + shift, column, state)
        if not there:
            continue
        into[1 + 2 * count] = _dial(registers, rows, m, FILM.thin_film_thickness + shift, column, ZERO, F(1e5))
        into[2 + 2 * count] = _dial(registers, rows, m, FILM.thin_film_ior + shift, column, ONE, F(4))
        count += 1
    into[0] = F(count)
    return state


@step
def _put_normal(into, things, registers, names, column, j, here):
    """A normal in the frame of the surface: its own when it is driven."""
    own = UP
    if names[0] >= 0:
        own = to_local(driven_normal(things, registers, names, column, j, here[2]), here[0], here[1], here[2])
    into[0], into[1], into[2] = own


@step
def _put_ruggedness(layers, k, registers, rows, m, column, dials, along):
    """How rugged boundary k is. dials: entries of its roughness, anisotropy and direction; along: in the frame of the surface."""
    roughness, anisotropy, direction = dials
    rough = _dial(registers, rows, m, roughness, column, ZERO, ONE)
    layers.alpha[k], layers.stretch[k] = alpha_of(rough), ONE
    if not rows.sanded[m]:
        return
    sanded = _dial(registers, rows, m, anisotropy, column, ZERO, ONE)
    if sanded > ZERO:
        layers.alpha[k], layers.stretch[k] = alpha_of_sanded(rough, sanded)
        turn = _dial(registers, rows, m, direction, column, F(-3600), F(3600)) * F(np.pi / 180)
        c, s = cos(turn), sin(turn)
        layers.along[k, 0], layers.along[k, 1] = c * along[0] - s * along[1], s * along[0] + c * along[1]


@step
def _put_coat(layers, things, registers, rows, m, which, k, column, j, here, along, state):
    """One coat as boundary k and the medium beneath it."""
    shift = COAT_EACH * which
    dials = (COAT.coat_roughness + shift, COAT.coat_roughness_anisotropy + shift, COAT.coat_direction + shift)
    _put_ruggedness(layers, k, registers, rows, m, column, dials, along)
    state = _put_films(layers, k, registers, rows, m, column, which, state)
    _put_normal(layers.normal[k], things, registers, rows.dials[m, COAT.normal + shift :], column, j, here)
    n = _dial(registers, rows, m, COAT.coat_ior + shift, column, ONE, F(3))
    clear = layers.clear[k + 1]
    _put_color(clear, 0, registers, rows.dials[m, COAT.coat_color + shift], column, layers.nm)
    for w in range(4):
        layers.index[k + 1, w] = n
        clear[w] = sqrt(max(clear[w], F(1e-6)))
    return state


@step
def _put_coats(layers, things, registers, rows, m, first, last, coats, column, j, here, along, state):
    """Those of its coats from first to before last that this path meets, beneath `coats` others: (state, how many by now)."""
    for which in range(first, last):
        state, there = _there(registers, rows, m, COAT.coat_weight + COAT_EACH * which, column, state)
        if there:
            state = _put_coat(layers, things, registers, rows, m, which, coats, column, j, here, along, state)
            coats += 1
    return state, coats


@step
def _put_metal(layers, registers, rows, m, k, column):
    """A metal as boundary k."""
    into, nm = layers.index[k + 1], layers.nm
    if rows.metal[m] == MEASURED_METAL:
        for w in range(4):
            into[w] = curve_at(rows.metal_index[m], nm[w])
            layers.extinction[w] = max(curve_at(rows.metal_extinction[m], nm[w]), F(1e-6))
        return
    _put_color(into, 0, registers, rows.dials[m, METAL.base_color], column, nm)
    _put_color(layers.extinction, 0, registers, rows.dials[m, METAL.specular_color], column, nm)
    for w in range(4):
        n, extinction = metal_of_colors(into[w], layers.extinction[w])
        into[w], layers.extinction[w] = n, max(extinction, F(1e-6))


@step
def _put_flake_matter(layers, registers, rows, m, k, column, tone):
    """What a flake is of, as boundary k. tone: its random number."""
    nm, kind, films = layers.nm, rows.flakes[m], layers.films[k]
    thickness = FLAKES.plate_thickness if kind == OF_PLATES else FLAKES.flake_film_thickness
    spread = _dial(registers, rows, m, FLAKES.flake_film_spread, column, ZERO, ONE)
    films[1] = _dial(registers, rows, m, thickness, column, ZERO, F(1e5)) * (ONE + spread * (tone + tone - ONE))
    films[2] = _dial(registers, rows, m, FLAKES.flake_film_ior, column, ONE, F(4))
    films[0] = F(1 if films[1] > ZERO else 0)
    for w in range(4):
        layers.index[k + 1, w], layers.extinction[w] = layers.index[k, 0], F(1e-6)
        if kind == OF_METAL:
            layers.index[k + 1, w] = curve_at(rows.flake_index[m], nm[w])
            layers.extinction[w] = max(curve_at(rows.flake_extinction[m], nm[w]), F(1e-6))
        elif kind != OF_PLATES:
            c = rows.flake_ramp[m, index_among(tone * F(RAMP_STEPS), RAMP_STEPS)]
            n, extinction = metal_of_colors(sigmoid(c[0], c[1], c[2], nm[w]), ONE)
            layers.index[k + 1, w], layers.extinction[w] = n, max(extinction, F(1e-6))


@step
def _through_plate(layers, k, cosine, state):
    """A clear plate mirrors a share and lets the rest through: (state, whether this path is mirrored); sets by what it is weighed."""
    n, small = layers.index[k, 0], F(1e-6)
    films, around = films_at(layers, k), (n, n, n, n)
    shares, mean = four_reflectances(films, cosine, n, around, (small, small, small, small), four(layers.nm))
    chance = min(max(mean, F(0.1)), F(0.9))
    draw = ZERO if mean > F(0.5) else ONE
    if state != U(0):
        state, draw = next_random(state)
    for w in range(4):
        layers.first[w] = ONE / chance if draw < chance else (ONE - shares[w]) / (ONE - chance)
    return state, draw < chance


@step
def _meet_flake(layers, registers, rows, m, k, column, spot, wo, state):
    """Whether a path meets a flake, which is then boundary k: (state, whether). wo: where the light comes from."""
    coverage = _dial(registers, rows, m, FLAKES.flakes_coverage, column, ZERO, ONE)
    if coverage <= ZERO:
        return state, False
    size, place = rows.flake_size[m], spot[0]
    sheen = share_of_sheen(spot[1], size)
    if state != U(0):
        state, draw = next_random(state)
    else:
        sheen, draw = ZERO, ONE
    if draw < sheen:
        state, _ = next_random(state)
        bits = U(mix_bits(state))
    else:
        bits = flake_at(place[0] / size, place[1] / size, place[2] / size, rows.size_spread[m])
    if own_number(bits, PRESENT) >= coverage:
        return state, False
    if k > 0:
        wo = below_coat(wo, layers.index[k, 0], layers.index[0, 0])
    lean = alpha_of_lean(_dial(registers, rows, m, FLAKES.flake_lean, column, ZERO, F(45)))
    own = alpha_of(_dial(registers, rows, m, FLAKES.flake_roughness, column, ZERO, ONE))
    normal = lean_of(wo, lean, bits)
    _put_flake_matter(layers, registers, rows, m, k, column, own_number(bits, TONE))
    if rows.flakes[m] == OF_PLATES:
        state, mirrored = _through_plate(layers, k, min(max(dot(wo, normal), ZERO), ONE), state)
        if not mirrored:
            return state, False
    layers.lean[0] = lean
    if draw < sheen:
        normal, own, layers.lean[0] = UP, alpha_of_sheen(lean, own), ZERO
    layers.alpha[k], layers.stretch[k] = max(own, SMOOTHEST_FLAKE), ONE
    layers.normal[k, 0], layers.normal[k, 1], layers.normal[k, 2] = normal
    depth = _dial(registers, rows, m, FLAKES.flake_depth, column, ZERO, ONE)
    for w in range(4):
        layers.tint[w], layers.mirrored[w], layers.clear[k + 1, w] = ONE, ONE, ONE
        if k > 0:
            layers.clear[k, w] = layers.clear[k, w] ** depth
    return state, True


@step
def _put_base(layers, things, registers, rows, media, m, k, column, j, here, along, state):
    """The interface or the metal as boundary k."""
    dials = (INTERFACE.specular_roughness, INTERFACE.specular_roughness_anisotropy, INTERFACE.specular_direction)
    normal = INTERFACE.normal
    if rows.metal[m]:
        dials = (METAL.specular_roughness, METAL.specular_roughness_anisotropy, METAL.specular_direction)
        normal = METAL.normal
    _put_ruggedness(layers, k, registers, rows, m, column, dials, along)
    state = _put_films(layers, k, registers, rows, m, column, ON_BASE, state)
    _put_normal(layers.normal[k], things, registers, rows.dials[m, normal:], column, j, here)
    for w in range(4):
        layers.tint[w] = curve_at(media.tint[m], layers.nm[w])
        layers.mirrored[w] = curve_at(rows.mirrored[m], layers.nm[w]) if rows.mirror_tinted[m] else ONE
        layers.extinction[w], layers.clear[k + 1, w] = ZERO, ONE
    if rows.metal[m]:
        _put_metal(layers, registers, rows, m, k, column)
    return state


@step
def _put_lobes(layers, things, registers, rows, m, column, j, here, entering, state):
    for k in range(rows.lobes[m]):
        layers.lobe[k] = rows.lobe[m, k]
        layers.amount[k] = held(registers[rows.amount[m, k], column], ZERO, ONE)
        if rows.rest[m, k]:
            state, met = _is_met(layers.amount[k], state)
            layers.amount[k] = ONE if entering and met else ZERO
        _put_normal(layers.lobe_normal[k], things, registers, rows.lobe_normal[m, k], column, j, here)
        into, at = layers.lobe_dials[k], 0
        while at < MOST_NUMBERS and rows.numbers[m, k, at] >= 0:
            into[at] = held(registers[rows.numbers[m, k, at], column], F(0), F(1e6))
            at += 1
        for c in range(MOST_COLORS):
            if rows.colors[m, k, c] >= 0:
                _put_color(into, at, registers, rows.colors[m, k, c], column, layers.nm)
                at += 4
    return state


@step
def _along(scene, hits, i, j, here):
    """The way of the first texture coordinate in the frame of a surface, of length 1 in its plane."""
    things = scene.geometry.things
    if things.strands[j]:
        return ONE, ZERO, ZERO
    _, slope, _ = texture_at(scene.geometry.triangles, things.first[j] + hits.primitive[i], hits.u[i], hits.v[i])
    slope = to_local(to_stage(things, j, slope), here[0], here[1], here[2])
    size = sqrt(slope[0] * slope[0] + slope[1] * slope[1])
    return (slope[0] / size, slope[1] / size, ZERO) if size > F(1e-9) else (ONE, ZERO, ZERO)


@step
def _spot(batch, scene, i, j):
    """(place in the axes of the form, how wide a pixel is there); nothing is told apart by what many sides light, all of it in a mirror."""
    hits, paths = batch.hits, batch.paths
    own = surface_at(scene.geometry, j, hits.primitive[i], hits.u[i], hits.v[i]).own
    if paths.state[i] & (SCATTERED | THROWN):
        return own, F(1e9)
    return own, hits.distance[i] * batch.pixel[0] if paths.bounce[i] == 0 else ZERO


@step
def gather(layers, batch, i, scene, rows, registers, m, column, j, here, outside, within, entering, state):
    """The stack at a hit, at the wavelengths in `layers.nm`: (its kind, state). here: the frame of the surface. A state of 0: what is likelier."""
    along = _along(scene, batch.hits, i, j, here) if rows.sanded[m] else (ONE, ZERO, ZERO)
    things, media = scene.geometry.things, scene.media
    for w in range(4):
        layers.index[0, w] = index_of(outside, layers.nm[0], things, media)
        layers.clear[0, w], layers.first[w] = ONE, ONE
    state = _put_lobes(layers, things, registers, rows, m, column, j, here, entering, state)
    under = rows.flakes_under[m] if rows.flakes[m] else rows.coats[m]
    state, coats = _put_coats(layers, things, registers, rows, m, 0, under, 0, column, j, here, along, state)
    if rows.flakes[m]:
        wo = to_local(negate(vec3(batch.paths.direction, i)), here[0], here[1], here[2])
        # From within, leans that follow the eye would gather light on ways that never end.
        wo = (wo[0], wo[1], max(wo[2], F(1e-3))) if entering else UP
        spot = _spot(batch, scene, i, j)
        state, met = _meet_flake(layers, registers, rows, m, coats, column, spot, wo, state)
        if met:
            return Stack(coats, coats, FLAKE, rows.tops[m], rows.tops[m]), state
        last = rows.coats[m]
        state, coats = _put_coats(layers, things, registers, rows, m, under, last, coats, column, j, here, along, state)
    state = _put_base(layers, things, registers, rows, media, m, coats, column, j, here, along, state)
    if rows.base[m]:
        for w in range(4):
            layers.index[coats + 1, w] = index_at(things, media, within, j, m, layers.nm[w], registers, column)
    boundaries = coats + (1 if rows.base[m] else 0)
    return Stack(coats, boundaries, rows.metal[m], rows.tops[m], rows.lobes[m]), state


@step
def _worth_asking(layers, stack):
    """Whether lamps can be found by asking: something in the stack is rough or matt."""
    if stack.lobes > 0:
        return True
    for k in range(stack.coats + 1):  # noqa: SIM110
        if layers.alpha[k] > ROUGH_FROM * ROUGH_FROM:
            return True
    return False


@step
def _ask(batch, scene, i, bit, flat, normal, around, seed):
    """A lamp for a hit: (which, direction, distance, density, density as a rough boundary would have asked), densities 0 for none."""
    paths = batch.paths
    lamp, way, distance, density = ask(scene, paths, i, bit, around, seed, paths.dimension[i] + ASKING)
    if distance <= ZERO or dot(way, flat) <= ZERO or dot(way, normal) <= ZERO:
        return lamp, way, ZERO, ZERO, ZERO
    glossy = density
    if around == LIGHT and not paths.state[i] & SCATTERED and not scene.same_reflections:
        if lamp == SURROUND:
            glossy = ZERO
        else:
            start = vec3(paths.origin, i)
            there = chance_of(scene, lamp, start, bit, LIGHT)
            glossy *= chance_of(scene, lamp, start, bit, REFLECTIONS) / max(there, F(1e-9))
    return lamp, way, distance, density, glossy


@step
def _pass_unseen(paths, i, j, flat, entering, clearance, opaque, changes):
    """At a surface within matter of a higher priority nothing happens; nothing comes out of a metal."""
    if changes and opaque:
        for w in range(paths.lines[i]):
            paths.weight[w, i] = ZERO
    else:
        cross_surface(paths, i, j, entering)
    put3(paths.origin, i, add(vec3(paths.origin, i), scale(flat, -clearance if entering else clearance)))


@step
def _lead_line(batch, scene, i, before, after, seed):
    """Which of its wavelengths directions in the stack are those of: brings it forward, and says whether they part beyond."""
    paths = batch.paths
    if paths.lines[i] == 1 or not (parts_light(scene, before) or parts_light(scene, after)):
        return False
    hero = single(seed, paths.pixel[i], paths.sample[i], paths.dimension[i] + HERO)
    lead(paths, i, min(int(hero * F(4)), 3))
    return True


@step
def _keep_first(batch, i):
    """Let a path go on with its first wavelength alone, for all four. Source: Wilkie et al. 2014, 4."""
    batch.paths.weight[0, i] *= F(4)
    alone(batch.paths, i, 0)
    batch.counts[WHOLE] -= 1


@step
def _send_on(batch, scene, registers, column, i, j, m, entering, after, parts):
    """Book that a path goes on through the surface."""
    paths = batch.paths
    cross_surface(paths, i, j, entering)
    take_up(paths, i, after, scene.geometry.things, scene.media, j, registers, column)
    if parts:
        _keep_first(batch, i)
    show_fan(paths, i, scene.media, m)


@step
def _met(paths, hits, things, i):
    """(flat normal, normal, whether it enters, medium before, medium beyond) of a path at the form that it meets."""
    wo, flat, normal = negate(vec3(paths.direction, i)), vec3(hits.flat, i), vec3(hits.normal, i)
    entering = dot(wo, flat) > ZERO
    if (dot(wo, normal) > F(1e-4)) != entering or abs(dot(wo, normal)) < F(1e-4):
        normal = flat
    before, after = media_around(paths, i, things.priority, hits.thing[i], entering)
    return flat, normal, entering, before, after


@step
def _leave_evenly(batch, scene, i, bit, flat, start, eta, seed, dimension):
    """Send light that was scattered within, and came up through the stack, on as from a matt surface, and ask a lamp for it: (direction, density).

    As `interface._leave_matt`: the flux is kept, the direction is that of light that came evenly from within. eta: of the outermost boundary.
    """
    paths = batch.paths
    lamp, way, distance, density = ask(scene, paths, i, bit, LIGHT, seed, dimension + ASKING)
    cosine = dot(way, flat)
    if distance > ZERO and cosine > ZERO:
        value = cosine * INV_PI * share_let_out(cosine, eta)
        values = (value, value, value, value)
        queue_shadow(batch, scene, i, AIR, start, lamp, LIGHT, way, distance, density, values, cosine * INV_PI)
    a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
    onward = even_direction(a, b)
    cosine = onward[2]
    share = share_let_out(cosine, eta)
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= share
    x, y = frame(flat)
    return to_world(onward, x, y, flat), cosine * INV_PI


@kernel
def shade(batch, places, count, registers, scene, rows, layers, seed):
    """Send every path at a stack of bands on its way. places: where they stand in `Batch.form_queue`."""
    paths, hits, things = batch.paths, batch.hits, scene.geometry.things
    sanded = SandedTables(rows.sanded_missing, rows.sanded_mean)
    tables = Tables(
        Energies(rows.albedo, rows.mean_missing, rows.mirror_albedo, rows.mirror_mean, sanded), rows.diffuse
    )
    for place in range(count):
        column = places[place]
        i = batch.form_queue[column]
        m, j = hits.matter[i], hits.thing[i]
        flat, normal, entering, before, after = _met(paths, hits, things, i)
        if before == after or (rows.metal[m] and not entering):
            _pass_unseen(paths, i, j, flat, entering, hits.clearance[i], rows.metal[m], before != after)
            continue
        parts = _lead_line(batch, scene, i, before, after, seed)
        outside, within = (before, after) if entering else (after, before)
        x, y = frame(normal)
        for w in range(4):
            layers.nm[w] = paths.wavelength[w if w < paths.lines[i] else 0, i]
        dimension = paths.dimension[i]
        state = row_of(seed, paths.pixel[i], paths.sample[i], dimension + WALK)
        stack, state = gather(
            layers,
            batch,
            i,
            scene,
            rows,
            registers,
            m,
            column,
            j,
            (x, y, normal),
            outside,
            within,
            entering,
            state,
        )
        around = LIGHT if paths.state[i] & SCATTERED or stack.lobes > stack.tops else REFLECTIONS
        start = add(vec3(paths.origin, i), scale(flat, hits.clearance[i]))
        lamp, way, distance, density, glossy, share = SURROUND, normal, ZERO, ZERO, ZERO, ZERO
        thrown, throws = paths.state[i] & THROWN != 0, scene.media.throws[m] != 0
        leaves = paths.state[i] & WALKED != 0 and not entering and after == AIR
        if thrown:
            way, distance, share = toward_lens(scene, paths, i, start, seed, dimension + ASKING)
            if things.seen[j] & BY_CAMERA and distance > ZERO and min(dot(way, flat), dot(way, normal)) > ZERO:
                density = ONE
        elif not leaves and _worth_asking(layers, stack):
            lamp, way, distance, density, glossy = _ask(batch, scene, i, things.bit[j], flat, normal, around, seed)
            if paths.state[i] & FROM_MATT and throws and is_thrown(scene, lamp, way):
                glossy = ZERO
        asked = Asked(
            to_local(way, x, y, normal), density, glossy, 1 if not thrown and meets_by_chance(scene, lamp) else 0
        )
        a, b = pair(seed, paths.pixel[i], paths.sample[i], dimension + DIRECTION)
        choice = single(seed, paths.pixel[i], paths.sample[i], dimension + CHOICE)
        local = to_local(vec3(paths.direction, i), x, y, normal)
        if stack.metal == FLAKE and not entering:
            onward, weights = off_the_back(layers, stack, local)
            outcome, pdf, matt, sent = INSIDE, BY_MIRROR, False, NONE4
        else:
            outcome, onward, weights, pdf, matt, sent = walk_layers(
                layers, tables, stack, local, not entering, asked, state, choice, a, b
            )
        paths.dimension[i] = dimension + DRAWS
        if thrown:
            if density > ZERO and sent[0] + sent[1] + sent[2] + sent[3] > ZERO:
                back = negate(vec3(paths.direction, i))
                share *= adjoint(back, way, normal, flat)
                queue_lens(batch, scene, i, start, way, distance, scale4(sent, share))
            if matt or not throws:
                paths.state[i] |= ENDED
                continue
        elif density > ZERO and sent[0] + sent[1] + sent[2] + sent[3] > ZERO:
            queue_light(batch, scene, i, outside, start, lamp, around, way, distance, sent)
        for w in range(paths.lines[i]):
            paths.weight[w, i] *= weights[w]
        onward = to_world(onward, x, y, normal)
        goes_out = outcome == OUTSIDE
        if (dot(onward, flat) > ZERO) != goes_out:
            onward = add(onward, scale(flat, -TWO * dot(onward, flat)))
        if leaves and goes_out:
            eta = max(layers.index[1, 0] / layers.index[0, 0], ONE)
            onward, pdf = _leave_evenly(batch, scene, i, things.bit[j], flat, start, eta, seed, dimension)
        if outcome != LOST and goes_out != entering:
            _send_on(batch, scene, registers, column, i, j, m, entering, after, parts)
        if goes_out == entering:
            paths.state[i] |= TURNED
        if matt:
            paths.state[i] |= MEASURED | SCATTERED
            mark_matt(paths, i)
        else:
            mark_bent(paths, i, throws)
        weigh_thrown(paths, i, negate(vec3(paths.direction, i)), onward, normal, flat)
        paths.pdf[i] = pdf if goes_out else -ONE
        put3(paths.direction, i, onward)
        clearance = hits.clearance[i] if goes_out else -hits.clearance[i]
        put3(paths.origin, i, add(vec3(paths.origin, i), scale(flat, clearance)))
        paths.bounce[i] += 1
        paths.bit[i] = things.bit[j]


@kernel
def look(batch, registers, scene, rows, layers):
    """Gather the stack that the only path of a batch meets, whatever family it is of, at the wavelength that the path carries.

    Returns (Stack, normal, medium before, medium beyond, whether it enters).
    """
    paths, hits, things, i = batch.paths, batch.hits, scene.geometry.things, batch.form_queue[0]
    m, j = hits.matter[i], hits.thing[i]
    _, normal, entering, before, after = _met(paths, hits, things, i)
    outside, within = (before, after) if entering else (after, before)
    for w in range(4):
        layers.nm[w] = paths.wavelength[0, i]
    x, y = frame(normal)
    here = (x, y, normal)
    stack, _ = gather(layers, batch, i, scene, rows, registers, m, 0, j, here, outside, within, entering, U(0))
    return stack, normal, before, after, entering


scratch = new_layers
"""What a thread needs for `shade`, made once."""
