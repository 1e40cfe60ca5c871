"""Lamps whose glow depends on direction, surfaces that glow, and how what is asked for light is chosen."""

import contextlib
import os
from math import pi
from tempfile import TemporaryDirectory
from unittest.mock import patch

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.describe import Refused
from nineglass.documents.model import Lamp, Material, read
from nineglass.files import keep
from nineglass.kernels import F
from nineglass.lamps.light import beam_of
from nineglass.lamps.photometric import read_file, read_photometry
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import rgb_of
from nineglass.trace.light import ask
from nineglass.trace.scene import build_set

from tests.scenes import called, luminance, material, middle, render, stage, thing, wire

chance_of = called(ask.chance_of)
FLOOR = {"color": [0.5] * 3}
LOOKS_DOWN = {"azimuth": 0, "elevation": 90, "distance": 100, "kelvin": 6500}
SPOT = LOOKS_DOWN | {"diameter": 1, "power": 5}


def on_the_floor(lamp: dict, samples=64) -> float:
    """Luminance of a matt floor of 0.5 straight below a lamp, over its irradiance times 0.5 / pi: the irradiance."""
    scene = stage(
        "ball", {"diameter": 0.02}, strength=0, lamps=[lamp], floor=FLOOR, camera={"elevation": 89, "distance": 60}
    )
    return float(luminance(middle(render(material(), scene, side=32, samples=samples), 0.1))) / (0.5 / pi)


def ies(vertical, horizontal, candela, tilt="TILT=NONE", kind=1) -> bytes:
    """A photometric file."""
    rows = "\n".join(" ".join(f"{c:g}" for c in row) for row in candela)
    head = f"1 1000 1 {len(vertical)} {len(horizontal)} {kind} 2 0.1 0.1 0.1\n1 1 40"
    angles = "\n".join(" ".join(f"{a:g}" for a in some) for some in (vertical, horizontal))
    return f"IESNA:LM-63-2002\n[MANUFAC] none\n{tilt}\n{head}\n{angles}\n{rows}\n".encode()


class Spots(SimpleTestCase):
    def test_all_of_its_power_is_within_the_cone(self):
        # Photometry: a disc that glows evenly within a half angle h, and not past it, has P = L A pi sin(h)^2; on its axis E = L A / d^2.
        for cone in (20, 60):
            lamp = {"kind": "spot", "dials": SPOT | {"cone": cone, "edge": 0.0}}
            expected = 5 / (pi * np.sin(np.radians(cone / 2)) ** 2)
            self.assertAlmostEqual(on_the_floor(lamp) / expected, 1.0, delta=0.05)

    def test_past_its_edge_it_is_dark_and_a_soft_edge_fades(self):
        def across(edge):
            camera = {"elevation": 89, "distance": 200, "focal_length": 50}
            dials = SPOT | {"cone": 40, "edge": edge}
            scene = stage(
                "ball",
                {"diameter": 0.02},
                strength=0,
                lamps=[{"kind": "spot", "dials": dials}],
                floor=FLOOR,
                camera=camera,
            )
            row = luminance(render(material(), scene, side=96, samples=64).rgb()[46:50].mean(axis=0))
            return row / row[44:52].mean()

        hard, soft = across(0.0), across(0.8)
        # 36.4 cm off the axis at a half angle of 20 degrees; the frame is 144 cm wide: pixels 24 and 72.
        for row in (hard, soft):
            self.assertLess(max(row[:18].max(), row[-18:].max()), 0.02)
        self.assertGreater(hard[30], 0.8)
        self.assertTrue(0.02 < soft[30] < 0.6, soft[30])


class Photometric(SimpleTestCase):
    def test_flux_of_files_in_closed_form(self):
        # 100 cd to all sides are 400 pi lm; 100 cd times the cosine, downwards only, are 100 pi lm.
        down = np.arange(0, 181, 5)
        even = read_photometry(ies(down, [0], [[100] * len(down)]))
        self.assertAlmostEqual(even.lumens(), 400 * pi, delta=0.5)
        down = np.arange(0, 91, 2.5)
        lambert = read_photometry(ies(down, [0], [100 * np.cos(np.radians(down))]))
        self.assertAlmostEqual(lambert.lumens(), 100 * pi, delta=0.5)
        self.assertAlmostEqual(read_file(ies([0, 90], [0], [[7, 0]])).facts["brightest_candela"], 7)

    def test_quarters_and_halves_are_folded(self):
        quarter = read_photometry(ies([0, 90], [0, 90], [[10, 10], [20, 20]]))
        for turn, candela in ((0, 10), (90, 20), (180, 10), (270, 20), (45, 15), (315, 15), (135, 15)):
            self.assertAlmostEqual(float(quarter.share(np.radians(45.0), np.radians(turn))), candela, places=5)
        half = read_photometry(ies([0, 90], [0, 180], [[10, 10], [20, 20]]))
        self.assertAlmostEqual(float(half.share(np.radians(45.0), np.radians(270.0))), 15, places=5)

    def test_what_was_measured_lights_the_stage(self):
        # Twice the candela downwards, for the same power, is twice the irradiance below.
        down = np.arange(0, 181, 5)
        narrow = np.where(down <= 30, 100.0, 0.0)
        with TemporaryDirectory() as folder, patch.dict(os.environ, {"NINEGLASS_FILES": folder}):
            names = [keep([ies(down, [0], [candela])]) for candela in (narrow, np.full(len(down), 100.0))]
            dials = LOOKS_DOWN | {"diameter": 1, "power": 5}
            seen = [on_the_floor({"kind": "photometric", "dials": dials | {"file": name}}) for name in names]
        self.assertAlmostEqual(seen[1] / (5 / (4 * pi)), 1.0, delta=0.03)
        shares = read_photometry(ies(down, [0], [narrow])).lumens() / (400 * pi)
        self.assertAlmostEqual(seen[0] / seen[1], 1 / shares, delta=0.06 / shares)

    def test_what_is_no_such_file_is_refused_by_name(self):
        good = ies([0, 90], [0], [[1, 1]])
        for given_, fault in (
            (b"hello", "TILT"),
            (good[:-6], "ends before"),
            (ies([0, 90], [0], [[1, 1]], kind=2), "type 2"),
            (ies([0, 90], [0], [[1, 1]], tilt="TILT=lamp.tlt"), "another file"),
            (ies([90, 0], [0], [[1, 1]]), "rise"),
            (ies([0, 90], [0], [[0, 0]]), "nothing"),
            (good.replace(b"1 1000 1", b"1 x 1"), "not a number"),
            (good.replace(b" 2 1 1 2 ", b" 2 9999999 1 2 "), "angles"),
            (good.replace(b"1 1 40", b"nan 1 40"), "none"),
            (b"TILT=NONE\n" + b"1 " * 1_500_000, "too large"),
        ):
            with self.subTest(fault), self.assertRaises(Refused) as caught:
                read_photometry(given_)
            self.assertIn(fault, caught.exception.faults[0].fault)

    @given(st.binary(max_size=400))
    @settings(max_examples=200, deadline=None)
    def test_no_bytes_break_it(self, given_):
        with contextlib.suppress(Refused):
            read_photometry(b"TILT=NONE\n" + given_)

    def test_a_beam_keeps_its_power(self):
        for slanted in (False, True):
            beam = beam_of(lambda angle, turn: np.exp(-3 * angle) * (1 + np.cos(turn)), slanted=slanted)
            angle = np.radians(np.arange(181))[:, None]
            seen = np.sin(angle) * (np.maximum(np.cos(angle), 0) if slanted else 1)
            self.assertAlmostEqual(float((beam * seen)[:, :-1].mean() / seen.mean()), 1.0, delta=0.002)


def glowing(driven=False, **dials) -> Material:
    """A black body that glows; driven by a number that is the same everywhere, or that the compiler cannot know."""
    bands = [
        {"id": "glow", "kind": "glow", "dials": {"source": "white of the picture"} | dials},
        {"id": "body", "kind": "body", "dials": {"base_color": [0, 0, 0]}},
    ]
    if not driven:
        return read(Material, {"section": {"bands": bands}})
    slips = [{"id": "f", "kind": "facing"}, {"id": "r", "kind": "remap", "dials": {"to_low": 4.0, "to_high": 4.0}}]
    wires = [wire("f", "r.value"), wire("r", "glow.emission_luminance")]
    return read(Material, {"section": {"bands": bands}, "slips": slips, "wires": wires})


class Glow(SimpleTestCase):
    def lit_floor(self, document, samples=256, share=0.2) -> float:
        scene = stage(objects=[thing("ball", "ball", {"diameter": 4}, at=(0, 28, 0))], strength=0, floor=FLOOR)
        scene.objects[0].seen.camera = False
        scene.camera.dials |= {"elevation": 40, "distance": 100, "raised": -15, "focal_length": 200}
        return float(luminance(middle(render(document, scene, side=24, samples=samples), share)))

    def test_it_is_as_bright_as_it_says_and_of_its_colour(self):
        camera = {"distance": 60}
        seen = middle(
            render(glowing(emission_luminance=3.0), stage("ball", {"diameter": 12}, strength=0, camera=camera)), 0.2
        )
        np.testing.assert_allclose(seen, 3.0, rtol=0.02)
        warm = glowing(emission_luminance=2.0, source="temperature", kelvin=2000)
        seen = middle(render(warm, stage("ball", {"diameter": 12}, strength=0, camera=camera), samples=256), 0.2)
        np.testing.assert_allclose(seen, 2 * rgb_of(blackbody(2000)), atol=0.05)

    def test_it_lights_a_floor_as_a_sphere_lamp_does(self):
        # Photometry: a ball of luminance L and radius r gives E = pi L (r / d)^2 straight below; here the place is a little aside,
        # so that a sphere lamp of the same size and place is the reference.
        with_glow = self.lit_floor(glowing(emission_luminance=4.0))
        scene = stage(objects=[thing("ball", "ball", {"diameter": 0.02}, at=(0, 29, 0))], strength=0, floor=FLOOR)
        scene.camera.dials |= {"elevation": 40, "distance": 100, "raised": -14, "focal_length": 200}
        dials = {"diameter": 4, "distance": 1, "power": 4.0 * 4 * pi * pi * 0.02**2, "kelvin": 6500, "elevation": 90}
        scene.lamps.append(Lamp(id="lamp", kind="sphere", dials=dials))
        seen = float(luminance(middle(render(material(), scene, side=24, samples=256), 0.2)))
        self.assertAlmostEqual(with_glow / seen, 1.0, delta=0.05)

    def test_asked_for_and_met_by_chance_it_gives_the_same(self):
        even, driven = glowing(emission_luminance=4.0), glowing(driven=True)
        self.assertAlmostEqual(
            self.lit_floor(driven, 4096, share=0.8) / self.lit_floor(even, share=0.8), 1.0, delta=0.06
        )
        scene = stage("ball")
        self.assertEqual(build_set(even, scene).scene.glowing.thing.tolist(), [0])
        self.assertEqual(build_set(driven, scene).scene.glowing.thing.tolist(), [])

    def test_without_it_nothing_is_asked(self):
        self.assertFalse(build_set(material(), stage()).table.glows)


class Choosing(SimpleTestCase):
    """What is asked for light is chosen by what it can give."""

    LAMPS = (
        {"kind": "rectangle", "dials": {"azimuth": 30, "power": 9}},
        {"kind": "disc", "dials": {"azimuth": 200, "power": 1}},
        {"kind": "sphere", "dials": {"power": 3}},
        {"kind": "point", "dials": {"power": 2}, "lights": ["form"]},
        {"kind": "spot", "dials": {"elevation": 80}},
        {"kind": "sun", "dials": {}},
    )

    @given(st.tuples(*[st.floats(-0.3, 0.3)] * 3), st.sampled_from([1, 2, 1 << 30]))
    @settings(max_examples=40, deadline=None)
    def test_chances_are_one_together(self, place, bit):
        scene = build_set(glowing(), stage(lamps=self.LAMPS, surround={"light": {"kind": "sky"}})).scene
        at = tuple(F(v) for v in place)
        for around in (ask.LIGHT, ask.REFLECTIONS):
            chances = [float(chance_of(scene, k, at, bit, around)) for k in range(-1, len(self.LAMPS) + 1)]
            self.assertAlmostEqual(sum(chances), 1.0, places=4)
            self.assertTrue(all(0 <= c <= 1 for c in chances))
            if bit != 1:
                self.assertEqual(chances[4], 0, "a lamp that does not light the object is not asked")

    def test_a_dim_lamp_beside_a_bright_one_costs_hardly_anything(self):
        """Chosen by what each brings; chosen evenly, four times of five a dim one would be asked, for a noise of a quarter."""
        bright = {"kind": "disc", "dials": {"azimuth": 20, "elevation": 60, "power": 20}}
        dim = [{"kind": "disc", "dials": {"azimuth": a, "elevation": 60, "power": 0.02}} for a in (90, 150, 210, 270)]

        scene = stage(
            "ball", {"diameter": 0.02}, strength=0, lamps=[bright, *dim], floor=FLOOR, camera={"elevation": 60}
        )
        films = [render(material(), scene, side=24, samples=64, of=1, seed=seed) for seed in range(4)]
        seen = np.stack([luminance(film.rgb()) for film in films])
        self.assertLess(float(np.sqrt(seen.var(axis=0, ddof=1).mean()) / seen.mean()), 0.02)


class BelowTheFloor(SimpleTestCase):
    STRIP = {"width": 4, "height": 40, "power": 2, "azimuth": 180, "elevation": 0, "distance": 30, "kelvin": 6500}

    def stage(self, lamp=None, *, size=2, camera=None):
        lamps = [lamp or self.STRIP]
        camera = camera or {"elevation": 60, "distance": 60}
        return stage("ball", {"diameter": size}, strength=0, lamps=lamps, floor=FLOOR, camera=camera)

    def edges(self, the_set):
        """Heights of the lower and the upper edge of the lamp, m."""
        lamps = the_set.scene.lamps
        return lamps.centre[0, 1] - lamps.up[0, 1], lamps.centre[0, 1] + lamps.up[0, 1]

    def test_only_what_stands_above_is_asked(self):
        the_set = build_set(material(), self.stage())
        np.testing.assert_allclose(self.edges(the_set), [the_set.standing.floor, 0.2], atol=1e-6)
        np.testing.assert_allclose(the_set.scene.lamps.normal[0], [0, 0, 1], atol=1e-6)

    def test_the_floor_follows_what_stands_on_it(self):
        before = build_set(material(), self.stage())
        after = build_set(material(), self.stage(size=8), before=before)
        self.assertAlmostEqual(self.edges(after)[0], -0.04, delta=1e-6)
        self.assertIs(build_set(material(), self.stage(size=8), before=after).lighting, after.lighting)

    def test_seen_from_below_all_of_it_is_there(self):
        from_below = build_set(material(), self.stage(camera={"elevation": -30, "distance": 60}))
        np.testing.assert_allclose(self.edges(from_below), [-0.2, 0.2], atol=1e-6)

    def test_a_lamp_that_lies_wholly_below_lights_nothing(self):
        lies = self.STRIP | {"height": 2, "elevation": -40}
        self.assertEqual(render(material(), self.stage(lies), side=8, samples=4).rgb().max(), 0)

    def test_the_floor_before_it_has_the_light_of_what_stands_above(self):
        """By quadrature over the upper half of the lamp: irradiance is its radiance by the integral of cosine times cosine over r squared."""
        x, y = np.meshgrid((np.arange(40) + 0.5) / 1000 - 0.02, (np.arange(2000) + 0.5) / 10000)
        away = 0.3
        square = x**2 + y**2 + away**2
        irradiance = 2 / (pi * 0.04 * 0.4) * float((y * away / square**2).mean()) * 0.04 * 0.2
        self.assertAlmostEqual(on_the_floor(self.STRIP) / irradiance, 1, delta=0.05)
