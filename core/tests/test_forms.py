import importlib.util
from math import pi
from unittest import mock

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import FORMS
from nineglass.forms.mesh import Mesh, star
from nineglass.trace.geometry import embree
from nineglass.trace.geometry.embree import EVERYTHING, MeshRays, NoRays, StageRays
from nineglass.trace.geometry.standing import BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS

from tests.scenes import luminance, material, middle, render, stage


def mesh_of(kind, **dials) -> Mesh:
    about = FORMS.kinds[kind]
    return about.make().mesh(about.defaults() | dials)


def volume_cm3(mesh: Mesh) -> float:
    a, b, c = (mesh.vertices[mesh.faces[:, k]].astype(float) for k in range(3))
    return float(np.einsum("ij,ij->", np.cross(a, b), c) / 6 * 1e6)


class Sizes(SimpleTestCase):
    def test_ball(self):
        self.assertAlmostEqual(volume_cm3(mesh_of("ball", diameter=6)), pi / 6 * 6**3, delta=0.1)

    def test_step_block(self):
        # Five steps of 2 cm by 5 cm, 1 to 5 thicknesses of 1 cm: 10 * (1 + 2 + 3 + 4 + 5) cm3.
        mesh = mesh_of("step_block", thickness=1, width=2, height=5)
        self.assertAlmostEqual(volume_cm3(mesh), 150, places=3)
        np.testing.assert_allclose(mesh.bounds()[1] - mesh.bounds()[0], [0.10, 0.05, 0.05], atol=1e-6)

    def test_hollow_float_with_an_even_wall(self):
        outer, inner = pi / 6 * 12**3, pi / 6 * 11**3
        self.assertAlmostEqual(volume_cm3(mesh_of("hollow_float", uneven=0, wall=0.5)), outer - inner, delta=0.3)

    def test_the_wall_of_a_hand_blown_float_varies(self):
        mesh = mesh_of("hollow_float", uneven=1.0)
        half = len(mesh.vertices) // 2
        thickness = np.linalg.norm(mesh.vertices[:half], axis=1) - np.linalg.norm(mesh.vertices[half:], axis=1)
        self.assertGreater(thickness.min(), 0)
        self.assertGreater(thickness.max() / thickness.min(), 2)


class Meeting(SimpleTestCase):
    """Where rays meet forms that stand on a stage."""

    TURN = np.array([[0.8, 0, 0.6], [0, 1, 0], [-0.6, 0, 0.8]])
    AT = np.array([0.03, -0.02, 0.05])

    def placed(self, mesh, seen=EVERYTHING):
        return StageRays([(MeshRays(mesh), self.TURN, self.AT, seen)])

    def test_a_turned_and_moved_ball_is_met_where_it_stands(self):
        # A fine ball of radius r: the nearest point on a ray towards its middle is r before it.
        rays = self.placed(star(lambda out: np.full(len(out), 0.04), cells=64))
        rng = np.random.default_rng(3)
        for start in rng.normal(size=(50, 3)):
            way = self.AT - start
            far = np.linalg.norm(way)
            distance, thing, *_ = rays.first(start, way / far)
            self.assertEqual(thing, 0)
            self.assertAlmostEqual(distance, far - 0.04, delta=2e-5)

    def test_no_light_leaks_between_triangles(self):
        # Rays from outside aimed exactly at edges of a closed convex form: all meet it there, none on its far side.
        mesh = star(lambda out: np.full(len(out), 0.04), cells=12)
        rays, rng = self.placed(mesh), np.random.default_rng(4)
        faces = mesh.faces[rng.integers(0, len(mesh.faces), 4000)]
        share = rng.random((len(faces), 1))
        edges = mesh.vertices[faces[:, 0]] * share + mesh.vertices[faces[:, 1]] * (1 - share)
        starts = edges * 3 + rng.normal(size=edges.shape) * 0.01
        for start, edge in zip(starts @ self.TURN.T + self.AT, edges @ self.TURN.T + self.AT, strict=True):
            far = float(np.linalg.norm(edge - start))
            self.assertLess(rays.first(start, (edge - start) / far)[0], far + 1e-4)

    def test_who_sees_what(self):
        rays = self.placed(star(lambda out: np.full(len(out), 0.04), cells=8), seen=BY_CAMERA | BY_SHADOWS)
        way = (self.AT - (0, 0, 1)) / np.linalg.norm(self.AT - (0, 0, 1))
        for seen_by, thing in ((BY_CAMERA, 0), (BY_REFLECTIONS, -1), (BY_SHADOWS, 0)):
            self.assertEqual(rays.first((0, 0, 1), way, seen_by=seen_by)[1], thing)

    def test_a_library_that_is_not_there_is_told(self):
        with mock.patch.object(importlib.util, "find_spec", return_value=None), self.assertRaisesRegex(NoRays, "start"):
            embree.library_file.__wrapped__()


class FarAway(SimpleTestCase):
    """How far a new ray starts follows the place, not the size of the stage: matter looks alike from any distance."""

    def test_a_stone_of_index_one_is_invisible_from_afar(self):
        clear = material(interface={"specular_ior": 1.0}, interior={"transmission_color": [0.5, 0.5, 0.5]})
        seen = []
        for distance in (40, 500):
            camera = {"distance": distance, "focal_length": 2 * distance}
            seen.append(middle(render(clear, stage("ball", {"diameter": 1}, camera=camera), samples=32), 0.5))
        np.testing.assert_allclose(seen[1], seen[0], rtol=0.01)

    def test_a_plate_is_as_dark_from_afar(self):
        # 6 cm of index 1.5 face-on: what enters twice 1 - 0.04, and what the depth leaves.
        grey = material(interior={"transmission_color": [0.8, 0.8, 0.8], "transmission_depth": 6.0})
        seen = []
        for distance in (45, 500):
            camera = {"distance": distance, "focal_length": min(8 * distance, 2000)}
            scene = stage("sheet", {"width": 60, "height": 60, "thickness": 6}, camera=camera)
            seen.append(float(luminance(middle(render(grey, scene, samples=64), 0.3))))
        self.assertAlmostEqual(seen[1] / seen[0], 1.0, delta=0.01)
