"""Noise taken out of small pictures."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.picture.denoise import denoised


def steps() -> np.ndarray:
    """(64, 64, 3): two greys that meet at a sharp edge."""
    picture = np.full((64, 64, 3), 0.2, np.float32)
    picture[:, 32:] = 0.6
    return picture


class Denoised(SimpleTestCase):
    def noisy(self, seed: int, spread: float = 0.05) -> np.ndarray:
        return steps() + np.random.default_rng(seed).normal(0, spread, (64, 64, 1)).astype(np.float32)

    def test_most_of_the_noise_goes_and_edges_stay(self):
        picture = denoised(self.noisy(4))
        self.assertLess(np.sqrt(((picture - steps()) ** 2).mean()), 0.05 / 3)
        across = picture.mean(axis=(0, 2))
        self.assertLess(abs(across[30] - 0.2), 0.02)
        self.assertLess(abs(across[33] - 0.6), 0.02)

    def test_the_brightness_of_a_plain_field_is_kept(self):
        rng = np.random.default_rng(7)
        picture = np.full((64, 64, 3), 0.4, np.float32) * rng.uniform(0.5, 1.5, (64, 64, 1)).astype(np.float32)
        self.assertAlmostEqual(float(denoised(picture).mean()), 0.4, delta=0.01)
