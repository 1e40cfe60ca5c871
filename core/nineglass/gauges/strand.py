"""The gauge of strands: where a strand sends light along itself and about itself, and how it looks across when it is lit."""

import numpy as np

from nineglass.gauges import GAUGES, Reading
from nineglass.matter.fibres import fibre_absorption
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.optics.fibre import (
    LOBES,
    MIRRORED,
    ONCE_WITHIN,
    PASSED,
    azimuthal_scale,
    bent_within,
    lobe_density,
    longitudinal_variance,
    mirrored_share,
    shares,
)
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.srgb import to_hex
from nineglass.spectra.upsampling import color_spectrum

F = np.float32
SLANT_DEG = 20
"""From which light comes, to the normal plane of the strand."""

ALONG = np.linspace(-90, 90, 91)
AROUND = np.linspace(-180, 180, 91)
ACROSS = np.linspace(-0.97, 0.97, 25)
LIT_FROM_DEG = 50
"""Beside the eye, of the lamp that the cross-section is lit by."""

NAMES = {MIRRORED: "mirrored", PASSED: "passed through", ONCE_WITHIN: "mirrored within"}
SOME_NM = np.arange(400, 701, 20)


def _fibre(reading: Reading) -> dict:
    own = {dial: value for (slot, dial), value in reading.values.items() if slot == "fibre"}
    return reading.compiled.settings["fibre"] | own


def _lobes(fibre: dict, absorption: np.ndarray, h: float, sin_o: float) -> tuple[np.ndarray, tuple]:
    """((LOBES, n) share of light that each sends on, by absorption (n,); what `lobe_density` takes of it)."""
    cos_o, eta = F(np.sqrt(1 - sin_o**2)), F(fibre["fibre_ior"])
    gamma_o, gamma_t, way = bent_within(F(sin_o), cos_o, F(h), eta)
    mirrored = mirrored_share(cos_o, F(h), eta)
    highlight, medulla = F(fibre["highlight"]), F(fibre["medulla"])
    parts = np.array([shares(F(a), way, mirrored, highlight, medulla) for a in absorption]).T
    strengths = {PASSED: fibre["passing"], ONCE_WITHIN: fibre["second_highlight"]}
    for lobe, strength in strengths.items():
        parts[lobe] *= strength
    about = (gamma_o, gamma_t, F(np.radians(fibre["cuticle_angle"])))
    rough = longitudinal_variance(F(fibre["longitudinal_roughness"])), azimuthal_scale(F(fibre["azimuthal_roughness"]))
    return parts, (F(sin_o), cos_o, *about, *rough)


def _density(lobe: int, slant: float, turn: float, about: tuple) -> float:
    return float(lobe_density(lobe, F(np.sin(slant)), F(max(np.cos(slant), 0)), F(turn), *about))


def _along(fibre: dict, middle: np.ndarray) -> list[list[float]]:
    """Of each named lobe its light over the inclination of where it goes, for each degree, at the azimuth of its peak."""
    found = []
    _, about = _lobes(fibre, middle, 0.0, np.sin(np.radians(SLANT_DEG)))
    for lobe in NAMES:
        turn = 0.0 if lobe in (MIRRORED, ONCE_WITHIN) else np.pi
        found.append([_density(lobe, np.radians(a), turn, about) * float(np.cos(np.radians(a))) for a in ALONG])
    return found


def _around(fibre: dict, middle: np.ndarray) -> list[list[float]]:
    """Of each named lobe its light over the azimuth, of a ray met anywhere across the strand."""
    found = np.zeros((LOBES, len(AROUND)))
    for h in ACROSS:
        parts, about = _lobes(fibre, middle, h, 0.0)
        for lobe in NAMES:
            found[lobe] += [float(parts[lobe, 0]) * _density(lobe, 0.0, np.radians(a), about) for a in AROUND]
    return (found[list(NAMES)] / len(ACROSS)).tolist()


def _lit(fibre: dict, absorption: np.ndarray) -> list[str]:
    """Colours across a strand that a lamp beside the eye lights."""
    colors = []
    at_some = np.interp(SOME_NM, WAVELENGTHS_NM, absorption)
    for h in ACROSS:
        parts, about = _lobes(fibre, at_some, h, 0.0)
        light = sum(parts[lobe] * _density(lobe, 0.0, np.radians(LIT_FROM_DEG), about) for lobe in range(LOBES))
        colors.append(rgb_of_filter(np.interp(WAVELENGTHS_NM, SOME_NM, light)))
    colors = np.array(colors)
    return [to_hex(np.clip(one, 0, 1)) for one in colors / max(float(colors.max()), 1e-9)]


def _of_the_largest(values: list[float]) -> list[float]:
    most = max(values) or 1.0
    return [value / most for value in values]


@GAUGES.gauge(title="Strand", plot="lobes", bands=("fibre",), place=1)
def strand(reading: Reading) -> dict:
    """A strand cut across, lit from beside the eye; where it sends light about itself, and along itself: one line for each lobe, each of
    its own largest."""
    fibre = _fibre(reading)
    absorption = fibre_absorption(fibre, color_spectrum)
    middle = np.array([np.interp(550, WAVELENGTHS_NM, absorption)])
    along, around = _along(fibre, middle), _around(fibre, middle)
    across = [_lobes(fibre, middle, h, 0.0)[0][:, 0] for h in ACROSS]
    parts, sent = across[len(ACROSS) // 2], np.mean(across, axis=0)
    passes = float(np.exp(-middle[0]))
    return {
        "lobes": [
            {
                "label": f"{name} {sent[lobe]:.1%}",
                "along": _of_the_largest(along[k]),
                "around": _of_the_largest(around[k]),
            }
            for k, (lobe, name) in enumerate(NAMES.items())
        ],
        "along_deg": ALONG.tolist(),
        "lit": _lit(fibre, absorption),
        "caption": f"Straight through its middle goes {passes:.0%} of green light; {float(parts[MIRRORED]):.1%} is mirrored face-on.",
        "varies": any(reading.varies("fibre", dial) for slot, dial in reading.compiled.dials if slot == "fibre"),
    }
