"""The two pigments of hair and fur."""

import numpy as np

from nineglass.matter.substances import WAVELENGTHS_NM

GREEN_NM = 545.0
EUMELANIN, PHEOMELANIN = (0.697, -3.33), (0.400, -4.75)
"""Absorption of a concentration of 1 over a fibre's radius, at the green primary (d'Eon et al. 2011), and the power of the wavelength by which it
falls (Donner & Jensen 2006, A Spectral BSSRDF for Shading Human Skin)."""


def absorption_of(pigment: tuple[float, float]) -> np.ndarray:
    """(401,) absorption per fibre diameter of a concentration of 1."""
    green, power = pigment
    return 2 * green * (WAVELENGTHS_NM / GREEN_NM) ** power
