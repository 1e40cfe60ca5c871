"""Reading back what was handed over, and measuring it: a job for each stage, so that a killed worker loses one at the most."""

import contextlib
import io

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from handovers.models import HandedOver, Measured

QUEUE = "finals"
AGAIN_S = 5


def measure_behind(handed_id) -> None:
    lock = f"measure {handed_id}"
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        measure.configure(lock=lock, queueing_lock=lock, priority=2).defer(handed_id=str(handed_id))


@app.task(name="measure", queue=QUEUE, pass_context=True)
def measure(context, handed_id: str) -> None:
    """Measure on the next stage that is still to come."""
    from handovers.measuring import Waits, measure_next

    handed = HandedOver.objects.filter(id=handed_id, state=HandedOver.State.MEASURING).first()
    if handed is None:
        return
    try:
        goes_on = measure_next(handed, context.should_abort)
    except Waits:
        lock = f"measure {handed_id}"
        with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
            measure.configure(lock=lock, queueing_lock=lock, schedule_in={"seconds": AGAIN_S}).defer(
                handed_id=handed_id
            )
        return
    if goes_on:
        measure_behind(handed_id)


def keep_measure(handed: HandedOver, number: int, found, picture) -> None:
    """Once, whoever measured it."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG")
    name = default_storage.save(f"handed/{handed.id}-{number}.png", ContentFile(out.getvalue()))
    about = {"stage": found.stage, "delta_e": found.delta_e, "worst": found.worst, "noise": found.noise}
    try:
        with transaction.atomic():
            Measured.objects.create(handed=handed, number=number, picture=name, **about)
    except IntegrityError:
        default_storage.delete(name)
