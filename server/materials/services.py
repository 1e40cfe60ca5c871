"""What can be done with materials. Every function takes the person; nobody reaches what is neither theirs nor shared with them."""

from datetime import timedelta
from uuid import UUID

from django.db import transaction
from django.db.models import Max
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.access import CHANGE, COMMENT, LOOK, OWN, held, reached
from library.checks import check, check_files, leave_room
from library.kept_pictures import keep_picture
from library.merging import with_theirs
from library.services import lend_to_all
from nineglass.describe import Fault, Refused
from nineglass.documents import model as documents
from nineglass.documents.as_the_skin import as_the_skin
from nineglass.documents.families import family_of, made_of
from nineglass.documents.likeness import likeness_of
from nineglass.documents.plain import made_plain

from materials.models import Material, Proof, Revision

NEWEST = documents.Material.model_fields["version"].default
"""The version in which materials are kept now."""

KEPT_AWAY = timedelta(days=30)
MOST_TAGS = 12


def shelved(document: documents.Material) -> dict:
    """What the shelf tells of a material beside its picture."""
    return {"family": family_of(document), "made_of": made_of(document), "likeness": likeness_of(document)}


def create(owner, document: documents.Material) -> Material:
    check(owner, document)
    _forget_old(owner)
    leave_room(owner, Material)
    about = {"name": document.name, "document": document.model_dump(mode="json"), **shelved(document)}
    with transaction.atomic():
        material = Material.objects.create(owner=owner, **about)
        Revision.objects.create(material=material, number=1, document=material.document)
    return material


def colored_as_the_skin(owner, strands: documents.Material, skin: documents.Material) -> documents.Material:
    """Raises Refused where there is no fibre, or nothing that colours the skin."""
    for document in (strands, skin):
        check(owner, document)
    made = as_the_skin(strands, skin)
    if made is None:
        allowed = "a material with a fibre, and a skin with a colour"
        raise Refused([Fault("skin", "there is no colour to take, or no fibre to give it to", allowed, "Add a band.")])
    return made


def get(person, material_id: UUID, needed: str = LOOK) -> Material:
    """A material that a person has or was shared with. Raises Refused when more is needed than they may."""
    return held(Material, person, material_id, needed)


def on_the_shelf(person):
    """A person's materials and those shared with them that are not put away."""
    return reached(Material, person).filter(deleted_at=None).select_related("owner").defer("document")


def put_away(owner, material_id: UUID) -> None:
    """Take a material off the shelf; it can be brought back for `KEPT_AWAY`. Raises Refused for the last one."""
    _forget_old(owner)
    with transaction.atomic():
        own = Material.objects.filter(owner=owner, deleted_at=None)
        there = set(own.select_for_update().values_list("id", flat=True))
        if get(owner, material_id, OWN).id in there and len(there) == 1:
            raise Refused([Fault("$", "this is the only material", "at least one", "Make another first.")])
        Material.objects.filter(owner=owner, id=material_id).update(deleted_at=timezone.now())


def _forget_old(owner) -> None:
    """What was put away for too long is gone."""
    Material.objects.filter(owner=owner, deleted_at__lt=timezone.now() - KEPT_AWAY).delete()


def put_away_lately(owner):
    return Material.objects.filter(owner=owner, deleted_at__gte=timezone.now() - KEPT_AWAY).defer("document")


def bring_back(owner, material_id: UUID) -> Material:
    leave_room(owner, Material)
    material = get_object_or_404(put_away_lately(owner), id=material_id)
    Material.objects.filter(id=material.id).update(deleted_at=None)
    return get(owner, material_id)


def tag(owner, material_id: UUID, tags: list[str]) -> Material:
    material = get(owner, material_id, OWN)
    words = dict.fromkeys(made_plain(word).strip().lower()[:40] for word in tags)
    Material.objects.filter(id=material.id).update(tags=[word for word in words if word][:MOST_TAGS])
    return get(owner, material_id)


def save(person, material_id: UUID, based_on: int, document: documents.Material) -> Material:
    """Save a new revision; a save since `based_on` by somebody else is merged with it where they touch different parts.

    Raises Outdated where they do not, and Refused.
    """
    check(person, document)
    with transaction.atomic():
        material = held(Material, person, material_id, CHANGE, lock=True)
        material.is_merged = material.revision != based_on
        if material.is_merged:
            document = with_theirs(material, based_on, document)
        if material.document == document.model_dump(mode="json"):
            return material
        material.revision += 1
        material.name, material.document = document.name, document.model_dump(mode="json")
        for field, value in shelved(document).items():
            setattr(material, field, value)
        material.save()
        lend_to_all(material, [document])
        Revision.objects.create(material=material, number=material.revision, document=material.document)
    return material


def keep_proof(person, material_id: UUID, document, stage, picture: bytes, samples: int, noise: float | None) -> Proof:
    """Keep a state with its picture (PNG); the picture is stored once by its content."""
    check_files(person, document, stage)
    name = keep_picture("proofs", picture)
    with transaction.atomic():
        material = held(Material, person, material_id, COMMENT, lock=True)
        lend_to_all(material, [document, stage])
        last = material.proofs.aggregate(last=Max("number"))["last"] or 0
        return Proof.objects.create(
            owner=material.owner,
            material=material,
            number=last + 1,
            document=document.model_dump(mode="json"),
            stage=stage.model_dump(mode="json"),
            picture=name,
            samples=samples,
            noise=noise,
        )
