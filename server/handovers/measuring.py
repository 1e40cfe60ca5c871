"""One step of measuring what was handed over; loaded by workers alone, since it needs the tracer."""

from collections.abc import Callable
from functools import lru_cache

from config.asking import now_and_then
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from library.services import alone_with_files
from nineglass import warm
from nineglass.describe import Refused
from nineglass.documents import model as documents
from nineglass.exchange.difference import Difference, difference_on, drawn, stages_for
from nineglass.exchange.formats import LIGHTS
from nineglass.files import for_now, keep
from nineglass.picture.display import encoded
from nineglass.put_in import arrays_of, facts_of
from nineglass.trace.render import Interrupted, Tracer
from nineglass.trace.scene import build_set

from handovers.models import HandedOver, Measured
from handovers.services import forget_pictures_of


class KernelsMissing(Exception):
    """Some that it needs are still to be compiled."""


@lru_cache(1)
def _tracer() -> Tracer:
    return Tracer(threads=1)


def measure_next(handed: HandedOver, should_abort: Callable[[], bool]) -> bool:
    """Measure in the next light; whether another is to come. What cannot be measured says so. Raises KernelsMissing."""
    if _is_gone(handed):
        return False
    number = handed.measured.count()
    try:
        if handed.read_back is None:
            _read_back(handed)
        material, other = (documents.read(documents.Material, one) for one in (handed.material, handed.read_back))
        stage = stages_for(material, documents.read(documents.Stage, handed.stage))[number]
        if any(warm.missing_for(build_set(one, stage)) for one in (material, other)):
            raise KernelsMissing
        stopped = now_and_then(lambda: should_abort() or _is_gone(handed))
        found = difference_on(material, other, stage, _tracer(), stopped)
    except Refused as refused:
        _end(handed, HandedOver.State.FAILED, "; ".join(fault.line() for fault in refused.faults)[:1000])
        return False
    except Interrupted:
        return False
    _keep(handed, number, found)
    if number + 1 < len(LIGHTS):
        return True
    _end(handed, HandedOver.State.DONE)
    return False


def _is_gone(handed: HandedOver) -> bool:
    return not HandedOver.objects.filter(id=handed.id).exists()


def _end(handed: HandedOver, state: str, says: str = "") -> None:
    HandedOver.objects.filter(id=handed.id).update(state=state, says=says)
    forget_pictures_of(handed.read_back)


def _keep(handed: HandedOver, number: int, found: Difference) -> None:
    """Once, whoever measured it."""
    name = default_storage.save(f"handed/{handed.id}-{number}.png", ContentFile(encoded(drawn(found), "PNG")))
    about = {"stage": found.stage, "delta_e": found.delta_e, "worst": found.worst, "noise": found.noise}
    try:
        with transaction.atomic():
            Measured.objects.create(handed=handed, number=number, picture=name, **about)
    except IntegrityError:
        default_storage.delete(name)


def _read_back(handed: HandedOver) -> None:
    """Note what another program would find in the file, read as any file from outside is; its pictures are kept until all is measured."""
    with handed.file.open("rb") as file, for_now(file.chunks()) as name:
        facts, files = facts_of(name, "handed"), arrays_of(name, "handed")
    handed.read_back, handed.read_report = facts["material"], facts["report"]
    with alone_with_files():
        handed.save(update_fields=["read_back", "read_report"])
        for data in files.values():
            keep([data.tobytes()])
