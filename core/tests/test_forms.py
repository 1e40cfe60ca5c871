from math import pi

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import FORMS
from nineglass.forms.mesh import Mesh
from nineglass.trace.tree import any_hits, build_tree, closest_hits


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


class Tree(SimpleTestCase):
    def test_finds_what_the_reference_finds(self):
        # Reference: the package embreex on the same triangles and rays.
        from embreex.mesh_construction import TriangleMesh
        from embreex.rtcore_scene import EmbreeScene

        mesh = mesh_of("hollow_float")
        rng = np.random.default_rng(4)
        count = 20_000
        start = rng.normal(size=(count, 3))
        start = (start / np.linalg.norm(start, axis=1, keepdims=True) * 0.2).astype(np.float32)
        aim = rng.uniform(-0.08, 0.08, (count, 3)).astype(np.float32)
        direction = aim - start
        direction /= np.linalg.norm(direction, axis=1, keepdims=True)
        scene = EmbreeScene()
        TriangleMesh(scene, mesh.vertices[mesh.faces])
        expected = scene.run(start, direction, query="DISTANCE")
        distances, found = np.empty(count, np.float32), np.empty(count, np.int32)
        tree = build_tree(mesh)
        rays = (np.ascontiguousarray(start.T), np.ascontiguousarray(direction.T))
        closest_hits(tree, *rays, distances, found)
        hit = found >= 0
        self.assertGreater(hit.mean(), 0.3)
        self.assertLess(np.mean(hit != (expected < 1e10)), 1e-3)
        both = hit & (expected < 1e10)
        np.testing.assert_allclose(distances[both], expected[both], rtol=1e-4)
        blocked = np.empty(count, np.bool_)
        any_hits(tree, *rays, np.full(count, 1e30, np.float32), blocked)
        np.testing.assert_array_equal(blocked, hit)

    def test_one_triangle(self):
        corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32)
        mesh = Mesh(corners, np.tile(np.float32([0, 0, 1]), (3, 1)), np.array([[0, 1, 2]], np.int32))
        distance, found = np.empty(2, np.float32), np.empty(2, np.int32)
        origins = np.array([[0.2, 2.0], [0.2, 2.0], [1, 1]], np.float32)
        directions = np.array([[0, 0], [0, 0], [-1, -1]], np.float32)
        closest_hits(build_tree(mesh), origins, directions, distance, found)
        self.assertEqual(found.tolist(), [0, -1])
        self.assertAlmostEqual(float(distance[0]), 1.0, places=6)
