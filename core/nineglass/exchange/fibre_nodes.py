"""A fibre as the standard's nodes for hair, and back. Source: MaterialX 1.39, `pbrlib_defs.mtlx` and `mx_chiang_hair_bsdf.glsl` of the library that
ships with 1.39.5: its lobes and their widths are those of `optics.fibre`.
"""

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.bands.fibre import DYE, PIGMENT, SEEN
from nineglass.documents.model import BOTH, Band, Source
from nineglass.exchange.inputs import Inputs, Told, Writing, say_what_is_lost
from nineglass.exchange.node_slips import NodeSlips
from nineglass.exchange.openpbr import LEAST_SHARE
from nineglass.exchange.report import Report
from nineglass.matter.fibres import fibre_absorption
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.network.compile import Compiled, Leaf
from nineglass.optics.fibre import SQRT_PI_OVER_8, azimuthal_scale, longitudinal_variance
from nineglass.spectra.difference import delta_e_of
from nineglass.spectra.observer import rgb_of_filter
from nineglass.spectra.upsampling import color_spectrum

BAND = "fibre"
SURFACE, BSDF, WIDTHS = "surface", "chiang_hair_bsdf", "chiang_hair_roughness"
FROM_COLOR, FROM_MELANIN = "chiang_hair_absorption_from_color", "deon_hair_absorption_from_melanin"

LOBES = {"tint_R": "highlight", "tint_TT": "passing", "tint_TRT": "second_highlight"}
"""The tints of the standard, by the dials of how much there is of a lobe."""

WIDTHS_OF = ("roughness_R", "roughness_TT", "roughness_TRT")
SCALES = {"scale_TT": 0.5, "scale_TRT": 2.0}
"""Of the widths of lobes: those of the standard's defaults, and ours."""

PER_RADIUS = 0.5
"""Absorption is told for a diameter here, for a radius there."""

UPRIGHT, HALF_TURN_DEG = 0.5, 180.0
"""Of `cuticle_angle`: no tilt; it is told in half turns, to the other side."""

KINDS = {"absorption_coefficient": "vector3"}
"""Types of inputs that their values do not tell."""

STEP_NM = 10
ABSORBS = ("eumelanin", "pheomelanin", "dye_amount", "fibre_color")


def inputs_of(compiled: Compiled, leaf: Leaf, report: Report) -> Inputs | None:
    """The inputs of `BSDF`; `longitudinal` and `azimuthal` of `WIDTHS`, and `color` of `FROM_COLOR` where a driven colour is to be seen. None where
    the stack is no fibre."""
    slot = next((one for one in leaf.order if leaf.kinds[one] == BAND), None)
    if slot is None:
        return None
    writing = Writing(compiled, leaf, report)
    for dial in ("longitudinal_roughness", "azimuthal_roughness", "fibre_ior"):
        writing.tell(slot, dial)
    _tilt(writing, slot)
    for tint, amount in LOBES.items():
        _tint(writing, slot, tint, amount)
    _color(writing, slot)
    say_what_is_lost(writing, slot, BSDF)
    return writing.given


def _tilt(writing: Writing, slot: str) -> None:
    writing.put("cuticle_angle", UPRIGHT - writing.value(slot, "cuticle_angle") / HALF_TURN_DEG)
    if not writing.driven(slot, "cuticle_angle"):
        writing.heed(slot, "cuticle_angle")
        writing.report.add("exactly", writing.called(slot, "cuticle_angle"), "cuticle_angle")


def _tinted_by(name: str) -> str:
    """The dial that an input of the standard has the meaning of."""
    return next(dial for dial, about in BANDS.kinds[BAND].dials.items() if about.standard == name)


def _tint(writing: Writing, slot: str, name: str, amount: str) -> None:
    """A lobe of the standard has a tint alone, which holds how much there is of it too."""
    is_driven = writing.driven(slot, amount)
    writing.tell(slot, _tinted_by(name), factor=1.0 if is_driven else writing.value(slot, amount))
    if not is_driven:
        writing.heed(slot, amount)
        if writing.value(slot, amount) < 1:
            writing.report.add("nearly", writing.called(slot, amount), f"in {name}: what it lacks is lost there")


def _color(writing: Writing, slot: str) -> None:
    """What absorbs in it, by three channels."""
    source = writing.setting(slot, "color_from")
    writing.heed(slot, "color_from", "transmittance")
    if source == SEEN and writing.driven(slot, "fibre_color"):
        signal = writing.leaf.dials[slot, "fibre_color"]
        writing.given.inputs["color"] = Told(writing.value(slot, "fibre_color"), signal)
        writing.heed(slot, "fibre_color")
        writing.report.add("nearly", writing.called(slot, "fibre_color"), f"by {FROM_COLOR}, which knows no medulla")
        return
    fibre = writing.settled(slot)
    writing.heed(slot, *(dial for dial in ABSORBS if not writing.driven(slot, dial)))
    absorption = fibre_absorption(fibre, color_spectrum)
    passes = np.clip(rgb_of_filter(np.exp(-absorption)), LEAST_SHARE, 1)
    writing.put("absorption_coefficient", tuple(float(-v * PER_RADIUS) for v in np.log(passes)))
    apart = delta_e_of(passes**2, np.clip(rgb_of_filter(np.exp(-2 * absorption)), 0, 1))
    says = "absorption of three channels; the figure is for twice the way"
    writing.report.add("nearly", f"Fibre: Colour from ({source})", says, f"ΔE {apart:.1f}")


def put(out, given: Inputs, name: str):
    """The node of a surface that is a fibre. out: the document on its way out (`mtlx`)."""
    document, inputs = out.document, dict(given.inputs)
    widths = document.addNode(WIDTHS, f"{name}_widths", "multioutput")
    for entry in ("longitudinal", "azimuthal"):
        out.put(widths, entry, inputs.pop(entry), f"{name}_{entry}")
    bsdf = document.addNode(BSDF, f"{name}_fibre", "BSDF")
    for output in WIDTHS_OF:
        _connect(bsdf, output, "vector2", widths, output)
    if "color" in inputs:
        absorbs = document.addNode(FROM_COLOR, f"{name}_absorbs", "vector3")
        out.put(absorbs, "color", inputs.pop("color"), f"{name}_color")
        out.put(absorbs, "azimuthal_roughness", given.inputs["azimuthal"], f"{name}_around")
        _connect(bsdf, "absorption_coefficient", "vector3", absorbs)
    for entry, told in inputs.items():
        out.put(bsdf, entry, told, f"{name}_{entry}", KINDS.get(entry, ""))
    surface = document.addNode(SURFACE, name, "surfaceshader")
    _connect(surface, "bsdf", "BSDF", bsdf)
    return surface


def _connect(node, name: str, kind: str, source, output: str = "") -> None:
    entry = node.addInput(name, kind)
    entry.setNodeName(source.getName())
    if output:
        entry.setOutputString(output)


def bands_of(shader, slips: NodeSlips, report: Report, side: str) -> list[Band] | None:
    """The fibre of a `surface` whose light goes by `BSDF`; None of another one."""
    port = shader.getActiveInput("bsdf")
    bsdf = port.getConnectedNode() if port is not None else None
    if bsdf is None or bsdf.getCategory() != BSDF:
        return None
    coming = _Coming(bsdf, slips, report, BAND if side == BOTH else f"{BAND}_{side}")
    coming.take("fibre_ior", "ior", slips.given(bsdf, "ior", 1.55))
    angle = slips.given(bsdf, "cuticle_angle", UPRIGHT)
    if isinstance(angle, Source):
        report.add("not", "cuticle_angle", "what drives it; the cuticle stands upright")
    else:
        coming.take("cuticle_angle", "cuticle_angle", (UPRIGHT - angle) * HALF_TURN_DEG)
    for name in LOBES:
        coming.take(_tinted_by(name), name, slips.given(bsdf, name, (1.0, 1.0, 1.0)))
    _widths(coming)
    _absorption(coming)
    return [Band(id=coming.band, kind=BAND, dials=coming.dials, side=side)]


class _Coming:
    """A fibre on its way in."""

    def __init__(self, bsdf, slips: NodeSlips, report: Report, band: str):
        self.bsdf, self.slips, self.report, self.band, self.dials = bsdf, slips, report, band, {}

    def take(self, dial: str, name: str, given) -> None:
        """A dial of an input: by what drives it, or its value held within what is allowed."""
        about = BANDS.kinds[BAND]
        if isinstance(given, Source):
            self.slips.drive(given, self.band, dial)
        else:
            self.dials[dial] = self.slips.held(about, dial, given, name)
        self.report.add("exactly", name, f"{about.title}: {about.dials[dial].label}")


def _widths(coming: _Coming) -> None:
    port = coming.bsdf.getActiveInput(WIDTHS_OF[0])
    node = port.getConnectedNode() if port is not None else None
    if node is not None and node.getCategory() == WIDTHS:
        for dial, name, rest in (
            ("longitudinal_roughness", "longitudinal", 0.1),
            ("azimuthal_roughness", "azimuthal", 0.2),
        ):
            coming.take(dial, name, coming.slips.given(node, name, rest))
        if any(coming.slips.given(node, name, scale) != scale for name, scale in SCALES.items()):
            coming.report.add("nearly", "roughness_TT, roughness_TRT", "the widths of the lobes stand as 1 to 1/2 to 2")
        return
    given = coming.slips.given(coming.bsdf, WIDTHS_OF[0], (0.1, 0.1))
    if isinstance(given, Source):
        coming.report.add("not", WIDTHS_OF[0], "what drives it; it stands at its rest")
        return
    roughness = np.linspace(0, 1, 401)
    for dial, width, of in zip(("longitudinal_roughness", "azimuthal_roughness"), given, WIDTHS_BY, strict=True):
        widths = [of(np.float32(one)) for one in roughness]
        coming.take(dial, WIDTHS_OF[0], float(np.interp(width, widths, roughness)))
    coming.report.add("nearly", "roughness_TT, roughness_TRT", "the widths of the lobes stand as 1 to 1/2 to 2")


def _azimuthal_width(roughness) -> float:
    """The scale about the fibre as the standard tells it: without the root of pi/8."""
    return azimuthal_scale(roughness) / float(SQRT_PI_OVER_8)


WIDTHS_BY = (longitudinal_variance, _azimuthal_width)


def _absorption(coming: _Coming) -> None:
    slips, name = coming.slips, "absorption_coefficient"
    port = coming.bsdf.getActiveInput(name)
    node = port.getConnectedNode() if port is not None else None
    if node is not None and node.getCategory() == FROM_COLOR:
        coming.dials["color_from"] = SEEN
        coming.take("fibre_color", FROM_COLOR, slips.given(node, "color", (1.0, 1.0, 1.0)))
        coming.report.add("nearly", FROM_COLOR, "Fibre: Colour, of a thick pelt with its medulla")
        return
    if node is not None and node.getCategory() == FROM_MELANIN:
        much, red = (
            slips.given(node, one, rest) for one, rest in (("melanin_concentration", 0.25), ("melanin_redness", 0.5))
        )
        if not isinstance(much, Source) and not isinstance(red, Source):
            melanin = -np.log(max(1 - much, LEAST_SHARE))
            coming.dials |= {"color_from": PIGMENT, "eumelanin": melanin * (1 - red), "pheomelanin": melanin * red}
            coming.report.add("nearly", FROM_MELANIN, "Fibre: Eumelanin and Pheomelanin, by their curves here")
            return
    given = slips.given(coming.bsdf, name, (0.0, 0.0, 0.0))
    if isinstance(given, Source):
        coming.report.add("not", name, "what drives it; the fibre has the pigment that it begins with")
        return
    passes = np.clip(np.exp(-np.array(given) / PER_RADIUS), 0, 1)
    curve = np.clip(color_spectrum([float(v) for v in passes]), 0, 1)[::STEP_NM]
    points = [[float(nm), float(share)] for nm, share in zip(WAVELENGTHS_NM[::STEP_NM], curve, strict=True)]
    coming.dials |= {"color_from": DYE, "dye_amount": 1.0, "transmittance": points}
    coming.report.add("nearly", name, "Fibre: Passes, a curve of that colour")
