"""Pictures for the shelves, made behind in a process of its own that gives way to everything else.

It is begun when somebody looks at a shelf with pictures that are missing or not current, and ends when there is nothing left to do. Of all
servers on one database one makes them. What there is a picture of says so in its columns `picture`, `pictured` and `revision`; one whose
picture cannot be made is left out until it changes.
"""

import logging
import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from django.conf import settings
from django.db import connection
from django.db.models import F, Model, QuerySet
from library.kept_pictures import keep_picture

from materials.models import Material
from materials.services import shelved

log = logging.getLogger(__name__)

LOCK = 0x9C1A55
NICE = 5
"""A bench at work still has most of the time."""
JPEG_QUALITY = 90
LOOKS_AGAIN_S = 3.0
"""How often it is looked whether all kernels are compiled: none is compiled here."""

MOST_DEATHS = 3
"""How often in a row the process may end before its work is done; then none is begun until the server starts again."""

_under_way: subprocess.Popen | None = None
_deaths = 0
_turn = threading.Lock()


def begin() -> None:
    """Have what is missing made, unless that is under way."""
    global _under_way, _deaths
    if not settings.MAKES_PORTRAITS:
        return
    with _turn:
        ended = _under_way and _under_way.poll()
        if _under_way and ended is not None:
            _deaths = _deaths + 1 if ended else 0
            _under_way = None
        if _under_way is None and _deaths < MOST_DEATHS:
            environment = {**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)}
            command = [sys.executable, "manage.py", "portraits", "--while-listened-to"]
            files = {"stdin": subprocess.PIPE, "stdout": subprocess.DEVNULL}
            _under_way = subprocess.Popen(command, cwd=settings.BASE_DIR, env=environment, **files)


def end_with_the_server() -> None:
    """End this process when the server that began it is gone."""

    def listen():
        sys.stdin.read()
        os._exit(1)

    threading.Thread(target=listen, daemon=True).start()


@dataclass(frozen=True)
class Pictured:
    """A kind of thing that has pictures: what there is of it, and how one is made and kept."""

    waiting: Callable[[], QuerySet]
    make: Callable[[Model, object], None]
    """Of one of them, by a tracer."""


def make_all(kinds: Sequence[Pictured]) -> int:
    """Make what is missing, one after another: how many. Nothing when another process does."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_try_advisory_lock(%s)", [LOCK])
        if not cursor.fetchone()[0]:
            return 0
        try:
            return _make_all(kinds)
        finally:
            cursor.execute("SELECT pg_advisory_unlock(%s)", [LOCK])


def _make_all(kinds: Sequence[Pictured]) -> int:
    from nineglass import warm
    from nineglass.trace.render import Tracer

    while warm.progress()[0] < warm.progress()[1]:
        time.sleep(LOOKS_AGAIN_S)
    tracer, made = Tracer(1), 0
    while found := _next(kinds):
        kind, one = found
        try:
            kind.make(one, tracer)
            made += 1
        except Exception:
            log.exception("the picture of %s could not be made", one)
            type(one).objects.filter(pk=one.pk).update(pictured=one.revision)
    return made


def _next(kinds: Sequence[Pictured]) -> tuple[Pictured, Model] | None:
    for kind in kinds:
        if one := kind.waiting().exclude(pictured=F("revision")).order_by("pictured", "name").first():
            return kind, one
    return None


def keep_portrait(one: Model, pixels: np.ndarray, **about) -> None:
    """Keep the picture of what something is now; pixels: (h, w, 3) uint8."""
    from nineglass.picture.display import encoded

    picture = encoded(pixels, "JPEG", quality=JPEG_QUALITY)
    about |= {"picture": keep_picture("portraits", picture, "jpg"), "pictured": one.revision}
    type(one).objects.filter(pk=one.pk).update(**about)


def _make(material: Material, tracer) -> None:
    from nineglass.documents import model as documents
    from nineglass.spectra.words import words_for
    from nineglass.trials.portraits import portrait_of

    document = documents.read(documents.Material, material.document)
    portrait = portrait_of(document, tracer)
    keep_portrait(material, portrait.pixels, color=words_for(portrait.mean), **shelved(document))


MATERIALS = Pictured(lambda: Material.objects.filter(deleted_at=None), _make)
