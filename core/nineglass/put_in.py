"""Reading of files that were put in. A file from outside is hostile: it is read once, in a child process with limits on memory and time,
into plain arrays; those are what everybody else loads.

A kind of file is a module with `read_file(bytes) -> ReadFile`, named under `READERS`.
"""

import importlib
import os
import shutil
import sys
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np

from nineglass.child import Kind, say
from nineglass.describe import FileKind
from nineglass.files import folder, path_of

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

READING = Kind("reading it", "a smaller or simpler file")


@dataclass(frozen=True)
class ReadFile:
    """What was read of a file: what a person should know of it, and its arrays."""

    facts: dict
    arrays: dict[str, np.ndarray]


def facts_of(name: str, kind: Readable) -> dict:
    """Read a kept file, and what a person should know of it. Raises Refused."""
    path = path_of(name)
    return READING.answer_of(__name__, kind, str(path), str(_form_of(name, kind)))["facts"]


def arrays_of(name: str, kind: Readable) -> dict[str, np.ndarray]:
    """The arrays of a kept file. Raises Refused."""
    path_of(name)
    form = _form_of(name, kind)
    if not form.is_file():
        facts_of(name, kind)
    with np.load(form, allow_pickle=False) as arrays:
        return dict(arrays)


@contextmanager
def files_of(name: str, kind: Readable) -> Iterator[dict[str, Path]]:
    """The arrays of bytes of a kept file that was read, as files for now, which are never held as a whole."""
    with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(_form_of(name, kind)) as packed:
        paths = {}
        for one in packed.namelist():
            paths[one.removesuffix(".npy")] = path = Path(folder) / str(len(paths))
            with packed.open(one) as source, path.open("xb") as out:
                np.lib.format.read_magic(source)
                np.lib.format.read_array_header_1_0(source)
                shutil.copyfileobj(source, out)
        yield paths


def _form_of(name: str, kind: Readable) -> Path:
    return folder() / name[:2] / f"{name}.{kind}.npz"


def main(kind: Readable, path: str, form: str) -> dict:
    """In the child: read a file, keep its arrays, and say its facts."""
    read = importlib.import_module(READERS[kind]).read_file(Path(path).read_bytes())
    with tempfile.NamedTemporaryFile(dir=Path(form).parent, prefix="coming-", delete=False) as out:
        np.savez(out, **read.arrays)
    os.replace(out.name, form)
    return {"facts": read.facts}


if __name__ == "__main__":
    say(lambda: main(*sys.argv[1:]))
