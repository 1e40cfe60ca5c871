"""What the matter within a material does to light, its driven dials read where one place must stand for all: for gauges, notes and the section."""

import numpy as np

from nineglass.gauges import Reading
from nineglass.gauges.index import index_of
from nineglass.gauges.surface import places, values_at
from nineglass.matter.material import absorption_curve, scattering_curve, subsurface_curves
from nineglass.matter.phases import mean_cosine, phase_table
from nineglass.matter.substances import D_NM, WAVELENGTHS_NM
from nineglass.optics.doubling import doublings, shares_of
from nineglass.optics.phase import henyey_greenstein, tabled_phase
from nineglass.spectra.upsampling import color_spectrum
from nineglass.trace.matter import IN_SPACE, READ_WHERE_ENTERED

MIDDLE_NM = 550
"""Where one wavelength stands for all: the eye is about most sensitive there."""

MIDDLE = int(np.searchsorted(WAVELENGTHS_NM, MIDDLE_NM))

MANY_PATHS = 10
"""The section shows a subsurface as deep as so many mean free paths."""


def is_subsurface(reading: Reading) -> bool:
    return "subsurface" in reading.compiled.present


def _dials(reading: Reading, kind: str) -> dict:
    known = {dial: value for (slot, dial), value in reading.values.items() if slot == kind}
    if kind == "interior" and reading.varies("interior", "density"):
        known["density"] = densest(reading)
    return reading.compiled.leaves[0].settings[kind] | known


def densest(reading: Reading) -> float:
    """The largest density that is driven: where it is thin there is little to tell."""
    signals = {"density": reading.compiled.dials["interior", "density"]}
    return float(values_at(reading, signals, places(reading))["density"].max())


def _subsurface(reading: Reading) -> tuple[np.ndarray, np.ndarray]:
    index = float(np.interp(D_NM, WAVELENGTHS_NM, index_of(reading)))
    return subsurface_curves(_dials(reading, "subsurface"), index, color_spectrum)


def absorption_of(reading: Reading) -> np.ndarray:
    """(401,) absorption in 1/m."""
    if is_subsurface(reading):
        return _subsurface(reading)[0]
    return absorption_curve(_dials(reading, "interior"), color_spectrum)


def scattering_of(reading: Reading) -> np.ndarray:
    """(401,) scattering in 1/m."""
    if is_subsurface(reading):
        return _subsurface(reading)[1]
    return scattering_curve(_dials(reading, "interior"), color_spectrum)


def asymmetry_of(reading: Reading) -> float:
    """The mean cosine of scattering."""
    if is_subsurface(reading):
        return _dials(reading, "subsurface")["subsurface_scatter_anisotropy"]
    return mean_cosine(_dials(reading, "interior"))


def phase_of(reading: Reading, cosines: np.ndarray) -> np.ndarray:
    """Density (1/sr) of turns by some cosines."""
    table = None if is_subsurface(reading) else phase_table(_dials(reading, "interior"))
    g = np.float32(asymmetry_of(reading))
    if table is None:
        return np.array([float(henyey_greenstein(np.float32(c), g)) for c in cosines])
    return np.array([float(tabled_phase(table.astype(np.float32), np.float32(c))) for c in cosines])


def scatters(reading: Reading) -> bool:
    return bool(scattering_of(reading).max() > 0)


def depth_of(reading: Reading) -> float:
    """The depth (cm) that the dials speak of."""
    if is_subsurface(reading):
        return MANY_PATHS * reading.values["subsurface", "subsurface_radius"]
    return reading.values["interior", "transmission_depth"]


def transmitted(reading: Reading, lengths_cm) -> np.ndarray:
    """(n, 401): what is left of light after some lengths, but for what is scattered."""
    return np.exp(-absorption_of(reading) * np.asarray(lengths_cm, float)[:, None] / 100)


def passed(reading: Reading, lengths_cm) -> np.ndarray:
    """(n, 401): what slabs of growing thickness let through of light that falls straight on them, scattered or not; no boundary counts."""
    lengths = np.asarray(lengths_cm, float)
    if not scatters(reading):
        return transmitted(reading, lengths)
    sigma_s, sigma_a, g = scattering_of(reading), absorption_of(reading), asymmetry_of(reading)
    steps = np.arange(0, len(WAVELENGTHS_NM), SLAB_STEP_NM)
    found = np.array([_passed_at(float(sigma_s[k]), float(sigma_a[k]), g, lengths / 100) for k in steps])
    return np.array([np.interp(WAVELENGTHS_NM, WAVELENGTHS_NM[steps], row) for row in found.T])


SLAB_STEP_NM = 25
"""Slabs are worked out at such steps of wavelength: what scatters has smooth spectra."""


def _passed_at(sigma_s: float, sigma_a: float, g: float, lengths_m: np.ndarray) -> np.ndarray:
    sigma_t = max(sigma_s + sigma_a, 1e-6)
    depths, shares = [], []
    for depth, reflects, passes in doublings(sigma_s / sigma_t, sigma_t * float(lengths_m.max()), g):
        if depth >= sigma_t * float(lengths_m.min()) / 2:
            depths.append(depth)
            shares.append(shares_of(reflects, passes).passed)
    if len(depths) < 2:
        return np.exp(-sigma_a * lengths_m)
    from scipy.interpolate import PchipInterpolator

    smooth = PchipInterpolator(np.log(depths), np.log(np.maximum(shares, 1e-12)))
    return np.exp(smooth(np.log(sigma_t * lengths_m)))


def varies_within(reading: Reading) -> bool:
    """Whether what the matter does depends on where light enters."""
    kind = "interior"
    dials = IN_SPACE
    if is_subsurface(reading):
        kind, dials = "subsurface", READ_WHERE_ENTERED
    return any(reading.varies(kind, dial) for dial in dials)
