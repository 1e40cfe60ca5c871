"""Files that were put in (pictures, meshes), kept by the SHA-256 of their bytes.

The folder is NINEGLASS_FILES, or .local/files under the project's root; the server writes there through its storage.
"""

import os
import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from hashlib import file_digest, sha256
from pathlib import Path
from secrets import token_hex

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
    with for_now(chunks) as coming:
        return adopt(coming)


@contextmanager
def for_now(chunks: Iterable[bytes]) -> Iterator[str]:
    """A file given piece by piece, under a name that nothing else has; what was not adopted of it is gone afterwards."""
    name = token_hex(32)
    path = folder() / name[:2] / name
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        with path.open("xb") as coming:
            coming.writelines(chunks)
        yield name
    finally:
        forget(name)


def adopt(coming: str) -> str:
    """Keep a file of `for_now`, and what was read of it, by its content; returns its name."""
    with path_of(coming).open("rb") as file:
        name = file_digest(file, "sha256").hexdigest()
    (folder() / name[:2]).mkdir(exist_ok=True)
    for path in _all_of(coming):
        os.replace(path, folder() / name[:2] / path.name.replace(coming, name))
    return name


def forget(name: str) -> None:
    """Remove a file, and what was read of it."""
    for path in _all_of(name):
        path.unlink(missing_ok=True)


def _all_of(name: str) -> list[Path]:
    """What was read of a file, and the file itself last."""
    return sorted((folder() / name[:2]).glob(f"{name}*"), reverse=True)
