"""What strands cost: a pelt of 300,000 to a clean picture, its passes against the rays alone, growing it, and what it holds in memory."""

import resource
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

WIDE, HIGH = 960, 540
SHARE = 0.5
"""Of its sides, what is measured of the picture: every pixel takes as long."""

TARGET, MOST_S = 0.05, 80.0
REFERENCE_S = 25.0
COARSE = (112, 63)
TURNS = 6
HERE = Path(__file__).resolve().parent


def bench_fibre(document) -> dict:
    """document(model, name) reads one of the demo. Growing and memory are measured in a process of their own."""
    from bench_settle import _between, round_of
    from nineglass.picture.noise import true_error
    from nineglass.picture.smooth import Shot
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    grown = _in_a_process()
    the_set = build_set(document("Material", "otter-pelt"), document("Stage", "pelt-table"), WIDE / HIGH)
    size = (int(WIDE * SHARE), int(HIGH * SHARE))
    tracer, truths = Tracer(2), []
    for seed in (101, 202):
        film, number, began = Film(*size), 0, time.perf_counter()
        while time.perf_counter() - began < REFERENCE_S:
            round_of(tracer, the_set, film, number, seed)
            number += 1
        truths.append(film.rgb())
    tracer = Tracer(2)
    film, number, spent, before, took = Film(*size), 0, 0.0, None, None
    while took is None and spent < MOST_S:
        began = time.perf_counter()
        round_of(tracer, the_set, film, number)
        number += 1
        looks = number & (number - 1) == 0 or number % 4 == 0
        rgb = Shot.of(film, the_set.exposure).smoothed()[0] if looks else None
        spent += time.perf_counter() - began
        if rgb is None:
            continue
        error = true_error(rgb, truths, the_set.exposure)
        print(f"  after {spent:.0f} s: {error:.1%}", file=sys.stderr)
        if error <= TARGET:
            took = _between(before, (spent, error))
        before = (spent, error)
    took = took or before[0] * (before[1] / TARGET) ** 2
    return grown | {
        "fibre.pelt_300k_s": took / SHARE**2,
        "fibre.pass_vs_intersect": tracer.times.total / tracer.times.intersection,
        "fibre.first_frame_ms": _first_frame_ms(document),
    }


def _first_frame_ms(document) -> float:
    """From a colour dial turned to the coarse picture of the pelt, without the browser."""
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    material, stage = document("Material", "otter-pelt"), document("Stage", "pelt-table")
    the_set, tracer, found = build_set(material, stage, WIDE / HIGH), Tracer(2), []
    for turn in range(TURNS):
        band = material.section.bands[0]
        dials = band.dials | {"highlight": 0.2 + 0.01 * turn}
        turned = material.model_copy(
            update={
                "section": material.section.model_copy(update={"bands": [band.model_copy(update={"dials": dials})]})
            }
        )
        began = time.perf_counter()
        the_set = build_set(turned, stage, WIDE / HIGH, waits=False, before=the_set)
        tracer.render(the_set, Film(*COARSE))
        found.append(1000 * (time.perf_counter() - began))
    return float(np.median(found))


def _in_a_process() -> dict:
    said = subprocess.run([sys.executable, __file__], capture_output=True, text=True, check=True, cwd=HERE).stdout
    seconds, megabytes = map(float, said.split())
    return {"fibre.grow_300k_s": seconds, "fibre.memory_mb": megabytes}


def _grow() -> None:
    """In the child: grow the pelt, render a little of it, and say how long growing took and how much the process holds."""
    sys.path.insert(0, str(HERE.parent / "core"))
    from nineglass.documents.model import Material, Stage, read
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    demo = HERE.parent / "demo"
    material = read(Material, (demo / "otter-pelt.json").read_text())
    stage = read(Stage, (demo / "pelt-table.json").read_text())
    few = build_set(material, stage, WIDE / HIGH, waits=False)
    began = time.perf_counter()
    few.grow()
    seconds = time.perf_counter() - began
    the_set = build_set(material, stage, WIDE / HIGH, before=few)
    Tracer(2).render(the_set, Film(WIDE, HIGH))
    print(seconds, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)


if __name__ == "__main__":
    _grow()
