"""What can be done with final pictures. Every function takes the owner; nobody reaches what is not theirs."""

import itertools
from uuid import UUID

from django.db import transaction
from django.db.models import Max, Min
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.access import held
from library.checks import Outdated, check, leave_room
from materials.models import Material
from nineglass.describe import Fault, Refused
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from nineglass.documents.finish import Finish, read_finish
from nineglass.documents.lights import Gain, parts_of, relit
from nineglass.documents.motion import STRIP_SAMPLES, Motion, Series, check_motion
from nineglass.documents.trials import Trial, exposure_of
from nineglass.finals.plan import tiles_of

from pictures import making, room, tasks
from pictures.making import files_of, spent_s, throw_away
from pictures.models import FinalPicture, Frame, KeptFinish, Piece

State = FinalPicture.State


def create(
    owner,
    material_id: UUID,
    material: documents.Material,
    stage: documents.Stage,
    final: Final,
    series: Series | None = None,
) -> FinalPicture:
    """Put a picture in the queue, or a series, of documents as they are now. Raises Refused."""
    check(owner, material)
    check(owner, stage)
    if series:
        _check_series(owner, material, stage, final, series)
    leave_room(owner, FinalPicture)
    kept = held(Material, owner, material_id)
    if final.on_floor and stage.floor is None:
        raise Refused(
            [Fault("final.on_floor", "the stage has no floor", "false", "Give it a floor, or switch it off.")]
        )
    parts = parts_of(material, stage, final.by_light, final.on_floor)
    needs = room.needed(final, len(parts), series)
    room.leave_room_for(owner, needs)
    last = FinalPicture.objects.aggregate(last=Max("place"))["last"] or 0
    with transaction.atomic():
        picture = FinalPicture.objects.create(
            owner=owner,
            taken_from=kept,
            name=(series.name if isinstance(series, Trial) else f"{material.name} on {stage.name}")[:120],
            material=material.model_dump(mode="json"),
            stage=stage.model_dump(mode="json"),
            final=final.model_dump(mode="json"),
            series=series and series.model_dump(mode="json"),
            place=last + 1,
            resumed_at=timezone.now(),
            lights=[{"id": one.id, "name": one.name} for one in parts],
            exposure=exposure_of(stage),
            sums_bytes=needs,
        )
        frames = range(series.count if series else 1)
        places = itertools.product(frames, range(len(parts)), range(len(tiles_of(final))))
        Piece.objects.bulk_create(Piece(picture=picture, frame=f, light=k, tile=t) for f, k, t in places)
        if series:
            Frame.objects.bulk_create(
                Frame(picture=picture, number=f, look_at=_first_look(series, final, f)) for f in frames
            )
    tasks.go_on_with(picture.id)
    return picture


QUIET_TRIAL, TRIAL_SAMPLES = 0.03, 64
"""How far the pictures of a trial go that is made behind: twice as many samples as those on a bench."""


def queue_trial(owner, material_id: UUID, trial: Trial) -> FinalPicture:
    """Have a trial made behind; it is kept when it is done. Raises Refused."""
    from nineglass.trials.sheet import side_for

    side = side_for(trial)
    final = Final(width=side, height=side, noise=QUIET_TRIAL, samples=TRIAL_SAMPLES)
    return create(owner, material_id, trial.material, trial.stage, final, trial)


def _check_series(owner, material, stage, final: Final, series: Series) -> None:
    """Raises Refused."""
    for name in ("by_light", "on_floor"):
        if getattr(final, name):
            raise Refused([Fault(f"final.{name}", "this is made of one picture only", "false", "Switch it off.")])
    if final.minutes is not None or (final.noise is None and final.samples is None):
        fault, allowed = "each of several pictures ends by its own noise or samples", "a noise or samples, no minutes"
        raise Refused([Fault("final.minutes", fault, allowed, "Set a noise, and no minutes.")])
    if isinstance(series, Motion):
        check_motion(series, material, stage)
        return
    for number in range(series.count):
        for one in series.documents_at(number, material, stage):
            check(owner, one)


def _first_look(series: Series, final: Final, number: int) -> int:
    """Samples at which a frame is looked at first."""
    if isinstance(series, Motion) and number in series.strip():
        return min(STRIP_SAMPLES, final.samples or STRIP_SAMPLES)
    return final.samples or STRIP_SAMPLES


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


def take_up(owner, picture_id: UUID) -> FinalPicture:
    """Go on with a picture that is paused, or that failed, as far as it was to go."""
    with transaction.atomic():
        picture = get_object_or_404(FinalPicture.objects.select_for_update(), owner=owner, id=picture_id)
        if picture.state in (State.PAUSED, State.FAILED):
            picture.resumed_at, picture.state, picture.says = timezone.now(), State.UNDER_WAY, ""
            picture.save(update_fields=["resumed_at", "state", "says"])
            making.count_deaths_anew(picture)
    tasks.go_on_with(picture.id)
    return picture


def wear(owner, picture_id: UUID, finish_id: UUID | None) -> FinalPicture:
    """Put a finish on a picture, or take it off; what is handed out is made anew."""
    picture = get(owner, picture_id)
    FinalPicture.objects.filter(id=picture.id).update(finish=finish_id and finish(owner, finish_id))
    tasks.show_anew(picture.id)
    return get(owner, picture_id)


def finish(owner, finish_id: UUID) -> KeptFinish:
    return get_object_or_404(KeptFinish, owner=owner, id=finish_id)


def keep_finish(owner, given: Finish) -> KeptFinish:
    """Raises Refused."""
    leave_room(owner, KeptFinish)
    return KeptFinish.objects.create(owner=owner, document=read_finish(given).model_dump(mode="json"))


def change_finish(owner, finish_id: UUID, based_on: int, given: Finish) -> KeptFinish:
    """All pictures that wear it follow. Raises Refused, and Outdated when it was changed since `based_on`."""
    document = read_finish(given).model_dump(mode="json")
    with transaction.atomic():
        kept = get_object_or_404(KeptFinish.objects.select_for_update(), owner=owner, id=finish_id)
        if kept.revision != based_on:
            raise Outdated(kept)
        kept.document, kept.revision = document, kept.revision + 1
        kept.save(update_fields=["document", "revision"])
    for picture_id in kept.pictures.values_list("id", flat=True):
        tasks.show_anew(picture_id)
    return kept


def remove_finish(owner, finish_id: UUID) -> None:
    """Pictures that wore it have none."""
    kept = finish(owner, finish_id)
    wearing = list(kept.pictures.values_list("id", flat=True))
    kept.delete()
    for picture_id in wearing:
        tasks.show_anew(picture_id)


def go_on(owner, picture_id: UUID, noise: float | None, minutes: float | None, samples: int | None) -> FinalPicture:
    """Take a picture up again, also one that is done, with other limits. Raises Refused when it has come as far already."""
    with transaction.atomic():
        picture = get_object_or_404(FinalPicture.objects.select_for_update(), owner=owner, id=picture_id)
        given = picture.final | {"noise": noise, "minutes": minutes, "samples": samples}
        final = documents.read(Final, given)
        if picture.series:
            fault, allowed = "frames that are done are kept as they are", "pausing and taking it up"
            raise Refused([Fault("noise", fault, allowed, "Make another series of less noise.")])
        if final.samples and picture.pieces.aggregate(least=Min("samples"))["least"] >= final.samples:
            raise Refused([Fault("samples", "it has as many already", "more", "Ask for more.")])
        if picture.state != State.UNDER_WAY:
            picture.resumed_at = timezone.now()
        picture.state, picture.says, picture.looked_at = State.UNDER_WAY, "", None
        picture.final = final.model_dump(mode="json")
        picture.save()
        making.count_deaths_anew(picture)
    tasks.go_on_with(picture.id)
    return picture


def turn_lights(owner, picture_id: UUID, gains: dict[str, Gain]) -> FinalPicture:
    """Turn lights of a picture that was made light by light; what is handed out is made anew. Raises Refused."""
    picture = get(owner, picture_id)
    known = {one["id"] for one in making.lights_added(picture)}
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
