"""Readings of absorbance held against each other: for the same way of light, over the same places. Source: the law of Bouguer, Lambert and Beer,
by which absorbance grows with the way (ISO 80000-7, 7-33).
"""

from dataclasses import dataclass

import numpy as np

HOLDS_WITHIN = 0.05
"""Of the absorbance of 1 cm: so far apart two ways may be where the law is said to hold."""

LEAST = 0.1
"""Absorbance of 1 cm; of less the same difference is allowed."""


@dataclass(frozen=True)
class Reading:
    """Absorbance at places (nm) of a sample over a way of light in cm."""

    sample: str
    length_cm: float
    places: np.ndarray
    absorbance: np.ndarray

    @property
    def label(self) -> str:
        return f"{self.sample}, {self.length_cm * 10:g} mm"

    def at(self, places: np.ndarray) -> np.ndarray:
        """Absorbance at other places, linear between those that were read; NaN beyond them."""
        if not len(self.places):
            return np.full(len(places), np.nan)
        return np.interp(places, self.places, self.absorbance, left=np.nan, right=np.nan)


def side_by_side(readings: list[Reading], for_1_cm: bool) -> tuple[np.ndarray, list[np.ndarray]]:
    """(places of the reading that has the most, the absorbance of each there); for_1_cm: over its length."""
    places = max((one.places for one in readings), key=len)
    return places, [one.at(places) / (one.length_cm if for_1_cm else 1.0) for one in readings]


def where_it_holds(first: Reading, other: Reading) -> tuple[np.ndarray, np.ndarray]:
    """(places that both have, whether two lengths of one sample give the same absorbance of 1 cm there)."""
    places, (one, two) = side_by_side([first, other], True)
    both = np.isfinite(one) & np.isfinite(two)
    one, two = one[both], two[both]
    return places[both], np.abs(one - two) <= HOLDS_WITHIN * np.maximum(np.maximum(one, two), LEAST)


def says(readings: list[Reading]) -> str:
    """What the first two tell of the law, in words."""
    if len(readings) < 2 or readings[0].sample != readings[1].sample or readings[0].length_cm == readings[1].length_cm:
        return "Read a sample in cuvettes of two lengths, and choose both, to see where Bouguer's law holds."
    places, holds = where_it_holds(*readings[:2])
    if not len(places):
        return "Nothing was read of both yet."
    words = (
        f"Bouguer's law holds within {100 * HOLDS_WITHIN:.0f} % at {round(100 * holds.mean())} % of the wavelengths."
    )
    if holds.all():
        return words
    first, last = places[~holds][[0, -1]]
    return f"{words} Not at {first:g} to {last:g} nm: so little light is left there, or taken, that stray light and noise tell."
