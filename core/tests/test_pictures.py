"""What pictures hold and how they are kept: cut-outs, light past white, limits that are told, work that makes way."""

import tempfile
from pathlib import Path

import numpy as np
import OpenEXR
from django.test import SimpleTestCase
from nineglass.catalogue import BANDS
from nineglass.documents.model import Material, Settings, read
from nineglass.picture.files import pixels_of, write_exr, write_png
from nineglass.trace.film import Film
from nineglass.trace.matter import lay_out, table_of
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set
from PIL import Image

from tests.scenes import TRACER, demo, luminance, material, middle, render, stage, thing, wears

BLACK = read(Material, {"section": {"bands": [{"id": "b", "kind": "body", "dials": {"base_color": [0, 0, 0]}}]}})


class CutOut(SimpleTestCase):
    """A black ball before white, cut out: its edge is black and thin, never grey."""

    def setUp(self):
        scene = stage("ball", {"diameter": 6})
        scene.surround.cut_out = True
        self.film = render(BLACK, scene, side=48, samples=32)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def edge(self):
        alpha = self.film.alpha()
        return (alpha > 0.05) & (alpha < 0.95)

    def test_png(self):
        write_png(self.folder / "a.png", pixels_of(self.film.rgb(), 0.0, self.film.alpha()))
        pixels = np.asarray(Image.open(self.folder / "a.png"))
        self.assertEqual(pixels.shape[2], 4)
        self.assertGreater(self.edge().sum(), 20)
        self.assertLess(pixels[..., :3][self.edge()].max(), 12)

    def test_exr_is_associated(self):
        write_exr(self.folder / "a.exr", self.film.rgb(), {}, self.film.alpha())
        pixels = OpenEXR.File(str(self.folder / "a.exr")).channels()["RGBA"].pixels
        self.assertLess(pixels[..., :3][self.edge()].max(), 0.01)
        self.assertAlmostEqual(float(pixels[24, 24, 3]), 1.0)
        self.assertEqual(float(np.abs(pixels[0, 0]).max()), 0.0)

    def test_light_past_half_precision_is_kept(self):
        write_exr(self.folder / "b.exr", np.full((2, 2, 3), 3e6), {})
        self.assertAlmostEqual(float(OpenEXR.File(str(self.folder / "b.exr")).channels()["RGB"].pixels.max()), 3e6)


class Limits(SimpleTestCase):
    def test_frosted_dense_matter_keeps_its_light(self):
        for index in (1.5, 2.4):
            for roughness in (0.4, 1.0):
                frosted = material(interface={"specular_ior": index, "specular_roughness": roughness})
                film = render(frosted, stage("ball", camera={"distance": 20}), side=24, samples=1024, of=2)
                self.assertAlmostEqual(luminance(middle(film, 0.5)), 1.0, delta=0.015)
                self.assertLess(film.cut_share(), 0.0005)

    def test_a_limit_tells_the_light_that_it_cost(self):
        # In an even surround of 1 what is missing from the picture is what was cut.
        frosted = material(interface={"specular_ior": 2.4, "specular_roughness": 0.8})
        film = render(frosted, stage("ball", camera={"distance": 12}), side=24, samples=128, most_bounces=4)
        missing = 1 - luminance(film.rgb().mean(axis=(0, 1)))
        self.assertGreater(missing, 0.05)
        self.assertAlmostEqual(film.cut_share(), missing, delta=0.03)

    def test_older_settings_are_brought_up(self):
        kept = {"format": "nineglass.settings", "version": 1, "most_bounces": 16, "theme": "night"}
        self.assertEqual((read(Settings, kept).most_bounces, read(Settings, kept).theme), (128, "night"))
        self.assertEqual(read(Settings, kept | {"most_bounces": 40}).most_bounces, 40)


class MakingWay(SimpleTestCase):
    def test_a_pass_that_made_way_goes_on_where_it_was(self):
        the_set = build_set(material(interface={"specular_roughness": 0.3}), stage(lamps=[{}]))
        whole, parted, asked = Film(96, 96), Film(96, 96), []
        TRACER.render(the_set, whole, 0, 1)
        left = TRACER.render(the_set, parted, 0, 1, makes_way=lambda: asked.append(1) or len(asked) > 1)
        self.assertTrue(0 < sum(job.pixels for job in left) < 96 * 96, left)
        self.assertEqual(TRACER.render(the_set, parted, jobs=left), [])
        np.testing.assert_allclose(parted.sums, whole.sums, rtol=1e-9, atol=1e-12)
        np.testing.assert_array_equal(parted.counts, whole.counts)


class Kept(SimpleTestCase):
    """What a change does not touch is not made again."""

    def test_a_turned_dial_keeps_stage_and_light(self):
        scene = stage(objects=[thing("a", "ball"), thing("b", "ball", at=(8, 0, 0), wears=wears(BLACK))], lamps=[{}])
        first = build_set(material(), scene)
        turned = build_set(material(interface={"specular_ior": 1.7}), scene, before=first)
        self.assertIs(turned.rays, first.rays)
        self.assertIs(turned.lighting, first.lighting)
        self.assertIs(turned.standing, first.standing)
        self.assertIs(turned.table.laid[1], first.table.laid[1])
        self.assertAlmostEqual(float(turned.scene.media.ior[0]), 1.7, places=5)
        fresh = Film(16, 16), Film(16, 16)
        for film, the_set in zip(
            fresh, (turned, build_set(material(interface={"specular_ior": 1.7}), scene)), strict=True
        ):
            Tracer(1).render(the_set, film)
        np.testing.assert_array_equal(fresh[0].sums, fresh[1].sums)

    def test_what_did_change_is_made(self):
        scene = stage(lamps=[{}])
        first = build_set(material(), scene)
        moved, lit = scene.model_copy(deep=True), scene.model_copy(deep=True)
        moved.objects[0].turn = 30
        lit.lamps[0].dials["power"] = 9
        self.assertIsNot(build_set(material(), moved, before=first).rays, first.rays)
        again = build_set(material(), lit, before=first)
        self.assertIs(again.rays, first.rays)
        self.assertGreater(float(again.scene.lamps.strength[0]), float(first.scene.lamps.strength[0]))

    def test_a_turned_dial_rewrites_constants_only(self):
        for name in ("tea-caddy", "driftwood-lid", "oil-slate", "scratched-beaker"):
            given = demo(name)
            band = given["section"]["bands"][-1]
            dial = next(one for one in BANDS.kinds[band["kind"]].dials.values() if one.type == "number")
            dials = band.setdefault("dials", {})
            dials[dial.name] = dial.low + 0.4321 * (dial.high - dial.low)
            before = lay_out(read(Material, given))
            dials[dial.name] = dial.low + 0.4357 * (dial.high - dial.low)
            turned, fresh = lay_out(read(Material, given), before), lay_out(read(Material, given))
            with self.subTest(name):
                self.assertIs(turned.placed.program, before.placed.program)
                self.assertIs(turned.texels, before.texels)
                for one, other in zip(*(_arrays_of(table_of([laid])) for laid in (turned, fresh)), strict=True):
                    np.testing.assert_array_equal(one, other)

    def test_a_turned_dial_of_a_slip_is_compiled_again(self):
        given = demo("driftwood-lid")
        before = lay_out(read(Material, given))
        slip = next(one for one in given["slips"] if one["kind"] == "noise")
        slip.setdefault("dials", {})["size"] = 1.2345
        turned, fresh = lay_out(read(Material, given), before), lay_out(read(Material, given))
        self.assertIsNot(turned.compiled.grown, before.compiled.grown)
        for one, other in zip(*(_arrays_of(table_of([laid])) for laid in (turned, fresh)), strict=True):
            np.testing.assert_array_equal(one, other)

    def test_materials_share_their_registers(self):
        documents = [read(Material, demo(name)) for name in ("tea-caddy", "driftwood")]
        alone = [build_set(one, stage()).table for one in documents]
        scene = stage(objects=[thing("a", "ball"), thing("b", "ball", at=(8, 0, 0), wears=wears(documents[1]))])
        together = build_set(documents[0], scene).table
        self.assertLess(together.registers, sum(table.registers for table in alone))
        for table in alone:
            self.assertLess(table.laid[0].placed.varying, table.laid[0].compiled.program.registers)


def _arrays_of(table) -> list[np.ndarray]:
    """All that the kernels read of a table."""
    rows = [table.sides, table.media, table.glow, *table.families]
    return [np.asarray(one) for row in rows for one in row] + [table.constants, *table.programs, *table.fits]
