"""Which of several overlapping media is there: the one of the highest priority; of equals the one entered first.

Source: Schmidt & Budge 2002, Simple Nested Dielectrics in Ray Traced Images.
"""

from nineglass.kernels import ZERO, F, optic
from nineglass.optics.absorption import sigma_at_depth
from nineglass.spectra.upsampling import sigmoid
from nineglass.trace.generate import curve_at
from nineglass.trace.matter import C0, C1, C2, CURVES, DEPTH, INDEX, SIGMA
from nineglass.trace.paths import AIR, LEVELS

CM = F(0.01)
SHORTEST_DEPTH = F(1e-6)


@optic
def medium_without(paths, i, priorities, left_out):
    """The medium that is there when one occurrence of a thing is left out (AIR for none left out)."""
    best, height = AIR, -1
    for level in range(paths.levels[i]):
        j = paths.within[level, i]
        if j == left_out:
            left_out = AIR - 1
            continue
        if priorities[j] > height:
            best, height = j, priorities[j]
    return best


@optic
def medium_with(paths, i, priorities, entered):
    """The medium that is there when a thing is entered."""
    now = paths.medium[i]
    if now == AIR or priorities[entered] > priorities[now]:
        return entered
    return now


@optic
def enter(paths, i, thing):
    """Note that a path is in a thing. Beyond 8 levels the outermost is forgotten."""
    if paths.levels[i] == LEVELS:
        for level in range(LEVELS - 1):
            paths.within[level, i] = paths.within[level + 1, i]
        paths.levels[i] -= 1
    paths.within[paths.levels[i], i] = thing
    paths.levels[i] += 1


@optic
def leave(paths, i, thing):
    """Note that a path is out of a thing (once, when it was in it several times)."""
    kept, found = 0, False
    for level in range(paths.levels[i]):
        j = paths.within[level, i]
        if j == thing and not found:
            found = True
            continue
        paths.within[kept, i] = j
        kept += 1
    paths.levels[i] = kept


@optic
def take_up(paths, i, medium, things, matters, met, registers, column):
    """Set the medium of a path and its absorption. met: the thing at whose surface the registers were filled."""
    paths.medium[i] = medium
    if medium == AIR:
        for w in range(4):
            paths.sigma_a[w, i] = ZERO
        return
    m = things.matter[medium]
    if matters.interior_driven[m] and things.matter[met] == m:
        d = matters.dials[m]
        depth = max(registers[d[DEPTH], column] * CM, SHORTEST_DEPTH)
        c0, c1, c2 = registers[d[C0], column], registers[d[C1], column], registers[d[C2], column]
        for w in range(4):
            share = sigmoid(c0, c1, c2, paths.wavelength[w, i])
            paths.sigma_a[w, i] = sigma_at_depth(share, depth) * matters.concentration[m]
        return
    sigma = matters.curves[m * CURVES + SIGMA]
    for w in range(4):
        paths.sigma_a[w, i] = curve_at(sigma, paths.wavelength[w, i])


@optic
def index_of(medium, wavelength_nm, things, matters):
    """Refractive index of a medium where no dial of it is driven."""
    if medium == AIR:
        return F(1)
    m = things.matter[medium]
    if matters.dispersive[m]:
        return curve_at(matters.curves[m * CURVES + INDEX], wavelength_nm)
    return matters.ior[m]
