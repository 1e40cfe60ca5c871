"""Devices on the desk, simulated: invented samples with a hidden truth, and the faults that such an instrument has. A new device is one file here;
a real one would stand behind the same few functions.

A device has dials (what is put in, how it is read), `places(dials)` at which it reads one value after another, `seconds(dials)` that all of them
take, and `read(dials, count, seed)`, the first values. May import describe, matter and spectra only.
"""

from typing import Protocol

import numpy as np

from nineglass.describe import Catalogue

DEVICES = Catalogue("device")


class Device(Protocol):
    """What every device answers."""

    def places(self, dials: dict) -> np.ndarray:
        """(n,) where it reads: wavelengths in nm, say."""

    def seconds(self, dials: dict) -> float:
        """How long all of it takes."""

    def read(self, dials: dict, count: int, seed: int) -> np.ndarray:
        """(count,) the first values; the same for the same seed, however often they are asked for."""


DEVICES.discover(__name__, __path__)
