"""Strands as curves, and where they stand on a skin."""

from dataclasses import dataclass

import numpy as np

from nineglass.forms.mesh import Mesh

UM = 1e-6


@dataclass(frozen=True, eq=False)
class Roots:
    """Where strands stand on a skin, in its own axes."""

    place: np.ndarray
    """(n, 3) m"""
    normal: np.ndarray
    """(n, 3) unit, out of the skin"""
    uv: np.ndarray
    """(n, 2) texture coordinates of the skin"""
    number: np.ndarray
    """(n,) a random number from 0 to 1 for each"""
    which: np.ndarray
    """(n,) which of all that are sown each is"""

    def some(self, chosen: np.ndarray) -> "Roots":
        """Those of a mask."""
        return Roots(*(rows[chosen] for rows in (self.place, self.normal, self.uv, self.number, self.which)))


@dataclass(frozen=True, eq=False)
class Strands:
    """Cubic Bezier spans end to end, in the axes of the skin."""

    points: np.ndarray
    """(p, 4) float32: control points x, y, z and radius, m; spans of one strand share their ends"""
    first: np.ndarray
    """(s,) int32: the first of the four control points of each span"""
    strand: np.ndarray
    """(s,) int32: the strand that it is part of"""
    along: np.ndarray
    """(s, 2) float32: where on its strand it begins and ends, 0 at the root and 1 at the tip"""
    roots: Roots
    length: np.ndarray
    """(n,) float32 m"""


def sown(skin: Mesh, count: int, seed: int) -> Roots:
    """Roots spread evenly by area over a skin. The first of many are those of few.

    Source of the spread: Roberts 2018, the R3 sequence.
    """
    corners = skin.vertices[skin.faces].astype(float)
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    shares = np.cumsum(np.linalg.norm(np.cross(first, second), axis=1))
    start = np.random.default_rng([seed, 0]).random(3)
    steps = 1.2207440846057596 ** -np.arange(1.0, 4.0)
    spread = (start + np.arange(1, count + 1)[:, None] * steps) % 1
    face = np.minimum(np.searchsorted(shares, spread[:, 0] * shares[-1], side="right"), len(shares) - 1)
    root = np.sqrt(spread[:, 1])
    u, v = root * (1 - spread[:, 2]), root * spread[:, 2]
    weights = np.stack([1 - u - v, u, v], axis=1)

    def between(at_corners):
        return np.einsum("nk,nkd->nd", weights, at_corners)

    normal = between(skin.normals[skin.faces[face]])
    return Roots(
        between(corners[face]).astype(np.float32),
        unit_of(normal).astype(np.float32),
        between(skin.corner_uvs()[face].reshape(-1, 3, 2)).astype(np.float32),
        numbers_of(seed, 1, count),
        np.arange(count),
    )


def numbers_of(seed: int, which: int, count: int) -> np.ndarray:
    """(count,) random numbers from 0 to 1, the first of many those of few."""
    return np.random.default_rng([seed, which]).random(count, np.float32)


def unit_of(a: np.ndarray) -> np.ndarray:
    return a / np.maximum(np.linalg.norm(a, axis=-1, keepdims=True), 1e-12)


def curves_through(places: np.ndarray, root_um: np.ndarray, tip_um: np.ndarray, roots: Roots) -> Strands:
    """Smooth curves through places (n, k + 1, 3) in m, whose thickness goes evenly from root to tip (n,) in micrometres.

    Source of the curve: Catmull & Rom 1974, with ends that bend as what is next to them.
    """
    count, knots = places.shape[:2]
    spans = knots - 1
    slopes = np.empty_like(places)
    slopes[:, 1:-1] = (places[:, 2:] - places[:, :-2]) / 2
    if spans > 1:
        slopes[:, 0] = (4 * places[:, 1] - 3 * places[:, 0] - places[:, 2]) / 2
        slopes[:, -1] = (3 * places[:, -1] - 4 * places[:, -2] + places[:, -3]) / 2
    else:
        slopes[:] = (places[:, 1] - places[:, 0])[:, None]
    points = np.empty((count, 3 * spans + 1, 4), np.float32)
    points[:, ::3, :3] = places
    points[:, 1::3, :3] = places[:, :-1] + slopes[:, :-1] / 3
    points[:, 2::3, :3] = places[:, 1:] - slopes[:, 1:] / 3
    share = np.linspace(0, 1, 3 * spans + 1, dtype=np.float32)
    points[:, :, 3] = (UM / 2) * (root_um[:, None] + (tip_um - root_um)[:, None] * share)
    length = np.linalg.norm(np.diff(places, axis=1), axis=2).sum(axis=1)
    starts = np.arange(count, dtype=np.int32)[:, None] * (3 * spans + 1)
    ends = np.linspace(0, 1, spans + 1, dtype=np.float32)
    along = np.stack([ends[:-1], ends[1:]], axis=1)
    return Strands(
        points.reshape(-1, 4),
        (starts + 3 * np.arange(spans, dtype=np.int32)).ravel(),
        np.repeat(np.arange(count, dtype=np.int32), spans),
        np.tile(along, (count, 1)),
        roots,
        length.astype(np.float32),
    )
