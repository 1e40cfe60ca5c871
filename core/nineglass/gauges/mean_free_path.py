import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.surface import form_size_cm
from nineglass.gauges.within import (
    MIDDLE,
    MIDDLE_NM,
    absorption_of,
    asymmetry_of,
    scattering_of,
    scatters,
    varies_within,
)
from nineglass.matter.substances import WAVELENGTHS_NM

BEYOND = 2.0
"""The plot ends at so many times the form."""


@GAUGES.gauge(title="Mean free path", plot="curves", bands=("interior", "subsurface"), place=6, when=scatters)
def mean_free_path(reading: Reading) -> dict:
    """How far light goes in the interior over wavelength: until it is scattered, until it has lost its way, and until it is absorbed."""
    size = form_size_cm(reading) or 10.0
    sigma_s, sigma_a = scattering_of(reading), absorption_of(reading)
    lost = sigma_s * (1 - asymmetry_of(reading))
    rows = (("until scattered", sigma_s), ("until its way is lost", lost), ("until absorbed", sigma_a))
    path = 100 / max(float(sigma_s[MIDDLE]), 1e-9)
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": WAVELENGTHS_NM[::5].tolist()},
        "y": {"label": "cm", "low": 0, "high": BEYOND * size},
        "curves": [
            {"label": words, "values": np.minimum(100 / np.maximum(sigma[::5], 1e-9), BEYOND * size).tolist()}
            for words, sigma in rows
        ],
        "marks": [],
        "caption": f"At {MIDDLE_NM} nm light goes {path:.3g} cm until it is scattered: {size / path:.3g} times across the form of {size:.3g} cm.",
        "varies": varies_within(reading),
    }
