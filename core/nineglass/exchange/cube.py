"""A view as a table in three dimensions, `.cube`, for programs that grade. Source: Cube LUT Specification 1.0 (Adobe, 2013).

A table of even steps cannot hold scene-linear light: the steps are those of its logarithm, and the file says how to come to them.
"""

import sys
from functools import lru_cache

import numpy as np

from nineglass.child import Kind, say

WORKING_OUT = Kind("working it out", "another view", path="view")
NODES = 33
BRIGHTEST, BEND = 64.0, 256.0


def steps_of(light: np.ndarray) -> np.ndarray:
    """Where scene-linear Rec.709 lies along an axis of the table, 0 to 1."""
    return np.log2(1 + np.maximum(light, 0) * BEND) / np.log2(1 + BRIGHTEST * BEND)


def light_at(steps: np.ndarray) -> np.ndarray:
    """The inverse of `steps_of`."""
    return (2 ** (steps * np.log2(1 + BRIGHTEST * BEND)) - 1) / BEND


def cube_of(view: str) -> str:
    """The text of the file. view: a name of `documents.shown.VIEWS`."""
    from nineglass.picture.views import VIEWS

    along = light_at(np.linspace(0, 1, NODES)).astype(np.float32)
    # Red changes fastest.
    blue, green, red = np.meshgrid(along, along, along, indexing="ij")
    grid = np.stack([red, green, blue], -1).reshape(1, -1, 3)
    shown = VIEWS[view](np.ascontiguousarray(grid), 0.0).reshape(-1, 3) / 255
    head = [
        f"# Input: scene-linear Rec.709 as x = log2(1 + {BEND:g} v) / log2(1 + {BRIGHTEST * BEND:g}), 0 to 1.",
        "# Output: sRGB (IEC 61966-2-1), as a display shows it.",
        f'TITLE "Nine Glass, view {view}"',
        f"LUT_3D_SIZE {NODES}",
        "DOMAIN_MIN 0.0 0.0 0.0",
        "DOMAIN_MAX 1.0 1.0 1.0",
    ]
    return "\n".join([*head, *(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in shown)]) + "\n"


@lru_cache(4)
def cube_in_child(view: str) -> str:
    """The same, worked out in a process of its own, so that a server need not load what shows pictures."""
    return WORKING_OUT.answer_of(__name__, view)["cube"]


if __name__ == "__main__":
    say(lambda: {"cube": cube_of(sys.argv[1])}, "view")
