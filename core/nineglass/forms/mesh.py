"""Triangles with smooth normals, and the shapes that forms are made of."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np


@dataclass(frozen=True, eq=False)
class Mesh:
    """vertices (n, 3) float32 in m; normals (n, 3) float32 out of the matter; faces (m, 3) int32, anticlockwise from outside."""

    vertices: np.ndarray
    normals: np.ndarray
    faces: np.ndarray
    uv: np.ndarray | None = None
    """(n, 2) texture coordinates where a file brought them."""

    def corner_uvs(self) -> np.ndarray:
        """(m, 6) float32 texture coordinates at the corners of each face; once around the vertical axis where there are none."""
        if self.uv is not None:
            return self.uv.astype(np.float32).take(self.faces, axis=0).reshape(-1, 6)
        low, high = self.bounds()
        away, height = self.vertices - (low + high) / 2, max(float(high[1] - low[1]), 1e-9)
        around = np.arctan2(away[:, 0], away[:, 2]) / (2 * np.pi) + 0.5
        at = np.stack([around, (self.vertices[:, 1] - low[1]) / height], -1).astype(np.float32).take(self.faces, axis=0)
        u = at[:, :, 0]
        behind = np.maximum(np.maximum(u[:, 0], u[:, 1]), u[:, 2]) - np.float32(0.5)
        u += u < behind[:, None]
        return at.reshape(-1, 6)

    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        return self._bounds

    @cached_property
    def faults(self) -> list[str]:
        """What `faults_of_surface` finds; kept, since the search takes a while on large meshes."""
        return faults_of_surface(self)

    @cached_property
    def pieces(self) -> np.ndarray:
        """(m,) for each face the number of the piece that it hangs together with."""
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        spots, faces = welded(self)
        links = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]]])
        graph = coo_array((np.ones(len(links), np.int8), (links[:, 0], links[:, 1])), shape=(spots, spots))
        return connected_components(graph, directed=False)[1][faces[:, 0]]

    @cached_property
    def _bounds(self) -> tuple[np.ndarray, np.ndarray]:
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
    corners = triangles if isinstance(triangles, np.ndarray) else np.array(list(triangles), float)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.sqrt(np.einsum("ij,ij->i", normals, normals))[:, None]
    faces = np.arange(len(corners) * 3, dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3).astype(np.float32), np.repeat(normals, 3, axis=0).astype(np.float32), faces)


def centred(mesh: Mesh) -> Mesh:
    """Moved so that the middle of its box is the origin."""
    low, high = mesh.bounds()
    return Mesh(mesh.vertices - ((low + high) / 2).astype(np.float32), mesh.normals, mesh.faces, mesh.uv)


def empty() -> Mesh:
    """Nothing: a part that is not there."""
    nothing = np.zeros((0, 3), np.float32)
    return Mesh(nothing, nothing, np.zeros((0, 3), np.int32))


def flat_solid(triangles) -> Mesh:
    """Flat faces from triangles (m, 3, 3) in m, anticlockwise from outside."""
    return _flat(triangles)


CREASE_DEG = 35.0


def lathe(profile, around: int = 96) -> Mesh:
    """A solid turned about the vertical axis from a profile (n, 2) of radius and height in m, the matter to its left.

    The profile runs from the axis below to the axis above for a solid; one that begins and ends away from the axis is closed
    by joining its ends. Corners sharper than 35 degrees stay sharp.
    """
    profile = np.asarray(profile, float)
    if profile[0, 0] > 1e-9 or profile[-1, 0] > 1e-9:
        profile = np.vstack([profile, profile[:1]])
    keep = np.concatenate([[True], np.linalg.norm(np.diff(profile, axis=0), axis=1) > 1e-9])
    profile = profile[keep]
    edges = np.diff(profile, axis=0)
    out = np.stack([edges[:, 1], -edges[:, 0]], axis=1)
    out /= np.linalg.norm(out, axis=1, keepdims=True)
    phi = np.arange(around) / around * 2 * np.pi
    ring = np.stack([np.sin(phi), np.zeros_like(phi), np.cos(phi)], axis=1)
    vertices, normals, faces, at = [], [], [], 0
    for k, (low, high) in enumerate(pairwise(profile)):
        ends = (_joint_normal(out, k, -1, profile), _joint_normal(out, k, 1, profile))
        for (radius, height), normal in zip((low, high), ends, strict=True):
            vertices.append(ring * radius + [0, height, 0])
            normals.append(ring * normal[0] + [0, normal[1], 0])
        i = np.arange(around)
        a, b = at + i, at + (i + 1) % around
        c, d = b + around, a + around
        if low[0] > 1e-9:
            faces.append(np.stack([a, b, c if high[0] > 1e-9 else d], axis=1))
        if high[0] > 1e-9:
            faces.append(np.stack([a, c, d], axis=1))
        at += 2 * around
    return Mesh(
        np.concatenate(vertices).astype(np.float32),
        np.concatenate(normals).astype(np.float32),
        np.concatenate(faces).astype(np.int32),
    )


def _joint_normal(out: np.ndarray, k: int, side: int, profile: np.ndarray) -> np.ndarray:
    """The normal of edge k at its end on a side, shared with its neighbour where the corner is blunt."""
    closed = np.allclose(profile[0], profile[-1])
    other = k + side
    if closed:
        other %= len(out)
    neighbour = out[other] if 0 <= other < len(out) else out[k] * [-1, 1]
    if out[k] @ neighbour < np.cos(np.radians(CREASE_DEG)):
        return out[k]
    mean = out[k] + neighbour
    return mean / np.linalg.norm(mean)


def convex(points) -> Mesh:
    """The convex solid of some points (n, 3) in m, with flat faces."""
    from scipy.spatial import ConvexHull

    points = np.asarray(points, float)
    hull = ConvexHull(points)
    corners = points[hull.simplices]
    facing = np.einsum(
        "ij,ij->i", np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), hull.equations[:, :3]
    )
    corners[facing < 0] = corners[facing < 0][:, ::-1]
    return _flat(corners)


def from_planes(planes) -> Mesh:
    """The convex solid behind planes (n, 4), each an outward unit normal and its distance from the origin in m."""
    from scipy.spatial import HalfspaceIntersection

    planes = np.asarray(planes, float).copy()
    planes[:, 3] *= -1
    points = HalfspaceIntersection(planes, np.zeros(3)).intersections
    return convex(np.unique(np.round(points, 9), axis=0))


def welded(mesh: Mesh) -> tuple[int, np.ndarray]:
    """How many places the vertices of a mesh share, and its faces (m, 3) by place."""
    size = float(np.ptp(mesh.vertices, axis=0).max()) or 1.0
    steps = np.round((mesh.vertices - mesh.vertices.min(axis=0)) / (size * 1e-6)).astype(np.int64)
    spots, place = np.unique((steps[:, 0] << 42) + (steps[:, 1] << 21) + steps[:, 2], return_inverse=True)
    return len(spots), place.reshape(-1)[mesh.faces]


def faults_of_surface(mesh: Mesh) -> list[str]:
    """What keeps a mesh from being a closed solid: open edges, or neighbours that face opposite ways."""
    if not len(mesh.faces):
        return []
    count, faces = welded(mesh)
    faces = faces[(faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])]
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    ahead, back = edges[:, 0] * count + edges[:, 1], edges[:, 1] * count + edges[:, 0]
    ahead.sort()
    back.sort()
    again = np.concatenate([[False], ahead[1:] == ahead[:-1], [False]])
    twice = int((again[1:] & ~again[:-1]).sum())
    alone = int((back.take(np.searchsorted(back, ahead), mode="clip") != ahead).sum())
    found = []
    if twice:
        found.append(f"{twice} edges whose two faces look opposite ways")
    if alone > 2 * twice:
        found.append(f"{alone - 2 * twice} open edges")
    return found
