"""The command line: render, gauge, check, catalogue. Uses the core alone; needs no server."""

import argparse
import json
import os
import sys
import time
from pathlib import Path

from nineglass.describe import Fault, Refused

WRITERS = (".exr", ".png")


def main(given: list[str] | None = None) -> int:
    arguments = _parser().parse_args(given)
    try:
        return arguments.run(arguments)
    except Refused as refused:
        for fault in refused.faults:
            print(fault.line(), file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="nineglass", description="Render and measure materials.")
    commands = parser.add_subparsers(required=True, metavar="command")

    render = commands.add_parser("render", help="render a material on a stage")
    render.add_argument("material", type=Path)
    render.add_argument("stage", type=Path)
    render.add_argument("-o", "--output", type=Path, required=True, help="a file .exr or .png")
    render.add_argument("--size", type=_size, default=(320, 320), help="width x height, as 320x320")
    render.add_argument("--samples", type=_count, default=64)
    render.add_argument("--seed", type=int, default=1)
    render.add_argument("--bounces", type=_count, default=16)
    render.add_argument("--threads", type=_count, default=os.cpu_count() or 1)
    render.set_defaults(run=_render)

    gauge = commands.add_parser("gauge", help="compute a gauge")
    gauge.add_argument("name")
    gauge.add_argument("material", type=Path)
    gauge.add_argument("--stage", type=Path, help="measures the path lengths in its form")
    gauge.add_argument("--json", action="store_true", help="print JSON")
    gauge.set_defaults(run=_gauge)

    follow = commands.add_parser("follow", help="follow a ray of light through a stage; units cm and nm")
    follow.add_argument("stage", type=Path)
    follow.add_argument("material", type=Path, nargs="?", help="the material on the bench; clear glass when not given")
    follow.add_argument(
        "--from", dest="start", type=_vector, required=True, help="x,y,z in cm from the middle of the stage"
    )
    follow.add_argument("--towards", type=_vector, required=True, help="a place x,y,z in cm")
    follow.add_argument("--wavelength", type=float, default=587.56, help="nm, 380 to 780")
    follow.add_argument("--all", action="store_true", help="both branches at every boundary, not the stronger one")
    follow.add_argument("--json", action="store_true", help="print JSON")
    follow.set_defaults(run=_follow)

    voxels = commands.add_parser(
        "voxels", help="write what varies within a material on a stage as OpenVDB grids, in cm"
    )
    voxels.add_argument("material", type=Path)
    voxels.add_argument("stage", type=Path)
    voxels.add_argument("-o", "--output", type=Path, required=True)
    voxels.set_defaults(run=_voxels)

    strands = commands.add_parser(
        "strands", help="write the strands of an object as OpenUSD BasisCurves, in the axes of their skin, in cm"
    )
    strands.add_argument("material", type=Path)
    strands.add_argument("stage", type=Path)
    strands.add_argument("-o", "--output", type=Path, required=True, help="a file that ends in .usda or .usdc")
    strands.add_argument("--object", help="the id of the strands; the first when not given")
    strands.set_defaults(run=_strands)

    check = commands.add_parser("check", help="check a material; one line per fault")
    check.add_argument("material", type=Path)
    check.set_defaults(run=_check)

    catalogue = commands.add_parser("catalogue", help="every kind with its ports and dials")
    catalogue.add_argument("--json", action="store_true", help="print JSON")
    catalogue.set_defaults(run=_catalogue)
    return parser


def _size(text: str) -> tuple[int, int]:
    parts = text.lower().split("x")
    if len(parts) != 2 or not all(p.isdigit() and 1 <= int(p) <= 16384 for p in parts):
        raise argparse.ArgumentTypeError(
            f"{text!r} is not a size; allowed: width x height, each 1 to 16384, as 320x320"
        )
    return int(parts[0]), int(parts[1])


def _count(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 1_000_000:
        raise argparse.ArgumentTypeError(f"{text!r} is not a count; allowed: 1 to 1000000")
    return int(text)


def _vector(text: str) -> tuple[float, ...]:
    parts = text.split(",")
    try:
        values = tuple(float(part) for part in parts)
    except ValueError:
        values = ()
    if len(values) != 3:
        raise argparse.ArgumentTypeError(f"{text!r} is not a place; allowed: x,y,z in cm")
    return values


def _document(model, path: Path):
    from nineglass.documents.model import read

    try:
        return read(model, path.read_bytes())
    except OSError as error:
        raise Refused([Fault(str(path), error.strerror or str(error), "a readable file", "Check the path.")]) from None


def _render(arguments) -> int:
    from nineglass.documents.model import Material, Stage
    from nineglass.picture.files import pixels_of, write_exr, write_png
    from nineglass.trace import gather
    from nineglass.trace.film import Film
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    if arguments.output.suffix.lower() not in WRITERS:
        allowed = "a file name that ends in " + " or ".join(WRITERS)
        raise Refused([Fault("--output", f"{arguments.output.name!r} has no known ending", allowed)])
    material, stage = _document(Material, arguments.material), _document(Stage, arguments.stage)
    width, height = arguments.size
    the_set = build_set(material, stage, width / height)
    tracer, film = Tracer(arguments.threads), Film(width, height)
    began = time.monotonic()
    for first in range(0, arguments.samples, 8):
        count = min(8, arguments.samples - first)
        tracer.render(the_set, film, first, count, most_bounces=arguments.bounces, seed=arguments.seed)
        noise = film.noise(the_set.exposure)
        words = (
            f"{first + count} of {arguments.samples} samples, noise {noise:.1%}" if noise is not None else "1 sample"
        )
        print(f"\r{words}, {time.monotonic() - began:.0f} s ", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    facts = {"material": material.name, "stage": stage.name, "samples": arguments.samples, "seed": arguments.seed}
    facts |= {"pixel_filter": {"window": gather.NAME, "reach_px": gather.REACH_PX}}
    if arguments.output.suffix.lower() == ".exr":
        write_exr(
            arguments.output,
            film.rgb(),
            facts | {"noise": film.noise(the_set.exposure), "exposure_ev": the_set.exposure},
            film.alpha() if the_set.cut_out else None,
        )
    else:
        write_png(arguments.output, pixels_of(film.rgb(), the_set.exposure, film.alpha() if the_set.cut_out else None))
    return 0


def _follow(arguments) -> int:
    from nineglass.documents.model import Material, Stage, read
    from nineglass.trace.follow import Follower
    from nineglass.trace.scene import build_set

    if not 380 <= arguments.wavelength <= 780:
        raise Refused([Fault("--wavelength", f"{arguments.wavelength:g} is out of range", "380 to 780 nm")])
    if arguments.start == arguments.towards:
        raise Refused([Fault("--towards", "it is the same place as --from", "another place")])
    stage = _document(Stage, arguments.stage)
    plain = {"section": {"bands": [{"id": "interface", "kind": "interface"}]}}
    material = _document(Material, arguments.material) if arguments.material else read(Material, plain)
    start = [v / 100 for v in arguments.start]
    way = [b / 100 - a for a, b in zip(start, arguments.towards, strict=True)]
    rays = Follower(build_set(material, stage)).follow(start, way, arguments.wavelength, arguments.all)
    if arguments.json:
        print(json.dumps([ray.as_json() for ray in rays]))
        return 0
    for ray in rays:
        for step in ray.steps:
            angle = "" if step.angle_deg is None else f"  {step.angle_deg:.2f} deg"
            beyond = "" if step.angle_beyond_deg is None else f" -> {step.angle_beyond_deg:.2f} deg"
            print(
                f"{step.length_cm:9.4f} cm of {step.medium:10s} {step.event:24s}{angle}{beyond}  left {step.left:.2%}"
            )
        print(f"{ray.left:.2%} is left at {ray.wavelength_nm:g} nm")
    return 0


MEASURE_SIDE, MEASURE_SAMPLES = 96, 4


def _gauge(arguments) -> int:
    from nineglass.documents.model import Material, Stage
    from nineglass.gauges import GAUGES, reading_of
    from nineglass.trace.film import Film, length_facts
    from nineglass.trace.render import Tracer
    from nineglass.trace.scene import build_set

    if arguments.name not in GAUGES.all:
        raise Refused([Fault("gauge", f"there is no gauge {arguments.name!r}", "one of " + ", ".join(GAUGES.all))])
    material = _document(Material, arguments.material)
    stage, lengths = None, None
    if arguments.stage:
        stage = _document(Stage, arguments.stage)
        film = Film(MEASURE_SIDE, MEASURE_SIDE)
        Tracer().render(build_set(material, stage), film, 0, MEASURE_SAMPLES)
        lengths = length_facts(film.lengths)
    computed = GAUGES.all[arguments.name].compute(reading_of(material, stage, lengths))
    print(json.dumps(computed, indent=None if arguments.json else 2))
    return 0


def _voxels(arguments) -> int:
    from nineglass.documents.model import Material, Stage
    from nineglass.exchange.vdb import write_vdb
    from nineglass.gauges import reading_of
    from nineglass.gauges.ghost import fields_on_bench
    from nineglass.trace.media.fields import grids_of

    found = fields_on_bench(reading_of(_document(Material, arguments.material), _document(Stage, arguments.stage)))
    if found is None:
        remedy = "Take the interface away and drive the density, or add a flame."
        raise Refused([Fault("material", "nothing in it varies in space", "a material without a boundary", remedy)])
    arguments.output.write_bytes(write_vdb(grids_of(found[1])))
    return 0


def _strands(arguments) -> int:
    from nineglass.documents.model import Material, Stage
    from nineglass.exchange.usd_strands import as_curves, write_usd
    from nineglass.trace.scene import build_set

    if arguments.output.suffix not in (".usda", ".usdc"):
        raise Refused([Fault("--output", f"{arguments.output.name!r} has no known ending", ".usda or .usdc")])
    the_set = build_set(_document(Material, arguments.material), _document(Stage, arguments.stage))
    grown = the_set.grown
    name = arguments.object or next(iter(grown), None)
    if name not in grown:
        remedy = "Add an object of the form Strands."
        raise Refused([Fault("--object", f"there are no strands {name!r}", ", ".join(grown) or "none", remedy)])
    write_usd(*as_curves(grown[name]), arguments.output)
    return 0


def _check(arguments) -> int:
    from nineglass.documents.model import Material

    try:
        _document(Material, arguments.material)
    except Refused as refused:
        for fault in refused.faults:
            print(fault.line())
        return 1
    print(f"{arguments.material.name}: no faults")
    return 0


def _catalogue(arguments) -> int:
    from nineglass import catalogue
    from nineglass.devices import DEVICES
    from nineglass.finish import FINISHES
    from nineglass.gauges import GAUGES

    everything = catalogue.as_json(FINISHES, DEVICES) | {"gauges": GAUGES.as_json()}
    print(json.dumps(everything, indent=None if arguments.json else 2))
    return 0


if __name__ == "__main__":
    sys.exit(main())
