from datetime import datetime
from uuid import UUID

from library.api import FaultsOut
from nineglass.documents.model import Material
from ninja import Router, Schema

from devices import services
from devices.models import Scan

router = Router(tags=["devices"])

Dials = dict[str, float | bool | str]


class ScanOut(Schema):
    """One run of a device, as far as it is: decadic absorbance over wavelength in nm."""

    id: UUID
    device: str
    dials: Dials
    began_at: datetime
    places: list[float]
    absorbance: list[float]
    of_places: int
    seconds_left: float
    length_cm: float
    baseline: UUID | None
    is_baseline: bool


class ScanIn(Schema):
    device: str
    dials: Dials = {}


class MaterialBody(Schema):
    document: Material


def _out(scan: Scan) -> dict:
    about = {name: getattr(scan, name) for name in ("id", "device", "dials", "began_at")}
    return about | vars(services.of(scan))


@router.get("scans", response=list[ScanOut])
def scans(request):
    return [_out(scan) for scan in services.scans(request.user)]


@router.post("scans", response={201: ScanOut, 422: FaultsOut})
def begin(request, payload: ScanIn):
    return 201, _out(services.begin(request.user, payload.device, payload.dials))


@router.post("scans/{uuid:scan_id}/stop", response=ScanOut)
def stop(request, scan_id: UUID):
    return _out(services.stop(request.user, scan_id))


@router.post("scans/{uuid:scan_id}/laid", response={200: MaterialBody, 422: FaultsOut})
def lay(request, scan_id: UUID, payload: MaterialBody):
    """The material with an interior that absorbs as was read."""
    return 200, {"document": services.laid(request.user, scan_id, payload.document)}


@router.delete("scans/{uuid:scan_id}", response={204: None})
def remove(request, scan_id: UUID):
    services.remove(request.user, scan_id)
    return 204, None
