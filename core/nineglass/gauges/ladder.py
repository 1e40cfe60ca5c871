import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.surface import form_size_cm
from nineglass.gauges.within import depth_of, passed, varies_within
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex

RUNGS = 20


@GAUGES.gauge(title="Ladder", plot="rungs", bands=("interior",), place=1)
def ladder(reading: Reading) -> dict:
    """White light after growing lengths through the interior, with what slabs so thick pass on of it scattered; the marks are the lengths that light
    travels in this picture."""
    size = form_size_cm(reading) or 10.0
    lengths = np.geomspace(size / 100, size * 3, RUNGS)
    rgb = np.clip(rgb_of_filter(passed(reading, lengths)), 0, None)
    return {
        "lengths_cm": lengths.tolist(),
        "colors": rgb.tolist(),
        "hex": [to_hex(c) for c in rgb],
        "depth_cm": depth_of(reading),
        "varies": varies_within(reading),
        "measured": reading.lengths,
    }
