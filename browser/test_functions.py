"""Functions of the web, tested by `vitest` without a browser: each of its tests is one here."""

import json
import subprocess
from unittest import TestCase

from django.conf import settings

WEB = settings.ROOT / "web"
COMMAND = ["node", "node_modules/vitest/vitest.mjs", "run", "--reporter=json"]


def told(file: str, about: dict) -> TestCase:
    """What `vitest` says of one test, as a test."""

    class Told(TestCase):
        def id(self) -> str:
            return f"web.{file.removesuffix('.test.ts')}.{about['title']}"

        def runTest(self):
            self.assertEqual(about["status"], "passed", "\n".join(about["failureMessages"])[:4000])

    return Told()


class Functions(TestCase):
    def run(self, result=None):
        """The test that they were run at all, and then each of them."""
        self.files = []
        super().run(result)
        for file in self.files:
            for about in file["assertionResults"]:
                told(file["name"].rpartition("/")[2], about).run(result)
        return result

    def test_every_file_of_web_tests(self):
        done = subprocess.run(COMMAND, cwd=WEB, capture_output=True, text=True, check=False)
        said = done.stdout[done.stdout.find("{") :]
        self.assertTrue(said, done.stderr[-3000:])
        self.files = json.loads(said)["testResults"]
        self.assertEqual(len(self.files), len(list((WEB / "tests").glob("*.test.ts"))))
        self.assertEqual([file["message"] for file in self.files if not file["assertionResults"]], [])
