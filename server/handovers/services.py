"""What can be done with materials that go out and come in. Every function takes the owner; nobody reaches what is not theirs."""

import io
import zipfile
from pathlib import Path
from uuid import UUID

from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage
from django.db import transaction
from django.shortcuts import get_object_or_404
from library import services as library
from library.access import held
from library.checks import check, leave_room
from materials import services as materials
from materials.models import Material
from nineglass.describe import Fault, Refused
from nineglass.documents import model as documents
from nineglass.documents.plain import made_plain
from nineglass.documents.put_in_files import files_in
from nineglass.exchange.document import brought_up
from nineglass.exchange.formats import PICTURE_SIDES, Written, file_name, format_of
from nineglass.exchange.writing import write_in_child
from nineglass.files import for_now
from nineglass.put_in import facts_of, files_of
from stages.models import Stage, Standing

from handovers import tasks
from handovers.models import HandedOver, TakenIn

State = HandedOver.State
LARGEST_IN = 400_000_000


def hand_over(
    owner, material_id: UUID, format_name: str, side: int, material: documents.Material, stage: documents.Stage
) -> HandedOver:
    """Write a material in a format, as it is now; it is read back and measured behind. Raises Refused."""
    check(owner, material)
    check(owner, stage)
    leave_room(owner, HandedOver)
    kept = held(Material, owner, material_id)
    if side not in PICTURE_SIDES:
        allowed = ", ".join(map(str, PICTURE_SIDES))
        raise Refused([Fault("side", f"pictures of {side} pixels", allowed, "Choose another size.")])
    written = write_in_child(format_name, material, stage, side)
    name, data = packed(material.name, written)
    with transaction.atomic():
        handed = HandedOver.objects.create(
            owner=owner,
            taken_from=kept,
            name=material.name,
            format=format_name,
            material=material.model_dump(mode="json"),
            stage=stage.model_dump(mode="json"),
            report=written.report.model_dump(mode="json"),
            file=default_storage.save(f"handed/{name}", ContentFile(data)),
            file_name=name,
            bytes=len(data),
            state=State.MEASURING if format_of(format_name).measured else State.DONE,
        )
    if handed.state == State.MEASURING:
        tasks.measure_behind(handed.id)
    return handed


def packed(title: str, written: Written) -> tuple[str, bytes]:
    """(name, bytes) of the one file that is handed over: a zip where there are several."""
    first = next(iter(written.files))
    if len(written.files) == 1:
        return first, written.files[first]
    called = file_name(title)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for name, data in written.files.items():
            pack.writestr(name, data)
    return f"{called}.zip", out.getvalue()


def of(owner):
    return HandedOver.objects.filter(owner=owner).prefetch_related("measured")


def get(owner, handed_id: UUID) -> HandedOver:
    return get_object_or_404(HandedOver, owner=owner, id=handed_id)


def remove(owner, handed_id: UUID) -> None:
    """With its files; what measures it gives up."""
    handed = get(owner, handed_id)
    names = [handed.file.name, *(one.picture.name for one in handed.measured.all())]
    read_back = handed.read_back
    handed.delete()
    for name in names:
        default_storage.delete(name)
    forget_pictures_of(read_back)


def forget_pictures_of(read_back: dict | None) -> None:
    """Those that were kept to measure what was read back, and that are nobody's."""
    if read_back:
        names = {name for _, name, _ in files_in(documents.read(documents.Material, read_back))}
        measured = HandedOver.objects.filter(state=State.MEASURING)
        library.let_go(names, lambda name: measured.filter(read_back__icontains=name).exists())


def take_in(owner, file) -> Material:
    """A new material of a file, with the report of what became of it. Raises Refused; nothing is kept then."""
    if file.size > LARGEST_IN:
        raise Refused(
            [Fault("file", "the file is too large", f"at most {LARGEST_IN // 1_000_000} MB", "Make it smaller.")]
        )
    with for_now(file.chunks()) as name:
        facts = facts_of(name, "handed")
        with files_of(name, "handed") as files, transaction.atomic():
            return _take_in(owner, file.name or "unnamed", facts, files)


def _take_in(owner, called: str, facts: dict, files: dict[str, Path]) -> Material:
    """called: the file that all was read of. facts, files: as `exchange.taking` read it."""
    for k, (expected, path) in enumerate(files.items()):
        kind = facts["kinds"].get(expected, "texture")
        with path.open("rb") as data:
            kept = library.put_in(owner, kind, File(data, name=f"{kind} {k + 1} of {called}"))
        if kept.sha256 != expected:
            raise Refused([Fault("file", "a file of it is not the one that it was read as", "", "Try it again.")])
    material = materials.create(owner, documents.read(documents.Material, facts["material"]))
    if facts["stage"]:
        _stand(owner, material, documents.read(documents.Stage, facts["stage"]))
    TakenIn.objects.create(material=material, file_name=made_plain(called)[:200], report=facts["report"])
    return material


def _stand(owner, material: Material, document: documents.Stage) -> None:
    """A new stage, on which the material stands."""
    check(owner, document)
    leave_room(owner, Stage)
    stage = Stage.objects.create(owner=owner, name=document.name, document=document.model_dump(mode="json"))
    Standing.objects.create(person=owner, material=material, stage=stage)


def taken_in(person, material_id: UUID) -> TakenIn | None:
    """Where a material was read of, if it was; else its newest revision that was kept in an older version, with what was changed for this one."""
    material = materials.get(person, material_id)
    return TakenIn.objects.filter(material=material).first() or _of_an_older_version(material)


def _of_an_older_version(material: Material) -> TakenIn | None:
    older = material.revisions.exclude(document__version=materials.NEWEST).first()
    if older is None:
        return None
    report = brought_up(older.document)[1].model_dump(mode="json")
    called = f"revision {older.number}, of an older version"
    return TakenIn(material=material, file_name=called, report=report, made_at=older.saved_at)
