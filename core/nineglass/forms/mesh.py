"""Triangles with smooth normals, and the shapes that forms are made of."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Mesh:
    """vertices (n, 3) float32 in m; normals (n, 3) float32 out of the matter; faces (m, 3) int32, anticlockwise from outside."""

    vertices: np.ndarray
    normals: np.ndarray
    faces: np.ndarray

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        return self.vertices.min(axis=0), self.vertices.max(axis=0)


def join(*meshes: Mesh) -> Mesh:
    """Several meshes as one."""
    starts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes)])
    faces = [mesh.faces + start for mesh, start in zip(meshes, starts, strict=False)]
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate([mesh.normals for mesh in meshes]),
        np.concatenate(faces).astype(np.int32),
    )


def inside_out(mesh: Mesh) -> Mesh:
    """The same surface with the matter on its other side."""
    return Mesh(mesh.vertices, -mesh.normals, mesh.faces[:, ::-1].copy())


def directions(cells: int) -> tuple[np.ndarray, np.ndarray]:
    """Unit vectors (n, 3) spread over the sphere by a cube with cells^2 squares a side, and their faces (m, 3)."""
    angle = np.tan(np.linspace(-np.pi / 4, np.pi / 4, cells + 1))
    u, v = (grid.ravel() for grid in np.meshgrid(angle, angle, indexing="ij"))
    one = np.ones_like(u)
    row = np.arange(cells)[:, None] * (cells + 1) + np.arange(cells)
    a, b, c, d = (row + shift for shift in (0, cells + 1, cells + 2, 1))
    square = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    points, faces = [], []
    for axis in range(3):
        for sign in (1.0, -1.0):
            side = np.roll(np.stack([sign * one, u, v * sign], -1), axis, axis=1)
            points.append(side)
            faces.append(square + len(faces) * len(u))
    points = np.concatenate(points)
    return points / np.linalg.norm(points, axis=1, keepdims=True), np.concatenate(faces).astype(np.int32)


def star(radius, cells: int) -> Mesh:
    """A closed surface given by a radius in m for each unit direction: radius((n, 3)) -> (n,)."""
    out, faces = directions(cells)
    helper = np.where(np.abs(out[:, 1:2]) < 0.9, [[0.0, 1.0, 0.0]], [[1.0, 0.0, 0.0]])
    first = np.cross(helper, out)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    second = np.cross(out, first)
    here, small = radius(out), 1e-3
    normals = out * here[:, None]
    for tangent in (first, second):
        ahead, behind = (out + s * small * tangent for s in (1, -1))
        slope = radius(ahead / np.sqrt(1 + small**2)) - radius(behind / np.sqrt(1 + small**2))
        normals -= tangent * (slope / (2 * small))[:, None]
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    return Mesh((out * here[:, None]).astype(np.float32), normals.astype(np.float32), faces)


def prism(outline: np.ndarray, height: float) -> Mesh:
    """A solid with flat faces: a polygon (n, 2) in x and z, seen whole from its vertex 0, upright from y = 0.

    The outline runs clockwise when drawn with x to the right and z upwards.
    """
    outline = np.asarray(outline, float)
    n = len(outline)
    quads = []
    for i in range(n):
        (x0, z0), (x1, z1) = outline[i], outline[(i + 1) % n]
        quads.append([(x0, 0, z0), (x0, height, z0), (x1, height, z1), (x1, 0, z1)])
    return _flat([*_caps(outline, height), *(t for q in quads for t in ((q[0], q[1], q[2]), (q[0], q[2], q[3])))])


def _caps(outline, height):
    low = [(x, 0.0, z) for x, z in outline]
    high = [(x, height, z) for x, z in outline]
    for i in range(1, len(outline) - 1):
        yield low[0], low[i], low[i + 1]
        yield high[0], high[i + 1], high[i]


def _flat(triangles) -> Mesh:
    corners = np.array(list(triangles), float)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    faces = np.arange(len(corners) * 3, dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3).astype(np.float32), np.repeat(normals, 3, axis=0).astype(np.float32), faces)


def centred(mesh: Mesh) -> Mesh:
    """Moved so that the middle of its box is the origin."""
    low, high = mesh.bounds()
    return Mesh(mesh.vertices - ((low + high) / 2).astype(np.float32), mesh.normals, mesh.faces)
