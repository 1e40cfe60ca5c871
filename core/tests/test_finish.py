"""What is done to a picture after the light."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.finish import Finish, FinishStep, read_finish
from nineglass.finals.finished import finished
from nineglass.finish import FINISHES
from nineglass.finish.bloom import GRID, diffraction, rays
from nineglass.finish.curve import HIGH, LOW, MID_GREY
from nineglass.finish.fringe import BLUE_NM, RED_NM, YELLOW_NM, enlarged
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.channels import bands_of_channels
from nineglass.spectra.observer import LUMINANCE, rgb_of

RNG = np.random.default_rng(5)


def done(rgb: np.ndarray, kind: str, frame: int = 0, **dials) -> np.ndarray:
    finish = read_finish({"steps": [{"kind": kind, "dials": dials}]})
    return finished(rgb.astype(np.float32), finish, frame)


def sparkles(high=180, wide=320) -> np.ndarray:
    picture = RNG.random((high, wide, 3)) ** 4
    picture[60, 80], picture[0, 0], picture[-1, -3] = 400, 90, (5, 70, 2)
    return picture.astype(np.float32)


class Every(SimpleTestCase):
    def test_as_they_begin_steps_change_nothing(self):
        picture = sparkles()
        for name in FINISHES.kinds:
            np.testing.assert_allclose(done(picture, name), picture, rtol=2e-5, atol=1e-6, err_msg=name)
        np.testing.assert_array_equal(finished(picture, None), picture)

    def test_what_is_off_does_nothing_and_the_order_is_that_of_the_lens(self):
        picture = sparkles()
        off = Finish(steps=[FinishStep(kind="exposure", dials={"stops": 2}, on=False)])
        np.testing.assert_array_equal(finished(picture, off), picture)
        steps = [{"kind": "vignette", "dials": {"angle": 30}}, {"kind": "bloom", "dials": {"amount": 0.3}}]
        one, other = (finished(picture, read_finish({"steps": given})) for given in (steps, steps[::-1]))
        np.testing.assert_array_equal(one, other)
        self.assertEqual(list(FINISHES.kinds)[:3], ["fringe", "bloom", "vignette"])

    def test_wrong_ones_are_told_by_their_place(self):
        wrong = (
            ({"steps": [{"kind": "sparkle"}]}, "steps[0].kind"),
            ({"steps": [{"kind": "bloom", "dials": {"amount": 3}}]}, "steps[0].dials.amount"),
            ({"steps": [{"kind": "bloom"}, {"kind": "bloom"}]}, "steps[1].kind"),
        )
        for given, path in wrong:
            with self.assertRaises(Refused) as caught:
                read_finish(given)
            self.assertEqual(caught.exception.faults[0].path, path)


class Blooms(SimpleTestCase):
    def test_no_light_is_lost_or_gained(self):
        for picture in (sparkles(), sparkles(61, 97), np.ones((40, 90, 3))):
            for about in ({"shape": "rays", "size": 1.5}, {"shape": "haze", "size": 5}, {"shape": "rays", "blades": 3}):
                spread = done(picture, "bloom", amount=0.4, **about)
                np.testing.assert_allclose(spread.sum(axis=(0, 1)), picture.sum(axis=(0, 1)), rtol=1e-4)
                self.assertGreaterEqual(spread.min(), 0)
        even = done(np.ones((40, 90, 3)), "bloom", amount=0.4, size=3)
        np.testing.assert_allclose(even, 1, atol=0.02, err_msg="an even picture stays even")

    def test_a_round_aperture_gives_rings_where_theory_has_them(self):
        # Born & Wolf 8.5.2: the first dark ring of a round aperture at 1.22 wavelengths over the diameter, the first bright one 1.64, of 1.75 %.
        pattern = diffraction(32, 0.0)
        along = pattern[GRID // 2, GRID // 2 : GRID // 2 + 8] / pattern.max()
        self.assertLess(along[3], 0.005)
        self.assertAlmostEqual(along[4], 0.0175, delta=0.004)

    def test_six_blades_give_six_rays_and_five_ten(self):
        for blades, expected in ((6, 6), (5, 10), (4, 4)):
            pattern = diffraction(blades, 7.0)
            angles = np.radians(np.arange(0, 360, 0.5))
            reach = np.arange(60, 300)
            x, y = (np.rint(GRID / 2 + reach[:, None] * turn(angles)).astype(int) for turn in (np.cos, np.sin))
            around = np.log(pattern[y, x] + 1e-15).mean(axis=0)
            waves = np.abs(np.fft.rfft(around - around.mean()))
            self.assertEqual(int(np.argmax(waves[1:20])) + 1, expected, blades)

    def test_red_light_is_spread_farther_than_blue(self):
        patterns = rays((256, 256), 12.0, 6, 0.0)
        y, x = np.indices((256, 256)) - 128
        away = np.hypot(x, y)
        red, _, blue = ((pattern * np.minimum(away, 60)).sum() for pattern in patterns)
        means = [np.mean(own) for own in bands_of_channels(8)]
        self.assertAlmostEqual(red / blue, means[0] / means[2], delta=0.12)


class Fringes(SimpleTestCase):
    def test_blue_is_larger_than_red_by_what_is_asked(self):
        # Cauchy's first term: what lies between the lines F and C is the spread, and d stays.
        self.assertAlmostEqual(enlarged(BLUE_NM, 0.8) - enlarged(RED_NM, 0.8), 0.008, places=12)
        self.assertEqual(enlarged(YELLOW_NM, 0.8), 1)

    def test_an_edge_is_shifted_by_wavelength_and_by_how_far_out_it_is(self):
        wide, spread = 801, 1.0
        for out in (100, 300):
            picture = np.zeros((9, wide, 3))
            picture[:, wide // 2 + out] = 1
            places = (done(picture, "fringe", spread=spread)[4] * np.arange(wide)[:, None]).sum(axis=0)
            shift = places / done(picture, "fringe", spread=spread)[4].sum(axis=0) - wide // 2 - out
            expected = [out * np.mean([enlarged(nm, spread) - 1 for nm in own]) for own in bands_of_channels(8)]
            np.testing.assert_allclose(shift, expected, atol=0.06)
            self.assertTrue(shift[2] > 0 > shift[0])

    def test_white_far_from_edges_stays_white(self):
        np.testing.assert_allclose(done(np.ones((30, 40, 3)), "fringe", spread=2), 1, atol=1e-5)


class Tones(SimpleTestCase):
    def test_exposure_and_vignette(self):
        picture = sparkles()
        np.testing.assert_allclose(done(picture, "exposure", stops=-1.5), picture * 2**-1.5, rtol=1e-6)
        even = done(np.ones((301, 401, 3)), "vignette", angle=40)
        self.assertAlmostEqual(float(even[150, 200, 0]), 1, places=3)
        # The cosine-fourth law (handbooks of optics): at the corner, at 40 degrees.
        self.assertAlmostEqual(float(even[0, 0, 1]), np.cos(np.radians(40)) ** 4, delta=0.003)

    def test_a_lamp_of_the_temperature_turns_grey(self):
        for kelvin in (2856, 4000, 9300):
            light = rgb_of(blackbody(kelvin))
            lit = done(np.broadcast_to(light / light.max(), (4, 4, 3)), "white", temperature=kelvin)[0, 0]
            neutral = rgb_of(blackbody(6504))
            np.testing.assert_allclose(lit / lit.mean(), neutral / neutral.mean(), rtol=2e-3)

    def test_white_keeps_its_brightness_whatever_the_tint(self):
        for kelvin in (3000, 9000):
            light = rgb_of(blackbody(kelvin))
            luminance = [
                done(np.broadcast_to(light, (2, 2, 3)), "white", temperature=kelvin, tint=t)[0, 0] @ LUMINANCE
                for t in (-1, 0, 0.01, 1)
            ]
            np.testing.assert_allclose(luminance, light @ LUMINANCE, rtol=1e-4)

    def test_whatever_stops_are_allowed_a_curve_gives_finite_light(self):
        for stops in ([[0.5, 0.2], [0.5, 0.8]], [[0, 1000], [1, -1000]], [[0, 0.3], [0, 0.3], [1, 0.3]]):
            self.assertTrue(np.isfinite(done(sparkles(), "curve", stops=stops)).all())

    def test_a_curve_moves_stops_and_keeps_hue(self):
        def place(stops):
            return (stops - LOW) / (HIGH - LOW)

        steeper = [[0, 0], [place(-2), place(-3)], [place(0), place(0)], [place(2), place(3)], [1, 1]]
        for stops in (-2, 0, 2):
            picture = np.full((2, 2, 3), MID_GREY * 2.0**stops) * np.array([1, 0.5, 0.25])
            out = done(picture, "curve", stops=steeper)[0, 0]
            np.testing.assert_allclose(out, picture[0, 0] * 2.0 ** (stops / 2), rtol=0.02)

    def test_grain_has_its_strength_its_mean_and_a_number_of_its_own_in_each_frame(self):
        even = np.full((400, 600, 3), 0.3)
        first, again, other = (done(even, "grain", frame, amount=0.2, size=0.25) for frame in (1, 1, 2))
        np.testing.assert_array_equal(first, again)
        self.assertGreater(np.abs(first - other).mean(), 0.01)
        self.assertAlmostEqual(float(np.log2(first[..., 0] / 0.3).std()), 0.2, delta=0.005)
        self.assertAlmostEqual(float(first.mean()), 0.3, delta=0.001)
        np.testing.assert_array_equal(done(even, "grain", amount=0), even.astype(np.float32))
