from math import pi

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.picture.noise import screen_luminance
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.upsampling import spectrum_of
from nineglass.trace.film import Film, length_facts
from nineglass.trace.geometry.standing import mesh_rays
from nineglass.trace.render import Interrupted, Tracer
from nineglass.trace.scene import build_set

from tests.scenes import TRACER, demo, material, middle, render, stage, wire

CLEAR = {"transmission_color": [1, 1, 1]}
COLOUR = [0.38, 0.72, 0.5]


class WhiteFurnace(SimpleTestCase):
    """Matter that takes nothing, in an even surround, cannot be seen. Tolerance: the clip of white to 0.9995 and noise."""

    def test_polished_and_at_five_roughnesses(self):
        for form in ("ball", "step_block", "hollow_float"):
            for roughness in (0.0, 0.1, 0.3, 0.5, 0.75, 1.0):
                with self.subTest(form=form, roughness=roughness):
                    clear = material(interface={"specular_roughness": roughness})
                    film = render(clear, stage(form), side=32, samples=224, most_bounces=400)
                    np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), 1.0, atol=0.008)
                    np.testing.assert_allclose(middle(film, 0.4), 1.0, atol=0.02)

    def test_the_surround_keeps_its_colour(self):
        film = render(material(), stage(color=(0.2, 0.5, 0.8), camera={"azimuth": 30}), samples=64)
        np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), (0.2, 0.5, 0.8), atol=2e-3)


class Invisible(SimpleTestCase):
    def test_index_one_without_absorption(self):
        gradient = stage("ball")
        gradient.surround.light.kind = "gradient"
        gradient.surround.light.dials = {"softness": 0.3}
        with_ball = render(material(interface={"specular_ior": 1.0}, interior=CLEAR), gradient)
        gradient.camera.dials["azimuth"] = 0
        gradient.objects[0].form.dials = {"diameter": 0.02}
        without = render(material(interface={"specular_ior": 1.0}, interior=CLEAR), gradient)
        np.testing.assert_allclose(with_ball.rgb(), without.rgb(), rtol=2e-3, atol=1e-5)

    def test_a_band_that_is_off(self):
        document = material(interface={"specular_ior": 1.5}, interior={"transmission_color": [0.1, 0.1, 0.1]})
        for band in document.section.bands:
            band.on = False
        film = render(document, stage(), samples=64)
        np.testing.assert_allclose(middle(film), 1.0, atol=2e-3)


class Absorption(SimpleTestCase):
    """Through the whole tracer, without boundaries (index 1), the law of Bouguer, Beer and Lambert."""

    def block(self, thickness, depth=1.0, sample_at=0):
        camera = {"focal_length": 300, "distance": 400, "azimuth": 0, "elevation": 0}
        document = material(
            interface={"specular_ior": 1.0}, interior={"transmission_color": COLOUR, "transmission_depth": depth}
        )
        film = render(document, stage("step_block", {"thickness": thickness}, camera=camera), side=240, samples=16)
        rgb = film.rgb()[110:130]
        per_cm = 240 / (400 * 36 / 300)
        return [
            rgb[:, int(120 + (step - 2) * 2 * per_cm) - 3 : int(120 + (step - 2) * 2 * per_cm) + 3].mean(axis=(0, 1))
            for step in range(5)
        ]

    def test_each_step_of_the_block(self):
        for step, seen in enumerate(self.block(0.5)):
            expected = rgb_of_filter(spectrum_of(COLOUR) ** (0.5 * (step + 1)))
            np.testing.assert_allclose(seen, expected, rtol=0.02, atol=0.004)

    def test_five_plates_of_one_equal_one_of_five(self):
        thin, thick = self.block(1.0), self.block(0.2)
        np.testing.assert_allclose(thick[4], thin[0], rtol=0.02)

    def test_form_and_depth_scaled_together(self):
        small = {"diameter": 3}, {"transmission_color": COLOUR, "transmission_depth": 0.8}, {"distance": 20}
        large = {"diameter": 30}, {"transmission_color": COLOUR, "transmission_depth": 8.0}, {"distance": 200}
        films = [
            render(material(interior=interior), stage("ball", form, camera=camera))
            for form, interior, camera in (small, large)
        ]
        np.testing.assert_allclose(films[0].rgb().mean(axis=(0, 1)), films[1].rgb().mean(axis=(0, 1)), rtol=2e-3)
        np.testing.assert_allclose(middle(films[0]), middle(films[1]), rtol=5e-3)

    def test_rims_of_a_hollow_are_darker(self):
        document = material(interior={"transmission_color": COLOUR, "transmission_depth": 1.0})
        rgb = render(
            document, stage("hollow_float", {"uneven": 0, "wall": 0.8}, camera={"distance": 60}), side=96, samples=32
        ).rgb()
        luminance = rgb @ (0.2126, 0.7152, 0.0722)
        row = luminance[40:56].mean(axis=0)
        first = int(np.argmax(row < 0.97))
        self.assertLess(row[first + 2 : first + 6].mean(), 0.94 * row[44:52].mean())

    def test_driven_colour_is_read_where_light_enters(self):
        slips = [{"id": "tint", "kind": "color", "dials": {"value": COLOUR}}]
        driven = material(
            interior={"transmission_depth": 1.0}, slips=slips, wires=[wire("tint", "interior.transmission_color")]
        )
        plain = material(interior={"transmission_color": COLOUR, "transmission_depth": 1.0})
        seen, expected = (render(one, stage(), samples=64).rgb() for one in (driven, plain))
        np.testing.assert_allclose(seen.mean(axis=(0, 1)), expected.mean(axis=(0, 1)), rtol=2e-3)


class Refraction(SimpleTestCase):
    def test_a_ball_turns_what_is_behind_it_upside_down(self):
        # A glass ball is a strong lens: sky above and ground below change places in it.
        scene = stage("ball", camera={"distance": 60})
        scene.surround.light.kind = "gradient"
        scene.surround.light.dials = {"above": [1, 1, 1], "below": [0, 0, 0], "softness": 0.05, "strength": 1}
        luminance = render(material(), scene, side=64, samples=32).rgb()[..., 1]
        self.assertGreater(luminance[34:38, 30:34].mean(), 4 * luminance[26:30, 30:34].mean())
        self.assertLess(luminance[60:, :].mean(), luminance[:4, :].mean())

    def test_reflection_face_on(self):
        # Fresnel: a black block with n = 1.5 reflects 0.04 of an even surround face-on.
        black = {"transmission_color": [0, 0, 0], "transmission_depth": 0.01}
        camera = {"focal_length": 300, "distance": 100}
        for n, expected in ((1.5, 0.04), (2.4175, 0.1720)):
            film = render(
                material(interface={"specular_ior": n}, interior=black), stage("step_block", camera=camera), samples=128
            )
            np.testing.assert_allclose(middle(film, 0.1), expected, rtol=0.05)


class Lamps(SimpleTestCase):
    LAMP = {"width": 4, "height": 4, "power": 2.0, "kelvin": 6500, "azimuth": 0, "elevation": 90, "distance": 100}

    def floor(self, lamp, roughness=None):
        small = {"diameter": 0.02}
        scene = stage(
            "ball",
            small,
            strength=0,
            lamps=[lamp],
            floor={"color": [0.5, 0.5, 0.5]},
            camera={"elevation": 60, "distance": 30},
        )
        rgb = render(material(), scene, side=48, samples=64).rgb()
        return float((rgb @ (0.2126, 0.7152, 0.0722))[8:16, 8:40].mean())

    def test_irradiance_under_a_small_lamp(self):
        # Photometry: E = L A / d^2 straight below; a matt floor of albedo a sends back a E / pi. Power = pi L A.
        radiance = 2.0 / (pi * 0.04**2)
        expected = 0.5 / pi * radiance * 0.04**2 / 1.0**2
        self.assertAlmostEqual(self.floor(self.LAMP) / expected, 1.0, delta=0.03)

    def test_power_stays_when_the_size_changes(self):
        large = self.floor(self.LAMP | {"width": 8, "height": 2})
        self.assertAlmostEqual(large / self.floor(self.LAMP), 1.0, delta=0.02)

    def test_irradiance_under_a_large_lamp_close_by(self):
        # Sampled and hit, balanced. Source: configuration factor of a plane element to a parallel rectangle above its corner,
        # Siegel & Howell, Thermal Radiation Heat Transfer; four corners meet here.
        lamp = {"width": 80, "height": 60, "power": 8, "azimuth": 0, "elevation": 90, "distance": 40, "kelvin": 6500}
        a, b = 0.4 / 0.4, 0.3 / 0.4
        p, q = np.sqrt(1 + a * a), np.sqrt(1 + b * b)
        factor = 4 * (a / p * np.arctan(b / p) + b / q * np.arctan(a / q)) / (2 * pi)
        expected = 0.5 * factor * 8 / (pi * 0.8 * 0.6)
        camera = {"elevation": 60, "distance": 100, "focal_length": 300}
        scene = stage("ball", {"diameter": 0.02}, strength=0, lamps=[lamp], floor={"color": [0.5] * 3}, camera=camera)
        seen = middle(render(material(), scene, samples=64), 0.6) @ (0.2126, 0.7152, 0.0722)
        self.assertAlmostEqual(float(seen) / expected, 1.0, delta=0.02)

    def test_frosted_glass_is_lit_alike_by_a_lamp_and_by_a_surround(self):
        # A lamp that fills half of what the ball sees is asked directly; the same half as a surround is only hit by chance.
        frosted = material(interface={"specular_roughness": 0.6})
        wide = {"width": 20000, "height": 20000, "distance": 20, "azimuth": 0, "elevation": 90, "kelvin": 6500}
        wide["power"] = pi * (wide["width"] / 100) * (wide["height"] / 100)
        lit = render(
            frosted, stage("ball", {"diameter": 1}, strength=0, lamps=[wide], camera={"distance": 10}), samples=64
        )
        half = stage("ball", {"diameter": 1}, camera={"distance": 10})
        half.surround.light.kind = "gradient"
        half.surround.light.dials = {"above": [1, 1, 1], "below": [0, 0, 0], "softness": 0.01, "strength": 1}
        hit = render(frosted, half, samples=64)
        weights = (0.2126, 0.7152, 0.0722)
        self.assertAlmostEqual(float(middle(lit) @ weights / (middle(hit) @ weights)), 1.0, delta=0.03)

    def test_warm_and_cold(self):
        def tint(kelvin):
            lamp = self.LAMP | {"kelvin": kelvin}
            scene = stage(
                "ball",
                {"diameter": 0.02},
                strength=0,
                lamps=[lamp],
                floor={"color": [0.5] * 3},
                camera={"elevation": 60, "distance": 30},
            )
            red, _, blue = render(material(), scene, side=32).rgb()[4:10, 4:28].mean(axis=(0, 1))
            return red / blue

        self.assertGreater(tint(2700), 2.5)
        self.assertAlmostEqual(tint(6500), 1.0, delta=0.06)
        self.assertLess(tint(12000), 0.85)


class Accumulation(SimpleTestCase):
    def setUp(self):
        document, scene = demo("net-float"), demo("window-bench")
        from nineglass.documents.model import Material, Stage, read

        self.the_set = build_set(read(Material, document), read(Stage, scene))

    def film(self, *parts, side=40, seed=5, tracer=TRACER):
        film = Film(side, side)
        for first, samples, pixels in parts:
            part = Film(side, side)
            tracer.render(self.the_set, part, first, samples, pixels=pixels, seed=seed)
            film.add(part)
        return film

    def test_the_same_for_any_split_of_the_work(self):
        everything = range(1600)
        whole = self.film((0, 6, everything))
        by_samples = self.film((0, 1, everything), (1, 3, everything), (4, 2, everything))
        by_tiles = self.film((0, 6, range(700)), (0, 6, range(700, 1600)))
        one_thread = self.film((0, 6, everything), tracer=Tracer(1, batch=512))
        for other in (by_samples, by_tiles, one_thread):
            np.testing.assert_allclose(other.sums, whole.sums, rtol=1e-9, atol=1e-12)
            np.testing.assert_array_equal(other.counts, whole.counts)
            np.testing.assert_array_equal(other.lengths, whole.lengths)

    def test_seeds_differ_and_repeat(self):
        parts = (0, 2, range(1600))
        np.testing.assert_array_equal(self.film(parts).sums, self.film(parts).sums)
        self.assertGreater(np.abs(self.film(parts, seed=6).sums - self.film(parts).sums).max(), 0.01)

    def test_twice_the_light_is_twice_the_picture(self):
        document = material(interior={"transmission_color": COLOUR, "transmission_depth": 2})
        once, twice = (render(document, stage(strength=s)).rgb() for s in (0.5, 1.0))
        np.testing.assert_allclose(twice, 2 * once, rtol=1e-4)

    def test_noise_is_what_the_estimate_says(self):
        # The spread of pixel means over seeds against the estimate from one picture.
        document, scene = (
            material(interface={"specular_roughness": 0.4}),
            stage(lamps=[{"azimuth": 40}], strength=0.3, floor={}),
        )
        films = [render(document, scene, side=32, samples=16, seed=s) for s in range(1, 9)]
        # Exposed so that nothing is past white: what is beyond it is not seen, and no noise of it is told.
        seen = np.stack([screen_luminance(film.rgb(), -2) for film in films])
        measured = float(np.sqrt(seen.var(axis=0, ddof=1).mean()) / seen.mean())
        told = float(np.sqrt(np.mean([film.noise(-2) ** 2 for film in films])))
        self.assertAlmostEqual(told / measured, 1, delta=0.1)

    def test_more_samples_less_noise(self):
        noises = [self.film((0, n, range(1600))).noise() for n in (4, 16, 64)]
        self.assertEqual(noises, sorted(noises, reverse=True))
        self.assertIsNone(self.film((0, 1, range(1600))).noise())

    def test_interruption(self):
        calls = iter([False] * 3 + [True] * 1000)
        with self.assertRaises(Interrupted):
            TRACER.render(self.the_set, Film(400, 400), stopped=lambda: next(calls))
        after = self.film((0, 2, range(1600)))
        np.testing.assert_array_equal(after.sums, self.film((0, 2, range(1600)), tracer=Tracer(1)).sums)


class PathLengths(SimpleTestCase):
    def test_through_a_ball_of_index_one(self):
        # Mean chord of a ball seen by parallel rays is 2/3 of its diameter (Archimedes); the longest is the diameter.
        camera = {"focal_length": 300, "distance": 400}
        film = render(
            material(interface={"specular_ior": 1.0}), stage("ball", {"diameter": 6}, camera=camera), side=96, samples=8
        )
        facts = length_facts(film.lengths)
        edges = np.array(facts["edges_cm"])
        mean = np.average(np.sqrt(edges[1:] * edges[:-1]), weights=facts["counts"])
        self.assertAlmostEqual(mean, 4.0, delta=0.12)
        self.assertAlmostEqual(facts["high_cm"], 6 * np.sqrt(0.95), delta=0.3)

    def test_nothing_is_told_of_nothing(self):
        self.assertIsNone(length_facts(np.zeros(100)))


class Turning(SimpleTestCase):
    def test_turning_the_form_and_everything_else_back_is_the_same(self):
        document = material(interior={"transmission_color": COLOUR})
        turned, viewed = stage("step_block"), stage("step_block", camera={"azimuth": -35})
        turned.turn = 35
        a, b = render(document, turned, samples=32), render(document, viewed, samples=32)
        np.testing.assert_allclose(a.rgb().mean(axis=(0, 1)), b.rgb().mean(axis=(0, 1)), rtol=0.01)
        self.assertLess(np.abs(a.rgb() - b.rgb()).mean(), 0.03)

    def test_a_form_is_built_once(self):
        self.assertIs(mesh_rays("ball", "{}", "body"), mesh_rays("ball", "{}", "body"))


class Driven(SimpleTestCase):
    @given(st.floats(0, 1))
    @settings(max_examples=5, deadline=None)
    def test_a_wired_number_is_the_number(self, roughness):
        slips = [{"id": "n", "kind": "number", "dials": {"value": roughness}}]
        driven = material(slips=slips, wires=[wire("n", "interface.specular_roughness")])
        plain = material(interface={"specular_roughness": roughness})
        scene = stage(camera={"elevation": 20})
        np.testing.assert_array_equal(render(driven, scene, side=16).rgb(), render(plain, scene, side=16).rgb())

    def test_facing_through_a_ramp_into_roughness(self):
        # Rough at the rim, polished face-on: the middle stays the polished picture.
        slips = [
            {"id": "f", "kind": "facing"},
            {"id": "r", "kind": "ramp", "dials": {"stops": [[0.0, 0.8], [0.6, 0.0], [1.0, 0.0]]}},
        ]
        wires = [wire("f", "r.at"), wire("r", "interface.specular_roughness")]
        scene = stage("ball", strength=0.2, lamps=[{"azimuth": -70, "distance": 40}], camera={"distance": 25})
        plain, driven = (
            render(material(), scene, samples=48),
            render(material(slips=slips, wires=wires), scene, samples=48),
        )
        difference = np.abs(plain.rgb() - driven.rgb()).mean(axis=2)
        self.assertGreater(
            difference[20:28, 12:15].mean() + difference[20:28, 33:36].mean(), 2 * difference[21:27, 21:27].mean()
        )
