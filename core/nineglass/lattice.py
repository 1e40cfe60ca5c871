"""Numbers on voxels, read between their middles: for networks that read grids and for media that vary in space."""

from nineglass.kernels import HALF, ZERO, F, optic
from nineglass.vectors import lerp


@optic
def along(place, count):
    """(voxel below, steps to the one above, share of the way to it) along one side. place: in voxels from the lowest corner."""
    place = min(max(place - HALF, ZERO), F(count - 1))
    below = min(int(place), max(count - 2, 0))
    return below, 1 if count > 1 else 0, place - F(below)


@optic
def between(values, corner, dx, dy, dz, x, y, z):
    """The value linear between eight voxels. corner: where the lowest of them stands in values (n,); dx, dy, dz: how far on the next stand."""
    low = _bilinear(values, corner, dx, dy, x, y)
    return lerp(low, _bilinear(values, corner + dz, dx, dy, x, y), z)


@optic
def _bilinear(values, a, dx, dy, x, y):
    b = a + dy
    return lerp(lerp(values[a], values[a + dx], x), lerp(values[b], values[b + dx], x), y)
