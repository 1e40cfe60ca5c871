import asyncio
import contextlib
import ctypes
import multiprocessing
import os
import signal
import sys
import threading
import time
from dataclasses import dataclass, field

from django.core.management.base import BaseCommand
from nineglass import warm
from procrastinate.contrib.django import app

from pictures.tasks import ALIVE_EVERY_S, QUEUE, STALLED_S, end_when_it_hangs

NICE = 10
"""Benches have the processor before final pictures do."""

LOOKS_AGAIN_S = 0.5
SHORTEST_REST_S, LONGEST_REST_S = 0.5, 20.0
"""Before a lane that ended is begun again; longer each time, as long as it ends at once."""

GRACE_S, ENDS_WITHIN_S = 5.0, 10.0
"""What a lane has in hand may be finished for a while when it is told to end; one that does not end within the other is killed."""

ON_DEATH_OF_PARENT = 1
"""`PR_SET_PDEATHSIG` of Linux's prctl(2)."""

forked = multiprocessing.get_context("fork")


def is_there(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def work() -> None:
    """Make a chunk at a time until told to end; what is killed takes its lanes along."""
    ctypes.CDLL(None).prctl(ON_DEATH_OF_PARENT, signal.SIGKILL)
    # Until the worker hears it: what the process that it was forked from does is not for a lane.
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    threading.Thread(target=end_when_it_hangs, daemon=True).start()

    async def run():
        worker = app.with_connector(app.connector.get_worker_connector())
        async with worker.open_async():
            await worker.run_worker_async(
                queues=[QUEUE],
                concurrency=1,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=GRACE_S,
                update_heartbeat_interval=ALIVE_EVERY_S,
                stalled_worker_timeout=STALLED_S,
            )

    asyncio.run(run())


@dataclass
class Lane:
    """A process of its own: threads of one process wait for the interpreter's lock (measured: 14 % longer with two)."""

    process: multiprocessing.Process | None = None
    begun: float = 0.0
    rest: float = field(default=SHORTEST_REST_S)

    def keep_up(self) -> None:
        """Begin it, or again when it has ended and rested."""
        if self.process is not None and self.process.is_alive():
            return
        now = time.monotonic()
        if self.process is not None and now < self.begun + self.rest:
            return
        lived_long = now - self.begun > LONGEST_REST_S
        self.rest = SHORTEST_REST_S if lived_long else min(2 * self.rest, LONGEST_REST_S)
        self.begun, self.process = now, forked.Process(target=work, daemon=True)
        self.process.start()


def keep_working(count: int, beside: int | None) -> None:
    """Begin lanes again whenever they end, as long as another process is there. Nothing is compiled here: what set-up has not compiled
    yet is waited for."""
    lanes = [Lane() for _ in range(count)]
    try:
        while beside is None or is_there(beside):
            if warm.progress()[0] == warm.progress()[1]:
                for lane in lanes:
                    lane.keep_up()
            time.sleep(LOOKS_AGAIN_S)
    finally:
        end([lane.process for lane in lanes if lane.process is not None])


def end(processes: list[multiprocessing.Process]) -> None:
    """Lanes that hang in ending, as when the database went first, cost what they have in hand and no more."""
    for one in processes:
        one.terminate()
    until = time.monotonic() + ENDS_WITHIN_S
    for one in processes:
        one.join(max(until - time.monotonic(), 0))
        if one.is_alive():
            one.kill()
            one.join()


class Command(BaseCommand):
    help = "Make chunks of final pictures; any number of such workers may share a database and the files."

    def add_arguments(self, parser):
        parser.add_argument("--lanes", type=int, default=os.cpu_count() or 1, help="how many chunks at a time")
        parser.add_argument("--beside", type=int, help="the id of a process: end when that has ended")

    def handle(self, *args, **options):
        os.nice(NICE)
        signal.signal(signal.SIGTERM, lambda *_: sys.exit())
        with contextlib.suppress(KeyboardInterrupt):
            keep_working(options["lanes"], options["beside"])
