from datetime import datetime
from uuid import UUID

from library.api import FaultsOut
from library.checks import Outdated
from nineglass.documents import model as documents
from ninja import Router, Schema

from materials import services
from materials.models import Material, Proof

router = Router(tags=["materials"])


class MaterialLine(Schema):
    id: UUID
    name: str
    revision: int
    saved_at: datetime


class MaterialOut(MaterialLine):
    document: documents.Material


class MaterialIn(Schema):
    document: documents.Material


class AsTheSkin(Schema):
    strands: documents.Material
    skin: documents.Material


class MaterialSave(Schema):
    based_on: int
    document: documents.Material


class Conflict(Schema):
    """A save on an outdated revision: what is there now. Nothing of either side is lost."""

    says: str
    newest: MaterialOut


class RevisionOut(Schema):
    number: int
    saved_at: datetime
    document: documents.Material


class ProofOut(Schema):
    id: UUID
    number: int
    samples: int
    noise: float | None
    made_at: datetime
    picture: str
    document: documents.Material
    stage: documents.Stage

    @staticmethod
    def resolve_picture(proof: Proof) -> str:
        return f"/proofs/{proof.id}/picture.png"


@router.get("", response=list[MaterialLine])
def materials(request):
    return Material.objects.filter(owner=request.user)


@router.post("", response={201: MaterialOut, 422: FaultsOut})
def create(request, payload: MaterialIn):
    return 201, services.create(request.user, payload.document)


@router.post("as-the-skin", response={200: MaterialIn, 422: FaultsOut})
def color_as_the_skin(request, payload: AsTheSkin):
    """The material of strands, coloured as the skin that they grow on."""
    return 200, {"document": services.colored_as_the_skin(request.user, payload.strands, payload.skin)}


@router.get("{uuid:material_id}", response=MaterialOut)
def material(request, material_id: UUID):
    return services.get(request.user, material_id)


@router.put("{uuid:material_id}", response={200: MaterialOut, 409: Conflict, 422: FaultsOut})
def save(request, material_id: UUID, payload: MaterialSave):
    try:
        return 200, services.save(request.user, material_id, payload.based_on, payload.document)
    except Outdated as outdated:
        newest = outdated.newest
        says = f"This material was saved elsewhere: revision {newest.revision} is newer than yours, {payload.based_on}."
        return 409, {"says": says, "newest": newest}


@router.get("{uuid:material_id}/revisions", response=list[RevisionOut])
def revisions(request, material_id: UUID):
    return services.get(request.user, material_id).revisions.all()


@router.get("{uuid:material_id}/proofs", response=list[ProofOut])
def proofs(request, material_id: UUID):
    return services.get(request.user, material_id).proofs.all()
