"""A stage as OpenUSD and back: forms, strands, lamps, camera, materials. The official library opens and checks what is written."""

import json
import re
import tempfile
from functools import lru_cache
from math import pi
from pathlib import Path
from unittest import TestCase, mock

import numpy as np
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, grows, read
from nineglass.exchange import usd
from nineglass.exchange.formats import Written
from nineglass.exchange.mtlx import library
from nineglass.exchange.taking import taken_of
from nineglass.exchange.usd_stage import read_files
from nineglass.exchange.usd_strands import read_usd
from nineglass.forms.imported import read_mesh
from nineglass.trace.geometry.standing import standing_of, strand_rays

from tests.lengths import LONG

DEMO = Path(__file__).resolve().parents[2] / "demo"
PLUGIN = "MissingShaderIdInRegistry"
"""What the checker says of MaterialX nodes: the library's wheel has no MaterialX. Their names are held against MaterialX itself below."""

FEW_STRANDS = 3000
"""In a short run: each is written like every other."""

HAND = """#usda 1.0
(
    defaultPrim = "desk"
    metersPerUnit = 0.0254
    upAxis = "Z"
)
def Xform "desk" {
    def Mesh "box" {
        int[] faceVertexCounts = [4, 4, 4, 4, 4, 4]
        int[] faceVertexIndices = [0, 3, 2, 1, 4, 5, 6, 7, 0, 1, 5, 4, 1, 2, 6, 5, 2, 3, 7, 6, 3, 0, 4, 7]
        point3f[] points = [(-1, -2, 0), (1, -2, 0), (1, 2, 0), (-1, 2, 0), (-1, -2, 3), (1, -2, 3), (1, 2, 3), (-1, 2, 3)]
        uniform token subdivisionScheme = "none"
        double3 xformOp:translate = (0, 0, 1)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }
    def SphereLight "bulb" (prepend apiSchemas = ["LightAPI"]) {
        float inputs:radius = 1
        float inputs:intensity = 2
        float inputs:exposure = 1
        double3 xformOp:translate = (0, -20, 2.5)
        uniform token[] xformOpOrder = ["xformOp:translate"]
    }
    def Camera "eye" {
        float focalLength = 50
        float horizontalAperture = 25
        float verticalAperture = 25
        float focusDistance = 20
        double3 xformOp:translate = (0, -20, 2.5)
        double xformOp:rotateX = 90
        uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateX"]
    }
}
"""
"""A box of 2 by 4 by 3 inches, an inch over the ground of a file with Z up, seen from its front at the height of its middle."""


def demo(model, name: str):
    return read(model, json.loads((DEMO / f"{name}.json").read_text()))


@lru_cache(4)
def written(material: str, stage: str) -> Written:
    given = demo(Stage, stage)
    if not LONG:
        for coat in filter(grows, given.objects):
            coat.form.dials |= {"count": FEW_STRANDS}
    return usd.write_loose(demo(Material, material), given, 64, "usdc" if grown(stage) else "usda")


def grown(stage: str) -> bool:
    return any(grows(one) for one in demo(Stage, stage).objects)


def read_back(files: dict[str, bytes]):
    found = read_files(files, next(iter(files)))
    return found, read(Stage, found.stage)


def hand(text: str = HAND):
    return read_back({"hand.usda": text.encode()})


class RoundTrips(TestCase):
    def test_a_form_keeps_its_places_normals_and_texture_coordinates(self):
        stage = demo(Stage, "lamp-room")
        [placed] = standing_of(stage).placed
        found, back = read_back(written("net-float", "lamp-room").files)
        mesh = read_mesh(found.files[back.objects[0].form.dials["file"]])
        np.testing.assert_allclose(
            np.ptp(mesh.vertices, axis=0), 100 * np.ptp(placed.mesh.vertices @ placed.axes.T, axis=0), rtol=1e-5
        )
        self.assertEqual(len(mesh.faces), len(placed.mesh.faces))
        corners = mesh.vertices[mesh.faces].astype(float)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        own = placed.mesh.vertices[placed.mesh.faces].astype(float)
        expected = 1e6 * np.einsum("ij,ij->i", own[:, 0], np.cross(own[:, 1], own[:, 2])).sum() / 6
        self.assertAlmostEqual(volume / expected, 1, places=4)
        outward = (mesh.normals * (mesh.vertices - mesh.vertices.mean(axis=0))).sum(axis=1)
        self.assertGreater((outward > 0).mean(), 0.49, "the net float has an inside as well")
        self.assertIsNotNone(mesh.uv)

    def test_lamps_and_camera_come_back_as_they_were(self):
        for material, name in (
            ("net-float", "lamp-room"),
            ("mica-enamel", "slipway"),
            ("signal-lens-ruby", "lens-stand"),
        ):
            stage, (_, back) = demo(Stage, name), read_back(written(material, name).files)
            for before, after in zip(stage.lamps, back.lamps, strict=True):
                self.assertEqual(before.kind, after.kind)
                for dial, value in before.dials.items():
                    np.testing.assert_allclose(after.dials[dial], value, rtol=1e-5, atol=1e-4, err_msg=f"{name} {dial}")
            for dial, value in stage.camera.dials.items():
                self.assertAlmostEqual(back.camera.dials[dial], value, places=3, msg=f"{name} {dial}")
            self.assertEqual(back.floor is None, stage.floor is None)

    def test_every_strand_comes_back_in_its_place(self):
        stage = demo(Stage, "pelt-table")
        coat = next(one for one in stage.objects if grows(one))
        coat.form.dials |= {"count": 500}
        found, back = read_back(usd.write_loose(demo(Material, "otter-pelt"), stage, 64, "usdc").files)
        strands = next(one for one in back.objects if one.form.kind == "imported_strands")
        curves = read_usd(found.files[strands.form.dials["file"]])
        placed = next(one for one in standing_of(stage).placed if one.sown)
        rows = strand_rays(placed.sown)[1]
        self.assertEqual(len(curves.spans), len(rows.roots))
        turned = rows.points[:, :3] @ placed.axes.T
        np.testing.assert_allclose(np.ptp(curves.points[:, :3], axis=0), 100 * np.ptp(turned, axis=0), rtol=1e-4)
        np.testing.assert_allclose(np.sort(curves.points[:, 3]), np.sort(100 * rows.points[:, 3]), rtol=1e-4)


class Checked(TestCase):
    """What the official library says of a stage that was written."""

    def faults(self, files: dict[str, bytes]) -> list[str]:
        from pxr import Usd, UsdValidation

        with tempfile.TemporaryDirectory() as folder:
            for name, data in files.items():
                (Path(folder) / name).write_bytes(data)
            stage = Usd.Stage.Open(str(Path(folder) / next(iter(files))))
            checks = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
            found = UsdValidation.ValidationContext(checks).Validate(stage)
            return [f"{one.GetName()}: {one.GetMessage()}" for one in found if one.GetName() != PLUGIN]

    def test_nothing_is_wrong(self):
        for material, stage in (
            ("net-float", "lamp-room"),
            ("driftwood", "slate-table"),
            ("ruby-scattering", "slipway"),
            ("straw", "pelt-table"),
            ("harbour-fog", "harbour"),
        ):
            self.assertEqual(self.faults(written(material, stage).files), [], material)

    def test_every_shader_is_a_node_of_materialx_with_what_it_reads_connected(self):
        for material, stage in (("driftwood", "slate-table"), ("straw", "pelt-table"), ("harbour-fog", "harbour")):
            with self.subTest(material):
                self.look_at_shaders(written(material, stage).files)

    def look_at_shaders(self, files: dict[str, bytes]):
        from pxr import Usd, UsdShade

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / next(iter(files))
            path.write_bytes(files[path.name])
            stage = Usd.Stage.Open(str(path))
        shaders = [UsdShade.Shader(prim) for prim in stage.Traverse() if prim.IsA(UsdShade.Shader)]
        self.assertGreater(len(shaders), 3)
        for shader in shaders:
            definition = library().getNodeDef(shader.GetIdAttr().Get())
            self.assertIsNotNone(definition, shader.GetPath())
            for entry in shader.GetInputs():
                self.assertIsNotNone(definition.getActiveInput(entry.GetBaseName()), entry.GetAttr().GetPath())
                for path in entry.GetAttr().GetConnections():
                    self.assertTrue(stage.GetPrimAtPath(path.GetPrimPath()), path)
        bound = [
            prim for prim in stage.Traverse() if UsdShade.MaterialBindingAPI(prim).GetDirectBinding().GetMaterial()
        ]
        self.assertTrue(bound)

    def test_pictures_that_it_names_are_beside_it(self):
        for material, stage in (("driftwood", "slate-table"), ("net-float", "lamp-room")):
            files = written(material, stage).files
            named = set(re.findall(r"@\./([^@]+)@", next(iter(files.values())).decode()))
            self.assertLessEqual(named, set(files))
            self.assertIn(next(name for name in files if name.endswith("_surround.exr")), named)


class InOneFile(TestCase):
    """A stage of seven bottles in a row, as one package."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        stage = demo(Stage, "lamp-room")
        [bottle] = stage.objects
        cls.stage = stage.model_copy(
            update={
                "objects": [
                    bottle.model_copy(update={"id": f"bottle_{k}", "name": f"Bottle {k}", "at": (20.0 * k, 0.0, 0.0)})
                    for k in range(7)
                ]
            }
        )
        cls.written = usd.write(demo(Material, "net-float"), cls.stage, 64)
        [(cls.name, cls.data)] = cls.written.files.items()

    def opened(self):
        from pxr import Usd

        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / self.name
        path.write_bytes(self.data)
        return Usd.Stage.Open(str(path))

    def test_nothing_is_wrong_with_it(self):
        from pxr import UsdValidation

        checks = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
        found = UsdValidation.ValidationContext(checks).Validate(self.opened())
        self.assertEqual([one.GetMessage() for one in found if one.GetName() != PLUGIN], [])
        self.assertTrue(self.name.endswith(".usdz"))

    def test_one_form_is_there_once(self):
        from pxr import UsdGeom

        usd_stage = self.opened()
        forms = usd_stage.GetPrimAtPath("/stage/forms").GetChildren()
        self.assertEqual([one.IsInstance() for one in forms], [True] * 7)
        self.assertEqual(len(usd_stage.GetPrototypes()), 1)
        meshes = [one for one in usd_stage.Traverse() if one.IsA(UsdGeom.Mesh)]
        self.assertEqual([one.GetName() for one in meshes], ["floor"])
        text = usd.write_loose(demo(Material, "net-float"), self.stage, 64, "usda").files
        alone = usd.write(demo(Material, "net-float"), demo(Stage, "lamp-room"), 64).files
        self.assertLess(len(self.data), sum(map(len, alone.values())) + 20_000)
        self.assertLess(len(self.data), 0.7 * sum(map(len, text.values())))

    def test_all_come_back_where_they_stood_by_their_names(self):
        found = taken_of(self.data)
        back = read(Stage, found.stage)
        self.assertEqual([one.name for one in back.objects], [f"Bottle {k}" for k in range(7)])
        across = np.diff([one.at[0] for one in back.objects])
        np.testing.assert_allclose(across, 20, atol=1e-3)
        self.assertEqual(back.lamps[0].kind, self.stage.lamps[0].kind)

    def test_what_a_package_may_not_hold_lies_beside_it(self):
        with mock.patch.object(usd, "IN_A_PACKAGE", {".usdc"}):
            files = usd.write(demo(Material, "net-float"), demo(Stage, "lamp-room"), 64).files
        self.assertEqual([Path(name).suffix for name in files], [".usdc", ".exr"])


class ByHand(TestCase):
    """A file of inches with Z up; what is expected was worked by hand."""

    def test_a_box_where_it_stands(self):
        found, stage = hand()
        mesh = read_mesh(found.files[stage.objects[0].form.dials["file"]])
        np.testing.assert_allclose(np.ptp(mesh.vertices, axis=0), 2.54 * np.array([2, 3, 4]), rtol=1e-5)
        self.assertEqual(len(mesh.faces), 12)
        np.testing.assert_allclose(stage.objects[0].at, (0, 0, 0), atol=1e-6)
        corners = mesh.vertices[mesh.faces].astype(float)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        self.assertAlmostEqual(volume, 24 * 2.54**3, places=2)

    def test_the_camera_sees_it_from_the_front(self):
        """20 inches before it; 25 mm of frame at 50 mm are 72 mm at 36 mm."""
        dials = hand()[1].camera.dials
        for name, value in {"azimuth": 0, "elevation": 0, "raised": 0, "aside": 0, "focus": 0}.items():
            self.assertAlmostEqual(dials[name], value, places=4, msg=name)
        self.assertAlmostEqual(dials["distance"], 50.8, places=3)
        self.assertAlmostEqual(dials["focal_length"], 72, places=3)

    def test_a_light_of_its_radiance(self):
        """A ball of radiance L and radius r sends out 4 pi^2 r^2 L; here L is 2 * 2^1."""
        [lamp] = hand()[1].lamps
        self.assertEqual(lamp.kind, "sphere")
        self.assertAlmostEqual(lamp.dials["power"], 4 * pi**2 * 0.0254**2 * 4, places=4)
        self.assertAlmostEqual(lamp.dials["distance"], 50.8, places=3)
        self.assertAlmostEqual(lamp.dials["kelvin"], 6500)

    def test_what_has_no_like_here_is_told(self):
        text = HAND.replace(
            'def Camera "eye"',
            'def Cube "die" {}\n    def CylinderLight "tube" (prepend apiSchemas = ["LightAPI"]) {}\n    def Camera "eye"',
        )
        lines = hand(text)[0].report.lines
        self.assertTrue({"die", "Light tube"} <= {one.what for one in lines if one.went == "not"})


class Hostile(TestCase):
    def refused(self, text: str) -> str:
        with self.assertRaises(Refused) as caught:
            hand(text)
        return caught.exception.faults[0].line()

    def test_a_file_that_reaches_for_others(self):
        self.assertIn(
            "other files",
            self.refused(HAND.replace('def Xform "desk" {', 'def Xform "desk" (references = @/etc/passwd@) {')),
        )

    def test_no_usd_at_all(self):
        self.assertIn("USD", self.refused("#usda 1.0\n{{{{"))

    def test_nothing_to_stand_there(self):
        self.assertIn("no mesh", self.refused('#usda 1.0\ndef Xform "empty" {}\n'))

    def test_faces_without_points_are_left_out(self):
        broken = HAND.replace("[0, 3, 2, 1, 4,", "[0, 3, 2, 99, 4,")
        self.assertIn("no mesh", self.refused(broken))

    def test_a_transform_that_flattens_is_told(self):
        flat = HAND.replace("double3 xformOp:translate = (0, 0, 1)", "double3 xformOp:scale = (1, 1, 0)", 1)
        self.assertIn("no mesh", self.refused(flat.replace('["xformOp:translate"]', '["xformOp:scale"]', 1)))

    def test_places_that_are_no_numbers(self):
        self.assertIn("no mesh", self.refused(HAND.replace("(-1, -2, 0)", "(nan, -2, 0)")))
