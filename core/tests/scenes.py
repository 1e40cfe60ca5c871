"""Small documents and renders that the tests share."""

import json
from pathlib import Path

import numpy as np
from nineglass.documents.model import Material, Stage, read
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set

DEMO = Path(__file__).resolve().parents[2] / "demo"
TRACER = Tracer(2)


def demo(name: str) -> dict:
    return json.loads((DEMO / f"{name}.json").read_text())


def material(*, interface: dict | None = None, interior: dict | None = None, slips=(), wires=()) -> Material:
    bands = [{"id": "interface", "kind": "interface", "dials": interface or {}}]
    if interior is not None:
        bands.append({"id": "interior", "kind": "interior", "dials": interior})
    return read(Material, {"section": {"bands": bands}, "slips": list(slips), "wires": list(wires)})


def wire(source: str, target: str) -> dict:
    """wire("ramp", "interface.specular_roughness"), with ".port" at the source when it is not `out`."""
    slip, _, port = source.partition(".")
    part, dial = target.split(".")
    return {"source": {"slip": slip, "port": port or "out"}, "target": {"part": part, "dial": dial}}


def stage(form="ball", form_dials=None, *, color=(1, 1, 1), strength=1.0, lamps=(), floor=None, camera=None) -> Stage:
    """A form in an even surround, without lamps or floor unless given."""
    return read(
        Stage,
        {
            "form": {"kind": form, "dials": form_dials or {}},
            "lamps": [{"kind": "rectangle", "dials": lamp} for lamp in lamps],
            "floor": None if floor is None else {"kind": "floor", "dials": floor},
            "surround": {"light": {"kind": "plain", "dials": {"color": list(color), "strength": strength}}},
            "camera": {"kind": "camera", "dials": {"f_stop": 512, "distance": 40, "elevation": 0} | (camera or {})},
        },
    )


def render(material: Material, stage: Stage, side: int = 48, samples: int = 16, **how) -> Film:
    film = Film(side, side)
    TRACER.render(build_set(material, stage), film, 0, samples, **how)
    return film


def middle(film: Film, share: float = 0.2) -> np.ndarray:
    """Mean colour of the middle of a picture."""
    rgb = film.rgb()
    half = film.height // 2
    reach = max(1, int(film.height * share / 2))
    return rgb[half - reach : half + reach, half - reach : half + reach].mean(axis=(0, 1))
