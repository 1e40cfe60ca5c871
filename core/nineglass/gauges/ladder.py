import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex
from nineglass.spectra.upsampling import spectrum_of
from nineglass.trace.scene import form_of

RUNGS = 20


def transmitted(color, depth_cm: float, lengths_cm) -> np.ndarray:
    """(n, 401): transmittance after lengths of a matter whose transmission colour is reached at a depth."""
    share = np.maximum(spectrum_of(np.clip(color, 0, 1)), 1e-6)
    return share ** (np.asarray(lengths_cm, float)[:, None] / depth_cm)


def form_size_cm(reading: Reading) -> float | None:
    """The longest side of the form."""
    if reading.stage is None:
        return None
    low, high = form_of(reading.stage)[0].bounds()
    return float((high - low).max() * 100)


@GAUGES.gauge(title="Ladder", plot="rungs")
def ladder(reading: Reading) -> dict:
    """White light after growing lengths through the interior; the marks are the lengths that light travels in this picture."""
    size = form_size_cm(reading) or 10.0
    lengths = np.geomspace(size / 100, size * 3, RUNGS)
    color = reading.values["interior", "transmission_color"]
    depth = reading.values["interior", "transmission_depth"]
    rgb = np.clip(rgb_of_filter(transmitted(color, depth, lengths)), 0, None)
    return {
        "lengths_cm": lengths.tolist(),
        "colors": rgb.tolist(),
        "hex": [to_hex(c) for c in rgb],
        "depth_cm": depth,
        "varies": reading.varies("interior", "transmission_color") or reading.varies("interior", "transmission_depth"),
        "measured": reading.lengths,
    }
