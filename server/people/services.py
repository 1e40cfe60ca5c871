"""What people can do together. Every function takes the person who asks; nobody reaches what is neither theirs nor shared with them."""

from datetime import timedelta
from uuid import UUID

from django.contrib.auth import get_user_model
from django.db.models import Count, F, Max, Q, QuerySet
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.access import COMMENT, LOOK, OWN, held
from library.services import lend
from materials import services as materials
from materials.models import Material, Proof
from nineglass.describe import Fault, Refused
from nineglass.documents import model as documents
from nineglass.documents.plain import made_plain
from nineglass.documents.trials import read_trial
from stages.models import Stage
from trials.models import Trial

from people.models import Comment, Presence, Share

MODELS = {"material": Material, "stage": Stage, "trial": Trial}
MOST_SHARES = 100
MOST_COMMENTS = 500
HERE_FOR = timedelta(seconds=14)
"""How long somebody is taken to be at a material after they were last seen there."""


def welcome(person) -> None:
    """What somebody who is new begins with: a material and a stage of their own."""
    begun = documents.plain_documents()
    materials.create(person, begun["material"])
    stage = begun["stage"]
    Stage.objects.create(owner=person, name=stage.name, document=stage.model_dump(mode="json"))


def everybody_else(person) -> QuerySet:
    """The persons of this installation."""
    return get_user_model().objects.filter(is_active=True).exclude(id=person.id).order_by("username")


def shares_of(person, kind: str, of: UUID) -> QuerySet:
    """Who has something; told to everybody who has it."""
    return held(MODELS[kind], person, of).shares.select_related("person", kind)


def given_by(person) -> QuerySet:
    """Everything that a person shares."""
    own = Q(material__owner=person) | Q(stage__owner=person) | Q(trial__owner=person)
    return Share.objects.filter(own).select_related("person", *MODELS)


def share(person, kind: str, of: UUID, name: str, may: str) -> Share:
    """Share something with somebody, or change what they may. Raises Refused."""
    thing = held(MODELS[kind], person, of, OWN)
    other = everybody_else(person).filter(username=made_plain(name).strip()).first()
    if other is None:
        raise Refused(
            [Fault("name", "there is nobody else of that name here", "a person of this installation", "Choose one.")]
        )
    if thing.shares.exclude(person=other).count() >= MOST_SHARES:
        raise Refused(
            [Fault("name", f"{MOST_SHARES} persons have it already", f"at most {MOST_SHARES}", "Take some off.")]
        )
    made, _ = Share.objects.update_or_create(person=other, **{kind: thing}, defaults={"may": may})
    lend(other.id, _documents(thing))
    return made


def _documents(thing) -> list[documents.Document]:
    """All documents of something, with those of its proofs: their files go with it."""
    if isinstance(thing, Stage):
        return [documents.read(documents.Stage, thing.document)]
    if isinstance(thing, Trial):
        trial = read_trial(thing.document)
        return [trial.material, trial.stage]
    proofs = thing.proofs.all()
    materials = [thing.document, *(one.document for one in proofs)]
    stages = [documents.read(documents.Stage, one.stage) for one in proofs]
    return [documents.read(documents.Material, one) for one in materials] + stages


def take_back(person, share_id: UUID) -> None:
    """Taken back by the owner, or left by the person who has it; what they made stays."""
    reached = Share.objects.filter(Q(person=person) | Q(id__in=given_by(person).values("id")))
    get_object_or_404(reached, id=share_id).delete()


def _proof(person, proof_id: UUID, needed: str) -> Proof:
    proof = get_object_or_404(Proof, id=proof_id)
    held(Material, person, proof.material_id, needed)
    return proof


def comments_of(person, material_id: UUID) -> QuerySet:
    """All that was said of the proofs of a material."""
    return Comment.objects.filter(proof__material=held(Material, person, material_id)).select_related("author", "proof")


def comment(person, proof_id: UUID, says: str, at: tuple[float, float] | None) -> Comment:
    """Raises Refused."""
    proof = _proof(person, proof_id, COMMENT)
    said = made_plain(says).strip()
    if not said:
        raise Refused([Fault("says", "nothing is said", "a few words", "Write something.")])
    if proof.comments.count() >= MOST_COMMENTS:
        raise Refused([Fault("$", f"there are {MOST_COMMENTS} already", f"at most {MOST_COMMENTS}", "Remove some.")])
    x, y = at or (None, None)
    return Comment.objects.create(proof=proof, author=person, says=said, x=x, y=y)


def take_comment_back(person, comment_id: UUID) -> None:
    """By whoever said it, or by the owner of the material."""
    reached = Comment.objects.filter(Q(author=person) | Q(proof__material__owner=person))
    found = get_object_or_404(reached, id=comment_id)
    held(Material, person, found.proof.material_id, LOOK)
    found.delete()


def be_here(person, material_id: UUID) -> tuple[list[str], int, str]:
    """Note that a person is at a material; gives (names of the others who are, the newest revision, `last_said`)."""
    material = held(Material, person, material_id)
    Presence.objects.update_or_create(material=material, person=person, defaults={"seen_at": timezone.now()})
    lately = Presence.objects.filter(material=material, seen_at__gt=timezone.now() - HERE_FOR).exclude(person=person)
    names = lately.order_by("person__username").values_list(F("person__username"), flat=True)
    return list(names), material.revision, last_said(material)


def last_said(material: Material) -> str:
    """A word that is another whenever something is said of a proof of a material, or taken back."""
    said = Comment.objects.filter(proof__material=material).aggregate(count=Count("id"), last=Max("made_at"))
    return f"{said['count']} {said['last'] or ''}"


def leave(person, material_id: UUID) -> None:
    Presence.objects.filter(person=person, material_id=material_id).delete()
