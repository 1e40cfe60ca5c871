"""Drives the kernels: threads, passes, interruption."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import lru_cache

import numba
import numpy as np

from nineglass.network.interpret import run_program
from nineglass.trace.families.floor import shade_floor
from nineglass.trace.families.glow import add_glow
from nineglass.trace.families.registry import FAMILIES
from nineglass.trace.film import Film
from nineglass.trace.generate import generate
from nineglass.trace.geometry.rays import cast_fast_shadows, cast_shadows, cast_shadows_in_fog, intersect
from nineglass.trace.guides import note_guides
from nineglass.trace.light.throw import ONE_IN, throw
from nineglass.trace.locate import locate, queue_by_family, sort_by_material
from nineglass.trace.media.scattering import walk_through_media
from nineglass.trace.paths import (
    ACTIVE,
    FLOORS,
    FORMS,
    FREE,
    GUIDED_SAMPLES,
    LENGTH_BINS,
    SHADOWS,
    THROWS,
    THROWS_ODD,
    WHOLE,
    Batch,
    Limits,
    new_batch,
)
from nineglass.trace.programs import fit_colors
from nineglass.trace.scene import Set
from nineglass.trace.settle import settle

MOST_BOUNCES = 128
"""Generous: of light in frosted matter of index 2.4 less than 1 in 10,000 is under way after so many."""

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
        self.scratch = [family.room.scratch() for family in FAMILIES]
        self.lengths = np.zeros(LENGTH_BINS)
        self.thrown = self.thrown_odd = np.zeros((1, 3), np.float32)
        self._set: Set | None = None
        self._types: tuple = ()
        self._entries: dict = {}

    def launch(self, kernel, *about):
        """Call a kernel. numba looks at the type of every array at every call, sixty microseconds under the interpreter's lock; here the types
        of a set are looked at when it is taken, and the machine code is called straight (measured: 62 against 5 microseconds)."""
        entry = self._entries.get(kernel)
        if entry is not None:
            return entry(*about)
        given = kernel(*about)
        self._entries[kernel] = kernel.get_overload(tuple(numba.typeof(one) for one in about))
        return given

    def take(self, the_set: Set) -> None:
        if the_set is self._set:
            return
        size = self.batch.active.size
        if self.registers.shape[0] < the_set.table.registers:
            self.registers = np.zeros((the_set.table.registers, size), np.float32)
        types = _types_in((the_set.scene, the_set.table.families, the_set.table.glow))
        if types != self._types:
            self._types, self._entries = types, {}
        constants = the_set.table.constants
        self.registers[constants[:, 0].astype(int)] = constants[:, 1:].astype(np.float32)
        self._set = the_set

    def clear(self, pixels: int = 1) -> None:
        """Begin anew. pixels: of the picture, when light is thrown at it."""
        size = self.batch.active.size
        self.batch.free[:] = np.arange(size, dtype=np.int32)
        self.batch.counts[:] = (0, size, 0, 0, 0, 0, 0, 0)
        self.batch.cut[:] = 0
        self.lengths[:] = 0
        if self.thrown.shape[0] != pixels:
            self.thrown, self.thrown_odd = (np.zeros((pixels, 3), np.float32) for _ in range(2))
        self.thrown[:], self.thrown_odd[:] = 0, 0

    def run(self, the_set: Set, film: Film, jobs, limits: Limits, seed: int, guided: bool, stopped, times: Times):
        """Trace jobs until none is left. Raises Interrupted when `stopped()`."""
        self.take(the_set)
        self.clear(film.width * film.height if the_set.throws else 1)
        began, intersecting = time.perf_counter(), 0.0
        job = next(jobs, None)
        while True:
            if stopped():
                raise Interrupted
            job = self._fill(the_set, film, job, jobs, seed)
            if self.batch.counts[ACTIVE] == 0:
                break
            intersecting += self._step(the_set, film, limits, seed, guided)
        times.add(time.perf_counter() - began, intersecting)

    def _fill(self, the_set: Set, film: Film, job: Job | None, jobs, seed: int) -> Job | None:
        batch = self.batch
        while job and (room := self._room(the_set)):
            count = int(min(room * ONE_IN // (ONE_IN + 1) - ONE_IN if the_set.throws else room, job.left))
            if count < 1:
                break
            share = (seed, job.first_pixel, job.pixels, job.first_sample, job.begun, count)
            seen = (the_set.lens, the_set.start, the_set.sensor, film.width, film.height)
            self.launch(generate, batch, *seen, *share)
            if the_set.throws:
                self.launch(throw, batch, the_set.scene, the_set.sensor, *share)
            job.begun += count
            if not job.left:
                job = next(jobs, None)
        return job

    def _room(self, the_set: Set) -> int:
        """How many paths may be begun so that every path that may yet split into four finds free columns."""
        counts = self.batch.counts
        return int(max(counts[FREE] - 3 * counts[WHOLE], 0) // 4) if the_set.splits else int(counts[FREE])

    def _step(self, the_set: Set, film: Film, limits: Limits, seed: int, guided: bool) -> float:
        """One bounce of every path; returns the seconds spent in intersection."""
        batch, scene, registers, table = self.batch, the_set.scene, self.registers, the_set.table
        began = time.perf_counter()
        self.launch(intersect, batch, scene)
        if table.walks:
            self.launch(walk_through_media, batch, scene, seed)
        spent = time.perf_counter() - began
        self.launch(locate, batch, scene)
        if batch.counts[FORMS]:
            self.launch(sort_by_material, batch, scene, registers)
            self.run_programs(the_set)
            self.launch(queue_by_family, batch, registers, scene, seed)
        if guided:
            self.launch(note_guides, batch, registers, scene, *table.guiding, film.guides)
        if batch.counts[FORMS]:
            if table.glows:
                self.launch(add_glow, batch, registers, scene, table.glow)
            for k, family in enumerate(FAMILIES):
                if count := int(batch.family_counts[k]):
                    about = (table.families[k], self.scratch[k], seed)
                    self.launch(family.room.shade, batch, batch.family_queue[k], count, registers, scene, *about)
        if batch.counts[FLOORS]:
            self.launch(shade_floor, batch, scene, seed)
        if batch.counts[SHADOWS]:
            began = time.perf_counter()
            self.launch(_shadows_of(the_set), batch, scene)
            spent += time.perf_counter() - began
        kept = (film.rows, self.thrown, self.thrown_odd, self.lengths, film.width, film.height)
        self.launch(settle, batch, self.fans(the_set, film), *kept, limits, seed)
        return spent

    def give(self, film: Film) -> None:
        """Add what is kept by thread to a film."""
        film.lengths += self.lengths
        film.cut += self.batch.cut
        throws = self.batch.counts[[THROWS, THROWS_ODD]]
        if throws[0]:
            film.throws += throws
            film.thrown += self.thrown
            film.thrown_odd += self.thrown_odd

    def run_programs(self, the_set: Set) -> None:
        """The networks of all materials, each over the paths that met it."""
        starts = self.batch.starts
        for m, operations in enumerate(the_set.table.programs):
            first, last = int(starts[m]), int(starts[m + 1])
            if last > first:
                if len(operations):
                    self.launch(run_program, operations, self.registers, *the_set.table.texels[m], first, last)
                for fit in the_set.table.fits[m]:
                    self.launch(fit_colors, self.registers, fit, the_set.sigmoids, first, last)

    @staticmethod
    def fans(the_set: Set, film: Film) -> np.ndarray:
        """The responses to light, with those of a pick's bands when the film has room for them."""
        return the_set.table.fans if film.channels == 3 else with_bands(the_set.table.fans, film.channels - 3)


def _types_in(given) -> object:
    """What numba tells values apart by, as far as those of sets may differ: in microseconds, where its own look takes two milliseconds."""
    if isinstance(given, tuple | list):
        return tuple(map(_types_in, given))
    if isinstance(given, np.ndarray):
        return given.dtype, given.ndim, given.flags.c_contiguous
    return type(given)


def _shadows_of(the_set: Set):
    """The kernel that looks for what stands before lamps."""
    if the_set.scene.fast_shadows:
        return cast_fast_shadows
    return cast_shadows_in_fog if the_set.table.has_fog else cast_shadows


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
        jobs: list[Job] | None = None,
        most_bounces: int = MOST_BOUNCES,
        most_matt: int = Limits().matt,
        most_within: int = Limits().within,
        seed: int = 1,
        stopped=lambda: False,
        makes_way=lambda: False,
    ) -> list[Job]:
        """Add samples to a film: the same to a range of pixels, or what some jobs say. On Interrupted the film is worthless and must be
        thrown away.

        makes_way: asked before each share of the work; once it says yes no more is begun, and what is left is given back.
        """
        if jobs is None:
            jobs = even_jobs(pixels or range(film.width * film.height), first_sample, samples)
        limits = Limits(most_bounces, most_matt, most_within)
        guided = any(job.first_sample < GUIDED_SAMPLES for job in jobs)
        shares = _Shares(jobs, makes_way)

        def run(worker: Worker) -> None:
            worker.run(the_set, film, shares, limits, seed, guided, stopped, self.times)

        if self._pool is None:
            run(self._workers[0])
        else:
            waiting = [self._pool.submit(run, worker) for worker in self._workers]
            errors = [error for error in (one.exception() for one in waiting) if error]
            if errors:
                raise errors[0]
        for worker in self._workers:
            worker.give(film)
        return shares.left()


def even_jobs(pixels: range, first_sample: int, samples: int) -> list[Job]:
    """Shares of the work that gives each pixel of a range the same samples."""
    size = max(64, JOB_PATHS // samples)
    starts = range(pixels.start, pixels.stop, size)
    return [Job(k, min(size, pixels.stop - k), first_sample, samples) for k in starts]


class _Shares:
    """Hands out jobs to the threads, until none is left or somebody else needs the time."""

    def __init__(self, jobs: list[Job], makes_way):
        self._jobs, self._next, self._makes_way = jobs, 0, makes_way
        self._lock = threading.Lock()

    def __iter__(self):
        return self

    def __next__(self) -> Job:
        with self._lock:
            if self._next == len(self._jobs) or (self._next and self._makes_way()):
                raise StopIteration
            self._next += 1
            return self._jobs[self._next - 1]

    def left(self) -> list[Job]:
        return self._jobs[self._next :]
