"""What flakes look like: the colours that they mirror face-on."""

import numpy as np

from nineglass.documents.bands.flakes import CLEAR_PLATE, COLORS
from nineglass.matter.material import between_stops
from nineglass.matter.substances import WAVELENGTHS_NM, substances
from nineglass.optics.film import NO_FILMS, boundary_reflectance
from nineglass.spectra.observer import rgb_of_filter

VARNISH = 1.5
"""The index around flakes."""


def flake_spectrum(dials: dict, tone: float) -> np.ndarray:
    """(401,) the share of light that one flake mirrors face-on. dials: of its band; tone: its random number, 0 to 1. Not for a ramp of colours."""
    is_plate = dials["flake_matter"] == CLEAR_PLATE
    thickness = dials["plate_thickness" if is_plate else "flake_film_thickness"]
    thickness *= 1 + dials["flake_film_spread"] * (2 * tone - 1)
    metal = None if is_plate else substances()[dials["flake_matter"]]
    index = np.full(401, VARNISH) if is_plate else metal.index
    extinction = np.full(401, 1e-6) if is_plate else metal.extinction
    films = (int(thickness > 0), np.float32(thickness), np.float32(dials["flake_film_ior"]), *NO_FILMS[3:])
    rows = zip(index, extinction, WAVELENGTHS_NM, strict=True)
    return np.array(
        [boundary_reflectance(films, np.float32(1), np.float32(VARNISH), *(np.float32(v) for v in row)) for row in rows]
    )


def flake_colors(dials: dict, tones: np.ndarray) -> np.ndarray:
    """(n, 3) linear Rec.709 of some flakes face-on. tones: (n,) their random numbers, 0 to 1."""
    if dials["flake_matter"] == COLORS:
        return between_stops(dials["flake_colors"], tones)
    return np.array([rgb_of_filter(flake_spectrum(dials, tone)) for tone in tones])
