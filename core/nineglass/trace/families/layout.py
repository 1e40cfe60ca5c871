"""Registers of a band's dials, numbered from the band's description: the kernels name a dial and never an offset."""

import sys
from collections import namedtuple
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from nineglass.documents.bands import BANDS
from nineglass.kernels import depends_on

NONE = -1
WIDTHS = {"number": 1, "color": 3, "vector": 3}


@dataclass(frozen=True)
class Layout:
    """Where the registers of some kinds of bands stand in the row of a material: places by kind, then by dial."""

    places: dict[str, tuple]
    """For each kind a named tuple: of each dial the first place of the outermost band of that kind."""
    each: dict[str, int]
    """How many places further the next band of the kind has its own."""
    size: int

    def fill(self, leaf, registers) -> np.ndarray:
        """(size,) int32: the registers of each dial of a stack, NONE where there are none. registers: `matter.Registers`."""
        row = np.full(self.size, NONE, np.int32)
        shifts = dict.fromkeys(self.places, 0)
        for slot, kind in leaf.kinds.items():
            if kind not in self.places:
                continue
            shift = shifts[kind]
            shifts[kind] += self.each[kind]
            for name, first in self.places[kind]._asdict().items():
                if name != "normal" or (slot, name) in leaf.driven:
                    there = registers.of(leaf, slot, name)
                    row[first + shift : first + shift + len(there)] = there
        return row


def driven_dials(kind: str) -> dict[str, int]:
    """The dials of a kind of band that have registers, with how many."""
    dials = BANDS.kinds[kind].dials.values()
    return {dial.name: WIDTHS[dial.type] for dial in dials if dial.drivable and dial.type in WIDTHS}


def file_of(kind: str) -> Path:
    """The file that declares a kind of band."""
    return Path(sys.modules[BANDS.kinds[kind].make.__module__].__file__)


def layout_of(module: str, *kinds: str) -> Layout:
    """The layout of some kinds of bands, each with room for as many as a stack may have, for the kernels of a module."""
    depends_on(module, *(file_of(kind) for kind in kinds))
    places, each, at = {}, {}, 0
    for kind in kinds:
        widths = driven_dials(kind)
        starts = at + np.cumsum([0, *widths.values()])
        places[kind] = namedtuple(f"Of{kind.capitalize()}", widths)(*(int(v) for v in starts[:-1]))
        each[kind] = int(starts[-1]) - at
        at += each[kind] * BANDS.kinds[kind].rules.most
    return Layout(places, each, at)
