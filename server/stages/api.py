from typing import Any
from uuid import UUID

from django.db import transaction
from library.access import OWN, held, reached
from library.api import FaultsOut, Owned
from library.checks import Outdated, check, leave_room
from library.kept_pictures import address_of
from materials import portraits
from materials.models import Material
from nineglass.documents import model as documents
from nineglass.documents.migrations import migrated
from ninja import Router, Schema

from stages import services
from stages.following import brought_up
from stages.models import Stage, Standing

router = Router(tags=["stages"])


class StageOut(Owned):
    id: UUID
    name: str
    revision: int
    document: documents.Stage


class StageLine(Owned):
    """A stage by its picture."""

    id: UUID
    name: str
    picture: str | None
    """None as long as it is not made."""
    is_current: bool
    """Whether the picture shows the newest revision."""

    @staticmethod
    def resolve_picture(stage) -> str | None:
        return address_of(stage.picture, f"/stages/{stage.id}/picture.jpg")

    @staticmethod
    def resolve_is_current(stage) -> bool:
        return stage.pictured == stage.revision


class StageSave(Schema):
    based_on: int
    document: documents.Stage


class RefusedOut(Schema):
    says: str


class StageSaved(StageOut):
    is_merged: bool
    """Whether it is put together with what somebody else saved since: the document is another than the one that was sent."""


class StageConflict(Schema):
    says: str
    newest: StageOut
    both: list[str]
    """The parts that both changed, as far as that was found."""


class DraftIn(Schema):
    """What a browser kept of a material and its stage before they were saved, of any version."""

    material: dict[str, Any]
    stage: dict[str, Any]


class DraftOut(Schema):
    material: documents.Material
    stage: documents.Stage
    report: list[str]


@router.post("draft", response={200: DraftOut, 422: FaultsOut})
def draft(request, payload: DraftIn):
    """The same in the newest versions, with what was changed."""
    report = [line for one in (payload.material, payload.stage) for line in migrated(one)[1]]
    material = documents.read(documents.Material, payload.material)
    return 200, {"material": material, "stage": documents.read(documents.Stage, payload.stage), "report": report}


@router.get("", response=list[StageOut])
def stages(request):
    return brought_up(list(reached(Stage, request.user).select_related("owner")), request.user)


@router.get("pictures", response=list[StageLine])
def pictures(request):
    """All by their pictures; those that are missing or not current begin to be made."""
    found = list(reached(Stage, request.user).select_related("owner").defer("document"))
    if any(one.pictured != one.revision for one in found):
        portraits.begin()
    return found


class StandingOut(Schema):
    """Which stage a material stood on last."""

    material_id: UUID
    stage_id: UUID


@router.get("standing", response=list[StandingOut])
def standing(request):
    return Standing.objects.filter(person=request.user)


@router.put("{uuid:stage_id}/standing/{uuid:material_id}", response={204: None})
def stand(request, stage_id: UUID, material_id: UUID):
    stage, material = held(Stage, request.user, stage_id), held(Material, request.user, material_id)
    Standing.objects.update_or_create(person=request.user, material=material, defaults={"stage": stage})
    return 204, None


class StageNew(Schema):
    document: documents.Stage


@router.post("", response={201: StageOut, 422: FaultsOut})
def create(request, payload: StageNew):
    check(request.user, payload.document)
    leave_room(request.user, Stage)
    document = payload.document.model_dump(mode="json")
    return 201, Stage.objects.create(owner=request.user, name=payload.document.name, document=document)


@router.delete("{uuid:stage_id}", response={204: None, 409: RefusedOut})
def remove(request, stage_id: UUID):
    held(Stage, request.user, stage_id, OWN)
    with transaction.atomic():
        stages = {stage.id: stage for stage in Stage.objects.select_for_update().filter(owner=request.user)}
        if len(stages) == 1:
            return 409, {"says": "This is the only stage; a material needs one. Copy it first."}
        stages[stage_id].delete()
    return 204, None


@router.get("{uuid:stage_id}", response=StageOut)
def stage(request, stage_id: UUID):
    return brought_up([held(Stage, request.user, stage_id)], request.user)[0]


@router.put("{uuid:stage_id}", response={200: StageSaved, 409: StageConflict, 422: FaultsOut})
def save(request, stage_id: UUID, payload: StageSave):
    try:
        return 200, services.save(request.user, stage_id, payload.based_on, payload.document)
    except Outdated as outdated:
        newest = outdated.newest
        says = f"This stage was saved elsewhere: revision {newest.revision} is newer."
        return 409, {"says": says, "newest": newest, "both": outdated.both}
