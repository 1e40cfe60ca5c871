"""Saves of one thing by several people, or from several tabs: what both did is put together where they touched different parts."""

from nineglass.documents.merge import merged
from nineglass.documents.model import Document, faults_of, read

from library.checks import Outdated


def with_theirs(kept, based_on: int, mine: Document) -> Document:
    """What was saved since a revision, and what is saved now, in one. kept: a row with its newest document, and `revisions`.

    Raises Outdated with the parts that both changed.
    """
    kind = type(mine)
    base = kept.revisions.filter(number=based_on).first()
    if base is None:
        raise Outdated(kept)
    theirs, began = (read(kind, one.document).model_dump(mode="json") for one in (kept, base))
    found = merged(began, theirs, mine.model_dump(mode="json"))
    if found.document is None:
        raise Outdated(kept, found.both)
    both = kind.model_validate(found.document)
    if faults_of(both):
        raise Outdated(kept)
    return both
