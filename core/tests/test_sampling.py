from itertools import pairwise, product
from math import pi

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.kernels import F
from nineglass.lamps import LAMPS
from nineglass.picture.noise import DARK
from nineglass.spectra.curves import curve_at
from nineglass.spectra.observer import D65, WAVELENGTHS_NM, rgb_of
from nineglass.trace import generate
from nineglass.trace.film import Film, length_edges_m, length_facts
from nineglass.trace.geometry import surface
from nineglass.trace.light import lamps as lamp_steps
from nineglass.trace.light.ask import mis_weight
from nineglass.trace.light.surround import surround_share
from nineglass.trace.matter import sensor_response
from nineglass.trace.random import is_odd, pair, single, single_of_both
from nineglass.trace.scene import build_set
from nineglass.trace.sensor import sensor
from nineglass.vectors import dot, frame, reflect, refract, to_local, to_world
from scipy.stats import chi2

from tests.scenes import called, material, stage, thing

draw_wavelengths = called(generate.draw_wavelengths)
meet_lamp, outline_pdf, point_on = (
    called(one) for one in (lamp_steps.meet_lamp, lamp_steps.outline_pdf, lamp_steps.point_on)
)
to_own, to_stage = called(surface.to_own), called(surface.to_stage)

DIRECTIONS = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.1)


def unit(v):
    v = np.asarray(v, np.float32)
    return tuple(v / np.linalg.norm(v))


def of_half(half, count):
    """The first samples of a half."""
    return [s for s in range(2 * count) if bool(is_odd(np.uint32(s))) == bool(half)]


class Random(SimpleTestCase):
    """Source: Burley 2020: each power of two of samples is spread evenly, in one dimension and in two; here in each half, even and odd."""

    def test_every_stratum_once(self):
        for half, pixel in product((0, 1), (0, 7, 123_456)):
            for count in (4, 16, 64):
                values = np.array([single(3, pixel, s, 5) for s in of_half(half, count)])
                self.assertEqual(sorted((values * count).astype(int)), list(range(count)))

    def test_every_elementary_box_once(self):
        for half in (0, 1):
            points = np.array([pair(3, 11, s, 2) for s in of_half(half, 64)])
            for across in (1, 2, 4, 8, 16, 32, 64):
                boxes = {(int(x * across), int(y * (64 // across))) for x, y in points}
                self.assertEqual(len(boxes), 64, across)

    def test_what_both_halves_share_is_spread_over_the_whole_and_over_each(self):
        for seed, count in product(range(20), (8, 16, 64)):
            values = np.array([single_of_both(seed, 7, s, 0) for s in range(count)])
            self.assertEqual(sorted((values * count).astype(int)), list(range(count)))
            odd = np.array([bool(is_odd(np.uint32(s))) for s in range(count)])
            for half in (values[odd], values[~odd]):
                self.assertEqual(sorted((half * count / 2).astype(int)), list(range(count // 2)))

    def test_halves_know_nothing_of_each_other(self):
        """Owen 1997: replicates of a scrambled sequence are independent, so that half of what two differ by is the error of their mean."""
        means = np.array(
            [
                [np.mean([single(seed, 5, s, 3) < 0.3 for s in of_half(half, 8)]) for half in (0, 1)]
                for seed in range(2000)
            ]
        )
        self.assertLess(abs(np.corrcoef(*means.T)[0, 1]), 0.08)
        told = np.sqrt(np.mean((means[:, 0] - means[:, 1]) ** 2)) / 2
        true = np.sqrt(np.mean((means.mean(axis=1) - 0.3) ** 2))
        self.assertAlmostEqual(float(told / true), 1, delta=0.08)

    def test_pixels_dimensions_and_seeds_are_apart(self):
        first = [single(1, p, 0, 0) for p in range(4000)]
        for other in (
            [single(1, p, 0, 1) for p in range(4000)],
            [single(2, p, 0, 0) for p in range(4000)],
            [single(1, p + 1, 0, 0) for p in range(4000)],
        ):
            self.assertLess(abs(np.corrcoef(first, other)[0, 1]), 0.06)

    def test_is_uniform_over_pixels(self):
        values = np.array([single(9, p, 0, 3) for p in range(20_000)])
        found, _ = np.histogram(values, 50, (0, 1))
        statistic = ((found - 400) ** 2 / 400).sum()
        self.assertLess(statistic, chi2.ppf(0.9999, 49))
        self.assertTrue(((values >= 0) & (values < 1)).all())


class Wavelengths(SimpleTestCase):
    def drawn(self, count=256):
        wavelength, per_density = np.zeros((4, count), np.float32), np.zeros((4, count), np.float32)
        for i in range(count):
            draw_wavelengths(sensor(), F((i + 0.5) / count), wavelength, per_density, i)
        return wavelength, per_density

    def test_weights_integrate_to_the_visible_range(self):
        _, per_density = self.drawn()
        self.assertAlmostEqual(float(per_density.sum(axis=0).mean()), 400, delta=0.5)

    def test_the_estimate_of_white_is_white(self):
        wavelength, per_density = self.drawn()
        table = D65[None].astype(np.float32)
        light = np.array([[curve_at(table[0], F(w)) for w in row] for row in wavelength])
        response = sensor_response()
        rgb = [
            float((light * per_density * np.interp(wavelength, WAVELENGTHS_NM, channel)).sum(axis=0).mean())
            for channel in response
        ]
        np.testing.assert_allclose(rgb, rgb_of(D65), atol=2e-3)

    def test_four_lie_in_four_quarters_of_the_probability(self):
        wavelength, _ = self.drawn()
        for low, high in pairwise(wavelength):
            self.assertTrue((low < high).all())


class Lamps(SimpleTestCase):
    PLACE = {"distance": 50, "azimuth": 30, "elevation": 40}
    KINDS = {
        "rectangle": PLACE | {"width": 60, "height": 30},
        "disc": PLACE | {"diameter": 40},
        "sphere": PLACE | {"diameter": 30},
        "sun": {"azimuth": 30, "elevation": 40, "diameter": 30},
    }
    MIDDLE = (F(0), F(0), F(0))

    def lamps(self, kind):
        return build_set(material(), stage(lamps=[{"kind": kind, "dials": self.KINDS[kind]}])).scene.lamps

    def test_the_pdf_covers_each_lamp_once(self):
        # One over the pdf, averaged over the sampler, is the lamp's solid angle; the same found by throwing directions.
        rng = np.random.default_rng(1)
        z, phi = rng.uniform(-1, 1, 60_000), rng.uniform(0, 2 * pi, 60_000)
        s = np.sqrt(1 - z * z)
        thrown = np.stack([s * np.cos(phi), s * np.sin(phi), z], 1).astype(np.float32)
        for kind in self.KINDS:
            with self.subTest(kind):
                lamps, inverse = self.lamps(kind), []
                for u, v in rng.random((2048, 2), np.float32):
                    way, distance = point_on(lamps, 0, self.MIDDLE, u, v)
                    self.assertGreater(distance, 0)
                    inverse.append(1 / outline_pdf(lamps, 0, self.MIDDLE, way, distance))
                    self.assertLess(meet_lamp(lamps, 0, self.MIDDLE, way), 1.001 * distance)
                hits = sum(meet_lamp(lamps, 0, self.MIDDLE, tuple(d)) < 1e30 for d in thrown)
                self.assertAlmostEqual(np.mean(inverse), 4 * pi * hits / len(thrown), delta=0.03)

    def test_flat_lamps_shine_to_one_side(self):
        for kind in ("rectangle", "disc"):
            lamps = self.lamps(kind)
            behind = tuple(F(2) * lamps.centre[0, k] for k in range(3))
            self.assertGreaterEqual(meet_lamp(lamps, 0, behind, tuple(lamps.normal[0, k] for k in range(3))), 1e30)

    def test_power_stays_when_the_size_changes(self):
        # Power of a Lambertian lamp is pi times radiance times area; of a sphere likewise over its whole surface.
        for kind, area in (("disc", lambda d: pi * d * d / 4), ("sphere", lambda d: pi * d * d)):
            for diameter in (5.0, 20.0):
                about = LAMPS.kinds[kind]
                light = about.make().light(about.defaults() | {"diameter": diameter, "power": 7.0})
                self.assertAlmostEqual(pi * light.radiance * area(diameter / 100), 7.0, places=6)

    @given(st.floats(1e-3, 1e3), st.floats(1e-3, 1e3))
    @settings(max_examples=50, deadline=None)
    def test_both_ways_together_count_once(self, own, other):
        # Source: Veach 1997: the weights of a direction add up to one.
        total = float(mis_weight(F(own), F(other)) + mis_weight(F(other), F(own)))
        self.assertAlmostEqual(total, 1.0, places=4)


class Surround(SimpleTestCase):
    def test_goes_from_below_to_above_about_the_horizon(self):
        for softness in (0.01, 0.5, 1.0):
            shares = [float(surround_share(F(h), F(softness))) for h in (-1, -0.5, 0, 0.5, 1)]
            self.assertEqual(shares, sorted(shares))
            self.assertAlmostEqual(shares[2], 0.5, places=5)
            self.assertEqual((shares[0], shares[-1]), (0.0, 1.0))


class Vectors(SimpleTestCase):
    @given(DIRECTIONS, DIRECTIONS)
    @settings(max_examples=60, deadline=None)
    def test_a_frame_is_a_frame(self, v, w):
        n, w = unit(v), unit(w)
        x, y = frame(n)
        for a, b, expected in ((x, x, 1), (y, y, 1), (x, y, 0), (x, n, 0), (y, n, 0)):
            self.assertAlmostEqual(float(dot(a, b)), expected, places=4)
        np.testing.assert_allclose(to_world(to_local(w, x, y, n), x, y, n), w, atol=1e-4)

    @given(st.floats(0.05, 1.0), st.floats(1.01, 2.6))
    @settings(max_examples=60, deadline=None)
    def test_refraction_obeys_snell(self, cosine, eta):
        # Source: Snell's law: sin i = eta sin t, in one plane with the normal.
        sine = np.sqrt(1 - cosine**2)
        n, w = (F(0), F(0), F(1)), (F(sine), F(0), F(cosine))
        cos_t = np.sqrt(1 - (sine / eta) ** 2)
        out = refract(w, n, F(eta), F(cosine), F(cos_t))
        self.assertAlmostEqual(float(-out[0]) * eta, sine, places=4)
        self.assertAlmostEqual(float(out[1]), 0, places=6)
        self.assertAlmostEqual(float(np.linalg.norm(out)), 1, places=4)
        np.testing.assert_allclose(reflect(w, n), (-sine, 0, cosine), atol=1e-5)

    @given(DIRECTIONS, st.floats(-180, 180), st.floats(-90, 90))
    @settings(max_examples=30, deadline=None)
    def test_turning_and_turning_back(self, v, turn, tilt):
        things = build_set(
            material(), stage(objects=[thing("form", "rod", turn=turn, tilt=tilt)])
        ).scene.geometry.things
        np.testing.assert_allclose(to_stage(things, 0, to_own(things, 0, unit(v))), unit(v), atol=1e-5)


class Films(SimpleTestCase):
    def filled(self, values):
        """A film of one row whose pixels got these grey samples, (pixels, samples)."""
        film = Film(len(values), 1)
        film.sums[:] = values.sum(axis=1)[:, None]
        film.counts[:] = values.shape[1]
        film.odd[:] = values[:, 1::2].sum(axis=1)[:, None]
        film.odd_counts[:] = values[:, 1::2].shape[1]
        return film

    def test_noise_is_the_standard_error_over_the_mean(self):
        values = np.random.default_rng(5).uniform(0.1, 0.3, (4000, 64))
        error = values.std(axis=1, ddof=1) / np.sqrt(64)
        expected = float(np.sqrt(np.mean(error**2)) / values.mean())
        self.assertAlmostEqual(self.filled(values).noise() / expected, 1, delta=0.04)

    def test_what_is_past_white_is_not_noisy(self):
        values = np.random.default_rng(5).uniform(2, 9, (40, 16))
        self.assertEqual(self.filled(values).noise(), 0)
        self.assertGreater(self.filled(values).noise(-5), 0.01)

    def test_black_is_not_noisy(self):
        values = np.random.default_rng(5).uniform(0, 1e-4, (40, 16))
        self.assertLess(self.filled(values).noise(), 1e-4 / DARK)

    def test_adding_is_the_same_as_having_done_both(self):
        values = np.random.default_rng(6).random((20, 10))
        parts = self.filled(values[:, :4])
        parts.add(self.filled(values[:, 4:]))
        whole = self.filled(values)
        np.testing.assert_allclose(parts.rgb(), whole.rgb())
        self.assertAlmostEqual(parts.noise(), whole.noise())
        self.assertEqual(parts.samples(), 10)

    def test_a_pixel_without_samples_is_black(self):
        np.testing.assert_array_equal(Film(3, 2).rgb(), np.zeros((2, 3, 3)))

    def test_percentiles_of_lengths(self):
        lengths = np.zeros(100)
        edges = length_edges_m()
        lengths[np.searchsorted(edges, 0.03) - 1] = 1000
        facts = length_facts(lengths)
        for key in ("low_cm", "middle_cm", "high_cm"):
            self.assertAlmostEqual(facts[key], 3.0, delta=0.4)
