"""What is done to a picture after the light. A new step is one file here: its dials, its rank (the lowest is done first), and `apply`, which
takes linear Rec.709 as three pictures (3, h, w), red, green and blue, and gives the same; lengths in it are shares of the picture's height, so
that every size looks alike.

May import describe and spectra only.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from nineglass.describe import Catalogue

FINISHES = Catalogue("finish")
THREADS = 2


def each_channel(act: Callable[..., np.ndarray], planes: np.ndarray, *given) -> np.ndarray:
    """(3, h, w): what is done to each of three pictures (h, w), with what is given for each of them."""
    with ThreadPoolExecutor(THREADS) as threads:
        return np.stack(list(threads.map(act, planes, *given)))


FINISHES.discover(__name__, __path__)
