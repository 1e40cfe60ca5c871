"""The job that reads back what was handed over and measures it: one for each light, so that a killed worker loses one at the most."""

import contextlib

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from handovers.models import HandedOver

QUEUE = "finals"
AGAIN_S = 5
"""After which kernels that are missing are looked for again."""


def measure_behind(handed_id, in_seconds: int = 0) -> None:
    lock = f"measure {handed_id}"
    with contextlib.suppress(AlreadyEnqueued), transaction.atomic():
        job = measure.configure(lock=lock, queueing_lock=lock, priority=2, schedule_in={"seconds": in_seconds})
        job.defer(handed_id=str(handed_id))


@app.task(name="measure", queue=QUEUE, pass_context=True)
def measure(context, handed_id: str) -> None:
    """Measure in the next light that is still to come."""
    from handovers.measuring import KernelsMissing, measure_next

    handed = HandedOver.objects.filter(id=handed_id, state=HandedOver.State.MEASURING).first()
    try:
        if handed and measure_next(handed, context.should_abort):
            measure_behind(handed_id)
    except KernelsMissing:
        measure_behind(handed_id, AGAIN_S)
