"""What light a lamp sends out before its filter."""

import numpy as np

from nineglass.lamps.light import Light
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import CMF, WAVELENGTHS_NM


def white_of(light: Light) -> np.ndarray:
    """(401,) its spectrum, of luminance 1; nothing where its curve has no light that is seen."""
    if light.spectrum is None:
        return blackbody(light.kelvin)
    own = np.interp(WAVELENGTHS_NM, *np.transpose(np.asarray(light.spectrum, float)), left=0, right=0)
    return own / max(float(own @ CMF[:, 1]), 1e-12)
