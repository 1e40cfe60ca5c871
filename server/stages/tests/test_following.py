import json
import uuid

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import TestCase
from library.access import CHANGE, LOOK
from materials import services
from nineglass.documents import model as documents

from stages.models import Stage


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class Following(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.keeper, self.stranger = people.create_user("keeper"), people.create_user("stranger")
        self.client.force_login(self.keeper)
        self.net = services.create(self.keeper, documents.read(documents.Material, demo("net-float")))
        self.hers = services.create(self.stranger, documents.read(documents.Material, demo("ink")))

    def stage_that_follows(self, name: str) -> Stage:
        document = demo("lamp-room")
        document["objects"][0]["wears"] = {"body": {"material": demo("cordial"), "follows": name}}
        document = documents.read(documents.Stage, document).model_dump(mode="json")
        return Stage.objects.create(owner=self.keeper, name="Follows", document=document)

    def worn(self, stage: Stage) -> str:
        one = self.client.get(f"/api/stages/{stage.id}").json()
        listed = next(s for s in self.client.get("/api/stages").json() if s["id"] == str(stage.id))
        self.assertEqual(one["document"], listed["document"])
        return one["document"]["objects"][0]["wears"]["body"]["material"]["name"]

    def test_what_is_worn_is_the_newest(self):
        stage = self.stage_that_follows(str(self.net.id))
        self.assertEqual(self.worn(stage), "Net float")
        changed = documents.read(documents.Material, demo("net-float") | {"name": "Float, green"})
        services.save(self.keeper, self.net.id, 1, changed)
        self.assertEqual(self.worn(stage), "Float, green")
        stage.refresh_from_db()
        self.assertEqual(
            (stage.revision, stage.document["objects"][0]["wears"]["body"]["material"]["name"]), (1, "Rosehip cordial")
        )

    def test_the_copy_stays_when_that_is_put_away(self):
        stage = self.stage_that_follows(str(self.net.id))
        self.client.delete(f"/api/materials/{self.net.id}")
        services.create(self.keeper, documents.read(documents.Material, demo("ink")))
        self.client.delete(f"/api/materials/{self.net.id}")
        self.assertEqual(self.worn(stage), "Rosehip cordial")

    def test_nobody_sees_what_is_another_s(self):
        self.assertEqual(self.worn(self.stage_that_follows(str(self.hers.id))), "Rosehip cordial")

    def test_who_may_change_a_stage_sees_nothing_of_its_owner_s_by_it(self):
        stage = self.stage_that_follows(str(self.net.id))
        stage.shares.create(person=self.stranger, may=CHANGE)
        self.client.force_login(self.stranger)
        self.assertEqual(self.worn(stage), "Rosehip cordial")
        self.net.shares.create(person=self.stranger, may=LOOK)
        self.assertEqual(self.worn(stage), "Net float")

    def test_names_of_nothing_are_left_alone(self):
        for name in (str(uuid.uuid4()), "nobody", "'; --"):
            self.assertEqual(self.worn(self.stage_that_follows(name)), "Rosehip cordial")
