"""Materials handed on: out with a report and what was measured, in with what became of them; lights turned after the picture."""

import json
import re
from pathlib import Path

from django.conf import settings
from materials.models import Material
from nineglass.matter.curve_files import read_curve
from playwright.sync_api import expect
from tests.lengths import LONG

from browser.case import PATIENCE_MS
from browser.sittings import Handing, Scattering

ABOUT = ["web/src/handovers", "web/src/devices", "server/handovers", "server/devices"]

DARK = {"subsurface_color": [0.3, 0.2, 0.1], "subsurface_radius": 0.4}
"""Light goes far in it, and is soon followed."""

WAXEN = {"subsurface_color": [0.8, 0.6, 0.4]} if LONG else DARK

WAX = {
    "format": "nineglass.material",
    "version": 1,
    "name": "Old wax",
    "section": {
        "bands": [
            {"id": "interface", "kind": "interface", "dials": {"specular_ior": 1.45, "specular_roughness": 0.25}},
            {"id": "within", "kind": "subsurface", "dials": WAXEN},
        ]
    },
    "slips": [{"id": "far", "kind": "color", "at": [60, 60], "dials": {"value": [0.9, 0.4, 0.2]}}],
    "wires": [
        {"source": {"slip": "far", "port": "out"}, "target": {"part": "within", "dial": "subsurface_radius_scale"}}
    ],
}


class HandedOn(Handing):
    """A material of an older version is opened and its report read; matched by eye against a proof; sent out, read back, measured; taken in."""

    def test_from_an_old_file_to_a_measured_hand_over_and_back(self):
        page = self.page
        self.go("Library")
        page.get_by_role("tab", name="hand over").click()
        shelf = page.get_by_role("region", name="Hand over")
        self.give(shelf, "old-wax.json", json.dumps(WAX).encode())
        self.go("Library")
        page.get_by_role("tab", name="hand over").click()
        shelf.get_by_role("button", name="Old wax was read of old-wax.json").click()
        read = shelf.get_by_role("region", name="What was read")
        read.get_by_text("modules, mounts").wait_for()
        self.go("Bench")
        self.wait_for_picture(samples=4)
        page.keyboard.press("k")
        page.get_by_role("button", name=re.compile("^proof 1", re.I)).first.wait_for()
        before = self.pixels()
        self.turn("Subsurface", "Mean free path", "1.5", samples=4)
        self.assertGreater(abs(self.pixels() - before).mean(), 0.005, "the wax looks otherwise than its proof")
        page.keyboard.press("Control+z")
        self.wait_for_picture(samples=4)
        self.go("Library")
        page.get_by_role("tab", name="hand over").click()
        shelf.get_by_role("button", name="Write it").click()
        handed = shelf.get_by_role("article", name="Old wax as mtlx")
        handed.get_by_role("region", name="What went over").get_by_text("subsurface_radius_scale").first.wait_for()
        measured = handed.get_by_role("region", name="Measured").get_by_role("figure")
        lights = 3 if LONG else 1
        measured.nth(lights - 1).wait_for(timeout=2 * PATIENCE_MS)
        if LONG:
            expect(measured).to_have_count(3)
        for k in range(lights):
            apart = float(re.search(r"ΔE ([\d.]+)", measured.nth(k).inner_text())[1])
            self.assertLess(apart, 5, measured.nth(k).inner_text())
        self.assertEqual(self.serious_findings(), [])
        with page.expect_download() as coming:
            handed.get_by_role("link", name=re.compile(r"old_wax\.mtlx")).click()
        data = Path(coming.value.path()).read_bytes()
        self.assertIn(b"open_pbr_surface", data)
        self.give(shelf, "again.mtlx", data)
        self.assertEqual(Material.objects.filter(owner=self.person, name="Old wax").count(), 2)

    def test_a_file_that_is_nothing_is_told_and_nothing_is_lost(self):
        self.go("Library")
        self.page.get_by_role("tab", name="hand over").click()
        shelf = self.page.get_by_role("region", name="Hand over")
        count = Material.objects.count()
        self.choose(shelf, "note.zip", b"PK\x03\x04nothing")
        self.page.get_by_text("not a zip that can be read").wait_for()
        self.errors = [one for one in self.errors if "422" not in one]
        self.assertEqual(Material.objects.count(), count)

    def give(self, shelf, name: str, data: bytes):
        """Take a file in, and wait until what was read of it is on the bench."""
        count = Material.objects.count()
        self.choose(shelf, name, data)
        self.until(lambda: Material.objects.count() == count + 1, "it was taken in")
        self.page.get_by_role("navigation", name="Places").get_by_role("link", name="Bench").and_(
            self.page.locator("[aria-current=page]")
        ).wait_for()
        self.wait_for_picture()

    def choose(self, shelf, name: str, data: bytes):
        file = {"name": name, "mimeType": "application/octet-stream", "buffer": data}
        with self.page.expect_response(lambda answer: answer.url.endswith("/api/handovers/in")):
            shelf.get_by_label("A file to take in").set_input_files(files=[file])


class LightsApart(Scattering):
    """Lamps are turned after the picture has settled, and it stays settled."""

    most_samples = 8

    def test_a_lamp_is_turned_at_once_and_the_samples_stay(self):
        page = self.page
        self.stand("Tea caddy")
        page.get_by_role("button", name="Lights apart").click()
        self.wait_until_settled()
        before = self.pixels()
        stage = json.loads((settings.DEMO_DIR / "tea-shelf.json").read_text())
        self.go("Stage")
        page.get_by_role("region", name="Lamps").get_by_role("button", name=stage["lamps"][1]["name"]).first.click()
        power = page.get_by_role("region", name="The chosen part").get_by_role("slider", name="Power")
        self.change(lambda: self.type_into(power, "0.2"), samples=8)
        self.wait_until_settled()
        self.assertLess(self.pixels().mean(), 0.97 * before.mean())
        page.get_by_text("lights nearly").wait_for(state="detached")


class VialMeasured(Scattering):
    """A vial whose dye no label tells is read in two cuvettes; the ink of the jar becomes it."""

    most_samples = 6

    def test_a_vial_is_read_and_its_dye_fills_the_jar(self):
        page = self.page
        self.stand("Ink, blue-black")
        before = self.pixels()
        self.go("Library")
        page.get_by_role("tab", name="desk").click()
        desk = page.get_by_role("region", name="Desk")
        for sample, cuvette in (("clear water", "10 mm"), ("dog rose cordial", "10 mm"), ("dog rose cordial", "1 mm")):
            desk.get_by_label("Sample").select_option(label=sample)
            desk.get_by_label("Cuvette").select_option(label=cuvette)
            desk.get_by_role("button", name="Read it").click()
            desk.get_by_role("status").get_by_role("button", name="stop").wait_for()
            desk.get_by_role("button", name="Read it").wait_for()
        readings = desk.get_by_role("list", name="Readings").get_by_role("checkbox")
        expect(readings).to_have_count(3)
        readings.nth(1).check()
        law = desk.get_by_text(re.compile("^Bouguer's law holds within 5 %")).inner_text()
        # Where there is hardly any colour the noise of a short way tells.
        self.assertGreater(int(re.search(r"at (\d+) %", law)[1]), 20, law)
        self.assertEqual(self.serious_findings(), [])
        desk.get_by_label("Device").select_option(label="Light meter")
        desk.get_by_label("Its head looks").select_option(label="to the front")
        desk.get_by_role("button", name="Read it").click()
        light = desk.get_by_role("list", name="Light read")
        light.get_by_text(re.compile(r"^[\d,.]+ lx, [\d,]+ K$")).wait_for()
        with page.expect_download() as kept:
            light.get_by_role("button", name="SPDX").click()
        self.assertEqual(len(read_curve(Path(kept.value.path()).read_text(), "relative")), 401)
        self.assertEqual(self.serious_findings(), [])
        desk.get_by_label("Device").select_option(label="Spectrophotometer")
        readings.nth(1).check()
        self.change(lambda: desk.get_by_role("button", name="To the interior").click(), samples=6)
        after = self.pixels()
        jar = (slice(228, 300), slice(348, 468))
        redness = [float((one[jar][..., 0] - one[jar][..., 2]).mean()) for one in (before, after)]
        self.assertGreater(redness[1], redness[0] + 0.2, "the ink in the jar is as red as the cordial")
        self.band("Interior").get_by_text("Transmittance").wait_for()
        self.change(lambda: page.keyboard.press("Control+z"), samples=6)
        self.go("Library")
        page.get_by_role("tab", name="desk").click()
        self.change(lambda: desk.get_by_role("button", name="To a dye").click(), samples=6)
        self.band("Interior").get_by_text("Dye 3 lets through").wait_for()
        mixed = self.pixels()[jar].mean(axis=(0, 1))
        self.assertTrue((mixed < before[jar].mean(axis=(0, 1)) + 0.02).all(), "a dye more takes light, and gives none")
