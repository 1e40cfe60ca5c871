"""A spectrophotometer of one beam, and the samples on its desk. All samples are invented; their true curves are known to this file alone."""

import numpy as np

from nineglass.describe import choice
from nineglass.devices import DEVICES, THROUGH_MATTER
from nineglass.matter.dyes import DYES, absorbance_of
from nineglass.spectra.blackbody import planck

FIRST_NM, LAST_NM = 380.0, 780.0
LAMP_K = 3000.0
"""A halogen lamp: little light, and so more noise, at the short end."""

STRAY, WALLS, DRIFT_PER_S, NOISE = 0.002, 0.92, 0.00004, 0.00012
"""Light that reaches the detector past the sample; what the walls of a cuvette let through; how much the lamp fades a second; and the noise
of one value where the lamp is brightest."""

POINT_S = 0.05
LEAST_SHARE = 1e-4
"""Of light: less is shown as this."""

SOLVENT = "clear water"
_VIALS: dict[str, dict[str, float]] = {
    "keeper's ink": {"iron_gall": 1.35, "woad": 0.7},
    "dog rose cordial": {"rosehip": 0.42, "weld": 0.14},
    "madder rinse": {"madder": 0.55},
    "verdigris varnish": {"verdigris": 0.75, "weld": 0.2},
    "walnut stain": {"walnut": 0.9},
}
"""g/l of dyes that no label tells."""

_CHIPS: dict[str, tuple[float, list[tuple[float, float, float]]]] = {
    "shard of a net float": (0.42, [(410, 45, 0.9), (690, 80, 1.1)]),
    "chip of the ruby cover": (0.2, [(490, 60, 6.5), (545, 30, 3.0)]),
    "blue chip of a window": (0.3, [(590, 30, 3.2), (645, 26, 3.6), (540, 22, 1.6)]),
}
"""Thickness in cm, and bands (peak nm, width nm, absorbance of 1 cm)."""

LENGTHS_CM = {"10 mm": 1.0, "1 mm": 0.1, "2 mm": 0.2, "5 mm": 0.5, "20 mm": 2.0, "50 mm": 5.0}
STEPS_NM = {"5 nm": 5.0, "1 nm": 1.0, "2 nm": 2.0, "10 nm": 10.0}


@DEVICES.kind(title="Spectrophotometer", family=THROUGH_MATTER)
class Spectrophotometer:
    """Sends light of one wavelength after another through a sample and reads what is left of it. Read the clear solvent first: that is the baseline."""

    sample = choice(SOLVENT, *_VIALS, *_CHIPS, label="Sample")
    cuvette = choice(*LENGTHS_CM, label="Cuvette", help="The way through the liquid. A chip has its own thickness.")
    step = choice(*STEPS_NM, label="Step", help="How far apart the wavelengths are at which it reads.")

    def places(self, dials: dict) -> np.ndarray:
        step = STEPS_NM[dials["step"]]
        return np.arange(FIRST_NM, LAST_NM + step / 2, step)

    def seconds(self, dials: dict) -> float:
        return len(self.places(dials)) * POINT_S

    def read(self, dials: dict, count: int, seed: int) -> np.ndarray:
        """Light that is left, over what the lamp sent when the instrument was made."""
        nm = self.places(dials)
        passed = np.power(10.0, -_absorbance_of_1_cm(dials["sample"], nm) * self.length_cm(dials))
        lamp = planck(nm, LAMP_K)
        brightness = lamp / lamp.max()
        rng = np.random.default_rng(seed)
        began = rng.uniform(0, 60)
        faded = 1 - DRIFT_PER_S * (began + POINT_S * np.arange(len(nm)))
        seen = WALLS * (passed + STRAY) / (1 + STRAY) * faded
        return (seen + rng.normal(size=len(nm)) * NOISE / brightness)[:count]

    def is_baseline(self, dials: dict) -> bool:
        return dials["sample"] == SOLVENT

    def told(self, values: np.ndarray, baseline: np.ndarray | None) -> np.ndarray:
        return -np.log10(np.maximum(values / (baseline if baseline is not None else 1.0), LEAST_SHARE))

    def length_cm(self, dials: dict) -> float:
        sample = dials["sample"]
        return _CHIPS[sample][0] if sample in _CHIPS else LENGTHS_CM[dials["cuvette"]]


def _absorbance_of_1_cm(sample: str, nm: np.ndarray) -> np.ndarray:
    """The truth; it grows with the way, as Bouguer, Lambert and Beer have it."""
    if sample in _CHIPS:
        return absorbance_of(_CHIPS[sample][1], nm)
    grams = _VIALS.get(sample, {})
    return sum((absorbance_of(DYES[dye], nm) * amount for dye, amount in grams.items()), np.zeros(len(nm)))
