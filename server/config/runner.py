"""Django's test runner with a last line that counts: N passed, N failed, N skipped; before it what took the longest, and what failed. What works
behind the pages begins only where it is tested."""

import time
from collections import Counter
from unittest import TextTestResult

from django.conf import settings
from django.test.runner import DiscoverRunner

SLOWEST = 15

WORDS = 40
"""Of what is said of a test that failed, in the list at the end."""


class Timed(TextTestResult):
    """Knows how long the tests of each class took."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.seconds: Counter[str] = Counter()
        self._began = 0.0

    def startTest(self, test):
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test):
        self.seconds[f"{type(test).__module__}.{type(test).__name__}"] += time.monotonic() - self._began
        super().stopTest(test)


class Runner(DiscoverRunner):
    def setup_test_environment(self, **kwargs):
        super().setup_test_environment(**kwargs)
        settings.MAKES_PORTRAITS = False

    def get_resultclass(self):
        return super().get_resultclass() or Timed

    def suite_result(self, suite, result, **kwargs):
        wrong = {getattr(test, "test_case", test).id(): said for test, said in [*result.failures, *result.errors]}
        self.wrong = [f"failed: {name}: {' '.join(said.split()[-WORDS:])}" for name, said in wrong.items()]
        failed = len(wrong) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped) + len(result.expectedFailures)
        self.counted = f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped"
        self.slowest = result.seconds.most_common(SLOWEST) if isinstance(result, Timed) else []
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, *args, **kwargs):
        failures = super().run_tests(*args, **kwargs)
        print("\n".join(f"{seconds:6.0f} s  {name}" for name, seconds in self.slowest if seconds >= 10))
        print("".join(f"{one}\n" for one in self.wrong), end="")
        print(self.counted, flush=True)
        return failures
