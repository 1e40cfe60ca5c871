import numpy as np

from nineglass.documents.bands.flame import BLACK_BODY, TRUE_DIMNESS
from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.surface import places, values_at
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.spectra.blackbody import COLDEST_SEEN_K, blackbody
from nineglass.trace.media.fields import luminances, radiance_at_560

SEEN_SHARE = 0.05
"""Of what could glow, below which a place does not count."""


def _is_black_body(reading: Reading) -> bool:
    return reading.compiled.settings["flame"]["light_from"] == BLACK_BODY


@GAUGES.gauge(title="Light", plot="curves", bands=("flame",), place=3, when=_is_black_body)
def flame_light(reading: Reading) -> dict:
    """What 1 cm of the flame sends out over wavelength where it is coolest, in the middle of its temperatures, and where it is hottest (Planck's law)."""
    dials = {dial: reading.compiled.dials["flame", dial] for dial in ("temperature", "flame_density")}
    found = values_at(reading, dials, places(reading))
    values = found["temperature"]
    hot = values[(values > COLDEST_SEEN_K) & (found["flame_density"] > SEEN_SHARE)]
    steps = np.unique(np.round(np.percentile(hot, (2, 50, 98)))) if hot.size else np.array([])
    flame = reading.compiled.settings["flame"]
    strength = reading.values["flame", "emission_luminance"]
    is_true = flame["dimness"] == TRUE_DIMNESS
    luminance = strength * radiance_at_560(steps, is_true) * np.interp(steps, *luminances())
    luminance = np.minimum(luminance, flame["most_luminance"])
    glows = [one * blackbody(kelvin)[::5] for one, kelvin in zip(luminance, steps, strict=True)]
    caption = "Nothing is hot enough to glow."
    if len(steps):
        caption = f"From {steps[0]:.0f} to {steps[-1]:.0f} K; 1 cm has a luminance of {luminance[0]:.2g} to {luminance[-1]:.2g}."
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": WAVELENGTHS_NM[::5].tolist()},
        "y": {"label": "radiance", "low": 0, "high": float(max((one.max() for one in glows), default=1.0))},
        "curves": [
            {"label": f"{kelvin:.0f} K", "values": one.tolist()} for kelvin, one in zip(steps, glows, strict=True)
        ],
        "marks": [],
        "caption": caption,
        "varies": bool(np.ptp(values) > 0),
    }
