"""The shape of the documents, and their check against the catalogue."""

import json
from dataclasses import asdict, replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator
from pydantic_core import PydanticCustomError

from nineglass.catalogue import BANDS, CAMERAS, FLOORS, FORMS, LAMPS, SLIPS, SURROUNDS
from nineglass.describe import CONVERSIONS, Catalogue, Fault, Kind, Refused
from nineglass.documents.migrations import migrated
from nineglass.documents.modules import (
    MODULE,
    MOST_SLIPS,
    faults_of_modules,
    kind_of_slip,
    kinds_of_modules,
    size_of,
    sizes_of,
)
from nineglass.documents.plain import NOT_PLAIN, fault_of_json
from nineglass.documents.shown import Shape, View

LARGEST_BYTES = 2_000_000
MOST_LOBES = 6
"""How many bands with a response of their own may lie in one stack."""

BOTH, FIRST, SECOND = "both", "first", "second"
SURROUND_PARTS = ("light", "second", "reflections", "camera")

Name = Annotated[str, Field(min_length=1, max_length=120)]
Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,63}$")]
Place = Annotated[float, Field(ge=-1e6, le=1e6)]
Length = Annotated[float, Field(ge=0, le=1e6)]


class Document(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Versioned(Document):
    """A document that is brought up from its older versions as it is read."""

    @model_validator(mode="before")
    @classmethod
    def newest(cls, given):
        if fault := fault_of_json(given):
            raise PydanticCustomError(NOT_PLAIN, "{fault}", asdict(fault))
        return migrated(given)[0]


class Part(Document):
    """Something of a kind from the catalogue with its dials; dials that are not given keep their defaults."""

    kind: Annotated[str, Field(max_length=64)]
    dials: Annotated[dict[str, Any], Field(max_length=64)] = {}


class Band(Part):
    """One layer of a section."""

    id: Id
    on: bool = True
    name: Annotated[str, Field(max_length=120)] = ""
    side: Literal["both", "first", "second"] = BOTH
    """Of a split: beneath which of its sides the band lies."""


class Stack(Document):
    """Bands from the outside in."""

    kind: Literal["stack"] = "stack"
    bands: Annotated[list[Band], Field(min_length=1, max_length=32)]


class Slip(Part):
    """A node of the network, with its place on the paper."""

    id: Id
    module: Id | None = None
    """Of a slip of the kind `module`: the module that it uses."""
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


class Mount(Document):
    """A titled sheet of backing paper under a set of slips."""

    id: Id
    title: Annotated[str, Field(max_length=120)] = ""
    at: tuple[Place, Place]
    size: tuple[Length, Length]


class Network(Document):
    """Slips, the wires between them, and the sheets that they lie on."""

    slips: Annotated[list[Slip], Field(max_length=400)] = []
    wires: Annotated[list[Wire], Field(max_length=1200)] = []
    mounts: Annotated[list[Mount], Field(max_length=64)] = []


class Exposed(Document):
    """A dial of a slip within a module that the module has as its own."""

    name: Id
    label: Annotated[str, Field(max_length=120)] = ""
    target: Target
    low: Place | None = None
    """The range on screen; that of the dial itself when not given."""
    high: Place | None = None


class Given(Document):
    """What a slip within a module gives, as a port of the module."""

    name: Id
    source: Source


class Kept(Document):
    """Which module of the library a module is a copy of, and of which revision."""

    id: Annotated[str, Field(max_length=64)]
    revision: Annotated[int, Field(ge=1)]


class Module(Network):
    """A group of slips with chosen dials exposed, usable as one slip."""

    id: Id
    name: Name
    help: Annotated[str, Field(max_length=400)] = ""
    dials: Annotated[list[Exposed], Field(max_length=48)] = []
    """In the order in which they are shown."""
    gives: Annotated[list[Given], Field(max_length=16)] = []
    kept: Kept | None = None


class Material(Versioned, Network):
    """A material: the section, and the network that drives its dials."""

    format: Literal["nineglass.material"] = "nineglass.material"
    version: Literal[2] = 2
    name: Name = "Untitled"
    section: Stack
    modules: Annotated[list[Module], Field(max_length=64)] = []


class ModuleFile(Document):
    """A module by itself, with the modules that it is made of: what a library keeps."""

    format: Literal["nineglass.module"] = "nineglass.module"
    version: Literal[1] = 1
    modules: Annotated[list[Module], Field(min_length=1, max_length=64)]
    """The module itself first."""


class Seen(Document):
    """Who sees an object or a lamp."""

    camera: bool = True
    reflections: bool = True
    """By reflections and refractions."""
    shadows: bool = True
    """An object casts shadows; the light of a lamp is stopped by objects."""


class Wear(Document):
    """What one part of an object is made of: a material of its own, or the one on the bench."""

    material: Material | None = None
    follows: Annotated[str, Field(max_length=64)] | None = None
    """The name by which the material is kept that this one was taken from and is renewed from; a copy of its own when not given."""
    priority: Annotated[int, Field(ge=0, le=100)] | None = None
    """Where two parts overlap, the higher one is there; the form's own when not given."""


class Object(Document):
    """A form on the stage. Its lowest point stands at the height at[1] over the stage's level."""

    id: Id
    name: Annotated[str, Field(max_length=120)] = ""
    on: bool = True
    form: Part
    skin: Id | None = None
    """Of strands: the object that they grow on, and stand and turn with; the first that is none when not given."""
    at: tuple[Place, Place, Place] = (0.0, 0.0, 0.0)
    """cm: to the right, up, to the front."""
    turn: Annotated[float, Field(ge=-36000, le=36000)] = 0.0
    tilt: Annotated[float, Field(ge=-36000, le=36000)] = 0.0
    wears: Annotated[dict[Id, Wear], Field(max_length=8)] = {}
    """By part of the form; a part that is not named wears the material on the bench."""
    seen: Seen = Seen()


class Lamp(Part):
    """A lamp, aimed at the middle of the stage."""

    id: Id
    name: Annotated[str, Field(max_length=120)] = ""
    on: bool = True
    seen: Seen = Seen(camera=False)
    lights: Annotated[list[Id], Field(max_length=17)] | None = None
    """Ids of objects, and "floor"; everything when not given."""


class Surround(Document):
    """What is around the objects: what lights them, what reflections and refractions see, and what the camera sees behind."""

    light: Part
    second: Part | None = None
    blend: Annotated[float, Field(ge=0, le=1)] = 0.0
    """How much of `second` is mixed into `light`."""
    reflections: Part | None = None
    camera: Part | None = None
    cut_out: bool = False
    """Leave the picture empty where the camera sees past everything."""
    lets_through: bool = False
    """Where it is cut out: clear matter lets through what will be laid behind it, in its tint."""


class Stage(Versioned):
    """Objects, lamps, surround and camera."""

    format: Literal["nineglass.stage"] = "nineglass.stage"
    version: Literal[2] = 2
    name: Name = "Untitled stage"
    objects: Annotated[list[Object], Field(min_length=1, max_length=16)]
    turn: Annotated[float, Field(ge=-36000, le=36000)] = 0.0
    """Degrees by which all objects are turned about the middle of the stage."""
    floor: Part | None = None
    lamps: Annotated[list[Lamp], Field(max_length=8)] = []
    surround: Surround
    camera: Part
    time: Annotated[float, Field(ge=-1e6, le=1e6)] = 0.0
    """s: what the slip Time gives."""
    fast_shadows: bool = False
    """Untrue: lamps shine straight through clear matter, with its tint, in place of caustics."""
    caustics: bool = True
    """Whether light is thrown from lamps through clear matter; otherwise the camera finds it by chance (slowly)."""
    view: View = "plain"
    shape: Shape = "square"


class Settings(Versioned):
    """How one person likes to work."""

    format: Literal["nineglass.settings"] = "nineglass.settings"
    version: Literal[2] = 2
    theme: Literal["paper", "night"] = "paper"
    picture_side: Annotated[int, Field(ge=96, le=1024)] = 480
    pixels: Literal["fitted", "half", "full"] = "fitted"
    """How many are made: `picture_side` along the longer side, or half or all of those that the picture takes on the screen."""
    most_samples: Annotated[int, Field(ge=1, le=16384)] = 512
    most_bounces: Annotated[int, Field(ge=1, le=1024)] = 128


def plain_documents() -> dict[str, Document]:
    """Documents, and parts of them, as they begin; a second surround is dark below, what the camera sees behind is nearly black."""
    plain = next(name for name, kind in BANDS.kinds.items() if kind.rules.plain)
    bands = [Band(id=name, kind=name) for name in (plain, "interior")]
    dark = {"above": [0.8, 0.8, 0.8], "below": [0.01, 0.01, 0.01], "softness": 0.2}
    return {
        "material": Material(name="New material", section=Stack(bands=bands)),
        "module": ModuleFile(modules=[Module(id="module", name="Module")]),
        "settings": Settings(),
        "stage": Stage(
            objects=[Object(id="object", form=Part(kind="step_block"))],
            surround=Surround(light=Part(kind="plain")),
            camera=Part(kind="camera"),
        ),
        "lamp": Lamp(id="lamp", kind="disc", dials={"azimuth": -40}),
        "floor": Part(kind="floor"),
        "dark": Part(kind="gradient", dials=dark),
        "behind": Part(kind="plain", dials={"color": [0.05, 0.05, 0.05], "strength": 0.5}),
        "ramp": Slip(id="ramp", kind="color_ramp"),
    }


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
        raise Refused([fault_of_error(one) for one in error.errors(include_url=False)]) from None
    if faults := faults_of(document):
        raise Refused(faults)
    return document


def fault_of_error(error: dict) -> Fault:
    """What a person is told of an error of pydantic's."""
    path = ""
    for step in error["loc"]:
        path += f"[{step}]" if isinstance(step, int) else f".{step}" if path else str(step)
    if error["type"] == NOT_PLAIN:
        fault = Fault(**error["ctx"])
        return replace(fault, path=".".join(step for step in (path, fault.path) if step))
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
    if isinstance(document, ModuleFile):
        return faults_of_modules(document.modules, _faults_of_network)
    if not isinstance(document, Stage):
        return []
    return _faults_of_stage(document)


def _faults_of_stage(stage: Stage) -> list[Fault]:
    surround = stage.surround
    parts: list[tuple[str, Catalogue, Part | None]] = [
        *((f"objects[{i}].form", FORMS, one.form) for i, one in enumerate(stage.objects)),
        ("floor", FLOORS, stage.floor),
        *((f"surround.{name}", SURROUNDS, getattr(surround, name)) for name in SURROUND_PARTS),
        ("camera", CAMERAS, stage.camera),
        *((f"lamps[{i}]", LAMPS, lamp) for i, lamp in enumerate(stage.lamps)),
    ]
    faults = [f for path, kinds, part in parts if part for f in kinds.faults_of(path, part.kind, part.dials)]
    seen = {}
    things = [(f"objects[{i}]", one) for i, one in enumerate(stage.objects)]
    things += [(f"lamps[{i}]", one) for i, one in enumerate(stage.lamps)]
    for path, one in things:
        if one.id in seen:
            faults.append(
                Fault(f"{path}.id", f"{one.id!r} is taken by {seen[one.id]}", "an id of its own", "Rename it.")
            )
        seen[one.id] = path
    if not any(one.on for one in stage.objects):
        faults.append(Fault("objects", "every object is off", "one that is on", "Switch one on."))
    ids = {one.id for one in stage.objects} | {"floor"}
    for i, lamp in enumerate(stage.lamps):
        for missing in sorted(set(lamp.lights or ()) - ids):
            path = f"lamps[{i}].lights"
            faults.append(Fault(path, f"there is no object {missing!r}", ", ".join(sorted(ids)), "Remove it."))
    for i, one in enumerate(stage.objects):
        faults += _faults_of_wears(f"objects[{i}]", one)
        faults += _faults_of_skin(f"objects[{i}]", one, stage.objects)
    return faults


def grows(one: Object) -> bool:
    """Whether an object is strands, which stand on another."""
    return one.form.kind in FORMS.kinds and FORMS.kinds[one.form.kind].rules.grows


def skin_of(one: Object, objects: list[Object]) -> Object | None:
    """The object that strands grow on, whether it is on or not."""
    skins = [other for other in objects if not grows(other)]
    return next((other for other in skins if one.skin in (None, other.id)), None)


def _faults_of_skin(path: str, one: Object, objects: list[Object]) -> list[Fault]:
    if not grows(one) or skin_of(one, objects):
        return []
    skins = ", ".join(other.id for other in objects if not grows(other)) or "none, as there are no others"
    if one.skin is None:
        return [Fault(f"{path}.skin", "there is nothing for the strands to grow on", skins, "Add an object.")]
    fault = f"there is no object {one.skin!r} for the strands to grow on"
    return [Fault(f"{path}.skin", fault, skins, "Choose another.")]


def _faults_of_wears(path: str, one: Object) -> list[Fault]:
    if one.form.kind not in FORMS.kinds:
        return []
    faults, parts = [], parts_of(one.form.kind)
    for part, wear in one.wears.items():
        here = f"{path}.wears.{part}"
        if part not in parts:
            faults.append(Fault(here, f"{one.form.kind} has no part {part!r}", ", ".join(parts), "Remove it."))
        elif wear.material:
            inner = _faults_of_material(wear.material)
            faults += [Fault(f"{here}.material.{f.path}", f.fault, f.allowed, f.remedy) for f in inner]
    return faults


def parts_of(form: str) -> dict[str, int]:
    """The parts of a kind of form, each with the priority that it has by itself."""
    return FORMS.kinds[form].rules.parts


def _faults_of_material(material: Material) -> list[Fault]:
    if faults := faults_of_modules(material.modules, _faults_of_network):
        return faults
    faults = _faults_of_network("", material, kinds_of_modules(material.modules))
    if not faults and (size := size_of(material, sizes_of(material.modules))) > MOST_SLIPS:
        fault = f"{size} slips with every module opened out"
        faults = [Fault("slips", fault, f"at most {MOST_SLIPS}", "Use fewer modules.")]
    return faults


def _faults_of_network(path: str, network: Network, modules: dict[str, Kind]) -> list[Fault]:
    """What is wrong with the slips and wires of a material or of a module, whose modules are right."""
    before = f"{path}." if path else ""
    bands = network.section.bands if isinstance(network, Material) else []
    faults, seen = [], {}
    places = [(f"section.bands[{i}]", band) for i, band in enumerate(bands)]
    places += [(f"{before}slips[{i}]", slip) for i, slip in enumerate(network.slips)]
    for here, part in places:
        if part.id in seen:
            fault = f"{part.id!r} is taken by {seen[part.id]}"
            faults.append(Fault(f"{here}.id", fault, "an id of its own", "Rename it."))
        seen[part.id] = here
        if part.kind == MODULE and isinstance(part, Slip):
            faults += _faults_of_use(here, part, modules)
        else:
            faults += (BANDS if isinstance(part, Band) else SLIPS).faults_of(here, part.kind, part.dials)
    return faults or _faults_of_section(bands) or _faults_of_wires(before, network, bands, modules)


def _faults_of_use(path: str, slip: Slip, modules: dict[str, Kind]) -> list[Fault]:
    kind = kind_of_slip(slip, modules)
    if kind:
        return kind.faults_of(path, slip.dials)
    allowed = ", ".join(modules) or "none, as there are no modules"
    return [Fault(f"{path}.module", f"there is no module {slip.module!r}", allowed, "Remove the slip.")]


def _faults_of_section(bands: list[Band]) -> list[Fault]:
    """What is wrong with the order of the bands, in each stack that a split makes."""
    splits = [i for i, band in enumerate(bands) if BANDS.kinds[band.kind].rules.splits]
    faults = []
    for i, band in enumerate(bands):
        if band.side != BOTH and not (splits and i > splits[0]):
            fault = f"{band.id} lies on the {band.side} side, but no split is above it"
            faults.append(Fault(f"section.bands[{i}].side", fault, "both", "Add a split above it."))
        if i in splits and band.side != BOTH:
            faults.append(Fault(f"section.bands[{i}].side", "a split within a split", "both", "Move it out."))
    for side in (FIRST, SECOND) if splits else (BOTH,):
        faults += _faults_of_stack([(i, band) for i, band in enumerate(bands) if band.side in (BOTH, side)])
    faults += _faults_of_company({band.kind: 1 for band in bands}, beyond_splits=True)
    return list({(f.path, f.fault): f for f in faults}.values())


def _faults_of_stack(stack: list[tuple[int, Band]]) -> list[Fault]:
    faults, above, counts = [], None, {}
    for i, band in stack:
        rules, path = BANDS.kinds[band.kind].rules, f"section.bands[{i}]"
        counts[band.kind] = counts.get(band.kind, 0) + 1
        if counts[band.kind] > rules.most:
            fault = f"there are {counts[band.kind]} bands {band.kind!r}, one on another"
            faults.append(Fault(path, fault, f"at most {rules.most}", "Remove one."))
        if above and rules.rank < BANDS.kinds[above].rules.rank:
            fault = f"{band.kind} lies beneath {above}, but {rules.why}"
            faults.append(Fault(path, fault, f"{band.kind} above {above}", f"Move it above {above}."))
        above = band.kind
    lobes = sum(count for kind, count in counts.items() if _throws_back(BANDS.kinds[kind]))
    if lobes > MOST_LOBES:
        fault = f"{lobes} bands that throw light back by themselves, one on another"
        faults.append(Fault("section.bands", fault, f"at most {MOST_LOBES}", "Remove one."))
    return faults + _faults_of_company(counts)


def _throws_back(kind: Kind) -> bool:
    """Whether a band throws light back by itself, or has a rest that does."""
    return hasattr(kind.make, "lobe") or kind.rules.rest is not None


def _faults_of_company(counts: dict[str, int], beyond_splits: bool = False) -> list[Fault]:
    """Kinds of bands that cannot be there together: in one stack, or wherever there is a split."""
    faults = []
    for kind in counts:
        rules = BANDS.kinds[kind].rules
        if beyond_splits and not rules.beyond_splits:
            continue
        if others := set(counts) & set(rules.excludes):
            names = " or ".join(rules.excludes)
            fault = f"{kind} with {' and '.join(sorted(others))}: {rules.why}"
            faults.append(Fault("section.bands", fault, f"{kind} without {names}", f"Remove the {kind}."))
    return faults


def _faults_of_wires(before: str, network: Network, bands: list[Band], modules: dict[str, Kind]) -> list[Fault]:
    slips = {slip.id: kind_of_slip(slip, modules) for slip in network.slips}
    parts = slips | {band.id: BANDS.kinds[band.kind] for band in bands}
    faults, driven = [], {}
    for i, wire in enumerate(network.wires):
        path, source, target = f"{before}wires[{i}]", wire.source, wire.target
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
    return faults or _faults_of_cycles(before, network)


def _faults_of_cycles(before: str, network: Network) -> list[Fault]:
    feeds: dict[str, list[tuple[int, Wire]]] = {}
    for i, wire in enumerate(network.wires):
        feeds.setdefault(wire.target.part, []).append((i, wire))
    done: set[str] = set()
    for start in [slip.id for slip in network.slips]:
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
                return [Fault(f"{before}wires[{i}]", fault, "a network without cycles", "Remove this wire.")]
            if wire.source.slip not in done:
                trail.append(wire.source.slip)
                stack.append(iter(feeds.get(wire.source.slip, [])))
    return []
