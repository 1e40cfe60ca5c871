"""Which kernels are compiled ahead, by whom, and what waits for them."""

import os
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import mock

from django.test import SimpleTestCase
from nineglass import warm
from nineglass.documents.model import Material, Stage, read
from nineglass.trace.families.registry import FAMILIES
from nineglass.trace.scene import build_set

from tests.scenes import demo, material, stage, thing, wears, wire


def missing(document: Material, on: Stage) -> set[str]:
    """What a set needs when nothing is there."""
    with mock.patch.object(warm, "is_ready", return_value=False):
        return set(warm.missing_for(build_set(document, on)))


def bands(*kinds: str) -> Material:
    return read(Material, {"section": {"bands": [{"id": kind, "kind": kind} for kind in kinds]}})


class Needed(SimpleTestCase):
    """A stage waits for what it needs and for nothing else."""

    def test_the_first_stage_needs_no_more_than_is_compiled_before_the_link(self):
        first = {job.name for job in warm.JOBS if job.first}
        self.assertLessEqual(missing(read(Material, demo("net-float")), read(Stage, demo("window-bench"))), first)

    def test_each_thing_asks_for_its_own_kernel(self):
        plain = missing(material(), stage())
        self.assertEqual(missing(bands("interface", "body"), stage()) ^ plain, {"interface", "layers"})
        self.assertEqual(missing(bands("glow", "interface"), stage()) - plain, {"glow"})
        fast = stage().model_copy(update={"fast_shadows": True})
        self.assertEqual(missing(material(), fast) ^ plain, {"shadows", "fast shadows"})
        slips = [
            {"id": "p", "kind": "position"},
            {"id": "n", "kind": "fractal_noise"},
            {"id": "m", "kind": "color_mix"},
        ]
        wires = [wire("n", "m.amount"), wire("m", "interior.transmission_color")]
        self.assertEqual(missing(material(interior={}, slips=slips, wires=wires), stage()) - plain, {"colours"})

    def test_both_families_on_one_stage(self):
        objects = [thing("a", "ball"), thing("b", "ball", at=(9, 0, 0), wears=wears(bands("body")))]
        self.assertLessEqual({"interface", "layers"}, missing(material(), stage(objects=objects)))

    def test_strands_ask_for_theirs(self):
        objects = [thing("skin", "ball"), thing("fur", "strands", {"count": 100})]
        found = missing(material(), stage(objects=objects)) - missing(material(), stage())
        self.assertEqual(found, {"fibre"})

    def test_every_family_has_a_job_and_names_are_told_apart(self):
        names = [job.name for job in warm.JOBS]
        self.assertEqual(len(names), len(set(names)))
        self.assertLessEqual({family.name for family in FAMILIES}, set(names))


class Compiling(SimpleTestCase):
    """Jobs are shared out among processes by claims; a marker says that one is done."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        ready = mock.patch.object(warm, "_there", set())
        ready.start()
        self.addCleanup(ready.stop)
        kept = mock.patch.dict(os.environ, {"NINEGLASS_KERNEL_CACHE": str(self.folder)})
        kept.start()
        self.addCleanup(kept.stop)
        warm._markers.cache_clear()
        self.addCleanup(warm._markers.cache_clear)
        self.done = []

    def jobs(self, *names: str) -> dict:
        return {
            name: replace(warm.BY_NAME[name], act=lambda worker, the_set, name=name: self.done.append(name))
            for name in names
        }

    def test_what_another_process_claimed_is_left_to_it(self):
        claims = self.folder / "claims"
        claims.mkdir()
        (claims / "queue").touch()
        with mock.patch.object(warm, "BY_NAME", self.jobs("queue", "settle")):
            warm._work_off(claims, ["queue", "settle"])
        self.assertEqual(self.done, ["settle"])
        self.assertEqual((warm.is_ready("queue"), warm.is_ready("settle")), (False, True))
        self.assertEqual(warm.progress(), (1, len(warm.JOBS)))

    def test_a_job_that_fails_leaves_no_marker(self):
        claims = self.folder / "claims"
        claims.mkdir()

        def fails(worker, the_set):
            raise MemoryError

        broken = {"settle": replace(warm.BY_NAME["settle"], act=fails)}
        with mock.patch.object(warm, "BY_NAME", broken), self.assertRaises(MemoryError):
            warm._work_off(claims, ["settle"])
        self.assertFalse(warm.is_ready("settle"))

    def test_nothing_is_started_when_all_is_there(self):
        for job in warm.JOBS:
            job.marker.parent.mkdir(exist_ok=True)
            job.marker.touch()
        with mock.patch.object(warm.subprocess, "Popen", side_effect=AssertionError):
            self.assertEqual(warm.compile_all([job.name for job in warm.JOBS], 2), 0)

    def test_old_kernels_go_and_fresh_ones_stay(self):
        for name, age in (("trace.old-1", 8 * 86400), ("trace.new-2", 3600), ("ready", 30 * 86400)):
            folder = self.folder / name
            folder.mkdir()
            (folder / "kernel").touch()
            at = folder.stat().st_mtime - age
            os.utime(folder, (at, at))
        warm._clear_away()
        self.assertEqual({one.name for one in self.folder.iterdir()}, {"trace.new-2", "ready"})
