"""How samples are gathered into pixels: a smooth window about the middle of each.

The four-term window of Blackman and Harris, 1.5 pixels to each side. Source: Harris 1978, On the Use of Windows for Harmonic Analysis with
the Discrete Fourier Transform, table 1. Samples of the camera are drawn by it and all count alike; light that was thrown at the picture is
weighed by it.
"""

from math import cos

import numpy as np

from nineglass.kernels import PI, ZERO, F, optic

NAME = "Blackman-Harris"
REACH_PX = 1.5
REACH = F(REACH_PX)
A0, A1, A2, A3 = F(0.35875), F(0.48829), F(0.14128), F(0.01168)
STEPS = 256


@optic
def window(x):
    """Density (1/px) at a distance x (px) from the middle of a pixel; its integral is 1."""
    if abs(x) >= REACH:
        return ZERO
    phase = PI * x / REACH
    return (A0 + A1 * F(cos(phase)) + A2 * F(cos(F(2) * phase)) + A3 * F(cos(F(3) * phase))) / (F(2) * REACH * A0)


def window_inverse() -> np.ndarray:
    """(257,) float32: distances (px) from the middle at even steps of probability."""
    x = np.linspace(-REACH_PX, REACH_PX, 8193)
    phase = np.pi * x / REACH_PX
    share = float(A0) * x + REACH_PX / np.pi * sum(
        float(a) * np.sin(k * phase) / k for k, a in ((1, A1), (2, A2), (3, A3))
    )
    share = (share - share[0]) / (share[-1] - share[0])
    return np.interp(np.linspace(0, 1, STEPS + 1), share, x).astype(np.float32)


@optic
def drawn_offset(inverse, u):
    """A distance (px) from the middle of a pixel, drawn by the window from a number in [0, 1)."""
    x = u * F(STEPS)
    k = min(int(x), STEPS - 1)
    return inverse[k] + (inverse[k + 1] - inverse[k]) * (x - F(k))
