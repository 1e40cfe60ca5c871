"""A stack of bands at one hit, as numbers."""

from typing import NamedTuple

import numpy as np

from nineglass.documents.bands import BANDS
from nineglass.documents.model import MOST_LOBES
from nineglass.trace.families.lobes import ROW

COATS = BANDS.kinds["coat"].rules.most
FILMS = BANDS.kinds["film"].rules.most
BOUNDARIES = COATS + 1
"""The most that a stack may have: its coats, and the interface or metal."""

MEDIA = BOUNDARIES + 1


class Layers(NamedTuple):
    """The stack at one hit, at its four wavelengths. Boundary k lies between medium k and medium k + 1; medium 0 is outside, then
    come the coats. A metal is one more boundary that nothing passes. Lobes atop come first, then those at the bottom."""

    nm: np.ndarray  # (4,)
    index: np.ndarray  # (media, 4) of each medium
    extinction: np.ndarray  # (4,) of the metal
    clear: np.ndarray  # (media, 4) what is left of light that crosses a medium straight
    alpha: np.ndarray  # (boundaries,) of each boundary
    stretch: (
        np.ndarray
    )  # (boundaries,) as `optics.microfacet.alpha_of_sanded`, 1 where a boundary is rugged alike in all directions
    along: np.ndarray  # (boundaries, 3) the direction of that
    films: np.ndarray  # (boundaries, 9) on each boundary, as `optics.film.NO_FILMS`
    normal: np.ndarray  # (boundaries, 3) of each boundary
    first: np.ndarray  # (4,) what light is weighed by when it first comes down to the lowest boundary
    lean: np.ndarray  # (1,) the GGX width of the leans of single flakes, of which light that comes down again meets another; 0 where they are a sheen
    tint: np.ndarray  # (4,) what the interface lets pass
    mirrored: np.ndarray  # (4,) what the interface lets be mirrored from outside
    lobe: np.ndarray  # (lobes,) int32: which kind each is
    amount: np.ndarray  # (lobes,)
    lobe_normal: np.ndarray  # (lobes, 3)
    lobe_dials: np.ndarray  # (lobes, row)
    seen: np.ndarray  # (media, 9) of the lamp that was asked, from each medium: direction, what passes at four wavelengths, solid angle
    # there over outside, chance that light on its way back passes


def new_layers() -> Layers:
    """Scratch for one thread."""
    shapes = (
        *((4,), (MEDIA, 4), (4,), (MEDIA, 4), (BOUNDARIES,), (BOUNDARIES,), (BOUNDARIES, 3)),
        *(
            (BOUNDARIES, 1 + 2 * FILMS),
            (BOUNDARIES, 3),
            (4,),
            (1,),
            (4,),
            (4,),
            (MOST_LOBES,),
            (MOST_LOBES,),
            (MOST_LOBES, 3),
            (MOST_LOBES, ROW),
            (MEDIA, 9),
        ),
    )
    made = Layers(*(np.zeros(shape, np.float32) for shape in shapes))
    return made._replace(lobe=np.zeros(MOST_LOBES, np.int32))
