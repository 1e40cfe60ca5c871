"""What flat slabs of scattering matter reflect and pass, by adding and doubling: exact but for the number of directions.

Sources: van de Hulst 1980, Multiple Light Scattering; Prahl, van Gemert & Welch 1993, Determining the Optical Properties of Turbid Media by
Using the Adding-Doubling Method; Wiscombe 1977, The Delta-M Method (strongly forward scattering).
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

DIRECTIONS = 24
"""Cosines on each side, the normal among them."""

ORDERS = DIRECTIONS - 2
"""Of Legendre's polynomials in a phase function: those that the quadratures keep the energy of."""

THINNEST = 1e-6
"""Optical depth of the layer that doubling begins with, at most."""


@dataclass(frozen=True)
class Shares:
    """What becomes of light that falls along the normal, and of light that falls evenly from all sides."""

    reflected: float
    passed: float
    reflected_of_even: float
    passed_of_even: float


@lru_cache(16)
def _directions(index: float) -> tuple[np.ndarray, np.ndarray]:
    """Cosines within the matter, from the normal down, and their weights over 0 to 1: those that light from outside comes to apart from those
    beyond the critical angle. Sources: Gauss's and Radau's quadratures (Hildebrand 1956, 8.5 and 8.11)."""
    from scipy.special import roots_legendre

    if index <= 1:
        return _with_normal(0.0, DIRECTIONS)
    critical = np.sqrt(1 - 1 / index**2)
    mu, weights = _with_normal(critical, DIRECTIONS // 2)
    below, their = roots_legendre(DIRECTIONS // 2)
    return np.concatenate([mu, critical * (1 - below) / 2]), np.concatenate([weights, critical * their / 2])


def _with_normal(low: float, count: int) -> tuple[np.ndarray, np.ndarray]:
    from scipy.special import eval_legendre, roots_jacobi

    inner, _ = roots_jacobi(count - 1, 0, 1)
    nodes = np.concatenate([[-1.0], np.sort(inner)])
    weights = (1 - nodes) / (count * eval_legendre(count - 1, nodes)) ** 2
    return 1 - (1 - low) * (1 + nodes) / 2, (1 - low) * weights / 2


def _thin_layer(albedo: float, depth: float, g: float, index: float) -> tuple[np.ndarray, np.ndarray]:
    """(reflection, transmission) of a layer so thin that light is scattered once at most."""
    from scipy.special import eval_legendre

    mu, weights = _directions(index)
    orders = np.arange(ORDERS)
    legendre = np.array([eval_legendre(order, mu) for order in orders])
    moments = (2 * orders + 1) * g**orders
    forward = np.einsum("l,li,lj->ij", moments, legendre, legendre)
    backward = np.einsum("l,li,lj->ij", moments * (-1.0) ** orders, legendre, legendre)
    step = depth / mu[:, None] * (albedo / 2) * weights
    return step * backward, np.diag(np.exp(-depth / mu)) + step * forward


def doublings(albedo: float, optical_depth: float, g: float = 0.0, index: float = 1.0):
    """Yields (optical depth, reflection, transmission) of layers each twice as thick as the one before; the last has that depth. The matrices
    are of radiance in the directions within."""
    cut = g**ORDERS
    left = 1 - albedo * cut
    count = max(int(np.ceil(np.log2(max(optical_depth, THINNEST) / THINNEST))), 0)
    depth = optical_depth / 2**count
    reflects, passes = _thin_layer(albedo * (1 - cut) / left, depth * left, (g - cut) / (1 - cut), index)
    yield depth, reflects, passes
    for doubled in range(1, count + 1):
        bounces = np.linalg.solve(np.eye(DIRECTIONS) - reflects @ reflects, passes)
        reflects, passes = reflects + passes @ reflects @ bounces, passes @ bounces
        yield depth * 2**doubled, reflects, passes


def shares_of(reflects: np.ndarray, passes: np.ndarray, index: float = 1.0) -> Shares:
    """What a layer does with light from outside, between two boundaries of an index (inside over outside)."""
    mu, weights = _directions(index)
    sine = index * np.sqrt(np.maximum(1 - mu * mu, 0))
    is_open = sine < 1
    mirrored = np.where(is_open, _reflectance(mu, np.sqrt(np.maximum(1 - sine * sine, 0)), index), 1.0)
    flux = 2 * mu * weights
    inner = np.diag(mirrored)
    bounces = np.eye(2 * DIRECTIONS) - np.block(
        [[inner @ reflects, inner @ passes], [inner @ passes, inner @ reflects]]
    )
    found = []
    for falls in (np.arange(DIRECTIONS) == 0, is_open):
        let_in = (1 - mirrored) * falls
        down, up = np.split(np.linalg.solve(bounces, np.concatenate([let_in, np.zeros(DIRECTIONS)])), 2)
        fallen, leaves = (flux * falls).sum(), flux * (1 - mirrored)
        thrown_back = (flux * mirrored * falls).sum()
        found.append((thrown_back + leaves @ (reflects @ down + passes @ up)) / fallen)
        found.append(leaves @ (passes @ down + reflects @ up) / fallen)
    return Shares(*map(float, found))


def _reflectance(inside, outside, index):
    """Unpolarised, by the cosines on both sides. Source: Born & Wolf, Principles of Optics, 7th ed., 1.5.2."""
    s = (index * inside - outside) / np.maximum(index * inside + outside, 1e-12)
    p = (inside - index * outside) / np.maximum(inside + index * outside, 1e-12)
    return (s * s + p * p) / 2


def slab(albedo: float, optical_depth: float, g: float = 0.0, index: float = 1.0) -> Shares:
    """What a slab does with light: single-scattering albedo 0 to 1, optical depth of scattering and absorption together, asymmetry."""
    *_, (_, reflects, passes) = doublings(albedo, optical_depth, g, index)
    return shares_of(reflects, passes, index)
