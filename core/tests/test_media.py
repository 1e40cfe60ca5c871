"""The stack of media, the surfaces of metals, the surround's directions, curves and files: the small parts by themselves."""

import json
import os
from math import pi
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.catalogue import BANDS
from nineglass.describe import Refused
from nineglass.files import keep, path_of
from nineglass.forms.mesh import convex, faults_of_surface, from_planes, lathe
from nineglass.matter.curve_files import read_curve
from nineglass.matter.material import absorption_curve, fan_colors, index_curve
from nineglass.optics.conductor import conductor_reflectance
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import xyz_of
from nineglass.surrounds.directions import directions
from nineglass.surrounds.lighting_picture import gallery, studio
from nineglass.trace.light.surround import picture_place
from nineglass.trace.media import nesting
from nineglass.trace.media.start import media_at
from nineglass.trace.paths import AIR, LEVELS, new_batch
from nineglass.trace.scene import build_set

from tests.scenes import DEMO, called, material, stage, thing, wears

F = np.float32
enter, leave, medium_with, medium_without = (
    called(step) for step in (nesting.enter, nesting.leave, nesting.medium_with, nesting.medium_without)
)


class Media(SimpleTestCase):
    """Source: Schmidt & Budge 2002: the medium of the highest priority is there."""

    PRIORITIES = np.array([10, 20, 10, 30], np.int32)

    def setUp(self):
        self.paths = new_batch(1).paths
        self.paths.medium[0] = AIR

    def go_in(self, thing):
        after = medium_with(self.paths, 0, self.PRIORITIES, thing)
        enter(self.paths, 0, thing)
        self.paths.medium[0] = after
        return after

    def go_out(self, thing):
        after = medium_without(self.paths, 0, self.PRIORITIES, thing)
        leave(self.paths, 0, thing)
        self.paths.medium[0] = after
        return after

    def test_liquid_then_wall_then_air(self):
        # From within a filled glass outwards: liquid 0 reaches half into the wall 1.
        self.assertEqual(self.go_in(0), 0)
        self.assertEqual(self.go_in(1), 1)
        self.assertEqual(self.go_out(0), 1)
        self.assertEqual(self.go_out(1), AIR)

    def test_a_lower_one_within_a_higher_is_not_there(self):
        self.assertEqual([self.go_in(1), self.go_in(0), self.go_out(1), self.go_out(0)], [1, 1, 0, AIR])

    def test_of_equals_the_first(self):
        self.assertEqual([self.go_in(0), self.go_in(2), self.go_out(0), self.go_out(2)], [0, 0, 2, AIR])

    def test_a_thing_may_be_entered_twice(self):
        # A hollow form folds back on itself; each way in needs a way out.
        self.assertEqual([self.go_in(0), self.go_in(0), self.go_out(0), self.go_out(0)], [0, 0, 0, AIR])

    def test_beyond_eight_levels_the_outermost_is_forgotten(self):
        for _ in range(LEVELS + 3):
            self.go_in(0)
        self.assertEqual(self.paths.levels[0], LEVELS)
        for _ in range(LEVELS):
            self.go_out(0)
        self.assertEqual(self.paths.medium[0], AIR)

    @given(st.lists(st.integers(0, 3), min_size=1, max_size=8))
    @settings(max_examples=60, deadline=None)
    def test_in_and_out_again_ends_in_air(self, order):
        self.setUp()
        for thing_ in order:
            self.go_in(thing_)
        highest = max(order, key=lambda j: (self.PRIORITIES[j], -order.index(j)))
        self.assertEqual(self.paths.medium[0], highest)
        for thing_ in order:
            self.go_out(thing_)
        self.assertEqual((self.paths.medium[0], self.paths.levels[0]), (AIR, 0))

    def test_where_a_point_lies(self):
        objects = [
            thing("outer", "ball", {"diameter": 8}),
            thing("inner", "ball", {"diameter": 2}, at=(0, 3, 0), wears=wears(material(), 20)),
        ]
        scene = build_set(material(), stage(objects=objects)).standing
        self.assertEqual(media_at(scene, (0, 0, 0)), [0, 1])
        self.assertEqual(media_at(scene, (0.03, 0, 0)), [0])
        self.assertEqual(media_at(scene, (0.05, 0, 0)), [])

    def test_the_hollow_of_a_float_is_air(self):
        scene = build_set(material(), stage("hollow_float", {"diameter": 10, "wall": 1})).standing
        self.assertEqual(media_at(scene, (0, 0, 0)), [])
        self.assertEqual(media_at(scene, (0.047, 0, 0)), [0])


class Conductor(SimpleTestCase):
    @given(st.floats(0, 1), st.floats(0.05, 5), st.floats(0, 8))
    @settings(max_examples=100, deadline=None)
    def test_it_reflects_a_share(self, cosine, n, k):
        value = float(conductor_reflectance(F(cosine), F(n), F(k)))
        self.assertTrue(-1e-5 <= value <= 1 + 1e-5, value)

    @given(st.floats(0.02, 1), st.floats(1.05, 2.8))
    @settings(max_examples=60, deadline=None)
    def test_without_extinction_it_is_a_dielectric(self, cosine, n):
        ours = float(conductor_reflectance(F(cosine), F(n), F(0)))
        theirs, _ = dielectric_reflectance(F(cosine), F(n))
        self.assertAlmostEqual(ours, float(theirs), places=4)

    def test_where_there_is_no_boundary_nothing_is_reflected(self):
        for cosine in (0, 0.5, 1):
            self.assertEqual(float(conductor_reflectance(F(cosine), F(1), F(0))), 0)

    def test_grazing_light_is_all_reflected(self):
        self.assertAlmostEqual(float(conductor_reflectance(F(0), F(0.2), F(3.4))), 1.0, places=5)

    def test_normal_incidence_by_its_closed_form(self):
        # Born & Wolf, 14.2: ((n - 1)^2 + k^2) / ((n + 1)^2 + k^2).
        for n, k in ((0.2, 3.4), (1.4, 7.6), (2.9, 3.1)):
            expected = ((n - 1) ** 2 + k * k) / ((n + 1) ** 2 + k * k)
            self.assertAlmostEqual(float(conductor_reflectance(F(1), F(n), F(k))), expected, places=5)


class Directions(SimpleTestCase):
    def test_up_is_the_first_row_and_the_front_the_middle(self):
        out = directions(64, 128)
        np.testing.assert_allclose(np.linalg.norm(out, axis=-1), 1)
        self.assertGreater(out[0, :, 1].min(), 0.99)
        self.assertGreater(out[32, 64, 2], 0.99)
        self.assertGreater(out[32, 96, 0], 0.99)

    def test_kernels_and_pictures_agree(self):
        out = directions(16, 32)
        for row, column in ((0, 0), (3, 7), (8, 16), (15, 31)):
            across, down = picture_place(tuple(F(v) for v in out[row, column]))
            self.assertAlmostEqual(float(across) * 32, column + 0.5, delta=1e-3)
            self.assertAlmostEqual(float(down) * 16, row + 0.5, delta=1e-3)

    def test_our_pictures_are_fit_to_light_with(self):
        for picture in (studio(), gallery()):
            self.assertEqual(picture.shape[1], 2 * picture.shape[0])
            self.assertTrue(np.isfinite(picture).all() and picture.min() >= 0)
            luminance = picture @ (0.2126, 0.7152, 0.0722)
            self.assertGreater(luminance.max(), 10 * np.median(luminance))

    def test_they_are_the_same_each_time(self):
        np.testing.assert_array_equal(studio(), studio())


class Shapes(SimpleTestCase):
    def test_a_turned_cylinder(self):
        mesh = lathe([(0, 0), (0.02, 0), (0.02, 0.1), (0, 0.1)], around=256)
        corners = mesh.vertices[mesh.faces].astype(float)
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        self.assertAlmostEqual(volume / (pi * 0.02**2 * 0.1), 1, delta=1e-3)
        self.assertEqual(faults_of_surface(mesh), [])

    def test_sharp_corners_stay_sharp_and_blunt_ones_smooth(self):
        sharp = lathe([(0, 0), (1, 0), (1, 1), (0, 1)], around=8).normals
        self.assertTrue(np.isclose(np.abs(sharp), [0, 1, 0], atol=1e-6).all(axis=1).any())
        t = np.linspace(-pi / 2, pi / 2, 33)
        round_ = lathe(np.column_stack([np.cos(t), np.sin(t)]), around=32)
        np.testing.assert_allclose(
            round_.normals, round_.vertices / np.linalg.norm(round_.vertices, axis=1)[:, None], atol=0.06
        )

    def test_six_planes_are_a_box(self):
        planes = [[*axis * way, half] for axis, half in zip(np.eye(3), (1.0, 2.0, 3.0), strict=True) for way in (1, -1)]
        low, high = from_planes(planes).bounds()
        np.testing.assert_allclose([low, high], [[-1, -2, -3], [1, 2, 3]], atol=1e-6)

    @given(st.lists(st.tuples(*[st.floats(-1, 1)] * 3), min_size=8, max_size=20, unique=True))
    @settings(max_examples=20, deadline=None)
    def test_any_hull_is_closed(self, points):
        spread = np.array(points) + np.random.default_rng(1).normal(size=(len(points), 3)) * 0.3
        self.assertEqual(faults_of_surface(convex(spread)), [])


class Curves(SimpleTestCase):
    def test_points_are_sorted_and_thinned(self):
        points = read_curve("\n".join(f"{780 - i * 0.5} {i / 800}" for i in range(800)))
        self.assertLessEqual(len(points), 512)
        self.assertEqual([nm for nm, _ in points], sorted(nm for nm, _ in points))

    def test_tabs_spaces_and_semicolons(self):
        for mark in ("\t", " ", ";", ","):
            self.assertEqual(read_curve(f"400{mark}0.25\n700{mark}0.5"), [[400.0, 0.25], [700.0, 0.5]])

    def test_what_is_absorbed(self):
        dials = BANDS.kinds["interior"].defaults() | {"absorption": "curve", "transmission_depth": 10}
        sigma = absorption_curve(dials | {"transmittance": [[380, 0.1], [780, 0.1]]}, None)
        np.testing.assert_allclose(np.exp(-sigma * 0.1), 0.1, rtol=1e-6)

    def test_no_absorption_without_a_substance_or_dye(self):
        dials = BANDS.kinds["interior"].defaults()
        for source in ("substance", "dyes"):
            self.assertEqual(absorption_curve(dials | {"absorption": source}, None).max(), 0)

    def test_an_exaggerated_index_never_falls_below_air(self):
        dials = {
            "substance": "none",
            "specular_ior": 1.05,
            "transmission_dispersion_scale": 50,
            "transmission_dispersion_abbe_number": 5,
        }
        self.assertGreaterEqual(index_curve(dials).min(), 1.0)

    def test_the_fan_runs_from_420_to_680_nm(self):
        colors = fan_colors({"fan_colors": [[0, [1, 0, 0]], [1, [0, 0, 1]]]})
        np.testing.assert_allclose(colors[[20, 170, 320]], [[1, 0, 0], [0.5, 0, 0.5], [0, 0, 1]], atol=1e-9)


class Files(SimpleTestCase):
    def test_a_file_is_found_by_its_contents(self):
        with TemporaryDirectory() as folder, patch.dict(os.environ, {"NINEGLASS_FILES": folder}):
            name = keep([b"some ", b"bytes"])
            self.assertEqual(path_of(name).read_bytes(), b"some bytes")
            self.assertEqual(keep([b"some bytes"]), name)
            self.assertEqual(len([f for f in Path(folder).rglob("*") if f.is_file()]), 1)
            with self.assertRaises(Refused):
                path_of("0" * 64)


class FollowCommand(SimpleTestCase):
    def run_it(self, *given):
        from contextlib import redirect_stderr, redirect_stdout
        from io import StringIO

        from nineglass.__main__ import main

        out, errors = StringIO(), StringIO()
        with redirect_stdout(out), redirect_stderr(errors):
            code = main(["follow", *given])
        return code, out.getvalue(), errors.getvalue()

    def test_as_numbers(self):
        paths = [str(DEMO / "window-bench.json"), str(DEMO / "net-float.json")]
        code, out, _ = self.run_it(*paths, "--from", "0,0,30", "--towards", "0,0.5,0", "--wavelength", "550", "--json")
        (ray,) = json.loads(out)
        self.assertEqual((code, ray["wavelength_nm"]), (0, 550.0))
        self.assertIn("enters", ray["steps"][0]["event"])
        self.assertAlmostEqual(ray["steps"][0]["start_cm"][2], 30)
        again = self.run_it(*paths, "--from", "0,0,30", "--towards", "0,0.5,0", "--wavelength", "550", "--json")
        self.assertEqual(again[1], out)

    def test_in_words_and_both_branches(self):
        code, out, _ = self.run_it(str(DEMO / "lens-stand.json"), "--from", "0,1,30", "--towards", "0,1,0", "--all")
        self.assertEqual(code, 0)
        self.assertGreater(out.count("is left at 587.56 nm"), 1)

    def test_what_cannot_be_followed_is_refused(self):
        path = str(DEMO / "lens-stand.json")
        code, _, errors = self.run_it(path, "--from", "0,0,30", "--towards", "0,0,0", "--wavelength", "90")
        self.assertEqual(code, 1)
        self.assertIn("--wavelength", errors)
        code, _, errors = self.run_it(path, "--from", "1,1,1", "--towards", "1,1,1")
        self.assertIn("another place", errors)
        with self.assertRaises(SystemExit):
            self.run_it(path, "--from", "1,1", "--towards", "0,0,0")


class Warmth(SimpleTestCase):
    def test_kelvin_against_the_published_chromaticities(self):
        # Source: Planck's law with CODATA constants and the CIE 1931 observer: 1500, 1900 and 2856 K.
        for kelvin, expected in ((1500, (0.5857, 0.3931)), (1900, (0.5378, 0.4112)), (2856, (0.4475, 0.4074))):
            xyz = xyz_of(blackbody(kelvin))
            np.testing.assert_allclose(xyz[:2] / xyz.sum(), expected, atol=5e-4)

    def test_a_lamp_of_any_kelvin_is_as_bright(self):
        glow = [
            build_set(material(), stage(lamps=[{"kind": "disc", "dials": {"kelvin": k}}])).scene.spectra[-1]
            for k in (2000, 6500, 12000)
        ]
        luminance = [float(xyz_of(spectrum)[1]) for spectrum in glow]
        np.testing.assert_allclose(luminance, luminance[0], rtol=2e-3)
