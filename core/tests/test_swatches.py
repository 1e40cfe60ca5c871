"""Absorption found of two swatches."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.documents.absorbing import BAND
from nineglass.documents.bands.interior import CURVE
from nineglass.documents.model import Material, read
from nineglass.spectra.difference import delta_e_of
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter
from nineglass.trials.swatches import MET, Swatch, solve

THIN, THICK = 0.5, 3.0


def color_at(sigma: np.ndarray, depth: float) -> tuple:
    return tuple(np.clip(rgb_of_filter(np.exp(-sigma * depth)), 0, None))


def smooth_absorption(rng) -> np.ndarray:
    """A base and one to three broad bands, as dyes have; per cm."""
    sigma = np.full(401, rng.uniform(0.01, 0.1))
    for _ in range(rng.integers(1, 4)):
        middle, width = rng.uniform(400, 680), rng.uniform(30, 90)
        sigma += rng.uniform(0.1, 1.2) * np.exp(-0.5 * ((WAVELENGTHS_NM - middle) / width) ** 2)
    return sigma


class Solving(SimpleTestCase):
    def test_known_absorption_to_two_swatches_and_back(self):
        # Round trip of 100 random absorptions: the swatches are met, so are the colours between them and mostly those beyond, and the spectrum where
        # the eye's curves see enough of it to determine it.
        rng, within, beyond, seen = np.random.default_rng(1), [], [], (WAVELENGTHS_NM > 430) & (WAVELENGTHS_NM < 660)
        for _ in range(100):
            sigma = smooth_absorption(rng)
            found = solve(Swatch(color_at(sigma, THIN), THIN), Swatch(color_at(sigma, THICK), THICK))
            self.assertLess(max(found.differences), MET)
            self.assertEqual(found.says, [])
            for depth in (1.0, 2.0):
                self.assertLess(delta_e_of(color_at(found.sigma(), depth), color_at(sigma, depth)), 1.5)
            beyond.append(delta_e_of(color_at(found.sigma(), 2 * THICK), color_at(sigma, 2 * THICK)))
            within.append(np.abs(np.exp(-found.sigma()) - np.exp(-sigma))[seen].mean())
        self.assertLess(np.median(beyond), 1)
        self.assertLess(np.mean(within), 0.02)
        self.assertLess(max(within), 0.1)

    def test_the_order_of_the_swatches_does_not_matter(self):
        thin, thick = Swatch((0.9, 0.6, 0.2), THIN), Swatch((0.5, 0.05, 0.0), THICK)
        one, other = solve(thin, thick), solve(thick, thin)
        np.testing.assert_allclose(one.transmittance, other.transmittance, atol=1e-3)
        self.assertEqual((one.depth, other.depth), (THIN, THIN))
        np.testing.assert_allclose(one.colors[0], other.colors[1], atol=1e-3)

    def test_what_cannot_be_met_is_told_in_words(self):
        # More matter cannot let more light through (Beer 1852).
        found = solve(Swatch((0.2, 0.2, 0.2), THIN), Swatch((0.6, 0.6, 0.6), THICK))
        self.assertGreater(max(found.differences), 5)
        self.assertTrue(any("darker" in line and "3 cm" in line for line in found.says), found.says)

    def test_it_goes_to_an_interior_as_a_curve(self):
        found = solve(Swatch((0.9, 0.6, 0.2), THIN), Swatch((0.5, 0.05, 0.0), THICK))
        bands = [{"id": "interface", "kind": "interface"}, {"id": "own", "kind": BAND, "dials": found.dials}]
        material = read(Material, {"section": {"bands": bands}})
        self.assertEqual(material.section.bands[1].dials["absorption"], CURVE)
