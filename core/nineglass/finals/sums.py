"""The sums of a tile as bytes, and what they add up to."""

import io

import numpy as np

from nineglass.finals.plan import Tile
from nineglass.trace.film import Film, Sums

ALWAYS = (*Sums._fields, "guides", "cut")
THROWN = ("thrown", "thrown_odd", "throws")

BYTES_OF_A_PIXEL = 172
"""Of a light, with what is thrown from lamps."""


def film_of(tile: Tile) -> Film:
    return Film(tile.width, tile.height)


def to_bytes(film: Film) -> bytes:
    """Array after array as they lie in memory: an archive takes five times as long, with its checksums (measured)."""
    names = ALWAYS + (THROWN if film.throws[0] else ())
    return b"".join(getattr(film, name).data for name in names)


def from_bytes(tile: Tile, given: bytes) -> Film:
    """Raises ValueError for what is not the sums of such a tile."""
    film = film_of(tile)
    if given[:2] == b"PK":
        return _from_archive(film, given)
    arrays = [getattr(film, name) for name in ALWAYS + THROWN]
    sizes = np.cumsum([one.nbytes for one in arrays])
    if len(given) not in (sizes[-1], sizes[len(ALWAYS) - 1]):
        raise ValueError("these are not the sums of such a tile")
    for array, end in zip(arrays, sizes[sizes <= len(given)], strict=False):
        raw = np.frombuffer(given, np.uint8, array.nbytes, end - array.nbytes)
        array[...] = raw.view(array.dtype).reshape(array.shape)
    return film


def _from_archive(film: Film, given: bytes) -> Film:
    """NumPy's archive, as pictures have it that were begun before 2026-11-28."""
    with np.load(io.BytesIO(given), allow_pickle=False) as arrays:
        for name in arrays.files:
            if name not in ALWAYS + THROWN:
                raise ValueError(f"{name} is nothing that is summed")
            getattr(film, name)[...] = arrays[name]
    return film
