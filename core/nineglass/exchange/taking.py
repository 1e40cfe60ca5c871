"""A file that comes from another program, or a zip of a document and its pictures, told by what it begins with. Read in a child process."""

import io
import zipfile
import zlib
from pathlib import PurePosixPath

import numpy as np

from nineglass.exchange.formats import HEAD, Taken, formats
from nineglass.files import refused_file
from nineglass.put_in import ReadFile

MOST_ENTRIES, MOST_UNPACKED = 500, 1_000_000_000
BROKEN = (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError, OSError)
"""What reading a zip raises that is damaged, encrypted, or packed in a way that nothing here unpacks."""


def read_file(given: bytes) -> ReadFile:
    """facts: the document of the material, that of a stage and the report; arrays: the files that they name, by their SHA-256."""
    taken = taken_of(given)
    facts = {"material": taken.material, "report": taken.report.model_dump(mode="json")}
    facts |= {"kinds": taken.kinds, "stage": taken.stage}
    return ReadFile(facts, {name: np.frombuffer(data, np.uint8) for name, data in taken.files.items()})


def taken_of(given: bytes) -> Taken:
    """By the first format, in their order, that a file is of. Raises Refused."""
    files = _unzipped(given) if given[:2] == b"PK" else {"file": given}
    heads = {name: data[:HEAD].lstrip(b"\xef\xbb\xbf \t\r\n") for name, data in files.items()}
    for format in sorted(formats().values(), key=lambda one: not one.holds_all):
        for name, head in heads.items():
            if format.begins(head):
                return format.read(files, name)
    raise refused_file("nothing in it that can be read as a material", _allowed())


def _allowed() -> str:
    return ", ".join(f"{one.title} ({one.ending})" for one in formats().values())


def _unzipped(given: bytes) -> dict[str, bytes]:
    """The files of a zip by name, within limits."""
    try:
        with zipfile.ZipFile(io.BytesIO(given)) as packed:
            entries = [one for one in packed.infolist() if not one.is_dir()]
            if len(entries) > MOST_ENTRIES or sum(one.file_size for one in entries) > MOST_UNPACKED:
                allowed = f"at most {MOST_ENTRIES} files and {MOST_UNPACKED // 1_000_000} MB"
                raise refused_file("the zip holds too much", allowed)
            return {PurePosixPath(one.filename).name: packed.read(one) for one in entries}
    except BROKEN as error:
        raise refused_file(f"not a zip that can be read ({str(error)[:80]})", _allowed()) from None
