"""The sums of pieces and of chunks as files of the storage. What a thread wrote last it has at hand: it mostly is the next to need it."""

import threading
import uuid
from typing import TYPE_CHECKING

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from nineglass.finals.plan import Tile

from pictures.models import Piece

if TYPE_CHECKING:
    from nineglass.trace.film import Film

_own = threading.local()


def keep(picture_id, film: "Film") -> str:
    """The name of the file with the sums of a film, which is not changed from now on."""
    from nineglass.finals.sums import to_bytes

    name = f"finals/{picture_id}/{uuid.uuid4().hex}.sums"
    try:
        default_storage.save(name, ContentFile(to_bytes(film)))
    except OSError:
        default_storage.delete(name)
        raise
    _own.last = name, film
    return name


def look_at(name: str, tile: Tile) -> "Film":
    """The sums under a name, not to be changed. Raises FileNotFoundError."""
    from nineglass.finals.sums import from_bytes

    last, film = getattr(_own, "last", ("", None))
    if name == last:
        return film
    with default_storage.open(name) as file:
        return from_bytes(tile, file.read())


def take(name: str, tile: Tile) -> "Film":
    """The same, to be added to."""
    film = look_at(name, tile)
    _own.last = "", None
    return film


def of_piece(piece: Piece, tile: Tile) -> "Film":
    """The sums of a piece as they are now, not to be changed: between the row and its file the next chunk may be merged."""
    while True:
        try:
            return look_at(piece.sums.name, tile)
        except FileNotFoundError:
            before = piece.sums.name
            piece.refresh_from_db()
            if piece.sums.name == before:
                raise
