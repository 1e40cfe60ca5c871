"""Vectors of three as tuples of scalars, for use inside kernels."""

from math import sqrt

from nineglass.kernels import ONE, TWO, ZERO, F, optic


@optic
def index_among(place, count):
    """The index of a place from 0 to so many, held among them: also of what is no number, which is at the first."""
    return int(min(place, F(count - 1))) if place > ZERO else 0


@optic
def vec3(array, i):
    """Column i of a (3, n) array."""
    return array[0, i], array[1, i], array[2, i]


@optic
def put3(array, i, a):
    """Write a vector into column i of a (3, n) array."""
    array[0, i] = a[0]
    array[1, i] = a[1]
    array[2, i] = a[2]


@optic
def triple(a):
    """An array of three."""
    return a[0], a[1], a[2]


@optic
def row3(array, k):
    """Row k of an (n, 3) array."""
    return array[k, 0], array[k, 1], array[k, 2]


@optic
def add(a, b):
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


@optic
def sub(a, b):
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


@optic
def scale(a, s):
    return a[0] * s, a[1] * s, a[2] * s


@optic
def negate(a):
    return -a[0], -a[1], -a[2]


@optic
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@optic
def cross(a, b):
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


@optic
def unit(a):
    return scale(a, ONE / sqrt(max(dot(a, a), F(1e-30))))


@optic
def lerp(a, b, t):
    return a + (b - a) * t


@optic
def reflect(w, n):
    """Mirror the direction w (pointing away from the surface) about the unit normal n."""
    return sub(scale(n, TWO * dot(w, n)), w)


@optic
def refract(w, n, eta, cos_i, cos_t):
    """The refracted direction of w (pointing away from the surface) beyond the unit normal n.

    eta: index beyond over index before. cos_i = w . n >= 0. cos_t: cosine beyond, >= 0.
    Source: Snell's law in vector form, Walter et al. 2007, eq. 40.
    """
    return sub(scale(n, cos_i / eta - cos_t), scale(w, ONE / eta))


@optic
def frame(n):
    """Two unit vectors that complete the unit vector n to a right-handed frame.

    Source: Duff et al. 2017, Building an Orthonormal Basis, Revisited.
    """
    sign = ONE if n[2] >= ZERO else -ONE
    a = -ONE / (sign + n[2])
    b = n[0] * n[1] * a
    return (ONE + sign * n[0] * n[0] * a, sign * b, -sign * n[0]), (b, sign + n[1] * n[1] * a, -n[1])


@optic
def to_local(w, x, y, z):
    return dot(w, x), dot(w, y), dot(w, z)


@optic
def to_world(w, x, y, z):
    return add(add(scale(x, w[0]), scale(y, w[1])), scale(z, w[2]))


@optic
def smooth(t):
    """The cubic 3t^2 - 2t^3 between 0 and 1."""
    t = min(max(t, ZERO), ONE)
    return t * t * (F(3) - TWO * t)
