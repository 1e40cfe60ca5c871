import json
from io import BytesIO
from tempfile import TemporaryDirectory
from unittest.mock import patch

import numpy as np
import trimesh
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, TestCase
from nineglass.files import path_of
from PIL import Image

from library.models import KeptFile

SPDX = """<?xml version="1.0"?>
<IESTM2714 xmlns="http://www.ies.org/iestm2714" version="1.0"><Header/>
<SpectralDistribution><SpectralQuantity>transmittance</SpectralQuantity>
<SpectralData wavelength="400">0.2</SpectralData><SpectralData wavelength="700">0.9</SpectralData>
</SpectralDistribution></IESTM2714>"""


class Library(TestCase):
    def setUp(self):
        self.person = get_user_model().objects.create_user("someone")
        self.client.force_login(self.person)
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        kept = patch.dict("os.environ", {"NINEGLASS_FILES": folder.name})
        kept.start()
        self.addCleanup(kept.stop)

    def put(self, kind: str, given: bytes, name="thing.ply"):
        return self.client.post(f"/api/files/{kind}", {"file": SimpleUploadedFile(name, given)})

    def curve(self, text: str):
        return self.client.post("/api/curves", json.dumps({"text": text}), "application/json")

    def test_a_curve_that_was_written_is_read_exactly(self):
        points = [[380.0, 0.125], [555.5, 1.0], [780.0, 0.0625]]
        for ending in ("csv", "spdx"):
            body = {"points": points, "quantity": "relative", "says": "a lamp", "ending": ending}
            answer = self.client.post("/api/curves/written", json.dumps(body), "application/json")
            told = {"text": answer.json()["text"], "quantity": "relative"}
            read = self.client.post("/api/curves", json.dumps(told), "application/json")
            self.assertEqual(read.json()["points"], points)
        body["points"] = [[500, 1]]
        self.assertEqual(self.client.post("/api/curves/written", json.dumps(body), "application/json").status_code, 422)

    def test_of_a_lamp_the_shape_counts(self):
        for text, quantity, expected in (
            ("400, 20\n500, 80\n600, 40", "relative", [0.25, 1, 0.5]),
            ("400, 2000\n500, 8000\n600, 4000", "relative", [0.25, 1, 0.5]),
            ("400, 20\n500, 80\n600, 40", "transmittance", [0.2, 0.8, 0.4]),
        ):
            told = json.dumps({"text": text, "quantity": quantity})
            points = self.client.post("/api/curves", told, "application/json").json()["points"]
            self.assertEqual([value for _, value in points], expected)
        dark = json.dumps({"text": "400, 0\n500, 0", "quantity": "relative"})
        self.assertIn("no light", self.client.post("/api/curves", dark, "application/json").content.decode())

    def test_substances_come_with_their_source(self):
        found = {one["name"]: one for one in self.client.get("/api/substances").json()}
        self.assertGreaterEqual(len(found), 30)
        self.assertAlmostEqual(found["diamond"]["n_d"], 2.4175, places=3)
        self.assertIn("CC0", found["water"]["licence"])

    def test_matter_that_scatters_comes_with_its_source(self):
        found = self.client.get("/api/scatterers").json()
        self.assertGreaterEqual(len(found), 12)
        for one in found:
            self.assertTrue(one["source"] and one["licence"], one["name"])
            self.assertEqual(len(one["wavelengths_nm"]), len(one["reduced_per_mm"]))

    def test_nothing_is_shown_without_signing_in(self):
        for path in (
            "/api/substances",
            "/api/scatterers",
            "/api/files",
            "/api/modules",
            "/api/presets",
            "/api/swatches",
        ):
            self.assertEqual(Client().get(path).status_code, 401)

    def keep(self, name="Rim", value=0.4, **about):
        module = {"id": "rim", "name": name, "slips": [{"id": "n", "kind": "number", "dials": {"value": value}}]}
        module |= {"gives": [{"name": "out", "source": {"slip": "n"}}]} | about
        return {"format": "nineglass.module", "version": 1, "modules": [module]}

    def test_modules_are_kept_changed_and_removed(self):
        kept = self.client.post("/api/modules", {"document": self.keep()}, "application/json")
        self.assertEqual(kept.status_code, 201)
        path = f"/api/modules/{kept.json()['id']}"
        change = {"based_on": 1, "document": self.keep("Soft rim", 0.6)}
        changed = self.client.put(path, change, "application/json").json()
        self.assertEqual((changed["name"], changed["revision"]), ("Soft rim", 2))
        late = self.client.put(path, change, "application/json")
        self.assertEqual((late.status_code, late.json()["newest"]["revision"]), (409, 2))
        self.assertEqual([one["name"] for one in self.client.get("/api/modules").json()], ["Soft rim"])
        self.client.delete(path)
        self.assertEqual(self.client.get("/api/modules").json(), [])

    def test_a_faulty_module_is_refused_by_name(self):
        wrong = self.keep(gives=[{"name": "out", "source": {"slip": "gone"}}])
        faults = self.client.post("/api/modules", {"document": wrong}, "application/json")
        self.assertEqual(faults.status_code, 422)
        self.assertIn("modules[0].gives[0].source", faults.json()["faults"][0]["path"])

    def test_nobody_reaches_the_modules_of_another(self):
        kept = self.client.post("/api/modules", {"document": self.keep()}, "application/json").json()
        self.client.force_login(get_user_model().objects.create_user("another"))
        self.assertEqual(self.client.get("/api/modules").json(), [])
        path = f"/api/modules/{kept['id']}"
        change = {"based_on": 1, "document": self.keep("Stolen")}
        self.assertEqual(self.client.put(path, change, "application/json").status_code, 404)
        self.assertEqual(self.client.delete(path).status_code, 404)

    def test_a_curve_from_csv_in_percent_with_a_heading(self):
        points = self.curve("nm;T %\n400;20\n500;55,5\n700;90").json()["points"]
        np.testing.assert_allclose(points, [[400, 0.2], [500, 0.555], [700, 0.9]])

    def test_a_curve_from_spdx(self):
        # Source: IES TM-27-14.
        self.assertEqual(self.curve(SPDX).json()["points"], [[400.0, 0.2], [700.0, 0.9]])

    def test_what_is_no_curve_is_refused_with_a_remedy(self):
        entity = SPDX.replace("<IESTM", "<!DOCTYPE x [<!ENTITY a 'b'>]><IESTM", 1)
        for text, says in (
            ("hello", "fewer than two"),
            ("400, 3\n500, 900", "no share"),
            ("<a><b></a>", "not XML"),
            (entity, "entities"),
            (SPDX.replace('wavelength="400"', ""), "without wavelength"),
        ):
            refused = self.curve(text)
            self.assertEqual(refused.status_code, 422, text)
            self.assertIn(says, refused.json()["faults"][0]["fault"])
            self.assertTrue(refused.json()["faults"][0]["remedy"])

    def test_a_mesh_is_kept_with_what_one_should_know(self):
        box = trimesh.creation.box((2, 4, 6))
        made = self.put("mesh", box.export(file_type="ply"))
        self.assertEqual(made.status_code, 201, made.content)
        self.assertEqual(made.json()["facts"]["triangles"], 12)
        self.assertTrue(path_of(made.json()["sha256"]).is_file())
        opened = trimesh.Trimesh(box.vertices, box.faces[1:], process=False).export(file_type="ply")
        self.assertIn("open edges", self.put("mesh", opened).json()["facts"]["faults"][0])
        self.assertEqual(len(self.client.get("/api/files").json()), 2)

    def test_files_are_their_owner_s(self):
        self.put("mesh", trimesh.creation.box().export(file_type="stl"), "box.stl")
        other = Client()
        other.force_login(get_user_model().objects.create_user("stranger"))
        self.assertEqual(other.get("/api/files").json(), [])

    def test_what_is_no_picture_or_mesh_is_refused_and_not_kept(self):
        for kind, given in (("mesh", b"no mesh"), ("picture", b"\x89PNG....."), ("picture", b"#?RADIANCE\n")):
            refused = self.put(kind, given)
            self.assertEqual(refused.status_code, 422)
            self.assertEqual(refused.json()["faults"][0]["path"], "file")
        self.assertEqual(KeptFile.objects.count(), 0)

    def test_a_photometric_file_is_kept_with_its_flux_and_others_are_refused(self):
        given = (settings.DEMO_DIR / "harbour-lantern.ies").read_bytes()
        kept = self.put("photometry", given, "lantern.ies")
        self.assertEqual(kept.status_code, 201)
        self.assertAlmostEqual(kept.json()["facts"]["lumens"], 3454, delta=2)
        refused = self.put("photometry", b"TILT=NONE 1 2 3", "not.ies")
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(refused.json()["faults"][0]["path"], "file")
        self.assertEqual(KeptFile.objects.filter(kind="photometry").count(), 1)

    def test_a_picture_for_surfaces_is_read_in_its_colour_space(self):
        from nineglass.network.pictures import picture_file

        out = BytesIO()
        Image.fromarray(np.full((6, 9, 3), 188, np.uint8)).save(out, "PNG")
        made = self.put("texture", out.getvalue(), "grey.png")
        self.assertEqual(made.status_code, 201, made.content)
        self.assertEqual(made.json()["facts"], {"width": 9, "height": 6, "linear": False})
        path = f"/files/{made.json()['sha256']}/picture.png"
        shown = Image.open(BytesIO(self.client.get(path).content))
        self.assertEqual((shown.size, shown.getpixel((0, 0))), ((9, 6), (188, 188, 188)))
        self.client.force_login(get_user_model().objects.create_user("stranger"))
        self.assertEqual(self.client.get(path).status_code, 404)
        self.client.logout()
        self.assertNotEqual(self.client.get(path).status_code, 200)
        # IEC 61966-2-1: 188 of 255 is 0.503 of linear light; read as data it stays 0.737.
        np.testing.assert_allclose(picture_file(made.json()["sha256"], "sRGB"), 0.5029, atol=1e-3)
        np.testing.assert_allclose(picture_file(made.json()["sha256"], "data"), 188 / 255, atol=1e-3)

    def test_a_hostile_picture_for_surfaces_is_refused(self):
        out = BytesIO()
        Image.fromarray(np.zeros((2, 9000, 3), np.uint8)).save(out, "PNG")
        gif = BytesIO()
        Image.fromarray(np.zeros((4, 4), np.uint8)).save(gif, "GIF")
        for given in (b"", b"\x89PNG\r\n\x1a\n broken", out.getvalue(), out.getvalue()[:60], gif.getvalue()):
            refused = self.put("texture", given)
            self.assertEqual(refused.status_code, 422, given[:20])
            self.assertEqual(refused.json()["faults"][0]["path"], "file")

    def test_a_lighting_picture_lights_a_stage(self):
        from nineglass.surrounds.lighting_picture import LightingPicture

        pixels = np.full((4, 8, 4), (128, 128, 128, 129), np.uint8)
        given = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n" + pixels.tobytes()
        made = self.put("picture", BytesIO(given).getvalue(), "even.hdr").json()
        self.assertEqual((made["facts"]["width"], made["facts"]["height"]), (8, 4))
        dials = {"picture_of": "file", "file": made["sha256"], "turn": 0, "strength": 2.0}
        np.testing.assert_allclose(LightingPicture().picture(dials), 2 * 128.5 / 128, rtol=1e-5)
