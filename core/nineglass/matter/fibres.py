"""What the dials of a fibre mean over wavelength."""

import numpy as np

from nineglass.documents.bands.fibre import DYE, PIGMENT
from nineglass.matter.melanin import EUMELANIN, PHEOMELANIN, absorption_of
from nineglass.matter.pelts import STEPS, absorption_table
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.limits import CLEAREST

SHAPE = ("longitudinal_roughness", "azimuthal_roughness", "fibre_ior", "highlight", "medulla")
"""The dials that say how much a pelt of a given absorption throws back."""


def dye_absorption(transmittance: list) -> np.ndarray:
    """(401,) absorption per diameter of what lets pass so much of each wavelength."""
    points = np.array(transmittance, float)
    passes = np.interp(WAVELENGTHS_NM, points[:, 0], points[:, 1])
    return -np.log(np.maximum(passes, CLEAREST))


def pelt_table(fibre: dict) -> np.ndarray:
    """(65,) `pelts.absorption_table` of the dials of a fibre."""
    return absorption_table(*(fibre[name] for name in SHAPE))


def fibre_absorption(fibre: dict, color_spectrum) -> np.ndarray:
    """(401,) absorption per diameter from the dials of a fibre. color_spectrum: makes a reflectance (401,) from a colour."""
    if fibre["color_from"] == PIGMENT:
        return fibre["eumelanin"] * absorption_of(EUMELANIN) + fibre["pheomelanin"] * absorption_of(PHEOMELANIN)
    if fibre["color_from"] == DYE:
        return fibre["dye_amount"] * dye_absorption(fibre["transmittance"])
    return np.interp(color_spectrum(fibre["fibre_color"]), np.linspace(0, 1, STEPS), pelt_table(fibre)) ** 2


def pelt_reflectance(fibre: dict, absorption: np.ndarray) -> np.ndarray:
    """(401,) the colour that a thick pelt of it has under even light."""
    table = pelt_table(fibre)
    return np.interp(np.sqrt(absorption), table[::-1], np.linspace(1, 0, STEPS))
