"""Strands: cubic Bezier spans whose round cross-section is thinner than anything else on the stage.

The ray library meets each span as a flat ribbon that faces the ray, as wide as the strand is thick; what is there is asked of the curve
itself. u runs along the span, v across from -1 to 1.
"""

from math import sqrt
from typing import NamedTuple

import numpy as np

from nineglass.forms.curves import Strands
from nineglass.kernels import ONE, ZERO, F, step
from nineglass.vectors import add, cross, dot, negate, scale, sub, unit

CM = F(100)
UM = F(1e6)


class StrandRows(NamedTuple):
    """The spans of all strands of a stage, end to end, each in the axes of its skin."""

    points: np.ndarray  # (p, 4) float32, m: control points and radius
    first: np.ndarray  # (s,) int32: the first of the four control points of each span
    strand: np.ndarray  # (s,) int32: row of `roots` of the strand that it is part of
    along: np.ndarray  # (s, 2) float32: where on its strand it begins and ends
    roots: np.ndarray  # (n, 8) float32: place (m), normal and texture coordinates of the skin at each root
    traits: np.ndarray  # (n, 2) float32: a random number from 0 to 1, and the length (cm), of each


def rows_of(strands: Strands) -> StrandRows:
    """The rows of the strands of one thing."""
    roots = strands.roots
    return StrandRows(
        strands.points,
        strands.first,
        strands.strand,
        strands.along,
        np.concatenate([roots.place, roots.normal, roots.uv], axis=1).astype(np.float32),
        np.stack([roots.number, strands.length * 100], axis=1).astype(np.float32),
    )


def joined(rows: list[StrandRows]) -> StrandRows:
    """The rows of several, end to end."""
    if len(rows) == 1:
        return rows[0]
    points = np.cumsum([0, *(len(one.points) for one in rows)])
    roots = np.cumsum([0, *(len(one.roots) for one in rows)])

    def ends(name, dtype, width, shifts=None):
        parts = [getattr(one, name) + (shifts[k] if shifts is not None else 0) for k, one in enumerate(rows)]
        return np.concatenate([*parts, np.zeros((0, *width), dtype)]).astype(dtype)

    return StrandRows(
        ends("points", np.float32, (4,)),
        ends("first", np.int32, (), points),
        ends("strand", np.int32, (), roots),
        ends("along", np.float32, (2,)),
        ends("roots", np.float32, (8,)),
        ends("traits", np.float32, (2,)),
    )


@step
def _point(strands, p):
    return strands.points[p, 0], strands.points[p, 1], strands.points[p, 2]


@step
def place_at(strands, s, u):
    """(place on the axis, unit tangent towards the tip, radius in m) of span s, in the axes of the skin."""
    p, rest = strands.first[s], ONE - u
    a, b, c, d = _point(strands, p), _point(strands, p + 1), _point(strands, p + 2), _point(strands, p + 3)
    place = add(
        add(scale(a, rest * rest * rest), scale(b, F(3) * rest * rest * u)),
        add(scale(c, F(3) * rest * u * u), scale(d, u * u * u)),
    )
    tangent = add(
        add(scale(sub(b, a), rest * rest), scale(sub(c, b), F(2) * rest * u)),
        scale(sub(d, c), u * u),
    )
    radius = strands.points[p, 3] * rest + strands.points[p + 3, 3] * u
    return place, unit(tangent), radius


@step
def beside_axis(v):
    """How far to the side of its axis a strand was met, of its radius, along the second axis of `frame_of`: the library counts the other way."""
    return -v


@step
def frame_of(tangent, direction):
    """The frame of a strand as a ray meets it: (along it, across, towards where the ray comes from)."""
    facing = negate(sub(direction, scale(tangent, dot(direction, tangent))))
    if dot(facing, facing) < F(1e-10):
        other = (ONE, ZERO, ZERO) if abs(tangent[0]) < F(0.9) else (ZERO, ONE, ZERO)
        facing = cross(tangent, other)
    facing = unit(facing)
    return tangent, cross(facing, tangent), facing


@step
def round_normal(tangent, direction, v):
    """The normal of a strand's round side where a ray meets its ribbon."""
    _, across, facing = frame_of(tangent, direction)
    h = beside_axis(v)
    return add(scale(facing, sqrt(max(ONE - h * h, ZERO))), scale(across, h))


@step
def along_at(strands, s, u):
    """Where on its strand: 0 at the root, 1 at the tip."""
    return strands.along[s, 0] + (strands.along[s, 1] - strands.along[s, 0]) * u


@step
def root_of(strands, s):
    """(place of the root, normal of the skin there, texture coordinates of the skin there)."""
    r = strands.strand[s]
    return (
        (strands.roots[r, 0], strands.roots[r, 1], strands.roots[r, 2]),
        (strands.roots[r, 3], strands.roots[r, 4], strands.roots[r, 5]),
        (strands.roots[r, 6], strands.roots[r, 7]),
    )
