"""Compile every kernel with exactly the types of production, so that the first picture does not wait.

The largest kernel is compiled by a second process beside the others.
"""

import subprocess
import sys
from pathlib import Path

from nineglass import kernels
from nineglass.documents.model import Material, Stage, read
from nineglass.gauges import Reading
from nineglass.gauges.bench import read_bench
from nineglass.picture.display import to_srgb8
from nineglass.trace.film import Film, length_facts
from nineglass.trace.pick import pick
from nineglass.trace.render import Tracer, Worker
from nineglass.trace.scene import build_set
from nineglass.trace.shade_layers import shade_layers

DEMO = Path(__file__).resolve().parent.parent / "demo"

LAYERS = "--layers"

DRIVEN = {
    "slips": [{"id": "noise", "kind": "fractal_noise"}, {"id": "mix", "kind": "color_mix"}],
    "wires": [
        {"source": {"slip": "noise"}, "target": {"part": "mix", "dial": "amount"}},
        {"source": {"slip": "mix"}, "target": {"part": "interior", "dial": "transmission_color"}},
        {"source": {"slip": "noise"}, "target": {"part": "interface", "dial": "specular_roughness"}},
    ],
}


def warm_layers() -> None:
    """The largest kernel by itself, on an empty batch."""
    the_set = build_set(read(Material, (DEMO / "tea-caddy.json").read_bytes()), window_bench())
    worker = Worker(64)
    worker.take(the_set)
    worker.clear()
    shade_layers(worker.batch, worker.registers, the_set.scene, 1)


def window_bench() -> Stage:
    return read(Stage, (DEMO / "window-bench.json").read_bytes())


def main() -> None:
    beside = subprocess.Popen([sys.executable, __file__, LAYERS])
    plain = read(Material, (DEMO / "net-float.json").read_bytes())
    driven = read(Material, plain.model_dump() | DRIVEN)
    stage = window_bench()
    tracer = Tracer(1)
    metal = read(Material, (DEMO / "brass-cap.json").read_bytes())
    crystal = read(Material, (DEMO / "rock-crystal.json").read_bytes())
    layered = read(Material, (DEMO / "tea-caddy.json").read_bytes())
    split = read(Material, (DEMO / "oil-slate.json").read_bytes())
    fast = stage.model_copy(update={"fast_shadows": True})
    pictured = read(Stage, (DEMO / "slate-table.json").read_bytes())
    for material, place in (
        (plain, stage),
        (driven, stage),
        (crystal, pictured),
        (metal, fast),
        (layered, stage),
        (split, stage),
    ):
        if material is metal:
            beside.wait()
        the_set, film = build_set(material, place), Film(16, 16)
        tracer.render(the_set, film)
        to_srgb8(film.rgb())
        read_bench(Reading(material, place, the_set.compiled, length_facts(film.lengths)))
        pick(the_set, tracer, 0.5, 0.5, 16)
    made = len(kernels.cache_misses())
    print(f"  {made} functions compiled into {kernels.cache_folder()}" if made else "  all kernels were there already")
    for old in kernels.cache_folder().iterdir():
        if old.name != kernels.stamp() and "--keep" not in sys.argv:
            for file in old.iterdir():
                file.unlink(missing_ok=True)
            old.rmdir()


if __name__ == "__main__":
    warm_layers() if LAYERS in sys.argv else main()
