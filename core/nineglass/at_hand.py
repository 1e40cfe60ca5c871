"""What was worked out last and is at hand: meshes, rays, strands, voxels, pictures, tables.

All of it together has a budget of memory; beyond it what was not asked for the longest is let go. What a picture is being made of stays until
that is done with it.
"""

import os
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import update_wrapper

import numpy as np

MOST_BYTES = int(os.environ.get("NINEGLASS_AT_HAND_MB", "400")) * 1_000_000
LEAST_BYTES = 1000
"""What anything counts for, however small."""

_lock = threading.Lock()
_found: OrderedDict[tuple, tuple[object, int]] = OrderedDict()
_bytes = 0


def get(kind: Hashable, key: Hashable, make: Callable[[], object]):
    """What there is of a kind by a key, made when it is not at hand; several threads may make the same."""
    place = (kind, key)
    with _lock:
        if place in _found:
            _found.move_to_end(place)
            return _found[place][0]
    made = make()
    _put(place, made)
    return made


def _put(place: tuple, made) -> None:
    global _bytes
    size = LEAST_BYTES + bytes_of(made)
    with _lock:
        _bytes += size - _found.get(place, (None, 0))[1]
        _found[place] = made, size
        _found.move_to_end(place)
        while _bytes > MOST_BYTES and len(_found) > 1:
            _bytes -= _found.popitem(last=False)[1][1]


def holds(kind: Hashable, key: Hashable) -> bool:
    with _lock:
        return (kind, key) in _found


def held() -> tuple[int, int]:
    """(how many things are at hand, their bytes)."""
    with _lock:
        return len(_found), _bytes


def let_go(kind: Hashable | None = None) -> None:
    """All of a kind, or all."""
    global _bytes
    with _lock:
        for place in [one for one in _found if kind is None or one[0] == kind]:
            _bytes -= _found.pop(place)[1]


class Remembered:
    """A function whose answers are at hand, by what it is given."""

    def __init__(self, make: Callable):
        self._make = make
        update_wrapper(self, make)

    def __call__(self, *given):
        return get(self._make, given, lambda: self._make(*given))

    def let_go(self) -> None:
        let_go(self._make)


remembered = Remembered


def bytes_of(thing, seen: set[int] | None = None) -> int:
    """Of the arrays, and of what says `held_bytes` of itself, that a thing is made of; what it has twice counts once."""
    seen = set() if seen is None else seen
    if isinstance(thing, np.ndarray) and isinstance(thing.base, np.ndarray):
        thing = thing.base
    if id(thing) in seen or isinstance(thing, type):
        return 0
    seen.add(id(thing))
    if isinstance(thing, np.ndarray):
        return thing.nbytes
    if isinstance(thing, bytes | str):
        return len(thing)
    parts = thing.values() if isinstance(thing, dict) else thing if isinstance(thing, tuple | list) else ()
    own = getattr(thing, "__dict__", {})
    return own.get("held_bytes", 0) + sum(bytes_of(part, seen) for part in (*parts, *own.values()))
