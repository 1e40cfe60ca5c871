from datetime import datetime
from statistics import fmean
from uuid import UUID

from library.api import FaultsOut
from library.kept_pictures import address_of
from materials.api import MaterialOut
from nineglass.documents import model as documents
from nineglass.exchange.formats import LIGHTS, PICTURE_SIDES, Format, formats
from nineglass.exchange.report import Report
from ninja import File, Router, Schema
from ninja.files import UploadedFile

from handovers import services
from handovers.models import HandedOver, Measured

router = Router(tags=["handovers"])


class FormatOut(Schema):
    """A format that materials go over in."""

    name: str
    title: str
    ending: str
    help: str
    writes: bool

    @staticmethod
    def resolve_writes(one: Format) -> bool:
        return one.write is not None


class FormatsOut(Schema):
    """All formats, and how many pixels on a side the pictures may have that are written."""

    formats: list[FormatOut]
    sides: list[int]


class MeasuredOut(Schema):
    """How far apart the original and what was read back look on one stage: CIEDE2000."""

    stage: str
    delta_e: float
    worst: float
    noise: float
    picture: str

    @staticmethod
    def resolve_picture(one: Measured) -> str:
        return address_of(one.picture, f"/handovers/{one.handed_id}/{one.number}.png")


class HandedOut(Schema):
    """A material as it was handed over, with its report and what was measured of it so far."""

    id: UUID
    name: str
    material_id: UUID | None
    format: str
    made_at: datetime
    report: Report
    read_report: Report | None
    file: str
    file_name: str
    bytes: int
    state: str
    says: str
    measured: list[MeasuredOut]
    of_lights: int
    delta_e: float | None
    """The mean over the lights, when all are measured."""

    @staticmethod
    def resolve_material_id(handed: HandedOver) -> UUID | None:
        return handed.taken_from_id

    @staticmethod
    def resolve_file(handed: HandedOver) -> str:
        return f"/handovers/{handed.id}/file"

    @staticmethod
    def resolve_of_lights(handed: HandedOver) -> int:
        return len(LIGHTS)

    @staticmethod
    def resolve_delta_e(handed: HandedOver) -> float | None:
        found = [one.delta_e for one in handed.measured.all()]
        return fmean(found) if len(found) == len(LIGHTS) else None


class HandOverIn(Schema):
    material_id: UUID
    format: str
    side: int = 1024
    material: documents.Material
    stage: documents.Stage


class TakenInOut(Schema):
    """What became of a material that was read of a file."""

    file_name: str
    made_at: datetime
    report: Report


class TakenOut(Schema):
    material: MaterialOut
    taken_in: TakenInOut


@router.get("formats", response=FormatsOut)
def all_formats(request):
    return {"formats": list(formats().values()), "sides": PICTURE_SIDES}


@router.get("", response=list[HandedOut])
def handed_over(request):
    return services.of(request.user)


@router.post("", response={201: HandedOut, 422: FaultsOut})
def hand_over(request, payload: HandOverIn):
    about = (payload.material_id, payload.format, payload.side, payload.material, payload.stage)
    return 201, services.hand_over(request.user, *about)


@router.delete("{uuid:handed_id}", response={204: None})
def remove(request, handed_id: UUID):
    services.remove(request.user, handed_id)
    return 204, None


@router.post("in", response={201: TakenOut, 422: FaultsOut})
def take_in(request, file: File[UploadedFile]):
    material = services.take_in(request.user, file)
    return 201, {"material": material, "taken_in": material.taken_in}


@router.get("in/{uuid:material_id}", response=TakenInOut | None)
def taken_in(request, material_id: UUID):
    """Nothing where it was not read of a file."""
    return services.taken_in(request.user, material_id)
