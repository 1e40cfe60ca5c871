"""Noise taken out of small pictures, and what is told to be left."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.picture.denoise import LUMINANCE, denoised, evened_out

from tests.scenes import TRACER, Film, Material, Stage, build_set, demo, read


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

    def test_what_is_left_is_told_as_much_as_it_is(self):
        for seed in range(3):
            picture, told = evened_out(self.noisy(seed), self.noisy(seed + 10))
            left = float(np.sqrt((((picture - steps()) @ LUMINANCE) ** 2).mean())) / 0.4
            self.assertTrue(0.5 * left < told < 2 * left, (left, told))

    def test_on_true_pictures(self):
        """Against long renders: there is less wrong than before, and what is told is most of it; glitter that is lost is the rest."""
        for material, stage in (("net-float", "window-bench"), ("tea-caddy", "tea-shelf")):
            the_set = build_set(read(Material, demo(material)), read(Stage, demo(stage)))
            films = [Film(96, 96) for _ in range(3)]
            for film, (first, samples) in zip(films, ((0, 4), (4, 4), (1000, 384)), strict=True):
                TRACER.render(the_set, film, first, samples)
            picture, told = evened_out(films[0].rgb(), films[1].rgb())
            raw = (films[0].rgb() + films[1].rgb()) / 2

            truth = films[2].rgb()

            def away(one, truth=truth):
                shown, true = (np.minimum(a @ LUMINANCE, 1) for a in (one, truth))
                return float(np.sqrt(((shown - true) ** 2).mean()) / true.mean())

            self.assertLess(away(picture), 0.8 * away(raw))
            self.assertTrue(0.3 < told / away(picture) < 1.5, (told, away(picture)))
