from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.model import Material, Settings, Stage, read
from nineglass.network.compile import compile_network

from tests.scenes import demo, wire

FLOAT = {
    "section": {"bands": [{"id": "interface", "kind": "interface"}, {"id": "interior", "kind": "interior"}]},
}


def faults(model, document):
    try:
        read(model, document)
    except Refused as refused:
        return refused.faults
    return []


class Faults(SimpleTestCase):
    def refuse(self, document, path, *words, model=Material):
        found = faults(model, document)
        self.assertTrue(found, "the document was taken")
        lines = [fault.line() for fault in found]
        match = [line for line in lines if line.startswith(path)]
        self.assertTrue(match, lines)
        for word in words:
            self.assertIn(word, match[0])
        self.assertTrue(all(fault.allowed for fault in found))

    def with_dial(self, band, dial, value):
        bands = [dict(b) for b in FLOAT["section"]["bands"]]
        next(b for b in bands if b["id"] == band)["dials"] = {dial: value}
        return {"section": {"bands": bands}}

    def test_the_demo_is_right(self):
        self.assertEqual(faults(Material, demo("net-float")), [])
        for name in ("lamp-room", "window-bench"):
            self.assertEqual(faults(Stage, demo(name)), [])

    def test_out_of_range_names_the_field_and_the_range(self):
        self.refuse(
            self.with_dial("interface", "specular_ior", 7),
            "section.bands[0].dials.specular_ior",
            "7 is out of range",
            "from 1 to 3",
        )

    def test_values_of_the_wrong_kind(self):
        path = "section.bands[1].dials.transmission_color"
        for value in (0.5, [1, 2], ["a", 0, 0], [0, 0, 2], [True, 0, 0], None):
            self.refuse(self.with_dial("interior", "transmission_color", value), path, "three numbers")
        self.refuse(self.with_dial("interface", "specular_ior", "1.5"), "section.bands[0].dials.specular_ior", "number")
        self.refuse(self.with_dial("interface", "specular_ior", float("nan")), "section.bands[0]")

    def test_unknown_names(self):
        self.refuse(self.with_dial("interface", "shine", 1), "section.bands[0].dials.shine", "specular_ior")
        self.refuse({**FLOAT, "colour": 1}, "colour", "no such field")
        self.refuse({**FLOAT, "slips": [{"id": "a", "kind": "wood"}]}, "slips[0].kind", "'wood'", "facing")

    def test_structure(self):
        self.refuse({}, "section", "missing")
        self.refuse("{", "$", "not JSON")
        self.refuse("[" * 100_000, "$")
        self.refuse({**FLOAT, "version": 9}, "version")
        two = {"section": {"bands": [*FLOAT["section"]["bands"], {"id": "interior", "kind": "interior"}]}}
        self.refuse(two, "section.bands[2]")
        upside_down = {"section": {"bands": FLOAT["section"]["bands"][::-1]}}
        self.refuse(upside_down, "section.bands[1]", "matter begins at its boundary")

    def test_stage_and_settings(self):
        stage = demo("lamp-room")
        stage["objects"][0]["form"]["dials"]["diameter"] = -3
        self.refuse(stage, "objects[0].form.dials.diameter", "-3", "cm", model=Stage)
        self.refuse({"picture_side": 9}, "picture_side", "96", model=Settings)

    def wired(self, slips, *wires):
        return {**FLOAT, "slips": [{"id": i, "kind": k} for i, k in slips], "wires": list(wires)}

    def test_a_cycle_is_named(self):
        document = self.wired([("a", "remap"), ("b", "clamp")], wire("a", "b.value"), wire("b", "a.value"))
        self.refuse(document, "wires[", "a cycle", "a", "b", ".value")

    def test_a_slip_that_feeds_itself(self):
        self.refuse(self.wired([("a", "remap")], wire("a", "a.value")), "wires[0]", "a cycle")

    def test_types_that_do_not_convert_are_named(self):
        document = self.wired([("where", "position")], wire("where", "interface.specular_roughness"))
        self.refuse(document, "wires[0]", "where.out gives a vector", "interface.specular_roughness takes a number")
        document = self.wired([("level", "number")], wire("level", "interface.normal"))
        self.refuse(document, "wires[0]", "number", "vector")

    def test_a_colour_becomes_its_luminance(self):
        document = self.wired([("tint", "color")], wire("tint", "interface.specular_roughness"))
        compiled = compile_network(read(Material, document))
        # IEC 61966-2-1: 0.2126 r + 0.7152 g + 0.0722 b of the slip's default (0.35, 0.7, 0.5).
        self.assertAlmostEqual(compiled.constant("interface", "specular_roughness"), 0.61115, places=5)

    def test_a_number_widens_to_a_colour(self):
        document = self.wired([("level", "number")], wire("level", "interior.transmission_color"))
        self.assertEqual(faults(Material, document), [])

    def test_wires_to_nowhere(self):
        slips = [("level", "number")]
        self.refuse(self.wired(slips, wire("gone", "interface.specular_ior")), "wires[0].source.slip", "gone")
        self.refuse(self.wired(slips, wire("level", "gone.dial")), "wires[0].target.part", "gone")
        self.refuse(self.wired(slips, wire("level.side", "interface.specular_ior")), "wires[0].source.port", "side")
        self.refuse(self.wired(slips, wire("level", "interface.shine")), "wires[0].target.dial", "shine")
        twice = self.wired(slips, *[wire("level", "interface.specular_ior")] * 2)
        self.refuse(twice, "wires[1]", "already")

    def test_ramps(self):
        for stops in ([[0, 1]], [[0.5, 1], [0.2, 0]], [[0, 1], [2, 0]], [[0, "x"], [1, 0]], "none"):
            slip = {"id": "r", "kind": "ramp", "dials": {"stops": stops}}
            self.refuse({**FLOAT, "slips": [slip]}, "slips[0].dials.stops")

    def test_what_is_read_writes_the_same_again(self):
        document = read(Material, demo("net-float"))
        self.assertEqual(read(Material, document.model_dump_json()), document)
