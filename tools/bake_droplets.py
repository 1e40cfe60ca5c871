"""Make matter/data/droplets.npz: how fog droplets scatter, by the theory of Mie, for some diameters; with the package miepython.

python tools/bake_droplets.py
"""

import miepython
import numpy as np
from nineglass.matter.phases import DROPLETS_FILE, STEPS, cosines_of

WATER_INDEX = 1.333
NM = 550.0
DIAMETERS_UM = (0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0)
SPREAD = 0.12
"""Standard deviation of the logarithm of diameters: droplets of one size alone would draw rings that no fog shows."""

SIZES = 25
COSINES = np.cos(np.linspace(np.pi, 0, 2501) ** 2 / np.pi)
"""Crowded where light goes about straight on."""


def density_of(diameter_um: float) -> np.ndarray:
    """Density (1/sr) at `COSINES` of unpolarised light of `NM`, droplets of many sizes about one together."""
    steps = np.linspace(-2.5, 2.5, SIZES)
    total = np.zeros_like(COSINES)
    weights = 0.0
    for step in steps:
        diameter = diameter_um * np.exp(SPREAD * step)
        size = np.pi * diameter / (NM / 1000)
        _, scattered, _, _ = miepython.efficiencies_mx(WATER_INDEX, size)
        weight = np.exp(-0.5 * step * step) * scattered * diameter**2
        total += weight * miepython.i_unpolarized(WATER_INDEX, size, COSINES, norm="one")
        weights += weight
    return total / weights


def main() -> None:
    rows = [cosines_of(COSINES, density_of(one), STEPS) for one in DIAMETERS_UM]
    DROPLETS_FILE.parent.mkdir(exist_ok=True)
    np.savez_compressed(DROPLETS_FILE, diameters_um=np.array(DIAMETERS_UM), cosines=np.array(rows, np.float32))


if __name__ == "__main__":
    main()
