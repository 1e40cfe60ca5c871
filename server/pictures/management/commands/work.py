import asyncio
import os
import subprocess
import sys
import time

from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

from pictures.tasks import ALIVE_EVERY_S, QUEUE, STALLED_S

NICE = 10
"""Benches have the processor before final pictures do."""

LOOKS_AGAIN_S = 2.0
SHORTEST_REST_S, LONGEST_REST_S = 0.5, 20.0
"""Before a worker that ended is begun again; longer each time, as long as it ends at once."""


def is_there(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def work(lanes: int) -> None:
    """Make chunks until interrupted. Nothing is compiled here: what set-up has not compiled yet is waited for."""
    from nineglass import warm

    while warm.progress()[0] < warm.progress()[1]:
        time.sleep(LOOKS_AGAIN_S)

    async def run():
        worker = app.with_connector(app.connector.get_worker_connector())
        async with worker.open_async():
            await worker.run_worker_async(
                queues=[QUEUE],
                concurrency=lanes,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=5.0,
                update_heartbeat_interval=ALIVE_EVERY_S,
                stalled_worker_timeout=STALLED_S,
            )

    asyncio.run(run())


def keep_working(lanes: int, beside: int) -> None:
    """Begin a worker again whenever it ends, as long as another process is there."""
    rest = SHORTEST_REST_S
    while is_there(beside):
        began = time.monotonic()
        worker = subprocess.Popen([sys.executable, *sys.argv[:2], "--lanes", str(lanes)])
        while worker.poll() is None and is_there(beside):
            time.sleep(SHORTEST_REST_S)
        if worker.poll() is None:
            worker.terminate()
            try:
                worker.wait(10)
            except subprocess.TimeoutExpired:
                worker.kill()
            return
        rest = SHORTEST_REST_S if time.monotonic() - began > LONGEST_REST_S else min(2 * rest, LONGEST_REST_S)
        time.sleep(rest)


class Command(BaseCommand):
    help = "Make chunks of final pictures; any number of such workers may share a database and the files."

    def add_arguments(self, parser):
        parser.add_argument("--lanes", type=int, default=os.cpu_count() or 1, help="how many chunks at a time")
        parser.add_argument(
            "--beside", type=int, help="the id of a process: begin again what ends, as long as that is there"
        )

    def handle(self, *args, **options):
        if options["beside"]:
            keep_working(options["lanes"], options["beside"])
        else:
            os.nice(NICE)
            work(options["lanes"])
