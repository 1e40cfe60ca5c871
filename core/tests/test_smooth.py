"""The picture while it settles."""

from concurrent.futures import ThreadPoolExecutor
from unittest.mock import patch

import numpy as np
import pyoidn
from django.test import SimpleTestCase
from nineglass.picture.denoise import MOST_SIZES, denoised
from nineglass.picture.noise import error, true_error
from nineglass.picture.smooth import SMOOTHED_FROM, TRUE_FROM, Shot

from tests.lengths import fewer
from tests.scenes import TRACER, Film, Material, Stage, build_set, demo, read

RNG = np.random.default_rng(11)


def grey(side=32, value=0.2):
    return np.full((side, side, 3), value, np.float32)


def shot(rgb, noise, halves=None):
    return Shot(rgb, halves, None, 0.0, 8, noise, noise)


class TakesOver(SimpleTestCase):
    def test_the_true_picture_takes_over_as_its_noise_falls(self):
        shares = [shot(grey(), noise).share_of_true for noise in (None, 1.0, SMOOTHED_FROM, 0.025, TRUE_FROM, 0.0)]
        np.testing.assert_allclose(shares, [0, 0, 0, 0.5, 1, 1], atol=1e-9)

    def test_a_quiet_picture_is_shown_as_it_is(self):
        rgb = grey() + RNG.normal(0, 0.001, (32, 32, 3)).astype(np.float32)
        with patch("nineglass.picture.smooth.denoised", lambda *_: self.fail("it was filtered")):
            shown, noise = shot(rgb, 0.005).smoothed()
        self.assertIs(shown, rgb)
        self.assertEqual(noise, 0.005)

    def test_flat_parts_keep_their_mean_and_lose_their_noise(self):
        """Light that comes in single hits, as paths bring it: most pixels dark, some bright."""
        hits = RNG.poisson(4.0, (64, 64, 1)) / 4.0
        rgb = (grey(64) * hits).astype(np.float32)
        found, _ = shot(rgb, 0.5).smoothed()
        self.assertAlmostEqual(float(found.mean() / rgb.mean()), 1, delta=0.05)
        self.assertLess(found.std(), 0.25 * rgb.std())


class Told(SimpleTestCase):
    def test_on_true_pictures(self):
        """Against long renders: there is less wrong than before, and what is told is about as much as it is."""
        for material, stage in (("net-float", "window-bench"), ("tea-caddy", "tea-shelf")):
            the_set = build_set(read(Material, demo(material)), read(Stage, demo(stage)))
            film, long = Film(96, 96), Film(96, 96)
            TRACER.render(the_set, film, 0, 8)
            TRACER.render(the_set, long, 1000, fewer(384))
            picture, told = Shot.of(film, the_set.exposure).smoothed()
            left, raw = (error(one, long.rgb(), the_set.exposure) for one in (picture, film.rgb()))
            self.assertLess(left, 0.8 * raw)
            self.assertTrue(0.6 < told / left < 1.6, (told, left))

    def test_as_much_is_told_as_is_wrong(self):
        """As rendered, where samples are well spread, and smoothed, where the filter takes detail away that both halves lack."""
        for material, stage in (("signal-lens", "lens-stand"), ("oil-slate", "wet-step")):
            the_set = build_set(read(Material, demo(material)), read(Stage, demo(stage)))
            film, *longs = (Film(64, 64) for _ in range(3))
            TRACER.render(the_set, film, 0, 64)
            for seed, long in enumerate(longs, start=2):
                TRACER.render(the_set, long, 0, fewer(512), seed=seed)
            shot = Shot.of(film, the_set.exposure)
            for rgb, told in ((shot.rgb, shot.noise), shot.smoothed()):
                true = true_error(rgb, [long.rgb() for long in longs], the_set.exposure)
                self.assertTrue(0.7 < told / true < 1.4, (material, told, true))

    def test_flat_parts_of_a_true_picture_keep_their_mean(self):
        the_set = build_set(read(Material, demo("net-float")), read(Stage, demo("window-bench")))
        film = Film(96, 96)
        TRACER.render(the_set, film, 0, 16)
        smooth, _ = Shot.of(film, the_set.exposure).smoothed()
        for rows in (slice(4, 16), slice(80, 92)):
            self.assertAlmostEqual(float(smooth[rows].mean() / film.rgb()[rows].mean()), 1, delta=0.01)


class Guided(SimpleTestCase):
    def film(self, material, stage):
        the_set = build_set(read(Material, demo(material)), read(Stage, demo(stage)))
        film = Film(96, 96)
        TRACER.render(the_set, film, 0, 4)
        return film

    def test_what_stands_behind_glass_guides_the_filter(self):
        """The squares of the floor are seen through the float: its colour there steps as that of the floor beside it does."""
        color, normal = self.film("net-float", "window-bench").guidance()
        inside = color[55:62, 35:62].mean(axis=-1)
        self.assertGreater(inside.max() - inside.min(), 0.1)
        up = normal[..., 1]
        self.assertGreater(
            float(np.median(up[55:62, 35:62])), 0.6, "not the normal of the glass but that of the floor behind it"
        )

    def test_matt_matter_is_its_own_guide(self):
        color, normal = self.film("tea-caddy", "tea-shelf").guidance()
        middle = color[50:56, 44:50].reshape(-1, 3).mean(axis=0)
        self.assertGreater(middle[0], 2.5 * middle[2], middle)
        self.assertGreater(float(np.linalg.norm(normal[50:56, 44:50].mean(axis=(0, 1)))), 0.9)

    def test_no_samples_no_guides(self):
        self.assertIsNone(Film(4, 4).guidance())

    def test_a_pattern_that_only_the_guides_know_stays(self):
        row, column = np.indices((64, 64))
        colour = np.where((row // 6 + column // 6) % 2, 0.6, 0.2)[..., None] * np.ones(3, np.float32)
        noisy = (colour * 0.4 * RNG.poisson(1.0, (64, 64, 1))).astype(np.float32)
        with_guides, without = denoised(noisy, (colour, np.zeros_like(colour))), denoised(noisy)
        truth = colour * 0.4
        self.assertLess(error(with_guides, truth), 0.5 * error(without, truth))


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
