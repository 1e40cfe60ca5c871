from datetime import datetime
from uuid import UUID

from library.api import FaultsOut, Owned
from library.checks import Outdated
from library.kept_pictures import address_of
from nineglass.documents import model as documents
from ninja import Router, Schema
from pydantic import Field

from materials import portraits, services
from materials.models import Proof

router = Router(tags=["materials"])


class MaterialLine(Owned):
    id: UUID
    name: str
    revision: int
    saved_at: datetime
    family: str
    made_of: list[str]
    """Words for it: its bands, substances and dyes."""
    likeness: str
    """The same for materials of the same matter, whatever they are called."""
    color: list[str]
    """Words for the colour of its picture."""
    tags: list[str]
    picture: str | None
    """None as long as it is not made."""
    is_current: bool
    """Whether the picture shows the newest revision."""

    @staticmethod
    def resolve_picture(material) -> str | None:
        return address_of(material.picture, f"/materials/{material.id}/picture.jpg")

    @staticmethod
    def resolve_is_current(material) -> bool:
        return material.pictured == material.revision


class MaterialOut(MaterialLine):
    document: documents.Material
    was_older: bool
    """Whether it is kept in an older version: the document was brought up as it was read."""

    @staticmethod
    def resolve_was_older(material) -> bool:
        return material.document.get("version") != services.NEWEST


class MaterialSaved(MaterialOut):
    is_merged: bool
    """Whether it is put together with what somebody else saved since: the document is another than the one that was sent."""


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
    both: list[str]
    """The parts that both changed, as far as that was found."""
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
    """Those on the shelf; pictures that are missing or not current begin to be made."""
    found = list(services.on_the_shelf(request.user))
    if any(one.pictured != one.revision for one in found):
        portraits.begin()
    return found


@router.get("put-away", response=list[MaterialLine])
def put_away(request):
    """Those that were put away and can still be brought back."""
    return services.put_away_lately(request.user)


@router.delete("{uuid:material_id}", response={204: None, 422: FaultsOut})
def remove(request, material_id: UUID):
    services.put_away(request.user, material_id)
    return 204, None


@router.post("{uuid:material_id}/bring-back", response={200: MaterialLine, 422: FaultsOut})
def bring_back(request, material_id: UUID):
    return 200, services.bring_back(request.user, material_id)


class TagsIn(Schema):
    tags: list[str] = Field(max_length=40)


@router.put("{uuid:material_id}/tags", response=MaterialLine)
def tag(request, material_id: UUID, payload: TagsIn):
    return services.tag(request.user, material_id, payload.tags)


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


@router.put("{uuid:material_id}", response={200: MaterialSaved, 409: Conflict, 422: FaultsOut})
def save(request, material_id: UUID, payload: MaterialSave):
    try:
        return 200, services.save(request.user, material_id, payload.based_on, payload.document)
    except Outdated as outdated:
        newest = outdated.newest
        says = f"This material was saved elsewhere: revision {newest.revision} is newer than yours, {payload.based_on}."
        return 409, {"says": says, "both": outdated.both, "newest": newest}


REVISIONS_AT_ONCE = 20


@router.get("{uuid:material_id}/revisions", response=list[RevisionOut])
def revisions(request, material_id: UUID, before: int | None = None):
    """The newest first, so many at once; before: the number of the oldest that is known already."""
    found = services.get(request.user, material_id).revisions.all()
    return (found if before is None else found.filter(number__lt=before))[:REVISIONS_AT_ONCE]


@router.get("{uuid:material_id}/proofs", response=list[ProofOut])
def proofs(request, material_id: UUID):
    return services.get(request.user, material_id).proofs.all()
