"""Where matter scatters light to, beyond one lobe: two of them, the molecules of air, droplets of fog; as tables for `optics.phase.tabled_phase`."""

from functools import lru_cache
from pathlib import Path

import numpy as np

from nineglass.documents.bands.interior import AIR_MOLECULES, DROPLETS, TWO_LOBES

STEPS = 1024
DROPLETS_FILE = Path(__file__).parent / "data" / "droplets.npz"
"""Made by tools/bake_droplets.py. Source: Mie 1908 as in Bohren & Huffman 1983, by the package miepython."""

NO_TABLE = np.zeros(STEPS + 1, np.float32)


def phase_table(interior: dict) -> np.ndarray | None:
    """(1025,) cosines at even steps of probability; None for one lobe, which needs no table."""
    if interior["phase"] == TWO_LOBES:
        return _two_lobes(
            interior["transmission_scatter_anisotropy"], interior["second_anisotropy"], interior["second_share"]
        )
    if interior["phase"] == AIR_MOLECULES:
        return _air()
    if interior["phase"] == DROPLETS:
        return _droplets(interior["droplet_diameter"])
    return None


def mean_cosine(interior: dict) -> float:
    """The mean cosine between the ways before and after a scattering."""
    table = phase_table(interior)
    if table is None:
        return interior["transmission_scatter_anisotropy"]
    return float((table[1:] + table[:-1]).mean() / 2)


@lru_cache(32)
def _two_lobes(first: float, second: float, share: float) -> np.ndarray:
    def lobe(cosines: np.ndarray, g: float) -> np.ndarray:
        return (1 - g * g) / (1 + g * g - 2 * g * cosines) ** 1.5

    cosines = -np.cos(np.linspace(0, np.pi, 20001))
    return cosines_of(cosines, (1 - share) * lobe(cosines, first) + share * lobe(cosines, second), STEPS)


@lru_cache(1)
def _air() -> np.ndarray:
    """Source: Rayleigh 1871, On the Light from the Sky, unpolarised."""
    cosines = np.linspace(-1, 1, 20001)
    return cosines_of(cosines, 1 + cosines**2, STEPS)


@lru_cache(1)
def _baked() -> tuple[np.ndarray, np.ndarray]:
    with np.load(DROPLETS_FILE) as found:
        return np.log(found["diameters_um"]), found["cosines"]


@lru_cache(32)
def _droplets(diameter_um: float) -> np.ndarray:
    """Between the diameters of the table what is as likely lies in between."""
    diameters, cosines = _baked()
    place = np.interp(np.log(diameter_um), diameters, np.arange(len(diameters)))
    below = min(int(place), len(diameters) - 2)
    return cosines[below] + (cosines[below + 1] - cosines[below]) * (place - below)


def cosines_of(cosines: np.ndarray, density: np.ndarray, steps: int) -> np.ndarray:
    """(steps + 1,) cosines at even steps of probability. cosines: (n,) rising from -1 to 1. density: (n,), of any scale."""
    share = np.concatenate([[0], np.cumsum((density[1:] + density[:-1]) / 2 * np.diff(cosines))])
    found = np.interp(np.linspace(0, 1, steps + 1), share / share[-1], cosines)
    found[0], found[-1] = -1, 1
    return found
