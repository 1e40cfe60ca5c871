"""Two changes of one document put together: each keeps what the other did not touch.

A three-way merge over the parts that a document lists under names of their own (bands, slips, mounts, modules), and over its wires by
the dial that they end at; common practice, as in revision control. A part is the smallest thing that is held apart.
"""

from dataclasses import dataclass

ABSENT = object()


@dataclass(frozen=True)
class Merged:
    """document: both changes in one, None where they cannot be. both: the parts that both changed, each in another way."""

    document: dict | None
    both: list[str]


def merged(base: dict, theirs: dict, mine: dict) -> Merged:
    """Documents as JSON: what both began with, and what became of it."""
    both: list[str] = []
    document = _fields(base, theirs, mine, "", both)
    return Merged(None if both else document, both)


def _fields(base: dict, theirs: dict, mine: dict, path: str, both: list[str]) -> dict:
    names = dict.fromkeys([*mine, *theirs, *base])
    made = {}
    for name in names:
        sides = tuple(one.get(name, ABSENT) for one in (base, theirs, mine))
        value = _value(*sides, f"{path}{name}", both)
        if value is not ABSENT:
            made[name] = value
    return made


def _value(base, theirs, mine, path: str, both: list[str]):
    if mine in (base, theirs):
        return theirs
    if theirs == base:
        return mine
    if all(_is_named(side) for side in (base, theirs, mine)):
        return _parts(base, theirs, mine, path, both)
    if path == "section" and all(isinstance(side, dict) for side in (base, theirs, mine)):
        return _fields(base, theirs, mine, "section.", both)
    both.append(path)
    return mine


def _is_named(value) -> bool:
    """Whether it is a list of parts with names of their own, each once."""
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        return False
    names = [_name(one) for one in value]
    return None not in names and len(set(names)) == len(names)


def _name(part: dict) -> str | None:
    """Of a part of a list; a wire is known by where it ends."""
    if "target" in part:
        return f"{part['target']['part']}.{part['target']['dial']}"
    return part.get("id")


def _parts(base: list, theirs: list, mine: list, path: str, both: list[str]) -> list:
    sides = [{_name(one): one for one in side} for side in (base, theirs, mine)]
    made = []
    for name in _order(*(list(side) for side in sides), path, both):
        value = _value(*(side.get(name, ABSENT) for side in sides), f"{path}.{name}", both)
        if value is not ABSENT:
            made.append(value)
    return made


def _order(base: list[str], theirs: list[str], mine: list[str], path: str, both: list[str]) -> list[str]:
    """All names in the order of the side that turned it; what the other added stands behind what it stood behind there."""
    first, second = (theirs, mine) if _kept(base, mine) else (mine, theirs)
    if not _kept(base, second):
        both.append(f"{path} (their order)")
    made = list(first)
    for at, name in enumerate(second):
        if name not in made:
            before = next((one for one in reversed(second[:at]) if one in made), None)
            made.insert(made.index(before) + 1 if before else 0, name)
    return made


def _kept(base: list[str], side: list[str]) -> bool:
    """Whether a side left what was there in its order."""
    return [name for name in side if name in base] == [name for name in base if name in side]
