"""Measure speed as ratios within one run: interleaved, minima of at least ten repetitions.

python tools/bench.py --json [--only trace,live] [--against PATH]: all of GROUPS, or some.
A group that fails is told, and the figures of the others are printed all the same. Figures are told as each group ends, with the minutes that it took,
and written to .local/bench.json: what is broken off loses nothing.
"""

import argparse
import json
import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from bench_exchange import bench_exchange
from bench_fibre import bench_fibre
from bench_final import bench_final
from bench_finish import bench_finish
from bench_media import bench_media
from bench_neighbours import bench_neighbours, bench_upload
from bench_page import RESTS_WITHIN_S, hide
from bench_settle import bench_caustics, bench_filter, bench_noise, bench_settle
from bench_trials import bench_trials

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "demo"
KEPT = ROOT / ".local" / "bench.json"
REPETITIONS = 12
AIMS = {
    "trace.samples_vs_before": (1.4, 2.2),
    "trace.worst_vs_before": (1.1, 1.5),
    "trace.total_vs_intersect": (2.6, 1.9),
    "trace.build_1m_s_vs_reference": (1.3, 1.1),
    "final.overhead_vs_core": (1.15, 1.05),
    "final.two_workers_vs_one": (1.8, 1.95),
    "final.live_beside_final_ms": (2, 1.3),
    "final.memory_8k_mb": (3000, 1500),
    "finish.frame_ms": (250, 80),
    "exchange.mtlx_delta_e_median": (3, 1),
    "exchange.glb_delta_e_median": (5, 3),
    "exchange.out_s": (8, 3),
    "loop.dial_to_pass_ms": (8, 3),
    "start.fresh_to_link_vs_build": (30, 15),
    "trace.two_threads_vs_one": (1.7, 1.9),
    "network.20_slips_vs_constant": (2.0, 1.3),
    "start.warm_vs_import": (4, 3),
    "live.first_frame_ms": (120, 80),
    "live.full_pass_ms": (450, 300),
    "memory.live_mb": (1000, 700),
    "live.idle_cpu_share": (0.02, 0.02),
    "live.twenty_benches_first_frame_s": (4, 2),
    "live.neighbour_ms_beside_heavy": (2.5, 1.5),
    "upload.mesh_1m_s": (5, 2.5),
    "light.dispersion_noise_ratio": (0.6, 0.35),
    "light.env_variance_ratio": (0.1, 0.03),
    "light.gem_pass_vs_float_pass": (3, 2),
    "light.mesh_1m_vs_100k": (1.6, 1.3),
    "network.40_slips_textured_vs_constant": (2.4, 1.6),
    "network.edit_ms": (30, 8),
    "layers.4_bands_vs_1": (2.0, 1.4),
    "settle.first_readable_ms": (350, 180),
    "settle.speedup_median": (20, 60),
    "settle.worst_s_480": (20, 8),
    "caustics.variance_ratio": (0.05, 0.01),
    "noise.told_over_true_least": (0.7, 0.85),
    "noise.told_over_true_most": (1.4, 1.2),
    "filter.share_of_time": (0.25, 0.12),
    "media.candle_pass_vs_float": (3, 1.8),
    "media.fog_vs_clear": (2.5, 1.6),
    "media.grid_256_vs_clear": (3, 2),
    "media.networked_vs_constant": (2, 1.4),
    "media.color_noise_ratio": (0.5, 0.25),
    "fibre.pelt_300k_s": (220, 100),
    "fibre.pass_vs_intersect": (1.8, 1.4),
    "fibre.grow_300k_s": (4, 2),
    "fibre.memory_mb": (1800, 1000),
    "fibre.first_frame_ms": (300, 150),
    "flakes.pass_vs_coat": (1.6, 1.25),
    "trials.sheet_5x5_s_vs_one": (25, 15),
    "library.page_ms": (600, 250),
    "web.drag_frame_ms_p95": (32, 16),
    "web.bracket_s": (4, 2),
    "web.initial_js_kb_gzip": (450, 300),
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


def bench_build() -> dict:
    """What a stage with a mesh of 1 million triangles costs to make ready, over the bare library's scene of the same mesh."""
    from nineglass.forms.mesh import star
    from nineglass.trace.geometry import embree
    from nineglass.trace.geometry.standing import ready_for_rays

    mesh = star(lambda out: 0.06 * (1 + 0.05 * np.sin(9 * out[:, 0]) * np.cos(11 * out[:, 1])), cells=289)
    ours, bare = interleaved(lambda: ready_for_rays(mesh), lambda: embree.MeshRays(mesh), repetitions=6)
    return {"trace.build_1m_s_vs_reference": ours / bare}


def stands() -> list[tuple[str, str]]:
    """Every demo stage with a material that stands on it, by the names of their files."""
    files = {path.stem: json.loads(path.read_text()) for path in sorted(DEMO.glob("*.json"))}
    at_home = {stage: material for material, stage in files["standing"]["stands"].items()}
    by_name = {one["name"]: stem for stem, one in files.items() if one["format"] == "nineglass.material"}
    stages = [(stem, one["name"]) for stem, one in files.items() if one["format"] == "nineglass.stage"]
    return [(by_name[at_home.get(name, "Net float")], stem) for stem, name in stages]


PASSES = """
import sys, time
from pathlib import Path
from nineglass.documents.model import Material, Stage, read
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set
demo, tracer = Path(sys.argv[1]), Tracer(2)
for line in sys.stdin:
    words = line.split()
    if words[0] == "stand":
        material, stage = (read(kind, (demo / f"{name}.json").read_bytes()) for kind, name in zip((Material, Stage), words[1:]))
        the_set, film, sample = build_set(material, stage), Film(256, 256), 0
    else:
        began = time.perf_counter()
        tracer.render(the_set, film, sample, 1, most_bounces=16)
        sample += 1
        print(time.perf_counter() - began, flush=True)
        continue
    print(0, flush=True)
"""


class Passes:
    """A process that renders passes by the code of one checkout."""

    def __init__(self, checkout: Path, demo: Path):
        own = checkout / ".local" / "venv" / "bin" / "python"
        environment = os.environ | {"PYTHONPATH": str(checkout / "core")}
        command = [str(own if own.exists() else sys.executable), "-c", PASSES, str(demo)]
        self._process = subprocess.Popen(
            command, env=environment, cwd=checkout, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def __call__(self, *words: str) -> float:
        self._process.stdin.write(" ".join(words) + "\n")
        self._process.stdin.flush()
        return float(self._process.stdout.readline())

    def close(self) -> None:
        self._process.stdin.close()
        self._process.wait()


def bench_against(other: Path) -> dict:
    """Passes of this checkout and of another in turn, on all demo stages that both know, of 256 x 256 at 16 bounces."""
    here, there = Passes(ROOT, DEMO), Passes(other, other / "demo")
    ratios = {}
    for material, stage in stands():
        if not all((other / "demo" / f"{name}.json").exists() for name in (material, stage)):
            continue
        for side in (here, there):
            side("stand", material, stage)
        times = [[side("pass") for side in (here, there)] for _ in range(2 + REPETITIONS)][2:]
        ours, theirs = (min(column) for column in zip(*times, strict=True))
        ratios[stage] = theirs / ours
        print(
            f"  {material} on {stage}: {ratios[stage]:.2f}, {65.536 / ours:.0f} thousand samples a second",
            file=sys.stderr,
        )
    here.close()
    there.close()
    values = list(ratios.values())
    return {"trace.samples_vs_before": statistics.median(values), "trace.worst_vs_before": min(values)}


def bench_loop() -> dict:
    """From a message to the first kernel when a constant is turned, on the slowest demo stage."""
    from nineglass.trace.render import Tracer, Worker

    sys.path.insert(0, str(ROOT / "server"))
    from live.renderer import Bench

    began_at, kept = [], Worker.launch

    def launch(worker, *about):
        began_at.append(time.perf_counter())
        return kept(worker, *about)

    worst, tracer = 0.0, Tracer(2)
    Worker.launch = launch
    try:
        for material, stage in stands():
            times = _turned(Bench("bench", lambda *_: None, lambda *_: None), tracer, material, stage, began_at)
            print(f"  {material} on {stage}: {1000 * times:.1f} ms", file=sys.stderr)
            worst = max(worst, times)
    finally:
        Worker.launch = kept
    return {"loop.dial_to_pass_ms": 1000 * worst}


def _turned(bench, tracer, material: str, stage: str, began_at: list) -> float:
    """Median seconds from the message of a turned dial to the first kernel."""
    from nineglass.catalogue import BANDS

    given = {
        name: json.loads((DEMO / f"{one}.json").read_text()) for name, one in (("material", material), ("stage", stage))
    }
    band = given["material"]["section"]["bands"][-1]
    dial = next(dial for dial in BANDS.kinds[band["kind"]].dials.values() if dial.type == "number")
    times = []
    for turn in range(REPETITIONS):
        band.setdefault("dials", {})[dial.name] = dial.low + (dial.high - dial.low) * (0.4 + 0.01 * turn)
        about = {"settings": {"picture_side": 96, "most_samples": 4}, "inside": ""}
        message = json.dumps({"sequence": turn, **given, **about})
        began_at.clear()
        began = time.perf_counter()
        bench.change = json.loads(message)
        bench.take()
        bench.work(tracer, lambda: False, lambda: False)
        times.append(began_at[0] - began)
    return statistics.median(times[2:])


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
    last = chained(slips, pairs, "join", 13, "s")
    slips.append({"id": "last", "kind": "clamp", "dials": {"low": 0.3, "high": 0.3001}})
    pairs += [(last, "last.value"), ("last", "interface.specular_roughness")]
    return {"slips": slips, "wires": wired(pairs)}


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


def chained(slips: list, pairs: list, last: str, count: int, prefix: str) -> str:
    """Remap, arithmetic and clamp by turns behind a slip; gives the last."""
    for i in range(count):
        kind, dial = (("remap", "value"), ("arithmetic", "first"), ("clamp", "value"))[i % 3]
        dials = {"how": "multiply", "second": 0.95} if kind == "arithmetic" else {}
        slips.append({"id": f"{prefix}{i}", "kind": kind, "dials": dials})
        pairs.append((last, f"{prefix}{i}.{dial}"))
        last = f"{prefix}{i}"
    return last


def wired(pairs: list) -> list:
    ends = [(source, *target.split(".")) for source, target in pairs]
    return [{"source": {"slip": s}, "target": {"part": p, "dial": d}} for s, p, d in ends]


def forty_slips() -> dict:
    """40 slips on the interface: two fractals of three octaves, two noises, two Worleys, and what joins them."""
    slips, pairs, ends = [], [], []
    for i, kind in enumerate(("fractal_noise", "noise", "worley") * 2):
        slips.append({"id": f"t{i}", "kind": kind, "dials": {"size": 0.7 + 0.3 * i}})
        ends.append(chained(slips, pairs, f"t{i}", 4, f"c{i}_"))
    last = ends[0]
    for i, end in enumerate(ends[1:]):
        slips.append({"id": f"m{i}", "kind": "mix"})
        pairs += [(last, f"m{i}.thin"), (end, f"m{i}.thick")]
        last = f"m{i}"
    last = chained(slips, pairs, last, 40 - len(slips) - 1, "d")
    slips.append({"id": "last", "kind": "clamp", "dials": {"low": 0.3, "high": 0.3001}})
    pairs += [(last, "last.value"), ("last", "interface.specular_roughness")]
    return {"slips": slips, "wires": wired(pairs)}


def bench_textured() -> dict:
    """Both frosted alike, so that only the network differs."""
    from nineglass.documents.model import Material, read
    from nineglass.network.compile import compile_network
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    material, stage = documents()
    plain = material.model_dump()
    plain["section"]["bands"][0]["dials"]["specular_roughness"] = 0.3
    network = forty_slips()
    if len(network["slips"]) != 40:
        raise ValueError(f"{len(network['slips'])} slips, not 40")
    sets = [build_set(read(Material, plain | more), stage) for more in ({}, network)]
    tracer, film = Tracer(2), Film(320, 320)
    without, textured = interleaved(*(lambda s=s: tracer.render(s, film) for s in sets))
    slips, pairs = [{"id": "start", "kind": "fractal_noise"}], []
    chained(slips, pairs, "start", 299, "s")
    wires = [wired(pairs), [*wired(pairs)[:-1], *wired([("s100", "s298.first")])]]
    large = [plain | {"slips": slips, "wires": one} for one in wires]
    edit = interleaved(*(lambda d=d: compile_network(read(Material, d)) for d in large))
    return {
        "network.40_slips_textured_vs_constant": textured / without,
        "network.edit_ms": 1000 * statistics.mean(edit),
    }


def bench_layers() -> dict:
    """Film, coat, interface and body colour against the interface alone, and flakes under a coat against the coat; on the same form and stage."""
    from nineglass.documents.model import Material, read
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    _, stage = documents()
    beneath = ("interface", "body")
    kinds = (("interface",), ("film", "coat", *beneath), ("coat", *beneath), ("coat", "flakes", *beneath))
    sections = [{"bands": [{"id": kind, "kind": kind} for kind in some]} for some in kinds]
    sets = [build_set(read(Material, {"section": section}), stage) for section in sections]
    tracer, film = Tracer(2), Film(320, 320)
    one, four, coat, flakes = interleaved(*(lambda s=s: tracer.render(s, film) for s in sets))
    return {"layers.4_bands_vs_1": four / one, "flakes.pass_vs_coat": flakes / coat}


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


def bench_fresh() -> dict:
    """`./start` with an empty kernel cache and database, downloads done, until it shows its link; over the build of the web."""
    build = min(
        seconds(
            lambda: subprocess.run(["npm", "run", "-s", "build"], cwd=ROOT / "web", check=True, capture_output=True)
        )
        for _ in range(3)
    )
    with tempfile.TemporaryDirectory() as folder:
        local = Path(folder) / "local"
        (local / "done").mkdir(parents=True)
        for step in (ROOT / ".local" / "done").glob("*"):
            if step.name.startswith(("python-", "npm", "web")):
                (local / "done" / step.name).write_bytes(step.read_bytes())
        clean = {name: value for name, value in os.environ.items() if not name.startswith("PG")}
        environment = clean | {
            "NINEGLASS_LOCAL": str(local),
            "NINEGLASS_KERNEL_CACHE": f"{folder}/kernels",
            "NINEGLASS_PORT": "8790",
        }
        began = time.perf_counter()
        process = subprocess.Popen(
            ["./start"],
            cwd=ROOT,
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            start_new_session=True,
        )
        try:
            next(line for line in process.stdout if "/enter/" in line)
            link = time.perf_counter() - began
        finally:
            os.killpg(process.pid, signal.SIGTERM)
            process.wait()
            subprocess.run(["tools/postgres.sh", "stop"], cwd=ROOT, env=environment, check=False, capture_output=True)
    print(f"  link after {link:.0f} s, web built in {build:.1f} s", file=sys.stderr)
    return {"start.fresh_to_link_vs_build": link / build}


WATCH = """() => { const canvas = document.querySelector('[data-testid=picture]');
window.frames_ = []; addEventListener('keydown', () => { window.pressed_ = performance.now() }, true);
new MutationObserver(() => window.frames_.push({at: performance.now(), sequence: +canvas.dataset.sequence,
  samples: +canvas.dataset.samples})).observe(canvas, {attributes: true, attributeFilter: ['data-sequence', 'data-samples', 'data-coarse']}) }"""
TURN = """before => new Promise(done => { const look = () => {
  const first = window.frames_.find(f => f.sequence > before), full = window.frames_.find(f => f.sequence > before && f.samples > 0);
  full ? done([first.at - window.pressed_, full.at - window.pressed_]) : setTimeout(look, 2) }; look() })"""


@contextmanager
def open_bench():
    """A browser on the Bench of a real server, with a database of its own."""
    import django

    os.environ["DJANGO_SETTINGS_MODULE"] = "config.settings"
    sys.argv = [str(ROOT / "server" / "manage.py")]
    django.setup()

    from browser.case import BrowserCase

    class Bench(BrowserCase):
        picture_side, most_samples, has_own_server = 480, 512, True

        def runTest(self):
            """Not a test: a bench in a test's clothes."""

    from config.runner import Runner

    runner = Runner(verbosity=0, interactive=False, keepdb=True)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    Bench.setUpClass()
    try:
        bench = Bench()
        bench.setUp()
        yield bench
        bench.doCleanups()
    finally:
        Bench.doClassCleanups()
        runner.teardown_databases(databases)
        runner.teardown_test_environment()


MAIN_STAGE = "Window bench"
ROUNDS, FEW_ROUNDS = 12, 2
"""Turns of a dial on the main stage, and on each of the others."""


def bench_live() -> dict:
    """A real server, a real browser: from a key on a dial to the picture drawn. The first frame: on the slowest stage."""
    with open_bench() as bench:
        page = bench.page
        page.evaluate(WATCH)
        turns = {}
        choice = page.get_by_role("combobox", name="stage")
        chosen = choice.evaluate("choice => choice.selectedOptions[0].textContent")
        for name in choice.locator("option").all_inner_texts():
            # Choosing the stage that is open already changes nothing, and no picture would come.
            if name != chosen:
                bench.change(lambda name=name: choice.select_option(label=name), samples=1)
            chosen = name
            turns[name] = _turns(page, ROUNDS if name == MAIN_STAGE else FEW_ROUNDS)
        status = Path(f"/proc/{bench.renderers()[0]}/status").read_text()
        peak = int(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1]) / 1024
        idle = max(_idle_when_hidden(bench), _idle_when_settled(bench))
    medians = {name: [statistics.median(column) for column in zip(*some, strict=True)] for name, some in turns.items()}
    for name, (first, full) in medians.items():
        print(f"  {name}: first frame {first:.0f} ms, full pass {full:.0f} ms", file=sys.stderr)
    worst_first = max(first for first, _ in medians.values())
    return {
        "live.first_frame_ms": worst_first,
        "settle.first_readable_ms": worst_first,  # the first frame is smoothed
        "live.full_pass_ms": medians[MAIN_STAGE][1],
        "memory.live_mb": peak,
        "live.idle_cpu_share": idle,
    }


IDLE_S = 6


def _idle_when_hidden(bench) -> float:
    """The share of a processor that the server and its renderer take while nobody sees the picture."""
    hide(bench.page)
    return _share_of_processor(bench)


def _idle_when_settled(bench) -> float:
    """The same beside a picture that has all its samples."""
    from accounts.models import Preferences

    Preferences.objects.filter(owner=bench.person).update(document={"picture_side": 480, "most_samples": 4})
    bench.page.reload()
    bench.wait_for_picture(samples=4)
    time.sleep(RESTS_WITHIN_S)
    return _share_of_processor(bench)


def _share_of_processor(bench) -> float:
    from config.results import processor_seconds

    before = processor_seconds(bench.server.process.pid)
    time.sleep(IDLE_S)
    return (processor_seconds(bench.server.process.pid) - before) / IDLE_S


BETWEEN_TURNS_MS = 300
FRAMES = """() => { window.gaps_ = []; let last = performance.now();
const look = now => { window.gaps_.push(now - last); last = now; requestAnimationFrame(look) }; requestAnimationFrame(look) }"""
MOST_SLIPS = 300


def bench_web() -> dict:
    """The network with 300 slips under the pointer, a bracket, and what the first load brings."""
    import gzip

    scripts = sum(len(gzip.compress(path.read_bytes())) for path in (ROOT / "web" / "dist").rglob("*.js"))
    with open_bench() as bench:
        from materials.models import Material

        page = bench.page
        bench.page.get_by_role("slider", name="Roughness").first.focus()
        began = time.perf_counter()
        page.keyboard.press("b")
        page.get_by_text("All seven are even").wait_for(timeout=60_000)
        bracket = time.perf_counter() - began
        slips, pairs = [{"id": "start", "kind": "number"}], []
        chained(slips, pairs, "start", MOST_SLIPS - 1, "s")
        for i, slip in enumerate(slips):
            slip["at"] = [i % 20 * 230, i // 20 * 170]
        kept = Material.objects.get(owner=bench.person, name="Net float")
        kept.document |= {"slips": slips, "wires": wired(pairs)}
        kept.save()
        page = bench.open_bench()
        page.get_by_role("combobox", name="material").select_option(label="Net float")
        page.locator("[data-slip=start]").wait_for()
        page.wait_for_timeout(6000)
        box = page.locator("[data-slip=start] header").bounding_box()
        page.evaluate(FRAMES)
        page.mouse.move(box["x"] + 90, box["y"] + 10)
        page.mouse.down()
        for step in range(90):
            page.mouse.move(box["x"] + 90 + step, box["y"] + 10 + step)
        page.mouse.up()
        gaps = page.evaluate("() => window.gaps_.slice(1)")
    return {
        "web.drag_frame_ms_p95": float(np.percentile(gaps, 95)),
        "web.bracket_s": bracket,
        "web.initial_js_kb_gzip": scripts / 1024,
    }


def _turns(page, rounds: int) -> list:
    """Milliseconds to the first frame and to the full pass, for some turns of a dial."""
    page.get_by_role("slider", name="at depth").focus()
    turns = []
    for turn in range(rounds):
        page.wait_for_timeout(BETWEEN_TURNS_MS)
        before = int(page.locator("[data-testid=picture]").get_attribute("data-sequence"))
        page.keyboard.press("ArrowRight" if turn % 2 else "ArrowLeft")
        turns.append(page.evaluate(TURN, before))
    return turns[1:]


def _first_frames(page, rounds: int) -> float:
    """Milliseconds to the first frame, in the middle of some turns of a dial."""
    page.evaluate(WATCH)
    return statistics.median(first for first, _ in _turns(page, rounds))


def document(model, name: str):
    from nineglass.documents import model as documents

    return documents.read(getattr(documents, model), (DEMO / f"{name}.json").read_bytes())


def variance_per_second(
    the_set, tracer, side: int, samples: int, of: Callable[[np.ndarray], np.ndarray], truth, rounds: int
):
    """Mean squared error of a quantity of the picture times the seconds it took, over some rounds of different seeds."""
    from nineglass.trace.film import Film

    errors, spent = [], 0.0
    for seed in range(1, rounds + 1):
        film = Film(side, side)
        spent += seconds(
            lambda film=film, seed=seed: tracer.render(the_set, film, 0, samples, seed=seed, most_bounces=16)
        )
        errors.append(np.mean((of(film.rgb()) - truth) ** 2))
    return float(np.mean(errors)) * spent / rounds


def chroma(rgb: np.ndarray) -> np.ndarray:
    """Differences of the channels: what of noise is colour."""
    return np.stack([rgb[..., 0] - rgb[..., 1], rgb[..., 1] - rgb[..., 2]], axis=-1).clip(-4, 4)


def bench_dispersion() -> dict:
    """A flint prism and its stage: our split, against one wavelength a path from the camera on."""
    from nineglass.trace.film import Film
    from nineglass.trace.generate import generate
    from nineglass.trace.render import Tracer, Worker
    from nineglass.trace.scene import build_set

    stage = document("Stage", "slate-table")
    material = document("Material", "rock-crystal")
    material.section.bands[0].dials |= {"substance": "dense_flint_785257"}
    the_set, tracer, side = build_set(material, stage), Tracer(2), 64
    film = Film(side, side)
    tracer.render(the_set, film, 0, 1024, seed=99, most_bounces=16)
    truth = chroma(film.rgb())
    ours = variance_per_second(the_set, tracer, side, 16, chroma, truth, 8)
    kept, Worker.launch = Worker.launch, _alone(Worker.launch, generate)
    try:
        plain = variance_per_second(the_set, tracer, side, 32, chroma, truth, 8)
    finally:
        Worker.launch = kept
    return {"light.dispersion_noise_ratio": ours / plain}


def _alone(launch, generate):
    """The plain way: every path carries one wavelength of its four, with four times the weight."""
    from nineglass.trace.paths import ACTIVE, WHOLE

    def begin(worker, kernel, batch, *about):
        before, paths = int(batch.counts[ACTIVE]), batch.paths
        launch(worker, kernel, batch, *about)
        if kernel is not generate:
            return
        columns = batch.active[before : batch.counts[ACTIVE]]
        kept = (paths.sample[columns] + paths.pixel[columns]) % 4
        for row in (paths.wavelength, paths.per_density, paths.sigma_a):
            row[0, columns] = row[kept, columns]
        paths.weight[0, columns], paths.lines[columns] = 4.0, 1
        batch.counts[WHOLE] -= len(columns)

    return begin


def bench_surround() -> dict:
    """A matt floor under the studio picture: directions drawn by brightness, against all alike."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    stage = document("Stage", "slate-table")
    stage.floor.dials["color"] = [0.5, 0.5, 0.5]
    stage.objects[0].form.dials = {"diameter": 0.05}
    material, tracer, side = document("Material", "net-float"), Tracer(2), 64
    ours, plain = (build_set(material, stage, uniform=uniform) for uniform in (False, True))
    film = Film(side, side)
    tracer.render(ours, film, 0, 2048, seed=99)
    truth = film.rgb()
    figures = [variance_per_second(one, tracer, side, 16, lambda rgb: rgb, truth, 8) for one in (ours, plain)]
    return {"light.env_variance_ratio": figures[0] / figures[1]}


def bench_gem() -> dict:
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    gem = build_set(document("Material", "rock-crystal"), document("Stage", "slate-table"))
    hollow = build_set(*documents())
    tracer, film = Tracer(2), Film(320, 320)
    stone, floated = interleaved(
        lambda: tracer.render(gem, film, most_bounces=24), lambda: tracer.render(hollow, film, most_bounces=12)
    )
    return {"light.gem_pass_vs_float_pass": stone / floated}


def bench_meshes() -> dict:
    """The same form as a mesh of 1 million triangles and of 100 thousand."""
    from nineglass.forms import FORMS
    from nineglass.forms.ball import Ball
    from nineglass.forms.mesh import star
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    def bumpy(cells):
        return star(lambda out: 0.06 * (1 + 0.05 * np.sin(9 * out[:, 0]) * np.cos(11 * out[:, 1])), cells=cells)

    material, stage = documents()
    meshes, sets = {cells: bumpy(cells) for cells in (91, 289)}, []
    plain = Ball.mesh
    for i, cells in enumerate(meshes):
        Ball.mesh = lambda self, dials, cells=cells: meshes[cells]
        stage.objects[0].form = stage.objects[0].form.model_copy(update={"kind": "ball", "dials": {"diameter": 5 + i}})
        sets.append(build_set(material, stage))
    Ball.mesh = plain
    assert FORMS.kinds["ball"].make is Ball
    tracer, film = Tracer(2), Film(320, 320)
    small, large = interleaved(*(lambda one=one: tracer.render(one, film) for one in sets))
    return {"light.mesh_1m_vs_100k": large / small}


def bench_light() -> dict:
    return bench_dispersion() | bench_surround() | bench_gem() | bench_meshes()


GROUPS = {
    "trace": lambda: bench_trace() | bench_build(),
    "loop": bench_loop,
    "network": bench_network,
    "start": bench_start,
    "fresh": bench_fresh,
    "textured": bench_textured,
    "layers": bench_layers,
    "web": bench_web,
    "live": bench_live,
    "light": bench_light,
    "neighbours": bench_neighbours,
    "upload": bench_upload,
    "settle": lambda: bench_settle(document),
    "noise": lambda: bench_noise(document),
    "caustics": lambda: bench_caustics(document),
    "filter": lambda: bench_filter(document),
    "media": lambda: bench_media(document, interleaved),
    "fibre": lambda: bench_fibre(document),
    "trials": lambda: bench_trials(document, open_bench),
    "final": lambda: bench_final(document, open_bench, _first_frames),
    "finish": bench_finish,
    "exchange": bench_exchange,
}


def measured(name: str, against: Path | None) -> dict:
    """Figures of a group, each three digits after the point."""
    measure = (lambda: bench_against(against)) if name == "against" else GROUPS[name]
    return {key: round(value, 3) for key, value in measure().items()}


def by_itself(name: str, against: Path | None) -> dict:
    """The same, in a process that has done nothing else: what groups before it hold would be measured as well."""
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as process:
        return process.submit(measured, name, against).result()


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--only", default=",".join(GROUPS), help="groups, separated by commas")
    parser.add_argument(
        "--against", type=Path, help="another checkout, set up, whose passes are timed in turn with these"
    )
    arguments = parser.parse_args()
    figures, failed = {}, []
    for name in [*arguments.only.split(","), *(["against"] if arguments.against else [])]:
        print(f"measuring {name} ...", file=sys.stderr, flush=True)
        began, found = time.monotonic(), {}
        try:
            found = by_itself(name, arguments.against)
        except Exception:
            failed.append(name)
            print(f"{name} failed:\n{traceback.format_exc()}", file=sys.stderr)
        figures |= found
        KEPT.write_text(json.dumps(figures, indent=1))
        out = sys.stderr if arguments.json else sys.stdout
        for key, value in found.items():
            floor, aim = AIMS[key]
            print(f"{key:38} {value:9.3f}   floor {floor}, aim {aim}", file=out, flush=True)
        print(f"{name} took {(time.monotonic() - began) / 60:.1f} min", file=sys.stderr, flush=True)
    if arguments.json:
        print(json.dumps(figures, indent=1))
    if failed:
        print(f"failed: {', '.join(failed)}", file=sys.stderr)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
