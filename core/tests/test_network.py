from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.catalogue import SLIPS
from nineglass.documents.model import Material, read
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate
from nineglass.network.ops import Ops

from tests.scenes import demo, material, wire

COUNT = 700


def inputs(count=COUNT, seed=1):
    rng = np.random.default_rng(seed)
    places = {axis: rng.uniform(-5, 5, count).astype(np.float32) for axis in "xyz"}
    return {"facing": np.linspace(0, 1, count, dtype=np.float32), **places}


def values_of(slips, wires=(), port="out", of=-1, **given):
    """What a slip gives over some inputs: (channels, count)."""
    compiled = compile_network(material(slips=slips, wires=wires))
    signal = compiled.outputs[slips[of]["id"], port]
    registers = list(signal) if isinstance(signal, tuple) else [signal]
    given = inputs() | given
    return evaluate(compiled.program, registers, len(given["facing"]), **given)


def slip(id, kind, **dials):
    return {"id": id, "kind": kind, "dials": dials}


class EverySlip(SimpleTestCase):
    def test_gives_finite_numbers_with_its_defaults(self):
        for name, kind in SLIPS.kinds.items():
            for port in kind.gives:
                with self.subTest(slip=name, port=port.name):
                    values = values_of([slip("it", name)], port=port.name)
                    self.assertEqual(len(values), 1 if port.type == "number" else 3)
                    self.assertTrue(np.isfinite(values).all())

    def test_says_what_it_is_for(self):
        for kind in SLIPS.kinds.values():
            self.assertTrue(kind.help and kind.standard and kind.title)
            for dial in kind.dials.values():
                self.assertIsNone(dial.fault_of(dial.default) if dial.type != "vector" else None)


class Facing(SimpleTestCase):
    def test_is_the_cosine(self):
        np.testing.assert_allclose(values_of([slip("f", "facing")])[0], inputs()["facing"], atol=1e-5)

    def test_angle_and_inversion(self):
        facing = inputs()["facing"]
        given = values_of([slip("f", "facing", scale="angle", invert=True)])[0]
        np.testing.assert_allclose(given, np.arccos(facing) * 2 / np.pi, atol=1e-4)

    def test_bias_moves_the_middle(self):
        # Source: Schlick 1994: bias maps 0.5 to its amount and keeps both ends.
        middle = np.array([0, 0.5, 1], np.float32)
        given = values_of([slip("f", "facing", bias=0.8)], facing=middle, x=middle, y=middle, z=middle)[0]
        np.testing.assert_allclose(given, [0, 0.8, 1], atol=1e-5)


class Ramp(SimpleTestCase):
    def ramp(self, curve, at, stops=((0.0, 0.1), (0.25, 0.9), (1.0, 0.3))):
        stops = [list(stop) for stop in stops]
        slips = [slip("at", "facing"), slip("r", "ramp", curve=curve, stops=stops)]
        at = np.array(at, np.float32)
        return values_of(slips, [wire("at", "r.at")], facing=at, x=at, y=at, z=at)[0]

    def test_linear(self):
        given = self.ramp("linear", [0, 0.125, 0.25, 0.625, 1])
        np.testing.assert_allclose(given, [0.1, 0.5, 0.9, 0.6, 0.3], atol=1e-5)

    def test_step_holds_until_the_next_stop(self):
        np.testing.assert_allclose(self.ramp("step", [0, 0.24, 0.26, 0.99, 1]), [0.1, 0.1, 0.9, 0.9, 0.3], atol=1e-5)

    def test_smooth_is_flat_at_the_stops(self):
        near = self.ramp("smooth", [0.24, 0.25, 0.26])
        self.assertLess(float(np.abs(np.diff(near)).max()), 0.01)

    def test_colour(self):
        stops = [[0, [1, 0, 0]], [1, [0, 0, 1]]]
        slips = [slip("at", "facing"), slip("r", "color_ramp", stops=stops)]
        given = values_of(slips, [wire("at", "r.at")])
        facing = inputs()["facing"]
        np.testing.assert_allclose(given, [1 - facing, 0 * facing, facing], atol=1e-5)


class Calculations(SimpleTestCase):
    def test_arithmetic(self):
        expected = {
            "add": 0.9, "subtract": 0.3, "multiply": 0.18, "divide": 2.0, "power": 0.6**0.3, "smaller": 0.3, "larger": 0.6
        }  # fmt: skip
        for how, value in expected.items():
            given = values_of([slip("a", "arithmetic", how=how, first=0.6, second=0.3)])
            np.testing.assert_allclose(given, value, atol=1e-6)
            driven = values_of(
                [slip("n", "facing"), slip("a", "arithmetic", how=how, second=0.3)],
                [wire("n", "a.first")],
                facing=np.full(4, 0.6, np.float32), x=np.zeros(4), y=np.zeros(4), z=np.zeros(4),
            )  # fmt: skip
            np.testing.assert_allclose(driven, value, atol=1e-5)

    def test_division_by_nothing_is_nothing(self):
        np.testing.assert_array_equal(values_of([slip("a", "arithmetic", how="divide", second=0)]), 0)

    def test_remap_clamp_and_mix(self):
        remap = slip("r", "remap", from_low=0.2, from_high=0.6, to_low=1, to_high=3)
        given = values_of([slip("n", "facing"), remap], [wire("n", "r.value")])[0]
        facing = inputs()["facing"]
        np.testing.assert_allclose(given, 1 + np.clip((facing - 0.2) / 0.4, 0, 1) * 2, atol=1e-5)
        clamp = values_of([slip("n", "facing"), slip("c", "clamp", low=0.3, high=0.4)], [wire("n", "c.value")])[0]
        np.testing.assert_allclose(clamp, np.clip(facing, 0.3, 0.4), atol=1e-6)
        mix = values_of([slip("n", "facing"), slip("m", "mix", thin=2, thick=4)], [wire("n", "m.amount")])[0]
        np.testing.assert_allclose(mix, 2 + 2 * facing, atol=1e-5)

    def test_a_number_widens_to_grey(self):
        given = values_of([slip("n", "facing"), slip("m", "color_mix", amount=0.0)], [wire("n", "m.thin")])
        for channel in given:
            np.testing.assert_allclose(channel, inputs()["facing"], atol=1e-6)


class Noise(SimpleTestCase):
    def test_is_spread_about_the_middle(self):
        values = values_of([slip("n", "fractal_noise", octaves=1)])[0]
        self.assertAlmostEqual(float(values.mean()), 0.5, delta=0.05)
        self.assertGreater(float(values.std()), 0.08)
        self.assertTrue(((values >= 0) & (values <= 1)).all())

    def test_is_nothing_at_whole_numbers(self):
        # Source: Perlin 2002: gradient noise vanishes on the lattice.
        whole = np.arange(-4, 5, dtype=np.float32)
        given = values_of(
            [slip("n", "fractal_noise", octaves=1, size=1.0)], facing=whole, x=whole, y=whole[::-1].copy(), z=whole
        )
        np.testing.assert_allclose(given, 0.5, atol=1e-5)

    def test_size_scales_the_pattern(self):
        place = inputs()
        double = {axis: place[axis] * 2 for axis in "xyz"}
        small = values_of([slip("n", "fractal_noise", size=1.0)])
        large = values_of([slip("n", "fractal_noise", size=2.0)], **double)
        np.testing.assert_allclose(small, large, atol=1e-4)


class Program(SimpleTestCase):
    def test_constants_are_worked_out_beforehand(self):
        compiled = compile_network(material(slips=[slip("a", "arithmetic", first=2, second=3)]))
        self.assertEqual(len(compiled.program.operations), 0)

    def test_a_part_of_a_program_gives_what_the_whole_gives(self):
        slips = [slip("n", "worley"), slip("m", "remap"), slip("idle", "fractal_noise")]
        wires = [wire("n.border", "m.value"), wire("m", "interface.specular_roughness")]
        compiled = compile_network(material(slips=slips, wires=wires))
        wanted = compiled.by_band["interface", "specular_roughness"]
        part = compiled.program.only({wanted})
        self.assertLess(len(part.operations), len(compiled.program.operations) / 3)
        place = {axis: np.linspace(-2, 3, 99, dtype=np.float32) * (i + 1) for i, axis in enumerate("xyz")}
        whole, alike = (evaluate(one, [wanted], 99, **place) for one in (compiled.program, part))
        np.testing.assert_array_equal(whole, alike)
        self.assertGreater(np.ptp(whole), 0.1)

    def test_the_same_work_is_done_once(self):
        ops = Ops()
        a, b = ops.facing, ops.constant(2)
        self.assertEqual(ops.mul(a, b), ops.mul(a, b))

    @given(st.lists(st.sampled_from(["add", "sub", "mul", "min", "max"]), min_size=1, max_size=30))
    @settings(max_examples=40, deadline=None)
    def test_interpreting_agrees_with_numpy(self, names):
        x, y = inputs()["x"], inputs()["y"]
        ops = Ops()
        value, expected = ops.input("x"), x.astype(np.float64)
        functions = {"add": np.add, "sub": np.subtract, "mul": np.multiply, "min": np.minimum, "max": np.maximum}
        for name in names:
            value = ops.mul(getattr(ops, name)(value, ops.input("y")), ops.constant(0.2))
            expected = functions[name](expected, y) * 0.2
        given = evaluate(ops.program(), [value], COUNT, x=x, y=y)[0]
        np.testing.assert_allclose(given, expected, rtol=1e-4, atol=1e-4)

    def test_a_chain_of_four_hundred_slips_compiles(self):
        slips = [slip("s0", "facing"), *[slip(f"s{i}", "remap", to_high=0.9) for i in range(1, 400)]]
        wires = [wire(f"s{i}", f"s{i + 1}.value") for i in range(399)]
        self.assertTrue(np.isfinite(values_of(slips, wires)).all())


class Places(SimpleTestCase):
    """Registers are used again after their last reader."""

    def test_the_same_comes_out_of_fewer(self):
        for name in ("tea-caddy", "driftwood", "shears", "oil-slate", "nacre-layers"):
            given = demo(name)
            if given["format"] != "nineglass.material":
                continue
            compiled = compile_network(read(Material, given))
            wanted = sorted(
                {
                    r
                    for leaf in compiled.leaves
                    for s in leaf.dials.values()
                    for r in (s if isinstance(s, tuple) else (s,))
                }
            )
            program = compiled.program.only(set(wanted))
            found, count = program.places(set(wanted))
            constants = [register for register, _ in program.constants]
            places = np.full(program.registers + 1, -1, np.int32)
            places[list(found)] = list(found.values())
            places[constants] = count + np.arange(len(constants))
            few = replace(program.moved(places), registers=count + len(constants))
            rng = np.random.default_rng(2)
            inputs = {one: rng.random(64).astype(np.float32) for one in program.inputs}
            np.testing.assert_array_equal(
                evaluate(few, places[wanted].tolist(), 64, **inputs), evaluate(program, wanted, 64, **inputs)
            )
            self.assertLess(few.registers, program.registers)
