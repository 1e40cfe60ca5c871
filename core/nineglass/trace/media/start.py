"""The media that the camera stands in."""

from typing import NamedTuple

import numpy as np

from nineglass.trace.geometry.standing import Standing, mesh_rays
from nineglass.trace.paths import AIR, LEVELS

MOST_SURFACES = 256
WAYS = np.array([(0.83, 0.41, -0.37), (-0.29, 0.91, 0.28), (0.11, -0.73, 0.67)])


class Start(NamedTuple):
    """Where every path begins."""

    levels: int
    within: np.ndarray  # (8,) int32
    medium: int
    sigma_a: np.ndarray  # (401,) float32, 1/m: its absorption, 0 in the open
    sigma_s: np.ndarray  # (401,) float32, 1/m: its scattering
    asymmetry: np.float32  # the mean cosine of that


def _crossings(placed, origin, way) -> int:
    """How many more times a ray leaves a part than it enters it: 1 from within a closed form, 0 from outside. In its own axes."""
    rays, _ = mesh_rays(*placed.key)
    vertices, faces = placed.mesh.vertices, placed.mesh.faces
    near, count = 0.0, 0
    for _ in range(MOST_SURFACES):
        distance, hit, triangle, _, _ = rays.first(origin, way, near)
        if hit < 0:
            break
        a, b, c = (vertices[k].astype(float) for k in faces[triangle])
        count += 1 if way @ np.cross(b - a, c - a) > 0 else -1
        near = distance * 1.00001 + 1e-7
    return count


def media_at(standing: Standing, point) -> list[int]:
    """The things that a point (m) lies in, by the vote of three rays."""
    found = []
    for j, placed in enumerate(standing.placed):
        if placed.sown is not None:
            continue
        origin = placed.from_stage(point)
        low, high = placed.mesh.bounds()
        if (origin < low).any() or (origin > high).any():
            continue
        if sum(_crossings(placed, origin, way @ placed.axes) > 0 for way in WAYS) >= 2:
            found.append(j)
    return found[:LEVELS]


def start_of(standing: Standing, things, media, lens) -> Start:
    """The media of a camera."""
    found = media_at(standing, lens.eye)
    within = np.zeros(LEVELS, np.int32)
    within[: len(found)] = found
    medium = max(found, key=lambda j: things.priority[j], default=AIR)
    curves = [
        one[things.matter[medium]] if medium != AIR else np.zeros_like(one[0]) for one in (media.sigma, media.sigma_s)
    ]
    asymmetry = media.asymmetry[things.matter[medium]] if medium != AIR else np.float32(0)
    return Start(len(found), within, int(medium), *map(np.ascontiguousarray, curves), np.float32(asymmetry))
