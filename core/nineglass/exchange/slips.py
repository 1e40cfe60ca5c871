"""A network and a material while they are put together of what was read."""

from dataclasses import dataclass, field

from nineglass.catalogue import SLIPS
from nineglass.documents.model import Band, Material, Slip, Source, Target, Wire, read
from nineglass.exchange.report import Report

ROWS, ACROSS, DOWN = 6, 240.0, 190.0
"""How slips lie on the paper: so many beneath one another, and how far they are apart."""


@dataclass
class Slips:
    """Slips and the wires between them; what becomes of things is told in the report."""

    report: Report
    slips: list[Slip] = field(default_factory=list)
    wires: list[Wire] = field(default_factory=list)

    def slip(self, kind: str, dials: dict | None = None, port: str = "out", title: str = "", **driven) -> Source:
        """A new slip; driven: dials by what drives them, a Source or a value."""
        identity = f"{kind}_{len(self.slips) + 1}"
        given = dict(dials or {})
        for dial, what in driven.items():
            if isinstance(what, Source):
                self.wires.append(Wire(source=what, target=Target(part=identity, dial=dial)))
            elif what is not None:
                given[dial] = what
        given = {dial: self.held(SLIPS.kinds[kind], dial, value) for dial, value in given.items()}
        column, row = divmod(len(self.slips), ROWS)
        at = (ACROSS * column, DOWN * row)
        self.slips.append(Slip(id=identity, kind=kind, title=title[:120], at=at, dials=given))
        return Source(slip=identity, port=port)

    def held(self, about, name: str, value, called: str = ""):
        """A value within what is allowed for a dial of a kind, a list of a colour; told where it is another. called: what it was read of."""
        dial = about.dials[name]
        if dial.type not in ("number", "color"):
            return value
        values = list(value) if isinstance(value, tuple | list) else [value]
        held = [min(max(v, dial.hard_low), dial.hard_high) for v in values]
        if any(abs(a - b) > 1e-6 for a, b in zip(values, held, strict=True)):
            says = f"{about.title}: {dial.label} is held within {dial.hard_low:g} to {dial.hard_high:g}"
            self.report.add("nearly", called or about.title, says)
        return held if dial.type == "color" else held[0]

    def times(self, given: Source | float, factor: float) -> Source | float:
        """A number, or what gives one, times a factor."""
        if not isinstance(given, Source):
            return given * factor
        if factor == 1:
            return given
        return self.slip("arithmetic", {"how": "multiply", "second": factor}, first=given)

    def drive(self, source: Source, part: str, dial: str) -> None:
        self.wires.append(Wire(source=source, target=Target(part=part, dial=dial)))

    def material(self, name: str, bands: list[Band]) -> dict:
        """The checked document of a material of these slips. Raises Refused."""
        parts = {"section": {"bands": [band.model_dump(mode="json") for band in bands]}}
        parts |= {"slips": [slip.model_dump(mode="json") for slip in self.slips]}
        parts |= {"wires": [wire.model_dump(mode="json") for wire in self.wires]}
        return read(Material, {"name": name[:120], **parts}).model_dump(mode="json")
