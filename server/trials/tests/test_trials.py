import csv
import io
import json

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from materials import services as materials
from nineglass.documents import model as documents
from nineglass.documents.trials import read_trial

from trials import services
from trials.models import Trial

PNG = b"\x89PNG\r\n\x1a\n"


def demo(name: str) -> dict:
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class Kept(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.keeper, stranger = people.create_user("keeper"), people.create_user("stranger")
        self.client.force_login(self.keeper)
        self.other = Client()
        self.other.force_login(stranger)
        self.material = materials.create(self.keeper, documents.read(documents.Material, demo("net-float")))
        across = {
            "kind": "dial",
            "part": "interior",
            "dial": "transmission_depth",
            "values": [1, 2],
            "label": "Depth",
            "unit": "cm",
        }
        self.given = {
            "name": "Depths",
            "material": demo("net-float"),
            "stage": demo("window-bench"),
            "across": across,
        }
        self.trial = services.keep(
            self.keeper, self.material.id, read_trial(self.given), PNG, [[0.1, 0.2, 0.3]] * 2, [0.05, 0.06]
        )

    def test_a_kept_trial_is_listed_with_its_axes_and_goes_out(self):
        (one,) = self.client.get(f"/api/trials?material_id={self.material.id}").json()
        self.assertEqual((one["name"], one["across"]["values"], one["down"]), ("Depths", [1, 2], None))
        self.assertEqual(one["means"][1], [0.1, 0.2, 0.3])
        self.assertEqual(self.client.get(one["picture"]).content, PNG)
        rows = list(csv.reader(io.StringIO(self.client.get(one["table"]).content.decode())))
        self.assertEqual([row[0] for row in rows], ["Depth", "1 cm", "2 cm"])

    def test_others_find_nothing(self):
        self.assertEqual(self.other.get(f"/api/trials?material_id={self.material.id}").json(), [])
        for path in (f"/trials/{self.trial.id}/sheet.png", f"/trials/{self.trial.id}/table.csv"):
            self.assertEqual(self.other.get(path).status_code, 404)
            self.assertNotEqual(Client().get(path).status_code, 200)
        self.assertEqual(self.other.delete(f"/api/trials/{self.trial.id}").status_code, 404)
        self.assertTrue(Trial.objects.filter(id=self.trial.id).exists())

    def test_one_is_removed(self):
        self.assertEqual(self.client.delete(f"/api/trials/{self.trial.id}").status_code, 204)
        self.assertFalse(Trial.objects.exists())

    def post(self, path: str, body: dict):
        return self.client.post(f"/api/trials/{path}", json.dumps(body), "application/json")

    def test_what_is_always_tried(self):
        names = [one["name"] for one in self.post("ready", {"material": demo("net-float")}).json()]
        self.assertIn("Hue against depth", names)
        self.assertIn("Index against dispersion", names)
        self.assertEqual(names[-1], "Stands up?")

    def test_the_documents_of_one_picture(self):
        found = self.post("cell", {"trial": self.given, "row": 0, "column": 1}).json()
        (interior,) = [one for one in found["material"]["section"]["bands"] if one["id"] == "interior"]
        self.assertEqual(interior["dials"]["transmission_depth"], 2)
        refused = self.post("cell", {"trial": self.given, "row": 1, "column": 1})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("no such picture", refused.json()["faults"][0]["fault"])

    def test_two_swatches_are_solved(self):
        thin, thick = {"color": [0.9, 0.6, 0.2], "depth": 0.5}, {"color": [0.5, 0.05, 0.0], "depth": 3}
        found = self.post("solve", {"first": thin, "second": thick}).json()
        self.assertEqual((found["band"], found["dials"]["transmission_depth"]), ("interior", 0.5))
        self.assertEqual(len(found["colors"]), 2)
        refused = self.post("solve", {"first": thin, "second": thick | {"depth": 0.5}})
        self.assertEqual((refused.status_code, refused.json()["faults"][0]["path"]), (422, "second.depth"))
        self.assertEqual(self.post("solve", {"first": thin, "second": thick | {"depth": -1}}).status_code, 422)

    def test_how_far_colours_are_apart(self):
        pairs = [
            {"first": [0.2, 0.2, 0.2], "second": [0.2, 0.2, 0.2]},
            {"first": [0.5, 0.1, 0.1], "second": [0.1, 0.1, 0.5]},
        ]
        same, other = self.post("differences", {"pairs": pairs}).json()
        self.assertEqual((same["delta_e"], same["says"]), (0, "alike"))
        self.assertGreater(other["delta_e"], 20)
        self.assertIn("redder", other["says"])
