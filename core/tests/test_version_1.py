"""Files of the first version, as the first demo had them: they must open for good."""

import json
from pathlib import Path

import numpy as np
from django.test import SimpleTestCase
from nineglass.documents.migrations import migrated
from nineglass.documents.model import Material, Stage, read

from tests.scenes import render

FILES = sorted((Path(__file__).parent / "version_1").glob("*.json"))


class FirstFiles(SimpleTestCase):
    def of(self, kind: str) -> dict:
        found = {path.stem: json.loads(path.read_text()) for path in FILES}
        return {name: one for name, one in found.items() if one["format"] == f"nineglass.{kind}"}

    def test_materials_open_as_they_were(self):
        for name, given in self.of("material").items():
            with self.subTest(material=name):
                document = read(Material, given)
                self.assertEqual([b.id for b in document.section.bands], [b["id"] for b in given["section"]["bands"]])
                self.assertEqual({b.side for b in document.section.bands}, {"both"})
                self.assertEqual(len(document.wires), len(given.get("wires", [])))
                for band, old in zip(document.section.bands, given["section"]["bands"], strict=True):
                    self.assertEqual(band.dials, old.get("dials", {}))

    def test_stages_are_brought_up_with_a_report(self):
        for name, given in self.of("stage").items():
            with self.subTest(stage=name):
                newer, report = migrated(given)
                self.assertEqual(newer["version"], 2)
                self.assertTrue(report)
                stage = read(Stage, given)
                self.assertEqual(stage.objects[0].form.kind, given["form"]["kind"])
                self.assertEqual(len(stage.lamps), len(given["lamps"]))

    def test_they_render(self):
        material = read(Material, self.of("material")["net-float"])
        stage = read(Stage, self.of("stage")["window-bench"])
        rgb = render(material, stage, side=32, samples=8).rgb()
        self.assertTrue(np.isfinite(rgb).all())
        middle = rgb[12:20, 12:20].mean(axis=(0, 1))
        self.assertGreater(middle[1], middle[0], "bottle glass is greener than red")
