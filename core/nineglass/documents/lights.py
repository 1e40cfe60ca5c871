"""A stage lit by one of its lights at a time, and by all of them stronger or weaker: what each gives by itself adds up to what all give together."""

from dataclasses import dataclass

from nineglass.catalogue import BANDS, LAMPS, SURROUNDS
from nineglass.documents.model import Lamp, Material, Part, Seen, Stage, Wire

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
    parts = {name: _brighter(part, SURROUNDS, grey) for name, part in _surrounds(stage).items()}
    changed = stage.model_copy(update={"lamps": lamps, "surround": stage.surround.model_copy(update=parts)})
    glow = gains.get(GLOW)
    return _glowing(material, glow), _with_worn(changed, lambda one: _glowing(one, glow))


def gains_between(made: tuple[Material, Stage], now: tuple[Material, Stage]) -> dict[str, Gain] | None:
    """By how much each light of some documents is stronger in others; None where that does not say all in which they differ as far as it is
    looked at here: a light that was off is on, or the parts of a surround, or all that glows, were not changed alike."""
    stage, stage_now = made[1], now[1]
    if [lamp.id for lamp in stage.lamps] != [lamp.id for lamp in stage_now.lamps]:
        return None
    gains = {lamp.id: _gain_of_lamp(lamp, after) for lamp, after in zip(stage.lamps, stage_now.lamps, strict=True)}
    gains[SURROUND] = _common(_surrounds(stage), _surrounds(stage_now), SURROUNDS)
    gains[GLOW] = _common(*(_glowing_parts(*one) for one in (made, now)), BANDS)
    return None if None in gains.values() else gains


def unlit(material: Material, stage: Stage) -> tuple[Material, Stage]:
    """The documents without what `gains_between` tells: alike where nothing else differs."""
    lamps = [_plain(lamp, LAMPS).model_copy(update={"on": True}) for lamp in stage.lamps]
    parts = {name: _plain(part, SURROUNDS) for name, part in _surrounds(stage).items()}
    plain = stage.model_copy(update={"lamps": lamps, "surround": stage.surround.model_copy(update=parts)})
    return _plain_glow(material), _with_worn(plain, _plain_glow)


def _gain_of_lamp(before: Lamp, after: Lamp) -> Gain | None:
    if not before.on:
        return None if after.on else (1, 1, 1)
    return _gain_of(before, after, LAMPS) if after.on else (0, 0, 0)


def _gain_of(before: Part, after: Part, kinds) -> Gain | None:
    lit, lit_now = (_light_of(part, kinds) for part in (before, after))
    if any(now > 0 and not was for was, now in zip(lit, lit_now, strict=True)):
        return None
    return tuple(now / was if was else 1 for was, now in zip(lit, lit_now, strict=True))


def _light_of(part: Part, kinds) -> Gain:
    """Strength times colour, by the dials of a part."""
    kind = kinds.kinds[part.kind]
    own = kind.defaults() | part.dials
    colored = next((one for one in COLORED_BY if one in kind.dials), None)
    return tuple(own[bright_by(kind.dials)] * v for v in (own[colored] if colored else (1, 1, 1)))


def _common(before: dict, after: dict, kinds) -> Gain | None:
    """The gain that all parts have in common."""
    if {name: part.kind for name, part in before.items()} != {name: part.kind for name, part in after.items()}:
        return None
    gains = {_gain_of(part, after[name], kinds) for name, part in before.items()}
    return gains.pop() if len(gains) == 1 else None if gains else (1, 1, 1)


def _surrounds(stage: Stage) -> dict[str, Part]:
    parts = {name: getattr(stage.surround, name) for name in ("light", "second", "reflections", "camera")}
    return {name: part for name, part in parts.items() if part}


def _glowing_parts(material: Material, stage: Stage) -> dict[tuple[int, str], Part]:
    """Those that glow by a dial, by the number of their material and their id."""
    return {
        (k, band.id): band
        for k, one in enumerate((material, *_worn(stage)))
        for band in one.section.bands
        if band.on and band.id in _light_bands(one)
    }


def _plain(part: Part, kinds) -> Part:
    """A part without its brightness and colour."""
    light = {bright_by(kinds.kinds[part.kind].dials), *COLORED_BY}
    return part.model_copy(update={"dials": {name: v for name, v in part.dials.items() if name not in light}})


def _plain_glow(material: Material) -> Material:
    """Without the brightness and colour of what glows; where a network drives them they are no dials."""
    ids = _light_bands(material) - {wire.target.part for wire in material.wires}
    bands = [_plain(band, BANDS) if band.id in ids else band for band in material.section.bands]
    return material.model_copy(update={"section": material.section.model_copy(update={"bands": bands})})


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
