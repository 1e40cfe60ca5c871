from functools import cache

from django.http import HttpResponse
from nineglass import catalogue
from nineglass.describe import Dial, Port, Rules
from nineglass.devices import DEVICES
from nineglass.documents.families import FAMILIES
from nineglass.documents.model import Lamp, Material, ModuleFile, Part, Settings, Slip, Stage, plain_documents, read
from nineglass.documents.trials import CHANNELS
from nineglass.finish import FINISHES
from ninja import Router, Schema

from accounts.models import Preferences

router = Router(tags=["accounts"])


class Me(Schema):
    name: str
    is_administrator: bool
    settings: Settings


class KindOut(Schema):
    role: str
    name: str
    title: str
    family: str
    help: str
    standard: str
    dials: list[Dial]
    gives: list[Port]
    rules: Rules


class PlainOut(Schema):
    """Documents and parts of them as they begin, in their newest versions."""

    material: Material
    module: ModuleFile
    settings: Settings
    stage: Stage
    lamp: Lamp
    floor: Part
    dark: Part
    behind: Part
    ramp: Slip


class ConversionOut(Schema):
    source: str
    target: str
    says: str


class GradientOut(Schema):
    name: str
    stops: list[tuple[float, tuple[float, float, float]]]


class ViewOut(Schema):
    name: str
    title: str
    help: str


class ShapeOut(Schema):
    name: str
    aspect: float
    """Width over height."""


class StopOut(Schema):
    stop: int
    """From mid grey."""
    color: str


class ChannelOut(Schema):
    """What of a colour a trial may turn, and over what range it usually is."""

    name: str
    low: float
    high: float


class CatalogueOut(Schema):
    kinds: list[KindOut]
    conversions: list[ConversionOut]
    gradients: list[GradientOut]
    views: list[ViewOut]
    shapes: list[ShapeOut]
    stops: list[StopOut]
    channels: list[ChannelOut]
    families: list[str]
    """Of matter, in the order of the trade."""
    plain: PlainOut


def settings_of(person) -> Settings:
    kept = Preferences.objects.filter(owner=person).first()
    return read(Settings, kept.document) if kept else Settings()


@router.get("me", response=Me)
def me(request):
    person = request.user
    return {"name": person.get_username(), "is_administrator": person.is_staff, "settings": settings_of(person)}


@router.put("settings", response=Settings)
def save_settings(request, payload: Settings):
    Preferences.objects.update_or_create(owner=request.user, defaults={"document": payload.model_dump()})
    return payload


@cache
def _catalogue() -> bytes:
    """Kinds do not change while a process runs."""
    channels = [{"name": name, "low": low, "high": high} for name, (low, high) in CHANNELS.items()]
    about = {"channels": channels, "families": FAMILIES, "plain": plain_documents()}
    return CatalogueOut.model_validate(catalogue.as_json(FINISHES, DEVICES) | about).model_dump_json().encode()


@router.get("catalogue", response=CatalogueOut)
def whole_catalogue(request):
    return HttpResponse(_catalogue(), content_type="application/json")
