"""How long tests take. `./test --long` makes the full counts and all crosses; `./test` as many as each tolerance needs by three sigma."""

import itertools
import os
from collections.abc import Iterable, Sequence
from typing import TypeVar

from allpairspy import AllPairs

LONG = os.environ.get("NINEGLASS_LONG_TESTS") == "1"

T = TypeVar("T")


def fewer(full: int, of: int = 4) -> int:
    """A count of samples, trials or cases: the full one, or one part `of` so many."""
    return full if LONG else max(full // of, 1)


def crossed(*axes: Sequence) -> Iterable[tuple]:
    """Every value with every other, or each value of the longest axis once, with those of the others in turn."""
    if LONG:
        return itertools.product(*axes)
    longest = max(len(axis) for axis in axes)
    return zip(*(itertools.islice(itertools.cycle(axis), longest) for axis in axes), strict=True)


def paired(axes: Sequence[Sequence[T]]) -> Iterable[Sequence[T]]:
    """Rows with a value from each axis, such that any two values of two axes stand together in one (a covering design of strength two)."""
    return AllPairs(axes) if len(axes) > 1 else [[value] for axis in axes for value in axis]
