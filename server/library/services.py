"""What can be done with what is kept for all materials. Every function takes the owner; nobody reaches what is not theirs."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from uuid import UUID

from django.conf import settings
from django.core.files import File
from django.db import connection, transaction
from django.db.models import Sum
from django.shortcuts import get_object_or_404
from nineglass.describe import Fault, FileKind, Refused
from nineglass.documents.model import Document, Material, ModuleFile
from nineglass.documents.plain import made_plain
from nineglass.documents.put_in_files import files_in
from nineglass.files import adopt, for_now, forget
from nineglass.put_in import facts_of

from library.checks import Outdated, check, leave_room, quota_of
from library.models import KeptFile, KeptModule, KeptPreset, KeptSwatch


def room_for(owner_id) -> int:
    """How many bytes of files a person may still put in; 0 when there are too many files."""
    files = KeptFile.objects.filter(owner_id=owner_id, is_lent=False)
    if files.count() >= settings.MOST_FILES:
        return 0
    return max(0, quota_of(owner_id).file_bytes - (files.aggregate(all=Sum("bytes"))["all"] or 0))


def own_files(owner, names: set[str]) -> set[str]:
    """Those of some files that are a person's."""
    return set(KeptFile.objects.filter(owner=owner, sha256__in=names).values_list("sha256", flat=True))


def lend(person_id, named: list[Document]) -> None:
    """Files that documents name become files of a person as well; their bytes are kept once, and take none of the person's room."""
    names = {(name, kind) for document in named for _, name, kind in files_in(document)}
    for name, kind in names:
        kept = KeptFile.objects.filter(sha256=name, kind=kind).first()
        if kept:
            about = {"name": kept.name, "bytes": kept.bytes, "facts": kept.facts, "is_lent": True}
            KeptFile.objects.get_or_create(owner_id=person_id, sha256=name, kind=kind, defaults=about)


def lend_to_all(thing, named: list[Document]) -> None:
    """Files that documents name become files of everybody who has something, whoever put them in. thing: has an owner, and shares."""
    for person_id in {thing.owner_id, *thing.shares.values_list("person_id", flat=True)}:
        lend(person_id, named)


def put_in(owner, kind: FileKind, file: File) -> KeptFile:
    """Keep a file after it was read within limits; raises Refused."""
    if file.size > room_for(owner.pk):
        allowed = f"{quota_of(owner.pk).file_mb} MB in {settings.MOST_FILES} files"
        raise Refused([Fault("file", "there is no room left for it", allowed, "Ask for more room.")])
    try:
        with for_now(file.chunks()) as coming:
            facts = facts_of(coming, kind)
            about = {"name": made_plain(file.name or "unnamed")[:200], "bytes": file.size, "facts": facts}
            with alone_with_files():
                told = {"owner": owner, "sha256": adopt(coming), "kind": kind}
                return KeptFile.objects.update_or_create(**told, defaults=about | {"is_lent": False})[0]
    except OSError as error:
        raise Refused([Fault("file", f"it could not be stored ({error.strerror})", "", "Try again later.")]) from error


@contextmanager
def alone_with_files() -> Iterator[None]:
    """A transaction in which nobody else keeps or lets go of files: whether one is held stays true until it ends."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(hashtext('kept files'))")
        yield


def let_go(names: set[str], held: Callable[[str], bool]) -> None:
    """Remove files that were kept without a row, where nobody holds them. held: whether one is still used by what has no row for it."""
    with alone_with_files():
        rows = KeptFile.objects.filter(sha256__in=names).values_list("sha256", flat=True)
        for name in names - set(rows):
            if not held(name):
                forget(name)


def keep_module(owner, document: ModuleFile) -> KeptModule:
    check(owner, document)
    leave_room(owner, KeptModule)
    about = {"name": document.modules[0].name, "document": document.model_dump(mode="json")}
    return KeptModule.objects.create(owner=owner, **about)


def change_module(owner, module_id: UUID, based_on: int, document: ModuleFile) -> KeptModule:
    """A new revision of a kept module; raises Outdated when it was changed since `based_on`."""
    check(owner, document)
    with transaction.atomic():
        kept = get_object_or_404(KeptModule.objects.select_for_update(), owner=owner, id=module_id)
        if kept.revision != based_on:
            raise Outdated(kept)
        kept.revision += 1
        kept.name, kept.document = document.modules[0].name, document.model_dump(mode="json")
        kept.save()
    return kept


def remove_module(owner, module_id: UUID) -> None:
    get_object_or_404(KeptModule, owner=owner, id=module_id).delete()


def keep_preset(owner, document: Material, is_whole: bool) -> KeptPreset:
    """Keep a section, or its one band with what drives it; the document's name is that of the preset."""
    check(owner, document)
    if not is_whole and len(document.section.bands) != 1:
        raise Refused([Fault("document.section.bands", "a preset of a band has one band", "one", "Keep the section.")])
    leave_room(owner, KeptPreset)
    about = {"name": document.name, "is_whole": is_whole, "document": document.model_dump(mode="json")}
    return KeptPreset.objects.create(owner=owner, **about)


def remove_preset(owner, preset_id: UUID) -> None:
    get_object_or_404(KeptPreset, owner=owner, id=preset_id).delete()


def keep_swatch(owner, name: str, color: list[float]) -> KeptSwatch:
    leave_room(owner, KeptSwatch)
    return KeptSwatch.objects.create(owner=owner, name=made_plain(name).strip() or "unnamed", color=color)


def remove_swatch(owner, swatch_id: UUID) -> None:
    get_object_or_404(KeptSwatch, owner=owner, id=swatch_id).delete()
