"""Surfaces of other kinds as that of OpenPBR. Source: their definitions in the library that ships with MaterialX 1.39.5."""

from collections.abc import Callable
from dataclasses import dataclass, field

from nineglass.documents.model import Source
from nineglass.exchange.openpbr import UM_IN_NM
from nineglass.exchange.slips import Slips
from nineglass.spectra.white import WHITE_NITS

DISPERSED_ABBE = 20.0
"""Over an Abbe number: `dispersion`. Source: KHR_materials_dispersion."""


@dataclass(frozen=True)
class SurfaceKind:
    """A kind of surface. names: its inputs by those of OpenPBR that have their meaning."""

    names: dict[str, str] = field(default_factory=dict)
    mend: Callable[[dict, dict, Slips], None] = lambda given, found, slips: None
    """Adds what is not the same by another name."""
    is_own: bool = False

    def as_openpbr(self, given: dict, slips: Slips) -> dict:
        """given: its inputs, by value or by what drives them."""
        if self.is_own:
            return given
        found = {name: given[theirs] for name, theirs in self.names.items() if theirs in given}
        self.mend(given, found, slips)
        return found


def _mend_standard(given: dict, found: dict, slips: Slips) -> None:
    """Source: `standard_surface_to_open_pbr.mtlx`."""
    thickness = given.get("thin_film_thickness", 0.0)
    if isinstance(thickness, Source) or thickness > 0:
        found |= {"thin_film_weight": 1.0, "thin_film_thickness": slips.times(thickness, 1 / UM_IN_NM)}
    abbe = given.get("transmission_dispersion", 0.0)
    if not isinstance(abbe, Source) and abbe > 0:
        found |= {"transmission_dispersion_scale": 1.0, "transmission_dispersion_abbe_number": abbe}


STANDARD = SurfaceKind(
    {
        "base_weight": "base",
        "base_color": "base_color",
        "base_diffuse_roughness": "diffuse_roughness",
        "base_metalness": "metalness",
        "specular_weight": "specular",
        "specular_color": "specular_color",
        "specular_roughness": "specular_roughness",
        "specular_ior": "specular_IOR",
        "specular_roughness_anisotropy": "specular_anisotropy",
        "transmission_weight": "transmission",
        "transmission_color": "transmission_color",
        "transmission_depth": "transmission_depth",
        "transmission_scatter": "transmission_scatter",
        "transmission_scatter_anisotropy": "transmission_scatter_anisotropy",
        "subsurface_weight": "subsurface",
        "subsurface_color": "subsurface_color",
        "subsurface_radius": "subsurface_scale",
        "subsurface_radius_scale": "subsurface_radius",
        "subsurface_scatter_anisotropy": "subsurface_anisotropy",
        "fuzz_weight": "sheen",
        "fuzz_color": "sheen_color",
        "fuzz_roughness": "sheen_roughness",
        "coat_weight": "coat",
        "coat_color": "coat_color",
        "coat_roughness": "coat_roughness",
        "coat_roughness_anisotropy": "coat_anisotropy",
        "coat_ior": "coat_IOR",
        "thin_film_ior": "thin_film_IOR",
        "emission_luminance": "emission",
        "emission_color": "emission_color",
        "geometry_normal": "normal",
        "geometry_coat_normal": "coat_normal",
    },
    _mend_standard,
)


def _mend_gltf(given: dict, found: dict, slips: Slips) -> None:
    """Source: glTF 2.0 and its extensions KHR_materials_*, as `gltf_pbr.mtlx` has them."""
    thickness = given.get("iridescence_thickness")
    if thickness is not None:
        found["thin_film_thickness"] = slips.times(thickness, 1 / UM_IN_NM)
    dispersion = given.get("dispersion", 0.0)
    if not isinstance(dispersion, Source) and dispersion > 0:
        found |= {
            "transmission_dispersion_scale": 1.0,
            "transmission_dispersion_abbe_number": DISPERSED_ABBE / dispersion,
        }
    if not found.get("transmission_weight"):
        for name in ("transmission_color", "transmission_depth"):
            found.pop(name, None)
    sheen = given.get("sheen_color", (0.0, 0.0, 0.0))
    if isinstance(sheen, Source) or max(sheen) > 0:
        found["fuzz_weight"] = 1.0
    emissive = given.get("emissive", (0.0, 0.0, 0.0))
    if isinstance(emissive, Source) or max(emissive) > 0:
        found["emission_luminance"] = WHITE_NITS * given.get("emissive_strength", 1.0)


GLTF = SurfaceKind(
    {
        "base_color": "base_color",
        "base_metalness": "metallic",
        "specular_roughness": "roughness",
        "specular_weight": "specular",
        "specular_color": "specular_color",
        "specular_ior": "ior",
        "specular_roughness_anisotropy": "anisotropy_strength",
        "transmission_weight": "transmission",
        "transmission_color": "attenuation_color",
        "transmission_depth": "attenuation_distance",
        "thin_film_weight": "iridescence",
        "thin_film_ior": "iridescence_ior",
        "fuzz_color": "sheen_color",
        "fuzz_roughness": "sheen_roughness",
        "coat_weight": "clearcoat",
        "coat_roughness": "clearcoat_roughness",
        "emission_color": "emissive",
        "geometry_normal": "normal",
        "geometry_coat_normal": "clearcoat_normal",
    },
    _mend_gltf,
)

PREVIEW = SurfaceKind(
    {
        "base_color": "diffuseColor",
        "emission_color": "emissiveColor",
        "base_metalness": "metallic",
        "specular_roughness": "roughness",
        "coat_weight": "clearcoat",
        "coat_roughness": "clearcoatRoughness",
        "specular_ior": "ior",
    },
    lambda given, found, slips: found.update(
        {"emission_luminance": WHITE_NITS} if max(given.get("emissiveColor", (0.0,))) > 0 else {}
    ),
)

SURFACES = {
    "open_pbr_surface": SurfaceKind(is_own=True),
    "standard_surface": STANDARD,
    "gltf_pbr": GLTF,
    "UsdPreviewSurface": PREVIEW,
}
"""By the category of a node."""
