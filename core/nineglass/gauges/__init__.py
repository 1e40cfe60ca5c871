"""Gauges, bench notes and the small pictures on slips: all computed from the same program as the picture.

A new gauge is one file here with one function under `GAUGES.gauge`; it gives curves or rungs that the screens know how to draw.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from nineglass.describe import find_files
from nineglass.documents.model import Material, Stage
from nineglass.network.compile import Compiled, compile_network
from nineglass.network.interpret import evaluate

REFERENCE = {"facing": 0.8, "normal_z": 1, "view_z": 1, "u": 0.5, "along": 0.5, "strand": 0.5}
REFERENCE = {name: np.float32(value) for name, value in REFERENCE.items()}
"""Where on the form a driven dial is read when one value must stand for all."""


@dataclass
class Reading:
    """What a gauge may look at."""

    material: Material
    stage: Stage | None
    compiled: Compiled
    lengths: dict | None = None
    """What `film.length_facts` found in the picture."""
    clipped: tuple[float, float, float] | None = None
    """The shares of the picture that are past white in red, green and blue."""
    values: dict[tuple[str, str], float | tuple] = field(default_factory=dict)

    def __post_init__(self):
        self.values |= self.read(self.compiled.dials)

    def read(self, dials: dict) -> dict:
        """The values of some dials, by the same keys, where one place must stand for all."""
        signals = [s if isinstance(s, tuple) else (s,) for s in dials.values()]
        flat = evaluate(self.compiled.program, [r for s in signals for r in s], 1, **REFERENCE)[:, 0]
        values, at = {}, 0
        for key, signal in zip(dials, signals, strict=True):
            given = tuple(float(f"{v:.7g}") for v in flat[at : at + len(signal)])
            values[key] = given if len(given) > 1 else given[0]
            at += len(signal)
        return values

    def varies(self, kind: str, dial: str) -> bool:
        return self.compiled.constant(kind, dial) is None


def reading_of(material: Material, stage: Stage | None = None, lengths: dict | None = None) -> Reading:
    return Reading(material, stage, compile_network(material), lengths)


@dataclass(frozen=True)
class Gauge:
    """A plot beside the picture. plot: how the screens draw it: 'rungs', 'curves', 'strips' or 'polar'."""

    name: str
    title: str
    plot: str
    help: str
    compute: Callable[[Reading], dict]
    bands: tuple[str, ...] = ()
    """The section must have one of these bands for it."""
    place: int = 100
    """Where its tab stands among the others."""

    when: Callable[[Reading], bool] = lambda reading: True
    """Whether there is anything to plot."""

    def wanted(self, reading: Reading) -> bool:
        return not reading.compiled.present.isdisjoint(self.bands) and self.when(reading)


class Gauges:
    """All gauges by name, in the order of the tabs."""

    def __init__(self):
        self.all: dict[str, Gauge] = {}

    def gauge(self, *, title: str, plot: str, **about):
        """about: the bands, the place and the condition of a `Gauge`."""

        def declare(compute):
            help = " ".join(compute.__doc__.split())
            self.all[compute.__name__] = Gauge(compute.__name__, title, plot, help, compute, **about)
            self.all = dict(sorted(self.all.items(), key=lambda one: one[1].place))
            return compute

        return declare

    def as_json(self) -> list[dict]:
        return [{"name": g.name, "title": g.title, "plot": g.plot, "help": g.help} for g in self.all.values()]


GAUGES = Gauges()

find_files(__name__, __path__)
