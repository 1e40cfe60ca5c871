"""Where every part of every object stands, and the rows that the kernels read of it."""

import json
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from math import cos, radians, sin
from typing import NamedTuple

import numpy as np

from nineglass import at_hand
from nineglass.at_hand import remembered
from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Object, Part, Stage, grows, parts_of, skin_of
from nineglass.forms.curves import Roots
from nineglass.forms.mesh import Mesh
from nineglass.trace.geometry import strands, triangles
from nineglass.trace.geometry.embree import MeshRays, StageRays, StrandRays
from nineglass.trace.geometry.strands import StrandRows
from nineglass.trace.geometry.triangles import Triangles

BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS = 1, 2, 4
"""Bits of who sees an object or lamp."""

FLOOR_BIT = 1 << 30
"""The floor among the bits of what a lamp lights; object i is bit i."""


class Things(NamedTuple):
    """One row for each part of each object; row k is instance k of the stage's rays."""

    first: np.ndarray  # (k,) int32: where its rows begin among the primitives of its kind
    strands: np.ndarray  # (k,) int32: whether those are spans of strands, not triangles
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
    strands: StrandRows
    things: Things


@dataclass(frozen=True)
class Sown:
    """Strands as they are to grow on a skin. Sizes are in the axes of the skin."""

    kind: str
    dials: str
    """As JSON."""
    skin: tuple[str, str, str]
    """What the mesh of the skin is made from."""
    down: tuple[float, float, float]


@dataclass(frozen=True)
class Cover:
    """How much of what is sown stands, and how long it is there: by root, from 0 to 1."""

    key: bytes
    density: np.ndarray = field(compare=False)
    length: np.ndarray = field(compare=False)
    read: tuple = field(default=(), compare=False)
    """Pictures and grids of which it was worked out: while they are kept nothing else can be taken for them."""


@dataclass(frozen=True)
class Placed:
    """One part of one object, where it stands."""

    object_id: str
    part: str
    mesh: Mesh
    """Of strands: the outline of their skin, without a face."""
    axes: np.ndarray
    offset: np.ndarray
    material: Material | None
    priority: int
    key: tuple[str, str, str]
    """What its mesh is made from."""
    sown: Sown | None = None
    """The strands that it is."""

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


@remembered
def mesh_of(kind: str, dials: str, part: str) -> Mesh:
    """The mesh of one part of a form, made once. dials: as JSON."""
    about = FORMS.kinds[kind]
    form, values = about.make(), about.defaults() | json.loads(dials)
    return form.mesh(values) if len(parts_of(kind)) == 1 else form.mesh(values, part)


@remembered
def mesh_rays(kind: str, dials: str, part: str) -> tuple[MeshRays, Triangles]:
    """The rays and the rows of one form, made once."""
    return ready_for_rays(mesh_of(kind, dials, part))


def ready_for_rays(mesh: Mesh) -> tuple[MeshRays, Triangles]:
    """The rays and the rows of a mesh; the ray library builds its scene while the rows are made."""
    with ThreadPoolExecutor(1) as beside:
        rows = beside.submit(triangles.rows_of, mesh)
        return MeshRays(mesh), rows.result()


GROWN = "grown strands"


def _form_of(sown: Sown):
    about = FORMS.kinds[sown.kind]
    return about.make(), about.defaults() | json.loads(sown.dials)


@remembered
def roots_of(sown: Sown, share: float = 1.0) -> Roots:
    """Where a share of some strands stand on their skin."""
    form, values = _form_of(sown)
    return form.sow(values, mesh_of(*sown.skin), share)


def has_grown(sown: Sown, cover: Cover | None = None) -> bool:
    """Whether all of some strands are at hand."""
    return at_hand.holds(GROWN, (sown, 1.0, cover))


def count_of(sown: Sown) -> int:
    """How many strands are sown."""
    form, values = _form_of(sown)
    return form.how_many(values)


def strand_rays(sown: Sown, share: float = 1.0, cover: Cover | None = None) -> tuple[StrandRays, StrandRows]:
    """The rays and the rows of a share of some strands, made once."""
    return at_hand.get(GROWN, (sown, share, cover), lambda: _grow(sown, share, cover))


def _grow(sown: Sown, share: float, cover: Cover | None) -> tuple[StrandRays, StrandRows]:
    form, values = _form_of(sown)
    roots, lengths = roots_of(sown, share), None
    if cover is not None:
        density, lengths = (one[: len(roots.number)] for one in (cover.density, cover.length))
        stands = (roots.number < density) & (lengths > 0)
        roots, lengths = roots.some(stands), lengths[stands]
    made = form.grow(values, roots, np.array(sown.down), lengths)
    with ThreadPoolExecutor(1) as beside:
        rows = beside.submit(strands.rows_of, made)
        return StrandRays(made), rows.result()


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
    """The meshes of an object by part; parts that are empty at its dials are left out. Strands have none."""
    if grows(one):
        return {}
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
        if grows(one):
            placed.append(_planted(one, skin_of(one, stage.objects), stage.turn))
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
    centred = [replace(p, offset=p.offset - middle) for p in placed]
    return Standing(centred, float(min(0.0, low[1]) - middle[1]), low - middle, high - middle)


STRAND = "body"
"""The part that strands are."""


def _planted(one: Object, skin: Object, turn: float) -> Placed:
    """Strands, where their skin stands."""
    axes, offset = _stands(skin, turn)
    part, mesh = next(iter(meshes_of(skin).items()))
    wear = one.wears.get(STRAND)
    down = tuple(round(float(v), 6) for v in axes.T @ (0.0, -1.0, 0.0))
    key = (one.form.kind, _key(one.form), STRAND)
    sown = Sown(one.form.kind, _key(one.form), (skin.form.kind, _key(skin.form), part), down)
    outline = Mesh(mesh.vertices, mesh.normals, mesh.faces[:0])
    return Placed(one.id, STRAND, outline, axes, offset, wear.material if wear else None, 0, key, sown)


def _box(mesh: Mesh, axes: np.ndarray, offset: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    low, high = mesh.bounds()
    corners = np.array([[(low, high)[i >> axis & 1][axis] for axis in range(3)] for i in range(8)])
    there = corners @ axes.T + offset
    return there.min(axis=0), there.max(axis=0)


def geometry_of(
    stage: Stage, standing: Standing, matters: list[int], share: float, covers: list[Cover | None]
) -> tuple[Geometry, StageRays]:
    """What the kernels read of everything that stands, and the owner of its rays.

    matters: the row of each part's material. share: of the strands that are to stand. covers: of each part that is strands.
    """
    objects = {one.id: (i, one) for i, one in enumerate(stage.objects)}
    meshes = {placed.key: mesh_rays(*placed.key) for placed in standing.placed if placed.sown is None}
    firsts = dict(zip(meshes, np.cumsum([0, *(len(rows.corners) for _, rows in meshes.values())]), strict=False))
    spans, first, rays, seen = [], [], [], []
    for placed, cover in zip(standing.placed, covers, strict=True):
        seen.append(seen_bits(objects[placed.object_id][1].seen))
        if placed.sown is None:
            own = meshes[placed.key][0]
            first.append(firsts[placed.key])
        else:
            own, rows = strand_rays(placed.sown, share, cover)
            first.append(sum(len(one.first) for one in spans))
            spans.append(rows)
        rays.append((own, placed.axes, placed.offset, seen[-1]))
    owner = StageRays(rays)
    sizes = [size_cm(measured(objects[p.object_id][1], stage)) for p in standing.placed]
    things = Things(
        first=np.array(first, np.int32),
        strands=np.array([placed.sown is not None for placed in standing.placed], np.int32),
        axes=np.array([p.axes.T.ravel() for p in standing.placed], np.float32),
        offset=np.array([p.offset for p in standing.placed], np.float32),
        matter=np.array(matters, np.int32),
        priority=np.array([p.priority for p in standing.placed], np.int32),
        bit=np.array([1 << objects[p.object_id][0] for p in standing.placed], np.int32),
        seen=np.array(seen, np.int32),
        size=np.array(sizes, np.float32),
    )
    faces = triangles.joined([rows for _, rows in meshes.values()])
    return Geometry(owner.handle, faces, strands.joined(spans), things), owner


def measured(one: Object, stage: Stage) -> Object:
    """The object whose size is that of an object: of strands their skin."""
    return skin_of(one, stage.objects) if grows(one) else one


def pieces_of(standing: Standing) -> np.ndarray:
    """(m,) int32 for the triangles of a stage: which piece of its mesh each is part of."""
    different = dict.fromkeys(placed.key for placed in standing.placed if placed.sown is None)
    return np.concatenate([np.zeros(0), *(mesh_of(*key).pieces for key in different)]).astype(np.int32)


def seen_bits(seen) -> int:
    return BY_CAMERA * seen.camera + BY_REFLECTIONS * seen.reflections + BY_SHADOWS * seen.shadows
