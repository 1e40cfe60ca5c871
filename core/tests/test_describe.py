from django.test import SimpleTestCase
from nineglass import catalogue
from nineglass.catalogue import ROLES, SLIPS
from nineglass.describe import Catalogue, choice, color_dial, color_stops, dial, gives, number_stops, toggle
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate

from tests.scenes import material

UNITS = {"nm", "um", "", "cm", "mm", "deg", "K", "W", "W/m2", "g/l", "EV", "%", "m/s", "s"}


class EveryKind(SimpleTestCase):
    def each(self):
        for role in ROLES:
            for kind in role.kinds.values():
                for one in kind.dials.values():
                    with self.subTest(role=role.role, kind=kind.name, dial=one.name):
                        yield kind, one

    def test_starts_from_what_is_allowed(self):
        for _, one in self.each():
            if one.type != "vector":
                self.assertIsNone(one.fault_of(one.default))

    def test_names_what_both_ends_of_a_number_look_like(self):
        for _, one in self.each():
            if one.type == "number":
                self.assertEqual(len(one.ends), 2)
                self.assertNotEqual(*one.ends)

    def test_has_a_range_on_screen_within_what_is_allowed(self):
        for _, one in self.each():
            if one.type == "number":
                self.assertLess(one.low, one.high)
                self.assertLessEqual(one.hard_low, one.low)
                self.assertGreaterEqual(one.hard_high, one.high)
                self.assertIn(one.unit, UNITS)

    def test_goes_logarithmically_above_nothing_only(self):
        for _, one in self.each():
            if one.scale == "log":
                self.assertGreater(one.low, 0)

    def test_has_words_for_people(self):
        for kind, one in self.each():
            self.assertTrue(kind.title and kind.help)
            self.assertTrue(one.label[0].isupper() or one.label == "at depth", one.label)
            self.assertNotIn("_", one.label)

    def test_is_written_into_the_catalogue_as_plain_values(self):
        told = catalogue.as_json()
        self.assertEqual(len(told["kinds"]), sum(len(role.kinds) for role in ROLES))
        self.assertIn({"source": "number", "target": "color", "says": "number to grey"}, told["conversions"])


class Values(SimpleTestCase):
    def refuses(self, one, *values):
        for value in values:
            wrong = one.fault_of(value)
            self.assertIsNotNone(wrong, f"{value!r} was taken")
            self.assertTrue(all(wrong))

    def test_numbers(self):
        one = dial(1, 0, 2, hard=(-5, 5), unit="cm")
        self.assertIsNone(one.fault_of(-5))
        self.refuses(one, 5.01, "1", True, None, float("inf"), float("nan"), [1])
        self.assertIn("cm", one.fault_of(9)[1])

    def test_colours_words_and_switches(self):
        self.refuses(color_dial((0, 0, 0)), [0, 0, 1.2], [0, 0], "#fff", [0, 0, None])
        self.assertIsNone(color_dial((0, 0, 0), hard=(0, 9)).fault_of([8, 0, 0]))
        self.refuses(choice("soft", "hard"), "medium", 1)
        self.refuses(toggle(True), 1, "yes", None)

    def test_stops(self):
        numbers, colours = number_stops([[0, 0], [1, 1]]), color_stops([[0, [0, 0, 0]], [1, [1, 1, 1]]])
        self.assertIsNone(numbers.fault_of([[0, 3], [0, 4], [1, -2]]))
        self.refuses(numbers, [[0, 1]], [[0, 1]] * 17, [[0, 1], [1, 2000]], [[0, [1, 1, 1]], [1, 1]])
        self.refuses(colours, [[0, 1], [1, 1]], [[0.5, [0, 0, 0]], [0.4, [1, 1, 1]]])


class OneDeclaration(SimpleTestCase):
    """The example of the README: a slip declared once is everywhere."""

    def setUp(self):
        @SLIPS.kind(title="Invert", family="shape", standard="invert")
        class Invert:
            """Turns a number upside down within 0 to 1."""

            value = dial(0.25, 0, 1, ends=("less", "more"))
            out = gives("number")

            def emit(self, ops, dials):
                return ops.one_minus(dials.value)

        self.addCleanup(SLIPS.kinds.pop, "invert")

    def test_is_checked_compiled_and_told(self):
        compiled = compile_network(material(slips=[{"id": "it", "kind": "invert"}]))
        self.assertEqual(compiled.ops.value_of(compiled.outputs["it", "out"]), 0.75)
        names = [kind["name"] for kind in catalogue.as_json()["kinds"]]
        self.assertIn("invert", names)
        faults = SLIPS.faults_of("slips[0]", "invert", {"value": 9})
        self.assertEqual(faults[0].path, "slips[0].dials.value")

    def test_can_be_driven(self):
        slips = [{"id": "f", "kind": "facing"}, {"id": "it", "kind": "invert"}]
        wires = [{"source": {"slip": "f"}, "target": {"part": "it", "dial": "value"}}]
        compiled = compile_network(material(slips=slips, wires=wires))
        given = evaluate(compiled.program, [compiled.outputs["it", "out"]], 1, facing=0.2)
        self.assertAlmostEqual(float(given[0, 0]), 0.8, places=5)

    def test_roles_do_not_mix(self):
        self.assertEqual(Catalogue("slip").kinds, {})
        self.assertNotIn("invert", catalogue.BANDS.kinds)
