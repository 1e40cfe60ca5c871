"""How strands of a stage grow: what they wear, how many may stand, and where and how long where a network drives that."""

from hashlib import sha256

import numpy as np

from nineglass import at_hand
from nineglass.catalogue import FORMS
from nineglass.describe import Fault, Refused
from nineglass.documents.bands.fibre import SEEN
from nineglass.documents.model import Band, Material, Stack, Stage, grows
from nineglass.network.compile import Compiled, Leaf
from nineglass.network.interpret import evaluate_many
from nineglass.trace.geometry.standing import Cover, Placed, Standing, count_of, has_grown, measured, roots_of, size_cm
from nineglass.trace.media.fields import inputs_around

KIND = "fibre"
GROWTH = ("density", "strand_length")
"""The dials of a fibre that are read at the roots."""

STAND_IN = Material(
    name="Grey strands",
    section=Stack(bands=[Band(id=KIND, kind=KIND, dials={"color_from": SEEN, "fibre_color": [0.3, 0.3, 0.3]})]),
)
"""What strands are made of when what they wear is no fibre."""


def is_fibre(material: Material) -> bool:
    """Whether strands can be made of a material."""
    return any(band.on and band.kind == KIND for band in material.section.bands)


MOST_SPANS = 4_000_000
"""Of all strands of a stage: each takes about half a kilobyte."""


def check_spans(stage: Stage) -> None:
    """Raises Refused where the strands of a stage would take too much memory."""
    total = 0
    for k, one in enumerate(stage.objects):
        if not (one.on and grows(one)):
            continue
        kind = FORMS.kinds[one.form.kind]
        total += kind.make().spans(kind.defaults() | one.form.dials)
        if total > MOST_SPANS:
            fault, allowed = f"strands of {total:,} pieces together", f"at most {MOST_SPANS:,}"
            raise Refused([Fault(f"objects[{k}].form", fault, allowed, "Fewer strands, or fewer pieces of each.")])


FEW_STRANDS = 20_000
"""So many stand at once while all of them are still to grow."""


def share_at_hand(standing: Standing, covers: list[Cover | None]) -> float:
    """How much of the strands can stand at once: all when they have grown already or are few."""
    sown = [(one.sown, cover) for one, cover in zip(standing.placed, covers, strict=True) if one.sown is not None]
    wanted = sum(count_of(one) for one, _ in sown)
    if wanted <= FEW_STRANDS or all(has_grown(one, cover) for one, cover in sown):
        return 1.0
    return FEW_STRANDS / wanted


def covers_of(stage: Stage, standing: Standing, rows: list[int], laid: list, camera_axes) -> list[Cover | None]:
    """Of each part that stands its `Cover`, None where all that is sown stands in full.

    rows: of each part the row of its material. laid: the materials, `matter.Laid`.
    """
    objects = {one.id: (k, one) for k, one in enumerate(stage.objects)}
    found = []
    for placed, row in zip(standing.placed, rows, strict=True):
        if placed.sown is None or _is_whole(laid[row].compiled):
            found.append(None)
            continue
        k, one = objects[placed.object_id]
        around = inputs_around(placed, 1 << k, size_cm(measured(one, stage)), float(stage.time), camera_axes)
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
    read = (*program.pictures, *program.grids)
    key = (
        placed.sown,
        program.operations.tobytes(),
        tuple(program.constants),
        tuple(program.inputs.items()),
        *signals,
        tuple(map(id, read)),
    )
    key = (*key, tuple(around.items()), placed.axes.tobytes(), placed.offset.tobytes())

    def covered() -> Cover:
        density, length = evaluate_many(program, signals, len(place), inputs)
        return Cover(sha256(density.tobytes() + length.tobytes()).digest(), density, length, read)

    return at_hand.get(Cover, key, covered)
