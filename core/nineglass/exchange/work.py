"""A material with everything that belongs to it, as one zip: its document, that of the stage, the files that both name, and a manifest with
versions and hashes. Nothing is lost; another installation takes it in beside what is there.
"""

import json
from typing import get_args

from nineglass.describe import FileKind
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.put_in_files import files_in
from nineglass.exchange.formats import Format, Taken, Written
from nineglass.exchange.report import Report
from nineglass.files import name_of, path_of, refused_file

NAME = "work"
MANIFEST, MATERIAL, STAGE = "manifest.json", "material.json", "stage.json"
MANIFEST_FORMAT, VERSION = "nineglass.work", 1
ALLOWED = "a whole work as it was written here, unchanged"


def write(material: Material, stage: Stage, side: int = 0) -> Written:
    """side has no meaning here: files go over as they are."""
    report = Report(format=NAME)
    named = {name: kind for document in (material, stage) for _, name, kind in files_in(document)}
    files = {MATERIAL: _json(material), STAGE: _json(stage)}
    files |= {name: path_of(name).read_bytes() for name in named}
    manifest = {
        "format": MANIFEST_FORMAT,
        "version": VERSION,
        "documents": {"material": material.version, "stage": stage.version},
        "files": [
            {"name": name, "sha256": name_of(data), "bytes": len(data), "kind": named.get(name, "document")}
            for name, data in files.items()
        ],
    }
    report.add("exactly", "Material", "its document, with network, modules and mounts")
    report.add("exactly", "Stage", f"{stage.name}: forms, lamps, surround, camera")
    if named:
        report.add("exactly", "Files", f"{len(named)}: " + ", ".join(sorted(set(named.values()))))
    report.add("not", "Proofs, trials and finished pictures", "they stay here; each can be taken out by itself")
    text = json.dumps(manifest, indent=1).encode()
    return Written({MANIFEST: text} | files, report)


def read_files(files: dict[str, bytes], first: str) -> Taken:
    """Every file is held against its hash. Raises Refused."""
    try:
        manifest = json.loads(files[first])
        entries = {one["name"]: (one["sha256"], one["kind"]) for one in manifest["files"]}
        version = manifest["version"]
    except (ValueError, KeyError, TypeError, RecursionError):
        raise refused_file("the manifest cannot be read", ALLOWED) from None
    if version != VERSION:
        raise refused_file(f"a work of version {version}", f"version {VERSION}", "Open it with a newer Nine Glass.")
    for name, (expected, kind) in entries.items():
        if kind not in (*get_args(FileKind), "document"):
            raise refused_file(f"{name[:60]!r} is of a kind that is not known", ALLOWED)
        if name not in files or name_of(files[name]) != expected:
            raise refused_file(f"{name[:60]!r} is missing or was changed", ALLOWED)
    if not {MATERIAL, STAGE} <= set(entries):
        raise refused_file("no material or no stage in it", ALLOWED)
    report = Report(format=NAME)
    material, stage = read(Material, files[MATERIAL]), read(Stage, files[STAGE])
    kinds = {expected: kind for expected, kind in entries.values() if kind != "document"}
    kept = {name_of(files[name]): files[name] for name, (_, kind) in entries.items() if kind != "document"}
    report.add("exactly", "Material", material.name)
    report.add("exactly", "Stage", stage.name)
    if kept:
        report.add("exactly", "Files", f"{len(kept)}, each with the hash that it was written with")
    return Taken(material.model_dump(mode="json"), report, kept, kinds, stage.model_dump(mode="json"))


def _json(document) -> bytes:
    return document.model_dump_json(indent=1).encode()


FORMAT = Format(
    name=NAME,
    title="The whole work",
    ending=".zip",
    help="The documents of material and stage, and every file that they name: for another Nine Glass. Nothing is lost.",
    begins=lambda head: head[:1] == b"{" and f'"{MANIFEST_FORMAT}"'.encode() in head[:400],
    read=read_files,
    write=write,
    holds_all=True,
    measured=False,
    place=3,
)
