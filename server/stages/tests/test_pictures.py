"""Pictures of stages: made behind, kept current, with what stood there last."""

import json
from unittest import mock

from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from materials import portraits, services
from nineglass import warm
from nineglass.documents import model as documents

from stages.models import Stage, Standing
from stages.pictures import STAGES

RED = {
    "name": "Red",
    "section": {"bands": [{"id": "body", "kind": "body", "dials": {"base_color": [0.8, 0.02, 0.02]}}]},
}


class Pictures(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.keeper = people.create_user("keeper")
        self.client.force_login(self.keeper)
        self.other = Client()
        self.other.force_login(people.create_user("other"))
        document = documents.plain_documents()["stage"].model_dump(mode="json") | {"name": "Table"}
        self.stage = Stage.objects.create(owner=self.keeper, name="Table", document=document)

    def make(self) -> int:
        with mock.patch.object(warm, "progress", return_value=(1, 1)):
            return portraits.make_all([STAGES])

    def line(self) -> dict:
        return self.client.get("/api/stages/pictures").json()[0]

    def test_they_are_made_once_and_again_when_the_stage_is_saved(self):
        self.assertIsNone(self.line()["picture"])
        self.assertEqual((self.make(), self.make()), (1, 0))
        self.assertTrue(self.line()["is_current"])
        self.assertEqual(self.client.get(self.line()["picture"])["Content-Type"], "image/jpeg")
        self.assertEqual(self.other.get(self.line()["picture"]).status_code, 404)
        self.assertEqual(self.other.get("/api/stages/pictures").json(), [])
        body = {"based_on": 1, "document": self.stage.document | {"name": "Desk"}}
        self.client.put(f"/api/stages/{self.stage.id}", json.dumps(body), "application/json")
        self.assertFalse(self.line()["is_current"])
        self.assertEqual(self.make(), 1)

    def test_they_show_what_stood_there_last(self):
        material = services.create(self.keeper, documents.read(documents.Material, RED))
        looker = get_user_model().objects.get(username="other")
        unseen = services.create(looker, documents.read(documents.Material, RED | {"name": "A looker's own"}))
        Standing.objects.create(person=self.stage.owner, material=material, stage=self.stage)
        Standing.objects.create(person=looker, material=unseen, stage=self.stage)
        makes = mock.patch("nineglass.trials.portraits.portrait_of_stage", side_effect=ValueError)
        with makes as made, self.assertLogs("materials.portraits", "ERROR"):
            self.make()
        self.assertEqual(made.call_args.args[0].name, "Red")
        self.assertTrue(self.line()["is_current"], "one that cannot be made is left out until it changes")
