import io
import json
import threading
from unittest import mock

import numpy as np
from django.conf import settings
from django.test import SimpleTestCase
from nineglass import warm
from nineglass.documents.model import Material, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.network.compile import compile_network
from nineglass.trace.render import Tracer
from PIL import Image

from live.messages import SAID
from live.renderer import Bench, GaugeReader, Renderer
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


class Work(SimpleTestCase):
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

    def test_coarse_first_then_gauges_then_samples_then_settled(self):
        self.show()
        self.work(4)
        frames = [header for header, _ in self.sent if header["type"] == "frame"]
        self.assertEqual(self.types()[:2], ["frame", "reading"])
        self.assertEqual([(f["coarse"], f["samples"], f["side"]) for f in frames][:2], [(True, 0, 24), (False, 1, 96)])
        self.assertTrue(frames[-1]["settled"])
        self.assertEqual(frames[-1]["mime"], "image/png")
        self.assertFalse(self.bench.waiting())

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
        self.show()
        self.work(2)
        self.bench.asked = asked
        self.work(8)
        strip = [(h, p) for h, p in self.sent if h["type"] == "bracketed"]
        self.assertEqual([h["place"] for h, _ in strip], list(range(7)))
        self.assertEqual([h["value"] for h, _ in strip], values)
        self.assertNotEqual(strip[0][1], strip[6][1])
        readable = [h["readable"] for h, _ in strip]
        self.assertEqual(readable[:6], [False] * 6)
        self.assertTrue(all(0 < h["noise"] < 1 for h, _ in strip))
        self.work(7)
        again = [h["place"] for h, _ in self.sent if h["type"] == "bracketed"][7:]
        self.assertLessEqual(
            max(again.count(place) for place in again), 2, "those that cannot be judged yet come first, in turn"
        )
        self.bench.asked = asked | {"values": []}
        self.work(1)
        self.assertIsNone(self.bench.bracket, "left")
        self.bench.asked = asked
        self.work(2)
        self.assertIsNotNone(self.bench.bracket)
        self.show(material=demo("net-float") | {"name": "other"})
        self.assertIsNone(self.bench.bracket)

    def strip_of(self, asked: dict) -> list[bytes]:
        self.show()
        self.work(2)
        self.bench.asked = {"type": "bracket", "module": ""} | asked
        self.work(len(asked["values"]) + 1)
        return [picture for header, picture in self.sent if header["type"] == "bracketed"]

    def test_a_dial_of_the_stage_is_bracketed(self):
        strip = self.strip_of({"part": "stage:lamps.0", "dial": "power", "values": [1, 10, 100]})
        self.assertEqual(len(strip), 3)
        mean = [np.asarray(Image.open(io.BytesIO(picture)).convert("L"), float).mean() for picture in strip]
        self.assertTrue(mean[0] < mean[1] < mean[2], mean)
        self.strip_of({"part": "stage:lamps.9", "dial": "power", "values": [1]})
        told = [header["faults"][0]["fault"] for header, _ in self.sent if header["type"] == "faults"]
        self.assertEqual(told, ["the stage has no such part"])

    def test_a_bracket_past_what_is_allowed_is_told(self):
        self.show()
        self.work(2)
        self.bench.asked = {
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


class Gauges(SimpleTestCase):
    def test_the_newest_wish_of_each_bench_is_read_beside_the_picture(self):
        heard, done = [], threading.Event()

        def say(session, sequence, message, payload):
            heard.append((session, sequence, message["type"]))
            if sequence == 9:
                done.set()

        reader = GaugeReader(say)
        document = read(Material, demo("net-float"))
        about = (document, None, compile_network(document), None, None)
        for sequence in range(10):
            reader.read("a", sequence, about, "")
        self.assertTrue(done.wait(30))
        self.assertLess(len(heard), 10, "wishes that were overtaken are not read")
        self.assertEqual(heard[-1], ("a", 9, "reading"))


class Turns(SimpleTestCase):
    def test_a_newcomer_has_a_pass_make_way(self):
        renderer = Renderer(None, None)
        for session in ("a", "b"):
            renderer.hear({"type": "show", "session": session, "sequence": 1})
        first, second = renderer.benches["a"], renderer.benches["b"]
        self.assertTrue(renderer._is_needed(first))
        second.change = None
        self.assertFalse(renderer._is_needed(first))

    def test_benches_take_turns(self):
        renderer, order = Renderer(None, None), []
        for session in ("b", "c", "a"):
            renderer.hear({"type": "show", "session": session, "sequence": 1})
        for _ in range(6):
            renderer.last = renderer.next_bench().session
            order.append(renderer.last)
        self.assertEqual(order, ["a", "b", "c"] * 2)

    def test_a_closed_bench_is_forgotten(self):
        renderer = Renderer(None, None)
        for session in ("a", "b"):
            renderer.hear({"type": "show", "session": session, "sequence": 1})
        renderer.hear({"type": "close", "session": "a"})
        self.assertEqual(renderer.next_bench().session, "b")
        renderer.hear({"type": "close", "session": "b"})
        self.assertIsNone(renderer.next_bench())
