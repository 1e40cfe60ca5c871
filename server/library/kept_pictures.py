"""Pictures that never change: kept once by their content, and answered so that browsers keep them."""

import hashlib
from pathlib import Path

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import Http404, HttpResponse


def keep_picture(folder: str, picture: bytes, ending: str = "png") -> str:
    """The name under which the storage has a picture."""
    name = f"{folder}/{hashlib.sha256(picture).hexdigest()}.{ending}"
    return name if default_storage.exists(name) else default_storage.save(name, ContentFile(picture))


def address_of(picture, path: str) -> str | None:
    """Where browsers find a kept picture: at a path, with a word that changes with it. None as long as there is none."""
    name = getattr(picture, "name", picture)
    return f"{path}?of={Path(name).stem[:12]}" if name else None


def answer_of(picture) -> HttpResponse:
    """A kept JPEG."""
    if not picture.name:
        raise Http404
    with picture.open() as file:
        return answer_with(file.read(), "image/jpeg")


def answer_with(picture: bytes, content_type: str = "image/png") -> HttpResponse:
    """A picture whose address changes with it."""
    response = HttpResponse(picture, content_type=content_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
