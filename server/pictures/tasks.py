"""The jobs of workers, kept in the database by `procrastinate`: one for each chunk that is to be made, and one that mends what was left lying."""

import contextlib
from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from procrastinate.exceptions import AlreadyEnqueued

from pictures import making
from pictures.making import Lane, look_if_due, plan, rank_of
from pictures.models import Chunk, FinalPicture
from pictures.series import look_at_frames, show_frames_anew

QUEUE = "finals"
ALIVE_EVERY_S, STALLED_S = 3.0, 10.0
"""How often a worker gives a sign of life, and after how long without one the jobs that it had in hand are taken to be lost."""

LAST = -1000
"""The priority of a chunk until it has its place."""

_lane = Lane()
"""Of this process, which makes a chunk at a time."""


@contextlib.contextmanager
def _unless_removed(picture_id):
    """A picture that was removed meanwhile takes its files and rows along: what is missing then is no error."""
    try:
        yield
    except Exception:
        if FinalPicture.objects.filter(id=picture_id).exists():
            raise


@app.task(name="make_chunk", queue=QUEUE, pass_context=True)
def make_chunk(context, chunk_id: int) -> None:
    picture_id = Chunk.objects.filter(id=chunk_id).values_list("piece__picture", flat=True).first()
    with _unless_removed(picture_id):
        if picture_id and _lane.make(chunk_id, context.should_abort):
            _look(picture_id)
            _plan(picture_id)


@app.task(name="hand_out", queue=QUEUE)
def hand_out(picture_id: str) -> None:
    with _unless_removed(picture_id):
        making.hand_out_anew(picture_id)


@app.task(name="show", queue=QUEUE)
def show(picture_id: str) -> None:
    with _unless_removed(picture_id):
        making.show_anew(picture_id)
        show_frames_anew(picture_id)


def hand_out_anew(picture_id) -> None:
    """Have the files of a picture that is done made again."""
    _defer_first(hand_out, f"hand out {picture_id}", picture_id)


def show_anew(picture_id) -> None:
    """Have a picture, or the frames of a series, shown again with the finish that it wears."""
    _defer_first(show, f"show {picture_id}", picture_id)


def _defer_first(task, lock: str, picture_id) -> None:
    """Before all chunks; once, however often it is asked for before it is begun."""
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        task.configure(lock=lock, queueing_lock=lock, priority=1).defer(picture_id=str(picture_id))


@app.periodic(cron="*/5 * * * * *")
@app.task(name="mend", queue=QUEUE, queueing_lock="mend", pass_context=True)
async def mend(context, timestamp: int) -> None:
    """Have what a killed worker had in hand made again, and pictures that nobody works on taken up."""
    from asgiref.sync import sync_to_async

    for job in await context.app.job_manager.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=STALLED_S):
        await context.app.job_manager.retry_job(job)
    await sync_to_async(take_up_all, thread_sensitive=False)()


def take_up_all() -> None:
    for picture_id in FinalPicture.objects.filter(state=FinalPicture.State.UNDER_WAY).values_list("id", flat=True):
        _look(picture_id)
        go_on_with(picture_id)


def _look(picture_id) -> None:
    """Put together what is due of a picture, or of the frames of a series."""
    look_if_due(picture_id)
    look_at_frames(picture_id)


def go_on_with(picture_id) -> None:
    """Have the chunks of a picture made that nobody makes, and the next ones planned."""
    jobs = ProcrastinateJob.objects.filter(task_name="make_chunk", status__in=("todo", "doing"))
    known = set(jobs.values_list("args__chunk_id", flat=True))
    left = Chunk.objects.filter(piece__picture=picture_id, sums="").exclude(id__in=known)
    for chunk_id in left.values_list("id", flat=True):
        _defer(chunk_id)
    _plan(picture_id)


def put_in_order(owner) -> None:
    """Chunks of a person's pictures that wait for a worker get the rank that their picture has now."""
    for picture in FinalPicture.objects.filter(owner=owner, state=FinalPicture.State.UNDER_WAY):
        ids = list(Chunk.objects.filter(piece__picture=picture, sums="").values_list("id", flat=True))
        waiting = ProcrastinateJob.objects.filter(task_name="make_chunk", status="todo", args__chunk_id__in=ids)
        waiting.update(priority=-rank_of(picture))


def _plan(picture_id) -> None:
    alive = timezone.now() - timedelta(seconds=STALLED_S)
    lanes = ProcrastinateWorker.objects.filter(last_heartbeat__gte=alive).count()
    for chunk_id in plan(picture_id, max(lanes, 1)):
        _defer(chunk_id)
    owner = FinalPicture.objects.filter(id=picture_id).values_list("owner", flat=True).first()
    put_in_order(owner)


def _defer(chunk_id: int) -> None:
    """Have a chunk made; its place among the others is given by `put_in_order`."""
    lock = f"chunk {chunk_id}"
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        make_chunk.configure(lock=lock, queueing_lock=lock, priority=LAST).defer(chunk_id=chunk_id)
