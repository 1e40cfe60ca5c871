import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES


@FINISHES.kind(title="Exposure", family="finish")
class Exposure:
    """More or less light, over what the stage has."""

    rank = 3
    stops = dial(0, -4, 4, hard=(-20, 20), unit="EV", ends=("darker", "lighter"))

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        return planes * np.float32(2.0 ** dials["stops"])
