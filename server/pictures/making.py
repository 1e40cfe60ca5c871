"""How final pictures are made: chunks are planned, taken, merged in their order, and looked at from time to time.

All state is in the database and in files that it names, so that whatever is killed costs the chunks in hand and no more. A chunk counts once: its
attempt is told when it is taken, and a result of an older attempt, or of a chunk that is merged already, is thrown away.
"""

import io
import logging
import tempfile
import time
import uuid
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import timedelta
from hashlib import sha256
from pathlib import Path

import numpy as np
from config.asking import now_and_then
from config.errors import logged
from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.models import F, Min
from django.utils import timezone
from library.kept_pictures import keep_picture
from nineglass.describe import Refused
from nineglass.documents.final import Final
from nineglass.documents.finish import Finish, read_finish
from nineglass.documents.lights import FLOOR_ALONE, Gain
from nineglass.documents.model import Material, Stage, read
from nineglass.documents.motion import Series, read_series
from nineglass.finals.plan import Tile, samples_of_chunk, tiles_of

from pictures import kept_sums
from pictures.models import Chunk, FinalPicture, KeptFinish, Piece

log = logging.getLogger(__name__)

AHEAD = 3
"""Chunks that are planned for each one that can be made at a time."""

LOOK_EVERY_S, LOOK_SHARE = 6.0, 12.0
"""How often a picture is looked at, and so that looking takes no more than this share (one in so many) of the time. A young one is looked at each time
that it is half as old again, so that a first look, in which much is loaded, puts nothing off."""

LEAST_NEED = 0.1
"""Of the samples of the light with the most noise, every other has this share at least: it may be turned up afterwards."""

LONGEST_STEP_S = 60.0
"""Of a chunk: a bounce of some thousand paths, a second at the most where nothing is wrong."""

MOST_DEATHS = 8
"""Workers that may end over one chunk before its picture is set aside."""

UNDER_WAY = FinalPicture.State.UNDER_WAY


@dataclass(frozen=True)
class Documents:
    """What a final picture is of, checked."""

    final: Final
    material: Material
    stage: Stage
    series: Series | None

    @classmethod
    def of(cls, picture: FinalPicture) -> "Documents":
        documents = (final_of(picture), read(Material, picture.material), read(Stage, picture.stage))
        return cls(*documents, series_of(picture))

    def at(self, frame: int) -> "Documents":
        """Those of one frame. Raises Refused."""
        if self.series is None:
            return self
        return Documents(self.final, *self.series.documents_at(frame, self.material, self.stage), None)


def final_of(picture: FinalPicture) -> Final:
    return read(Final, picture.final)


def series_of(picture: FinalPicture) -> Series | None:
    return read_series(picture.series) if picture.series else None


def finish_of(picture: FinalPicture) -> Finish | None:
    """What the picture wears now."""
    kept = KeptFinish.objects.filter(pictures=picture.id).first()
    return read_finish(kept.document) if kept else None


def spent_s(picture: FinalPicture) -> float:
    """How long it was under way altogether."""
    since = (timezone.now() - picture.resumed_at).total_seconds() if picture.resumed_at else 0.0
    return picture.spent_s + since


def plan(picture_id, lanes: int) -> list[int]:
    """The next chunks of a picture, those of the pieces with the fewest samples for what their lights need first, of a series as it ranks them: ids
    of those that are to be made besides the ones that are."""
    with transaction.atomic():
        picture = FinalPicture.objects.select_for_update().filter(id=picture_id, state=UNDER_WAY).first()
        if picture is None:
            return []
        final = final_of(picture)
        tiles, series = tiles_of(final), series_of(picture)
        done = picture.frames.filter(is_done=True).values("number")
        pieces = {one.id: one for one in picture.pieces.exclude(frame__in=done)}
        looked_at = dict(picture.frames.values_list("number", "look_at"))
        planned = {one.id: one.merged for one in pieces.values()}
        waiting, needs = Chunk.objects.filter(piece__picture=picture, sums="").count(), _needs_of(picture)
        fresh = []
        for one in Chunk.objects.filter(piece__in=pieces):
            planned[one.piece_id] = max(planned[one.piece_id], one.number + 1)
        while waiting + len(fresh) < AHEAD * lanes:
            ranked = [
                (
                    *(series.rank(piece.frame, first) if series else (first / needs[piece.light],)),
                    piece.light,
                    piece.tile,
                    piece.id,
                )
                for piece in pieces.values()
                for first in [next_sample(final, tiles[piece.tile], planned[piece.id], looked_at.get(piece.frame))]
                if first is not None
            ]
            if not ranked:
                break
            *_, piece_id = min(ranked)
            fresh.append(Chunk.objects.create(piece_id=piece_id, number=planned[piece_id]).id)
            planned[piece_id] += 1
    return fresh


def next_sample(final: Final, tile: Tile, planned: int, look_at: int | None) -> int | None:
    """The first sample of the chunk that a piece may have next; None where it has all that it is to have. Whether a frame needs more than the samples
    by which it is looked at next is only known then."""
    first, samples = samples_of_chunk(final, tile, planned)
    return first if samples and (look_at is None or first < look_at) else None


def _needs_of(picture: FinalPicture) -> list[float]:
    """Of each light, the samples that it needs beside the one that needs the most: errors add by their squares, so that the sum has the least when
    samples stand to each other as the errors of single ones."""
    spreads = [one.get("spread", 0.0) for one in picture.lights]
    most = max(spreads, default=0.0)
    return [max(spread / most, LEAST_NEED) if most else 1.0 for spread in spreads]


def take(chunk_id: int) -> Chunk | None:
    """A chunk to be made now, under a new attempt; None when it is not wanted any more."""
    with transaction.atomic():
        chunk = Chunk.objects.select_for_update(of=["self"]).filter(id=chunk_id, sums="").first()
        if chunk is None or not FinalPicture.objects.filter(pieces=chunk.piece_id, state=UNDER_WAY).exists():
            return None
        chunk.attempt += 1
        chunk.save(update_fields=["attempt"])
        chunk = Chunk.objects.select_related("piece__picture").get(id=chunk_id)
    if chunk.attempt - chunk.given_back > MOST_DEATHS:
        fail(chunk.piece.picture, f"{MOST_DEATHS} workers ended over a part of it.")
        return None
    return chunk


def count_deaths_anew(picture: FinalPicture) -> None:
    """Of workers over chunks: somebody wants it tried again."""
    Chunk.objects.filter(piece__picture=picture).update(given_back=F("attempt"))


def put_in(chunk: Chunk, film) -> bool:
    """Merge a chunk that was made, and those after it that waited for it, or keep it until those before it are; whether it counts."""
    gone = set()
    with transaction.atomic():
        piece = Piece.objects.select_for_update(of=["self"]).select_related("picture").filter(id=chunk.piece_id).first()
        mine = Chunk.objects.filter(id=chunk.id, attempt=chunk.attempt, sums="")
        if piece is None or not mine.exists():
            return False
        if chunk.number > piece.merged:
            mine.update(sums=kept_sums.keep(piece.picture_id, film))
            return True
        final = final_of(piece.picture)
        tile = tiles_of(final)[piece.tile]
        total = kept_sums.take(piece.sums.name, tile) if piece.merged else None
        while film is not None:
            if total is None:
                total = film
            else:
                total.add(film)
            piece.samples += samples_of_chunk(final, tile, piece.merged)[1]
            Chunk.objects.filter(piece=piece, number=piece.merged).delete()
            piece.merged += 1
            after = Chunk.objects.filter(piece=piece, number=piece.merged).exclude(sums="").first()
            film = kept_sums.look_at(after.sums.name, tile) if after else None
            gone |= {after.sums.name} if after else set()
        gone.add(piece.sums.name)
        piece.sums = kept_sums.keep(piece.picture_id, total)
        piece.save()
    throw_away(gone)
    return True


def is_wanted(picture_id) -> bool:
    return FinalPicture.objects.filter(id=picture_id, state=UNDER_WAY).exists()


@dataclass
class Lane:
    """Makes a chunk at a time, on one thread."""

    _maker: object = field(default=None, init=False)
    step: tuple[FinalPicture, float] | None = field(default=None, init=False)
    """Of which picture a step is under way, and since when."""

    def hangs(self) -> bool:
        """Whether a step takes so long that nobody waits for it: its picture fails then, and it is told why."""
        if self.step is None or time.monotonic() - self.step[1] < LONGEST_STEP_S:
            return False
        fail(self.step[0], f"One step of it takes longer than {LONGEST_STEP_S:.0f} s. Make it less dense, or smaller.")
        return True

    def make(self, chunk_id: int, should_abort: Callable[[], bool] = lambda: False) -> bool:
        """Make a chunk and put it in; whether it counts. A picture that cannot be made says so and fails."""
        from nineglass.finals.chunk import Maker, Place
        from nineglass.trace.render import Interrupted, Tracer

        chunk = take(chunk_id)
        if chunk is None:
            return False
        picture = chunk.piece.picture
        self._maker = self._maker or Maker(Tracer(threads=1))
        asks = now_and_then(lambda: should_abort() or not is_wanted(picture.id))

        def stopped() -> bool:
            self.step = picture, time.monotonic()
            return asks()

        try:
            piece = chunk.piece
            told = Documents.of(picture).at(piece.frame)
            about = (str(picture.id), told.final, told.material, told.stage)
            place = Place(piece.light, piece.tile, piece.frame, chunk.number)
            try:
                film = self._maker.make(*about, place, stopped)
            finally:
                self.step = None
        except Interrupted:
            Chunk.objects.filter(id=chunk.id, attempt=chunk.attempt).update(given_back=F("given_back") + 1)
            return False
        except Refused as refused:
            fail(picture, "\n".join(fault.line() for fault in refused.faults))
            return False
        except MemoryError:
            fail(picture, "There is not enough memory for it; make it smaller.")
            return False
        except Exception as error:
            fail(picture, f"This went wrong; the log has it as {logged(log, error, f'chunk {chunk_id}')}.")
            return False
        return put_in(chunk, film)


def fail(picture: FinalPicture, says: str) -> None:
    FinalPicture.objects.filter(id=picture.id, state=UNDER_WAY).update(
        state=FinalPicture.State.FAILED, says=says, spent_s=spent_s(picture), resumed_at=None
    )


def only_one_looks(picture_id):
    """Yields whether nobody else looks at a picture."""
    return alone(str(picture_id))


@contextmanager
def alone(what: str):
    """Yields whether no other process does the same; one that is killed does it no longer."""
    key = int.from_bytes(sha256(what.encode()).digest()[:7])
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [key])
        [mine] = cursor.fetchone()
        try:
            yield mine
        finally:
            if mine:
                cursor.execute("SELECT pg_advisory_unlock(%s)", [key])


def look_if_due(picture_id) -> None:
    """Put the picture together as far as it is, tell its noise, and end it when it has come as far as it was to. Whoever made its last chunk while
    another looked has left that to the other."""
    with only_one_looks(picture_id) as mine:
        while mine and _look_if_due(picture_id):
            pass


def _look_if_due(picture_id) -> bool:
    """Whether it was."""
    with transaction.atomic():
        picture = FinalPicture.objects.select_for_update().filter(id=picture_id, state=UNDER_WAY).first()
        if picture is None or picture.series or not picture.pieces.filter(samples__gt=0).exists():
            return False
        has_all = is_complete(picture, picture.pieces.aggregate(least=Min("samples"))["least"])
        if not has_all and picture.looked_at and picture.looked_at + _rests(picture) > timezone.now():
            return False
        FinalPicture.objects.filter(id=picture_id).update(looked_at=timezone.now())
    look(picture, has_all)
    return True


def _rests(picture: FinalPicture) -> timedelta:
    """How long a picture is not looked at after a look."""
    age_s = (picture.looked_at - picture.resumed_at).total_seconds() if picture.resumed_at else LOOK_EVERY_S
    return timedelta(seconds=min(max(LOOK_EVERY_S, LOOK_SHARE * picture.look_s), age_s / 2))


def is_complete(picture: FinalPicture, least: int) -> bool:
    """Whether every piece has all the samples that were asked for, or the time is up. least: of the piece that has the fewest."""
    most, minutes = picture.final["samples"], picture.final["minutes"]
    return bool((most and least >= most) or (minutes and least and spent_s(picture) >= 60 * minutes))


def look(picture: FinalPicture, has_all: bool) -> None:
    from nineglass.finals.whole import look_at

    # Of the processor: beside other work a look takes long, and is no more costly.
    began = time.process_time()
    told, part_of = Documents.of(picture), parts_of_picture(picture)
    now = look_at(told.final, part_of, picture.exposure, told.final.by_light)
    preview = keep_preview(now.small, told.stage, finish_of(picture))
    by_light = _keep_small(picture, now.lights) if told.final.by_light else ""
    target = told.final.noise
    is_done = has_all or (now.noise is not None and target is not None and now.noise <= target)
    about = {"preview": preview, "by_light": by_light, "noise": now.noise, "cut": now.cut}
    about["lights"] = [one | {"spread": spread} for one, spread in zip(picture.lights, now.spreads, strict=True)]
    about["look_s"] = time.process_time() - began
    if is_done:
        about |= files_of_frame(picture, told, now, part_of, finish_of(picture))
        about |= {"state": FinalPicture.State.DONE, "spent_s": spent_s(picture), "resumed_at": None}
    with transaction.atomic():
        now = FinalPicture.objects.select_for_update().filter(id=picture.id).first()
        if now is None or now.state != UNDER_WAY:
            throw_away({about.get(name, "") for name in ("by_light", "exr", "png")})
            return
        FinalPicture.objects.filter(id=picture.id).update(**about)
    throw_away({now.by_light.name, *((now.exr.name, now.png.name) if is_done else ())})


def keep_preview(rgb, stage: Stage, finish: Finish | None, frame: int = 0) -> str:
    """A small linear picture as it is seen, under a name."""
    from nineglass.finals.whole import seen
    from nineglass.picture.display import encoded

    return keep_picture("previews", encoded(seen(rgb, stage, finish, frame), "JPEG", quality=88), "jpg")


def _keep_small(picture: FinalPicture, lights: list) -> str:
    """Every light by itself, small, (lights, h, w, 3) half precision, under a name."""
    out = io.BytesIO()
    np.save(out, np.stack(lights).astype(np.float16))
    return default_storage.save(f"finals/{picture.id}/{uuid.uuid4().hex}.npy", ContentFile(out.getvalue()))


def lights_added(picture: FinalPicture) -> list[dict]:
    """Id and name of the lights that add up to the picture."""
    return [one for one in picture.lights if one["id"] != FLOOR_ALONE]


def turned(picture: FinalPicture, gains: dict[str, Gain]) -> bytes:
    """JPEG: the small picture with its lights turned."""
    from nineglass.picture.display import encoded
    from nineglass.picture.views import VIEWS

    with default_storage.open(picture.by_light.name) as file:
        lights = np.load(io.BytesIO(file.read()), allow_pickle=False).astype(np.float32)
    own = np.array([gains.get(one["id"], (1, 1, 1)) for one in lights_added(picture)], np.float32)
    linear = np.einsum("lhwc,lc->hwc", lights, own)
    return encoded(VIEWS[picture.stage.get("view", "plain")](linear, picture.exposure), "JPEG", quality=88)


def hand_out_anew(picture_id) -> None:
    """Make what is handed out of a picture that is done again, with its lights as they are turned now."""
    picture = FinalPicture.objects.filter(id=picture_id, state=FinalPicture.State.DONE).first()
    if picture is None:
        return
    from nineglass.finals.whole import look_at

    told, part_of, finish = Documents.of(picture), parts_of_picture(picture), finish_of(picture)
    now = look_at(told.final, part_of, picture.exposure)
    names = files_of_frame(picture, told, now, part_of, finish)
    names["preview"] = keep_preview(now.small, told.stage, finish)
    put_instead(FinalPicture.objects.filter(id=picture_id), names, {picture.exr.name, picture.png.name})


def show_anew(picture_id) -> None:
    """Make the PNG of a picture that is done again, and what is seen of it, with the finish that it wears now."""
    picture = FinalPicture.objects.filter(id=picture_id, state=FinalPicture.State.DONE, series__isnull=True).first()
    if picture is None:
        return
    names = seen_anew(picture, picture.exr, read(Stage, picture.stage), finish_of(picture))
    put_instead(FinalPicture.objects.filter(id=picture_id), names, {picture.png.name})


def seen_anew(picture: FinalPicture, exr, stage: Stage, finish: Finish | None, frame: int = 0) -> dict:
    """Names of the PNG and of what is seen of a picture, or of a frame, by its OpenEXR file."""
    from nineglass.finals.whole import PREVIEW_SIDE, write_seen
    from nineglass.picture.files import read_picture, small

    rgb, alpha, facts = read_picture(Path(exr.path))
    with tempfile.TemporaryDirectory() as folder:
        png = Path(folder) / "final.png"
        write_seen(png, rgb, alpha, stage, facts, finish, frame)
        preview = keep_preview(small(rgb, PREVIEW_SIDE), stage, finish, frame)
        return {"png": keep_file(picture.id, png), "preview": preview}


def put_instead(rows, names: dict, before: set[str]) -> None:
    """Have a row name new files, and throw away those before; where the row has been removed meanwhile, the new ones."""
    is_there = rows.update(**names)
    throw_away(before if is_there else {names.get(one, "") for one in ("exr", "png", "video")})


def throw_away(names: set[str]) -> None:
    for name in names - {""}:
        default_storage.delete(name)


def parts_of_picture(picture: FinalPicture):
    """What puts rows of a picture together, as far as its pieces are: see `finals.whole.PartOf`."""
    lights = [(one["name"], picture.gains.get(one["id"], (1, 1, 1))) for one in picture.lights]
    return parts_of_pieces(picture.pieces.exclude(sums=""), final_of(picture), lights, exposure=picture.exposure)


def parts_of_pieces(
    pieces, final: Final, lights: list[tuple[str, Gain]], is_frame: bool = False, exposure: float = 0.0
):
    """What puts rows of a picture together from what was made of it."""
    from nineglass.finals.whole import Whole

    tiles = tiles_of(final)

    def part_of(rows) -> Whole:
        part = Whole(final, lights, is_frame, rows, exposure)
        for piece in pieces:
            if part.needs(piece.tile):
                part.put(piece.light, piece.tile, kept_sums.of_piece(piece, tiles[piece.tile]))
        return part

    return part_of


def files_of_frame(
    picture: FinalPicture, told: Documents, look, part_of, finish: Finish | None, frame: int = 0
) -> dict:
    """Names of the OpenEXR file and the PNG of a picture, or of a frame of a series."""
    from nineglass.finals.whole import write_files

    with tempfile.TemporaryDirectory() as folder:
        about = (told.final, told.material, told.stage, Path(folder), finish, frame)
        return {path.suffix[1:]: keep_file(picture.id, path) for path in write_files(look, part_of, *about)}


def keep_file(picture_id, path: Path) -> str:
    """The name under which the storage has a file of a picture alone."""
    with path.open("rb") as file:
        return default_storage.save(f"finals/{picture_id}/{uuid.uuid4().hex}{path.suffix}", File(file))


def samples_of(picture: FinalPicture) -> float:
    """Of a pixel, in the middle of all pieces."""
    pieces = [one.samples for one in picture.pieces.all()]
    return sum(pieces) / max(len(pieces), 1)


def time_left_s(picture: FinalPicture) -> float | None:
    """By what was measured: noise falls with the root of the work; None while it is not known, and where it goes on until it is stopped."""
    final, spent, samples, found = picture.final, spent_s(picture), samples_of(picture), []
    if picture.series:
        of_all, done = picture.frames.count(), picture.frames.filter(is_done=True).count()
        return spent * (of_all / done - 1) if done else None
    if final["minutes"]:
        found.append(60 * final["minutes"] - spent)
    if final["samples"] and samples:
        found.append(spent * (final["samples"] / samples - 1))
    if final["noise"] and picture.noise:
        found.append(spent * ((picture.noise / final["noise"]) ** 2 - 1))
    return max(0.0, min(found)) if found else None


def files_of(picture: FinalPicture) -> set[str]:
    """Every file of a picture alone."""
    names = {picture.exr.name, picture.png.name, picture.by_light.name, picture.video.name}
    for of_frame in ("exr", "png"):
        names |= set(picture.frames.values_list(of_frame, flat=True))
    names |= set(picture.pieces.values_list("sums", flat=True))
    names |= set(Chunk.objects.filter(piece__picture=picture).values_list("sums", flat=True))
    return names - {""}
