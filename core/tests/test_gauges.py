import numpy as np
from django.test import SimpleTestCase
from nineglass.gauges import GAUGES, reading_of
from nineglass.gauges.bench import read_bench
from nineglass.gauges.notes import notes_of
from nineglass.optics.doubling import slab
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.upsampling import spectrum_of
from nineglass.trace.film import length_facts

from tests.scenes import material, render, stage, wire


def gauge(name, document, **how):
    return GAUGES.all[name].compute(reading_of(document, **how))


def interior(color, depth=2.0, **more):
    return material(interior={"transmission_color": list(color), "transmission_depth": depth}, **more)


SKY = {"light": {"kind": "gradient"}}
"""A surround with something dark in it, so that only the rule in question is heard."""


class Ladder(SimpleTestCase):
    def test_the_colour_at_the_depth_is_the_transmission_colour(self):
        ladder = gauge("ladder", interior((0.38, 0.72, 0.5), 1.0))
        lengths, colors = np.array(ladder["lengths_cm"]), np.array(ladder["colors"])
        at_depth = [np.interp(0, np.log(lengths), np.log(np.maximum(colors[:, c], 1e-9))) for c in range(3)]
        np.testing.assert_allclose(np.exp(at_depth), (0.38, 0.72, 0.5), rtol=0.02)

    def test_each_rung_is_the_law_of_absorption(self):
        ladder = gauge("ladder", interior((0.6, 0.5, 0.2), 3.0))
        for length, color in zip(ladder["lengths_cm"], ladder["colors"], strict=True):
            expected = np.clip(rgb_of_filter(spectrum_of((0.6, 0.5, 0.2)) ** (length / 3.0)), 0, None)
            np.testing.assert_allclose(color, expected, atol=2e-3)

    def test_marks_the_lengths_of_the_picture(self):
        document, scene = interior((0.5, 0.7, 0.6)), stage("ball", {"diameter": 6})
        facts = length_facts(render(document, scene).lengths)
        ladder = gauge("ladder", document, stage=scene, lengths=facts)
        self.assertEqual(ladder["measured"], facts)
        self.assertLess(facts["high_cm"], 20)
        self.assertAlmostEqual(max(ladder["lengths_cm"]), 18, delta=0.1)


class Facing(SimpleTestCase):
    def test_marks_and_ends(self):
        # Source: Born & Wolf: Brewster's angle of 1.5 is 56.31, its critical angle 41.81 degrees.
        facing = gauge("facing", material(interface={"specular_ior": 1.5}))
        self.assertEqual([mark["label"] for mark in facing["marks"]], ["Brewster 56.3°", "critical 41.8°"])
        outside, inside = (curve["values"] for curve in facing["curves"])
        self.assertAlmostEqual(outside[0], 0.04, places=4)
        self.assertAlmostEqual(outside[60], 0.0892, places=4)
        self.assertEqual(inside[42], 1.0)
        self.assertIn("4.0%", facing["caption"])

    def test_index_is_constant_for_now(self):
        index = gauge("index", material(interface={"specular_ior": 1.62}))
        self.assertEqual(set(index["curves"][0]["values"]), {1.62})


class Notes(SimpleTestCase):
    def rules(self, document, scene=None, lengths=None):
        return {note.rule: note for note in notes_of(reading_of(document, scene, lengths))}

    def mended(self, document, note):
        dump = document.model_dump()
        for change in note.changes:
            band = next(b for b in dump["section"]["bands"] if b["id"] == change.part)
            band["dials"][change.dial] = change.value
        return type(document).model_validate(dump)

    def breaks(self, rule, document, *words):
        scene = stage("ball", {"diameter": 6})
        note = self.rules(document, scene).get(rule)
        self.assertIsNotNone(note, f"no note on {rule}")
        for word in words:
            self.assertIn(word, note.says)
        self.assertNotIn(rule, self.rules(self.mended(document, note), scene), "the remedy does not help")
        return note

    def test_a_channel_at_full_never_darkens(self):
        note = self.breaks("channel at full", interior((1.0, 0.5, 0.3)), "red channel is 1.00", "never darkens")
        self.assertEqual(note.figure, 1.0)
        self.breaks("channel at full", interior((1.0, 1.0, 0.3)), "red and green channels")

    def test_too_small_a_depth_is_black(self):
        self.breaks("black", interior((0.4, 0.6, 0.5), 0.05), "0.05 cm", "it looks black")

    def test_too_large_a_depth_is_clear(self):
        self.breaks("clear", interior((0.4, 0.6, 0.5), 2000), "2000 cm", "plain water")

    def test_a_pure_primary_cannot_shift(self):
        note = self.breaks("pure primary", interior((0.0, 0.6, 0.0)), "only green passes", "nothing to shift into")
        self.assertIn("Let red pass", note.remedy)

    def test_good_glass_breaks_no_rule(self):
        self.assertEqual(self.rules(interior((0.38, 0.72, 0.5), 1.6), stage("hollow_float", surround=SKY)), {})

    def test_clear_glass_is_not_blamed_for_being_clear(self):
        self.assertEqual(self.rules(interior((1, 1, 1)), stage(surround=SKY)), {})

    def test_driven_colours_are_not_judged(self):
        slips = [{"id": "c", "kind": "color", "dials": {"value": [1, 0.5, 0.5]}}]
        position = [{"id": "p", "kind": "fractal_noise"}]
        driven = interior((0.5, 0.5, 0.5), slips=position, wires=[wire("p", "interior.transmission_color")])
        self.assertEqual(self.rules(driven, stage(surround=SKY)), {})
        constant = interior((0.5, 0.5, 0.5), slips=slips, wires=[wire("c", "interior.transmission_color")])
        self.assertIn("channel at full", self.rules(constant, stage()))


class Bench(SimpleTestCase):
    def setUp(self):
        slips = [
            {"id": "facing", "kind": "facing"},
            {"id": "ramp", "kind": "ramp", "dials": {"stops": [[0, 0.4], [1, 0.1]]}},
            {"id": "noise", "kind": "fractal_noise"},
            {"id": "tint", "kind": "color_mix"},
            {"id": "level", "kind": "number"},
        ]
        wires = [wire("facing", "ramp.at"), wire("ramp", "interface.specular_roughness"), wire("noise", "tint.amount")]
        document = material(interior={}, slips=slips, wires=wires)
        self.read = read_bench(reading_of(document, stage("ball")))

    def test_each_slip_shows_what_it_gives(self):
        draws = {name: picture["draws"] for name, picture in self.read["slips"].items()}
        self.assertEqual(
            draws, {"facing": "curve", "ramp": "curve", "noise": "patch", "tint": "patch", "level": "value"}
        )
        np.testing.assert_allclose(self.read["slips"]["ramp"]["values"][::47], [0.4, 0.1], atol=1e-4)

    def test_a_driven_dial_tells_the_range_that_arrives(self):
        arriving = self.read["driven"]["interface.specular_roughness"]
        self.assertAlmostEqual(arriving["low"], 0.1, delta=0.01)
        self.assertAlmostEqual(arriving["high"], 0.4, delta=0.01)

    def test_gauges_carry_their_description(self):
        self.assertEqual([g["name"] for g in self.read["gauges"]], ["ladder", "absorption", "index", "facing"])
        for gauge_read in self.read["gauges"]:
            self.assertTrue(gauge_read["help"] and gauge_read["computed"])


class Scattering(SimpleTestCase):
    """What is told of matter that scatters."""

    BALL = stage("ball", {"diameter": 4})

    def read(self, **interior):
        return reading_of(
            material(interface={"specular_ior": 1.5}, interior={"transmission_depth": 1.0, **interior}), self.BALL
        )

    def gauges(self, **interior) -> dict:
        return {one["name"]: one["computed"] for one in read_bench(self.read(**interior))["gauges"]}

    def notes(self, **interior) -> dict:
        return {one["rule"]: one for one in read_bench(self.read(**interior))["notes"]}

    def test_clear_matter_has_none_of_its_gauges(self):
        self.assertTrue({"slab", "phase", "mean_free_path"}.isdisjoint(self.gauges()))

    def test_the_mean_free_path_is_that_of_the_dials(self):
        found = self.gauges(scatter_amount=10.0)["mean_free_path"]
        self.assertAlmostEqual(found["curves"][0]["values"][20], 0.1, delta=0.002)
        self.assertIn("0.1 cm", found["caption"])
        self.assertIn("40 times", found["caption"])

    def test_the_slab_is_that_of_the_exact_solution(self):
        """Source: `optics.doubling`, which is held against published values in `test_scattering`."""
        found = self.gauges(scatter_amount=5.0, transmission_color=[0.8] * 3)["slab"]
        absorbed = -np.log(0.8)
        true = slab(5.0 / (5.0 + absorbed), 4 * (5.0 + absorbed), 0.0, 1.5)
        reflected, passed = (np.interp(4.0, found["x"]["values"], one["values"]) for one in found["curves"])
        self.assertAlmostEqual(float(reflected), true.reflected, delta=0.01)
        self.assertAlmostEqual(float(passed), true.passed, delta=0.01)

    def test_phase(self):
        found = self.gauges(scatter_amount=5.0, transmission_scatter_anisotropy=0.6)["phase"]
        onward = np.array(found["curves"][0]["values"])
        self.assertEqual(onward.argmax(), 0)
        # Henyey & Greenstein 1941: straight on over straight back is ((1 + g) / (1 - g))^3.
        self.assertAlmostEqual(onward[0] / onward[-1], 4.0**3, delta=0.05)

    def test_notes_with_remedies_that_help(self):
        self.assertNotIn("matt", self.notes(scatter_amount=3.0))
        for amount, rule in ((0.001, "nothing scatters"), (2000.0, "matt")):
            note = self.notes(scatter_amount=amount)[rule]
            [change] = note["changes"]
            self.assertEqual(change["dial"], "scatter_amount")
            self.assertTrue({"nothing scatters", "matt"}.isdisjoint(self.notes(scatter_amount=change["value"])))
