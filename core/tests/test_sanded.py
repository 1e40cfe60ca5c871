"""Surfaces that are rugged more along than across, and the edge of the shade."""

from math import pi

import numba
import numpy as np
from django.test import SimpleTestCase
from nineglass.kernels import FAST, ZERO, F
from nineglass.optics.boundary import Energies, boundary_values, sample_boundary
from nineglass.optics.conductor import mirror_albedo_table, mirror_mean_table
from nineglass.optics.energy import energy_tables
from nineglass.optics.film import NO_FILMS
from nineglass.optics.lobes.body import edged
from nineglass.optics.microfacet import alpha_of_sanded, sanded_density
from nineglass.optics.sanded import sanded_tables
from nineglass.trace.families.registry import FAMILIES
from nineglass.trace.scene import build_set
from scipy.stats import qmc

from tests.lengths import crossed
from tests.scenes import luminance, middle, render, stage
from tests.test_layers import PICTURED, WHITE, WHITE_MIRROR, films, hemisphere, stack

NM = (F(450), F(520), F(590), F(650))
MIRROR = ((F(1e-3),) * 4, (F(30),) * 4)
"""Index and extinction of a metal that loses nothing to speak of."""
ENERGIES = Energies(*energy_tables(), mirror_albedo_table(), mirror_mean_table(), sanded_tables())


def mirrored(wo, wi, alpha: float, stretch: float) -> tuple[float, float]:
    """(response times cosine, pdf) of a perfect sanded mirror."""
    ways = (tuple(F(v) for v in w) for w in (wo, wi))
    values, pdf = boundary_values(ENERGIES, *ways, F(alpha), F(stretch), NO_FILMS, F(1), *MIRROR, NM)
    return float(values[0]), float(pdf)


def heitz_sanded(wo, wi, along: float, across: float) -> float:
    """GGX reflection of a perfect mirror times cos wi. Source: Heitz 2014, eq. 85 (density), 86 (masking), 99 (both together)."""
    h = (wo + wi) / np.linalg.norm(wo + wi)
    k = (h[0] / along) ** 2 + (h[1] / across) ** 2 + h[2] ** 2

    def smith_lambda(w):
        return (np.sqrt(1 + ((w[0] * along) ** 2 + (w[1] * across) ** 2) / w[2] ** 2) - 1) / 2

    return 1 / (pi * along * across * k * k) / (1 + smith_lambda(wo) + smith_lambda(wi)) / (4 * wo[2])


class Lobe(SimpleTestCase):
    def test_widths_are_openpbrs(self):
        # OpenPBR 1.1, 3.2.2: alpha_t = r^2 sqrt(2 / (1 + (1 - a)^2)), alpha_b = (1 - a) alpha_t.
        for rough, a in ((0.3, 0.0), (0.5, 0.4), (0.7, 0.9)):
            alpha, stretch = alpha_of_sanded(F(rough), F(a))
            along = rough**2 * np.sqrt(2 / (1 + (1 - a) ** 2))
            self.assertAlmostEqual(float(alpha * stretch), along, places=5)
            self.assertAlmostEqual(float(alpha / stretch), (1 - a) * along, places=5)

    def test_it_is_the_formula_but_for_what_is_given_back(self):
        """A factor of the eye's direction alone gives back what facets lose to one another (Turquin 2019)."""
        rng = np.random.default_rng(2)
        for alpha, stretch in ((0.2, 1.0), (0.2, 2.0), (0.4, 1.6)):
            wo = np.array([0.5, 0.3, 0.8])
            wo /= np.linalg.norm(wo)
            ratios = []
            for _ in range(40):
                wi = np.append(rng.normal(0, 0.3, 2) - wo[:2], 0.8)
                wi /= np.linalg.norm(wi)
                ratios.append(
                    mirrored(wo, wi, alpha, stretch)[0] / heitz_sanded(wo, wi, alpha * stretch, alpha / stretch)
                )
            self.assertLess(np.ptp(ratios), 2e-3 * np.mean(ratios))
            self.assertTrue(1 <= np.mean(ratios) < 1.8)

    def test_facets_fill_the_plane(self):
        # Heitz 2014, eq. 9: the density times the cosine is 1 over the hemisphere.
        ways = hemisphere(60_000)
        for alpha, stretch in ((0.4, 1.0), (0.4, 1.5), (0.5, 2.0)):
            total = np.mean([pi * sanded_density(tuple(w), F(alpha), F(stretch)) for w in ways])
            self.assertAlmostEqual(float(total), 1.0, delta=0.03)

    def test_what_is_drawn_is_what_the_density_says(self):
        rng = np.random.default_rng(4)
        wo, alpha, stretch = (F(0.48), F(0.36), F(0.8)), F(0.35), F(1.7)
        about = (wo, alpha, stretch, NO_FILMS, F(1), *MIRROR, NM)
        drawn = [sample_boundary(ENERGIES, *about, *(F(v) for v in rng.random(3))) for _ in range(20_000)]
        drawn = [w for w in drawn if w[2] > 0]
        right = np.mean([w[0] > -0.48 and w[1] > -0.36 for w in drawn]) * len(drawn) / 20_000
        ways = hemisphere(60_000)
        share = np.mean(
            [pi / w[2] * mirrored(wo, w, alpha, stretch)[1] if w[0] > -0.48 and w[1] > -0.36 else 0 for w in ways]
        )
        self.assertAlmostEqual(right, float(share), delta=0.02)


@numba.njit(fastmath=FAST, error_model="numpy")
def sent(energies, wo, alpha, stretch, films, before, beyond, extinction, points):
    """What a boundary sends back and on of even light, at four wavelengths."""
    total = np.zeros(4)
    for n in range(len(points)):
        u, v, choice = points[n, 0], points[n, 1], points[n, 2]
        wi = sample_boundary(energies, wo, alpha, stretch, films, before, beyond, extinction, NM, u, v, choice)
        if wi[2] != ZERO:
            values, pdf = boundary_values(energies, wo, wi, alpha, stretch, films, before, beyond, extinction, NM)
            for w in range(4):
                total[w] += values[w] / pdf if pdf > ZERO else ZERO
    return total / len(points)


class Furnace(SimpleTestCase):
    """What matter that loses nothing sends back and on, of even light, in any view: all of it."""

    VIEWS = [(cosine, turn) for cosine in (0.1, 0.15, 0.5, 0.87, 1.0) for turn in (0, 40, 90)]
    POINTS = qmc.Sobol(3, seed=3).random(8192).astype(np.float32)
    MATTER = {"films": NO_FILMS, "extinction": 0.0, "sanded": (0.4, 0.9)}

    def look(self, before: float, beyond: float, within: float = 0.005, grazing: float = 0.005, **matter):
        """Any wavelength of any view is off by no more than `within`, and by `grazing` below a cosine of .3."""
        matter = self.MATTER | matter
        for rough, along in crossed((0.2, 0.3, 0.5, 0.8, 1.0), matter["sanded"]):
            for cosine, turn in self.VIEWS:
                with self.subTest(rough=rough, sanded=along, cosine=cosine, turn=turn):
                    across = np.sqrt(1 - cosine**2)
                    wo = (F(across * np.cos(np.radians(turn))), F(across * np.sin(np.radians(turn))), F(cosine))
                    widths = alpha_of_sanded(F(rough), F(along)) if along else (F(rough**2), F(1))
                    about = (matter["films"], F(before), (F(beyond),) * 4, (F(matter["extinction"]),) * 4)
                    found = sent(ENERGIES, wo, *widths, *about, self.POINTS)
                    np.testing.assert_allclose(found, 1, atol=grazing if cosine < 0.3 else within)

    def test_white_metal(self):
        self.look(1, 1e-3, grazing=0.007, extinction=30)

    def test_glass_from_outside_and_from_within(self):
        self.look(1, 1.5)
        # From within facets begin to reflect all at once, between two rows of the table.
        self.look(1.5, 1, grazing=0.03)

    def test_films_on_glass(self):
        # Films that take nothing: what does not pass is sent back, and what facets lose of either is given back.
        for film, within in (((300, 1.3), 0.01), ((120, 4.0), 0.06)):
            for before, beyond in ((1, 1.5), (1.5, 1)):
                self.look(before, beyond, within, within, films=films(film), sanded=(0.0, 0.4))


class Sanded(SimpleTestCase):
    def test_white_furnace(self):
        sanded = {"specular_roughness": 0.5, "specular_roughness_anisotropy": 0.8}
        stacks = {
            "mirror": (("metal", WHITE_MIRROR | sanded),),
            "glass": (("interface", sanded),),
            "coat": (
                ("coat", {"coat_roughness": 0.4, "coat_roughness_anisotropy": 0.9}),
                ("body", {"base_color": WHITE}),
            ),
        }
        for name, bands in stacks.items():
            with self.subTest(name):
                scene = stage("ball", {"diameter": 9}, surround=PICTURED)
                film = render(stack(*bands), scene, side=24, samples=512, most_bounces=300)
                self.assertAlmostEqual(luminance(film.rgb().mean(axis=(0, 1))), 1.0, delta=0.01)

    def highlight(self, **about) -> tuple[float, float]:
        """How wide a highlight in the middle of a plate is, across and up the picture (px, root mean square)."""
        lamp = {
            "id": "lamp",
            "kind": "disc",
            "dials": {"diameter": 4, "power": 10, "azimuth": 0, "elevation": 0, "distance": 80},
        }
        lamp["seen"] = {"camera": False, "reflections": True, "shadows": True}
        dials = {"specular_roughness": 0.45} | about
        film = render(
            stack(("metal", dials)), stage("ball", {"diameter": 9}, strength=0.0, lamps=[lamp]), side=48, samples=128
        )
        light = film.rgb().sum(axis=-1)
        y, x = np.mgrid[:48, :48]
        middle = [np.average(v, weights=light) for v in (x, y)]
        return tuple(
            float(np.sqrt(np.average((v - m) ** 2, weights=light))) for v, m in zip((x, y), middle, strict=True)
        )

    def test_highlights_are_drawn_out_along_its_direction(self):
        round_one = self.highlight()
        along = self.highlight(specular_roughness_anisotropy=0.9)
        across = self.highlight(specular_roughness_anisotropy=0.9, specular_direction=90.0)
        self.assertAlmostEqual(round_one[0] / round_one[1], 1.0, delta=0.1)
        self.assertGreater(along[0] / along[1], 1.5)
        self.assertGreater(across[1] / across[0], 1.5)

    def test_clear_matter_leaves_its_short_way_for_it(self):
        for dials, name in (({}, "interface"), ({"specular_roughness_anisotropy": 0.5}, "layers")):
            table = build_set(stack(("interface", dials)), stage("ball")).table
            self.assertEqual(FAMILIES[table.sides.family[0]].name, name)


class EdgeOfTheShade(SimpleTestCase):
    def test_it_keeps_the_energy_of_matt_matter(self):
        cosines = hemisphere(60_000)[:, 2]
        for edge in (0.0, 0.25, 0.5, 0.8, 1.0):
            self.assertAlmostEqual(float(np.mean([edged(F(edge), c) for c in cosines])), 1.0, delta=0.02)

    def test_sharp_is_brighter_near_the_shade_and_darker_towards_the_lamp(self):
        sharp, soft = ([float(edged(F(edge), F(c))) for c in (0.1, 1.0)] for edge in (0.1, 0.9))
        self.assertTrue(sharp[0] > 1 > sharp[1])
        self.assertTrue(soft[0] < 1 < soft[1])

    def test_no_grain_gives_more_than_it_gets(self):
        for grain in ("even", "grainy", "velvet"):
            for edge in (0.0, 1.0):
                body = (
                    "body",
                    {"base_color": WHITE, "grain": grain, "base_diffuse_roughness": 0.6, "shade_edge": edge},
                )
                seen = middle(render(stack(body), stage("ball", {"diameter": 9}), side=24, samples=256), 0.9)
                self.assertLess(luminance(seen), 1.01, (grain, edge))
