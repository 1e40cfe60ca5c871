"""The directions of a picture of the surround."""

import numpy as np

HEIGHT, WIDTH = 256, 512
"""Of the picture of a surround that has none."""


def directions(height: int, width: int) -> np.ndarray:
    """(h, w, 3) unit vectors of the texel centres: rows from straight up to straight down, the front (+z) in the middle."""
    theta = (np.arange(height) + 0.5) / height * np.pi
    phi = ((np.arange(width) + 0.5) / width - 0.5) * 2 * np.pi
    out = np.empty((height, width, 3))
    out[..., 0] = np.sin(theta)[:, None] * np.sin(phi)
    out[..., 1] = np.cos(theta)[:, None]
    out[..., 2] = np.sin(theta)[:, None] * np.cos(phi)
    return out


def all_around(surround, dials: dict) -> np.ndarray:
    """(h, w, 3) linear Rec.709 of a surround in all `directions`. surround: of a kind of `SURROUNDS`."""
    if hasattr(surround, "picture"):
        return surround.picture(dials)
    below, above, softness = surround.ends(dials)
    height = directions(HEIGHT, 1)[:, 0, 1]
    share = np.clip(0.5 + 0.5 * height / max(softness, 1e-3), 0, 1)
    share = (share * share * (3 - 2 * share))[:, None]
    rows = np.array(below) * (1 - share) + np.array(above) * share
    return np.repeat(rows[:, None], WIDTH, axis=1)
