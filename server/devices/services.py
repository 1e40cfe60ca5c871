"""What can be done with the devices on the desk. Every function takes the owner; nobody reaches what is not theirs."""

import secrets
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.checks import check, leave_room
from nineglass.describe import Fault, Refused
from nineglass.devices import DEVICES
from nineglass.devices.spectrophotometer import SOLVENT, absorbance, length_cm
from nineglass.documents.absorbing import absorbing_as
from nineglass.documents.model import Material

from devices.models import Scan


@dataclass(frozen=True)
class Read:
    """A scan as far as it is: where it has read, and the decadic absorbance there."""

    places: list[float]
    absorbance: list[float]
    of_places: int
    seconds_left: float
    length_cm: float
    baseline: UUID | None
    """The scan of the clear solvent that it is told against."""
    is_baseline: bool


def begin(owner, device: str, dials: dict) -> Scan:
    """Begin to read. Raises Refused; one scan of a person runs at a time."""
    if faults := DEVICES.faults_of("scan", device, dials):
        raise Refused(faults)
    leave_room(owner, Scan)
    if any(of(scan).seconds_left > 0 for scan in Scan.objects.filter(owner=owner, stopped_at=None)[:4]):
        raise Refused([Fault("scan", "the instrument is still reading", "one scan at a time", "Wait, or stop it.")])
    own = DEVICES.kinds[device].defaults() | dials
    return Scan.objects.create(owner=owner, device=device, dials=own, seed=secrets.randbelow(2**31))


def scans(owner):
    return Scan.objects.filter(owner=owner)


def get(owner, scan_id: UUID) -> Scan:
    return get_object_or_404(Scan, owner=owner, id=scan_id)


def stop(owner, scan_id: UUID) -> Scan:
    """Break a scan off; what was read is kept."""
    scan = get(owner, scan_id)
    if of(scan).seconds_left > 0:
        scan.stopped_at = timezone.now()
        scan.save(update_fields=["stopped_at"])
    return scan


def remove(owner, scan_id: UUID) -> None:
    get(owner, scan_id).delete()


def of(scan: Scan) -> Read:
    """What a scan has read."""
    device = DEVICES.kinds[scan.device].make()
    places, seconds = device.places(scan.dials), device.seconds(scan.dials)
    elapsed = ((scan.stopped_at or timezone.now()) - scan.began_at).total_seconds()
    count = min(int(elapsed / seconds * len(places)), len(places))
    values = device.read(scan.dials, count, scan.seed)
    baseline = _baseline(scan)
    against = None
    if baseline:
        whole = DEVICES.kinds[baseline.device].make()
        against = np.interp(places, whole.places(baseline.dials), whole.read(baseline.dials, 10_000, baseline.seed))[
            :count
        ]
    left = 0.0 if scan.stopped_at else max(seconds - elapsed, 0.0)
    told = absorbance(values, against).round(6).tolist()
    return Read(
        places[:count].tolist(),
        told,
        len(places),
        left,
        length_cm(scan.dials),
        baseline and baseline.id,
        _is_baseline(scan),
    )


def _is_baseline(scan: Scan) -> bool:
    return scan.dials["sample"] == SOLVENT


def _baseline(scan: Scan) -> Scan | None:
    """The newest whole reading of the clear solvent before a scan, by the same person."""
    if _is_baseline(scan):
        return None
    earlier = Scan.objects.filter(
        owner=scan.owner, device=scan.device, stopped_at=None, began_at__lt=scan.began_at, dials__sample=SOLVENT
    )
    for one in earlier[:4]:
        seconds = DEVICES.kinds[one.device].make().seconds(one.dials)
        if (scan.began_at - one.began_at).total_seconds() >= seconds:
            return one
    return None


def curve_of(scan: Scan) -> list[list[float]]:
    """The share of light left over the length of the scan: [nm, share], as an interior takes it. Raises Refused before it is done."""
    read = of(scan)
    if len(read.places) < 2:
        raise Refused([Fault("scan", "nothing was read yet", "a scan with values", "Wait a moment.")])
    shares = np.clip(np.power(10.0, -np.array(read.absorbance)), 0, 1)
    return [[nm, float(share)] for nm, share in zip(read.places, shares, strict=True)]


def laid(owner, scan_id: UUID, material: Material) -> Material:
    """A material with an interior that absorbs as was read. Raises Refused."""
    check(owner, material)
    scan = get(owner, scan_id)
    return absorbing_as(material, curve_of(scan), length_cm(scan.dials))
