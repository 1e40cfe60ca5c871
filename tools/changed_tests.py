"""Which tests what was changed can touch: found by imports, the nearest first, as many as are run within two minutes.

python tools/changed_tests.py SINCE: prints labels for the test runner, and says on standard error what it left out. SINCE is a revision.
"""

import ast
import os
import re
import subprocess
import sys
from collections import defaultdict
from pathlib import Path

from config.results import Results

ROOT = Path(__file__).resolve().parent.parent
BUDGET_S = 60
UNKNOWN_S = {"core": 0.5, "server": 1.0, "browser": 5.0}
"""What a test is taken to last that no whole run has timed here."""

TS_IMPORT = re.compile(r"""(?:from|import)\s+["'](\.[^"']+)["']""")
FAR = 99


def git(*words: str) -> list[str]:
    return subprocess.run(["git", *words], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()


def changed_since(revision: str) -> set[Path]:
    names = git("diff", "--name-only", revision) + git("ls-files", "--others", "--exclude-standard")
    return {ROOT / name for name in names}


def modules() -> dict[str, Path]:
    """Every module of Python by its dotted name."""
    found = {}
    for base, folders in ((ROOT / "core", ("nineglass", "tests")), (ROOT / "server", ("*",)), (ROOT, ("browser",))):
        for folder in folders:
            for path in base.glob(f"{folder}/**/*.py"):
                name = ".".join(path.relative_to(base).with_suffix("").parts)
                found[name.removesuffix(".__init__")] = path
    return found


def imports_of(path: Path, known: dict[str, Path]) -> set[Path]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names = [one.name for one in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            names = [f"{node.module}.{one.name}" for one in node.names] + [node.module]
        else:
            continue
        found |= {known[name] for name in names if name in known}
    return found


def scripts_imports(path: Path) -> set[Path]:
    """What a file of the web imports of the web."""
    found = set()
    for name in TS_IMPORT.findall(path.read_text()):
        base = (path.parent / name).resolve()
        found |= {one for one in (base.with_name(base.name + end) for end in (".ts", ".tsx", "")) if one.is_file()}
    return found


def importers() -> dict[Path, set[Path]]:
    """Of each file those that import it."""
    known = modules()
    graph: dict[Path, set[Path]] = defaultdict(set)
    for path in set(known.values()):
        for imported in imports_of(path, known) - {path}:
            graph[imported].add(path)
    for path in [*ROOT.glob("web/src/**/*.ts*"), *ROOT.glob("web/tests/*.ts")]:
        for imported in scripts_imports(path):
            graph[imported].add(path)
    return graph


def distances(changed: set[Path], graph: dict[Path, set[Path]]) -> dict[Path, int]:
    """How many imports lie between a file and what was changed."""
    found, edge = dict.fromkeys(changed, 0), set(changed)
    while edge:
        edge = {user for path in edge for user in graph[path] if user not in found}
        found |= dict.fromkeys(edge, max(found.values()) + 1)
    return found


def screens_of(tree: ast.Module) -> list[str]:
    """The rooms that a file of browser tests says it is about, in its `ABOUT`."""
    for node in tree.body:
        if isinstance(node, ast.Assign) and getattr(node.targets[0], "id", "") == "ABOUT":
            return ast.literal_eval(node.value)
    return []


def test_classes(far: dict[Path, int]) -> list[tuple[int, str, int]]:
    """(distance, label, how many tests) of each class of tests that can be touched. A browser test imports nothing of what it drives: it is as far as
    the nearest file of the rooms that it is about, and one more; of those that are as far, it comes last."""
    found = []
    for name, path in modules().items():
        if not path.name.startswith("test_"):
            continue
        tree = ast.parse(path.read_text())
        near = far.get(path, FAR)
        for room in screens_of(tree):
            near = min([near, *(far[one] + 1 for one in far if one.is_relative_to(ROOT / room))])
        for node in tree.body:
            if isinstance(node, ast.ClassDef) and near < FAR:
                count = sum(getattr(one, "name", "").startswith("test_") for one in node.body)
                found.append((near, f"{name}.{node.name}", count))
    return sorted((one for one in found if one[2]), key=lambda one: (one[0], one[1].startswith("browser."), one[1]))


def seconds_known() -> dict[str, float]:
    """Of each class of tests, as the last whole run took; of the core's the processor's, since they gave way to the others."""
    file = Path(os.environ["NINEGLASS_LOCAL"]) / "results.json"
    found: dict[str, float] = defaultdict(float)
    for one in Results.read(file).spent if file.exists() else ():
        parts = one.name.split(".")
        took = one.processor if one.part == "core" else one.seconds
        found[".".join(parts[:-1] if parts[-1].startswith("test_") else parts)] += took
    return found


def chosen(touched: list[tuple[int, str, int]], known: dict[str, float]) -> tuple[list[str], list[str], float]:
    """(labels to run, labels left out, seconds that they take), the nearest first."""
    run, left, spent = [], [], 0.0
    for _, label, count in touched:
        room = label.partition(".")[0]
        part = {"tests": "core", "browser": "browser"}.get(room, "server")
        seconds = known.get(label, count * UNKNOWN_S[part])
        if spent + seconds > BUDGET_S:
            left.append(label)
        else:
            run.append(label)
            spent += seconds
    return run, left, spent


def main(since: str) -> None:
    changed = changed_since(since)
    touched = test_classes(distances(changed, importers()))
    run, left, spent = chosen(touched, seconds_known())
    if any(path.is_relative_to(ROOT / "web") for path in changed):
        run.insert(0, "browser.test_functions")
    names = ", ".join(sorted(str(path.relative_to(ROOT)) for path in changed)[:6]) or "nothing"
    say = [f"changed since {since[:10]}: {names}", f"running {len(run)} classes of tests, about {spent:.0f} s"]
    if left:
        say.append(f"left out as farther away than {BUDGET_S} s reach: {len(left)}, such as {', '.join(left[:8])}")
    print("\n".join(say), file=sys.stderr)
    print("\n".join(run))


if __name__ == "__main__":
    main(sys.argv[1])
