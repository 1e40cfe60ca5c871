"""Where every part of every object stands, and the rows that the kernels read of it."""

import json
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from math import cos, radians, sin
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Object, Part, Stage, parts_of
from nineglass.forms.mesh import Mesh
from nineglass.trace.geometry.embree import MeshRays, StageRays
from nineglass.trace.geometry.triangles import Triangles, joined, rows_of

BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS = 1, 2, 4
"""Bits of who sees an object or lamp."""

FLOOR_BIT = 1 << 30
"""The floor among the bits of what a lamp lights; object i is bit i."""


class Things(NamedTuple):
    """One row for each part of each object; row k is instance k of the stage's rays."""

    first: np.ndarray  # (k,) int32: where its rows begin among the primitives
    axes: np.ndarray  # (k, 9) float32: rows take a vector of the stage to its own axes
    offset: np.ndarray  # (k, 3) float32: its own origin on the stage
    matter: np.ndarray  # (k,) int32: row of its material
    priority: np.ndarray  # (k,) int32
    bit: np.ndarray  # (k,) int32: of its object among those that a lamp lights
    seen: np.ndarray  # (k,) int32: bits of who sees it
    size: np.ndarray  # (k, 3) float32, cm: of its whole object along its own axes


class Geometry(NamedTuple):
    """What rays meet. The owner of `rays` must live as long."""

    rays: int  # the handle of the stage's scene in the ray library
    triangles: Triangles
    things: Things


@dataclass(frozen=True)
class Placed:
    """One part of one object, where it stands."""

    object_id: str
    part: str
    mesh: Mesh
    axes: np.ndarray
    offset: np.ndarray
    material: Material | None
    priority: int
    key: tuple[str, str, str]
    """What its mesh is made from."""

    def from_stage(self, point) -> np.ndarray:
        """A place of the stage (m) in its own axes."""
        return (np.asarray(point, float) - self.offset) @ self.axes


@dataclass(frozen=True)
class Standing:
    """All parts of all objects, about the middle of the stage, and how high the floor is there (m)."""

    placed: list[Placed]
    floor: float
    low: np.ndarray
    high: np.ndarray

    @property
    def size(self) -> float:
        return float(np.linalg.norm(self.high - self.low))


def _key(form: Part) -> str:
    return json.dumps(form.dials, sort_keys=True)


@lru_cache(32)
def mesh_of(kind: str, dials: str, part: str) -> Mesh:
    """The mesh of one part of a form, made once. dials: as JSON."""
    about = FORMS.kinds[kind]
    form, values = about.make(), about.defaults() | json.loads(dials)
    return form.mesh(values) if len(parts_of(kind)) == 1 else form.mesh(values, part)


@lru_cache(32)
def mesh_rays(kind: str, dials: str, part: str) -> tuple[MeshRays, Triangles]:
    """The rays and the rows of one form, made once."""
    return ready_for_rays(mesh_of(kind, dials, part))


def ready_for_rays(mesh: Mesh) -> tuple[MeshRays, Triangles]:
    """The rays and the rows of a mesh; the ray library builds its scene while the rows are made."""
    with ThreadPoolExecutor(1) as beside:
        rows = beside.submit(rows_of, mesh)
        return MeshRays(mesh), rows.result()


def _rotation(turn_deg: float, tilt_deg: float = 0.0) -> np.ndarray:
    """(3, 3): tilts about the x axis (towards the front), then turns about the vertical."""
    a, b = radians(turn_deg), radians(tilt_deg)
    turn = np.array([[cos(a), 0, sin(a)], [0, 1, 0], [-sin(a), 0, cos(a)]])
    return turn @ np.array([[1, 0, 0], [0, cos(b), -sin(b)], [0, sin(b), cos(b)]])


def _stands(one: Object, turn: float) -> tuple[np.ndarray, np.ndarray]:
    """(rotation, offset in m) of an object whose lowest point is at its height over the stage's level."""
    rotation, whole = _rotation(one.turn, one.tilt), _rotation(turn)
    lowest = min(_lowest(mesh, rotation, one.tilt) for mesh in meshes_of(one).values())
    x, y, z = (v / 100 for v in one.at)
    return whole @ rotation, whole @ np.array([x, y - lowest, z])


def _lowest(mesh: Mesh, rotation: np.ndarray, tilt: float) -> float:
    if tilt % 360 == 0:
        return float(mesh.bounds()[0][1])
    return float((mesh.vertices @ rotation[1].astype(np.float32)).min())


def meshes_of(one: Object) -> dict[str, Mesh]:
    """The meshes of an object by part; parts that are empty at its dials are left out."""
    made = {part: mesh_of(one.form.kind, _key(one.form), part) for part in parts_of(one.form.kind)}
    return {part: mesh for part, mesh in made.items() if len(mesh.faces)}


def size_cm(one: Object) -> np.ndarray:
    """(3,) how large an object is along its own axes."""
    low, high = zip(*(mesh.bounds() for mesh in meshes_of(one).values()), strict=True)
    return (np.max(high, axis=0) - np.min(low, axis=0)) * 100


def standing_of(stage: Stage) -> Standing:
    """Where everything stands. The middle of the stage is on the axis of its turn, at half the height of what stands there."""
    placed = []
    for one in stage.objects:
        if not one.on:
            continue
        axes, offset = _stands(one, stage.turn)
        for part, mesh in meshes_of(one).items():
            wear = one.wears.get(part)
            own = parts_of(one.form.kind)[part]
            priority = own if wear is None or wear.priority is None else wear.priority
            key = (one.form.kind, _key(one.form), part)
            placed.append(Placed(one.id, part, mesh, axes, offset, wear.material if wear else None, priority, key))
    boxes = [_box(p.mesh, p.axes, p.offset) for p in placed]
    low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
    middle = np.array([0, (low[1] + high[1]) / 2, 0])
    centred = [
        Placed(p.object_id, p.part, p.mesh, p.axes, p.offset - middle, p.material, p.priority, p.key) for p in placed
    ]
    return Standing(centred, float(min(0.0, low[1]) - middle[1]), low - middle, high - middle)


def _box(mesh: Mesh, axes: np.ndarray, offset: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    low, high = mesh.bounds()
    corners = np.array([[(low, high)[i >> axis & 1][axis] for axis in range(3)] for i in range(8)])
    there = corners @ axes.T + offset
    return there.min(axis=0), there.max(axis=0)


def geometry_of(stage: Stage, standing: Standing, matters: list[int]) -> tuple[Geometry, StageRays]:
    """What the kernels read of everything that stands, and the owner of its rays. matters: the row of each part's material."""
    objects = {one.id: (i, one) for i, one in enumerate(stage.objects)}
    made = {placed.key: mesh_rays(*placed.key) for placed in standing.placed}
    counts = [len(rows.corners) for _, rows in made.values()]
    firsts = dict(zip(made, np.cumsum([0, *counts]), strict=False))
    seen = [seen_bits(objects[p.object_id][1].seen) for p in standing.placed]
    owner = StageRays([(made[p.key][0], p.axes, p.offset, s) for p, s in zip(standing.placed, seen, strict=True)])
    things = Things(
        first=np.array([firsts[p.key] for p in standing.placed], np.int32),
        axes=np.array([p.axes.T.ravel() for p in standing.placed], np.float32),
        offset=np.array([p.offset for p in standing.placed], np.float32),
        matter=np.array(matters, np.int32),
        priority=np.array([p.priority for p in standing.placed], np.int32),
        bit=np.array([1 << objects[p.object_id][0] for p in standing.placed], np.int32),
        seen=np.array(seen, np.int32),
        size=np.array([size_cm(objects[p.object_id][1]) for p in standing.placed], np.float32),
    )
    return Geometry(owner.handle, joined([rows for _, rows in made.values()]), things), owner


def pieces_of(standing: Standing) -> np.ndarray:
    """(m,) int32 for the triangles of a stage: which piece of its mesh each is part of."""
    different = dict.fromkeys(placed.key for placed in standing.placed)
    return np.concatenate([mesh_of(*key).pieces for key in different]).astype(np.int32)


def seen_bits(seen) -> int:
    return BY_CAMERA * seen.camera + BY_REFLECTIONS * seen.reflections + BY_SHADOWS * seen.shadows
