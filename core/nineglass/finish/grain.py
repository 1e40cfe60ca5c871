import numpy as np

from nineglass.describe import dial
from nineglass.finish import FINISHES

SEED = 1000
NEARLY_ALL = 0.9
"""From so many grains for each pixel on there is one in each."""


@FINISHES.kind(title="Grain", family="finish")
class Grain:
    """Light that differs from grain to grain, in stops, as much in the dark as in the light; its mean is kept. Each frame has its own."""

    rank = 6
    amount = dial(0, 0, 0.5, hard=(0, 2), unit="EV", ends=("none", "coarse"))
    size = dial(
        0.15, 0.05, 1, hard=(0.02, 10), unit="%", scale="log", ends=("fine", "large"), help="Of the picture's height."
    )

    def apply(self, planes: np.ndarray, dials: dict, frame: int) -> np.ndarray:
        from PIL import Image

        if dials["amount"] == 0:
            return planes
        high, wide = planes.shape[1:]
        rows = max(round(100 / dials["size"]), 2)
        rows = high if rows > NEARLY_ALL * high else rows
        columns = min(max(round(rows * wide / high), 2), wide)
        grains = np.random.default_rng(SEED + frame).standard_normal((rows, columns), np.float32)
        if (rows, columns) != (high, wide):
            grains = np.asarray(Image.fromarray(grains).resize((wide, high), Image.Resampling.BICUBIC))
        factors = np.exp2(np.float32(dials["amount"]) * grains / grains.std())
        return planes * (factors / factors.mean())
