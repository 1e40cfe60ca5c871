"""Files that were put in (pictures, meshes), kept by the SHA-256 of their bytes.

The folder is NINEGLASS_FILES, or .local/files under the project's root; the server writes there through its storage.
"""

import os
from hashlib import sha256
from pathlib import Path

from nineglass.describe import Fault, Refused


def folder() -> Path:
    return Path(os.environ.get("NINEGLASS_FILES") or Path(__file__).resolve().parents[2] / ".local" / "files")


def path_of(name: str) -> Path:
    """The path of a kept file; Refused when it is not there."""
    path = folder() / name[:2] / name
    if not path.is_file():
        raise Refused([Fault("file", f"there is no file {name[:12]!r}", "a file that was put in", "Put it in again.")])
    return path


def keep(given: bytes) -> str:
    """Keep a file; returns its name."""
    name = sha256(given).hexdigest()
    path = folder() / name[:2] / name
    path.parent.mkdir(parents=True, exist_ok=True)
    waiting = path.with_suffix(f".{os.getpid()}")
    waiting.write_bytes(given)
    waiting.replace(path)
    return name
