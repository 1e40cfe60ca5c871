"""Facets of a mesh, crisp or smooth by the angle of its edges, and edges rounded for the light."""

import numpy as np
import trimesh
from django.test import SimpleTestCase
from nineglass.forms.edges import by_angle
from nineglass.forms.mesh import Mesh


def mesh_of(made) -> Mesh:
    return Mesh(made.vertices.astype(np.float32), made.vertex_normals.astype(np.float32), made.faces.astype(np.int32))


BOX = mesh_of(trimesh.creation.box((0.02, 0.02, 0.02)))
BALL = mesh_of(trimesh.creation.icosphere(3, 0.02))


def normal_at(mesh: Mesh, place) -> np.ndarray:
    """The smooth normal of a mesh where a point of its surface lies."""
    loaded = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    _, _, [face] = trimesh.proximity.closest_point_naive(loaded, [place])
    [shares] = trimesh.triangles.points_to_barycentric(loaded.triangles[[face]], [place])
    normal = shares @ mesh.normals[mesh.faces[face]]
    return normal / np.linalg.norm(normal)


class ByAngle(SimpleTestCase):
    def test_a_box_is_crisp_and_a_ball_is_smooth(self):
        box = by_angle(BOX, 30)
        self.assertEqual(len(box.vertices), 24)
        np.testing.assert_allclose(np.abs(box.normals).max(axis=1), 1, atol=1e-6)
        ball = by_angle(BALL, 30)
        self.assertGreater((ball.normals * ball.vertices).sum(axis=1).min() / 0.02, 0.9999)

    def test_the_angle_decides(self):
        """A prism of 12 sides bends by 30 degrees at each."""
        prism = mesh_of(trimesh.creation.cylinder(0.01, 0.03, sections=12))
        sides = [np.abs(by_angle(prism, degrees).normals[:, 2]) < 0.1 for degrees in (20, 40)]
        self.assertGreater(sides[0].sum(), sides[1].sum())
        smooth = by_angle(prism, 40)
        out = smooth.vertices[:, :2] / np.linalg.norm(smooth.vertices[:, :2], axis=1, keepdims=True).clip(1e-9)
        on_side = np.abs(smooth.normals[:, 2]) < 0.1
        self.assertGreater((out * smooth.normals[:, :2]).sum(axis=1)[on_side].min(), 0.999)

    def test_no_point_of_the_surface_moves(self):
        for mesh in (BOX, BALL):
            for degrees in (1, 30):
                made = by_angle(mesh, degrees, 0.002)
                corners = made.vertices[made.faces].astype(float)
                volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
                before = mesh.vertices[mesh.faces].astype(float)
                expected = np.einsum("ij,ij->i", before[:, 0], np.cross(before[:, 1], before[:, 2])).sum() / 6
                self.assertAlmostEqual(volume / expected, 1, places=5)
                np.testing.assert_allclose(made.bounds(), mesh.bounds(), atol=1e-8)
                self.assertEqual(made.faults, [])

    def test_an_edge_turns_from_one_side_to_the_other(self):
        rounded = by_angle(BOX, 30, 0.001)
        half = np.sqrt(0.5)
        np.testing.assert_allclose(normal_at(rounded, (0.01, 0.01, 0.003)), (half, half, 0), atol=0.02)
        np.testing.assert_allclose(normal_at(rounded, (0.01, 0.0085, 0.003)), (1, 0, 0), atol=1e-6)
        within = normal_at(rounded, (0.01, 0.0095, 0.003))
        self.assertTrue(half < within[0] < 1)
        self.assertGreater(within[1], 0.2)
        corner = normal_at(rounded, (0.01, 0.01, 0.01))
        self.assertTrue((corner > -1e-6).all() and corner.max() < 0.75)

    def test_texture_coordinates_go_along(self):
        uv = (BOX.vertices[:, :2] * 50 + 0.5).astype(np.float32)
        made = by_angle(Mesh(BOX.vertices, BOX.normals, BOX.faces, uv), 30, 0.001)
        np.testing.assert_allclose(made.uv, made.vertices[:, :2] * 50 + 0.5, atol=1e-5)
