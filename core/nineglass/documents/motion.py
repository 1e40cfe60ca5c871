"""Several pictures in one go: the frames of a motion, or the cells of a trial. Each is of documents of its own."""

from itertools import pairwise
from typing import Annotated, Literal, Protocol

import numpy as np
from pydantic import Field, model_validator

from nineglass.catalogue import CAMERAS, SURROUNDS
from nineglass.describe import Fault, Refused
from nineglass.documents.model import SURROUND_PARTS, Document, Id, Material, Stage, Versioned, faults_of, read
from nineglass.documents.trials import (
    ON_STAGE,
    Channel,
    Path,
    Trial,
    lamps_turned,
    part_turned,
    turned,
    turned_on_stage,
)

MOST_FRAMES = 720
STRIP = 6
"""Frames that a motion is first looked at in, far from settled."""

STRIP_SAMPLES = 4
MEETS_WITHIN = 1e-9

Share = Annotated[float, Field(ge=0, le=1)]
Ease = Literal["even", "soft"]


class TurnMove(Document):
    """All forms, the lamps, the surround, or the camera turned about the middle of the stage."""

    kind: Literal["turn"] = "turn"
    what: Literal["forms", "lamps", "surround", "camera"] = "forms"
    turns: Annotated[float, Field(ge=-20, le=20)] = 1.0
    """Whole turns from the first frame to where the next loop begins."""
    ease: Ease = "even"
    """soft: it begins and ends at rest. Source: the cubic 3t^2 - 2t^3, common practice."""

    def meets(self) -> bool:
        return self.turns == round(self.turns)

    def at(self, t: float, material: Material, stage: Stage) -> tuple[Material, Stage]:
        share = t * t * (3 - 2 * t) if self.ease == "soft" else t
        return material, TURNED[self.what](stage, 360 * (self.turns * share % 1.0))


class DialMove(Document):
    """A dial of the material or the stage, driven over time through points (share of the time, value)."""

    kind: Literal["dial"] = "dial"
    module: Path = ""
    part: Path
    """As of a `DialAxis`; `stage:` alone is the stage itself, with its `time` and `turn`."""
    dial: Id
    channel: Channel = ""
    points: Annotated[list[tuple[Share, float]], Field(min_length=2, max_length=32)]
    joined: Literal["straight", "smooth"] = "smooth"
    label: Annotated[str, Field(max_length=120)] = ""
    unit: Annotated[str, Field(max_length=16)] = ""

    @model_validator(mode="after")
    def _goes_on(self):
        times = [t for t, _ in self.points]
        if any(b <= a for a, b in pairwise(times)):
            raise ValueError("each point comes after the one before")
        return self

    def meets(self) -> bool:
        first, last = self.value(0.0), self.value(1.0)
        return abs(first - last) <= MEETS_WITHIN * max(abs(first), abs(last), 1.0)

    def value(self, t: float) -> float:
        """Through all points, never beyond them. Source of the smooth way: Fritsch & Butland 1984, monotone piecewise cubics."""
        times, values = np.array(self.points, float).T
        t = min(max(t, times[0]), times[-1])
        if self.joined == "straight":
            return float(np.interp(t, times, values))
        from scipy.interpolate import PchipInterpolator

        return float(PchipInterpolator(times, values)(t))

    def at(self, t: float, material: Material, stage: Stage) -> tuple[Material, Stage]:
        value = self.value(t)
        if not self.part.startswith(ON_STAGE):
            return turned(material, self.module, self.part, self.dial, value, self.channel), stage
        path = self.part.removeprefix(ON_STAGE)
        if path:
            return material, turned_on_stage(stage, path, self.dial, value, self.channel)
        return material, _with_own(stage, self.dial, value)


Move = Annotated[TurnMove | DialMove, Field(discriminator="kind")]


class Series(Protocol):
    """What several pictures are made of."""

    @property
    def count(self) -> int: ...

    def documents_at(self, k: int, material: Material, stage: Stage) -> tuple[Material, Stage]: ...

    def rank(self, k: int, samples: int) -> tuple:
        """The lowest is worked on first. k: a picture; samples: that it has."""


class Motion(Versioned):
    """What moves from frame to frame, and how fast."""

    format: Literal["nineglass.motion"] = "nineglass.motion"
    version: Literal[1] = 1
    frames: Annotated[int, Field(ge=2, le=MOST_FRAMES)] = 48
    per_second: Annotated[int, Field(ge=1, le=60)] = 24
    loops: bool = True
    """Whether the first frame follows the last, as the next step."""
    moves: Annotated[list[Move], Field(min_length=1, max_length=8)]

    @property
    def count(self) -> int:
        return self.frames

    def time_of(self, k: int) -> float:
        """0 to 1 over the frames; where it loops the last is one step before 1."""
        return k / (self.frames if self.loops else self.frames - 1)

    def documents_at(self, k: int, material: Material, stage: Stage) -> tuple[Material, Stage]:
        """The documents of a frame. Raises Refused when a dial cannot be set to what it is driven to."""
        return self.at(self.time_of(k), material, stage)

    def at(self, t: float, material: Material, stage: Stage) -> tuple[Material, Stage]:
        for move in self.moves:
            material, stage = move.at(t, material, stage)
        return material, stage

    def strip(self) -> set[int]:
        """The frames that are looked at before all others."""
        return {round(i * (self.frames - 1) / (STRIP - 1)) for i in range(STRIP)}

    def rank(self, k: int, samples: int) -> tuple:
        """First the strip, then frame after frame."""
        return (0, samples, k) if k in self.strip() and samples < STRIP_SAMPLES else (1, k, samples)


def read_series(given: dict) -> Series:
    """Raises Refused with every fault found."""
    return read(Motion, given) if given.get("format") == "nineglass.motion" else read(Trial, given)


def check_motion(motion: Motion, material: Material, stage: Stage) -> None:
    """Every frame can be made, and a loop has no seam. Raises Refused."""
    faults = []
    for i, move in enumerate(motion.moves):
        if motion.loops and not move.meets():
            allowed = "whole turns" if isinstance(move, TurnMove) else "the value that it begins with, at the end"
            name = "turns" if isinstance(move, TurnMove) else "points"
            remedy = "Change it, or do not loop."
            faults.append(Fault(f"moves[{i}].{name}", "a loop would jump where it begins again", allowed, remedy))
    if faults:
        raise Refused(faults)
    # A value never lies beyond the points that it goes through.
    driven = {t for move in motion.moves if isinstance(move, DialMove) for t, _ in move.points}
    for t in sorted(driven | {0.0}):
        for one in motion.at(t, material, stage):
            if found := faults_of(one):
                raise Refused(found)


def _with_own(stage: Stage, name: str, value: float) -> Stage:
    """A number of the stage itself set. Raises Refused."""
    if name not in OWN_NUMBERS:
        raise Refused([Fault(name, "the stage has no such number", " or ".join(OWN_NUMBERS), "Choose one of them.")])
    return read(Stage, stage.model_dump(mode="json") | {name: value})


OWN_NUMBERS = ("time", "turn")


def _camera_turned(stage: Stage, degrees: float) -> Stage:
    camera = part_turned(stage.camera, CAMERAS.kinds[stage.camera.kind], degrees)
    return stage.model_copy(update={"camera": camera})


def _surround_turned(stage: Stage, degrees: float) -> Stage:
    around = stage.surround
    parts = {name: getattr(around, name) for name in SURROUND_PARTS}
    turned_parts = {
        name: part and part_turned(part, SURROUNDS.kinds[part.kind], degrees) for name, part in parts.items()
    }
    return stage.model_copy(update={"surround": around.model_copy(update=turned_parts)})


TURNED = {
    "forms": lambda stage, degrees: stage.model_copy(update={"turn": stage.turn + degrees}),
    "lamps": lamps_turned,
    "surround": _surround_turned,
    "camera": _camera_turned,
}
"""What a stage is with something of it turned by degrees about its middle."""
