import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.within import asymmetry_of, scatters
from nineglass.optics.phase import henyey_greenstein

ANGLES = np.linspace(0, 180, 91)


@GAUGES.gauge(title="Phase", plot="polar", bands=("interior", "subsurface"), place=7, when=scatters)
def phase(reading: Reading) -> dict:
    """Where scattered light goes: onward is right, back is left; beside it, dotted, light that goes to all sides alike."""
    g = np.float32(asymmetry_of(reading))
    shares = np.array([float(henyey_greenstein(np.float32(np.cos(np.radians(a))), g)) for a in ANGLES])
    onward = (1 - g * g) / (2 * g) * (1 / (1 - g) - 1 / np.sqrt(1 + g * g)) if abs(g) > 1e-3 else 0.5
    even = np.full(len(ANGLES), 1 / (4 * np.pi))
    most = max(shares.max(), even[0])
    return {
        "curves": [
            {"label": f"g {g:.2f}", "values": (shares / most).tolist()},
            {"label": "even", "values": (even / most).tolist()},
        ],
        "caption": f"{onward:.0%} of what is scattered goes on in the half before it.",
    }
