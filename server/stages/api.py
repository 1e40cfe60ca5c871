from uuid import UUID

from django.db import transaction
from django.shortcuts import get_object_or_404
from materials.api import FaultsOut
from materials.models import Material
from materials.services import check
from nineglass.documents import model as documents
from ninja import Router, Schema

from stages.models import Stage, Standing

router = Router(tags=["stages"])


class StageOut(Schema):
    id: UUID
    name: str
    revision: int
    document: documents.Stage


class StageSave(Schema):
    based_on: int
    document: documents.Stage


class RefusedOut(Schema):
    says: str


class StageConflict(Schema):
    says: str
    newest: StageOut


@router.get("", response=list[StageOut])
def stages(request):
    return Stage.objects.filter(owner=request.user)


class StandingOut(Schema):
    """Which stage a material stood on last."""

    material_id: UUID
    stage_id: UUID


@router.get("standing", response=list[StandingOut])
def standing(request):
    return Standing.objects.filter(material__owner=request.user)


@router.put("{uuid:stage_id}/standing/{uuid:material_id}", response={204: None})
def stand(request, stage_id: UUID, material_id: UUID):
    stage = get_object_or_404(Stage, owner=request.user, id=stage_id)
    material = get_object_or_404(Material, owner=request.user, id=material_id)
    Standing.objects.update_or_create(material=material, defaults={"stage": stage})
    return 204, None


class StageNew(Schema):
    document: documents.Stage


@router.post("", response={201: StageOut, 422: FaultsOut})
def create(request, payload: StageNew):
    check(payload.document)
    document = payload.document.model_dump(mode="json")
    return 201, Stage.objects.create(owner=request.user, name=payload.document.name, document=document)


@router.delete("{uuid:stage_id}", response={204: None, 409: RefusedOut})
def remove(request, stage_id: UUID):
    stage = get_object_or_404(Stage, owner=request.user, id=stage_id)
    if Stage.objects.filter(owner=request.user).count() == 1:
        return 409, {"says": "This is the only stage; a material needs one. Copy it first."}
    stage.delete()
    return 204, None


@router.get("{uuid:stage_id}", response=StageOut)
def stage(request, stage_id: UUID):
    return get_object_or_404(Stage, owner=request.user, id=stage_id)


@router.put("{uuid:stage_id}", response={200: StageOut, 409: StageConflict, 422: FaultsOut})
def save(request, stage_id: UUID, payload: StageSave):
    check(payload.document)
    with transaction.atomic():
        kept = get_object_or_404(Stage.objects.select_for_update(), owner=request.user, id=stage_id)
        if kept.revision != payload.based_on:
            return 409, {"says": f"This stage was saved elsewhere: revision {kept.revision} is newer.", "newest": kept}
        kept.revision += 1
        kept.name, kept.document = payload.document.name, payload.document.model_dump(mode="json")
        kept.save()
    return 200, kept
