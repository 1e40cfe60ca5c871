from typing import Literal

from nineglass import catalogue
from nineglass.describe import DialType, PortType
from nineglass.documents.model import Settings, read
from ninja import Router, Schema

from accounts.models import Preferences

router = Router(tags=["accounts"])


class Me(Schema):
    name: str
    settings: Settings


class DialOut(Schema):
    type: DialType
    default: float | bool | str | list
    label: str
    name: str
    low: float | None
    high: float | None
    hard_low: float | None
    hard_high: float | None
    scale: Literal["linear", "log"]
    unit: str
    ends: tuple[str, str] | None
    help: str
    standard: str
    choices: list[str]
    drivable: bool
    holds: Literal["", "mesh", "picture", "texture"]
    joined: str
    when: tuple[str, str] | None


class PortOut(Schema):
    name: str
    type: PortType


class KindOut(Schema):
    role: str
    name: str
    title: str
    family: str
    help: str
    standard: str
    dials: list[DialOut]
    gives: list[PortOut]
    parts: list[str]
    rank: int
    most: int
    why: str
    synonyms: str


class ConversionOut(Schema):
    source: str
    target: str
    says: str


class GradientOut(Schema):
    name: str
    stops: list[tuple[float, tuple[float, float, float]]]


class CatalogueOut(Schema):
    kinds: list[KindOut]
    conversions: list[ConversionOut]
    gradients: list[GradientOut]


def settings_of(person) -> Settings:
    kept = Preferences.objects.filter(owner=person).first()
    return read(Settings, kept.document) if kept else Settings()


@router.get("me", response=Me)
def me(request):
    return {"name": request.user.get_username(), "settings": settings_of(request.user)}


@router.put("settings", response=Settings)
def save_settings(request, payload: Settings):
    Preferences.objects.update_or_create(owner=request.user, defaults={"document": payload.model_dump()})
    return payload


@router.get("catalogue", response=CatalogueOut)
def whole_catalogue(request):
    return catalogue.as_json()
