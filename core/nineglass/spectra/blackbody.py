"""Light of a glowing body."""

import numpy as np

from nineglass.spectra.observer import CMF, WAVELENGTHS_NM

SECOND_RADIATION_CONSTANT_NM_K = 1.438776877e7
"""hc/k in nm K. Source: CODATA 2018."""

COLDEST_SEEN_K = 400.0
"""Below it nothing glows that is seen."""


def planck(wavelength_nm, temperature_k: float) -> np.ndarray:
    """Relative spectral radiance per nm of a black body, temperature above 0 K.

    Source: Planck's law; CODATA 2018 constants. Scaled to 1 at 560 nm, as the CIE scales it.
    """
    wavelength_nm = np.asarray(wavelength_nm, float)
    exponent = SECOND_RADIATION_CONSTANT_NM_K / (wavelength_nm * temperature_k)
    at_560 = np.expm1(SECOND_RADIATION_CONSTANT_NM_K / (560 * temperature_k))
    return (560 / wavelength_nm) ** 5 * at_560 / np.expm1(exponent)


def blackbody(temperature_k: float) -> np.ndarray:
    """(401,) spectral radiance of a black body, scaled to luminance 1."""
    glow = planck(WAVELENGTHS_NM, temperature_k)
    return glow / (glow @ CMF[:, 1])
