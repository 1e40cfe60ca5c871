"""glTF 2.0 as one binary file, out and in: the form with its material, by the ratified extensions of Khronos. Source: glTF 2.0 and KHR_materials_*.

Lengths are in m. What is driven becomes pictures over the texture coordinates of the form.
"""

import io
import json
import struct
from collections.abc import Callable

import numpy as np

from nineglass.documents.model import Material, Source, Stage
from nineglass.exchange.bake import Bake
from nineglass.exchange.formats import Format, Taken, Written, file_name
from nineglass.exchange.inputs import Inputs, Told
from nineglass.exchange.openpbr import UM_IN_NM, surface_of
from nineglass.exchange.report import Report
from nineglass.exchange.section import DEFAULTS, bands_of
from nineglass.exchange.slips import Slips
from nineglass.exchange.surfaces import DISPERSED_ABBE, GLTF
from nineglass.files import name_of, refused_file
from nineglass.forms.mesh import Mesh
from nineglass.gauges import reading_of
from nineglass.gauges.surface import worn
from nineglass.network.pictures import read_picture
from nineglass.picture.display import encoded
from nineglass.spectra.srgb import encode
from nineglass.spectra.white import WHITE_NITS

NAME = "glb"
MAGIC, JSON_CHUNK, BIN_CHUNK = 0x46546C67, 0x4E4F534A, 0x004E4942
FLOAT, UINT = 5126, 5125
ARRAY, ELEMENTS = 34962, 34963
CM = 0.01
LARGEST_BYTES, LARGEST_JSON = 300_000_000, 20_000_000
SRGB, PLAIN = True, False
CHANNELS = ("red", "green", "blue")


class _Binary:
    """The binary chunk while it is filled, with the views and accessors into it."""

    def __init__(self):
        self.data, self.views, self.accessors = io.BytesIO(), [], []

    def view(self, data: bytes, target: int | None = None) -> int:
        self.data.write(b"\0" * (-self.data.tell() % 4))
        self.views.append({"buffer": 0, "byteOffset": self.data.tell(), "byteLength": len(data)})
        if target:
            self.views[-1]["target"] = target
        self.data.write(data)
        return len(self.views) - 1

    def accessor(self, values: np.ndarray, kind: str, target: int, bounds: bool = False) -> int:
        component = UINT if values.dtype == np.uint32 else FLOAT
        about = {"bufferView": self.view(values.tobytes(), target), "componentType": component}
        about |= {"count": len(values) if kind != "SCALAR" else values.size, "type": kind}
        if bounds:
            about |= {"min": values.min(axis=0).tolist(), "max": values.max(axis=0).tolist()}
        self.accessors.append(about)
        return len(self.accessors) - 1


class _Out:
    """A material on its way out."""

    def __init__(self, bake: Bake, report: Report):
        self.bake, self.report, self.binary = bake, report, _Binary()
        self.images: list[dict] = []
        self.used: set[str] = set()
        self.said: set[str] = set()

    def texture(self, pixels: np.ndarray, is_color: bool) -> dict:
        """(h, w, 3) as a PNG within the file."""
        shown = encode(np.clip(pixels, 0, 1)) if is_color else np.clip(pixels, 0, 1)
        data = encoded((shown * 255 + 0.5).astype(np.uint8), "PNG")
        self.images.append({"bufferView": self.binary.view(data), "mimeType": "image/png"})
        return {"index": len(self.images) - 1}

    def picture(self, told: Told) -> np.ndarray:
        registers = told.signal if isinstance(told.signal, tuple) else (told.signal,)
        if self.bake.follows_facing_alone(registers):
            self.report.add(
                "not", "Network", "what follows from facing; glTF has no such input: it stands as seen face-on"
            )
        return self.bake.picture(registers) * told.factor

    def factor(self, about: dict, key: str, told: Told, most: float = 1.0) -> None:
        value = told.value if isinstance(told.value, tuple) else (told.value,)
        held = [min(max(float(v), 0.0), most) for v in value]
        about[key] = held if isinstance(told.value, tuple) else held[0]

    def color(self, about: dict, key: str, texture: str, told: Told) -> None:
        """A colour, or a picture of it."""
        if told.signal is None:
            self.factor(about, key, told)
            return
        about[texture] = self.texture(self.picture(told), SRGB)
        self.say_baked(texture)

    def number(self, about: dict, key: str, texture: str, told: Told, channel: int) -> None:
        """A number from 0 to 1, or a picture of it in one of the channels."""
        if told.signal is None:
            self.factor(about, key, told)
            return
        pixels = np.ones((self.bake.side, self.bake.side, 3), np.float32)
        pixels[..., channel] = self.picture(told)[..., 0]
        about[key] = 1.0
        about[texture] = self.texture(pixels, PLAIN)
        self.say_baked(texture)

    def normal(self, about: dict, texture: str, told: Told | None) -> None:
        if told is not None and told.signal is not None:
            about[texture] = self.texture(self.bake.normals(told.signal), PLAIN)
            self.say_baked(texture)

    def say_baked(self, what: str) -> None:
        self.report.add(
            "nearly", f"Network into {what}", f"as a picture of {self.bake.side} x {self.bake.side}, 8 bits a channel"
        )


def _of(surface: Inputs, name: str, default) -> Told:
    return surface.inputs.get(name, Told(default))


def _material(out: _Out, surface: Inputs, title: str, thickness_m: float) -> dict:
    """The material of glTF: what each extension can say."""
    metallic = {}
    made = {"name": title, "pbrMetallicRoughness": metallic, "extensions": {}}
    _put_base(out, surface, metallic)
    out.normal(made, "normalTexture", surface.inputs.get("geometry_normal"))
    for name, put in EXTENSIONS.items():
        about = put(out, surface, thickness_m)
        if about is not None:
            made["extensions"][f"KHR_materials_{name}"] = about
            out.used.add(f"KHR_materials_{name}")
    luminance = surface.value("emission_luminance", 0.0)
    if luminance > 0:
        out.color(made, "emissiveFactor", "emissiveTexture", _of(surface, "emission_color", (1.0, 1.0, 1.0)))
        made["extensions"]["KHR_materials_emissive_strength"] = {"emissiveStrength": luminance / WHITE_NITS}
        out.used.add("KHR_materials_emissive_strength")
        out.said |= {"emission_luminance", "emission_color"}
    for name in sorted(set(surface.inputs) - out.said - SILENT):
        told = surface.inputs[name]
        if told.signal is None and told.value == DEFAULTS.get(name):
            continue
        out.report.add("not", name, "glTF has nothing of the kind")
    return made


def _put_base(out: _Out, surface: Inputs, metallic: dict) -> None:
    color = _of(surface, "base_color", (1.0, 1.0, 1.0))
    transmission = surface.value("transmission_weight", 0.0)
    if transmission > 0:
        at_surface = surface.value("transmission_depth", 0.0) <= 0
        color = _of(surface, "transmission_color", (1.0, 1.0, 1.0)) if at_surface else Told((1.0, 1.0, 1.0))
        if at_surface:
            out.said.add("transmission_color")
    elif "subsurface_color" in surface.inputs:
        color = surface.inputs["subsurface_color"]
        out.report.add("nearly", "subsurface_color", "as the colour of the surface: glTF has no scattering within")
    told = Told((*color.value, 1.0), color.signal, color.factor)
    out.color(metallic, "baseColorFactor", "baseColorTexture", told)
    metallic["metallicFactor"] = surface.value("base_metalness", 0.0)
    out.number(metallic, "roughnessFactor", "metallicRoughnessTexture", _of(surface, "specular_roughness", 1.0), 1)
    out.said |= {
        "base_color",
        "base_weight",
        "base_metalness",
        "specular_roughness",
        "subsurface_color",
        "geometry_normal",
    }


def _ior(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    ior = surface.value("specular_ior", 1.5)
    out.said.add("specular_ior")
    if surface.inputs.get("specular_ior", Told(1.5)).signal is not None:
        out.report.add("not", "specular_ior", "what drives it: glTF has one index")
    return {"ior": max(ior, 1.0)} if "specular_ior" in surface.inputs else None


def _transmission(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    told = surface.inputs.get("transmission_weight")
    if told is None or told.value <= 0:
        return None
    about = {}
    out.number(about, "transmissionFactor", "transmissionTexture", told, 0)
    out.said.add("transmission_weight")
    return about


def _volume(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    if surface.value("transmission_weight", 0.0) <= 0:
        return None
    about = {"thicknessFactor": thickness_m}
    depth = surface.value("transmission_depth", 0.0)
    color = surface.inputs.get("transmission_color")
    if depth > 0 and color is not None:
        if color.signal is not None:
            out.report.add("not", "transmission_color", "what drives it: glTF has one colour within")
        about |= {"attenuationDistance": depth * CM, "attenuationColor": [min(max(v, 0.0), 1.0) for v in color.value]}
    out.said |= {"transmission_depth", "transmission_color"}
    return about


def _dispersion(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    scale = surface.value("transmission_dispersion_scale", 0.0)
    out.said |= {"transmission_dispersion_scale", "transmission_dispersion_abbe_number"}
    if scale <= 0 or surface.value("transmission_weight", 0.0) <= 0:
        return None
    return {"dispersion": DISPERSED_ABBE / surface.value("transmission_dispersion_abbe_number", 20.0) * scale}


def _iridescence(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    told = surface.inputs.get("thin_film_weight")
    if told is None:
        return None
    about = {"iridescenceIor": surface.value("thin_film_ior", 1.3)}
    out.number(about, "iridescenceFactor", "iridescenceTexture", told, 0)
    thickness = _of(surface, "thin_film_thickness", 0.4)
    about["iridescenceThicknessMaximum"] = thickness.value * UM_IN_NM
    if thickness.signal is not None:
        nm = out.picture(thickness)[..., 0] * UM_IN_NM
        low, high = float(nm.min()), float(nm.max())
        about |= {"iridescenceThicknessMinimum": low, "iridescenceThicknessMaximum": max(high, low + 1)}
        share = (nm - low) / max(high - low, 1)
        about["iridescenceThicknessTexture"] = out.texture(np.repeat(share[..., None], 3, axis=-1), PLAIN)
        out.say_baked("iridescenceThicknessTexture")
    out.said |= {"thin_film_weight", "thin_film_thickness", "thin_film_ior"}
    return about


def _clearcoat(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    told = surface.inputs.get("coat_weight")
    if told is None:
        return None
    about = {}
    out.number(about, "clearcoatFactor", "clearcoatTexture", told, 0)
    out.number(about, "clearcoatRoughnessFactor", "clearcoatRoughnessTexture", _of(surface, "coat_roughness", 0.0), 1)
    out.normal(about, "clearcoatNormalTexture", surface.inputs.get("geometry_coat_normal"))
    out.said |= {"coat_weight", "coat_roughness", "geometry_coat_normal"}
    if abs(surface.value("coat_ior", 1.5) - 1.5) > 1e-3:
        out.report.add("nearly", "coat_ior", "as 1.5, which a clearcoat of glTF always has")
    out.said.add("coat_ior")
    return about


def _sheen(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    told = surface.inputs.get("fuzz_weight")
    if told is None or told.value <= 0:
        return None
    color, about = _of(surface, "fuzz_color", (1.0, 1.0, 1.0)), {}
    out.color(
        about, "sheenColorFactor", "sheenColorTexture", Told(tuple(v * told.value for v in color.value), color.signal)
    )
    out.number(about, "sheenRoughnessFactor", "sheenRoughnessTexture", _of(surface, "fuzz_roughness", 0.5), 2)
    out.said |= {"fuzz_weight", "fuzz_color", "fuzz_roughness"}
    return about


def _specular(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    if surface.value("base_metalness", 0.0) > 0:
        return None
    about = {"specularFactor": surface.value("specular_weight", 1.0)}
    out.color(about, "specularColorFactor", "specularColorTexture", _of(surface, "specular_color", (1.0, 1.0, 1.0)))
    out.said |= {"specular_weight", "specular_color"}
    return None if about == {"specularFactor": 1.0, "specularColorFactor": [1.0, 1.0, 1.0]} else about


def _anisotropy(out: _Out, surface: Inputs, thickness_m: float) -> dict | None:
    told = surface.inputs.get("specular_roughness_anisotropy")
    out.said.add("specular_roughness_anisotropy")
    if told is None or told.value <= 0:
        return None
    return {"anisotropyStrength": min(told.value, 1.0)}


EXTENSIONS: dict[str, Callable[[_Out, Inputs, float], dict | None]] = {
    "ior": _ior,
    "transmission": _transmission,
    "volume": _volume,
    "dispersion": _dispersion,
    "iridescence": _iridescence,
    "clearcoat": _clearcoat,
    "sheen": _sheen,
    "specular": _specular,
    "anisotropy": _anisotropy,
}
"""By the name of the extension after KHR_materials_."""

SILENT = {"subsurface_weight"}
"""Inputs that need no word of their own."""


def write(material: Material, stage: Stage, side: int = 1024) -> Written:
    """The form that wears the material, with it."""
    report = Report(format=NAME)
    reading = reading_of(material, stage)
    found = worn(reading)
    if found is None:
        raise refused_file(
            "nothing on the stage wears the material", "a form that wears it", "Put a form on the stage."
        )
    compiled = reading.compiled
    if len(compiled.leaves) > 1:
        report.add("not", "Split", "glTF has one surface; the first side went over")
    surface = surface_of(compiled, compiled.leaves[0], report)
    if surface is None:
        raise refused_file("it has no surface", "matter with a boundary", "Hand it over as the whole work.")
    mesh = found[1]
    out = _Out(Bake(reading, side), report)
    size = mesh.bounds()[1] - mesh.bounds()[0]
    made = _material(out, surface, material.name, float(size.max()))
    primitive = _primitive(out.binary, mesh) | {"material": 0}
    report.add("exactly", "Form", f"{len(mesh.faces):,} triangles with normals and texture coordinates, in m")
    document = {
        "asset": {"version": "2.0", "generator": "Nine Glass"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": found[0].name or found[0].form.kind}],
        "meshes": [{"primitives": [primitive]}],
        "materials": [made],
        "accessors": out.binary.accessors,
        "bufferViews": out.binary.views,
        "buffers": [{"byteLength": out.binary.data.tell() + (-out.binary.data.tell() % 4)}],
    }
    if not made["extensions"]:
        del made["extensions"]
    if out.used:
        document["extensionsUsed"] = sorted(out.used)
    if out.images:
        document |= {"images": out.images, "samplers": [{"wrapS": 10497, "wrapT": 10497}]}
        document["textures"] = [{"source": k, "sampler": 0} for k in range(len(out.images))]
    return Written({f"{file_name(material.name)}.glb": _packed(document, out.binary.data.getvalue())}, report)


def glb_of(mesh: Mesh) -> bytes:
    """A mesh by itself, in its own unit."""
    binary = _Binary()
    document = {
        "asset": {"version": "2.0", "generator": "Nine Glass"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [_primitive(binary, mesh) | {"material": 0}]}],
        "materials": [{"name": "plain"}],
        "accessors": binary.accessors,
        "bufferViews": binary.views,
        "buffers": [{"byteLength": binary.data.tell() + (-binary.data.tell() % 4)}],
    }
    return _packed(document, binary.data.getvalue())


def _primitive(binary: _Binary, mesh: Mesh) -> dict:
    """Corners that agree in place, normal and texture coordinates are one vertex."""
    uv = mesh.corner_uvs().reshape(-1, 2)
    uv = np.stack([uv[:, 0], 1 - uv[:, 1]], -1)
    corners = mesh.faces.ravel()
    keys, index = np.unique(np.column_stack([corners, uv.view(np.uint32)]), axis=0, return_inverse=True)
    places = mesh.vertices[keys[:, 0]].astype(np.float32)
    normals = mesh.normals[keys[:, 0]].astype(np.float32)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-9)
    coordinates = np.ascontiguousarray(keys[:, 1:].astype(np.uint32)).view(np.float32)
    attributes = {
        "POSITION": binary.accessor(places, "VEC3", ARRAY, bounds=True),
        "NORMAL": binary.accessor(normals, "VEC3", ARRAY),
        "TEXCOORD_0": binary.accessor(coordinates, "VEC2", ARRAY),
    }
    return {"attributes": attributes, "indices": binary.accessor(index.astype(np.uint32).ravel(), "SCALAR", ELEMENTS)}


def _packed(document: dict, binary: bytes) -> bytes:
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    chunks = struct.pack("<II", len(text), JSON_CHUNK) + text + struct.pack("<II", len(binary), BIN_CHUNK) + binary
    return struct.pack("<III", MAGIC, 2, 12 + len(chunks)) + chunks


def unpacked(given: bytes) -> tuple[dict, bytes]:
    """(the document, the binary chunk) of a binary glTF file. Raises Refused."""
    allowed = "a binary glTF 2.0 file (.glb)"
    if len(given) > LARGEST_BYTES:
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    if len(given) < 20 or struct.unpack_from("<II", given) != (MAGIC, 2):
        raise refused_file("not a binary glTF file", allowed)
    size, kind = struct.unpack_from("<II", given, 12)
    if kind != JSON_CHUNK or size > min(LARGEST_JSON, len(given) - 20):
        raise refused_file("its first part is no document", allowed)
    try:
        document = json.loads(given[20 : 20 + size])
    except (ValueError, RecursionError):
        raise refused_file("its document cannot be read", allowed) from None
    if not isinstance(document, dict):
        raise refused_file("its document is no object", allowed)
    rest = given[20 + size :]
    if len(rest) >= 8:
        length, kind = struct.unpack_from("<II", rest)
        if kind == BIN_CHUNK and length <= len(rest) - 8:
            return document, rest[8 : 8 + length]
    return document, b""


class _In:
    """The material of a document on its way in."""

    def __init__(self, document: dict, binary: bytes, report: Report):
        self.document, self.binary, self.report = document, binary, report
        self.kept: dict[str, bytes] = {}
        self.slips = Slips(report)
        self._read: dict[tuple, Source] = {}

    def image(self, texture: dict) -> str | None:
        """The name of a picture of ours; None for one that lies elsewhere."""
        source = self.document["textures"][texture["index"]].get("source")
        image = self.document["images"][source] if source is not None else {}
        if "bufferView" not in image:
            self.report.add("not", "A texture", "it is not within the file")
            return None
        view = self.document["bufferViews"][image["bufferView"]]
        start = view.get("byteOffset", 0)
        data = self.binary[start : start + view["byteLength"]]
        self.kept[name_of(data)] = data
        return name_of(data)

    def texture(self, texture: dict | None, is_color: bool, port: str = "") -> Source | None:
        """The slip of a picture; port: the channel of it that is meant."""
        name = self.image(texture) if texture else None
        if name is None:
            return None
        if texture.get("texCoord", 0):
            self.report.add("nearly", "A texture", "its second set of texture coordinates was read as the first")
        key = (name, is_color, json.dumps(texture.get("extensions", {})))
        if key not in self._read:
            dials = {"source": "file", "file": name, "space": "sRGB" if is_color else "data"}
            self._read[key] = self.slips.slip("picture", dials, **self._placed(texture))
        found = self._read[key]
        return self.slips.slip("separate_color", port=port, color=found) if port else found

    def _placed(self, texture: dict) -> dict:
        about = texture.get("extensions", {}).get("KHR_texture_transform")
        if not about:
            return {}
        across, up = about.get("scale", (1, 1))
        shift = about.get("offset", (0, 0))
        # glTF counts from the top.
        dials = {"times_across": across, "times_up": up, "across": shift[0], "up": 1 - up - shift[1]}
        return {"coordinates": self.slips.slip("place_2d", dials)}

    def color(self, factor, texture: dict | None):
        found = self.texture(texture, SRGB)
        factor = tuple(float(v) for v in factor[:3])
        if found is None:
            return factor
        if factor == (1.0, 1.0, 1.0):
            return found
        return self.slips.slip("color_blend", {"how": "multiply", "above": list(factor)}, below=found)

    def number(self, factor, texture: dict | None, port: str):
        """A factor times one channel of a picture; where that is the same everywhere it is a number."""
        even = self._even(texture, CHANNELS.index(port)) if texture else 1.0
        if even is not None:
            return float(factor) * even
        found = self.texture(texture, PLAIN, port)
        return self.slips.times(1.0 if found is None else found, float(factor))

    def _even(self, texture: dict, channel: int) -> float | None:
        name = self.image(texture)
        if name is None:
            return None
        pixels, _ = read_picture(self.kept[name])
        low, high = pixels[..., channel].min(), pixels[..., channel].max()
        return float(low) if low == high else None


def read_files(files: dict[str, bytes], first: str) -> Taken:
    """The first material of a file, with its pictures. Raises Refused."""
    document, binary = unpacked(files[first])
    report = Report(format=NAME)
    reading = _In(document, binary, report)
    try:
        made = document["materials"][0]
        inputs = _inputs(reading, made)
        title = str(made.get("name") or "Material")[:120]
    except (KeyError, IndexError, TypeError, ValueError, AttributeError):
        allowed = "at least one material, with its textures within the file"
        raise refused_file("no material that can be read", allowed) from None
    for other in document["materials"][1:]:
        report.add("not", f"Material {str(other.get('name', ''))[:60]}", "one material is read of a file: the first")
    mapped = GLTF.as_openpbr(inputs, reading.slips)
    bands = bands_of(mapped, reading.slips, report)
    return Taken(reading.slips.material(title, bands), report, reading.kept)


def _inputs(reading: _In, made: dict) -> dict:
    """The inputs of `gltf_pbr`, whose names are those of the standard."""
    metallic = made.get("pbrMetallicRoughness", {})
    extensions = {name.removeprefix("KHR_materials_"): about for name, about in made.get("extensions", {}).items()}

    def of(name: str) -> dict:
        return extensions.get(name, {})

    surface = metallic.get("metallicRoughnessTexture")
    given = {
        "base_color": reading.color(metallic.get("baseColorFactor", (1, 1, 1)), metallic.get("baseColorTexture")),
        "metallic": reading.number(metallic.get("metallicFactor", 1), surface, "blue"),
        "roughness": reading.number(metallic.get("roughnessFactor", 1), surface, "green"),
        "ior": float(of("ior").get("ior", 1.5)),
    }
    if normal := reading.texture(made.get("normalTexture"), PLAIN):
        given["normal"] = reading.slips.slip(
            "normal_from_picture", {"strength": made["normalTexture"].get("scale", 1.0)}, color=normal
        )
    emissive = reading.color(made.get("emissiveFactor", (0, 0, 0)), made.get("emissiveTexture"))
    if emissive != (0.0, 0.0, 0.0):
        strength = float(of("emissive_strength").get("emissiveStrength", 1.0))
        given |= {"emissive": emissive, "emissive_strength": strength}
    if about := of("transmission"):
        given["transmission"] = reading.number(
            about.get("transmissionFactor", 0), about.get("transmissionTexture"), "red"
        )
    if (about := of("volume")) and about.get("thicknessFactor", 0) > 0:
        if "attenuationDistance" in about:
            given["attenuation_distance"] = about["attenuationDistance"] / CM
        given["attenuation_color"] = tuple(about.get("attenuationColor", (1.0, 1.0, 1.0)))
    if about := of("dispersion"):
        given["dispersion"] = float(about.get("dispersion", 0))
    if about := of("iridescence"):
        given |= _iridescence_in(reading, about)
    if about := of("clearcoat"):
        given["clearcoat"] = reading.number(about.get("clearcoatFactor", 0), about.get("clearcoatTexture"), "red")
        rough = (about.get("clearcoatRoughnessFactor", 0), about.get("clearcoatRoughnessTexture"), "green")
        given["clearcoat_roughness"] = reading.number(*rough)
        if normal := reading.texture(about.get("clearcoatNormalTexture"), PLAIN):
            given["clearcoat_normal"] = reading.slips.slip("normal_from_picture", color=normal)
    if about := of("sheen"):
        given["sheen_color"] = reading.color(about.get("sheenColorFactor", (0, 0, 0)), about.get("sheenColorTexture"))
        given["sheen_roughness"] = float(about.get("sheenRoughnessFactor", 0))
    if about := of("specular"):
        given["specular"] = float(about.get("specularFactor", 1))
        given["specular_color"] = reading.color(
            about.get("specularColorFactor", (1, 1, 1)), about.get("specularColorTexture")
        )
    if about := of("anisotropy"):
        given["anisotropy_strength"] = float(about.get("anisotropyStrength", 0))
    for name in sorted(set(extensions) - KNOWN):
        reading.report.add("not", name, "nothing here has its meaning")
    return given


KNOWN = {*EXTENSIONS, "emissive_strength"}


def _iridescence_in(reading: _In, about: dict) -> dict:
    low, high = about.get("iridescenceThicknessMinimum", 100.0), about.get("iridescenceThicknessMaximum", 400.0)
    thickness = float(high)
    if share := reading.texture(about.get("iridescenceThicknessTexture"), PLAIN, "green"):
        thickness = reading.slips.slip("remap", {"to_low": low, "to_high": high}, value=share)
    factor = reading.number(about.get("iridescenceFactor", 0), about.get("iridescenceTexture"), "red")
    ior = float(about.get("iridescenceIor", 1.3))
    return {"iridescence": factor, "iridescence_ior": ior, "iridescence_thickness": thickness}


FORMAT = Format(
    name=NAME,
    title="glTF",
    ending=".glb",
    help="The form with its material, by the extensions of glTF 2.0 for transmission, volume, dispersion, films, coats and sheen.",
    begins=lambda head: head[:4] == b"glTF",
    read=read_files,
    write=write,
    place=2,
)
