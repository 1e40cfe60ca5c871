"""A curve over stops of light, drawn on paper."""

import numpy as np

from nineglass.describe import number_stops
from nineglass.finish import FINISHES

LOW, HIGH = -8.0, 6.0
"""Stops about mid grey that lie at the ends of the paper."""

MID_GREY = 0.18
TABLE = 8192


@FINISHES.kind(title="Curve", family="finish")
class Curve:
    """What light becomes what: along the paper from 8 stops below mid grey to 6 above, and up it the same. Hue is kept."""

    rank = 5
    stops = number_stops(
        [[0.0, 0.0], [1.0, 1.0]],
        label="Light to light",
        joined="through",
        help="A straight line from corner to corner changes nothing.",
    )

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        from scipy.interpolate import PchipInterpolator

        places, values = np.array(dials["stops"], float).T
        keep = np.concatenate([np.diff(places) > 0, [True]])
        along, places, values = np.linspace(0, 1, TABLE), places[keep], values[keep].clip(-1, 2)
        inside = np.clip(along, places[0], places[-1])
        smooth = PchipInterpolator(places, values) if len(places) > 1 else np.poly1d(values)
        gains = (smooth(inside) - along) * (HIGH - LOW)
        most = np.maximum(np.maximum(*planes[:2]), np.maximum(planes[2], np.float32(1e-9)))
        at = (np.log2(most * np.float32(1 / MID_GREY)) - np.float32(LOW)) * np.float32((TABLE - 1) / (HIGH - LOW))
        nearest = np.clip(at + np.float32(0.5), 0, TABLE - 1).astype(np.int32)
        return planes * np.exp2(gains).astype(np.float32)[nearest]
