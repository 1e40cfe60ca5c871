"""Tests that two processes share: each is run, and run once."""

import tempfile
from pathlib import Path
from unittest import TestResult

from django.test import SimpleTestCase

from config.runner import SharedSuite


class Shared(SimpleTestCase):
    def test_who_comes_first_to_a_class_runs_it(self):
        ran = []

        class First(SimpleTestCase):
            def test_meanwhile_the_other_begins(self):
                ran.append(("this", "first"))
                other.run(TestResult())

        class Second(SimpleTestCase):
            def test_one(self):
                ran.append(("either", "second"))

            def test_two(self):
                ran.append(("either", "second"))

        tests = [First("test_meanwhile_the_other_begins"), Second("test_one"), Second("test_two")]
        with tempfile.TemporaryDirectory() as claims:
            this, other = (SharedSuite(tests, Path(claims)) for _ in range(2))
            found = TestResult()
            this.run(found)
        self.assertEqual(ran, [("this", "first"), ("either", "second"), ("either", "second")])
        self.assertEqual((found.testsRun, found.errors, found.failures), (1, [], []))
