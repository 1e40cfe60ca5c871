"""Which light looks white."""

from functools import lru_cache

import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import XYZ_TO_RGB, xyz_of

BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
"""XYZ to the cones' responses. Source: CIE 160:2004, the linear Bradford transform."""

DAYLIGHT_K = 6504.0


@FINISHES.kind(title="White", family="finish")
class White:
    """The light that looks white: that of a lamp of this temperature turns neutral."""

    rank = 4
    temperature = dial(
        DAYLIGHT_K,
        2000,
        12000,
        hard=(1000, 40000),
        unit="K",
        scale="log",
        ends=("a candle is white", "blue sky is white"),
        help="At 6504 K (daylight) nothing changes.",
    )
    tint = dial(0, -1, 1, hard=(-4, 4), ends=("greener", "pinker"))

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        matrix = adaptation(dials["temperature"], dials["tint"])
        return np.tensordot(matrix, planes, axes=1)


@lru_cache(64)
def adaptation(temperature_k: float, tint: float) -> np.ndarray:
    """(3, 3) of linear Rec.709: from a white of so many kelvin to daylight, each along its own curve of temperatures; as bright as it was."""
    white, neutral = (xyz / xyz[1] for xyz in (xyz_of(blackbody(kelvin)) for kelvin in (temperature_k, DAYLIGHT_K)))
    scale = (BRADFORD @ neutral) / (BRADFORD @ white) * np.array([1, 2.0 ** (-0.25 * tint), 1])
    adapted = np.linalg.inv(BRADFORD) @ np.diag(scale) @ BRADFORD
    adapted /= (adapted @ white)[1]
    return (XYZ_TO_RGB @ adapted @ np.linalg.inv(XYZ_TO_RGB)).astype(np.float32)
