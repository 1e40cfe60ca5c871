"""A file that comes from another program, or a zip of a document and its pictures, told by what it begins with. Read in a child process."""

import io
import json
import zipfile
from pathlib import PurePosixPath

import numpy as np

from nineglass.describe import Refused
from nineglass.documents.migrations import migrated
from nineglass.documents.model import Material, read
from nineglass.exchange.formats import Taken, formats
from nineglass.exchange.report import Report
from nineglass.exchange.work import MANIFEST
from nineglass.files import refused_file
from nineglass.put_in import ReadFile

OURS = "nineglass"
MOST_ENTRIES, MOST_UNPACKED = 500, 1_000_000_000
ALLOWED = "a MaterialX document, a binary glTF file, a material of ours, or a zip of one with its pictures"


def read_file(given: bytes) -> ReadFile:
    """facts: the document of the material and the report; arrays: the files that it names, by their SHA-256."""
    taken = taken_of(given)
    facts = {"material": taken.material, "report": taken.report.model_dump(mode="json")}
    facts |= {"kinds": taken.kinds, "stage": taken.stage}
    return ReadFile(facts, {name: np.frombuffer(data, np.uint8) for name, data in taken.files.items()})


def taken_of(given: bytes) -> Taken:
    """Raises Refused."""
    files = _unzipped(given) if given[:2] == b"PK" else {"file": given}
    for name, data in files.items():
        kind = _kind_of(data)
        if kind == OURS:
            return _ours(data)
        if kind:
            read_files = formats()[kind].read
            return read_files(files, name)
    raise refused_file("nothing in it that can be read as a material", ALLOWED)


def _kind_of(data: bytes) -> str:
    """The format of a file, by its first bytes; nothing for one of another kind."""
    start = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start[:4] == b"glTF":
        return "glb"
    if b"<materialx" in start or (start[:5] == b"<?xml" and b"<materialx" in data[:4000]):
        return "mtlx"
    if start[:1] == b"{" and b'"nineglass.work"' in data[:400]:
        return "work"
    if start[:1] == b"{" and b"nineglass.material" in data[:4000]:
        return OURS
    return ""


def _unzipped(given: bytes) -> dict[str, bytes]:
    """The files of a zip by name, those of documents first; within limits."""
    try:
        with zipfile.ZipFile(io.BytesIO(given)) as packed:
            entries = [one for one in packed.infolist() if not one.is_dir()]
            if len(entries) > MOST_ENTRIES or sum(one.file_size for one in entries) > MOST_UNPACKED:
                allowed = f"at most {MOST_ENTRIES} files and {MOST_UNPACKED // 1_000_000} MB"
                raise refused_file("the zip holds too much", allowed)
            found = {PurePosixPath(one.filename).name: packed.read(one) for one in entries}
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise refused_file(f"not a zip that can be read ({str(error)[:80]})", ALLOWED) from None
    return dict(sorted(found.items(), key=lambda one: (one[0] != MANIFEST, not _kind_of(one[1]))))


def _ours(data: bytes) -> Taken:
    """A material of ours, of this version or an older one; what was brought up is told."""
    report = Report(format=OURS)
    try:
        given = json.loads(data)
    except (ValueError, RecursionError):
        raise refused_file("not JSON that can be read", ALLOWED) from None
    newest, lines = migrated(given)
    for line in lines:
        what, _, says = line.partition(": ")
        report.add("nearly" if "taken off" in says else "exactly", what, says or "brought up to this version")
    try:
        material = read(Material, newest)
    except Refused as refused:
        raise refused_file(refused.faults[0].line()[:200], "a material of this version or an older one") from None
    if not lines:
        report.add("exactly", "Material", "of this version: all of it")
    return Taken(material.model_dump(mode="json"), {}, report)
