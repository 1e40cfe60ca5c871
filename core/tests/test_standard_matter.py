"""Fibres, fog and flames as the standard's nodes, and back: by the official definitions, by coefficients worked by hand, by what they look like."""

import numpy as np
from django.test import SimpleTestCase, tag
from nineglass.catalogue import BANDS
from nineglass.documents.model import Material, Stage, read
from nineglass.exchange import fibre_nodes, mtlx
from nineglass.exchange.difference import difference_on
from nineglass.matter.fibres import fibre_absorption
from nineglass.matter.material import absorption_curve, scattering_curve
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.upsampling import color_spectrum
from nineglass.trace.render import Tracer

from tests.test_exchange import SIDE, band, demo, out_and_back, taken


def document(nodes: str, shader: str = "surface") -> bytes:
    """A MaterialX document of nodes, of which the one called s is the shader."""
    return (
        f'<?xml version="1.0"?><materialx version="1.39">{nodes}<{shader}material name="m" type="material">'
        f'<input name="{shader}shader" type="{shader}shader" nodename="s"/></{shader}material></materialx>'
    ).encode()


def hair(inputs: str, nodes: str = "") -> dict:
    """The dials of the fibre of a `chiang_hair_bsdf` with some inputs."""
    bsdf = f'<chiang_hair_bsdf name="b" type="BSDF">{inputs}</chiang_hair_bsdf>'
    surface = '<surface name="s" type="surfaceshader"><input name="bsdf" type="BSDF" nodename="b"/></surface>'
    return band(taken(document(nodes + bsdf + surface)).material, "fibre")["dials"]


def absorbed(dials: dict) -> np.ndarray:
    """(3,) absorption for a diameter of a fibre, by three channels."""
    curve = fibre_absorption(BANDS.kinds["fibre"].defaults() | dials, color_spectrum)
    return -np.log(rgb_of_filter(np.exp(-curve)))


class Fibres(SimpleTestCase):
    def test_dials_come_back_as_they_were(self):
        written, taken_in = out_and_back("straw", stage="pelt-table")
        self.assertEqual(mtlx.faults_in(written.files["straw.mtlx"].decode()), [])
        before, after = demo("straw").section.bands[0].dials, band(taken_in.material, "fibre")["dials"]
        for dial in ("longitudinal_roughness", "azimuthal_roughness"):
            self.assertAlmostEqual(after[dial], before[dial], places=5)
        self.assertAlmostEqual(after["cuticle_angle"], 2.5, places=4)
        np.testing.assert_allclose(after["highlight_tint"], before["highlight"], rtol=1e-5)
        np.testing.assert_allclose(absorbed(after), absorbed(before), rtol=0.02, atol=1e-3)

    def test_absorption_is_told_for_a_radius(self):
        # mx_chiang_hair_bsdf.glsl of the package: straight through the middle exp(-2 a) is left.
        dials = hair('<input name="absorption_coefficient" type="vector3" value="0.1, 0.3, 0.9"/>')
        np.testing.assert_allclose(absorbed(dials), (0.2, 0.6, 1.8), rtol=0.02)

    def test_melanin_is_read_as_the_pigments_that_it_is_of(self):
        # mx_chiang_hair_bsdf.glsl of the package: a concentration of 1 - 1/e is eumelanin of (0.419, 0.697, 1.37) for a radius.
        melanin = (
            '<deon_hair_absorption_from_melanin name="p" type="vector3">'
            '<input name="melanin_concentration" type="float" value="0.6321206"/>'
            '<input name="melanin_redness" type="float" value="0"/></deon_hair_absorption_from_melanin>'
        )
        dials = hair('<input name="absorption_coefficient" type="vector3" nodename="p"/>', melanin)
        self.assertEqual(dials["color_from"], "pigment")
        np.testing.assert_allclose(absorbed(dials)[:2], (2 * 0.419, 2 * 0.697), rtol=0.12)

    def test_widths_are_those_of_our_lobes(self):
        # mx_chiang_hair_bsdf.glsl of the package, after Chiang et al. 2016, eq. 7 and 8.
        for r in (0.2, 0.5, 0.9):
            along, around = (width(np.float32(r)) for width in fibre_nodes.WIDTHS_BY)
            self.assertAlmostEqual(float(along), (0.726 * r + 0.812 * r**2 + 3.7 * r**20) ** 2, places=5)
            self.assertAlmostEqual(float(around), 0.265 * r + 1.194 * r**2 + 5.372 * r**22, places=5)
        dials = hair('<input name="roughness_R" type="vector2" value="0.0471, 0.1857"/>')
        # 0.726 r + 0.812 r^2 = root of 0.0471 at r = 0.2369; 0.265 r + 1.194 r^2 = 0.1857 at r = 0.2987.
        self.assertAlmostEqual(dials["longitudinal_roughness"], 0.2369, delta=2e-3)
        self.assertAlmostEqual(dials["azimuthal_roughness"], 0.2987, delta=2e-3)

    def test_a_driven_colour_goes_by_the_colour_of_a_pelt(self):
        ramp = {"id": "one", "kind": "noise", "at": [0, 0], "dials": {}}
        told = demo("straw").model_dump(mode="json") | {
            "slips": [ramp],
            "wires": [{"source": {"slip": "one", "port": "out"}, "target": {"part": "fibre", "dial": "fibre_color"}}],
        }
        written = mtlx.write(read(Material, told), demo("pelt-table", Stage), SIDE)
        text = written.files["straw.mtlx"]
        self.assertEqual(mtlx.faults_in(text.decode()), [])
        self.assertIn(b"<chiang_hair_absorption_from_color", text)
        found = taken(text).material
        self.assertIn("fibre_color", [wire["target"]["dial"] for wire in found["wires"]])
        self.assertEqual(band(found, "fibre")["dials"]["color_from"], "colour seen")

    @tag("slow")
    def test_a_pelt_looks_alike_after_both_ways(self):
        # What a highlight lacks is lost there, so it is whole here.
        told = demo("straw").model_dump(mode="json")
        told["section"]["bands"][0]["dials"]["highlight"] = 1.0
        stage, material = demo("pelt-table", Stage), read(Material, told)
        back = read(Material, taken(mtlx.write(material, stage, SIDE).files["straw.mtlx"]).material)
        apart = difference_on(material, back, stage, Tracer(2), side=48, samples=16)
        self.assertLess(apart.delta_e, apart.noise + 2, "just seen, by CIEDE2000")


class Volumes(SimpleTestCase):
    def test_coefficients_come_back(self):
        for name in ("harbour-fog", "chimney-smoke"):
            written, taken_in = out_and_back(name, stage="harbour")
            self.assertEqual(mtlx.faults_in(next(iter(written.files.values())).decode()), [])
            one, other = (
                BANDS.kinds["interior"].defaults() | band(given, "interior")["dials"]
                for given in (demo(name).model_dump(mode="json"), taken_in.material)
            )
            for curve in (absorption_curve, scattering_curve):
                with self.subTest(f"{name}, {curve.__name__}"):
                    first, second = (rgb_of_filter(curve(dials, color_spectrum)) for dials in (one, other))
                    np.testing.assert_allclose(first, second, rtol=0.03)

    def test_what_is_read_is_what_the_file_says(self):
        # Bouguer: of light in 2 cm of absorption 0.5 per cm 1/e is left.
        matter = (
            '<anisotropic_vdf name="v" type="VDF"><input name="absorption" type="vector3" value="0.5, 0.5, 0.5"/>'
            '<input name="scattering" type="vector3" value="0.2, 0.1, 0.1"/>'
            '<input name="anisotropy" type="float" value="0.4"/></anisotropic_vdf>'
            '<volume name="s" type="volumeshader"><input name="vdf" type="VDF" nodename="v"/></volume>'
        )
        found = taken(document(matter, "volume")).material
        self.assertEqual([one["kind"] for one in found["section"]["bands"]], ["interior"])
        dials = BANDS.kinds["interior"].defaults() | band(found, "interior")["dials"]
        left = np.exp(-absorption_curve(dials, color_spectrum) * 0.02)
        np.testing.assert_allclose(rgb_of_filter(left), np.exp(-1), rtol=0.01)
        scatters = rgb_of_filter(scattering_curve(dials, color_spectrum)) / 100
        np.testing.assert_allclose(scatters, (0.2, 0.1, 0.1), rtol=0.02)
        self.assertAlmostEqual(dials["transmission_scatter_anisotropy"], 0.4, places=6)

    def test_how_much_there_is_of_it_at_a_place_comes_back(self):
        fog = {
            "name": "Fog",
            "section": {"bands": [{"id": "fog", "kind": "interior", "dials": {"scatter_amount": 1.0}}]},
            "slips": [
                {"id": "high", "kind": "height_along", "at": [0, 0], "dials": {}},
                {"id": "less", "kind": "arithmetic", "at": [200, 0], "dials": {"how": "multiply", "second": 0.25}},
            ],
            "wires": [
                {"source": {"slip": "high", "port": "out"}, "target": {"part": "less", "dial": "first"}},
                {"source": {"slip": "less", "port": "out"}, "target": {"part": "fog", "dial": "density"}},
            ],
        }
        material = read(Material, fog)
        text = mtlx.write(material, demo("harbour", Stage), SIDE).files["fog.mtlx"]
        self.assertEqual(mtlx.faults_in(text.decode()), [])
        rng = np.random.default_rng(4)
        places = {name: rng.uniform(-5, 5, 100).astype(np.float32) for name in ("x", "y", "z")}
        places |= {f"stage_{name}": values for name, values in places.items()}
        found = []
        for one in (material, read(Material, taken(text).material)):
            compiled = compile_network(one)
            [signal] = [signal for (_, dial), signal in compiled.dials.items() if dial == "density"]
            given = {name: places[name] for name in compiled.program.inputs}
            found.append(evaluate(compiled.program, [signal], 100, **given)[0])
        self.assertGreater(np.ptp(found[0]), 0.1)
        np.testing.assert_allclose(found[0], found[1], rtol=1e-4, atol=1e-5)

    def test_a_flame_stays_as_bright(self):
        # Luminance of linear Rec.709: IEC 61966-2-1. The dial holds at 1500 K.
        for name in ("wick-flame", "spirit-flame"):
            written, taken_in = out_and_back(name, stage="candle-sill")
            self.assertEqual(mtlx.faults_in(next(iter(written.files.values())).decode()), [])
            own = demo(name).section.bands[0].dials
            dials = band(taken_in.material, "flame")["dials"]
            told = dials["emission_luminance"] * (np.array(dials["emission_color"]) @ (0.2126, 0.7152, 0.0722))
            color = np.array(own.get("emission_color", (1, 1, 1))) @ (0.2126, 0.7152, 0.0722)
            self.assertAlmostEqual(told, own["emission_luminance"] * float(color), delta=0.02 * told)
            lost = [line.what for line in written.report.lines if line.went == "not"]
            self.assertIn("Network into glowing", lost, "voxels are no node")

    def test_two_kinds_of_it_are_mixed(self):
        written, taken_in = out_and_back("fog-and-soot", stage="harbour")
        self.assertEqual(mtlx.faults_in(next(iter(written.files.values())).decode()), [])
        self.assertEqual(
            [(one["kind"], one["side"]) for one in taken_in.material["section"]["bands"]],
            [("split", "both"), ("interior", "first"), ("interior", "second")],
        )

    def test_what_is_no_matter_of_ours_is_told(self):
        nodes = '<volume name="s" type="volumeshader"><input name="edf" type="EDF" nodename="e"/></volume>'
        nodes += '<uniform_edf name="e" type="EDF"><input name="color" type="color3" nodename="c"/></uniform_edf>'
        nodes += '<blackbody name="c" type="color3"/>'
        report = taken(document(nodes, "volume")).report
        self.assertTrue(any(line.went == "not" for line in report.lines), report)
