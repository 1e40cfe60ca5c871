"""Small documents and renders that the tests share."""

import json
from pathlib import Path

import numba
import numpy as np
from nineglass.catalogue import FORMS
from nineglass.documents.model import Material, Stage, read
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set

from tests.lengths import fewer

DEMO = Path(__file__).resolve().parents[2] / "demo"
TRACER = Tracer(2)
GROWN = {name for name, kind in FORMS.kinds.items() if kind.rules.grows}
"""Forms that are strands and have no surface of their own: in test_strands."""

SOLIDS = sorted(set(FORMS.kinds) - GROWN)


def called(step):
    """A step of a kernel, to be called from a test."""
    return numba.njit(error_model="numpy")(step.py_func)


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


def alike(value: float = 1.0) -> list[dict]:
    """Slips of which `one` gives a number everywhere, which nobody can know before they are run. They need the wire `ALIKE`."""
    return [
        {"id": "cloud", "kind": "noise", "dials": {}},
        {"id": "one", "kind": "clamp", "dials": {"low": value, "high": value}},
    ]


ALIKE = wire("cloud", "one.value")


def thing(name: str, form: str, dials=None, **about) -> dict:
    """An object of a stage. about: at, turn, tilt, wears, seen."""
    return {"id": name, "form": {"kind": form, "dials": dials or {}}, **about}


def wears(document: Material, priority: int | None = None) -> dict:
    """A material of its own for the body of an object."""
    return {"body": {"material": document.model_dump(mode="json"), "priority": priority}}


def lamp_of(i: int, given: dict) -> dict:
    """A whole lamp, or a rectangle when only dials are given."""
    return {"id": f"lamp_{i}"} | (given if "kind" in given else {"kind": "rectangle", "dials": given})


def stage(
    form="ball",
    form_dials=None,
    *,
    objects=(),
    color=(1, 1, 1),
    strength=1.0,
    lamps=(),
    floor=None,
    surround=None,
    camera=None,
) -> Stage:
    """A form in an even surround, without lamps or floor unless given."""
    return read(
        Stage,
        {
            "version": 2,
            "objects": list(objects) or [thing("form", form, form_dials)],
            "lamps": [lamp_of(i, lamp) for i, lamp in enumerate(lamps)],
            "floor": None if floor is None else {"kind": "floor", "dials": floor},
            "surround": surround or {"light": {"kind": "plain", "dials": {"color": list(color), "strength": strength}}},
            "camera": {"kind": "camera", "dials": {"f_stop": 512, "distance": 40, "elevation": 0} | (camera or {})},
        },
    )


MANY = 256
"""Samples from which on a picture is made of fewer in a short run."""


def render(material: Material, stage: Stage, side: int = 48, samples: int = 16, of: int = 4, **how) -> Film:
    """of: by how much the samples, when they are many, are fewer in a short run."""
    film = Film(side, side)
    samples = fewer(samples, of) if samples >= MANY else samples
    TRACER.render(build_set(material, stage), film, 0, samples, **how)
    return film


def middle(film: Film, share: float = 0.2) -> np.ndarray:
    """Mean colour of the middle of a picture."""
    rgb = film.rgb()
    half = film.height // 2
    reach = max(1, int(film.height * share / 2))
    return rgb[half - reach : half + reach, half - reach : half + reach].mean(axis=(0, 1))


def luminance(rgb):
    """Relative luminance of linear Rec.709 (IEC 61966-2-1)."""
    return np.asarray(rgb) @ (0.2126, 0.7152, 0.0722)
