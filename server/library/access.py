"""Who may do what with something of a person's: its owner everything, others what was shared with them."""

from uuid import UUID

from django.db.models import Case, F, FilteredRelation, Model, Q, QuerySet, Value, When
from django.shortcuts import get_object_or_404
from nineglass.describe import Fault, Refused

LOOK, COMMENT, CHANGE, OWN = "look", "comment", "change", "own"
MAY = (LOOK, COMMENT, CHANGE, OWN)
"""Each includes those before it."""

WORDS = {LOOK: "look at", COMMENT: "look at and comment", CHANGE: "change", OWN: "do everything with"}


def includes(may: str, needed: str) -> bool:
    return MAY.index(may) >= MAY.index(needed)


def reached(kept: type[Model], person) -> QuerySet:
    """What a person has or was shared with, each with `may`. The model has an owner, and shares."""
    shared = FilteredRelation("shares", condition=Q(shares__person=person))
    may = Case(When(owner=person, then=Value(OWN)), default=F("shared__may"))
    return kept.objects.annotate(shared=shared).annotate(may=may).filter(may__isnull=False)


def held(kept: type[Model], person, kept_id: UUID, needed: str = LOOK, lock: bool = False):
    """One of them; 404 where it is not even to be seen. Raises Refused when more is needed than the person may."""
    found = reached(kept, person).select_related("owner")
    found = get_object_or_404(found.select_for_update(of=("self",)) if lock else found, id=kept_id)
    if not includes(found.may, needed):
        says = f"it is {found.owner.get_username()}'s, and you may {WORDS[found.may]} it"
        raise Refused([Fault("$", says, f"somebody who may {WORDS[needed]} it", "Ask for it, or keep a copy.")])
    return found
