import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES


@FINISHES.kind(title="Vignette", family="finish")
class Vignette:
    """Corners darker than the middle, by the fourth power of the cosine of the angle at which light falls onto the picture."""

    rank = 2
    angle = dial(0, 0, 50, hard=(0, 80), label="Angle at the corner", unit="deg", ends=("even", "dark corners"))

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        high, wide = planes.shape[1:]
        y = (np.arange(high, dtype=np.float32) + 0.5) / high * 2 - 1
        x = (np.arange(wide, dtype=np.float32) + 0.5) / wide * 2 - 1
        corner = high * high + wide * wide
        squared = (x * x * (wide * wide / corner))[None, :] + (y * y * (high * high / corner))[:, None]
        tangent = np.tan(np.radians(dials["angle"])) ** 2
        return planes * (1 / (1 + np.float32(tangent) * squared) ** 2)
