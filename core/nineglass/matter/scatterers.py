"""The library of measured matter that scatters light."""

import json
from functools import cached_property, lru_cache
from pathlib import Path

import numpy as np
from pydantic import BaseModel

from nineglass.matter.substances import NONE, WAVELENGTHS_NM

DATA = Path(__file__).parent / "data" / "scatterers"


class Scatterer(BaseModel):
    """Reduced scattering and absorption over wavelength, with the source of the data."""

    name: str
    title: str
    source: str
    licence: str
    wavelengths_nm: list[float]
    reduced_per_mm: list[float]
    """Scattering as it would be if it went to all sides alike (similarity): sigma_s (1 - g)."""
    absorbed_per_mm: list[float]

    @cached_property
    def reduced(self) -> np.ndarray:
        """(401,) reduced scattering, 1/m."""
        return self._on_grid(self.reduced_per_mm)

    @cached_property
    def sigma_a(self) -> np.ndarray:
        """(401,) absorption, 1/m."""
        return self._on_grid(self.absorbed_per_mm)

    def _on_grid(self, per_mm) -> np.ndarray:
        """Between measured wavelengths as a power of the wavelength, as scattering goes; constant beyond them."""
        logs = np.log(np.maximum(per_mm, 1e-9))
        return 1000 * np.exp(np.interp(np.log(WAVELENGTHS_NM), np.log(self.wavelengths_nm), logs))


@lru_cache(1)
def scatterers() -> dict[str, Scatterer]:
    """All of them by name, those that scatter least first."""
    found = [Scatterer(**json.loads(path.read_text())) for path in sorted(DATA.glob("*.json"))]
    return {s.name: s for s in sorted(found, key=lambda s: float(s.reduced.mean()))}


def scatterer_names() -> list[str]:
    return [NONE, *scatterers()]
