"""Where on a skin strands stand, and how long they are, where a network drives that."""

from collections import OrderedDict
from hashlib import sha256

import numpy as np

from nineglass.documents.model import Band, Material, Stack
from nineglass.network.compile import Compiled, Leaf
from nineglass.network.interpret import evaluate_many
from nineglass.trace.geometry.standing import Cover, Placed, Standing, roots_of
from nineglass.trace.media.fields import inputs_around

KIND = "fibre"
GROWTH = ("density", "strand_length")
"""The dials of a fibre that are read at the roots."""

STAND_IN = Material(
    name="Grey strands",
    section=Stack(
        bands=[Band(id=KIND, kind=KIND, dials={"color_from": "colour seen", "fibre_color": [0.3, 0.3, 0.3]})]
    ),
)
"""What strands are made of when what they wear is no fibre."""


def is_fibre(material: Material) -> bool:
    """Whether strands can be made of a material."""
    return any(band.on and band.kind == KIND for band in material.section.bands)


def covers_of(standing: Standing, rows: list[int], laid: list, things: dict, time: float, camera_axes) -> list:
    """Of each part that stands its `Cover`, None where all that is sown stands in full.

    rows: of each part the row of its material. laid: the materials, `matter.Laid`. things: of each object its (bit, size in cm).
    """
    found = []
    for placed, row in zip(standing.placed, rows, strict=True):
        if placed.sown is None or _is_whole(laid[row].compiled):
            found.append(None)
        else:
            around = inputs_around(placed, *things[placed.object_id], time, camera_axes)
            found.append(_cover(placed, laid[row].compiled, around))
    return found


def _leaf(compiled: Compiled) -> Leaf:
    return next(leaf for leaf in compiled.leaves if KIND in leaf.order)


def _is_whole(compiled: Compiled) -> bool:
    return all(compiled.constant(KIND, dial, _leaf(compiled)) == 1 for dial in GROWTH)


def _cover(placed: Placed, compiled: Compiled, around: dict[str, float]) -> Cover:
    roots = roots_of(placed.sown)
    place, normal, there = roots.place * 100, roots.normal, (roots.place @ placed.axes.T + placed.offset) * 100

    def inputs(first: int, last: int) -> dict:
        some = slice(first, last)
        named = {f"normal_{axis}": normal[some, k] for k, axis in enumerate("xyz")}
        named |= {axis: place[some, k] for k, axis in enumerate("xyz")}
        named |= {f"strand_{axis}": place[some, k] for k, axis in enumerate("xyz")}
        named |= {f"stage_{axis}": there[some, k] for k, axis in enumerate("xyz")}
        numbers = {"u": roots.uv[some, 0], "v": roots.uv[some, 1], "strand": roots.number[some]}
        return around | named | numbers | {"piece": roots.number[some], "facing": np.float32(1)}

    program, places = compiled.program.alone({_leaf(compiled).dials[KIND, dial] for dial in GROWTH})
    signals = [places[_leaf(compiled).dials[KIND, dial]] for dial in GROWTH]
    pictures = tuple(map(id, (*program.pictures, *program.grids)))
    key = (
        placed.sown,
        program.operations.tobytes(),
        tuple(program.constants),
        tuple(program.inputs.items()),
        *signals,
        pictures,
    )
    key = (*key, tuple(around.items()), placed.axes.tobytes(), placed.offset.tobytes())
    if key not in _known:
        density, length = evaluate_many(program, signals, len(place), inputs)
        _known[key] = Cover(sha256(density.tobytes() + length.tobytes()).digest(), density, length)
        while len(_known) > MOST_KNOWN:
            _known.popitem(last=False)
    return _known[key]


MOST_KNOWN = 16
_known: OrderedDict[tuple, Cover] = OrderedDict()
