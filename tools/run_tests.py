"""Runs the tests of the core beside all others, which mostly wait for a browser or a database, and tells both together.

python tools/run_tests.py [LABEL ...]: nothing but tests, in set-up's environment; without labels all of them. The exit code is 1 when one failed.
"""

import os
import subprocess
import sys
from pathlib import Path

from config.results import Results

ROOT = Path(__file__).resolve().parent.parent
LOCAL = Path(os.environ["NINEGLASS_LOCAL"])
CORE = ("tests",)
OTHERS = (*sorted(folder.parent.name for folder in ROOT.glob("server/*/tests")), "browser")
GIVES_WAY = 15
"""By how much the tests of the core do, more than workers of final pictures: a browser's patience has an end."""


def begin(labels: tuple[str, ...], results: Path, nice: int = 0, **how) -> subprocess.Popen:
    results.unlink(missing_ok=True)
    command = ["nice", "-n", str(nice), sys.executable, "server/manage.py", "test", "--noinput", *labels]
    # Threads of linear algebra wait for one another by turning, where both processors are busy; each arena of memory keeps what it had at its most.
    sparing = {"OPENBLAS_NUM_THREADS": "1", "MALLOC_ARENA_MAX": "2"}
    environment = {**os.environ, "NINEGLASS_TEST_RESULTS": str(results), **sparing}
    return subprocess.Popen(command, cwd=ROOT, env=environment, stderr=subprocess.STDOUT, **how)


def ended(run: subprocess.Popen, results: Path) -> Results:
    code = run.wait()
    if results.exists():
        return Results.read(results)
    return Results(failed=1, wrong=[f"failed: a run of tests ended with {code} before it could tell"])


def run_all() -> Results:
    log = LOCAL / "core-tests.log"
    files = LOCAL / "core-results.json", LOCAL / "other-results.json"
    with log.open("wb") as written:
        core = begin(CORE, files[0], GIVES_WAY, stdout=written)
    others = ended(begin(OTHERS, files[1]), files[1])
    both = ended(core, files[0]) + others
    print(f"\nThe tests of the core, which ran beside:\n{log.read_text()}", flush=True)
    return both


def run_these(labels: tuple[str, ...]) -> Results:
    file = LOCAL / "some-results.json"
    return ended(begin(labels, file), file)


def main(labels: tuple[str, ...]) -> int:
    results = run_these(labels) if labels else run_all()
    print("\n".join(results.told()), flush=True)
    if not labels:
        results.write(LOCAL / "results.json")
    return int(results.failed > 0)


if __name__ == "__main__":
    sys.exit(main(tuple(sys.argv[1:])))
