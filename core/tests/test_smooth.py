"""The picture while it settles."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.picture.denoise import NoiseFilter, denoised
from nineglass.picture.smooth import SMOOTHED_FROM, TRUE_FROM, share_of_true, smoothed

RNG = np.random.default_rng(11)


def grey(side=32, value=0.2):
    return np.full((side, side, 3), value, np.float32)


class TakesOver(SimpleTestCase):
    def test_the_true_picture_takes_over_as_its_noise_falls(self):
        shares = [share_of_true(noise) for noise in (None, 1.0, SMOOTHED_FROM, 0.025, TRUE_FROM, 0.0)]
        np.testing.assert_allclose(shares, [0, 0, 0, 0.5, 1, 1], atol=1e-9)

    def test_a_quiet_picture_is_shown_as_it_is(self):
        rgb = grey() + RNG.normal(0, 0.001, (32, 32, 3)).astype(np.float32)
        self.assertIs(smoothed(rgb, 0.005, lambda _: self.fail("it was filtered")), rgb)

    def test_flat_parts_keep_their_mean_and_lose_their_noise(self):
        """Light that comes in single hits, as paths bring it: most pixels dark, some bright."""
        hits = RNG.poisson(4.0, (64, 64, 1)) / 4.0
        rgb = (grey(64) * hits).astype(np.float32)
        found = smoothed(rgb, 0.5, NoiseFilter())
        self.assertAlmostEqual(float(found.mean() / rgb.mean()), 1, delta=0.05)
        self.assertLess(found.std(), 0.25 * rgb.std())


class OwnFilter(SimpleTestCase):
    def test_it_gives_what_the_library_gives(self):
        ours = NoiseFilter()
        for side in (32, 48, 32, 64, 96, 128, 32):
            rgb = RNG.random((side, side, 3)).astype(np.float32)
            np.testing.assert_allclose(ours(rgb), denoised(rgb), atol=1e-5)
