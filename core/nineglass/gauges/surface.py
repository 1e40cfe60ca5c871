"""What a program is told at places of the form: those of the form on the stage, and a small patch to draw on."""

from functools import lru_cache

import numpy as np

from nineglass.documents.model import Object, grows, skin_of
from nineglass.forms.mesh import Mesh
from nineglass.gauges import REFERENCE, Reading
from nineglass.network.interpret import evaluate
from nineglass.trace.geometry.standing import meshes_of, size_cm
from nineglass.trace.matter import is_open

PLACES = 512
"""How many places of a form stand for all of it."""

PLACES_WITHIN = 4096
"""How many places stand for all of the room within."""

PATCH = (72, 16)
"""Width and height of the small pictures on slips."""

BULGE = 0.85
"""How far the normals of a patch lean at its left and right edges, as a sine."""


def strands_on_bench(reading: Reading) -> list[tuple[int, Object]]:
    """The strands that wear the material on the bench, with their place among the objects."""
    found = enumerate(reading.stage.objects if reading.stage else ())
    return [(k, one) for k, one in found if one.on and grows(one) and not any(w.material for w in one.wears.values())]


def worn(reading: Reading) -> tuple[Object, Mesh] | None:
    """The first object that wears the material on the bench, and the mesh of the part that does; of strands their skin."""
    for _, one in strands_on_bench(reading):
        skin = skin_of(one, reading.stage.objects)
        return skin, next(iter(meshes_of(skin).values()))
    for one in reading.stage.objects if reading.stage else ():
        for part, mesh in meshes_of(one).items():
            wear = one.wears.get(part)
            if one.on and (wear is None or wear.material is None):
                return one, mesh
    return None


def form_size_cm(reading: Reading) -> float | None:
    """The longest side of the first object that wears the material on the bench."""
    found = worn(reading)
    if found is None:
        return None
    low, high = found[1].bounds()
    return float((high - low).max() * 100)


def everywhere(reading: Reading) -> dict:
    """What is the same at all places; the rest as in `REFERENCE`."""
    found = worn(reading)
    size = size_cm(found[0]) if found else np.full(3, 10.0)
    axes = {f"{space}_{way}_{axis}": 1 for space in ("stage", "camera") for way, axis in AXES.items()}
    time = reading.stage.time if reading.stage else 0
    return REFERENCE | axes | dict(zip(("width", "height", "depth"), size, strict=True)) | {"time": time}


AXES = {"right": "x", "up": "y", "front": "z"}


def patch(reading: Reading) -> dict[str, np.ndarray]:
    """A patch as wide as the form that bulges towards the eye; PATCH places, row by row."""
    width, height = PATCH
    span = form_size_cm(reading) or 10.0
    x, y = (
        np.tile((np.arange(width) + 0.5) / width - 0.5, height),
        np.repeat(0.5 - (np.arange(height) + 0.5) / height, width),
    )
    narrow = height / width
    normal = np.stack([2 * BULGE * x, 2 * BULGE * y * narrow, np.zeros_like(x)])
    normal[2] = np.sqrt(1 - (normal**2).sum(axis=0))
    inputs = {"x": x * span, "y": y * span * narrow, "u": x + 0.5, "v": (y + 0.5) * narrow, "facing": normal[2]}
    inputs |= {"stage_x": x * span, "stage_y": y * span * narrow, "u_x": 1 / span, "v_y": 1 / span}
    inputs |= dict(zip(("normal_x", "normal_y", "normal_z"), normal, strict=True))
    # Strands lie across it, the root at the left, one to a row.
    inputs |= {"along": x + 0.5, "strand": (np.repeat(np.arange(height), width) * 0.618) % 1}
    return _as_inputs(everywhere(reading) | inputs)


def places(reading: Reading, count: int = PLACES) -> dict[str, np.ndarray]:
    """Places strewn evenly over the form, seen from any side; from a ball of 10 cm when nothing wears the material. Of a material without a
    boundary, places within it."""
    found = worn(reading)
    if found and is_open(reading.compiled.leaves[0]):
        return _within(reading, found[1])
    place, normal, uv = _strewn(found[1], count) if found else _ball(count)
    inputs = {"facing": np.random.default_rng(5).random(count), "u": uv[:, 0], "v": uv[:, 1], "u_x": 0.1, "v_y": 0.1}
    inputs |= dict(zip(("along", "strand"), np.random.default_rng(9).random((2, count)), strict=True))
    for stem, rows in (
        ("", place * 100),
        ("stage_", place * 100),
        ("strand_", place * 100),
        ("normal_", normal),
        ("view_", normal),
    ):
        inputs |= {f"{stem}{axis}": rows[:, i] for i, axis in enumerate("xyz")}
    return _as_inputs(everywhere(reading) | inputs)


def _within(reading: Reading, mesh: Mesh) -> dict[str, np.ndarray]:
    """Places strewn evenly over the box of a mesh."""
    low, high = mesh.bounds()
    place = (low + np.random.default_rng(7).random((PLACES_WITHIN, 3)) * (high - low)) * 100
    names = {f"{stem}{axis}": place[:, k] for stem in ("", "stage_") for k, axis in enumerate("xyz")}
    return _as_inputs(everywhere(reading) | {"facing": np.ones(PLACES_WITHIN)} | names)


def values_at(reading: Reading, signals: dict, inputs: dict) -> dict:
    """(channels, count) of some signals of the material's program, by the same keys, over inputs of one place or of count places."""
    if not signals:
        return {}
    each = [signal if isinstance(signal, tuple) else (signal,) for signal in signals.values()]
    flat = [register for signal in each for register in signal]
    count = max(np.size(value) for value in inputs.values())
    rows = evaluate(reading.compiled.program.only(set(flat)), flat, count, **inputs)
    ends = np.cumsum([len(signal) for signal in each])
    return dict(zip(signals, np.split(rows, ends[:-1]), strict=True))


def _as_inputs(given: dict) -> dict:
    return {name: np.asarray(value, np.float32) for name, value in given.items()}


@lru_cache(8)
def _strewn(mesh: Mesh, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(places in m, normals, texture coordinates) of points strewn evenly over a mesh, with a fixed seed."""
    rng = np.random.default_rng(3)
    corners = mesh.vertices[mesh.faces]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    faces = rng.choice(len(areas), count, p=areas / areas.sum())
    a, b = rng.random((2, count, 1))
    shares = np.stack([1 - np.sqrt(a), np.sqrt(a) * (1 - b), np.sqrt(a) * b])
    normals = (mesh.normals[mesh.faces[faces]].transpose(1, 0, 2) * shares).sum(axis=0)
    uvs = mesh.corner_uvs()[faces].reshape(count, 3, 2).transpose(1, 0, 2)
    return (corners[faces].transpose(1, 0, 2) * shares).sum(axis=0), normals, (uvs * shares).sum(axis=0)


def _ball(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    rng = np.random.default_rng(3)
    out = rng.normal(size=(count, 3))
    out /= np.linalg.norm(out, axis=1, keepdims=True)
    return out * 0.05, out, rng.random((count, 2))
