"""Substances, curves, modules, and files that people put in."""

from datetime import datetime
from uuid import UUID

from materials.api import FaultsOut
from materials.services import Outdated
from nineglass.describe import Fault, FileKind, Refused
from nineglass.documents.model import ModuleFile
from nineglass.files import keep
from nineglass.forms.imported import LARGEST_BYTES, facts_of
from nineglass.lamps import photometric
from nineglass.matter.curve_files import LARGEST_CHARACTERS, read_curve
from nineglass.matter.substances import Substance, substances
from nineglass.network.pictures import read_picture
from nineglass.picture.lighting import read_lighting_picture
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from library import services
from library.models import KeptFile, KeptModule

router = Router(tags=["library"])


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


@router.post("curves", response={200: CurveOut, 422: FaultsOut})
def curve(request, payload: CurveIn):
    return {"points": read_curve(payload.text)}


@router.get("files", response=list[KeptFileOut])
def files(request):
    return KeptFile.objects.filter(owner=request.user)


@router.post("files/{kind}", response={201: KeptFileOut, 422: FaultsOut})
def put_in(request, kind: FileKind, file: File[UploadedFile]):
    if file.size > LARGEST_BYTES:
        allowed = f"at most {LARGEST_BYTES // 1_000_000} MB"
        raise Refused([Fault("file", f"{file.size // 1_000_000} MB is too large", allowed, "Choose a smaller file.")])
    given = file.read()
    facts = FACTS[kind](given)
    about = {"name": (file.name or "unnamed")[:200], "bytes": len(given), "facts": facts}
    kept, _ = KeptFile.objects.update_or_create(owner=request.user, sha256=keep(given), kind=kind, defaults=about)
    return 201, kept


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


def _facts_of_picture(given: bytes) -> dict:
    rgb = read_lighting_picture(given)
    return {"width": rgb.shape[1], "height": rgb.shape[0], "brightest": float(rgb.max()), "mean": float(rgb.mean())}


def _facts_of_texture(given: bytes) -> dict:
    pixels, linear = read_picture(given)
    return {"width": pixels.shape[1], "height": pixels.shape[0], "linear": linear}


FACTS = {
    "mesh": facts_of,
    "picture": _facts_of_picture,
    "texture": _facts_of_texture,
    "photometry": photometric.facts_of,
}
