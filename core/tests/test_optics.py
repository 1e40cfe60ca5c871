from math import asin, atan, degrees, pi

import numba
import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.gauges import reading_of
from nineglass.gauges.within import transmitted
from nineglass.kernels import FAST, F
from nineglass.optics.absorption import sigma_at_depth, sigma_from_absorbance, transmittance
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.energy import energy_tables, rough_boundary, rough_dielectric, sample_rough_dielectric
from nineglass.optics.microfacet import ggx_density
from nineglass.spectra.observer import rgb_of_filter
from scipy.stats import chi2

from tests.scenes import material

ROUGHNESSES = (0.05, 0.2, 0.4, 0.7, 1.0)


def reflectance(angle_deg, n):
    return float(dielectric_reflectance(F(np.cos(np.radians(angle_deg))), F(n))[0])


def through(color, depth_cm, lengths_cm):
    """Transmittance (n, 401) of a material of a transmission colour at a depth."""
    interior = {"transmission_color": list(color), "transmission_depth": depth_cm}
    return transmitted(reading_of(material(interior=interior)), lengths_cm)


class DielectricReflectance(SimpleTestCase):
    def test_table_from_air(self):
        # Source: Born & Wolf, 1.5.2, evaluated to four digits.
        table = {
            1.333: (0.02037, 0.0279, 0.0597, 0.3479),
            1.5: (0.0400, 0.0502, 0.0892, 0.3877),
            1.62: (0.0560, 0.0673, 0.1083, 0.4041),
            2.4175: (0.1720, 0.1812, 0.2113, 0.4333),
        }
        for n, row in table.items():
            for angle, expected in zip((0, 45, 60, 80), row, strict=True):
                with self.subTest(n=n, angle=angle):
                    self.assertAlmostEqual(reflectance(angle, n), expected, delta=6e-5)

    def test_crown_glass_at_normal_incidence(self):
        # Published: ((n - 1) / (n + 1))^2 for n = 1.5168 is 0.04216.
        self.assertAlmostEqual(reflectance(0, 1.5168), 0.04216, places=5)

    def test_critical_and_brewster_angles(self):
        # Source: Snell's law; the angles of the table for 1.333, 1.5, 1.62 and 2.4175.
        for n, critical, brewster in (
            (1.333, 48.61, 53.12),
            (1.5, 41.81, 56.31),
            (1.62, 38.12, 58.31),
            (2.4175, 24.43, 67.53),
        ):
            self.assertAlmostEqual(degrees(asin(1 / n)), critical, delta=0.01)
            self.assertEqual(reflectance(critical + 0.05, 1 / n), 1.0)
            self.assertLess(reflectance(critical - 0.05, 1 / n), 1.0)
            # At Brewster's angle only the perpendicular half is reflected.
            sin2 = ((n * n - 1) / (n * n + 1)) ** 2
            self.assertAlmostEqual(degrees(atan(n)), brewster, delta=0.01)
            self.assertAlmostEqual(reflectance(brewster, n), sin2 / 2, places=4)

    def test_diffuse_reflectance(self):
        # Published integrals of the formula: n 1.5: 0.0918 outside, 0.5963 inside; n 1.33: 0.0659 and 0.4719.
        mu = (np.arange(4000) + 0.5) / 4000
        for n, outside, inside in ((1.5, 0.0918, 0.5963), (1.33, 0.0659, 0.4719)):
            for eta, expected in ((n, outside), (1 / n, inside)):
                values = [dielectric_reflectance(F(m), F(eta))[0] for m in mu]
                self.assertAlmostEqual(float(np.mean(2 * mu * values)), expected, delta=2e-4)

    @given(st.floats(0.05, 1), st.floats(1.0, 3.0))
    @settings(max_examples=100, deadline=None)
    def test_the_same_from_both_sides(self, cosine, n):
        # Source: Stokes' relations.
        there, cos_t = dielectric_reflectance(F(cosine), F(n))
        back, _ = dielectric_reflectance(F(cos_t), F(1 / F(n)))
        self.assertAlmostEqual(float(there), float(back), delta=2e-3)


class Absorption(SimpleTestCase):
    def test_five_plates_of_one_centimetre_equal_one_of_five(self):
        sigma = sigma_at_depth(F(0.7), F(0.01))
        one = transmittance(sigma, F(0.01))
        self.assertAlmostEqual(float(one), 0.7, places=5)
        self.assertAlmostEqual(float(one**5), float(transmittance(sigma, F(0.05))), places=5)

    def test_the_transmission_colour_is_reached_at_the_depth(self):
        color = (0.38, 0.72, 0.5)
        np.testing.assert_allclose(rgb_of_filter(through(color, 1.6, [1.6]))[0], color, atol=2e-3)

    def test_an_in_between_hue_shifts_with_depth(self):
        # A thin yellow turns red: the ratio of green to red falls with length.
        rgb = rgb_of_filter(through((0.95, 0.65, 0.1), 1.0, [0.3, 1, 3, 8]))
        ratio = rgb[:, 1] / rgb[:, 0]
        self.assertTrue((np.diff(ratio) < 0).all())

    def test_absorbance_of_a_spectrophotometer(self):
        # Source: IUPAC: absorbance 1 over a cuvette of 1 cm leaves a tenth of the light.
        sigma = sigma_from_absorbance(1.0, 0.01)
        self.assertAlmostEqual(float(transmittance(F(sigma), F(0.01))), 0.1, places=5)


@numba.njit(fastmath=FAST, error_model="numpy")
def draw(albedo, mean, wo, alpha, eta, numbers, out):
    boundary = rough_boundary(albedo, mean, wo[2], alpha, eta)
    for i in range(numbers.shape[0]):
        wi, weight, pdf = sample_rough_dielectric(albedo, boundary, wo, numbers[i, 0], numbers[i, 1], numbers[i, 2])
        out[i, 0], out[i, 1], out[i, 2], out[i, 3], out[i, 4] = wi[0], wi[1], wi[2], weight, pdf


@numba.njit(fastmath=FAST, error_model="numpy")
def respond(albedo, mean, wo, wi, alpha, eta):
    return rough_dielectric(albedo, rough_boundary(albedo, mean, wo[2], alpha, eta), wo, wi)


@numba.njit(fastmath=FAST, error_model="numpy")
def respond_all(albedo, mean, wo, directions, alpha, eta, out):
    boundary = rough_boundary(albedo, mean, wo[2], alpha, eta)
    for i in range(directions.shape[0]):
        wi = (directions[i, 0], directions[i, 1], directions[i, 2])
        out[i, 0], out[i, 1] = rough_dielectric(albedo, boundary, wo, wi)


def towards(cosine, azimuth=0.0):
    sine = np.sqrt(1 - cosine * cosine)
    return F(sine * np.cos(azimuth)), F(sine * np.sin(azimuth)), F(cosine)


class RoughDielectric(SimpleTestCase):
    def setUp(self):
        self.tables = energy_tables()
        self.numbers = np.random.default_rng(7).random((200_000, 3), np.float32)

    def drawn(self, cosine, roughness, eta):
        out = np.zeros((len(self.numbers), 5), np.float32)
        draw(*self.tables, towards(cosine), F(roughness**2), F(eta), self.numbers, out)
        return out

    def test_white_furnace(self):
        # A lossless boundary sends on all the light it gets; source of the compensation: Kulla & Conty 2017.
        for eta in (1.05, 1.33, 1.5, 2.4, 1 / 2.4, 1 / 1.5, 1 / 1.05):
            within = 0.007 if abs(eta - 1) < 0.1 else 0.003  # Total reflection begins between two rows of the table.
            for roughness in ROUGHNESSES:
                for cosine in (1.0, 0.6, 0.2):
                    with self.subTest(eta=eta, roughness=roughness, cosine=cosine):
                        sent_on = self.drawn(cosine, roughness, eta)[:, 3].mean()
                        self.assertAlmostEqual(float(sent_on), 1.0, delta=within)

    def test_reciprocity(self):
        # f(o, i) / n_i^2 = f(i, o) / n_o^2; source: Walter et al. 2007, section 5.
        rng = np.random.default_rng(3)
        for _ in range(60):
            a = towards(rng.uniform(0.1, 1), rng.uniform(0, 6))
            b = towards(rng.uniform(0.1, 1), rng.uniform(0, 6))
            alpha, eta = F(rng.uniform(0.1, 1)), F(rng.uniform(1.2, 2.2))
            there = respond(*self.tables, a, b, alpha, eta)[0] / b[2]
            back = respond(*self.tables, b, a, alpha, eta)[0] / a[2]
            np.testing.assert_allclose(there, back, rtol=2e-3, atol=1e-6)
            below = tuple(-v for v in b)
            through = respond(*self.tables, a, below, alpha, eta)[0] / b[2] / eta**2
            other_side = tuple(-v for v in a)
            returned = respond(*self.tables, b, other_side, alpha, F(1) / eta)[0] / a[2]
            np.testing.assert_allclose(through, returned, rtol=5e-3, atol=1e-5)

    def test_sampler_follows_its_pdf(self):
        # Chi-square over cells of equal solid angle, 32 heights by 8 azimuths; draws that end are not counted.
        heights, azimuths, fine = 32, 8, 24
        for eta, roughness in ((1.5, 0.5), (1 / 1.5, 0.7)):
            out = self.drawn(0.7, roughness, eta)
            kept = out[:, 4] > 0
            z, phi = out[kept, 2], np.arctan2(out[kept, 1], out[kept, 0]) % (2 * pi)
            found, _, _ = np.histogram2d(z, phi, (heights, azimuths), ((-1, 1), (0, 2 * pi)))
            zs = ((np.arange(heights * fine) + 0.5) / (heights * fine)) * 2 - 1
            phis = (np.arange(azimuths * fine) + 0.5) / (azimuths * fine) * 2 * pi
            grid_z, grid_phi = (g.ravel() for g in np.meshgrid(zs, phis, indexing="ij"))
            sine = np.sqrt(1 - grid_z**2)
            directions = np.stack([sine * np.cos(grid_phi), sine * np.sin(grid_phi), grid_z], 1).astype(np.float32)
            values = np.zeros((len(directions), 2), np.float32)
            respond_all(*self.tables, towards(0.7), directions, F(roughness**2), F(eta), values)
            density = values[:, 1].reshape(heights, fine, azimuths, fine).mean(axis=(1, 3))
            expected = density * 4 * pi / (heights * azimuths) * len(self.numbers)
            told = expected.sum() / len(self.numbers)
            self.assertLessEqual(told, 1.01)
            enough = expected > 25
            scaled = expected * found[enough].sum() / expected[enough].sum()
            statistic = ((found[enough] - scaled[enough]) ** 2 / scaled[enough]).sum()
            # The pdf is integrated numerically, so the bound is above the exact quantile.
            self.assertLess(statistic, 2.0 * chi2.ppf(0.9999, enough.sum()))
            self.assertAlmostEqual(found[enough].sum() / expected[enough].sum(), 1.0, delta=0.06)

    def test_facet_density_is_normalised(self):
        # Source: Walter et al. 2007, eq. 4: the projected area of all facets is that of the plane.
        mu = (np.arange(20000) + 0.5) / 20000
        for alpha in (0.1, 0.4, 1.0):
            total = np.mean([2 * pi * m * ggx_density(F(m), F(alpha)) for m in mu])
            self.assertAlmostEqual(float(total), 1.0, delta=5e-3)
