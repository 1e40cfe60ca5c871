import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.surface import form_size_cm
from nineglass.gauges.within import absorption_of, varies_within
from nineglass.matter.substances import WAVELENGTHS_NM


@GAUGES.gauge(title="Absorption", plot="curves", bands=("interior",), place=2)
def absorption(reading: Reading) -> dict:
    """What the interior lets through over wavelength: at the depth of the dial, and through the whole form."""
    sigma_a = absorption_of(reading)[::5]
    depth = reading.values["interior", "transmission_depth"]
    lengths = [("at depth", depth)]
    if reading.lengths:
        lengths += [("shortest", reading.lengths["low_cm"]), ("longest", reading.lengths["high_cm"])]
    elif size := form_size_cm(reading):
        lengths.append(("whole form", size))
    curves = [
        {"label": f"{words} {length:.2g} cm", "values": np.exp(-sigma_a * length / 100).tolist()}
        for words, length in lengths
    ]
    strongest = int(sigma_a.argmax())
    caption = "Nothing is absorbed."
    if sigma_a[strongest] > 1e-4:
        caption = f"Absorbs most at {WAVELENGTHS_NM[::5][strongest]:.0f} nm: {sigma_a[strongest] / 100:.3g} per cm."
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": WAVELENGTHS_NM[::5].tolist()},
        "y": {"label": "let through", "low": 0, "high": 1},
        "curves": curves,
        "marks": [],
        "caption": caption,
        "varies": varies_within(reading),
    }
