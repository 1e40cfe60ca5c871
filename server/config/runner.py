"""Django's test runner with a last line that counts: N passed, N failed, N skipped. What works behind the pages begins only where it is tested."""

from django.conf import settings
from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    def setup_test_environment(self, **kwargs):
        super().setup_test_environment(**kwargs)
        settings.MAKES_PORTRAITS = False

    def suite_result(self, suite, result, **kwargs):
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped) + len(result.expectedFailures)
        self.counted = f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped"
        return super().suite_result(suite, result, **kwargs)

    def run_tests(self, *args, **kwargs):
        failures = super().run_tests(*args, **kwargs)
        print(self.counted, flush=True)
        return failures
