import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.matter.material import index_curve
from nineglass.matter.substances import C_NM, D_NM, F_NM, WAVELENGTHS_NM, substances


def index_of(reading: Reading) -> np.ndarray:
    """(401,) refractive index of the boundary, its driven dial read where one place must stand for all."""
    if "metal" in reading.compiled.present:
        return substances()[reading.compiled.settings["metal"]["substance"]].index
    dials = reading.compiled.settings["interface"]
    return index_curve(dials | {"specular_ior": reading.values["interface", "specular_ior"]})


def abbe_of(n: np.ndarray) -> float | None:
    """The Abbe number of an index curve (401,); None without dispersion."""
    d, f, c = (float(np.interp(nm, WAVELENGTHS_NM, n)) for nm in (D_NM, F_NM, C_NM))
    return (d - 1) / (f - c) if f - c > 1e-7 else None


@GAUGES.gauge(title="Index", plot="curves")
def index(reading: Reading) -> dict:
    """The refractive index over wavelength, with its value at the helium line and the Abbe number."""
    n = index_of(reading)
    n_d = float(np.interp(D_NM, WAVELENGTHS_NM, n))
    curves = [{"label": "n", "values": n[::5].tolist()}]
    abbe = abbe_of(n)
    words = f"n = {n_d:.4f} at every wavelength: no dispersion."
    if abbe:
        words = f"n = {n_d:.4f}, Abbe number {abbe:.1f}."
    scale = reading.compiled.settings["interface"]["transmission_dispersion_scale"]
    if "metal" in reading.compiled.present:
        words = f"n = {n_d:.3f} at the helium line."
    elif scale not in (0, 1):
        words += f" Dispersion is {scale:g} times the true one."
    room = max(0.02, float(np.ptp(n)))
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": WAVELENGTHS_NM[::5].tolist()},
        "y": {"label": "index", "low": float(n.min()) - room, "high": float(n.max()) + room},
        "curves": curves,
        "marks": [{"x": D_NM, "label": "d 587.6 nm"}],
        "caption": words,
        "varies": reading.varies("interface", "specular_ior"),
    }
