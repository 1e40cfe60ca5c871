"""How a lamp's glow depends on the direction in which it leaves the lamp: a table over the angle to its axis and around it."""

from math import acos, atan2

import numpy as np

from nineglass.kernels import ONE, PI, TWO, ZERO, F, step
from nineglass.lamps.light import BEAM_STEPS, TURN_STEPS
from nineglass.vectors import dot, index_among, row3

EVENLY = np.ones((1, BEAM_STEPS, TURN_STEPS), np.float32)
"""In place of the tables where no lamp has one."""


@step
def beam_share(lamps, k, direction):
    """Over its mean, the glow of a lamp towards a place from which `direction` leads to the lamp."""
    table = lamps.beam[k]
    if table < 0:
        return ONE
    along = -dot(direction, row3(lamps.normal, k))
    x, y = -dot(direction, row3(lamps.side, k)), -dot(direction, row3(lamps.rise, k))
    down = F(acos(min(max(along, -ONE), ONE))) / PI * F(BEAM_STEPS - 1)
    turn = F(atan2(y, x)) / (TWO * PI)
    around = (turn + ONE if turn < ZERO else turn) * F(TURN_STEPS - 1)
    i, j = index_among(down, BEAM_STEPS - 1), index_among(around, TURN_STEPS - 1)
    fi, fj = down - F(i), around - F(j)
    beams = lamps.beams
    above = beams[table, i, j] + (beams[table, i, j + 1] - beams[table, i, j]) * fj
    below = beams[table, i + 1, j] + (beams[table, i + 1, j + 1] - beams[table, i + 1, j]) * fj
    return above + (below - above) * fi
