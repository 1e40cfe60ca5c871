"""What rays meet, against the same found by brute force and by closed forms."""

import time
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from math import cos, pi, radians
from unittest import mock

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.documents.model import Material, read
from nineglass.forms.mesh import Mesh, star
from nineglass.kernels import F
from nineglass.trace.geometry import embree
from nineglass.trace.geometry.embree import MeshRays, StageRays
from nineglass.trace.geometry.standing import geometry_of, standing_of
from nineglass.trace.geometry.surface import surface_at, to_own, to_stage
from nineglass.trace.geometry.triangles import joined, rows_of, texture_at
from nineglass.trace.light.glowing import draw_on_glowing, glow_density
from nineglass.trace.scene import build_set
from scipy.stats.qmc import Sobol

from tests.scenes import called, stage, thing

surface, own_of, stage_of = called(surface_at), called(to_own), called(to_stage)
texture, draw, density_of = called(texture_at), called(draw_on_glowing), called(glow_density)

TWO = (
    thing("a", "ball", {"diameter": 6}, at=(-4, 0, 0), turn=30),
    thing("b", "step_block", {}, at=(5, 1, 2), turn=-50, tilt=20),
    thing("c", "hollow_float", {"diameter": 5}, at=(0, 9, -3), tilt=70),
)


def by_brute_force(placed, origin, way) -> tuple[float, int]:
    """(distance, thing) of the nearest, in double precision. Source: Moeller & Trumbore 1997."""
    best = (np.inf, -1)
    for j, one in enumerate(placed):
        at = one.mesh.vertices[one.mesh.faces].astype(float) @ one.axes.T + one.offset
        first, second, out = at[:, 1] - at[:, 0], at[:, 2] - at[:, 0], origin - at[:, 0]
        p, q = np.cross(way, second), np.cross(out, first)
        size = np.einsum("ij,ij->i", first, p)
        with np.errstate(divide="ignore", invalid="ignore"):
            u, v, t = np.einsum("ij,ij->i", out, p) / size, q @ way / size, np.einsum("ij,ij->i", second, q) / size
        t = np.where((u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0), t, np.inf)
        k = int(np.argmin(t))
        if t[k] < best[0]:
            best = (float(t[k]), j)
    return best


class Nearest(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        scene = stage(objects=TWO)
        cls.standing = standing_of(scene)
        count = len(cls.standing.placed)
        cls.geometry, cls.rays = geometry_of(scene, cls.standing, [0] * count, 1.0, [None] * count)

    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.tuples(*[st.floats(-1, 1)] * 3), st.tuples(*[st.floats(-0.09, 0.09)] * 3))
    def test_the_first_surface_is_that_of_brute_force(self, away, toward):
        origin = np.array((*away[:2], 1.5 + away[2])) * 0.3
        way = np.array(toward) - origin
        way /= np.linalg.norm(way)
        distance, j = by_brute_force(self.standing.placed, origin, way)
        found, thing_, primitive, u, v = self.rays.first(origin, way)
        self.assertEqual(thing_, j)
        if j < 0:
            return
        self.assertAlmostEqual(found, distance, delta=2e-6)
        place = surface(self.geometry, j, primitive, F(u), F(v))
        np.testing.assert_allclose(place[0], origin + way * distance, atol=2e-6)
        placed = self.standing.placed[j]
        corners = placed.mesh.vertices[placed.mesh.faces[primitive]].astype(float) @ placed.axes.T
        flat = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        np.testing.assert_allclose(place[1], flat / np.linalg.norm(flat), atol=1e-4)
        self.assertGreater(float(np.dot(place[1], place[2])), 0.3, "flat and smooth normal look to one side")

    def test_the_clearance_is_more_than_the_place_is_off(self):
        # The place of a hit against the same in double precision, for objects near and far from the middle of the stage.
        for at in (0, 30, 3000):
            scene = stage(
                objects=[thing("a", "ball", {"diameter": 6}), thing("b", "ball", {"diameter": 2}, at=(at, 0, 0))]
            )
            standing = standing_of(scene)
            geometry, _rays = geometry_of(scene, standing, [0, 0], 1.0, [None, None])
            rng = np.random.default_rng(at)
            for _ in range(200):
                j, (u, v) = int(rng.integers(2)), np.sort(rng.random(2).astype(np.float32))
                u, v = F(u), F(max(v - u, 0))
                placed = standing.placed[j]
                k = int(rng.integers(len(placed.mesh.faces)))
                a, b, c = placed.mesh.vertices[placed.mesh.faces[k]].astype(float)
                true = placed.axes @ (a + (b - a) * float(u) + (c - a) * float(v)) + placed.offset
                found = surface(geometry, j, k, u, v)
                self.assertLess(np.abs(np.array(found[0], float) - true).max(), float(found[4]))
                self.assertLess(float(found[4]), 1e-5 + 1e-5 * at / 100)

    def test_to_its_own_axes_and_back(self):
        for j, placed in enumerate(self.standing.placed):
            a = tuple(F(v) for v in (0.3, -0.5, 0.8))
            np.testing.assert_allclose(own_of(self.geometry.things, j, a), placed.axes.T @ np.array(a), atol=1e-6)
            back = stage_of(self.geometry.things, j, tuple(F(v) for v in own_of(self.geometry.things, j, a)))
            np.testing.assert_allclose(back, a, atol=1e-6)

    def test_objects_of_one_form_share_its_rows(self):
        objects = [thing(name, "ball", {"diameter": 3}, at=(x, 0, 0)) for name, x in (("a", -4), ("b", 4))]
        scene = stage(objects=objects)
        geometry, _ = geometry_of(scene, standing_of(scene), [0, 0], 1.0, [None, None])
        mesh = standing_of(scene).placed[0].mesh
        self.assertEqual(geometry.things.first.tolist(), [0, 0])
        self.assertEqual(len(geometry.triangles.corners), len(mesh.faces))

    def test_instances_keep_the_rays_of_their_mesh(self):
        stage_rays = StageRays(
            [(MeshRays(star(lambda out: np.full(len(out), 0.04), cells=8)), np.eye(3), np.zeros(3), 1)]
        )
        self.assertAlmostEqual(stage_rays.first((0, 0, 1), (0, 0, -1))[0], 0.96, delta=0.002)


class Rows(SimpleTestCase):
    MESH = Mesh(
        np.array([(0, 0, 0), (0.02, 0, 0), (0, 0.03, 0), (0.02, 0.03, 0.01)], np.float32),
        np.array([(0, 0, 1)] * 4, np.float32),
        np.array([(0, 1, 2), (1, 3, 2)], np.int32),
        np.array([(0, 0), (1, 0), (0, 1), (1, 1)], np.float32),
    )

    def test_corners_and_the_edges_that_leave_them(self):
        rows = rows_of(self.MESH)
        np.testing.assert_allclose(rows.corners[1], [0.02, 0, 0, 0, 0.03, 0.01, -0.02, 0.03, 0], atol=1e-7)
        np.testing.assert_array_equal(rows.uvs[0], [0, 0, 1, 0, 0, 1])
        both = joined([rows, rows])
        self.assertEqual((len(both.corners), len(both.uvs)), (4, 4))
        self.assertIs(joined([rows]), rows)

    def test_how_coordinates_change_agrees_with_differences(self):
        rows, h = rows_of(self.MESH), 1e-3
        for t in (0, 1):
            _, du, dv = texture(rows, t, F(0.3), F(0.3))
            first, second = rows.corners[t, 3:6].astype(float) * 100, rows.corners[t, 6:9].astype(float) * 100
            for along, (u, v) in ((first, (0.3 + h, 0.3)), (second, (0.3, 0.3 + h))):
                here, there = texture(rows, t, F(0.3), F(0.3))[0], texture(rows, t, F(u), F(v))[0]
                change = (np.array(there) - here) / h
                np.testing.assert_allclose(change, (np.dot(du, along), np.dot(dv, along)), atol=2e-3)

    def test_around_a_form_without_coordinates_no_triangle_runs_back_over_the_seam(self):
        uvs = star(lambda out: np.full(len(out), 0.04), cells=12).corner_uvs()
        self.assertLess(np.ptp(uvs[:, ::2], axis=1)[np.abs(uvs[:, 1::2] - 0.5).max(axis=1) < 0.4].max(), 0.2)
        self.assertTrue((uvs[:, 1::2] >= 0).all() and (uvs[:, 1::2] <= 1).all())


class OnGlowing(SimpleTestCase):
    """Places drawn on a thing that glows: the mean of one over their density is the solid angle that the thing is seen under."""

    def scene(self, form: str, dials: dict):
        bands = [{"id": "g", "kind": "glow"}, {"id": "i", "kind": "interface"}]
        return build_set(read(Material, {"section": {"bands": bands}}), stage(form, dials)).scene

    def solid_angle(self, scene, origin, count: int = 8192) -> float:
        total = 0.0
        for u, a, b in Sobol(3, seed=1).random(count).astype(np.float32):
            way, distance, density = draw(scene.geometry, scene.glowing, 0, origin, u, a, b)
            self.assertAlmostEqual(float(np.linalg.norm(way)), 1, places=4)
            total += 1 / float(density) if distance > 0 else 0.0
        return total / count

    def test_of_a_ball(self):
        # 2 pi (1 - cos of the half angle): a ball of radius 3 cm at 10 and at 5 cm.
        scene = self.scene("ball", {"diameter": 6})
        for away in (0.10, 0.05):
            half = np.arcsin(0.03 / away)
            found = self.solid_angle(scene, (F(0), F(0), F(away)))
            self.assertAlmostEqual(found / (2 * pi * (1 - cos(half))), 1.0, delta=0.02)

    def test_its_area_and_the_density_of_a_place(self):
        scene = self.scene("ball", {"diameter": 6})
        self.assertAlmostEqual(float(scene.glowing.area[0]), 4 * pi * 0.03**2, delta=2e-5)
        for distance, degrees in ((0.1, 0), (0.2, 60)):
            density = density_of(scene.glowing, 0, F(cos(radians(degrees))), F(distance))
            expected = distance**2 / (cos(radians(degrees)) * float(scene.glowing.area[0]))
            self.assertAlmostEqual(float(density) / expected, 1.0, places=4)

    def test_shares_rise_to_one(self):
        shares = self.scene("step_block", {}).glowing.shares[1:]
        self.assertEqual((float(shares[0]), float(shares[-1])), (0.0, 1.0))
        self.assertTrue((np.diff(shares) >= 0).all())


class OneDevice(SimpleTestCase):
    def test_threads_that_ask_at_once_get_the_same(self):
        # Scenes of two devices do not see each other (Embree's documentation): what stands in one is missed by rays of the other.
        made = []

        @lru_cache(1)
        def slow():
            time.sleep(0.05)
            made.append(len(made) + 1)
            return made[-1]

        with mock.patch.object(embree, "_new_device", slow), ThreadPoolExecutor(8) as threads:
            given = list(threads.map(lambda _: embree._device(), range(8)))
        self.assertEqual((made, set(given)), ([1], {1}))
