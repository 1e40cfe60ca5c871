"""The worker: a process for each lane, kept up, ended with what it works beside."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase, TransactionTestCase

from pictures.management.commands import work

PATIENCE_S = 120


def lanes_of(worker: subprocess.Popen) -> set[int]:
    children = Path(f"/proc/{worker.pid}/task/{worker.pid}/children")
    return {int(one) for one in children.read_text().split()} if children.exists() else set()


def is_running(process: int) -> bool:
    """What has ended but was not waited for is not."""
    status = Path(f"/proc/{process}/stat")
    return status.exists() and status.read_text().rpartition(")")[2].split()[0] != "Z"


def ignores_that_it_is_to_end(begun) -> None:
    signal.signal(signal.SIGTERM, signal.SIG_IGN)
    begun.set()
    signal.pause()


class Ending(SimpleTestCase):
    def test_a_lane_that_does_not_end_is_killed(self):
        begun = work.forked.Event()
        lane = work.forked.Process(target=ignores_that_it_is_to_end, args=[begun], daemon=True)
        lane.start()
        self.assertTrue(begun.wait(PATIENCE_S))
        with mock.patch.object(work, "ENDS_WITHIN_S", 0.1):
            work.end([lane])
        self.assertEqual(lane.exitcode, -signal.SIGKILL)


class Worker(TransactionTestCase):
    def begin(self, command: list[str]) -> subprocess.Popen:
        environment = {**os.environ, "PGDATABASE": connection.settings_dict["NAME"]}
        process = subprocess.Popen(command, cwd=settings.BASE_DIR, env=environment, stdin=subprocess.DEVNULL)
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def begin_worker(self) -> subprocess.Popen:
        self.beside = self.begin([sys.executable, "-c", "import threading; threading.Event().wait()"])
        worker = self.begin([sys.executable, "manage.py", "work", "--lanes", "2", "--beside", str(self.beside.pid)])
        self.wait(lambda: len(lanes_of(worker)) == 2, "two lanes have begun")
        return worker

    def wait(self, until, what: str) -> None:
        began = time.monotonic()
        while not until():
            self.assertLess(time.monotonic() - began, PATIENCE_S, what)
            time.sleep(0.05)

    def test_a_lane_that_is_killed_is_begun_again_and_all_end_with_what_they_work_beside(self):
        worker = self.begin_worker()
        killed, kept = sorted(lanes_of(worker))
        os.kill(killed, signal.SIGKILL)
        self.wait(lambda: len(lanes_of(worker) - {killed}) == 2, "another lane has begun")
        self.assertIn(kept, lanes_of(worker))
        lanes = lanes_of(worker)
        self.beside.kill()
        self.beside.wait()
        self.wait(lambda: worker.poll() is not None, "the worker has ended")
        self.assertEqual([one for one in lanes if is_running(one)], [])

    def test_lanes_end_with_a_worker_that_is_killed(self):
        worker = self.begin_worker()
        lanes = lanes_of(worker)
        worker.kill()
        self.wait(lambda: not any(map(is_running, lanes)), "its lanes have ended")
