"""The picture while it settles."""

from concurrent.futures import ThreadPoolExecutor
from unittest.mock import patch

import numpy as np
import pyoidn
from django.test import SimpleTestCase
from nineglass.picture.denoise import MOST_SIZES, denoised
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
        with patch("nineglass.picture.smooth.denoised", lambda _: self.fail("it was filtered")):
            self.assertIs(smoothed(rgb, 0.005), rgb)

    def test_flat_parts_keep_their_mean_and_lose_their_noise(self):
        """Light that comes in single hits, as paths bring it: most pixels dark, some bright."""
        hits = RNG.poisson(4.0, (64, 64, 1)) / 4.0
        rgb = (grey(64) * hits).astype(np.float32)
        found = smoothed(rgb, 0.5)
        self.assertAlmostEqual(float(found.mean() / rgb.mean()), 1, delta=0.05)
        self.assertLess(found.std(), 0.25 * rgb.std())


class OwnFilter(SimpleTestCase):
    def test_it_gives_what_the_library_gives_by_itself(self):
        for k in (*range(MOST_SIZES + 2), 0):
            rgb = RNG.random((32 + 16 * k, 32, 3)).astype(np.float32)
            expected = pyoidn.denoise(rgb, hdr=True, quality="fast")
            np.testing.assert_allclose(denoised(rgb), expected, atol=1e-5)

    def test_two_threads_do_not_get_into_each_others_pictures(self):
        pictures = [np.full((64, 64, 3), value, np.float32) for value in (0.1, 0.7)]
        with ThreadPoolExecutor(2) as pool:
            for _ in range(10):
                means = [found.mean() for found in pool.map(denoised, pictures)]
                np.testing.assert_allclose(means, (0.1, 0.7), rtol=0.02)
