"""A stage as OpenUSD: forms, strands, lamps, surround and camera, each form with its material as MaterialX nodes. Lengths are in cm, up is Y,
the origin is the middle of the stage. A form that stands there several times is there once, with instances. What is read of a file is in `usd_stage`.

It goes out as one package (.usdz) in the binary form; where a lamp has a file that a package may not hold, as the binary form with its files beside
it. `usd_text` has it as text. Source: the specification of USDZ, of the OpenUSD project.
"""

import tempfile
from collections import Counter
from pathlib import Path

import numpy as np

from nineglass.catalogue import CAMERAS, SURROUNDS
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage
from nineglass.documents.put_in_files import files_in
from nineglass.documents.shown import ASPECTS
from nineglass.exchange import mtlx
from nineglass.exchange.formats import Format, Written, file_name
from nineglass.exchange.report import Report
from nineglass.exchange.usd_lamps import put_lamp, put_place
from nineglass.exchange.usd_shade import put_material
from nineglass.exchange.usd_stage import NAME, is_usd, read_files
from nineglass.exchange.usd_strands import as_curves, put_curves
from nineglass.files import path_of
from nineglass.forms.mesh import Mesh
from nineglass.picture.files import exr_bytes
from nineglass.surrounds.directions import all_around
from nineglass.trace.geometry.standing import Placed, Standing, standing_of, strand_rays
from nineglass.trace.sensor import lens_of

CM = 100.0
FRAME_MM = 36.0
FAR_CM = 10_000.0


IN_A_PACKAGE = {".usdc", ".png", ".exr", ".jpg"}


def write(material: Material, stage: Stage, side: int = 1024) -> Written:
    """The stage in one file."""
    loose = write_loose(material, stage, side, "usdc")
    if {Path(name).suffix for name in loose.files} <= IN_A_PACKAGE:
        return Written({f"{file_name(stage.name)}.usdz": _package(loose.files)}, loose.report)
    return loose


def _package(files: dict[str, bytes]) -> bytes:
    """Files in one, the stage first, each where its bytes can be read without unpacking."""
    from pxr import Sdf

    with tempfile.TemporaryDirectory() as folder:
        package = Path(folder) / "package.usdz"
        with Sdf.ZipFileWriter.CreateNew(str(package)) as writer:
            for name, data in files.items():
                (Path(folder) / name).write_bytes(data)
                writer.AddFile(str(Path(folder) / name), name)
        return package.read_bytes()


def write_loose(material: Material, stage: Stage, side: int, ending: str) -> Written:
    """A USD file of the stage, with the pictures that its materials and surround name, and the photometric files of its lamps, beside one another.
    ending: usdc or usda."""
    from pxr import Usd, UsdGeom, UsdShade

    report, files = Report(format=NAME), {}
    called = file_name(stage.name)
    standing = standing_of(stage)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"{called}.{ending}"
        made = Usd.Stage.CreateNew(str(path))
        UsdGeom.SetStageMetersPerUnit(made, 1 / CM)
        UsdGeom.SetStageUpAxis(made, UsdGeom.Tokens.y)
        made.SetDefaultPrim(UsdGeom.Xform.Define(made, "/stage").GetPrim())
        UsdGeom.Scope.Define(made, "/stage/materials")
        shades = _Materials(made, material, stage, side, report, files)
        forms = _Forms(made, standing)
        for placed in standing.placed:
            prim = _put_form(made, placed, stage, forms)
            put_place(prim, placed.axes.T, placed.offset * CM)
            if shade := shades.of(placed.material):
                UsdShade.MaterialBindingAPI.Apply(prim).Bind(shade)
        triangles = sum(len(one.mesh.faces) for one in standing.placed if one.sown is None)
        report.add("exactly", "Forms", f"{triangles:,} triangles with normals and texture coordinates, in cm")
        if any(one.sown for one in standing.placed):
            report.add("exactly", "Strands", "every strand, as cubic curves with their widths")
        if stage.floor:
            _put_floor(made, standing)
            report.add("nearly", "Floor", "as a plain square; its pattern stays here")
        photometric = {where: name for where, name, _ in files_in(stage)}
        for number, lamp in enumerate(stage.lamps):
            beside = None
            if named := photometric.get(f"lamps[{number}].dials.file"):
                beside = f"{called}_{lamp.id}.ies"
                files[beside] = path_of(named).read_bytes()
            put_lamp(made, f"/stage/lamps/{lamp.id}", lamp, report, beside)
        _put_surround(made, stage, called, files, report)
        _put_camera(made, stage, report)
        report.add("to set", "Materials", "the program that opens it has to know MaterialX (OpenPBR)")
        made.GetRootLayer().Save()
        files = {path.name: path.read_bytes()} | files
    return Written(files, report)


class _Materials:
    """Every material that is worn, once."""

    def __init__(self, made, own: Material, stage: Stage, side: int, report: Report, files: dict[str, bytes]):
        self.made, self.own, self.stage, self.side, self.report, self.files = made, own, stage, side, report, files
        self._there: dict[str, object] = {}

    def of(self, material: Material | None):
        """None where it has no surface that MaterialX can say."""
        material = material or self.own
        key = material.model_dump_json()
        if key not in self._there:
            self._there[key] = self._put(material, len(self._there) + 1)
        return self._there[key]

    def _put(self, material: Material, number: int):
        name = f"{file_name(material.name)}_{number}"
        try:
            written = mtlx.write(material.model_copy(update={"name": name}), self.stage, self.side)
        except Refused as refused:
            self.report.add("not", material.name, refused.faults[0].fault)
            return None
        (_, text), *pictures = written.files.items()
        self.files |= dict(pictures)
        for line in written.report.lines:
            self.report.add(line.went, f"{material.name}: {line.what}", line.says, line.figure)
        return put_material(self.made, f"/stage/materials/{name}", mtlx.document_of(text.decode()), self.report)


class _Forms:
    """Meshes; one that stands there several times is a prototype, of which the others are instances."""

    def __init__(self, made, standing: Standing):
        self.made = made
        self.often = Counter(one.key for one in standing.placed if one.sown is None)
        self._prototypes: dict[tuple, str] = {}

    def put(self, path: str, placed: Placed):
        from pxr import UsdGeom

        if self.often[placed.key] == 1:
            return put_mesh(self.made, path, placed.mesh).GetPrim()
        prim = UsdGeom.Xform.Define(self.made, path).GetPrim()
        prim.GetReferences().AddInternalReference(self._prototype(placed))
        prim.SetInstanceable(True)
        return prim

    def _prototype(self, placed: Placed) -> str:
        from pxr import UsdGeom

        if placed.key not in self._prototypes:
            path = f"{PROTOTYPES}/form_{len(self._prototypes) + 1}"
            self.made.CreateClassPrim(PROTOTYPES)
            UsdGeom.Xform.Define(self.made, path)
            put_mesh(self.made, f"{path}/mesh", placed.mesh)
            self._prototypes[placed.key] = path
        return self._prototypes[placed.key]


PROTOTYPES = "/prototypes"


def _put_form(made, placed: Placed, stage: Stage, forms: _Forms):
    from pxr import UsdGeom

    one = next(one for one in stage.objects if one.id == placed.object_id)
    path = f"/stage/forms/{placed.object_id}_{placed.part}"
    if placed.sown is not None:
        curves, more = as_curves(strand_rays(placed.sown)[1])
        prim = put_curves(made, path, curves, more).GetPrim()
    else:
        prim = forms.put(path, placed)
    prim.SetMetadata("displayName", one.name or one.form.kind)
    if not one.seen.camera:
        UsdGeom.Imageable(prim).MakeInvisible()
    return prim


def put_mesh(made, path: str, mesh: Mesh):
    """A mesh in m as a mesh of the stage, in cm."""
    from pxr import Gf, Sdf, UsdGeom, Vt

    prim = UsdGeom.Mesh.Define(made, path)
    places = (mesh.vertices * CM).astype(np.float32)
    prim.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(places)))
    prim.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(mesh.faces), 3, np.int32)))
    prim.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.ascontiguousarray(mesh.faces.ravel(), np.int32)))
    prim.CreateSubdivisionSchemeAttr("none")
    prim.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.normals, np.float32)))
    prim.SetNormalsInterpolation("vertex")
    prim.CreateExtentAttr([Gf.Vec3f(*map(float, places.min(0))), Gf.Vec3f(*map(float, places.max(0)))])
    st = UsdGeom.PrimvarsAPI(prim).CreatePrimvar("st", Sdf.ValueTypeNames.TexCoord2fArray, "faceVarying")
    st.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(mesh.corner_uvs().reshape(-1, 2))))
    return prim


def _put_floor(made, standing: Standing) -> None:
    half = FAR_CM / CM
    corners = np.array([[-half, 0, -half], [half, 0, -half], [half, 0, half], [-half, 0, half]], np.float32)
    corners[:, 1] = standing.floor
    up = np.tile(np.array([0, 1, 0], np.float32), (4, 1))
    faces = np.array([[0, 2, 1], [0, 3, 2]], np.int32)
    put_mesh(made, "/stage/floor", Mesh(corners, up, faces, corners[:, [0, 2]] / half / 2 + 0.5))


def _put_surround(made, stage: Stage, called: str, files: dict[str, bytes], report: Report) -> None:
    from pxr import Sdf, UsdLux

    part = stage.surround.light
    about = SURROUNDS.kinds[part.kind]
    picture = all_around(about.make(), about.defaults() | part.dials)
    name = f"{called}_surround.exr"
    # Theirs runs the other way round than ours.
    files[name] = exr_bytes(np.ascontiguousarray(picture[:, ::-1]))
    dome = UsdLux.DomeLight.Define(made, "/stage/surround")
    dome.CreateTextureFileAttr(Sdf.AssetPath(f"./{name}"))
    dome.CreateTextureFormatAttr(UsdLux.Tokens.latlong)
    dome.CreateIntensityAttr(1.0)
    report.add(
        "exactly", "Surround", f"{about.title} as a picture of all directions, {picture.shape[1]} x {picture.shape[0]}"
    )
    others = [one for one in ("second", "reflections", "camera") if getattr(stage.surround, one)]
    if others:
        report.add("not", "Surround", "what stands apart for " + ", ".join(others))


def _put_camera(made, stage: Stage, report: Report) -> None:
    from pxr import Gf, UsdGeom

    dials = CAMERAS.kinds[stage.camera.kind].defaults() | stage.camera.dials
    aspect = ASPECTS[stage.shape]
    lens, exposure = lens_of(stage.camera, aspect)
    camera = UsdGeom.Camera.Define(made, "/stage/camera")
    camera.CreateFocalLengthAttr(float(dials["focal_length"]))
    camera.CreateHorizontalApertureAttr(FRAME_MM * min(aspect, 1.0))
    camera.CreateVerticalApertureAttr(FRAME_MM / max(aspect, 1.0))
    camera.CreateFocusDistanceAttr(float(lens.focus) * CM)
    camera.CreateFStopAttr(float(dials["f_stop"]))
    camera.CreateExposureAttr(float(exposure))
    camera.CreateClippingRangeAttr(Gf.Vec2f(0.1, 1e6))
    axes = (lens.right / np.linalg.norm(lens.right), lens.up / np.linalg.norm(lens.up), -lens.forward)
    put_place(camera, axes, lens.eye * CM)
    report.add("exactly", "Camera", "place, frame, focus, aperture, exposure")


FORMAT = Format(
    name=NAME,
    title="OpenUSD stage",
    ending=".usdz",
    help="The whole stage: forms, strands, lamps, surround and camera, with their materials as MaterialX nodes. Read are meshes, curves, lights, camera.",
    begins=is_usd,
    read=read_files,
    write=write,
    measured=False,
    place=5,
)
