"""A material's network to a program that drives the dials of its bands."""

from dataclasses import dataclass, field
from types import SimpleNamespace

from nineglass.catalogue import BANDS, SLIPS
from nineglass.describe import Kind
from nineglass.documents.model import Material, Part, Wire
from nineglass.network.ops import Ops, Program, Signal


@dataclass
class Compiled:
    """A program with the registers of every band's dials and of every slip's outputs."""

    program: Program
    dials: dict[tuple[str, str], Signal]
    outputs: dict[tuple[str, str], Signal]
    ops: Ops
    settings: dict[str, dict]
    """For each kind of band the values of all its dials; of driven ones the value that they would have undriven."""
    present: set[str]
    """Kinds of bands that are there and on."""
    depends: dict[str, set[str]] = field(default_factory=dict)

    def constant(self, kind: str, dial: str) -> float | tuple | None:
        """The value of a band's dial when it does not vary over the form, else None."""
        signal = self.dials[kind, dial]
        if isinstance(signal, tuple):
            values = tuple(self.ops.value_of(register) for register in signal)
            return None if None in values else values
        return self.ops.value_of(signal)


def compile_network(material: Material) -> Compiled:
    """Compile a checked material. Bands that are missing or off take the values that make them vanish."""
    ops = Ops()
    wires: dict[tuple[str, str], Wire] = {(w.target.part, w.target.dial): w for w in material.wires}
    slips = {slip.id: slip for slip in material.slips}
    outputs: dict[tuple[str, str], Signal] = {}

    def signal_of(wire: Wire) -> Signal:
        key = (wire.source.slip, wire.source.port)
        if key not in outputs:
            emit(slips[wire.source.slip])
        return outputs[key]

    def dials_of(part: Part, part_id: str, kind: Kind) -> SimpleNamespace:
        values, driven = SimpleNamespace(), set()
        for name, dial in kind.dials.items():
            wire = wires.get((part_id, name))
            if wire:
                signal = signal_of(wire)
                signal = (signal,) * 3 if dial.type == "color" and isinstance(signal, int) else signal
                driven.add(name)
            else:
                given = part.dials.get(name, dial.default)
                signal = given
                if dial.type == "number":
                    signal = ops.constant(given)
                elif dial.type in ("color", "vector"):
                    signal = ops.constants(given)
            setattr(values, name, signal)
        values.driven = driven
        return values

    def emit(slip) -> None:
        kind = SLIPS.kinds[slip.kind]
        given = kind.make().emit(ops, dials_of(slip, slip.id, kind))
        for port in kind.gives:
            outputs[slip.id, port.name] = given[port.name] if isinstance(given, dict) else given

    for slip in _sources_first(material):
        if (slip.id, SLIPS.kinds[slip.kind].gives[0].name) not in outputs:
            emit(slip)
    dials: dict[tuple[str, str], Signal] = {}
    settings: dict[str, dict] = {}
    bands = {band.kind: band for band in material.section.bands if band.on}
    for name, kind in BANDS.kinds.items():
        band = bands.get(name)
        part = band or Part(kind=name, dials=ABSENT.get(name, {}))
        settings[name] = kind.defaults() | part.dials
        values = dials_of(part, band.id if band else "", kind)
        for dial in kind.dials.values():
            if dial.type in ("number", "color"):
                dials[name, dial.name] = getattr(values, dial.name)
    return Compiled(ops.program(), dials, outputs, ops, settings, set(bands), _inputs_of_slips(material, ops, outputs))


ABSENT = {"interface": {"specular_ior": 1.0}, "interior": {"transmission_color": [1.0, 1.0, 1.0]}}
"""Dials of bands that are not there or off: they make the band vanish."""


def _sources_first(material: Material) -> list:
    slips = {slip.id: slip for slip in material.slips}
    feeds: dict[str, list[str]] = {}
    for wire in material.wires:
        feeds.setdefault(wire.target.part, []).append(wire.source.slip)
    order, seen = [], set()
    for start in slips:
        stack = [(start, False)]
        while stack:
            name, ready = stack.pop()
            if ready:
                order.append(slips[name])
            elif name not in seen:
                seen.add(name)
                stack.append((name, True))
                stack += [(feeder, False) for feeder in feeds.get(name, []) if feeder not in seen]
    return order


def _inputs_of_slips(material: Material, ops: Ops, outputs: dict) -> dict[str, set[str]]:
    """For each slip, the inputs (facing, place) that its first output depends on."""
    program = ops.program()
    reads: dict[int, set[str]] = {register: {name} for name, register in program.inputs.items()}
    for _, result, *operands in program.operations.tolist():
        reads[result] = set().union(*(reads.get(operand, set()) for operand in operands))
    depends = {}
    for slip in material.slips:
        signal = outputs[slip.id, SLIPS.kinds[slip.kind].gives[0].name]
        registers = signal if isinstance(signal, tuple) else (signal,)
        depends[slip.id] = set().union(*(reads.get(register, set()) for register in registers))
    return depends
