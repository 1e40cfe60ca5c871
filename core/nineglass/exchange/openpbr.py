"""A section as the inputs of an OpenPBR surface, and back. Source: OpenPBR 1.1.1, as `open_pbr_surface` of the MaterialX library has it.

What formats that speak of a surface by such inputs have in common.
"""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from nineglass.documents.bands.glow import WHITE
from nineglass.documents.bands.interior import COLOR, ONE_LOBE
from nineglass.documents.bands.metal import TWO_COLORS
from nineglass.exchange.inputs import Inputs, Told, Writing, say_what_is_lost
from nineglass.exchange.report import Report
from nineglass.gauges.index import abbe_of, metal_curves
from nineglass.matter.dyes import PLACES
from nineglass.matter.material import absorption_curve, index_curve, scattering_curve
from nineglass.matter.substances import D_NM, NONE, WAVELENGTHS_NM
from nineglass.network.compile import Compiled, Leaf
from nineglass.optics.conductor import conductor_reflectance
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.difference import delta_e_of
from nineglass.spectra.observer import LUMINANCE, rgb_of, rgb_of_filter
from nineglass.spectra.upsampling import color_spectrum
from nineglass.spectra.white import WHITE_NITS

UM_IN_NM = 1000.0
EDGE_COSINE = 1 / 7
"""Where `specular_color` tints a metal. Source: OpenPBR 1.1.1, metal (F82)."""

LEAST_SHARE, LEAST_DEPTH_CM = 1e-4, 1e-3

SURFACE_BANDS = {"interface", "metal", "body", "subsurface", "coat"}
"""Kinds of bands of which one at least makes a stack a surface."""


def surface_of(compiled: Compiled, leaf: Leaf, report: Report) -> Inputs | None:
    """A stack as OpenPBR has it; None where it is no surface. What finds no place is told in the report."""
    writing = Writing(compiled, leaf, report)
    kinds = set(leaf.kinds.values())
    if not kinds & SURFACE_BANDS:
        return None
    for slot in leaf.order:
        if slot in leaf.rests:
            continue
        write = WRITES.get(leaf.kinds[slot])
        if write is None:
            report.add("not", writing.about(slot).title, "OpenPBR has nothing of the kind")
            writing.heed(slot, *writing.about(slot).dials)
        else:
            write(writing, slot)
    _say_base(writing, kinds)
    for slot in leaf.order:
        if slot not in leaf.rests:
            say_what_is_lost(writing, slot, "OpenPBR")
    return writing.given


def _say_base(writing: Writing, kinds: set[str]) -> None:
    """What follows from which bands there are."""
    inputs = writing.given.inputs
    writing.put("base_metalness", 1.0 if "metal" in kinds else 0.0)
    if "interface" not in kinds and "metal" not in kinds:
        writing.put("specular_weight", 0.0)
    opaque = kinds & {"metal", "body", "subsurface"}
    if "interface" in kinds and not opaque:
        writing.put("transmission_weight", 1.0)
    elif "body" in kinds and "subsurface" not in kinds and "base_weight" in inputs:
        amount = inputs.pop("base_weight")
        if amount.signal is not None:
            writing.report.add("not", "Body colour: Amount", "a driven amount; the body colour is whole there")
        elif amount.value < 1:
            writing.put("transmission_weight", 1 - amount.value)
    if "subsurface" not in kinds and "metal" not in kinds and "base_color" not in inputs:
        writing.put("base_color", (0.0, 0.0, 0.0))


def _fuzz(writing: Writing, slot: str) -> None:
    for dial in ("fuzz_weight", "fuzz_color", "fuzz_roughness"):
        writing.tell(slot, dial)


def _coat(writing: Writing, slot: str) -> None:
    if slot != "coat":
        writing.report.add("not", "Coat", "OpenPBR has one coat; the outermost went over")
        writing.heed(slot, *writing.about(slot).dials)
        return
    for dial in ("coat_weight", "coat_color", "coat_roughness", "coat_roughness_anisotropy", "coat_ior"):
        writing.tell(slot, dial)
    _normal(writing, slot, "geometry_coat_normal")


def _film(writing: Writing, slot: str) -> None:
    order, kinds = writing.leaf.order, writing.leaf.kinds
    films = [one for one in order if kinds[one] == "film"]
    beneath = next((kinds[one] for one in order[order.index(slot) + 1 :] if kinds[one] not in ("film", "flakes")), "")
    if slot != films[-1] or beneath == "coat":
        says = "OpenPBR has one film; the innermost went over" if beneath != "coat" else "OpenPBR has no film on a coat"
        writing.report.add("not", f"Film of {writing.value(slot, 'thin_film_thickness'):.0f} nm", says)
        writing.heed(slot, *writing.about(slot).dials)
        return
    writing.tell(slot, "thin_film_weight")
    writing.tell(slot, "thin_film_thickness", factor=1 / UM_IN_NM)
    writing.tell(slot, "thin_film_ior", "thin_film_ior")


def _glow(writing: Writing, slot: str) -> None:
    writing.report.add("to set", "Glow: Luminance", f"{WHITE_NITS:g} nits are white at exposure 0")
    if writing.setting(slot, "source") == WHITE:
        writing.tell(slot, "emission_luminance", factor=WHITE_NITS)
        writing.tell(slot, "emission_color")
        writing.heed(slot, "source", "kelvin")
        return
    light = blackbody(writing.value(slot, "kelvin"))
    seen = np.maximum(rgb_of(light * color_spectrum(writing.value(slot, "emission_color"))), 0)
    rgb = seen / (rgb_of(light) @ LUMINANCE)
    most = float(rgb.max())
    writing.tell(slot, "emission_luminance", factor=WHITE_NITS * most)
    writing.put("emission_color", tuple(float(v) for v in rgb / most))
    writing.report.add("nearly", "Glow: Temperature", "as the colour that it has in Rec.709")
    writing.heed(slot, "source", "kelvin", "emission_color")


def _normal(writing: Writing, slot: str, name: str) -> None:
    if writing.driven(slot, "normal"):
        writing.given.inputs[name] = Told((0.0, 0.0, 1.0), writing.leaf.dials[slot, "normal"])
        writing.heed(slot, "normal")


def _boundary(writing: Writing, slot: str) -> None:
    """What an interface and a metal have in common."""
    writing.tell(slot, "specular_roughness")
    writing.tell(slot, "specular_roughness_anisotropy")
    _normal(writing, slot, "geometry_normal")


def _interface(writing: Writing, slot: str) -> None:
    _boundary(writing, slot)
    writing.put("specular_weight", 1.0)
    writing.tell(slot, "specular_color")
    substance = writing.setting(slot, "substance")
    if substance == NONE:
        writing.tell(slot, "specular_ior")
        if writing.value(slot, "transmission_dispersion_scale") > 0:
            writing.tell(slot, "transmission_dispersion_abbe_number")
    else:
        index = index_curve(writing.settled(slot) | {"transmission_dispersion_scale": 1.0})
        n_d, abbe = float(np.interp(D_NM, WAVELENGTHS_NM, index)), abbe_of(index)
        writing.put("specular_ior", n_d)
        by_two = index_curve(
            {"substance": NONE, "specular_ior": n_d, "transmission_dispersion_abbe_number": abbe or 1e3}
            | {"transmission_dispersion_scale": 1.0}
        )
        if abbe:
            writing.put("transmission_dispersion_abbe_number", abbe)
        off = f"index within {np.abs(by_two - index).max():.4f}"
        writing.report.add("nearly", f"Interface: Substance ({substance})", "as index and Abbe number", off)
    writing.heed(slot, "substance", "specular_ior", "transmission_dispersion_abbe_number")
    writing.tell(slot, "transmission_dispersion_scale")
    tint = writing.value(slot, "tint")
    if tint != (1.0, 1.0, 1.0):
        if "interior" in writing.leaf.order and _absorbs(writing, "interior"):
            return
        writing.put("transmission_color", tint)
        writing.put("transmission_depth", 0.0)
        writing.report.add("nearly", "Interface: Surface tint", "as transmission_color at a depth of 0")
        writing.heed(slot, "tint")


def _absorbs(writing: Writing, slot: str) -> bool:
    if writing.driven(slot, "transmission_color"):
        return True
    interior = writing.settled(slot)
    curves = (absorption_curve(interior, color_spectrum), scattering_curve(interior, color_spectrum))
    return any(curve.max() > 1e-6 for curve in curves)


def _interior(writing: Writing, slot: str) -> None:
    if "interface" not in writing.leaf.kinds.values():
        writing.report.add("not", "Interior", "matter without a boundary is no part of a surface")
        writing.heed(slot, *writing.about(slot).dials)
        return
    interior = writing.settled(slot)
    writing.heed(slot, "absorption", "concentration", "density", "scattering", "transmission_scatter", "scatter_amount")
    writing.heed(slot, "transmission_color", "transmission_depth", "substance", "transmittance", "scatterer")
    writing.heed(slot, "scatter_curve", *(f"{what}_{k}" for what in ("dye", "own", "amount") for k in PLACES))
    if not _absorbs(writing, slot):
        return
    sigma_s = scattering_curve(interior, color_spectrum) / 100
    plain = interior["absorption"] == COLOR and not sigma_s.any() and interior["density"] > 0
    depth = interior["transmission_depth"] / interior["concentration"]
    writing.report.add("to set", "Interior: at depth", "lengths are in cm: one unit of the scene is to be 1 cm")
    if plain:
        writing.tell(slot, "transmission_color")
        writing.put("transmission_depth", depth / interior["density"])
        _say_undriven(writing, slot, "transmission_depth", "density")
        return
    _say_undriven(writing, slot, *MEDIUM)
    _put_medium(writing, slot, interior, sigma_s, depth)


MEDIUM = ("transmission_color", "transmission_depth", "scatter_amount", "transmission_scatter", "density")
"""Dials of an interior that together say what it does to light."""


def _say_undriven(writing: Writing, slot: str, *dials: str) -> None:
    for dial in dials:
        if writing.driven(slot, dial):
            writing.report.add("not", writing.called(slot, dial), "what drives it; it stands at its own value")


def _put_medium(writing: Writing, slot: str, interior: dict, sigma_s: np.ndarray, depth: float) -> None:
    """What absorbs and scatters over wavelength, by three channels. sigma_s: in 1/cm. Source: OpenPBR 1.1.1, transmission_scatter."""
    sigma_t = absorption_curve(interior, color_spectrum) / 100 + sigma_s
    scatter = rgb_of_filter(sigma_s)
    most = float(np.max(scatter))
    if most > 0:
        depth = min(depth, 1 / most)
        writing.put("transmission_scatter", tuple(float(v) for v in np.clip(scatter * depth, 0, 1)))
        writing.tell(slot, "transmission_scatter_anisotropy")
        if interior["phase"] != ONE_LOBE:
            writing.report.add("nearly", "Interior: Turns as", "as one lobe of its anisotropy")
            writing.heed(slot, "phase", "second_anisotropy", "second_share", "droplet_diameter")
    color = tuple(float(v) for v in np.clip(rgb_of_filter(np.exp(-sigma_t * depth)), LEAST_SHARE, 1))
    _say_how_near(writing, sigma_t, color, depth)
    writing.put("transmission_color", color)
    writing.put("transmission_depth", depth)


def _say_how_near(writing: Writing, sigma_t, color, depth: float) -> None:
    """The colour at twice and half the depth, by wavelength and by three channels."""
    worst = 0.0
    for share in (0.5, 2.0):
        true = np.clip(rgb_of_filter(np.exp(-sigma_t * depth * share)), 0, 1)
        worst = max(worst, delta_e_of(np.power(color, share), true))
    says = f"as the colour at {depth:.3g} cm; the figure is for half and twice that"
    writing.report.add("nearly", "Interior: over wavelength", says, f"ΔE {worst:.1f}")


def _body(writing: Writing, slot: str) -> None:
    for dial in ("base_color", "base_diffuse_roughness", "base_weight"):
        writing.tell(slot, dial)
    if "interface" not in writing.leaf.kinds.values():
        _normal(writing, slot, "geometry_normal")
    elif writing.driven(slot, "normal"):
        interface = next(one for one in writing.leaf.order if writing.leaf.kinds[one] == "interface")
        if writing.leaf.dials.get((interface, "normal")) == writing.leaf.dials[slot, "normal"]:
            writing.heed(slot, "normal")


def _metal(writing: Writing, slot: str) -> None:
    _boundary(writing, slot)
    if writing.setting(slot, "substance") == TWO_COLORS:
        writing.tell(slot, "base_color")
        writing.tell(slot, "specular_color")
        writing.heed(slot, "substance")
        return
    n, k = metal_curves(writing.leaf.settings[slot], {})
    facing, edge = (
        np.clip(
            rgb_of_filter(np.array([conductor_reflectance(np.float32(c), *one) for one in zip(n, k, strict=True)])),
            0,
            1,
        )
        for c in (1.0, EDGE_COSINE)
    )
    schlick = facing + (1 - facing) * (1 - EDGE_COSINE) ** 5
    writing.put("base_color", tuple(float(v) for v in facing))
    writing.put("specular_color", tuple(float(v) for v in np.clip(edge / schlick, 0, 1)))
    what = f"Metal: {writing.setting(slot, 'substance')}"
    writing.report.add("nearly", what, "as its colours face-on and at 82 degrees")
    writing.heed(slot, "substance", "base_color", "specular_color")


def _subsurface(writing: Writing, slot: str) -> None:
    for dial in ("subsurface_weight", "subsurface_color", "subsurface_radius", "subsurface_radius_scale"):
        writing.tell(slot, dial)
    writing.tell(slot, "subsurface_scatter_anisotropy", "subsurface_scatter_anisotropy")
    writing.given.inputs["base_color"] = replace(writing.given.inputs["subsurface_color"])
    writing.report.add("to set", "Subsurface: Mean free path", "lengths are in cm: one unit of the scene is to be 1 cm")


WRITES: dict[str, Callable[[Writing, str], None]] = {
    "fuzz": _fuzz,
    "glow": _glow,
    "coat": _coat,
    "film": _film,
    "interface": _interface,
    "metal": _metal,
    "body": _body,
    "interior": _interior,
    "subsurface": _subsurface,
}
"""By kind of band."""
