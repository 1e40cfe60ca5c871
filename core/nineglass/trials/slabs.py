"""What absorbs and scatters so that slabs of it, thin, thick, and lit through, have three colours."""

import json
import sys
from dataclasses import asdict, dataclass
from functools import lru_cache

import numpy as np

from nineglass.child import Kind, say
from nineglass.documents.absorbing import absorbing
from nineglass.documents.bands.interior import CURVE, ONE_LOBE
from nineglass.optics.doubling import doublings, shares_of
from nineglass.spectra.difference import delta_e_of, how_apart, to_lab
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter
from nineglass.spectra.upsampling import spectrum_of
from nineglass.trials.swatches import KNOTS_NM, LEAST, MET, Swatch

DEEPEST, ALBEDO_STEPS = 4000.0, 28
LEAST_LOST = 1e-5
"""One less the largest albedo of the table; matter between that and 0 is looked up."""

PER_CM = (1e-5, 1e4)
"""What absorption and scattering are looked for within."""

SMOOTH = 0.2
"""How much a bend of the logarithm of a curve weighs against a difference of one L*a*b* unit; by trial, see the round trips in the tests."""

GROUNDS = {"dark": 0.0, "white": 0.85}
"""Reflectance of what lies behind the slabs that are lit from before: nothing, or white paper."""

LEFT_AT_THE_MOST = 0.01
"""The depth of what is found is such that no more than this is taken of all light."""


@dataclass(frozen=True)
class Slabs:
    """Lookups of what slabs do with light, by the logarithms of one less the albedo and of the optical depth."""

    reflected: object
    passed: object
    reflected_of_even: object
    passed_of_even: object

    @staticmethod
    @lru_cache(8)
    def of(index: float) -> "Slabs":
        """index: of the slab over that of what is around it."""
        from scipy.interpolate import RectBivariateSpline

        lost = np.linspace(np.log(LEAST_LOST), 0, ALBEDO_STEPS)
        found = []
        for one in lost:
            steps = list(doublings(1 - np.exp(one), DEEPEST, 0.0, index))
            found.append([shares_of(reflects, passes, index) for _, reflects, passes in steps])
        depths = np.log([depth for depth, *_ in steps])
        names = ("reflected", "passed", "reflected_of_even", "passed_of_even")
        tables = [np.array([[getattr(one, name) for one in row] for row in found]) for name in names]
        return Slabs(*(RectBivariateSpline(lost, depths, table) for table in tables))

    def reflectance(self, absorbed, scattered, depth: float, ground: float) -> np.ndarray:
        """Of a slab before something of a reflectance. absorbed, scattered: (n,) per cm; depth in cm."""
        at = _place(absorbed, scattered, depth)
        bare = self.reflected.ev(*at)
        through = self.passed.ev(*at) * self.passed_of_even.ev(*at)
        return bare + ground * through / (1 - ground * self.reflected_of_even.ev(*at))

    def transmittance(self, absorbed, scattered, depth: float) -> np.ndarray:
        return self.passed.ev(*_place(absorbed, scattered, depth))


def _place(absorbed, scattered, depth: float) -> tuple[np.ndarray, np.ndarray]:
    both = absorbed + scattered
    return np.log(np.clip(absorbed / both, LEAST_LOST, 1)), np.log(np.clip(both * depth, 1e-6, DEEPEST))


@dataclass(frozen=True)
class SolvedSlabs:
    """Absorption and scattering that come as near to three swatches as smooth ones can."""

    absorbed: np.ndarray
    """(21,) per cm, at `KNOTS_NM`."""
    scattered: np.ndarray
    colors: list[list[float]]
    """What the three come out as, as they were given."""
    differences: list[float]
    """CIE DE2000 of each."""
    says: list[str]
    """What cannot be met, in words."""

    @property
    def dials(self) -> dict:
        """Those of an interior that is so."""
        depth = float(np.clip(-np.log(LEFT_AT_THE_MOST) / max(self.absorbed.max(), 1e-4), 0.001, 100))
        left = np.clip(np.exp(-self.absorbed * depth), LEAST, 1)
        most = self.scattered.max()
        return absorbing(_points(left), depth) | {
            "density": 1.0,
            "scattering": CURVE,
            "scatter_curve": _points(self.scattered / most),
            "scatter_amount": float(most * depth),
            "transmission_scatter_anisotropy": 0.0,
            "phase": ONE_LOBE,
        }


SOLVING = Kind("looking for it", "other colours", path="thin")


def solve_in_child(given: list[Swatch], index: float, ground: float) -> dict:
    """`dials`, `colors`, `differences` and `says` of `solve_slabs`, from a process of its own: where no such matter is, it takes long. Raises Refused."""
    asked = {"given": [asdict(one) for one in given], "index": index, "ground": ground}
    return SOLVING.answer_of(__name__, given=json.dumps(asked).encode())


def main() -> dict:
    """In the child: what is asked comes on the standard input."""
    asked = json.load(sys.stdin)
    found = solve_slabs(*(Swatch(**one) for one in asked["given"]), asked["index"], asked["ground"])
    return {name: getattr(found, name) for name in ("dials", "colors", "differences", "says")}


def _points(values: np.ndarray) -> list[list[float]]:
    return [[float(nm), float(value)] for nm, value in zip(KNOTS_NM, values, strict=True)]


def solve_slabs(
    thin: Swatch, thick: Swatch, through: Swatch, index: float = 1.45, ground: float = GROUNDS["dark"]
) -> SolvedSlabs:
    """The absorption and scattering of what two slabs throw back, before a ground, and a third passes; light turns evenly to all sides.

    thin, thick, through: linear colours under white light, depths in cm. index: of the matter. ground: reflectance of what lies behind.
    """
    from scipy.optimize import least_squares

    slabs, given = Slabs.of(round(index, 3)), (thin, thick, through)
    wanted = [to_lab(one.color) for one in given]

    def colors(logs: np.ndarray) -> list[np.ndarray]:
        matter = np.exp(np.split(logs, 2))
        seen = [slabs.reflectance(*matter, one.depth, ground) for one in (thin, thick)]
        seen.append(slabs.transmittance(*matter, through.depth))
        return [np.clip(rgb_of_filter(np.interp(WAVELENGTHS_NM, KNOTS_NM, one)), 0, None) for one in seen]

    def residuals(logs: np.ndarray) -> np.ndarray:
        apart = [to_lab(rgb) - lab for rgb, lab in zip(colors(logs), wanted, strict=True)]
        bends = [np.diff(half, 2) for half in np.split(logs, 2)]
        return np.concatenate([*apart, *(SMOOTH * bend for bend in bends)])

    def apart_of(logs: np.ndarray) -> list[float]:
        return [delta_e_of(color, one.color) for color, one in zip(colors(logs), given, strict=True)]

    bounds, tried = tuple(np.log(PER_CM)), []
    for free_paths in FREE_PATHS:
        start = np.clip(_start(thick, through, free_paths), *bounds)
        tried.append(least_squares(residuals, start, bounds=bounds, max_nfev=80).x)
        if max(apart_of(tried[-1])) < MET:
            break
    logs = min(tried, key=lambda one: max(apart_of(one)))
    found, differences = colors(logs), apart_of(logs)
    says = [
        f"The colour {how} {one.depth:g} cm comes out {how_apart(color, one.color)} (DE2000 {difference:.1f}): no such matter has all three."
        for how, one, color, difference in zip(HOW, given, found, differences, strict=True)
        if difference > MET
    ]
    return SolvedSlabs(*np.exp(np.split(logs, 2)), [color.tolist() for color in found], differences, says)


HOW = ("thrown back by", "thrown back by", "of light through")


FREE_PATHS = (3.0, 30.0, 0.3, 100.0)
"""Of scattering, in the slab that is lit through: what is begun with, one after another, until the swatches are met."""


def _start(thick: Swatch, through: Swatch, free_paths: float) -> np.ndarray:
    """(42,) logarithms of absorption and scattering to begin with. Source: Kubelka & Munk 1931, absorption over scattering of a thick layer."""
    share = np.interp(KNOTS_NM, WAVELENGTHS_NM, spectrum_of(np.clip(thick.color, LEAST, 1)))
    scattered = np.full(len(KNOTS_NM), free_paths / through.depth)
    return np.log(np.concatenate([scattered * np.clip((1 - share) ** 2 / (2 * share), 1e-4, 1e3), scattered]))


if __name__ == "__main__":
    say(main, "thin")
