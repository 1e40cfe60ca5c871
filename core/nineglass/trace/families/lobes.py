"""Lobes: responses that bands bring with them, atop everything or at the bottom of a stack.

A band with a lobe names the module of its response (`lobe`), where it lies (`lies`: TOP or BOTTOM) and which dial is its amount (`amount`).
The module has two functions of scalars, compiled or plain:
    albedo(tables, dials, cosine) -> share of light from a direction that is thrown back, in [0, 1] (asked of a lobe atop only)
    values(tables, dials, wo, wi) -> responses times the cosine of wi at four wavelengths; directions in its own frame
where dials is a row: its numbers and choices in the order of its description, then each colour at the four wavelengths.
Directions are drawn evenly by the cosine. An atop lobe's values must integrate to its albedo, for white.
"""

import importlib
from dataclasses import dataclass
from pathlib import Path

from numba.core.registry import CPUDispatcher

from nineglass.documents.bands import BANDS
from nineglass.kernels import depends_on, step
from nineglass.trace.families.layout import file_of

TOP, BOTTOM = "top", "bottom"
MOST_NUMBERS, MOST_COLORS = 4, 2
"""How many numbers and colours a lobe may have."""

ROW = MOST_NUMBERS + 4 * MOST_COLORS


@dataclass(frozen=True)
class Lobe:
    """What the walk needs to know of a kind of lobe."""

    kind: str
    lies: str
    amount: str
    numbers: tuple[str, ...]
    """Numbers and choices."""
    colors: tuple[str, ...]
    module: object


def _lobe_of(kind: str) -> Lobe:
    about = BANDS.kinds[kind]
    make = about.make
    others = [dial for dial in about.dials.values() if dial.name not in (make.amount, "normal")]
    numbers = tuple(dial.name for dial in others if dial.type in ("number", "choice"))
    colors = tuple(dial.name for dial in others if dial.type == "color")
    if len(numbers) > MOST_NUMBERS or len(colors) > MOST_COLORS:
        raise ValueError(f"band {kind}: a lobe has at most {MOST_NUMBERS} numbers and {MOST_COLORS} colours")
    return Lobe(kind, make.lies, make.amount, numbers, colors, importlib.import_module(make.lobe))


LOBES = tuple(_lobe_of(name) for name, about in BANDS.kinds.items() if hasattr(about.make, "lobe"))
NUMBERS = {lobe.kind: k for k, lobe in enumerate(LOBES)}
for _lobe in LOBES:
    depends_on("nineglass.trace.families.layers", Path(_lobe.module.__file__), file_of(_lobe.kind))


def _compiled(function):
    return function if isinstance(function, CPUDispatcher) else step(function)


def _one_of(name: str, functions: list, takes: str):
    """A compiled function that hands on to one of several by number."""
    scope = {f"f{k}": _compiled(function) for k, function in enumerate(functions)}
    lines = [f"def {name}(which, {takes}):"]
    for k in range(len(functions) - 1):
        lines += [f"    if which == {k}:", f"        return f{k}({takes})"]
    lines.append(f"    return f{len(functions) - 1}({takes})")
    exec(compile("\n".join(lines), __file__, "exec"), scope)
    return step(scope[name])


lobe_albedo = _one_of("lobe_albedo", [lobe.module.albedo for lobe in LOBES], "tables, dials, cosine")
lobe_values = _one_of("lobe_values", [lobe.module.values for lobe in LOBES], "tables, dials, wo, wi")
