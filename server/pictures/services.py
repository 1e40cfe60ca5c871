"""What can be done with final pictures. Every function takes the owner; nobody reaches what is not theirs."""

from uuid import UUID

from django.db import transaction
from django.db.models import Max, Min
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.checks import check, leave_room
from materials.models import Material
from nineglass.catalogue import CAMERAS
from nineglass.describe import Fault, Refused
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from nineglass.documents.lights import Gain, parts_of, relit
from nineglass.finals.plan import tiles_of

from pictures import tasks
from pictures.making import files_of, spent_s, throw_away
from pictures.models import FinalPicture, Piece

State = FinalPicture.State


def create(
    owner, material_id: UUID, material: documents.Material, stage: documents.Stage, final: Final
) -> FinalPicture:
    """Put a picture in the queue, of documents as they are now. Raises Refused."""
    check(owner, material)
    check(owner, stage)
    leave_room(owner, FinalPicture)
    kept = get_object_or_404(Material, owner=owner, id=material_id)
    parts = parts_of(material, stage, final.by_light)
    last = FinalPicture.objects.aggregate(last=Max("place"))["last"] or 0
    with transaction.atomic():
        picture = FinalPicture.objects.create(
            owner=owner,
            taken_from=kept,
            name=f"{material.name} on {stage.name}"[:120],
            material=material.model_dump(mode="json"),
            stage=stage.model_dump(mode="json"),
            final=final.model_dump(mode="json"),
            place=last + 1,
            resumed_at=timezone.now(),
            lights=[{"id": one.id, "name": one.name} for one in parts],
            exposure=(CAMERAS.kinds[stage.camera.kind].defaults() | stage.camera.dials)["exposure"],
        )
        tiles = range(len(tiles_of(final)))
        Piece.objects.bulk_create(Piece(picture=picture, light=k, tile=t) for k in range(len(parts)) for t in tiles)
    tasks.go_on_with(picture.id)
    return picture


def get(owner, picture_id: UUID) -> FinalPicture:
    return get_object_or_404(FinalPicture, owner=owner, id=picture_id)


def pause(owner, picture_id: UUID) -> FinalPicture:
    """Leave a picture as far as it is; chunks in hand are thrown away."""
    with transaction.atomic():
        picture = get_object_or_404(FinalPicture.objects.select_for_update(), owner=owner, id=picture_id)
        if picture.state == State.UNDER_WAY:
            picture.spent_s, picture.resumed_at, picture.state = spent_s(picture), None, State.PAUSED
            picture.save(update_fields=["spent_s", "resumed_at", "state"])
    tasks.put_in_order(owner)
    return picture


def go_on(owner, picture_id: UUID, noise: float | None, minutes: float | None, samples: int | None) -> FinalPicture:
    """Take a picture up again, also one that is done, with other limits. Raises Refused when it has come as far already."""
    with transaction.atomic():
        picture = get_object_or_404(FinalPicture.objects.select_for_update(), owner=owner, id=picture_id)
        given = picture.final | {"noise": noise, "minutes": minutes, "samples": samples}
        final = documents.read(Final, given)
        if final.samples and picture.pieces.aggregate(least=Min("samples"))["least"] >= final.samples:
            raise Refused([Fault("samples", "it has as many already", "more", "Ask for more.")])
        if picture.state != State.UNDER_WAY:
            picture.resumed_at = timezone.now()
        picture.state, picture.says, picture.looked_at = State.UNDER_WAY, "", None
        picture.final = final.model_dump(mode="json")
        picture.save()
    tasks.go_on_with(picture.id)
    return picture


def turn_lights(owner, picture_id: UUID, gains: dict[str, Gain]) -> FinalPicture:
    """Turn lights of a picture that was made light by light; what is handed out is made anew. Raises Refused."""
    picture = get(owner, picture_id)
    known = {one["id"] for one in picture.lights}
    if wrong := sorted(set(gains) - known):
        raise Refused([Fault(f"gains.{wrong[0]}", "there is no such light", ", ".join(sorted(known)), "Remove it.")])
    FinalPicture.objects.filter(id=picture.id).update(gains=gains)
    tasks.hand_out_anew(picture.id)
    return get(owner, picture_id)


def taken_over(owner, picture_id: UUID, material: documents.Material, stage: documents.Stage) -> tuple:
    """The material and stage with their lights as they were turned on a picture."""
    return relit(material, stage, {name: tuple(gain) for name, gain in get(owner, picture_id).gains.items()})


def put_first(owner, picture_id: UUID) -> FinalPicture:
    """Have a picture made before all others of the person."""
    picture = get(owner, picture_id)
    first = FinalPicture.objects.filter(owner=owner).aggregate(first=Min("place"))["first"]
    if picture.place > first:
        FinalPicture.objects.filter(id=picture.id).update(place=first - 1)
        tasks.put_in_order(owner)
    return get(owner, picture_id)


def remove(owner, picture_id: UUID) -> None:
    """Cancel a picture and throw away what was made of it."""
    with transaction.atomic():
        # Locked in the order in which everybody locks: the picture, its pieces, their chunks.
        picture = get_object_or_404(FinalPicture.objects.select_for_update(), owner=owner, id=picture_id)
        list(picture.pieces.select_for_update().order_by("id"))
        files = files_of(picture)
        picture.delete()
    throw_away(files)
    tasks.put_in_order(owner)
