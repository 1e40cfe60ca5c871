"""What is at the place where a ray met something: asked of the primitive, brought to the stage."""

from typing import NamedTuple

import numpy as np

from nineglass.kernels import F, step
from nineglass.trace.geometry.strands import place_at as place_on_strand
from nineglass.trace.geometry.strands import root_of
from nineglass.trace.geometry.triangles import place_at
from nineglass.vectors import add

ACCURACY = F(2e-6)
"""How far a place may be off, as a share of the numbers that it is made of: some thirty times the rounding of single precision. A new
ray starts so far from its surface. Source of the reasoning: Waechter & Binder 2019, A Fast and Robust Method for Avoiding Self-Intersection."""


class Surface(NamedTuple):
    """Normals point out of the matter. place, flat and smooth are those of the stage; own is the place in the axes of the thing.

    Of a strand place lies on its axis, flat and smooth are its direction towards the tip, own is where its root stands, and the
    clearance is its radius.
    """

    place: tuple
    flat: tuple
    smooth: tuple
    own: tuple
    clearance: np.float32  # m: how far a new ray starts from here


@step
def to_own(things, j, a):
    """A vector of the stage in the axes of thing j."""
    m = things.axes
    return (
        m[j, 0] * a[0] + m[j, 1] * a[1] + m[j, 2] * a[2],
        m[j, 3] * a[0] + m[j, 4] * a[1] + m[j, 5] * a[2],
        m[j, 6] * a[0] + m[j, 7] * a[1] + m[j, 8] * a[2],
    )


@step
def to_stage(things, j, a):
    """A vector of the axes of thing j on the stage."""
    m = things.axes
    return (
        m[j, 0] * a[0] + m[j, 3] * a[1] + m[j, 6] * a[2],
        m[j, 1] * a[0] + m[j, 4] * a[1] + m[j, 7] * a[2],
        m[j, 2] * a[0] + m[j, 5] * a[1] + m[j, 8] * a[2],
    )


@step
def offset_of(things, j):
    return things.offset[j, 0], things.offset[j, 1], things.offset[j, 2]


@step
def largest(a):
    return max(abs(a[0]), abs(a[1]), abs(a[2]))


@step
def _strand_at(geometry, j, s, u):
    things = geometry.things
    place, tangent, radius = place_on_strand(geometry.strands, s, u)
    root, _, _ = root_of(geometry.strands, s)
    tangent = to_stage(things, j, tangent)
    return Surface(add(to_stage(things, j, place), offset_of(things, j)), tangent, tangent, root, radius)


@step
def surface_at(geometry, j, primitive, u, v):
    """The surface of thing j at a place of one of its primitives."""
    things = geometry.things
    if things.strands[j]:
        return _strand_at(geometry, j, things.first[j] + primitive, u)
    own, flat, smooth, size = place_at(geometry.triangles, things.first[j] + primitive, u, v)
    offset = offset_of(things, j)
    place = add(to_stage(things, j, own), offset)
    clearance = ACCURACY * (size + largest(offset) + largest(place))
    return Surface(place, to_stage(things, j, flat), to_stage(things, j, smooth), own, clearance)
