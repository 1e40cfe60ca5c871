"""What a bench note is."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Change:
    """Something to be set: a dial of a band of the material, or of a part of the stage (objects.0, lamps.1, surround, camera)."""

    part: str
    dial: str
    value: Any


@dataclass(frozen=True)
class PutOnWire:
    """A slip to be put on the wire that ends at a dial."""

    part: str
    dial: str
    slip: str
    dials: dict[str, float]


@dataclass(frozen=True)
class AddLamp:
    """A lamp to be put on the stage: its kind, name, dials, who sees it and what it lights."""

    lamp: dict[str, Any]


@dataclass(frozen=True)
class Become:
    """The material that the one on the bench is to become."""

    material: dict[str, Any]


@dataclass(frozen=True)
class Note:
    """One remark: the rule with its figure, the dial it is about, and what one click would change."""

    rule: str
    says: str
    figure: float
    part: str
    dial: str
    remedy: str
    changes: list[Change | PutOnWire | AddLamp | Become]
