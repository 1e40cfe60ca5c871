"""How much the pictures of a person take on the disk so that they can go on: the sums of each light of each pixel."""

from django.db.models import Q, Sum
from library.checks import quota_of
from nineglass.describe import Fault, Refused
from nineglass.documents.final import Final
from nineglass.documents.motion import Motion, Series
from nineglass.finals.sums import BYTES_OF_A_PIXEL

from pictures.models import FinalPicture

MB = 1_000_000
FRAMES_IN_HAND = 4
"""Of a series, besides those that are left half made: what is made of a frame is thrown away once it is done."""


def needed(final: Final, lights: int, series: Series | None) -> int:
    """Bytes."""
    frames = 1
    if series:
        half_made = len(series.strip()) if isinstance(series, Motion) else 0
        frames = min(series.count, half_made + FRAMES_IN_HAND)
    return BYTES_OF_A_PIXEL * final.width * final.height * lights * frames


def leave_room_for(owner, needs: int) -> None:
    """Raises Refused when the sums of a person's pictures would take more than theirs may."""
    most = quota_of(owner.pk).sums_mb * MB
    over = Q(state=FinalPicture.State.DONE, series__isnull=False)
    taken = FinalPicture.objects.filter(owner=owner).exclude(over).aggregate(all=Sum("sums_bytes"))["all"] or 0
    if taken + needs > most:
        fault = f"it needs {needs // MB:,} MB while it is made, and {max(0, most - taken) // MB:,} MB are free"
        remedy = "Make it smaller, with fewer lights kept apart, or remove pictures."
        raise Refused([Fault("final.width", fault, f"{most // MB:,} MB for all your pictures", remedy)])
