"""Light as it is shown: against the library's own processors, and what the eye is told beside."""

import numpy as np
import PyOpenColorIO
from django.test import SimpleTestCase
from nineglass.documents import shown
from nineglass.picture import views
from nineglass.picture.views import VIEWS, clipped, stops, stops_drawn

RNG = np.random.default_rng(3)


def by_the_library(view: str, rgb: np.ndarray) -> np.ndarray:
    """0 to 255 by OpenColorIO itself."""
    configuration = PyOpenColorIO.Config.CreateFromFile(views.CONFIGURATION)
    transform = PyOpenColorIO.DisplayViewTransform(src=views.REC709, display=views.DISPLAY, view=view)
    out = rgb.astype(np.float32).copy()
    configuration.getProcessor(transform).getDefaultCPUProcessor().applyRGB(out)
    return np.clip(out, 0, 1) * 255


class Views(SimpleTestCase):
    def test_each_is_told_of_in_words(self):
        self.assertEqual(list(VIEWS), list(shown.VIEWS))

    def test_plain_is_the_librarys_srgb(self):
        rgb = RNG.uniform(0, 1.3, (64, 64, 3)).astype(np.float32)
        away = np.abs(VIEWS["plain"](rgb, 0.0) - by_the_library("Un-tone-mapped", rgb))
        self.assertLess(away.max(), 1.0)

    def test_film_like_is_the_librarys_aces_view_on_greys(self):
        grey = np.repeat(2 ** RNG.uniform(-9, 7, (64, 64, 1)), 3, axis=2).astype(np.float32)
        away = np.abs(VIEWS["film"](grey, 0.0) - by_the_library(views.FILM_LIKE, grey))
        self.assertLess(away.max(), 1.5)

    def test_and_on_colours(self):
        rgb = (2 ** RNG.uniform(-8, 5, (96, 96, 1)) * RNG.dirichlet((1, 1, 1), (96, 96)) * 3).astype(np.float32)
        away = np.abs(VIEWS["film"](rgb, 0.0) - by_the_library(views.FILM_LIKE, rgb))
        self.assertLess(away.mean(), 0.5)
        self.assertLess(np.percentile(away, 99), 2.5)

    def test_exposure_is_a_factor(self):
        rgb = RNG.uniform(0, 2, (16, 16, 3)).astype(np.float32)
        for view in VIEWS.values():
            np.testing.assert_array_equal(view(rgb, 1.0), view(rgb * 2, 0.0))

    def test_what_is_no_light_or_too_much_is_shown_as_the_end(self):
        ends = np.array([[[0, 0, 0], [1e9, 1e9, 1e9], [-0.5, -0.1, -3]]], np.float32)
        drawn = VIEWS["film"](ends, 0.0)
        self.assertEqual([drawn[0, 0].max(), drawn[0, 1].min(), drawn[0, 2].max()], [0, 255, 0])

    def test_bright_parts_clip_in_the_plain_view_and_roll_off_in_the_other(self):
        bright = np.full((8, 8, 3), 4.0, np.float32)
        self.assertEqual(clipped(VIEWS["plain"](bright, 0.0)), (1, 1, 1))
        self.assertEqual(clipped(VIEWS["film"](bright, 0.0)), (0, 0, 0))


class Stops(SimpleTestCase):
    def test_they_are_counted_from_mid_grey(self):
        rgb = np.array([[[0.18] * 3, [0.36] * 3, [0.0225] * 3]])
        np.testing.assert_allclose(stops(rgb)[0], [0, 1, -3], atol=1e-6)
        np.testing.assert_allclose(stops(rgb, 2.0)[0], [2, 3, -1], atol=1e-6)

    def test_steps_are_flat_and_parted_by_lines(self):
        across = (0.18 * 2 ** np.linspace(-3, 3, 240)[None, :, None]) * np.ones((20, 1, 3))
        drawn = stops_drawn(across)[10].astype(int)
        away = np.rint(stops(across))[10]
        for step in range(-2, 3):
            inside = drawn[(away == step) & (np.arange(240) % 1 == 0)]
            self.assertLessEqual(len(np.unique(inside, axis=0)), 2, "a step and the line at its edge")
        np.testing.assert_array_equal(drawn[120], shown.MARKER)
        lightness = [drawn[np.flatnonzero(away == step)[5]].mean() for step in (-3, -2, -1, 1, 2, 3)]
        self.assertEqual(lightness, sorted(lightness))

    def test_what_lies_far_off_is_hatched(self):
        self.assertGreater(len(np.unique(stops_drawn(np.full((24, 24, 3), 1e4)))), 1)
        self.assertGreater(len(np.unique(stops_drawn(np.full((24, 24, 3), 1e-9)))), 1)
