"""Matter without a boundary (fog, smoke, flames) as the standard's nodes for volumes, and back. Source: MaterialX 1.39, `pbrlib_defs.mtlx`.

Absorption, scattering and light are told for a length of 1 cm, by three channels.
"""

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.bands.flame import BLACK_BODY, COLORS, TRUE_DIMNESS
from nineglass.documents.bands.interior import ONE_LOBE
from nineglass.documents.model import BOTH, Band, Source
from nineglass.exchange.inputs import Inputs, Told, Writing, say_what_is_lost
from nineglass.exchange.node_slips import NodeSlips
from nineglass.exchange.openpbr import LEAST_DEPTH_CM, LEAST_SHARE
from nineglass.exchange.report import Report
from nineglass.exchange.section import medium_dials
from nineglass.matter.material import absorption_curve, scattering_curve
from nineglass.network.compile import Compiled, Leaf
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import LUMINANCE, rgb_of, rgb_of_filter
from nineglass.spectra.upsampling import color_spectrum
from nineglass.spectra.white import WHITE_NITS
from nineglass.trace.media.fields import luminances, radiance_at_560

SHADER, MATTER, LIGHT = "volume", "anisotropic_vdf", "uniform_edf"
MATTERS = {MATTER, "absorption_vdf"}
INTERIOR, FLAME = "interior", "flame"
MOST_DEPTH_CM = 1e5

THERE, GLOWS = "density", "glowing"
"""Shares by which what is told for a length is less, or more, at a place."""


def inputs_of(compiled: Compiled, leaf: Leaf, report: Report) -> Inputs | None:
    """`absorption`, `scattering` and `anisotropy` of `MATTER`, `color` of `LIGHT`, and the shares `THERE` and `GLOWS` where they are driven. None where the
    stack is no volume."""
    if not leaf.kinds or set(leaf.kinds.values()) - {INTERIOR, FLAME}:
        return None
    writing = Writing(compiled, leaf, report)
    for slot in leaf.order:
        WRITES[leaf.kinds[slot]](writing, slot)
        say_what_is_lost(writing, slot, "a volume of the standard")
    report.add(
        "to set", "Lengths", "absorption, scattering and light are for 1 cm: one unit of the scene is to be 1 cm"
    )
    return writing.given


def _interior(writing: Writing, slot: str) -> None:
    known = set(writing.about(slot).dials) - {dial for dial in writing.about(slot).dials if writing.driven(slot, dial)}
    interior = writing.settled(slot)
    if writing.driven(slot, "density"):
        writing.given.inputs[THERE] = Told(1.0, writing.leaf.dials[slot, "density"])
        known |= {"density"}
        interior |= {"density": 1.0}
    sigma_a, sigma_s = (curve(interior, color_spectrum) / 100 for curve in (absorption_curve, scattering_curve))
    depth = _depth(float((sigma_a + sigma_s).max()))
    passes = np.clip(rgb_of_filter(np.exp(-sigma_a * depth)), LEAST_SHARE, 1)
    writing.put("absorption", tuple(float(-v / depth) for v in np.log(passes)))
    writing.put("scattering", tuple(float(v) for v in np.maximum(rgb_of_filter(sigma_s), 0)))
    writing.report.add("nearly", "Interior: over wavelength", f"by three channels, right at {depth:.3g} cm")
    writing.tell(slot, "transmission_scatter_anisotropy", "anisotropy")
    if interior["phase"] != ONE_LOBE:
        writing.report.add("nearly", "Interior: Turns as", "as one lobe of its anisotropy")
    writing.heed(slot, *known)


def _depth(sigma: float) -> float:
    """A length, in cm, of which about a third of the light is left. sigma: in 1/cm."""
    return float(np.clip(1 / max(sigma, 1e-12), LEAST_DEPTH_CM, MOST_DEPTH_CM))


def _flame(writing: Writing, slot: str) -> None:
    flame = writing.settled(slot)
    if writing.driven(slot, "flame_density"):
        writing.given.inputs[GLOWS] = Told(1.0, writing.leaf.dials[slot, "flame_density"])
        writing.heed(slot, "flame_density")
        flame["flame_density"] = 1.0
    strength = flame["flame_density"] * flame["emission_luminance"]
    rgb = np.array(flame["emission_color"])
    if flame["light_from"] == BLACK_BODY:
        light = rgb_of(blackbody(flame["temperature"]))
        kelvin = np.array([flame["temperature"]])
        per_luminance = radiance_at_560(kelvin, flame["dimness"] == TRUE_DIMNESS) * np.interp(kelvin, *luminances())
        rgb = np.maximum(light / (light @ LUMINANCE), 0) * float(per_luminance[0])
        writing.report.add("nearly", "Flame: Temperature", "as the colour that it has in Rec.709")
    held = min(1.0, flame["most_luminance"] / max(strength * float(rgb @ LUMINANCE), 1e-12))
    writing.put("color", tuple(float(v) for v in rgb * strength * held * WHITE_NITS))
    writing.report.add("to set", "Flame: Luminance", f"{WHITE_NITS:g} nits are white at exposure 0")
    writing.heed(slot, *(dial for dial in writing.about(slot).dials if not writing.driven(slot, dial)))


WRITES = {INTERIOR: _interior, FLAME: _flame}


def put(out, given: Inputs, name: str):
    """The node of a volume. out: the document on its way out (`mtlx`)."""
    document, inputs = out.document, given.inputs
    volume = document.addNode(SHADER, name, "volumeshader")
    if "absorption" in inputs:
        matter = document.addNode(MATTER, f"{name}_matter", "VDF")
        for entry in ("absorption", "scattering"):
            _put_share(out, matter, entry, "vector3", inputs[entry], inputs.get(THERE), name)
        out.put(matter, "anisotropy", inputs["anisotropy"], f"{name}_anisotropy")
        volume.addInput("vdf", "VDF").setNodeName(matter.getName())
    if "color" in inputs:
        light = document.addNode(LIGHT, f"{name}_light", "EDF")
        _put_share(out, light, "color", "color3", inputs["color"], inputs.get(GLOWS), name)
        volume.addInput("edf", "EDF").setNodeName(light.getName())
    return volume


def _put_share(out, node, entry: str, kind: str, told: Told, share: Told | None, name: str) -> None:
    """An input, times the share of it that there is at a place."""
    if share is None or share.signal is None:
        out.put(node, entry, told, f"{name}_{entry}", kind)
        return
    times = out.document.addNode("multiply", f"{name}_{entry}", kind)
    out.put(times, "in1", told, f"{name}_{entry}_whole", kind)
    out.put(times, "in2", share, f"{name}_{entry}_share", "float")
    node.addInput(entry, kind).setNodeName(times.getName())


def bands_of(shader, slips: NodeSlips, report: Report, side: str) -> list[Band]:
    """The matter, and the flame, of a `volume`."""
    bands = []
    for port, make in (("vdf", _matter), ("edf", _light)):
        entry = shader.getActiveInput(port)
        node = entry.getConnectedNode() if entry is not None else None
        if node is not None:
            bands += make(node, slips, report, side)
    return bands


def _matter(node, slips: NodeSlips, report: Report, side: str) -> list[Band]:
    if node.getCategory() not in MATTERS:
        report.add("not", f"Node {node.getName()} ({node.getCategory()})", "there is no matter of its meaning")
        return []
    band = INTERIOR if side == BOTH else f"{INTERIOR}_{side}"
    given = {entry: _shared(slips, node, entry, (0.0, 0.0, 0.0), report) for entry in ("absorption", "scattering")}
    sigma_a, sigma_s = (np.maximum(np.array(value), 0) for value, _ in given.values())
    depth = _depth(float((sigma_a + sigma_s).max()))
    dials = medium_dials(sigma_a, sigma_s, depth)
    anisotropy = slips.given(node, "anisotropy", 0.0)
    if isinstance(anisotropy, Source):
        slips.drive(anisotropy, band, "transmission_scatter_anisotropy")
    else:
        dial = "transmission_scatter_anisotropy"
        dials[dial] = slips.held(BANDS.kinds[INTERIOR], dial, anisotropy, "anisotropy")
    share = next((share for _, share in given.values() if share is not None), None)
    if share is not None:
        slips.drive(share, band, "density")
    report.add("exactly", node.getCategory(), "Interior: absorption and scattering of three channels")
    report.add("to set", "Lengths", "one unit of the file was taken for 1 cm")
    return [Band(id=band, kind=INTERIOR, dials=dials, side=side)]


def _light(node, slips: NodeSlips, report: Report, side: str) -> list[Band]:
    if node.getCategory() != LIGHT:
        report.add("not", f"Node {node.getName()} ({node.getCategory()})", "there is no light of its meaning")
        return []
    band = FLAME if side == BOTH else f"{FLAME}_{side}"
    color, share = _shared(slips, node, "color", (1.0, 1.0, 1.0), report)
    most = max(*color, 1e-9)
    dials = {"light_from": COLORS, "emission_luminance": most / WHITE_NITS, "emission_color": [v / most for v in color]}
    dials["most_luminance"] = max(1000.0, 2 * dials["emission_luminance"])
    if share is not None:
        slips.drive(share, band, "flame_density")
    report.add("exactly", LIGHT, "Flame: Colour and Luminance")
    report.add("to set", "color", f"{WHITE_NITS:g} nits are white at exposure 0")
    return [Band(id=band, kind=FLAME, dials=dials, side=side)]


def _shared(slips: NodeSlips, node, entry: str, rest: tuple, report: Report) -> tuple[tuple, Source | None]:
    """(value of an input, what drives how much of it there is at a place)."""
    port = node.getActiveInput(entry)
    times = port.getConnectedNode() if port is not None else None
    if times is not None and times.getCategory() == "multiply":
        whole, share = slips.given(times, "in1", rest), slips.given(times, "in2", 1.0)
        if not isinstance(whole, Source):
            return (whole, share) if isinstance(share, Source) else (tuple(np.multiply(whole, share)), None)
    value = slips.given(node, entry, rest)
    if isinstance(value, Source):
        report.add("not", entry, "what drives it; it stands at its rest")
        return rest, None
    return value, None
