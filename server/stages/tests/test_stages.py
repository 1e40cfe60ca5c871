import json
from io import StringIO
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.test import Client, TestCase
from library.models import KeptModule
from materials.models import Material

from stages.models import Stage, Standing


class Demo(TestCase):
    def setUp(self):
        call_command("demo", stdout=StringIO())
        self.person = get_user_model().objects.get(username="keeper")
        self.client.force_login(self.person)

    def test_fills_in_once(self):
        call_command("demo", stdout=StringIO())
        self.assertEqual(Material.objects.filter(name="Net float").count(), 1)
        names = [stage["name"] for stage in self.client.get("/api/stages").json()]
        self.assertEqual(len(names), len(set(names)))
        self.assertIn("Lamp room", names)

    def test_materials_share_a_placing_by_the_library(self):
        [kept] = KeptModule.objects.filter(name="Plank placing")
        for name in ("Driftwood box", "Driftwood lid"):
            [module] = Material.objects.get(name=name).document["modules"]
            self.assertEqual(module["kept"], {"id": str(kept.id), "revision": 1})
            self.assertEqual(module["slips"], kept.document["modules"][0]["slips"])

    def test_keeps_what_the_person_changed(self):
        Material.objects.update(revision=7)
        call_command("demo", stdout=StringIO())
        self.assertEqual(Material.objects.get(name="Net float").revision, 7)

    def test_a_stage_is_saved_by_its_owner_on_its_newest_revision(self):
        stage = Stage.objects.get(name="Lamp room")
        path = f"/api/stages/{stage.id}"
        document = stage.document | {"turn": 30.0}
        body = {"based_on": 1, "document": document}
        self.assertEqual(self.client.put(path, json.dumps(body), "application/json").json()["revision"], 2)
        self.assertEqual(self.client.get(path).json()["document"]["turn"], 30.0)
        again = self.client.put(path, json.dumps(body | {"document": document | {"turn": 60.0}}), "application/json")
        self.assertEqual((again.status_code, again.json()["newest"]["revision"]), (409, 2))
        self.assertEqual(again.json()["both"], ["turn"])
        bad = {"based_on": 2, "document": document | {"objects": [{"id": "form", "form": {"kind": "teapot"}}]}}
        self.assertEqual(
            self.client.put(path, json.dumps(bad), "application/json").json()["faults"][0]["path"],
            "objects[0].form.kind",
        )
        other = Client()
        other.force_login(get_user_model().objects.create_user("stranger"))
        self.assertEqual(other.get(path).status_code, 404)
        self.assertEqual(other.put(path, json.dumps(body | {"based_on": 2}), "application/json").status_code, 404)

    def test_saves_that_change_different_parts_are_put_together(self):
        stage = Stage.objects.get(name="Lamp room")
        path, lamps = f"/api/stages/{stage.id}", stage.document["lamps"]
        moved = [lamps[0] | {"name": "Mine"}, *lamps[1:]]
        saved = [
            self.client.put(path, json.dumps({"based_on": 1, "document": stage.document | about}), "application/json")
            for about in ({"turn": 30.0}, {"lamps": moved}, {"view": "film"})
        ]
        self.assertEqual([one.json()["is_merged"] for one in saved], [False, True, True])
        document = saved[-1].json()["document"]
        self.assertEqual((document["turn"], document["view"]), (30.0, "film"))
        self.assertEqual(document["lamps"][0]["name"], "Mine")
        self.assertEqual(self.client.get(path).json()["revision"], 4)

    def test_only_so_many_revisions_are_kept(self):
        stage = Stage.objects.get(name="Lamp room")
        with mock.patch("stages.services.KEPT_REVISIONS", 3):
            for k in range(6):
                document = stage.document | {"turn": float(k)}
                body = {"based_on": k + 1, "document": document}
                self.client.put(f"/api/stages/{stage.id}", json.dumps(body), "application/json")
        self.assertEqual(sorted(stage.revisions.values_list("number", flat=True)), [5, 6, 7])

    def test_a_material_opens_on_the_stage_it_stood_on_last(self):
        caddy, shelf = Material.objects.get(name="Tea caddy"), Stage.objects.get(name="Tea shelf")
        slipway = Stage.objects.get(name="Slipway")

        def stands_on():
            rows = {row["material_id"]: row["stage_id"] for row in self.client.get("/api/stages/standing").json()}
            return rows.get(str(caddy.id))

        self.assertEqual(stands_on(), str(shelf.id))
        path = f"/api/stages/{slipway.id}/standing/{caddy.id}"
        self.assertEqual(self.client.put(path).status_code, 204)
        self.assertEqual(stands_on(), str(slipway.id))
        call_command("demo", stdout=StringIO())
        self.assertEqual(stands_on(), str(slipway.id))
        other = Client()
        other.force_login(get_user_model().objects.create_user("stranger"))
        self.assertEqual(other.put(path).status_code, 404)
        self.assertEqual(other.get("/api/stages/standing").json(), [])
        self.client.delete(f"/api/stages/{slipway.id}")
        self.assertIsNone(stands_on())
        self.assertEqual(Standing.objects.filter(material=caddy).count(), 0)

    def test_a_stage_of_version_one_opens_as_the_newest(self):
        stage = Stage.objects.get(name="Lamp room")
        old = {
            "format": "nineglass.stage",
            "version": 1,
            "name": "Old",
            "form": {"kind": "ball"},
            "surround": {"light": {"kind": "plain"}},
            "camera": {"kind": "camera"},
        }
        Stage.objects.filter(id=stage.id).update(document=old)
        shown = self.client.get(f"/api/stages/{stage.id}").json()["document"]
        self.assertEqual((shown["version"], shown["objects"][0]["form"]["kind"]), (2, "ball"))

    def test_stages_are_copied_and_taken_away_but_for_the_last(self):
        document = Stage.objects.get(name="Lamp room").document | {"name": "Lamp room, copy"}
        made = self.client.post("/api/stages", json.dumps({"document": document}), "application/json")
        self.assertEqual((made.status_code, made.json()["name"]), (201, "Lamp room, copy"))
        self.assertEqual(self.client.delete(f"/api/stages/{made.json()['id']}").status_code, 204)
        Stage.objects.exclude(name="Lamp room").delete()
        last = self.client.delete(f"/api/stages/{Stage.objects.get().id}")
        self.assertEqual(last.status_code, 409)
        self.assertIn("only stage", last.json()["says"])

    def test_the_demo_has_the_four_stages_and_the_matter_of_its_props(self):
        names = {stage["name"] for stage in self.client.get("/api/stages").json()}
        self.assertLessEqual({"Lamp room", "Window bench", "Slipway", "Slate table"}, names)
        made = {one["name"] for one in self.client.get("/api/materials").json()}
        self.assertLessEqual({"Net float", "Ink, blue-black", "Rosehip cordial", "Rock crystal", "Tourmaline"}, made)
