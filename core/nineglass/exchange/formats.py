"""The formats that a material can be handed over in: a module of this room each, with a `FORMAT`."""

import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache

from nineglass import exchange
from nineglass.describe import Fault, Refused
from nineglass.documents.model import Material, Stage
from nineglass.exchange.report import Report

PICTURE_SIDES = (512, 1024, 2048, 4096)
LIGHTS = ("As the stage is", "Soft light all round", "Lit from behind")
"""In which what was handed over is held against the original."""


@dataclass(frozen=True)
class Written:
    """A material in another format: its files by name, the first one the document itself; and what became of it."""

    files: dict[str, bytes]
    report: Report


@dataclass(frozen=True)
class Taken:
    """What was read of a file: a document of a material, the files that it names by their SHA-256, and what became of it."""

    material: dict
    report: Report
    files: dict[str, bytes] = field(default_factory=dict)
    kinds: dict[str, str] = field(default_factory=dict)
    """What the files are; pictures where nothing is said."""
    stage: dict | None = None
    """The document of a stage, where one came along."""


@dataclass(frozen=True)
class Format:
    """A format. begins: whether a file is of it, by its first bytes; read: (files by name, the name of the one to begin with); write: (material,
    stage, side of pictures), None where nothing goes out in it."""

    name: str
    title: str
    ending: str
    help: str
    begins: Callable[[bytes], bool]
    read: Callable[[dict[str, bytes], str], Taken]
    write: Callable[[Material, Stage, int], Written] | None = None
    holds_all: bool = False
    """Whether documents of other formats may lie in it: it is looked for first."""
    measured: bool = True
    """Whether what it loses can be seen, and is measured."""
    place: int = 100
    """Where it stands among the others."""


@lru_cache(1)
def formats() -> dict[str, Format]:
    found = (
        importlib.import_module(f"{exchange.__name__}.{one.name}") for one in pkgutil.iter_modules(exchange.__path__)
    )
    ours = [module.FORMAT for module in found if hasattr(module, "FORMAT")]
    return {one.name: one for one in sorted(ours, key=lambda one: one.place)}


def written_formats() -> list[Format]:
    return [one for one in formats().values() if one.write]


def format_of(name: str) -> Format:
    """One that materials go out in. Raises Refused."""
    names = [one.name for one in written_formats()]
    if name not in names:
        raise Refused([Fault("format", f"there is no format {name!r}", "one of " + ", ".join(names), "Choose one.")])
    return formats()[name]


HEAD = 4000
"""Bytes of a file by which its format is told."""


def file_name(title: str) -> str:
    """A name of a file without an ending, of plain letters."""
    plain = "".join(letter if letter.isascii() and letter.isalnum() else "_" for letter in title.lower())
    return "_".join(part for part in plain.split("_") if part) or "material"
