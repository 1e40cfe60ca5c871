"""Drives the kernels: threads, passes, interruption."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np

from nineglass.network.interpret import run_program
from nineglass.trace.film import Film
from nineglass.trace.generate import generate
from nineglass.trace.intersect import cast_fast_shadows, cast_shadows, intersect
from nineglass.trace.locate import choose_sides, locate, sort_by_material
from nineglass.trace.paths import ACTIVE, FLOORS, FORMS, FREE, LENGTH_BINS, SHADOWS, WHOLE, Batch, new_batch
from nineglass.trace.scene import Set
from nineglass.trace.settle import settle
from nineglass.trace.shade_floor import shade_floor
from nineglass.trace.shade_interface import fit_colors, shade_interface
from nineglass.trace.shade_layers import shade_layers

BATCH = 4096
JOB_PATHS = 2048


@lru_cache(4)
def _bands(count: int) -> np.ndarray:
    """(count, 401) responses that sort light into even bands of wavelength, each of the mean radiance in it."""
    band = np.minimum(np.arange(401) * count // 401, count - 1)
    chosen = (np.arange(count)[:, None] == band).astype(np.float32)
    return chosen / chosen.sum(axis=1, keepdims=True)


def with_bands(fans: np.ndarray, count: int) -> np.ndarray:
    """(m, 3 + count, 401) of responses (m, 3, 401)."""
    bands = np.broadcast_to(_bands(count), (len(fans), count, 401))
    return np.ascontiguousarray(np.concatenate([fans, bands], axis=1), np.float32)


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
        if self.registers.shape[0] < the_set.table.registers:
            self.registers = np.zeros((the_set.table.registers, size), np.float32)
        for register, value in the_set.table.constants:
            self.registers[register] = value
        self._set = the_set

    def clear(self) -> None:
        size = self.batch.active.size
        self.batch.free[:] = np.arange(size, dtype=np.int32)
        self.batch.counts[:] = (0, size, 0, 0, 0, 0)
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
        batch = self.batch
        while job and (room := self._room(the_set)):
            count = int(min(room, job.left))
            place = (job.first_pixel, job.pixels, job.first_sample, job.begun, count)
            generate(batch, the_set.lens, the_set.start, the_set.sensor, film.width, film.height, seed, *place)
            job.begun += count
            if not job.left:
                job = next(jobs, None)
        return job

    def _room(self, the_set: Set) -> int:
        """How many paths may be begun so that every path that may yet split into four finds free columns."""
        counts = self.batch.counts
        return int(max(counts[FREE] - 3 * counts[WHOLE], 0) // 4) if the_set.splits else int(counts[FREE])

    def _step(self, the_set: Set, film: Film, most_bounces: int, seed: int) -> float:
        """One bounce of every path; returns the seconds spent in intersection."""
        batch, scene, registers = self.batch, the_set.scene, self.registers
        began = time.perf_counter()
        intersect(batch, scene.forest, scene.things, scene.ground, scene.lamps)
        spent = time.perf_counter() - began
        locate(batch, scene)
        if batch.counts[FORMS]:
            sort_by_material(batch, scene, registers)
            self._run_programs(the_set)
            if the_set.has_splits:
                choose_sides(batch, registers, scene, seed)
            shade_interface(batch, registers, scene, seed)
            if the_set.has_layers:
                shade_layers(batch, registers, scene, seed)
        if batch.counts[FLOORS]:
            shade_floor(batch, scene, seed)
        if batch.counts[SHADOWS]:
            began = time.perf_counter()
            if scene.fast_shadows:
                cast_fast_shadows(batch, scene.forest, scene.things, scene.matters, scene.clearance)
            else:
                cast_shadows(batch, scene.forest, scene.things)
            spent += time.perf_counter() - began
        kept = (film.sums, film.squares, film.counts, film.open_counts, self.lengths)
        settle(batch, self.fans(the_set, film), *kept, most_bounces, seed)
        return spent

    def _run_programs(self, the_set: Set) -> None:
        """The networks of all materials, each over the paths that met it."""
        starts = self.batch.starts
        for m, operations in enumerate(the_set.table.programs):
            first, last = int(starts[m]), int(starts[m + 1])
            if last > first:
                if len(operations):
                    run_program(operations, self.registers, *the_set.table.texels[m], first, last)
                for fit in the_set.table.fits[m]:
                    fit_colors(self.registers, fit, the_set.sigmoids, first, last)

    @staticmethod
    def fans(the_set: Set, film: Film) -> np.ndarray:
        """The responses to light, with those of a pick's bands when the film has room for them."""
        return the_set.table.fans if film.channels == 3 else with_bands(the_set.table.fans, film.channels - 3)


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
