"""The families of surfaces, in the order in which they are asked whether a stack is theirs."""

from dataclasses import dataclass
from types import ModuleType

from nineglass.trace.families import fibre, interface, layers


@dataclass(frozen=True)
class Family:
    """One family; `room` is its file."""

    name: str
    room: ModuleType


FAMILIES = (Family("interface", interface), Family("fibre", fibre), Family("layers", layers))
LAYERS = next(k for k, family in enumerate(FAMILIES) if family.room is layers)
"""The number of the family whose rows hold every material."""

FIBRES = next(k for k, family in enumerate(FAMILIES) if family.room is fibre)


def family_of(leaf) -> int:
    """The number of the family that a stack of bands is of."""
    return next(k for k, family in enumerate(FAMILIES) if family.room.takes(leaf))
