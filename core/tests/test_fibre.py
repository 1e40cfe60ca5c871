"""The light of one fibre, of strands on a stage, and of thick pelts."""

from math import asin, degrees, radians, sqrt

import numpy as np
from django.test import SimpleTestCase
from nineglass.kernels import F
from nineglass.matter.melanin import EUMELANIN, PHEOMELANIN, absorption_of
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.fibre import (
    LOBES,
    MIRRORED,
    ONCE_WITHIN,
    PASSED,
    azimuthal_scale,
    bent_within,
    draw_lobe,
    lobe_density,
    log_bessel_0,
    longitudinal,
    longitudinal_norm,
    longitudinal_variance,
    mirrored_share,
    shares,
    tilted,
    turn_of,
)
from scipy.special import i0e

RNG = np.random.default_rng


def lobes_toward(wi, wo, h, *, tilt=0.0, along=0.3, around=0.3, eta=1.55, absorption=0.0, highlight=1.0, medulla=0.0):
    """Response times cosine of one fibre at one wavelength, all lobes together."""
    sin_o, cos_o = F(wo[0]), F(sqrt(1 - wo[0] ** 2))
    sin_i, cos_i = F(wi[0]), F(sqrt(1 - wi[0] ** 2))
    gamma_o, gamma_t, way = bent_within(sin_o, cos_o, F(h), F(eta))
    parts = shares(F(absorption), way, mirrored_share(cos_o, F(h), F(eta)), F(highlight), F(medulla))
    turn = F(np.arctan2(wi[2], wi[1]) - np.arctan2(wo[2], wo[1]))
    about = (sin_o, cos_o, gamma_o, gamma_t, F(tilt), longitudinal_variance(F(along)), azimuthal_scale(F(around)))
    return sum(float(parts[k]) * float(lobe_density(k, sin_i, cos_i, turn, *about)) for k in range(LOBES))


def even_directions(count, seed=1):
    out = RNG(seed).normal(size=(count, 3))
    return out / np.linalg.norm(out, axis=1, keepdims=True)


class OneFibre(SimpleTestCase):
    def test_the_bessel_function(self):
        # Reference library: scipy.special.i0e.
        for x in (0.0, 0.5, 3.7, 3.8, 20.0, 700.0):
            self.assertAlmostEqual(float(log_bessel_0(F(x))), float(np.log(i0e(x)) + x), delta=2e-6 * max(x, 1))

    def test_the_longitudinal_part_integrates_to_one(self):
        # d'Eon et al. 2011, 3: its integral over the cosine-weighted inclination is 1, at any width.
        theta = np.linspace(-np.pi / 2, np.pi / 2, 8001)
        for roughness in (0.1, 0.3, 0.6, 1.0):
            for angle in (0.0, 0.7, 1.3):
                variance = longitudinal_variance(F(roughness))
                cosine, sine, norm = F(np.cos(angle)), F(np.sin(angle)), longitudinal_norm(variance)
                values = [
                    longitudinal(F(np.cos(t)), cosine, F(np.sin(t)), sine, variance, norm) * np.cos(t) for t in theta
                ]
                self.assertAlmostEqual(np.trapezoid(values, theta), 1, delta=2e-3)

    def test_each_lobe_integrates_to_one(self):
        directions = even_directions(30000)
        sin_o, cos_o = F(0.4), F(sqrt(1 - 0.16))
        gamma_o, gamma_t, _ = bent_within(sin_o, cos_o, F(0.5), F(1.55))
        about = (sin_o, cos_o, gamma_o, gamma_t, F(0.04), longitudinal_variance(F(0.5)), azimuthal_scale(F(0.5)))
        for lobe in range(LOBES):
            values = [
                lobe_density(lobe, F(w[0]), F(sqrt(1 - w[0] ** 2)), F(np.arctan2(w[2], w[1])), *about)
                for w in directions
            ]
            self.assertAlmostEqual(4 * np.pi * np.mean(values), 1, delta=0.03)

    def test_lobes_peak_where_the_cuticle_tilts_them(self):
        # Marschner et al. 2003, table 1: R, TT, TRT are shifted by -2, +1, +4 times the tilt (to first order), from the mirror cone; angles count
        # towards the tip, and the scales lean to the root: light that meets a scale square on is mirrored rootwards.
        tilt = radians(3)
        theta = np.radians(np.arange(-60, 60, 0.05))
        sin_o, cos_o = F(np.sin(radians(20))), F(np.cos(radians(20)))
        gamma_o, gamma_t, _ = bent_within(sin_o, cos_o, F(0), F(1.55))
        for lobe, times in ((MIRRORED, -2), (PASSED, 1), (ONCE_WITHIN, 4)):
            about = (sin_o, cos_o, gamma_o, gamma_t, F(tilt), F(0.002), F(0.3))
            turn = turn_of(lobe, gamma_o, gamma_t)
            values = [lobe_density(lobe, F(np.sin(t)), F(np.cos(t)), turn, *about) for t in theta]
            peak = degrees(theta[int(np.argmax(values))])
            self.assertAlmostEqual(peak, -20 + times * 3, delta=0.3)

    def test_light_turns_as_by_a_smooth_cylinder(self):
        # Snell's law by hand: at h = 0.6 and n = 1.5, light is mirrored by 2 asin(0.6), and bent through by 2 asin(0.6) - 2 asin(0.4).
        gamma_o, gamma_t, way = bent_within(F(0), F(1), F(0.6), F(1.5))
        self.assertAlmostEqual(float(turn_of(MIRRORED, gamma_o, gamma_t)), -2 * asin(0.6), places=5)
        through = float(turn_of(PASSED, gamma_o, gamma_t))
        self.assertAlmostEqual(abs(through), np.pi - 2 * asin(0.6) + 2 * asin(0.4), places=5)
        self.assertAlmostEqual(float(way), sqrt(1 - 0.4**2), places=5)

    def test_nothing_is_lost_without_absorption(self):
        # At any setting: drawn by a fixed seed.
        rng = RNG(11)
        for _ in range(300):
            highlight, medulla, cos_o = rng.random(3)
            mirrored = mirrored_share(F(cos_o), F(rng.uniform(-1, 1)), F(rng.uniform(1.2, 2)))
            parts = shares(F(0), F(1), mirrored, F(highlight), F(medulla))
            if mirrored < 0.999:
                self.assertAlmostEqual(float(sum(parts)), 1, places=4)

    def test_a_fibre_without_absorption_is_invisible_in_an_even_surround(self):
        # Chiang et al. 2016, 3.3: the white furnace of one fibre, at any roughness, tilt and highlight.
        rng = RNG(3)
        for along, around, highlight in ((0.1, 0.1, 1), (0.3, 0.3, 0.05), (0.9, 0.9, 1), (0.4, 0.2, 0.5)):
            variance, scale = longitudinal_variance(F(along)), azimuthal_scale(F(around))
            total, count = 0.0, 4000
            for _ in range(count):
                h, sin_o = F(rng.uniform(-1, 1)), F(rng.uniform(-0.98, 0.98))
                cos_o = F(sqrt(1 - float(sin_o) ** 2))
                gamma_o, gamma_t, way = bent_within(sin_o, cos_o, h, F(1.55))
                parts = shares(F(0), way, mirrored_share(cos_o, h, F(1.55)), F(highlight), F(0.2))
                lobe = int(rng.choice(LOBES, p=np.array(parts, float) / float(sum(parts))))
                about = (sin_o, cos_o, gamma_o, gamma_t, F(0.05), variance, scale)
                u, v, w = (F(x) for x in rng.random(3))
                wi = draw_lobe(lobe, sin_o, cos_o, F(0.3), *about[2:], u, v, w)
                sin_i, cos_i = F(wi[0]), F(sqrt(max(1 - wi[0] ** 2, 0)))
                turn = F(np.arctan2(wi[2], wi[1]) - 0.3)
                density = [float(lobe_density(k, sin_i, cos_i, turn, *about)) for k in range(LOBES)]
                chances = np.array(parts, float) / float(sum(parts))
                total += np.dot(np.array(parts, float), density) / np.dot(chances, density)
            self.assertAlmostEqual(total / count, 1, delta=0.005)

    def test_directions_are_drawn_by_their_density(self):
        # Chi-square over cells of equal chance by the longitudinal cosine, against draws of the same lobe.
        sin_o, cos_o = F(0.3), F(sqrt(1 - 0.09))
        gamma_o, gamma_t, _ = bent_within(sin_o, cos_o, F(-0.3), F(1.55))
        about = (gamma_o, gamma_t, F(0.03), longitudinal_variance(F(0.4)), azimuthal_scale(F(0.4)))
        rng, count, edges = RNG(5), 20000, np.linspace(-1, 1, 21)
        for lobe in range(LOBES):
            drawn = np.array(
                [draw_lobe(lobe, sin_o, cos_o, F(0), *about, *(F(x) for x in rng.random(3))) for _ in range(count)]
            )
            found, _ = np.histogram(drawn[:, 0], edges)
            phi = np.linspace(-np.pi, np.pi, 120, endpoint=False)
            middles = (edges[1:] + edges[:-1]) / 2
            fine = (edges[:-1, None] + (np.arange(8) + 0.5) / 8 * 0.1).ravel()
            mass = [
                np.mean([lobe_density(lobe, F(s), F(sqrt(1 - s * s)), F(p), sin_o, cos_o, *about) for p in phi])
                for s in fine
            ]
            expected = np.reshape(mass, (len(middles), 8)).mean(axis=1) * 2 * np.pi * 0.1 * count
            many = expected > 20
            chi = ((found - expected)[many] ** 2 / expected[many]).sum() / many.sum()
            self.assertLess(chi, 2.5)

    def test_light_goes_both_ways_alike(self):
        # Reciprocity, of the light of all places across a fibre together, without tilt: S(i, o) / cos i = S(o, i) / cos o. The shares are
        # taken at one end (Chiang et al. 2016, 4.2), so that it holds near normal inclination and for what is about mirrored.
        for wi, wo in (((0.05, 0.6, 0.8), (-0.1, -0.3, 0.95)), ((0.2, -0.5, 0.84), (-0.15, 0.2, 0.97))):
            wi, wo = (np.array(w) / np.linalg.norm(w) for w in (wi, wo))
            h = np.linspace(-0.995, 0.995, 200)
            there = np.mean([lobes_toward(wi, wo, x, absorption=0.5) for x in h]) / sqrt(1 - wi[0] ** 2)
            back = np.mean([lobes_toward(wo, wi, x, absorption=0.5) for x in h]) / sqrt(1 - wo[0] ** 2)
            self.assertAlmostEqual(there / back, 1, delta=0.03)

    def test_a_weak_highlight_leaves_its_light_to_the_rest(self):
        full = shares(F(0), F(1), F(0.05), F(1), F(0))
        weak = shares(F(0), F(1), F(0.05), F(0.1), F(0))
        self.assertAlmostEqual(float(weak[MIRRORED]), 0.1 * float(full[MIRRORED]), places=6)
        self.assertAlmostEqual(float(sum(weak)), 1, places=5)

    def test_the_tilt_of_the_lobes_keeps_their_length(self):
        for lobe in range(LOBES):
            sine, cosine = tilted(lobe, F(0.3), F(sqrt(0.91)), F(0.1))
            self.assertAlmostEqual(float(sine) ** 2 + float(cosine) ** 2, 1, places=5)


class Melanin(SimpleTestCase):
    def test_absorption_of_both_pigments(self):
        # d'Eon et al. 2011, 6.1: (0.419, 0.697, 1.37) and (0.187, 0.4, 1.05) for red, green and blue, over the radius of a fibre (Chiang et al.
        # 2016 have light go twice as far through its middle); the wavelengths of the three are about those of the primaries' dominant ones
        # (common practice).
        for pigment, published in ((EUMELANIN, (0.419, 0.697, 1.37)), (PHEOMELANIN, (0.187, 0.4, 1.05))):
            found = np.interp((634, 545, 445), WAVELENGTHS_NM, absorption_of(pigment))
            np.testing.assert_allclose(found / 2, published, rtol=0.05)
