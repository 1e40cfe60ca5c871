"""Bands, sections and colours that are kept to begin with."""

import json

from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from nineglass.catalogue import BANDS

COAT = {"id": "coat", "kind": "coat", "dials": {"coat_roughness": 0.2}}
NUMBER = {"id": "n", "kind": "number", "dials": {"value": 0.4}}
WIRE = {"source": {"slip": "n"}, "target": {"part": "coat", "dial": "coat_roughness"}}


def section(*bands, **about) -> dict:
    return {"name": "Varnish", "section": {"bands": list(bands)}, **about}


class Kept(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.client.force_login(people.create_user("someone"))
        self.other = Client()
        self.other.force_login(people.create_user("stranger"))

    def post(self, path: str, given: dict):
        return self.client.post(f"/api/{path}", json.dumps(given), "application/json")

    def keep(self, document: dict, is_whole=False):
        return self.post("presets", {"is_whole": is_whole, "document": document})

    def test_a_band_with_what_drives_it(self):
        answer = self.keep(section(COAT, slips=[NUMBER], wires=[WIRE]))
        self.assertEqual(answer.status_code, 201, answer.content)
        [kept] = self.client.get("/api/presets").json()
        self.assertEqual((kept["name"], kept["is_whole"]), ("Varnish", False))
        self.assertEqual(kept["document"]["wires"][0]["target"]["part"], "coat")

    def test_every_kind_of_band_can_be_kept_by_itself(self):
        for kind in BANDS.kinds:
            answer = self.keep(section({"id": "band", "kind": kind}))
            self.assertEqual(answer.status_code, 201, (kind, answer.content))

    def test_two_bands_are_a_section(self):
        both = section(COAT, {"id": "body", "kind": "body"})
        self.assertIn("one band", self.keep(both).json()["faults"][0]["fault"])
        self.assertEqual(self.keep(both, is_whole=True).status_code, 201)

    def test_what_is_wrong_with_it_is_named(self):
        answer = self.keep(section(COAT | {"dials": {"coat_roughness": 7}}))
        self.assertEqual(answer.status_code, 422)
        self.assertIn("coat_roughness", answer.json()["faults"][0]["path"])

    def test_colours(self):
        swatch = self.post("swatches", {"name": " Rim ", "color": [0.1, 0.2, 1.4]}).json()
        self.assertEqual((swatch["name"], swatch["color"]), ("Rim", [0.1, 0.2, 1.4]))
        self.assertEqual(self.post("swatches", {"name": "x", "color": [-1, 0, 0]}).status_code, 422)
        self.assertEqual([one["name"] for one in self.client.get("/api/swatches").json()], ["Rim"])

    def test_strangers_see_and_remove_nothing(self):
        preset = self.keep(section(COAT)).json()["id"]
        swatch = self.post("swatches", {"name": "Rim", "color": [0.1, 0.2, 0.3]}).json()["id"]
        for path, one in (("presets", preset), ("swatches", swatch)):
            self.assertEqual(self.other.get(f"/api/{path}").json(), [])
            self.assertEqual(self.other.delete(f"/api/{path}/{one}").status_code, 404)
            self.assertEqual(self.client.delete(f"/api/{path}/{one}").status_code, 204)
            self.assertEqual(self.client.get(f"/api/{path}").json(), [])
