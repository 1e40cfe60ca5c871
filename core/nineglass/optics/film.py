"""Reflection from thin films on a boundary, wavelength by wavelength.

The amplitudes of both polarisations are added up from the innermost film outwards (Airy's sum, applied once for each film).
Sources: Born & Wolf, Principles of Optics, 7th ed., 1.6.4 and 7.6.1; Byrnes 2016, Multilayer optical calculations.
"""

from math import cos, exp, sin, sqrt

from nineglass.kernels import HALF, ONE, PI, ZERO, F, optic
from nineglass.optics.conductor import conductor_reflectance
from nineglass.optics.dielectric import dielectric_reflectance

NO_FILMS = (0, F(0), F(1), F(0), F(1), F(0), F(1), F(0), F(1))
"""(how many, then thickness in nm and index of each, the outermost first); four at most."""


@optic
def _times(a, b):
    return a[0] * b[0] - a[1] * b[1], a[0] * b[1] + a[1] * b[0]


@optic
def _over(a, b):
    size = max(b[0] * b[0] + b[1] * b[1], F(1e-30))
    return (a[0] * b[0] + a[1] * b[1]) / size, (a[1] * b[0] - a[0] * b[1]) / size


@optic
def _root(a):
    """The root of a complex number that lies in the upper half plane: a wave that fades as it goes on."""
    size = sqrt(a[0] * a[0] + a[1] * a[1])
    re, im = sqrt(max(HALF * (size + a[0]), ZERO)), sqrt(max(HALF * (size - a[0]), ZERO))
    return (re, im) if a[1] >= ZERO else (-re, im)


@optic
def _cosine(sine, n):
    """The complex cosine in a medium of complex index n, when n0 sin(angle) before it is `sine`."""
    share = _over((sine, ZERO), n)
    square = _times(share, share)
    return _root((ONE - square[0], -square[1]))


@optic
def _step(n_a, cos_a, n_b, cos_b, parallel):
    """Fresnel's amplitude at one boundary."""
    a = _times(n_b, cos_a) if parallel else _times(n_a, cos_a)
    b = _times(n_a, cos_b) if parallel else _times(n_b, cos_b)
    return _over((a[0] - b[0], a[1] - b[1]), (a[0] + b[0], a[1] + b[1]))


@optic
def _there_and_back(thickness_nm, n, cosine, wavelength_nm):
    """exp(2 i beta) of a film."""
    way = _times((n, ZERO), cosine)
    turn = F(4) * PI * thickness_nm / wavelength_nm
    fade = exp(-min(turn * way[1], F(80)))
    return fade * cos(turn * way[0]), fade * sin(turn * way[0])


@optic
def _stack(films, cos_i, n_before, n_beyond, k_beyond, wavelength_nm):
    sine = n_before * sqrt(max(ONE - cos_i * cos_i, ZERO))
    total = ZERO
    for parallel in (False, True):
        n_below, cos_below = (n_beyond, k_beyond), _cosine(sine, (n_beyond, k_beyond))
        count, amplitude = films[0], (ZERO, ZERO)
        for up in range(count):
            f = count - 1 - up
            if f == 0:
                thickness, n = films[1], films[2]
            elif f == 1:
                thickness, n = films[3], films[4]
            elif f == 2:
                thickness, n = films[5], films[6]
            else:
                thickness, n = films[7], films[8]
            cos_here = _cosine(sine, (n, ZERO))
            below = _step((n, ZERO), cos_here, n_below, cos_below, parallel)
            if up > 0:
                below = _over((below[0] + amplitude[0], below[1] + amplitude[1]), _plus_one(_times(below, amplitude)))
            amplitude = _times(below, _there_and_back(thickness, n, cos_here, wavelength_nm))
            n_below, cos_below = (n, ZERO), cos_here
        top = _step((n_before, ZERO), (cos_i, ZERO), n_below, cos_below, parallel)
        r = _over((top[0] + amplitude[0], top[1] + amplitude[1]), _plus_one(_times(top, amplitude)))
        total += r[0] * r[0] + r[1] * r[1]
    return min(HALF * total, ONE)


@optic
def _plus_one(a):
    return ONE + a[0], a[1]


@optic
def boundary_reflectance(films, cos_i, n_before, n_beyond, k_beyond, wavelength_nm):
    """Unpolarised reflectance of a boundary with films on it, at one wavelength.

    films: as `NO_FILMS`. cos_i: cosine of the angle of incidence, in [0, 1]. The index beyond is n_beyond + i k_beyond.
    """
    if k_beyond > ZERO:
        bare = conductor_reflectance(cos_i, n_beyond / n_before, k_beyond / n_before)
    else:
        bare, _ = dielectric_reflectance(cos_i, n_beyond / n_before)
    if films[0] == 0:
        return bare
    if k_beyond <= ZERO and bare >= ONE:
        return ONE
    return _stack(films, max(cos_i, F(1e-4)), n_before, n_beyond, k_beyond, wavelength_nm)


@optic
def turned_over(films):
    """The same films as they are met from the other side."""
    count, a, na, b, nb, c, nc, d, nd = films
    if count == 2:
        return count, b, nb, a, na, c, nc, d, nd
    if count == 3:
        return count, c, nc, b, nb, a, na, d, nd
    if count == 4:
        return count, d, nd, c, nc, b, nb, a, na
    return films


@optic
def metal_of_colors(facing, edge):
    """(index, extinction) of a metal that reflects `facing` face-on, more or less whitened at the rim by `edge`; both in [0, 1].

    Source: Gulbrandsen 2014, Artist Friendly Metallic Fresnel, eqs. 5 and 6.
    """
    r = min(max(facing, F(1e-3)), F(0.999))
    low, root = (ONE - r) / (ONE + r), sqrt(r)
    high = (ONE + root) / (ONE - root)
    n = edge * low + (ONE - edge) * high
    k2 = (r * (n + ONE) * (n + ONE) - (n - ONE) * (n - ONE)) / (ONE - r)
    return n, sqrt(max(k2, F(1e-6)))
