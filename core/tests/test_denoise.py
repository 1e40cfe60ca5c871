"""Noise taken out of small pictures."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.picture.denoise import BRIGHTEST, denoised


def steps() -> np.ndarray:
    """(64, 64, 3): two greys that meet at a sharp edge."""
    picture = np.full((64, 64, 3), 0.2, np.float32)
    picture[:, 32:] = 0.6
    return picture


class Denoised(SimpleTestCase):
    def noisy(self, spread: float) -> tuple[np.ndarray, np.ndarray]:
        rng = np.random.default_rng(4)
        grey = rng.normal(0, spread, (64, 64, 1)).astype(np.float32)
        return steps() + grey, np.full((64, 64), spread**2)

    def test_most_of_the_noise_goes(self):
        # 49 pixels of one grey have a mean with a seventh of the noise of one; a third is asked for.
        picture, variance = self.noisy(0.05)
        left = np.sqrt(((denoised(picture, variance) - steps()) ** 2).mean())
        self.assertLess(left, 0.05 / 3)

    def test_edges_stay(self):
        picture, variance = self.noisy(0.05)
        across = denoised(picture, variance).mean(axis=(0, 2))
        self.assertLess(abs(across[31] - 0.2), 0.02)
        self.assertLess(abs(across[32] - 0.6), 0.02)

    def test_what_has_no_noise_stays_as_it_is(self):
        ramp = np.linspace(0, 1, 64, dtype=np.float32)
        picture = np.stack([np.tile(ramp, (64, 1))] * 3, -1)
        np.testing.assert_allclose(denoised(picture, np.zeros((64, 64))), picture, atol=0.01)

    def test_the_brightness_of_a_plain_field_is_kept(self):
        rng = np.random.default_rng(7)
        picture = np.full((64, 64, 3), 0.4, np.float32) * rng.uniform(0.5, 1.5, (64, 64, 1)).astype(np.float32)
        variance = np.full((64, 64), (0.4**2) / 12)
        self.assertAlmostEqual(float(denoised(picture, variance).mean()), 0.4, delta=0.01)

    def test_one_bright_sample_is_bounded(self):
        picture = steps()
        picture[10, 10] = 500
        variance = np.zeros((64, 64))
        variance[10, 10] = 500.0**2
        self.assertLessEqual(float(denoised(picture, variance).max()), BRIGHTEST)
