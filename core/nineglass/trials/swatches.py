"""What absorbs so that white light has one colour after a thin way through it, and another after a thick one."""

from dataclasses import dataclass

import numpy as np

from nineglass.documents.absorbing import absorbing
from nineglass.spectra.difference import delta_e_of, how_apart, to_lab
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter

KNOTS_NM = np.arange(380.0, 781.0, 20.0)
LEAST = 1e-4
SMOOTH = 0.35
"""How much a bend of the curve weighs against a difference of a swatch of one L*a*b* unit; by trial, see the round trips in the tests."""

MET = 1.0
"""CIE DE2000 up to which a swatch counts as met."""


@dataclass(frozen=True)
class Swatch:
    """A linear colour of white light after a depth in cm."""

    color: tuple[float, float, float]
    depth: float


@dataclass(frozen=True)
class Solved:
    """Absorption that comes as near to two swatches as a smooth one can."""

    transmittance: list[list[float]]
    """[nm, share of light left at the thinner depth]."""
    depth: float
    """cm: the thinner depth."""
    colors: list[list[float]]
    """What the two swatches come out as, as they were given."""
    differences: list[float]
    """CIE DE2000 of each."""
    says: list[str]
    """What cannot be met, in words."""

    @property
    def dials(self) -> dict:
        """Those of an interior that absorbs so."""
        return absorbing(self.transmittance, self.depth)

    def sigma(self) -> np.ndarray:
        """(401,) absorption per cm."""
        nm, left = np.array(self.transmittance).T
        return -np.log(np.clip(np.interp(WAVELENGTHS_NM, nm, left), LEAST, 1)) / self.depth


def solve(first: Swatch, second: Swatch) -> Solved:
    """The absorption of two swatches of different depth, never below nothing."""
    from scipy.optimize import least_squares

    from nineglass.spectra.upsampling import spectrum_of

    thin = min(first, second, key=lambda one: one.depth)
    wanted = [to_lab(one.color) for one in (first, second)]
    ratios = [one.depth / thin.depth for one in (first, second)]

    def left(optical: np.ndarray) -> np.ndarray:
        return np.exp(-np.interp(WAVELENGTHS_NM, KNOTS_NM, optical))

    def residuals(optical: np.ndarray) -> np.ndarray:
        passed = left(optical)
        apart = [
            to_lab(np.clip(rgb_of_filter(passed**ratio), 0, None)) - lab
            for ratio, lab in zip(ratios, wanted, strict=True)
        ]
        return np.concatenate([*apart, SMOOTH * np.diff(np.log(optical + 0.05), 2) * 10])

    share = np.interp(KNOTS_NM, WAVELENGTHS_NM, spectrum_of(np.clip(thin.color, LEAST, 1)))
    start = np.clip(-np.log(np.clip(share, LEAST, 1)), 1e-3, None)
    optical = least_squares(residuals, start, bounds=(0, np.inf), max_nfev=60).x
    passed = left(optical)
    colors = [np.clip(rgb_of_filter(passed**ratio), 0, None) for ratio in ratios]
    differences = [delta_e_of(color, one.color) for color, one in zip(colors, (first, second), strict=True)]
    points = [[float(nm), float(min(max(np.exp(-v), LEAST), 1))] for nm, v in zip(KNOTS_NM, optical, strict=True)]
    says = [
        _apart(one, color, difference)
        for one, color, difference in zip((first, second), colors, differences, strict=True)
        if difference > MET
    ]
    return Solved(points, thin.depth, [color.tolist() for color in colors], differences, says)


def _apart(wanted: Swatch, color: np.ndarray, difference: float) -> str:
    """How what comes out differs from what was wanted."""
    told = f"it comes out {how_apart(color, wanted.color)} (DE2000 {difference:.1f})"
    return f"The colour at {wanted.depth:g} cm cannot be met with the other: {told}."
