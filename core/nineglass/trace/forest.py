"""The objects of a stage as the kernels read them: every form's tree once, and where each object stands."""

import json
from dataclasses import dataclass
from functools import lru_cache
from math import cos, radians, sin
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Object, Part, Stage, parts_of
from nineglass.forms.mesh import Mesh
from nineglass.trace.lamps import BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS
from nineglass.trace.tree import Tree, build_tree

FLOOR_BIT = 1 << 30
"""The floor among the bits of `Lamps.lights`; object i is bit i."""


class Forest(NamedTuple):
    """The trees of all forms, end to end; children count from the start of the whole."""

    boxes: np.ndarray  # (n, 24) float32
    children: np.ndarray  # (n, 4) int32
    triangles: np.ndarray  # (m, 9) float32
    normals: np.ndarray  # (m, 9) float32: at the corners of each triangle
    uvs: np.ndarray  # (m, 6) float32: texture coordinates at the corners
    pieces: np.ndarray  # (m,) int32: which piece of its mesh it is part of; one entry when nothing asks


class Things(NamedTuple):
    """One row for each part of each object."""

    root: np.ndarray  # (k,) int32: where its tree begins
    low: np.ndarray  # (k, 3) float32: its box on the stage, m
    high: np.ndarray  # (k, 3) float32
    axes: np.ndarray  # (k, 9) float32: rows take a vector of the stage to its own axes
    offset: np.ndarray  # (k, 3) float32: its own origin on the stage
    matter: np.ndarray  # (k,) int32: row of its material
    priority: np.ndarray  # (k,) int32
    seen: np.ndarray  # (k,) int32 bits
    bit: np.ndarray  # (k,) int32: of its object among `Lamps.lights`
    size: np.ndarray  # (k, 3) float32, cm: of its whole object along its own axes


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


def _key(form: Part) -> str:
    return json.dumps(form.dials, sort_keys=True)


@lru_cache(32)
def _mesh(kind: str, dials: str, part: str) -> Mesh:
    about = FORMS.kinds[kind]
    form, values = about.make(), about.defaults() | json.loads(dials)
    return form.mesh(values) if len(parts_of(kind)) == 1 else form.mesh(values, part)


@lru_cache(32)
def _tree(kind: str, dials: str, part: str) -> tuple[Tree, np.ndarray, np.ndarray]:
    mesh = _mesh(kind, dials, part)
    tree = build_tree(mesh)
    normals = np.ascontiguousarray(mesh.normals[mesh.faces[tree.faces]].reshape(-1, 9))
    return tree, normals, np.ascontiguousarray(mesh.corner_uvs()[tree.faces])


@lru_cache(4)
def _forest(forms: tuple[tuple[str, str, str], ...]) -> tuple[Forest, list[int]]:
    trees = [_tree(*form) for form in forms]
    roots = np.cumsum([0, *(len(tree.children) for tree, *_ in trees)])
    firsts = np.cumsum([0, *(len(tree.triangles) for tree, *_ in trees)])
    children = [
        _shifted(tree.children, root, first) for (tree, *_), root, first in zip(trees, roots, firsts, strict=False)
    ]
    forest = Forest(
        np.concatenate([tree.boxes for tree, *_ in trees]),
        np.concatenate(children),
        np.concatenate([tree.triangles for tree, *_ in trees]),
        np.concatenate([normals for _, normals, _ in trees]),
        np.concatenate([uvs for *_, uvs in trees]),
        np.zeros(1, np.int32),
    )
    return forest, roots[:-1].tolist()


def _shifted(children: np.ndarray, root: int, first: int) -> np.ndarray:
    leaves = np.bitwise_not(np.bitwise_not(children) + np.int32(first * 16))
    return np.where(children >= 0, children + np.int32(root), leaves).astype(np.int32)


def _rotation(turn_deg: float, tilt_deg: float = 0.0) -> np.ndarray:
    """(3, 3): tilts about the x axis (towards the front), then turns about the vertical."""
    a, b = radians(turn_deg), radians(tilt_deg)
    turn = np.array([[cos(a), 0, sin(a)], [0, 1, 0], [-sin(a), 0, cos(a)]])
    return turn @ np.array([[1, 0, 0], [0, cos(b), -sin(b)], [0, sin(b), cos(b)]])


def _standing(one: Object, turn: float) -> tuple[np.ndarray, np.ndarray]:
    """(rotation, offset in m) of an object whose lowest point is at its height over the stage's level."""
    rotation, whole = _rotation(one.turn, one.tilt), _rotation(turn)
    lowest = min(_lowest(mesh, rotation, one.tilt) for mesh in meshes_of(one).values())
    x, y, z = (v / 100 for v in one.at)
    return whole @ rotation, whole @ np.array([x, y - lowest, z])


def _lowest(mesh: Mesh, rotation: np.ndarray, tilt: float) -> float:
    return float(
        mesh.vertices[:, 1].min() if tilt % 360 == 0 else (mesh.vertices @ rotation[1].astype(np.float32)).min()
    )


def meshes_of(one: Object) -> dict[str, Mesh]:
    """The meshes of an object by part; parts that are empty at its dials are left out."""
    made = {part: _mesh(one.form.kind, _key(one.form), part) for part in parts_of(one.form.kind)}
    return {part: mesh for part, mesh in made.items() if len(mesh.faces)}


def size_cm(one: Object) -> np.ndarray:
    """(3,) how large an object is along its own axes."""
    low, high = zip(*(mesh.bounds() for mesh in meshes_of(one).values()), strict=True)
    return (np.max(high, axis=0) - np.min(low, axis=0)) * 100


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


def standing_of(stage: Stage) -> Standing:
    """Where everything stands. The middle of the stage is on the axis of its turn, at half the height of what stands there."""
    placed = []
    for one in stage.objects:
        if not one.on:
            continue
        axes, offset = _standing(one, stage.turn)
        for part, mesh in meshes_of(one).items():
            wear = one.wears.get(part)
            own = parts_of(one.form.kind)[part]
            priority = own if wear is None or wear.priority is None else wear.priority
            placed.append(Placed(one.id, part, mesh, axes, offset, wear.material if wear else None, priority))
    boxes = [_box(p.mesh, p.axes, p.offset) for p in placed]
    low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
    middle = np.array([0, (low[1] + high[1]) / 2, 0])
    centred = [Placed(p.object_id, p.part, p.mesh, p.axes, p.offset - middle, p.material, p.priority) for p in placed]
    return Standing(centred, float(min(0.0, low[1]) - middle[1]), low - middle, high - middle)


def _box(mesh: Mesh, axes: np.ndarray, offset: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    low, high = mesh.bounds()
    corners = np.array([[(low, high)[i >> axis & 1][axis] for axis in range(3)] for i in range(8)])
    there = corners @ axes.T + offset
    return there.min(axis=0), there.max(axis=0)


def forest_of(stage: Stage, standing: Standing, matters: list[int]) -> tuple[Forest, Things]:
    """The trees and the rows of everything that stands. matters: the row of the material of each part."""
    objects = {one.id: (i, one) for i, one in enumerate(stage.objects)}
    keys = _keys(stage, standing)
    different = tuple(dict.fromkeys(keys))
    forest, roots = _forest(different)
    boxes = [_box(p.mesh, p.axes, p.offset) for p in standing.placed]
    things = Things(
        root=np.array([roots[different.index(key)] for key in keys], np.int32),
        low=np.array([b[0] for b in boxes], np.float32) - np.float32(1e-6),
        high=np.array([b[1] for b in boxes], np.float32) + np.float32(1e-6),
        axes=np.array([p.axes.T.ravel() for p in standing.placed], np.float32),
        offset=np.array([p.offset for p in standing.placed], np.float32),
        matter=np.array(matters, np.int32),
        priority=np.array([p.priority for p in standing.placed], np.int32),
        seen=np.array([seen_bits(objects[p.object_id][1].seen) for p in standing.placed], np.int32),
        bit=np.array([1 << objects[p.object_id][0] for p in standing.placed], np.int32),
        size=np.array([size_cm(objects[p.object_id][1]) for p in standing.placed], np.float32),
    )
    return forest, things


def _keys(stage: Stage, standing: Standing) -> list[tuple[str, str, str]]:
    """What the mesh of each placed part is made from."""
    forms = {one.id: one.form for one in stage.objects}
    return [(forms[p.object_id].kind, _key(forms[p.object_id]), p.part) for p in standing.placed]


def pieces_of(stage: Stage, standing: Standing) -> np.ndarray:
    """(m,) int32 for the triangles of the stage's forest: which piece of its mesh each is part of."""
    different = dict.fromkeys(_keys(stage, standing))
    return np.concatenate([_mesh(*key).pieces[_tree(*key)[0].faces] for key in different]).astype(np.int32)


def seen_bits(seen) -> int:
    return BY_CAMERA * seen.camera + BY_REFLECTIONS * seen.reflections + BY_SHADOWS * seen.shadows
