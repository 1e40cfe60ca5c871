"""A material of ours by itself, as JSON: of this version or an older one, which is brought up, and what was changed is told."""

import json

from nineglass.describe import Refused
from nineglass.documents.migrations import migrated
from nineglass.documents.model import Material, read
from nineglass.exchange.formats import Format, Taken
from nineglass.exchange.report import Report
from nineglass.files import refused_file

NAME = "document"
ALLOWED = "a material of this version or an older one, as JSON"


def brought_up(given) -> tuple[object, Report]:
    """The newest form of a parsed document, and what was changed for it: no line where it is of this version."""
    report = Report(format=NAME)
    newest, lines = migrated(given)
    for line in lines:
        what, _, says = line.partition(": ")
        report.add("nearly" if "taken off" in says else "exactly", what, says or "brought up to this version")
    return newest, report


def read_files(files: dict[str, bytes], first: str) -> Taken:
    """Raises Refused."""
    try:
        given = json.loads(files[first])
    except (ValueError, RecursionError):
        raise refused_file("not JSON that can be read", ALLOWED) from None
    newest, report = brought_up(given)
    try:
        material = read(Material, newest)
    except Refused as refused:
        raise refused_file(refused.faults[0].line()[:200], ALLOWED) from None
    if not report.lines:
        report.add("exactly", "Material", "of this version: all of it")
    return Taken(material.model_dump(mode="json"), report)


FORMAT = Format(
    name=NAME,
    title="A material of ours",
    ending=".json",
    help="The document of a material, of any version.",
    begins=lambda head: head[:1] == b"{" and b'"nineglass.material"' in head,
    read=read_files,
    place=4,
)
