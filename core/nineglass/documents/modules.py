"""Modules: what a set of slips looks like as one slip, and a network with all of its modules opened out.

A module is declared once in a material; a slip of the kind `module` uses it. What is set on the module's own dials is the use's
alone; everything else follows the module.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from nineglass.catalogue import SLIPS
from nineglass.describe import Fault, Kind, Port

MODULE = "module"
DEEPEST = 8
MOST_SLIPS = 4000
"""How many slips a network may have when every module in it is opened out."""

WITHIN = "/"
"""Between the id of a use and that of a slip within it."""


def kind_of_slip(slip, modules: dict[str, Kind]) -> Kind | None:
    """The kind of a slip, whether of the catalogue or a module; None when there is none. modules: kinds by module."""
    return modules.get(slip.module) if slip.kind == MODULE else SLIPS.kinds.get(slip.kind)


def kinds_of_modules(modules: list) -> dict[str, Kind]:
    """Each checked module as a kind of slip, by its id."""
    depths, kinds = _depths(modules), {}
    for module in sorted(modules, key=lambda one: depths[one.id]):
        kinds[module.id] = _kind_of(module, kinds)
    return kinds


def _kind_of(module, kinds: dict[str, Kind]) -> Kind:
    """The dials that a module exposes, as they are set within it, and what it gives."""
    slips = {slip.id: slip for slip in module.slips}
    dials, ports = {}, []
    for exposed in module.dials:
        inner = slips[exposed.target.part]
        about = kind_of_slip(inner, kinds).dials[exposed.target.dial]
        low = about.low if exposed.low is None else exposed.low
        high = about.high if exposed.high is None else exposed.high
        default = inner.dials.get(about.name, about.default)
        label = exposed.label or about.label
        dials[exposed.name] = replace(about, name=exposed.name, label=label, low=low, high=high, default=default)
    for given in module.gives:
        there = {port.name: port for port in kind_of_slip(slips[given.source.slip], kinds).gives}
        ports.append(Port(given.name, there[given.source.port].type))
    return Kind("slip", MODULE, module.name, MODULE, module.help, "nodegraph", dials, ports, type(None))


def faults_of_modules(modules: list, faults_of_network: Callable[[str, object, dict], list[Fault]]) -> list[Fault]:
    """What is wrong with the modules of a document: circles, depth, and each one's network, dials and ports.

    faults_of_network(path, network, modules): what is wrong with slips and wires, when modules are the kinds there are.
    """
    paths, faults = {}, []
    for i, module in enumerate(modules):
        if module.id in paths:
            fault = f"{module.id!r} is taken by {paths[module.id]}"
            faults.append(Fault(f"modules[{i}].id", fault, "an id of its own", "Rename it."))
        paths[module.id] = f"modules[{i}]"
    depths, kinds = _depths(modules), {}
    for module in modules:
        if depths[module.id] > DEEPEST:
            fault = f"{module.name!r} holds modules more than {DEEPEST} deep, or holds itself"
            faults.append(Fault(paths[module.id], fault, f"at most {DEEPEST} deep", "Take one apart."))
    if faults:
        return faults
    for module in sorted(modules, key=lambda one: depths[one.id]):
        path = paths[module.id]
        if faults := faults_of_network(path, module, kinds) or _faults_of_face(path, module, kinds):
            return faults
        kinds[module.id] = _kind_of(module, kinds)
    return []


def _depths(modules: list) -> dict[str, int]:
    """How deep each module goes, 1 for one without others; past DEEPEST when it holds itself."""
    known, depths = {module.id: module for module in modules}, {}

    def depth(name: str, above: tuple) -> int:
        if name in above:
            return DEEPEST + 1
        if name not in depths:
            inner = {slip.module for slip in known[name].slips if slip.kind == MODULE and slip.module in known}
            depths[name] = 1 + max((depth(one, (*above, name)) for one in inner), default=0)
        return depths[name]

    return {name: depth(name, ()) for name in known}


def _faults_of_face(path: str, module, modules: dict[str, Kind]) -> list[Fault]:
    """What is wrong with the dials that a module exposes and with what it gives."""
    kinds = {slip.id: kind_of_slip(slip, modules) for slip in module.slips}
    wired = {(wire.target.part, wire.target.dial) for wire in module.wires}
    faults, names, targets = [], set(), set()
    for i, exposed in enumerate(module.dials):
        here, target = f"{path}.dials[{i}]", (exposed.target.part, exposed.target.dial)
        kind = kinds.get(exposed.target.part)
        if kind is None or exposed.target.dial not in kind.dials:
            fault = f"there is no dial {exposed.target.part}.{exposed.target.dial}"
            faults.append(Fault(f"{here}.target", fault, "a dial of a slip in the module", "Take it off."))
        elif target in wired:
            fault = f"{exposed.target.part}.{exposed.target.dial} is driven within"
            faults.append(Fault(f"{here}.target", fault, "a dial that nothing drives", "Take the wire off."))
        if exposed.name in names or target in targets:
            faults.append(Fault(here, f"{exposed.name!r} is there twice", "names and dials once each", "Take it off."))
        names.add(exposed.name)
        targets.add(target)
    names = set()
    for i, given in enumerate(module.gives):
        here, kind = f"{path}.gives[{i}]", kinds.get(given.source.slip)
        if kind is None or given.source.port not in {port.name for port in kind.gives}:
            fault = f"nothing gives {given.source.slip}.{given.source.port}"
            faults.append(Fault(f"{here}.source", fault, "what a slip in the module gives", "Take it off."))
        if given.name in names:
            faults.append(Fault(here, f"{given.name!r} is there twice", "each name once", "Rename it."))
        names.add(given.name)
    return faults


def sizes_of(modules: list) -> dict[str, int]:
    """How many slips each module has with those within it opened out."""
    depths, sizes = _depths(modules), {}
    for module in sorted(modules, key=lambda one: depths[one.id]):
        sizes[module.id] = size_of(module, sizes)
    return sizes


def size_of(network, sizes: dict[str, int]) -> int:
    return sum(sizes.get(slip.module, 1) if slip.kind == MODULE else 1 for slip in network.slips)


def network_at(material, inside: str):
    """The network of a material, or that of the module whose use is `inside`: `use/use within`; None when there is no such use."""
    network, modules = material, {module.id: module for module in material.modules}
    for use in inside.split(WITHIN) if inside else ():
        network = next((modules.get(slip.module) for slip in network.slips if slip.id == use), None)
        if network is None:
            return None
    return network


@dataclass
class Opened:
    """A network without modules; slips of a use go by `use/slip`."""

    slips: list = field(default_factory=list)
    wires: list[tuple[tuple[str, str], tuple[str, str]]] = field(default_factory=list)
    """((slip, port), (part, dial))."""
    gives: dict[tuple[str, str], tuple[str, str]] = field(default_factory=dict)
    """(use, port) to the (slip, port) within that it stands for; the innermost first."""
    kinds: dict[str, Kind] = field(default_factory=dict)
    """Of every slip and of every use."""


def opened_out(material) -> Opened:
    """The network of a checked material with every module opened out."""
    modules, known = {module.id: module for module in material.modules}, kinds_of_modules(material.modules)
    found, takes, wires = Opened(), {}, []

    def lay(before: str, network, set_above: dict[str, dict]) -> None:
        for slip in network.slips:
            name, dials = before + slip.id, slip.dials | set_above.get(slip.id, {})
            found.kinds[name] = kind_of_slip(slip, known)
            if slip.kind != MODULE:
                found.slips.append(slip.model_copy(update={"id": name, "dials": dials}) if before else slip)
                continue
            module, set_here = modules[slip.module], {}
            for exposed in module.dials:
                target = exposed.target
                takes[name, exposed.name] = (name + WITHIN + target.part, target.dial)
                if exposed.name in dials:
                    set_here.setdefault(target.part, {})[target.dial] = dials[exposed.name]
            lay(name + WITHIN, module, set_here)
            for given in module.gives:
                inner = (name + WITHIN + given.source.slip, given.source.port)
                found.gives[name, given.name] = found.gives.get(inner, inner)
        for wire in network.wires:
            source, target = wire.source, wire.target
            wires.append(((before + source.slip, source.port), (before + target.part, target.dial)))

    lay("", material, {})
    for source, target in wires:
        while target in takes:
            target = takes[target]
        found.wires.append((found.gives.get(source, source), target))
    return found
