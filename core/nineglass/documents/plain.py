"""Whether parsed JSON is plain enough to become a document: finite numbers, texts that can be kept, no abyss of lists."""

import math

from nineglass.describe import Fault

DEEPEST = 64
MOST_VALUES = 300_000
LARGEST = 1e15
"""No whole number of a document is larger: it must survive a float and a database."""


NOT_PLAIN = "not_plain"
"""The type of the error that says so."""


def fault_of_json(given) -> Fault | None:
    """The first thing in parsed JSON that no document may have, with its path."""
    waiting, count = [("", given, 0)], 0
    while waiting:
        path, value, depth = waiting.pop()
        count += 1
        if count > MOST_VALUES:
            return Fault("$", "the document has too many values", f"at most {MOST_VALUES}", "Remove slips.")
        if depth > DEEPEST:
            return Fault(_short(path), "too many lists within one another", f"at most {DEEPEST}", "Set it anew.")
        if isinstance(value, dict):
            for name, one in value.items():
                if wrong := _fault_of_text(name):
                    return Fault(_short(path) or "$", f"a name {wrong}", "plain text", "Rename it.")
                waiting.append((f"{path}.{name}" if path else name, one, depth + 1))
        elif isinstance(value, list):
            waiting += [(f"{path}[{i}]", one, depth + 1) for i, one in enumerate(value)]
        elif wrong := _fault_of(value):
            return Fault(_short(path) or "$", *wrong, "Set it anew.")
    return None


def _fault_of(value) -> tuple[str, str] | None:
    if isinstance(value, str):
        wrong = _fault_of_text(value)
        return (f"the text {wrong}", "plain text") if wrong else None
    if isinstance(value, float) and not math.isfinite(value):
        return f"{value} is no number", "a finite number"
    if isinstance(value, int) and abs(value) > LARGEST:
        return "the number is too large", f"at most {LARGEST:g}"
    return None


def _fault_of_text(text: str) -> str:
    if "\0" in text:
        return "has the character NUL in it"
    return "" if text.isascii() or text.isprintable() or _encodes(text) else "has half of a character in it"


def _encodes(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


def made_plain(text: str) -> str:
    """A text without what cannot be kept."""
    return text.replace("\0", "").encode(errors="replace").decode()


def _short(path: str) -> str:
    return path if len(path) <= 120 else path[:117] + "..."
