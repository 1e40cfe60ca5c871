"""What can be done with stages that has rules. Every function takes the person; nobody changes what is not theirs, or shared with them to change."""

from uuid import UUID

from django.db import transaction
from library.access import CHANGE, held
from library.checks import check
from library.merging import with_theirs
from library.services import lend_to_all
from nineglass.documents import model as documents

from stages.models import Stage

KEPT_REVISIONS = 40
"""Newest ones, on which a save elsewhere may still be based."""


def save(person, stage_id: UUID, based_on: int, document: documents.Stage) -> Stage:
    """Save a new revision; a save since `based_on` by somebody else is merged with it where they touch different parts.

    Raises Outdated where they do not, and Refused.
    """
    check(person, document)
    with transaction.atomic():
        stage = held(Stage, person, stage_id, CHANGE, lock=True)
        stage.is_merged = stage.revision != based_on
        if stage.is_merged:
            document = with_theirs(stage, based_on, document)
        stage.revisions.get_or_create(number=stage.revision, defaults={"document": stage.document})
        stage.revision += 1
        stage.name, stage.document = document.name, document.model_dump(mode="json")
        stage.save()
        stage.revisions.create(number=stage.revision, document=stage.document)
        stage.revisions.filter(number__lte=stage.revision - KEPT_REVISIONS).delete()
        lend_to_all(stage, [document])
    return stage
