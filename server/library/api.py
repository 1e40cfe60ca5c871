"""Substances, curves, modules, presets, swatches, and files that people put in."""

from datetime import datetime
from typing import Annotated, Literal, get_args
from uuid import UUID

from nineglass.describe import FileKind
from nineglass.documents.model import Material, ModuleFile
from nineglass.matter.curve_files import LARGEST_CHARACTERS, MOST_POINTS, csv_of, read_curve, spdx_of
from nineglass.matter.scatterers import Scatterer, scatterers
from nineglass.matter.substances import Substance, substances
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from library import services
from library.access import MAY, OWN
from library.checks import Outdated
from library.models import KeptFile, KeptModule, KeptPreset, KeptSwatch

router = Router(tags=["library"])


class FaultOut(Schema):
    path: str
    fault: str
    allowed: str
    remedy: str


class FaultsOut(Schema):
    faults: list[FaultOut]


class Owned(Schema):
    """Something that has an owner and can be shared."""

    owner: str
    may: Literal[MAY]
    """What the person may do with it."""

    @staticmethod
    def resolve_owner(thing) -> str:
        return thing.owner.get_username()

    @staticmethod
    def resolve_may(thing) -> str:
        return getattr(thing, "may", OWN)


Quantity = Literal["transmittance", "reflectance", "irradiance", "relative", "other"]
"""What a curve is of: words of IES TM-27."""


class CurveIn(Schema):
    text: str = Field(max_length=LARGEST_CHARACTERS)
    quantity: Quantity = "transmittance"


class CurveOut(Schema):
    points: list[tuple[float, float]]


class CurveToWrite(Schema):
    points: list[tuple[float, float]] = Field(min_length=2, max_length=MOST_POINTS)
    quantity: Quantity = "transmittance"
    says: str = Field(max_length=200)
    """What it is of, in words."""
    ending: Literal["csv", "spdx"]


class WrittenOut(Schema):
    text: str


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


class PresetOut(Schema):
    """A band with what drives it, or a whole section: a material of that alone."""

    id: UUID
    name: str
    is_whole: bool
    document: Material


class PresetIn(Schema):
    is_whole: bool
    document: Material


Linear = Annotated[float, Field(ge=0, le=1e6)]


class SwatchKept(Schema):
    """A linear colour (Rec.709) under a name."""

    id: UUID
    name: str
    color: tuple[float, float, float]


class SwatchToKeep(Schema):
    name: str = Field(max_length=120)
    color: tuple[Linear, Linear, Linear]


@router.get("substances", response=list[Substance])
def all_substances(request):
    return list(substances().values())


@router.get("scatterers", response=list[Scatterer])
def all_scatterers(request):
    return list(scatterers().values())


@router.post("curves", response={200: CurveOut, 422: FaultsOut})
def curve(request, payload: CurveIn):
    return {"points": read_curve(payload.text, payload.quantity)}


@router.post("curves/written", response=WrittenOut)
def written_curve(request, payload: CurveToWrite):
    """A curve as the text of a file."""
    points = [list(point) for point in payload.points]
    if payload.ending == "csv":
        return {"text": csv_of(points, payload.quantity)}
    return {"text": spdx_of(points, payload.quantity, payload.says)}


@router.get("files", response=list[KeptFileOut])
def files(request):
    return KeptFile.objects.filter(owner=request.user, kind__in=get_args(FileKind))


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


@router.get("presets", response=list[PresetOut])
def presets(request):
    return KeptPreset.objects.filter(owner=request.user)


@router.post("presets", response={201: PresetOut, 422: FaultsOut})
def keep_preset(request, payload: PresetIn):
    return 201, services.keep_preset(request.user, payload.document, payload.is_whole)


@router.delete("presets/{uuid:preset_id}", response={204: None})
def remove_preset(request, preset_id: UUID):
    services.remove_preset(request.user, preset_id)
    return 204, None


@router.get("swatches", response=list[SwatchKept])
def swatches(request):
    return KeptSwatch.objects.filter(owner=request.user)


@router.post("swatches", response={201: SwatchKept, 422: FaultsOut})
def keep_swatch(request, payload: SwatchToKeep):
    return 201, services.keep_swatch(request.user, payload.name, list(payload.color))


@router.delete("swatches/{uuid:swatch_id}", response={204: None})
def remove_swatch(request, swatch_id: UUID):
    services.remove_swatch(request.user, swatch_id)
    return 204, None
