"""Reading of files that were put in. A file from outside is hostile: it is read once, in a child process with limits on memory and time,
into plain arrays; those are what everybody else loads.

A kind of file is a module with `read_file(bytes) -> ReadFile`, named under `READERS`.
"""

import importlib
import json
import os
import subprocess
import sys
import tempfile
import threading
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Literal

import numpy as np

from nineglass.describe import Fault, FileKind, Refused
from nineglass.files import folder, path_of, refused_file

Readable = FileKind | Literal["handed"]
"""Files that are kept, and such as materials are taken from."""

READERS: dict[Readable, str] = {
    "mesh": "nineglass.forms.imported",
    "picture": "nineglass.picture.lighting",
    "texture": "nineglass.network.pictures",
    "photometry": "nineglass.lamps.photometric",
    "grid": "nineglass.network.grids",
    "strands": "nineglass.forms.imported_strands",
    "handed": "nineglass.exchange.taking",
}

MOST_MEMORY = 3_000_000_000
MOST_SECONDS = 40
MOST_AT_ONCE = 2
WAITS_S = 60
"""How long a file waits for others to be read."""

_turns = threading.BoundedSemaphore(MOST_AT_ONCE)


@dataclass(frozen=True)
class ReadFile:
    """What was read of a file: what a person should know of it, and its arrays."""

    facts: dict
    arrays: dict[str, np.ndarray]


def facts_of(name: str, kind: Readable) -> dict:
    """Read a kept file, and what a person should know of it. Raises Refused."""
    path = path_of(name)
    if not _turns.acquire(timeout=WAITS_S):
        raise refused_file("others' files are still being read", "a file at a time", "Try again in a minute.")
    try:
        return _in_child(kind, path, _form_of(name, kind))
    finally:
        _turns.release()


def arrays_of(name: str, kind: Readable) -> dict[str, np.ndarray]:
    """The arrays of a kept file. Raises Refused."""
    path_of(name)
    form = _form_of(name, kind)
    if not form.is_file():
        facts_of(name, kind)
    with np.load(form, allow_pickle=False) as arrays:
        return dict(arrays)


def _form_of(name: str, kind: Readable) -> Path:
    return folder() / name[:2] / f"{name}.{kind}.npz"


def _command(kind: Readable, path: Path, form: Path) -> list[str]:
    return [sys.executable, "-m", "nineglass.put_in", kind, str(path), str(form)]


def environment() -> dict[str, str]:
    alone = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"), "1")
    return {**os.environ, **alone, "PYTHONPATH": str(Path(__file__).resolve().parents[1])}


def said_by(command: list[str], seconds: float, given: bytes = b"") -> dict:
    """What a process of its own says as JSON. Raises Refused for faults that it says, TimeoutExpired, and CalledProcessError where it failed."""
    done = subprocess.run(command, input=given, env=environment(), capture_output=True, timeout=seconds, check=True)
    said = json.loads(done.stdout)
    if "faults" in said:
        raise Refused([Fault(**fault) for fault in said["faults"]])
    return said


def _in_child(kind: Readable, path: Path, form: Path) -> dict:
    try:
        return said_by(_command(kind, path, form), MOST_SECONDS)["facts"]
    except subprocess.TimeoutExpired:
        raise refused_file(f"reading it takes longer than {MOST_SECONDS} s", "a simpler file") from None
    except subprocess.CalledProcessError:
        raise refused_file(
            "it cannot be read within the limits of memory and time", "a smaller or simpler file"
        ) from None


def _limit() -> None:
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def main(kind: Readable, path: str, form: str) -> None:
    """In the child: read a file, keep its arrays, and say its facts or faults on the standard output."""
    _limit()
    try:
        read = importlib.import_module(READERS[kind]).read_file(Path(path).read_bytes())
        with tempfile.NamedTemporaryFile(dir=Path(form).parent, prefix="coming-", delete=False) as out:
            np.savez(out, **read.arrays)
        os.replace(out.name, form)
        said = {"facts": read.facts}
    except Refused as refused:
        said = {"faults": [asdict(fault) for fault in refused.faults]}
    except MemoryError:
        fault = Fault("file", "reading it takes too much memory", "a smaller file", "Choose another file.")
        said = {"faults": [asdict(fault)]}
    json.dump(said, sys.stdout, allow_nan=False)


if __name__ == "__main__":
    main(*sys.argv[1:])
