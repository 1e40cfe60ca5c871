"""What drives a dial, laid down as a picture over the texture coordinates of the form, or over how squarely a surface faces the eye."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nineglass.forms.mesh import Mesh
from nineglass.gauges import Reading
from nineglass.gauges.surface import everywhere, worn
from nineglass.network.interpret import evaluate, evaluate_many

STRIP = 256
"""Places of what follows from facing alone."""


@dataclass
class Bake:
    """Pictures of one material on the form that wears it on its stage; over plain texture coordinates where nothing wears it."""

    reading: Reading
    side: int = 1024

    def follows_facing_alone(self, registers: tuple[int, ...]) -> bool:
        return set(self.reading.compiled.program.only(set(registers)).inputs) == {"facing"}

    def strip(self, registers: tuple[int, ...]) -> np.ndarray:
        """(1, STRIP, n) over facing: the first at the rim, the last face-on."""
        program = self.reading.compiled.program.only(set(registers))
        facing = np.linspace(0, 1, STRIP, dtype=np.float32)
        rows = evaluate(program, list(registers), STRIP, **(everywhere(self.reading) | {"facing": facing}))
        return rows.T.reshape(1, STRIP, -1)

    def picture(self, registers: tuple[int, ...]) -> np.ndarray:
        """(side, side, n), the first row at v = 1."""
        program = self.reading.compiled.program.only(set(registers))
        texels = self._texels
        rest = everywhere(self.reading)

        def part(first: int, last: int) -> dict:
            return rest | {name: rows[first:last] for name, rows in texels.items()}

        rows = evaluate_many(program, list(registers), self.side**2, part)
        return rows.T.reshape(self.side, self.side, -1)

    def normals(self, registers: tuple[int, int, int]) -> np.ndarray:
        """(side, side, 3) a driven normal, by its parts along the texture coordinates and out of the surface, from 0 to 1 each."""
        normal = self.picture(registers)
        texels = {name: rows.reshape(self.side, self.side) for name, rows in self._texels.items()}
        out = np.stack([texels[f"normal_{axis}"] for axis in "xyz"], -1)
        told = [_along(normal, out, np.stack([texels[f"{of}_{axis}"] for axis in "xyz"], -1)) for of in "uv"]
        parts = np.stack([*told, (normal * out).sum(-1)], -1)
        return (0.5 + 0.5 * parts / np.maximum(np.linalg.norm(parts, axis=-1, keepdims=True), 1e-9)).astype(np.float32)

    @cached_property
    def _texels(self) -> dict[str, np.ndarray]:
        """(side * side,) each: the inputs of a program at the middle of each texel."""
        found = worn(self.reading)
        v, u = ((np.mgrid[0 : self.side, 0 : self.side] + 0.5) / self.side).astype(np.float32)
        plain = {"u": u.ravel(), "v": 1 - v.ravel()}
        if found is None:
            flat = {
                "normal_z": np.ones(self.side**2),
                "u_x": np.full(self.side**2, 0.1),
                "v_y": np.full(self.side**2, 0.1),
            }
            return plain | {name: np.float32(flat.get(name, np.zeros(self.side**2))) for name in (*flat, *OTHERS)}
        return plain | _at_texels(found[1], self.side)


OTHERS = ("normal_x", "normal_y", "u_y", "u_z", "v_x", "v_z")


def _along(normal, out, slope):
    """The part of a normal along the direction in which a texture coordinate grows on the surface."""
    axis = slope - out * (slope * out).sum(-1, keepdims=True)
    axis /= np.maximum(np.linalg.norm(axis, axis=-1, keepdims=True), 1e-12)
    return (normal * axis).sum(-1)


def _at_texels(mesh: Mesh, side: int) -> dict[str, np.ndarray]:
    """Place, normal and slopes of the texture coordinates on a mesh, at each texel; beside the form those of the nearest place on it."""
    uv = mesh.corner_uvs().reshape(-1, 3, 2).astype(np.float64)
    uv = uv - np.floor(uv.min(axis=1, keepdims=True) + 1e-6)
    face = _faces_at(uv, side)
    rows, columns = np.divmod(np.arange(side * side), side)
    at = np.stack([(columns + 0.5) / side, 1 - (rows + 0.5) / side], -1)
    corners = uv[face]
    # A face that runs past the edge covers texels at the other edge too.
    at = at + ((at < corners.min(axis=1) - 1.0 / side) & (corners.max(axis=1) > 1))
    shares = _barycentric(at, corners)
    vertices = mesh.faces[face]
    place = (mesh.vertices[vertices] * shares[..., None]).sum(axis=1) * 100
    normal = (mesh.normals[vertices] * shares[..., None]).sum(axis=1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    found = {}
    for stem, values in (("", place), ("stage_", place), ("normal_", normal), ("view_", normal)):
        found |= {f"{stem}{axis}": values[:, k].astype(np.float32) for k, axis in enumerate("xyz")}
    for of, slopes in zip("uv", _slopes(mesh, uv), strict=True):
        found |= {f"{of}_{axis}": slopes[face, k].astype(np.float32) for k, axis in enumerate("xyz")}
    return found


def _faces_at(uv: np.ndarray, side: int) -> np.ndarray:
    """(side * side,) the face of a mesh at each texel; the nearest where there is none. uv: (m, 3, 2)."""
    from PIL import Image, ImageDraw
    from scipy.ndimage import distance_transform_edt

    drawn = Image.new("I", (side, side), -1)
    pen = ImageDraw.Draw(drawn)
    pixels = uv * side - 0.5
    pixels[..., 1] = side - 1 - pixels[..., 1]
    for shift in (0, 1):
        for k in range(len(uv)) if not shift else np.flatnonzero(uv[..., 0].max(axis=1) > 1):
            (ax, ay), (bx, by), (cx, cy) = pixels[k]
            off = shift * side
            pen.polygon([(ax - off, ay), (bx - off, by), (cx - off, cy)], fill=int(k))
    face = np.asarray(drawn)
    nearest = distance_transform_edt(face < 0, return_distances=False, return_indices=True)
    return face[tuple(nearest)].ravel()


def _barycentric(at: np.ndarray, corners: np.ndarray) -> np.ndarray:
    """(n, 3) shares of the corners (n, 3, 2) at places (n, 2); within the triangle where a place lies beside it."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    ab, ac, ap = b - a, c - a, at - a
    area = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0]
    area = np.where(np.abs(area) < 1e-14, 1e-14, area)
    second = (ap[:, 0] * ac[:, 1] - ap[:, 1] * ac[:, 0]) / area
    third = (ab[:, 0] * ap[:, 1] - ab[:, 1] * ap[:, 0]) / area
    shares = np.clip(np.stack([1 - second - third, second, third], -1), 0, 1)
    return shares / np.maximum(shares.sum(axis=1, keepdims=True), 1e-9)


def _slopes(mesh: Mesh, uv: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(m, 3) each: how u and v change per cm on each face, in the axes of the form."""
    corners = mesh.vertices[mesh.faces].astype(np.float64) * 100
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    aa, ab, bb = (first**2).sum(1), (first * second).sum(1), (second**2).sum(1)
    area = np.maximum(aa * bb - ab**2, 1e-18)
    found = []
    for k in (0, 1):
        da, db = uv[:, 1, k] - uv[:, 0, k], uv[:, 2, k] - uv[:, 0, k]
        found.append((first * ((bb * da - ab * db) / area)[:, None]) + second * ((aa * db - ab * da) / area)[:, None])
    return found[0], found[1]
