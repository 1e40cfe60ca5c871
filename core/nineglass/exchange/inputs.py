"""A stack of bands on its way out: the inputs of a standard shader that it comes to, and what became of each dial.

Nothing is lost in silence: what of a stack finds no input is told.
"""

from dataclasses import dataclass, field

from nineglass.catalogue import BANDS
from nineglass.exchange.report import Report
from nineglass.network.compile import Compiled, Leaf
from nineglass.network.ops import Signal

Value = float | tuple[float, float, float]


@dataclass(frozen=True)
class Told:
    """An input: its value, and where it varies what gives it, times a factor."""

    value: Value
    signal: Signal | None = None
    factor: float = 1.0


@dataclass
class Inputs:
    """Of one shader, by name. Lengths in cm, the thickness of a film in um, as OpenPBR has it."""

    inputs: dict[str, Told] = field(default_factory=dict)

    def value(self, name: str, default: Value) -> Value:
        return self.inputs[name].value if name in self.inputs else default


@dataclass
class Writing:
    """One stack of bands on its way out."""

    compiled: Compiled
    leaf: Leaf
    report: Report
    given: Inputs = field(default_factory=Inputs)
    told: set[tuple[str, str]] = field(default_factory=set)

    def about(self, slot: str):
        return BANDS.kinds[self.leaf.kinds[slot]]

    def called(self, slot: str, dial: str) -> str:
        return f"{self.about(slot).title}: {self.about(slot).dials[dial].label}"

    def setting(self, slot: str, dial: str):
        return self.leaf.settings[slot][dial]

    def driven(self, slot: str, dial: str) -> bool:
        return (slot, dial) in self.leaf.driven and self.compiled.constant(slot, dial, self.leaf) is None

    def value(self, slot: str, dial: str) -> Value:
        """What it is set to; what it would be undriven where it varies."""
        if (slot, dial) not in self.leaf.dials or self.driven(slot, dial):
            value = self.setting(slot, dial)
        else:
            value = self.compiled.constant(slot, dial, self.leaf)
        return tuple(value) if isinstance(value, list) else value

    def tell(self, slot: str, dial: str, name: str = "", factor: float = 1.0) -> None:
        """A dial that an input has the meaning of."""
        signal = self.leaf.dials[slot, dial] if self.driven(slot, dial) else None
        value = self.value(slot, dial)
        told = tuple(v * factor for v in value) if isinstance(value, tuple) else value * factor
        name = name or self.about(slot).dials[dial].standard
        self.given.inputs[name] = Told(told, signal, factor)
        self.told.add((slot, dial))
        self.report.add("exactly", self.called(slot, dial), name)

    def put(self, name: str, value: Value) -> None:
        self.given.inputs[name] = Told(value)

    def heed(self, slot: str, *dials: str) -> None:
        """Dials that are in what was put."""
        self.told |= {(slot, dial) for dial in dials}

    def settled(self, slot: str) -> dict:
        """All dials of a band by their values, for what works with whole bands."""
        own = self.leaf.settings[slot]
        return own | {name: list(v) if isinstance(v := self.value(slot, name), tuple) else v for name in own}


def say_what_is_lost(writing: Writing, slot: str, standard: str) -> None:
    """Every dial that was not told of, and is not at rest. standard: what it was written for."""
    about, values = writing.about(slot), writing.leaf.settings[slot]
    for name, dial in about.dials.items():
        if (slot, name) in writing.told:
            continue
        driven = writing.driven(slot, name)
        if driven or (values[name] != dial.default and about.has_effect(name, values)):
            says = f"what drives it has no place in {standard}" if driven else f"{standard} has nothing of the kind"
            writing.report.add("not", writing.called(slot, name), says)
