"""What a final picture is cut into, and lights by themselves."""

import io
import shutil
import tempfile
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from django.test import SimpleTestCase
from nineglass.catalogue import LAMPS, SURROUNDS
from nineglass.documents.final import Final
from nineglass.documents.lights import SURROUND, bright_by, lights_of, parts_of, relit
from nineglass.documents.model import Material, Stage, read
from nineglass.finals.apart import Apart, OneLight
from nineglass.finals.plan import CHUNK_PATHS, TILE_PIXELS, samples_of_chunk, tiles_of
from nineglass.finals.sums import ALWAYS, BYTES_OF_A_PIXEL, THROWN, film_of, from_bytes, to_bytes
from nineglass.finals.whole import Whole, layers_of, look_at, write_files
from nineglass.picture.files import LayersFile, read_picture
from nineglass.picture.noise import LUMINANCE, Errors, told
from nineglass.trace.film import Film
from nineglass.trace.first_hits import first_hits
from nineglass.trace.scene import build_set
from PIL import Image

from tests.lengths import fewer
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
        TRACER.render(the_set, whole_film, 0, 128)
        pieces = np.zeros((64, 64, 3))
        for top in (0, 32):
            for left in (0, 32):
                film = Film(32, 32)
                frame = (left / 64, top / 64, (left + 32) / 64, (top + 32) / 64)
                TRACER.render(the_set.through(the_set.lens.framed(*frame)), film, 0, 128, seed=2 + top + left)
                pieces[top : top + 32, left : left + 32] = film.rgb()
        blocks = [one.reshape(8, 8, 8, 8, 3).mean(axis=(1, 3)) for one in (pieces, whole_film.rgb())]
        np.testing.assert_allclose(*blocks, atol=0.03)

    def test_sums_come_back_as_they_were(self):
        tile = tiles_of(Final(width=20, height=16))[0]
        film = film_of(tile)
        TRACER.render(build_set(read(Material, demo("net-float")), stage("ball", strength=1)), film, 0, 2)
        names = ALWAYS + THROWN
        archive = io.BytesIO()
        np.savez(archive, **{name: getattr(film, name) for name in names})
        for kept in (to_bytes(film), archive.getvalue()):
            again = from_bytes(tile, kept)
            for name in names:
                np.testing.assert_array_equal(getattr(again, name), getattr(film, name), name)

    def test_sums_without_thrown_light_come_back_and_others_are_refused(self):
        tile = tiles_of(Final(width=20, height=16))[0]
        film = film_of(tile)
        film.sums[:], film.cut[:] = 3, 7
        kept = to_bytes(film)
        self.assertLessEqual(len(kept), BYTES_OF_A_PIXEL * film.width * film.height)
        again = from_bytes(tile, kept)
        self.assertTrue((again.sums == 3).all() and (again.cut == 7).all() and not again.throws.any())
        for wrong in (kept[:-8], kept + bytes(8), b""):
            with self.assertRaisesRegex(ValueError, "not the sums"):
                from_bytes(tile, wrong)


class Lights(SimpleTestCase):
    def test_one_lamp_and_the_surround_add_up_sample_by_sample(self):
        material, on = read(Material, demo("copper-pan")), read(Stage, demo("window-bench"))
        lights = lights_of(material, on)
        self.assertEqual([one.name for one in lights], ["Window", "Surround"])
        together = rendered(material, on)
        parts = [rendered(one.material, one.stage) for one in lights]
        np.testing.assert_allclose(sum(parts), together, rtol=1e-3, atol=1e-5)

    def test_a_light_that_throws_none_takes_nothing_of_what_others_throw(self):
        rng, whole = np.random.default_rng(1), Film(4, 4)
        lights = [OneLight(name, None, Film(4, 4)) for name in ("lamp", "surround")]
        for one, throws in zip(lights, (0, 8), strict=True):
            one.film.counts[:], one.film.odd_counts[:], one.film.throws[:] = 4, 2, (throws, throws // 2)
            one.film.sums[:], one.film.odd[:] = rng.random((16, 3)) * 4, rng.random((16, 3)) * 2
            if throws:
                one.film.thrown[:], one.film.thrown_odd[:] = rng.random((16, 3)), rng.random((16, 3))
        Apart(None, None, lights).put_together(whole)
        np.testing.assert_allclose(whole.rgb(), sum(one.film.rgb() for one in lights))
        for k, half in enumerate(whole.halves()):
            np.testing.assert_allclose(half, sum(one.film.halves()[k] for one in lights))

    def test_two_lamps_and_a_lighting_picture_add_up(self):
        material, on = read(Material, demo("tea-caddy")), read(Stage, demo("tea-shelf"))
        together = rendered(material, on, 24, 256).mean()
        alone = [rendered(one.material, one.stage, 24, 256).mean() for one in lights_of(material, on)]
        self.assertEqual(len(alone), 3)
        self.assertAlmostEqual(sum(alone), together, delta=0.012 * together)

    def test_a_flame_is_a_light_and_its_matter_stays(self):
        material, on = read(Material, demo("tallow")), read(Stage, demo("candle-sill"))
        lights = lights_of(material, on)
        self.assertIn("What glows", [one.name for one in lights])
        # Means over the picture; what many lamps are chosen from by lot is the same on average only.
        together = rendered(material, on, 24, fewer(512)).mean()
        alone = [rendered(one.material, one.stage, 24, fewer(512)).mean() for one in lights]
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
        whole, errors = Whole(final, [("one", (1, 1, 1)), ("two", (2, 2, 2))]), Errors()
        films = []
        for light in range(2):
            film = Film(16, 16)
            TRACER.render(
                build_set(read(Material, demo("beeswax")), stage("ball", strength=1)), film, 0, 4, seed=light + 1
            )
            whole.put(light, 0, film)
            films.append(film)
        np.testing.assert_allclose(whole.beauty, films[0].rgb() + 2 * films[1].rgb(), rtol=1e-5)
        whole.handed_out(errors)
        self.assertAlmostEqual(errors.noise, told(*whole.halves), places=7)
        self.assertGreater(errors.noise, 0)
        self.assertEqual(whole.samples.min(), 4)

    def test_by_bands_of_rows_it_is_what_it_is_at_once(self):
        material, on = read(Material, demo("net-float")), read(Stage, demo("window-bench"))
        final = Final(width=48, height=40, smoothed=False)
        film = Film(48, 40)
        TRACER.render(build_set(material, on, 48 / 40), film, 0, 8)

        def part_of(rows):
            part = Whole(final, [("All light", (1, 1, 1))], False, rows)
            part.put(0, 0, film)
            return part

        made = {}
        for name, pixels in (("at once", 10**6), ("by bands", 48 * 7)):
            folder = Path(tempfile.mkdtemp(prefix="nineglass-bands-"))
            self.addCleanup(shutil.rmtree, folder)
            with mock.patch("nineglass.finals.whole.BAND_PIXELS", pixels):
                look = look_at(final, part_of, 0.0)
                made[name] = (look, *write_files(look, part_of, final, material, on, folder))
        (one, exr, png), (other, exr_by_bands, png_by_bands) = made.values()
        self.assertAlmostEqual(one.noise, other.noise, places=9)
        np.testing.assert_array_equal(one.small, other.small)
        np.testing.assert_allclose(one.cut, other.cut)
        with (
            OpenEXR.File(str(exr), separate_channels=True) as a,
            OpenEXR.File(str(exr_by_bands), separate_channels=True) as b,
        ):
            first, second = a.channels(), b.channels()
            self.assertIn("position.X", first)
            for name, channel in first.items():
                np.testing.assert_allclose(channel.pixels, second[name].pixels, rtol=1e-6, err_msg=name)
        np.testing.assert_array_equal(Image.open(png), Image.open(png_by_bands))
        rgb, alpha, facts = read_picture(exr)
        np.testing.assert_allclose(rgb, film.rgb(), rtol=1e-6)
        self.assertIsNone(alpha)
        self.assertEqual(facts["final"]["width"], 48)

    def test_in_half_precision_colours_take_half_the_room_and_places_do_not(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "half.exr"
            file = LayersFile(path, 3, 2, {}, half=True)
            bright = np.full((2, 3, 3), 1e6, np.float32)
            file.add({"": bright, "alpha": np.full((2, 3), 0.3), "position": np.full((2, 3, 3), 70000.0)})
            file.close()
            with OpenEXR.File(str(path), separate_channels=True) as given:
                channels = given.channels()
                kinds = {name: str(channel.pixels.dtype) for name, channel in channels.items()}
                self.assertEqual((kinds["R"], kinds["A"], kinds["position.X"]), ("float16", "float16", "float32"))
                self.assertEqual(float(channels["R"].pixels.max()), 65504, "the brightest that half precision holds")
                self.assertAlmostEqual(float(channels["A"].pixels[0, 0]), 0.3, delta=0.3 * 0.0005)
                self.assertEqual(float(channels["position.Z"].pixels[1, 2]), 70000)

    def test_limits_of_a_kind_take_light_away_and_say_how_much(self):
        # Two white walls facing: of what lights them only the share that was met once is left when matt is met once at most (Lambert's law).
        material, on = read(Material, demo("beeswax")), stage("ball", strength=1)
        the_set, whole, single = build_set(material, on), Film(32, 32), Film(32, 32)
        TRACER.render(the_set, whole, 0, 32)
        TRACER.render(the_set, single, 0, 32, most_within=1)
        self.assertEqual(whole.cut[2], 0)
        missing = 1 - single.rgb().mean() / whole.rgb().mean()
        self.assertGreater(missing, 0.02)
        self.assertGreater(single.cut[2] / single.counts.sum(), 0.02)
        floor = read(Stage, demo("window-bench"))
        lit, cut = Film(32, 32), Film(32, 32)
        enamel = build_set(read(Material, demo("mica-enamel")), floor)
        TRACER.render(enamel, lit, 0, 32)
        TRACER.render(enamel, cut, 0, 32, most_matt=1)
        self.assertLess(cut.rgb().mean(), lit.rgb().mean())
        self.assertGreater(cut.cut[1], 0)
        self.assertEqual(lit.cut[1], 0)


class LaidOver(SimpleTestCase):
    """A float cut out: what is laid behind shows past it and through it."""

    def made(self, behind, lets_through=True, material="net-float", **around) -> Film:
        on = stage("ball", strength=1)
        change = {"cut_out": behind is None, "lets_through": lets_through, **around}
        if behind is not None:
            change |= {"camera": {"kind": "plain", "dials": {"color": behind, "strength": 1.0}}}
        on = read(Stage, on.model_dump(mode="json") | {"surround": on.surround.model_dump(mode="json") | change})
        film = Film(40, 40)
        TRACER.render(build_set(read(Material, demo(material)), on), film, 0, 256)
        return film

    def test_clear_glass_laid_over_a_colour_is_the_glass_before_it(self):
        # A surround that is even everywhere, so that what is seen through the glass is known without its image: laid over the same light, the
        # cut-out is the picture that was not cut out.
        cut = self.made(None)
        even = self.made([1.0, 1.0, 1.0])
        laid = cut.rgb() + cut.behind()
        np.testing.assert_allclose(
            laid.reshape(5, 8, 5, 8, 3).mean(axis=(1, 3)),
            even.rgb().reshape(5, 8, 5, 8, 3).mean(axis=(1, 3)),
            atol=0.03,
        )
        middle, corner = cut.behind()[16:24, 16:24].mean(axis=(0, 1)), cut.behind()[0, 0]
        np.testing.assert_array_equal(corner, 1)
        self.assertGreater(middle[1], 1.05 * middle[0], "green glass lets green through")
        self.assertLess(middle[1], 0.97)
        self.assertLess(cut.alpha()[16:24, 16:24].mean(), 0.8)

    def test_what_is_laid_behind_shows_through_only_where_it_is_asked_for(self):
        plain = self.made(None, lets_through=False)
        np.testing.assert_array_equal(plain.through, 0)
        self.assertEqual(plain.alpha()[20, 20], 1)

    def test_edges_have_no_fringe_over_red_or_white(self):
        cut = self.made(None, material="copper-pan")
        edge = (cut.alpha() > 0.1) & (cut.alpha() < 0.9)
        self.assertGreater(edge.sum(), 20)
        for color in ([1.0, 0.0, 0.0], [1.0, 1.0, 1.0]):
            before_it = self.made(color, material="copper-pan").rgb()
            laid = cut.rgb() + cut.behind() * color
            np.testing.assert_allclose(laid[edge], before_it[edge], atol=0.06)
            np.testing.assert_allclose(laid[edge].mean(axis=0), before_it[edge].mean(axis=0), atol=0.01)

    def test_a_mirror_lets_nothing_through(self):
        self.assertEqual(self.made(None, material="copper-pan").through.max(), 0)


class OnTheFloor(SimpleTestCase):
    def made(self, material: str, lamps) -> dict[str, np.ndarray]:
        floor = {"color": [0.5, 0.5, 0.5]}
        on = stage("ball", {"diameter": 4}, floor=floor, lamps=lamps, strength=0.02, camera={"elevation": 30})
        final = Final(width=64, height=48, samples=64, smoothed=False, on_floor=True)
        parts = parts_of(read(Material, demo(material)), on, False, True)
        whole = Whole(final, [(one.name, (1, 1, 1)) for one in parts])
        for light, one in enumerate(parts):
            film = Film(64, 48)
            TRACER.render(build_set(one.material, one.stage, 64 / 48), film, 0, 64)
            whole.put(light, 0, film)
        picture = whole.handed_out()
        the_set = build_set(read(Material, demo(material)), on, 64 / 48)
        return layers_of(whole, the_set, picture, 1.0) | {"bare": whole.rgb[-1]}

    def test_shadow_and_caustic_lie_on_the_floor_and_make_the_picture_of_it(self):
        lamp = {
            "kind": "sphere",
            "dials": {"azimuth": -60, "elevation": 40, "distance": 30, "diameter": 2, "power": 30},
        }
        layers = self.made("clear-glass", [lamp])
        is_floor = (layers["object_id"] > 0) & (layers["material_id"] == 0)
        self.assertEqual(layers["shadow"][~is_floor].max(), 0)
        self.assertEqual(layers["caustic"][~is_floor].max(), 0)
        self.assertGreater(layers["shadow"].max(), 0.5, "the ball has a shadow")
        self.assertGreater(layers["caustic"].max(), 0.5 * layers["bare"][is_floor].mean(), "and light thrown into it")
        laid = layers["bare"] * (1 - layers["shadow"][..., None]) + layers["caustic"]
        dark = is_floor & (layers["shadow"] > 0.1)
        grey = (layers[""] @ LUMINANCE)[dark], (laid @ LUMINANCE)[dark]
        np.testing.assert_allclose(grey[1].mean(), grey[0].mean(), rtol=0.05)

    def test_opaque_matter_throws_nothing(self):
        lamp = {
            "kind": "sphere",
            "dials": {"azimuth": -60, "elevation": 40, "distance": 30, "diameter": 2, "power": 30},
        }
        glass, enamel = (self.made(name, [lamp])["caustic"].sum() for name in ("clear-glass", "black-enamel"))
        self.assertLess(enamel, 0.5 * glass)
