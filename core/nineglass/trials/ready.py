"""What people always try, ready to be made of a material: two dials of its bands against each other."""

from dataclasses import dataclass

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.model import Material
from nineglass.documents.trials import CHANNELS, DialAxis

STEPS = 5
AROUND = 4.0
"""By how many times a dial of a logarithmic scale goes below and above what it is."""


@dataclass(frozen=True)
class Wanted:
    """A dial of the first band of a kind."""

    band: str
    dial: str
    channel: str = ""

    def axis(self, material: Material) -> DialAxis | None:
        band = next((one for one in material.section.bands if one.kind == self.band and one.on), None)
        return band and dial_axis(band.id, self.band, self.dial, band.dials, self.channel)


def dial_axis(part: str, kind: str, dial: str, dials: dict, channel: str = "") -> DialAxis:
    """A dial of a band over its range, or a channel of a colour."""
    about = BANDS.kinds[kind].dials[dial]
    low, high = CHANNELS.get(channel, (about.low, about.high))
    if about.scale == "log" and not channel:
        own = dials.get(dial, about.default)
        low, high = max(own / AROUND, about.hard_low), min(own * AROUND, about.hard_high)
        values = np.geomspace(low, high, STEPS)
    else:
        values = np.linspace(low, high, STEPS)
    label = f"{channel} of {about.label.lower()}" if channel else about.label
    label = f"{BANDS.kinds[kind].title}: {label}"
    unit = "" if channel else about.unit
    given = [float(f"{v:.4g}") for v in values]
    return DialAxis(part=part, dial=dial, channel=channel, values=given, label=label, unit=unit)


@dataclass(frozen=True)
class Ready:
    """A sheet under its name."""

    name: str
    across: Wanted
    down: Wanted

    def axes(self, material: Material) -> tuple[DialAxis, DialAxis] | None:
        """(across, down) where the material has both dials."""
        across, down = self.across.axis(material), self.down.axis(material)
        return (across, down) if across and down else None


DEPTH = Wanted("interior", "transmission_depth")
READY = (
    Ready("Hue against depth", DEPTH, Wanted("interior", "transmission_color", "hue")),
    Ready("Saturation against depth", DEPTH, Wanted("interior", "transmission_color", "saturation")),
    Ready("Brightness against depth", DEPTH, Wanted("interior", "transmission_color", "brightness")),
    Ready(
        "Index against dispersion",
        Wanted("interface", "transmission_dispersion_scale"),
        Wanted("interface", "specular_ior"),
    ),
    Ready("Roughness against coat", Wanted("coat", "coat_roughness"), Wanted("interface", "specular_roughness")),
    Ready("Roughness of metal against coat", Wanted("coat", "coat_roughness"), Wanted("metal", "specular_roughness")),
    Ready(
        "Radius against scale",
        Wanted("subsurface", "subsurface_radius"),
        Wanted("subsurface", "subsurface_radius_scale", "saturation"),
    ),
    Ready("Film against its index", Wanted("film", "thin_film_thickness"), Wanted("film", "thin_film_ior")),
    Ready("Pigments", Wanted("fibre", "pheomelanin"), Wanted("fibre", "eumelanin")),
    Ready(
        "Body's hue against roughness", Wanted("interface", "specular_roughness"), Wanted("body", "base_color", "hue")
    ),
)


def ready_for(material: Material) -> list[tuple[str, DialAxis, DialAxis]]:
    """(name, across, down) of every ready sheet that a material has the dials for."""
    found = ((ready.name, ready.axes(material)) for ready in READY)
    return [(name, *axes) for name, axes in found if axes]
