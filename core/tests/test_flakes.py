"""Flakes: energy, coverage by count, glints from near as bright as the sheen from far."""

import numpy as np
from django.test import SimpleTestCase
from nineglass.documents.model import Material, read
from nineglass.gauges import reading_of
from nineglass.gauges.bench import read_bench
from nineglass.gauges.flakes import flake_spectrum
from nineglass.kernels import F
from nineglass.matter.substances import substances
from nineglass.network.compile import compile_network
from nineglass.optics.microfacet import ggx_density
from nineglass.spectra.observer import WAVELENGTHS_NM
from nineglass.trace.families.flakes import (
    PRESENT,
    alpha_of_lean,
    alpha_of_sheen,
    flake_at,
    lean_of,
    own_number,
    share_of_sheen,
)

from tests.scenes import demo, luminance, render, stage, thing
from tests.test_layers import PICTURED, WHITE, WHITE_MIRROR, lit_by_a_disc, stack

NEAR, FAR = 40.0, 0.05
"""Sizes of flakes (mm) that a small picture shows one by one, and all together."""

PERFECT = {"flake_matter": "colours", "flake_colors": [[0.0, WHITE], [1.0, WHITE]], "flakes_coverage": 0.6}
PLATE = {"flake_matter": "clear plate", "flakes_coverage": 0.8, "flake_film_spread": 0.5}
BODY = ("body", {"base_color": WHITE})


class Energy(SimpleTestCase):
    def test_white_furnace(self):
        stacks = {
            "bare": (("flakes", PERFECT), BODY),
            "in a coat": (("coat", {}), ("flakes", PERFECT), ("interface", {}), BODY),
            "between coats": (("coat", {}), ("flakes", PERFECT), ("coat", {"coat_ior": 1.7}), BODY),
            "steep and dull": (("flakes", PERFECT | {"flake_lean": 30, "flake_roughness": 0.6}), BODY),
            "clear plates": (("coat", {}), ("flakes", PLATE), ("interface", {}), BODY),
            "clear plates on a mirror": (("coat", {}), ("flakes", PLATE), ("metal", WHITE_MIRROR)),
        }
        for name, bands in stacks.items():
            for size in (NEAR, FAR):
                with self.subTest(stack=name, size=size):
                    sized = [
                        (kind, about | ({"flake_size": size} if kind == "flakes" else {})) for kind, about in bands
                    ]
                    scene = stage("ball", {"diameter": 9}, surround=PICTURED)
                    film = render(stack(*sized), scene, side=24, samples=512, most_bounces=300)
                    self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.01)

    def test_from_far_nothing_is_lost_however_steep_and_dull(self):
        scene = stage("ball", {"diameter": 9}, surround=PICTURED)
        for lean, roughness in ((30, 1.0), (45, 0.3), (45, 1.0)):
            about = {"flakes_coverage": 1.0, "flake_size": FAR, "flake_lean": lean, "flake_roughness": roughness}
            film = render(stack(("flakes", PERFECT | about), BODY), scene, side=24, samples=512, most_bounces=300)
            with self.subTest(lean=lean, roughness=roughness):
                self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.005)

    def test_light_is_not_caught_within_clear_matter(self):
        bands = (("flakes", PERFECT | {"flake_size": 0.5}), ("interface", {}))
        scene = stage("ball", {"diameter": 9}, surround=PICTURED)
        film = render(stack(*bands), scene, side=24, samples=512, most_bounces=300)
        self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.01)

    def test_lamps_asked_for_and_met_by_chance_agree(self):
        flakes = ("flakes", {"flake_roughness": 0.5, "flake_size": FAR, "flakes_coverage": 0.5})
        bands = (("coat", {"coat_roughness": 0.4}), flakes, ("interface", {"specular_roughness": 0.5}), ("body", {}))
        seen = [lit_by_a_disc(bands, reflections) for reflections in (True, False)]
        self.assertAlmostEqual(seen[0] / seen[1], 1.0, delta=0.04)


class NearAndFar(SimpleTestCase):
    LAMP = {"diameter": 60, "power": 10, "azimuth": 30, "elevation": 50, "distance": 60}

    def mean(self, size: float, **about) -> float:
        bands = (("flakes", {"flakes_coverage": 1.0, "flake_size": size} | about),)
        scene = stage("ball", {"diameter": 9}, strength=0.4, lamps=[{"id": "lamp", "kind": "disc", "dials": self.LAMP}])
        return luminance(render(stack(*bands, ("body", {})), scene, side=192, samples=24).rgb().mean(axis=(0, 1)))

    def test_they_are_as_bright(self):
        for about in ({"flake_lean": 12}, {"flake_lean": 4, "flake_roughness": 0.4}):
            near, far = self.mean(1.5, **about), self.mean(0.05, **about)
            self.assertAlmostEqual(near / far, 1.0, delta=0.02)

    def test_from_far_flakes_are_a_rough_metal(self):
        """Leaning mirrors all over are metal of that roughness, whose picture is the measure."""
        lean = 9.0
        roughness = float(alpha_of_sheen(alpha_of_lean(F(lean)), F(0.15**2))) ** 0.5
        scene = stage("ball", {"diameter": 9}, strength=0.2, lamps=[{"id": "lamp", "kind": "disc", "dials": self.LAMP}])
        flakes = {"flakes_coverage": 1.0, "flake_size": 0.01, "flake_lean": lean}
        seen, expected = (
            render(stack(*bands), scene, side=32, samples=512).rgb()
            for bands in (
                (("flakes", flakes), ("body", {})),
                (("metal", {"substance": "aluminium", "specular_roughness": roughness}),),
            )
        )
        np.testing.assert_allclose(seen.mean(axis=(0, 1)), expected.mean(axis=(0, 1)), rtol=0.01)
        self.assertLess(np.abs(seen - expected).mean(), 0.03 * expected.mean())

    def test_facets_of_the_sheen_lean_as_those_of_all_flakes_do(self):
        """Half of them by more than an angle: slopes of two GGX distributions (Walter et al. 2007, eq. 35), drawn and added."""
        u, turn = np.random.default_rng(1).random((2, 2, 200_000))
        steep = np.sqrt(u / (1 - u)) * np.exp(2j * np.pi * turn)
        for lean, own in ((0.3, 0.02), (0.27, 0.09), (0.1, 0.1), (0.1, 0.25)):
            width = np.median(np.abs(lean * steep[0] + own * steep[1]))
            with self.subTest(lean=lean, own=own):
                self.assertAlmostEqual(float(alpha_of_sheen(F(lean), F(own))) / width, 1, delta=0.02)

    def test_rough_flakes_that_lean_shine_as_wide_near_and_far(self):
        """Some ten thousand of them on a level sheet, seen face-on, under a lamp that stands where a mirror shows it, and beside it."""
        sheet = thing("sheet", "sheet", {"width": 30, "height": 30, "thickness": 0.5}, tilt=90)
        for lean, off in ((6, 0), (6, 25), (20, 0), (20, 40)):
            about = {"flakes_coverage": 1.0, "flake_lean": lean, "flake_roughness": 0.3}
            lamp = {"diameter": 20 if lean < 10 else 40, "power": 10, "azimuth": 0, "elevation": 89 - off}
            scene = stage(
                objects=[sheet],
                strength=0.0,
                lamps=[{"id": "lamp", "kind": "disc", "dials": lamp | {"distance": 60}}],
                camera={"elevation": 89, "distance": 100, "focal_length": 150},
            )
            near, far = (
                luminance(
                    render(stack(("flakes", {"flake_size": size} | about), ("body", {})), scene, side=256, samples=4)
                    .rgb()
                    .mean(axis=(0, 1))
                )
                for size in (2.2, 0.02)
            )
            with self.subTest(lean=lean, off=off):
                self.assertAlmostEqual(near / far, 1.0, delta=0.06)

    def test_a_pixel_decides(self):
        shares = [float(share_of_sheen(F(pixel), F(1))) for pixel in (0.1, 0.5, 1.0, 2.0, 9.0)]
        self.assertEqual((shares[0], shares[1], shares[3], shares[4]), (0, 0, 1, 1))
        self.assertTrue(0 < shares[2] < 1)


class Places(SimpleTestCase):
    def test_coverage_by_count_and_by_area(self):
        places = np.arange(0, 60, 0.2)
        bits = np.array([[flake_at(F(x), F(y), F(0.4), F(0)) for x in places] for y in places])
        flakes = np.unique(bits)
        for coverage in (0.2, 0.7):
            by_count = np.mean([own_number(one, PRESENT) < coverage for one in flakes])
            by_area = np.mean([own_number(one, PRESENT) < coverage for one in bits.ravel()])
            self.assertAlmostEqual(by_count, coverage, delta=0.02)
            self.assertAlmostEqual(by_area, coverage, delta=0.03)
        # What the help of the size says: how many there are in a square as wide as a flake.
        self.assertAlmostEqual(len(flakes) / 60**2, 1.4, delta=0.1)

    def test_sizes_spread(self):
        places = np.arange(0, 40, 0.2)
        spread = []
        for share in (0.0, 1.0):
            bits = [flake_at(F(x), F(y), F(0.4), F(share)) for x in places for y in places]
            _, counts = np.unique(bits, return_counts=True)
            spread.append(np.std(counts) / np.mean(counts))
        self.assertGreater(spread[1], 1.1 * spread[0])

    def test_leans_are_spread_as_facets_are(self):
        """Seen face-on: half lean by more than the dial says, and their density is that of GGX (Walter et al. 2007, eq. 33)."""
        alpha = alpha_of_lean(F(15))
        normals = np.array(
            [lean_of((F(0), F(0), F(1)), alpha, np.uint32(k * 2654435761 % 2**32)) for k in range(20_000)]
        )
        leans = np.degrees(np.arccos(normals[:, 2]))
        self.assertAlmostEqual(float(np.median(leans)), 15, delta=0.4)
        edges = np.radians(np.linspace(0, 45, 10))
        found = np.histogram(np.radians(leans), edges)[0] / len(leans)
        for low, high, share in zip(edges, edges[1:], found, strict=False):
            angles = np.linspace(low, high, 200)
            mass = [float(ggx_density(F(np.cos(a)), alpha)) * np.cos(a) * np.sin(a) * 2 * np.pi for a in angles]
            self.assertAlmostEqual(share, np.trapezoid(mass, angles), delta=0.012)


class Matter(SimpleTestCase):
    def dials(self, **about) -> dict:
        document = read(Material, {"section": {"bands": [{"id": "f", "kind": "flakes", "dials": about}]}})
        return compile_network(document).leaves[0].settings["flakes"]

    def test_a_plate_mirrors_where_its_waves_meet(self):
        # A free film between equal media is brightest where 2 n d is an odd number of half waves (Born & Wolf, 7.6.1): n 2.3, d 239 nm: at 733 nm and 440 nm.
        shares = flake_spectrum(
            self.dials(flake_matter="clear plate", plate_thickness=239.0, flake_film_spread=0.0), 0.5
        )
        brightest = WAVELENGTHS_NM[np.argmax(np.where(WAVELENGTHS_NM < 560, shares, 0))]
        self.assertAlmostEqual(float(brightest), 4 * 2.3 * 239 / 5, delta=2)
        n = 2.3 / 1.5
        single = ((n - 1) / (n + 1)) ** 2
        self.assertAlmostEqual(float(shares.max()), 4 * single / (1 + single) ** 2, places=3)

    def test_bare_metal_is_the_metal_in_varnish(self):
        metal = substances()["aluminium"]
        n, k = metal.index / 1.5, metal.extinction / 1.5
        expected = ((n - 1) ** 2 + k**2) / ((n + 1) ** 2 + k**2)
        np.testing.assert_allclose(flake_spectrum(self.dials(), 0.5), expected, atol=2e-4)

    def test_the_section_shows_some(self):
        scene = read(Material, demo("glitter-varnish"))
        cuts = read_bench(reading_of(scene), "")["section"]["bands"]
        colors = next(cut["colors"] for cut in cuts.values() if len(cut["colors"]) > 9)
        self.assertGreater(len(set(colors)), 8)
