"""Devices on the desk, simulated: invented samples with a hidden truth, and the faults that such an instrument has. A new device is one file here;
a real one would stand behind the same few functions.

A device has dials (what is put in, how it is read) and the functions of `Device`; one for what is sent through matter has those of `Through` as well, one for
light on a stage is held there first. May import describe, matter, spectra, lamps and surrounds only.
"""

from typing import Protocol

import numpy as np

from nineglass.describe import Catalogue

DEVICES = Catalogue("device")

THROUGH_MATTER, ON_THE_STAGE = "light through matter", "light on the stage"
"""Families: what reads samples, and what is held at a place of a stage."""


class Device(Protocol):
    """What every device answers. It reads one value after another, at places along an axis."""

    def places(self, dials: dict) -> np.ndarray:
        """(n,) where it reads, rising: wavelengths in nm."""

    def seconds(self, dials: dict) -> float:
        """How long all of it takes."""

    def read(self, dials: dict, count: int, seed: int) -> np.ndarray:
        """(count,) the first values; the same for the same seed, however often they are asked for."""


class Through(Device, Protocol):
    """What a device answers that sends light through matter."""

    def is_baseline(self, dials: dict) -> bool:
        """Whether it reads what later readings are told against."""

    def told(self, values: np.ndarray, baseline: np.ndarray | None) -> np.ndarray:
        """Decadic absorbance of values against those of a baseline at the same places; against nothing, the device itself is in it as well."""

    def length_cm(self, dials: dict) -> float:
        """The way of light through what is in it."""


def device_of(name: str) -> Device:
    return DEVICES.kinds[name].make()


DEVICES.discover(__name__, __path__)
