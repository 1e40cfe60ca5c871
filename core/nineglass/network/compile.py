"""A material's network to a program that drives the dials of its bands."""

from dataclasses import dataclass, field
from functools import cached_property
from types import SimpleNamespace

from nineglass.catalogue import BANDS, SLIPS
from nineglass.describe import Dial, Kind
from nineglass.documents.model import BOTH, FIRST, SECOND, Band, Material, Part
from nineglass.documents.modules import Opened, opened_out
from nineglass.network.ops import Ops, Program, Signal, flow_of


@dataclass
class Leaf:
    """One stack of bands without splits. Its bands go by slot: the kind, and for the second of a kind `film_2` and so on."""

    dials: dict[tuple[str, str], Signal]
    settings: dict[str, dict]
    """For each slot the values of all its dials; of driven ones the value that they would have undriven."""
    order: list[str]
    """Slots of the bands that are there and on, from the outside in."""
    driven: set[tuple[str, str]]
    kinds: dict[str, str]
    """The kind of the band in each slot."""
    rests: set[str] = field(default_factory=set)
    """Slots of what was laid beside a band that is there only in part (`describe.Rest`)."""

    def choice(self, slot: str, dial: str) -> int:
        """Which of its choices a dial is set to."""
        return BANDS.kinds[self.kinds[slot]].dials[dial].choices.index(self.settings[slot][dial])


@dataclass
class Growing:
    """A program while the parts of a network are written into it."""

    opened: Opened
    ops: Ops = field(default_factory=Ops)
    signals: dict[tuple[str, str, int], Signal] = field(default_factory=dict)
    """What each port gives; at 1, 2, 3 from a little further along an axis."""

    def __post_init__(self):
        self.sources = {target: source for source, target in self.opened.wires}
        self.slips = {slip.id: slip for slip in self.opened.slips}

    def copy(self) -> "Growing":
        return Growing(self.opened, self.ops.copy(), dict(self.signals))

    @property
    def outputs(self) -> dict[tuple[str, str], Signal]:
        """What each port of a slip, or of a use of a module, gives."""
        outputs = {(slip, port): signal for (slip, port, shift), signal in self.signals.items() if not shift}
        return outputs | {use: outputs[inner] for use, inner in self.opened.gives.items()}

    def signal_of(self, source: tuple[str, str]) -> Signal:
        key = (*source, self.ops.shift)
        if key not in self.signals:
            self.emit(self.slips[source[0]])
        return self.signals[key]

    def slopes_of(self, source: tuple[str, str], wanted: str) -> list[Signal]:
        """What a wire brings, as the wanted type, from places a little further along each axis."""
        before, found = self.ops.shift, []
        for self.ops.shift in (1, 2, 3):
            found.append(converted(self.ops, self.signal_of(source), wanted))
        self.ops.shift = before
        return found

    def dials_of(self, part: Part, part_id: str, kind: Kind) -> SimpleNamespace:
        values, driven, arriving = SimpleNamespace(), set(), {}
        for name, dial in kind.dials.items():
            source = self.sources.get((part_id, name))
            if source:
                signal = converted(self.ops, self.signal_of(source), dial.type)
                arriving[name] = signal
                if kind.role == "band":
                    signal = held(self.ops, signal, dial)
                driven.add(name)
                if dial.sloped and not self.ops.shift:
                    values.slopes = self.slopes_of(source, dial.type)
            else:
                given = part.dials.get(name, dial.default)
                signal = given
                if dial.type == "number":
                    signal = self.ops.constant(given)
                elif dial.type in ("color", "vector"):
                    signal = self.ops.constants(given)
            setattr(values, name, signal)
        values.driven, values.arriving = driven, arriving
        return values

    def emit(self, slip) -> None:
        kind = SLIPS.kinds[slip.kind]
        given = kind.make().emit(self.ops, self.dials_of(slip, slip.id, kind))
        for port in kind.gives:
            signal = given[port.name] if isinstance(given, dict) else given
            self.signals[slip.id, port.name, self.ops.shift] = signal


@dataclass
class Compiled:
    """A program with the registers of every band's dials and of every slip's outputs."""

    material: Material
    program: Program
    outputs: dict[tuple[str, str], Signal]
    ops: Ops
    by_band: dict[tuple[str, str], Signal]
    """The dials of every band, by its id; those that are driven held within their limits."""
    arriving: dict[tuple[str, str], Signal]
    """What drives a dial of a band, by its id, before it is held."""
    leaves: list[Leaf]
    """The stack; with a split the two stacks of its sides."""
    kinds: dict[str, Kind]
    """Of every slip and every use of a module; a slip within a use goes by `use/slip`."""
    grown: Growing
    """The program of the slips alone."""
    mask: int | None = None
    """The register of the split's mask."""

    @cached_property
    def depends(self) -> dict[str, set[str]]:
        """For each slip, the inputs (facing, place) that its first output depends on."""
        names = list(self.program.inputs)
        reads = [0] * self.program.registers
        for bit, name in enumerate(names):
            reads[self.program.inputs[name]] = 1 << bit
        for row in self.program.operations.tolist():
            results, operands = flow_of(row)
            bits = 0
            for operand in operands:
                bits |= reads[operand]
            for result in results:
                reads[result] = bits
        depends = {}
        for slip, kind in self.kinds.items():
            signal = self.outputs[slip, kind.gives[0].name] if kind.gives else ()
            bits = 0
            for register in signal if isinstance(signal, tuple) else (signal,):
                bits |= reads[register]
            depends[slip] = {name for bit, name in enumerate(names) if bits >> bit & 1}
        return depends

    @property
    def dials(self) -> dict[tuple[str, str], Signal]:
        """The dials of the first stack, by slot."""
        return self.leaves[0].dials

    @property
    def settings(self) -> dict[str, dict]:
        return self.leaves[0].settings

    @property
    def present(self) -> set[str]:
        """Slots of the first stack that are there and on."""
        return set(self.leaves[0].order)

    def constant(self, slot: str, dial: str, leaf: Leaf | None = None) -> float | tuple | None:
        """The value of a band's dial when it does not vary over the form, else None."""
        signal = (leaf or self.leaves[0]).dials[slot, dial]
        if isinstance(signal, tuple):
            values = tuple(self.ops.value_of(register) for register in signal)
            return None if None in values else values
        return self.ops.value_of(signal)


def compile_network(material: Material, before: Compiled | None = None) -> Compiled:
    """Compile a checked material. Bands that are missing or off take the values that make them vanish.

    before: of an earlier version of the material; when their slips, wires and modules agree only the bands are compiled again.
    """
    kept = before is not None and _same_network(material, before.material)
    grown = before.grown if kept else _grown(material)
    growing = grown.copy()
    by_band: dict[tuple[str, str], Signal] = {}
    driven: dict[str, set[str]] = {}
    arriving: dict[tuple[str, str], Signal] = {}
    bands = [band for band in material.section.bands if band.on]
    for band in bands:
        values = growing.dials_of(band, band.id, BANDS.kinds[band.kind])
        driven[band.id] = values.driven
        arriving |= {(band.id, name): signal for name, signal in values.arriving.items()}
        by_band |= {(band.id, name): getattr(values, name) for name in _signals(band.kind)}
    absent = {}
    for kind in ALWAYS:
        values = growing.dials_of(Part(kind=kind, dials=ABSENT.get(kind, {})), "", BANDS.kinds[kind])
        absent |= {(kind, name): getattr(values, name) for name in _signals(kind)}
    split = next((band for band in bands if splits(band)), None)
    stacks = [stack_of(bands, side) for side in ((FIRST, SECOND) if split else (BOTH,))]
    leaves = [_leaf(stack, by_band, absent, driven) for stack in stacks]
    for leaf in leaves:
        _lay_rests(leaf, growing)
    return Compiled(
        material=material,
        program=growing.ops.program(),
        outputs=growing.outputs,
        ops=growing.ops,
        by_band=by_band,
        arriving=arriving,
        leaves=leaves,
        kinds=grown.opened.kinds,
        grown=grown,
        mask=by_band[split.id, "mask"] if split else None,
    )


def _same_network(material: Material, other: Material) -> bool:
    return all(getattr(material, name) == getattr(other, name) for name in ("slips", "wires", "modules"))


def _grown(material: Material) -> Growing:
    """The program of every slip, before any band."""
    growing = Growing(opened_out(material))
    for slip in _sources_first(growing.slips, growing.opened):
        if any((slip.id, port.name, 0) not in growing.signals for port in SLIPS.kinds[slip.kind].gives):
            growing.emit(slip)
    return growing


def converted(ops: Ops, signal: Signal, wanted: str) -> Signal:
    """What a wire brings as what a dial takes; `describe.CONVERSIONS` says what converts."""
    if wanted == "number" and isinstance(signal, tuple):
        return ops.luminance(signal)
    if wanted != "number" and not isinstance(signal, tuple):
        return (signal,) * 3
    return signal


def held(ops: Ops, signal: Signal, dial: Dial) -> Signal:
    """What drives a dial of a band, within the range that is allowed for it; what is no number becomes the lower end."""
    if dial.hard_low is None:
        return signal
    low, high = ops.constant(dial.hard_low), ops.constant(dial.hard_high)
    if isinstance(signal, tuple):
        return tuple(ops.clamp(one, low, high) for one in signal)
    return ops.clamp(signal, low, high)


def splits(band: Band) -> bool:
    """Whether a band divides what lies beneath it."""
    return BANDS.kinds[band.kind].rules.splits


ALWAYS = ("interface", "interior", "body", "metal")
"""Kinds that gauges and rows read whether they are there or not."""

ABSENT = {"interface": {"specular_ior": 1.0}, "interior": {"transmission_color": [1.0, 1.0, 1.0]}}
"""Dials of bands that are not there or off: they make the band vanish."""


def _signals(kind: str) -> list[str]:
    return [dial.name for dial in BANDS.kinds[kind].dials.values() if dial.type in ("number", "color", "vector")]


def stack_of(bands: list[Band], side: str) -> list[Band]:
    """The bands of one side of a split, with those above and below it."""
    return [band for band in bands if not splits(band) and band.side in (BOTH, side)]


def _leaf(stack: list[Band], by_band: dict, absent: dict, driven: dict) -> Leaf:
    dials, order, wired, kinds = dict(absent), [], set(), {}
    settings = {kind: BANDS.kinds[kind].defaults() | ABSENT.get(kind, {}) for kind in ALWAYS}
    for band in stack:
        slot = _slot_for(band.kind, kinds)
        order.append(slot)
        kinds[slot] = band.kind
        settings[slot] = BANDS.kinds[band.kind].defaults() | band.dials
        dials |= {(slot, name): by_band[band.id, name] for name in _signals(band.kind)}
        wired |= {(slot, name) for name in driven[band.id]}
    return Leaf(dials, settings, order, wired, kinds)


def _slot_for(kind: str, kinds: dict[str, str]) -> str:
    """The slot of one more band of a kind. kinds: those of the slots before."""
    number = 1 + list(kinds.values()).count(kind)
    return kind if number == 1 else f"{kind}_{number}"


def _lay_rests(leaf: Leaf, growing: Growing) -> None:
    """Lay a band of another kind beside each that is there only in part and says what the rest of it is."""
    ops = growing.ops
    for slot in [slot for slot in leaf.order if BANDS.kinds[leaf.kinds[slot]].rules.rest]:
        rest = BANDS.kinds[leaf.kinds[slot]].rules.rest
        amount = leaf.dials[slot, rest.amount]
        if ops.value_of(amount) == 1:
            continue
        kind = BANDS.kinds[rest.kind]
        beside = _slot_for(rest.kind, leaf.kinds)
        values = growing.dials_of(Part(kind=rest.kind, dials={}), "", kind)
        leaf.order.insert(leaf.order.index(slot), beside)
        leaf.rests.add(beside)
        leaf.kinds[beside], leaf.settings[beside] = rest.kind, kind.defaults()
        leaf.dials.update({(beside, name): getattr(values, name) for name in _signals(rest.kind)})
        leaf.dials[beside, kind.make.amount] = ops.sub(ops.constant(1), amount)
        leaf.dials.update({(beside, name): leaf.dials[slot, own] for name, own in rest.dials.items()})


def _sources_first(slips: dict, opened: Opened) -> list:
    feeds: dict[str, list[str]] = {}
    for (source, _), (target, _) in opened.wires:
        feeds.setdefault(target, []).append(source)
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
