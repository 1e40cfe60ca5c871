"""Scans run by the clock: they go on by themselves, can be stopped, and are their owner's alone."""

import json
from datetime import timedelta

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client, TestCase
from django.utils import timezone
from nineglass.devices.spectrophotometer import SOLVENT
from nineglass.matter.curve_files import read_curve

from devices.models import Scan


class Scans(TestCase):
    def setUp(self):
        people = get_user_model().objects
        self.client.force_login(people.create_user("keeper"))
        self.other = Client()
        self.other.force_login(people.create_user("stranger"))

    def begin(self, expects: int = 201, **dials):
        made = self.client.post(
            "/api/devices/scans", json.dumps({"device": "spectrophotometer", "dials": dials}), "application/json"
        )
        self.assertEqual(made.status_code, expects, made.content)
        return made.json()

    def later(self, seconds: float):
        for scan in Scan.objects.all():
            Scan.objects.filter(id=scan.id).update(began_at=scan.began_at - timedelta(seconds=seconds))

    def scans(self) -> list[dict]:
        return self.client.get("/api/devices/scans").json()

    def test_it_reads_one_wavelength_after_another_and_ends(self):
        self.assertEqual(len(self.begin(sample="madder rinse")["places"]), 0)
        self.later(2)
        (half,) = self.scans()
        self.assertTrue(20 < len(half["places"]) < half["of_places"])
        self.assertGreater(half["seconds_left"], 0)
        self.later(60)
        (whole,) = self.scans()
        self.assertEqual((len(whole["places"]), whole["seconds_left"]), (81, 0))
        self.assertEqual(whole["absorbance"][:20], half["absorbance"][:20])

    def test_one_at_a_time_and_it_can_be_stopped(self):
        first = self.begin(sample="madder rinse")
        self.assertIn("still reading", self.begin(422, sample=SOLVENT)["faults"][0]["fault"])
        self.later(1)
        stopped = self.client.post(f"/api/devices/scans/{first['id']}/stop").json()
        self.later(0)
        self.assertEqual(stopped["seconds_left"], 0)
        self.assertEqual(len(self.scans()[0]["places"]), len(stopped["places"]))
        self.begin(sample=SOLVENT)

    def test_a_whole_baseline_before_it_is_taken_off(self):
        water = self.begin(sample=SOLVENT)
        self.later(10)
        self.begin(sample="dog rose cordial")
        self.later(10)
        newest, _ = self.scans()
        self.assertEqual(newest["baseline"], water["id"])

    def test_what_was_read_goes_out_and_into_a_material(self):
        scan = self.begin(sample="keeper's ink", cuvette="2 mm")
        self.assertEqual(self.client.get(f"/devices/scans/{scan['id']}.png").status_code, 404)
        self.later(10)
        for ending in ("csv", "spdx"):
            text = self.client.get(f"/devices/scans/{scan['id']}.{ending}").content.decode()
            self.assertEqual(len(read_curve(text)), 81)
        found = self.client.get(f"/api/devices/scans/{scan['id']}/dials").json()
        self.assertEqual((found["band"], found["dials"]["transmission_depth"]), ("interior", 0.2))
        self.assertEqual(len(found["dials"]["transmittance"]), 81)
        material = {"name": "Ink", "section": {"bands": [{"id": "interior", "kind": "interior", "dials": {}}]}}
        address = f"/api/devices/scans/{scan['id']}/dye"
        dye = self.client.post(address, json.dumps(material), "application/json").json()
        self.assertEqual((dye["band"], len(dye["dials"]["own_1"])), ("interior", 81))
        full = {"absorption": "dyes"} | {f"dye_{number}": "woad" for number in (1, 2, 3, 4)}
        material["section"]["bands"][0]["dials"] = full
        refused = self.client.post(address, json.dumps(material), "application/json")
        self.assertEqual((refused.status_code, refused.json()["faults"][0]["path"]), (422, "interior"))

    def test_readings_are_held_against_each_other(self):
        for dials in ({"sample": SOLVENT}, {"sample": "keeper's ink"}, {"sample": "keeper's ink", "cuvette": "2 mm"}):
            self.begin(**dials)
            self.later(10)
        short, long, _ = (scan["id"] for scan in self.scans())
        told = self.client.get(f"/api/devices/scans/compared?of={short}&of={long}&for_1_cm=true").json()
        self.assertEqual([curve["label"] for curve in told["curves"]], ["keeper's ink, 2 mm", "keeper's ink, 10 mm"])
        self.assertEqual(len(told["places"]), 81)
        self.assertIn("stray light", told["says"])
        self.assertEqual(self.other.get(f"/api/devices/scans/compared?of={short}").status_code, 404)
        self.assertEqual(self.client.get("/api/devices/scans/compared").status_code, 422)

    def test_bad_dials_and_others_get_nothing(self):
        self.assertIn("sample", self.begin(422, sample="gold")["faults"][0]["path"])
        scan = self.begin(sample=SOLVENT)
        self.assertEqual(self.other.get("/api/devices/scans").json(), [])
        self.assertEqual(self.other.get(f"/devices/scans/{scan['id']}.csv").status_code, 404)
        self.assertEqual(self.other.post(f"/api/devices/scans/{scan['id']}/stop").status_code, 404)
        self.assertEqual(self.other.delete(f"/api/devices/scans/{scan['id']}").status_code, 404)
        self.assertNotEqual(Client().get("/api/devices/scans").status_code, 200)
        self.assertTrue(Scan.objects.filter(id=scan["id"]).exists())
        self.assertLess(Scan.objects.get().began_at, timezone.now())


class Light(TestCase):
    def setUp(self):
        self.client.force_login(get_user_model().objects.create_user("keeper"))
        self.stage = json.loads((settings.DEMO_DIR / "window-bench.json").read_text())

    def read(self, **dials):
        body = json.dumps({"stage": self.stage, "dials": dials})
        return self.client.post("/api/devices/light", body, "application/json")

    def test_it_shows_lux_and_kelvin_of_a_stage_that_need_not_be_kept(self):
        shown = self.read(head="up").json()
        self.assertGreater(shown["lux"], 1)
        self.assertIn(" lx, ", shown["says"])
        self.assertEqual(len(shown["places"]), len(shown["irradiance"]))
        self.stage["lamps"] = []
        self.assertLess(self.read(head="up").json()["lux"], shown["lux"])

    def test_faults_name_the_dial(self):
        self.assertIn("head", self.read(head="inwards").json()["faults"][0]["path"])

    def test_it_is_no_device_for_samples(self):
        refused = self.client.post("/api/devices/scans", json.dumps({"device": "light_meter"}), "application/json")
        self.assertEqual((refused.status_code, refused.json()["faults"][0]["path"]), (422, "device"))
