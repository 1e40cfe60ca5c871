"""Runs the tests of the core, of the server and of the browser beside one another, and tells them together.

python tools/run_tests.py [LABEL ...]: nothing but tests, in set-up's environment; without labels all of them. The exit code is 1 when one failed.
"""

import os
import shutil
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

from config.results import Results

ROOT = Path(__file__).resolve().parent.parent
LOCAL = Path(os.environ["NINEGLASS_LOCAL"])
CORE_FILES = sorted(ROOT.glob("core/tests/test_*.py"), key=lambda file: file.stat().st_size, reverse=True)
CORE = tuple(f"tests.{file.stem}" for file in CORE_FILES)
"""The long ones first, so that what is left in the end is short."""
BROWSER = ("browser",)
SERVER = tuple(sorted(folder.parent.name for folder in ROOT.glob("server/*/tests")))
GIVES_WAY = 15
"""By how much the tests of the core do, more than workers of final pictures: a browser's patience has an end."""


@dataclass
class Part:
    """Tests that run in a process of their own, on a database of their own."""

    name: str
    labels: tuple[str, ...]
    nice: int = 0
    claims: Path | None = None
    """Where it is noted which classes were begun, when others have the same labels."""

    @property
    def results(self) -> Path:
        return LOCAL / f"{self.name}-results.json"

    @property
    def log(self) -> Path:
        return LOCAL / f"{self.name}-tests.log"

    @property
    def files(self) -> Path:
        """Where the part has what a person's own application has in `.local`: it is as before when the tests are done."""
        return LOCAL / "tests" / self.name

    def begin(self, **how) -> subprocess.Popen:
        self.results.unlink(missing_ok=True)
        shutil.rmtree(self.files, ignore_errors=True)
        self.files.mkdir(parents=True)
        command = ["nice", "-n", str(self.nice), sys.executable, "server/manage.py", "test", "--noinput", *self.labels]
        environment = {
            **os.environ,
            "NINEGLASS_TEST_RESULTS": str(self.results),
            "NINEGLASS_LOCAL": str(self.files),
            "NINEGLASS_TEST_DATABASE": f"test_nineglass_{self.name}",
            # Threads of linear algebra wait for one another by turning, where both processors are busy; each arena of memory keeps what it had at
            # its most.
            "OPENBLAS_NUM_THREADS": "1",
            "MALLOC_ARENA_MAX": "2",
        }
        if self.claims:
            # What the core has at hand is of use within a class of its tests, and hardly beyond.
            environment |= {"NINEGLASS_TEST_CLAIMS": str(self.claims), "NINEGLASS_AT_HAND_MB": "200"}
        return subprocess.Popen(command, cwd=ROOT, env=environment, stderr=subprocess.STDOUT, **how)

    def begin_beside(self) -> subprocess.Popen:
        with self.log.open("wb") as written:
            return self.begin(stdout=written)

    def ended(self, run: subprocess.Popen) -> Results:
        code = run.wait()
        if self.results.exists():
            return Results.read(self.results)
        return Results(
            failed=1, wrong=[f"failed: the tests of the {self.name} ended with {code} before they could tell"]
        )


def run_all() -> Results:
    """The core in two processes that share its tests: they give way, and what is left in the end has both processors."""
    claims = LOCAL / "claims"
    shutil.rmtree(claims, ignore_errors=True)
    claims.mkdir(parents=True)
    beside = [*(Part(f"core-{k + 1}", CORE, GIVES_WAY, claims) for k in range(2)), Part("server", SERVER)]
    running = [part.begin_beside() for part in beside]
    browser = Part("browser", BROWSER)
    all_of_them = browser.ended(browser.begin())
    for part, run in zip(beside, running, strict=True):
        all_of_them += part.ended(run)
        print(f"\nThe tests of the {part.name}, which ran beside:\n{part.log.read_text()}", flush=True)
    return all_of_them


def run_these(labels: tuple[str, ...]) -> Results:
    """Those in the browser after the others: an event loop runs on in their process."""
    in_browser = tuple(one for one in labels if one.partition(".")[0] in BROWSER)
    others = tuple(one for one in labels if one not in in_browser)
    found = Results()
    for part in (Part("some", others), Part("some-browser", in_browser)):
        if part.labels:
            found += part.ended(part.begin())
    return found


def main(labels: tuple[str, ...]) -> int:
    results = run_these(labels) if labels else run_all()
    print("\n".join(results.told()), flush=True)
    if not labels:
        results.write(LOCAL / "results.json")
    return int(results.failed > 0)


if __name__ == "__main__":
    sys.exit(main(tuple(sys.argv[1:])))
