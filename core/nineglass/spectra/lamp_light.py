"""What light a lamp sends out before its filter."""

import numpy as np

from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import CMF, WAVELENGTHS_NM


def white_of(kelvin: float, spectrum: list | None) -> np.ndarray:
    """(401,) the light of a temperature, or of a curve [nm, relative power] in its place, of luminance 1; nothing where the curve has no light
    that is seen."""
    if spectrum is None:
        return blackbody(kelvin)
    own = np.interp(WAVELENGTHS_NM, *np.transpose(np.asarray(spectrum, float)), left=0, right=0)
    return own / max(float(own @ CMF[:, 1]), 1e-12)
