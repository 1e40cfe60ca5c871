"""Triangles with smooth normals and texture coordinates."""

from typing import NamedTuple

import numpy as np

from nineglass.forms.mesh import Mesh
from nineglass.kernels import HALF, ONE, F, step
from nineglass.network.interpret import white_noise
from nineglass.vectors import add, cross, dot, scale, sub, unit

CM = F(100)


class Triangles(NamedTuple):
    """The triangles of all meshes of a stage, end to end, each in the axes of its mesh."""

    corners: np.ndarray  # (m, 9) float32, m: a corner and the two edges that leave it
    normals: np.ndarray  # (m, 9) float32: at the three corners
    uvs: np.ndarray  # (m, 6) float32: texture coordinates at the corners
    pieces: np.ndarray  # (m,) int32: which piece of its mesh it is part of; one entry when nothing asks


def rows_of(mesh: Mesh) -> Triangles:
    """The rows of one mesh."""
    corners = mesh.vertices.astype(np.float32).take(mesh.faces, axis=0).reshape(-1, 9)
    for column in range(3, 9):
        corners[:, column] -= corners[:, column % 3]
    normals = mesh.normals.astype(np.float32).take(mesh.faces, axis=0).reshape(-1, 9)
    return Triangles(corners, normals, mesh.corner_uvs(), np.zeros(1, np.int32))


def joined(rows: list[Triangles]) -> Triangles:
    """The rows of several meshes, end to end."""
    if len(rows) == 1:
        return rows[0]
    widths = {"corners": 9, "normals": 9, "uvs": 6}
    ends = (
        np.concatenate([np.zeros((0, width), np.float32), *(getattr(one, name) for one in rows)])
        for name, width in widths.items()
    )
    return Triangles(*ends, np.zeros(1, np.int32))


@step
def row3(array, t, at):
    return array[t, at], array[t, at + 1], array[t, at + 2]


@step
def between(array, t, u, v):
    """A vector within a triangle, linear between its corners."""
    n, rest = array, ONE - u - v
    return (
        n[t, 0] * rest + n[t, 3] * u + n[t, 6] * v,
        n[t, 1] * rest + n[t, 4] * u + n[t, 7] * v,
        n[t, 2] * rest + n[t, 5] * u + n[t, 8] * v,
    )


@step
def place_at(triangles, t, u, v):
    """(place, flat normal, smooth normal) in the axes of the mesh, and the size of the numbers that the place is made of."""
    corner, first, second = row3(triangles.corners, t, 0), row3(triangles.corners, t, 3), row3(triangles.corners, t, 6)
    place = add(corner, add(scale(first, u), scale(second, v)))
    size = max(
        abs(corner[0]) + max(abs(first[0]), abs(second[0])),
        abs(corner[1]) + max(abs(first[1]), abs(second[1])),
        abs(corner[2]) + max(abs(first[2]), abs(second[2])),
    )
    return place, unit(cross(first, second)), unit(between(triangles.normals, t, u, v)), size


@step
def texture_at(triangles, t, u, v):
    """(texture coordinates, how each of the two changes per cm, in the axes of the mesh)."""
    uv, rest = triangles.uvs, ONE - u - v
    first, second = row3(triangles.corners, t, 3), row3(triangles.corners, t, 6)
    at = (uv[t, 0] * rest + uv[t, 2] * u + uv[t, 4] * v, uv[t, 1] * rest + uv[t, 3] * u + uv[t, 5] * v)
    # The change along the triangle: the dual of its edges.
    aa, ab, bb = dot(first, first), dot(first, second), dot(second, second)
    size = max(aa * bb - ab * ab, F(1e-30)) * CM
    along, across = sub(scale(first, bb), scale(second, ab)), sub(scale(second, aa), scale(first, ab))
    du = add(scale(along, (uv[t, 2] - uv[t, 0]) / size), scale(across, (uv[t, 4] - uv[t, 0]) / size))
    dv = add(scale(along, (uv[t, 3] - uv[t, 1]) / size), scale(across, (uv[t, 5] - uv[t, 1]) / size))
    return at, du, dv


@step
def piece_at(triangles, t, which):
    """A random number from 0 to 1 for the piece that a triangle belongs to, of an object whose own number is `which`."""
    return white_noise(which, F(triangles.pieces[t]) + HALF, HALF)
