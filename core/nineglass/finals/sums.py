"""The sums of a tile as bytes, and what they add up to."""

import io

import numpy as np

from nineglass.finals.plan import Tile
from nineglass.trace.film import Film, Sums

ALWAYS = (*Sums._fields, "guides", "cut")
THROWN = ("thrown", "thrown_odd", "throws")


def film_of(tile: Tile) -> Film:
    return Film(tile.width, tile.height)


def to_bytes(film: Film) -> bytes:
    out = io.BytesIO()
    names = ALWAYS + (THROWN if film.throws[0] else ())
    np.savez(out, **{name: getattr(film, name) for name in names})
    return out.getvalue()


def from_bytes(tile: Tile, given: bytes) -> Film:
    """Raises ValueError for what is not the sums of such a tile."""
    film = film_of(tile)
    with np.load(io.BytesIO(given), allow_pickle=False) as arrays:
        for name in arrays.files:
            if name not in ALWAYS + THROWN:
                raise ValueError(f"{name} is nothing that is summed")
            getattr(film, name)[...] = arrays[name]
    return film
