"""One description per kind: what a band, slip, form, lamp, surround or camera is called, what it can be set to, and what it gives.

A kind is a class under one of the decorators made by `Catalogue.kind`; its attributes made with `dial`, `color_dial`, `choice`, `toggle`
and `number_stops` are what a person can set. Validation, defaults, the catalogue, the controls on screen and the help all come from here.
"""

import importlib
import itertools
import math
import os
import pkgutil
import re
from dataclasses import asdict, dataclass, field, fields
from typing import Any, Literal

LONGEST_TEXT = 2000

Value = float | bool | str | list
DialType = Literal["number", "color", "vector", "choice", "toggle", "stops", "color_stops", "curve", "file", "text"]
PortType = Literal["number", "color", "vector"]
FileKind = Literal["mesh", "picture", "texture", "photometry", "grid", "strands"]
ENDINGS: dict[str, str] = {
    "mesh": ".glb,.obj,.ply,.stl",
    "picture": ".hdr,.exr",
    "texture": ".png,.jpg,.jpeg,.exr,.hdr",
    "photometry": ".ies",
    "grid": ".vdb",
    "strands": ".usda,.usdc,.usd",
}
"""What kinds of files can be put in, and how their names end: meshes, lighting pictures, pictures for surfaces, photometry of lamps, grids
of numbers in space, strands."""

CONVERSIONS: dict[tuple[str, str], str] = {
    ("number", "color"): "number to grey",
    ("color", "number"): "colour to luminance",
    ("color", "vector"): "red, green, blue to x, y, z",
    ("vector", "color"): "x, y, z to red, green, blue",
}
"""What a wire may turn into what, with the words that stand on the wire. Nothing else converts."""


@dataclass(frozen=True)
class Fault:
    """Something wrong in a document: where, what, what is allowed, and what to do."""

    path: str
    fault: str
    allowed: str
    remedy: str = ""

    def line(self) -> str:
        return f"{self.path}: {self.fault}; allowed: {self.allowed}"


class Refused(ValueError):
    """A document that cannot be used, with all its faults."""

    def __init__(self, faults: list[Fault]):
        super().__init__("\n".join(fault.line() for fault in faults))
        self.faults = faults


@dataclass
class Dial:
    """One value that a person can set."""

    type: DialType
    default: Value
    label: str = ""
    name: str = ""
    low: float | None = None
    high: float | None = None
    hard_low: float | None = None
    hard_high: float | None = None
    scale: Literal["linear", "log"] = "linear"
    unit: str = ""
    ends: tuple[str, str] | None = None
    help: str = ""
    standard: str = ""
    choices: list[str] = field(default_factory=list)
    drivable: bool | None = None
    """Whether a wire may end here. Numbers and colours of slips may be driven unless it is said that they may not."""
    holds: FileKind | Literal[""] = ""
    """What kind of file it names."""
    accepts: str = ""
    """The endings of such files."""
    brings: dict[str, Value] = field(default_factory=dict)
    """Other dials that are set with it when a substance is put on the bench."""
    quantity: str = ""
    """Of a curve: what it is of, in a word of IES TM-27; of a relative one the shape alone counts."""
    joined: str = ""
    """How stops are joined: "through" by a curve through all of them, else the name of the choice of its slip that says so."""
    offers: tuple[str, ...] = ()
    """Of words: some that fit."""
    offered_by: str = ""
    """Of words: the dial of a file whose grids they name."""
    sloped: bool = False
    """Whether a slip also asks how what drives the dial changes over the form."""
    when: tuple[str, str] | None = None
    """(another dial, its value) under which this one has an effect; None for always."""
    beside: str = ""
    """Another dial without which this one has no effect: as long as that is at its default and not driven, it is folded away."""

    def fault_of(self, value: Any) -> tuple[str, str] | None:
        """(what is wrong, what is allowed) of a value, or None when it is right."""
        return getattr(self, f"_fault_of_{self.type}")(value)

    def _fault_of_number(self, value):
        allowed = f"a number from {self.hard_low:g} to {self.hard_high:g}" + (f" {self.unit}" if self.unit else "")
        if not _is_number(value):
            return f"{value!r} is not a number", allowed
        if not self.hard_low <= value <= self.hard_high:
            return f"{value:g} is out of range", allowed
        return None

    def _fault_of_color(self, value):
        allowed = f"three numbers from {self.hard_low:g} to {self.hard_high:g}, linear Rec.709"
        if not isinstance(value, list) or len(value) != 3 or not all(_is_number(v) for v in value):
            return f"{value!r} is not a colour", allowed
        if not all(self.hard_low <= v <= self.hard_high for v in value):
            return f"{value!r} has a channel out of range", allowed
        return None

    def _fault_of_choice(self, value):
        return None if value in self.choices else (f"{value!r} is not a choice", "one of " + ", ".join(self.choices))

    def _fault_of_toggle(self, value):
        return None if isinstance(value, bool) else (f"{value!r} is not a yes or no", "true or false")

    def _fault_of_stops(self, value, width=1):
        what = "a number" if width == 1 else "a colour"
        allowed = f"2 to 16 stops [place, {what}], places from 0 to 1 in rising order"
        if not isinstance(value, list) or not 2 <= len(value) <= 16:
            return "not a list of 2 to 16 stops", allowed
        for stop in value:
            if not isinstance(stop, list) or len(stop) != 2 or not _is_number(stop[0]) or not 0 <= stop[0] <= 1:
                return f"{stop!r} is not a stop", allowed
            given = stop[1] if width == 3 else [stop[1]]
            if not isinstance(given, list) or len(given) != width or not all(_is_number(v) for v in given):
                return f"{stop!r} is not a stop", allowed
            if not all(abs(v) <= 1000 for v in given):
                return f"{stop!r} runs past 1000", allowed
        if any(b[0] < a[0] for a, b in itertools.pairwise(value)):
            return "the places fall", allowed
        return None

    def _fault_of_color_stops(self, value):
        return self._fault_of_stops(value, width=3)

    def _fault_of_curve(self, value):
        allowed = "2 to 512 points [wavelength in nm, value], wavelengths from 200 to 3000 rising, values from 0 to 1"
        if not isinstance(value, list) or not 2 <= len(value) <= 512:
            return "not a list of 2 to 512 points", allowed
        for point in value:
            if not isinstance(point, list) or len(point) != 2 or not all(_is_number(v) for v in point):
                return f"{point!r} is not a point", allowed
            if not 200 <= point[0] <= 3000 or not 0 <= point[1] <= 1:
                return f"{point!r} is out of range", allowed
        if any(b[0] <= a[0] for a, b in itertools.pairwise(value)):
            return "the wavelengths do not rise", allowed
        return None

    def _fault_of_text(self, value):
        right = isinstance(value, str) and len(value) <= LONGEST_TEXT
        return None if right else ("not a text of that length", f"a text of at most {LONGEST_TEXT} characters")

    def _fault_of_file(self, value):
        right = isinstance(value, str) and (value == "" or re.fullmatch(r"[0-9a-f]{64}", value))
        return None if right else (f"{value!r} names no file", "the SHA-256 of a file that was put in, or nothing")


def _is_number(value) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)


def dial(default, low, high, *, hard=None, label="", **about) -> Dial:
    """A number. low, high: the range on screen; hard: the range that is allowed (else the same)."""
    hard_low, hard_high = hard or (low, high)
    return Dial("number", default, label, low=low, high=high, hard_low=hard_low, hard_high=hard_high, **about)


def color_dial(default, *, hard=(0, 1), label="", **about) -> Dial:
    """A linear Rec.709 colour."""
    return Dial("color", list(default), label, hard_low=hard[0], hard_high=hard[1], **about)


def choice(*choices: str, label="", **about) -> Dial:
    """One of some words; the first is the default."""
    return Dial("choice", choices[0], label, choices=list(choices), **about)


def toggle(default: bool, label="", **about) -> Dial:
    return Dial("toggle", default, label, **about)


def number_stops(default, label="Stops", **about) -> Dial:
    """Places from 0 to 1 with a number each."""
    return Dial("stops", default, label, **about)


def color_stops(default, label="Stops", **about) -> Dial:
    """Places from 0 to 1 with a colour each."""
    return Dial("color_stops", default, label, **about)


def curve(default, label="", quantity="transmittance", **about) -> Dial:
    """Points over wavelength: [nm, value from 0 to 1]."""
    return Dial("curve", default, label, quantity=quantity, **about)


def file_dial(holds: FileKind, label="", **about) -> Dial:
    """A file that was put in, named by its SHA-256; empty for none."""
    return Dial("file", "", label, holds=holds, accepts=ENDINGS[holds], **about)


def text_dial(label="", **about) -> Dial:
    """Words of a person."""
    return Dial("text", "", label, **about)


def vector_in(label="", **about) -> Dial:
    """A vector that can only be driven; its rest value is named by the slip."""
    return Dial("vector", [0.0, 0.0, 0.0], label, drivable=True, **about)


@dataclass(frozen=True)
class Port:
    """What a slip gives."""

    name: str
    type: PortType


def gives(type: PortType) -> Port:
    return Port("out", type)


@dataclass(frozen=True)
class Cut:
    """How the section draws a band."""

    style: Literal[
        "boundary", "skin", "varnish", "fibres", "columns", "matter", "plate", "grains", "rays", "strand", "flakes"
    ]
    colors: tuple[str, ...] = ()
    """The colour dials that it is drawn in."""
    worked_out: Literal["", "film", "metal", "fibre", "flakes"] = ""
    """Where its colours are worked out from several dials, by what."""
    says: dict[str, str] = field(default_factory=dict)
    """The figures beside its title: a format for each dial; those of a dial that has no effect are left out."""


@dataclass(frozen=True)
class Rest:
    """What lies where a band is not there in full."""

    amount: str
    """The dial that says how much of the band there is."""
    kind: str
    """The kind of band that the rest is, which has an amount of its own."""
    dials: dict[str, str]
    """Dials of that kind, by which of the band's own they follow."""


@dataclass(frozen=True)
class Rules:
    """What a declaration may say beside its dials, each as a class attribute of the same name."""

    synonyms: str = ""
    """Other words to find it by."""
    rank: int = 0
    """Of a band: 0 outermost; it may not lie beneath one of a higher rank, and bands of one rank may change places."""
    most: int = 1
    """Of a band: how many of it a stack may have."""
    why: str = ""
    """Of a band: the reason that is given where it cannot lie."""
    excludes: tuple[str, ...] = ()
    """Of a band: kinds that cannot be in one stack with it."""
    beyond_splits: bool = False
    """Of a band: whether those cannot be on the other side of a split either."""
    rest: Rest | None = None
    """Of a band: what the rest of it is."""
    colored_by: str = ""
    """Of a band: the dial that gives what wears it its colour."""
    splits: bool = False
    """Of a band: whether it divides what lies beneath it into two stacks."""
    plain: bool = False
    """Of a band: whether a section is made of it when nothing else is left."""
    cut: Cut | None = None
    """Of a band: how the section draws it."""
    hollow: str = ""
    """Of a form: what to say of the room that it encloses."""
    sign: Literal["", "bar", "disc", "ball", "point", "sun", "beam"] = ""
    """Of a lamp: its sign on the plan."""
    parts: dict[str, int] = field(default_factory=lambda: {"body": 10})
    """Of a form: its parts, each with the priority that it has by itself."""
    grows: bool = False
    """Of a form: whether it is strands, which stand on another object."""


@dataclass(frozen=True)
class Kind:
    """A kind with its dials and ports; `make` is the class that was declared."""

    role: str
    name: str
    title: str
    family: str
    help: str
    standard: str
    dials: dict[str, Dial]
    gives: list[Port]
    make: type

    def defaults(self) -> dict[str, Value]:
        return {name: dial.default for name, dial in self.dials.items()}

    def has_effect(self, dial: str, values: dict) -> bool:
        """Whether a dial has an effect when the others are set so (all of them given)."""
        when = self.dials[dial].when
        return when is None or (values[when[0]] == when[1] and self.has_effect(when[0], values))

    def faults_of(self, path: str, dials: dict) -> list[Fault]:
        """What is wrong with the dials of a part of this kind."""
        faults = []
        for name, value in dials.items():
            if name not in self.dials:
                allowed = "one of " + ", ".join(self.dials)
                faults.append(Fault(f"{path}.dials.{name}", f"{self.title} has no such dial", allowed, "Remove it."))
            elif wrong := self.dials[name].fault_of(value):
                remedy = f"Set {self.dials[name].label} within what is allowed."
                faults.append(Fault(f"{path}.dials.{name}", *wrong, remedy))
        return faults

    def as_json(self) -> dict:
        """The entry of the catalogue that the screens draw from."""
        entry = {key: getattr(self, key) for key in ("role", "name", "title", "family", "help", "standard")}
        entry["dials"] = [asdict(dial) for dial in self.dials.values()]
        entry["gives"] = [asdict(port) for port in self.gives]
        return entry | {"rules": asdict(self.rules)}

    @property
    def rules(self) -> Rules:
        said = {field.name: getattr(self.make, field.name, None) for field in fields(Rules)}
        return Rules(**{name: rule for name, rule in said.items() if rule is not None and name not in self.dials})


def find_files(package: str, folders: list[str]) -> None:
    """Import every file of a package, and of the folders of its name in NINEGLASS_ROOMS."""
    more = os.environ.get("NINEGLASS_ROOMS")
    if more:
        folders.append(os.path.join(more, package.rpartition(".")[2]))
    for found in sorted(pkgutil.iter_modules(folders), key=lambda one: one.name):
        importlib.import_module(f"{package}.{found.name}")


class Catalogue:
    """All kinds of one role, by name."""

    def __init__(self, role: str):
        self.role = role
        self.kinds: dict[str, Kind] = {}

    def kind(self, *, title: str, family: str = "", standard: str = "", name: str = ""):
        """Decorator: declare a kind. Its name is the class name in snake case unless given."""

        def declare(declared: type) -> type:
            dials, ports = {}, []
            attributes = {k: v for above in reversed(declared.__mro__) for k, v in vars(above).items()}
            for key, value in attributes.items():
                if isinstance(value, Dial):
                    value.name, value.label = key, value.label or key.replace("_", " ").capitalize()
                    if value.drivable is None:
                        value.drivable = self.role == "slip" and value.type in ("number", "color")
                    dials[key] = value
                elif isinstance(value, Port):
                    ports.append(Port(key, value.type))
            word = name or _snake(declared.__name__)
            help = " ".join((declared.__doc__ or "").split())
            self.kinds[word] = Kind(self.role, word, title, family, help, standard, dials, ports, declared)
            return declared

        return declare

    def discover(self, package: str, folders: list[str]) -> None:
        """Import every file of a package, so that the kinds that it declares are known. Folders named by NINEGLASS_ROOMS, with the name of
        the package, count as parts of it."""
        find_files(package, folders)
        self.kinds = dict(sorted(self.kinds.items(), key=lambda one: one[1].rules.rank))

    def faults_of(self, path: str, kind: str, dials: dict) -> list[Fault]:
        """What is wrong with a part of this role."""
        if kind not in self.kinds:
            allowed = "one of " + ", ".join(self.kinds)
            return [
                Fault(f"{path}.kind", f"there is no {self.role} {kind!r}", allowed, "Choose one from the catalogue.")
            ]
        return self.kinds[kind].faults_of(path, dials)


def _snake(name: str) -> str:
    return "".join("_" + letter.lower() if letter.isupper() else letter for letter in name).lstrip("_")
