"""Which of the nine families of matter a material is of, and what it is made of: read off its section, for the shelves."""

from nineglass.catalogue import BANDS
from nineglass.documents.bands.interior import DYES
from nineglass.documents.model import Material
from nineglass.matter.substances import substances

FAMILIES = ("glass", "liquid", "gem", "fibre", "subsurface", "volume", "flame", "film", "coat and flake")

OUTRIGHT = ("fibre", "flame", "film", "subsurface")
"""Bands that make a family by themselves."""


def family_of(material: Material) -> str:
    """The family of the band that says most of how it looks."""
    bands = {band.kind: band for band in material.section.bands if band.on}
    for name in OUTRIGHT:
        if name in bands:
            return name
    interior, interface = bands.get("interior"), bands.get("interface")
    if interior is None:
        return "coat and flake"
    if interface is None:
        return "volume"
    about = substances().get(interface.dials.get("substance", ""))
    kind = about.family if about else ""
    if kind == "liquid" or interior.dials.get("absorption") == DYES:
        return "liquid"
    if interior.dials.get("scatter_amount", 0) > 0:
        return "subsurface"
    return "gem" if kind == "crystal" else "glass"


def made_of(material: Material) -> list[str]:
    """Words for what it is made of: its bands, and the substances and dyes that they name."""
    words = []
    for band in material.section.bands:
        if not band.on:
            continue
        kind = BANDS.kinds[band.kind]
        words.append(kind.title.lower())
        for name, dial in kind.dials.items():
            named = band.dials.get(name, dial.default)
            if dial.type == "choice" and kind.has_effect(name, kind.defaults() | band.dials) and len(dial.choices) > 8:
                words.append(str(named).replace("_", " "))
    return [word for word in dict.fromkeys(words) if word != "none"]
