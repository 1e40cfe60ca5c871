"""The shape of the documents, and their check against the catalogue."""

import json
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from nineglass.catalogue import BANDS, CAMERAS, FLOORS, FORMS, LAMPS, SLIPS, SURROUNDS
from nineglass.describe import CONVERSIONS, Catalogue, Fault, Refused

LARGEST_BYTES = 2_000_000

Name = Annotated[str, Field(min_length=1, max_length=120)]
Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,63}$")]


class Document(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Part(Document):
    """Something of a kind from the catalogue with its dials; dials that are not given keep their defaults."""

    kind: Annotated[str, Field(max_length=64)]
    dials: Annotated[dict[str, Any], Field(max_length=64)] = {}


class Band(Part):
    """One layer of a section."""

    id: Id
    on: bool = True


class Stack(Document):
    """Bands from the outside in."""

    kind: Literal["stack"] = "stack"
    bands: Annotated[list[Band], Field(min_length=1, max_length=32)]


class Slip(Part):
    """A node of the network, with its place on the paper."""

    id: Id
    title: Annotated[str, Field(max_length=120)] = ""
    at: tuple[float, float] = (0.0, 0.0)


class Source(Document):
    slip: Id
    port: Id = "out"


class Target(Document):
    """A dial of a slip or a band."""

    part: Id
    dial: Id


class Wire(Document):
    source: Source
    target: Target


class Material(Document):
    """A material: the section, and the network that drives its dials."""

    format: Literal["nineglass.material"] = "nineglass.material"
    version: Literal[1] = 1
    name: Name = "Untitled"
    section: Stack
    slips: Annotated[list[Slip], Field(max_length=400)] = []
    wires: Annotated[list[Wire], Field(max_length=1200)] = []


class Surround(Document):
    """What is around the form: what lights it, and what the camera sees behind it (the same when not given)."""

    light: Part
    camera: Part | None = None


class Stage(Document):
    """Form, lamps, surround and camera."""

    format: Literal["nineglass.stage"] = "nineglass.stage"
    version: Literal[1] = 1
    name: Name = "Untitled stage"
    form: Part
    turn: Annotated[float, Field(ge=-36000, le=36000)] = 0.0
    floor: Part | None = None
    lamps: Annotated[list[Part], Field(max_length=8)] = []
    surround: Surround
    camera: Part


class Settings(Document):
    """How one person likes to work."""

    format: Literal["nineglass.settings"] = "nineglass.settings"
    version: Literal[1] = 1
    theme: Literal["paper", "night"] = "paper"
    picture_side: Annotated[int, Field(ge=96, le=1024)] = 480
    most_samples: Annotated[int, Field(ge=1, le=16384)] = 512
    most_bounces: Annotated[int, Field(ge=1, le=64)] = 16


def read(model: type[Document], given: str | bytes | dict) -> Document:
    """A checked document from JSON or its parsed form; raises Refused with every fault found."""
    if isinstance(given, str | bytes):
        if len(given) > LARGEST_BYTES:
            raise Refused([Fault("$", "the document is too large", f"at most {LARGEST_BYTES} bytes", "Remove slips.")])
        try:
            given = json.loads(given)
        except (ValueError, RecursionError) as error:
            raise Refused([Fault("$", f"not JSON: {error}", "one JSON object", "Check the file.")]) from None
    try:
        document = model.model_validate(given)
    except ValidationError as error:
        raise Refused([_fault(one) for one in error.errors(include_url=False)]) from None
    if faults := faults_of(document):
        raise Refused(faults)
    return document


def _fault(error: dict) -> Fault:
    path = ""
    for step in error["loc"]:
        path += f"[{step}]" if isinstance(step, int) else f".{step}" if path else str(step)
    given = error.get("input")
    shown = f" (given {str(given)[:60]!r})" if not isinstance(given, dict | list) else ""
    words = error["msg"][0].lower() + error["msg"][1:]
    if error["type"] == "extra_forbidden":
        return Fault(path, "there is no such field", "the fields of the format", "Remove it.")
    if error["type"] == "missing":
        return Fault(path, "the field is missing", "a value", "Add it.")
    return Fault(path or "$", f"not valid{shown}", words, "Correct the value.")


def faults_of(document: Document) -> list[Fault]:
    """What is wrong with a well-formed document when held against the catalogue."""
    if isinstance(document, Material):
        return _faults_of_material(document)
    if not isinstance(document, Stage):
        return []
    parts: list[tuple[str, Catalogue, Part | None]] = [
        ("form", FORMS, document.form),
        ("floor", FLOORS, document.floor),
        ("surround.light", SURROUNDS, document.surround.light),
        ("surround.camera", SURROUNDS, document.surround.camera),
        ("camera", CAMERAS, document.camera),
        *((f"lamps[{i}]", LAMPS, lamp) for i, lamp in enumerate(document.lamps)),
    ]
    return [f for path, kinds, part in parts if part for f in kinds.faults_of(path, part.kind, part.dials)]


def _faults_of_material(material: Material) -> list[Fault]:
    faults, seen = [], {}
    places = [(f"section.bands[{i}]", BANDS, band) for i, band in enumerate(material.section.bands)]
    places += [(f"slips[{i}]", SLIPS, slip) for i, slip in enumerate(material.slips)]
    for path, kinds, part in places:
        faults += kinds.faults_of(path, part.kind, part.dials)
        if part.id in seen:
            faults.append(
                Fault(f"{path}.id", f"{part.id!r} is taken by {seen[part.id]}", "an id of its own", "Rename it.")
            )
        seen[part.id] = path
    kinds_of_bands = [band.kind for band in material.section.bands]
    for i, kind in enumerate(kinds_of_bands):
        if kind in kinds_of_bands[:i]:
            faults.append(
                Fault(f"section.bands[{i}]", f"there are two bands {kind!r}", "one of each kind", "Remove one.")
            )
    if "interior" in kinds_of_bands and kinds_of_bands[-1] != "interior":
        faults.append(
            Fault("section.bands", "the interior is not the innermost band", "the interior last", "Move it to the end.")
        )
    return faults or _faults_of_wires(material)


def _faults_of_wires(material: Material) -> list[Fault]:
    slips = {slip.id: SLIPS.kinds[slip.kind] for slip in material.slips}
    parts = slips | {band.id: BANDS.kinds[band.kind] for band in material.section.bands}
    faults, driven = [], {}
    for i, wire in enumerate(material.wires):
        path, source, target = f"wires[{i}]", wire.source, wire.target
        if source.slip not in slips:
            faults.append(
                Fault(f"{path}.source.slip", f"there is no slip {source.slip!r}", "the id of a slip", "Rewire.")
            )
            continue
        if target.part not in parts:
            allowed = "the id of a slip or band"
            faults.append(Fault(f"{path}.target.part", f"there is no part {target.part!r}", allowed, "Rewire."))
            continue
        ports = {port.name: port.type for port in slips[source.slip].gives}
        dial = parts[target.part].dials.get(target.dial)
        if source.port not in ports:
            faults.append(
                Fault(f"{path}.source.port", f"{source.slip} gives no {source.port!r}", ", ".join(ports), "Rewire.")
            )
        elif dial is None or not dial.drivable:
            allowed = ", ".join(d.name for d in parts[target.part].dials.values() if d.drivable) or "nothing"
            fault = f"{target.part} has no dial {target.dial!r} that can be driven"
            faults.append(Fault(f"{path}.target.dial", fault, allowed, "Rewire."))
        elif (target.part, target.dial) in driven:
            fault = f"{target.part}.{target.dial} is driven by {driven[target.part, target.dial]} already"
            faults.append(Fault(path, fault, "one wire into a dial", "Remove one of the two."))
        elif dial.type != ports[source.port] and (ports[source.port], dial.type) not in CONVERSIONS:
            fault = f"{source.slip}.{source.port} gives a {ports[source.port]}, {target.part}.{target.dial} takes a {dial.type}"
            faults.append(
                Fault(path, fault, "the same type, or a number into a colour", "Put a converting slip between.")
            )
        driven[target.part, target.dial] = f"{source.slip}.{source.port}"
    return faults or _faults_of_cycles(material)


def _faults_of_cycles(material: Material) -> list[Fault]:
    feeds: dict[str, list[tuple[int, Wire]]] = {}
    for i, wire in enumerate(material.wires):
        feeds.setdefault(wire.target.part, []).append((i, wire))
    done: set[str] = set()
    for start in [slip.id for slip in material.slips]:
        trail, stack = [start], [iter(feeds.get(start, []))]
        while stack and start not in done:
            step = next(stack[-1], None)
            if step is None:
                stack.pop()
                done.add(trail.pop())
                continue
            i, wire = step
            if wire.source.slip in trail:
                round_trip = [*trail[trail.index(wire.source.slip) :], wire.source.slip]
                fault = f"a cycle: {' <- '.join(round_trip)} (into {wire.target.part}.{wire.target.dial})"
                return [Fault(f"wires[{i}]", fault, "a network without cycles", "Remove this wire.")]
            if wire.source.slip not in done:
                trail.append(wire.source.slip)
                stack.append(iter(feeds.get(wire.source.slip, [])))
    return []
