from datetime import datetime
from typing import Annotated
from uuid import UUID

from library.api import FaultsOut
from library.kept_pictures import address_of
from nineglass.documents import model as documents
from nineglass.documents.final import Final
from nineglass.documents.lights import Gain
from ninja import Router, Schema
from pydantic import Field

from pictures import making, services
from pictures.models import FinalPicture

router = Router(tags=["pictures"])


class LightOut(Schema):
    id: str
    name: str


class FinalOut(Schema):
    """A final picture: what it is of, how far it is, and its files when it is done."""

    id: UUID
    name: str
    material_id: UUID | None
    made_at: datetime
    final: Final
    state: str
    says: str
    samples: float
    """Of a pixel, in the middle."""
    noise: float | None
    spent_s: float
    left_s: float | None
    lights: list[LightOut]
    gains: dict[str, Gain]
    turns: bool
    """Whether its lights can be turned."""
    preview: str | None
    exr: str | None
    png: str | None

    @staticmethod
    def resolve_material_id(picture: FinalPicture) -> UUID | None:
        return picture.taken_from_id

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


class GoOnIn(Schema):
    """How far it is to go now; whatever is met first ends it."""

    noise: float | None = None
    minutes: float | None = None
    samples: int | None = None


@router.get("", response=list[FinalOut])
def finals(request):
    return FinalPicture.objects.filter(owner=request.user).prefetch_related("pieces")


@router.post("", response={201: FinalOut, 422: FaultsOut})
def create(request, payload: FinalIn):
    about = (payload.material_id, payload.material, payload.stage, payload.final)
    return 201, services.create(request.user, *about)


@router.post("{uuid:picture_id}/pause", response=FinalOut)
def pause(request, picture_id: UUID):
    return services.pause(request.user, picture_id)


@router.post("{uuid:picture_id}/go-on", response={200: FinalOut, 422: FaultsOut})
def go_on(request, picture_id: UUID, payload: GoOnIn):
    return 200, services.go_on(request.user, picture_id, payload.noise, payload.minutes, payload.samples)


@router.post("{uuid:picture_id}/first", response=FinalOut)
def put_first(request, picture_id: UUID):
    return services.put_first(request.user, picture_id)


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
