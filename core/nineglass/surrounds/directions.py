"""The directions of a picture of the surround."""

import numpy as np


def directions(height: int, width: int) -> np.ndarray:
    """(h, w, 3) unit vectors of the texel centres: rows from straight up to straight down, the front (+z) in the middle."""
    theta = (np.arange(height) + 0.5) / height * np.pi
    phi = ((np.arange(width) + 0.5) / width - 0.5) * 2 * np.pi
    out = np.empty((height, width, 3))
    out[..., 0] = np.sin(theta)[:, None] * np.sin(phi)
    out[..., 1] = np.cos(theta)[:, None]
    out[..., 2] = np.sin(theta)[:, None] * np.cos(phi)
    return out
