"""Light thrown from lamps: where it comes to, how much, and that none is counted twice."""

from unittest import mock

import numpy as np
from django.test import SimpleTestCase
from nineglass.forms.ball import Ball
from nineglass.forms.mesh import lathe
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.trace.gather import REACH_PX, window, window_inverse
from nineglass.trace.light import throw

from tests.lengths import fewer
from tests.scenes import MANY, TRACER, Film, Material, build_set, material, read, stage, thing, wears

DARK = {"light": {"kind": "plain", "dials": {"strength": 0}}}
WHITE_FLOOR = {"color": [0.8, 0.8, 0.8]}
ABOVE = {"azimuth": 0, "elevation": 89, "focal_length": 80}
MIRROR = read(Material, {"section": {"bands": [{"id": "m", "kind": "metal", "dials": {"specular_roughness": 0}}]}})
FLINT = {"substance": "dense_flint_785257", "transmission_dispersion_scale": 1}
SIDE = 64


def both_ways(document, scene, samples=192, side=SIDE, of=4):
    """(film with light thrown, film with all light found by chance). of: by how much the samples are fewer in a short run."""
    the_set = build_set(document, scene)
    assert the_set.throws
    films, samples = (Film(side, side), Film(side, side)), fewer(samples, of)
    TRACER.render(the_set, films[0], 0, samples)
    TRACER.render(the_set.by_chance(), films[1], 0, 4 * samples, seed=5)
    return films


def blocks(rgb, count=4):
    side = len(rgb) // count
    return rgb.reshape(count, side, count, side, -1).mean(axis=(1, 3, 4))


def unsure_of(film):
    """The standard error of `blocks`, from what the two halves of the samples of its pixels differ by."""
    first, second = film.halves()
    square = blocks(((first - second) / 2).mean(axis=-1, keepdims=True) ** 2)
    return np.sqrt(square / (film.width * film.height / square.size))


def only_thrown(document, scene, samples=128, side=96):
    """(h, w, 3) what is thrown, alone."""
    film, samples = Film(side, side), fewer(samples) if samples >= MANY else samples
    TRACER.render(build_set(document, scene), film, 0, samples)
    return film.thrown.reshape(side, side, 3) / film.throws[0]


def wide_lamp(**dials):
    return {"kind": "sphere", "dials": {"diameter": 16, "elevation": 65, "distance": 40, "azimuth": 30} | dials}


def lit_ball(lamp=None, **camera):
    objects = [thing("b", "ball", {"diameter": 5}, at=[0, 0.5, 0])]
    given = {"elevation": 55, "azimuth": -120, "distance": 45} | camera
    return stage(objects=objects, lamps=[lamp or wide_lamp()], floor=WHITE_FLOOR, surround=DARK, camera=given)


class NothingTwice(SimpleTestCase):
    """The mean over regions is the same whichever way light is found."""

    def same(self, document, scene, name, samples=192, of=4):
        thrown, chance = both_ways(document, scene, samples, of=of)
        ours, theirs = blocks(thrown.rgb()), blocks(chance.rgb())
        unsure = np.hypot(unsure_of(thrown), unsure_of(chance))
        self.assertLess(float(np.abs(ours.mean() / theirs.mean() - 1)), 0.01, name)
        np.testing.assert_array_less(np.abs(ours - theirs), 0.01 * theirs + 4 * unsure + 1e-5, name)
        self.assertGreater(float(thrown.thrown.sum()), 0, name)

    def test_clear_coloured_and_dispersing_glass(self):
        self.same(material(), lit_ball(), "clear")
        red = {"transmission_color": [0.9, 0.3, 0.2], "transmission_depth": 2}
        self.same(material(interior=red), lit_ball(), "coloured")
        self.same(material(interface=FLINT), lit_ball(), "dispersing")

    def test_rough_glass(self):
        for roughness in (0.15, 0.6):
            self.same(material(interface={"specular_roughness": roughness}), lit_ball(), f"roughness {roughness}")

    def test_metal_and_coated_glass(self):
        self.same(MIRROR, lit_ball(), "mirror")
        coated = [{"kind": "coat", "id": "c"}, {"kind": "interface", "id": "i"}]
        self.same(read(Material, {"section": {"bands": coated}}), lit_ball(), "coated")

    def test_flat_lamps_and_spots(self):
        self.same(
            material(), lit_ball({"kind": "disc", "dials": {"diameter": 25, "elevation": 65, "distance": 40}}), "disc"
        )
        self.same(material(), lit_ball({"kind": "rectangle", "dials": {"elevation": 65, "distance": 40}}), "rectangle")

    def test_the_bright_part_of_a_lighting_picture(self):
        """A spot of the studio picture is thrown; what is even about it is found by chance."""
        scene = lit_ball().model_copy(update={"lamps": []})
        picture = stage(surround={"light": {"kind": "lighting_picture", "dials": {}}}).surround
        self.same(material(), scene.model_copy(update={"surround": picture}), "studio")

    def test_onto_a_matt_form_through_a_smooth_shell(self):
        matt = read(Material, {"section": {"bands": [{"id": "b", "kind": "body"}]}})
        block = thing("block", "step_block", at=(0, 0, -5), wears=wears(matt))
        objects = [thing("ball", "ball", {"diameter": 4}, at=(0, 3, 3)), block]
        lamp = wide_lamp(azimuth=0, elevation=40)
        self.same(
            material(),
            stage(objects=objects, lamps=[lamp], surround=DARK, camera={"elevation": 30}),
            "block",
            384,
            of=1,
        )

    def test_seen_through_a_wide_lens(self):
        self.same(material(), lit_ball(f_stop=1.4, focus=-6), "out of focus")

    def test_the_camera_never_sees_what_is_hidden_from_it(self):
        matt = read(Material, {"section": {"bands": [{"id": "b", "kind": "body"}]}})
        unseen = {"camera": False, "reflections": True, "shadows": False}
        sheet = thing("sheet", "ball", {"diameter": 9}, at=(7, 0, 0), wears=wears(matt), seen=unseen)
        scene = lit_ball()
        scene = scene.model_copy(update={"objects": [*scene.objects, stage(objects=[sheet]).objects[0]]})
        self.same(material(), scene, "hidden")

    def test_it_can_be_switched_off(self):
        off = lit_ball().model_copy(update={"caustics": False})
        self.assertFalse(build_set(material(), off).throws)

    def test_a_stage_without_clear_matter_throws_nothing(self):
        matt = read(Material, {"section": {"bands": [{"id": "b", "kind": "body"}]}})
        self.assertFalse(build_set(matt, lit_ball()).throws)
        self.assertFalse(build_set(material(), lit_ball().model_copy(update={"lamps": []})).throws)

    def test_a_fine_mesh_is_aimed_at_alike(self):
        self.addCleanup(throw._faces.let_go)
        throw._faces.let_go()
        with mock.patch.object(throw, "FINE", 10):
            self.same(material(), lit_ball(wide_lamp(diameter=17)), "fine")

    def test_lamps_that_light_nothing_clear_are_not_thrown(self):
        scene = lit_ball()
        scene.lamps[0].lights = ["floor"]
        self.assertFalse(build_set(material(), scene).throws)

    def test_its_parts_add_up(self):
        the_set = build_set(material(), lit_ball())
        whole, parted = Film(32, 32), Film(32, 32)
        TRACER.render(the_set, whole, 0, 4)
        for pixels, first in ((range(500), 0), (range(500, 1024), 0)):
            for sample in (0, 2):
                part = Film(32, 32)
                TRACER.render(the_set, part, first + sample, 2, pixels=pixels)
                parted.add(part)
        np.testing.assert_array_equal(parted.throws, whole.throws)
        np.testing.assert_allclose(parted.thrown, whole.thrown, rtol=1e-4, atol=1e-6 * whole.thrown.max())


HIDDEN = {"camera": False, "reflections": True, "shadows": True}
"""The camera sees what light comes to beneath an object, as if that were not there."""


def beneath(objects, lamp, camera):
    floor = {"color": [0.5, 0.5, 0.5]}
    return stage(objects=objects, lamps=[lamp], floor=floor, surround=DARK, camera=ABOVE | camera)


class WhereItComesTo(SimpleTestCase):
    def test_the_flux_under_a_plate(self):
        """A clear plate lets through (1 - R) / (1 + R) of light that falls straight, with what goes to and fro between its faces.
        Source: Born & Wolf, Principles of Optics, 7.6.1, summed without interference."""
        lamp = {"kind": "sun", "dials": {"elevation": 89.99}}
        sheet = thing(
            "sheet", "sheet", {"width": 12, "height": 12, "thickness": 0.2}, tilt=90, at=[0, 2, 0], seen=HIDDEN
        )
        for index in (1.5, 2.4175):
            scene = beneath([sheet], lamp, {"distance": 60})
            through = only_thrown(material(interface={"specular_ior": index}), scene, samples=8192, side=32)
            bare, film = (
                beneath([thing("dot", "ball", {"diameter": 0.05}, seen=HIDDEN)], lamp, {"distance": 60}),
                Film(32, 32),
            )
            TRACER.render(build_set(material(), bare), film, 0, 16)
            reflectance = float(dielectric_reflectance(np.float32(1), np.float32(index))[0])
            found = through[13:19, 13:19].mean() / film.rgb()[13:19, 13:19].mean()
            self.assertAlmostEqual(found, (1 - reflectance) / (1 + reflectance), delta=0.01)

    def test_a_ball_focuses_where_geometrical_optics_says(self):
        """A ray at h = R sin i from the axis comes to R sin i - D' tan 2(i - r) ... of it; close to the axis all meet at
        n R / (2 (n - 1)) from the middle. Half of the flux through the ball lies within the radius that this gives.
        Source: Snell's law at the two faces; Hecht, Optics, 6.1 (ball lens)."""
        radius, index, camera = 3.0, 1.5, {"distance": 60}
        lamp = {"kind": "sun", "dials": {"elevation": 89.99, "diameter": 0.05}}
        focus, found = index * radius / (2 * (index - 1)), {}
        for away in (focus * 0.85, focus, focus * 1.6):
            ball = thing("b", "ball", {"diameter": 2 * radius}, at=[0, away - radius, 0], seen=HIDDEN)
            thrown = only_thrown(
                material(interface={"specular_ior": index}), beneath([ball], lamp, camera), samples=32
            )[..., 1]
            found[away] = half_flux_radius_cm(thrown, camera["distance"])
            self.assertAlmostEqual(found[away], ball_half_flux_cm(radius, index, away), delta=0.06 + 0.05 * found[away])
        self.assertLess(found[focus * 0.85], found[focus * 1.6])

    def test_light_within_a_mirror_ring_makes_the_nephroid_with_its_cusp_at_half_the_radius(self):
        """The caustic of a reflecting circle under parallel light has its cusp at R / 2 from the middle, on the side away from the source.
        Source: Lockwood, A Book of Curves, ch. 7. Here: the light along the axis, against rays drawn by the law of reflection."""
        radius, camera, slant = 4.0, {"distance": 70}, 25
        profile = [(radius, 0.0), (radius + 0.2, 0.0), (radius + 0.2, 2.0), (radius, 2.0)]
        wall = lathe(np.array(profile) / 100, 720)
        lamp = {"kind": "sun", "dials": {"elevation": slant, "azimuth": 180, "diameter": 0.05}}
        with mock.patch.object(Ball, "mesh", lambda self, dials: wall):
            ring = thing("ring", "ball", {"diameter": 7.77})
            thrown = only_thrown(MIRROR, beneath([ring], lamp, camera), samples=128, side=160)[..., 1]
        pixel = width_cm(camera["distance"] + 1) / 160
        towards = (np.arange(160) - 79.5) * pixel
        found = thrown[:, 78:82].mean(axis=1)
        drawn = nephroid_profile(radius, 2.0, np.radians(slant), towards, pixel, 2 * pixel)
        inside = (towards > 0.3) & (towards < 0.85 * radius)
        found, drawn = found[inside] / found[inside].sum(), drawn[inside] / drawn[inside].sum()
        np.testing.assert_allclose(found, drawn, atol=0.12 * drawn.max())
        self.assertLess(abs(int(np.argmax(found)) - int(np.argmax(drawn))), 2)
        # Light gathers from the cusp on: a quarter of the radius before it there is less than half.
        at = np.interp([0.25 * radius, 0.55 * radius], towards[inside], found)
        self.assertGreater(at[1], 2 * at[0])

    def prism_turned(self, turn, angle=60, **interface):
        """(h, w, 3) the light through a prism that stands under a low sun from behind."""
        lamp = {"kind": "sun", "dials": {"elevation": 10, "azimuth": 180, "diameter": 0.1}}
        prism = thing("p", "wedge_prism", {"angle": angle, "side": 3, "height": 6}, turn=turn, seen=HIDDEN)
        scene = beneath([prism], lamp, {"distance": 200})
        return only_thrown(material(interface=interface), scene, samples=48)

    def deviation(self, picture):
        """Degrees by which the beam is bent: of a line through the light on the side that it is bent to, between 15 and 75 degrees."""
        row, column = np.indices(picture.shape) - (len(picture) - 1) / 2
        away, turned = np.hypot(row, column), np.degrees(np.arctan2(np.abs(column), row))
        kept = np.where((turned > 15) & (turned < 75) & (away > 0.1 * len(picture)), picture, 0)
        kept = np.where(kept > 0.5 * np.percentile(kept[kept > 0], 98), kept, 0)
        kept = kept * (column > 0 if kept[column > 0].sum() > kept[column < 0].sum() else column < 0)
        x, y = ((kept * one).sum() / kept.sum() for one in (column, row))
        off = np.stack([column - x, row - y]).reshape(2, -1)
        along = np.linalg.eigh(off * kept.ravel() @ off.T)[1][:, 1]
        return float(np.degrees(np.arctan(abs(along[0] / along[1]))))

    def test_a_prism_bends_by_the_least_deviation(self):
        """2 asin(n sin(A / 2)) - A at the turn where it is least, with the index that light at a slant e to the section meets,
        sqrt(n2 - sin2 e) / cos e. Source: Born & Wolf, Principles of Optics, 4.7.2; Hecht, Optics, 5.5.1."""
        slant = np.radians(10)
        index = np.sqrt(1.5**2 - np.sin(slant) ** 2) / np.cos(slant)
        least = np.degrees(2 * np.arcsin(index * np.sin(np.radians(30)))) - 60
        found = [self.deviation(self.prism_turned(LEAST_TURN + off, specular_ior=1.5)[..., 1]) for off in (-6, 0, 6)]
        self.assertAlmostEqual(min(found), least, delta=0.6, msg=found)

    def test_blue_is_bent_more_than_red(self):
        picture = self.prism_turned(72, angle=40, **FLINT)
        red, green, blue = (self.deviation(picture[..., k]) for k in range(3))
        self.assertTrue(red < green < blue, (red, green, blue))


LEAST_TURN = 48
"""Degrees at which light from behind crosses the prism evenly."""


def width_cm(distance_cm, focal_length=80):
    """How much of the floor a picture shows from straight above."""
    return distance_cm * 36 / focal_length


def nephroid_profile(radius, height, slant, towards, pixel, half_width):
    """About the light along the axis of a mirror ring on the floor (of one reflection), for places `towards` the far wall."""
    draw = np.random.default_rng(1)
    phi, high = draw.uniform(-np.pi / 2, np.pi / 2, 2_000_000), draw.uniform(0, height, 2_000_000)
    away = high / np.tan(slant)
    across = radius * np.sin(phi) - away * np.sin(2 * phi)
    along = radius * np.cos(phi) - away * np.cos(2 * phi)
    lit = (high + 2 * radius * np.cos(phi) * np.tan(slant) > height) & (np.hypot(across, along) < radius)
    seen = lit & (np.abs(across) < half_width)
    edges = np.append(towards - pixel / 2, towards[-1] + pixel / 2)
    return np.histogram(along[seen], bins=edges, weights=np.cos(phi[seen]))[0]


def half_flux_radius_cm(thrown, distance_cm):
    side = len(thrown)
    row, column = np.indices(thrown.shape) - (side - 1) / 2
    away = np.hypot(row, column).ravel() * width_cm(distance_cm) / side
    order = np.argsort(away)
    share = np.cumsum(thrown.ravel()[order]) / thrown.sum()
    return float(away[order][np.searchsorted(share, 0.5)])


def ball_half_flux_cm(radius, index, away):
    """Where rays through a ball land on a plane `away` from its middle, by Snell's law: the radius that holds half of their flux."""
    h = np.sqrt((np.arange(4000) + 0.5) / 4000) * radius
    i, r = np.arcsin(h / radius), np.arcsin(h / radius / index)
    leaving = 2 * r - i  # angle about the middle at which the ray leaves, from the axis
    out, tilt = np.stack([radius * np.sin(leaving), radius * np.cos(leaving)]), 2 * (i - r)
    landed = np.abs(out[0] - (away - out[1]) * np.tan(tilt))
    s = ((np.cos(i) - index * np.cos(r)) / (np.cos(i) + index * np.cos(r))) ** 2
    p = ((index * np.cos(i) - np.cos(r)) / (index * np.cos(i) + np.cos(r))) ** 2
    passed = (1 - (s + p) / 2) ** 2
    order = np.argsort(landed)
    share = np.cumsum(passed[order]) / passed.sum()
    return float(landed[order][np.searchsorted(share, 0.5)])


class Window(SimpleTestCase):
    """How samples are gathered into pixels."""

    def test_it_is_a_density(self):
        x = np.linspace(-REACH_PX, REACH_PX, 3001)
        values = np.array([window(np.float32(v)) for v in x])
        self.assertAlmostEqual(float(np.trapezoid(values, x)), 1, places=4)
        self.assertTrue((values >= -1e-6).all())
        self.assertEqual(float(window(np.float32(1.6))), 0)

    def test_drawn_offsets_follow_it(self):
        """Half of the samples lie as near to the middle as half of the window's area does."""
        inverse = window_inverse()
        x = np.linspace(0, REACH_PX, 3001)
        area = 2 * np.cumsum([window(np.float32(v)) for v in x]) * (x[1] - x[0])
        self.assertAlmostEqual(float(inverse[192]), float(np.interp(0.5, area, x)), delta=0.01)
        np.testing.assert_allclose(inverse, -inverse[::-1], atol=1e-4)

    def test_an_edge_is_clean(self):
        """A pixel on the edge of a lamp is grey by how much of its window the lamp covers: the steps across the edge rise evenly."""
        dials = {"width": 16, "height": 30, "azimuth": 180, "elevation": 0, "distance": 60, "power": 0.5}
        scene = stage(
            objects=[thing("dot", "ball", {"diameter": 0.05})],
            lamps=[{"kind": "rectangle", "dials": dials, "seen": {"camera": True}}],
            surround=DARK,
            camera={"distance": 60},
        )
        film = Film(64, 64)
        TRACER.render(build_set(material(), scene), film, 0, 256)
        row = film.rgb()[20, :, 1]
        edge = row[: int(np.argmax(row > 0.98 * row.max())) + 1] / row.max()
        self.assertTrue((np.diff(edge) > -0.03).all(), edge)
        self.assertIn(((edge > 0.01) & (edge < 0.99)).sum(), (1, 2, 3), edge)
