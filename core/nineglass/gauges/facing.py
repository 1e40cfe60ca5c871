from math import asin, atan, degrees

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.film import beneath, films_of, reflectance_of
from nineglass.gauges.index import index_of, metal_of
from nineglass.matter.substances import D_NM, WAVELENGTHS_NM
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.optics.film import NO_FILMS

ANGLES = np.linspace(0, 90, 91)
SEEN_NM = (450, 550, 650)
"""Blue, green and red, where the boundary treats them otherwise."""


BOUNDARIES = ("coat", "interface", "metal")


def reflectance_over_angle(angles_deg, eta: float) -> list[float]:
    """Unpolarised reflectance at each angle of incidence, for an index ratio beyond over before."""
    return [float(dielectric_reflectance(np.float32(np.cos(np.radians(a))), np.float32(eta))[0]) for a in angles_deg]


def _outermost(reading: Reading) -> tuple[str, bool]:
    """(slot of the outermost boundary, whether films lie on it)."""
    leaf = reading.compiled.leaves[0]
    order = [slot for slot in leaf.order if leaf.kinds[slot] in (*BOUNDARIES, "film")]
    boundary = next(slot for slot in order if leaf.kinds[slot] in BOUNDARIES)
    return boundary, leaf.kinds[order[0]] == "film"


def _plot(curves: list[dict], marks: list[dict], caption: str, varies: bool) -> dict:
    return {
        "x": {"label": "angle", "unit": "°", "values": ANGLES.tolist()},
        "y": {"label": "reflected", "low": 0, "high": 1},
        "curves": curves,
        "marks": marks,
        "caption": caption,
        "varies": varies,
    }


def _by_wavelength(reading: Reading, is_filmed: bool) -> dict:
    leaf, curves = reading.compiled.leaves[0], []
    films = films_of(leaf, reading.values) if is_filmed else [(1.0, NO_FILMS)]
    curves_of_index = beneath(leaf, reading.values) if is_filmed else metal_of(reading)
    for nm in SEEN_NM:
        index, extinction = (np.interp(nm, WAVELENGTHS_NM, curve) for curve in curves_of_index)
        shares = [reflectance_of(films, np.cos(np.radians(a)), index, extinction, nm) for a in ANGLES]
        curves.append({"label": f"{nm} nm", "values": shares})
    blue, green, red = (curve["values"][0] for curve in curves)
    words = f"Face-on {blue:.1%} of blue, {green:.1%} of green and {red:.1%} of red light is reflected."
    varies = is_filmed and any(reading.varies(*dial) for dial in leaf.dials if leaf.kinds.get(dial[0]) == "film")
    return _plot(curves, [], words, varies)


@GAUGES.gauge(title="Facing", plot="curves", bands=BOUNDARIES, place=5)
def facing(reading: Reading) -> dict:
    """How much the outermost boundary reflects, from face-on to the rim: from both sides, or by wavelength where it has colour."""
    boundary, is_filmed = _outermost(reading)
    if is_filmed or boundary == "metal":
        return _by_wavelength(reading, is_filmed)
    is_coat = reading.compiled.leaves[0].kinds[boundary] == "coat"
    n = reading.values[boundary, "coat_ior"] if is_coat else float(np.interp(D_NM, WAVELENGTHS_NM, index_of(reading)))
    outside, inside = reflectance_over_angle(ANGLES, n), reflectance_over_angle(ANGLES, 1 / n)
    marks = [{"x": degrees(atan(n)), "label": f"Brewster {degrees(atan(n)):.1f}°"}]
    words = f"{outside[0]:.1%} is reflected face-on" + (" by the coat" if is_coat else "")
    if n > 1.0001:
        critical = degrees(asin(1 / n))
        marks.append({"x": critical, "label": f"critical {critical:.1f}°"})
        words += f"; from inside, all of it beyond {critical:.1f}°"
    curves = [{"label": "from outside", "values": outside}, {"label": "from inside", "values": inside}]
    return _plot(curves, marks, words + ".", reading.varies(boundary, "coat_ior" if is_coat else "specular_ior"))
