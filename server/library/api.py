"""Substances, curves, modules, and files that people put in."""

from datetime import datetime
from uuid import UUID

from nineglass.describe import FileKind
from nineglass.documents.model import ModuleFile
from nineglass.matter.curve_files import LARGEST_CHARACTERS, read_curve
from nineglass.matter.scatterers import Scatterer, scatterers
from nineglass.matter.substances import Substance, substances
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from library import services
from library.checks import Outdated
from library.models import KeptFile, KeptModule

router = Router(tags=["library"])


class FaultOut(Schema):
    path: str
    fault: str
    allowed: str
    remedy: str


class FaultsOut(Schema):
    faults: list[FaultOut]


class CurveIn(Schema):
    text: str = Field(max_length=LARGEST_CHARACTERS)


class CurveOut(Schema):
    points: list[tuple[float, float]]


class KeptFileOut(Schema):
    sha256: str
    kind: FileKind
    name: str
    bytes: int
    facts: dict


class KeptModuleOut(Schema):
    id: UUID
    name: str
    revision: int
    kept_at: datetime
    document: ModuleFile


class KeptModuleIn(Schema):
    document: ModuleFile


class KeptModuleChange(Schema):
    based_on: int
    document: ModuleFile


class NewerModule(Schema):
    """A change that was based on an older revision of a kept module: what is there now."""

    says: str
    newest: KeptModuleOut


@router.get("substances", response=list[Substance])
def all_substances(request):
    return list(substances().values())


@router.get("scatterers", response=list[Scatterer])
def all_scatterers(request):
    return list(scatterers().values())


@router.post("curves", response={200: CurveOut, 422: FaultsOut})
def curve(request, payload: CurveIn):
    return {"points": read_curve(payload.text)}


@router.get("files", response=list[KeptFileOut])
def files(request):
    return KeptFile.objects.filter(owner=request.user)


@router.post("files/{kind}", response={201: KeptFileOut, 422: FaultsOut})
def put_in(request, kind: FileKind, file: File[UploadedFile]):
    return 201, services.put_in(request.user, kind, file)


@router.get("modules", response=list[KeptModuleOut])
def modules(request):
    return KeptModule.objects.filter(owner=request.user)


@router.post("modules", response={201: KeptModuleOut, 422: FaultsOut})
def keep_module(request, payload: KeptModuleIn):
    return 201, services.keep_module(request.user, payload.document)


@router.put("modules/{uuid:module_id}", response={200: KeptModuleOut, 409: NewerModule, 422: FaultsOut})
def change_module(request, module_id: UUID, payload: KeptModuleChange):
    try:
        return 200, services.change_module(request.user, module_id, payload.based_on, payload.document)
    except Outdated as outdated:
        newest = outdated.newest
        says = f"The library has revision {newest.revision} of this module; yours began as {payload.based_on}."
        return 409, {"says": says, "newest": newest}


@router.delete("modules/{uuid:module_id}", response={204: None})
def remove_module(request, module_id: UUID):
    services.remove_module(request.user, module_id)
    return 204, None
