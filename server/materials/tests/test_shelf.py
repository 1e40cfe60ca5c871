import json
from datetime import timedelta
from unittest import mock

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase, override_settings
from django.utils import timezone
from nineglass import warm
from nineglass.documents import model as documents
from nineglass.trace.render import Tracer

from materials import portraits, services
from materials.models import Material


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class TwoOnTheShelf(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.keeper, stranger = people.create_user("keeper"), people.create_user("stranger")
        self.client.force_login(self.keeper)
        self.other = Client()
        self.other.force_login(stranger)
        self.float, self.ink = (
            services.create(self.keeper, documents.read(documents.Material, demo(name)))
            for name in ("net-float", "ink")
        )
        self.path = f"/api/materials/{self.float.id}"

    def names(self, path="/api/materials") -> list[str]:
        return [one["name"] for one in self.client.get(path).json()]


class Shelf(TwoOnTheShelf):
    def test_each_is_told_by_family_and_what_it_is_made_of(self):
        ink, net = self.client.get("/api/materials").json()
        self.assertEqual((ink["family"], net["family"]), ("liquid", "glass"))
        self.assertIn("iron gall", ink["made_of"])
        self.assertEqual((ink["picture"], ink["is_current"]), (None, False))

    def test_what_is_put_away_can_be_brought_back_for_30_days(self):
        self.assertEqual(self.client.delete(self.path).status_code, 204)
        self.assertEqual(self.names(), ["Ink, blue-black"])
        self.assertEqual(self.names("/api/materials/put-away"), ["Net float"])
        self.assertEqual(self.client.post(f"{self.path}/bring-back").status_code, 200)
        self.assertEqual(len(self.names()), 2)
        self.client.delete(self.path)
        Material.objects.filter(id=self.float.id).update(deleted_at=timezone.now() - timedelta(days=31))
        self.assertEqual(self.client.post(f"{self.path}/bring-back").status_code, 404)
        self.assertEqual(self.names("/api/materials/put-away"), [])
        services.create(self.keeper, documents.read(documents.Material, demo("jade")))
        self.assertFalse(Material.objects.filter(id=self.float.id).exists())

    def test_the_last_material_stays(self):
        self.client.delete(self.path)
        refused = self.client.delete(f"/api/materials/{self.ink.id}")
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(self.names(), ["Ink, blue-black"])

    def test_the_same_matter_under_another_name_is_alike(self):
        copied = documents.read(documents.Material, demo("net-float") | {"name": "Float, copy"})
        services.create(self.keeper, copied)
        lines = {one["name"]: one["likeness"] for one in self.client.get("/api/materials").json()}
        self.assertEqual(lines["Float, copy"], lines["Net float"])
        self.assertNotEqual(lines["Float, copy"], lines["Ink, blue-black"])

    def test_tags_are_words(self):
        answer = self.client.put(
            f"{self.path}/tags", json.dumps({"tags": [" Wet ", "wet", "", "sea"]}), "application/json"
        )
        self.assertEqual(answer.json()["tags"], ["wet", "sea"])

    def test_others_can_do_nothing_with_it(self):
        self.assertEqual(self.other.delete(self.path).status_code, 404)
        self.assertEqual(self.other.post(f"{self.path}/bring-back").status_code, 404)
        tags = json.dumps({"tags": ["mine"]})
        self.assertEqual(self.other.put(f"{self.path}/tags", tags, "application/json").status_code, 404)
        portraits.MATERIALS.make(self.float, Tracer(1))
        picture = self.client.get("/api/materials").json()[1]["picture"]
        self.assertEqual(self.other.get(picture).status_code, 404)
        self.assertEqual(self.other.get("/api/materials/put-away").json(), [])


class Portraits(TwoOnTheShelf):
    def test_pictures_are_made_and_kept_current(self):
        with mock.patch.object(warm, "progress", return_value=(1, 1)):
            self.assertEqual(portraits.make_all([portraits.MATERIALS]), 2)
            self.assertEqual(portraits.make_all([portraits.MATERIALS]), 0)
        ink, net = self.client.get("/api/materials").json()
        self.assertTrue(ink["is_current"] and net["is_current"])
        self.assertIn("green", net["color"])
        picture = self.client.get(net["picture"])
        self.assertEqual((picture.status_code, picture["Content-Type"]), (200, "image/jpeg"))
        changed = documents.read(documents.Material, demo("net-float") | {"name": "Float"})
        services.save(self.keeper, self.float.id, 1, changed)
        (again,) = [one for one in self.client.get("/api/materials").json() if one["name"] == "Float"]
        self.assertFalse(again["is_current"])
        self.assertEqual(again["picture"], net["picture"], "the old one is shown as long as there is no other")

    def test_a_process_that_ends_again_and_again_is_not_begun_for_ever(self):
        with (
            override_settings(MAKES_PORTRAITS=True),
            mock.patch.multiple(portraits, _under_way=None, _deaths=0),
            mock.patch.object(portraits.subprocess, "Popen") as begun,
        ):
            begun.return_value.poll.return_value = -11
            for _ in range(10):
                portraits.begin()
            self.assertEqual(begun.call_count, portraits.MOST_DEATHS)

    def test_one_that_cannot_be_made_does_not_stop_the_others(self):
        Material.objects.filter(id=self.ink.id).update(document={"section": "broken"})
        with mock.patch.object(warm, "progress", return_value=(1, 1)), self.assertLogs("materials.portraits", "ERROR"):
            self.assertEqual(portraits.make_all([portraits.MATERIALS]), 1)
            self.assertEqual(portraits.make_all([portraits.MATERIALS]), 0, "it is left out until it changes")
