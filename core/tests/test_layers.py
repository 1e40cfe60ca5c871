"""Films, coats, fuzz, body colour, splits: their physics by themselves and through the tracer."""

import numpy as np
import tmm
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.describe import Refused
from nineglass.documents.model import Material, read
from nineglass.gauges import reading_of
from nineglass.gauges.bench import read_bench
from nineglass.gauges.film import film_colors
from nineglass.kernels import F
from nineglass.matter.substances import substances
from nineglass.optics.diffuse import EVEN, GRAINY, VELVET, diffuse_parts, diffuse_tables, diffuse_value
from nineglass.optics.film import boundary_reflectance, metal_of_colors
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter
from nineglass.trace.families.registry import FAMILIES
from nineglass.trace.scene import build_set

from tests.scenes import demo, luminance, middle, render, stage, wire

WHITE = [1.0, 1.0, 1.0]
WHITE_MIRROR = {"substance": "two colours", "base_color": WHITE, "specular_color": WHITE}
PICTURED = {"light": {"kind": "sky"}, "second": {"kind": "plain", "dials": {"strength": 1}}, "blend": 1.0}
"""A white surround that is asked for light as a picture is."""


def stack(*bands, slips=(), wires=()) -> Material:
    """stack(("coat", {dials}), ("interface", {}, "first"), ...): a material of bands from the outside in."""
    made = [
        {"id": f"b{i}", "kind": kind, "dials": dials, "side": side[0] if side else "both"}
        for i, (kind, dials, *side) in enumerate(bands)
    ]
    return read(Material, {"section": {"bands": made}, "slips": list(slips), "wires": list(wires)})


def films(*pairs):
    """(count, thickness and index of each)."""
    flat = [F(v) for pair in pairs for v in pair] + [F(0), F(1)] * (4 - len(pairs))
    return (len(pairs), *flat)


def reflectance(stacked, angle_deg, before, beyond, nm) -> float:
    beyond = complex(beyond)
    cosine = F(np.cos(np.radians(angle_deg)))
    return float(boundary_reflectance(stacked, cosine, F(before), F(beyond.real), F(beyond.imag), F(nm)))


def by_tmm(pairs, angle_deg, before, beyond, nm) -> float:
    """Source: package tmm (Byrnes 2016, Multilayer optical calculations)."""
    n = [before, *(n for _, n in pairs), beyond]
    d = [np.inf, *(d for d, _ in pairs), np.inf]
    return float(np.mean([tmm.coh_tmm(p, n, d, np.radians(angle_deg), nm)["R"] for p in "sp"]))


class Films(SimpleTestCase):
    def test_quarter_waves_and_a_free_film(self):
        # Source: Born & Wolf 7th ed., 1.6.4; the values are those of package tmm.
        self.assertAlmostEqual(reflectance(films((550 / 4 / 1.38, 1.38)), 0, 1, 1.52, 550), 0.01260, places=5)
        self.assertAlmostEqual(reflectance(films((550 / 4 / 2.35, 2.35)), 0, 1, 1.52, 550), 0.3230, places=4)
        free = {0: (0.0345, 0.0754, 0.0347), 60: (0.1630, 0.0277, 0.0132)}
        for angle, values in free.items():
            for nm, expected in zip((450, 550, 650), values, strict=True):
                self.assertAlmostEqual(reflectance(films((300, 1.33)), angle, 1, 1, nm), expected, delta=6e-5)

    @settings(max_examples=120, deadline=None, derandomize=True)
    @given(
        pairs=st.lists(st.tuples(st.floats(0, 900), st.floats(1.0, 2.6)), min_size=1, max_size=4),
        angle=st.floats(0, 85),
        beyond=st.sampled_from([1.0, 1.33, 1.52, 2.4, 2.9 + 3.1j, 0.2 + 3.4j]),
        nm=st.floats(390, 770),
    )
    def test_stacks_agree_with_the_transfer_matrix(self, pairs, angle, beyond, nm):
        ours = reflectance(films(*pairs), angle, 1.0, beyond, nm)
        self.assertAlmostEqual(ours, by_tmm(pairs, angle, 1.0, beyond, nm), delta=1e-4)

    def test_under_a_denser_coat_where_the_wave_fades_in_the_film(self):
        # Frustrated total reflection: 200 nm of index 1.2 between two of 1.5, beyond the critical angle of 53.1 degrees.
        for angle in (50, 60, 75):
            expected = by_tmm([(200, 1.2)], angle, 1.5, 1.52, 550)
            self.assertAlmostEqual(reflectance(films((200, 1.2)), angle, 1.5, 1.52, 550), expected, delta=2e-4)

    def test_the_colour_of_a_film_series(self):
        # The same integral by colour-science: XYZ of D65 off the film, CIE 1931 2 degrees, 1 nm.
        import colour

        cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(colour.SpectralShape(380, 780, 1))
        light = colour.SDS_ILLUMINANTS["D65"].copy().align(cmfs.shape)
        for thickness in (120, 280, 420, 700):
            shares = np.array([reflectance(films((thickness, 1.4)), 0, 1, 1.5, nm) for nm in WAVELENGTHS_NM])
            xyz = colour.msds_to_XYZ(shares[None], cmfs, light, method="Integration", shape=cmfs.shape)[0] / 100
            expected = np.linalg.solve(np.array(colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ), xyz)
            np.testing.assert_allclose(rgb_of_filter(shares), expected, atol=2e-4)

    def on_metal(self, *covers):
        """Face-on luminance of quarter-wave films, each covering a share, on a polished metal, and of their gauge."""
        bands = [("film", {"thin_film_thickness": 60, "thin_film_ior": 2.3, "thin_film_weight": w}) for w in covers]
        document = stack(*bands, ("metal", {"substance": "iron", "specular_roughness": 0}))
        seen = middle(render(document, stage("ball", {"diameter": 12}), side=48, samples=256), 0.1)
        reading = reading_of(document)
        told = film_colors(reading.compiled.leaves[0], reading.values, 1.0, [60.0])[0]
        return luminance(seen), luminance(told)

    def test_each_covers_its_own_share_of_the_surface(self):
        # A film of amount 0 on or beneath another is not there, and changes nothing; half and half of two is the mean of four.
        both, first, none = (self.on_metal(*covers) for covers in ((1, 1), (1, 0), (0, 0)))
        second = self.on_metal(0, 1)
        for tracer_or_gauge in range(2):
            self.assertAlmostEqual(first[tracer_or_gauge], second[tracer_or_gauge], delta=0.005)
            mean = (
                both[tracer_or_gauge] + first[tracer_or_gauge] + second[tracer_or_gauge] + none[tracer_or_gauge]
            ) / 4
            self.assertAlmostEqual(self.on_metal(0.5, 0.5)[tracer_or_gauge], mean, delta=0.008)
            self.assertGreater(abs(none[tracer_or_gauge] - first[tracer_or_gauge]), 0.1)
        np.testing.assert_allclose(
            [seen for seen, _ in (both, first, none)], [told for _, told in (both, first, none)], atol=0.012
        )

    def test_the_cut_of_each_film_is_its_own(self):
        thin, thick = (
            {"thin_film_thickness": 45, "thin_film_ior": 2.3},
            {"thin_film_thickness": 400, "thin_film_ior": 2.3},
        )
        metal = ("metal", {"substance": "iron"})
        cuts = read_bench(reading_of(stack(("film", thick), ("film", thin), metal)))["section"]["bands"]
        alone = read_bench(reading_of(stack(("film", thin), metal)))["section"]["bands"]
        self.assertEqual(cuts["b1"]["colors"], alone["b0"]["colors"])
        self.assertNotEqual(cuts["b0"]["colors"], cuts["b1"]["colors"])
        self.assertIn("45 nm", cuts["b1"]["says"])

    def test_a_measured_index_stands_in_the_head_and_both_sides_of_a_split_in_the_gauge(self):
        cuts = read_bench(reading_of(stack(("interface", {"substance": "quartz", "specular_ior": 1.52}))))["section"][
            "bands"
        ]
        self.assertEqual(cuts["b0"]["says"], f"n {substances()['quartz'].n_d:.3f}")
        bands = (
            ("split", {}),
            ("interface", {"specular_ior": 1.4}, "first"),
            ("interface", {"specular_ior": 1.8}, "second"),
        )
        gauges = {gauge["name"]: gauge["computed"] for gauge in read_bench(reading_of(stack(*bands)))["gauges"]}
        curves = {curve["label"]: curve["values"][0] for curve in gauges["index"]["curves"]}
        self.assertEqual(curves, {"first side": 1.4, "second side": 1.8})
        self.assertIn("First side", gauges["index"]["caption"])

    def test_a_film_on_a_metal_through_the_tracer(self):
        # Face-on in a white surround a polished metal shows the reflectance of film and metal, as tmm has it.
        document = stack(
            ("film", {"thin_film_thickness": 52, "thin_film_ior": 2.3}),
            ("metal", {"substance": "iron", "specular_roughness": 0}),
        )
        iron = substances()["iron"]
        nm = np.arange(380, 781, 5)
        at = zip(nm, iron.index[::5], iron.extinction[::5], strict=True)
        shares = [by_tmm([(52, 2.3)], 0, 1.0, complex(n, k), w) for w, n, k in at]
        expected = rgb_of_filter(np.interp(WAVELENGTHS_NM, nm, shares))
        seen = middle(render(document, stage("ball", {"diameter": 12}), side=48, samples=512), 0.1)
        np.testing.assert_allclose(seen, expected, atol=0.012)

    def test_a_metal_of_two_colours(self):
        # Face-on it reflects what was asked for. Source: Gulbrandsen 2014, eq. 2.
        for facing in (0.1, 0.5, 0.9):
            for edge in (0.0, 0.5, 1.0):
                n, k = metal_of_colors(F(facing), F(edge))
                front = ((n - 1) ** 2 + k**2) / ((n + 1) ** 2 + k**2)
                self.assertAlmostEqual(float(front), facing, places=3)


def hemisphere(count=40_000, seed=3):
    """Directions drawn by the cosine: values times pi / cosine average to the albedo."""
    rng = np.random.default_rng(seed)
    u, v = rng.random(count), rng.random(count)
    r = np.sqrt(u)
    return np.stack([r * np.cos(2 * np.pi * v), r * np.sin(2 * np.pi * v), np.sqrt(1 - u)], -1).astype(np.float32)


class BodyColour(SimpleTestCase):
    MODELS = ((EVEN, 0.0), (EVEN, 0.5), (EVEN, 1.0), (GRAINY, 0.0), (VELVET, 0.3), (VELVET, 0.9))

    def value(self, model, rough, wo, wi, color):
        parts = diffuse_parts(diffuse_tables(), model, F(rough), tuple(wo), tuple(wi))
        return float(diffuse_value(*parts, F(color)))

    def test_white_loses_nothing_and_grey_gains_nothing(self):
        ways = hemisphere(6000)
        for model, rough in self.MODELS:
            for cosine in (0.15, 0.6, 1.0):
                wo = (F(np.sqrt(1 - cosine**2)), F(0), F(cosine))
                white, grey = (
                    np.mean([self.value(model, rough, wo, w, c) * np.pi / w[2] for w in ways]) for c in (1.0, 0.4)
                )
                self.assertAlmostEqual(white, 1.0, delta=0.012, msg=(model, rough, cosine))
                self.assertLess(grey, 0.62)

    def test_light_goes_both_ways_alike(self):
        rng = np.random.default_rng(5)
        for model, rough in self.MODELS:
            for _ in range(30):
                a, b = (v / np.linalg.norm(v) for v in np.abs(rng.normal(size=(2, 3))).astype(np.float32))
                there, back = self.value(model, rough, a, b, 0.7) / b[2], self.value(model, rough, b, a, 0.7) / a[2]
                self.assertAlmostEqual(there, back, delta=1e-3 * max(there, 1))

    def test_smooth_it_is_lamberts(self):
        # Lambert's law: colour / pi times the cosine, whatever the angles.
        self.assertAlmostEqual(self.value(EVEN, 0.0, (0.6, 0, 0.8), (0, 0.8, 0.6), 0.5), 0.5 / np.pi * 0.6, places=4)

    def test_rough_it_is_brightest_towards_the_lamp(self):
        # Oren & Nayar 1994: backscattering, and a flatter form.
        there = np.array([0.8, 0.0, 0.6], np.float32)
        back = self.value(EVEN, 1.0, there, there, 0.6)
        ahead = self.value(EVEN, 1.0, there, there * np.array([-1, 1, 1], np.float32), 0.6)
        self.assertGreater(back, 1.5 * ahead)


def lit_by_a_disc(bands, reflections: bool, of: int = 2) -> float:
    """Luminance of a ball, with the lamp met by chance as well or asked for alone."""
    about = {"diameter": 60, "power": 10, "azimuth": 30, "elevation": 50, "distance": 60}
    lamp = {"id": "lamp", "kind": "disc", "dials": about}
    lamp["seen"] = {"camera": False, "reflections": reflections, "shadows": True}
    scene = stage("ball", {"diameter": 9}, strength=0.0, lamps=[lamp])
    return luminance(render(stack(*bands), scene, side=24, samples=1536, of=of).rgb().mean(axis=(0, 1)))


class Stacks(SimpleTestCase):
    """Through the tracer."""

    BODY = ("body", {"base_color": WHITE})
    LOSSLESS = {
        "paint": (("interface", {}), BODY),
        "rough paint": (
            ("interface", {"specular_roughness": 0.5}),
            ("body", {"base_color": WHITE, "base_diffuse_roughness": 1.0}),
        ),
        "coat on paint": (("coat", {}), ("interface", {}), BODY),
        "rough coat": (
            ("coat", {"coat_roughness": 0.4, "coat_ior": 1.6}),
            ("interface", {"specular_roughness": 0.3}),
            BODY,
        ),
        "two coats": (("coat", {}), ("coat", {"coat_ior": 1.8, "coat_roughness": 0.2}), ("interface", {}), BODY),
        "half a coat": (("coat", {"coat_weight": 0.5}), BODY),
        "film on clear": (("film", {}), ("interface", {})),
        "films on frosted": (
            ("film", {}),
            ("film", {"thin_film_ior": 2.0}),
            ("interface", {"specular_roughness": 0.4}),
        ),
        "film on a coat on paint": (("film", {}), ("coat", {}), ("interface", {}), BODY),
        "coat on clear": (("coat", {}), ("interface", {})),
        "half body": (("interface", {}), ("body", {"base_color": WHITE, "base_weight": 0.5})),
        "mirror": (("metal", WHITE_MIRROR),),
        "coat on a rough mirror": (("coat", {}), ("metal", WHITE_MIRROR | {"specular_roughness": 0.5})),
        "fuzz on paint": (("fuzz", {"fuzz_weight": 1.0, "fuzz_roughness": 0.3}), ("interface", {}), BODY),
        "split": (
            ("split", {}),
            ("interface", {}, "first"),
            (*BODY, "first"),
            ("interface", {"specular_ior": 1.8}, "second"),
        ),
    }

    def test_white_furnace(self):
        for name, bands in self.LOSSLESS.items():
            for surround in (None, PICTURED):
                with self.subTest(stack=name, asked=surround is not None):
                    scene = stage("ball", {"diameter": 9}, surround=surround)
                    film = render(stack(*bands), scene, side=24, samples=512, most_bounces=300)
                    self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.005)

    @settings(max_examples=12, deadline=None, derandomize=True)
    @given(data=st.data())
    def test_no_stack_gives_more_than_it_gets(self, data):
        share, rough = st.floats(0, 1), st.sampled_from([0.0, 0.2, 0.6])
        color = st.lists(share, min_size=3, max_size=3)
        bands = []
        if data.draw(st.booleans()):
            bands.append(("fuzz", {"fuzz_weight": data.draw(share), "fuzz_color": data.draw(color)}))
        for _ in range(data.draw(st.integers(0, 2))):
            about = {
                "coat_color": data.draw(color),
                "coat_roughness": data.draw(rough),
                "coat_ior": data.draw(st.floats(1.1, 2)),
            }
            bands.append(("coat", about | {"coat_weight": data.draw(share)}))
        if data.draw(st.booleans()):
            bands.append(
                (
                    "film",
                    {
                        "thin_film_thickness": data.draw(st.floats(0, 900)),
                        "thin_film_ior": data.draw(st.floats(1, 2.6)),
                    },
                )
            )
        bands.append(("interface", {"specular_roughness": data.draw(rough)}))
        grain = data.draw(st.sampled_from(["even", "grainy", "velvet"]))
        bands.append(("body", {"base_color": data.draw(color), "grain": grain, "base_weight": data.draw(share)}))
        film = render(stack(*bands), stage("ball", {"diameter": 9}), side=16, samples=64, most_bounces=100)
        self.assertLess(luminance(film.rgb().mean(axis=(0, 1))), 1.01)

    def test_a_smooth_coat_on_a_matt_base(self):
        # Closed form (Saunderson 1942): R = F + (1 - F) a (1 - r) / (1 - a r), F = 0.04 face-on and r = 0.5963 inside for 1.5.
        for albedo in (0.2, 0.5, 0.8):
            document = stack(("interface", {"specular_ior": 1.5}), ("body", {"base_color": [albedo] * 3}))
            seen = luminance(
                middle(render(document, stage("ball", {"diameter": 12}), side=48, samples=512, most_bounces=100), 0.12)
            )
            expected = 0.04 + 0.96 * albedo * (1 - 0.5963) / (1 - albedo * 0.5963)
            self.assertAlmostEqual(seen, expected, delta=0.006)

    def test_a_clear_coat_darkens_and_saturates(self):
        paint = ("body", {"base_color": [0.6, 0.3, 0.15]})
        bare, coated = (
            middle(render(stack(*above, paint), stage("ball", {"diameter": 9}), side=24, samples=256), 0.3)
            for above in ((), (("coat", {"coat_ior": 1.5}),))
        )
        coated = coated - 0.04
        self.assertLess(luminance(coated), 0.8 * luminance(bare))
        self.assertGreater(coated[0] / coated[2], 1.2 * bare[0] / bare[2])

    def test_two_coats_each_cover_their_own_share(self):
        # Over black, whose light is the coats' own reflection: half and half is the mean of both, either and none.
        def seen(*shares):
            coats = [
                ("coat", {"coat_weight": share, "coat_ior": ior}) for share, ior in zip(shares, (2.2, 1.4), strict=True)
            ]
            document = stack(*coats, ("body", {"base_color": [0.0] * 3}))
            return luminance(middle(render(document, stage("ball"), side=32, samples=1024), 0.3))

        four = [seen(*shares) for shares in ((1, 1), (1, 0), (0, 1), (0, 0))]
        self.assertAlmostEqual(seen(0.5, 0.5), float(np.mean(four)), delta=0.004)
        self.assertGreater(four[0] - four[3], 0.1)

    def test_a_tinted_coat_deepens_at_a_slant(self):
        # Its colour is that of light that goes straight down and up: face-on over a mirror, less what the top reflects.
        coat = ("coat", {"coat_ior": 1.5, "coat_color": [0.5, 0.5, 0.5]})
        film = render(stack(coat, ("metal", WHITE_MIRROR)), stage("ball", {"diameter": 12}), side=64, samples=256)
        self.assertAlmostEqual(luminance(middle(film, 0.1)), 0.04 + 0.96**2 * 0.5 / (1 - 0.04 * 0.5), delta=0.01)

    def test_a_split_is_its_sides_by_the_mask(self):
        sides = (("body", {"base_color": [0.1] * 3}, "first"), ("body", {"base_color": [0.7] * 3}, "second"))
        for mask, expected in ((0.0, 0.1), (0.25, 0.25), (1.0, 0.7)):
            film = render(
                stack(("split", {"mask": mask}), *sides), stage("ball", {"diameter": 9}), side=24, samples=256
            )
            self.assertAlmostEqual(luminance(middle(film, 0.4)), expected, delta=0.01)

    def test_bumps_beneath_a_coat_stay_visible_through_it(self):
        lamp = {"width": 10, "height": 10, "power": 20, "azimuth": 40, "elevation": 40, "distance": 60}
        scene = stage("ball", {"diameter": 9}, strength=0.0, lamps=[lamp])
        noise = [
            {"id": "n", "kind": "fractal_noise", "dials": {"size": 0.8}},
            {"id": "b", "kind": "bump", "dials": {"strength": 0.5}},
        ]
        bands = (("coat", {}), ("interface", {"specular_roughness": 0.3}), ("body", {"base_color": [0.5] * 3}))
        pictures = []
        for target in ("b2.normal", "b1.normal", None):
            wires = [wire("n", "b.height"), wire("b", target)] if target else []
            document = stack(*bands, slips=noise if target else (), wires=wires)
            pictures.append(render(document, scene, side=48, samples=64).rgb()[16:32, 20:36] @ (0.2126, 0.7152, 0.0722))
        relief = [np.std(p - pictures[2]) / pictures[2].mean() for p in pictures[:2]]
        self.assertGreater(relief[0], 0.05)
        self.assertGreater(relief[1], 0.02)

    def test_lamps_asked_for_and_met_by_chance_agree(self):
        """The same lamp, seen by reflections (balanced both ways) and unseen (asked for only): rough and matt bands look alike."""
        polished = WHITE_MIRROR | {"specular_roughness": 0.0}
        stacks = {
            "rough over matt": (
                ("coat", {"coat_roughness": 0.5}),
                ("interface", {"specular_roughness": 0.4}),
                ("body", {"base_color": [0.5] * 3}),
            ),
            "rough over a mirror": (("coat", {"coat_roughness": 0.5}), ("metal", polished)),
            "polished over rough over a mirror": (
                ("coat", {"coat_ior": 1.05}),
                ("coat", {"coat_roughness": 0.5, "coat_ior": 1.7}),
                ("metal", polished),
            ),
            "filmed frosted glass": (("film", {}), ("interface", {"specular_roughness": 0.5})),
            "tinted frosted glass under a coat": (
                ("coat", {"coat_color": [0.5, 0.6, 0.7], "coat_ior": 1.02}),
                ("interface", {"specular_roughness": 0.5, "specular_ior": 1.8, "tint": [0.8, 0.7, 0.6]}),
            ),
        }
        for name, bands in stacks.items():
            with self.subTest(stack=name):
                of = 1 if bands[-1][0] == "metal" else 2
                seen = [lit_by_a_disc(bands, reflections, of) for reflections in (True, False)]
                self.assertAlmostEqual(seen[0] / seen[1], 1.0, delta=0.04)


class Tints(SimpleTestCase):
    """What is mirrored, and the fuzz, by themselves."""

    BLACK = ("body", {"base_color": [0.0, 0.0, 0.0]})

    def test_the_reflection_is_tinted_and_nothing_else(self):
        # Face-on clear matter of 1.5 mirrors 0.04 (Fresnel): over black that is all there is, so it has the tint's colour.
        tint = [1.0, 0.25, 0.25]
        for rough in (0.0, 0.4):
            dials = {"specular_ior": 1.5, "specular_roughness": rough}
            seen = [
                middle(
                    render(stack(("interface", dials | more), self.BLACK), stage("ball"), side=48, samples=512), 0.12
                )
                for more in ({}, {"specular_color": tint})
            ]
            self.assertAlmostEqual(luminance(seen[0]), 0.04, delta=0.004)
            self.assertAlmostEqual(seen[1][1] / seen[0][1], 0.25, delta=0.03)
            self.assertAlmostEqual(seen[1][0] / seen[0][0], 1.0, delta=0.05)

    def test_clear_matter_mirrors_the_tint_and_lets_all_else_pass(self):
        # In a white furnace a clear ball sends back 1; with its outer reflection black it lacks the 0.04 of its front.
        for rough in (0.0, 0.3):
            clear = stack(
                ("interface", {"specular_ior": 1.5, "specular_roughness": rough, "specular_color": [0.0, 0.0, 0.0]})
            )
            film = render(clear, stage("ball", {"diameter": 12}), side=48, samples=512, most_bounces=100)
            self.assertAlmostEqual(luminance(middle(film, 0.1)), 0.96, delta=0.006)

    def test_fuzz_has_a_normal_of_its_own(self):
        # Turned towards the side of the only lamp, it is brighter there than fuzz that stands upright; it gives no more than it gets.
        fuzz = ("fuzz", {"fuzz_weight": 1.0, "fuzz_roughness": 0.3})
        lean = {"id": "v", "kind": "combine_vector", "dials": {"x": 1.0, "y": 0.0, "z": 0.35}}
        lamp = {"width": 20, "height": 20, "power": 30, "azimuth": 75, "elevation": 0, "distance": 60}
        scene = stage("ball", {"diameter": 9}, strength=0.0, lamps=[lamp])
        upright, leaning = (
            luminance(middle(render(one, scene, side=48, samples=256), 0.1))
            for one in (
                stack(fuzz, self.BLACK),
                stack(fuzz, self.BLACK, slips=[lean], wires=[wire("v", "b0.normal")]),
            )
        )
        self.assertGreater(abs(leaning / upright - 1), 0.1)
        white = stack(fuzz, Stacks.BODY, slips=[lean], wires=[wire("v", "b0.normal")])
        film = render(white, stage("ball", {"diameter": 9}), side=24, samples=256, most_bounces=100)
        self.assertLess(luminance(film.rgb().mean(axis=(0, 1))), 1.01)


class Dispersion(SimpleTestCase):
    """Light parts by wavelength beneath films and coats as it does without them."""

    DENSE = {"specular_ior": 1.7, "transmission_dispersion_scale": 3.0, "transmission_dispersion_abbe_number": 20.0}

    def fringes(self, document: Material) -> np.ndarray:
        """Colour across a ball before a narrow lamp, by columns: red less blue."""
        lamp = {"width": 6, "height": 40, "power": 40, "azimuth": 205, "elevation": 0, "distance": 40}
        lamp = {"id": "lamp", "kind": "rectangle", "dials": lamp}
        lamp["seen"] = {"camera": True, "reflections": True, "shadows": True}
        film = render(document, stage("ball", {"diameter": 9}, strength=0.05, lamps=[lamp]), side=40, samples=768, of=2)
        columns = film.rgb()[14:26].mean(axis=0)
        return (columns[:, 0] - columns[:, 2]) / columns.max()

    def test_a_film_that_is_not_there_changes_nothing(self):
        bare = self.fringes(stack(("interface", self.DENSE)))
        filmed = self.fringes(stack(("film", {"thin_film_weight": 0.0}), ("interface", self.DENSE)))
        plain = self.fringes(stack(("film", {"thin_film_weight": 0.0}), ("interface", {"specular_ior": 1.7})))
        self.assertGreater(np.abs(bare[8:]).max(), 0.25)
        self.assertLess(np.abs(filmed - bare).mean(), 0.2 * np.abs(plain - bare).mean())

    def test_white_furnace(self):
        for bands in (("film", {}), ("coat", {"coat_roughness": 0.2})):
            film = render(
                stack(bands, ("interface", self.DENSE)),
                stage("ball", {"diameter": 9}),
                side=24,
                samples=512,
                most_bounces=300,
            )
            self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.006)


class Order(SimpleTestCase):
    def refused(self, *bands) -> str:
        with self.assertRaises(Refused) as caught:
            stack(*bands)
        return str(caught.exception)

    def test_the_reason_is_given_where_a_band_cannot_lie(self):
        self.assertIn("matter begins at its boundary", self.refused(("body", {}), ("interface", {})))
        self.assertIn("fuzz stands on top", self.refused(("coat", {}), ("fuzz", {})))
        self.assertIn("at most 2", self.refused(("coat", {}), ("coat", {}), ("coat", {}), ("interface", {})))
        self.assertIn("metal lets nothing through", self.refused(("metal", {}), ("body", {})))
        self.assertIn("no split is above it", self.refused(("interface", {}, "first")))

    def test_films_and_coats_may_change_places(self):
        stack(("film", {}), ("coat", {}), ("interface", {}))
        stack(("coat", {}), ("film", {}), ("interface", {}))

    def test_a_side_of_a_split_has_bands_of_its_own(self):
        stack(("split", {}), ("metal", {}, "first"), ("interface", {}, "second"), ("body", {}, "second"))
        self.assertIn("at most 1", self.refused(("split", {}), ("body", {}, "first"), ("body", {}, "first")))

    def test_the_section_is_drawn_from_real_values(self):
        document = stack(("film", {}), ("coat", {"coat_color": [0.9, 0.2, 0.1]}), ("interface", {}), ("body", {}))
        bands = read_bench(reading_of(document))["section"]["bands"]
        self.assertEqual(set(bands), {"b0", "b1", "b2", "b3"})
        self.assertEqual(len(bands["b0"]["colors"]), 9)
        self.assertIn("380 nm", bands["b0"]["says"])

    def test_the_film_gauge_is_there_with_a_film_only(self):
        names = [
            [g["name"] for g in read_bench(reading_of(m))["gauges"]]
            for m in (stack(("interface", {})), stack(("film", {}), ("interface", {})))
        ]
        self.assertNotIn("film", names[0])
        self.assertIn("film", names[1])


class Rows(SimpleTestCase):
    """How stacks are laid out for the kernels."""

    NAMES = [family.name for family in FAMILIES]

    def rows(self, document):
        return build_set(document, stage()).table

    def layers(self, document):
        return self.rows(document).families[self.NAMES.index("layers")]

    def family(self, document, row=0):
        return self.NAMES[self.rows(document).sides.family[row]]

    def test_films_lie_on_the_boundary_beneath_them(self):
        for kinds, expected in (
            (("film", "interface"), (0, 0, 0, 1)),
            (("film", "coat", "film", "film", "interface"), (0, 1, 1, 3)),
            (("film", "coat", "coat", "film", "interface"), (0, 1, 1, 2)),
            (("coat", "film", "coat", "interface"), (0, 0, 1, 1)),
        ):
            rows = self.layers(stack(*((kind, {}) for kind in kinds)))
            self.assertEqual(tuple(rows.films[0]), expected, kinds)
            self.assertEqual(rows.coats[0], kinds.count("coat"))

    def test_plain_glass_takes_the_short_way(self):
        self.assertEqual(self.family(stack(("interface", {}), ("interior", {}))), "interface")
        self.assertEqual(self.family(stack(("film", {}), ("interface", {}))), "layers")

    def test_the_sides_of_a_split_are_rows_of_their_own(self):
        document = stack(
            ("split", {"mask": 0.3}),
            ("metal", {}, "first"),
            ("interface", {"specular_ior": 1.33}, "second"),
            ("interior", {}),
        )
        table = self.rows(document)
        self.assertEqual(table.sides.split.tolist(), [1, -1, -1])
        self.assertEqual(self.layers(document).metal.tolist()[1:], [1, 0])
        self.assertAlmostEqual(float(table.media.ior[2]), 1.33, places=5)
        self.assertEqual(self.family(document, 2), "interface")

    def test_only_colours_that_vary_are_fitted_at_each_hit(self):
        bands = (("coat", {"coat_color": [0.9, 0.5, 0.2]}), ("interface", {}), ("body", {}))
        self.assertEqual(len(self.rows(stack(*bands)).fits[0]), 0)
        slips = [{"id": "p", "kind": "fractal_noise"}, {"id": "c", "kind": "color_ramp"}]
        driven = stack(*bands, slips=slips, wires=[wire("p", "c.at"), wire("c", "b2.base_color")])
        self.assertEqual(len(self.rows(driven).fits[0]), 1)

    def test_a_band_that_is_off_is_not_there(self):
        document = stack(("coat", {}), ("interface", {}), ("body", {}))
        document.section.bands[0].on = False
        rows = self.layers(document)
        self.assertEqual((rows.coats[0], rows.lobes[0]), (0, 1))


class FilmGauge(SimpleTestCase):
    def gauge(self, **film) -> dict:
        read_there = read_bench(reading_of(stack(("film", film), ("interface", {}))))
        return next(g for g in read_there["gauges"] if g["name"] == "film")["computed"]

    def test_it_marks_the_thickness_and_begins_colourless(self):
        computed = self.gauge(thin_film_thickness=250, thin_film_ior=1.33)
        self.assertEqual((computed["mark"], computed["x"]["high"]), (250.0, 1000.0))
        first = computed["rows"][0]["hex"][0]
        channels = [int(first[i : i + 2], 16) for i in (1, 3, 5)]
        self.assertLess(max(channels) - min(channels), 8, "no film, no colour")

    def test_the_colours_move_to_thicker_films_at_a_slant(self):
        # 2 n d cos(angle inside) sets the order: at 30 degrees in a film of 1.6 the cosine is 0.950.
        document = stack(("film", {"thin_film_ior": 1.33}), ("interface", {"specular_ior": 1.33}))
        reading = reading_of(document)
        leaf = reading.compiled.leaves[0]
        self.assertAlmostEqual(float(film_colors(leaf, reading.values, 1.0, [400])[0].std()), 0.0, delta=2e-3)
        document = stack(("film", {"thin_film_ior": 1.6}), ("interface", {"specular_ior": 1.33}))
        reading = reading_of(document)
        leaf = reading.compiled.leaves[0]
        inside = np.sqrt(1 - (np.sin(np.radians(30)) / 1.6) ** 2)
        slant = film_colors(leaf, reading.values, np.cos(np.radians(30)), [400 / inside])[0]
        front = film_colors(leaf, reading.values, 1.0, [400])[0]
        np.testing.assert_allclose(slant / slant.sum(), front / front.sum(), atol=0.04)


class FacingGauge(SimpleTestCase):
    def gauges(self, *bands) -> dict:
        return {one["name"]: one["computed"] for one in read_bench(reading_of(stack(*bands)))["gauges"]}

    def test_with_a_film_it_tells_each_wavelength(self):
        # Quarter wave of 1.38 on 1.52 at 550 nm: 0.0126 face-on (Born & Wolf 1.6.4; package tmm agrees).
        quarter = {"thin_film_ior": 1.38, "thin_film_thickness": 550 / 4 / 1.38}
        facing = self.gauges(("film", quarter), ("interface", {"specular_ior": 1.52}))["facing"]
        self.assertEqual([curve["label"] for curve in facing["curves"]], ["450 nm", "550 nm", "650 nm"])
        self.assertAlmostEqual(facing["curves"][1]["values"][0], 0.0126, places=4)
        self.assertIn("1.3% of green", facing["caption"])

    def test_of_a_coat_it_is_the_coats(self):
        gauges = self.gauges(("coat", {"coat_ior": 1.62}), ("film", {}), ("interface", {}), ("body", {}))
        self.assertAlmostEqual(gauges["facing"]["curves"][0]["values"][0], 0.0560, places=4)
        self.assertIn("by the coat", gauges["facing"]["caption"])

    def test_paint_without_a_boundary_has_neither_it_nor_an_index(self):
        self.assertTrue({"facing", "index"}.isdisjoint(self.gauges(("fuzz", {}), ("body", {}))))


class LayerNotes(SimpleTestCase):
    """Rules of the trade that bands and what drives them break."""

    def notes(self, *bands, scene=None, **about) -> dict:
        found = read_bench(reading_of(stack(*bands, **about), scene or stage("ball", {"diameter": 6})))["notes"]
        return {note["rule"]: note for note in found}

    def test_what_runs_past_a_dial_is_told_with_its_share_and_clamped(self):
        # Height from -3 to 3 cm over a ball, times 2: past 1 on its upper half, which has half of its surface (Archimedes).
        slips = [
            {"id": "h", "kind": "height_along", "dials": {"start": -3, "end": 3}},
            {"id": "m", "kind": "arithmetic", "dials": {"how": "multiply", "second": 2}},
        ]
        wires = [wire("h", "m.first"), wire("m", "b0.specular_roughness")]
        note = self.notes(("interface", {}), slips=slips, wires=wires)["past the range"]
        self.assertRegex(
            note["says"], r"^Interface, roughness: what arrives .* past 0 to 1 on (4[6-9]|5[0-4])% of the form"
        )
        self.assertAlmostEqual(note["figure"], 2.0, delta=0.05)
        [change] = note["changes"]
        self.assertEqual((change["slip"], change["dials"]), ("clamp", {"low": 0.0, "high": 1.0}))
        clamped = [*slips, {"id": "c", "kind": "clamp", "dials": change["dials"]}]
        wires = [wires[0], wire("m", "c.value"), wire("c", "b0.specular_roughness")]
        self.assertNotIn("past the range", self.notes(("interface", {}), slips=clamped, wires=wires))

    def test_a_colour_past_white_is_told(self):
        slips = [{"id": "c", "kind": "color", "dials": {"value": [0.5, 1.5, 0.2]}}]
        note = self.notes(("body", {}), slips=slips, wires=[wire("c", "b0.base_color")])["past the range"]
        self.assertAlmostEqual(note["figure"], 1.5, places=5)
        self.assertEqual(note["changes"], [])

    def test_a_split_that_shows_one_side(self):
        sides = (("body", {}, "first"), ("body", {"base_color": WHITE}, "second"))
        self.assertIn("only the second side", self.notes(("split", {"mask": 1.0}), *sides)["one side"]["says"])
        self.assertNotIn("one side", self.notes(("split", {"mask": 0.3}), *sides))

    def test_of_two_media_it_is_told_which_is_read(self):
        first, second = ("interior", {}, "first"), ("interior", {"transmission_depth": 9.0}, "second")
        self.assertIn("of the first side", self.notes(("split", {}), first, second)["first side read"]["says"])
        self.assertNotIn("first side read", self.notes(("split", {}), first, ("body", {}, "second")))
        self.assertNotIn("first side read", self.notes(("interior", {})))

    def test_an_edge_of_the_shade_that_no_matter_has_is_named(self):
        note = self.notes(("body", {"shade_edge": 0.1}))["untrue shade"]
        self.assertIn("sharper", note["says"])
        mended = {change["dial"]: change["value"] for change in note["changes"]}
        self.assertNotIn("untrue shade", self.notes(("body", mended)))

    def test_flakes_that_nothing_holds_are_told(self):
        flakes, body = ("flakes", {}), ("body", {})
        self.assertIn("bare flakes", self.notes(flakes, body))
        self.assertNotIn("bare flakes", self.notes(("coat", {}), flakes, body))

    def test_films_that_cannot_be_seen(self):
        glass = ("interface", {"specular_ior": 1.5})
        unseen = self.notes(("film", {"thin_film_ior": 1.5}), glass)["unseen film"]
        mended = {change["dial"]: change["value"] for change in unseen["changes"]}
        self.assertNotIn("unseen film", self.notes(("film", mended), glass))
        thick = self.notes(("film", {"thin_film_ior": 1.33, "thin_film_thickness": 6000}), glass)["many orders"]
        self.assertLess(thick["figure"], 0.12)
        for nm in (380, 700):
            thin = self.notes(("film", {"thin_film_ior": 1.33, "thin_film_thickness": nm}), glass)
            self.assertTrue({"many orders", "unseen film"}.isdisjoint(thin))

    def test_the_demo_breaks_none(self):
        for name in ("shears", "tea-caddy", "driftwood", "oil-slate", "abalone-film", "scratched-beaker"):
            with self.subTest(material=name):
                rules = {note["rule"] for note in read_bench(reading_of(read(Material, demo(name))))["notes"]}
                self.assertTrue({"past the range", "one side", "unseen film", "many orders"}.isdisjoint(rules), rules)
