"""What a final picture costs beyond its samples: queue, chunks and merging over the bare core; two workers over one; a bench beside a final; memory."""

import subprocess
import sys
import time
from pathlib import Path

from bench_page import hide, show

SIZE, SAMPLES = (640, 360), 68
MATERIAL, STAGE = "net-float", "window-bench"
LARGE = (8192, 768)
"""The first rows of the largest picture, all of which takes over ten minutes: it is put together in parts, of which this has four, and only its pixels
as they are seen, 3 bytes each, are held together."""


def bench_final(document, open_bench, first_frames) -> dict:
    """document(model, name) reads one of the demo; open_bench() gives a browser on the Bench; first_frames(page, rounds) is in ms."""
    with open_bench() as bench:
        from django.conf import settings

        settings.MEDIA_ROOT = Path(bench.server.files) / "files"
        hide(bench.page)  # A bench that is seen comes before final pictures.
        bare, two, one = _bare(document), _final(bench, document, 2), _final(bench, document, 1)
        print(f"  bare {bare:.1f} s, two lanes {two:.1f} s, one {one:.1f} s", file=sys.stderr)
        show(bench.page)
        alone = first_frames(bench.page, 20)
        worker = bench.server.begin_worker()
        picture = _order(bench, document, samples=None)
        _wait(picture, lambda one: one.pieces.get().samples > 0)
        beside = first_frames(bench.page, 20)
        _end(worker, picture)
        print(f"  first frame alone {alone:.0f} ms, beside a final {beside:.0f} ms", file=sys.stderr)
    return {
        "final.overhead_vs_core": two / bare,
        "final.two_workers_vs_one": one / two,
        "final.live_beside_final_ms": beside / alone,
        "final.memory_8k_mb": _memory(document),
    }


def _bare(document) -> float:
    """Seconds of the core alone, two threads, the scene built and the threads warm."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    the_set = build_set(document("Material", MATERIAL), document("Stage", STAGE), SIZE[0] / SIZE[1])
    tracer = Tracer(2)
    tracer.render(the_set, Film(*SIZE), 0, 1)
    began = time.perf_counter()
    tracer.render(the_set, Film(*SIZE), 0, SAMPLES)
    return time.perf_counter() - began


def _order(bench, document, samples):
    from materials.models import Material
    from nineglass.documents.final import Final
    from pictures import services

    kept = Material.objects.get(owner=bench.person, name="Net float")
    width, height = SIZE
    final = Final(width=width, height=height, noise=None, samples=samples, smoothed=False)
    return services.create(bench.person, kept.id, document("Material", MATERIAL), document("Stage", STAGE), final)


def _wait(picture, until) -> None:
    while not until(picture):
        time.sleep(0.2)
        picture.refresh_from_db()


def _end(worker: subprocess.Popen, picture) -> None:
    worker.kill()
    worker.wait()
    picture.delete()


def _final(bench, document, lanes: int) -> float:
    """Seconds from the first chunk taken to the picture done, by a worker whose lanes have begun: a small one is made first."""
    worker = bench.server.begin_worker(lanes)
    warm = _order(bench, document, samples=12)
    _wait(warm, lambda one: one.state == "done")
    picture = _order(bench, document, samples=SAMPLES)
    began = time.perf_counter()
    _wait(picture, lambda one: not one.pieces.filter(samples__lt=SAMPLES).exists())
    spent = time.perf_counter() - began
    warm.delete()
    _end(worker, picture)
    return spent


MEASURE = """
import resource, sys, tempfile
from pathlib import Path
import numpy as np
from nineglass.documents.final import Final
from nineglass.documents.model import Material, Stage, read
from nineglass.finals.plan import tiles_of
from nineglass.finals.sums import film_of
from nineglass.finals.whole import Whole, look_at, write_files
material, stage = (read(m, Path(p).read_text()) for m, p in zip((Material, Stage), sys.argv[1:3]))
final = Final(width=int(sys.argv[3]), height=int(sys.argv[4]), noise=None, samples=1)
rng = np.random.default_rng(1)

def part_of(rows):
    part = Whole(final, [("All light", (1, 1, 1))], False, rows)
    for k, tile in enumerate(tiles_of(final)):
        if part.needs(k):
            film = film_of(tile)
            film.sums[:], film.counts[:] = rng.random(film.sums.shape), 2
            film.odd[:], film.odd_counts[:] = film.sums / 2, 1
            part.put(0, k, film)
    return part

with tempfile.TemporaryDirectory() as folder:
    write_files(look_at(final, part_of, 0.0), part_of, final, material, stage, Path(folder))
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""


def _memory(document) -> float:
    """Megabytes at most of putting a picture of 8192 pixels across together and writing its layers, by what a worker does for it."""
    root = Path(__file__).resolve().parent.parent
    given = [root / "demo" / f"{name}.json" for name in (MATERIAL, STAGE)]
    found = subprocess.run(
        [sys.executable, "-c", MEASURE, *map(str, given), *map(str, LARGE)], capture_output=True, text=True, check=True
    )
    return float(found.stdout.split()[-1])
