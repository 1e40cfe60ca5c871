"""Curves over wavelength, read in kernels."""

from nineglass.kernels import F, optic
from nineglass.spectra.observer import LOW_NM

LAST_BIN = 400


@optic
def curve_at(curve, wavelength_nm):
    """A curve (401,) on the 1 nm grid at one wavelength."""
    x = wavelength_nm - F(LOW_NM)
    k = min(max(int(x), 0), LAST_BIN - 1)
    return curve[k] + (curve[k + 1] - curve[k]) * (x - F(k))
