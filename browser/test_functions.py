"""Pure functions of the web, tested by node's own runner; no browser and no server."""

import re
import subprocess

from django.conf import settings
from django.test import SimpleTestCase

WEB = settings.ROOT / "web"


class Functions(SimpleTestCase):
    def test_every_file_of_web_tests(self):
        files = sorted(str(path.relative_to(WEB)) for path in (WEB / "tests").glob("*.test.ts"))
        command = [
            "node",
            "--no-warnings",
            "--import",
            "./tests/typescript.mjs",
            "--test",
            "--test-reporter=tap",
            *files,
        ]
        done = subprocess.run(command, cwd=WEB, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout[-3000:] + done.stderr[-2000:])
        self.assertGreaterEqual(int(re.search(r"# pass (\d+)", done.stdout)[1]), 10)
