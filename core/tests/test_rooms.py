"""A new thing of each kind is one file in its room: written here at run time, and found wherever it belongs."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from textwrap import dedent

from django.test import SimpleTestCase

from tests.scenes import DEMO

ROOT = DEMO.parent

FILES = {
    "bands/dust.py": '''
        from math import pi

        from nineglass.describe import Cut, color_dial, dial
        from nineglass.documents.bands import BANDS


        @BANDS.kind(title="Dust", family="layer", standard="diffuse_bsdf")
        class Dust:
            """Fine dust that lies on everything and throws light back evenly."""

            rank, most, why = 0, 2, "dust settles on top"
            lobe, lies, amount = "nineglass.documents.bands.dust", "top", "thickness"
            cut = Cut("grains", ("dust_color",), says={"thickness": "dust {:.2f}"})

            thickness = dial(0.5, 0.0, 1.0, ends=("clean", "forgotten"), drivable=True)
            dust_color = color_dial((1.0, 1.0, 1.0), label="Dust colour", drivable=True)


        def albedo(tables, dials, cosine):
            return 1.0 - 0.5 * cosine


        def values(tables, dials, wo, wi):
            share = (1.0 - 0.5 * wo[2]) * wi[2] / pi
            return dials[0] * share, dials[1] * share, dials[2] * share, dials[3] * share
    ''',
    "forms/coin.py": '''
        import numpy as np
        from nineglass.describe import dial
        from nineglass.forms import FORMS
        from nineglass.forms.mesh import star


        @FORMS.kind(title="Coin", family="solid")
        class Coin:
            """A flattened ball."""

            diameter = dial(4, 1, 10, unit="cm", ends=("small", "large"))

            def mesh(self, dials):
                return star(lambda out: dials["diameter"] / 200 / np.sqrt(out[:, 0] ** 2 + 9 * out[:, 1] ** 2 + out[:, 2] ** 2), cells=24)
    ''',
    "lamps/tube.py": '''
        from math import pi

        from nineglass.describe import dial
        from nineglass.lamps import LAMPS
        from nineglass.lamps.light import RECTANGLE, Aimed, Light, axes


        @LAMPS.kind(title="Tube lamp", family="area")
        class Tube(Aimed):
            """A long thin lamp."""

            sign = "bar"
            length = dial(60, 5, 300, unit="cm", ends=("short", "long"))

            def light(self, dials):
                toward, side, up = axes(dials)
                half, thin = dials["length"] / 200, 0.01
                radiance = dials["power"] / (pi * 4 * half * thin)
                return Light(RECTANGLE, toward * dials["distance"] / 100, side * thin, up * half, radiance, dials["kelvin"], dials["color"])
    ''',
    "slips/halved.py": '''
        from nineglass.describe import dial, gives
        from nineglass.network.slips import SLIPS


        @SLIPS.kind(title="Halved", family="arithmetic")
        class Halved:
            """Half of a number."""

            value = dial(1.0, 0, 1, ends=("less", "more"))
            out = gives("number")

            def emit(self, ops, dials):
                return ops.mul(dials.value, ops.constant(0.5))
    ''',
    "surrounds/dawn.py": '''
        from nineglass.surrounds import SURROUNDS


        @SURROUNDS.kind(title="Dawn", family="surround")
        class Dawn:
            """Even grey light, for a check."""

            def ends(self, dials):
                return [0.5, 0.5, 0.5], [0.5, 0.5, 0.5], 1.0
    ''',
    "gauges/weight.py": '''
        from nineglass.gauges import GAUGES


        @GAUGES.gauge(title="Weight", plot="curves", bands=("interface", "body"))
        def weight(reading):
            """A straight line."""
            return {
                "x": {"label": "size", "unit": "cm", "values": [0, 1]}, "y": {"label": "weight", "low": 0, "high": 1},
                "curves": [{"label": "weight", "values": [0, 1]}], "marks": [], "caption": "It weighs.", "varies": False,
            }
    ''',
}

CHECK = """
import json
from nineglass import catalogue
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.gauges import reading_of
from nineglass.gauges.bench import read_bench
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set

kinds = {(k["role"], k["name"]): k for k in catalogue.as_json()["kinds"]}
bands = [{"id": "dust", "kind": "dust", "dials": {"thickness": 0.8}}, {"id": "i", "kind": "interface", "dials": {"specular_roughness": 0.4}}]
slips = [{"id": "h", "kind": "halved"}]
wires = [{"source": {"slip": "h"}, "target": {"part": "i", "dial": "specular_roughness"}}]
material = read(Material, {"section": {"bands": bands}, "slips": slips, "wires": wires})
try:
    read(Material, {"section": {"bands": [bands[0] | {"dials": {"thickness": 7}}]}})
    fault = ""
except Refused as refused:
    fault = refused.faults[0].path
stage = {
    "version": 2,
    "objects": [{"id": "coin", "form": {"kind": "coin"}}],
    "surround": {"light": {"kind": "dawn"}},
    "camera": {"kind": "camera", "dials": {"f_stop": 512, "distance": 12}},
}
def mean(lamps):
    film = Film(16, 16)
    Tracer(2).render(build_set(material, read(Stage, stage | {"lamps": lamps})), film, 0, 128)
    return film.rgb().mean(axis=(0, 1)).tolist()
lamp = {"id": "tube", "kind": "tube", "dials": {"power": 40}}
reading = read_bench(reading_of(material, read(Stage, stage)))
print(json.dumps({
    "found": [list(one) for one in (("band", "dust"), ("form", "coin"), ("lamp", "tube"), ("slip", "halved"), ("surround", "dawn")) if one in kinds],
    "style": kinds["band", "dust"]["rules"]["cut"]["style"],
    "sign": kinds["lamp", "tube"]["rules"]["sign"],
    "fault": fault,
    "dark": mean([]),
    "lit": mean([lamp]),
    "cut": reading["section"]["bands"]["dust"],
    "gauges": [gauge["name"] for gauge in reading["gauges"]],
    "slip": reading["slips"]["h"],
}))
"""


def write_rooms(folder: Path) -> None:
    for name, text in FILES.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(dedent(text).lstrip())


class OneFileEach(SimpleTestCase):
    def test_a_new_file_of_each_kind_is_in_catalogue_check_picture_section_and_gauges(self):
        with tempfile.TemporaryDirectory() as folder:
            write_rooms(Path(folder))
            environment = {**os.environ, "PYTHONPATH": str(ROOT / "core"), "NINEGLASS_ROOMS": folder}
            # A band with a response makes the kernel of layers another one; that is compiled once, and kept among the others by what it is made from.
            done = subprocess.run(
                [sys.executable, "-c", CHECK], capture_output=True, text=True, env=environment, check=False
            )
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        found = json.loads(done.stdout)
        self.assertEqual([name for _, name in found["found"]], ["dust", "coin", "tube", "halved", "dawn"])
        self.assertEqual((found["style"], found["sign"]), ("grains", "bar"))
        self.assertEqual(found["fault"], "section.bands[0].dials.thickness")
        for channel in found["dark"]:
            self.assertAlmostEqual(
                channel, 0.5, delta=0.006, msg="the white furnace: dust and glass that take nothing are unseen"
            )
        self.assertGreater(found["lit"][1], found["dark"][1] * 1.05)
        self.assertEqual((found["cut"]["says"], found["cut"]["colors"]), ("dust 0.80", ["#ffffff"]))
        self.assertIn("weight", found["gauges"])
        self.assertEqual(found["slip"]["draws"], "value")

    def test_the_web_knows_no_kind_by_name(self):
        from nineglass import catalogue

        # Words that the web needs for other things: types of dials and ports, fields of documents, roles of HTML.
        others = {
            "number",
            "color",
            "curve",
            "picture",
            "note",
            "point",
            "position",
            "normal",
            "time",
            "order",
            "mix",
            "turn",
        }
        names = sorted({kind["name"] for kind in catalogue.as_json()["kinds"]} - others - {"camera", "floor"})
        pattern = "[\"'`](" + "|".join(names) + ")[\"'`]"
        hits = subprocess.run(
            ["git", "grep", "-nE", pattern, "--", "web/src", ":!web/src/api/schema.ts", ":!web/src/api/openapi.json"],
            capture_output=True,
            text=True,
            cwd=ROOT,
            check=False,
        )
        self.assertEqual(hits.stdout, "")
