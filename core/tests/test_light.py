"""The light of the stage: surrounds, sky, lighting pictures, lamps and who sees what."""

from math import pi, radians

import numpy as np
from django.test import SimpleTestCase
from nineglass.describe import Refused
from nineglass.documents.model import Stage, read
from nineglass.picture.lighting import read_lighting_picture
from nineglass.spectra.light import light_basis
from nineglass.spectra.observer import D65, rgb_of
from nineglass.surrounds.directions import directions
from nineglass.surrounds.sky import PEREZ_LUMINANCE, direction_of, perez, sky_xyy, zenith
from nineglass.trace.light.surround import around_of, drawn, picture_color

from tests.scenes import luminance, material, middle, render, stage, thing

F = np.float32
PICTURE = {"kind": "lighting_picture", "dials": {}}
MIRROR = {
    "section": {
        "bands": [{"id": "metal", "kind": "metal", "dials": {"substance": "silver", "specular_roughness": 0.0}}]
    }
}


def spotted(height=64):
    """A dark picture with one bright patch above the right."""
    out = directions(height, 2 * height)
    toward = direction_of(90, 40)
    return (0.05 + 40.0 * (out @ toward > np.cos(0.15)))[..., None] * np.ones(3)


class Basis(SimpleTestCase):
    def test_three_lights_are_the_primaries_and_together_white(self):
        # Source: Mallett & Yuksel 2019: spectra that round-trip exactly and sum to the illuminant.
        np.testing.assert_allclose(rgb_of(light_basis()), np.eye(3), atol=1e-6)
        np.testing.assert_allclose(light_basis().sum(axis=0), D65, rtol=1e-9)
        self.assertGreaterEqual(light_basis().min(), 0)


class PictureSampling(SimpleTestCase):
    def setUp(self):
        self.around = around_of(0, 1, 1.0, spotted())
        rng = np.random.default_rng(4)
        self.directions, self.pdf = np.zeros((3, 40_000), F), np.zeros(40_000, F)
        drawn(self.around, rng.random(40_000, F), rng.random(40_000, F), self.directions, self.pdf)

    def test_the_density_integrates_to_one(self):
        # The mean of 1 / pdf over the sampler is the solid angle of all directions, 4 pi.
        self.assertAlmostEqual(float((1 / self.pdf).mean()) / (4 * pi), 1.0, delta=0.03)

    def test_the_mean_of_the_picture_is_reproduced(self):
        seen = [luminance(picture_color(self.around.picture, tuple(d))) for d in self.directions.T[:8000]]
        out = directions(64, 128)
        weight = np.sqrt(1 - out[..., 1] ** 2)
        expected = (luminance(spotted()) * weight).sum() / weight.sum() * 4 * pi
        self.assertAlmostEqual(float((np.array(seen) / self.pdf[:8000]).mean()) / expected, 1.0, delta=0.02)

    def test_most_directions_go_to_the_bright_patch(self):
        near = self.directions.T @ direction_of(90, 40) > np.cos(0.2)
        self.assertGreater(near.mean(), 0.6)

    def test_a_direction_sees_its_own_texel(self):
        height = 32
        out = directions(height, 2 * height).astype(F)
        around = around_of(0, 1, 1.0, out)
        for row, column in ((3, 5), (16, 40), (30, 63)):
            np.testing.assert_allclose(
                picture_color(around.picture, tuple(out[row, column])), out[row, column], atol=1e-4
            )


class LightingPicture(SimpleTestCase):
    def test_an_even_picture_is_a_plain_surround(self):
        # White furnace in a lighting picture.
        scene = stage(
            surround={"light": {"kind": "sky"}, "second": {"kind": "plain", "dials": {"strength": 1}}, "blend": 1.0}
        )
        film = render(material(interface={"specular_roughness": 0.3}), scene, side=24, samples=96, most_bounces=200)
        np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), 1.0, atol=0.01)

    def test_the_brightest_place_is_mirrored_where_it_stands(self):
        # A mirror ball half way between camera and light shows the light at its centre: here both are at the front.
        scene = stage("ball", surround={"light": PICTURE, "camera": {"kind": "plain", "dials": {"strength": 0.0}}})
        film = render(read_material(MIRROR), scene, side=64, samples=16)
        left, right = film.rgb()[20:44, 12:32].mean(), film.rgb()[20:44, 32:52].mean()
        self.assertNotAlmostEqual(left, right, places=2)

    def test_sampling_it_changes_noise_not_the_mean(self):
        ground = {"color": [0.5, 0.5, 0.5]}
        scene = stage("ball", {"diameter": 0.02}, floor=ground, surround={"light": PICTURE}, camera={"elevation": 60})
        from nineglass.trace.film import Film
        from nineglass.trace.scene import build_set

        from tests.scenes import TRACER

        films = []
        for uniform in (False, True):
            film = Film(24, 24)
            TRACER.render(build_set(material(), scene, uniform=uniform), film, 0, 64)
            films.append(film)
        ours, plain = films
        self.assertAlmostEqual(luminance(middle(ours, 0.9)) / luminance(middle(plain, 0.9)), 1.0, delta=0.03)
        self.assertLess(ours.noise(), 0.5 * plain.noise())

    def test_a_lamp_hides_what_is_behind_it_whichever_way_light_is_found(self):
        # A large dark plate above: light asked for and light met by chance must agree on what it hides. Common practice: two samplers of one
        # integral have one mean (Veach 1997, 9.2).
        from nineglass.trace.film import Film
        from nineglass.trace.scene import build_set

        from tests.scenes import TRACER

        plate = {"width": 60, "height": 60, "power": 0.0, "elevation": 70, "distance": 40}
        about = {"floor": {"color": [0.5, 0.5, 0.5]}, "surround": {"light": PICTURE}, "camera": {"elevation": 60}}
        means = {}
        for hides in (False, True):
            scene = stage("ball", {"diameter": 0.02}, lamps=[plate] if hides else [], **about)
            for uniform in (False, True):
                film = Film(24, 24)
                TRACER.render(build_set(material(), scene, uniform=uniform), film, 0, 128)
                means[hides, uniform] = luminance(middle(film, 0.9))
        self.assertAlmostEqual(means[True, False] / means[True, True], 1.0, delta=0.03)
        self.assertLess(means[True, False], 0.8 * means[False, False])

    def test_turning_and_strength(self):
        from nineglass.catalogue import SURROUNDS

        about = SURROUNDS.kinds["lighting_picture"]
        plain, turned = (about.make().picture(about.defaults() | {"turn": t, "strength": 2.0}) for t in (0.0, 90.0))
        np.testing.assert_allclose(np.roll(plain, plain.shape[1] // 4, axis=1), turned)
        np.testing.assert_allclose(plain, 2 * about.make().picture(about.defaults()))


def read_material(given):
    from nineglass.documents.model import Material

    return read(Material, given)


class PictureFiles(SimpleTestCase):
    def radiance(self, pixels: np.ndarray) -> bytes:
        """The flat form of a Radiance file of mantissas and exponents (h, w, 4)."""
        height, width = pixels.shape[:2]
        return b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n" + f"-Y {height} +X {width}\n".encode() + pixels.tobytes()

    def test_radiance_flat(self):
        # Ward 1991: a mantissa of 128 with exponent 129 is (128 + 0.5) / 256 * 2.
        pixels = np.full((2, 4, 4), (128, 64, 0, 129), np.uint8)
        rgb = read_lighting_picture(self.radiance(pixels))
        np.testing.assert_allclose(rgb[0, 0], (128.5 / 128, 64.5 / 128, 0.5 / 128), rtol=1e-6)

    def test_radiance_runs(self):
        head = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n"
        row = b"\x02\x02\x00\x08" + b"\x88\x40" + b"\x08" + bytes(range(8)) + b"\x88\x10" + b"\x88\x81"
        rgb = read_lighting_picture(head + row * 4)
        np.testing.assert_allclose(rgb[3, :, 1], (np.arange(8) + 0.5) / 128, rtol=1e-6)
        np.testing.assert_allclose(rgb[2, 5, 0], 64.5 / 128, rtol=1e-6)

    def test_openexr_comes_back(self):
        from pathlib import Path
        from tempfile import TemporaryDirectory

        from nineglass.picture.files import write_exr

        with TemporaryDirectory() as folder:
            path = Path(folder) / "light.exr"
            write_exr(path, spotted(16), {})
            np.testing.assert_allclose(read_lighting_picture(path.read_bytes()), spotted(16), rtol=1e-3)

    def test_hostile_files_are_refused_by_name(self):
        good = self.radiance(np.zeros((2, 4, 4), np.uint8))
        broken = {
            "neither": b"GIF89a" + bytes(100),
            "ends early": good[:-3],
            "twice as wide": self.radiance(np.zeros((2, 3, 4), np.uint8)),
            "at most 8192": b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 50000 +X 99999\n",
            "leaves its scanline": b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n\x02\x02\x00\x08\xff\x01"
            + bytes(99),
            "OpenEXR file cannot be read": b"\x76\x2f\x31\x01" + bytes(64),
        }
        for says, given in broken.items():
            with self.subTest(says), self.assertRaises(Refused) as caught:
                read_lighting_picture(given)
            self.assertIn(says, str(caught.exception))


class Sky(SimpleTestCase):
    def test_zenith_against_the_published_formula(self):
        # Source: Preetham et al. 1999, A.2, written out by hand for T = 2 and a sun at the zenith:
        # chi = (4/9 - 2/120) pi; Y = (4.0453 * 2 - 4.9710) tan(chi) - 0.2155 * 2 + 2.4192.
        x, y, luminance_kcd = zenith(2.0, 0.0)
        self.assertAlmostEqual(luminance_kcd, 3.1196 * np.tan((4 / 9 - 1 / 60) * pi) + 1.9882, places=6)
        self.assertAlmostEqual(x, 4 * 0.0 + 2 * 0.00394 + 0.25886, places=6)
        self.assertAlmostEqual(y, 2 * 0.00516 + 0.26688, places=6)

    def test_perez_is_one_of_nothing(self):
        # Source: Perez et al. 1993: with A = C = E = 0 the sky is even.
        even = [(0, 0), (0, -1), (0, 0), (0, -1), (0, 0)]
        np.testing.assert_allclose(perez(even, 3.0, np.array([0.1, 0.5, 1]), np.array([0.1, 1, 2])), 1.0)

    def test_straight_up_it_is_the_zenith(self):
        sun = direction_of(50, 35)
        expected = zenith(3.0, radians(55))
        np.testing.assert_allclose(sky_xyy(3.0, sun, np.array([0.0, 1.0, 0.0])), expected, rtol=1e-6)

    def test_it_is_bluer_away_from_the_sun_and_brightest_about_it(self):
        sun = direction_of(0, 30)
        near, away = sky_xyy(2.5, sun, np.stack([direction_of(10, 30), direction_of(180, 60)]))
        self.assertGreater(near[2], 3 * away[2])
        self.assertGreater(near[0], away[0])
        self.assertEqual(len(PEREZ_LUMINANCE), 5)

    def test_a_clear_day_is_as_bright_as_one_expects(self):
        # Common practice, no source: a clear blue sky is some 2 to 10 kcd/m2.
        out = directions(64, 128)[:32]
        mean = sky_xyy(3.0, direction_of(0, 45), out)[..., 2].mean()
        self.assertTrue(2 < mean < 15, mean)


class WhoSeesWhat(SimpleTestCase):
    DARK = {"light": {"kind": "plain", "dials": {"strength": 0.0}}}

    def test_an_object_hidden_from_the_camera(self):
        seen = {"camera": False, "reflections": True, "shadows": True}
        scene = stage(objects=[thing("form", "ball", seen=seen)], color=(0.2, 0.4, 0.6))
        blocked = material(interior={"transmission_color": [0, 0, 0]})
        np.testing.assert_allclose(middle(render(blocked, scene)), (0.2, 0.4, 0.6), atol=5e-3)

    def test_the_camera_sees_its_own_background(self):
        surround = {
            "light": {"kind": "plain", "dials": {"strength": 1}},
            "camera": {"kind": "plain", "dials": {"strength": 0}},
        }
        film = render(material(), stage(surround=surround), side=32, samples=8)
        self.assertLess(film.rgb()[0, 0].max(), 1e-6)
        self.assertGreater(luminance(middle(film)), 0.9)

    def test_reflections_may_see_another_surround(self):
        surround = {
            "light": {"kind": "plain", "dials": {"strength": 1}},
            "reflections": {"kind": "plain", "dials": {"strength": 0}},
        }
        film = render(read_material(MIRROR), stage(surround=surround), side=32, samples=8)
        self.assertLess(luminance(middle(film)), 1e-4)
        self.assertGreater(luminance(film.rgb()[0, 0]), 0.9)

    def test_cut_out_leaves_alpha(self):
        film = render(material(), stage(), side=32, samples=8)
        self.assertEqual(film.alpha()[0, 0], 0)
        self.assertEqual(film.alpha()[16, 16], 1)

    def test_a_lamp_lights_what_it_is_told_to(self):
        floor = {"color": [0.5] * 3}
        lamp = {"kind": "disc", "dials": {"elevation": 80, "diameter": 30, "power": 20}}
        camera = {"elevation": 60, "raised": -3}
        pictures = []
        for lights in (None, ["form"], ["floor"]):
            scene = stage(
                "ball",
                {"diameter": 2},
                lamps=[lamp | {"lights": lights}],
                floor=floor,
                surround=self.DARK,
                camera=camera,
            )
            pictures.append(luminance(render(material(), scene, side=32, samples=8).rgb()[:3].mean(axis=(0, 1))))
        everything, form_only, floor_only = pictures
        self.assertGreater(everything, 0.01)
        self.assertEqual(form_only, 0)
        self.assertAlmostEqual(floor_only / everything, 1, delta=0.02)

    def test_a_lamp_without_shadows_shines_through(self):
        objects = [
            thing("form", "ball", {"diameter": 1}),
            thing("shade", "sheet", {"width": 20, "height": 20, "thickness": 1}, at=(0, 10, 0), tilt=90),
        ]
        bands = [{"id": "i", "kind": "interface"}, {"id": "b", "kind": "body", "dials": {"base_color": [0, 0, 0]}}]
        black = read_material({"section": {"bands": bands}})
        lit = []
        for shadows in (True, False):
            lamp = {
                "kind": "point",
                "dials": {"elevation": 90, "distance": 100, "power": 20},
                "seen": {"shadows": shadows},
            }
            camera = {"elevation": 20, "raised": -5, "distance": 60, "f_stop": 512}
            scene = stage(objects=objects, lamps=[lamp], floor={"color": [0.5] * 3}, surround=self.DARK, camera=camera)
            lit.append(luminance(render(black, scene, side=32, samples=8).rgb()[17:22, 4:10].mean(axis=(0, 1))))
        self.assertLess(lit[0], 0.2 * lit[1])

    def test_a_sphere_lamp_lights_a_floor_as_a_point_does(self):
        # Inverse square law: irradiance of an isotropic lamp of power P at a distance d is P / (4 pi d^2).
        floor = {"color": [0.5] * 3}
        for kind, dials in (("point", {}), ("sphere", {"diameter": 4})):
            lamp = {"kind": kind, "dials": dials | {"elevation": 90, "distance": 100, "power": 40, "kelvin": 6500}}
            scene = stage(
                "ball",
                {"diameter": 0.02},
                lamps=[lamp],
                floor=floor,
                surround=self.DARK,
                camera={"elevation": 60, "focal_length": 200},
            )
            seen = luminance(middle(render(material(interface={"specular_ior": 1.0}), scene, side=32, samples=32), 0.5))
            self.assertAlmostEqual(seen / (0.5 / pi * 40 / (4 * pi)), 1.0, delta=0.03)

    def test_a_sun_gives_its_irradiance(self):
        floor = {"color": [0.5] * 3}
        lamp = {"kind": "sun", "dials": {"elevation": 30, "irradiance": 4.0, "kelvin": 6500}}
        scene = stage(
            "ball",
            {"diameter": 0.02},
            lamps=[lamp],
            floor=floor,
            surround=self.DARK,
            camera={"elevation": 60, "focal_length": 200},
        )
        seen = luminance(middle(render(material(interface={"specular_ior": 1.0}), scene, side=32, samples=32), 0.5))
        self.assertAlmostEqual(seen / (0.5 / pi * 4.0 * np.sin(radians(30))), 1.0, delta=0.03)


class Migration(SimpleTestCase):
    def test_version_one_opens_with_a_report(self):
        from nineglass.documents.migrations import migrated

        old = {
            "format": "nineglass.stage",
            "version": 1,
            "form": {"kind": "ball", "dials": {"diameter": 4}},
            "lamps": [{"kind": "rectangle", "dials": {"power": 2, "seen_by_camera": True}}],
            "surround": {"light": {"kind": "plain"}},
            "camera": {"kind": "camera"},
        }
        newest, report = migrated(old)
        self.assertEqual(old["version"], 1)
        self.assertEqual(len(report), 2)
        opened = read(Stage, old)
        self.assertEqual(opened, read(Stage, newest))
        self.assertEqual(opened.objects[0].form.dials, {"diameter": 4})
        self.assertTrue(opened.lamps[0].seen.camera)
