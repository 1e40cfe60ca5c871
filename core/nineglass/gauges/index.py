import numpy as np

from nineglass.documents.bands.metal import TWO_COLORS
from nineglass.gauges import GAUGES, Reading
from nineglass.matter.material import index_curve
from nineglass.matter.substances import C_NM, D_NM, F_NM, WAVELENGTHS_NM, substances
from nineglass.optics.film import metal_of_colors
from nineglass.spectra.upsampling import color_spectrum


def metal_of(reading: Reading) -> tuple[np.ndarray, np.ndarray]:
    """(401,) index and extinction of the metal."""
    return metal_curves(reading.compiled.settings["metal"], reading.values)


def metal_curves(settings: dict, values: dict) -> tuple[np.ndarray, np.ndarray]:
    """(401,) index and extinction of a metal band, measured or of two colours. values: of its dials, by slot and name."""
    name = settings["substance"]
    if name != TWO_COLORS:
        return substances()[name].index, substances()[name].extinction
    facing, edge = (color_spectrum(values["metal", dial]) for dial in ("base_color", "specular_color"))
    return tuple(np.array([metal_of_colors(np.float32(f), np.float32(e)) for f, e in zip(facing, edge, strict=True)]).T)


def index_of(reading: Reading) -> np.ndarray:
    """(401,) refractive index of the boundary, its driven dial read where one place must stand for all."""
    if "metal" in reading.compiled.present:
        return metal_of(reading)[0]
    dials = reading.compiled.settings["interface"]
    return index_curve(dials | {"specular_ior": reading.values["interface", "specular_ior"]})


def _index_of_leaf(reading: Reading, leaf) -> np.ndarray:
    """(401,) the same of one side of a split."""
    values = reading.read(leaf.dials)
    if "metal" in leaf.order:
        return metal_curves(leaf.settings["metal"], values)[0]
    return index_curve(leaf.settings["interface"] | {"specular_ior": values["interface", "specular_ior"]})


def abbe_of(n: np.ndarray) -> float | None:
    """The Abbe number of an index curve (401,); None without dispersion."""
    d, f, c = (float(np.interp(nm, WAVELENGTHS_NM, n)) for nm in (D_NM, F_NM, C_NM))
    return (d - 1) / (f - c) if f - c > 1e-7 else None


@GAUGES.gauge(title="Index", plot="curves", bands=("interface", "metal"), place=3)
def index(reading: Reading) -> dict:
    """The refractive index over wavelength, with its value at the helium line and the Abbe number."""
    n = index_of(reading)
    n_d = float(np.interp(D_NM, WAVELENGTHS_NM, n))
    both = [n, *(_index_of_leaf(reading, leaf) for leaf in reading.compiled.leaves[1:])]
    names = ("first side", "second side") if len(both) > 1 else ("n",)
    curves = [{"label": name, "values": one[::5].tolist()} for name, one in zip(names, both, strict=True)]
    abbe = abbe_of(n)
    words = f"n = {n_d:.4f} at every wavelength: no dispersion."
    if abbe:
        words = f"n = {n_d:.4f}, Abbe number {abbe:.1f}."
    scale = reading.compiled.settings["interface"]["transmission_dispersion_scale"]
    if "metal" in reading.compiled.present:
        words = f"n = {n_d:.3f} at the helium line."
    elif scale not in (0, 1):
        words += f" Dispersion is {scale:g} times the true one."
    if len(both) > 1:
        words = f"First side: {words} Second side: n = {float(np.interp(D_NM, WAVELENGTHS_NM, both[1])):.4f}."
    low, high = float(np.min(both)), float(np.max(both))
    room = max(0.02, high - low)
    return {
        "x": {"label": "wavelength", "unit": "nm", "values": WAVELENGTHS_NM[::5].tolist()},
        "y": {"label": "index", "low": low - room, "high": high + room},
        "curves": curves,
        "marks": [{"x": D_NM, "label": "d 587.6 nm"}],
        "caption": words,
        "varies": reading.varies("interface", "specular_ior"),
    }
