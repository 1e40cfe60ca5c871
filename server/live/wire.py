"""Messages between server, renderer and browser: a header in JSON and, with some, bytes behind it.

On a pipe each message is preceded by the lengths of both parts (two unsigned 32-bit integers, big-endian);
to the browser the header's length alone precedes the header, since a WebSocket frames its messages.
"""

import json
import struct

LENGTHS = struct.Struct(">II")
HEADER_LENGTH = struct.Struct(">I")


def pack(header: dict, payload: bytes = b"") -> bytes:
    """A message for a pipe."""
    text = json.dumps(header, separators=(",", ":")).encode()
    return LENGTHS.pack(len(text), len(payload)) + text + payload


def for_browser(header: dict, payload: bytes = b"") -> bytes:
    """A message for a WebSocket."""
    text = json.dumps(header, separators=(",", ":")).encode()
    return HEADER_LENGTH.pack(len(text)) + text + payload
