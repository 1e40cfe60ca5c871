from datetime import datetime
from typing import Annotated
from uuid import UUID

from library.api import FaultsOut
from library.checks import Outdated
from library.kept_pictures import address_of
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from nineglass.documents.finish import Finish
from nineglass.documents.lights import Gain
from nineglass.documents.motion import Motion
from nineglass.documents.trials import Trial
from ninja import Router, Schema
from pydantic import Field

from pictures import making, services, views
from pictures.models import FinalPicture, Frame, KeptFinish

router = Router(tags=["pictures"])


class LightOut(Schema):
    id: str
    name: str


class FrameOut(Schema):
    """One picture of a series."""

    number: int
    noise: float | None
    is_done: bool
    preview: str | None

    @staticmethod
    def resolve_preview(frame: Frame) -> str | None:
        return address_of(frame.preview, f"/pictures/{frame.picture_id}/frames/{frame.number}.jpg")


class TrialShape(Schema):
    """How the pictures of a trial lie."""

    rows: int
    columns: int


class FinalOut(Schema):
    """A final picture or a series: what it is of, how far it is, and its files when it is done."""

    id: UUID
    name: str
    material_id: UUID | None
    made_at: datetime
    final: Final
    motion: Motion | None
    """What moves, where it is a series of frames."""
    trial: TrialShape | None
    """Where its pictures are those of a trial."""
    frames_done: int
    finish_id: UUID | None
    state: str
    says: str
    samples: float
    """Of a pixel, in the middle."""
    noise: float | None
    cut: list[float]
    spent_s: float
    left_s: float | None
    lights: list[LightOut]
    gains: dict[str, Gain]
    turns: bool
    """Whether its lights can be turned."""
    preview: str | None
    exr: str | None
    png: str | None
    video: str | None
    archives: dict[str, str]
    """Where all frames that are done are in one file, by how their own files end; none as long as none is."""

    @staticmethod
    def resolve_motion(picture: FinalPicture) -> Motion | None:
        series = making.series_of(picture)
        return series if isinstance(series, Motion) else None

    @staticmethod
    def resolve_trial(picture: FinalPicture) -> TrialShape | None:
        series = making.series_of(picture)
        return TrialShape(rows=series.rows, columns=series.columns) if isinstance(series, Trial) else None

    @staticmethod
    def resolve_frames_done(picture: FinalPicture) -> int:
        return sum(frame.is_done for frame in picture.frames.all())

    @staticmethod
    def resolve_video(picture: FinalPicture) -> str | None:
        return address_of(picture.video, f"/pictures/{picture.id}/motion.webm")

    @staticmethod
    def resolve_archives(picture: FinalPicture) -> dict[str, str]:
        is_there = any(frame.is_done for frame in picture.frames.all())
        return {ending: f"/pictures/{picture.id}/frames-{ending}.zip" for ending in views.FRAME_FILES if is_there}

    @staticmethod
    def resolve_material_id(picture: FinalPicture) -> UUID | None:
        return picture.taken_from_id

    @staticmethod
    def resolve_lights(picture: FinalPicture) -> list[dict]:
        return making.lights_added(picture)

    @staticmethod
    def resolve_samples(picture: FinalPicture) -> float:
        return making.samples_of(picture)

    @staticmethod
    def resolve_spent_s(picture: FinalPicture) -> float:
        return making.spent_s(picture)

    @staticmethod
    def resolve_left_s(picture: FinalPicture) -> float | None:
        return making.time_left_s(picture) if picture.state == services.State.UNDER_WAY else None

    @staticmethod
    def resolve_turns(picture: FinalPicture) -> bool:
        return bool(picture.by_light.name)

    @staticmethod
    def resolve_preview(picture: FinalPicture) -> str | None:
        return address_of(picture.preview, f"/pictures/{picture.id}/preview.jpg")

    @staticmethod
    def resolve_exr(picture: FinalPicture) -> str | None:
        return f"/pictures/{picture.id}/final.exr" if picture.exr.name else None

    @staticmethod
    def resolve_png(picture: FinalPicture) -> str | None:
        return f"/pictures/{picture.id}/final.png" if picture.png.name else None


class FinalIn(Schema):
    material_id: UUID
    material: documents.Material
    stage: documents.Stage
    final: Final
    motion: Motion | None = None
    """Frames of it, in place of one picture."""


class GoOnIn(Schema):
    """How far it is to go now; whatever is met first ends it."""

    noise: float | None = None
    minutes: float | None = None
    samples: int | None = None


@router.get("", response=list[FinalOut])
def finals(request):
    return FinalPicture.objects.filter(owner=request.user).prefetch_related("pieces", "frames")


@router.post("", response={201: FinalOut, 422: FaultsOut})
def create(request, payload: FinalIn):
    about = (payload.material_id, payload.material, payload.stage, payload.final, payload.motion)
    return 201, services.create(request.user, *about)


class TrialIn(Schema):
    material_id: UUID
    trial: Trial


@router.post("trials", response={201: FinalOut, 422: FaultsOut})
def queue_trial(request, payload: TrialIn):
    """Have a trial made behind; it is kept when it is done."""
    return 201, services.queue_trial(request.user, payload.material_id, payload.trial)


@router.post("{uuid:picture_id}/pause", response=FinalOut)
def pause(request, picture_id: UUID):
    return services.pause(request.user, picture_id)


@router.post("{uuid:picture_id}/go-on", response={200: FinalOut, 422: FaultsOut})
def go_on(request, picture_id: UUID, payload: GoOnIn):
    return 200, services.go_on(request.user, picture_id, payload.noise, payload.minutes, payload.samples)


@router.post("{uuid:picture_id}/first", response=FinalOut)
def put_first(request, picture_id: UUID):
    return services.put_first(request.user, picture_id)


@router.post("{uuid:picture_id}/take-up", response=FinalOut)
def take_up(request, picture_id: UUID):
    """Go on with what was paused, as far as it was to go."""
    return services.take_up(request.user, picture_id)


@router.get("{uuid:picture_id}/frames", response=list[FrameOut])
def frames(request, picture_id: UUID):
    """The pictures of a series, in their order."""
    return services.get(request.user, picture_id).frames.all()


class FinishOut(Schema):
    id: UUID
    revision: int
    document: Finish


class FinishSave(Schema):
    based_on: int
    document: Finish


class FinishConflict(Schema):
    says: str
    newest: FinishOut


class WearIn(Schema):
    finish_id: UUID | None


@router.post("{uuid:picture_id}/finish", response=FinalOut)
def wear(request, picture_id: UUID, payload: WearIn):
    """Put a finish on a picture, or take it off."""
    return services.wear(request.user, picture_id, payload.finish_id)


@router.get("finishes", response=list[FinishOut])
def finishes(request):
    return KeptFinish.objects.filter(owner=request.user)


@router.post("finishes", response={201: FinishOut, 422: FaultsOut})
def keep_finish(request, payload: Finish):
    return 201, services.keep_finish(request.user, payload)


@router.put("finishes/{uuid:finish_id}", response={200: FinishOut, 409: FinishConflict, 422: FaultsOut})
def change_finish(request, finish_id: UUID, payload: FinishSave):
    """All pictures that wear it follow."""
    try:
        return 200, services.change_finish(request.user, finish_id, payload.based_on, payload.document)
    except Outdated as outdated:
        return 409, {"says": "This finish was changed elsewhere; it is shown as it is now.", "newest": outdated.newest}


@router.delete("finishes/{uuid:finish_id}", response={204: None})
def remove_finish(request, finish_id: UUID):
    services.remove_finish(request.user, finish_id)
    return 204, None


Factor = Annotated[float, Field(ge=0, le=1e6)]


class GainsIn(Schema):
    """By how much each light is stronger, by its id, in linear Rec.709."""

    gains: dict[str, tuple[Factor, Factor, Factor]] = Field(max_length=16)


@router.post("{uuid:picture_id}/lights", response={200: FinalOut, 422: FaultsOut})
def turn_lights(request, picture_id: UUID, payload: GainsIn):
    """Keep lights as they are turned; the files of a picture that is done are made anew."""
    return 200, services.turn_lights(request.user, picture_id, payload.gains)


class BothDocuments(Schema):
    material: documents.Material
    stage: documents.Stage


@router.post("{uuid:picture_id}/taken-over", response={200: BothDocuments, 422: FaultsOut})
def take_over(request, picture_id: UUID, payload: BothDocuments):
    """A material and its stage, lit as the picture is turned now."""
    material, stage = services.taken_over(request.user, picture_id, payload.material, payload.stage)
    return 200, {"material": material, "stage": stage}


@router.delete("{uuid:picture_id}", response={204: None})
def remove(request, picture_id: UUID):
    services.remove(request.user, picture_id)
    return 204, None
