"""Drives the kernels: threads, passes, interruption."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np

from nineglass.network.interpret import run_program
from nineglass.trace.film import Film
from nineglass.trace.generate import generate
from nineglass.trace.intersect import cast_shadows, intersect
from nineglass.trace.locate import locate
from nineglass.trace.paths import ACTIVE, FLOORS, FORMS, FREE, LENGTH_BINS, SHADOWS, Batch, new_batch
from nineglass.trace.scene import Set
from nineglass.trace.settle import settle
from nineglass.trace.shade_floor import shade_floor
from nineglass.trace.shade_interface import fit_colors, shade_interface

BATCH = 4096
JOB_PATHS = 2048


class Interrupted(Exception):
    """The picture under way is not wanted any more."""


@dataclass
class Job:
    """A share of a pass: some pixels, and a range of samples for each."""

    first_pixel: int
    pixels: int
    first_sample: int
    samples: int
    begun: int = 0

    @property
    def left(self) -> int:
        return self.pixels * self.samples - self.begun


@dataclass
class Times:
    """Seconds spent by all threads: in all, and in intersection."""

    total: float = 0.0
    intersection: float = 0.0
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def add(self, total: float, intersection: float) -> None:
        with self._lock:
            self.total += total
            self.intersection += intersection


class Worker:
    """One thread's batch; reused over passes."""

    def __init__(self, size: int = BATCH):
        self.batch: Batch = new_batch(size)
        self.registers = np.zeros((1, size), np.float32)
        self.lengths = np.zeros(LENGTH_BINS)
        self._set: Set | None = None

    def take(self, the_set: Set) -> None:
        if the_set is self._set:
            return
        size = self.batch.active.size
        if self.registers.shape[0] < the_set.registers:
            self.registers = np.zeros((the_set.registers, size), np.float32)
        for register, value in the_set.constants:
            self.registers[register] = value
        self._set = the_set

    def clear(self) -> None:
        size = self.batch.active.size
        self.batch.free[:] = np.arange(size, dtype=np.int32)
        self.batch.counts[:] = (0, size, 0, 0, 0)
        self.lengths[:] = 0

    def run(self, the_set: Set, film: Film, jobs, most_bounces: int, seed: int, stopped, times: Times) -> None:
        """Trace jobs until none is left. Raises Interrupted when `stopped()`."""
        self.take(the_set)
        self.clear()
        began, intersecting = time.perf_counter(), 0.0
        job = next(jobs, None)
        while True:
            if stopped():
                raise Interrupted
            job = self._fill(the_set, film, job, jobs, seed)
            if self.batch.counts[ACTIVE] == 0:
                break
            intersecting += self._step(the_set, film, most_bounces, seed)
        times.add(time.perf_counter() - began, intersecting)

    def _fill(self, the_set: Set, film: Film, job: Job | None, jobs, seed: int) -> Job | None:
        batch, scene = self.batch, the_set.scene
        while job and batch.counts[FREE]:
            count = int(min(batch.counts[FREE], job.left))
            place = (job.first_pixel, job.pixels, job.first_sample, job.begun, count)
            generate(batch, scene.lens, scene.sensor, film.width, film.height, seed, *place)
            job.begun += count
            if not job.left:
                job = next(jobs, None)
        return job

    def _step(self, the_set: Set, film: Film, most_bounces: int, seed: int) -> float:
        """One bounce of every path; returns the seconds spent in intersection."""
        batch, scene, registers = self.batch, the_set.scene, self.registers
        began = time.perf_counter()
        intersect(batch, scene.tree, scene.turn, scene.ground, scene.lamps)
        spent = time.perf_counter() - began
        locate(
            batch,
            scene.corner_normals,
            scene.tree.triangles,
            scene.turn,
            scene.lamps,
            scene.spectra,
            scene.softness,
            scene.inputs,
            registers,
        )
        if batch.counts[FORMS]:
            if len(scene.operations):
                run_program(scene.operations, registers, int(batch.counts[FORMS]))
            if scene.color_varies:
                fit_colors(batch, registers, scene.dials, scene.sigmoids)
            shade_interface(batch, registers, scene, seed)
        if batch.counts[FLOORS]:
            shade_floor(batch, scene.ground, scene.lamps, scene.spectra, scene.clearance, seed)
        if batch.counts[SHADOWS]:
            began = time.perf_counter()
            cast_shadows(batch, scene.tree, scene.turn)
            spent += time.perf_counter() - began
        settle(batch, scene.sensor.response, film.sums, film.squares, film.counts, self.lengths, most_bounces, seed)
        return spent


@dataclass
class Tracer:
    """Renders passes on a few threads. A pass adds a range of samples to a range of pixels of a film."""

    threads: int = 2
    batch: int = BATCH
    times: Times = field(default_factory=Times)

    def __post_init__(self):
        self._workers = [Worker(self.batch) for _ in range(self.threads)]
        self._pool = ThreadPoolExecutor(self.threads, thread_name_prefix="trace") if self.threads > 1 else None

    def render(
        self,
        the_set: Set,
        film: Film,
        first_sample: int = 0,
        samples: int = 1,
        *,
        pixels: range | None = None,
        most_bounces: int = 16,
        seed: int = 1,
        stopped=lambda: False,
    ) -> None:
        """Add samples to a film. On Interrupted the film is worthless and must be thrown away."""
        pixels = pixels or range(film.width * film.height)
        per_job = max(64, JOB_PATHS // samples)
        starts = range(pixels.start, pixels.stop, per_job)
        lock = threading.Lock()
        made = iter(Job(start, min(per_job, pixels.stop - start), first_sample, samples) for start in starts)

        def jobs():
            while True:
                with lock:
                    job = next(made, None)
                if job is None:
                    return
                yield job

        def run(worker: Worker) -> None:
            worker.run(the_set, film, jobs(), most_bounces, seed, stopped, self.times)

        if self._pool is None:
            run(self._workers[0])
        else:
            waiting = [self._pool.submit(run, worker) for worker in self._workers]
            errors = [error for error in (one.exception() for one in waiting) if error]
            if errors:
                raise errors[0]
        for worker in self._workers:
            film.lengths += worker.lengths
