import numpy as np

from nineglass.gauges import GAUGES, Reading


@GAUGES.gauge(title="Index", plot="curves")
def index(reading: Reading) -> dict:
    """The refractive index over wavelength."""
    n = reading.values["interface", "specular_ior"]
    wavelengths = np.linspace(380, 780, 81)
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": wavelengths.tolist()},
        "y": {"label": "index", "low": 1.0, "high": max(2.0, n + 0.2)},
        "curves": [{"label": "n", "values": [n] * len(wavelengths)}],
        "marks": [{"x": 587.6, "label": "d 587.6 nm"}],
        "caption": f"n = {n:.4g} at every wavelength: no dispersion.",
        "varies": reading.varies("interface", "specular_ior"),
    }
