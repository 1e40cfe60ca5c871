"""Measure speed as ratios within one run: interleaved, minima of at least ten repetitions.

python tools/bench.py --json [--only rays,trace,network,start,live]
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo"
REPETITIONS = 12
AIMS = {
    "rays.closest_vs_reference": (0.5, 0.85),
    "rays.any_vs_reference": (0.5, 0.75),
    "trace.total_vs_intersect": (2.2, 1.6),
    "trace.two_threads_vs_one": (1.7, 1.9),
    "network.20_slips_vs_constant": (2.0, 1.3),
    "start.warm_vs_import": (5, 3),
    "live.first_frame_ms": (150, 80),
    "live.full_pass_ms": (900, 450),
    "memory.live_mb": (500, 350),
}
"""Floor and aim of each figure."""


def seconds(act: Callable[[], object]) -> float:
    began = time.perf_counter()
    act()
    return time.perf_counter() - began


def interleaved(*acts: Callable[[], object], repetitions: int = REPETITIONS) -> list[float]:
    """The least seconds of each act, taken in turn; one round before is not counted."""
    for act in acts:
        act()
    times = [[seconds(act) for act in acts] for _ in range(repetitions)]
    return [min(column) for column in zip(*times, strict=True)]


def bench_rays() -> dict:
    """Our tree against the package embreex: 100,000 triangles, incoherent rays, one thread."""
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore_scene import EmbreeScene
    from nineglass.forms.mesh import star
    from nineglass.trace.tree import any_hits, build_tree, closest_hits

    mesh = star(lambda out: 1 + 0.2 * np.sin(5 * out[:, 0]) * np.cos(7 * out[:, 1]), cells=91)
    tree = build_tree(mesh)
    rng, count = np.random.default_rng(2), 250_000
    start = rng.normal(size=(count, 3))
    start = (start / np.linalg.norm(start, axis=1, keepdims=True) * 1.5).astype(np.float32)
    aim = rng.normal(size=(count, 3))
    direction = aim / np.linalg.norm(aim, axis=1, keepdims=True) - start
    direction = (direction / np.linalg.norm(direction, axis=1, keepdims=True)).astype(np.float32)
    rays = (np.ascontiguousarray(start.T), np.ascontiguousarray(direction.T))
    distances, found = np.empty(count, np.float32), np.empty(count, np.int32)
    blocked, far = np.empty(count, np.bool_), np.full(count, 1e30, np.float32)
    scene = EmbreeScene()
    TriangleMesh(scene, mesh.vertices[mesh.faces])
    ours, theirs, ours_any, theirs_any = interleaved(
        lambda: closest_hits(tree, *rays, distances, found),
        lambda: scene.run(start, direction),
        lambda: any_hits(tree, *rays, far, blocked),
        lambda: scene.run(start, direction, query="OCCLUDED"),
    )
    return {"rays.closest_vs_reference": theirs / ours, "rays.any_vs_reference": theirs_any / ours_any}


def documents():
    from nineglass.documents.model import Material, Stage, read

    material = read(Material, (DEMO / "net-float.json").read_bytes())
    return material, read(Stage, (DEMO / "window-bench.json").read_bytes())


def twenty_slips() -> dict:
    """A network of 20 slips on the interface: facing, position, one noise of three octaves, ramps, mixes and arithmetic."""
    slips = [
        {"id": "facing", "kind": "facing", "dials": {"bias": 0.6, "gain": 0.6}},
        {"id": "place", "kind": "position"},
        {"id": "noise", "kind": "fractal_noise"},
        {"id": "rim", "kind": "ramp"},
        {"id": "spots", "kind": "ramp", "dials": {"curve": "smooth"}},
        {"id": "join", "kind": "mix"},
    ]
    pairs = [("facing", "rim.at"), ("place", "noise.place"), ("noise", "spots.at")]
    pairs += [("rim", "join.thin"), ("spots", "join.thick"), ("facing", "join.amount")]
    last = "join"
    for i in range(13):
        kind, dial = (("remap", "value"), ("arithmetic", "first"), ("clamp", "value"))[i % 3]
        dials = {"how": "multiply", "second": 0.95} if kind == "arithmetic" else {}
        slips.append({"id": f"s{i}", "kind": kind, "dials": dials})
        pairs.append((last, f"s{i}.{dial}"))
        last = f"s{i}"
    slips.append({"id": "last", "kind": "clamp", "dials": {"low": 0.3, "high": 0.3001}})
    pairs += [(last, "last.value"), ("last", "interface.specular_roughness")]
    wires = []
    for source, target in pairs:
        part, dial = target.split(".")
        wires.append({"source": {"slip": source}, "target": {"part": part, "dial": dial}})
    return {"slips": slips, "wires": wires}


def bench_trace() -> dict:
    from nineglass.trace.film import Film
    from nineglass.trace.render import Times, Tracer
    from nineglass.trace.scene import build_set

    the_set, film = build_set(*documents()), Film(320, 320)
    one, two = Tracer(1), Tracer(2)
    intersection = []

    def single():
        one.times = Times()
        one.render(the_set, film)
        intersection.append(one.times.intersection)

    alone, together = interleaved(single, lambda: two.render(the_set, film), repetitions=20)
    return {"trace.total_vs_intersect": alone / min(intersection[1:]), "trace.two_threads_vs_one": alone / together}


def bench_network() -> dict:
    """Both frosted alike, so that only the network differs."""
    from nineglass.documents.model import Material, read
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    material, stage = documents()
    plain = material.model_dump()
    plain["section"]["bands"][0]["dials"]["specular_roughness"] = 0.3
    constant = build_set(read(Material, plain), stage)
    driven = build_set(read(Material, plain | twenty_slips()), stage)
    tracer, film = Tracer(2), Film(320, 320)
    without, with_network = interleaved(lambda: tracer.render(constant, film), lambda: tracer.render(driven, film))
    return {"network.20_slips_vs_constant": with_network / without}


FIRST_PASS = """
from pathlib import Path
from nineglass.documents.model import Material, Stage, read
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set
demo = Path("demo")
material, stage = read(Material, (demo / "net-float.json").read_bytes()), read(Stage, (demo / "window-bench.json").read_bytes())
Tracer(2).render(build_set(material, stage), Film(320, 320))
"""


def bench_start() -> dict:
    def run(code):
        subprocess.run([sys.executable, "-c", code], check=True, cwd=ROOT)

    first, bare = interleaved(lambda: run(FIRST_PASS), lambda: run("import numba"), repetitions=10)
    return {"start.warm_vs_import": first / bare}


WATCH = """() => { const canvas = document.querySelector('[data-testid=picture]');
window.frames_ = []; addEventListener('keydown', () => { window.pressed_ = performance.now() }, true);
new MutationObserver(() => window.frames_.push({at: performance.now(), sequence: +canvas.dataset.sequence,
  samples: +canvas.dataset.samples})).observe(canvas, {attributes: true, attributeFilter: ['data-sequence', 'data-samples', 'data-coarse']}) }"""
TURN = """before => new Promise(done => { const look = () => {
  const first = window.frames_.find(f => f.sequence > before), full = window.frames_.find(f => f.sequence > before && f.samples > 0);
  full ? done([first.at - window.pressed_, full.at - window.pressed_]) : setTimeout(look, 2) }; look() })"""


def bench_live() -> dict:
    """A real server, a real browser: from a key on a dial to the picture drawn."""
    import django

    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    sys.argv = [str(ROOT / "server" / "manage.py")]
    django.setup()

    from browser.case import BrowserCase

    class Bench(BrowserCase):
        def runTest(self):
            """Not a test: a bench in a test's clothes."""

    from django.test.runner import DiscoverRunner
    from django.test.utils import setup_test_environment, teardown_test_environment

    runner = DiscoverRunner(verbosity=0, interactive=False, keepdb=True)
    setup_test_environment()
    databases = runner.setup_databases()
    Bench.setUpClass()
    try:
        bench = Bench()
        bench.setUp()
        page = bench.page
        page.evaluate(WATCH)
        page.get_by_role("slider", name="at depth").focus()
        turns = []
        for turn in range(21):
            page.wait_for_timeout(700)
            before = int(page.locator("[data-testid=picture]").get_attribute("data-sequence"))
            page.keyboard.press("ArrowRight" if turn % 2 else "ArrowLeft")
            turns.append(page.evaluate(TURN, before))
        status = Path(f"/proc/{bench.renderers()[0]}/status").read_text()
        resident = int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) / 1024
        bench.doCleanups()
    finally:
        Bench.doClassCleanups()
        runner.teardown_databases(databases)
        teardown_test_environment()
    first, full = (statistics.median(column) for column in zip(*turns[1:], strict=True))
    return {"live.first_frame_ms": first, "live.full_pass_ms": full, "memory.live_mb": resident}


GROUPS = {"rays": bench_rays, "trace": bench_trace, "network": bench_network, "start": bench_start, "live": bench_live}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--only", default=",".join(GROUPS), help="groups, separated by commas")
    arguments = parser.parse_args()
    figures = {}
    for name in arguments.only.split(","):
        print(f"measuring {name} ...", file=sys.stderr)
        figures |= {key: round(value, 3) for key, value in GROUPS[name]().items()}
    if arguments.json:
        print(json.dumps(figures, indent=1))
        return
    for key, value in figures.items():
        floor, aim = AIMS[key]
        print(f"{key:32} {value:9.3f}   floor {floor}, aim {aim}")


if __name__ == "__main__":
    main()
