"""Matter that scatters light, through the tracer as it is, against what is published."""

import itertools
from math import exp, pi

import colour
import miepython
import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from nineglass.catalogue import BANDS
from nineglass.documents.model import Material, read
from nineglass.gauges import GAUGES, reading_of
from nineglass.gauges.notes import notes_of
from nineglass.matter.material import absorption_curve, scattering_curve
from nineglass.matter.phases import mean_cosine, phase_table
from nineglass.matter.scatterers import scatterers
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.doubling import slab
from nineglass.optics.inversion import albedo_of, inversion_table
from nineglass.optics.phase import henyey_greenstein, sample_henyey_greenstein, sample_tabled_phase, tabled_phase
from nineglass.spectra.upsampling import color_spectrum
from scipy.integrate import quad
from scipy.stats import kstest

from tests.lengths import LONG
from tests.scenes import ALIKE, alike, luminance, material, middle, render, stage, thing, wears, wire

F = np.float32
DEPTH_CM = 1.0
SIDE_LIT = {"light": {"kind": "gradient", "dials": {"above": [1, 1, 1], "below": [0.1, 0.1, 0.1], "strength": 1}}}


def scattering(optical_depth, albedo, g=0.0) -> dict:
    """Dials of a grey interior: `DEPTH_CM` of it has an optical depth, of an albedo."""
    return {
        "transmission_color": [exp(albedo - 1)] * 3,
        "transmission_depth": DEPTH_CM / optical_depth,
        "scatter_amount": albedo,
        "transmission_scatter_anisotropy": g,
    }


def seen_of_slab(dials, *, above, below, index=1.0, thickness=DEPTH_CM, elevation=89, samples=2048, side=16, of=1):
    """The colour of a wide flat slab from above, in a surround of white above and below the horizon; by reciprocity that of white above is what
    the slab reflects of light that comes along the camera's way, that of white below what it passes."""
    light = {"above": [above] * 3, "below": [below] * 3, "strength": 1, "softness": 0.01}
    slab = thing("slab", "sheet", {"width": 60, "height": 60, "thickness": thickness}, tilt=90)
    on = stage(
        objects=[slab],
        surround={"light": {"kind": "gradient", "dials": light}},
        camera={"elevation": elevation, "focal_length": 400, "distance": 300},
    )
    return (
        render(material(interface={"specular_ior": index}, interior=dials), on, side, samples, of)
        .rgb()
        .mean(axis=(0, 1))
    )


class Phase(SimpleTestCase):
    """Source: Henyey & Greenstein 1941."""

    @given(st.floats(-0.95, 0.95))
    @settings(max_examples=30, deadline=None)
    def test_its_integral_is_one_and_its_mean_cosine_is_g(self, g):
        def over(weight):
            return quad(lambda c: 2 * pi * float(henyey_greenstein(F(c), F(g))) * weight(c), -1, 1, limit=200)[0]

        self.assertAlmostEqual(over(lambda c: 1), 1, places=3)
        self.assertAlmostEqual(over(lambda c: c), g, places=3)

    def test_directions_are_drawn_by_it(self):
        u = (np.arange(4000) + 0.5) / 4000
        for g in (-0.6, 0.0, 0.0005, 0.3, 0.9):
            drawn = [float(sample_henyey_greenstein(F(g), F(one))) for one in u]

            def below(c, g=g):
                if abs(g) < 1e-3:
                    return (1 + c) / 2
                return (1 - g * g) / (2 * g) * (1 / np.sqrt(1 + g * g - 2 * g * c) - 1 / (1 + g))

            self.assertGreater(kstest(drawn, below).pvalue, 0.5, g)
            self.assertTrue(max(np.abs(drawn)) <= 1)


class Tables(SimpleTestCase):
    """Phase functions that are tabled: two lobes, molecules, droplets."""

    @staticmethod
    def table(phase, **dials) -> np.ndarray:
        return phase_table(BANDS.kinds["interior"].defaults() | {"phase": phase} | dials).astype(np.float32)

    def test_what_is_drawn_is_what_is_told(self):
        for table in (self.table("molecules"), self.table("droplets"), self.table("two lobes")):
            u = (np.arange(3000) + 0.5) / 3000
            drawn = np.array([float(sample_tabled_phase(table, F(one))) for one in u])
            steps = np.linspace(0, 1, table.size)
            self.assertGreater(kstest(drawn, lambda c, t=table, s=steps: np.interp(c, t, s)).pvalue, 0.5)
            middles, widths = (table[1:] + table[:-1]) / 2, np.diff(table)
            told = np.array([float(tabled_phase(table, F(c))) for c in middles])
            self.assertAlmostEqual(float((told * widths).sum() * 2 * pi), 1, places=3)

    def test_molecules(self):
        """Source: Rayleigh 1871: 3 / (16 pi) (1 + cos^2)."""
        table = self.table("molecules")
        for cosine in (-0.95, -0.5, 0.0, 0.3, 0.9):
            told = float(tabled_phase(table, F(cosine)))
            self.assertAlmostEqual(told / (3 / (16 * pi) * (1 + cosine**2)), 1, delta=0.01)

    def test_two_lobes(self):
        table = self.table("two lobes", transmission_scatter_anisotropy=0.8, second_anisotropy=-0.3, second_share=0.25)
        for cosine in (-0.9, 0.0, 0.6):
            both = 0.75 * henyey_greenstein(F(cosine), F(0.8)) + 0.25 * henyey_greenstein(F(cosine), F(-0.3))
            self.assertAlmostEqual(float(tabled_phase(table, F(cosine)) / both), 1, delta=0.01)

    def test_droplets(self):
        """Source: Bohren & Huffman 1983, by miepython, whose value for a droplet of 5 um radius at 589 nm is that of the handbook tables."""
        _, scattered, _, g = miepython.efficiencies_mx(1.333, 2 * pi * 5 / 0.589)
        np.testing.assert_allclose((scattered, g), (2.318994, 0.839995), rtol=1e-4)
        for diameter in (2.0, 8.0, 16.0):
            sizes = diameter * np.exp(np.linspace(-0.3, 0.3, 31))
            weights = np.exp(-0.5 * (np.log(sizes / diameter) / 0.12) ** 2)
            found = [miepython.efficiencies_mx(1.333, pi * one / 0.55) for one in sizes]
            weights = weights * [one[1] * size**2 for one, size in zip(found, sizes, strict=True)]
            expected = float(np.average([one[3] for one in found], weights=weights))
            dials = BANDS.kinds["interior"].defaults() | {"phase": "droplets", "droplet_diameter": diameter}
            self.assertAlmostEqual(mean_cosine(dials), expected, delta=0.006)
            table = self.table("droplets", droplet_diameter=diameter)
            for cosine in (-0.9, 0.0, 0.5):
                rows = [
                    miepython.i_unpolarized(1.333, pi * one / 0.55, np.array([cosine]), norm="one")[0]
                    for one in sizes[::3]
                ]
                told = np.mean([float(tabled_phase(table, F(cosine + off))) for off in (-0.04, -0.02, 0, 0.02, 0.04)])
                self.assertAlmostEqual(told / float(np.average(rows, weights=weights[::3])), 1, delta=0.35)

    def test_white_furnace(self):
        for phase in ("two lobes", "molecules", "droplets"):
            dials = {"transmission_depth": 1.0, "scatter_amount": 0.5, "phase": phase}
            film = render(Fog.fog(**dials), stage("ball", {"diameter": 8}), 16, 512)
            with self.subTest(phase):
                self.assertAlmostEqual(float(middle(film, 0.8).mean()), 1, delta=0.007)


class Doubling(SimpleTestCase):
    """The exact solution that gauges and colours are worked out by, against the published values that the tracer has to meet as well."""

    def test_slabs(self):
        """Source: van de Hulst 1980, quoted by Wang, Jacques & Zheng 1995; our own Monte Carlo (two million walks) for those that absorb nothing."""
        forward = slab(0.9, 2.0, 0.75)
        np.testing.assert_allclose((forward.reflected, forward.passed), (0.09739, 0.66096), rtol=1e-3)
        np.testing.assert_allclose([slab(1.0, depth).reflected for depth in (1, 10)], (0.3414, 0.8529), rtol=1e-3)

    def test_deep(self):
        """Source: Chandrasekhar 1960 (H function, integrated): along the normal and even; Giovanelli 1955: index 1.5."""
        for albedo, normal, even in (
            *((0.5, 0.11523, 0.14654), (0.9, 0.41495, 0.47802)),
            *((0.99, 0.75272, 0.79456), (0.999, 0.91285, 0.92971)),
        ):
            found = slab(albedo, 3000.0)
            np.testing.assert_allclose((found.reflected, found.reflected_of_even), (normal, even), rtol=2e-4)
        self.assertAlmostEqual(slab(0.9, 500.0, 0.0, 1.5).reflected, 0.2600, places=3)

    @given(st.floats(0.01, 100), st.floats(-0.5, 0.9), st.floats(1, 2))
    @settings(max_examples=20, deadline=None)
    def test_nothing_is_lost(self, depth, g, index):
        found = slab(1.0, depth, g, index)
        self.assertAlmostEqual(found.reflected + found.passed, 1, delta=0.002)
        self.assertAlmostEqual(found.reflected_of_even + found.passed_of_even, 1, delta=0.002)

    def test_colors_come_out_as_asked(self):
        for index, g in ((1.0, 0.0), (1.45, 0.0), (1.6, 0.7)):
            mirrored = slab(0.0, 50.0, g, index).reflected_of_even
            for color in (0.05, 0.4, 0.9):
                albedo = float(albedo_of(np.array(color), inversion_table(index, g)))
                found = (slab(albedo, 2000.0, g, index).reflected_of_even - mirrored) / (1 - mirrored)
                self.assertAlmostEqual(found, color, delta=0.003)


class Slabs(SimpleTestCase):
    def assert_near(self, seen, published, within=0.005):
        found = luminance(seen)
        self.assertAlmostEqual(found / published, 1, delta=within, msg=f"{found} for {published}")

    def test_forward_slab(self):
        """Source: van de Hulst 1980, quoted by Wang, Jacques & Zheng 1995, MCML, table 1: albedo 0.9, g 0.75, optical depth 2."""
        dials = scattering(2.0, 0.9, 0.75)
        self.assert_near(seen_of_slab(dials, above=1, below=0), 0.09739, 0.015)
        self.assert_near(seen_of_slab(dials, above=0, below=1), 0.66096)

    def test_deep_matter_without_a_boundary(self):
        """Source: Chandrasekhar 1960, Radiative Transfer, the H function of even scattering, integrated: light along the normal, and at 60 degrees."""
        for albedo, normal, slanted in ((0.5, 0.11523, 0.16014), (0.9, 0.41495, 0.50794), (0.99, 0.75272, 0.81514)):
            dials = scattering(30.0 if albedo < 0.99 else 80.0, albedo)
            fewer_of = 2 if albedo < 0.9 else 6
            with self.subTest(albedo=albedo):
                self.assert_near(seen_of_slab(dials, above=1, below=0, of=fewer_of), normal, 0.015)
                self.assert_near(seen_of_slab(dials, above=1, below=0, elevation=30, of=fewer_of), slanted, 0.015)

    def test_deep_matter_behind_a_boundary(self):
        """Source: Giovanelli 1955, quoted by Wang, Jacques & Zheng 1995: index 1.5, albedo 0.9: 0.2600 with the mirrored 0.04."""
        self.assert_near(seen_of_slab(scattering(40.0, 0.9), above=1, below=0, index=1.5), 0.2600, 0.015)

    def test_dense_matter_is_as_bright_however_large(self):
        """A mean free path of 25 um behind a boundary, against the exact solution of what is infinitely deep (`Doubling`)."""
        dials = scattering(400.0, 0.99)
        deep = slab(0.99, 3000.0, 0.0, 1.5).reflected
        for diameter in (10.0, 2000.0):
            on = stage("ball", {"diameter": diameter}, camera={"distance": 3 * diameter, "focal_length": 400})
            film = render(material(interface={"specular_ior": 1.5}, interior=dials), on, 12, 1024)
            with self.subTest(diameter=diameter):
                self.assert_near(film.rgb().mean(axis=(0, 1)), deep, 0.015)

    def test_thin_and_thick_slabs_that_absorb_nothing(self):
        """Source: our own Monte Carlo apart from the tracer, two million walks: optical depth 1 reflects 0.3414, 10 reflects 0.8529."""
        for depth, share in ((1.0, 0.3414), (10.0, 0.8529)):
            self.assert_near(seen_of_slab(scattering(depth, 1.0), above=1, below=0), share, 0.015)


class Laws(SimpleTestCase):
    def test_white_furnace(self):
        """What absorbs nothing is invisible in even light, with a boundary and without one, whatever the amount."""
        for index, amount, g in ((1.5, 0.3, 0.0), (1.5, 30.0, 0.6), (1.0, 3.0, -0.5)):
            dials = {"transmission_depth": 1.0, "scatter_amount": amount, "transmission_scatter_anisotropy": g}
            film = render(
                material(interface={"specular_ior": index}, interior=dials), stage("ball", {"diameter": 6}), 32, 256
            )
            with self.subTest(index=index, amount=amount):
                self.assertAlmostEqual(float(middle(film, 0.6).mean()), 1, delta=0.005)

    def test_size_and_depth_together_change_nothing(self):
        """Similarity: the same number of mean free paths across the form."""
        pictures = []
        for size in (1.0, 50.0):
            dials = scattering(4.0, 0.95, 0.3) | {"transmission_depth": 0.06 * size}
            on = stage("ball", {"diameter": size}, lamps=(), surround=SIDE_LIT, camera={"distance": 4 * size})
            pictures.append(render(material(interface={"specular_ior": 1.4}, interior=dials), on, 16, 256).rgb())
        np.testing.assert_allclose(pictures[1].mean(axis=(0, 1)), pictures[0].mean(axis=(0, 1)), rtol=0.01)

    def test_a_mean_cosine_may_be_driven(self):
        """Alike everywhere, it is the one that is set."""
        slips = alike(0.7)
        wires = [ALIKE, wire("one", "interior.transmission_scatter_anisotropy")]
        about = {"transmission_depth": 1.0, "scatter_amount": 1.0, "transmission_color": [0.9, 0.7, 0.5]}
        lamp = {"kind": "disc", "dials": {"diameter": 6, "distance": 30, "azimuth": 40, "elevation": 0, "power": 9}}
        on = stage("ball", {"diameter": 4}, lamps=[lamp], strength=0.05, camera={"distance": 20})
        laid, plain, even = (
            render(one, on, 24, 256).rgb().mean(axis=(0, 1))
            for one in (
                material(interior=about, slips=slips, wires=wires),
                material(interior=about | {"transmission_scatter_anisotropy": 0.7}),
                material(interior=about),
            )
        )
        np.testing.assert_allclose(laid, plain, rtol=0.01)
        self.assertGreater(np.abs(even / plain - 1).max(), 0.03)

    def test_none_is_clear(self):
        clear, none = (
            render(material(interior={"transmission_color": [0.5, 0.7, 0.9], **more}), stage("ball"), 16, 16).rgb()
            for more in ({}, {"scatter_amount": 0, "transmission_scatter": [0.2, 0.4, 0.9]})
        )
        np.testing.assert_array_equal(clear, none)

    def test_haze_is_blue_and_what_shines_through_it_is_red(self):
        """A body that absorbs nothing and scatters the blue: white light from behind comes through without it."""
        dials = scattering(1.0, 1.0) | {"transmission_scatter": [0.02, 0.2, 1.0]}
        red, _, blue = seen_of_slab(dials, above=1, below=0)
        self.assertGreater(blue, 3 * red)
        red, _, blue = seen_of_slab(dials, above=0, below=1)
        self.assertGreater(red, 1.2 * blue)

    def test_a_small_lamp_lights_a_polished_body(self):
        """However small a lamp is, its light gets in and out within few samples, and as much of it as of a large one of the same power."""
        self.assert_lit_by_any_lamp(material(**MILKY))

    def test_a_small_lamp_lights_a_coated_body(self):
        self.assert_lit_by_any_lamp(coated())

    def assert_lit_by_any_lamp(self, body):
        found = []
        for size in (4.0, 0.2):
            lamp = {
                "kind": "disc",
                "dials": {"diameter": size, "distance": 60, "azimuth": 140, "elevation": 10, "power": 10},
            }
            film = render(body, stage("ball", {"diameter": 4}, lamps=[lamp], strength=0.005), 24, 512, of=1)
            found.append(float(luminance(film.rgb()[9:15, 9:15].mean(axis=(0, 1)))))
            self.assertLess(film.noise(), 0.2)
        self.assertGreater(found[0], 0.05)
        self.assertAlmostEqual(found[1] / found[0], 1, delta=0.05)

    def test_a_coat_keeps_the_light_of_what_scatters(self):
        film = render(coated(), stage("ball", {"diameter": 4}), 16, 1024)
        self.assertAlmostEqual(float(middle(film, 0.6).mean()), 1, delta=0.007)


MILKY = {
    "interface": {"specular_ior": 1.5},
    "interior": scattering(4.0, 1.0) | {"transmission_depth": 0.3},
}


def coated() -> Material:
    """A scattering body under a clear coat."""
    bands = [{"id": "coat", "kind": "coat", "dials": {"coat_roughness": 0.0}}]
    bands += [{"id": kind, "kind": kind, "dials": dials} for kind, dials in MILKY.items()]
    return read(Material, {"section": {"bands": bands}})


class Subsurface(SimpleTestCase):
    """The colour asked for is the colour seen, whatever the mean free path."""

    SIZE_CM, INDEX = 4.0, 1.45
    SWATCHES = (
        *((0.9, 0.9, 0.9), (0.5, 0.5, 0.5), (0.15, 0.15, 0.15), (0.85, 0.74, 0.58), (0.8, 0.25, 0.2)),
        *((0.25, 0.6, 0.3), (0.2, 0.3, 0.7), (0.9, 0.8, 0.2), (0.6, 0.35, 0.25), (0.3, 0.65, 0.65)),
    )

    def body(self, **dials) -> Material:
        bands = [
            {"id": "interface", "kind": "interface", "dials": {"specular_ior": self.INDEX}},
            {"id": "subsurface", "kind": "subsurface", "dials": dials},
        ]
        return read(Material, {"section": {"bands": bands}})

    def seen(self, body: Material, samples=256, of=4) -> np.ndarray:
        """Mean colour of a whole ball in even light: of its disc, which is seen evenly from all sides by reciprocity."""
        on = stage("ball", {"diameter": self.SIZE_CM}, camera={"distance": 260, "focal_length": 2000})
        film = render(body, on, 40, samples, of)
        covered = film.alpha()[..., None]
        return (film.rgb() - (1 - covered)).sum(axis=(0, 1)) / covered.sum()

    def test_colors(self):
        mirrored = slab(0.0, 50.0, 0.0, self.INDEX).reflected_of_even
        for color, radius in zip(self.SWATCHES[:: 1 if LONG else 3], itertools.cycle((0.002, 0.008, 0.03))):
            found = (self.seen(self.body(subsurface_color=list(color), subsurface_radius=radius), of=16) - mirrored) / (
                1 - mirrored
            )
            apart = colour.delta_E(
                *(colour.XYZ_to_Lab(colour.RGB_to_XYZ(one, "sRGB")) for one in (np.array(color), found))
            )
            with self.subTest(color=color, radius=radius):
                self.assertLess(float(apart), 2, found)

    def test_dials_driven_alike_everywhere_are_those_set(self):
        """The mean cosine, when it is driven, by similarity (`optics.phase.similar_albedo`)."""
        for dial, value, delta in (
            ("subsurface_radius_scale", [0.4] * 3, 0.01),
            ("subsurface_scatter_anisotropy", 0.4, 0.02),
        ):
            wires = [ALIKE, wire("one", f"subsurface.{dial}")]
            about = {"subsurface_color": [0.8, 0.5, 0.3], "subsurface_radius": 0.05}
            document = self.body(**about).model_dump(mode="json") | {"slips": alike(0.4), "wires": wires}
            laid, plain = (
                self.seen(one, of=8) for one in (read(Material, document), self.body(**about, **{dial: value}))
            )
            with self.subTest(dial=dial):
                np.testing.assert_allclose(laid, plain, rtol=delta)

    def test_what_does_not_wander_is_thrown_back_in_the_same_colour(self):
        """An amount of 0 is body colour itself; half of it half of each."""
        color = [0.8, 0.4, 0.2]
        interface = {"id": "interface", "kind": "interface", "dials": {"specular_ior": self.INDEX}}
        body = {"id": "body", "kind": "body", "dials": {"base_color": color}}
        cheap = self.seen(read(Material, {"section": {"bands": [interface, body]}}), of=1)
        none, half, all_of_it = (
            self.seen(self.body(subsurface_color=color, subsurface_radius=0.02, subsurface_weight=weight), of=1)
            for weight in (0.0, 0.5, 1.0)
        )
        np.testing.assert_allclose(none, cheap, rtol=0.01)
        np.testing.assert_allclose(half, (none + all_of_it) / 2, rtol=0.01)

    def test_an_amount_may_be_driven(self):
        """One half of a ball is the cheap way."""
        slips = [{"id": "across", "kind": "height_along", "dials": {"axis": "x", "start": -0.01, "end": 0.01}}]
        about = {"subsurface_color": [0.9, 0.3, 0.2], "subsurface_radius": 1.0}
        document = self.body(**about).model_dump(mode="json")
        document |= {"slips": slips, "wires": [wire("across", "subsurface.subsurface_weight")]}
        lamp = {"kind": "disc", "dials": {"diameter": 6, "distance": 30, "azimuth": 180, "elevation": 0, "power": 9}}
        on = stage("ball", {"diameter": 4}, lamps=[lamp], strength=0, camera={"distance": 20})
        seen = luminance(render(read(Material, document), on, 24, 64).rgb())[10:14]
        self.assertGreater(seen[:, 14:17].mean(), 3 * seen[:, 7:10].mean(), "what wanders lets the light through")


class Ladder(SimpleTestCase):
    def rungs(self, **interior) -> tuple[np.ndarray, np.ndarray]:
        found = GAUGES.all["ladder"].compute(reading_of(material(interior=interior), stage("ball", {"diameter": 10})))
        return np.array(found["lengths_cm"]), np.array(found["colors"])

    def test_what_scatters_is_passed_on_by_slabs_as_thick(self):
        """As the exact slab; twice as thick is not the square of it, as it is of what absorbs alone."""
        dials = {"transmission_depth": 1.0, "transmission_color": [0.9] * 3, "scatter_amount": 2.0}
        lengths, colors = self.rungs(**dials)
        for length, color in zip(lengths[::6], colors[::6], strict=True):
            extinction = 2.0 - np.log(0.9)
            exact = slab(2.0 / extinction, extinction * length).passed
            self.assertAlmostEqual(float(color[1]), exact, delta=0.01)

    def test_without_it_the_law_of_beer_holds(self):
        lengths, colors = self.rungs(transmission_depth=1.0, transmission_color=[0.5] * 3)
        np.testing.assert_allclose(colors[:, 1], 0.5**lengths, atol=0.002)


class Notes(SimpleTestCase):
    def test_a_channel_that_cannot_scatter(self):
        def notes(color):
            interior = {"scatter_amount": 5.0, "transmission_depth": 1.0, "transmission_scatter": color}
            found = notes_of(reading_of(material(interior=interior), stage("ball", {"diameter": 10})))
            return [one for one in found if one.rule == "channel that cannot scatter"]

        [note] = notes([0.8, 0.3, 0.0])
        self.assertIn("blue", note.says)
        self.assertEqual(notes(note.changes[0].value), [])


class Untrue(SimpleTestCase):
    """What is named untrue: one scattering alone, and a strength from behind."""

    @staticmethod
    def seen(azimuth: float, **dials) -> float:
        bands = [{"id": "interface", "kind": "interface"}, {"id": "wax", "kind": "subsurface", "dials": dials}]
        lamp = {
            "kind": "disc",
            "dials": {"diameter": 10, "distance": 60, "azimuth": azimuth, "elevation": 0, "power": 10},
        }
        on = stage("ball", {"diameter": 4}, lamps=[lamp], strength=0.001)
        film = render(read(Material, {"section": {"bands": bands}}), on, 24, 256)
        return float(luminance(film.rgb()[8:16, 8:16].mean(axis=(0, 1))))

    def test_the_first_scattering_alone_is_darker(self):
        every, once = (self.seen(40, subsurface_radius=0.3, scatterings=one) for one in ("all", "the first only"))
        self.assertTrue(0.02 < once / every < 0.7, (once, every))

    def test_a_strength_from_behind(self):
        behind = [self.seen(180, subsurface_radius=0.5, from_behind=one) for one in (1.0, 3.0)]
        before = [self.seen(20, subsurface_radius=0.5, from_behind=one) for one in (1.0, 3.0)]
        self.assertTrue(1.8 < behind[1] / behind[0] < 3.01, behind)
        self.assertTrue(1 < before[1] / before[0] < 0.75 * behind[1] / behind[0], before)


class Dials(SimpleTestCase):
    def interior(self, **dials) -> dict:
        return BANDS.kinds["interior"].defaults() | dials

    def test_amount_is_scatterings_over_the_depth(self):
        found = scattering_curve(self.interior(scatter_amount=5, transmission_depth=2), color_spectrum)
        np.testing.assert_allclose(found, 5 / 0.02, rtol=0.01)

    def test_measured_matter(self):
        """Source: Jensen et al. 2001, figure 5 (from memory): whole milk at red, green and blue."""
        about = {"scattering": "substance", "scatterer": "whole-milk", "scatter_amount": 1}
        dials = self.interior(**about, transmission_scatter_anisotropy=0.5)
        at = np.searchsorted(WAVELENGTHS_NM, (610, 550, 465))
        np.testing.assert_allclose(scattering_curve(dials, color_spectrum)[at] * 0.5, (2550, 3210, 3770), rtol=1e-3)
        np.testing.assert_allclose(absorption_curve(dials, color_spectrum)[at], (1.1, 2.4, 14), rtol=1e-3)

    def test_the_library(self):
        self.assertGreaterEqual(len(scatterers()), 12)
        for one in scatterers().values():
            self.assertGreater(one.reduced.min(), 0, one.name)
            self.assertGreaterEqual(one.sigma_a.min(), 0, one.name)
            self.assertRegex(one.source, r"(19|20)\d\d")
            self.assertEqual(len(one.wavelengths_nm), len(one.reduced_per_mm))


class Fog(SimpleTestCase):
    """Media without a boundary."""

    @staticmethod
    def fog(**interior) -> Material:
        return read(Material, {"section": {"bands": [{"id": "i", "kind": "interior", "dials": interior}]}})

    def test_white_furnace(self):
        """Fog that absorbs nothing is invisible in even light, from without and from within, and around another form."""
        for distance, objects in (
            (30, [thing("cloud", "ball", {"diameter": 8})]),
            (2, [thing("cloud", "ball", {"diameter": 8})]),
            (
                30,
                [
                    thing("cloud", "ball", {"diameter": 8}),
                    thing("inner", "ball", {"diameter": 2}, wears=wears(material())),
                ],
            ),
        ):
            dials = {"transmission_depth": 1.0, "scatter_amount": 0.5, "transmission_scatter_anisotropy": 0.6}
            film = render(self.fog(**dials), stage(objects=objects, camera={"distance": distance}), 16, 512)
            with self.subTest(distance=distance):
                self.assertAlmostEqual(float(middle(film, 0.8).mean()), 1, delta=0.007)

    def test_clear_fog_takes_what_beer_says(self):
        dials = {"transmission_depth": 8.0, "transmission_color": [0.5, 0.5, 0.5]}
        film = render(self.fog(**dials), stage("ball", {"diameter": 8}), 15, 1024)
        self.assertAlmostEqual(float(luminance(film.rgb()[7, 7])), 0.5, delta=0.01)

    @staticmethod
    def luminance_of_a_lamp() -> float:
        """What a picture shows of a lamp of radiance 1."""
        disc = {
            "kind": "disc",
            "dials": {"diameter": 20, "distance": 50, "azimuth": 180, "elevation": 0, "power": pi * pi * 0.01},
        }
        on = stage("ball", {"diameter": 0.1}, lamps=[disc], camera={"distance": 50, "focal_length": 300, "aside": 2})
        return float(luminance(render(material(), on, 4, 256).rgb().mean(axis=(0, 1))))

    def test_airlight(self):
        """Source: Sun, Ramamoorthi, Narasimhan & Nayar 2005: light of a point lamp that fog scatters once into a ray, as an integral along it."""
        sigma_s, power, aside = 0.01, 10.0, 0.5  # 1/m, m
        dials = {"transmission_depth": 100.0, "scatter_amount": sigma_s, "transmission_color": [0.05] * 3}
        sigma_t = sigma_s - np.log(0.05)
        lamp = {"kind": "point", "dials": {"power": power, "distance": 50, "azimuth": 90, "elevation": 0}}
        on = stage(
            objects=[thing("fog", "ball", {"diameter": 2000})],
            lamps=[lamp],
            surround={"light": {"kind": "plain", "dials": {"color": [0, 0, 0]}}},
            camera={"distance": 100, "focal_length": 2000},
        )
        film = render(self.fog(**dials), on, 4, 4096)

        def along(s):
            from_lamp = np.hypot(s - 1.0, aside)
            return sigma_s / (4 * pi) * power / (4 * pi * from_lamp**2) * np.exp(-sigma_t * (s + from_lamp))

        once = quad(along, 0, 60, points=[1.0])[0]
        found = float(luminance(film.rgb().mean(axis=(0, 1)))) / self.luminance_of_a_lamp()
        self.assertAlmostEqual(found / once, 1, delta=0.02)

    def test_a_cone_of_light_scatters_as_much_as_light_to_all_sides(self):
        """From the middle of a ball of thin fog all light goes as far through it, whichever way: a spot and a point of one power give the same,
        seen from so far that all of it is about as near; near the lamp as well, where its light lies in what of it a flight crosses within
        millimetres.
        """
        dials = {"transmission_depth": 100.0, "scatter_amount": 0.05}
        unseen = {"camera": False, "reflections": False, "shadows": True}
        spot = {"diameter": 0.2, "cone": 16, "edge": 0.3}
        seen = []
        for kind, about in (("point", {}), ("spot", spot)):
            place = {"power": 10.0, "distance": 1, "azimuth": 60, "elevation": 20}
            lamp = {"kind": kind, "dials": place | about, "seen": unseen}
            on = stage(
                objects=[thing("fog", "ball", {"diameter": 100})],
                lamps=[lamp],
                surround={"light": {"kind": "plain", "dials": {"color": [0, 0, 0]}}},
                camera={"distance": 4000, "focal_length": 800},
            )
            seen.append(float(luminance(render(self.fog(**dials), on, 48, 512, of=1).rgb().mean(axis=(0, 1)))))
        self.assertAlmostEqual(seen[1] / seen[0], 1, delta=0.02)

    def test_it_guides_the_filter_as_one_even_thing(self):
        dials = {"transmission_depth": 1.0, "transmission_color": [0.9, 0.5, 0.2], "scatter_amount": 1.0}
        film = render(self.fog(**dials), stage("ball", {"diameter": 20}, camera={"distance": 5}), 8, 8)
        color, normal = film.guidance()
        self.assertGreater(float(color.min()), 0.3)
        self.assertLess(float(np.abs(normal).max()), 0.5)

    def test_what_lies_in_it_takes_its_place(self):
        black = read(
            Material, {"section": {"bands": [{"id": "b", "kind": "body", "dials": {"base_color": [0, 0, 0]}}]}}
        )
        objects = [
            thing("fog", "ball", {"diameter": 20}),
            thing("inner", "ball", {"diameter": 6}, at=(0, 7, 0), wears=wears(black)),
        ]
        film = render(
            self.fog(transmission_depth=100, scatter_amount=0.1), stage(objects=objects, camera={"distance": 8}), 16, 16
        )
        self.assertLess(float(middle(film).mean()), 0.05)

    def test_lamps_shine_through_it_onto_the_floor(self):
        lamp = {"kind": "disc", "dials": {"diameter": 2, "distance": 60, "elevation": 89, "power": 10}}
        on = stage(
            "ball", {"diameter": 10}, lamps=[lamp], strength=0.005, floor={"color": [0.5] * 3}, camera={"elevation": 40}
        )
        clear, foggy = (
            float(luminance(render(self.fog(**dials), on, 24, 64).rgb()[14:18, 8:16].mean(axis=(0, 1))))
            for dials in ({}, {"transmission_depth": 10, "scatter_amount": 1.0})
        )
        self.assertGreater(clear, 0.05)
        self.assertTrue(0.3 < foggy / clear < 0.95, foggy / clear)
