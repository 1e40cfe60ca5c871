"""Normals of a band's own, from a bump or a picture."""

import numpy as np

from nineglass.kernels import F, step
from nineglass.trace.geometry.surface import to_stage
from nineglass.vectors import dot, unit

LEAST_FACING = F(0.05)
"""The cosine to the smooth normal below which an own normal is left aside: 87 degrees."""


def normal_registers(side, slot: str) -> np.ndarray:
    """(3,) int32 registers of the normal of a band, -1 where it is not driven."""
    driven = (slot, "normal") in side.leaf.driven
    return np.array(side.leaf.dials[slot, "normal"] if driven else (-1, -1, -1), np.int32)


@step
def driven_normal(things, registers, names, column, j, smooth):
    """The normal of a band on the stage: its own where it leans less than 87 degrees, else the smooth one. names: its three registers."""
    given = (registers[names[0], column], registers[names[1], column], registers[names[2], column])
    if not dot(given, given) > F(1e-12):
        return smooth
    own = unit(to_stage(things, j, given))
    return own if dot(own, smooth) > LEAST_FACING else smooth
