"""The wavelengths that red, green and blue of a picture stand for."""

from functools import cache

import numpy as np

from nineglass.spectra.observer import CMF, D65, WAVELENGTHS_NM, XYZ_TO_RGB


@cache
def bands_of_channels(count: int) -> list[list[float]]:
    """For red, green and blue so many wavelengths that each stand for an equal share of the channel's light, by the observer under D65 (what is
    negative is left out)."""
    weights = np.maximum((CMF * D65[:, None]) @ XYZ_TO_RGB.T, 0)
    found = []
    for own in weights.T:
        own = np.where(own > 0.02 * own.max(), own, 0)
        middles = (np.arange(count) + 0.5) / count
        found.append([float(nm) for nm in np.interp(middles, np.cumsum(own) / own.sum(), WAVELENGTHS_NM)])
    return found
