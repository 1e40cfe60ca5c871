from math import asin, atan, degrees

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.index import index_of, metal_of
from nineglass.matter.substances import D_NM, WAVELENGTHS_NM
from nineglass.optics.conductor import conductor_reflectance
from nineglass.optics.dielectric import dielectric_reflectance


def reflectance_over_angle(angles_deg, eta: float) -> list[float]:
    """Unpolarised reflectance at each angle of incidence, for an index ratio beyond over before."""
    return [float(dielectric_reflectance(np.float32(np.cos(np.radians(a))), np.float32(eta))[0]) for a in angles_deg]


def _metal(reading: Reading) -> dict:
    index, extinction = metal_of(reading)
    angles, curves = np.linspace(0, 90, 91), []
    for nm in (450, 550, 650):
        at = nm - 380
        values = [
            float(
                conductor_reflectance(
                    np.float32(np.cos(np.radians(a))), np.float32(index[at]), np.float32(extinction[at])
                )
            )
            for a in angles
        ]
        curves.append({"label": f"{nm} nm", "values": values})
    return {
        "x": {"label": "angle", "unit": "°", "values": angles.tolist()},
        "y": {"label": "reflected", "low": 0, "high": 1},
        "curves": curves,
        "marks": [],
        "caption": f"{curves[1]['values'][0]:.1%} of green light is reflected face-on.",
        "varies": False,
    }


@GAUGES.gauge(title="Facing", plot="curves")
def facing(reading: Reading) -> dict:
    """How much the boundary reflects, from face-on to the rim: seen from outside, and from inside the matter."""
    n = float(np.interp(D_NM, WAVELENGTHS_NM, index_of(reading)))
    if "metal" in reading.compiled.present:
        return _metal(reading)
    angles = np.linspace(0, 90, 91)
    outside, inside = reflectance_over_angle(angles, n), reflectance_over_angle(angles, 1 / n)
    marks = [{"x": degrees(atan(n)), "label": f"Brewster {degrees(atan(n)):.1f}°"}]
    words = f"{outside[0]:.1%} is reflected face-on"
    if n > 1.0001:
        critical = degrees(asin(1 / n))
        marks.append({"x": critical, "label": f"critical {critical:.1f}°"})
        words += f"; from inside, all of it beyond {critical:.1f}°"
    return {
        "x": {"label": "angle", "unit": "°", "values": angles.tolist()},
        "y": {"label": "reflected", "low": 0, "high": 1},
        "curves": [{"label": "from outside", "values": outside}, {"label": "from inside", "values": inside}],
        "marks": marks,
        "caption": words + ".",
        "varies": reading.varies("interface", "specular_ior"),
    }
