"""Series of pictures: each frame is looked at when it has come as far as to be worth it, and what comes of all of them when the last is done.

What was made of a frame that is done is kept as its files; its sums are thrown away.
"""

import io
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from django.core.files.storage import default_storage
from django.db import transaction
from django.db.models import F, Max, Min
from django.db.models.functions import Greatest
from django.http import Http404
from nineglass.describe import Refused
from nineglass.documents.motion import STRIP_SAMPLES, Motion
from nineglass.documents.trials import exposure_of
from trials import services as trials

from pictures.making import (
    UNDER_WAY,
    Documents,
    fail,
    files_of_frame,
    finish_of,
    keep_file,
    keep_preview,
    only_one_looks,
    parts_of_pieces,
    put_instead,
    seen_anew,
    spent_s,
    throw_away,
)
from pictures.models import Chunk, FinalPicture, Frame

SOONER, MOST_TIMES = 0.9, 4
"""A frame is first looked at when it has this share of the samples that the one before took; and again at most when it has so many times as
many."""


def look_at_frames(picture_id) -> None:
    """Look at the frames of a series that are due, and end it after its last."""
    with only_one_looks(picture_id) as mine:
        if not mine:
            return
        under_way = FinalPicture.objects.filter(id=picture_id, state=UNDER_WAY, series__isnull=False)
        while (picture := under_way.first()) and (frame := _due(picture)):
            _look(picture, frame)
        if picture and not picture.frames.filter(is_done=False).exists():
            _end(picture)


def _due(picture: FinalPicture) -> Frame | None:
    least = dict(picture.pieces.values_list("frame").annotate(Min("samples")))
    open_ones = picture.frames.filter(is_done=False)
    return next((one for one in open_ones if least[one.number] >= one.look_at), None)


def _look(picture: FinalPicture, frame: Frame) -> None:
    from nineglass.finals.whole import look_at
    from nineglass.trials.sheet import mean_of_middle

    told = Documents.of(picture)
    at = told.at(frame.number)
    pieces = picture.pieces.filter(frame=frame.number)
    samples = pieces.aggregate(least=Min("samples"))["least"]
    part_of = parts_of_pieces(pieces.exclude(sums=""), at.final, [("All light", (1, 1, 1))], is_frame=True)
    look = look_at(at.final, part_of, exposure_of(at.stage))
    finish, final, noise = finish_of(picture), told.final, look.noise
    is_done = bool(final.samples and samples >= final.samples) or bool(final.noise and noise and noise <= final.noise)
    about = {
        "noise": noise,
        "is_done": is_done,
        "mean": mean_of_middle(look.small, exposure_of(at.stage)),
        "preview": keep_preview(look.small, at.stage, finish, frame.number),
        "look_at": _looked_at_next(samples, noise, final),
    }
    if is_done:
        about |= files_of_frame(picture, at, look, part_of, finish, frame.number)
    with transaction.atomic():
        now = FinalPicture.objects.select_for_update().filter(id=picture.id).first()
        if now is None or now.state != UNDER_WAY:
            throw_away({about.get("exr", ""), about.get("png", "")})
            return
        Frame.objects.filter(id=frame.id).update(**about)
        worst = picture.frames.filter(is_done=True).aggregate(worst=Max("noise"))["worst"]
        now.preview, now.noise = about["preview"], noise if worst is None else worst
        now.cut = look.cut
        now.save(update_fields=["preview", "noise", "cut"])
        if is_done:
            later = picture.frames.filter(is_done=False)
            if not final.samples:
                later.update(look_at=Greatest(F("look_at"), int(SOONER * samples)))
            list(pieces.select_for_update())
            made = _sums_of(picture, frame.number)
            Chunk.objects.filter(piece__in=pieces).delete()
            pieces.update(sums="")
            transaction.on_commit(lambda: throw_away(made))


def _looked_at_next(samples: int, noise: float | None, final) -> int:
    """Samples by which it is likely to be as free of noise as wanted: noise falls with the root of them."""
    most = final.samples or 10**9
    if not (final.noise and noise):
        return min(max(2 * samples, STRIP_SAMPLES), most)
    wanted = samples * min((noise / final.noise) ** 2, MOST_TIMES)
    return min(max(int(wanted), samples + 1), most)


def _sums_of(picture: FinalPicture, number: int) -> set[str]:
    names = set(picture.pieces.filter(frame=number).values_list("sums", flat=True))
    return names | set(Chunk.objects.filter(piece__picture=picture, piece__frame=number).values_list("sums", flat=True))


def _end(picture: FinalPicture) -> None:
    told = Documents.of(picture)
    end = _film if isinstance(told.series, Motion) else _keep_trial
    try:
        about = end(picture, told)
    except Refused as refused:
        fail(picture, "\n".join(fault.line() for fault in refused.faults))
        return
    except Http404:
        fail(
            picture,
            "Its material is not shared with you any more, and the trial is kept with that. Its pictures are here.",
        )
        return
    done = {"state": FinalPicture.State.DONE, "spent_s": spent_s(picture), "resumed_at": None}
    if not FinalPicture.objects.filter(id=picture.id, state=UNDER_WAY).update(**about, **done):
        throw_away({about.get("video", "")})


def _film(picture: FinalPicture, told: Documents) -> dict:
    """The frames as a video."""
    from nineglass.picture.video import write_webm

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "motion.webm"
        write_webm(path, (pixels for _, pixels in _pictures_of(picture)), told.series.per_second)
        return {"video": keep_file(picture.id, path)}


def _keep_trial(picture: FinalPicture, told: Documents) -> dict:
    """The pictures as a kept trial, with labels."""
    from nineglass.picture.display import encoded
    from nineglass.trials.out import labelled

    frames = list(picture.frames.all())
    noise = [one.noise or 0.0 for one in frames]
    sheet = encoded(labelled(told.series, [pixels for _, pixels in _pictures_of(picture)], noise), "PNG")
    if picture.taken_from_id:
        trials.keep(picture.owner, picture.taken_from_id, told.series, sheet, [one.mean for one in frames], noise)
    return {}


def _pictures_of(picture: FinalPicture) -> Iterator[tuple[Frame, np.ndarray]]:
    """The frames that are done, as they are handed out, (h, w, 3) uint8."""
    from PIL import Image

    for frame in picture.frames.filter(is_done=True):
        with default_storage.open(frame.png.name) as file:
            yield frame, np.asarray(Image.open(io.BytesIO(file.read())).convert("RGB"))


def show_frames_anew(picture_id) -> None:
    """Make the PNGs of a series again, and its video, with the finish that it wears now."""
    picture = FinalPicture.objects.filter(id=picture_id).exclude(series__isnull=True).first()
    if picture is None:
        return
    told, finish = Documents.of(picture), finish_of(picture)
    for frame in picture.frames.filter(is_done=True):
        about = seen_anew(picture, frame.exr, told.at(frame.number).stage, finish, frame.number)
        put_instead(Frame.objects.filter(id=frame.id), about, {frame.png.name})
    if picture.state == FinalPicture.State.DONE and isinstance(told.series, Motion):
        put_instead(FinalPicture.objects.filter(id=picture.id), _film(picture, told), {picture.video.name})
