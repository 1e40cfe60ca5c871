import io
import json
import threading
import time
from unittest import mock

import numpy as np
from django.conf import settings
from django.test import SimpleTestCase
from nineglass import warm
from nineglass.documents.model import Material, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.network.compile import compile_network
from nineglass.picture.display import to_srgb8
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from PIL import Image
from tests.lengths import fewer

from live import messages
from live.beside import Beside
from live.counted import InFlight
from live.messages import SAID
from live.renderer import TURN_S, Bench, Renderer
from live.wire import HEADER_LENGTH, LENGTHS, for_browser, pack


def demo(name):
    return json.loads((settings.DEMO_DIR / f"{name}.json").read_text())


class Wire(SimpleTestCase):
    def test_messages_keep_their_header_and_their_bytes(self):
        packed = pack({"type": "frame"}, b"12345")
        size, extra = LENGTHS.unpack(packed[: LENGTHS.size])
        self.assertEqual(
            (json.loads(packed[8 : 8 + size]), packed[8 + size :], extra), ({"type": "frame"}, b"12345", 5)
        )
        sent = for_browser({"a": 1}, b"xyz")
        (size,) = HEADER_LENGTH.unpack(sent[:4])
        self.assertEqual((json.loads(sent[4 : 4 + size]), sent[4 + size :]), ({"a": 1}, b"xyz"))


class AtWork(SimpleTestCase):
    """A bench in the renderer, without its process."""

    def setUp(self):
        self.sent = []
        self.bench = Bench("one", self.say, self.read_now)
        self.tracer = Tracer(1)
        self.sequence = 0

    def say(self, session, sequence, message, payload=b""):
        """What was said is what the schema says that it is."""
        header = message if isinstance(message, dict) else message.model_dump(mode="json")
        if header["type"] in SAID:
            SAID[header["type"]].model_validate(header)
        self.sent.append((header, payload))

    def read_now(self, session, sequence, about, inside):
        self.say(session, sequence, {"type": "reading", **read_bench(Reading(*about), inside)})

    def show(self, **changes):
        self.sequence += 1
        document = {
            "material": demo("net-float"),
            "stage": demo("lamp-room"),
            "settings": {"picture_side": 96, "most_samples": 3},
            "inside": "",
        }
        self.bench.change = {"sequence": self.sequence, **document, **changes}
        self.bench.take()

    def work(self, times):
        for _ in range(times):
            self.bench.work(self.tracer, lambda: False, lambda: False)

    def types(self):
        return [header["type"] for header, _ in self.sent]


class Work(AtWork):
    def test_coarse_first_then_gauges_then_samples_then_settled(self):
        self.show()
        self.work(4)
        frames = [header for header, _ in self.sent if header["type"] == "frame"]
        self.assertEqual(self.types()[:2], ["frame", "reading"])
        self.assertEqual([(f["coarse"], f["samples"], f["width"]) for f in frames][:2], [(True, 0, 24), (False, 1, 96)])
        self.assertTrue(frames[-1]["settled"])
        self.assertEqual(frames[-1]["mime"], "image/png")
        self.assertFalse(self.bench.waiting())

    def test_a_bench_that_nobody_sees_rests_and_goes_on_where_it_was(self):
        self.show(settings={"picture_side": 96, "most_samples": 9})
        self.work(3)
        self.bench.is_unseen = True
        self.assertFalse(self.bench.waiting())
        self.bench.wanted_proofs.append("one")
        self.assertTrue(self.bench.waiting(), "a proof is made all the same")
        self.work(1)
        self.assertIn("proof", self.types())
        self.assertFalse(self.bench.waiting())
        self.bench.is_unseen = False
        self.assertTrue(self.bench.waiting())
        self.assertEqual(self.bench.samples, 3)

    def test_a_picture_with_hardly_any_noise_rests(self):
        self.show(settings={"picture_side": 96, "most_samples": 999})
        self.work(3)
        self.assertTrue(self.bench.waiting())
        self.bench.noise_left = 0.004
        self.work(1)
        self.assertFalse(self.bench.waiting())
        self.assertEqual((self.sent[-1][0]["settled"], self.sent[-1][0]["samples"]), (True, 3))

    def test_exposure_alone_keeps_the_samples(self):
        self.show()
        self.work(3)
        stage = demo("lamp-room")
        stage["camera"]["dials"]["exposure"] = 1.0
        self.show(stage=stage)
        self.assertEqual(self.bench.samples, 2)
        self.assertEqual(self.sent[-1][0]["type"], "frame")

    def test_moving_a_slip_keeps_the_samples_and_a_dial_does_not(self):
        slip = {"id": "n", "kind": "number", "at": [0, 0]}
        self.show(material=demo("net-float") | {"slips": [slip]})
        self.work(3)
        self.show(material=demo("net-float") | {"slips": [slip | {"at": [50, 9], "title": "level"}]})
        self.assertEqual(self.bench.samples, 2)
        self.show(material=demo("net-float") | {"slips": [slip | {"dials": {"value": 0.7}}]})
        self.assertEqual(self.bench.samples, 0)

    def test_opening_a_module_keeps_the_samples_and_tells_what_its_slips_give(self):
        inner = {"id": "ramp", "kind": "ramp"}
        module = {"id": "m", "name": "M", "slips": [inner], "gives": [{"name": "out", "source": {"slip": "ramp"}}]}
        document = demo("net-float") | {
            "version": 2,
            "modules": [module],
            "slips": [{"id": "use", "kind": "module", "module": "m"}],
        }
        self.show(material=document)
        self.work(3)
        self.show(material=document, inside="use")
        self.assertEqual(self.bench.samples, 2)
        reading = self.sent[-1][0]
        self.assertEqual((reading["type"], reading["inside"], list(reading["slips"])), ("reading", "use", ["ramp"]))
        self.bench.asked = {"type": "hold", "slip": "use/ramp"}
        self.work(1)
        self.assertEqual((self.sent[-1][0]["type"], self.sent[-1][0]["slip"]), ("held", "use/ramp"))

    def test_a_bad_document_is_told_and_the_picture_stays(self):
        self.show()
        self.work(2)
        self.show(material={"name": "broken"})
        header, _ = self.sent[-1]
        self.assertEqual((header["type"], header["faults"][0]["path"]), ("faults", "section"))
        self.assertEqual(self.bench.samples, 1)
        self.work(1)
        self.assertEqual(self.bench.samples, 2)

    def test_a_slow_browser_is_not_flooded(self):
        self.show(settings={"picture_side": 96, "most_samples": 50})
        self.work(12)
        self.assertLessEqual(self.types().count("frame"), 4)
        self.assertEqual(self.bench.samples, 11)

    def test_a_proof_carries_what_is_shown(self):
        self.show()
        self.bench.wanted_proofs.append("wish")
        self.work(2)
        header, picture = next(one for one in self.sent if one[0]["type"] == "proof")
        self.assertEqual((header["request"], header["material"]["name"]), ("wish", "Net float"))
        self.assertTrue(picture.startswith(b"\x89PNG"))

    def test_a_place_is_read_and_a_ray_followed_between_passes(self):
        self.show()
        self.work(2)
        for what in ("pick", "follow"):
            self.bench.asked = {"type": what, "x": 0.5, "y": 0.5}
            self.assertTrue(self.bench.waiting())
            self.work(1)
        picked, followed = self.sent[-2][0], self.sent[-1][0]
        self.assertEqual((picked["type"], picked["seen"]), ("picked", "form"))
        self.assertEqual(len(picked["spectrum"]), len(picked["wavelengths_nm"]))
        self.assertGreater(picked["luminance"], 0)
        self.assertEqual(followed["type"], "followed")
        steps = followed["rays"][0]["steps"]
        self.assertIn("enters", steps[0]["event"])
        self.assertEqual(len(followed["rays"][0]["drawn"]), len(steps))

    def test_what_is_seen_at_a_place_can_be_made_sharp(self):
        # Window bench: the float of 12 cm is met before its middle, which is where focus 0 lies; the sky cannot be focused.
        self.show()
        self.work(2)
        self.bench.asked = {"type": "focus", "x": 0.5, "y": 0.5}
        self.work(1)
        self.assertEqual(self.sent[-1][0]["type"], "focused")
        self.assertTrue(-7.5 < self.sent[-1][0]["focus"] < -4.5, self.sent[-1][0])

    def test_a_slip_is_held_up_with_its_range(self):
        slips = [{"id": "h", "kind": "height_along"}, {"id": "p", "kind": "position"}]
        self.show(material=demo("net-float") | {"slips": slips})
        self.work(2)
        for slip in ("h", "p"):
            self.bench.asked = {"type": "hold", "slip": slip}
            self.work(1)
            header, picture = self.sent[-1]
            self.assertEqual((header["type"], header["slip"]), ("held", slip))
            self.assertTrue(header["low"] < header["high"])
            self.assertTrue(picture.startswith(b"\x89PNG"))
        count = len(self.sent)
        self.bench.asked = {"type": "hold", "slip": "nobody"}
        self.work(1)
        self.assertEqual(len(self.sent), count)

    def test_a_bracket_is_made_evenly_and_gives_way_to_a_change(self):
        values = [0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6]
        asked = {"type": "bracket", "module": "", "part": "interface", "dial": "specular_roughness", "values": values}
        self.show(settings={"picture_side": 96, "most_samples": 99})
        self.work(2)
        self.bench.row_asked = asked
        self.work(8)
        strip = [(h, p) for h, p in self.sent if h["type"] == "bracketed"]
        self.assertEqual([h["place"] for h, _ in strip], list(range(7)))
        self.assertEqual([h["value"] for h, _ in strip], values)
        self.assertNotEqual(strip[0][1], strip[6][1])
        readable = [h["readable"] for h, _ in strip]
        self.assertEqual(readable[:6], [False] * 6)
        self.assertTrue(all(0 < h["noise"] < 3 for h, _ in strip))
        self.work(7)
        again = [h["place"] for h, _ in self.sent if h["type"] == "bracketed"][7:]
        self.assertLessEqual(
            max(again.count(place) for place in again), 2, "those that cannot be judged yet come first, in turn"
        )
        self.bench.row_asked = asked | {"values": []}
        self.work(1)
        self.assertIsNone(self.bench.row, "left")
        self.bench.row_asked = asked
        self.work(2)
        self.assertIsNotNone(self.bench.row)
        self.show(material=demo("net-float") | {"name": "other"})
        self.assertIsNone(self.bench.row)

    def test_it_says_whose_a_place_is(self):
        self.show()
        self.work(2)
        said = []
        for x, y in ((0.5, 0.5), (0.01, 0.01)):
            self.bench.asked = {"type": "whose", "x": x, "y": y}
            self.work(1)
            said.append(next(header for header, _ in reversed(self.sent) if header["type"] == "whose"))
        self.assertEqual([(one["object"], one["part"]) for one in said], [("form", "body"), (None, "")])

    def test_a_row_is_not_lost_by_a_question_nor_kept_over_a_change(self):
        renderer = Renderer(None, io.BytesIO())
        bracket = {"type": "bracket", "module": "", "part": "a", "dial": "b", "values": [0]}
        show, pick = {"type": "show"}, {"type": "pick"}
        for said, asked, row in (
            ([show, bracket, pick], pick, bracket),
            ([show, pick, bracket], pick, bracket),
            ([show, bracket, show], None, None),
        ):
            for message in said:
                renderer.hear(message | {"session": str(said)})
            bench = renderer.benches[str(said)]
            types = [one and one["type"] for one in (bench.asked, bench.row_asked)]
            self.assertEqual(types, [one and one["type"] for one in (asked, row)])

    def strip_of(self, asked: dict) -> list[bytes]:
        self.show()
        self.work(2)
        self.bench.row_asked = {"type": "bracket", "module": ""} | asked
        self.work(len(asked["values"]) + 1)
        return [picture for header, picture in self.sent if header["type"] == "bracketed"]

    def test_a_dial_of_the_stage_is_bracketed(self):
        strip = self.strip_of({"part": "stage:lamps.0", "dial": "power", "values": [1, 10, 100]})
        self.assertEqual(len(strip), 3)
        mean = [np.asarray(Image.open(io.BytesIO(picture)).convert("L"), float).mean() for picture in strip]
        self.assertTrue(mean[0] < mean[1] < mean[2], mean)
        self.strip_of({"part": "stage:lamps.9", "dial": "power", "values": [1]})
        told = [header["faults"][0]["fault"] for header, _ in self.sent if header["type"] == "faults"]
        self.assertEqual(told, ["there is no such part"])

    def test_a_trial_is_made_kept_and_made_again_with_what_changed(self):
        def axis(dial, values):
            return {"kind": "dial", "part": "interior", "dial": dial, "values": values}

        asked = {
            **{"type": "trial", "run": "first", "name": "Depths", "before": None},
            "across": axis("transmission_depth", [0.5, 4]),
            "down": axis("transmission_color", [[0.9, 0.1, 0.1], [0.1, 0.1, 0.9]]),
        }
        self.show(settings={"picture_side": 96, "most_samples": 99})
        self.work(2)
        self.bench.row_asked = asked
        self.bench.wanted_trials.append("keep it")
        self.work(7)
        cells = [header for header, _ in self.sent if header["type"] == "tried"]
        self.assertEqual([one["place"] for one in cells[:4]], [0, 1, 2, 3])
        self.assertTrue(0 < cells[0]["progress"] < cells[3]["progress"] < 1)
        ((made, sheet),) = [(header, payload) for header, payload in self.sent if header["type"] == "trial_made"]
        self.assertEqual((made["request"], len(made["means"])), ("keep it", 4))
        self.assertEqual(made["document"]["down"]["dial"], "transmission_color")
        self.assertGreater(Image.open(io.BytesIO(sheet)).width, 320)
        self.assertGreater(made["means"][0][0], made["means"][2][0], "red above, blue below")
        before = [list(made["means"][k]) for k in (2, 1, 2, 3)]
        self.bench.row_asked = asked | {"run": "again", "before": before}
        self.work(5)
        again = [header for header, _ in self.sent if header["type"] == "tried" and header["run"] == "again"]
        self.assertGreater(again[0]["changed"], 10)
        self.assertLess(again[3]["changed"], 8)
        self.bench.row_asked = asked | {"across": None}
        self.work(1)
        self.assertIsNone(self.bench.row, "left")

    def test_a_trial_that_was_left_cannot_be_kept(self):
        axis = {"kind": "dial", "part": "interior", "dial": "transmission_depth", "values": [1, 2, 3]}
        asked = {"type": "trial", "run": "a", "name": "Depths", "across": axis, "down": None, "before": None}
        self.show()
        self.work(2)
        self.bench.row_asked = asked
        self.work(2)
        self.bench.row_asked = asked | {"across": None}
        self.work(1)
        self.bench.wanted_trials.append("keep it")
        self.work(1)
        said = [header["says"] for header, _ in self.sent if header["type"] == "not_kept"]
        self.assertEqual(said, ["it was left before all its pictures were begun"])
        self.assertFalse(self.bench.wanted_trials)

    def test_a_trial_that_was_never_made_cannot_be_kept(self):
        self.show()
        self.work(2)
        self.bench.wanted_trials.append("keep it")
        self.work(1)
        said = [header["says"] for header, _ in self.sent if header["type"] == "not_kept"]
        self.assertEqual(said, ["no trial has been made"])

    def test_a_bracket_past_what_is_allowed_is_told(self):
        self.show()
        self.work(2)
        self.bench.row_asked = {
            "type": "bracket",
            "module": "",
            "part": "interface",
            "dial": "specular_roughness",
            "values": [0, 9],
        }
        self.work(1)
        self.assertEqual(self.sent[-1][0]["type"], "faults")
        self.assertIn("specular_roughness", self.sent[-1][0]["faults"][0]["path"])

    def test_a_pick_agrees_with_the_picture(self):
        self.show(settings={"picture_side": 96, "most_samples": 64})
        self.work(66)
        self.bench.asked = {"type": "pick", "x": 0.5, "y": 0.1}
        self.work(1)
        x, y = 48, 9
        seen = self.bench.film.rgb()[y - 1 : y + 2, x - 1 : x + 2].mean()
        self.assertAlmostEqual(sum(self.sent[-1][0]["linear"]) / 3, seen, delta=0.3 * seen + 0.01)

    def test_a_stage_waits_for_its_kernels_and_goes_on_when_they_are_there(self):
        with mock.patch.object(warm, "is_ready", lambda name: name != "layers"):
            self.show(material={"section": {"bands": [{"id": "b", "kind": "body"}]}})
            self.assertEqual(self.bench.lacks, ["layers"])
            self.assertFalse(self.bench.waiting())
            self.show()
            self.assertTrue(self.bench.waiting(), "the same stage with a material that needs nothing more")
            self.show(material={"section": {"bands": [{"id": "b", "kind": "body"}]}})
        self.assertTrue(self.bench.waiting())
        self.work(2)
        self.assertEqual(self.bench.samples, 1)

    def test_what_was_not_changed_is_not_read_again(self):
        self.show()
        stage, material = self.bench.stage, self.bench.material
        changed = demo("net-float")
        changed["section"]["bands"][0]["dials"] = {"specular_roughness": 0.2}
        self.show(material=changed)
        self.assertIs(self.bench.stage, stage)
        self.assertIsNot(self.bench.material, material)
        kept = self.bench.the_set
        self.show(material=changed, inside="")
        self.assertIs(self.bench.the_set.table, kept.table)

    def test_a_file_that_is_not_there_is_a_fault_of_its_dial(self):
        stage = demo("lamp-room")
        stage["objects"][0]["form"] = {"kind": "imported", "dials": {"file": "ab" * 32}}
        self.show(stage=stage)
        [(said, _)] = self.sent
        self.assertEqual([fault["path"] for fault in said["faults"]], ["objects[0].form.dials.file"])
        self.show()
        self.work(1)
        self.assertIn("frame", self.types(), "the next document is shown")

    def test_a_question_that_fails_leaves_the_picture(self):
        self.show()
        self.work(2)
        self.bench.asked = {"type": "hold", "slip": "one"}
        with mock.patch.object(Bench, "hold", side_effect=KeyError("one")), self.assertLogs("live.renderer"):
            self.work(1)
        self.assertEqual(self.types()[-1], "faults")
        self.assertTrue(self.bench.waiting(), "the picture goes on")

    def test_driven_dials_are_held_in_their_limits(self):
        """Ramps that end at 0, a slip that gives 0, a gamma past all bounds: each was met by a fuzz."""
        facing_depth = [wire("f", "r", "at"), wire("r", "interior", "transmission_depth")]
        for name, slips, wires, bands in (
            (
                "depth 0",
                [slip("f", "facing"), slip("r", "ramp", stops=[[0, 0.42], [0.8, 0], [1, 0]])],
                facing_depth,
                [],
            ),
            ("index 0", [slip("z", "separate_vector")], [wire("z", "coat", "coat_ior", port="z")], ["coat"]),
            ("black body", [slip("b", "black_body"), slip("o", "bump")], [wire("b", "o", "height")], []),
            ("gamma", [slip("g", "gamma", value=99999.9998, gamma=50.005)], [], []),
        ):
            material = demo("net-float") | {"version": 2, "slips": slips, "wires": wires}
            material["section"]["bands"] = [{"id": b, "kind": b} for b in bands] + material["section"]["bands"]
            with self.subTest(name):
                self.show(material=material)
                self.sent.clear()
                self.work(3)
                self.assertEqual(set(self.types()), {"frame", "reading"})
                text = json.dumps([said for said, _ in self.sent])
                self.assertFalse("NaN" in text or "Infinity" in text)

    def test_json_for_browsers_has_null_for_what_is_no_number(self):
        sent = for_browser({"noise": float("nan"), "rows": [1.0, float("inf"), {"a": (float("-inf"), 2)}]})
        self.assertEqual(json.loads(sent[4:]), {"noise": None, "rows": [1.0, None, {"a": [None, 2]}]})


class LightsApart(AtWork):
    """Lamps are turned after the picture is made."""

    SETTINGS = {"picture_side": 96, "most_samples": 32}

    def settle(self, stage, apart=True, material="tea-caddy"):
        self.show(material=demo(material), stage=stage, settings=self.SETTINGS, apart=apart)
        while not self.bench.settled:
            self.work(1)
        return self.bench.film.rgb()

    def turned(self, stage, lamp=0, **changes):
        turned = json.loads(json.dumps(stage))
        dials = {**turned["lamps"][lamp]["dials"], **changes.pop("dials", {})}
        turned["lamps"][lamp] |= {"dials": dials, **changes}
        return turned

    def frames(self):
        return [header for header, _ in self.sent if header["type"] == "frame"]

    def assertAlike(self, picture, other):
        """By blocks: glints make a few of them noisy."""
        high, wide = picture.shape[0] // 4, picture.shape[1] // 4
        first, second = (one.reshape(4, high, 4, wide, 3).mean((1, 3)) for one in (picture, other))
        self.assertLess(np.median(np.abs(first - second)) / second.mean(), 0.01)
        self.assertAlmostEqual(first.mean() / second.mean(), 1, delta=0.04)

    def test_all_lights_add_up_to_the_picture(self):
        apart = self.settle(demo("tea-shelf"))
        self.assertGreater(self.frames()[-1]["lights"], 1)
        self.assertAlike(apart, self.settle(demo("tea-shelf"), apart=False))

    def test_power_is_seen_at_once_and_true(self):
        stage = demo("tea-shelf")
        self.settle(stage)
        power = stage["lamps"][0]["dials"]["power"]
        for change in ({"dials": {"power": power / 4}}, {"dials": {"power": 0}}, {"on": True}):
            with self.subTest(change):
                now = self.turned(stage, **change)
                sent = len(self.sent)
                self.show(material=demo("tea-caddy"), stage=now, settings=self.SETTINGS, apart=True)
                self.assertTrue(self.bench.settled)
                self.assertIn("frame", [header["type"] for header, _ in self.sent[sent:]])
                turned, kept = self.bench.film.rgb().copy(), self.bench
                self.bench = Bench("another", self.say, self.read_now)
                self.assertAlike(turned, self.settle(now, apart=False))
                self.bench = kept

    def test_a_colour_is_told_to_be_near_and_another_change_begins_anew(self):
        stage = demo("tea-shelf")
        self.settle(stage)
        before = self.bench.film.rgb().copy()
        now = self.turned(stage, dials={"color": [1, 0.2, 0.2]})
        self.show(material=demo("tea-caddy"), stage=now, settings=self.SETTINGS, apart=True)
        self.assertTrue(self.bench.settled and self.frames()[-1]["nearly"])
        self.assertLess(self.bench.film.rgb()[..., 2].mean(), before[..., 2].mean())
        np.testing.assert_allclose(self.bench.film.rgb()[..., 0], before[..., 0], rtol=1e-6)
        moved = self.turned(stage, dials={"kelvin": 2000})
        self.show(material=demo("tea-caddy"), stage=moved, settings=self.SETTINGS, apart=True)
        self.assertEqual((self.bench.samples, self.bench.settled), (0, False))

    def test_a_lamp_that_is_switched_off_is_told_to_be_near_since_it_still_hides(self):
        stage = demo("tea-shelf")
        self.settle(stage)
        before = self.bench.film.rgb().mean()
        now = self.turned(stage, on=False)
        self.show(material=demo("tea-caddy"), stage=now, settings=self.SETTINGS, apart=True)
        self.assertTrue(self.bench.settled and self.frames()[-1]["nearly"])
        self.assertLess(self.bench.film.rgb().mean(), 0.95 * before)
        self.show(material=demo("tea-caddy"), stage=stage, settings=self.SETTINGS, apart=True)
        self.assertAlmostEqual(self.bench.film.rgb().mean(), before, places=9)

    def test_what_glows_is_turned_as_well(self):
        stage = demo("tea-shelf")
        ember = demo("ember")
        (glow,) = [band for band in ember["section"]["bands"] if "emission_luminance" in band["dials"]]
        self.show(material=ember, stage=stage, settings=self.SETTINGS, apart=True)
        while not self.bench.settled:
            self.work(1)
        before = self.bench.film.rgb().copy()
        brighter = json.loads(json.dumps(ember))
        band = next(one for one in brighter["section"]["bands"] if one["id"] == glow["id"])
        band["dials"]["emission_luminance"] = glow["dials"]["emission_luminance"] * 3
        self.show(material=brighter, stage=stage, settings=self.SETTINGS, apart=True)
        self.assertTrue(self.bench.settled)
        self.assertGreater(self.bench.film.rgb().mean(), before.mean())

    def test_a_change_that_samples_go_on_under_does_not_break_a_pass_off(self):
        stage = demo("tea-shelf")
        self.show(stage=stage)
        self.work(2)
        brighter = json.loads(json.dumps(stage))
        brighter["camera"]["dials"]["exposure"] = 2
        wishes = {"material": demo("net-float"), "settings": {"picture_side": 96, "most_samples": 3}, "inside": ""}
        self.bench.change = {"sequence": 9, "stage": brighter, **wishes}
        self.assertFalse(self.bench.is_overtaken())
        self.bench.change = {"sequence": 10, "stage": self.turned(stage, dials={"power": 1}), **wishes}
        self.assertTrue(self.bench.is_overtaken())
        # What was broken off is not gone on with, whatever comes next.
        self.bench.change = {"sequence": 11, "stage": brighter, **wishes}
        self.bench.take()
        self.assertEqual((self.bench.samples, self.bench.spoilt), (0, False))


def slip(name, kind, **dials):
    return {"id": name, "kind": kind, "dials": dials}


def wire(source, part, dial, port="out"):
    return {"source": {"slip": source, "port": port}, "target": {"part": part, "dial": dial}}


class Gauges(SimpleTestCase):
    def test_the_newest_wish_of_each_bench_is_read_beside_the_picture(self):
        heard, begun, go_on, done = [], threading.Event(), threading.Event(), threading.Event()

        def act(session, sequence):
            begun.set()
            go_on.wait(30)
            heard.append((session, sequence))
            if sequence == 9:
                done.set()

        beside = Beside("gauges", act)
        beside.ask("a", 0)
        self.assertTrue(begun.wait(30))
        for sequence in range(1, 10):
            beside.ask("a", sequence)
        go_on.set()
        self.assertTrue(done.wait(30))
        self.assertEqual(heard, [("a", 0), ("a", 9)], "wishes that were overtaken are left out")

    def test_one_wish_that_fails_does_not_end_the_others(self):
        done = threading.Event()

        def act(session):
            if session == "bad":
                raise ValueError("no")
            done.set()

        beside = Beside("gauges", act)
        with self.assertLogs("live.beside"):
            beside.ask("bad")
            beside.ask("good")
            self.assertTrue(done.wait(30))

    def test_what_cannot_be_read_is_told_and_the_next_is_read(self):
        renderer = Renderer(None, io.BytesIO())
        document = read(Material, demo("net-float"))
        about = (document, None, compile_network(document), None, None)
        with self.assertLogs("live.renderer"), mock.patch("live.renderer.read_bench", side_effect=ValueError("no")):
            renderer._read_gauges("a", 1, about, "")
        renderer._read_gauges("a", 2, about, "")
        written = renderer.outgoing.getvalue()
        self.assertIn(b'"faults"', written)
        self.assertIn(b'"reading"', written)


class Smoothed(SimpleTestCase):
    """The picture while it settles, as a browser is shown it."""

    def setUp(self):
        self.renderer = Renderer(None, io.BytesIO())
        self.frames = []
        self.renderer.say = self.say
        self.tracer = Tracer(2)

    def say(self, session, sequence, message, payload=b""):
        if isinstance(message, messages.Frame):
            self.frames.append((message, np.asarray(Image.open(io.BytesIO(payload)).convert("RGB"), float)))

    def show(self, samples=8, **changes):
        document = {"material": demo("net-float"), "stage": demo("window-bench"), "inside": ""}
        how = {"settings": {"picture_side": 96, "most_samples": samples}}
        self.renderer.hear({"type": "show", "session": "a", "sequence": 1, **document, **how, **changes})
        self.bench = self.renderer.benches["a"]

    def settle(self):
        """Work until nothing is left to do, and until what is smoothed beside has come."""
        while self.bench.waiting():
            self.renderer.give_turn(self.bench, self.tracer)
        for _ in range(3000):
            if self.frames and self.frames[-1][0].settled:
                return
            time.sleep(0.01)
        self.fail("the settled picture did not come")

    def test_from_the_first_picture_on_it_has_less_noise_than_as_rendered(self):
        self.show()
        self.settle()
        self.assertTrue(all(frame.smoothed for frame, _ in self.frames))
        self.assertTrue(self.frames[0][0].coarse)
        truth = self.reference()
        frame, shown = self.frames[-1]
        rendered = to_srgb8(self.bench.film.rgb(), self.bench.exposure).astype(float)
        self.assertLess(np.abs(shown - truth).mean(), 0.6 * np.abs(rendered - truth).mean())
        self.assertLess(
            frame.noise, 0.8 * self.bench.film.noise(), "the noise told is that of the picture that is shown"
        )

    def reference(self):
        film = Film(96, 96)
        self.tracer.render(self.bench.the_set, film, 1000, fewer(512))
        return to_srgb8(film.rgb(), self.bench.exposure).astype(float)

    def test_a_smoothed_picture_is_as_bright_as_the_true_one(self):
        self.show(16)
        self.settle()
        smooth, rendered = self.frames[-1][1], to_srgb8(self.bench.film.rgb(), self.bench.exposure)
        for rows in (slice(0, 20), slice(70, 96)):
            self.assertAlmostEqual(smooth[rows].mean() / rendered[rows].mean(), 1, delta=0.04)

    def test_one_message_shows_it_as_rendered_and_again_smoothed(self):
        self.show()
        self.settle()
        for smoothed in (False, True):
            self.frames.clear()
            self.renderer.hear({"type": "look", "session": "a", "smoothed": smoothed, "stops": False})
            self.settle()
            self.assertEqual([frame.smoothed for frame, _ in self.frames], [smoothed])
        self.assertEqual(self.bench.samples, 8, "nothing is rendered again for it")

    def test_a_filter_that_fails_leaves_the_picture_as_rendered(self):
        def fails(rgb, guidance):
            if len(rgb) == 96:
                raise RuntimeError("no memory")
            return rgb

        with mock.patch("nineglass.picture.smooth.denoised", fails), self.assertLogs("live.renderer"):
            self.show(2)
            self.settle()
        self.assertFalse(self.frames[-1][0].smoothed)

    def test_one_message_shows_stops_from_mid_grey(self):
        self.show()
        self.settle()
        plain = self.frames[-1][1]
        self.frames.clear()
        self.renderer.hear({"type": "look", "session": "a", "smoothed": True, "stops": True})
        self.settle()
        drawn = self.frames[-1][1]
        self.assertGreater(np.abs(drawn - plain).mean(), 5)
        self.assertLess(len(np.unique(drawn.reshape(-1, 3), axis=0)), 80, "steps, and lines between them")

    def test_a_view_is_changed_without_rendering_again(self):
        self.show()
        self.settle()
        plain = self.frames[-1][1]
        sums = self.bench.film
        self.frames.clear()
        self.show(stage=demo("window-bench") | {"view": "film"}, sequence=2)
        self.settle()
        self.assertIs(self.bench.film, sums)
        self.assertLess(self.frames[-1][1].mean(), plain.mean(), "mid tones are shown darker")

    def test_what_was_overtaken_is_not_shown(self):
        self.show()
        self.settle()
        kept = self.bench.sequence
        self.frames.clear()
        with mock.patch.object(self.bench, "sequence", kept + 1):
            self.renderer._smooth("a", kept, None)
        self.renderer._smooth("gone", kept, None)
        self.assertEqual(self.frames, [])


class Sizes(AtWork):
    """The shape of the picture, how many pixels are made, and a part of it alone."""

    def work(self, times):
        """Every frame is drawn at once."""
        for _ in range(times):
            self.bench.in_flight = InFlight()
            super().work(1)

    def frames(self):
        return [h for h, _ in self.sent if h["type"] == "frame"]

    def test_it_has_the_shape_of_its_stage(self):
        for shape, size in (("square", (96, 96)), ("3:2", (96, 64)), ("16:9", (96, 54)), ("2:3", (64, 96))):
            self.show(stage=demo("lamp-room") | {"shape": shape})
            self.work(2)
            last = self.frames()[-1]
            self.assertEqual((last["width"], last["height"]), size)

    def test_pixels_are_made_for_the_room_that_it_takes(self):
        settings = {"picture_side": 96, "most_samples": 1}
        for pixels, room, size in (
            ("fitted", [300, 300], (96, 96)),
            ("half", [300, 300], (150, 150)),
            ("full", [200, 300], (200, 200)),
            ("full", [8000, 8000], (1414, 1414)),
        ):
            self.show(settings=settings | {"pixels": pixels}, room=room)
            self.work(1)
            self.assertEqual((self.bench.film.width, self.bench.film.height), size)

    def test_a_part_alone_is_that_part_of_the_whole(self):
        self.show(settings={"picture_side": 96, "most_samples": 64})
        while not self.bench.settled:
            self.work(1)
        whole = self.bench.film.rgb()
        part = [0.25, 0.5, 0.75, 1.0]
        self.show(settings={"picture_side": 96, "most_samples": 64}, part=part)
        while not self.bench.settled:
            self.work(1)
        last, alone = self.frames()[-1], self.bench.film.rgb()
        self.assertEqual((last["width"], last["height"], last["part"]), (48, 48, part))
        there = whole[48:96, 24:72]
        self.assertAlmostEqual(float(alone.mean() / there.mean()), 1, delta=0.04)
        self.assertGreater(np.corrcoef(alone[..., 1].ravel(), there[..., 1].ravel())[0, 1], 0.9)

    def test_the_whole_comes_back(self):
        self.show(part=[0.25, 0.25, 0.5, 0.5])
        self.work(2)
        self.show(part=None)
        self.work(2)
        self.assertIsNone(self.frames()[-1]["part"])
        self.assertEqual(self.frames()[-1]["width"], 96)


class Turns(SimpleTestCase):
    def setUp(self):
        self.renderer = Renderer(None, io.BytesIO())

    def open(self, *sessions):
        for session in sessions:
            self.renderer.hear({"type": "show", "session": session, "sequence": 1})
        return [self.renderer.benches[session] for session in sessions]

    def test_a_newcomer_has_a_pass_make_way(self):
        first, second = self.open("a", "b")
        first.change = None
        self.renderer.turn_began = time.monotonic()
        self.assertTrue(self.renderer._makes_way(first))
        second.change = None
        self.assertFalse(self.renderer._makes_way(first))

    def test_a_bench_that_has_worked_for_a_while_makes_way_for_one_that_waits(self):
        first, second = self.open("a", "b")
        first.change = second.change = None
        with mock.patch.object(Bench, "waiting", lambda bench: True):
            for seconds, makes_way in ((0, False), (2 * TURN_S, True)):
                self.renderer.turn_began = time.monotonic() - seconds
                self.assertEqual(self.renderer._makes_way(first), makes_way)

    def test_time_is_shared_not_turns(self):
        self.open("heavy", "light")
        took, given = {"heavy": 0.1, "light": 0.02}, {"heavy": 0.0, "light": 0.0}
        for _ in range(60):
            bench = self.renderer.next_bench()
            bench.used += took[bench.session]
            given[bench.session] += took[bench.session]
        self.assertLess(abs(given["heavy"] - given["light"]), 0.15)

    def test_a_newcomer_does_not_catch_up_on_what_was_before_it(self):
        [old] = self.open("old")
        old.used = self.renderer.clock = 900.0
        [new] = self.open("new")
        self.assertEqual(new.used, 900.0)

    def test_what_goes_wrong_is_one_benchs_alone(self):
        bad, good = self.open("bad", "good")
        with mock.patch.object(Bench, "take", autospec=True, side_effect=self._break), self.assertLogs("live.renderer"):
            self.renderer.give_turn(bad, Tracer(1))
            self.renderer.give_turn(good, Tracer(1))
        self.assertFalse(bad.waiting(), "its document is set aside")
        self.assertTrue(good.waiting())
        faults = [said for said in self.said() if said["type"] == "faults"]
        self.assertEqual([said["session"] for said in faults], ["bad"])
        self.assertIn("ZeroDivisionError", faults[0]["faults"][0]["fault"])
        self.assertEqual([said["bench"] for said in self.said() if said["type"] == "turn"], ["bad", "good"])

    @staticmethod
    def _break(bench):
        if bench.session == "bad":
            raise ZeroDivisionError("by a poisoned dial")

    def test_no_wish_for_a_proof_is_left_without_an_answer(self):
        [bench] = self.open("a")
        for number in range(30):
            self.renderer.hear({"type": "keep", "session": "a", "request": str(number)})
        with self.assertLogs("live.renderer"):
            bench.set_aside(ValueError("no"))
        answered = [said["request"] for said in self.said() if said["type"] == "not_kept"]
        self.assertEqual(answered, [str(number) for number in range(30)])

    def said(self):
        """All that the renderer has written."""
        written, said, at = self.renderer.outgoing.getvalue(), [], 0
        while at < len(written):
            size, extra = LENGTHS.unpack_from(written, at)
            said.append(json.loads(written[at + LENGTHS.size : at + LENGTHS.size + size]))
            at += LENGTHS.size + size + extra
        return said

    def test_a_closed_bench_is_forgotten(self):
        self.open("a", "b")
        self.renderer.hear({"type": "close", "session": "a"})
        self.assertEqual(self.renderer.next_bench().session, "b")
        self.renderer.hear({"type": "close", "session": "b"})
        self.assertIsNone(self.renderer.next_bench())

    def test_the_beat_tells_how_long_a_step_takes(self):
        self.renderer.stepped = time.monotonic() - 30
        beating = threading.Thread(target=self.renderer.beat, daemon=True)
        with mock.patch("live.renderer.BEAT_S", 0.01):
            beating.start()
            while not self.said():
                beating.join(0.01)
            self.renderer.closed = True
            beating.join()
        self.assertGreater(self.said()[0]["seconds"], 29)
