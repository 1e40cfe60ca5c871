"""A material whose interior absorbs as something was measured to."""

from nineglass.describe import Fault, Refused
from nineglass.documents.bands.interior import CURVE
from nineglass.documents.model import Material

INTERIOR = "interior"


def absorbing_as(material: Material, points: list[list[float]], depth_cm: float) -> Material:
    """points: the share of light left after the depth, [nm, share]. Raises Refused where there is no interior."""
    if not any(band.kind == INTERIOR for band in material.section.bands):
        allowed = "a material with an interior"
        raise Refused([Fault("section.bands", "there is no interior", allowed, "Add one to the section.")])
    dials = {"absorption": CURVE, "transmittance": points, "transmission_depth": depth_cm, "concentration": 1.0}
    bands = [
        band.model_copy(update={"dials": band.dials | dials}) if band.kind == INTERIOR else band
        for band in material.section.bands
    ]
    return material.model_copy(update={"section": material.section.model_copy(update={"bands": bands})})
