"""A stage lit by one of its lights at a time, and by all of them stronger or weaker: what each gives by itself adds up to what all give together."""

from dataclasses import dataclass

from nineglass.catalogue import BANDS, LAMPS, SURROUNDS
from nineglass.documents.model import Material, Part, Seen, Stage, Wire

DARK = Part(kind="plain", dials={"color": [0.0, 0.0, 0.0], "strength": 0.0})
SURROUND, GLOW = "stage:surround", "stage:glow"
"""Ids of lights that no lamp can have."""

FLOOR_ALONE = "stage:floor_alone"
"""Id of what is made to hold the picture against, and is no part of it: the floor as it is without any form."""

LUMINANCE = "emission_luminance"
BRIGHT_BY = ("power", "irradiance", "strength", LUMINANCE)
"""The dials by which lamps, surrounds and bands give light of their own; each has one at most."""

COLORED_BY = ("color", "emission_color")

Gain = tuple[float, float, float]
"""By how much light is stronger, in linear Rec.709."""


@dataclass(frozen=True)
class Light:
    """One light, and the documents in which it alone is on."""

    id: str
    name: str
    material: Material
    stage: Stage


def parts_of(material: Material, stage: Stage, by_light: bool, on_floor: bool = False) -> list[Light]:
    """What is made by itself: every light, or all of them together; and at the end, where it is asked for, the floor alone."""
    parts = lights_of(material, stage) if by_light else [Light("all", "All light", material, stage)]
    return [*parts, Light(FLOOR_ALONE, "Floor alone", material, _without_forms(stage))] if on_floor else parts


def _without_forms(stage: Stage) -> Stage:
    """The stage as if nothing stood on it."""
    unseen = Seen(camera=False, reflections=False, shadows=False)
    return stage.model_copy(update={"objects": [one.model_copy(update={"seen": unseen}) for one in stage.objects]})


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


def relit(material: Material, stage: Stage, gains: dict[str, Gain]) -> tuple[Material, Stage]:
    """The documents with lights stronger or weaker, by their ids. The surround takes no colour: the mean of its gain."""
    lamps = [_brighter(lamp, LAMPS, gains.get(lamp.id)) for lamp in stage.lamps]
    around = gains.get(SURROUND)
    grey = around and (sum(around) / 3,) * 3
    names = [name for name in ("light", "second", "reflections", "camera") if getattr(stage.surround, name)]
    parts = {name: _brighter(getattr(stage.surround, name), SURROUNDS, grey) for name in names}
    changed = stage.model_copy(update={"lamps": lamps, "surround": stage.surround.model_copy(update=parts)})
    glow = gains.get(GLOW)
    return _glowing(material, glow), _with_worn(changed, lambda one: _glowing(one, glow))


def bright_by(dials) -> str:
    """The dial of some by which there is light."""
    return next(name for name in BRIGHT_BY if name in dials)


def _brighter(part, kinds, gain: Gain | None):
    """A lamp, surround or band with its light times a gain."""
    if gain is None or gain == (1, 1, 1):
        return part
    kind = kinds.kinds[part.kind]
    own, most = kind.defaults() | part.dials, max(gain)
    name = bright_by(kind.dials)
    dials = {name: min(own[name] * most, kind.dials[name].hard_high)}
    colored = next((one for one in COLORED_BY if one in kind.dials), None)
    if colored and most > 0 and min(gain) < most:
        dials[colored] = [v * g / most for v, g in zip(own[colored], gain, strict=True)]
    return part.model_copy(update={"dials": part.dials | dials})


def _glowing(material: Material, gain: Gain | None) -> Material:
    """The material with what glows of it times a gain; a wire into its luminance is left as it is."""
    ids = _light_bands(material)
    bands = [_brighter(band, BANDS, gain) if band.id in ids else band for band in material.section.bands]
    return material.model_copy(update={"section": material.section.model_copy(update={"bands": bands})})


def _off(stage: Stage, kept: str | None) -> list:
    """The lamps but for one give no light; they stay where they are, and hide what is behind them."""
    return [
        lamp
        if lamp.id == kept
        else lamp.model_copy(update={"dials": lamp.dials | {bright_by(LAMPS.kinds[lamp.kind].dials): 0.0}})
        for lamp in stage.lamps
    ]


def _lit_by(stage: Stage, lamp: str | None) -> Stage:
    around = stage.surround
    dark = {"light": DARK, "second": None, "blend": 0.0, "reflections": around.reflections and DARK, "camera": DARK}
    return stage.model_copy(update={"lamps": _off(stage, lamp), "surround": around.model_copy(update=dark)})


def _worn(stage: Stage) -> list[Material]:
    return [wear.material for one in stage.objects for wear in one.wears.values() if wear.material]


def _light_bands(material: Material) -> set[str]:
    return {band.id for band in material.section.bands if LUMINANCE in BANDS.kinds[band.kind].dials}


def _glows(material: Material) -> bool:
    ids = _light_bands(material)
    return any(band.on and band.id in ids for band in material.section.bands)


def _without_glow(material: Material) -> Material:
    """The same matter, of which nothing glows."""
    ids = _light_bands(material)

    def stays(wire: Wire) -> bool:
        return wire.target.part not in ids or wire.target.dial != LUMINANCE

    dimmed = _glowing(material, (0.0, 0.0, 0.0))
    return dimmed.model_copy(update={"wires": [wire for wire in material.wires if stays(wire)]})


def _with_worn(stage: Stage, change) -> Stage:
    def changed(wear):
        return wear.model_copy(update={"material": wear.material and change(wear.material)})

    objects = [
        one.model_copy(update={"wears": {part: changed(wear) for part, wear in one.wears.items()}})
        for one in stage.objects
    ]
    return stage.model_copy(update={"objects": objects})
