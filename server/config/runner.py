"""Django's test runner, which tells in the end what took the longest and what failed; the last line counts. What works behind the pages begins
only where it is tested."""

import ctypes
import gc
import os
import resource
import time
from collections.abc import Callable
from itertools import groupby
from pathlib import Path
from unittest import TestSuite, TextTestResult

from django.conf import settings
from django.db import connection
from django.test.runner import DiscoverRunner
from nineglass import at_hand

from config.results import Results, Spent, processor_seconds

WORDS = 40
"""Of what is said of a test that failed, in the list at the end."""

AT_LEAST_S = 0.1
"""Less than that between two tests is told as the test that comes next."""

LETS_GO_MB = 600

_at_the_end: list[Callable[[], None]] = []


def at_the_end(act: Callable[[], None]) -> None:
    """Have something done after the last test, before the database goes; what was asked for last is done first."""
    _at_the_end.append(act)


def held_mb() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 2**20


def most_held_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def _let_go() -> None:
    """Of what the core has at hand."""
    at_hand.let_go()
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)


class Timed(TextTestResult):
    """Knows what each test took. What lies between two tests, such as setting up a class, is told as the class that comes next. When a class is
    done and the process holds much, what is kept is let go."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.spent: list[Spent] = []
        self.passed = 0
        self.peak_mb, self.peak_in = most_held_mb(), ""
        self._last = (time.monotonic(), processor_seconds())
        self._class: type | None = None

    def _book(self, name: str) -> None:
        now = (time.monotonic(), processor_seconds())
        self.spent.append(Spent(name, now[0] - self._last[0], now[1] - self._last[1]))
        self._last = now
        if (most := most_held_mb()) > self.peak_mb:
            self.peak_mb, self.peak_in = most, name

    def startTest(self, test):
        if type(test) is not self._class and held_mb() > LETS_GO_MB:
            _let_go()
        self._class = type(test)
        if time.monotonic() - self._last[0] > AT_LEAST_S:
            self._book(test.id().rpartition(".")[0])
        super().startTest(test)

    def addSuccess(self, test):
        super().addSuccess(test)
        self.passed += 1

    def stopTest(self, test):
        self._book(test.id())
        super().stopTest(test)


class SharedSuite(TestSuite):
    """Tests that other processes were given as well: whoever comes to a class first runs it."""

    def __init__(self, tests, claims: Path):
        super().__init__(tests)
        self._claims = claims

    def run(self, result, debug=False):
        for case, tests in groupby(self._taken_out(), type):
            if self._is_first_at(case):
                TestSuite(tests).run(result, debug)
        return result

    def _taken_out(self):
        while self._tests:
            yield self._tests.pop(0)

    def _is_first_at(self, case: type) -> bool:
        try:
            (self._claims / f"{case.__module__}.{case.__qualname__}").touch(exist_ok=False)
        except FileExistsError:
            return False
        return True


def _end_sessions() -> None:
    """Of processes that have just ended: the database may not have noticed."""
    with connection.cursor() as cursor:
        others = "datname = current_database() AND pid <> pg_backend_pid()"
        cursor.execute(f"SELECT pg_terminate_backend(pid, 5000) FROM pg_stat_activity WHERE {others}")


class Runner(DiscoverRunner):
    """NINEGLASS_TEST_RESULTS names a file that the results are written to in place of being told, NINEGLASS_TEST_CLAIMS a folder that tells which
    classes other processes have begun."""

    def setup_test_environment(self, **kwargs):
        super().setup_test_environment(**kwargs)
        settings.MAKES_PORTRAITS = False
        # Django's own advice for tests: the real ones are slow on purpose.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def teardown_databases(self, old_config, **kwargs):
        while _at_the_end:
            _at_the_end.pop()()
        if old_config:
            _end_sessions()
        super().teardown_databases(old_config, **kwargs)

    def build_suite(self, *args, **kwargs):
        suite = super().build_suite(*args, **kwargs)
        claims = os.environ.get("NINEGLASS_TEST_CLAIMS")
        return SharedSuite(suite, Path(claims)) if claims else suite

    def get_resultclass(self):
        return Timed

    def suite_result(self, suite, result, **kwargs):
        wrong = {getattr(test, "test_case", test).id(): said for test, said in [*result.failures, *result.errors]}
        self.results = Results(
            passed=result.passed,
            failed=len(wrong) + len(result.unexpectedSuccesses),
            skipped=len(result.skipped) + len(result.expectedFailures),
            wrong=[f"failed: {name}: {' '.join(said.split()[-WORDS:])}" for name, said in wrong.items()],
            spent=result.spent,
            peak_mb=result.peak_mb,
            peak_in=result.peak_in,
        )
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, *args, **kwargs):
        failures = super().run_tests(*args, **kwargs)
        if path := os.environ.get("NINEGLASS_TEST_RESULTS"):
            self.results.write(Path(path))
        else:
            print("\n".join(self.results.told()), flush=True)
        return failures
