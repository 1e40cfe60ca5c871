import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.surface import form_size_cm
from nineglass.matter.material import absorption_curve
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex
from nineglass.spectra.upsampling import color_spectrum

RUNGS = 20


def absorption_of(reading: Reading) -> np.ndarray:
    """(401,) absorption of the interior in 1/m, its driven dials read where one place must stand for all."""
    dials = reading.compiled.settings["interior"] | {
        name: reading.values["interior", name] for name in ("transmission_color", "transmission_depth", "concentration")
    }
    return absorption_curve(dials, color_spectrum)


def transmitted(reading: Reading, lengths_cm) -> np.ndarray:
    """(n, 401): transmittance of the interior after some lengths."""
    return np.exp(-absorption_of(reading) * np.asarray(lengths_cm, float)[:, None] / 100)


@GAUGES.gauge(title="Ladder", plot="rungs", bands=("interior",), place=1)
def ladder(reading: Reading) -> dict:
    """White light after growing lengths through the interior; the marks are the lengths that light travels in this picture."""
    size = form_size_cm(reading) or 10.0
    lengths = np.geomspace(size / 100, size * 3, RUNGS)
    depth = reading.values["interior", "transmission_depth"]
    rgb = np.clip(rgb_of_filter(transmitted(reading, lengths)), 0, None)
    return {
        "lengths_cm": lengths.tolist(),
        "colors": rgb.tolist(),
        "hex": [to_hex(c) for c in rgb],
        "depth_cm": depth,
        "varies": reading.varies("interior", "transmission_color") or reading.varies("interior", "transmission_depth"),
        "measured": reading.lengths,
    }
