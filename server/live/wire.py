"""Messages between server, renderer and browser: a header in JSON and, with some, bytes behind it.

On a pipe each message is preceded by the lengths of both parts (two unsigned 32-bit integers, big-endian);
to the browser the header's length alone precedes the header, since a WebSocket frames its messages.
"""

import json
import math
import struct

LENGTHS = struct.Struct(">II")
HEADER_LENGTH = struct.Struct(">I")


def pack(header: dict, payload: bytes = b"") -> bytes:
    """A message for a pipe."""
    text = _json(header)
    return LENGTHS.pack(len(text), len(payload)) + text + payload


def for_browser(header: dict, payload: bytes = b"") -> bytes:
    """A message for a WebSocket."""
    text = _json(header)
    return HEADER_LENGTH.pack(len(text)) + text + payload


def _json(header: dict) -> bytes:
    """JSON as browsers read it: what is no number is null."""
    try:
        return json.dumps(header, separators=(",", ":"), allow_nan=False).encode()
    except ValueError:
        return json.dumps(_with_null(header), separators=(",", ":")).encode()


def _with_null(given):
    if isinstance(given, float):
        return given if math.isfinite(given) else None
    if isinstance(given, dict):
        return {name: _with_null(value) for name, value in given.items()}
    return [_with_null(one) for one in given] if isinstance(given, list | tuple) else given
