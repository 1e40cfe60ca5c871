"""What every document of a person is held against before it is kept."""

import re
from collections.abc import Callable

from django.conf import settings
from django.db.models import Model
from nineglass.describe import Fault, FileKind, Refused
from nineglass.documents import model as documents
from nineglass.documents.put_in_files import faults_of_files, files_in
from nineglass.files import is_kept

from library.models import KeptFile, Quota


class Outdated(Exception):
    """A save was based on a revision that is not the newest; both: the parts that both changed, as far as that was found."""

    def __init__(self, newest, both: list[str] | None = None):
        self.newest, self.both = newest, both or []


def check(owner, document: documents.Document) -> None:
    """Raises Refused for what is wrong with a document, and for files in it that are not the person's."""
    if faults := documents.faults_of(document) or faults_of_files(files_in(document), files_of(owner)):
        raise Refused(faults)


def check_files(owner, *named: documents.Document) -> None:
    """Raises Refused for files in checked documents that are not the person's."""
    mine = files_of(owner)
    if faults := [fault for document in named for fault in faults_of_files(files_in(document), mine)]:
        raise Refused(faults)


FILE_NAME = re.compile("[0-9a-f]{64}")


def named_like_files(given) -> set[str]:
    """Whatever in a JSON value is named like a file that was put in, wherever it stands."""
    waiting, found = [given], set()
    while waiting:
        one = waiting.pop()
        if isinstance(one, str):
            found.update(FILE_NAME.findall(one))
        elif isinstance(one, list):
            waiting.extend(one)
        elif isinstance(one, dict):
            waiting.extend(one)
            waiting.extend(one.values())
    return found


def files_of(owner) -> Callable[[str, FileKind], bool]:
    """Whether a file is a person's, by its name and kind."""
    return lambda name, kind: is_kept(name) and KeptFile.objects.filter(owner=owner, sha256=name, kind=kind).exists()


def leave_room(owner, kept: type[Model]) -> None:
    """Raises Refused when a person has as many documents of a kind as one may have."""
    most = quota_of(owner.pk).documents
    if kept.objects.filter(owner=owner).count() >= most:
        raise Refused([Fault("$", f"there are {most} already", f"at most {most}", "Remove some.")])


def quota_of(owner_id) -> Quota:
    """What a person may keep: their own share, or that of everybody."""
    own = Quota.objects.filter(owner_id=owner_id).first()
    return own or Quota(owner_id=owner_id, documents=settings.MOST_DOCUMENTS, file_mb=settings.MOST_FILE_MB)
