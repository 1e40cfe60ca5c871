"""Noise taken out of small pictures, so that they can be judged after a few samples."""

import numpy as np
from scipy.ndimage import uniform_filter

REACH = 3
"""Pixels to each side that are looked at."""

PATCH = 3
STRENGTH = 0.7
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Of linear Rec.709 (IEC 61966-2-1)."""

BRIGHTEST = 4.0
"""Samples beyond this many times display white count as it: single bright ones would not be evened out."""


def denoised(rgb: np.ndarray, variance: np.ndarray) -> np.ndarray:
    """A linear picture (h, w, 3) with its noise taken out. variance: (h, w) of the luminance of each pixel's mean.

    Every pixel becomes the mean of those around it whose surroundings look alike beyond what noise explains.
    Source: Rousselle, Knaus, Zwicker 2012, Adaptive Rendering with Non-Local Means Filtering, eq. 2 to 5.
    """
    rgb = np.minimum(rgb, BRIGHTEST).astype(np.float32)
    light, variance = rgb @ LUMINANCE, uniform_filter(variance.astype(np.float32), PATCH)
    total, weights = np.zeros_like(rgb), np.zeros_like(light)
    for y in range(-REACH, REACH + 1):
        for x in range(-REACH, REACH + 1):
            there, its, its_light = (np.roll(a, (-y, -x), (0, 1)) for a in (rgb, variance, light))
            noise = variance + np.minimum(variance, its)
            apart = ((light - its_light) ** 2 - noise) / (1e-6 + STRENGTH**2 * (variance + its))
            alike = np.exp(-np.maximum(uniform_filter(apart, PATCH), 0)) * _inside(light.shape, y, x)
            total += alike[..., None] * there
            weights += alike
    return total / weights[..., None]


def _inside(shape: tuple[int, int], y: int, x: int) -> np.ndarray:
    """(h, w) 1 where the pixel at that offset is within the picture."""
    rows, columns = (np.arange(size) + by for size, by in zip(shape, (y, x), strict=True))
    inside = [(at >= 0) & (at < size) for at, size in zip((rows, columns), shape, strict=True)]
    return (inside[0][:, None] & inside[1]).astype(np.float32)
