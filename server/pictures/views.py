import io
import re
import tempfile
import zipfile
from collections.abc import AsyncIterator, Iterator
from functools import lru_cache
from pathlib import Path

import numpy as np
from asgiref.sync import sync_to_async
from django.core.files.base import File
from django.core.files.storage import default_storage
from django.http import Http404, HttpResponse, HttpResponseBadRequest, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils.text import slugify
from django.views.decorators.http import require_GET
from library.kept_pictures import answer_of, answer_with
from nineglass.describe import Refused
from nineglass.documents.finish import read_finish
from nineglass.finals.finished import write_finished
from nineglass.finals.whole import seen
from nineglass.picture.display import encoded
from nineglass.picture.files import read_small

from pictures import services
from pictures.making import Documents, lights_added, turned

FILES = {"final.exr": "exr", "final.png": "png"}
FRAME_FILES = ("png", "exr")
TYPES = {"exr": "image/x-exr", "png": "image/png"}
PIECE_BYTES = 1 << 20
MOST_FINISHED_PIXELS = 16_000_000
"""Of a picture that is finished while somebody waits for it."""
LARGEST_FINISH = 8000
LIVE_SIDE = 1920
"""Pixels along the longer side of a picture whose finish is turned; larger ones are shown smaller."""


@require_GET
def final_preview(request, final_id):
    """How far a picture is; its address changes with it."""
    return answer_of(services.get(request.user, final_id).preview)


@require_GET
def final_turned(request, final_id):
    """The picture with its lights turned: ?window=0.5,0.5,0.4&stage:surround=2,2,2."""
    picture = services.get(request.user, final_id)
    if not picture.by_light.name:
        raise Http404
    try:
        gains = {
            one["id"]: gain_of(request.GET[one["id"]]) for one in lights_added(picture) if one["id"] in request.GET
        }
    except ValueError:
        return HttpResponseBadRequest("three numbers from 0 to 1,000,000 of each light", content_type="text/plain")
    return answer_with(turned(picture, gains), "image/jpeg")


def gain_of(text: str) -> tuple[float, ...]:
    gain = tuple(float(part) for part in text[:80].split(","))
    if len(gain) != 3 or not all(0 <= v <= 1e6 for v in gain):
        raise ValueError(text)
    return gain


@require_GET
def final_file(request, final_id, name):
    """A file of a picture that is done."""
    picture = services.get(request.user, final_id)
    file = getattr(picture, FILES[name]) if name in FILES else None
    if not file:
        raise Http404
    ending = FILES[name]
    return answer_with_file(file, TYPES[ending], f"{slugify(picture.name) or 'final'}.{ending}")


@require_GET
def frame_preview(request, final_id, number):
    """One picture of a series, as far as it is."""
    picture = services.get(request.user, final_id)
    return answer_of(get_object_or_404(picture.frames, number=number).preview)


@require_GET
def final_video(request, final_id):
    """The frames as a video; browsers ask for parts of it."""
    video = services.get(request.user, final_id).video
    if not video:
        raise Http404
    return answer_with_part(request, video, "video/webm")


@require_GET
def frame_files(request, final_id, ending):
    """All frames that are done in one zip, as it is written."""
    picture = services.get(request.user, final_id)
    if ending not in FRAME_FILES:
        raise Http404
    done = picture.frames.filter(is_done=True)
    named = [(f"{one.number + 1:04}.{ending}", getattr(one, ending).name) for one in done]
    if not named:
        raise Http404
    response = StreamingHttpResponse(_given(zipped(named)), content_type="application/zip")
    name = f"{slugify(picture.name) or 'frames'}-{ending}.zip"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@require_GET
def final_finished(request, final_id):
    """A picture that is done, or a frame, with a finish that is being turned: ?finish={json}&frame=3."""

    def answer(picture, exr, finish, number: int) -> HttpResponse:
        stage = Documents.of(picture).at(number).stage
        pixels = seen(linear_of(exr.path), stage, finish, number)
        return answer_with(encoded(pixels, "JPEG", quality=92), "image/jpeg")

    return _with_finish(request, final_id, answer)


@require_GET
def final_finished_light(request, final_id):
    """The same as linear light, full size."""

    def answer(picture, exr, finish, number: int) -> HttpResponse:
        if picture.final["width"] * picture.final["height"] > MOST_FINISHED_PIXELS:
            said = f"with its finish up to {MOST_FINISHED_PIXELS:,} pixels; take the PNG, or the OpenEXR file without"
            return HttpResponseBadRequest(said, content_type="text/plain")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "finished.exr"
            write_finished(path, Path(exr.path), finish, number)
            file = File(path.open("rb"))
        return answer_with_file(file, TYPES["exr"], f"{slugify(picture.name) or 'final'}-finished.exr")

    return _with_finish(request, final_id, answer)


def _with_finish(request, final_id, answer) -> HttpResponse:
    """What is answered to a finish and a frame that a request names."""
    picture = services.get(request.user, final_id)
    try:
        finish = read_finish(request.GET.get("finish", "{}")[:LARGEST_FINISH])
        number = int(request.GET.get("frame", 0))
    except Refused as refused:
        return _refused(refused)
    except ValueError:
        return HttpResponseBadRequest("frame: a whole number", content_type="text/plain")
    exr = get_object_or_404(picture.frames, number=number).exr if picture.series else picture.exr
    if not exr:
        raise Http404
    try:
        return answer(picture, exr, finish, number)
    except Refused as refused:
        return _refused(refused)


def _refused(refused: Refused) -> HttpResponseBadRequest:
    return HttpResponseBadRequest("\n".join(fault.line() for fault in refused.faults), content_type="text/plain")


@lru_cache(2)
def linear_of(path: str) -> np.ndarray:
    """(h, w, 3) of a picture that is done, as large as it is shown; what was looked at last is held ready."""
    return read_small(Path(path), LIVE_SIDE)


def answer_with_file(file, content_type: str, name: str) -> StreamingHttpResponse:
    """A file of any size, handed out under a name."""
    response = StreamingHttpResponse(_given(_pieces_of(file.open())), content_type=content_type)
    response["Content-Length"] = file.size
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def answer_with_part(request, file, content_type: str) -> HttpResponse:
    """A file, or the part of it that is asked for. Source: RFC 9110, 14.2."""
    size = file.size
    asked = re.fullmatch(r"bytes=(\d+)-(\d*)", request.headers.get("Range", ""))
    first, last = (int(asked[1]), min(int(asked[2] or size - 1), size - 1)) if asked else (0, size - 1)
    if first > last:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    with file.open() as opened:
        opened.seek(first)
        response = HttpResponse(opened.read(last - first + 1), content_type=content_type, status=206 if asked else 200)
    if asked:
        response["Content-Range"] = f"bytes {first}-{last}/{size}"
    response["Accept-Ranges"] = "bytes"
    return response


async def _given(pieces: Iterator[bytes]) -> AsyncIterator[bytes]:
    """Piece by piece, each read by a thread of its own: no more than one is held, and nobody waits for it."""
    while (piece := await sync_to_async(next, thread_sensitive=False)(pieces, None)) is not None:
        yield piece


def _pieces_of(opened) -> Iterator[bytes]:
    with opened:
        while piece := opened.read(PIECE_BYTES):
            yield piece


def zipped(named: list[tuple[str, str]]) -> Iterator[bytes]:
    """A zip of files of the storage by (name in the zip, name there), as it grows: one file at a time is held."""
    out = io.BytesIO()
    with zipfile.ZipFile(_Unseekable(out), "w", zipfile.ZIP_STORED) as archive:
        for name, kept in named:
            with default_storage.open(kept) as opened:
                archive.writestr(name, opened.read())
            yield _taken(out)
    yield _taken(out)


def _taken(out: io.BytesIO) -> bytes:
    given = out.getvalue()
    out.seek(0)
    out.truncate()
    return given


class _Unseekable(io.RawIOBase):
    """Only written on to, so that what was written can be taken away."""

    def __init__(self, out: io.BytesIO):
        self.out = out

    def writable(self) -> bool:
        return True

    def write(self, given) -> int:
        return self.out.write(given)
