"""What the dials of a material's bands mean over wavelength."""

import numpy as np

from nineglass.documents.bands.interior import COLOR, CURVE, DYES, SUBSTANCE
from nineglass.matter.dyes import OWN, PLACES, dye_sigma_a, own_sigma_a
from nineglass.matter.scatterers import Scatterer, scatterers
from nineglass.matter.substances import D_NM, NONE, WAVELENGTHS_NM, cauchy_index, substances
from nineglass.optics.inversion import albedo_of, inversion_table
from nineglass.optics.limits import CLEAREST, LEAST_SCALE

FAN_NM = (420.0, 680.0)
"""Where the first and the last of the fan's colours stand."""


def index_curve(interface: dict) -> np.ndarray:
    """(401,) refractive index from the dials of an interface, with its dispersion turned off, true or exaggerated."""
    scale = interface["transmission_dispersion_scale"]
    if interface["substance"] == NONE:
        n_d = interface["specular_ior"]
        true = cauchy_index(n_d, interface["transmission_dispersion_abbe_number"])
    else:
        true = substances()[interface["substance"]].index
        n_d = float(np.interp(D_NM, WAVELENGTHS_NM, true))
    return np.maximum(n_d + (true - n_d) * scale, 1.0 if n_d >= 1 else 0.2)


def absorption_curve(interior: dict, color_spectrum) -> np.ndarray:
    """(401,) absorption in 1/m from the dials of an interior. color_spectrum: makes a transmittance (401,) from a colour."""
    depth = interior["transmission_depth"] / 100
    source = interior["absorption"]
    if source == SUBSTANCE:
        name = interior["substance"]
        sigma_a = np.zeros(len(WAVELENGTHS_NM)) if name == NONE else substances()[name].sigma_a
    elif source == DYES:
        sigma_a = sum((_absorbed_by_dye(interior, i) for i in PLACES), np.zeros(len(WAVELENGTHS_NM)))
    else:
        if source == CURVE:
            points = np.array(interior["transmittance"], float)
            share = np.interp(WAVELENGTHS_NM, points[:, 0], points[:, 1])
        else:
            share = color_spectrum(interior["transmission_color"])
        sigma_a = -np.log(np.maximum(share, CLEAREST)) / depth
    return (sigma_a * interior["concentration"] + _absorbed_by_scatterer(interior)) * interior["density"]


def _absorbed_by_dye(interior: dict, number: int):
    name, amount = interior[f"dye_{number}"], interior[f"amount_{number}"]
    if name == NONE:
        return 0.0
    return own_sigma_a(interior[f"own_{number}"], amount) if name == OWN else dye_sigma_a(name, amount)


def _absorbed_by_scatterer(interior: dict):
    measured = _scatterer_of(interior)
    return measured.sigma_a * interior["scatter_amount"] if measured else 0.0


def _scatterer_of(interior: dict) -> Scatterer | None:
    """The measured matter that scatters, when there is one."""
    if interior["scattering"] != SUBSTANCE or interior["scatterer"] == NONE:
        return None
    return scatterers()[interior["scatterer"]]


def scattering_curve(interior: dict, color_spectrum) -> np.ndarray:
    """(401,) scattering in 1/m from the dials of an interior. color_spectrum: makes a share (401,) from a colour."""
    amount, measured = interior["scatter_amount"] * interior["density"], _scatterer_of(interior)
    if measured:
        return amount * measured.reduced / (1 - interior["transmission_scatter_anisotropy"])
    if amount <= 0 or interior["scattering"] == SUBSTANCE:
        return np.zeros(len(WAVELENGTHS_NM))
    if interior["scattering"] == CURVE:
        points = np.array(interior["scatter_curve"], float)
        share = np.interp(WAVELENGTHS_NM, points[:, 0], points[:, 1])
    else:
        share = color_spectrum(interior["transmission_scatter"])
    return amount * share / (interior["transmission_depth"] / 100)


def subsurface_curves(dials: dict, index: float, color_spectrum) -> tuple[np.ndarray, np.ndarray]:
    """(absorption, scattering), (401,) in 1/m, from the dials of a subsurface band. index: of its boundary."""
    albedo = albedo_of(color_spectrum(dials["subsurface_color"]), subsurface_inversion(dials, index))
    sigma_t = 100 / (dials["subsurface_radius"] * radius_scale(dials, color_spectrum))
    return sigma_t * (1 - albedo), sigma_t * albedo


def subsurface_inversion(dials: dict, index: float) -> np.ndarray:
    """See `optics.inversion.inversion_table`."""
    return inversion_table(round(max(index, 1.0), 3), round(dials["subsurface_scatter_anisotropy"], 3))


def radius_scale(dials: dict, color_spectrum) -> np.ndarray:
    """(401,) how far each wavelength goes, of the mean free path."""
    return np.maximum(color_spectrum(dials["subsurface_radius_scale"]), LEAST_SCALE)


def reads_color(interior: dict) -> bool:
    return interior["absorption"] == COLOR


def fan_colors(interface: dict) -> np.ndarray:
    """(401, 3) the chosen colours of the fan over wavelength."""
    first, last = FAN_NM
    return between_stops(interface["fan_colors"], (np.asarray(WAVELENGTHS_NM) - first) / (last - first))


def between_stops(stops, places: np.ndarray) -> np.ndarray:
    """(n, 3) colours at places (n,) of a ramp. stops: [place, colour] each, in order."""
    at, colors = zip(*stops, strict=True)
    return np.stack([np.interp(places, at, channel) for channel in np.transpose(colors)], axis=-1)
