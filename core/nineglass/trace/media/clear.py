"""What every medium does to light: it bends it and absorbs it. What scatters it is in `scattering`."""

from math import exp
from typing import NamedTuple

import numpy as np

from nineglass.kernels import ONE, ZERO, F, step
from nineglass.optics.absorption import sigma_at_depth
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.limits import LEAST_SCALE
from nineglass.optics.phase import similar_albedo
from nineglass.spectra.curves import curve_at
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.paths import AIR, WALKED
from nineglass.vectors import index_among

CM = F(0.01)
SHORTEST_DEPTH, SHORTEST_RADIUS, SMALLEST_SCALE = F(1e-6), F(1e-7), F(LEAST_SCALE)
MOST_AMOUNT, MOST_ASYMMETRY = F(1e6), F(0.99)
LOWEST_INDEX, HIGHEST_INDEX = F(0.2), F(10)


class Media(NamedTuple):
    """One row a material, in the order of `Set.materials`; then the two sides of each that is split. -1 for registers that there are not."""

    ior: np.ndarray  # (m,) float32: at the helium line
    ior_register: np.ndarray  # (m,) int32: where it varies over the form
    dispersive: np.ndarray  # (m,) int32
    index: np.ndarray  # (m, 401) float32
    sigma: np.ndarray  # (m, 401) float32, 1/m
    depth_register: np.ndarray  # (m,) int32: where an interior is driven, which is read where light enters
    color_register: np.ndarray  # (m,) int32: the first of three coefficients of its colour, or -1
    amount_register: np.ndarray  # (m,) int32: of scattering
    density_register: np.ndarray  # (m,) int32: of all that is within
    scatter_color_register: np.ndarray  # (m,) int32: the first of three coefficients of what is scattered, or -1
    asymmetry_register: (
        np.ndarray
    )  # (m,) int32: where the mean cosine of scattering is driven, of an interior or a subsurface
    scattered: np.ndarray  # (m, 401) float32: scattering for an amount of 1, over the depth or by itself
    by_depth: np.ndarray  # (m,) int32: which of the two
    radius_register: np.ndarray  # (m,) int32: where a subsurface is driven
    scale_register: (
        np.ndarray
    )  # (m,) int32: the first of three coefficients of how far each wavelength goes in it, or -1
    radius_scale: np.ndarray  # (m, 401) float32: how far each wavelength goes in it, of its mean free path
    inversion: (
        np.ndarray
    )  # (m, 65) float32: `optics.inversion.inversion_table` of it; of even scattering where the mean cosine is driven
    concentration: np.ndarray  # (m,) float32
    open: np.ndarray  # (m,) int32: whether it has no boundary, as fog, so that lamps shine straight into it
    scatters: np.ndarray  # (m,) int32: whether it scatters light (`scattering`)
    sigma_s: np.ndarray  # (m, 401) float32, 1/m
    asymmetry: np.ndarray  # (m,) float32: the mean cosine of scattering by one lobe
    tabled: np.ndarray  # (m,) int32: whether it turns light by a table instead
    phase: np.ndarray  # (m, 1025) float32: that table, `optics.phase.tabled_phase`
    scattered_once: np.ndarray  # (m,) int32: whether only what is scattered once is followed (untrue)
    from_behind: np.ndarray  # (m,) float32: times as strong as true is what goes on through it
    opaque: np.ndarray  # (m,) int32: whether lamps cannot shine straight through
    throws: np.ndarray  # (m,) int32: whether light from lamps is thrown through it or off it (`light.throw`)
    tint: np.ndarray  # (m, 401) float32: what its surface lets pass
    fan: np.ndarray  # (m,) int32: whether its fan is recoloured


@step
def held(value, low, high):
    """A number within its limits; what is not a number becomes the lower one."""
    return min(value, high) if value > low else low


@step
def index_of(medium, wavelength_nm, things, media):
    """Refractive index of a medium where no dial of it is driven."""
    if medium == AIR:
        return ONE
    m = things.matter[medium]
    if media.dispersive[m]:
        return curve_at(media.index[m], wavelength_nm)
    return media.ior[m]


@step
def index_at(things, media, medium, j, row, nm, registers, column):
    """Index of a medium at the surface of thing j, whose material is that of `row` there."""
    if medium == AIR:
        return ONE
    if medium != j:
        return index_of(medium, nm, things, media)
    index = curve_at(media.index[row], nm) if media.dispersive[row] else media.ior[row]
    if media.ior_register[row] >= 0:
        index += held(registers[media.ior_register[row], column], LOWEST_INDEX, HIGHEST_INDEX) - media.ior[row]
    return max(index, LOWEST_INDEX)


@step
def parts_light(scene, medium):
    """Whether the index of a medium changes over wavelength."""
    return medium != AIR and scene.media.dispersive[scene.geometry.things.matter[medium]] != 0


@step
def travel(paths, i, distance, things, media):
    """Absorb along the way, where that is not done with the scattering; keep the length through the material on the bench (row 0)."""
    medium = paths.medium[i]
    if medium == AIR or media.scatters[things.matter[medium]] or media.open[things.matter[medium]]:
        return
    if things.matter[medium] == 0:
        paths.length[i] += distance
    for w in range(paths.lines[i]):
        paths.weight[w, i] *= exp(-paths.sigma_a[w, i] * distance)


@step
def take_up(paths, i, medium, things, media, met, registers, column):
    """Set the medium of a path and its absorption. met: the thing at whose surface the registers were filled."""
    paths.medium[i] = medium
    if medium == AIR:
        paths.state[i] &= ~WALKED
    if medium != AIR and things.matter[met] == things.matter[medium]:
        m = things.matter[medium]
        if media.depth_register[m] >= 0:
            _read_interior(paths, i, media, m, registers, column)
            return
        if media.radius_register[m] >= 0:
            _read_subsurface(paths, i, media, m, registers, column)
            return
    read_medium(paths, i, things, media)


@step
def read_medium(paths, i, things, media):
    """Set the absorption and the scattering of the medium that a path is in, where they are the same everywhere."""
    medium = paths.medium[i]
    if medium != AIR:
        paths.asymmetry[i] = media.asymmetry[things.matter[medium]]
    for w in range(paths.lines[i]):
        paths.sigma_a[w, i], paths.sigma_s[w, i] = ZERO, ZERO
        if medium != AIR:
            m, nm = things.matter[medium], paths.wavelength[w, i]
            paths.sigma_a[w, i] = curve_at(media.sigma[m], nm)
            if media.scatters[m]:
                paths.sigma_s[w, i] = curve_at(media.sigma_s[m], nm)


@step
def _asymmetry_at(media, m, registers, column):
    """The mean cosine of scattering of what is entered at a place."""
    r = media.asymmetry_register[m]
    return held(registers[r, column], -MOST_ASYMMETRY, MOST_ASYMMETRY) if r >= 0 else media.asymmetry[m]


@step
def _read_interior(paths, i, media, m, registers, column):
    depth = max(registers[media.depth_register[m], column] * CM, SHORTEST_DEPTH)
    density = held(registers[media.density_register[m], column], ZERO, MOST_AMOUNT)
    amount = held(registers[media.amount_register[m], column], ZERO, MOST_AMOUNT) * density
    if media.by_depth[m]:
        amount /= depth
    first, hue = media.color_register[m], media.scatter_color_register[m]
    paths.asymmetry[i] = _asymmetry_at(media, m, registers, column)
    for w in range(paths.lines[i]):
        nm = paths.wavelength[w, i]
        if first >= 0:
            c0, c1, c2 = registers[first, column], registers[first + 1, column], registers[first + 2, column]
            paths.sigma_a[w, i] = sigma_at_depth(sigmoid(c0, c1, c2, nm), depth) * media.concentration[m] * density
        else:
            paths.sigma_a[w, i] = curve_at(media.sigma[m], nm) * density
        paths.sigma_s[w, i] = amount * curve_at(media.scattered[m], nm) if media.scatters[m] else ZERO
        if hue >= 0:
            c0, c1, c2 = registers[hue, column], registers[hue + 1, column], registers[hue + 2, column]
            paths.sigma_s[w, i] *= sigmoid(c0, c1, c2, nm)


@step
def _read_subsurface(paths, i, media, m, registers, column):
    radius = max(registers[media.radius_register[m], column] * CM, SHORTEST_RADIUS)
    first, wide, table = media.color_register[m], media.scale_register[m], media.inversion[m]
    g = _asymmetry_at(media, m, registers, column)
    paths.asymmetry[i] = g
    turned = g if media.asymmetry_register[m] >= 0 else ZERO
    c0, c1, c2 = registers[first, column], registers[first + 1, column], registers[first + 2, column]
    for w in range(paths.lines[i]):
        nm = paths.wavelength[w, i]
        place = sigmoid(c0, c1, c2, nm) * F(table.size - 1)
        k = index_among(place, table.size - 1)
        root = table[k] + (table[k + 1] - table[k]) * (place - F(k))
        share = curve_at(media.radius_scale[m], nm)
        if wide >= 0:
            share = sigmoid(registers[wide, column], registers[wide + 1, column], registers[wide + 2, column], nm)
        extinction = ONE / (radius * max(share, SMALLEST_SCALE))
        scatters = similar_albedo(ONE - root * root, turned)
        paths.sigma_s[w, i] = extinction * scatters
        paths.sigma_a[w, i] = extinction - paths.sigma_s[w, i]


@step
def show_fan(paths, i, media, m):
    """Have light that passed matter with a recoloured fan answer in its colours."""
    if media.fan[m] and media.dispersive[m]:
        paths.fan[i] = m + 1


@step
def pass_pane(paths, shadows, k, i, media, m, cosine, length, things, medium):
    """Take from a shadow ray what a pane reflects (seen from outside), and what the matter before it absorbs."""
    reflectance, _ = dielectric_reflectance(min(cosine, ONE), max(media.ior[m], ONE))
    for w in range(paths.lines[i]):
        nm = paths.wavelength[w, i]
        share = (ONE - reflectance) * curve_at(media.tint[m], nm)
        if medium >= 0:
            row = things.matter[medium]
            share *= exp(-(curve_at(media.sigma[row], nm) + curve_at(media.sigma_s[row], nm)) * length)
        shadows.light[w, k] *= share


@step
def lead(paths, i, w):
    """Make one of the wavelengths of a path its first."""
    if w > 0:
        for row in (paths.wavelength, paths.weight, paths.per_density, paths.sigma_a, paths.sigma_s, paths.light):
            row[0, i], row[w, i] = row[w, i], row[0, i]


@step
def alone(paths, i, w):
    """Let a path carry one of its wavelengths only, as its first."""
    lead(paths, i, w)
    paths.lines[i] = 1
