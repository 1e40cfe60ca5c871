"""As the skin: the colour of strands taken from the surface at their roots."""

from nineglass.catalogue import BANDS
from nineglass.documents.bands.fibre import SEEN
from nineglass.documents.model import Given, Material, Module, Slip, Source, Target, Wire
from nineglass.documents.modules import MODULE

MODULE_ID, GIVES = "skin_color", "colour"


def color_dial_of(material: Material) -> tuple[str, str] | None:
    """(band, dial) by which a material is coloured: of its outermost band that says so."""
    colored = ((band.id, BANDS.kinds[band.kind].rules.colored_by) for band in material.section.bands if band.on)
    return next((one for one in colored if one[1]), None)


def wire_into(material: Material, part: str, dial: str) -> Wire | None:
    return next((wire for wire in material.wires if (wire.target.part, wire.target.dial) == (part, dial)), None)


def as_the_skin(strands: Material, skin: Material) -> Material | None:
    """The material of strands with the colour of their skin, whatever drives that; None where the skin has no colour.

    What drives the colour becomes a module, which is made anew when it is asked for again. Modules of a library stay what they are, so that
    they follow it in both.
    """
    own, there = next((b for b in strands.section.bands if b.on and b.kind == "fibre"), None), color_dial_of(skin)
    if own is None or there is None:
        return None
    wire = wire_into(skin, *there)
    dials = dict(own.dials) | {"color_from": SEEN}
    kept_wires = [one for one in strands.wires if (one.target.part, one.target.dial) != (own.id, "fibre_color")]
    if wire is None:
        band = next(one for one in skin.section.bands if one.id == there[0])
        given = band.dials.get(there[1])
        changed = {"wires": kept_wires}
        dials |= {"fibre_color": given} if given is not None else {}
    else:
        module, within = _module_of(skin, wire)
        taken = {one.id: one for one in within} | {MODULE_ID: module}
        modules = [one for one in strands.modules if one.id not in taken] + list(taken.values())
        use = next((one.id for one in strands.slips if one.kind == MODULE and one.module == MODULE_ID), MODULE_ID)
        slips = list(strands.slips)
        if not any(one.id == use for one in slips):
            left = min((one.at[0] for one in slips), default=0.0)
            slips.append(Slip(id=use, kind=MODULE, module=MODULE_ID, at=(left, 320.0 if slips else 40.0)))
        target = Target(part=own.id, dial="fibre_color")
        changed = {
            "wires": [*kept_wires, Wire(source=Source(slip=use, port=GIVES), target=target)],
            "slips": slips,
            "modules": modules,
        }
    bands = [one.model_copy(update={"dials": dials}) if one is own else one for one in strands.section.bands]
    section = strands.section.model_copy(update={"bands": bands})
    return strands.model_copy(update={"section": section, **changed})


def _module_of(skin: Material, wire: Wire) -> tuple[Module, list[Module]]:
    """(a module of all that leads to a wire, the modules that it uses)."""
    feeds: dict[str, list[str]] = {}
    for one in skin.wires:
        feeds.setdefault(one.target.part, []).append(one.source.slip)
    needed, waiting = set(), [wire.source.slip]
    while waiting:
        slip = waiting.pop()
        if slip not in needed:
            needed.add(slip)
            waiting += feeds.get(slip, [])
    slips = [one for one in skin.slips if one.id in needed]
    module = Module(
        id=MODULE_ID,
        name="Colour of the skin",
        help="What colours the skin, for what grows on it. Ask for it again when the skin has changed.",
        slips=slips,
        wires=[one for one in skin.wires if one.target.part in needed and one.source.slip in needed],
        gives=[Given(name=GIVES, source=wire.source)],
    )
    by_id, used = {one.id: one for one in skin.modules}, {}
    waiting = [one.module for one in slips if one.kind == MODULE]
    while waiting:
        name = waiting.pop()
        if name not in used:
            used[name] = by_id[name]
            waiting += [one.module for one in by_id[name].slips if one.kind == MODULE]
    return module, list(used.values())
