"""The inputs of an OpenPBR surface as a section. Source: OpenPBR 1.1.1; the other way is `openpbr`."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.bands.glow import WHITE
from nineglass.documents.bands.metal import TWO_COLORS
from nineglass.documents.model import BOTH, Band, Source
from nineglass.exchange.openpbr import LEAST_DEPTH_CM, LEAST_SHARE, UM_IN_NM
from nineglass.exchange.report import Report
from nineglass.exchange.slips import Slips
from nineglass.spectra.white import WHITE_NITS

Given = float | tuple[float, float, float] | Source
"""Of an input: its value, or what drives it."""

DEFAULTS: dict[str, Given] = {
    "base_weight": 1.0,
    "base_color": (0.8, 0.8, 0.8),
    "base_diffuse_roughness": 0.0,
    "base_metalness": 0.0,
    "specular_weight": 1.0,
    "specular_color": (1.0, 1.0, 1.0),
    "specular_roughness": 0.3,
    "specular_ior": 1.5,
    "specular_roughness_anisotropy": 0.0,
    "transmission_weight": 0.0,
    "transmission_color": (1.0, 1.0, 1.0),
    "transmission_depth": 0.0,
    "transmission_scatter": (0.0, 0.0, 0.0),
    "transmission_scatter_anisotropy": 0.0,
    "transmission_dispersion_scale": 0.0,
    "transmission_dispersion_abbe_number": 20.0,
    "subsurface_weight": 0.0,
    "subsurface_color": (0.8, 0.8, 0.8),
    "subsurface_radius": 1.0,
    "subsurface_radius_scale": (1.0, 0.5, 0.25),
    "subsurface_scatter_anisotropy": 0.0,
    "fuzz_weight": 0.0,
    "fuzz_color": (1.0, 1.0, 1.0),
    "fuzz_roughness": 0.5,
    "coat_weight": 0.0,
    "coat_color": (1.0, 1.0, 1.0),
    "coat_roughness": 0.0,
    "coat_roughness_anisotropy": 0.0,
    "coat_ior": 1.6,
    "coat_darkening": 1.0,
    "thin_film_weight": 0.0,
    "thin_film_thickness": 0.5,
    "thin_film_ior": 1.4,
    "emission_luminance": 0.0,
    "emission_color": (1.0, 1.0, 1.0),
    "geometry_opacity": 1.0,
}
"""Source: `open_pbr_surface.mtlx` of MaterialX 1.39.5."""


@dataclass
class _Coming:
    """One surface on its way in."""

    inputs: dict[str, Given]
    slips: Slips
    report: Report
    side: str = BOTH
    bands: list[Band] = field(default_factory=list)
    read: set[str] = field(default_factory=set)

    def of(self, name: str) -> Given:
        return self.inputs.get(name, DEFAULTS[name])

    def number(self, name: str) -> float:
        """The value of an input; of a driven one that of its default."""
        given = self.of(name)
        return DEFAULTS[name] if isinstance(given, Source) else given

    def is_there(self, name: str) -> bool:
        """Whether a weight lets anything be seen."""
        given = self.of(name)
        self.read.add(name)
        return isinstance(given, Source) or given > 0

    def band(self, kind: str, dials: dict, inputs: dict[str, str], factors: dict[str, float] | None = None) -> None:
        """Put a band with dials that are known, and dials by the inputs that they are read from."""
        taken = {band.id for band in self.bands}
        suffix = "" if self.side == BOTH else f"_{self.side}"
        identity = next(name for k in range(9) if (name := f"{kind}{suffix}{f'_{k + 1}' if k else ''}") not in taken)
        about, values = BANDS.kinds[kind], dict(dials)
        for dial, name in inputs.items():
            given, factor = self.of(name) if name in DEFAULTS else self.inputs.get(name), (factors or {}).get(dial, 1.0)
            self.read.add(name)
            if isinstance(given, Source):
                self.slips.drive(self.slips.times(given, factor), identity, dial)
            elif given is not None:
                scaled = tuple(v * factor for v in given) if isinstance(given, tuple) else given * factor
                values[dial] = self.slips.held(about, dial, scaled, name)
            if name in self.inputs:
                self.report.add("exactly", name, f"{about.title}: {about.dials[dial].label}")
        self.bands.append(Band(id=identity, kind=kind, dials=values, side=self.side))


def bands_of(inputs: dict[str, Given], slips: Slips, report: Report, side: str = BOTH) -> list[Band]:
    """The bands of a surface, from the outside in. Lengths in cm, the thickness of a film in um; slips: takes the wires."""
    coming = _Coming(inputs, slips, report, side)
    for part in PARTS:
        part(coming)
    for name in sorted(set(inputs) - coming.read):
        if inputs[name] != DEFAULTS.get(name):
            report.add("not", name, "no band has it")
    return coming.bands


def _glow(coming: _Coming) -> None:
    if coming.is_there("emission_luminance"):
        inputs = {"emission_luminance": "emission_luminance", "emission_color": "emission_color"}
        coming.band("glow", {"source": WHITE}, inputs, {"emission_luminance": 1 / WHITE_NITS})
        coming.report.add("to set", "emission_luminance", f"{WHITE_NITS:g} nits are white at exposure 0")


def _fuzz(coming: _Coming) -> None:
    if coming.is_there("fuzz_weight"):
        coming.band("fuzz", {}, {name: name for name in ("fuzz_weight", "fuzz_color", "fuzz_roughness")})


def _coat(coming: _Coming) -> None:
    if not coming.is_there("coat_weight"):
        return
    names = ("coat_weight", "coat_color", "coat_roughness", "coat_roughness_anisotropy", "coat_ior")
    coming.band("coat", {}, {name: name for name in names} | {"normal": "geometry_coat_normal"})
    coming.read.add("coat_darkening")
    if coming.of("coat_darkening") != 1:
        coming.report.add("not", "coat_darkening", "a coat here always darkens what is beneath it as light does")


def _film(coming: _Coming) -> None:
    if coming.is_there("thin_film_weight"):
        names = ("thin_film_weight", "thin_film_thickness", "thin_film_ior")
        coming.band("film", {}, {name: name for name in names}, {"thin_film_thickness": UM_IN_NM})


def _base(coming: _Coming) -> None:
    metalness = coming.of("base_metalness")
    coming.read.add("base_metalness")
    if isinstance(metalness, Source) or 0 < metalness < 1:
        coming.report.add("nearly", "base_metalness", "all metal from one half on, and none below it")
    if (metalness if not isinstance(metalness, Source) else 0.0) >= 0.5:
        _metal(coming)
        return
    _interface(coming)
    _within(coming)


ROUGHNESS = {name: name for name in ("specular_roughness", "specular_roughness_anisotropy")}


def _metal(coming: _Coming) -> None:
    _scale_base_color(coming)
    inputs = {"base_color": "base_color", "specular_color": "specular_color", "normal": "geometry_normal"}
    coming.band("metal", {"substance": TWO_COLORS}, ROUGHNESS | inputs)
    coming.read |= {"specular_weight", "specular_ior", "transmission_dispersion_scale"}
    coming.read |= {"transmission_dispersion_abbe_number"}


def _scale_base_color(coming: _Coming) -> None:
    """The weight of the base goes into its colour."""
    weight, color = coming.of("base_weight"), coming.of("base_color")
    coming.read.add("base_weight")
    if weight == 1:
        return
    if isinstance(weight, Source) or isinstance(color, Source):
        coming.inputs["base_color"] = coming.slips.slip(
            "brightness", color=list(color) if isinstance(color, tuple) else color, amount=weight
        )
    else:
        coming.inputs["base_color"] = tuple(v * weight for v in color)


def _interface(coming: _Coming) -> None:
    weight = coming.of("specular_weight")
    coming.read.add("specular_weight")
    if weight == 0:
        coming.read |= {*ROUGHNESS, "specular_ior", "specular_color", "transmission_dispersion_scale"}
        return
    if isinstance(weight, Source):
        coming.report.add("not", "specular_weight", "what drives it; the reflection is whole")
    elif weight != 1 and not isinstance(coming.of("specular_ior"), Source):
        coming.inputs["specular_ior"] = _weakened(coming.of("specular_ior"), weight)
        coming.report.add("nearly", "specular_weight", "as an index that mirrors so much face-on")
    names = ("specular_ior", "specular_color", "transmission_dispersion_scale", "transmission_dispersion_abbe_number")
    dials = {}
    color, depth = coming.of("transmission_color"), coming.number("transmission_depth")
    if depth <= 0 and not isinstance(color, Source) and color != (1.0, 1.0, 1.0):
        dials["tint"] = list(color)
        coming.read |= {"transmission_color", "transmission_depth"}
        coming.report.add("nearly", "transmission_color", "Interface: Surface tint, since its depth is 0")
    coming.band("interface", dials, ROUGHNESS | {name: name for name in names} | {"normal": "geometry_normal"})


def _weakened(ior: float, weight: float) -> float:
    """The index that mirrors `weight` times as much face-on. Source: OpenPBR 1.1.1, specular_weight."""
    mirrored = min(weight * ((ior - 1) / (ior + 1)) ** 2, 0.99)
    return (1 + mirrored**0.5) / (1 - mirrored**0.5)


def _within(coming: _Coming) -> None:
    transmission, subsurface = coming.of("transmission_weight"), coming.of("subsurface_weight")
    coming.read |= {"transmission_weight", "subsurface_weight"}
    if isinstance(transmission, Source):
        coming.inputs["base_amount"] = coming.slips.slip("function", {"how": "opposite"}, value=transmission)
    clear = not isinstance(transmission, Source) and transmission >= 1
    if not clear and (isinstance(subsurface, Source) or subsurface > 0):
        names = ("weight", "color", "radius", "radius_scale", "scatter_anisotropy")
        coming.band("subsurface", {}, {f"subsurface_{name}": f"subsurface_{name}" for name in names})
        coming.read |= {"base_color", "base_weight", "base_diffuse_roughness"}
        return
    if clear:
        coming.read |= {"base_color", "base_weight", "base_diffuse_roughness"}
    else:
        _body(coming, transmission)
    if isinstance(transmission, Source) or transmission > 0:
        _interior(coming)


def _body(coming: _Coming, transmission: Given) -> None:
    _scale_base_color(coming)
    inputs = {"base_color": "base_color", "base_diffuse_roughness": "base_diffuse_roughness"}
    driven = {"base_weight": "base_amount"} if isinstance(transmission, Source) else {}
    dials = {} if isinstance(transmission, Source) else {"base_weight": 1 - transmission}
    coming.band("body", dials, inputs | driven | {"normal": "geometry_normal"})


def _interior(coming: _Coming) -> None:
    color, depth = coming.of("transmission_color"), coming.of("transmission_depth")
    coming.read |= {"transmission_color", "transmission_depth", "transmission_scatter"}
    if not isinstance(depth, Source) and depth <= 0:
        coming.band("interior", {}, {})
        return
    scatter = coming.of("transmission_scatter")
    if any(isinstance(given, Source) for given in (color, depth, scatter)):
        if scatter != DEFAULTS["transmission_scatter"]:
            coming.report.add("not", "transmission_scatter", "it goes with constants alone")
        names = ("transmission_color", "transmission_depth")
        coming.band("interior", {}, {name: name for name in names})
        return
    sigma_t = -np.log(np.maximum(color, LEAST_SHARE)) / depth
    sigma_s = np.array(scatter) / depth
    sigma_a = sigma_t - sigma_s
    # Where more is scattered than is lost, absorption is shifted up. Source: OpenPBR 1.1.1, transmission_scatter.
    sigma_a = sigma_a - min(sigma_a.min(), 0)
    dials = medium_dials(sigma_a, sigma_s, max(depth, LEAST_DEPTH_CM))
    scatters = "scatter_amount" in dials
    anisotropy = {"transmission_scatter_anisotropy": "transmission_scatter_anisotropy"} if scatters else {}
    coming.report.add("exactly", "transmission_color", "Interior: Transmission colour at depth")
    coming.report.add("to set", "transmission_depth", "one unit of the file was taken for 1 cm, unless it says another")
    coming.band("interior", dials, anisotropy)


def medium_dials(sigma_a: np.ndarray, sigma_s: np.ndarray, depth: float) -> dict:
    """The dials of an interior that absorbs and scatters so, (3,) each, by three channels in 1/cm. depth: in cm."""
    dials = {"transmission_color": np.exp(-sigma_a * depth).tolist(), "transmission_depth": depth}
    if (most := float(sigma_s.max())) > 0:
        dials |= {"scatter_amount": most * depth, "transmission_scatter": (sigma_s / most).tolist()}
    return dials


PARTS: tuple[Callable[[_Coming], None], ...] = (_glow, _fuzz, _coat, _film, _base)
