"""Forms, substances, dispersion, nested media, metals and the way of a ray through them."""

from math import asin, degrees, pi, radians, sin, tan

import numpy as np
import tmm
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from iapws.iapws97 import _Refractive
from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, parts_of, read
from nineglass.forms.mesh import Mesh, faults_of_surface
from nineglass.gauges.index import abbe_of
from nineglass.matter.dyes import DYES, dye_sigma_a
from nineglass.matter.substances import WAVELENGTHS_NM, cauchy_index, substances
from nineglass.optics.conductor import (
    conductor_reflectance,
    metal_gain,
    mirror_albedo_table,
    mirror_share,
)
from nineglass.trace.follow import Follower, on_picture, through_pixel
from nineglass.trace.scene import build_set

from tests.scenes import SOLIDS, luminance, material, middle, render, stage, thing, wears

F = np.float32
D, F_LINE, C_LINE = 587.5618, 486.1327, 656.2725
COLOUR = [0.38, 0.72, 0.5]


def made(kind: str, part: str = "body", **dials) -> Mesh:
    about = FORMS.kinds[kind]
    values = about.defaults() | dials
    return about.make().mesh(values) if len(parts_of(kind)) == 1 else about.make().mesh(values, part)


def volume(mesh: Mesh) -> float:
    c = mesh.vertices[mesh.faces].astype(float)
    return float(np.einsum("ij,ij->i", c[:, 0], np.cross(c[:, 1], c[:, 2])).sum() / 6)


def glass(name: str, dispersion: float = 1.0, **more) -> Material:
    return material(interface={"substance": name, "transmission_dispersion_scale": dispersion, **more})


def metal(name: str, roughness: float = 0.0) -> Material:
    band = {"id": "metal", "kind": "metal", "dials": {"substance": name, "specular_roughness": roughness}}
    return read(Material, {"section": {"bands": [band]}})


def heitz_reflection(wo, wi, alpha):
    """GGX reflection of a perfect mirror times cos wi, for wi (3, n). Source: Heitz 2014, eq. 71, 72 and 99."""
    h = wo[:, None] + wi
    h /= np.linalg.norm(h, axis=0)
    density = alpha**2 / (pi * (h[2] ** 2 * (alpha**2 - 1) + 1) ** 2)

    def smith_lambda(cos):
        return (np.sqrt(1 + alpha**2 * (1 - cos**2) / cos**2) - 1) / 2

    return density / (1 + smith_lambda(wo[2]) + smith_lambda(wi[2])) / (4 * wo[2])


class Forms(SimpleTestCase):
    def test_every_form_is_a_closed_solid_that_faces_out(self):
        for kind in SOLIDS:
            for part in parts_of(kind):
                with self.subTest(kind=kind, part=part):
                    mesh = made(kind, part)
                    self.assertEqual(faults_of_surface(mesh), [])
                    self.assertGreater(volume(mesh), 0)
                    corners = mesh.vertices[mesh.faces].astype(float)
                    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                    agree = np.einsum("ij,ij->i", flat, mesh.normals[mesh.faces].mean(axis=1)) > 0
                    self.assertGreater(agree.mean(), 0.999)

    def test_sizes_are_what_the_dials_say(self):
        self.assertAlmostEqual(volume(made("rod", diameter=2, length=10)) * 1e6, pi * 10, delta=0.35)
        self.assertAlmostEqual(volume(made("sheet", width=10, height=20, thickness=0.5)) * 1e6, 100, places=3)
        height = 2.5 / tan(radians(30))
        self.assertAlmostEqual(volume(made("wedge_prism", side=5, height=4)) * 1e6, 2.5 * height * 4, places=3)

    def test_a_level_fills_a_vessel(self):
        full, half = (volume(made("beaker", "liquid", level=level)) for level in (80, 40))
        self.assertAlmostEqual(half / full, 0.5, delta=0.05)
        self.assertEqual(len(made("beaker", "liquid", level=0).faces), 0)

    def test_the_liquid_reaches_into_the_wall_but_not_through(self):
        for kind in ("beaker", "squat_jar", "bottle"):
            about = FORMS.kinds[kind].make()
            outer, inner = about.outlines(FORMS.kinds[kind].defaults())
            liquid = made(kind, "liquid").vertices.astype(float)
            r, y = np.hypot(liquid[:, 0], liquid[:, 2]), liquid[:, 1]
            self.assertTrue((r < np.interp(y, outer[:, 1], outer[:, 0]) + 1e-6).all())
            low = (y > inner[0, 1] + 0.01) & (y < y.max() - 0.003)
            self.assertTrue((r[low] > np.interp(y[low], inner[:, 1], inner[:, 0]) - 1e-6).sum() > 0)

    def test_a_brilliant_has_its_published_proportions(self):
        # Source: Tolkowsky 1919, Diamond Design: table 53 %, crown height 16.2 %, pavilion depth 43.1 % of the diameter.
        mesh = made("brilliant_cut", diameter=1.0, girdle=0.5)
        y = mesh.vertices[:, 1] * 100
        self.assertAlmostEqual(y.max() - 0.0025, 0.162, delta=0.004)
        self.assertAlmostEqual(-y.min() - 0.0025, 0.431, delta=0.006)
        self.assertEqual(len({tuple(np.round(n, 3)) for n in mesh.normals.tolist()}), 1 + 8 + 8 + 16 + 8 + 16 + 64)

    def test_waves_move_with_time_and_keep_their_height(self):
        still, later = (made("water_surface", wave_height=1.0, time=t, choppiness=0.0) for t in (0.0, 0.5))
        top = still.normals[:, 1] > 0.5
        self.assertAlmostEqual(float(still.vertices[top, 1].std()) * 100, 1.0, delta=0.1)
        self.assertGreater(np.abs(still.vertices - later.vertices).max(), 1e-3)

    def test_an_open_surface_is_found(self):
        ball = made("ball")
        opened = Mesh(ball.vertices, ball.normals, ball.faces[1:])
        self.assertEqual(faults_of_surface(opened), ["3 open edges"])
        flipped = ball.faces.copy()
        flipped[0] = flipped[0][::-1]
        self.assertIn("opposite ways", faults_of_surface(Mesh(ball.vertices, ball.normals, flipped))[0])


class Import(SimpleTestCase):
    def exported(self, kind: str) -> bytes:
        import trimesh

        box = trimesh.creation.box((2.0, 4.0, 6.0))
        given = box.export(file_type=kind)
        return given if isinstance(given, bytes) else given.encode()

    def test_four_formats_keep_their_size(self):
        from nineglass.forms.imported import read_file

        for kind in ("glb", "obj", "ply", "stl"):
            with self.subTest(kind):
                facts = read_file(self.exported(kind)).facts
                np.testing.assert_allclose(facts["size"], [2, 4, 6], rtol=1e-6)
                self.assertEqual((facts["triangles"], facts["faults"]), (12, []))

    def test_open_and_flipped_surfaces_are_named(self):
        import trimesh
        from nineglass.forms.imported import read_file

        box = trimesh.creation.box((1, 1, 1))
        opened = trimesh.Trimesh(box.vertices, box.faces[2:], process=False).export(file_type="ply")
        self.assertIn("4 open edges", read_file(opened).facts["faults"])
        inverted = trimesh.Trimesh(box.vertices, box.faces[:, ::-1], process=False).export(file_type="ply")
        self.assertIn("inside out", read_file(inverted).facts["faults"][0])

    def test_what_is_not_a_mesh_is_refused(self):
        from nineglass.describe import Refused
        from nineglass.forms.imported import read_mesh

        for broken in (b"", b"hello", b"glTF" + bytes(40), b"ply\nformat ascii 1.0\nend_header\n", bytes(500)):
            with self.assertRaises(Refused):
                read_mesh(broken)


class Substances(SimpleTestCase):
    def test_published_indices_and_abbe_numbers(self):
        # Sources: Malitson 1965 (fused silica); glass codes 517642 and 785257; Peter 1923 (diamond).
        for name, n_d, abbe in (
            ("fused_silica", 1.45846, 67.82),
            ("crown_517642", 1.51680, 64.17),
            ("dense_flint_785257", 1.78472, 25.68),
            ("diamond", 2.4175, 55.3),
        ):
            curve = substances()[name].index
            self.assertAlmostEqual(float(np.interp(D, WAVELENGTHS_NM, curve)), n_d, delta=6e-5)
            self.assertAlmostEqual(abbe_of(curve), abbe, delta=0.1)

    def test_fire_of_diamond(self):
        # Gemmology: n(430.8 nm) - n(686.7 nm) = 0.044; from Peter's data 0.0444.
        n = np.interp([430.8, 686.7], WAVELENGTHS_NM, substances()["diamond"].index)
        self.assertAlmostEqual(n[0] - n[1], 0.0444, delta=2e-4)

    def test_pure_water_absorbs_as_was_measured(self):
        # Source: Pope & Fry 1997, Appl. Opt. 36, 8710, carried over from memory (1/m).
        sigma = substances()["water"].sigma_a
        for nm, expected in ((400, 0.00663), (450, 0.00922), (550, 0.0565), (700, 0.624)):
            self.assertAlmostEqual(float(sigma[nm - 380]) / expected, 1.0, delta=0.02)

    def test_water_against_the_international_formula(self):
        # Source: IAPWS R9-97, by the package iapws; 20 C, 998.2 kg/m3.
        for nm in (450.0, 589.26, 650.0):
            ours = float(np.interp(nm, WAVELENGTHS_NM, substances()["water"].index))
            self.assertAlmostEqual(ours, _Refractive(998.2, 293.15, nm / 1000), delta=2e-4)

    def test_an_abbe_number_comes_back(self):
        for n_d, abbe in ((1.5, 60.0), (1.7, 28.0), (2.4, 55.0)):
            curve = cauchy_index(n_d, abbe)
            self.assertAlmostEqual(float(np.interp(D, WAVELENGTHS_NM, curve)), n_d, delta=1e-6)
            self.assertAlmostEqual(abbe_of(curve), abbe, delta=0.05)

    def test_every_substance_names_its_source(self):
        self.assertGreaterEqual(len(substances()), 30)
        for one in substances().values():
            self.assertGreater(len(one.source), 10)
            self.assertIn("CC0", one.licence)
            self.assertTrue(np.isfinite(one.index).all() and np.isfinite(one.sigma_a).all())

    def test_dyes_add_and_are_broad(self):
        for name in DYES:
            once, twice = dye_sigma_a(name, 1.0), dye_sigma_a(name, 2.0)
            np.testing.assert_allclose(twice, 2 * once)
            self.assertLess(np.abs(np.diff(once)).max(), 0.05 * once.max())


class Metals(SimpleTestCase):
    def test_reflectance_against_tmm(self):
        # Source: package tmm (Byrnes 2016), unpolarised as the mean of s and p.
        for name in ("silver", "gold", "copper", "chromium"):
            for nm in (450, 550, 650):
                n = complex(substances()[name].index[nm - 380], substances()[name].extinction[nm - 380])
                for angle in (0.0, 45.0, 80.0):
                    expected = np.mean(
                        [tmm.coh_tmm(p, [1, n], [np.inf, np.inf], radians(angle), nm)["R"] for p in "sp"]
                    )
                    ours = conductor_reflectance(np.cos(radians(angle)), n.real, n.imag)
                    self.assertAlmostEqual(float(ours), expected, places=4)

    def test_the_mirror_table_against_its_integral(self):
        # The share that one bounce sends on is the hemisphere's integral of the response.
        rng = np.random.default_rng(2)
        for alpha, mu in ((0.2, 0.9), (0.6, 0.5), (1.0, 0.3)):
            wo = (F(np.sqrt(1 - mu * mu)), F(0), F(mu))
            z, phi = rng.random(40_000), rng.random(40_000) * 2 * pi
            s = np.sqrt(1 - z * z)
            values = heitz_reflection(np.array(wo), np.stack([s * np.cos(phi), s * np.sin(phi), z]), alpha)
            ours = mirror_share(mirror_albedo_table(), F(mu), F(alpha))
            self.assertAlmostEqual(float(ours), 2 * pi * float(np.mean(values)), delta=0.02)

    def test_a_perfect_rough_metal_gives_back_everything(self):
        # Source: Turquin 2019: with a reflectance of 1 the gain is one over the share of a single bounce.
        for share in (0.3, 0.6, 0.9):
            self.assertAlmostEqual(share * float(metal_gain(F(share), F(1))), 1.0, places=5)

    def test_a_silver_ball_in_an_even_surround(self):
        # Its brightness lies between the reflectance face-on (0.96 at 550 nm) and 1, at any roughness.
        for roughness in (0.0, 0.3, 0.8):
            seen = luminance(middle(render(metal("silver", roughness), stage(), side=32, samples=64), 0.2))
            self.assertTrue(0.93 < seen < 1.0, (roughness, seen))

    def test_gold_is_yellow(self):
        red, green, blue = middle(render(metal("gold", 0.2), stage(), side=32, samples=32), 0.2)
        self.assertGreater(red, green)
        self.assertGreater(green, 1.5 * blue)

    def test_a_metal_with_an_interface_is_refused(self):
        from nineglass.describe import Refused

        bands = [{"id": "m", "kind": "metal"}, {"id": "i", "kind": "interface"}]
        with self.assertRaises(Refused) as caught:
            read(Material, {"section": {"bands": bands}})
        self.assertIn("section.bands", str(caught.exception))


class FollowedRay(SimpleTestCase):
    def deviation(self, the_set, incidence_deg: float, nm: float) -> float:
        """Through a 60-degree prism, by its left face, at an angle of incidence."""
        face = radians(-60)
        normal = np.array([sin(face), 0, np.cos(face)])
        turn = radians(incidence_deg)
        c, s = np.cos(turn), np.sin(turn)
        way = -np.array([c * normal[0] + s * normal[2], 0, -s * normal[0] + c * normal[2]])
        middle_of_face = np.array([-0.0125, 0, 0.0])
        ray = Follower(the_set).follow(middle_of_face - way * 0.2, way, nm)[0]
        last = ray.steps[-1]
        out = np.array(last.end_cm) - np.array(last.start_cm)
        if not any(step.event.startswith("enters") for step in ray.steps):
            return 180.0
        return degrees(np.arccos(np.clip(out @ way / np.linalg.norm(out), -1, 1)))

    def test_minimum_deviation_of_a_prism(self):
        # Closed form: 2 asin(n sin(A / 2)) - A at minimum deviation (Born & Wolf, 4.7.2), for the lines F, d and C.
        the_set = build_set(glass("dense_flint_785257"), stage("wedge_prism", {"angle": 60, "side": 5}))
        for nm in (F_LINE, D, C_LINE):
            n = float(np.interp(nm, WAVELENGTHS_NM, substances()["dense_flint_785257"].index))
            expected = 2 * degrees(asin(n * 0.5)) - 60
            best = (expected + 60) / 2
            seen = [self.deviation(the_set, best + d, nm) for d in np.linspace(-2, 2, 21)]
            self.assertAlmostEqual(min(seen), expected, delta=0.01)

    def test_critical_angle(self):
        # From within glass of index 1.5 all is thrown back beyond 41.81 degrees.
        the_set = build_set(
            material(interface={"specular_ior": 1.5}), stage("sheet", {"thickness": 4, "width": 40, "height": 40})
        )
        for angle, event in ((40.5, "leaves"), (42.0, "totally reflected")):
            way = np.array([sin(radians(angle)), 0, np.cos(radians(angle))])
            first = Follower(the_set).follow((0, 0, 0), way, D)[0].steps[0]
            self.assertTrue(first.event.startswith(event), first.event)
            self.assertAlmostEqual(first.angle_deg, angle, delta=0.01)

    def test_apparent_depth_of_water(self):
        # Seen from straight above, a depth d looks like d / n.
        the_set = build_set(glass("water"), stage("water_surface", {"wave_height": 0, "depth": 20}))
        tilt = radians(1.0)
        way = np.array([sin(tilt), -np.cos(tilt), 0])
        steps = Follower(the_set).follow((0, 0.5, 0), way, D)[0].steps
        inside = np.array(steps[1].end_cm) - np.array(steps[1].start_cm)
        n = float(np.interp(D, WAVELENGTHS_NM, substances()["water"].index))
        self.assertAlmostEqual(
            abs(inside[1]) * (inside[0] / abs(inside[1])) / tan(tilt) / abs(inside[1]), 1 / n, delta=1e-3
        )

    def test_the_way_through_a_sheet_in_numbers(self):
        coloured = material(
            interface={"specular_ior": 1.5}, interior={"transmission_color": COLOUR, "transmission_depth": 1.0}
        )
        the_set = build_set(coloured, stage("sheet", {"thickness": 2}))
        ray = Follower(the_set).follow((0, 0, 0.2), (0, 0, -1), 550)[0]
        self.assertEqual([s.event.split()[0] for s in ray.steps], ["enters", "leaves", "goes"])
        self.assertAlmostEqual(ray.steps[1].length_cm, 2.0, places=3)
        self.assertAlmostEqual(ray.steps[0].left, 0.96, places=4)
        sigma = the_set.scene.media.sigma[0][550 - 380]
        self.assertAlmostEqual(ray.left, 0.96**2 * np.exp(-sigma * 0.02), places=4)

    def test_both_branches_share_the_light(self):
        the_set = build_set(material(interface={"specular_ior": 1.5}), stage("sheet"))
        rays = Follower(the_set).follow((0, 0, 0.2), (0.1, 0.2, -1), D, all_branches=True)
        self.assertAlmostEqual(sum(ray.left for ray in rays), 1.0, delta=2e-3)

    def test_it_begins_where_the_picture_shows_it(self):
        the_set = build_set(material(), stage(camera={"azimuth": 30, "elevation": 20}))
        origin, way = through_pixel(the_set, 0.3, 0.8)
        np.testing.assert_allclose(on_picture(the_set, origin + way * 0.3), [0.3, 0.8], atol=1e-6)

    def test_a_plano_convex_lens_brings_light_to_its_focus(self):
        # Hecht, Optics, 5.2: rays near the axis of a plano-convex lens meet f - t / n behind its flat back.
        the_set = build_set(
            material(interface={"specular_ior": 1.52}),
            stage("ring_lens", {"rings": 0, "focal_length": 14, "diameter": 6}),
        )
        follower = Follower(the_set)
        for height in (0.002, 0.004):
            steps = follower.follow((height, 0, 0.2), (0, 0, -1), D)[0].steps
            last = steps[-1]
            start, end = np.array(last.start_cm), np.array(last.end_cm)
            slope = (end[0] - start[0]) / (start[2] - end[2])
            self.assertAlmostEqual(start[0] / -slope, 14.0 - steps[1].length_cm / 1.52, delta=0.05)


class Dispersion(SimpleTestCase):
    def test_white_furnace_with_dispersion(self):
        # Matter that takes nothing stays invisible when its light is parted by wavelength, polished and rough.
        for roughness in (0.0, 0.3):
            document = glass("dense_flint_785257", 2.0, specular_roughness=roughness)
            film = render(document, stage("wedge_prism"), side=32, samples=96, most_bounces=200)
            np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), 1.0, atol=0.01)
            self.assertEqual(int(film.counts.min()), 96)

    def test_off_it_is_the_plain_picture(self):
        plain = material(interface={"specular_ior": 1.6})
        off = material(
            interface={
                "specular_ior": 1.6,
                "transmission_dispersion_scale": 0.0,
                "transmission_dispersion_abbe_number": 20,
            }
        )
        np.testing.assert_array_equal(render(plain, stage()).rgb(), render(off, stage()).rgb())

    def test_a_ball_before_a_strip_parts_red_from_blue(self):
        # The shorter wavelengths are bent more, so the strip's image in blue lies elsewhere than that in red.
        lamp = {"width": 2, "height": 40, "power": 20, "azimuth": 160, "elevation": 0, "distance": 60}
        apart = []
        for scale in (0.0, 3.0):
            dials = {
                "specular_ior": 1.6,
                "transmission_dispersion_scale": scale,
                "transmission_dispersion_abbe_number": 30,
            }
            rgb = render(material(interface=dials), stage("ball", strength=0, lamps=[lamp]), side=96, samples=64).rgb()
            row = rgb[32:64].sum(axis=0)
            centres = (row * np.arange(96)[:, None]).sum(axis=0) / row.sum(axis=0)
            apart.append(abs(float(centres[0] - centres[2])))
        self.assertLess(apart[0], 0.15)
        self.assertGreater(apart[1], 0.3)

    def test_a_recoloured_fan_keeps_white_white(self):
        document = glass("dense_flint_785257", 1.0, fan="recoloured")
        film = render(document, stage("ball"), side=32, samples=96, most_bounces=200)
        np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), 1.0, atol=0.02)


def luminances(rgb):
    return rgb @ (0.2126, 0.7152, 0.0722)


class NestedMedia(SimpleTestCase):
    def test_liquid_and_glass_of_one_index_do_not_show_their_boundary(self):
        # Glass in glass of the same index is invisible: a filled beaker looks like one body of 1.5 in a furnace with absorption.
        clear = material(
            interface={"specular_ior": 1.5}, interior={"transmission_color": COLOUR, "transmission_depth": 3.0}
        )
        objects = [
            thing("outer", "ball", {"diameter": 6}),
            thing("inner", "ball", {"diameter": 3}, at=(0, 1.5, 0), wears=wears(clear, 30)),
        ]
        nested = render(clear, stage(objects=objects), side=48, samples=64)
        alone = render(clear, stage(objects=objects[:1]), side=48, samples=64)
        np.testing.assert_allclose(nested.rgb().mean(axis=(0, 1)), alone.rgb().mean(axis=(0, 1)), rtol=3e-3)
        np.testing.assert_allclose(middle(nested), middle(alone), rtol=0.02)

    def test_the_boundary_between_liquid_and_glass(self):
        # Fresnel at normal incidence: ((n1 - n2) / (n1 + n2))^2 for glass of 1.5 and water of 1.33.
        liquid = material(interface={"specular_ior": 1.33})
        objects = [
            thing("glass", "sheet", {"thickness": 2}, at=(0, 0, 1)),
            thing("water", "sheet", {"thickness": 3}, at=(0, 0, -1), wears=wears(liquid, 5)),
        ]
        the_set = build_set(material(interface={"specular_ior": 1.5}), stage(objects=objects))
        steps = Follower(the_set).follow((0, 0, 0.2), (0, 0, -1), D)[0].steps
        between = [s for s in steps if s.medium == "glass" and s.event == "leaves into water"]
        self.assertEqual(len(between), 1)
        self.assertAlmostEqual(between[0].reflectance, (0.17 / 2.83) ** 2, places=5)
        self.assertAlmostEqual(sum(s.length_cm for s in steps if s.medium == "glass"), 2.0, places=3)

    def test_a_bubble_is_air(self):
        # A ball of index 1 with a higher priority is a hole: light crosses it without absorption.
        air = material(interface={"specular_ior": 1.0}, interior={"transmission_color": [1, 1, 1]})
        dark = material(
            interface={"specular_ior": 1.0}, interior={"transmission_color": COLOUR, "transmission_depth": 1.0}
        )
        objects = [
            thing("block", "sheet", {"thickness": 4}),
            thing("bubble", "ball", {"diameter": 2}, at=(0, 4, 0), wears=wears(air, 50)),
        ]
        the_set = build_set(dark, stage(objects=objects))
        steps = Follower(the_set).follow((0, 0, 0.3), (0, 0, -1), D)[0].steps
        self.assertAlmostEqual(sum(s.length_cm for s in steps if s.medium == "block"), 2.0, delta=0.02)

    def test_eight_levels_within_one_another(self):
        # Nested balls of the same clear matter at rising priority are invisible in a furnace.
        clear = material(
            interface={"specular_ior": 1.0}, interior={"transmission_color": COLOUR, "transmission_depth": 10.0}
        )
        objects = [
            thing(f"ball_{i}", "ball", {"diameter": 8 - i * 0.9}, at=(0, i * 0.45, 0), wears=wears(clear, i))
            for i in range(8)
        ]
        nested = render(clear, stage(objects=objects), side=32, samples=32)
        alone = render(clear, stage(objects=objects[:1]), side=32, samples=32)
        np.testing.assert_allclose(middle(nested), middle(alone), rtol=5e-3)

    def test_the_camera_may_stand_in_water(self):
        # From within a coloured ball of index 1 the surround is seen through its radius.
        document = material(
            interface={"specular_ior": 1.0}, interior={"transmission_color": COLOUR, "transmission_depth": 30.0}
        )
        film = render(document, stage("ball", {"diameter": 60}, camera={"distance": 1}), side=16, samples=64)
        from nineglass.spectra.observer import rgb_of_filter
        from nineglass.spectra.upsampling import spectrum_of

        np.testing.assert_allclose(film.rgb().mean(axis=(0, 1)), rgb_of_filter(spectrum_of(COLOUR)), rtol=0.05)

    def test_a_stack_of_plates(self):
        # Source: Stokes 1862: m clear plates pass (1 - R) / (1 + (2 m - 1) R), R of one surface. One plate and five, face-on.
        n = 1.5
        reflectance = ((n - 1) / (n + 1)) ** 2
        behind = {
            "light": {"kind": "plain", "dials": {"strength": 0}},
            "camera": {"kind": "plain", "dials": {"strength": 0}},
        }
        lamp = {
            "width": 200,
            "height": 200,
            "azimuth": 180,
            "elevation": 0,
            "distance": 50,
            "power": pi * 4,
            "kelvin": 6500,
        }
        camera = {"distance": 300, "focal_length": 300}
        for plates in (1, 5):
            objects = [
                thing(f"plate_{i}", "sheet", {"width": 60, "height": 60, "thickness": 0.5}, at=(0, 0, i * 1.0))
                for i in range(plates)
            ]
            film = render(
                material(interface={"specular_ior": n}),
                stage(objects=objects, surround=behind, lamps=[lamp], camera=camera),
                side=24,
                samples=200,
                most_bounces=64,
            )
            expected = (1 - reflectance) / (1 + (2 * plates - 1) * reflectance)
            self.assertAlmostEqual(luminance(middle(film, 0.6)), expected, delta=0.012)

    @given(st.lists(st.tuples(st.floats(1.0, 2.4), st.integers(0, 40)), min_size=1, max_size=4))
    @settings(max_examples=12, deadline=None)
    def test_energy_is_never_gained(self, layers):
        # Any nest of clear balls in an even surround gives at most what came in.
        objects = [
            thing(
                f"ball_{i}",
                "ball",
                {"diameter": 6 - i},
                at=(0, i / 2, 0),
                wears=wears(material(interface={"specular_ior": n}), p),
            )
            for i, (n, p) in enumerate(layers)
        ]
        film = render(material(), stage(objects=objects), side=16, samples=32, most_bounces=100)
        self.assertLess(film.rgb().mean(), 1.01)


class Colour(SimpleTestCase):
    def test_body_colour_in_a_furnace(self):
        # White body colour under an interface loses nothing; a grey one gives Saunderson's F + (1 - F) a (1 - r) / (1 - a r) = 0.316
        # face-on (F 0.04, r 0.5963 for 1.5), and more at a slant.
        for colour, low, high in ((1.0, 0.99, 1.01), (0.5, 0.305, 0.335)):
            bands = [
                {"id": "i", "kind": "interface", "dials": {"specular_ior": 1.5}},
                {"id": "b", "kind": "body", "dials": {"base_color": [colour] * 3}},
            ]
            film = render(
                read(Material, {"section": {"bands": bands}}), stage("ball"), side=32, samples=96, most_bounces=100
            )
            self.assertTrue(low < luminance(middle(film, 0.2)) < high, luminance(middle(film, 0.2)))

    def test_a_frosted_interface_over_body_colour_under_a_picture(self):
        # Each path asks for light twice here, at the interface and at the body; a batch full of such paths must hold.
        bands = [
            {"id": "i", "kind": "interface", "dials": {"specular_roughness": 0.4}},
            {"id": "b", "kind": "body", "dials": {"base_color": [1, 1, 1]}},
        ]
        surround = {"light": {"kind": "sky"}, "second": {"kind": "plain", "dials": {"strength": 1}}, "blend": 1.0}
        scene = stage("ball", {"diameter": 40}, surround=surround, camera={"distance": 60})
        film = render(read(Material, {"section": {"bands": bands}}), scene, side=96, samples=16)
        self.assertAlmostEqual(luminance(middle(film, 0.5)), 1.0, delta=0.03)

    def test_a_tint_is_one_hue_at_any_thickness(self):
        document = material(interface={"specular_ior": 1.0, "tint": COLOUR})
        seen = [middle(render(document, stage("sheet", {"thickness": t}), samples=64)) for t in (0.2, 4.0)]
        np.testing.assert_allclose(seen[0], seen[1], rtol=0.01)
        np.testing.assert_allclose(seen[0], COLOUR, atol=0.01)

    def test_dyes_and_curves_absorb_as_they_say(self):
        dyed = {"absorption": "dyes", "dye_1": "rosehip", "amount_1": 0.5, "dye_2": "woad", "amount_2": 0.2}
        the_set = build_set(material(interior=dyed | {"concentration": 2.0}), stage())
        expected = 2 * (dye_sigma_a("rosehip", 0.5) + dye_sigma_a("woad", 0.2))
        np.testing.assert_allclose(the_set.scene.media.sigma[0], expected, rtol=1e-4)
        drawn = {"absorption": "curve", "transmittance": [[380, 0.5], [780, 0.5]], "transmission_depth": 2.0}
        the_set = build_set(material(interior=drawn), stage())
        np.testing.assert_allclose(the_set.scene.media.sigma[0], np.log(2) / 0.02, rtol=1e-5)

    def test_fast_shadows_let_a_lamp_through_with_the_tint(self):
        lamp = {
            "kind": "point",
            "dials": {"azimuth": 90, "elevation": 50, "distance": 100, "power": 40, "kelvin": 6500},
        }
        surround = {"light": {"kind": "plain", "dials": {"strength": 0}}}
        green = material(
            interface={"specular_ior": 1.0}, interior={"transmission_color": COLOUR, "transmission_depth": 1.0}
        )
        lit = []
        for fast in (False, True):
            scene = stage(
                "step_block",
                {"thickness": 2},
                lamps=[lamp],
                floor={"color": [0.5] * 3},
                surround=surround,
                camera={"elevation": 30, "distance": 60},
            )
            scene.fast_shadows = fast
            lit.append(render(green, scene, side=48, samples=16).rgb())
        self.assertGreaterEqual((lit[1] - lit[0]).min(), -0.05)
        gained = (lit[1] - lit[0])[lit[1].sum(axis=-1) > lit[0].sum(axis=-1) + 0.1].mean(axis=0)
        self.assertGreater(gained[1], 1.2 * gained[0])


class Stones(SimpleTestCase):
    def test_diamond_returns_more_light_than_glass_in_the_same_cut(self):
        # Light that comes from above only, seen from above: what the crown gives back.
        surround = {
            "light": {
                "kind": "gradient",
                "dials": {"above": [1, 1, 1], "below": [0, 0, 0], "softness": 0.05, "strength": 1},
            }
        }
        camera = {"elevation": 80, "distance": 20, "focal_length": 300}
        returned = []
        for n in (2.417, 1.5):
            film = render(
                material(interface={"specular_ior": n}),
                stage("brilliant_cut", surround=surround, camera=camera),
                side=48,
                samples=32,
                most_bounces=24,
            )
            returned.append(luminance(middle(film, 0.3)))
        self.assertGreater(returned[0] / returned[1], 1.3)
