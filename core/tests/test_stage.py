"""Stages as documents, what stands on them, and what the bench says about them."""

import base64
import io
from math import cos, radians, sin

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.cameras import CAMERAS
from nineglass.catalogue import FORMS, LAMPS
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, parts_of, read
from nineglass.gauges import GAUGES, Reading, reading_of
from nineglass.gauges.bench import read_bench
from nineglass.gauges.notes import notes_of
from nineglass.gauges.stage_notes import fan_deg, lamp_deg
from nineglass.gauges.stage_plan import outlines, plan_of
from nineglass.gauges.surface import form_size_cm
from nineglass.matter.substances import WAVELENGTHS_NM, cauchy_index, substances
from nineglass.network.compile import compile_network
from nineglass.trace.film import Film
from nineglass.trace.geometry.standing import FLOOR_BIT, meshes_of, standing_of
from nineglass.trace.pick import focus_at, pick
from nineglass.trace.scene import build_set
from nineglass.trace.sensor import lens_of
from PIL import Image

from tests.lengths import crossed
from tests.scenes import SOLIDS, TRACER, demo, luminance, material, render, stage, thing, wears

PLAIN = {"light": {"kind": "plain", "dials": {"strength": 1.0}}}
DEMO_STAGES = ("window-bench", "lamp-room", "slipway", "slate-table", "ink-jars", "cordial-table", "lens-stand")


def faults(given: dict) -> list[str]:
    try:
        read(Stage, given)
    except Refused as refused:
        return [fault.path for fault in refused.faults]
    return []


def given_stage(**changes) -> dict:
    return stage().model_dump(mode="json") | changes


def rules(document, scene, **about) -> dict:
    """The notes on a material on a stage, by rule."""
    reading = Reading(document, scene, compile_network(document), **about)
    return {note.rule: note for note in notes_of(reading)}


class Faults(SimpleTestCase):
    def test_each_fault_names_its_place(self):
        lamp = {"id": "a", "kind": "disc"}
        form = {"kind": "ball"}
        for expected, changes in (
            ("objects", {"objects": []}),
            ("objects[0].form.kind", {"objects": [{"id": "a", "form": {"kind": "teapot"}}]}),
            (
                "objects[0].form.dials.diameter",
                {"objects": [{"id": "a", "form": {"kind": "ball", "dials": {"diameter": -1}}}]},
            ),
            ("objects[1].id", {"objects": [{"id": "a", "form": form}, {"id": "a", "form": form}]}),
            ("objects", {"objects": [{"id": "a", "form": form, "on": False}]}),
            ("objects[0].wears.lid", {"objects": [{"id": "a", "form": form, "wears": {"lid": {}}}]}),
            ("objects[0].at[0]", {"objects": [{"id": "a", "form": form, "at": [1e9, 0, 0]}]}),
            ("lamps[0].kind", {"lamps": [{"id": "a", "kind": "torch"}]}),
            ("lamps[0].lights", {"lamps": [lamp | {"lights": ["nobody"]}]}),
            ("lamps[1].id", {"lamps": [lamp, lamp]}),
            ("surround.light.dials.turbidity", {"surround": {"light": {"kind": "sky", "dials": {"turbidity": 99}}}}),
            ("surround.blend", {"surround": PLAIN | {"blend": 2}}),
            ("camera.dials.f_stop", {"camera": {"kind": "camera", "dials": {"f_stop": 0}}}),
            ("floor.kind", {"floor": {"kind": "lawn"}}),
        ):
            with self.subTest(expected):
                self.assertIn(expected, faults(given_stage(**changes)))

    def test_a_worn_material_is_checked_as_any_other(self):
        bad = {"section": {"bands": [{"id": "i", "kind": "interface", "dials": {"specular_ior": 99}}]}}
        found = faults(given_stage(objects=[thing("a", "ball", wears={"body": {"material": bad}})]))
        self.assertEqual(found, ["objects[0].wears.body.material.section.bands[0].dials.specular_ior"])

    def test_a_file_is_named_by_its_contents(self):
        picture = {"kind": "lighting_picture", "dials": {"picture_of": "file", "file": "../../secret"}}
        self.assertIn("surround.light.dials.file", faults(given_stage(surround={"light": picture})))

    def test_a_drawn_curve_rises_in_wavelength_and_stays_within_one(self):
        for points in ([[500, 0.5]], [[500, 0.5], [400, 0.5]], [[400, 0.5], [500, 1.5]], [["a", 1], [500, 1]], "400"):
            bands = [{"id": "i", "kind": "interior", "dials": {"transmittance": points}}]
            with self.assertRaises(Refused):
                read(Material, {"section": {"bands": bands}})

    def test_the_demo_is_without_fault(self):
        for name in DEMO_STAGES:
            self.assertEqual(read(Stage, demo(name)).version, 2)


class Standing(SimpleTestCase):
    def test_the_lowest_point_stands_at_its_height(self):
        for tilt in (0.0, 30.0, 200.0):
            scene = stage(objects=[thing("a", "sheet", at=(3, 2, 1), tilt=tilt), thing("b", "rod")])
            standing = standing_of(scene)
            a, b = standing.placed
            low = [(p.mesh.vertices @ p.axes.T + p.offset)[:, 1].min() for p in (a, b)]
            self.assertAlmostEqual(low[0] - low[1], 0.02, places=4)
            self.assertAlmostEqual(low[1], standing.floor, places=4)

    def test_the_stage_turns_all_objects_about_its_middle(self):
        objects = [thing("a", "ball", at=(10, 0, 0)), thing("b", "ball")]
        still, turned = (standing_of(stage(objects=objects).model_copy(update={"turn": t})) for t in (0.0, 90.0))
        np.testing.assert_allclose(turned.placed[0].offset[[0, 2]], [0, -0.1], atol=1e-9)
        np.testing.assert_allclose(still.placed[0].offset[[0, 2]], [0.1, 0], atol=1e-9)

    def test_what_is_off_is_not_there(self):
        objects = [thing("a", "ball"), thing("b", "ball", on=False)]
        self.assertEqual([p.object_id for p in standing_of(stage(objects=objects)).placed], ["a"])

    def test_a_vessel_brings_its_liquid(self):
        one = stage("beaker").objects[0]
        self.assertEqual(set(meshes_of(one)), {"body", "liquid"})
        self.assertEqual(set(meshes_of(stage("beaker", {"level": 0}).objects[0])), {"body"})
        self.assertEqual(parts_of("beaker"), {"body": 20, "liquid": 10})

    def test_materials_are_laid_out_once(self):
        green = material(interior={"transmission_color": [0.2, 0.8, 0.3]})
        objects = [
            thing("a", "ball"),
            thing("b", "ball", at=(8, 0, 0), wears=wears(green)),
            thing("c", "ball", at=(16, 0, 0), wears=wears(green)),
        ]
        the_set = build_set(material(), stage(objects=objects))
        self.assertEqual(len(the_set.materials), 2)
        geometry, alone = the_set.scene.geometry, build_set(material(), stage()).scene.geometry
        self.assertEqual(geometry.things.matter.tolist(), [0, 1, 1])
        self.assertEqual(len(geometry.triangles.corners), len(alone.triangles.corners))

    def test_more_materials_than_there_is_room_for_are_refused(self):
        def split(k):
            bands = [
                {"id": "s", "kind": "split"},
                {"id": "i", "kind": "interface", "dials": {"specular_ior": 1 + k / 100}},
            ]
            return read(Material, {"section": {"bands": bands}})

        objects = [
            thing(
                f"o{k}",
                "beaker",
                at=(k * 20, 0, 0),
                wears={
                    part: {"material": split(2 * k + n).model_dump(mode="json")}
                    for n, part in enumerate(("body", "liquid"))
                },
            )
            for k in range(16)
        ]
        with self.assertRaises(Refused) as caught:
            build_set(material(), stage(objects=objects))
        self.assertIn("97 materials", caught.exception.faults[0].fault)
        self.assertIn("at most 64", caught.exception.faults[0].allowed)

    def test_lamps_know_whom_they_light(self):
        objects = [thing("a", "ball"), thing("b", "ball", at=(8, 0, 0))]
        lamps = [{"kind": "point", "dials": {}, "lights": lights} for lights in (None, ["b"], ["floor"], [])]
        lights = build_set(material(), stage(objects=objects, lamps=lamps)).scene.lamps.lights.tolist()
        self.assertEqual(lights, [3 | FLOOR_BIT, 2, FLOOR_BIT, 0])

    def test_size_of_what_wears_the_material_on_the_bench(self):
        objects = [
            thing("other", "ball", {"diameter": 20}, wears=wears(material())),
            thing("ours", "ball", {"diameter": 4}),
        ]
        self.assertAlmostEqual(form_size_cm(reading_of(material(), stage(objects=objects))), 4, places=4)


class Camera(SimpleTestCase):
    def lens(self, **dials):
        return lens_of(read(Stage, given_stage(camera={"kind": "camera", "dials": dials})).camera, 1.0)[0]

    def test_a_frame_of_36_mm(self):
        # The half width at distance 1 is 18 mm over the focal length.
        self.assertAlmostEqual(float(np.linalg.norm(self.lens(focal_length=90).right)), 0.2, places=6)

    def test_the_aperture_is_the_focal_length_over_the_f_number(self):
        far = self.lens(focal_length=80, f_stop=4, distance=1e6)
        self.assertAlmostEqual(float(far.radius), 0.01, places=5)

    def test_blur_is_that_of_a_thin_lens_at_its_focus_distance(self):
        # Thin lens, Hecht, Optics, 5.2.3: 80 mm f/4 sharp at 100 cm draws a point at 160 cm as a disc of
        # 20 mm * (160 - 100) / 160 * 80 / (1000 - 80) = 0.652 mm of 36, 2.32 of 128 pixels.
        lens = self.lens(focal_length=80, f_stop=4, distance=100)
        wide = 2 * float(np.linalg.norm(lens.right)) * 1.6
        blur = 2 * float(lens.radius) * (1.6 - 1.0) / 1.0
        self.assertAlmostEqual(blur / wide * 128, 2.32, delta=0.005)

    def test_focus_lies_before_or_behind_the_middle(self):
        self.assertAlmostEqual(float(self.lens(distance=50, focus=-5).focus), 0.45, places=6)

    def test_it_may_look_aside(self):
        eye = self.lens(distance=50, azimuth=0, elevation=0, aside=4, raised=3).eye
        np.testing.assert_allclose(eye, [0.04, 0.03, 0.5], atol=1e-6)

    def test_every_dial_of_the_camera_can_be_left_out(self):
        self.assertGreater(len(CAMERAS.kinds["camera"].dials), 8)
        self.lens()


class Lamps(SimpleTestCase):
    @given(st.floats(-180, 180), st.floats(-85, 85), st.floats(10, 500))
    @settings(max_examples=40, deadline=None)
    def test_they_look_at_the_middle(self, azimuth, elevation, distance):
        for kind in ("rectangle", "disc"):
            about = LAMPS.kinds[kind]
            dials = about.defaults() | {"azimuth": azimuth, "elevation": elevation, "distance": distance}
            light = about.make().light(dials)
            normal = np.cross(light.up, light.across)
            self.assertLess(normal @ light.centre, 0)
            a, e = radians(azimuth), radians(elevation)
            toward = np.array([sin(a) * cos(e), sin(e), cos(a) * cos(e)])
            np.testing.assert_allclose(light.centre, toward * distance / 100, atol=1e-9)

    def test_a_filter_takes_light_of_the_other_colours(self):
        lamps = [{"kind": "point", "dials": {"kelvin": 6500, "color": color}} for color in ([1, 1, 1], [1, 0.1, 0.1])]
        spectra = [build_set(material(), stage(lamps=[lamp])).scene.spectra[-1] for lamp in lamps]
        self.assertGreater(spectra[1][270] / spectra[0][270], 0.8)
        self.assertLess(spectra[1][90] / spectra[0][90], 0.3)

    def test_a_lamp_of_one_line_lights_at_that_line(self):
        line = [[540, 0.0], [546, 1.0], [552, 0.0]]
        lamp = {"kind": "point", "dials": {"light_from": "curve", "spectrum": line}}
        spectrum = build_set(material(), stage(lamps=[lamp])).scene.spectra[-1]
        self.assertEqual(int(np.argmax(spectrum)), 546 - 380)
        self.assertEqual(float(spectrum[: 540 - 380].max()), 0)
        self.assertGreater(float(spectrum[546 - 380]), 0)


class Notes(SimpleTestCase):
    GLASS = {"substance": "crown_517642", "transmission_dispersion_scale": 1.0}

    def test_dispersion_hidden_by_a_broad_lamp(self):
        # A 60-degree prism of crown spreads F to C by about half a degree (2 asin(n / 2) at both lines).
        fan = fan_deg(substances()["crown_517642"].index)
        self.assertAlmostEqual(fan, 0.70, delta=0.1)
        broad = stage(lamps=[{"width": 60, "height": 60, "distance": 60}])
        note = rules(material(interface=self.GLASS), broad)["dispersion hidden"]
        self.assertAlmostEqual(
            note.figure,
            lamp_deg("rectangle", LAMPS.kinds["rectangle"].defaults() | {"width": 60, "distance": 60}) / fan,
            places=3,
        )
        width = note.changes[0].value
        narrow = stage(lamps=[{"width": width, "height": 60, "distance": 60}])
        self.assertNotIn("dispersion hidden", rules(material(interface=self.GLASS), narrow))
        self.assertNotIn("dispersion hidden", rules(material(), broad))

    def test_how_wide_lamps_look(self):
        for kind, dials, expected in (
            ("disc", {"diameter": 20, "distance": 100}, 11.42),
            ("sun", {"diameter": 0.53}, 0.53),
            ("point", {}, 0.0),
        ):
            self.assertAlmostEqual(lamp_deg(kind, LAMPS.kinds[kind].defaults() | dials), expected, delta=0.02)

    def test_nothing_dark_to_reflect(self):
        note = rules(material(), stage())["nothing dark"]
        self.assertEqual(note.figure, 0)
        change = note.changes[0]
        mended = stage(surround=PLAIN | {change.dial: change.value})
        self.assertNotIn("nothing dark", rules(material(), mended))

    def test_background_that_is_the_light(self):
        note = rules(material(), stage())["background is the light"]
        mended = stage(surround=PLAIN | {note.changes[0].dial: note.changes[0].value})
        self.assertNotIn("background is the light", rules(material(), mended))
        self.assertNotIn("background is the light", rules(material(), stage(lamps=[{}])))

    def test_index_of_what_is_around(self):
        note = rules(material(interface={"specular_ior": 1.0}), stage())["index of air"]
        self.assertEqual((note.figure, note.changes[0].value), (1.0, 1.52))
        self.assertNotIn("index of air", rules(material(interface={"specular_ior": 1.33}), stage()))

    def test_liquid_by_itself(self):
        water = material(interface={"substance": "water"})
        note = rules(water, stage("ball"))["liquid without a container"]
        change = note.changes[0]
        self.assertEqual((change.part, change.dial), ("objects.0", "form"))
        in_glass = stage(objects=[{"id": "a", "form": change.value, "wears": wears(material())}])
        self.assertNotIn("liquid without a container", rules(water, in_glass))

    def test_a_lower_index_within_another_object(self):
        # Air of 1 in glass of 1.52, wholly within it: a bubble. Glass in air is none.
        objects = [
            thing("bead", "ball", {"diameter": 2}, at=(0, 2, 0)),
            thing("block", "ball", {"diameter": 6}, wears=wears(material())),
        ]
        note = rules(material(interface={"specular_ior": 1.33}), stage(objects=objects))["index below its surroundings"]
        self.assertAlmostEqual(note.figure, 1.33 / 1.52, places=3)
        mended = material(interface={note.changes[0].dial: note.changes[0].value})
        self.assertNotIn("index below its surroundings", rules(mended, stage(objects=objects)))
        self.assertNotIn("index below its surroundings", rules(material(interface={"specular_ior": 1.33}), stage()))

    def test_a_recoloured_fan_tells_its_energy(self):
        dials = {"fan": "recoloured", "transmission_dispersion_scale": 2.0}
        note = rules(material(interface=dials), stage())["fan in chosen colours"]
        self.assertAlmostEqual(note.figure, 1.0, places=3)
        self.assertNotIn("fan in chosen colours", rules(material(interface=dials | {"fan": "true"}), stage()))

    def test_a_clipped_picture(self):
        note = rules(material(), stage(), clipped=(0.3, 0.1, 0.0))["picture clipped"]
        self.assertIn("30% of the picture is past white in red", note.says)
        self.assertEqual((note.changes[0].part, note.changes[0].value), ("camera", -1))
        self.assertNotIn("picture clipped", rules(material(), stage(), clipped=(0.01, 0, 0)))

    def test_no_note_on_a_good_stage(self):
        for name in ("window-bench", "lamp-room"):
            self.assertEqual(rules(read(Material, demo("net-float")), read(Stage, demo(name))), {}, name)


class Plan(SimpleTestCase):
    def test_outlines_are_true_to_size(self):
        scene = stage(
            objects=[
                thing("a", "ball", {"diameter": 6}),
                thing("b", "sheet", {"width": 10, "thickness": 1}, at=(12, 0, 0), turn=90),
            ]
        )
        ball, sheet = outlines(standing_of(scene))
        for view in ("above", "front"):
            np.testing.assert_allclose(np.ptp(ball[view], axis=0), [6, 6], atol=0.1)
        np.testing.assert_allclose(np.ptp(sheet["above"], axis=0), [1, 10], atol=1e-2)
        np.testing.assert_allclose(np.mean(sheet["above"], axis=0), [12, 0], atol=0.6)

    def test_an_outline_is_convex(self):
        points = np.array(outlines(standing_of(stage("squat_jar")))[0]["front"])
        edges = np.roll(points, -1, axis=0) - points
        ahead = np.roll(edges, -1, axis=0)
        turning = edges[:, 0] * ahead[:, 1] - edges[:, 1] * ahead[:, 0]
        self.assertTrue((turning > 0).all())

    def test_strips_show_the_two_surrounds(self):
        surround = {
            "light": {"kind": "gradient", "dials": {"above": [1, 1, 1], "below": [0, 0, 0]}},
            "camera": {"kind": "plain", "dials": {"strength": 0}},
        }
        strips = plan_of(stage(surround=surround))["strips"]
        light, camera = (np.asarray(Image.open(io.BytesIO(base64.b64decode(strips[w])))) for w in ("light", "camera"))
        self.assertGreater(light[0].mean(), light[-1].mean() + 100)
        self.assertEqual(camera.max(), 0)

    def test_it_is_part_of_what_the_bench_reads(self):
        read_all = read_bench(reading_of(material(), stage()))
        self.assertEqual(len(read_all["plan"]["outlines"]), 1)
        self.assertIsNone(read_bench(reading_of(material()))["plan"])


class Gauges(SimpleTestCase):
    def compute(self, name, document, scene=None):
        return GAUGES.all[name].compute(reading_of(document, scene))

    def test_absorption_falls_with_concentration(self):
        interior = {"absorption": "dyes", "dye_1": "woad", "amount_1": 0.4, "transmission_depth": 1.0}
        weak, strong = (
            np.array(
                self.compute("absorption", material(interior=interior | {"concentration": c}))["curves"][0]["values"]
            )
            for c in (1.0, 2.0)
        )
        np.testing.assert_allclose(strong, weak**2, rtol=1e-5)

    def test_the_ladder_follows_a_substance(self):
        # Pure water over metres: the red goes first (Segelstein 1981: 0.3 1/m at 650 nm, 0.01 at 450 nm).
        sea = material(interior={"absorption": "substance", "substance": "water"})
        hex_of = self.compute("ladder", sea, stage("ball", {"diameter": 500}))["hex"]
        red, blue = int(hex_of[-1][1:3], 16), int(hex_of[-1][5:7], 16)
        self.assertLess(red, blue)

    def test_index_with_its_abbe_number(self):
        crown = material(interface={"substance": "crown_517642", "transmission_dispersion_scale": 1.0})
        self.assertIn("n = 1.5168, Abbe number 64.2", self.compute("index", crown)["caption"])
        self.assertIn("no dispersion", self.compute("index", material())["caption"])
        more = self.compute("index", material(interface={"transmission_dispersion_scale": 3.0}))
        self.assertIn("3 times the true one", more["caption"])

    def test_facing_of_a_metal_is_that_of_its_colours(self):
        gold = read(Material, {"section": {"bands": [{"id": "m", "kind": "metal", "dials": {"substance": "gold"}}]}})
        curves = {c["label"]: c["values"][0] for c in self.compute("facing", gold)["curves"]}
        self.assertGreater(curves["650 nm"], 0.9)
        self.assertLess(curves["450 nm"], 0.5)

    def test_exaggeration_spreads_the_index_about_its_middle(self):
        true = cauchy_index(1.6, 30)
        curve = build_set(
            material(
                interface={
                    "specular_ior": 1.6,
                    "transmission_dispersion_abbe_number": 30,
                    "transmission_dispersion_scale": 2.0,
                }
            ),
            stage(),
        )
        np.testing.assert_allclose(curve.scene.media.index[0], 1.6 + 2 * (true - 1.6), rtol=1e-6)
        self.assertEqual(len(WAVELENGTHS_NM), 401)


class Pick(SimpleTestCase):
    def test_the_light_of_an_even_surround(self):
        # Scene value 1 in an even white surround; its spectrum is that of D65, so blue and red are there.
        the_set = build_set(material(), stage())
        read_there = pick(the_set, TRACER, 0.05, 0.05, (64, 64))
        np.testing.assert_allclose(read_there["linear"], 1.0, atol=0.02)
        self.assertEqual((read_there["seen"], read_there["display"]), ("surround", "#ffffff"))
        spectrum = np.interp([450, 550, 650], read_there["wavelengths_nm"], read_there["spectrum"])
        from nineglass.spectra.observer import D65

        np.testing.assert_allclose(spectrum / D65[[70, 170, 270]], 1.0, atol=0.35)

    def test_it_agrees_with_the_picture_and_tells_what_is_past_white(self):
        the_set = build_set(material(interior={"transmission_color": [0.2, 0.6, 0.3]}), stage(strength=3.0))
        film = Film(32, 32)
        TRACER.render(the_set, film, 0, 256)
        there = pick(the_set, TRACER, 16.5 / 32, 16.5 / 32, (32, 32))
        np.testing.assert_allclose(there["linear"], film.rgb()[16, 16], rtol=0.1, atol=0.02)
        self.assertEqual(there["seen"], "form")
        self.assertEqual(there["over"], [v > 1 for v in there["linear"]])

    def test_the_place_that_is_made_sharp(self):
        # A ball of 6 cm before a camera at its height: its nearest point is 3 cm before the middle.
        the_set = build_set(material(), stage("ball", {"diameter": 6}, camera={"raised": 0}))
        self.assertAlmostEqual(focus_at(the_set, 0.5, 0.5), -3.0, delta=0.02)
        self.assertIsNone(focus_at(the_set, 0.02, 0.02))
        sharp = stage("ball", {"diameter": 6}, camera={"focus": focus_at(the_set, 0.5, 0.5)})
        self.assertAlmostEqual(float(build_set(material(), sharp).lens.focus), 0.37, places=3)


class Merging(SimpleTestCase):
    def test_alpha_and_counts_add_up_over_workers(self):
        document, scene = material(), stage()
        whole = render(document, scene, side=24, samples=8)
        first, second = Film(24, 24), Film(24, 24)
        the_set = build_set(document, scene)
        TRACER.render(the_set, first, 0, 4)
        TRACER.render(the_set, second, 4, 4)
        first.add(second)
        np.testing.assert_array_equal(first.counts, whole.counts)
        np.testing.assert_allclose(first.alpha(), whole.alpha())
        np.testing.assert_allclose(first.sums, whole.sums, rtol=1e-5, atol=1e-6)

    def test_split_samples_are_counted_once(self):
        flint = material(interface={"substance": "dense_flint_785257", "transmission_dispersion_scale": 1.0})
        film = render(flint, stage("wedge_prism"), side=24, samples=7)
        self.assertEqual((film.counts.min(), film.counts.max()), (7, 7))


class Forms(SimpleTestCase):
    @given(
        st.sampled_from(sorted(set(SOLIDS) - {"imported", "water_surface", "sea"})),
        st.randoms(use_true_random=False),
    )
    @settings(max_examples=30, deadline=None)
    def test_any_setting_on_screen_gives_a_closed_form(self, kind, random):
        from nineglass.forms.mesh import faults_of_surface

        about = FORMS.kinds[kind]
        dials = {}
        for dial in about.dials.values():
            low, high = dial.low, dial.high
            share = random.random()
            dials[dial.name] = low * (high / low) ** share if dial.scale == "log" else low + (high - low) * share
        for part in parts_of(kind):
            mesh = about.make().mesh(dials) if len(parts_of(kind)) == 1 else about.make().mesh(dials, part)
            self.assertTrue(np.isfinite(mesh.vertices).all() and np.isfinite(mesh.normals).all(), dials)
            self.assertEqual(faults_of_surface(mesh), [], dials)


class WhiteFurnace(SimpleTestCase):
    """Clear matter that takes nothing cannot be seen in an even surround, whatever its form."""

    def invisible(self, document, scene, tolerance: float, samples: int = 64, **how):
        film = render(document, scene, side=24, samples=samples, most_bounces=300, **how)
        self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=tolerance)

    def test_every_form_polished_and_rough(self):
        for kind, roughness in crossed(sorted(set(SOLIDS) - {"imported"}), (0.0, 0.25, 0.5, 0.8)):
            size = {"water_surface": 260, "bottle": 70}.get(kind, 30)
            scene = stage(kind, camera={"distance": size, "elevation": 15})
            with self.subTest(form=kind, roughness=roughness):
                self.invisible(material(interface={"specular_roughness": roughness}), scene, 0.005, samples=384, of=1)

    def test_a_filled_vessel(self):
        water = material(interface={"specular_ior": 1.333})
        for kind in ("beaker", "squat_jar", "bottle"):
            one = thing("vessel", kind, wears={"liquid": {"material": water.model_dump(mode="json")}})
            self.invisible(material(), stage(objects=[one], camera={"distance": 50}), 0.01)

    def test_a_tinted_surface_is_no_lamp(self):
        film = render(material(interface={"tint": [0.9, 0.5, 0.9]}), stage(), side=24, samples=32)
        self.assertTrue((film.rgb().mean(axis=(0, 1)) < 1.0).all())

    def test_eight_stones_on_one_stage(self):
        objects = [thing(f"stone_{i}", "brilliant_cut", at=(i % 4 * 1.5 - 2.2, 0, i // 4 * 1.5)) for i in range(8)]
        self.invisible(
            material(interface={"specular_ior": 2.4}), stage(objects=objects, camera={"distance": 16}), 0.012
        )
