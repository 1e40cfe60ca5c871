"""Where textures lie, what slips are told about the place, and the forms that came with the layers."""

import os
from itertools import pairwise
from tempfile import TemporaryDirectory
from unittest.mock import patch

import numpy as np
import trimesh
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Stage, read
from nineglass.files import keep
from nineglass.forms.imported import read_mesh
from nineglass.forms.mesh import faults_of_surface
from nineglass.matter.substances import WAVELENGTHS_NM, substances
from nineglass.trace.follow import Follower
from nineglass.trace.hold_up import driven_range, hold_up
from nineglass.trace.scene import build_set

from tests.scenes import material, stage, thing, wire


def seen(kind: str, scene: Stage, side=65, dials=None, port=None, objects=None) -> np.ndarray:
    """What a slip gives over the picture."""
    bands = [{"id": "i", "kind": "interface"}]
    document = read(
        Material, {"section": {"bands": bands}, "slips": [{"id": "it", "kind": kind, "dials": dials or {}}]}
    )
    return hold_up(build_set(document, scene), "it", side, port).values


class Told(SimpleTestCase):
    BALL = stage("ball", {"diameter": 6})

    def test_normal_and_view_agree_with_facing(self):
        # Facing is the cosine between them: at every pixel of a ball.
        normal, view = seen("normal", self.BALL), seen("view_direction", self.BALL)
        facing = seen("facing", self.BALL)[..., 0]
        there = ~np.isnan(facing)
        np.testing.assert_allclose((normal * view).sum(axis=-1)[there], facing[there], atol=2e-3)
        self.assertGreater(facing[32, 32], 0.99)

    def test_the_normal_of_a_ball_is_its_place(self):
        place, normal = seen("position", self.BALL), seen("normal", self.BALL)
        there = ~np.isnan(place[..., 0])
        np.testing.assert_allclose(place[there] / 3.0, normal[there], atol=0.01)

    def test_they_turn_with_the_form(self):
        # In the axes of the form: turned by 90 degrees about the upright axis, the camera looks at its x side.
        turned = read(Stage, self.BALL.model_dump() | {"turn": 90})
        np.testing.assert_allclose(np.abs(seen("normal", turned)[32, 32]), (1, 0, 0), atol=0.09)

    def test_around_once_and_up_once_where_a_form_has_no_coordinates(self):
        uv = seen("texture_coordinates", self.BALL)
        self.assertAlmostEqual(float(uv[32, 32, 1]), 0.5, delta=0.02)
        left, right = uv[32, 26, 0], uv[32, 38, 0]
        self.assertTrue(0.4 < left < right < 0.6 or 0.4 < right < left < 0.6, (left, right))
        across = np.diff(uv[32, 24:41, 0])
        self.assertTrue((np.sign(across) == np.sign(across[0])).all(), "no seam towards the camera")

    def test_each_piece_that_hangs_together_has_a_number_of_its_own(self):
        # Two balls and a box in one mesh, their vertices shared by nothing: three numbers, each the same all over its piece.
        parts = [
            trimesh.creation.icosphere(2, 0.01),
            trimesh.creation.icosphere(2, 0.01),
            trimesh.creation.box((0.02,) * 3),
        ]
        for k, part in enumerate(parts):
            part.apply_translation((0.04 * (k - 1), 0, 0))
        whole = trimesh.util.concatenate(parts)
        with TemporaryDirectory() as folder, patch.dict(os.environ, {"NINEGLASS_FILES": folder}):
            form = {"file": keep([whole.export(file_type="glb")]), "unit": "m"}
            values = seen("random_per_piece", stage("imported", form), side=65)[..., 0]
        columns = [values[:, at][~np.isnan(values[:, at])] for at in (slice(0, 20), slice(26, 39), slice(45, 65))]
        self.assertTrue(all(len(column) > 20 for column in columns))
        self.assertTrue(all(float(np.ptp(column)) < 1e-6 for column in columns))
        self.assertEqual(len({round(float(column[0]), 6) for column in columns}), 3)

    def test_coordinates_of_a_mesh_are_kept(self):
        box = trimesh.creation.box((0.02, 0.02, 0.02))
        uv = np.random.default_rng(1).random((len(box.vertices), 2)).astype(np.float32)
        textured = trimesh.Trimesh(box.vertices, box.faces, visual=trimesh.visual.TextureVisuals(uv=uv), process=False)
        mesh = read_mesh(textured.export(file_type="glb"))
        found = mesh.uv.copy()
        order = np.lexsort(mesh.vertices.T), np.lexsort(box.vertices.astype(np.float32).T)
        np.testing.assert_allclose(found[order[0]], uv[order[1]], atol=1e-5)
        self.assertEqual(mesh.corner_uvs().shape, (12, 6))

    def test_each_object_has_its_number_and_the_stage_its_time(self):
        objects = [thing(name, "ball", {"diameter": 3}, at=(x, 0, 0)) for name, x in (("a", -4), ("b", 4))]
        values = seen("random_per_object", stage(objects=objects))[..., 0]
        numbers = np.unique(values[~np.isnan(values)])
        self.assertEqual(len(numbers), 2)
        self.assertTrue((numbers >= 0).all() and (numbers <= 1).all())
        later = read(Stage, self.BALL.model_dump() | {"time": 2.5})
        self.assertAlmostEqual(float(seen("time", later)[32, 32, 0]), 2.5)
        self.assertEqual(float(seen("time", later, port="frame")[32, 32, 0]), 60.0)

    def test_places_on_the_stage_are_shared(self):
        objects = [thing("a", "ball", {"diameter": 4}, at=(3, 0, 0))]
        values = seen("stage_position", stage(objects=objects))
        there = ~np.isnan(values[..., 0])
        self.assertAlmostEqual(float(np.median(values[there][:, 0])), 3.0, delta=0.2)

    def test_a_slip_is_held_within_the_range_of_what_it_drives(self):
        bands = [{"id": "f", "kind": "film"}, {"id": "i", "kind": "interface"}]
        document = read(
            Material,
            {
                "section": {"bands": bands},
                "slips": [{"id": "n", "kind": "number", "dials": {"value": 600}}],
                "wires": [wire("n", "f.thin_film_thickness")],
            },
        )
        self.assertEqual(driven_range(document, "n"), (0.0, 1500.0))
        held = hold_up(build_set(document, self.BALL), "n", 24)
        self.assertEqual((held.facts()["above"], held.facts()["most"]), (0.0, 1500.0))
        grey = held.picture(False)[12, 12]
        self.assertAlmostEqual(int(grey[0]), round(600 / 1500 * 255), delta=1)


class Followed(SimpleTestCase):
    def test_paint_ends_the_way_of_a_ray(self):
        bands = [{"id": "i", "kind": "interface"}, {"id": "b", "kind": "body"}]
        the_set = build_set(read(Material, {"section": {"bands": bands}}), stage("ball", {"diameter": 6}))
        steps = Follower(the_set).follow((0, 0, 0.2), (0, 0, -1), 587.56)[0].steps
        self.assertEqual([step.event.split()[0] for step in steps], ["enters", "is"])
        self.assertIn("body colour", steps[-1].event)
        self.assertAlmostEqual(steps[0].length_cm, 17.0, places=2)

    def test_coats_films_and_driven_dials_are_those_of_the_picture(self):
        # Face-on: a coat of 1.5 lets 0.96 through, iron beneath it throws back its share against 1.5; the film is met in its place.
        bands = [
            {"id": "c", "kind": "coat", "dials": {"coat_color": [0.25, 0.25, 0.25]}},
            {"id": "m", "kind": "metal", "dials": {"substance": "iron", "specular_roughness": 0}},
        ]
        the_set = build_set(read(Material, {"section": {"bands": bands}}), stage("ball", {"diameter": 6}))
        [ray] = Follower(the_set).follow((0, 0, 0.2), (0, 0, -1), 550)
        self.assertEqual([step.event.split()[0] for step in ray.steps], ["enters", "reflected", "leaves", "goes"])
        iron = substances()["iron"]
        n, k = (np.interp(550, WAVELENGTHS_NM, curve) for curve in (iron.index, iron.extinction))
        beneath = abs((1.5 - (n + 1j * k)) / (1.5 + (n + 1j * k))) ** 2
        self.assertAlmostEqual(ray.left, 0.96 * 0.25 * beneath * 0.96, delta=0.002)
        slips = [{"id": "n", "kind": "number", "dials": {"value": 2.0}}, {"id": "f", "kind": "facing"}]
        slips.append({"id": "a", "kind": "arithmetic", "dials": {"how": "add", "second": 0.8}})
        wires = [wire("f", "a.first"), wire("a", "i.specular_ior")]
        driven = {"section": {"bands": [{"id": "i", "kind": "interface"}]}, "slips": slips, "wires": wires}
        [ray, *_] = Follower(build_set(read(Material, driven), stage("ball"))).follow((0, 0, 0.2), (0, 0, -1), 550)
        self.assertAlmostEqual(ray.steps[0].index_beyond, 1.8, places=2)

    def test_each_branch_has_its_own_way_and_no_other(self):
        # The lengths along a branch add up to the straight way that it took; the shares of all branches to what came in.
        the_set = build_set(material(), stage("sheet", {"thickness": 2}))
        rays = Follower(the_set).follow((0, 0, 0.2), (0, 0, -1), 550, all_branches=True)
        self.assertGreater(len(rays), 3)
        self.assertAlmostEqual(sum(ray.left for ray in rays), 1.0, delta=0.001)
        for ray in rays:
            for before, after in pairwise(ray.steps):
                np.testing.assert_allclose(before.end_cm, after.start_cm, atol=1e-3)


def volume_of(mesh) -> float:
    corners = mesh.vertices[mesh.faces].astype(float)
    return np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6


class NewForms(SimpleTestCase):
    @settings(max_examples=20, deadline=None, derandomize=True)
    @given(kind=st.sampled_from(["rounded_box", "shell", "ring"]), random=st.randoms(use_true_random=False))
    def test_any_setting_on_screen_is_a_closed_solid(self, kind, random):
        about = FORMS.kinds[kind]
        dials = {name: random.uniform(d.low, d.high) for name, d in about.dials.items()}
        if kind == "shell":
            dials["thickness"] = min(dials["thickness"], dials["length"] / 12)
        mesh = about.make().mesh(about.defaults() | dials)
        self.assertEqual(faults_of_surface(mesh), [])
        self.assertGreater(volume_of(mesh), 0)
        np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1, atol=1e-3)

    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(
        kind=st.sampled_from(["twisted_bar", "drop", "bowl", "bust", "cut_cube", "fold"]),
        random=st.randoms(use_true_random=False),
    )
    def test_forms_to_show_matter_on_are_closed_and_face_outwards(self, kind, random):
        about = FORMS.kinds[kind]
        dials = {name: random.uniform(d.low, d.high) for name, d in about.dials.items()}
        mesh = about.make().mesh(dials)
        self.assertEqual(faults_of_surface(mesh), [], dials)
        self.assertGreater(volume_of(mesh), 0)
        corners = mesh.vertices[mesh.faces].astype(float)
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        smooth = mesh.normals[mesh.faces].mean(axis=1)
        self.assertGreater(np.mean(np.einsum("ij,ij->i", flat, smooth) > -1e-12), 0.995, dials)

    def test_their_volumes(self):
        # A turn about its own length changes no volume (its determinant is 1); an octahedron of half diagonal a has 4/3 a^3, the
        # cuboctahedron within the same cube 20/3 a^3 (solid geometry: Coxeter 1973, Regular Polytopes).
        def made(kind, **dials):
            about = FORMS.kinds[kind]
            return volume_of(about.make().mesh(about.defaults() | dials))

        straight = made("twisted_bar", twist=0)
        self.assertAlmostEqual(made("twisted_bar", twist=300) / straight, 1, delta=2e-3)
        self.assertAlmostEqual(made("cut_cube", size=2, corners=1, edges=0) * 1e6, 4 / 3, places=4)
        self.assertAlmostEqual(made("cut_cube", size=2, corners=0.5, edges=0) * 1e6, 20 / 3, places=4)
        self.assertAlmostEqual(made("cut_cube", size=2, corners=0, edges=0) * 1e6, 8, places=4)
        self.assertAlmostEqual(made("drop", diameter=2, drawn=0) * 1e6, 4 / 3 * np.pi, delta=0.02)

    def test_a_box_has_its_size_and_its_normals(self):
        about = FORMS.kinds["rounded_box"]
        mesh = about.make().mesh(about.defaults() | {"width": 10, "height": 4, "depth": 6, "edge": 30})
        np.testing.assert_allclose(np.ptp(mesh.vertices, axis=0) * 100, (10, 4, 6), rtol=0.01)
        top = mesh.vertices[:, 1] > 0.0198
        np.testing.assert_allclose(
            mesh.normals[top & (np.abs(mesh.vertices[:, 0]) < 0.03)].mean(axis=0), (0, 1, 0), atol=0.02
        )

    def test_normals_follow_the_faces_of_a_tapered_blade(self):
        about = FORMS.kinds["rounded_box"]
        mesh = about.make().mesh(about.defaults() | {"width": 16, "height": 2, "depth": 3, "taper": 0.7, "edge": 4})
        corners = mesh.vertices[mesh.faces].astype(float)
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area = np.linalg.norm(flat, axis=1)
        smooth = mesh.normals[mesh.faces].mean(axis=1)
        cosine = (flat * smooth).sum(axis=1) / np.maximum(area * np.linalg.norm(smooth, axis=1), 1e-20)
        self.assertGreater(np.average(cosine, weights=area), 0.995)
