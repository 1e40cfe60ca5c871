"""The library of measured matter."""

import json
from functools import cached_property, lru_cache
from pathlib import Path

import numpy as np
from pydantic import BaseModel, computed_field

DATA = Path(__file__).parent / "data" / "substances"
WAVELENGTHS_NM = np.arange(380.0, 781.0)
D_NM, F_NM, C_NM = 587.5618, 486.1327, 656.2725
"""The lines at which an index and an Abbe number are quoted. Source: ISO 7944."""

NONE = "none"
METALS = "metal"
"""The family of matter that lets no light through."""


class Substance(BaseModel):
    """Index n and extinction k over wavelength, with the source of the data."""

    name: str
    title: str
    family: str
    source: str
    licence: str
    n_d: float
    abbe_number: float | None
    wavelengths_nm: list[float]
    n: list[float]
    k: list[float] | None

    @computed_field
    @property
    def lets_light_through(self) -> bool:
        return self.family != METALS

    @cached_property
    def index(self) -> np.ndarray:
        """(401,) n on the 1 nm grid; constant beyond the measured range."""
        return self._on_grid(self.n)

    @cached_property
    def extinction(self) -> np.ndarray:
        """(401,) k on the 1 nm grid; 0 where it was not measured."""
        return self._on_grid(self.k) if self.k else np.zeros(len(WAVELENGTHS_NM))

    def _on_grid(self, values) -> np.ndarray:
        from scipy.interpolate import PchipInterpolator

        inside = np.clip(WAVELENGTHS_NM, self.wavelengths_nm[0], self.wavelengths_nm[-1])
        return PchipInterpolator(self.wavelengths_nm, values)(inside)

    @cached_property
    def sigma_a(self) -> np.ndarray:
        """(401,) absorption in 1/m: 4 pi k / wavelength. Source: Born & Wolf, Principles of Optics, 7th ed., 14.1."""
        return 4 * np.pi * self.extinction / (WAVELENGTHS_NM * 1e-9)


@lru_cache(1)
def substances() -> dict[str, Substance]:
    """All substances by name, by family and then by index."""
    found = [Substance(**json.loads(path.read_text())) for path in sorted(DATA.glob("*.json"))]
    families = ("glass", "liquid", "crystal", "plastic", "metal")
    return {s.name: s for s in sorted(found, key=lambda s: (families.index(s.family), s.n_d))}


def clear_names() -> list[str]:
    return [NONE, *(s.name for s in substances().values() if s.family != "metal")]


def metal_names() -> list[str]:
    return [s.name for s in substances().values() if s.family == METALS]


def cauchy_index(n_d: float, abbe_number: float) -> np.ndarray:
    """(401,) index of a clear matter of given index and Abbe number: n = a + b / wavelength^2.

    Source: OpenPBR 1.1, transmission_dispersion_abbe_number.
    """
    b = (n_d - 1) / abbe_number / (F_NM**-2 - C_NM**-2)
    return n_d + b * (WAVELENGTHS_NM**-2.0 - D_NM**-2)
