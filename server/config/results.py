"""What a run of tests found and took, told in the end and kept in a file. Without Django, so that several runs can be told together."""

import json
import os
from dataclasses import asdict, dataclass, field
from pathlib import Path

SLOWEST = 15
"""How many tests are named as those that took the longest."""

LONG_S = 20
"""A test that takes longer is named, however many there are."""

TICKS = os.sysconf("SC_CLK_TCK")
PARTS = ("core", "server", "web", "browser")


def processor_seconds(process: int | None = None) -> float:
    """Of a process, or this one, and all that descend from it, those included that have ended and were waited for."""
    parents, ticks = {}, {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                fields = (entry / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            parents[int(entry.name)] = int(fields[1])
            ticks[int(entry.name)] = sum(map(int, fields[11:15]))
    ours, reached = 0, {process or os.getpid()}
    while reached:
        ours += sum(ticks.get(one, 0) for one in reached)
        reached = {child for child, parent in parents.items() if parent in reached}
    return ours / TICKS


@dataclass
class Spent:
    """What a test, or setting up a class, took."""

    name: str
    seconds: float
    processor: float

    @property
    def part(self) -> str:
        room = self.name.partition(".")[0]
        return {"tests": "core", "browser": "browser", "web": "web"}.get(room, "server")


@dataclass
class Results:
    """Of one process, or of several together."""

    passed: int = 0
    failed: int = 0
    skipped: int = 0
    wrong: list[str] = field(default_factory=list)
    """What failed, a line each."""
    spent: list[Spent] = field(default_factory=list)
    peak_mb: float = 0.0
    """The most memory that a process of tests held."""
    peak_in: str = ""
    """The test in which that was."""

    def __add__(self, other: "Results") -> "Results":
        sums = {
            name: getattr(self, name) + getattr(other, name)
            for name in ("passed", "failed", "skipped", "wrong", "spent")
        }
        most = max(self, other, key=lambda one: one.peak_mb)
        return Results(**sums, peak_mb=most.peak_mb, peak_in=most.peak_in)

    def write(self, path: Path) -> None:
        path.write_text(json.dumps(asdict(self), indent=0))

    @classmethod
    def read(cls, path: Path) -> "Results":
        given = json.loads(path.read_text())
        return cls(**given | {"spent": [Spent(**one) for one in given["spent"]]})

    def told(self) -> list[str]:
        """The minutes of each part, what took the longest, what failed; the last line counts."""
        lines = []
        for part in PARTS:
            of_it = [one for one in self.spent if one.part == part]
            if of_it:
                minutes, processor = (
                    sum(getattr(one, what) for one in of_it) / 60 for what in ("seconds", "processor")
                )
                lines.append(f"{minutes:6.1f} min  {part} ({processor:.1f} min of processor)")
        for place, one in enumerate(sorted(self.spent, key=lambda one: -one.seconds)):
            if place < SLOWEST or one.seconds > LONG_S:
                over = f"  over {LONG_S} s" if one.seconds > LONG_S else ""
                lines.append(f"{one.seconds:6.1f} s  {one.name} ({one.processor:.1f} s of processor){over}")
        lines.append(
            f"{self.peak_mb:6.0f} MB  the most that a process of tests held" + (self.peak_in and f", in {self.peak_in}")
        )
        return [*lines, *self.wrong, f"{self.passed} passed, {self.failed} failed, {self.skipped} skipped"]
