"""The jobs of workers, kept in the database by `procrastinate`: one for each chunk that is to be made, and one that mends what was left lying."""

import contextlib
import logging
import os
import time
from collections import defaultdict
from datetime import timedelta
from itertools import chain

from asgiref.sync import sync_to_async
from config.errors import logged
from django.db import DatabaseError, transaction
from django.db.models import Case, Value, When
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from procrastinate.exceptions import AlreadyEnqueued, UniqueViolation
from procrastinate.jobs import Status

from pictures import making
from pictures.left_lying import LeftLying
from pictures.making import Lane, look_if_due, plan
from pictures.models import Chunk, FinalPicture
from pictures.series import look_at_frames, show_frames_anew

log = logging.getLogger(__name__)

QUEUE = "finals"
ALIVE_EVERY_S, STALLED_S = 3.0, 10.0
"""How often a worker gives a sign of life, and after how long without one the jobs that it had in hand are taken to be lost."""

LOOKS_AT_STEP_S = 5.0

PRUNED_H = 24
"""How long jobs that ended are kept."""

LAST = -1000
"""The priority of a chunk until it has its place."""

_lane = Lane()
"""Of this process, which makes a chunk at a time."""


def end_when_it_hangs() -> None:
    """Ends this process over a step that does not; another is begun."""
    while True:
        time.sleep(LOOKS_AT_STEP_S)
        with contextlib.suppress(DatabaseError):
            if _lane.hangs():
                os._exit(1)


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
    _defer_first(hand_out, "hand out", picture_id)


def show_anew(picture_id) -> None:
    """Have a picture, or the frames of a series, shown again with the finish that it wears."""
    _defer_first(show, "show", picture_id)


def _defer_first(task, what: str, picture_id) -> None:
    """Before all chunks; once, however often it is asked for before it is begun, and never beside another that makes files of the same picture."""
    locks = {"lock": f"files of {picture_id}", "queueing_lock": f"{what} {picture_id}"}
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        task.configure(**locks, priority=1).defer(picture_id=str(picture_id))


@app.periodic(cron="* * * * * */5")
@app.task(name="mend", queue=QUEUE, queueing_lock="mend", pass_context=True)
async def mend(context, timestamp: int) -> None:
    """Have what a killed worker had in hand made again, and pictures that nobody works on taken up."""
    jobs = context.app.job_manager
    for job in await jobs.get_stalled_jobs(queue=QUEUE, seconds_since_heartbeat=STALLED_S):
        try:
            await jobs.retry_job(job)
        except UniqueViolation:
            # The same waits already.
            await jobs.finish_job(job, Status.FAILED, delete_job=True)
    await sync_to_async(take_up_all, thread_sensitive=False)()


@app.periodic(cron="17 3 * * *")
@app.task(name="prune", queue=QUEUE, queueing_lock="prune", pass_context=True)
async def prune(context, timestamp: int) -> None:
    """Jobs that ended over a day ago are told of nowhere."""
    await context.app.job_manager.delete_old_jobs(
        PRUNED_H, QUEUE, include_failed=True, include_cancelled=True, include_aborted=True
    )


_wrong_before: set = set()
"""Pictures that this process could not take up the last time: a file may be replaced while it is looked for."""


def take_up_all() -> None:
    """What is wrong with one picture, twice, ends that picture, and no other."""
    with making.alone("mend") as mine:
        if not mine:
            return
        left = LeftLying(_queued_chunks(), _lanes())
        for picture in left.pictures:
            try:
                with _unless_removed(picture.id):
                    _take_up(picture, left)
                _wrong_before.discard(picture.id)
            except DatabaseError:
                raise
            except Exception as error:
                number = logged(log, error, f"picture {picture.id} could not be taken up")
                if picture.id in _wrong_before:
                    _fail(picture.id, error, number)
                _wrong_before.add(picture.id)


def _take_up(picture: FinalPicture, left: LeftLying) -> None:
    if left.has_to_be_looked_at(picture):
        _look(picture.id)
    for chunk_id in left.chunks_of(picture):
        _defer(chunk_id)
    if left.may_be_planned(picture):
        _plan(picture.id)
    elif left.chunks_of(picture):
        put_in_order(picture.owner_id)


def _fail(picture_id, error: Exception, number: str) -> None:
    gone = isinstance(error, FileNotFoundError)
    says = (
        "A file of what was made of it is gone; order it again."
        if gone
        else f"This went wrong; the log has it as {number}."
    )
    if picture := FinalPicture.objects.filter(id=picture_id).first():
        making.fail(picture, says)


def _queued_chunks() -> set[int]:
    jobs = ProcrastinateJob.objects.filter(task_name="make_chunk", status__in=("todo", "doing"))
    return set(jobs.values_list("args__chunk_id", flat=True))


def _look(picture_id) -> None:
    """Put together what is due of a picture, or of the frames of a series."""
    look_if_due(picture_id)
    look_at_frames(picture_id)


def go_on_with(picture_id) -> None:
    """Have the chunks of a picture made that nobody makes, and the next ones planned."""
    left = Chunk.objects.filter(piece__picture=picture_id, sums="").exclude(id__in=_queued_chunks())
    for chunk_id in left.values_list("id", flat=True):
        _defer(chunk_id)
    _plan(picture_id)


def put_in_order(owner) -> None:
    """Chunks of a person's pictures that wait for a worker get the rank that their picture has now among that person's: the first of everybody's
    take turns, and nobody waits for another."""
    under_way = FinalPicture.objects.filter(owner=owner, state=FinalPicture.State.UNDER_WAY)
    ranks = {picture_id: rank for rank, picture_id in enumerate(under_way.values_list("id", flat=True))}
    chunks = Chunk.objects.filter(piece__picture__in=ranks, sums="").values_list("id", "piece__picture")
    priorities = defaultdict(list)
    for chunk_id, picture_id in chunks:
        priorities[-ranks[picture_id]].append(chunk_id)
    if priorities:
        waiting = ProcrastinateJob.objects.filter(task_name="make_chunk", status="todo")
        cases = [When(args__chunk_id__in=ids, then=Value(priority)) for priority, ids in priorities.items()]
        waiting.filter(args__chunk_id__in=list(chain(*priorities.values()))).update(priority=Case(*cases))


def _lanes() -> int:
    """How many chunks can be made at a time."""
    alive = timezone.now() - timedelta(seconds=STALLED_S)
    return max(ProcrastinateWorker.objects.filter(last_heartbeat__gte=alive).count(), 1)


def _plan(picture_id) -> None:
    for chunk_id in plan(picture_id, _lanes()):
        _defer(chunk_id)
    owner = FinalPicture.objects.filter(id=picture_id).values_list("owner", flat=True).first()
    put_in_order(owner)


def _defer(chunk_id: int) -> None:
    """Have a chunk made; its place among the others is given by `put_in_order`."""
    lock = f"chunk {chunk_id}"
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        make_chunk.configure(lock=lock, queueing_lock=lock, priority=LAST).defer(chunk_id=chunk_id)
