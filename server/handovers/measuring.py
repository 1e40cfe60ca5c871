"""One step of measuring what was handed over; loaded by workers alone, since it needs the tracer."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from nineglass import warm
from nineglass.describe import Refused
from nineglass.documents import model as documents
from nineglass.exchange.difference import Difference, difference_on, drawn, stages_for
from nineglass.files import keep, name_of
from nineglass.put_in import arrays_of, facts_of
from nineglass.trace.render import Interrupted, Tracer
from nineglass.trace.scene import build_set

from handovers.models import HandedOver
from handovers.tasks import keep_measure


class Waits(Exception):
    """Kernels that it needs are still to be compiled."""


@lru_cache(1)
def _tracer() -> Tracer:
    return Tracer(threads=1)


def measure_next(handed: HandedOver, should_abort: Callable[[], bool]) -> bool:
    """Measure on the next stage; whether another is to come. What cannot be measured says so."""
    if _is_gone(handed):
        return False
    number = handed.measured.count()
    try:
        other = _read_back(handed)
        material = documents.read(documents.Material, handed.material)
        stages = stages_for(material, documents.read(documents.Stage, handed.stage))
        title, stage = stages[number]
        lacking = {name for one in (material, other) for name in warm.missing_for(build_set(one, stage))}
        if lacking:
            raise Waits
        found = difference_on(material, other, stage, _tracer(), lambda: should_abort() or _is_gone(handed))
    except Refused as refused:
        _end(handed, HandedOver.State.FAILED, "; ".join(fault.line() for fault in refused.faults)[:1000])
        return False
    except Interrupted:
        return False
    keep_measure(handed, number, _titled(found, title), drawn(found))
    if number + 1 < len(stages):
        return True
    _end(handed, HandedOver.State.DONE)
    return False


def _titled(found: Difference, title: str) -> Difference:
    return Difference(**{**vars(found), "stage": title or "The stage"})


def _is_gone(handed: HandedOver) -> bool:
    return not HandedOver.objects.filter(id=handed.id).exists()


def _end(handed: HandedOver, state: str, says: str = "") -> None:
    HandedOver.objects.filter(id=handed.id).update(state=state, says=says)


def _read_back(handed: HandedOver) -> documents.Material:
    """What another program would find in the file, read as any file from outside is; its pictures are kept."""
    with handed.file.open("rb") as file:
        name = keep([file.read()])
    facts = facts_of(name, "handed")
    for expected, data in arrays_of(name, "handed").items():
        if keep([data.tobytes()]) != expected:
            raise AssertionError(f"{expected} is not {name_of(np.asarray(data).tobytes())}")
    HandedOver.objects.filter(id=handed.id).update(read_report=facts["report"])
    return documents.read(documents.Material, facts["material"])
