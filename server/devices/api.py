from datetime import datetime
from typing import Any
from uuid import UUID

from library.api import FaultsOut
from library.checks import check
from nineglass.documents.absorbing import BAND, absorbing, dyed
from nineglass.documents.model import Material, Stage
from ninja import Query, Router, Schema
from pydantic import Field

from devices import services
from devices.models import Scan

router = Router(tags=["devices"])

Dials = dict[str, float | bool | str]


class ScanOut(services.Read):
    """One run of a device, as far as it is."""

    id: UUID
    device: str
    dials: Dials
    began_at: datetime


class ScanIn(Schema):
    device: str
    dials: Dials = {}


class LightIn(Schema):
    stage: Stage
    dials: Dials = {}


class ComparedIn(Schema):
    """Scans to hold against each other."""

    of: list[UUID] = Field(min_length=1)
    for_1_cm: bool = False


class ScanCurve(Schema):
    label: str
    values: list[float | None]
    """None where it has not read."""


class ComparedOut(Schema):
    """Scans over the same places (nm)."""

    places: list[float]
    curves: list[ScanCurve]
    says: str


class DialsOut(Schema):
    """What a band takes over of a scan."""

    band: str = BAND
    """Its kind."""
    dials: dict[str, Any]


def _out(scan: Scan) -> dict:
    about = {name: getattr(scan, name) for name in ("id", "device", "dials", "began_at")}
    return about | services.of(scan).model_dump()


@router.get("scans", response=list[ScanOut])
def scans(request):
    return [_out(scan) for scan in services.scans(request.user)]


@router.post("scans", response={201: ScanOut, 422: FaultsOut})
def begin(request, payload: ScanIn):
    return 201, _out(services.begin(request.user, payload.device, payload.dials))


@router.get("scans/compared", response=ComparedOut)
def compared(request, asked: Query[ComparedIn]):
    return services.compared(request.user, asked.of, asked.for_1_cm)


@router.post("light", response={200: services.LightRead, 422: FaultsOut})
def read_light(request, payload: LightIn):
    """What a light meter shows at a place of a stage: nothing is kept."""
    return 200, services.read_light(request.user, payload.stage, payload.dials)


@router.post("scans/{uuid:scan_id}/stop", response=ScanOut)
def stop(request, scan_id: UUID):
    return _out(services.stop(request.user, scan_id))


@router.get("scans/{uuid:scan_id}/dials", response={200: DialsOut, 422: FaultsOut})
def dials(request, scan_id: UUID):
    """The dials of an interior that absorbs as was read."""
    scan = services.get(request.user, scan_id)
    return 200, {"dials": absorbing(services.curve_of(scan), services.of(scan).length_cm)}


@router.post("scans/{uuid:scan_id}/dye", response={200: DialsOut, 422: FaultsOut})
def dye(request, scan_id: UUID, payload: Material):
    """The dials of an interior of a material in which what was read is one more dye."""
    scan = services.get(request.user, scan_id)
    check(request.user, payload)
    return 200, {"dials": dyed(payload, services.curve_of(scan), services.of(scan).length_cm)}


@router.delete("scans/{uuid:scan_id}", response={204: None})
def remove(request, scan_id: UUID):
    services.remove(request.user, scan_id)
    return 204, None
