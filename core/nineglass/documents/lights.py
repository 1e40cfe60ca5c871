"""A stage lit by one of its lights at a time: what each gives by itself adds up to what all give together."""

from dataclasses import dataclass

from nineglass.catalogue import BANDS, LAMPS
from nineglass.documents.model import Material, Part, Stage

DARK = Part(kind="plain", dials={"color": [0.0, 0.0, 0.0], "strength": 0.0})
SURROUND, GLOW = "surround", "glow"
GLOWS_BY = "emission_luminance"
"""The dial of a band by which it gives light of its own."""

LAMP_GLOWS_BY = "power"
"""The same of every lamp."""


@dataclass(frozen=True)
class Light:
    """One light, and the documents in which it alone is on."""

    id: str
    name: str
    material: Material
    stage: Stage


def parts_of(material: Material, stage: Stage, by_light: bool) -> list[Light]:
    """What is made by itself: every light, or all of them together."""
    return lights_of(material, stage) if by_light else [Light("all", "All light", material, stage)]


def lights_of(material: Material, stage: Stage) -> list[Light]:
    """Every lamp that is on, the surround, and what glows, if anything does."""
    dim, dim_stage = _without_glow(material), _with_worn(stage, _without_glow)
    found = [
        Light(lamp.id, lamp.name or LAMPS.kinds[lamp.kind].title, dim, _lit_by(dim_stage, lamp.id))
        for lamp in stage.lamps
        if lamp.on
    ]
    around = dim_stage.model_copy(update={"lamps": _off(stage, None)})
    found.append(Light(SURROUND, "Surround", dim, around))
    if any(_glows(one) for one in (material, *_worn(stage))):
        found.append(Light(GLOW, "What glows", material, _lit_by(stage, None)))
    return found


def _off(stage: Stage, kept: str | None) -> list:
    """The lamps but for one give no light; they stay where they are, and hide what is behind them."""
    return [
        lamp if lamp.id == kept else lamp.model_copy(update={"dials": lamp.dials | {LAMP_GLOWS_BY: 0.0}})
        for lamp in stage.lamps
    ]


def _lit_by(stage: Stage, lamp: str | None) -> Stage:
    around = stage.surround
    dark = {"light": DARK, "second": None, "blend": 0.0, "reflections": around.reflections and DARK, "camera": DARK}
    return stage.model_copy(update={"lamps": _off(stage, lamp), "surround": around.model_copy(update=dark)})


def _worn(stage: Stage) -> list[Material]:
    return [wear.material for one in stage.objects for wear in one.wears.values() if wear.material]


def _light_bands(material: Material) -> set[str]:
    return {band.id for band in material.section.bands if GLOWS_BY in BANDS.kinds[band.kind].dials}


def _glows(material: Material) -> bool:
    ids = _light_bands(material)
    return any(band.on and band.id in ids for band in material.section.bands)


def _without_glow(material: Material) -> Material:
    """The same matter, of which nothing glows."""
    ids = _light_bands(material)
    if not ids:
        return material
    bands = [
        band.model_copy(update={"dials": band.dials | {GLOWS_BY: 0.0}}) if band.id in ids else band
        for band in material.section.bands
    ]
    wires = [wire for wire in material.wires if not (wire.target.part in ids and wire.target.dial == GLOWS_BY)]
    return material.model_copy(update={"section": material.section.model_copy(update={"bands": bands}), "wires": wires})


def _with_worn(stage: Stage, change) -> Stage:
    objects = [
        one.model_copy(
            update={
                "wears": {
                    part: wear.model_copy(update={"material": wear.material and change(wear.material)})
                    for part, wear in one.wears.items()
                }
            }
        )
        for one in stage.objects
    ]
    return stage.model_copy(update={"objects": objects})
