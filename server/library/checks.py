"""What every document of a person is held against before it is kept."""

from collections.abc import Callable

from django.conf import settings
from django.db.models import Model
from nineglass.describe import Fault, FileKind, Refused
from nineglass.documents import model as documents
from nineglass.documents.put_in_files import faults_of_files, files_in
from nineglass.files import is_kept

from library.models import KeptFile


class Outdated(Exception):
    """A save was based on a revision that is not the newest."""

    def __init__(self, newest):
        self.newest = newest


def check(owner, document: documents.Document) -> None:
    """Raises Refused for what is wrong with a document, and for files in it that are not the person's."""
    if faults := documents.faults_of(document) or faults_of_files(files_in(document), files_of(owner)):
        raise Refused(faults)


def files_of(owner) -> Callable[[str, FileKind], bool]:
    """Whether a file is a person's, by its name and kind."""
    return lambda name, kind: is_kept(name) and KeptFile.objects.filter(owner=owner, sha256=name, kind=kind).exists()


def leave_room(owner, kept: type[Model]) -> None:
    """Raises Refused when a person has as many documents of a kind as one may have."""
    if kept.objects.filter(owner=owner).count() >= settings.MOST_DOCUMENTS:
        fault = f"there are {settings.MOST_DOCUMENTS} already"
        raise Refused([Fault("$", fault, f"at most {settings.MOST_DOCUMENTS}", "Remove some.")])
