"""A ray that is followed, against closed forms, package tmm, and itself on the way back."""

from itertools import pairwise
from math import cos, radians, sin

import numpy as np
import tmm
from django.test import SimpleTestCase
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from nineglass.documents.model import Material, read
from nineglass.matter.substances import WAVELENGTHS_NM, substances
from nineglass.trace.follow import Follower, fan_of, on_picture, through_pixel
from nineglass.trace.ray import Ray
from nineglass.trace.scene import build_set

from tests.scenes import material, stage, thing, wears, wire

SHEET = {"width": 60, "height": 60, "thickness": 2}


def stack(*bands, **more) -> Material:
    made = [{"id": f"b{k}", "kind": kind, "dials": dials} for k, (kind, dials) in enumerate(bands)]
    return read(Material, {"section": {"bands": made}, **more})


def at_angle(document: Material, degrees: float, nm: float = 550, **how) -> list[Ray]:
    """The ways of a ray that meets the middle of an upright sheet under an angle."""
    a = radians(degrees)
    the_set = build_set(document, stage("sheet", SHEET))
    return Follower(the_set).follow((0.2 * sin(a), 0, 0.2 * cos(a)), (-sin(a), 0, -cos(a)), nm, **how)


class Reflectances(SimpleTestCase):
    def test_a_film_is_that_of_the_transfer_matrix(self):
        # Source: package tmm (Byrnes 2016, Multilayer optical calculations).
        film = {"thin_film_thickness": 420.0, "thin_film_ior": 2.2}
        for degrees in (0, 35, 60):
            [ray, *_] = at_angle(stack(("film", film), ("interface", {"specular_ior": 1.5})), degrees, 520)
            about = ([1, 2.2, 1.5], [np.inf, 420, np.inf], radians(degrees), 520)
            true = np.mean([tmm.coh_tmm(way, *about)["R"] for way in "sp"])
            self.assertAlmostEqual(ray.steps[0].reflectance, float(true), places=4)
            self.assertIn("film on", ray.steps[0].object)

    def test_a_plate_gives_back_what_its_two_sides_do(self):
        # Incoherent plate: R = r + (1 - r)^2 r t^2 / (1 - r^2 t^2), t what one crossing leaves. Source: Born & Wolf 7th ed., 1.5 and 14.1.
        clear = {"transmission_color": [0.6] * 3, "transmission_depth": 2.0, "absorption": "colour at depth"}
        document = stack(("interface", {"specular_ior": 1.5}), ("interior", clear))
        back = sum(ray.left for ray in at_angle(document, 0, all_branches=True) if self.goes_back(ray))
        self.assertAlmostEqual(back, 0.04 + 0.96**2 * 0.04 * 0.36 / (1 - (0.04 * 0.6) ** 2), delta=0.0005)

    def test_it_walks_where_light_is_scattered(self):
        """As far between scatterings, on average, as a mean free path, and nothing is lost on the way."""
        document = stack(
            ("interface", {"specular_ior": 1.5}), ("interior", {"transmission_depth": 1.0, "scatter_amount": 12.0})
        )
        [ray, *_] = at_angle(document, 0)
        walk = [step for step in ray.steps if step.event == "is scattered"]
        self.assertGreater(len(walk), 8)
        self.assertAlmostEqual(np.mean([step.length_cm for step in walk]) * 12, 1, delta=0.6)
        self.assertAlmostEqual(walk[-1].left, walk[0].left, places=6)
        for one, following in pairwise(walk):
            self.assertEqual(one.end_cm, following.start_cm)
        again = at_angle(document, 0)[0]
        self.assertEqual(again.as_json(), ray.as_json())

    def test_what_absorbs_weakens_a_walk_by_its_length(self):
        milky = {"transmission_depth": 1.0, "transmission_color": [0.8] * 3, "scatter_amount": 12.0}
        [ray, *_] = at_angle(stack(("interface", {"specular_ior": 1.5}), ("interior", milky)), 0)
        walk = [step for step in ray.steps if step.event == "is scattered"]
        length = sum(step.length_cm for step in walk[1:])
        self.assertAlmostEqual(walk[-1].left / walk[0].left, 0.8**length, delta=0.005)

    def test_through_haze_it_goes_on_with_what_is_not_scattered(self):
        haze = {"transmission_depth": 1.0, "scatter_amount": 0.2}
        [ray, *_] = at_angle(stack(("interface", {"specular_ior": 1.5}), ("interior", haze)), 0)
        self.assertAlmostEqual(ray.left, 0.96**2 * np.exp(-0.4), delta=0.003)

    def test_a_coat_on_a_metal_gives_back_what_both_do(self):
        # The same with the metal's share beneath: R = r + (1 - r)^2 m c / (1 - r m c), c the coat's colour, down and up together.
        iron = substances()["iron"]
        n, k = (np.interp(550, WAVELENGTHS_NM, curve) for curve in (iron.index, iron.extinction))
        beneath = abs((1.5 - (n + 1j * k)) / (1.5 + (n + 1j * k))) ** 2
        coat = {"coat_ior": 1.5, "coat_color": [0.5] * 3}
        document = stack(("coat", coat), ("metal", {"substance": "iron", "specular_roughness": 0}))
        back = sum(ray.left for ray in at_angle(document, 0, all_branches=True))
        self.assertAlmostEqual(back, 0.04 + 0.96**2 * beneath * 0.5 / (1 - 0.04 * beneath * 0.5), delta=0.002)

    @staticmethod
    def goes_back(ray: Ray) -> bool:
        (_, _, before), (_, _, end) = ray.steps[-1].start_cm, ray.steps[-1].end_cm
        return end > before


class WaysBack(SimpleTestCase):
    """Light goes both ways alike: from where a ray came out, turned round, it comes back to where it set out with the same share.

    Source: the reversibility of geometrical optics; Born & Wolf 7th ed., 3.2.
    """

    BALL = build_set(
        material(
            interface={"specular_ior": 1.6}, interior={"transmission_color": [0.5] * 3, "transmission_depth": 3.0}
        ),
        stage("ball", {"diameter": 6}),
    )

    @settings(max_examples=40, deadline=None, derandomize=True)
    @given(st.floats(-0.027, 0.027), st.floats(-0.027, 0.027))
    def test_through_a_ball(self, x, y):
        assume(x * x + y * y < 0.027**2)
        follower = Follower(self.BALL)
        [there] = follower.follow((x, y, 0.2), (0, 0, -1), 550)
        last = there.steps[-1]
        end, start = np.array(last.end_cm) / 100, np.array(last.start_cm) / 100
        [back] = follower.follow(end, start - end, 550)
        self.assertEqual([step.event for step in back.steps[:2]], [step.event for step in there.steps[:2]])
        self.assertAlmostEqual(back.left, there.left, delta=2e-3)
        final = np.array(back.steps[-1].end_cm) - back.steps[-1].start_cm
        np.testing.assert_allclose(final / np.linalg.norm(final), (0, 0, 1), atol=5e-3)


class Paths(SimpleTestCase):
    def test_a_split_is_followed_on_the_side_that_shows_more(self):
        def seen(mask):
            bands = [
                {"id": "s", "kind": "split", "dials": {"mask": mask}},
                {"id": "i", "kind": "interface", "dials": {"specular_ior": 1.3}, "side": "first"},
                {"id": "j", "kind": "interface", "dials": {"specular_ior": 1.9}, "side": "second"},
            ]
            return at_angle(read(Material, {"section": {"bands": bands}}), 20)[0].steps[0].index_beyond

        self.assertAlmostEqual(seen(0.2), 1.3, places=5)
        self.assertAlmostEqual(seen(0.8), 1.9, places=5)

    def test_a_driven_coat_is_read_where_it_is_met(self):
        # Facing 1 in the middle and 0.5 at 60 degrees: the coat's index is 1.2 and that much more.
        slips = [
            {"id": "f", "kind": "facing"},
            {"id": "a", "kind": "arithmetic", "dials": {"how": "add", "second": 1.2}},
        ]
        wires = [wire("f", "a.first"), wire("a", "b0.coat_ior")]
        document = stack(("coat", {}), ("body", {}), slips=slips, wires=wires)
        for degrees in (0, 60):
            [ray, *_] = at_angle(document, degrees)
            self.assertAlmostEqual(ray.steps[0].index_beyond, 1.2 + cos(radians(degrees)), places=2)

    def test_a_lower_priority_within_a_higher_is_passed_unseen(self):
        inner = thing("b", "ball", {"diameter": 2}, wears=wears(material(interface={"specular_ior": 1.9}), 1))
        scene = stage(objects=[thing("a", "ball", {"diameter": 6}, at=(0, 0, 0)), inner | {"at": (0, 2, 0)}])
        steps = Follower(build_set(material(), scene)).follow((0, 0, 0.2), (0, 0, -1), 550)[0].steps
        self.assertEqual(
            [step.event.split()[0] for step in steps], ["enters", "passes", "passes", "leaves", "goes"], steps
        )
        self.assertAlmostEqual(sum(step.length_cm for step in steps[1:4]), 6.0, delta=0.05)

    def test_a_fan_parts_by_wavelength_only_where_matter_disperses(self):
        flint = material(interface={"substance": "dense_flint_785257", "transmission_dispersion_scale": 1.0})
        scene = stage("wedge_prism")
        rays = fan_of(build_set(flint, scene), (0, 0, 0.3), (0.05, 0, -1))
        self.assertEqual([ray.wavelength_nm for ray in rays], sorted(ray.wavelength_nm for ray in rays))
        bent = [ray.steps[0].angle_beyond_deg for ray in rays]
        self.assertTrue((np.diff(bent) > 0).all(), "blue is bent most")
        self.assertEqual(len(fan_of(build_set(material(), scene), (0, 0, 0.3), (0.05, 0, -1))), 1)

    @settings(max_examples=30, deadline=None, derandomize=True)
    @given(st.floats(0.02, 0.98), st.floats(0.02, 0.98), st.floats(0.05, 2))
    def test_a_place_of_the_picture_and_back(self, x, y, away):
        the_set = WaysBack.BALL
        origin, way = through_pixel(the_set, x, y)
        np.testing.assert_allclose(on_picture(the_set, origin + way * away), (x, y), atol=1e-4)
        self.assertIsNone(on_picture(the_set, origin - way * away))
