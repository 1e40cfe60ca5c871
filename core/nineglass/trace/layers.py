"""A stack of bands at one hit, as numbers."""

from typing import NamedTuple

import numpy as np


class Layers(NamedTuple):
    """The stack at one hit, at its four wavelengths. Boundary k lies between medium k and medium k + 1; medium 0 is outside, then
    come the coats. A metal is one more boundary that nothing passes."""

    nm: np.ndarray  # (4,)
    index: np.ndarray  # (5, 4) of each medium
    extinction: np.ndarray  # (4,) of the metal
    clear: np.ndarray  # (5, 4) what is left of light that crosses a medium straight
    alpha: np.ndarray  # (4,) of each boundary
    films: np.ndarray  # (4, 10) on each boundary, as `optics.film.NO_FILMS`
    normal: np.ndarray  # (4, 3) of each boundary
    tint: np.ndarray  # (4,) what the interface lets pass
    body: np.ndarray  # (2,) amount and roughness of the body colour
    body_color: np.ndarray  # (4,)
    body_normal: np.ndarray  # (3,)
    fuzz: np.ndarray  # (2,) amount and roughness
    fuzz_color: np.ndarray  # (4,)
    fuzz_normal: np.ndarray  # (3,)
    mirrored: np.ndarray  # (4,) what the interface lets be mirrored from outside


def new_layers() -> Layers:
    """Scratch for one thread."""
    shapes = ((4,), (5, 4), (4,), (5, 4), (4,), (4, 10), (4, 3), (4,), (2,), (4,), (3,), (2,), (4,), (3,), (4,))
    return Layers(*(np.zeros(shape, np.float32) for shape in shapes))
