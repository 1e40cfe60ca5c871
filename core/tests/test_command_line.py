import contextlib
import io
import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

import numpy as np
import OpenEXR
from django.test import SimpleTestCase
from nineglass.__main__ import main
from nineglass.documents.model import Material, Stage, read
from nineglass.picture.display import to_srgb8
from nineglass.picture.files import write_exr
from nineglass.trace.scene import build_set
from PIL import Image

from tests.scenes import DEMO, demo

ROOT = DEMO.parent
EVERY_DEMO = """
import json, os
from pathlib import Path
from nineglass.documents.model import Material, Stage, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.kernels import cache_misses
from nineglass.trace.film import Film
from nineglass.trace.follow import fan_of, through_pixel
from nineglass.trace.hold_up import hold_up
from nineglass.trace.pick import pick
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set
documents = [json.loads(path.read_text()) for path in sorted(Path("demo").glob("*.json"))]
materials = [read(Material, one) for one in documents if one["format"] == "nineglass.material"]
stages = [read(Stage, one) for one in documents if one["format"] == "nineglass.stage"]
tracer = Tracer(1)
in_full = "NINEGLASS_LONG_TESTS" in os.environ
for k in range(max(len(materials), len(stages))):
    material = materials[k % len(materials)]
    # In a short run every stage once; the other materials stand on the last.
    stage = stages[k % len(stages) if in_full or k < len(stages) else -1]
    the_set = build_set(material, stage, waits=in_full)
    tracer.render(the_set, Film(8, 8))
    read_bench(Reading(material, stage, the_set.compiled))
    fan_of(the_set, *through_pixel(the_set, 0.5, 0.5))
    pick(the_set, tracer, 0.5, 0.5, (64, 64), 4)
    for slip in {slip for slip, _ in the_set.compiled.outputs}:
        hold_up(the_set, slip, 4)
assert not cache_misses(), cache_misses()
"""
FLOAT, LAMP_ROOM = DEMO / "net-float.json", DEMO / "lamp-room.json"


def run(*arguments) -> subprocess.CompletedProcess:
    """In this process, where nothing has to be loaded anew."""
    said, complained = io.StringIO(), io.StringIO()
    with contextlib.chdir(ROOT), contextlib.redirect_stdout(said), contextlib.redirect_stderr(complained):
        code = main([str(one) for one in arguments])
    return subprocess.CompletedProcess(arguments, code, said.getvalue(), complained.getvalue())


def run_alone(*arguments) -> subprocess.CompletedProcess:
    """In a process of its own, as a person calls it."""
    command = [sys.executable, "-m", "nineglass", *map(str, arguments)]
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "core")}
    return subprocess.run(command, capture_output=True, text=True, env=environment, cwd=ROOT, check=False)


class CommandLine(SimpleTestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def write(self, document):
        path = self.folder / "document.json"
        path.write_text(json.dumps(document))
        return path

    def test_render_writes_openexr_with_its_facts(self):
        out = self.folder / "float.exr"
        done = run_alone("render", FLOAT, LAMP_ROOM, "-o", out, "--size", "40x30", "--samples", 4, "--seed", 3)
        self.assertEqual(done.returncode, 0, done.stderr)
        file = OpenEXR.File(str(out))
        self.assertEqual(file.channels()["RGB"].pixels.shape, (30, 40, 3))
        header = file.header()
        self.assertEqual(header["colorSpace"], "lin_rec709")
        np.testing.assert_allclose(header["chromaticities"][-2:], (0.3127, 0.3290), atol=1e-6)
        facts = json.loads(header["comments"])
        self.assertEqual((facts["material"], facts["samples"], facts["seed"]), ("Net float", 4, 3))

    def test_the_same_seed_gives_the_same_picture(self):
        for name in ("a.png", "b.png"):
            run("render", FLOAT, LAMP_ROOM, "-o", self.folder / name, "--size", "24x24", "--samples", 2)
        self.assertEqual((self.folder / "a.png").read_bytes(), (self.folder / "b.png").read_bytes())
        self.assertEqual(Image.open(self.folder / "a.png").size, (24, 24))

    def test_gauge_with_the_lengths_of_a_stage(self):
        done = run("gauge", "ladder", FLOAT, "--stage", LAMP_ROOM, "--json")
        ladder = json.loads(done.stdout)
        self.assertEqual(len(ladder["hex"]), len(ladder["lengths_cm"]))
        # Two walls of about 0.8 cm: the middle length is near twice that.
        self.assertAlmostEqual(ladder["measured"]["middle_cm"], 1.7, delta=0.5)

    def test_check_says_each_fault_in_a_line(self):
        document = demo("net-float")
        document["section"]["bands"][0]["dials"] = {"specular_ior": 9, "shine": 1}
        done = run("check", self.write(document))
        self.assertEqual(done.returncode, 1)
        lines = done.stdout.splitlines()
        self.assertEqual(len(lines), 2)
        self.assertIn("section.bands[0].dials.specular_ior: 9 is out of range; allowed: a number from 1 to 3", lines)
        self.assertEqual(run_alone("check", FLOAT).returncode, 0)

    def test_a_missing_file_or_an_unknown_ending(self):
        self.assertIn("No such file", run("check", "nowhere.json").stdout)
        done = run("render", FLOAT, LAMP_ROOM, "-o", self.folder / "a.tiff")
        self.assertEqual(done.returncode, 1)
        self.assertIn(".exr or .png", done.stderr)

    def test_catalogue_lists_every_kind(self):
        catalogue = json.loads(run("catalogue", "--json").stdout)
        roles = {kind["role"] for kind in catalogue["kinds"]}
        self.assertEqual(roles, {"band", "slip", "form", "floor", "lamp", "surround", "camera", "finish", "device"})
        names = {kind["name"] for kind in catalogue["kinds"] if kind["role"] == "slip"}
        self.assertTrue({"facing", "ramp", "fractal_noise", "position", "remap", "clamp", "mix", "arithmetic"} <= names)
        gauges = [
            "ladder",
            "strand",
            "absorption",
            "index",
            "flame_light",
            "film",
            "facing",
            "mean_free_path",
            "phase",
            "slab",
        ]
        self.assertEqual([gauge["name"] for gauge in catalogue["gauges"]], gauges)


class Kernels(SimpleTestCase):
    def test_a_second_process_compiles_nothing(self):
        """Every demo document runs, and answers what is asked of it, on what set-up has compiled: its kernels are of the same types."""
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "core")}
        done = subprocess.run(
            [sys.executable, "-c", EVERY_DEMO], capture_output=True, text=True, env=environment, cwd=ROOT, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_it_is_known_what_a_stage_needs(self):
        from nineglass import warm

        the_set = build_set(
            read(Material, {"section": {"bands": [{"id": "b", "kind": "body"}]}}),
            read(Stage, json.loads((ROOT / "demo" / "window-bench.json").read_text())),
        )
        with mock.patch.object(warm, "is_ready", return_value=False):
            missing = warm.missing_for(the_set)
            self.assertIn("layers", missing)
            self.assertNotIn("fast shadows", missing)
            self.assertTrue(set(missing) >= {"rays", "locate", "floor"})
        self.assertEqual(warm.missing_for(the_set), [])

    def test_an_edit_of_a_called_file_changes_the_key(self):
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "core"
            subprocess.run(["cp", "-r", str(ROOT / "core"), str(copy)], check=True)
            code = (
                "from pathlib import Path; from nineglass import kernels, vectors; from nineglass.optics import conductor, dielectric;"
                "print(*(kernels.stamp_of(m.__name__, Path(m.__file__)) for m in (conductor, dielectric, vectors)))"
            )

            def stamps():
                environment = {**os.environ, "PYTHONPATH": str(copy)}
                done = subprocess.run(
                    [sys.executable, "-c", code],
                    capture_output=True,
                    text=True,
                    env=environment,
                    cwd=folder,
                    check=True,
                )
                return done.stdout.split()

            before = stamps()
            self.assertEqual(before, stamps())
            edited = copy / "nineglass" / "vectors.py"
            edited.write_text(edited.read_text() + "\n# edited\n")
            self.assertEqual([a == b for a, b in zip(before, stamps(), strict=True)], [False, True, False])


class Picture(SimpleTestCase):
    def test_exposure_is_in_stops(self):
        grey = np.full((2, 2, 3), 0.1)
        np.testing.assert_array_equal(to_srgb8(grey, 1.0), to_srgb8(grey * 2))
        self.assertEqual(to_srgb8(np.full((1, 1, 3), 0.2140))[0, 0, 0], 127)

    def test_what_is_too_bright_is_clipped(self):
        np.testing.assert_array_equal(to_srgb8(np.array([[[9.0, -1.0, 0.0]]])), [[[255, 0, 0]]])

    def test_openexr_keeps_light_above_one(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.exr"
            write_exr(path, np.full((3, 4, 3), 40.0), {})
            self.assertEqual(float(OpenEXR.File(str(path)).channels()["RGB"].pixels.max()), 40.0)
