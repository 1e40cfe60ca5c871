"""Matter looked for of three swatches: what slabs of it throw back and pass."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.documents.model import Material, read
from nineglass.optics.doubling import slab
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter
from nineglass.trials.slabs import GROUNDS, Slabs, solve_slabs
from nineglass.trials.swatches import KNOTS_NM, Swatch

from tests.lengths import fewer

INDEX, THIN, THICK, THROUGH = 1.45, 0.05, 2.0, 0.3
SEEN = slice(2, 16)
"""420 to 680 nm: what the eye sees well, and so what colours determine."""


def swatches(absorbed, scattered, ground=0.0) -> list[Swatch]:
    """What slabs of known matter look like."""
    slabs = Slabs.of(INDEX)
    shares = [(slabs.reflectance(absorbed, scattered, depth, ground), depth) for depth in (THIN, THICK)]
    shares.append((slabs.transmittance(absorbed, scattered, THROUGH), THROUGH))
    colors = [(rgb_of_filter(np.interp(WAVELENGTHS_NM, KNOTS_NM, share)), depth) for share, depth in shares]
    return [Swatch(tuple(float(v) for v in np.clip(color, 0, None)), depth) for color, depth in colors]


def smooth_matter(rng) -> tuple[np.ndarray, np.ndarray]:
    """Absorption and scattering per cm over wavelength, as of wax, skin and juices: broad and smooth."""
    x = (KNOTS_NM - 580) / 200
    absorbed = np.exp(rng.uniform(-2, 2) + rng.normal(0, 1) * x + rng.normal(0, 0.7) * x * x)
    return absorbed, np.exp(rng.uniform(1, 4) + rng.normal(0, 0.5) * x)


class Lookups(SimpleTestCase):
    def test_they_are_what_adding_and_doubling_gives(self):
        # Prahl, van Gemert & Welch 1993 by `optics.doubling`, which is checked against van de Hulst's tables.
        rng, slabs = np.random.default_rng(1), Slabs.of(INDEX)
        for _ in range(20):
            absorbed, scattered, depth = 10 ** rng.uniform(-2, 1), 10 ** rng.uniform(-1, 2), 10 ** rng.uniform(-1, 0.5)
            both = absorbed + scattered
            exact = slab(scattered / both, both * depth, 0.0, INDEX)
            self.assertAlmostEqual(float(slabs.reflectance(absorbed, scattered, depth, 0)), exact.reflected, delta=2e-3)
            self.assertAlmostEqual(float(slabs.transmittance(absorbed, scattered, depth)), exact.passed, delta=2e-3)

    def test_white_behind_shines_through_a_thin_slab_and_not_through_a_thick_one(self):
        slabs, white = Slabs.of(INDEX), GROUNDS["white"]
        thin = [float(slabs.reflectance(0.1, 1.0, 0.05, ground)) for ground in (0, white)]
        thick = [float(slabs.reflectance(1.0, 40.0, 5.0, ground)) for ground in (0, white)]
        self.assertGreater(thin[1], thin[0] + 0.5)
        self.assertAlmostEqual(thick[0], thick[1], places=3)


class RoundTrips(SimpleTestCase):
    def test_known_matter_comes_back_where_the_swatches_determine_it(self):
        rng = np.random.default_rng(5)
        worst = []
        for _ in range(fewer(40, of=8)):
            absorbed, scattered = smooth_matter(rng)
            found = solve_slabs(*swatches(absorbed, scattered), INDEX)
            self.assertLess(max(found.differences), 0.3, found.says)
            self.assertEqual(found.says, [])
            np.testing.assert_allclose(found.scattered[SEEN], scattered[SEEN], rtol=0.1)
            worst.append(np.abs(np.log(found.absorbed / absorbed))[SEEN].max())
        self.assertLess(np.median(worst), 0.15)

    def test_before_white_as_well(self):
        absorbed, scattered = smooth_matter(np.random.default_rng(9))
        white = GROUNDS["white"]
        found = solve_slabs(*swatches(absorbed, scattered, white), INDEX, white)
        self.assertLess(max(found.differences), 0.3)

    def test_what_no_matter_can_do_is_told(self):
        # More cannot come back and go through than fell in.
        white = (0.95, 0.95, 0.95)
        found = solve_slabs(Swatch(white, 1.0), Swatch(white, 2.0), Swatch(white, 1.0))
        self.assertTrue(found.says)
        self.assertGreater(max(found.differences), 5)

    def test_the_dials_of_an_interior_say_the_same(self):
        absorbed, scattered = smooth_matter(np.random.default_rng(2))
        found = solve_slabs(*swatches(absorbed, scattered), INDEX)
        dials = found.dials
        read(Material, {"section": {"bands": [{"id": "interior", "kind": "interior", "dials": dials}]}})
        depth = dials["transmission_depth"]
        left, share = (np.array(dials[name])[:, 1] for name in ("transmittance", "scatter_curve"))
        np.testing.assert_allclose(-np.log(left) / depth, found.absorbed, rtol=1e-3)
        np.testing.assert_allclose(share * dials["scatter_amount"] / depth, found.scattered, rtol=1e-3)
