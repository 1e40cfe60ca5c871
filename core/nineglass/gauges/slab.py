import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.index import index_of
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
from nineglass.optics.doubling import doublings, shares_of

THICKNESSES = 160
BEYOND = 2.0
"""The plot ends at so many times the form."""


@GAUGES.gauge(title="Slab", plot="curves", bands=("interior", "subsurface"), place=8, when=scatters)
def slab(reading: Reading) -> dict:
    """What slabs of the interior, thin to thick, reflect and pass of light that falls straight on them: clear, milky, ceramic."""
    size = form_size_cm(reading) or 10.0
    sigma_s, sigma_a = float(scattering_of(reading)[MIDDLE]), float(absorption_of(reading)[MIDDLE])
    sigma_t, index = sigma_s + sigma_a, max(float(index_of(reading)[MIDDLE]), 1.0)
    thick = BEYOND * size / 100
    depths, found = [], []
    for depth, reflects, passes in doublings(sigma_s / sigma_t, sigma_t * thick, asymmetry_of(reading), index):
        shares = shares_of(reflects, passes, index)
        depths.append(depth / sigma_t * 100)
        found.append((shares.reflected, shares.passed))
    lengths = np.linspace(0, thick * 100, THICKNESSES)
    at = np.log(np.maximum(lengths, depths[0]))
    reflected, passed = (np.interp(at, np.log(depths), values) for values in np.array(found).T)
    here = int(np.argmin(abs(lengths - size)))
    return {
        "x": {"label": "thickness", "unit": "cm", "values": lengths.tolist()},
        "y": {"label": "share", "low": 0, "high": 1},
        "curves": [
            {"label": "reflected", "values": reflected.tolist()},
            {"label": "passed", "values": passed.tolist()},
        ],
        "marks": [{"x": size, "label": "the form"}],
        "caption": f"A slab as thick as the form reflects {reflected[here]:.0%} and passes {passed[here]:.0%} of light of {MIDDLE_NM} nm.",
        "varies": varies_within(reading),
    }
