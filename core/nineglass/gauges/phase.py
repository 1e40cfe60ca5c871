import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.gauges.within import asymmetry_of, phase_of, scatters

ANGLES = np.linspace(0, 180, 91)


@GAUGES.gauge(title="Phase", plot="polar", bands=("interior", "subsurface"), place=7, when=scatters)
def phase(reading: Reading) -> dict:
    """Where scattered light goes: onward is right, back is left; beside it, dotted, light that goes to all sides alike."""
    g, fine = asymmetry_of(reading), np.linspace(0, 90, 2001)
    shares = phase_of(reading, np.cos(np.radians(ANGLES)))
    onward = (
        2
        * np.pi
        * np.trapezoid(phase_of(reading, np.cos(np.radians(fine))) * np.sin(np.radians(fine)), np.radians(fine))
    )
    even = np.full(len(ANGLES), 1 / (4 * np.pi))
    most = max(shares.max(), even[0])
    return {
        "curves": [
            {"label": f"g {g:.2f}", "values": (shares / most).tolist()},
            {"label": "even", "values": (even / most).tolist()},
        ],
        "caption": f"{onward:.0%} of what is scattered goes on in the half before it.",
    }
