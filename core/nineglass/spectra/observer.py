"""The CIE 1931 2-degree observer, illuminant D65 and linear Rec.709, on a 1 nm grid from 380 to 780 nm.

The table in data/observer.npz is baked by tools/bake_spectra.py from the package colour-science
(CIE 015:2018, CIE 1931 2 Degree Standard Observer at 1 nm; CIE illuminant D65).
"""

from pathlib import Path

import numpy as np

DATA = Path(__file__).parent / "data"

LOW_NM, HIGH_NM = 380.0, 780.0
WAVELENGTHS_NM = np.arange(LOW_NM, HIGH_NM + 1)

with np.load(DATA / "observer.npz") as _table:
    CMF = _table["xyz"]
    """(401, 3): the colour-matching functions."""
    D65 = _table["d65"] / (_table["d65"] @ CMF[:, 1])
    """(401,): D65 scaled to luminance 1, the light of a picture's white."""

_PRIMARIES = np.array([[0.64, 0.33], [0.30, 0.60], [0.15, 0.06]])


def _xyz_to_rgb() -> np.ndarray:
    xyz = np.column_stack([_PRIMARIES, 1 - _PRIMARIES.sum(axis=1)]).T
    xyz = xyz / xyz[1]
    return np.linalg.inv(xyz * np.linalg.solve(xyz, D65 @ CMF))


XYZ_TO_RGB = _xyz_to_rgb()
"""(3, 3): XYZ to linear Rec.709; D65 gives exactly (1, 1, 1). Primaries: IEC 61966-2-1."""


LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
"""Of linear Rec.709 (IEC 61966-2-1)."""


def xyz_of(spectrum: np.ndarray) -> np.ndarray:
    """XYZ of spectral radiance per nm, (..., 401) -> (..., 3). D65 has Y = 1."""
    return spectrum @ CMF


def rgb_of(spectrum: np.ndarray) -> np.ndarray:
    """Linear Rec.709 of spectral radiance per nm, (..., 401) -> (..., 3)."""
    return xyz_of(spectrum) @ XYZ_TO_RGB.T


def rgb_of_filter(transmittance: np.ndarray) -> np.ndarray:
    """Linear Rec.709 of D65 seen through a transmittance or reflectance, (..., 401) -> (..., 3)."""
    return rgb_of(transmittance * D65)
