"""What is read of a stage in OpenUSD: meshes, curves, lights and the camera. Source: UsdGeom, UsdLux. A file that reaches for other files is refused;
only the picture of its surround may lie beside it.
"""

import os
import tempfile
from dataclasses import dataclass, field
from math import atan2, degrees, hypot
from pathlib import Path

import numpy as np

from nineglass.catalogue import CAMERAS
from nineglass.documents.model import Lamp, Object, Part, Seen, Stage, Surround, plain_documents
from nineglass.exchange.formats import Taken
from nineglass.exchange.glb import glb_of
from nineglass.exchange.report import Report
from nineglass.exchange.usd_lamps import LightRead, lamp_of, read_light
from nineglass.exchange.usd_strands import Curves, curves_of, ending, opened, write_usd
from nineglass.files import name_of, refused_file
from nineglass.forms.mesh import Mesh

NAME = "usd"
LARGEST_BYTES = 300_000_000
MOST_TRIANGLES = 4_000_000
FLATTENED = 1e-12
"""Determinant of a transform below which what it places has no thickness."""
MOST_OBJECTS, MOST_LAMPS = 15, 8
CM = 100.0
FRAME_MM = 36.0
DIM = 0.02
"""How bright the surround is where a file has none."""

Y_UP, Z_UP = np.eye(3), np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])
"""Rows take the axes of a file to ours: a vector of the file times this."""


def is_usd(head: bytes) -> bool:
    return head.startswith((b"#usda", b"PXR-USDC"))


@dataclass
class _Found:
    """What a file holds, in cm and with Y up."""

    meshes: list[tuple[str, Mesh]] = field(default_factory=list)
    curves: list[tuple[np.ndarray, np.ndarray, np.ndarray | None]] = field(default_factory=list)
    lights: list[LightRead] = field(default_factory=list)
    dome: tuple[str, float] | None = None
    """The file name of its picture, and its intensity"""
    camera: dict | None = None


def read_files(files: dict[str, bytes], first: str) -> Taken:
    """A stage with what stands on it, and a plain material that it wears. Raises Refused."""
    given = files[first]
    if len(given) > LARGEST_BYTES:
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    from pxr import Tf

    report = Report(format=NAME)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"stage.{ending(given)}"
        path.write_bytes(given)
        try:
            usd = opened(str(path))
            found = _found(usd, report)
            title = str(usd.GetDefaultPrim().GetName()) if usd.GetDefaultPrim() else "stage"
        except Tf.ErrorException as error:
            said = str(error).strip().splitlines()[-1][:120]
            raise refused_file(f"not a USD file that can be read ({said})", "a .usda or .usdc file") from None
        return _taken(found, files, title, report)


def _found(usd, report: Report) -> _Found:
    from pxr import Usd, UsdGeom, UsdLux

    found = _Found()
    cm = float(UsdGeom.GetStageMetersPerUnit(usd)) * CM
    turned = Z_UP if UsdGeom.GetStageUpAxis(usd) == UsdGeom.Tokens.z else Y_UP
    cache = UsdGeom.XformCache(Usd.TimeCode.EarliestTime())
    stands = Usd.PrimIsActive & Usd.PrimIsDefined & ~Usd.PrimIsAbstract
    for prim in Usd.PrimRange(usd.GetPseudoRoot(), Usd.TraverseInstanceProxies(stands)):
        matrix = np.array(cache.GetLocalToWorldTransform(prim)) if prim.IsA(UsdGeom.Xformable) else None
        if prim.IsA(UsdGeom.Mesh):
            if mesh := _mesh_of(prim, matrix, turned * cm, report):
                found.meshes.append((_title_of(prim), mesh))
        elif prim.IsA(UsdGeom.BasisCurves):
            read = curves_of(prim)
            if isinstance(read, str):
                report.add("not", prim.GetName(), read)
            else:
                points = read[0].astype(float)
                points = np.column_stack([points[:, :3] @ (turned * cm), points[:, 3] * cm])
                found.curves.append((points.astype(np.float32), *read[1:]))
        elif prim.IsA(UsdGeom.Camera) and found.camera is None:
            found.camera = _camera_of(UsdGeom.Camera(prim), matrix, turned, cm)
        elif prim.IsA(UsdLux.DomeLight):
            light = UsdLux.DomeLight(prim)
            file = light.GetTextureFileAttr().Get()
            found.dome = (os.path.basename(file.path) if file else "", float(light.GetIntensityAttr().Get() or 1))
        elif prim.HasAPI(UsdLux.LightAPI):
            axes = _unit(matrix[:3, :3] @ turned)
            read = read_light(prim, matrix[3, :3] @ (turned * cm), axes, cm)
            if read is None:
                report.add("not", f"Light {prim.GetName()}", f"a {prim.GetTypeName()} has no like here")
            else:
                found.lights.append(read)
        elif prim.GetTypeName() in LEFT_OUT:
            report.add("not", prim.GetName(), f"{prim.GetTypeName()}: meshes, curves, lights and a camera are read")
    return found


def _title_of(prim) -> str:
    """Of an instance its own, not that of what it is one of."""
    while prim.IsInstanceProxy():
        prim = prim.GetParent()
    return prim.GetMetadata("displayName") or prim.GetName()


LEFT_OUT = (
    "Points",
    "PointInstancer",
    "Volume",
    "NurbsPatch",
    "NurbsCurves",
    "Cube",
    "Sphere",
    "Cylinder",
    "Cone",
    "Capsule",
)


def _unit(rows: np.ndarray) -> np.ndarray:
    return rows / np.maximum(np.linalg.norm(rows, axis=1, keepdims=True), 1e-12)


def _mesh_of(prim, matrix: np.ndarray, turned: np.ndarray, report: Report) -> Mesh | None:
    """A mesh of triangles in cm where it stands."""
    from pxr import Usd, UsdGeom

    made, when = UsdGeom.Mesh(prim), Usd.TimeCode.EarliestTime()
    points = np.array(made.GetPointsAttr().Get(when) or (), float).reshape(-1, 3)
    counts = np.array(made.GetFaceVertexCountsAttr().Get(when) or (), np.int64)
    index = np.array(made.GetFaceVertexIndicesAttr().Get(when) or (), np.int64)
    name = prim.GetName()
    if not len(counts):
        report.add("not", name, "a mesh without faces")
        return None
    if counts.sum() != len(index) or (counts < 3).any() or index.min() < 0 or index.max() >= len(points):
        report.add("not", name, "its faces name points that are not there")
        return None
    if not np.isfinite(points).all():
        report.add("not", name, "places that are not numbers")
        return None
    if not np.isfinite(matrix).all() or abs(np.linalg.det(matrix[:3, :3])) < FLATTENED:
        report.add("not", name, "its transform flattens it, or is not of numbers")
        return None
    corners = _fans(counts)
    if len(corners) > MOST_TRIANGLES:
        raise refused_file(f"{len(corners):,} triangles", f"at most {MOST_TRIANGLES:,}")
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    if (str(made.GetOrientationAttr().Get()) == "leftHanded") != mirrored:
        corners = corners[:, ::-1]
    if str(made.GetSubdivisionSchemeAttr().Get()) != "none":
        report.add("nearly", name, "its cage as it is, not subdivided; smooth by its normals")
    places = (points @ matrix[:3, :3] + matrix[3, :3]) @ turned
    faces = index[corners]
    normals = _normals_of(made, when, index, corners, points, faces)
    # Normals are covectors: they go by the inverse, transposed.
    normals = _unit(normals.reshape(-1, 3) @ np.linalg.inv(matrix[:3, :3]).T @ turned).reshape(-1, 3, 3)
    uv = _uv_of(prim, index, corners, faces)
    return _joined(places, normals, faces, uv)


def _fans(counts: np.ndarray) -> np.ndarray:
    """(t, 3) which corners of the file each triangle has: every face as a fan about its first corner."""
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    triangles = counts - 2
    first = np.repeat(starts, triangles)
    step = np.arange(triangles.sum()) - np.repeat(np.cumsum(triangles) - triangles, triangles)
    return np.stack([first, first + step + 1, first + step + 2], axis=1)


def _normals_of(made, when, index, corners, points, faces) -> np.ndarray:
    """(t, 3, 3) at the corners: those of the file, else those of the faces about each point."""
    given = np.array(made.GetNormalsAttr().Get(when) or (), float).reshape(-1, 3)
    if len(given) == len(index):
        return given[corners]
    if len(given) == len(points):
        return given[faces]
    across = np.cross(points[faces[:, 1]] - points[faces[:, 0]], points[faces[:, 2]] - points[faces[:, 0]])
    about = np.zeros_like(points)
    for corner in range(3):
        np.add.at(about, faces[:, corner], across)
    return about[faces]


def _uv_of(prim, index, corners, faces) -> np.ndarray | None:
    """(t, 3, 2) texture coordinates at the corners."""
    from pxr import UsdGeom

    primvar = UsdGeom.PrimvarsAPI(prim).GetPrimvar("st")
    given = primvar.ComputeFlattened() if primvar and primvar.HasValue() else None
    uv = np.array(given if given is not None else (), float).reshape(-1, 2)
    if len(uv) == len(index):
        return uv[corners]
    return uv[faces] if len(uv) == index.max() + 1 else None


def _joined(places, normals, faces, uv) -> Mesh:
    """Corners that agree in everything are one vertex."""
    rows = [places[faces].reshape(-1, 3), normals.reshape(-1, 3)] + ([uv.reshape(-1, 2)] if uv is not None else [])
    rows = np.column_stack(rows).astype(np.float32)
    kept, which = np.unique(rows, axis=0, return_inverse=True)
    own = np.ascontiguousarray(kept[:, 6:8]) if uv is not None else None
    return Mesh(kept[:, :3].copy(), kept[:, 3:6].copy(), which.reshape(-1, 3).astype(np.int32), own)


def _camera_of(camera, matrix: np.ndarray, turned: np.ndarray, cm: float) -> dict:
    """Its place (cm), the way that it looks, its frame and lens."""
    across, high = (
        float(one.Get() or 20.955) for one in (camera.GetHorizontalApertureAttr(), camera.GetVerticalApertureAttr())
    )
    return {
        "eye": matrix[3, :3] @ (turned * cm),
        "forward": -_unit(matrix[:3, :3] @ turned)[2],
        "right": _unit(matrix[:3, :3] @ turned)[0],
        # The frame that we have is 36 mm on its longer side.
        "focal_length": float(camera.GetFocalLengthAttr().Get() or 50) * FRAME_MM / max(across, high),
        "focus": float(camera.GetFocusDistanceAttr().Get() or 0) * cm,
        "f_stop": float(camera.GetFStopAttr().Get() or 0),
        "exposure": float(camera.GetExposureAttr().Get() or 0),
        "aspect": across / max(high, 1e-6),
    }


def _taken(found: _Found, files: dict[str, bytes], title: str, report: Report) -> Taken:
    level = [_is_floor(mesh, found.meshes) for _, mesh in found.meshes]
    floors = [name for (name, _), is_floor in zip(found.meshes, level, strict=True) if is_floor]
    meshes = _largest([one for one, is_floor in zip(found.meshes, level, strict=True) if not is_floor], report)
    if not meshes and not found.curves:
        raise refused_file("no mesh and no curves in it", "at least one Mesh or BasisCurves")
    kept, kinds, objects = {}, {}, []

    def keep(data: bytes, kind: str) -> str:
        kept[name_of(data)], kinds[name_of(data)] = data, kind
        return name_of(data)

    lows, highs = [], []
    for number, (name, mesh) in enumerate(meshes):
        low, high = mesh.bounds()
        lows.append(low)
        highs.append(high)
        form = Part(kind="imported", dials={"file": keep(glb_of(mesh), "mesh"), "unit": "cm"})
        middle = (low + high) / 2
        at = (float(middle[0]), float(low[1]), float(middle[2]))
        objects.append(Object(id=f"form_{number + 1}", name=str(name)[:120], form=form, at=at))
        report.add("exactly", str(name), f"{len(mesh.faces):,} triangles")
    if found.curves:
        objects.append(_strands(found.curves, objects, meshes, keep, report))
        if not lows:
            points = np.concatenate([one[0][:, :3] for one in found.curves])
            lows.append(points.min(axis=0))
            highs.append(points.max(axis=0))
    ground = float(np.min(lows, axis=0)[1])
    objects = [one.model_copy(update={"at": (one.at[0], one.at[1] - ground, one.at[2])}) for one in objects]
    middle = np.array([0.0, (ground + float(np.max(highs, axis=0)[1])) / 2, 0.0])
    plain = plain_documents()
    stage = Stage(
        name=title.replace("_", " ").capitalize()[:120],
        objects=objects,
        floor=plain["floor"] if floors else None,
        lamps=_lamps(found.lights, middle, report),
        surround=Surround(light=_surround(found.dome, files, keep, report)),
        camera=_camera(found.camera, middle, report),
        shape="16:9"
        if found.camera and found.camera["aspect"] > 1.6
        else "3:2"
        if found.camera and found.camera["aspect"] > 1.2
        else "square",
    )
    if floors:
        report.add("nearly", str(floors[0]), "a level square far wider than all else: the floor")
    report.add("not", "Materials", "a plain glass stands for them: hand materials over as MaterialX")
    material = plain["material"].model_copy(update={"name": stage.name})
    return Taken(material.model_dump(mode="json"), report, kept, kinds, stage.model_dump(mode="json"))


FLOOR_TIMES, FLAT = 5.0, 1e-3


def _is_floor(mesh: Mesh, among: list[tuple[str, Mesh]]) -> bool:
    """Whether a mesh is level, and far wider than all others."""
    across = np.ptp(np.array(mesh.bounds()), axis=0)
    others = [float(np.ptp(np.array(one.bounds()), axis=0).max()) for _, one in among if one is not mesh]
    return bool(others) and across[1] < FLAT * across.max() and across.max() > FLOOR_TIMES * max(others)


def _largest(meshes: list[tuple[str, Mesh]], report: Report) -> list[tuple[str, Mesh]]:
    by_size = sorted(meshes, key=lambda one: -float(np.ptp(np.array(one[1].bounds()), axis=0).max()))
    for name, _ in by_size[MOST_OBJECTS:]:
        report.add("not", str(name), f"a stage has {MOST_OBJECTS + 1} forms: the largest are read")
    kept = [id(one) for one in by_size[:MOST_OBJECTS]]
    return [one for one in meshes if id(one) in kept]


def _strands(curves, objects: list[Object], meshes, keep, report: Report) -> Object:
    """All curves as strands on the form that holds most of their roots; on a small one that nobody sees where there is none."""
    points = np.concatenate([one[0] for one in curves])
    spans = np.concatenate([one[1] for one in curves])
    uv = None if any(one[2] is None for one in curves) else np.concatenate([one[2] for one in curves])
    counts = 3 * spans + 1
    roots = points[np.concatenate([[0], np.cumsum(counts)[:-1]]), :3]
    if meshes:
        held = [_held(roots, mesh) for _, mesh in meshes]
        which = int(np.argmax(held))
        low, high = meshes[which][1].bounds()
        skin, middle = objects[which].id, (low + high) / 2
    else:
        low, high = points[:, :3].min(axis=0), points[:, :3].max(axis=0)
        middle, skin = (low + high) / 2, "skin"
        unseen = Seen(camera=False, reflections=False, shadows=False)
        dials = {"diameter": 1.0}
        at = (float(middle[0]), float(middle[1]) - 0.5, float(middle[2]))
        objects.append(Object(id=skin, form=Part(kind="ball", dials=dials), at=at, seen=unseen))
    points = points.copy()
    points[:, :3] -= middle
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "strands.usdc"
        write_usd(Curves(points, spans, 1 / CM, "Y", uv), {}, path)
        name = keep(path.read_bytes(), "strands")
    report.add("exactly", "Strands", f"{len(spans):,} curves, with their widths")
    return Object(id="strands", form=Part(kind="imported_strands", dials={"file": name}), skin=skin)


def _held(roots: np.ndarray, mesh: Mesh) -> int:
    """How many roots are within the box of a mesh, and a little beyond."""
    low, high = mesh.bounds()
    more = 0.02 * (high - low).max()
    return int(((roots >= low - more) & (roots <= high + more)).all(axis=1).sum())


def _lamps(lights: list[LightRead], middle: np.ndarray, report: Report) -> list[Lamp]:
    for light in lights[MOST_LAMPS:]:
        report.add("not", f"Light {light.name}", f"a stage has {MOST_LAMPS} lamps")
    made = []
    for number, light in enumerate(lights[:MOST_LAMPS], 1):
        place = light.place if light.kind == "sun" else light.place - middle
        made.append(lamp_of(LightRead(**vars(light) | {"place": place}), number, report))
    return made


def _surround(dome: tuple[str, float] | None, files: dict[str, bytes], keep, report: Report) -> Part:
    if dome is None:
        report.add("to set", "Surround", "the file has none: it is nearly dark")
        return Part(kind="plain", dials={"strength": DIM})
    name, intensity = dome
    data = next((data for path, data in files.items() if name and os.path.basename(path) == name), None)
    if data is None:
        report.add("not", "Surround", f"its picture {name or '(none)'} did not come with the file; it is plain")
        return Part(kind="plain", dials={"strength": min(max(intensity, 0.0), 1e4)})
    report.add("exactly", "Surround", "its picture of all directions")
    dials = {"picture_of": "file", "file": keep(data, "picture"), "strength": min(max(intensity, 0.0), 1e4)}
    return Part(kind="lighting_picture", dials=dials)


def _camera(read: dict | None, middle: np.ndarray, report: Report) -> Part:
    if read is None:
        report.add("to set", "Camera", "the file has none: the usual one")
        return Part(kind="camera")
    eye, toward = read["eye"] - middle, -read["forward"]
    azimuth, level = atan2(toward[0], toward[2]), hypot(toward[0], toward[2])
    ahead = np.array([np.sin(azimuth), 0.0, np.cos(azimuth)])
    if level < 1e-3:
        report.add("nearly", "Camera", "it looks straight down or up; here one looks at most 89 degrees down")
    distance = float(eye @ ahead) / max(level, 1e-3)
    if distance <= 1:
        distance = float(np.linalg.norm(eye))
        report.add("nearly", "Camera", "it looks away from what stands there")
    aim = eye - toward * distance
    right = np.array([np.cos(azimuth), 0.0, -np.sin(azimuth)])
    roll = degrees(np.arccos(np.clip(read["right"] @ right, -1, 1)))
    if roll > 0.5:
        report.add("not", "Camera", "its roll: here the horizon is level", f"{roll:.0f} degrees")
    dials = {
        "focal_length": read["focal_length"],
        "distance": distance,
        "azimuth": degrees(azimuth),
        "elevation": degrees(atan2(toward[1], level)),
        "raised": float(aim[1]),
        "aside": float(aim @ right),
        "focus": (read["focus"] or distance) - distance,
        "f_stop": read["f_stop"] or 512.0,
        "exposure": read["exposure"],
    }
    about = CAMERAS.kinds["camera"]
    for name, value in dials.items():
        low, high = about.dials[name].hard_low, about.dials[name].hard_high
        dials[name] = float(min(max(value, low), high))
    report.add("exactly", "Camera", "place, frame, focus, aperture, exposure")
    return Part(kind="camera", dials=dials)
