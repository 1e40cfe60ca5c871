"""Which of the nine families of matter a material is of, and what it is made of: read off its section, for the shelves."""

from nineglass.catalogue import BANDS
from nineglass.documents.model import Material
from nineglass.matter.substances import substances

FAMILIES = ("glass", "liquid", "gem", "fibre", "subsurface", "volume", "flame", "film", "coat and flake")

GEM_WORDS = ("stone", "crystal", "gem")


def family_of(material: Material) -> str:
    """The family of the band that says most of how it looks."""
    bands = {band.kind: band for band in material.section.bands if band.on}
    for band, family in (("fibre", "fibre"), ("flame", "flame"), ("film", "film"), ("subsurface", "subsurface")):
        if band in bands:
            return family
    interior, interface = bands.get("interior"), bands.get("interface")
    if interior is None:
        return "coat and flake"
    if interface is None:
        return "volume"
    about = substances().get(interface.dials.get("substance", ""))
    kind = about.family.lower() if about else ""
    if "liquid" in kind or "water" in kind or interior.dials.get("absorption") == "dyes":
        return "liquid"
    if interior.dials.get("scatter_amount", 0) > 0:
        return "subsurface"
    return "gem" if any(word in kind for word in GEM_WORDS) else "glass"


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
