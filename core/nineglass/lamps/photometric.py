"""Lamps as they were measured: photometric files (IES LM-63), read within limits."""

from dataclasses import dataclass
from functools import lru_cache
from math import pi

import numpy as np

from nineglass.describe import dial, file_dial
from nineglass.files import refused_file
from nineglass.lamps import LAMPS
from nineglass.lamps.light import SPHERE, Aimed, Light, axes, beam_of, with_beam
from nineglass.put_in import ReadFile, arrays_of

LARGEST_BYTES = 2_000_000
MOST_ANGLES = 1000
TYPE_C = 1
"""The kind of photometry of nearly all files: angles from the nadir, and around it."""


@LAMPS.kind(title="Photometric lamp", family="area")
class Photometric(Aimed):
    """A lamp that sends out light as its photometric file says (IES LM-63); what the file calls down looks at the middle."""

    sign = "beam"
    synonyms = "ies lm-63 measured luminaire web"

    file = file_dial("photometry", label="Photometric file")
    diameter = dial(6, 0.5, 60, hard=(0.05, 10000), unit="cm", scale="log", ends=("bulb", "globe"))
    roll = dial(
        0, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="Turns it about the way it looks."
    )

    def light(self, dials) -> Light:
        toward, side, up = axes(dials)
        radius = dials["diameter"] / 200
        radiance = dials["power"] / (4 * pi * pi * radius * radius)
        centre = toward * dials["distance"] / 100
        lamp = Light(
            SPHERE, centre, side * radius, up * radius, radiance, dials["kelvin"], dials["color"], spread=radius
        )
        beam = (
            _beam(dials["file"]) if dials["file"] else beam_of(lambda angle, turn: np.ones_like(angle), slanted=False)
        )
        return with_beam(lamp, beam, dials["roll"])


@dataclass(frozen=True)
class Photometry:
    """Candela over the angle from the nadir (v,) and around it (h,), both in degrees and rising: (h, v)."""

    down: np.ndarray
    around: np.ndarray
    candela: np.ndarray
    watts: float

    def share(self, angle: np.ndarray, turn: np.ndarray) -> np.ndarray:
        """Candela at angles to the axis (rad) and turns about it (rad), linear between the measured ones; 0 where none was measured."""
        down, around = np.broadcast_arrays(np.degrees(angle), self._folded(np.degrees(turn) % 360))
        rows = np.stack([np.interp(down, self.down, row, left=0, right=0) for row in self.candela])
        place = np.interp(around, self.around, np.arange(len(self.around)))
        low = np.minimum(place.astype(int), max(len(self.around) - 2, 0))
        high = np.minimum(low + 1, len(self.around) - 1)
        above = np.take_along_axis(rows, low[None], axis=0)[0]
        return above + (np.take_along_axis(rows, high[None], axis=0)[0] - above) * (place - low)

    def _folded(self, turn: np.ndarray) -> np.ndarray:
        """Turns within what was measured: all around, half, a quarter, or one plane. Source: IES LM-63-2002, 5.12."""
        last = self.around[-1]
        if last <= 0:
            return np.zeros_like(turn)
        if last <= 90:
            turn = np.where(turn > 180, 360 - turn, turn)
            return np.where(turn > 90, 180 - turn, turn)
        return np.where(turn > 180, 360 - turn, turn) if last <= 180 else turn

    def lumens(self) -> float:
        """Luminous flux: candela over all directions."""
        angle, turn = np.radians(np.linspace(0, 180, 721))[:, None], np.radians(np.arange(0, 360, 2.5))[None, :]
        seen = self.share(angle + 0 * turn, turn + 0 * angle) * np.sin(angle)
        return float(np.trapezoid(seen.mean(axis=1), angle[:, 0]) * 2 * pi)


@lru_cache(16)
def _beam(name: str) -> np.ndarray:
    found = arrays_of(name, "photometry")
    watts = float(found.pop("watts"))
    return beam_of(Photometry(**found, watts=watts).share, slanted=False)


def read_photometry(given: bytes) -> Photometry:
    """A photometric file of type C. Raises Refused. Source: ANSI/IES LM-63-2002 (and its editions of 1986, 1991 and 1995)."""
    if len(given) > LARGEST_BYTES:
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    lines = given.decode("latin-1").splitlines()
    at = next((k for k, line in enumerate(lines) if line.strip().upper().startswith("TILT=")), None)
    if at is None:
        raise refused_file("there is no line TILT=", "a photometric file, IES LM-63")
    tilt = lines[at].split("=", 1)[1].strip().upper()
    if tilt not in ("NONE", "INCLUDE"):
        raise refused_file(f"its tilt stands in another file, {tilt[:40]!r}", "TILT=NONE or TILT=INCLUDE")
    numbers = _numbers(" ".join(lines[at + 1 :]))
    if tilt == "INCLUDE":
        numbers.take(1)
        numbers.take(2 * numbers.count())
    _lamps, _lumens, factor = numbers.take(3)
    down_count, around_count = numbers.count(), numbers.count()
    kind, _unit, *_size = numbers.take(5)
    if kind != TYPE_C:
        raise refused_file(f"photometry of type {kind:g}", "type C (1): angles from the nadir")
    ballast, _spare, watts = numbers.take(3)
    down, around = (np.array(numbers.take(count)) for count in (down_count, around_count))
    candela = np.array(numbers.take(down_count * around_count)).reshape(around_count, down_count) * factor * ballast
    if (np.diff(down) <= 0).any() or (np.diff(around) <= 0).any():
        raise refused_file("its angles do not rise", "angles in rising order")
    if candela.min() < 0 or candela.max() <= 0:
        raise refused_file("its candela are negative, or all nothing", "candela above 0")
    return Photometry(down, around, candela, float(watts))


class _Numbers:
    def __init__(self, values: list[float]):
        self._values, self._at = values, 0

    def take(self, count: int) -> list[float]:
        self._at += count
        if self._at > len(self._values):
            raise refused_file("the file ends before its candela do", "all numbers that its head promises")
        return self._values[self._at - count : self._at]

    def count(self) -> int:
        [value] = self.take(1)
        if not 1 <= value <= MOST_ANGLES or value != int(value):
            raise refused_file(f"{value:g} angles", f"1 to {MOST_ANGLES}")
        return int(value)


def _numbers(text: str) -> _Numbers:
    try:
        values = [float(word) for word in text.replace(",", " ").split()]
    except ValueError as error:
        raise refused_file(f"not a number ({error})"[:120], "numbers after the line TILT=") from None
    if not np.isfinite(values).all():
        raise refused_file("numbers that are none", "finite numbers")
    return _Numbers(values)


def read_file(given: bytes) -> ReadFile:
    found = read_photometry(given)
    facts = {
        "lumens": found.lumens(),
        "brightest_candela": float(found.candela.max()),
        "down_deg": [float(found.down[0]), float(found.down[-1])],
        "watts": found.watts,
    }
    arrays = {"down": found.down, "around": found.around, "candela": found.candela, "watts": np.array(found.watts)}
    return ReadFile(facts, arrays)
