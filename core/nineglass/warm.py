"""Compiling kernels ahead, with exactly the types of production, by as many processes as there are cores; and which of them are there.

    python -m nineglass.warm --first     what the first stage needs, and no more
    python -m nineglass.warm             everything

A renderer compiles nothing: it asks `missing_for` whether what a stage needs is there, and waits otherwise.
"""

import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from nineglass.documents.model import Material, Stage, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.kernels import cache_folder, stamp_of
from nineglass.network.interpret import run_program
from nineglass.picture import views
from nineglass.picture.display import to_srgb8
from nineglass.trace.families import layers
from nineglass.trace.families.floor import shade_floor
from nineglass.trace.families.glow import add_glow
from nineglass.trace.families.registry import FAMILIES
from nineglass.trace.film import Film
from nineglass.trace.follow import Follower
from nineglass.trace.generate import generate
from nineglass.trace.geometry.rays import cast_fast_shadows, cast_shadows, cast_shadows_in_fog, intersect
from nineglass.trace.guides import note_guides
from nineglass.trace.light.throw import throw
from nineglass.trace.locate import locate, queue_by_family, sort_by_material
from nineglass.trace.media.scattering import walk_through_media
from nineglass.trace.paths import GUIDES, Limits
from nineglass.trace.programs import fit_colors
from nineglass.trace.render import Worker
from nineglass.trace.scene import Set, build_set
from nineglass.trace.settle import settle

FIRST_FAMILIES = ("interface",)
"""Families of the first stage."""

SURFACE = {"kind": "interface", "id": "interface"}
STAGE = {
    "version": 2,
    "objects": [{"id": "ball", "form": {"kind": "ball"}}],
    "surround": {"light": {"kind": "plain"}},
    "camera": {"kind": "camera"},
}
OTHERS = (
    [SURFACE, {"kind": "interior", "id": "interior", "dials": {"scatter_amount": 20.0}}],
    [{"kind": "interior", "id": "interior", "dials": {"scatter_amount": 20.0, "phase": "molecules"}}],
    [{"kind": "coat", "id": "coat"}, {"kind": "film", "id": "film"}, SURFACE, {"kind": "body", "id": "body"}],
    [{"kind": "fuzz", "id": "fuzz"}, {"kind": "film", "id": "film"}, {"kind": "metal", "id": "metal"}],
    [{"kind": "fibre", "id": "fibre"}],
    [{"kind": "coat", "id": "coat"}, {"kind": "flakes", "id": "flakes"}, SURFACE, {"kind": "body", "id": "body"}],
)
"""Sections whose gauges and ways of rays ask for what the plain one does not."""


@dataclass(frozen=True)
class Job:
    """Kernels that are compiled in one go, by running `act`."""

    name: str
    kernels: tuple
    """Or functions that call kernels; it is done again when anything that these are made from has changed."""
    act: Callable[[Worker, Set], object]
    first: bool = False
    """Whether the first stage needs it."""
    needed: Callable[[Set], bool] = lambda the_set: True
    """Whether the picture of a set needs it."""

    @property
    def marker(self) -> Path:
        """The file that says that it is done."""
        functions = [getattr(kernel, "py_func", kernel) for kernel in self.kernels]
        stamps = [stamp_of(f.__module__, Path(f.__code__.co_filename).resolve()) for f in functions]
        return cache_folder() / "ready" / f"{self.name}-{sha256(' '.join(stamps).encode()).hexdigest()[:16]}"


def _settle(worker: Worker, the_set: Set) -> None:
    for channels in (3, 4):
        film = Film(1, 1, channels)
        kept = (film.rows, worker.thrown, worker.thrown_odd, worker.lengths, 1, 1)
        settle(worker.batch, worker.fans(the_set, film), *kept, Limits(), 1)


def _family_job(number: int) -> Job:
    name, room = FAMILIES[number].name, FAMILIES[number].room

    def act(worker: Worker, the_set: Set) -> None:
        about = (the_set.table.families[number], worker.scratch[number], 1)
        room.shade(worker.batch, worker.batch.family_queue[number], 0, worker.registers, the_set.scene, *about)

    return Job(name, (room.shade,), act, first=name in FIRST_FAMILIES, needed=lambda s: s.table.uses(number))


def _run_program(worker: Worker, the_set: Set) -> None:
    run_program(np.zeros((0, 5), np.int32), worker.registers, *the_set.table.texels[0], 0, 0)


def _gauges(worker: Worker, the_set: Set) -> None:
    to_srgb8(np.zeros((2, 2, 3)))
    for bands in ([SURFACE], *OTHERS):
        material = read(Material, {"section": {"bands": bands}})
        read_bench(Reading(material, the_set.stage, build_set(material, the_set.stage).compiled))


def _follow(worker: Worker, the_set: Set) -> None:
    for bands in ([SURFACE], *OTHERS):
        material = read(Material, {"section": {"bands": bands}})
        Follower(build_set(material, the_set.stage)).follow((0, 0, 1), (0, 0, -1), 587.56)


def _generate(worker: Worker, the_set: Set) -> None:
    generate(worker.batch, the_set.lens, the_set.start, the_set.sensor, 1, 1, 1, 0, 1, 0, 0, 0)


def _note_guides(worker: Worker, the_set: Set) -> None:
    note_guides(
        worker.batch, worker.registers, the_set.scene, *the_set.table.guiding, np.zeros((1, GUIDES), np.float32)
    )


def _throw(worker: Worker, the_set: Set) -> None:
    throw(worker.batch, the_set.scene, the_set.sensor, 1, 0, 1, 0, 0, 0)


FAMILY_JOBS = tuple(_family_job(number) for number in range(len(FAMILIES)))
JOBS = (
    *(job for job in FAMILY_JOBS if job.first),
    Job("locate", (locate,), lambda worker, s: locate(worker.batch, s.scene), first=True),
    Job("floor", (shade_floor,), lambda worker, s: shade_floor(worker.batch, s.scene, 1), first=True),
    Job("sort", (sort_by_material,), lambda w, s: sort_by_material(w.batch, s.scene, w.registers), first=True),
    Job("program", (run_program,), _run_program, first=True),
    Job("rays", (intersect,), lambda worker, s: intersect(worker.batch, s.scene), first=True),
    Job(
        "shadows",
        (cast_shadows,),
        lambda worker, s: cast_shadows(worker.batch, s.scene),
        first=True,
        needed=lambda s: not (s.scene.fast_shadows or s.table.has_fog),
    ),
    Job("camera", (generate,), _generate, first=True),
    Job("settle", (settle,), _settle, first=True),
    Job("guides", (note_guides,), _note_guides, first=True),
    Job("throw", (throw,), _throw, first=True, needed=lambda s: s.throws),
    Job(
        "fog shadows",
        (cast_shadows_in_fog,),
        lambda worker, s: cast_shadows_in_fog(worker.batch, s.scene),
        needed=lambda s: s.table.has_fog and not s.scene.fast_shadows,
    ),
    Job(
        "walk",
        (walk_through_media,),
        lambda worker, s: walk_through_media(worker.batch, s.scene, 1),
        needed=lambda s: s.table.walks,
    ),
    Job("queue", (queue_by_family,), lambda w, s: queue_by_family(w.batch, w.registers, s.scene, 1), first=True),
    Job("gauges", (run_program, read_bench), _gauges, first=True),
    *(job for job in FAMILY_JOBS if not job.first),
    Job("follow", (layers.look, Follower.follow), _follow, needed=lambda s: False),
    Job(
        "glow",
        (add_glow,),
        lambda w, s: add_glow(w.batch, w.registers, s.scene, s.table.glow),
        needed=lambda s: s.table.glows,
    ),
    Job(
        "fast shadows",
        (cast_fast_shadows,),
        lambda worker, s: cast_fast_shadows(worker.batch, s.scene),
        needed=lambda s: s.scene.fast_shadows,
    ),
    Job(
        "film view",
        (views.look_up,),
        lambda w, s: views.film_like(np.zeros((2, 2, 3))),
        needed=lambda s: s.stage.view == "film",
    ),
    Job(
        "colours",
        (fit_colors,),
        lambda w, s: fit_colors(w.registers, np.zeros((1, 6), np.int32)[0], s.sigmoids, 0, 0),
        first=True,
        needed=lambda s: any(len(fits) for fits in s.table.fits),
    ),
)
"""What the first stage needs, then the rest; in each the longest first."""

BY_NAME = {job.name: job for job in JOBS}


@cache
def _markers() -> dict[str, Path]:
    return {job.name: job.marker for job in JOBS}


_there: set[str] = set()


def is_ready(name: str) -> bool:
    """Whether a job is done; what was done once stays done."""
    if name not in _there and _markers()[name].exists():
        _there.add(name)
    return name in _there


def progress() -> tuple[int, int]:
    """(how many jobs are done, of how many)."""
    return sum(is_ready(job.name) for job in JOBS), len(JOBS)


def missing_for(the_set: Set) -> list[str]:
    """The jobs that a set needs and that are not done."""
    return [job.name for job in JOBS if job.needed(the_set) and not is_ready(job.name)]


def plain_set() -> Set:
    """A set by which every kernel can be compiled."""
    return build_set(read(Material, {"section": {"bands": [SURFACE]}}), read(Stage, STAGE))


def _work_off(claims: Path, wanted: list[str]) -> None:
    """Do jobs that no other process has claimed."""
    the_set, worker = plain_set(), Worker(64)
    worker.take(the_set)
    worker.clear()
    for name in wanted:
        try:
            (claims / name).touch(exist_ok=False)
        except FileExistsError:
            continue
        began, marker = time.monotonic(), BY_NAME[name].marker
        BY_NAME[name].act(worker, the_set)
        marker.parent.mkdir(parents=True, exist_ok=True)
        marker.touch()
        print(f"{name} {time.monotonic() - began:.1f}", flush=True)


def _clear_away() -> None:
    """Remove compiled kernels of sources that are no more, when they have not been used for a week."""
    for old in cache_folder().iterdir() if cache_folder().is_dir() else ():
        if old.is_dir() and time.time() - old.stat().st_mtime > 7 * 86400 and old.name != "ready":
            for file in old.iterdir():
                file.unlink(missing_ok=True)
            old.rmdir()


def compile_all(wanted: list[str], processes: int) -> int:
    """Compile what is missing; gives the exit code. Progress goes to standard output, one line as it changes."""
    wanted = [name for name in wanted if not is_ready(name)]
    if not wanted:
        return 0
    began = time.monotonic()
    with TemporaryDirectory() as claims:
        command = [sys.executable, "-m", "nineglass.warm", "--claims", claims, *wanted]
        workers = [subprocess.Popen(command, stdout=subprocess.DEVNULL) for _ in range(min(processes, len(wanted)))]
        last = -1
        while any(worker.poll() is None for worker in workers):
            done = sum(is_ready(name) for name in wanted)
            if done != last:
                print(f"  {done} of {len(wanted)} compiled, {time.monotonic() - began:.0f} s", flush=True)
                last = done
            time.sleep(0.2)
    failed = [worker.returncode for worker in workers if worker.returncode]
    if not failed:
        print(f"  {len(wanted)} of {len(wanted)} compiled, {time.monotonic() - began:.0f} s", flush=True)
        _clear_away()
    return failed[0] if failed else 0


def main(arguments: list[str]) -> int:
    if "--claims" in arguments:
        _work_off(Path(arguments[1]), arguments[2:])
        return 0
    wanted = [job.name for job in JOBS if job.first or "--first" not in arguments]
    return compile_all(wanted, os.cpu_count() or 1)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
