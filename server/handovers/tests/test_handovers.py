"""Materials handed over and taken in: what is kept, who reaches it, what becomes of bad files, and what is measured."""

import io
import json
import shutil
import tempfile
import tracemalloc
import zipfile
from concurrent.futures import ThreadPoolExecutor
from hashlib import sha256
from unittest import mock

import numpy as np
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase, override_settings
from library import services as library
from library.models import KeptFile
from materials import services as materials
from materials.models import Material
from nineglass.describe import Refused
from nineglass.documents import model as documents
from nineglass.exchange import difference
from nineglass.files import is_kept
from PIL import Image
from stages.models import Standing
from tests.test_hostile import stl_of
from tests.test_usd import HAND

from handovers import measuring, services
from handovers.models import HandedOver, Measured, TakenIn


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class HandOverCase(TransactionTestCase):
    def setUp(self):
        folder = tempfile.mkdtemp(prefix="nineglass-handed-")
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        elsewhere = override_settings(MEDIA_ROOT=folder)
        elsewhere.enable()
        self.addCleanup(elsewhere.disable)
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE procrastinate_jobs CASCADE")
        people = get_user_model().objects
        self.keeper, self.stranger = people.create_user("keeper"), people.create_user("stranger")
        self.client.force_login(self.keeper)
        self.other = Client()
        self.other.force_login(self.stranger)

    def keep(self, name: str) -> Material:
        return materials.create(self.keeper, documents.read(documents.Material, demo(name)))

    def post(self, material: Material, format: str = "mtlx", client=None, **about):
        body = {"material_id": str(material.id), "format": format, "side": 512}
        body |= {"material": material.document, "stage": demo("window-bench")} | about
        return (client or self.client).post("/api/handovers", json.dumps(body), "application/json")

    def put_in(self, data: bytes, name: str = "a.zip", client=None):
        return (client or self.client).post("/api/handovers/in", {"file": SimpleUploadedFile(name, data)})


class GoingOut(HandOverCase):
    def test_a_material_goes_out_with_its_report_and_pictures_and_can_be_taken_in(self):
        made = self.post(self.keep("scratched-beaker"))
        self.assertEqual(made.status_code, 201, made.content)
        handed = made.json()
        self.assertEqual((handed["state"], handed["of_lights"]), ("measuring", 3))
        self.assertIn("exactly", {line["went"] for line in handed["report"]["lines"]})
        answer = self.client.get(handed["file"])
        self.assertIn(handed["file_name"], answer["Content-Disposition"])
        data = b"".join(answer.streaming_content)
        names = zipfile.ZipFile(io.BytesIO(data)).namelist()
        self.assertEqual([name.rpartition(".")[2] for name in names], ["mtlx", "exr"])
        taken = self.put_in(data, handed["file_name"])
        self.assertEqual(taken.status_code, 201, taken.content)
        self.assertEqual(taken.json()["material"]["name"], "Scratched beaker")
        self.assertEqual(KeptFile.objects.filter(owner=self.keeper, kind="texture").count(), 1)
        told = self.client.get(f"/api/handovers/in/{taken.json()['material']['id']}").json()
        self.assertEqual(told["file_name"], handed["file_name"])

    def test_what_cannot_go_out_says_why(self):
        for format, name, word in (("glb", "harbour-fog", "surface"), ("nothing", "net-float", "format")):
            with self.subTest(name):
                refused = self.post(self.keep(name), format)
                self.assertEqual(refused.status_code, 422)
                self.assertIn(word, json.dumps(refused.json()))
        self.assertEqual(self.post(self.keep("net-float"), side=123).status_code, 422)
        self.assertFalse(HandedOver.objects.exists())

    def test_it_is_read_back_and_measured_on_three_stages_once_each(self):
        self.post(self.keep("net-float"))
        handed = HandedOver.objects.get()

        def quick(*about):
            return difference.difference_on(*about, side=32, samples=4)

        with mock.patch.object(measuring, "difference_on", quick):
            while measuring.measure_next(handed, lambda: False):
                pass
        (one,) = self.client.get("/api/handovers").json()
        self.assertEqual((one["state"], len(one["measured"])), ("done", 3))
        for measured in one["measured"]:
            self.assertLess(measured["delta_e"], 10)
            self.assertEqual(self.client.get(measured["picture"]).content[:4], b"\x89PNG")
        self.assertEqual(one["read_report"]["format"], "mtlx")
        self.assertLess(one["delta_e"], 10)

    def test_a_view_goes_out_as_a_table(self):
        table = self.client.get("/handovers/views/film.cube").content.decode()
        self.assertIn("LUT_3D_SIZE 33", table)
        self.assertEqual(len(table.splitlines()), 6 + 33**3)
        self.assertEqual(self.client.get("/handovers/views/other.cube").status_code, 404)

    def test_one_that_was_removed_is_measured_no_more(self):
        handed = self.post(self.keep("net-float")).json()
        row = HandedOver.objects.get()
        self.assertEqual(self.client.delete(f"/api/handovers/{handed['id']}").status_code, 204)
        self.assertFalse(measuring.measure_next(row, lambda: True))
        self.assertFalse(Measured.objects.exists())

    def test_others_find_nothing(self):
        material = self.keep("net-float")
        handed = self.post(material).json()
        self.assertEqual(self.other.get("/api/handovers").json(), [])
        for path in (handed["file"], f"/handovers/{handed['id']}/0.png", f"/api/handovers/in/{material.id}"):
            self.assertEqual(self.other.get(path).status_code, 404)
        self.assertEqual(self.other.delete(f"/api/handovers/{handed['id']}").status_code, 404)
        self.assertEqual(self.post(material, client=self.other).status_code, 404)
        self.assertTrue(HandedOver.objects.filter(id=handed["id"]).exists())
        for path in ("/api/handovers", "/api/handovers/formats", handed["file"]):
            self.assertNotEqual(Client().get(path).status_code, 200)


class WholeWork(HandOverCase):
    """One zip with everything goes to another person, as it would to another installation."""

    def work(self) -> bytes:
        out = io.BytesIO()
        Image.new("RGB", (8, 8), (200, 40, 20)).save(out, "PNG")
        picture = library.put_in(self.keeper, "texture", SimpleUploadedFile("a.png", out.getvalue()))
        skin = demo("pelt-skin")
        skin["slips"].append({"id": "own", "kind": "picture", "dials": {"source": "file", "file": picture.sha256}})
        kept = materials.create(self.keeper, documents.read(documents.Material, skin))
        handed = self.post(kept, "work").json()
        self.assertEqual((handed["state"], handed["measured"]), ("done", []))
        return b"".join(self.client.get(handed["file"]).streaming_content)

    def test_it_comes_in_whole_beside_what_is_there(self):
        mine = materials.create(self.stranger, documents.read(documents.Material, demo("pelt-skin")))
        taken = self.put_in(self.work(), client=self.other)
        self.assertEqual(taken.status_code, 201, taken.content)
        self.assertEqual(Material.objects.filter(owner=self.stranger).count(), 2)
        self.assertEqual(materials.get(self.stranger, mine.id).revision, 1)
        self.assertEqual(KeptFile.objects.get(owner=self.stranger).kind, "texture")
        standing = Standing.objects.get(material=taken.json()["material"]["id"])
        self.assertEqual((standing.stage.owner, standing.stage.name), (self.stranger, "Window bench"))
        ours = Material.objects.get(owner=self.keeper)
        self.assertEqual(taken.json()["material"]["document"], ours.document)

    def test_a_large_file_in_it_is_never_held_whole_here(self):
        zeros = bytes(60_000_000)
        before, out = zipfile.ZipFile(io.BytesIO(self.work())), io.BytesIO()
        manifest = json.loads(before.read("manifest.json"))
        picture = next(one for one in manifest["files"] if one["kind"] == "texture")
        picture["sha256"] = sha256(zeros).hexdigest()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as after:
            others = {"manifest.json": json.dumps(manifest), picture["name"]: zeros}
            for name in before.namelist():
                after.writestr(name, others.get(name) or before.read(name))
            others.clear()
        del zeros
        given = out.getvalue()
        self.assertLess(len(given), 200_000)
        tracemalloc.start()
        self.addCleanup(tracemalloc.stop)
        refused = self.put_in(given, client=self.other)
        self.assertEqual(refused.status_code, 422)
        self.assertLess(tracemalloc.get_traced_memory()[1], 15_000_000)

    def test_one_that_was_changed_is_refused(self):
        before = zipfile.ZipFile(io.BytesIO(self.work()))
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as after:
            for name in before.namelist():
                data = before.read(name)
                after.writestr(name, data.replace(b"Pelt", b"Bald") if name == "material.json" else data)
        refused = self.put_in(out.getvalue(), client=self.other)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("was changed", refused.json()["faults"][0]["fault"])
        self.assertFalse(Material.objects.filter(owner=self.stranger).exists())


class ComingIn(HandOverCase):
    def test_bad_files_leave_nothing_behind(self):
        before = Material.objects.count()
        for data in (
            b"",
            b"nothing",
            b"PK\x03\x04 no zip",
            b"glTF" + b"\0" * 60,
            b"<materialx version='1.39'></materialx>",
        ):
            with self.subTest(data[:10]):
                refused = self.put_in(data)
                self.assertEqual(refused.status_code, 422)
                self.assertTrue(refused.json()["faults"][0]["allowed"])
        self.assertEqual((Material.objects.count(), TakenIn.objects.count(), KeptFile.objects.count()), (before, 0, 0))

    def test_a_file_that_another_keeps_stays_when_its_bytes_are_handed_in(self):
        data = stl_of(np.eye(3)[None])
        kept = library.put_in(self.stranger, "mesh", ContentFile(data, name="vase.glb"))
        self.put_in(data, "vase.glb")
        self.assertTrue(is_kept(kept.sha256))
        self.put_in(b"nothing", "vase.glb")
        with self.assertRaises(Refused):
            library.put_in(self.keeper, "texture", ContentFile(data, name="vase.png"))
        self.assertTrue(is_kept(kept.sha256))

    def test_the_same_file_may_be_handed_in_by_many_at_once(self):
        data = json.dumps(demo("net-float")).encode()
        with ThreadPoolExecutor(4) as many:
            answers = list(many.map(lambda _: self.put_in_by_a_thread(data), range(4)))
        self.assertEqual(answers, [201] * 4)

    def put_in_by_a_thread(self, data: bytes) -> int:
        try:
            other = Client()
            other.force_login(self.keeper)
            return self.put_in(data, "float.json", other).status_code
        finally:
            connection.close()

    def test_a_material_of_an_older_version_keeps_its_report(self):
        older = {"format": "nineglass.material", "version": 1, "name": "Old", "section": demo("net-float")["section"]}
        made = self.put_in(json.dumps(older).encode(), "old.json").json()
        self.assertEqual(made["material"]["document"]["version"], 2)
        lines = made["taken_in"]["report"]["lines"]
        self.assertTrue(any("modules" in line["what"] for line in lines))
        self.assertEqual(
            self.client.get(f"/api/handovers/in/{made['material']['id']}").json()["report"]["lines"], lines
        )

    def test_one_that_is_kept_in_an_older_version_tells_what_was_changed_also_after_it_was_saved(self):
        kept = self.keep("net-float")
        older = {"format": "nineglass.material", "version": 1, "name": "Old", "section": demo("net-float")["section"]}
        Material.objects.filter(id=kept.id).update(document=older)
        kept.revisions.update(document=older)
        path = f"/api/materials/{kept.id}"
        opened = self.client.get(path).json()
        self.assertTrue(opened["was_older"])
        read = f"/api/handovers/in/{kept.id}"
        lines = self.client.get(read).json()["report"]["lines"]
        self.assertTrue(any("modules" in line["what"] for line in lines))
        body = {"based_on": 1, "document": opened["document"] | {"name": "New"}}
        saved = self.client.put(path, json.dumps(body), "application/json").json()
        self.assertEqual((saved["revision"], saved["was_older"]), (2, False))
        self.assertEqual(self.client.get(read).json()["report"]["lines"], lines)

    def test_a_stage_of_another_program_stands_as_one_of_the_persons_own(self):
        made = self.put_in(HAND.encode(), "desk.usda").json()
        lines = {line["what"]: line["went"] for line in made["taken_in"]["report"]["lines"]}
        self.assertEqual((lines["box"], lines["Camera"], lines["Materials"]), ("exactly", "exactly", "not"))
        standing = Standing.objects.get(material=made["material"]["id"])
        [one] = standing.stage.document["objects"]
        mesh = KeptFile.objects.get(sha256=one["form"]["dials"]["file"])
        self.assertEqual((mesh.owner, mesh.kind, mesh.facts["triangles"]), (self.keeper, "mesh", 12))

    def test_a_stage_goes_out_and_comes_in_with_what_stands_there(self):
        handed = self.post(self.keep("net-float"), format="usd").json()
        data = b"".join(self.client.get(handed["file"]).streaming_content)
        made = self.put_in(data, "stage.zip").json()
        stage = Standing.objects.get(material=made["material"]["id"]).stage
        self.assertEqual(stage.document["lamps"][0]["kind"], demo("window-bench")["lamps"][0]["kind"])

    def test_where_there_is_no_room_for_its_pictures_nothing_comes_in(self):
        handed = self.post(self.keep("scratched-beaker")).json()
        data = b"".join(self.client.get(handed["file"]).streaming_content)
        before = Material.objects.count()
        with override_settings(MOST_FILES=0):
            self.assertEqual(self.put_in(data).status_code, 422)
        self.assertEqual((Material.objects.count(), TakenIn.objects.count()), (before, 0))
        self.assertEqual(services.of(self.keeper).count(), 1)
