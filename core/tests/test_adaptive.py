"""Samples where the picture is farthest from settled."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.picture.noise import error
from nineglass.trace.adaptive import EVEN_SAMPLES, LEAST, MOST_SAMPLES, STRETCH, next_jobs
from nineglass.trace.random import is_odd

from tests.lengths import fewer
from tests.scenes import TRACER, Film, build_set, material, stage

RNG = np.random.default_rng(17)
ROUGH_BALL = material(interface={"specular_roughness": 0.2})
LIT = stage("ball", {"diameter": 5}, lamps=[{"azimuth": 150, "elevation": 30}], floor={}, strength=0.1)


def noisy_film(spread, counts=EVEN_SAMPLES):
    """A film of so many samples a pixel, each of which errs by `spread` (h, w)."""
    film = Film(*spread.shape[::-1])
    film.counts[:] = np.ravel(counts)
    film.odd_counts[:] = film.counts // 2
    apart = (RNG.normal(0, 1, spread.shape) * spread).ravel() / film.counts**0.5
    film.odd[:] = ((0.3 + apart) * film.counts / 2)[:, None]
    film.sums[:] = film.odd + ((0.3 - apart) * film.counts / 2)[:, None]
    return film


def counts_after(spread, rounds):
    """(h, w) samples after the even passes and so many rounds."""
    counts = np.full(spread.shape, EVEN_SAMPLES)
    for _ in range(rounds):
        film = noisy_film(spread, counts)
        counts = counts + given(film, next_jobs(film, EVEN_SAMPLES))
    return counts


def given(film, jobs):
    """(h, w) samples that each pixel gets."""
    out = np.zeros(film.width * film.height, int)
    for job in jobs:
        out[job.first_pixel : job.first_pixel + job.pixels] += job.samples
    return out.reshape(film.height, film.width)


def by_rounds(the_set, side, rounds, seed=1):
    film = Film(side, side)
    for number in range(rounds):
        TRACER.render(the_set, film, jobs=next_jobs(film, number), seed=seed)
    return film


class Chosen(SimpleTestCase):
    def test_first_passes_are_even(self):
        film = Film(70, 30)
        for number in range(EVEN_SAMPLES):
            jobs = next_jobs(film, number)
            self.assertTrue((given(film, jobs) == 1).all())
            self.assertEqual({job.first_sample for job in jobs}, {number})

    def test_then_those_where_the_halves_differ(self):
        spread = np.full((64, 64), 0.01)
        spread[10:30, 32:] = 0.2
        film = noisy_film(spread)
        got = given(film, next_jobs(film, EVEN_SAMPLES + 1))
        self.assertGreater(got[12:28, 32:].mean(), 4)
        self.assertLess(got[40:].mean(), 0.3)
        self.assertLessEqual(got.max(), MOST_SAMPLES)
        self.assertAlmostEqual(got.mean(), 1, delta=0.05, msg="a round is worth about one sample a pixel")

    def test_samples_stand_to_each_other_as_the_errors_do(self):
        """Least sum of squares of error over count, under a fixed sum of counts (Neyman 1934)."""
        spread = np.full((64, 64), 0.05)
        spread[:, 32:] = 0.2
        counts = counts_after(spread, 40)
        least = LEAST * 0.125
        self.assertAlmostEqual(counts[:, 48:].mean() / counts[:, :16].mean(), (0.2 + least) / (0.05 + least), delta=0.3)

    def test_what_seems_settled_gets_some_too(self):
        spread = np.zeros((64, 64))
        spread[:8] = 0.3
        self.assertGreater(counts_after(spread, 60)[40:].min(), EVEN_SAMPLES)

    def test_what_has_no_noise_at_all_goes_on_evenly(self):
        film = noisy_film(np.zeros((64, 64)))
        got = given(film, next_jobs(film, EVEN_SAMPLES + 1))
        self.assertAlmostEqual(got.mean(), 1, delta=0.05)

    def test_bright_by_chance_draws_no_more_than_dark_by_chance(self):
        spread = RNG.uniform(0, 0.2, (64, 64))
        film, turned = noisy_film(spread), Film(64, 64)
        turned.counts[:], turned.odd_counts[:] = film.counts, film.odd_counts
        turned.sums[:], turned.odd[:] = film.sums, film.sums - film.odd
        self.assertEqual(next_jobs(film, 9), next_jobs(turned, 9))

    def test_what_is_past_white_is_let_be(self):
        film = noisy_film(np.full((64, 64), 0.1))
        film.sums[: 32 * 64] += 50 * EVEN_SAMPLES
        film.odd[: 32 * 64] += 25 * EVEN_SAMPLES
        got = given(film, next_jobs(film, EVEN_SAMPLES + 1))
        self.assertEqual(got[:24].sum(), 0)

    def test_stretches_end_with_their_row(self):
        film = noisy_film(np.full((64, 64), 0.1))
        for job in next_jobs(film, EVEN_SAMPLES + 1):
            self.assertEqual(job.first_pixel // 64, (job.first_pixel + job.pixels - 1) // 64)
            self.assertLessEqual(job.pixels, STRETCH)

    def test_each_stretch_goes_on_from_its_own_samples(self):
        film = by_rounds(build_set(ROUGH_BALL, LIT), 64, EVEN_SAMPLES + 6)
        counts = film.counts.reshape(64, 64)
        self.assertGreater(counts.max(), counts.min())
        for job in next_jobs(film, EVEN_SAMPLES + 7):
            there = film.counts[job.first_pixel : job.first_pixel + job.pixels]
            self.assertEqual(set(there.tolist()), {job.first_sample})


class Mean(SimpleTestCase):
    def test_it_is_that_of_even_samples(self):
        the_set, side = build_set(ROUGH_BALL, LIT), 32
        ours = np.mean([by_rounds(the_set, side, 24, seed).rgb() for seed in range(1, 1 + fewer(40))], axis=0)
        even = Film(side, side)
        TRACER.render(the_set, even, 0, fewer(2048, of=2), seed=77)
        for rows, columns in ((slice(8, 24), slice(8, 24)), (slice(0, 8), slice(None)), (slice(24, 32), slice(None))):
            self.assertAlmostEqual(float(ours[rows, columns].mean() / even.rgb()[rows, columns].mean()), 1, delta=0.01)

    def test_it_is_nearer_to_the_truth_than_as_many_even_samples(self):
        the_set, side = build_set(ROUGH_BALL, LIT), 64
        truth, even = Film(side, side), Film(side, side)
        TRACER.render(the_set, truth, 0, 512, seed=77)
        ours = by_rounds(the_set, side, 40)
        TRACER.render(the_set, even, 0, int(ours.counts.mean()))
        self.assertLess(error(ours.rgb(), truth.rgb()), error(even.rgb(), truth.rgb()))

    def test_the_same_seed_makes_the_same_picture(self):
        the_set = build_set(ROUGH_BALL, LIT)
        first, second = (by_rounds(the_set, 32, 14) for _ in range(2))
        np.testing.assert_array_equal(first.counts, second.counts)
        np.testing.assert_allclose(first.sums, second.sums, rtol=1e-9, atol=1e-12)


class Halves(SimpleTestCase):
    def test_each_has_as_many_of_any_first_samples_and_is_spread_as_well(self):
        """The parity of the bits (Thue 1906, Morse 1921): of any pair 2k, 2k + 1 one is in each half."""
        odd = np.array([bool(is_odd(np.uint32(k))) for k in range(256)])
        np.testing.assert_array_equal(odd[::2], ~odd[1::2])
        places = np.array([int(f"{k:08b}"[::-1], 2) / 256 for k in range(256)])  # van der Corput's sequence
        for count in (8, 64, 256):
            means = [places[:count][odd[:count] == half].mean() for half in (False, True)]
            self.assertAlmostEqual(means[0], means[1], places=6)
