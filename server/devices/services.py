"""What can be done with the devices on the desk. Every function takes the owner; nobody reaches what is not theirs."""

import secrets
from uuid import UUID

import numpy as np
from django.shortcuts import get_object_or_404
from django.utils import timezone
from library.checks import check, leave_room
from nineglass.describe import Fault, Refused
from nineglass.devices import DEVICES, THROUGH_MATTER, device_of, light_meter
from nineglass.documents import model as documents
from nineglass.matter import bouguer
from nineglass.spectra.upsampling import color_spectrum
from ninja import Schema

from devices.models import Scan

MOST_COMPARED = 3
WITH_BASELINES = 8
"""Of the readings before a scan so many are looked through for its baseline."""


class Read(Schema):
    """A scan as far as it is: where it has read (nm), and the decadic absorbance there."""

    places: list[float]
    absorbance: list[float]
    of_places: int
    seconds_left: float
    length_cm: float
    baseline: UUID | None
    """The scan that it is told against."""
    is_baseline: bool


class LightRead(Schema):
    """What a light meter shows at a place of a stage."""

    lux: float
    kelvin: float | None
    """None in the dark."""
    places: list[float]
    """nm"""
    irradiance: list[float]
    """Over them, so that its luminous sum is the lux."""
    says: str


LIGHT_METER = "light_meter"


def read_light(person, stage: documents.Stage, dials: dict) -> LightRead:
    """Hold a light meter at a place of a stage. Raises Refused."""
    check(person, stage)
    if faults := DEVICES.faults_of("light", LIGHT_METER, dials):
        raise Refused(faults)
    own = DEVICES.kinds[LIGHT_METER].defaults() | dials
    meter = light_meter.LightMeter(light_meter.lit_of(stage, color_spectrum))
    places = meter.places(own)
    spectrum = meter.read(own, len(places), secrets.randbelow(2**31))
    found, warmth = light_meter.lux(spectrum), light_meter.kelvin(spectrum)
    says = f"{found:,.0f} lx" if found >= 10 else f"{found:.2g} lx"
    says += f", {warmth:,.0f} K" if warmth else ""
    return LightRead(lux=found, kelvin=warmth, places=places, irradiance=spectrum.round(6), says=says)


def begin(owner, device: str, dials: dict) -> Scan:
    """Begin to read. Raises Refused; one scan of a person runs at a time."""
    if faults := DEVICES.faults_of("scan", device, dials):
        raise Refused(faults)
    if DEVICES.kinds[device].family != THROUGH_MATTER:
        raise Refused(
            [Fault("device", "it reads at once, of a stage", "a device for samples", "Read the light instead.")]
        )
    leave_room(owner, Scan)
    newest = scans(owner).first()
    if newest and _seconds_left(newest) > 0:
        raise Refused([Fault("scan", "the instrument is still reading", "one scan at a time", "Wait, or stop it.")])
    own = DEVICES.kinds[device].defaults() | dials
    return Scan.objects.create(owner=owner, device=device, dials=own, seed=secrets.randbelow(2**31))


def scans(owner):
    """The newest first."""
    return Scan.objects.filter(owner=owner)


def get(owner, scan_id: UUID) -> Scan:
    return get_object_or_404(Scan, owner=owner, id=scan_id)


def stop(owner, scan_id: UUID) -> Scan:
    """Break a scan off; what was read is kept."""
    scan = get(owner, scan_id)
    if _seconds_left(scan) > 0:
        scan.stopped_at = timezone.now()
        scan.save(update_fields=["stopped_at"])
    return scan


def remove(owner, scan_id: UUID) -> None:
    get(owner, scan_id).delete()


def _spent_s(scan: Scan) -> float:
    return ((scan.stopped_at or timezone.now()) - scan.began_at).total_seconds()


def _seconds_left(scan: Scan) -> float:
    return 0.0 if scan.stopped_at else max(device_of(scan.device).seconds(scan.dials) - _spent_s(scan), 0.0)


def of(scan: Scan) -> Read:
    """What a scan has read."""
    device = device_of(scan.device)
    places = device.places(scan.dials)
    count = min(int(_spent_s(scan) / device.seconds(scan.dials) * len(places)), len(places))
    baseline = None if device.is_baseline(scan.dials) else _baseline(scan)
    against = _whole(baseline, places)[:count] if baseline else None
    return Read(
        places=places[:count],
        absorbance=device.told(device.read(scan.dials, count, scan.seed), against).round(6),
        of_places=len(places),
        seconds_left=_seconds_left(scan),
        length_cm=device.length_cm(scan.dials),
        baseline=baseline and baseline.id,
        is_baseline=device.is_baseline(scan.dials),
    )


def _baseline(scan: Scan) -> Scan | None:
    """The newest whole baseline before a scan, by the same person with the same device."""
    earlier = scans(scan.owner).filter(device=scan.device, stopped_at=None, began_at__lt=scan.began_at)
    device = device_of(scan.device)
    for one in earlier[:WITH_BASELINES]:
        whole = (scan.began_at - one.began_at).total_seconds() >= device.seconds(one.dials)
        if whole and device.is_baseline(one.dials):
            return one
    return None


def _whole(scan: Scan, places: np.ndarray) -> np.ndarray:
    """The values of a whole scan at other places."""
    device = device_of(scan.device)
    own = device.places(scan.dials)
    return np.interp(places, own, device.read(scan.dials, len(own), scan.seed))


def compared(owner, scan_ids: list[UUID], for_1_cm: bool) -> dict:
    """Scans over the same places, and what they tell of Bouguer's law."""
    found = [get(owner, one) for one in scan_ids[:MOST_COMPARED]]
    read = [(scan, of(scan)) for scan in found]
    readings = [
        bouguer.Reading(scan.dials["sample"], one.length_cm, np.array(one.places), np.array(one.absorbance))
        for scan, one in read
    ]
    places, curves = bouguer.side_by_side(readings, for_1_cm)
    told = [{"label": one.label, "values": _plain(curve)} for one, curve in zip(readings, curves, strict=True)]
    return {"places": places.tolist(), "curves": told, "says": bouguer.says(readings)}


def _plain(values: np.ndarray) -> list[float | None]:
    return [float(v) if np.isfinite(v) else None for v in values]


def curve_of(scan: Scan) -> list[list[float]]:
    """The share of light left over the length of the scan: [nm, share], as an interior takes it. Raises Refused before anything is read."""
    read = of(scan)
    if len(read.places) < 2:
        raise Refused([Fault("scan", "nothing was read yet", "a scan with values", "Wait a moment.")])
    shares = np.clip(np.power(10.0, -np.array(read.absorbance)), 0, 1)
    return [[nm, float(share)] for nm, share in zip(read.places, shares, strict=True)]
