"""Smooth bounded spectra for colours.

A spectrum is 1/2 + x / (2 sqrt(1 + x^2)) of a quadratic x in wavelength; three coefficients name it.
Source: Jakob & Hanika 2019, A Low-Dimensional Function Space for Efficient Spectral Upsampling.
The table in data/sigmoids.npy is baked by tools/bake_spectra.py with `fit`.
"""

from functools import lru_cache
from math import sqrt

import numpy as np

from nineglass.kernels import HALF, ONE, ZERO, F, optic
from nineglass.spectra.observer import CMF, D65, DATA, HIGH_NM, LOW_NM, WAVELENGTHS_NM, XYZ_TO_RGB
from nineglass.vectors import index_among

RESOLUTION = 24
BRIGHTEST = 0.9995
"""Colours are clipped to this: a channel at 1 would need an infinite coefficient."""

ALL_OF_IT = 1e4
"""A constant coefficient whose spectrum is 1 in single precision; of the other sign it is 0."""

DARKEST = F(1e-6)
"""Colours of which no channel is brighter are black."""

DARK = F(0.2)
"""Below it coefficients are nearly straight over one by the root of a colour, and are interpolated so."""

_LOW, _SPAN = F(LOW_NM), F(HIGH_NM - LOW_NM)
_UNIT_WAVELENGTHS = (WAVELENGTHS_NM - LOW_NM) / (HIGH_NM - LOW_NM)
_POWERS = np.stack([_UNIT_WAVELENGTHS**2, _UNIT_WAVELENGTHS, np.ones_like(_UNIT_WAVELENGTHS)])
_WEIGHTS = XYZ_TO_RGB @ (CMF * D65[:, None]).T


def squashed(x: np.ndarray) -> np.ndarray:
    """Any number within [0, 1]: the sigmoid that turns polynomials over wavelength into spectra."""
    return 0.5 + x / (2 * np.sqrt(1 + x * x))


def sigmoid_spectrum(coefficients, step: int = 1) -> np.ndarray:
    """Coefficients (..., 3) to a spectrum (..., 401), within [0, 1]; or to every so many-th nm of it."""
    return squashed(np.asarray(coefficients, float) @ _POWERS[:, ::step])


def fit(rgb, start=None, steps: int = 60) -> np.ndarray:
    """Coefficients (n, 3) whose spectra under D65 look like linear Rec.709 colours (n, 3) in [0, 1].

    Levenberg-Marquardt on the three channels, all colours at once.
    """
    rgb = np.atleast_2d(np.asarray(rgb, float))
    darkest = np.clip(0.005 * rgb.max(axis=1, keepdims=True), 1e-9, 0.0005)
    rgb = np.clip(rgb, darkest, BRIGHTEST)
    coefficients = np.zeros((len(rgb), 3)) if start is None else np.array(start, float)
    if start is None:
        mean = np.clip(rgb.mean(axis=1), 1e-7, 1 - 1e-3)
        coefficients[:, 2] = (mean - 0.5) / np.sqrt(mean * (1 - mean))
    damping = np.full(len(rgb), 1e-3)
    x = coefficients @ _POWERS
    residual = squashed(x) @ _WEIGHTS.T - rgb
    error = (residual**2).sum(axis=1)
    for _ in range(steps):
        if (error < 1e-16).all():
            break
        slope = 0.5 / (1 + x * x) ** 1.5
        jacobian = np.einsum("nw,kw,jw->nkj", slope, _WEIGHTS, _POWERS, optimize=True)
        normal = np.einsum("nki,nkj->nij", jacobian, jacobian)
        gradient = np.einsum("nki,nk->ni", jacobian, residual)
        normal = normal + damping[:, None, None] * (np.eye(3) * 1e-4 + normal * np.eye(3))
        trial = coefficients - np.linalg.solve(normal, gradient[..., None])[..., 0]
        trial_x = trial @ _POWERS
        trial_residual = squashed(trial_x) @ _WEIGHTS.T - rgb
        trial_error = (trial_residual**2).sum(axis=1)
        better = trial_error < error
        coefficients[better], x[better] = trial[better], trial_x[better]
        residual[better], error[better] = trial_residual[better], trial_error[better]
        damping = np.where(better, damping * 0.3, np.minimum(damping * 5, 1e6))
    return coefficients


@lru_cache(4096)
def coefficients_of(red: float, green: float, blue: float) -> tuple[float, float, float]:
    """Coefficients of one colour, to the accuracy of `fit`; full white is 1 at every wavelength, and black 0."""
    if min(red, green, blue) >= BRIGHTEST:
        return 0.0, 0.0, ALL_OF_IT
    if max(red, green, blue) <= DARKEST:
        return 0.0, 0.0, -ALL_OF_IT
    start = np.empty(3)
    table_coefficients(table(), F(red), F(green), F(blue), start)
    return tuple(float(c) for c in fit([[red, green, blue]], start=start[None], steps=20)[0])


@lru_cache(512)
def _spectrum_of(rgb: tuple[float, ...]) -> np.ndarray:
    spectrum = sigmoid_spectrum(coefficients_of(*rgb))
    spectrum.flags.writeable = False
    return spectrum


def spectrum_of(rgb) -> np.ndarray:
    """The smooth spectrum (401,) of a linear Rec.709 colour in [0, 1]."""
    return _spectrum_of(tuple(float(v) for v in rgb))


def color_spectrum(color) -> np.ndarray:
    """The same of any colour, held within 0 and 1."""
    return spectrum_of(np.clip(color, 0, 1))


@lru_cache(1)
def table() -> np.ndarray:
    """(3, 24, 24, 24, 3) float32: by brightest channel, its value, and the other two relative to it."""
    return np.load(DATA / "sigmoids.npy")


def table_nodes() -> np.ndarray:
    """Values of the brightest channel at the table's nodes, crowded at both ends (Jakob & Hanika 2019, 5)."""
    t = np.linspace(0, 1, RESOLUTION)
    for _ in range(2):
        t = t * t * (3 - 2 * t)
    return np.maximum(t, DARKEST)


_NODES = table_nodes().astype(F)


@optic
def _node_below(value):
    low, high = 0, RESOLUTION - 2
    while low < high:
        middle = (low + high + 1) // 2
        if _NODES[middle] <= value:
            low = middle
        else:
            high = middle - 1
    return low


@optic
def table_coefficients(sigmoids, red, green, blue, out):
    """Coefficients of a colour by trilinear interpolation in `table`, written to out[0:3]."""
    rgb = (red, green, blue)
    brightest = 0
    if green > red:
        brightest = 1
    if blue > max(red, green):
        brightest = 2
    top = min(rgb[brightest], ONE)
    if not top > DARKEST:
        out[0], out[1], out[2] = ZERO, ZERO, F(-ALL_OF_IT)
        return
    steps = F(RESOLUTION - 1)
    x = min(max(rgb[(brightest + 1) % 3] / top, ZERO), ONE) * steps
    y = min(max(rgb[(brightest + 2) % 3] / top, ZERO), ONE) * steps
    k = _node_below(top)
    i, j = index_among(x, RESOLUTION - 1), index_among(y, RESOLUTION - 1)
    low_node, high_node = _NODES[k], _NODES[k + 1]
    fk = (top - low_node) / (high_node - low_node)
    if high_node < DARK:
        begins = ONE / sqrt(low_node)
        fk = (begins - ONE / sqrt(top)) / (begins - ONE / sqrt(high_node))
    fi, fj = x - F(i), y - F(j)
    for c in range(3):
        low = (ONE - fi) * ((ONE - fj) * sigmoids[brightest, k, i, j, c] + fj * sigmoids[brightest, k, i, j + 1, c])
        low += fi * ((ONE - fj) * sigmoids[brightest, k, i + 1, j, c] + fj * sigmoids[brightest, k, i + 1, j + 1, c])
        high = (ONE - fi) * (
            (ONE - fj) * sigmoids[brightest, k + 1, i, j, c] + fj * sigmoids[brightest, k + 1, i, j + 1, c]
        )
        high += fi * (
            (ONE - fj) * sigmoids[brightest, k + 1, i + 1, j, c] + fj * sigmoids[brightest, k + 1, i + 1, j + 1, c]
        )
        out[c] = low + (high - low) * fk


@optic
def sigmoid(c0, c1, c2, wavelength_nm):
    """The smooth spectrum of three coefficients at one wavelength, in [0, 1]."""
    t = (wavelength_nm - _LOW) / _SPAN
    x = (c0 * t + c1) * t + c2
    return HALF + HALF * x / sqrt(ONE + x * x)
