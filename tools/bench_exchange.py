"""How near materials of the demo come to themselves over open formats, and how long the largest takes to go out."""

import json
import statistics
import sys
import time
from pathlib import Path

DEMO = Path(__file__).resolve().parent.parent / "demo"
SIDE, SAMPLES, PICTURES = 64, 24, 256
OUT = 1024
"""Pixels on a side of the pictures of the material that takes the longest to write."""


def bench_exchange() -> dict:
    """Of every material that has a surface: the mean over three lights, and of those the median."""
    from nineglass.documents.model import Material, Stage, read
    from nineglass.exchange import glb, mtlx
    from nineglass.exchange.openpbr import SURFACE_BANDS
    from nineglass.trace.render import Tracer

    stage, tracer = read(Stage, (DEMO / "window-bench.json").read_text()), Tracer(2)
    found, took = {mtlx.NAME: {}, glb.NAME: {}}, {}
    for path in sorted(DEMO.glob("*.json")):
        if json.loads(path.read_text()).get("format") != "nineglass.material":
            continue
        material = read(Material, path.read_text())
        if not SURFACE_BANDS & {band.kind for band in material.section.bands}:
            continue
        for form in (mtlx, glb):
            began = time.perf_counter()
            written = form.write(material, stage, PICTURES)
            if form is mtlx:
                took[path.stem] = (time.perf_counter() - began, material)
            found[form.NAME][path.stem] = _apart(form, material, written, stage, tracer)
        told = ", ".join(f"{name} {of[path.stem]:.2f}" for name, of in found.items() if path.stem in of)
        print(f"  {path.stem}: {told}", file=sys.stderr)
    _, largest = max(took.values(), key=lambda one: one[0])
    began = time.perf_counter()
    mtlx.write(largest, stage, OUT)
    return {
        "exchange.mtlx_delta_e_median": statistics.median(found[mtlx.NAME].values()),
        "exchange.glb_delta_e_median": statistics.median(found[glb.NAME].values()),
        "exchange.out_s": time.perf_counter() - began,
    }


def _apart(form, material, written, stage, tracer) -> float:
    """Delta E of a material and what is read of it."""
    from nineglass.documents.model import Material, read
    from nineglass.exchange.difference import difference_on, stages_for
    from nineglass.files import keep

    taken = form.read_files(written.files, next(iter(written.files)))
    for data in taken.files.values():
        keep([data])
    other = read(Material, taken.material)
    return statistics.fmean(
        difference_on(material, other, one, tracer, side=SIDE, samples=SAMPLES, tells_noise=False).delta_e
        for one in stages_for(material, stage)
    )
