"""Materials out to open formats and back: by the official definitions, by values, by what they look like."""

import io
import json
import subprocess
import tempfile
import zipfile
from pathlib import Path

import numpy as np
from django.test import SimpleTestCase
from nineglass.catalogue import BANDS
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.exchange import glb, mtlx
from nineglass.exchange.bake import Bake
from nineglass.exchange.cube import cube_of, light_at, steps_of
from nineglass.exchange.difference import difference_on, drawn, stages_for
from nineglass.exchange.formats import HEAD, LIGHTS, formats, written_formats
from nineglass.exchange.section import DEFAULTS
from nineglass.exchange.surfaces import SURFACES
from nineglass.exchange.taking import taken_of
from nineglass.files import keep
from nineglass.forms.imported import read_mesh
from nineglass.gauges import reading_of
from nineglass.gauges.surface import worn
from nineglass.matter.material import absorption_curve, scattering_curve
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate
from nineglass.picture.views import VIEWS
from nineglass.put_in import arrays_of, facts_of
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.upsampling import color_spectrum
from nineglass.trace.render import Tracer

from tests import scenes
from tests.lengths import LONG

ROOT = Path(__file__).resolve().parents[2]
SIDE = 64


def demo(name: str, model: type = Material):
    return read(model, (ROOT / "demo" / f"{name}.json").read_text())


def demo_materials() -> list[str]:
    found = []
    for path in sorted((ROOT / "demo").glob("*.json")):
        given = json.loads(path.read_text())
        if given.get("format") == "nineglass.material":
            found.append(path.stem)
    return found


def has_surface(material: Material) -> bool:
    kinds = {band.kind for band in material.section.bands}
    return bool(kinds & {"interface", "metal", "body", "coat", "subsurface"})


def band(material: dict, kind: str) -> dict:
    return next(one for one in material["section"]["bands"] if one["kind"] == kind)


def out_and_back(name: str, form=mtlx, stage: str = "window-bench"):
    """(what was written, what was read of it), with pictures kept."""
    written = form.write(demo(name), demo(stage, Stage), SIDE)
    taken = form.read_files(written.files, next(iter(written.files)))
    for data in taken.files.values():
        keep([data])
    return written, taken


def document(surface: str, **inputs: tuple[str, str]) -> bytes:
    """A MaterialX document of one surface. inputs: type and value by name."""
    told = "".join(f'<input name="{name}" type="{kind}" value="{value}"/>' for name, (kind, value) in inputs.items())
    return (
        f'<?xml version="1.0"?><materialx version="1.39"><{surface} name="s" type="surfaceshader">{told}</{surface}>'
        '<surfacematerial name="m" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s"/>'
        "</surfacematerial></materialx>"
    ).encode()


def taken(text: bytes):
    return mtlx.read_files({"a.mtlx": text}, "a.mtlx")


class OverMaterialX(SimpleTestCase):
    def test_defaults_are_those_of_the_official_definition(self):
        # open_pbr_surface.mtlx of the MaterialX package.
        definition = mtlx.library().getNodeDef("ND_open_pbr_surface_surfaceshader")
        for name, value in DEFAULTS.items():
            with self.subTest(name):
                official = definition.getActiveInput(name).getValue()
                given = official.asTuple() if hasattr(official, "asTuple") else official
                np.testing.assert_allclose(given, value, rtol=1e-6)

    def test_inputs_of_other_surfaces_are_those_of_their_official_definitions(self):
        # standard_surface.mtlx, gltf_pbr.mtlx, usd_preview_surface.mtlx of the MaterialX package.
        for category, about in SURFACES.items():
            official = {
                port.getName()
                for definition in mtlx.library().getMatchingNodeDefs(category)
                for port in definition.getActiveInputs()
            }
            with self.subTest(category):
                self.assertTrue(official)
                self.assertLessEqual(set(about.names.values()), official)
                self.assertLessEqual(set(about.names), {*DEFAULTS, "geometry_normal", "geometry_coat_normal"})

    def test_every_material_of_the_demo_is_valid_and_comes_back(self):
        stage = demo("window-bench", Stage)
        for name in demo_materials():
            material = demo(name)
            with self.subTest(name):
                if not has_surface(material):
                    with self.assertRaises(Refused):
                        glb.write(material, stage, SIDE)
                written = mtlx.write(material, stage, SIDE)
                first = next(iter(written.files))
                self.assertEqual(mtlx.faults_in(written.files[first].decode()), [])
                back = read(Material, mtlx.read_files(written.files, first).material)
                lost = {line.what.split(":")[0].split(" of ")[0] for line in written.report.lines if line.went == "not"}
                kinds = {one.kind for one in material.section.bands if one.on}
                came = {one.kind for one in back.section.bands}
                titles = {"flakes": "Flakes", "film": "Film", "coat": "Coat"}
                self.assertLessEqual({kind for kind in kinds - came if titles.get(kind) not in lost}, {"interior"})

    def test_dials_come_back_as_they_were(self):
        for name, kind, dials in (
            ("net-float", "interior", ("transmission_color", "transmission_depth")),
            ("net-float", "interface", ("specular_ior", "specular_roughness")),
            ("tallow", "subsurface", ("subsurface_color", "subsurface_radius", "subsurface_radius_scale")),
            ("black-enamel", "coat", ("coat_roughness", "coat_ior", "coat_color")),
            ("soap-film", "film", ("thin_film_thickness", "thin_film_ior")),
        ):
            before = demo(name).model_dump(mode="json")
            _, taken_in = out_and_back(name)
            after = band(taken_in.material, kind)["dials"]
            own = BANDS.kinds[kind].defaults() | band(before, kind)["dials"]
            for dial in dials:
                with self.subTest(f"{name}: {dial}"):
                    np.testing.assert_allclose(after[dial], own[dial], rtol=2e-5)

    def test_what_glows_stays_as_bright(self):
        _, taken_in = out_and_back("ember")
        dials = band(taken_in.material, "glow")["dials"]
        # Luminance of linear Rec.709: IEC 61966-2-1.
        told = dials["emission_luminance"] * (np.array(dials["emission_color"]) @ (0.2126, 0.7152, 0.0722))
        self.assertAlmostEqual(told, demo("ember").section.bands[0].dials["emission_luminance"], delta=0.01)

    def test_a_medium_that_scatters_keeps_its_coefficients(self):
        # OpenPBR 1.1.1, transmission_scatter: extinction -ln(color) / depth, of which scatter / depth is scattered.
        before = demo("milk-glass").model_dump(mode="json")
        _, taken_in = out_and_back("milk-glass")
        defaults = BANDS.kinds["interior"].defaults()
        one, other = (defaults | band(given, "interior")["dials"] for given in (before, taken_in.material))
        for curve in (absorption_curve, scattering_curve):
            with self.subTest(curve.__name__):
                first, second = (rgb_of_filter(curve(dials, color_spectrum)) for dials in (one, other))
                np.testing.assert_allclose(first, second, rtol=0.06, atol=0.3)

    def test_gold_has_the_colour_of_gold(self):
        # Face-on reflectance of gold in linear Rec.709, about (1.0, 0.77, 0.34): common practice in rendering.
        _, taken_in = out_and_back("gold-leaf")
        facing = band(taken_in.material, "metal")["dials"]["base_color"]
        np.testing.assert_allclose(facing, (1.0, 0.77, 0.34), atol=0.06)

    def test_a_network_in_standard_nodes_gives_the_same_numbers(self):
        name, kind, dial = "scratched-beaker", "interface", "specular_roughness"
        written, taken_in = out_and_back(name)
        self.assertIn(b"<image", written.files[next(iter(written.files))])
        rng = np.random.default_rng(2)
        inputs = {
            "u": rng.random(200, np.float32),
            "v": rng.random(200, np.float32),
            "facing": np.ones(200, np.float32),
        }
        found = []
        for material in (demo(name), read(Material, taken_in.material)):
            compiled = compile_network(material)
            found.append(evaluate(compiled.program, [compiled.dials[kind, dial]], 200, **inputs)[0])
        # Pictures go over in half precision.
        np.testing.assert_allclose(found[0], found[1], atol=2e-3)
        self.assertGreater(np.ptp(found[0]), 0.05)

    def test_what_follows_facing_goes_over_as_a_curve(self):
        _, taken_in = out_and_back("abalone-facing")
        facing = np.linspace(0.02, 0.98, 50, dtype=np.float32)
        found = []
        for material in (demo("abalone-facing"), read(Material, taken_in.material)):
            compiled = compile_network(material)
            found.append(evaluate(compiled.program, list(compiled.dials["metal", "base_color"]), 50, facing=facing))
        np.testing.assert_allclose(found[0], found[1], atol=0.01)

    def test_lengths_are_read_in_their_unit_and_colours_by_their_values(self):
        text = document(
            "open_pbr_surface", transmission_weight=("float", "1"), transmission_color=("color3", "0.2, 0.5, 0.4")
        )
        depth = (
            b'<input name="transmission_depth" type="float" value="0.03" unittype="distance" unit="meter"/></open_pbr'
        )
        found = taken(text.replace(b"</open_pbr", depth, 1)).material
        dials = band(found, "interior")["dials"]
        self.assertAlmostEqual(dials["transmission_depth"], 3.0, places=5)
        np.testing.assert_allclose(dials["transmission_color"], (0.2, 0.5, 0.4), rtol=1e-5)

    def test_a_standard_surface_is_read_as_its_parameters_say(self):
        # standard_surface_to_open_pbr.mtlx of the MaterialX package says what corresponds.
        about = {"metalness": ("float", "1"), "base": ("float", "1"), "base_color": ("color3", "0.9, 0.6, 0.3")}
        about |= {"specular_roughness": ("float", "0.35"), "coat": ("float", "0.5"), "coat_IOR": ("float", "1.45")}
        found = taken(document("standard_surface", **about, thin_film_thickness=("float", "300"))).material
        self.assertEqual([one["kind"] for one in found["section"]["bands"]], ["coat", "film", "metal"])
        self.assertAlmostEqual(band(found, "metal")["dials"]["specular_roughness"], 0.35, places=6)
        self.assertAlmostEqual(band(found, "film")["dials"]["thin_film_thickness"], 300, places=3)
        self.assertAlmostEqual(band(found, "coat")["dials"]["coat_ior"], 1.45, places=6)

    def test_what_has_no_place_is_told(self):
        report = mtlx.write(demo("glitter-varnish"), demo("window-bench", Stage), SIDE).report
        self.assertIn("Flakes", [line.what for line in report.lines if line.went == "not"])
        report = mtlx.write(demo("abalone-film"), demo("window-bench", Stage), SIDE).report
        self.assertEqual(sum(line.what.startswith("Film of") for line in report.lines if line.went == "not"), 2)
        self.assertTrue(any(line.went == "to set" for line in report.lines))

    def test_figures_say_how_near_a_dye_comes(self):
        report = mtlx.write(demo("rosehip-syrup"), demo("window-bench", Stage), SIDE).report
        (line,) = [line for line in report.lines if line.what == "Interior: over wavelength"]
        self.assertGreater(float(line.figure.split()[1]), 0.3)

    def test_bad_files_are_refused_in_words(self):
        surface = document("open_pbr_surface")
        include = b'<materialx version="1.39" xmlns:xi="http://www.w3.org/2001/XInclude"><xi:include href="/etc/passwd"/></materialx>'
        for text in (
            b"<materialx",
            b"not xml",
            b"<materialx version='1.39'/>",
            include,
            surface.replace(b"open_pbr_surface", b"my_surface"),
        ):
            with self.subTest(text[:40]), self.assertRaises(Refused) as caught:
                taken(text)
            self.assertTrue(caught.exception.faults[0].allowed)

    def test_nodes_in_a_circle_or_without_end_are_refused_in_words(self):
        def wired(*pairs: tuple[str, str]) -> bytes:
            nodes = "".join(
                f'<add name="{name}" type="color3"><input name="in1" type="color3" nodename="{source}"/></add>'
                for name, source in pairs
            )
            first = f'<input name="base_color" type="color3" nodename="{pairs[0][0]}"/>'
            text = document("open_pbr_surface", base_weight=("float", "1")).decode()
            return (
                text.replace("<open_pbr_surface", f"{nodes}<open_pbr_surface")
                .replace("</open_pbr_surface>", f"{first}</open_pbr_surface>")
                .encode()
            )

        chain = [(f"n{k}", f"n{k + 1}") for k in range(900)]
        for text, says in ((wired(("a", "b"), ("b", "a")), "circle"), (wired(*chain), "deep")):
            with self.subTest(says), self.assertRaises(Refused) as caught:
                taken(text)
            self.assertIn(says, caught.exception.faults[0].fault)

    def test_a_picture_that_did_not_come_is_told_and_the_rest_is_read(self):
        written = mtlx.write(demo("scratched-beaker"), demo("window-bench", Stage), SIDE)
        first = next(iter(written.files))
        report = mtlx.read_files({first: written.files[first]}, first).report
        self.assertTrue(any(line.what.startswith("Picture") for line in report.lines if line.went == "not"))

    def test_a_split_is_two_surfaces_mixed(self):
        written, taken_in = out_and_back("oil-slate")
        self.assertIn(b"<mix ", written.files[next(iter(written.files))])
        sides = {one["side"] for one in taken_in.material["section"]["bands"]}
        self.assertLessEqual({"first", "second"}, sides)


class OverGltf(SimpleTestCase):
    def test_every_material_passes_the_validator(self):
        # gltf-validator of Khronos (npm), which names every error of a file.
        names = [name for name in demo_materials() if has_surface(demo(name))]
        on_a_prism = scenes.stage("wedge_prism")
        with tempfile.TemporaryDirectory() as folder:
            for name in names:
                on = demo("window-bench", Stage) if LONG or name == "net-float" else on_a_prism
                (data,) = glb.write(demo(name), on, 32).files.values()
                (Path(folder) / f"{name}.glb").write_bytes(data)
            found = subprocess.run(
                ["node", str(ROOT / "tools" / "validate_glb.cjs"), folder], capture_output=True, text=True, check=True
            )
        said = json.loads(found.stdout)
        self.assertEqual(len(said), len(names))
        self.assertEqual({name: faults for name, faults in said.items() if faults}, {})

    def test_values_come_back(self):
        _, taken_in = out_and_back("cobalt-glass", glb)
        before = band(demo("cobalt-glass").model_dump(mode="json"), "interior")["dials"]
        after = band(taken_in.material, "interior")["dials"]
        depth = before["transmission_depth"]
        same_depth = np.power(after["transmission_color"], depth / after["transmission_depth"])
        np.testing.assert_allclose(same_depth, before["transmission_color"], rtol=1e-4)

    def test_an_abbe_number_goes_by_the_rule_of_its_extension(self):
        # KHR_materials_dispersion: dispersion = 20 / Abbe number.
        written = glb.write(demo("diamond"), demo("window-bench", Stage), 32)
        made, _ = glb.unpacked(next(iter(written.files.values())))
        about = made["materials"][0]["extensions"]
        self.assertAlmostEqual(about["KHR_materials_dispersion"]["dispersion"], 20 / 55.3, delta=0.02)
        self.assertAlmostEqual(about["KHR_materials_ior"]["ior"], 2.417, delta=0.002)

    def test_the_form_goes_over_in_metres(self):
        stage = demo("window-bench", Stage)
        written = glb.write(demo("net-float"), stage, 32)
        made, _ = glb.unpacked(next(iter(written.files.values())))
        place = made["accessors"][made["meshes"][0]["primitives"][0]["attributes"]["POSITION"]]
        low, high = worn(reading_of(demo("net-float"), stage))[1].bounds()
        np.testing.assert_allclose(place["min"], low, atol=1e-6)
        np.testing.assert_allclose(place["max"], high, atol=1e-6)

    def test_a_form_that_was_written_can_be_put_in(self):
        (data,) = glb.write(demo("net-float"), demo("window-bench", Stage), 32).files.values()
        mesh = read_mesh(data)
        self.assertIsNotNone(mesh.uv)
        self.assertGreater(len(mesh.faces), 1000)

    def test_bad_files_are_refused_in_words(self):
        (data,) = glb.write(demo("net-float"), demo("window-bench", Stage), 32).files.values()
        for given in (b"glTF", data[:30], b"glTF" + b"\0" * 40, data.replace(b'"materials":[', b'"materialz":[')):
            with self.subTest(given[:12]), self.assertRaises(Refused):
                glb.read_files({"a.glb": given}, "a.glb")


class ViewAsTable(SimpleTestCase):
    def test_another_library_shows_by_it_what_the_view_shows(self):
        # OpenColorIO reads the file (Cube LUT Specification 1.0).
        import PyOpenColorIO as ocio

        rng = np.random.default_rng(3)
        light = (rng.random((1, 400, 3)) ** 3 * 4).astype(np.float32)
        np.testing.assert_allclose(light_at(steps_of(light)), light, rtol=1e-4, atol=1e-6)
        for view, within in (("plain", 0.06), ("film", 0.03)):
            with self.subTest(view), tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "view.cube"
                path.write_text(cube_of(view))
                table = ocio.FileTransform(str(path), interpolation=ocio.INTERP_TETRAHEDRAL)
                shown = np.ascontiguousarray(steps_of(light), np.float32)
                ocio.Config.CreateRaw().getProcessor(table).getDefaultCPUProcessor().applyRGB(shown)
                expected = VIEWS[view](light, 0.0) / 255
                self.assertLess(np.abs(shown - expected).max(), within)
                self.assertLess(np.abs(shown - expected).mean(), within / 8)


class Baked(SimpleTestCase):
    def test_a_picture_over_texture_coordinates_has_what_the_network_gives_there(self):
        reading = reading_of(demo("pelt-skin"), demo("window-bench", Stage))
        registers = reading.compiled.dials["body", "base_color"]
        baked = Bake(reading, 128).picture(registers)
        self.assertEqual(baked.shape, (128, 128, 3))
        self.assertTrue(np.isfinite(baked).all())
        self.assertGreater(baked.std(), 0.01)

    def test_a_normal_that_nothing_bends_is_flat(self):
        reading = reading_of(demo("tea-caddy"), demo("window-bench", Stage))
        ops = reading.compiled.ops
        flat = Bake(reading, 64).normals(tuple(ops.input(f"normal_{axis}") for axis in "xyz"))
        np.testing.assert_allclose(flat, np.broadcast_to((0.5, 0.5, 1.0), flat.shape), atol=0.01)

    def test_a_place_on_the_form_is_that_of_the_texel(self):
        stage = demo("window-bench", Stage)
        reading = reading_of(demo("pelt-skin"), stage)
        mesh = worn(reading)[1]
        texels = Bake(reading, 64)._texels
        low, high = (v * 100 for v in mesh.bounds())
        for k, axis in enumerate("xyz"):
            self.assertGreaterEqual(texels[axis].min(), low[k] - 1e-3)
            self.assertLessEqual(texels[axis].max(), high[k] + 1e-3)


class LooksLike(SimpleTestCase):
    def test_the_same_matter_is_not_apart_and_another_is(self):
        stage, material = demo("window-bench", Stage), demo("net-float")
        tracer = Tracer(2)
        same = difference_on(material, material, stage, tracer, side=48, samples=8)
        self.assertLess(same.delta_e, 1e-4)
        self.assertGreater(same.noise, 0)
        other = difference_on(material, demo("gold-leaf"), stage, tracer, side=48, samples=8)
        self.assertGreater(other.delta_e, 10)
        self.assertEqual(drawn(other).shape[2], 3)

    def test_lights_are_three_on_the_same_forms(self):
        stage = demo("window-bench", Stage)
        found = stages_for(demo("net-float"), stage)
        self.assertEqual(len(found), len(LIGHTS))
        self.assertTrue(all(one.objects == stage.objects for one in found))
        self.assertEqual([one.name for one in found[1:]], list(LIGHTS[1:]))

    def test_a_float_looks_alike_after_both_ways(self):
        stage, tracer = demo("window-bench", Stage), Tracer(2)
        for form, within in ((mtlx, 1.0), (glb, 3.0)):
            _, taken_in = out_and_back("net-float", form)
            with self.subTest(form.NAME):
                found = difference_on(
                    demo("net-float"),
                    read(Material, taken_in.material),
                    stage,
                    tracer,
                    side=96 if LONG else 64,
                    samples=32,
                )
                self.assertLess(found.delta_e, within)


class TakenInAChild(SimpleTestCase):
    def zipped(self, files: dict[str, bytes]) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as pack:
            for name, data in files.items():
                pack.writestr(name, data)
        return out.getvalue()

    def damaged(self) -> bytes:
        """A zip whose packed bytes are no longer what they were."""
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
            pack.writestr("a.mtlx", document("open_pbr_surface") * 50)
        data = bytearray(out.getvalue())
        data[60:90] = b"\xff" * 30
        return bytes(data)

    def test_a_zip_of_a_document_and_its_pictures_is_read(self):
        written = mtlx.write(demo("scratched-beaker"), demo("window-bench", Stage), SIDE)
        name = keep([self.zipped(written.files)])
        facts, files = facts_of(name, "handed"), arrays_of(name, "handed")
        self.assertEqual(facts["report"]["format"], "mtlx")
        self.assertEqual(len(files), 1)
        pictures = [slip["dials"]["file"] for slip in facts["material"]["slips"] if slip["kind"] == "picture"]
        self.assertEqual(set(pictures), set(files))

    def test_names_that_lead_out_of_the_zip_lead_nowhere(self):
        found = taken_of(self.zipped({"../../etc/a.mtlx": document("open_pbr_surface")}))
        self.assertEqual(found.material["format"], "nineglass.material")

    def test_too_much_or_nothing_is_refused(self):
        many = self.zipped({f"{k}.txt": b"" for k in range(600)})
        for given in (
            many,
            self.zipped({"a.txt": b"x"}),
            self.damaged(),
            b"PK\x03\x04",
            b"",
            b'{"format": "nineglass.material"}',
        ):
            with self.subTest(given[:20]), self.assertRaises(Refused):
                taken_of(given)

    def test_a_material_of_an_older_version_tells_what_was_brought_up(self):
        older = next((ROOT / "core" / "tests" / "version_1").glob("*.json"))
        for path in (ROOT / "core" / "tests" / "version_1").glob("*.json"):
            if json.loads(path.read_text()).get("format") == "nineglass.material":
                older = path
        found = taken_of(older.read_bytes())
        self.assertEqual(found.material["version"], 2)
        self.assertTrue(any("modules" in line.what for line in found.report.lines))

    def test_every_format_knows_what_it_wrote_and_no_other_does(self):
        for one in written_formats():
            given = next(iter(one.write(demo("net-float"), demo("window-bench", Stage), 32).files.values()))
            if given[:2] == b"PK":
                with zipfile.ZipFile(io.BytesIO(given)) as package:
                    given = package.read(package.infolist()[0])
            head = given[:HEAD]
            reader = "usd" if one.name == "usd_text" else one.name
            self.assertEqual([other.name for other in formats().values() if other.begins(head)], [reader])
