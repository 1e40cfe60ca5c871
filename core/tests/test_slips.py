"""Every slip against a plain NumPy statement of what it means, on random inputs; and its picture against the renderer's value."""

import base64
import io

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import SLIPS
from nineglass.describe import Refused
from nineglass.documents.model import Material, read
from nineglass.gauges import reading_of
from nineglass.gauges.bench import read_bench
from nineglass.kernels import F
from nineglass.network.compile import compile_network
from nineglass.network.gradients import GRADIENTS
from nineglass.network.interpret import evaluate
from nineglass.network.ops import INPUTS
from nineglass.network.pictures import film_chart, our_picture
from nineglass.network.slips.color import glow
from nineglass.network.slips.light import band_color
from nineglass.optics.film import boundary_reflectance
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter
from nineglass.trace.hold_up import hold_up
from nineglass.trace.scene import build_set
from PIL import Image

from tests.scenes import demo, stage, wire

COUNT = 257
GRAVITY = (0.2126, 0.7152, 0.0722)


def random_inputs(seed=11) -> dict:
    rng = np.random.default_rng(seed)
    given = {name: rng.uniform(-2, 2, COUNT).astype(np.float32) for name in INPUTS}
    given |= {
        name: rng.random(COUNT).astype(np.float32)
        for name in ("facing", "u", "v", "object", "piece", "time", "along", "strand")
    }
    for stem in ("normal", "view"):
        whole = np.stack([given[f"{stem}_{axis}"] for axis in "xyz"])
        whole /= np.linalg.norm(whole, axis=0)
        given |= {f"{stem}_{axis}": whole[i].astype(np.float32) for i, axis in enumerate("xyz")}
    return given


INPUT = random_inputs()


def alone(kind: str, **dials) -> Material:
    bands = [{"id": "interface", "kind": "interface"}]
    return read(Material, {"section": {"bands": bands}, "slips": [{"id": "it", "kind": kind, "dials": dials}]})


def driven(kind: str, vectors: dict, **dials) -> Material:
    """A slip with vectors wired to its dials, each from a slip that gives it."""
    slips = [{"id": "it", "kind": kind, "dials": dials}]
    slips += [{"id": f"s_{dial}", "kind": source} for dial, source in vectors.items()]
    wires = [wire(f"s_{dial}", f"it.{dial}") for dial in vectors]
    return read(
        Material, {"section": {"bands": [{"id": "interface", "kind": "interface"}]}, "slips": slips, "wires": wires}
    )


def outputs(document: Material, port: str = "out") -> np.ndarray:
    compiled = compile_network(document)
    signal = compiled.outputs["it", port]
    return evaluate(compiled.program, list(signal) if isinstance(signal, tuple) else [signal], COUNT, **INPUT)


def lum(color):
    return np.tensordot(GRAVITY, np.asarray(color, float), axes=(0, 0))


def bias(t, a):
    return t / ((1 / a - 2) * (1 - t) + 1)


def gain(t, a):
    return np.where(t < 0.5, bias(2 * t, 1 - a) / 2, bias(2 * t - 1, a) / 2 + 0.5)


P = np.stack([INPUT[a] for a in "xyz"]).astype(float)
N = np.stack([INPUT[f"normal_{a}"] for a in "xyz"]).astype(float)
V = np.stack([INPUT[f"view_{a}"] for a in "xyz"]).astype(float)
S = np.stack([INPUT[f"stage_{a}"] for a in "xyz"]).astype(float)
SIZE = np.stack([INPUT[a] for a in ("width", "height", "depth")]).astype(float)
AXES = {
    space: np.stack([[INPUT[f"{space}_{way}_{a}"] for a in "xyz"] for way in ("right", "up", "front")]).astype(float)
    for space in ("stage", "camera")
}
"""(way, axis, place)."""
U, W, FACING = INPUT["u"].astype(float), INPUT["v"].astype(float), INPUT["facing"].astype(float)
ONES = np.ones(COUNT)
COLOR = np.array([0.35, 0.7, 0.5])


def unit(a):
    return a / np.linalg.norm(a, axis=0)


def flat(color):
    return np.asarray(color, float)[:, None] * ONES


def turned(x, y, degrees):
    a = np.radians(degrees)
    return x * np.cos(a) - y * np.sin(a), x * np.sin(a) + y * np.cos(a)


def fresnel(c, n):
    t = np.sqrt(1 - (1 - c * c) / n**2)
    return (((c - n * t) / (c + n * t)) ** 2 + ((n * c - t) / (n * c + t)) ** 2) / 2


def triangle_wave(x):
    return np.where(np.floor(x) % 2 == 1, 1 - x % 1, x % 1)


def eased(t):
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


SHIFTED = INPUT["along"] + 0.05 * (2 * INPUT["strand"] - 1)

MEANINGS = {
    "facing": (
        alone("facing", scale="angle", bias=0.3, gain=0.7, invert=True),
        1 - gain(bias(1 - np.arccos(FACING) * 2 / np.pi, 0.3), 0.7),
    ),
    "position": (alone("position"), P),
    "stage_position": (alone("stage_position"), S),
    "normal": (alone("normal"), N),
    "view_direction": (alone("view_direction"), V),
    "tangent": (alone("tangent"), unit(np.stack([INPUT[f"u_{a}"] for a in "xyz"]))),
    "texture_coordinates": (alone("texture_coordinates"), np.stack([U, W, 0 * U])),
    "height_along": (alone("height_along", axis="x", start=-1, end=2), np.clip((P[0] + 1) / 3, 0, 1)),
    "object_size": (alone("object_size"), SIZE),
    "random_per_piece": (alone("random_per_piece", low=-1, high=1), 2 * INPUT["piece"] - 1),
    "random_per_object": (alone("random_per_object", low=2, high=4), 2 + 2 * INPUT["object"]),
    "time": (alone("time"), INPUT["time"]),
    "checker": (alone("checker", size=0.5), np.floor(P / np.float32(0.5)).sum(axis=0) % 2),
    "waves": (alone("waves", size=1.5, axis="z", shift=0.25), 0.5 + 0.5 * np.sin(2 * np.pi * (P[2] / 1.5 + 0.25))),
    "place_2d": (
        alone("place_2d", across=0.1, up=-0.2, turn=30, times_across=2, times_up=3),
        np.stack([turned(U - 0.5, W - 0.5, 30)[0] * 2 + 0.6, turned(U - 0.5, W - 0.5, 30)[1] * 3 + 0.3, 0 * U]),
    ),
    "place_3d": (
        alone("place_3d", shift_x=1, turn_z=90, times_y=2),
        np.stack([-P[1], 2 * (P[0] - 1), P[2]]),
    ),
    "projection": (alone("projection", how="flat", size=4), np.stack([P[0] / 4 + 0.5, P[1] / 4 + 0.5, 0 * U])),
    "tiling": (
        alone("tiling", across=3, up=2, mirror=True),
        np.stack([triangle_wave(U * 3), triangle_wave(W * 2), 0 * U]),
    ),
    "turn": (driven("turn", {"vector": "position"}, angle=90), np.stack([P[2], P[1], -P[0]])),
    "ramp": (alone("ramp", at=0.25, stops=[[0, 1], [0.5, 3], [1, 0]]), 2 * ONES),
    "color_ramp": (alone("color_ramp", at=0.5, stops=[[0, [0, 0, 1]], [1, [1, 0.5, 0]]]), flat([0.5, 0.25, 0.5])),
    "driven_ramp": (alone("driven_ramp", at=0.5, place_2=0.4, value_2=2.0, place_3=0.6, value_3=4.0), 3 * ONES),
    "driven_color_ramp": (
        alone("driven_color_ramp", at=0.5, place_2=0.4, color_2=[0, 1, 0], place_3=0.6, color_3=[1, 0.5, 0]),
        flat([0.5, 0.75, 0]),
    ),
    "curve": (alone("curve", at=0.65), 0.85 * ONES),
    "remap": (alone("remap", value=0.3, from_low=0.1, from_high=0.5, to_low=2, to_high=4), 3 * ONES),
    "clamp": (alone("clamp", value=3, low=0.2, high=0.7), 0.7 * ONES),
    "mix": (alone("mix", thin=1, thick=3, amount=0.25), 1.5 * ONES),
    "arithmetic": (alone("arithmetic", how="remainder", first=2.7, second=0.5), 0.2 * ONES),
    "function": (alone("function", how="fraction", value=-0.3), 0.7 * ONES),
    "comparison": (alone("comparison", how="first is less", first=0.2, second=0.3), ONES),
    "switch": (alone("switch", which=2.4), 0.67 * ONES),
    "bias_gain": (alone("bias_gain", value=0.3, bias=0.4, gain=0.6), gain(bias(0.3 * ONES, 0.4), 0.6)),
    "gamma": (alone("gamma", value=0.3, gamma=2.5), 0.3**2.5 * ONES),
    "smooth_step": (alone("smooth_step", value=0.4, low=0.2, high=0.7), (0.4**2 * (3 - 0.8)) * ONES),
    "number": (alone("number", value=0.7), 0.7 * ONES),
    "color": (alone("color", value=[0.1, 0.2, 0.3]), flat([0.1, 0.2, 0.3])),
    "color_mix": (alone("color_mix", thin=[0, 0, 0], thick=[1, 0.5, 0.2], amount=0.5), flat([0.5, 0.25, 0.1])),
    "color_blend": (
        alone("color_blend", how="screen", below=[0.5, 0.2, 0], above=[0.5, 0.5, 0.3]),
        flat([0.75, 0.6, 0.3]),
    ),
    "hue_shift": (alone("hue_shift", color=[1, 0, 0], shift=1 / 3), flat([0, 1, 0])),
    "saturation": (alone("saturation", amount=0.0), lum(COLOR) * np.ones((3, COUNT))),
    "brightness": (alone("brightness", amount=1.5), flat(COLOR * 1.5)),
    "exposure": (alone("exposure", stops=-2), flat(COLOR / 4)),
    "contrast": (alone("contrast", amount=2, pivot=0.5), flat((COLOR - 0.5) * 2 + 0.5)),
    "combine_color": (alone("combine_color", red=0.1, green=0.2, blue=0.9), flat([0.1, 0.2, 0.9])),
    "luminance": (alone("luminance"), lum(COLOR) * ONES),
    "black_body": (alone("black_body", kelvin=1900), flat(glow(1900))),
    "spectrum": (alone("spectrum", values=[[380, 0.5], [780, 0.5]]), flat(rgb_of_filter(0.5 * np.ones(401)))),
    "combine_vector": (alone("combine_vector", x=1, y=2, z=3), flat([1, 2, 3])),
    "vector_arithmetic": (
        driven("vector_arithmetic", {"first": "position", "second": "normal"}, times=0.5),
        P + 0.5 * N,
    ),
    "dot_product": (driven("dot_product", {"first": "position", "second": "normal"}), (P * N).sum(axis=0)),
    "cross_product": (driven("cross_product", {"first": "position", "second": "normal"}), np.cross(P.T, N.T).T),
    "normalise": (driven("normalise", {"vector": "position"}), unit(P)),
    "change_of_space": (driven("change_of_space", {"vector": "view_direction"}, into="eye"), flat([0, 0, 1])),
    "bump": (alone("bump", height=0.4), N),
    "normal_from_picture": (alone("normal_from_picture"), N),
    "fresnel": (alone("fresnel", ior=1.5), fresnel(FACING, 1.5)),
    "absorption_at_depth": (
        alone("absorption_at_depth", color=[0.5, 0.25, 1], at_depth=2, depth=4),
        flat([0.25, 0.0625, 1]),
    ),
    "wavelength_band": (alone("wavelength_band", wavelength=520, width=30), flat(band_color(520, 30.0))),
    "strand": (alone("strand"), INPUT["along"]),
    "at_the_root": (alone("at_the_root"), P),
    "position_on_strand": (alone("position_on_strand"), np.stack([INPUT[f"strand_{a}"] for a in "xyz"])),
    "strand_bands": (
        alone("strand_bands", begins=0.2, ends_at=0.7, softness=0.1, uneven=0.05),
        eased((SHIFTED - 0.1) / 0.2) * (1 - eased((SHIFTED - 0.6) / 0.2)),
    ),
    "film_color": (alone("film_color", thickness=1000 / 256 * 127, cosine=1.0), None),
}
"""Each slip that can be said in one line: (a material with it as `it`, what its first output must be)."""

PORTS = {
    ("position", "height"): (alone("position", span=4), np.clip(P[1] / 4 + 0.5, 0, 1)),
    ("texture_coordinates", "across"): (alone("texture_coordinates"), U),
    ("texture_coordinates", "up"): (alone("texture_coordinates"), W),
    ("time", "frame"): (alone("time"), np.floor(INPUT["time"] * 24 + 1e-4)),
    ("separate_color", "green"): (alone("separate_color"), 0.7 * ONES),
    ("separate_vector", "z"): (driven("separate_vector", {"vector": "position"}), P[2]),
    ("strand", "random"): (alone("strand"), INPUT["strand"]),
    ("strand", "length"): (alone("strand"), INPUT["strand_length"]),
    ("strand", "thickness"): (alone("strand"), INPUT["strand_width"]),
    ("at_the_root", "up"): (alone("at_the_root"), W),
    ("object_size", "width"): (alone("object_size"), SIZE[0]),
    ("object_size", "height"): (alone("object_size"), SIZE[1]),
    ("object_size", "depth"): (alone("object_size"), SIZE[2]),
    ("object_size", "longest"): (alone("object_size"), SIZE.max(axis=0)),
    ("normalise", "length"): (driven("normalise", {"vector": "position"}), np.linalg.norm(P, axis=0)),
}

CHECKED_BELOW = {
    "noise",
    "fractal_noise",
    "worley",
    "cells",
    "white_noise",
    "stripes",
    "grid",  # in test_space
    "random_tiles",
    "picture",
    "separate_color",
    "separate_vector",
}


class Meanings(SimpleTestCase):
    def test_every_slip_is_stated_here(self):
        giving = {name for name, kind in SLIPS.kinds.items() if kind.gives}
        self.assertEqual(giving, set(MEANINGS) | CHECKED_BELOW)
        self.assertGreaterEqual(len(SLIPS.kinds), 60)

    def test_each_means_what_numpy_says(self):
        for kind, (document, expected) in MEANINGS.items():
            if expected is None:
                continue
            with self.subTest(slip=kind):
                np.testing.assert_allclose(outputs(document), np.atleast_2d(expected), rtol=2e-4, atol=2e-4)

    def test_further_ports(self):
        for (kind, port), (document, expected) in PORTS.items():
            with self.subTest(slip=kind, port=port):
                np.testing.assert_allclose(outputs(document, port)[0], expected, rtol=2e-4, atol=2e-4)

    def test_a_direction_in_the_axes_of_the_stage_and_the_camera(self):
        for space, axes in AXES.items():
            into = outputs(driven("change_of_space", {"vector": "position"}, into=space))
            np.testing.assert_allclose(into, np.einsum("wap,ap->wp", axes, P), rtol=2e-4, atol=2e-4)
            of = outputs(driven("change_of_space", {"vector": "position"}, of=space, into="form"))
            np.testing.assert_allclose(of, np.einsum("wap,wp->ap", axes, P), rtol=2e-4, atol=2e-4)

    def test_octaves_in_part(self):
        # Half an octave more is halfway, before what is added is evened out: the third of strength 1/4 in part.
        two, part, three = (outputs(alone("fractal_noise", octaves=n)) for n in (2, 2.5, 3))
        raw = [(value - 0.5) * whole for value, whole in ((two, 1.5), (part, 1.625), (three, 1.75))]
        within = ((two > 0) & (two < 1) & (three > 0) & (three < 1))[0]
        np.testing.assert_allclose(raw[1][0, within], ((raw[0] + raw[2]) / 2)[0, within], atol=1e-4)

    def test_driven_octaves_are_what_is_set(self):
        slips = [{"id": "it", "kind": "fractal_noise"}, {"id": "n", "kind": "number", "dials": {"value": 3.0}}]
        bands = [{"id": "i", "kind": "interface"}]
        wired = {"section": {"bands": bands}, "slips": slips, "wires": [wire("n", "it.octaves")]}
        wired = outputs(read(Material, wired))
        np.testing.assert_allclose(wired, outputs(alone("fractal_noise", octaves=3)), atol=1e-6)

    def test_a_spectrum_at_a_driven_depth(self):
        # Law of Bouguer, Beer and Lambert: a share of 0.25 for 1 cm is 0.25^2 for 2 cm.
        values = [[380, 0.25], [780, 0.25]]
        slips = [
            {"id": "it", "kind": "spectrum", "dials": {"values": values}},
            {"id": "d", "kind": "random_per_object"},
        ]
        slips[1]["dials"] = {"low": 1, "high": 3}
        bands = [{"id": "i", "kind": "interface"}]
        document = {"section": {"bands": bands}, "slips": slips, "wires": [wire("d", "it.depth")]}
        depth = 1 + 2 * INPUT["object"].astype(float)
        np.testing.assert_allclose(lum(outputs(read(Material, document))), 0.25**depth, rtol=0.002)
        still = lum(outputs(alone("spectrum", values=values, depth=2.0)))
        np.testing.assert_allclose(still, 0.0625, rtol=1e-3)

    def test_a_dial_that_no_wire_changes_takes_none(self):
        for kind, dial in (("film_color", "ior"), ("wavelength_band", "width")):
            slips = [{"id": "it", "kind": kind}, {"id": "n", "kind": "number"}]
            bands = [{"id": "i", "kind": "interface"}]
            with self.assertRaisesRegex(Refused, f"no dial '{dial}' that can be driven"):
                read(Material, {"section": {"bands": bands}, "slips": slips, "wires": [wire("n", f"it.{dial}")]})

    def test_every_choice_of_the_joining_slips(self):
        first, second = 1.7, 0.6
        expected = {
            "add": 2.3,
            "subtract": 1.1,
            "multiply": 1.02,
            "divide": 1.7 / 0.6,
            "power": 1.7**0.6,
            "smaller": 0.6,
            "larger": 1.7,
            "remainder": 0.5,
            "difference": 1.1,
        }
        self.assertEqual(set(expected), set(SLIPS.kinds["arithmetic"].dials["how"].choices))
        for how, value in expected.items():
            self.assertAlmostEqual(
                float(outputs(alone("arithmetic", how=how, first=first, second=second))[0, 0]), value, places=4
            )
        values = {
            "absolute": 0.4,
            "root": 0,
            "sine": np.sin(-0.4),
            "cosine": np.cos(0.4),
            "round down": -1,
            "fraction": 0.6,
            "sign": -1,
            "opposite": 1.4,
        }
        for how, value in values.items():
            self.assertAlmostEqual(float(outputs(alone("function", how=how, value=-0.4))[0, 0]), value, places=5)

    def test_every_rule_of_the_colour_blend(self):
        a, b = 0.3, 0.6
        expected = {
            "multiply": 0.18,
            "add": 0.9,
            "subtract": 0,
            "screen": 0.72,
            "overlay": 0.36,
            "darker": 0.3,
            "lighter": 0.6,
            "difference": 0.3,
        }
        self.assertEqual(set(expected), set(SLIPS.kinds["color_blend"].dials["how"].choices))
        for how, value in expected.items():
            given = outputs(alone("color_blend", how=how, below=[a] * 3, above=[b] * 3))
            self.assertAlmostEqual(float(given[1, 0]), value, places=5, msg=how)

    def test_a_bump_leans_away_from_what_rises(self):
        # Height = x in cm, strength s: the normal is that of the plane, unit(n - s (grad - n (n . grad))), grad = (1, 0, 0).
        document = read(
            Material,
            {
                "section": {"bands": [{"id": "i", "kind": "interface"}]},
                "slips": [
                    {"id": "it", "kind": "bump", "dials": {"strength": 0.3}},
                    {"id": "p", "kind": "position"},
                    {"id": "x", "kind": "separate_vector"},
                ],
                "wires": [wire("p", "x.vector"), wire("x.x", "it.height")],
            },
        )
        gradient = np.array([[1.0], [0], [0]])
        expected = unit(N - 0.3 * (gradient - N * (gradient * N).sum(axis=0)))
        np.testing.assert_allclose(outputs(document), expected, atol=2e-3)


class Patterns(SimpleTestCase):
    def spread(self, kind, port="out", **dials):
        rng = np.random.default_rng(2)
        compiled = compile_network(alone(kind, **dials))
        places = {axis: rng.uniform(-40, 40, 20_000).astype(np.float32) for axis in "xyz"}
        signal = compiled.outputs["it", port]
        return evaluate(compiled.program, [signal], 20_000, **places, u=places["x"], v=places["y"])[0]

    def test_mean_and_range_of_noises(self):
        for kind in ("noise", "fractal_noise", "cells", "white_noise"):
            values = self.spread(kind)
            self.assertAlmostEqual(float(values.mean()), 0.5, delta=0.02, msg=kind)
            self.assertTrue(values.min() >= 0 and values.max() <= 1, kind)
            self.assertGreater(float(values.std()), 0.08, kind)

    def test_no_lattice_lines(self):
        # On planes of whole numbers gradient noise is 0 at the corners only: there its spread must be as large as elsewhere by half.
        compiled = compile_network(alone("noise", size=1.0))
        rng = np.random.default_rng(3)
        place = {axis: rng.uniform(-20, 20, 20_000).astype(np.float32) for axis in "xyz"}
        signal = compiled.outputs["it", "out"]
        anywhere = evaluate(compiled.program, [signal], 20_000, **place)[0].std()
        on_planes = evaluate(compiled.program, [signal], 20_000, **(place | {"y": np.round(place["y"])}))[0].std()
        self.assertGreater(on_planes, 0.5 * anywhere)

    def test_white_noise_is_even_and_of_one_value_in_a_cube(self):
        values = self.spread("white_noise", size=0.5)
        counts, _ = np.histogram(values, bins=20, range=(0, 1))
        chi2 = ((counts - 1000) ** 2 / 1000).sum()
        self.assertLess(chi2, 43.8)  # 19 degrees of freedom, one in a thousand

    def test_worley_is_the_distance_to_strewn_points(self):
        # One point to a unit cube at random: the mean distance to the nearest of a Poisson process is 0.554 (Chandrasekhar 1943);
        # one a cube is a little more even. Worley 1996: the second is farther, and neighbours differ by no more than their distance.
        nearest, border = self.spread("worley", size=1.0), self.spread("worley", "border", size=1.0)
        self.assertAlmostEqual(float(nearest.mean()), 0.53, delta=0.04)
        self.assertGreaterEqual(float(border.min()), 0.0)
        a, b = (self.at("worley", x=0.1 + d) for d in (0.0, 0.05))
        self.assertLessEqual(abs(a - b), 0.05 + 1e-5)

    def at(self, kind, x):
        compiled = compile_network(alone(kind, size=1.0))
        return float(
            evaluate(compiled.program, [compiled.outputs["it", "out"]], 1, x=np.float32(x), y=0.3, z=0.7)[0, 0]
        )

    def test_stripes_fill_their_share(self):
        for share in (0.2, 0.5, 0.8):
            self.assertAlmostEqual(float(self.spread("stripes", share=share, soft=0.0).mean()), share, delta=0.02)

    def test_random_tiles_cover_more_with_coverage(self):
        means = [float(self.spread("random_tiles", coverage=c).mean()) for c in (0.0, 0.3, 1.0)]
        self.assertEqual(means[0], 0.0)
        self.assertTrue(means[0] < means[1] < means[2] <= 1.0)

    def tiles(self, port, **dials):
        """What random tiles give over (x, y), their texture coordinates, on a plane that looks along z."""
        rng = np.random.default_rng(9)
        u, v = rng.uniform(0, 4, (2, 20_000)).astype(np.float32)
        compiled = compile_network(alone("random_tiles", **dials))
        signal = compiled.outputs["it", port]
        flat = {"u": u, "v": v, "u_x": 1, "v_y": 1, "normal_z": 1}
        return evaluate(compiled.program, list(signal) if isinstance(signal, tuple) else [signal], 20_000, **flat)

    def test_tiles_lie_over_one_another_by_their_blend(self):
        over, lighter, darker, average = (
            self.tiles("shade", blend=blend, coverage=1, soft=0)[0]
            for blend in ("over", "lighter", "darker", "average")
        )
        covered = self.tiles("out", coverage=1, soft=0)[0] > 0.5

        def below(a, b):
            """But for the rims of tiles, which are a ten-thousandth wide."""
            return float((a[covered] <= b[covered] + 1e-6).mean()) > 0.998

        self.assertTrue(below(darker, over) and below(over, lighter))
        self.assertTrue(below(darker, average) and below(average, lighter))
        self.assertLess(darker[covered].mean(), lighter[covered].mean() - 0.05)

    def test_tiles_lean_by_their_tilt_and_the_gaps_do_not(self):
        normal = self.tiles("normal", tilt=30, soft=0)
        np.testing.assert_allclose(np.linalg.norm(normal, axis=0), 1, atol=1e-5)
        covered = self.tiles("out", tilt=30, soft=0)[0] > 0.5
        bare = self.tiles("out", tilt=30, soft=0)[0] == 0
        np.testing.assert_allclose(normal[2, bare], 1, atol=1e-6)
        # Each slope is at most tan 30 degrees, either way alike.
        slopes = normal[:2, covered] / normal[2, covered]
        self.assertLessEqual(float(np.abs(slopes).max()), np.tan(np.radians(30)) + 1e-4)
        self.assertGreater(float(np.abs(slopes).max()), 0.9 * np.tan(np.radians(30)))
        np.testing.assert_allclose(slopes.mean(axis=1), 0, atol=0.03)
        np.testing.assert_allclose(self.tiles("normal", tilt=0)[2], 1, atol=1e-6)

    def test_a_picture_is_itself_at_its_texels(self):
        picture = our_picture("squares")
        rows, columns = np.array([40, 100, 200]), np.array([30, 120, 250])
        compiled = compile_network(alone("picture", source="squares"))
        u, v = (columns + 0.5) / 256, 1 - (rows + 0.5) / 256
        given = evaluate(
            compiled.program, list(compiled.outputs["it", "out"]), 3, u=u.astype(np.float32), v=v.astype(np.float32)
        )
        np.testing.assert_allclose(given.T, picture[rows, columns], atol=1e-4)

    def test_film_colour_is_its_chart(self):
        chart = film_chart(1.4, 1.5)
        given = outputs(alone("film_color", thickness=2000 / 256 * 100.5, cosine=1.0))[:, 0]
        np.testing.assert_allclose(given, chart[0, 100], atol=2e-3)

    def test_the_chart_is_the_renderers_film(self):
        for row, column in ((0, 40), (12, 130), (28, 220)):
            films = (1, F((column + 0.5) / 256 * 2000), F(1.9), *(F(0), F(1)) * 3)
            cosine = F(1 - (row + 0.5) / 32)
            shares = [float(boundary_reflectance(films, cosine, F(1), F(1.33), F(0), F(nm))) for nm in WAVELENGTHS_NM]
            np.testing.assert_allclose(film_chart(1.9, 1.33)[row, column], rgb_of_filter(np.array(shares)), atol=2e-3)


class Pictures(SimpleTestCase):
    def test_the_picture_on_a_slip_is_what_the_renderer_has(self):
        document = read(Material, demo("net-float") | {"slips": [{"id": "it", "kind": "fractal_noise"}], "wires": []})
        picture = read_bench(reading_of(document))["slips"]["it"]
        png = np.asarray(Image.open(io.BytesIO(base64.b64decode(picture["png"]))).convert("L"), float) / 255
        from nineglass.gauges.slips import PATCH
        from nineglass.spectra.srgb import encode

        width, height = PATCH
        compiled = compile_network(document)
        column, row, span = 17, 5, 10.0
        place = {
            "x": ((column + 0.5) / width - 0.5) * span,
            "y": (0.5 - (row + 0.5) / height) * span * height / width,
            "z": 0.0,
        }
        given = evaluate(
            compiled.program, [compiled.outputs["it", "out"]], 1, **{k: np.float32(v) for k, v in place.items()}
        )
        self.assertAlmostEqual(png[row, column], float(encode(given[0, 0])), delta=0.006)

    def test_what_varies_over_the_surface_is_drawn_as_a_patch(self):
        for kind in ("texture_coordinates", "normal", "view_direction", "picture", "random_tiles", "stage_position"):
            drawn = read_bench(reading_of(alone(kind), stage("ball")))["slips"]["it"]
            self.assertEqual(drawn["draws"], "patch", kind)
            self.assertGreater(drawn["high"], drawn["low"], kind)
        self.assertEqual(read_bench(reading_of(alone("object_size"), stage("ball")))["slips"]["it"]["draws"], "value")

    def test_what_arrives_at_a_dial_is_what_the_form_has(self):
        # Height over a ball of 6 cm, from -4 to 4 cm: an eighth to seven eighths arrive; at a slip's dial as well as at a band's.
        slips = [{"id": "h", "kind": "height_along", "dials": {"start": -4, "end": 4}}, {"id": "r", "kind": "ramp"}]
        wires = [wire("h", "r.at"), wire("h", "i.specular_roughness")]
        bands = [{"id": "i", "kind": "interface"}]
        document = read(Material, {"section": {"bands": bands}, "slips": slips, "wires": wires})
        arriving = read_bench(reading_of(document, stage("ball", {"diameter": 6})))["driven"]
        for target in ("r.at", "i.specular_roughness"):
            self.assertAlmostEqual(arriving[target]["low"], 0.125, delta=0.02)
            self.assertAlmostEqual(arriving[target]["high"], 0.875, delta=0.02)

    def test_a_slip_that_drives_nothing_costs_nothing_and_can_be_held_up(self):
        document = alone("random_per_piece")
        the_set = build_set(document, stage("ball", {"diameter": 6}))
        self.assertEqual([len(program) for program in the_set.table.programs], [0])
        held = hold_up(the_set, "it", 33)
        self.assertAlmostEqual(held.facts()["low"], held.facts()["high"])
        self.assertTrue(0 < held.facts()["low"] < 1)

    def test_held_up_it_is_seen_on_the_form(self):
        # Height along y over a ball of 6 cm before a camera at its height: 0 at its foot, 1 at its top, a half in its middle.
        document = alone("height_along", start=-3, end=3)
        held = hold_up(build_set(document, stage("ball", {"diameter": 6})), "it", 65)
        self.assertTrue(0.08 < held.facts()["seen"] < 0.2)
        self.assertAlmostEqual(float(held.values[32, 32, 0]), 0.5, delta=0.03)
        self.assertGreater(held.facts()["high"], 0.9)
        self.assertLess(held.facts()["low"], 0.1)
        self.assertTrue(np.isnan(held.values[0, 0, 0]))

    def test_out_of_range_it_says_so(self):
        document = read(
            Material,
            {
                "section": {"bands": [{"id": "i", "kind": "interface"}]},
                "slips": [
                    {"id": "h", "kind": "height_along", "dials": {"start": -3, "end": 3}},
                    {"id": "it", "kind": "arithmetic", "dials": {"how": "multiply", "second": 2}},
                ],
                "wires": [wire("h", "it.first")],
            },
        )
        held = hold_up(build_set(document, stage("ball", {"diameter": 6})), "it", 48)
        self.assertAlmostEqual(held.facts()["above"], 0.5, delta=0.1)
        self.assertEqual(held.facts()["below"], 0.0)
        self.assertEqual(held.picture(False).shape, (48, 48, 3))


class Gradients(SimpleTestCase):
    def test_each_can_be_put_on_a_ramp(self):
        self.assertEqual(len(GRADIENTS), 24)
        for name, stops in GRADIENTS.items():
            with self.subTest(gradient=name):
                first = outputs(alone("color_ramp", at=0.0, stops=stops))[:, 0]
                np.testing.assert_allclose(first, stops[0][1], atol=1e-6)


class NewSlip(SimpleTestCase):
    def test_one_declaration_is_enough(self):
        from nineglass.catalogue import as_json
        from nineglass.describe import dial, gives

        try:

            @SLIPS.kind(title="Third", family="shape", standard="multiply")
            class Third:
                """A third of a number."""

                value = dial(0.9, 0, 1)
                out = gives("number")

                def emit(self, ops, dials):
                    return ops.mul(dials.value, ops.constant(1 / 3))

            self.assertIn("third", [kind["name"] for kind in as_json()["kinds"] if kind["role"] == "slip"])
            document = read(Material, alone("third").model_dump_json())
            self.assertAlmostEqual(float(outputs(document)[0, 0]), 0.3, places=6)
            held = hold_up(build_set(document, stage()), "it", 16)
            self.assertAlmostEqual(held.facts()["high"], 0.3, places=5)
        finally:
            SLIPS.kinds.pop("third", None)
