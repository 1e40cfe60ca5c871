import json
from io import StringIO

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.test import Client, TestCase
from materials.models import Material

from stages.models import Stage


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
        again = self.client.put(path, json.dumps(body), "application/json")
        self.assertEqual((again.status_code, again.json()["newest"]["revision"]), (409, 2))
        bad = {"based_on": 2, "document": document | {"form": {"kind": "teapot"}}}
        self.assertEqual(
            self.client.put(path, json.dumps(bad), "application/json").json()["faults"][0]["path"], "form.kind"
        )
        other = Client()
        other.force_login(get_user_model().objects.create_user("stranger"))
        self.assertEqual(other.get(path).status_code, 404)
        self.assertEqual(other.put(path, json.dumps(body | {"based_on": 2}), "application/json").status_code, 404)
