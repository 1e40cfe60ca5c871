"""What a final picture is cut into, and lights by themselves."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import LAMPS, SURROUNDS
from nineglass.documents.final import Final
from nineglass.documents.lights import SURROUND, bright_by, lights_of, relit
from nineglass.documents.model import Material, Stage, read
from nineglass.finals.plan import CHUNK_PATHS, TILE_PIXELS, samples_of_chunk, tiles_of
from nineglass.finals.sums import film_of, from_bytes, to_bytes
from nineglass.finals.whole import Whole
from nineglass.trace.film import Film
from nineglass.trace.first_hits import first_hits
from nineglass.trace.scene import build_set

from tests.scenes import TRACER, demo, stage


def rendered(material: Material, on: Stage, side: int = 40, samples: int = 64) -> np.ndarray:
    film = Film(side, side)
    TRACER.render(build_set(material, on), film, 0, samples)
    return film.rgb()


class Tiles(SimpleTestCase):
    def test_they_cover_the_frame_once(self):
        for width, height in ((1280, 720), (8192, 8192), (8192, 16), (17, 4000), (3000, 1999)):
            final = Final(width=width, height=height)
            covered = np.zeros((height, width), np.uint8)
            for tile in tiles_of(final):
                self.assertLessEqual(tile.width * tile.height, 1.2 * TILE_PIXELS)
                covered[tile.top : tile.top + tile.height, tile.left : tile.left + tile.width] += 1
            self.assertTrue((covered == 1).all(), (width, height))

    def test_chunks_follow_on_one_another_and_end_where_they_are_to(self):
        final = Final(width=1280, height=720, samples=21)
        tile, at = tiles_of(final)[0], 0
        for number in range(20):
            first, samples = samples_of_chunk(final, tile, number)
            if not samples:
                break
            self.assertEqual(first, at)
            at += samples
        self.assertEqual(at, 21)
        small = Final(width=100, height=100)
        sizes = [samples_of_chunk(small, tiles_of(small)[0], k)[1] for k in range(12)]
        self.assertEqual(sizes[:5], [1, 1, 2, 4, 8])
        self.assertEqual(sizes[-2:], [CHUNK_PATHS // 10_000] * 2)

    def test_tiles_put_together_are_the_picture(self):
        # Numbers are drawn by tile, so what is compared is what they come to: means of blocks within the noise of so many samples.
        material, on = read(Material, demo("beeswax")), stage("ball", strength=1)
        the_set, whole_film = build_set(material, on), Film(64, 64)
        TRACER.render(the_set, whole_film, 0, 64)
        pieces = np.zeros((64, 64, 3))
        for top in (0, 32):
            for left in (0, 32):
                film = Film(32, 32)
                frame = (left / 64, top / 64, (left + 32) / 64, (top + 32) / 64)
                TRACER.render(the_set.through(the_set.lens.framed(*frame)), film, 0, 64, seed=2 + top + left)
                pieces[top : top + 32, left : left + 32] = film.rgb()
        blocks = [one.reshape(8, 8, 8, 8, 3).mean(axis=(1, 3)) for one in (pieces, whole_film.rgb())]
        np.testing.assert_allclose(*blocks, atol=0.03)

    def test_sums_come_back_as_they_were(self):
        tile = tiles_of(Final(width=20, height=16))[0]
        film = film_of(tile)
        TRACER.render(build_set(read(Material, demo("net-float")), stage("ball", strength=1)), film, 0, 2)
        again = from_bytes(tile, to_bytes(film))
        for name in ("sums", "odd", "counts", "thrown", "guides", "throws"):
            np.testing.assert_array_equal(getattr(again, name), getattr(film, name))


class Lights(SimpleTestCase):
    def test_one_lamp_and_the_surround_add_up_sample_by_sample(self):
        material, on = read(Material, demo("copper-pan")), read(Stage, demo("window-bench"))
        lights = lights_of(material, on)
        self.assertEqual([one.name for one in lights], ["Window", "Surround"])
        together = rendered(material, on)
        parts = [rendered(one.material, one.stage) for one in lights]
        np.testing.assert_allclose(sum(parts), together, rtol=1e-3, atol=1e-5)

    def test_a_flame_is_a_light_and_its_matter_stays(self):
        material, on = read(Material, demo("tallow")), read(Stage, demo("candle-sill"))
        lights = lights_of(material, on)
        self.assertIn("What glows", [one.name for one in lights])
        # Means over the picture; what many lamps are chosen from by lot is the same on average only.
        together = rendered(material, on, 24, 512).mean()
        alone = [rendered(one.material, one.stage, 24, 512).mean() for one in lights]
        self.assertAlmostEqual(sum(alone), together, delta=0.05 * together)

    def test_lights_turned_afterwards_are_as_if_they_had_been_so(self):
        material, on = read(Material, demo("copper-pan")), read(Stage, demo("window-bench"))
        gains = {"window": (0.5, 0.25, 0.1), SURROUND: (2.0, 2.0, 2.0)}
        alone = {one.id: rendered(one.material, one.stage, samples=256) for one in lights_of(material, on)}
        turned = sum(alone[name] * np.array(gain) for name, gain in gains.items())
        made = rendered(*relit(material, on, gains), samples=256)
        # Colours mix by wavelength within matter, and by channel here: alike within a few percent for a soft filter.
        np.testing.assert_allclose(turned.mean(axis=(0, 1)), made.mean(axis=(0, 1)), rtol=0.06)

    def test_every_lamp_and_surround_can_be_turned(self):
        for kinds in (LAMPS, SURROUNDS):
            for name, kind in kinds.kinds.items():
                dial = kind.dials[bright_by(kind.dials)]
                self.assertEqual(dial.hard_low, 0, name)


class FirstHits(SimpleTestCase):
    def test_depth_place_and_identity_of_a_ball_on_a_floor(self):
        given = stage("ball", strength=1)
        on = given.model_copy(update={"floor": read(Stage, demo("window-bench")).floor})
        the_set = build_set(read(Material, demo("net-float")), on)
        hits = first_hits(the_set, 32, 32)
        middle, foot = (16, 16), (31, 16)
        self.assertEqual(hits.thing[middle], 1)
        self.assertEqual(hits.matter[middle], 1)
        self.assertGreater(hits.thing[foot], 1, "the floor is another thing")
        eye, ahead = the_set.lens.eye * 100, the_set.lens.forward
        for at in (middle, foot):
            along = float((hits.position_cm[at] - eye) @ ahead)
            self.assertAlmostEqual(float(hits.depth_cm[at]), along, delta=1e-3 * along)
        self.assertLess(hits.depth_cm[middle], hits.depth_cm[0, 0])


class Put(SimpleTestCase):
    def test_noise_is_told_of_all_lights_together(self):
        final = Final(width=16, height=16, smoothed=False)
        whole = Whole(final, [("one", (1, 1, 1)), ("two", (2, 2, 2))], 0.0)
        films = []
        for light in range(2):
            film = Film(16, 16)
            TRACER.render(
                build_set(read(Material, demo("beeswax")), stage("ball", strength=1)), film, 0, 4, seed=light + 1
            )
            whole.put(light, 0, film)
            films.append(film)
        np.testing.assert_allclose(whole.beauty, films[0].rgb() + 2 * films[1].rgb(), rtol=1e-5)
        self.assertGreater(whole.noise(), 0)
        self.assertEqual(whole.samples.min(), 4)
