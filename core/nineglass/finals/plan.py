"""What a final picture is cut into: the tiles of its frame, and chunks of samples of each."""

from dataclasses import dataclass
from itertools import pairwise

from nineglass.documents.final import MOST_SAMPLES, Final

TILE_PIXELS = 1_500_000
"""Of a tile at most: what its sums take is held by a worker, and read and written with every chunk."""

CHUNK_PATHS = 2_000_000
"""Samples of all pixels that a chunk is about; ten seconds of work or so."""


@dataclass(frozen=True)
class Tile:
    """A part of the frame, in pixels."""

    left: int
    top: int
    width: int
    height: int

    def frame_in(self, final: Final) -> tuple[float, float, float, float]:
        """Left, top, right, bottom, 0 to 1 over the picture."""
        right, bottom = self.left + self.width, self.top + self.height
        return self.left / final.width, self.top / final.height, right / final.width, bottom / final.height


def tiles_of(final: Final) -> list[Tile]:
    """The whole frame where it is small: light thrown from lamps lands anywhere, and in every tile but one it is lost."""
    count = -(-final.width * final.height // TILE_PIXELS)
    down = max(1, round((count * final.height / final.width) ** 0.5))
    across = -(-count // down)
    columns = [final.width * k // across for k in range(across + 1)]
    rows = [final.height * k // down for k in range(down + 1)]
    return [
        Tile(left, top, right - left, bottom - top)
        for top, bottom in pairwise(rows)
        for left, right in pairwise(columns)
    ]


def samples_of_chunk(final: Final, tile: Tile, number: int) -> tuple[int, int]:
    """(first sample, samples) of a chunk of a tile; the same whoever makes it, and whenever. None are left where the final has all it is to have."""
    usual = max(2, CHUNK_PATHS // (tile.width * tile.height) // 2 * 2)
    # One sample, and then as many as there are already, so that there soon is something to look at, until a chunk is long enough.
    doublings = usual.bit_length()
    if number < doublings:
        first, samples = (2**number) // 2, max(2**number // 2, 1)
    else:
        first, samples = 2 ** (doublings - 1) + (number - doublings) * usual, usual
    return first, max(min(samples, (final.samples or MOST_SAMPLES) - first), 0)
