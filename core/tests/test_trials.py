"""Trials: what is turned from picture to picture, evenly made pictures, and what goes out."""

import csv
import io
from unittest import mock

import colour
import numpy as np
from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.trials import DialAxis, StagesAxis, StandsUpAxis, Trial, read_trial, with_channel
from nineglass.spectra.difference import delta_e_2000, delta_e_of, how_apart, to_lab
from nineglass.trials.out import labelled, table
from nineglass.trials.ready import ready_for
from nineglass.trials.sheet import READABLE, SIDE, SIDE_OF_FEW, Sheet, side_for

from tests.scenes import TRACER, demo, stage

DEPTH = {"kind": "dial", "part": "interior", "dial": "transmission_depth", "values": [0.5, 8.0]}
HUE = {"kind": "dial", "part": "interior", "dial": "transmission_color", "channel": "hue", "values": [0.0, 0.33, 0.66]}


def trial(across=None, down=None, **about) -> Trial:
    across = {"kind": "dial"} | across if isinstance(across, dict) else across or DEPTH
    given = {"material": demo("net-float"), "stage": demo("window-bench"), "across": across, "down": down}
    return read_trial(given | about)


def band(material: Material, name: str) -> dict:
    return next(one.dials for one in material.section.bands if one.id == name)


class Axes(SimpleTestCase):
    def test_each_picture_has_its_values(self):
        sheet = trial(DEPTH, HUE)
        self.assertEqual((sheet.rows, sheet.columns), (3, 2))
        material, _ = sheet.cell(2, 1)
        self.assertEqual(band(material, "interior")["transmission_depth"], 8)
        red, green, blue = band(material, "interior")["transmission_color"]
        self.assertTrue(blue > red and blue > green, (red, green, blue))

    def test_a_channel_is_set_and_the_others_stay(self):
        # Reference library: colour-science, RGB to HSV.
        color = [0.2, 0.05, 0.4]
        for channel, place in (("hue", 0), ("saturation", 1), ("brightness", 2)):
            turned = with_channel(color, channel, 0.6)
            before, after = (colour.RGB_to_HSV(colour.cctf_encoding(np.array(one))) for one in (color, turned))
            self.assertAlmostEqual(after[place], 0.6, places=5)
            for other in {0, 1, 2} - {place}:
                self.assertAlmostEqual(after[other], before[other], places=5)

    def test_a_wire_into_what_is_turned_gives_way(self):
        material = read(Material, demo("abalone-film"))
        on_band = next(w.target for w in material.wires if w.target.part in {b.id for b in material.section.bands})
        sheet = trial({"part": on_band.part, "dial": on_band.dial, "values": [0.5]}, material=demo("abalone-film"))
        turned, _ = sheet.cell(0, 0)
        self.assertNotIn((on_band.part, on_band.dial), [(w.target.part, w.target.dial) for w in turned.wires])

    def test_a_dial_of_the_stage(self):
        _, found = trial({"part": "stage:lamps.0", "dial": "power", "values": [3.5]}).cell(0, 0)
        self.assertEqual(found.lamps[0].dials["power"], 3.5)

    def test_what_cannot_be_turned_says_so(self):
        for axis, says in (
            ({"part": "nothing", "dial": "power", "values": [1]}, "no such part"),
            ({"part": "stage:lamps.9", "dial": "power", "values": [1]}, "no such part"),
            ({"part": "interior", "dial": "nothing", "values": [1]}, "no such dial"),
            ({"part": "interior", "dial": "transmission_depth", "channel": "hue", "values": [1]}, "has no hue"),
            ({"part": "interior", "dial": "transmission_depth", "values": [-1]}, "out of range"),
        ):
            with self.assertRaises(Refused) as refused:
                trial(axis).cell(0, 0)
            self.assertIn(says, refused.exception.faults[0].fault)

    def test_a_fault_within_is_told_with_its_path(self):
        broken = demo("net-float")
        broken["section"]["bands"][1]["dials"]["transmission_depth"] = -1
        with self.assertRaises(Refused) as refused:
            trial(material=broken)
        self.assertIn("material.", refused.exception.faults[0].path)

    def test_stands_up_turns_what_it_says(self):
        axis, given = StandsUpAxis(), read(Stage, demo("window-bench"))
        found = {name: axis.at(k, None, given)[1] for k, name in enumerate(axis.steps())}
        self.assertEqual(found["as it is"], given)
        self.assertEqual(found["form turned"].turn, given.turn + 60)
        self.assertGreater(found["more light"].camera.dials["exposure"], found["less light"].camera.dials["exposure"])
        twice, half = (found[name].camera.dials["distance"] for name in ("twice the size", "half the size"))
        self.assertAlmostEqual(twice / half, 4)
        lamps = [one.dials.get("azimuth") for one in found["lamps turned"].lamps]
        self.assertNotEqual(lamps, [one.dials.get("azimuth") for one in given.lamps])
        for one in found.values():
            read(Stage, one.model_dump(mode="json"))

    def test_every_ready_sheet_can_be_made(self):
        for name in ("net-float", "milk-glass", "abalone-film", "copper-hair", "brass-cap", "tea-caddy"):
            for title, across, down in ready_for(read(Material, demo(name))):
                sheet = trial(across, down, name=title, material=demo(name))
                self.assertEqual((sheet.rows, sheet.columns), (5, 5))
                for k in range(5):
                    sheet.cell(k, 4 - k)

    def test_several_stages(self):
        _, second = trial(StagesAxis(stages=[stage("ball"), stage("step_block")])).cell(0, 1)
        self.assertEqual(second.objects[0].form.kind, "step_block")

    def test_several_materials_on_one_stage(self):
        axis = {"kind": "materials", "materials": [demo("net-float"), demo("tallow")]}
        sheet = trial(axis)
        self.assertEqual(sheet.across.steps(), ["Net float", "Tallow"])
        material, on = sheet.cell(0, 1)
        self.assertEqual((material.name, on.name), ("Tallow", "Window bench"))
        self.assertEqual((side_for(sheet), side_for(trial(DEPTH | {"values": [1, 2, 3, 4, 5]}))), (SIDE_OF_FEW, SIDE))

    def test_a_fault_in_one_of_them_is_named_with_its_place(self):
        broken = demo("tallow") | {"wires": [{"source": {"slip": "none"}, "target": {"part": "x", "dial": "y"}}]}
        with self.assertRaises(Refused) as refused:
            trial({"kind": "materials", "materials": [demo("net-float"), broken]})
        self.assertTrue(refused.exception.faults[0].path.startswith("across.materials[1]."))


class Pictures(SimpleTestCase):
    def setUp(self):
        self.trial = read_trial(
            {
                "name": "Depths",
                "material": demo("net-float"),
                "stage": stage("ball", strength=1).model_dump(mode="json"),
                "across": DEPTH | {"values": [0.2, 2, 20], "unit": "cm", "label": "Depth"},
            }
        )
        self.sheet = Sheet(self.trial, side=32)

    def test_pictures_get_their_samples_in_turn_until_all_can_be_judged(self):
        order = [self.sheet.step(TRACER)[0] for _ in range(3)]
        self.assertEqual(order, [0, 1, 2])
        while not self.sheet.readable:
            self.sheet.step(TRACER)
        self.assertTrue(all(noise <= READABLE for noise in self.sheet.noise) or self.sheet.done)
        self.assertLessEqual(max(self.sheet.rounds) - min(self.sheet.rounds), 2)
        # Beer's law: the deeper the dial, the less is absorbed.
        means = [self.sheet.mean(k) for k in range(3)]
        self.assertTrue(means[0][0] < means[1][0] < means[2][0], means)

    def test_pictures_get_no_more_samples_than_they_may(self):
        for most, expected in ((1, 2), (4, 4), (5, 4), (32, 32)):
            sheet = Sheet(self.trial, side=8, readable_at=0, most_samples=most)
            with mock.patch("nineglass.trials.sheet.QUIET", 0):
                while not sheet.done:
                    sheet.step(TRACER)
            self.assertEqual([film.samples() for film in sheet.films], [expected] * 3)

    def test_a_large_sheet_holds_few_sets_and_is_as_if_it_held_all(self):
        with mock.patch("nineglass.trials.sheet.MOST_SETS", 2):
            few = Sheet(self.trial, side=32)
            for _ in range(6):
                few.step(TRACER)
            self.assertEqual(len(few.sets), 2)
        for _ in range(6):
            self.sheet.step(TRACER)
        np.testing.assert_allclose(few.mean(0), self.sheet.mean(0), rtol=1e-5)

    def test_a_sheet_and_a_table_with_labels(self):
        pictures = [np.full((32, 32, 3), 40 * k, np.uint8) for k in range(3)]
        sheet = labelled(self.trial, pictures, [0.01, 0.02, 0.03])
        self.assertEqual(sheet.shape[2], 3)
        for k in range(3):
            self.assertGreater((sheet == 40 * k).all(axis=2).sum(), 900)
        rows = list(csv.reader(io.StringIO(table(self.trial, [[0.1, 0.2, 0.3]] * 3, [0.01] * 3))))
        self.assertEqual(rows[0][0], "Depth")
        self.assertEqual([row[0] for row in rows[1:]], ["0.2 cm", "2 cm", "20 cm"])
        self.assertEqual(float(rows[1][2]), 0.2)


class Differences(SimpleTestCase):
    def test_lab_and_delta_e_2000(self):
        # Reference library: colour-science, 1000 random pairs and greys.
        rng = np.random.default_rng(3)
        first, second = rng.random((2, 1000, 3))
        first[:5], second[:3] = 0.5, 0
        space = colour.RGB_COLOURSPACES["sRGB"]
        theirs = [
            colour.XYZ_to_Lab(colour.RGB_to_XYZ(one, space, apply_cctf_decoding=False), space.whitepoint)
            for one in (first, second)
        ]
        for own, other in zip((first, second), theirs, strict=True):
            np.testing.assert_allclose(to_lab(own), other, atol=0.03)
        np.testing.assert_allclose(delta_e_2000(*theirs), colour.delta_E(*theirs, method="CIE 2000"), atol=1e-6)

    def test_differences_in_words(self):
        self.assertEqual(how_apart([0.2, 0.2, 0.2], [0.2, 0.2, 0.2]), "alike")
        self.assertRegex(how_apart([0.4, 0.2, 0.2], [0.2, 0.2, 0.2]), "lighter by .*redder by")
        self.assertRegex(how_apart([0.1, 0.1, 0.3], [0.3, 0.3, 0.1]), "darker by .*bluer by")

    def test_a_worked_example(self):
        # Sharma, Wu & Dalal 2005, table 1, pairs 1, 7, 17 and 25.
        for first, second, expected in (
            ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
            ((50, 0, 0), (50, -1, 2), 2.3669),
            ((50, 2.5, 0), (73, 25, -18), 27.1492),
            ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
        ):
            self.assertAlmostEqual(float(delta_e_2000(first, second)), expected, places=4)
        self.assertEqual(delta_e_of([0.2, 0.3, 0.4], [0.2, 0.3, 0.4]), 0)


class Documents(SimpleTestCase):
    def test_too_many_pictures_are_refused(self):
        with self.assertRaises(Refused):
            trial(DEPTH | {"values": list(range(1, 14))})
        self.assertEqual(DialAxis(**DEPTH).steps(), ["0.5", "8"])
