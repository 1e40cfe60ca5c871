"""An interior that absorbs as something was measured, or found, to."""

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.describe import Fault, Refused
from nineglass.documents.bands.interior import CURVE, DYES
from nineglass.documents.model import Material
from nineglass.matter.dyes import OWN, PLACES
from nineglass.matter.substances import NONE
from nineglass.optics.limits import CLEAREST

BAND = "interior"
STRONGEST = 2.0
"""Absorbance of 1 cm that a dye's curve is kept with at most: a share of light tells no more than so much well."""


def absorbing(points: list[list[float]], depth_cm: float) -> dict:
    """The dials of `BAND`. points: the share of light left after the depth, [nm, share]."""
    return {"absorption": CURVE, "transmittance": points, "transmission_depth": depth_cm, "concentration": 1.0}


def dyed(material: Material, points: list[list[float]], depth_cm: float) -> dict:
    """The dials of `BAND` in which what was measured is one more dye, as strong as it was; dyes that are there stay. Raises Refused when all
    places are taken. points, depth_cm: see `absorbing`."""
    band = next((one for one in material.section.bands if one.kind == BAND), None)
    own = BANDS.kinds[BAND].defaults() | (band.dials if band else {})
    is_mixed = own["absorption"] == DYES
    free = [number for number in PLACES if not is_mixed or own[f"dye_{number}"] == NONE]
    if not free:
        raise Refused([Fault("interior", "all four dyes are taken", "four dyes", "Set one of them to none first.")])
    nm, share = np.transpose(np.asarray(points, float))
    absorbance = -np.log10(np.clip(share, CLEAREST, 1)) / depth_cm
    strength = max(float(absorbance.max()) / STRONGEST, 1.0)
    let_through = np.power(10.0, -absorbance / strength)
    number, concentration = free[0], own["concentration"] if is_mixed else 1.0
    others = {} if is_mixed else {f"dye_{other}": NONE for other in PLACES}
    return others | {
        "absorption": DYES,
        f"dye_{number}": OWN,
        f"own_{number}": [[float(x), float(y)] for x, y in zip(nm, let_through, strict=True)],
        f"amount_{number}": strength / concentration,
        "concentration": concentration,
    }
