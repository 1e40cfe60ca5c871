"""What comes from outside: parsed JSON, files, and values at the ends of what is allowed."""

import itertools
import os
import struct
import sys
import tempfile
import textwrap
import time
import zlib
from collections import ChainMap
from pathlib import Path
from unittest.mock import patch

import numpy as np
import OpenEXR
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from nineglass import child, put_in
from nineglass.catalogue import FORMS
from nineglass.describe import Refused
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.plain import DEEPEST, fault_of_json
from nineglass.documents.put_in_files import faults_of_files, files_in
from nineglass.files import forget, is_kept, keep
from nineglass.forms.imported import FARTHEST, read_mesh
from nineglass.forms.mesh import faults_of_surface, star
from nineglass.network.compile import compile_network
from nineglass.network.interpret import evaluate
from nineglass.picture.lighting import read_lighting_picture
from nineglass.trace.geometry.standing import meshes_of
from numpy.testing import assert_array_equal

from tests.lengths import LONG, crossed, paired
from tests.scenes import SOLIDS, demo, stage, thing, wire


def faults(model, document) -> list:
    try:
        read(model, document)
    except Refused as refused:
        return refused.faults
    return []


class PlainJson(SimpleTestCase):
    def test_what_no_document_may_have_is_named_with_its_path(self):
        deep = 0
        for _ in range(900):
            deep = [deep]
        for value, path, word in (
            (10**400, "a.b[1]", "large"),
            (float("nan"), "a.b[1]", "no number"),
            (float("-inf"), "a.b[1]", "no number"),
            ("a\0b", "a.b[1]", "NUL"),
            ("\ud800", "a.b[1]", "half of a character"),
            (deep, "a.b[1]", "within one another"),
        ):
            fault = fault_of_json({"a": {"b": [1, value]}})
            self.assertTrue(fault.path.startswith(path), fault)
            self.assertIn(word, fault.fault)
            self.assertTrue(fault.remedy)
        self.assertIn("NUL", fault_of_json({"a\0": 1}).fault)

    @given(
        st.recursive(
            st.none() | st.booleans() | st.floats(-1e9, 1e9) | st.text(),
            lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(), inner, max_size=3),
        )
    )
    def test_all_else_is_plain(self, value):
        has_nul = "\\u0000" in ascii(value) or "\\x00" in ascii(value)
        self.assertEqual(fault_of_json(value) is None, not has_nul)

    def test_a_document_names_the_field_also_within_another_document(self):
        material = demo("net-float")
        material["section"]["bands"][0]["dials"]["specular_ior"] = 10**400
        [fault] = faults(Material, material)
        self.assertEqual(fault.path, "section.bands[0].dials.specular_ior")
        worn = demo("lamp-room")
        worn["objects"][0]["wears"] = {"body": {"material": material}}
        [fault] = faults(Stage, worn)
        self.assertEqual(fault.path, "objects[0].wears.body.material.section.bands[0].dials.specular_ior")

    def test_a_document_without_end_is_told_at_once(self):
        self.assertIn("too many values", fault_of_json({"lamps": [{"a": [0.5] * 9}] * 40_000}).fault)

    def test_lists_may_be_as_deep_as_documents_are(self):
        value = 1.0
        for _ in range(DEEPEST):
            value = [value]
        self.assertIsNone(fault_of_json(value))


class AbsentFiles(SimpleTestCase):
    def test_every_place_that_can_name_a_file_is_looked_at(self):
        material = demo("net-float") | {"version": 2}
        picture = {"id": "t", "kind": "picture", "dials": {"source": "file", "file": "ab" * 32}}
        module = {"id": "m", "name": "M", "slips": [picture], "gives": [{"name": "out", "source": {"slip": "t"}}]}
        material |= {"slips": [picture], "modules": [module]}
        given = demo("lamp-room")
        given["objects"][0] |= {
            "form": {"kind": "imported", "dials": {"file": "cd" * 32}},
            "wears": {"body": {"material": material}},
        }
        given["surround"]["light"] = {"kind": "lighting_picture", "dials": {"picture_of": "file", "file": "ef" * 32}}
        found = files_in(read(Stage, given))
        self.assertEqual(
            [(path, kind) for path, _, kind in sorted(found)],
            [
                ("objects[0].form.dials.file", "mesh"),
                ("objects[0].wears.body.material.modules[0].slips[0].dials.file", "texture"),
                ("objects[0].wears.body.material.slips[0].dials.file", "texture"),
                ("surround.light.dials.file", "picture"),
            ],
        )
        self.assertEqual(len(faults_of_files(found)), 4)
        self.assertEqual(faults_of_files(found, lambda name, kind: True), [])

    def test_a_file_that_has_no_effect_is_not_missed(self):
        given = demo("lamp-room")
        given["surround"]["light"] = {"kind": "lighting_picture", "dials": {"picture_of": "studio", "file": "ef" * 32}}
        self.assertEqual(files_in(read(Stage, given)), [])


class Kept(SimpleTestCase):
    """A folder of kept files of the test's own."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patched = patch.dict(os.environ, {"NINEGLASS_FILES": folder.name})
        patched.start()
        self.addCleanup(patched.stop)


READS_BY_IT = """
import sys
from nineglass import child, put_in
put_in.READERS["mesh"] = "hostile_reader"
child.say(lambda: put_in.main(*sys.argv[1:]))
"""


class ReadInAChild(Kept):
    def read(self, kind, content):
        return put_in.facts_of(keep([content]), kind)

    def with_reader(self, code):
        """A kind of file whose reader is some code."""
        (self.folder / "hostile_reader.py").write_text(textwrap.dedent(code))
        (self.folder / "reads_by_it.py").write_text(READS_BY_IT)
        path = os.pathsep.join([str(self.folder), *sys.path])
        for patched in (
            patch.object(child, "environment", lambda: {**os.environ, "PYTHONPATH": path}),
            patch.object(put_in, "__name__", "reads_by_it"),
        ):
            patched.start()
            self.addCleanup(patched.stop)

    def fault(self, content=b"x"):
        with self.assertRaises(Refused) as caught:
            self.read("mesh", content)
        return caught.exception.faults[0]

    def test_a_mesh_comes_out_as_it_went_in(self):
        mesh = star(lambda out: 0.03 + 0 * out[:, 0], 4)
        name = keep([stl_of(mesh.vertices[mesh.faces])])
        self.assertEqual(put_in.facts_of(name, "mesh")["triangles"], len(mesh.faces))
        arrays = put_in.arrays_of(name, "mesh")
        assert_array_equal(arrays["vertices"][arrays["faces"]], mesh.vertices[mesh.faces])

    def test_what_was_read_before_is_read_anew_when_it_is_gone(self):
        name = keep([b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n" + bytes([128, 128, 128, 129]) * 32])
        first = put_in.arrays_of(name, "picture")["rgb"]
        for form in self.folder.rglob("*.npz"):
            form.unlink()
        assert_array_equal(put_in.arrays_of(name, "picture")["rgb"], first)

    def test_a_reader_that_takes_all_memory_is_stopped(self):
        self.with_reader("def read_file(given):\n    return bytearray(10_000_000_000)\n")
        self.assertIn("memory", self.fault().fault)

    def test_a_reader_that_never_ends_is_stopped(self):
        self.with_reader("def read_file(given):\n    while True:\n        pass\n")
        with patch.object(put_in.READING, "seconds", 3):
            self.assertIn("longer", self.fault().fault)

    def test_its_limit_is_of_the_processor_not_of_the_clock(self):
        """Beside other work a large picture is read slowly, and is read."""
        self.with_reader("import time\ndef read_file(given):\n    time.sleep(3)\n    while True:\n        pass\n")
        began = time.monotonic()
        with patch.object(put_in.READING, "seconds", 1):
            self.assertIn("longer", self.fault().fault)
        self.assertGreater(time.monotonic() - began, 3)

    def test_a_reader_that_dies_is_a_fault_of_the_file(self):
        self.with_reader("import os, signal\ndef read_file(given):\n    os.kill(os.getpid(), signal.SIGSEGV)\n")
        self.assertIn("fails", self.fault().fault)

    def test_few_are_read_at_once_and_the_others_are_told_to_wait(self):
        reading = put_in.READING
        with patch.object(reading, "waits_s", 0.01):
            for _ in range(reading.at_once):
                reading.turns.acquire()
                self.addCleanup(reading.turns.release)
            self.assertIn("Try again", self.fault().remedy)

    def test_small_files_of_large_pictures_are_read_within_the_limits(self):
        facts = self.read("texture", png(8192, 8192))
        self.assertEqual(facts, {"width": 2048, "height": 2048, "linear": False})


class HostileFiles(Kept):
    def test_sizes_are_read_from_heads_before_anything_else(self):
        data = bytearray(exr(64, 32))
        at = data.index(b"dataWindow\0box2i\0") + len(b"dataWindow\0box2i\0") + 4
        data[at : at + 16] = struct.pack("<4i", 0, 0, 99_999, 49_999)
        with self.assertRaises(Refused) as caught:
            read_lighting_picture(bytes(data))
        self.assertEqual(caught.exception.faults[0].fault, "100000 x 50000 pixels")

    def test_runs_of_one_are_read_and_runs_past_the_end_are_not(self):
        head, width = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8 +X 16\n", 16
        row = b"\2\2" + struct.pack(">H", width) + (b"\x01\x80" * width) * 4
        self.assertEqual(read_lighting_picture(head + row * 8).shape, (8, 16, 3))
        for broken in (head + row * 7, head + row * 7 + row[:-3], head + b"\2\2\0\x10" + b"\xff\x80" * 4):
            with self.assertRaises(Refused):
                read_lighting_picture(broken)

    def test_meshes_of_no_size_or_beyond_all_sizes_are_refused(self):
        for content in (
            b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n",
            b"v 0 0 0\nv 1e38 0 0\nv 0 1e38 0\nf 1 2 3\n",
            b"v 0 0 0\nv 1e300 0 0\nv 0 1e300 0\nf 1 2 3\n",
            b"v nan 0 0\nv 1 0 0\nv 0 inf 0\nf 1 2 3\n",
            b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 1000000000000\n",
        ):
            with self.assertRaises(Refused, msg=content):
                read_mesh(content)
        self.assertEqual(len(read_mesh(f"v 0 0 0\nv {FARTHEST} 0 0\nv 0 {FARTHEST} 0\nf 1 2 3\n".encode()).faces), 1)

    def test_a_mesh_stands_only_at_a_size_that_rays_can_meet(self):
        name = keep([b"v 0 0 0\nv 1e-30 0 0\nv 0 1e-30 0\nf 1 2 3\n"])
        small = stage(objects=[thing("a", "imported", {"file": name})])
        with self.assertRaises(Refused) as caught:
            meshes_of(small.objects[0])
        self.assertIn("unit or scale", caught.exception.faults[0].remedy)

    def test_a_file_is_whole_or_not_there(self):
        def breaks_off():
            yield b"half of"
            raise OSError("the disk is full")

        with self.assertRaises(OSError):
            keep(breaks_off())
        self.assertEqual([path for path in self.folder.rglob("*") if path.is_file()], [])
        name = keep([b"whole"])
        self.assertTrue(is_kept(name))
        forget(name)
        self.assertFalse(is_kept(name))

    def test_names_of_files_lead_nowhere_else(self):
        for name in ("../../etc/passwd", "", "a" * 63, "A" * 64, "/etc/passwd"):
            self.assertFalse(is_kept(name))


class Surfaces(SimpleTestCase):
    def test_faults_are_counted_as_by_hand(self):
        """A closed star has none; without a face it has three open edges; with a face turned round three edges look opposite ways."""
        mesh = star(lambda out: 0.03 + 0.004 * out[:, 0], 6)
        self.assertEqual(faults_of_surface(mesh), [])
        turned = mesh.faces.copy()
        turned[5] = turned[5, ::-1]
        for faces, said in (
            (mesh.faces[1:], ["3 open edges"]),
            (turned, ["3 edges whose two faces look opposite ways"]),
        ):
            self.assertEqual(faults_of_surface(type(mesh)(mesh.vertices, mesh.normals, faces)), said)


LARGE = {"sea"}
"""Forms whose mesh takes a second: each end once in a short run."""


def ends_of(form: str) -> list[dict]:
    """Dials of a form at what they begin with and at both ends of what they allow: any two of them at any two of these, in few rows, and by
    `./test --long` each pair by itself as well."""
    numbers = [dial for dial in FORMS.kinds[form].dials.values() if dial.type == "number"]
    axes = [[{}, {dial.name: dial.hard_low}, {dial.name: dial.hard_high}] for dial in numbers]
    rows = [dict(ChainMap(*row)) for row in (crossed(*axes) if form in LARGE and not LONG else paired(axes))]
    if LONG:
        ends = [end for axis in axes for end in axis[1:]]
        rows += [{}, *ends, *(a | b for a, b in itertools.combinations(ends, 2) if a.keys() != b.keys())]
    return rows


class Extremes(SimpleTestCase):
    def test_every_form_stands_at_the_ends_of_what_its_dials_allow(self):
        for name in SOLIDS:
            for dials in ends_of(name):
                with self.subTest(name, **dials):
                    [one] = stage(objects=[thing("a", name, dials)]).objects
                    for mesh in meshes_of(one).values():
                        self.assertTrue(np.isfinite(mesh.vertices).all())

    def test_no_operation_on_constants_breaks(self):
        slips = [{"id": "g", "kind": "gamma", "dials": {"value": 99999.9998, "gamma": 50.005}}]
        document = read(Material, demo("net-float") | {"version": 2, "slips": slips})
        self.assertTrue(
            np.isfinite(compile_network(document).ops.value_of(compile_network(document).outputs["g", "out"]))
        )

    def test_what_drives_a_band_is_held_in_its_limits_and_what_is_no_number_is_the_lower_end(self):
        values = np.array([-5, 0.25, 7, np.nan], np.float32)
        slips = [{"id": "p", "kind": "position"}, {"id": "n", "kind": "separate_vector"}]
        wires = [wire("p", "n.vector"), wire("n.x", "interface.specular_roughness")]
        document = read(
            Material, {"section": {"bands": [{"id": "interface", "kind": "interface"}]}, "slips": slips, "wires": wires}
        )
        compiled = compile_network(document)
        register = compiled.dials["interface", "specular_roughness"]
        found = evaluate(compiled.program, [register], 4, x=values)[0]
        assert_array_equal(found, np.array([0, 0.25, 1, 0], np.float32))


def stl_of(corners) -> bytes:
    """A binary STL of triangles (n, 3, 3)."""
    rows = np.zeros(len(corners), np.dtype([("n", "<f4", 3), ("v", "<f4", (3, 3)), ("a", "<u2")]))
    rows["v"] = corners
    return b"\0" * 80 + struct.pack("<I", len(rows)) + rows.tobytes()


def png(width, height) -> bytes:
    """A black picture in few bytes."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    packer = zlib.compressobj(9)
    rows = b"".join(packer.compress(b"\0" * (1 + 3 * width)) for _ in range(height)) + packer.flush()
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def exr(width, height) -> bytes:
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        zero = np.zeros((height, width), np.float16)
        about = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(about, dict.fromkeys("RGB", zero)).write(file.name)
        return open(file.name, "rb").read()
