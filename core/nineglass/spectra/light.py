"""Light of any colour as a sum of three: the spectra of red, green and blue light, which together are D65."""

import numpy as np

from nineglass.spectra.observer import D65, DATA


def light_basis() -> np.ndarray:
    """(3, 401) spectral radiance of the linear Rec.709 primaries as lights, smooth, never negative; their sum is D65.

    Baked by tools/bake_spectra.py. Source: Mallett & Yuksel 2019, Spectral Primary Decomposition for Rendering with sRGB Reflectance.
    """
    return _BASIS * D65


_BASIS = np.load(DATA / "light_basis.npy")
"""(3, 401) shares of D65."""
