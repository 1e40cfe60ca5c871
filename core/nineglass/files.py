"""Files that were put in (pictures, meshes), kept by the SHA-256 of their bytes.

The folder is NINEGLASS_FILES, or .local/files under the project's root; the server writes there through its storage.
"""

import os
import re
import tempfile
from collections.abc import Iterable
from hashlib import sha256
from pathlib import Path

from nineglass.describe import Fault, Refused


def folder() -> Path:
    return Path(os.environ.get("NINEGLASS_FILES") or Path(__file__).resolve().parents[2] / ".local" / "files")


def is_kept(name: str) -> bool:
    return bool(re.fullmatch(r"[0-9a-f]{64}", name)) and (folder() / name[:2] / name).is_file()


def absent(path: str, name: str) -> Fault:
    """What to say where a file is named that is not there. path: where it is named."""
    remedy = "Put it in again, or choose another."
    return Fault(path, f"there is no file {name[:12]!r}", "a file that was put in", remedy)


def refused_file(fault: str, allowed: str, remedy: str = "Choose another file.") -> Refused:
    """What to raise of a file that cannot be used."""
    return Refused([Fault("file", fault, allowed, remedy)])


def path_of(name: str) -> Path:
    """The path of a kept file; Refused when it is not there."""
    if not is_kept(name):
        raise Refused([absent("file", name)])
    return folder() / name[:2] / name


def name_of(data: bytes) -> str:
    """The name by which some bytes are kept."""
    return sha256(data).hexdigest()


def keep(chunks: Iterable[bytes]) -> str:
    """Keep a file given piece by piece; returns its name."""
    folder().mkdir(parents=True, exist_ok=True)
    digest = sha256()
    with tempfile.NamedTemporaryFile(dir=folder(), prefix="coming-", delete=False) as waiting:
        try:
            for chunk in chunks:
                digest.update(chunk)
                waiting.write(chunk)
        except BaseException:
            os.unlink(waiting.name)
            raise
    name = digest.hexdigest()
    path = folder() / name[:2] / name
    path.parent.mkdir(exist_ok=True)
    os.replace(waiting.name, path)
    return name


def forget(name: str) -> None:
    """Remove a file, and what was read of it."""
    for path in (folder() / name[:2]).glob(f"{name}*"):
        path.unlink(missing_ok=True)
