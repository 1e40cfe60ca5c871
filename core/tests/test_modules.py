"""Modules: several slips as one, with dials of their own."""

import copy

import numpy as np
from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.migrations import migrated
from nineglass.documents.model import Material, ModuleFile, read
from nineglass.documents.modules import DEEPEST, kinds_of_modules
from nineglass.gauges import reading_of
from nineglass.gauges.slips import slip_pictures
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate

from tests.scenes import wire

BANDS = [{"id": "i", "kind": "interface"}, {"id": "in", "kind": "interior"}]
RIM = {
    "id": "rim",
    "name": "Soft rim",
    "help": "Facing, sharpened.",
    "slips": [
        {"id": "facing", "kind": "facing", "dials": {"invert": True, "bias": 0.3}},
        {"id": "times", "kind": "arithmetic", "dials": {"how": "multiply", "second": 0.5}},
    ],
    "wires": [wire("facing", "times.first")],
    "dials": [
        {
            "name": "sharpness",
            "label": "Sharpness",
            "target": {"part": "facing", "dial": "gain"},
            "low": 0.1,
            "high": 0.9,
        },
        {"name": "strength", "target": {"part": "times", "dial": "second"}},
    ],
    "gives": [{"name": "out", "source": {"slip": "times"}}],
}


def use(id: str = "use", module: str = "rim", **dials) -> dict:
    return {"id": id, "kind": "module", "module": module, "dials": dials}


def material(slips, wires, modules=(RIM,)) -> Material:
    document = {"section": {"bands": BANDS}, "slips": slips, "wires": wires, "modules": list(modules)}
    return read(Material, copy.deepcopy(document))


def roughness(document: Material) -> np.ndarray:
    """What arrives at the interface over facing."""
    compiled = compile_network(document)
    facing = np.linspace(0, 1, 64, dtype=np.float32)
    return evaluate(compiled.program, [compiled.by_band["i", "specular_roughness"]], 64, facing=facing)[0]


def by_hand(gain=0.5, strength=0.5) -> np.ndarray:
    slips = [
        {"id": "facing", "kind": "facing", "dials": {"invert": True, "bias": 0.3, "gain": gain}},
        {"id": "times", "kind": "arithmetic", "dials": {"how": "multiply", "second": strength}},
    ]
    return roughness(material(slips, [wire("facing", "times.first"), wire("times", "i.specular_roughness")], ()))


INTO_ROUGHNESS = [wire("use", "i.specular_roughness")]


def nested(deep: int) -> list[dict]:
    """Modules around RIM, each using the one before and exposing its sharpness."""
    modules = [RIM]
    for k in range(1, deep):
        modules.append(
            {
                "id": f"m{k}",
                "name": f"Level {k}",
                "slips": [use("inner", modules[-1]["id"])],
                "dials": [{"name": "sharpness", "target": {"part": "inner", "dial": "sharpness"}}],
                "gives": [{"name": "out", "source": {"slip": "inner"}}],
            }
        )
    return modules


class Modules(SimpleTestCase):
    def fault(self, document: dict) -> str:
        with self.assertRaises(Refused) as caught:
            read(Material, {"section": {"bands": BANDS}} | document)
        return caught.exception.faults[0].line()

    def test_a_module_gives_what_its_slips_give(self):
        np.testing.assert_array_equal(roughness(material([use()], INTO_ROUGHNESS)), by_hand())

    def test_its_dials_are_those_that_it_exposes_in_their_order_with_their_range(self):
        kind = kinds_of_modules(material([use()], []).modules)["rim"]
        self.assertEqual(list(kind.dials), ["sharpness", "strength"])
        sharpness, strength = kind.dials.values()
        self.assertEqual(
            (sharpness.label, sharpness.low, sharpness.high, sharpness.default), ("Sharpness", 0.1, 0.9, 0.5)
        )
        self.assertEqual((strength.label, strength.default), ("Second", 0.5))
        self.assertEqual([(port.name, port.type) for port in kind.gives], [("out", "number")])

    def test_what_is_set_on_a_use_is_its_own(self):
        slips = [use(sharpness=0.8), use("other")]
        np.testing.assert_array_equal(roughness(material(slips, INTO_ROUGHNESS)), by_hand(gain=0.8))
        np.testing.assert_array_equal(roughness(material(slips, [wire("other", "i.specular_roughness")])), by_hand())

    def test_every_use_follows_the_module(self):
        changed = copy.deepcopy(RIM)
        changed["slips"][1]["dials"]["second"] = 0.25
        for name in ("use", "other"):
            document = material([use(), use("other")], [wire(name, "i.specular_roughness")], [changed])
            np.testing.assert_array_equal(roughness(document), by_hand(strength=0.25))

    def test_its_dials_are_driven(self):
        half = {"id": "half", "kind": "number", "dials": {"value": 0.7}}
        document = material([half, use()], [wire("half", "use.sharpness"), *INTO_ROUGHNESS])
        np.testing.assert_array_equal(roughness(document), by_hand(gain=0.7))

    def test_a_module_may_feed_a_module(self):
        document = material(
            [use(), use("second")], [wire("use", "second.strength"), wire("second", "i.specular_roughness")]
        )
        np.testing.assert_allclose(roughness(document), by_hand(strength=1.0) * by_hand(), atol=1e-6)

    def test_modules_lie_within_one_another_to_eight(self):
        modules = nested(DEEPEST)
        document = material([use(module=modules[-1]["id"], sharpness=0.8)], INTO_ROUGHNESS, modules)
        np.testing.assert_array_equal(roughness(document), by_hand(gain=0.8))
        self.assertIn("more than 8 deep", self.fault({"modules": nested(DEEPEST + 1)}))

    def test_a_module_cannot_hold_itself(self):
        one = RIM | {"slips": [*RIM["slips"], use("again", "other")]}
        other = {"id": "other", "name": "Other", "slips": [use("again", "rim")]}
        self.assertIn("holds itself", self.fault({"modules": [one, other]}))

    def test_modules_that_open_out_to_too_much_are_refused_at_once(self):
        modules = [RIM]
        for k in range(1, DEEPEST):
            modules.append({"id": f"m{k}", "name": "x", "slips": [use(f"u{j}", modules[-1]["id"]) for j in range(40)]})
        self.assertIn("with every module opened out", self.fault({"modules": modules, "slips": [use(module="m7")]}))

    def test_faults_name_the_place_within(self):
        for change, says in (
            ({"wires": [wire("nobody", "times.first")]}, "modules[0].wires[0].source.slip: there is no slip 'nobody'"),
            ({"gives": [{"name": "out", "source": {"slip": "nobody"}}]}, "modules[0].gives[0].source: nothing gives"),
            ({"dials": [{"name": "a", "target": {"part": "times", "dial": "first"}}]}, "times.first is driven within"),
            ({"dials": [{"name": "a", "target": {"part": "times", "dial": "c"}}]}, "there is no dial times.c"),
            ({"slips": [{"id": "facing", "kind": "facing", "dials": {"gain": 7}}]}, "modules[0].slips[0].dials.gain"),
            ({"dials": [RIM["dials"][0], RIM["dials"][0]]}, "'sharpness' is there twice"),
        ):
            self.assertIn(says, self.fault({"modules": [RIM | change]}))
        self.assertIn("there is no module 'gone'", self.fault({"modules": [RIM], "slips": [use(module="gone")]}))
        self.assertIn("dials.gain: Soft rim has no such dial", self.fault({"modules": [RIM], "slips": [use(gain=0.2)]}))
        ways = [wire("use", "sum.first")]
        self.assertIn(
            "use gives no 'height'",
            self.fault(
                {
                    "modules": [RIM],
                    "slips": [use(), {"id": "sum", "kind": "arithmetic"}],
                    "wires": [ways[0] | {"source": {"slip": "use", "port": "height"}}],
                }
            ),
        )

    def test_pictures_of_a_use_and_of_the_slips_within(self):
        reading = reading_of(material([use(sharpness=0.8)], INTO_ROUGHNESS))
        self.assertEqual(list(slip_pictures(reading)), ["use"])
        within = slip_pictures(reading, "use")
        self.assertEqual(list(within), ["facing", "times"])
        self.assertEqual(within["times"]["values"], slip_pictures(reading)["use"]["values"])
        self.assertEqual(within["facing"]["draws"], "curve")

    def test_a_bump_within_a_module_has_its_slopes(self):
        bump = {
            "id": "bumpy",
            "name": "Bumpy",
            "slips": [
                {"id": "noise", "kind": "noise"},
                {"id": "bump", "kind": "bump"},
            ],
            "wires": [wire("noise", "bump.height")],
            "gives": [{"name": "normal", "source": {"slip": "bump"}}],
        }
        used = material([use(module="bumpy")], [wire("use.normal", "i.normal")], [bump])
        flat = material(bump["slips"], [*bump["wires"], wire("bump", "i.normal")], ())
        here = {name: np.linspace(0.1, 2, 32, dtype=np.float32) for name in ("x", "y", "z")} | {
            "normal_z": np.float32(1)
        }
        values = [
            evaluate(made.program, list(made.by_band["i", "normal"]), 32, **here)
            for made in (compile_network(used), compile_network(flat))
        ]
        np.testing.assert_array_equal(*values)
        self.assertGreater(float(np.ptp(values[0])), 0.01)

    def test_a_module_by_itself_is_a_file_with_those_that_it_is_made_of(self):
        kept = read(ModuleFile, {"modules": nested(3)[::-1]})
        self.assertEqual([module.id for module in kept.modules], ["m2", "m1", "rim"])
        with self.assertRaises(Refused):
            read(ModuleFile, {"modules": nested(3)[2:]})

    def test_a_note_is_kept_and_drives_nothing(self):
        note = {"id": "note_1", "kind": "note", "dials": {"text": "The client wants it greener."}}
        document = material([note, use()], INTO_ROUGHNESS)
        np.testing.assert_array_equal(roughness(document), by_hand())
        self.assertNotIn("note_1", slip_pictures(reading_of(document)))
        with self.assertRaises(Refused):
            material([note | {"dials": {"text": "x" * 2001}}], [], ())


class FromVersion1(SimpleTestCase):
    def test_the_report_says_what_is_new(self):
        old = {"format": "nineglass.material", "version": 1, "name": "Old", "section": {"bands": BANDS}}
        new, report = migrated(old)
        self.assertEqual((new["version"], new["name"]), (2, "Old"))
        self.assertIn("modules", report[0])
        self.assertEqual(report[1:], ["all the rest is as it was"])
        self.assertEqual(read(Material, old).version, 2)

    def test_what_is_called_otherwise_and_what_was_never_heeded_is_told(self):
        slips = [
            {"id": "n", "kind": "number"},
            {"id": "t", "kind": "random_tiles", "dials": {"tilt": 0.7}},
            {"id": "u", "kind": "random_tiles"},
            {"id": "f", "kind": "film_color"},
        ]
        wires = [wire("n", "u.tilt"), wire("n", "f.ior"), wire("n", "f.thickness")]
        old = {
            "format": "nineglass.material",
            "version": 1,
            "section": {"bands": BANDS},
            "slips": slips,
            "wires": wires,
        }
        _, report = migrated(old)
        document = read(Material, old)
        self.assertEqual(document.slips[1].dials, {"turn": 0.7})
        self.assertEqual([one.target.dial for one in document.wires], ["turn", "thickness"])
        self.assertTrue(any("'tilt' is now called 'turn'" in line for line in report))
        self.assertTrue(any(line.startswith("wires[1]: taken off") for line in report))

    def test_what_is_malformed_is_refused_by_name(self):
        for broken in ({"slips": ["x"]}, {"slips": 7}, {"wires": [{}]}, {"wires": [{"target": 3}]}):
            old = {"format": "nineglass.material", "version": 1, "section": {"bands": BANDS}} | broken
            with self.assertRaises(Refused):
                read(Material, old)
