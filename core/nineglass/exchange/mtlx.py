"""MaterialX 1.39, out and in: an OpenPBR surface, a fibre or a volume, its network as standard nodes, and what no node says as pictures. Read and written by the
official library, whose definitions say what is right.
"""

import os
from functools import lru_cache

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.model import BOTH, FIRST, SECOND, Band, Material, Source, Stage, Target, Wire
from nineglass.exchange import fibre_nodes, surfaces, volume_nodes
from nineglass.exchange.bake import STRIP, Bake
from nineglass.exchange.formats import Format, Taken, Written, file_name
from nineglass.exchange.inputs import Inputs, Told
from nineglass.exchange.node_slips import NodeSlips
from nineglass.exchange.openpbr import surface_of
from nineglass.exchange.report import Report
from nineglass.exchange.section import bands_of
from nineglass.exchange.standard_nodes import MOST_AT_ALL, Nodes, NoNode
from nineglass.files import name_of, refused_file
from nineglass.gauges import Reading, reading_of
from nineglass.network.compile import Leaf
from nineglass.picture.files import exr_bytes

NAME = "mtlx"
LARGEST_BYTES, MOST_NODES = 5_000_000, 4000
IN_CM = ("transmission_depth", "subsurface_radius")
SHADERS = ("surfaceshader", "volumeshader")
NORMALS = ("geometry_normal", "geometry_coat_normal")
CM_OF = {
    "millimeter": 0.1,
    "centimeter": 1.0,
    "meter": 100.0,
    "kilometer": 100_000.0,
    "inch": 2.54,
    "foot": 30.48,
    "yard": 91.44,
}
"""Lengths that the standard's units are of, in cm. Source: `stdlib_defs.mtlx`, unittypedef "distance"."""


@lru_cache(1)
def library():
    """The definitions that ship with MaterialX."""
    import MaterialX as mx

    found = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), found)
    return found


def document_of(text: str):
    """A document that reaches for no other file. Raises Refused."""
    import MaterialX as mx

    document = mx.createDocument()
    options = mx.XmlReadOptions()
    options.readXIncludeFunction = None
    try:
        mx.readFromXmlString(document, text, readOptions=options)
        document.upgradeVersion()
        document.setDataLibrary(library())
    except (mx.Exception, mx.ExceptionParseError, mx.ExceptionFileMissing) as error:
        raise refused_file(
            f"not a MaterialX file that can be read ({str(error)[:120]})", "MaterialX 1.36 to 1.39"
        ) from None
    return document


def registers_of(told: Told) -> tuple[int, ...]:
    """Of what drives an input: one, or one for each channel."""
    return told.signal if isinstance(told.signal, tuple) else (told.signal,)


class _Out:
    """A document on its way out."""

    def __init__(self, reading: Reading, side: int, report: Report, called: str):
        import MaterialX as mx

        self.reading, self.report, self.called = reading, report, called
        self.bake = Bake(reading, side)
        self.files: dict[str, bytes] = {}
        self.document = mx.createDocument()
        self.document.setDataLibrary(library())
        self.document.setColorSpace("lin_rec709")
        self.graph = self.document.addNodeGraph("network")
        self.nodes = Nodes(self.graph, reading.compiled.program, self.picture, report)
        self._pictures: dict[bytes, str] = {}
        self._sayable: set[tuple[int, ...]] = set()
        """Registers of which it is known that nodes say them."""

    def picture(self, pixels: np.ndarray, named: str = "picture") -> str:
        """Keep a picture beside the document; returns its file name."""
        data = exr_bytes(pixels if pixels.shape[-1] == 3 else np.repeat(pixels, 3, axis=-1))
        if data not in self._pictures:
            name = f"{self.called}_{named}_{len(self._pictures) + 1}.exr"
            self.files[name], self._pictures[data] = data, name
        return self._pictures[data]

    def surface(self, surface: Inputs, name: str):
        """The node of a surface."""
        node = self.document.addNode("open_pbr_surface", name, "surfaceshader")
        for entry, told in surface.inputs.items():
            self.put(node, entry, told, f"{name}_{entry}")
        return node

    def within_nodes(self, given: Inputs) -> Inputs:
        """Inputs of what has no surface to lay pictures over: driven by what standard nodes say, and by nothing else."""
        return Inputs({entry: self.said_by_nodes(entry, told) for entry, told in given.inputs.items()})

    def said_by_nodes(self, entry: str, told: Told) -> Told:
        if told.signal is None:
            return told
        registers = registers_of(told)
        try:
            self.nodes.check(registers, MOST_AT_ALL)
        except NoNode as lacking:
            says = f"{lacking} has no standard node, and there is no surface to lay a picture over"
            self.report.add("not", f"Network into {entry}", says)
            return Told(told.value)
        self.report.add("exactly", f"Network into {entry}", "as standard nodes")
        self._sayable.add(registers)
        return told

    def put(self, node, name: str, told: Told, called: str, kind: str = "") -> None:
        """An input of a node: its value, or what gives it."""
        kind = kind or ("vector3" if name in NORMALS else "color3" if isinstance(told.value, tuple) else "float")
        entry = node.addInput(name, kind)
        if name in IN_CM:
            entry.setAttribute("unittype", "distance")
            entry.setAttribute("unit", "centimeter")
        if told.signal is None:
            values = told.value if isinstance(told.value, tuple) else (told.value,)
            entry.setValueString(", ".join(f"{v:.7g}" for v in values))
            return
        output = self.graph.addOutput(called, kind)
        output.setNodeName(self._given(name, told, kind))
        entry.setNodeGraphString(self.graph.getName())
        entry.setOutputString(called)

    def _given(self, name: str, told: Told, kind: str) -> str:
        if kind == "vector3":
            return self._normal(name, told.signal)
        registers = registers_of(told)
        try:
            if registers not in self._sayable:
                self.nodes.check(registers)
        except NoNode as lacking:
            given = self._baked(name, registers, kind, str(lacking))
        else:
            given = self.nodes.color(registers) if kind == "color3" else self._named(registers[0])
        return given if told.factor == 1 else self._times(given, told.factor, kind)

    def _named(self, register: int) -> str:
        how, what = self.nodes.number(register)
        return what if how == "nodename" else self._constant(what)

    def _constant(self, value: float) -> str:
        node = self.graph.addNode("constant", self.graph.createValidChildName("constant_1"), "float")
        node.setInputValue("value", value, "float")
        return node.getName()

    def _times(self, given: str, factor: float, kind: str) -> str:
        node = self.graph.addNode("multiply", self.graph.createValidChildName("scaled_1"), kind)
        node.addInput("in1", kind).setNodeName(given)
        node.setInputValue("in2", factor, "float")
        return node.getName()

    def _baked(self, name: str, registers: tuple, kind: str, lacking: str) -> str:
        """What no standard node says, as a picture."""
        if self.bake.follows_facing_alone(registers):
            pixels, says = self.bake.strip(registers), "as a curve over facing"
            at = self._facing()
        else:
            pixels, at = self.bake.picture(registers), None
            says = f"as a picture of {self.bake.side} x {self.bake.side} over the texture coordinates of the form"
        self.report.add("nearly", f"Network into {name}", f"{says}: {lacking} has no standard node")
        image = self.graph.addNode("image", self.graph.createValidChildName(f"baked_{name}"), kind)
        file = image.addInput("file", "filename")
        file.setValueString(self.picture(pixels, name))
        file.setColorSpace("lin_rec709")
        if at is not None:
            image.addInput("texcoord", "vector2").setNodeName(at)
        return image.getName()

    def _facing(self) -> str:
        """Where on a strip facing is looked up, from the middle of the first place to that of the last."""
        graph = self.graph
        if graph.getNode("strip_at") is None:
            facing = graph.addNode("facingratio", "strip_facing", "float")
            scaled = graph.addNode("remap", "strip_across", "float")
            scaled.addInput("in", "float").setNodeName(facing.getName())
            scaled.setInputValue("outlow", 0.5 / STRIP, "float")
            scaled.setInputValue("outhigh", 1 - 0.5 / STRIP, "float")
            at = graph.addNode("combine2", "strip_at", "vector2")
            at.addInput("in1", "float").setNodeName(scaled.getName())
            at.setInputValue("in2", 0.5, "float")
        return "strip_at"

    def _normal(self, name: str, registers) -> str:
        pixels = self.bake.normals(registers)
        self.report.add(
            "nearly", f"Network into {name}", f"as a picture of normals of {self.bake.side} x {self.bake.side}"
        )
        image = self.graph.addNode("image", self.graph.createValidChildName(f"baked_{name}"), "vector3")
        image.addInput("file", "filename").setValueString(self.picture(pixels, name))
        node = self.graph.addNode("normalmap", self.graph.createValidChildName("normals"), "vector3")
        node.addInput("in", "vector3").setNodeName(image.getName())
        return node.getName()

    def text(self) -> str:
        import MaterialX as mx

        if not self.graph.getOutputs():
            self.document.removeNodeGraph(self.graph.getName())
        return mx.writeToXmlString(self.document)


def write(material: Material, stage: Stage, side: int = 1024) -> Written:
    """The document and its pictures. stage: where the form stands that wears it, over whose texture coordinates pictures lie."""
    report = Report(format=NAME)
    reading = reading_of(material, stage)
    called = file_name(material.name)
    out = _Out(reading, side, report, called)
    leaves = reading.compiled.leaves
    names = ["shader"] if len(leaves) == 1 else [f"shader_{side_of}" for side_of in (FIRST, SECOND)]
    made_of = [_shader(out, leaf, name) for leaf, name in zip(leaves, names, strict=True)]
    nodes = [node for node in made_of if node is not None]
    if not nodes:
        raise refused_file("it has nothing that a standard shader says", "matter", "Hand it over as the whole work.")
    shader = nodes[0] if len(nodes) == 1 else _mixed(out, nodes)
    made = out.document.addMaterialNode(out.document.createValidChildName(called), shader)
    made.setAttribute("uiname", material.name)
    report.add("to set", "Colours", "linear Rec.709, as the document says; pictures are OpenEXR, linear")
    return Written({f"{called}.mtlx": out.text().encode()} | out.files, report)


def _shader(out: _Out, leaf: Leaf, name: str):
    """The node of one stack of bands: a surface, a fibre or a volume; None where there is none of the kind."""
    about = (out.reading.compiled, leaf, out.report)
    surface = surface_of(*about)
    if surface is not None:
        return out.surface(surface, name)
    for kind in (fibre_nodes, volume_nodes):
        given = kind.inputs_of(*about)
        if given is not None:
            return kind.put(out, out.within_nodes(given), name)
    for slot in leaf.order:
        out.report.add("not", BANDS.kinds[leaf.kinds[slot]].title, "it is neither a surface, nor a fibre, nor a volume")
    return None


def _mixed(out: _Out, nodes: list):
    """Two shaders side by side, by the mask of the split; where they are of two types the first goes alone."""
    kind = nodes[0].getType()
    if nodes[1].getType() != kind:
        out.report.add("not", "Split", "a surface and a volume cannot be mixed; the first side went over")
        out.document.removeNode(nodes[1].getName())
        return nodes[0]
    split = next(band for band in out.reading.material.section.bands if band.kind == "split")
    signal = out.reading.compiled.mask
    constant = out.reading.compiled.ops.value_of(signal)
    mixed = out.document.addNode("mix", "shader", kind)
    mixed.addInput("bg", kind).setNodeName(nodes[0].getName())
    mixed.addInput("fg", kind).setNodeName(nodes[1].getName())
    value = constant if constant is not None else split.dials.get("mask", 0.5)
    mask = Told(value, None if constant is not None else signal)
    out.put(mixed, "mix", mask if kind == SHADERS[0] else out.said_by_nodes("mix", mask), "shader_mask")
    out.report.add("exactly", "Split: Mask", "two shaders, mixed")
    return mixed


def faults_in(text: str) -> list[str]:
    """What the official library finds wrong in a document: its own check, and nodes without a definition."""
    document = document_of(text)
    valid, said = document.validate()
    graphs = [document, *document.getNodeGraphs()]
    unknown = [node.getName() for graph in graphs for node in graph.getNodes() if node.getNodeDef() is None]
    return ([said] if not valid else []) + [f"{name} has no definition" for name in unknown]


def read_files(files: dict[str, bytes], first: str) -> Taken:
    """A material of a document; its pictures by their file names. Raises Refused."""
    given = files[first]
    if len(given) > LARGEST_BYTES:
        raise refused_file("the document is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    document = document_of(given.decode("utf-8", "replace"))
    if sum(len(graph.getNodes()) for graph in (document, *document.getNodeGraphs())) > MOST_NODES:
        raise refused_file("too many nodes", f"at most {MOST_NODES}")
    report, kept = Report(format=NAME), {}

    def keep_picture(name: str) -> str | None:
        found = next((data for path, data in files.items() if os.path.basename(path) == os.path.basename(name)), None)
        if found is None:
            report.add("not", f"Picture {os.path.basename(name)}", "it did not come with the document")
            return None
        kept[name_of(found)] = found
        return name_of(found)

    slips = NodeSlips(report, keep_picture=keep_picture)
    made = document.getMaterialNodes()
    named, shader = _shader_of(document, made, report)
    bands = _bands(shader, slips, report)
    return Taken(slips.material(named, bands), report, kept)


def _shader_of(document, made: list, report: Report):
    """(what the material is called, the node of its surface)."""
    for node in made:
        ports = (node.getActiveInput(kind) for kind in SHADERS)
        shader = next((found for port in ports if port is not None and (found := port.getConnectedNode())), None)
        if shader is not None:
            for other in made:
                if other is not node:
                    report.add("not", f"Material {other.getName()}", "one material is read of a file: the first")
            return (node.getAttribute("uiname") or node.getName().replace("_", " ").capitalize())[:120], shader
    shaders = [node for node in document.getNodes() if node.getType() in SHADERS]
    if not shaders:
        raise refused_file("no material in it", "a `surfacematerial` or a `volumematerial` with its shader")
    return shaders[-1].getName().replace("_", " ").capitalize()[:120], shaders[-1]


def _bands(shader, slips: NodeSlips, report: Report) -> list[Band]:
    if shader.getCategory() != "mix":
        return _bands_of_one(shader, slips, report, BOTH)
    sides = {FIRST: "bg", SECOND: "fg"}
    mask = slips.given(shader, "mix", 0.0)
    bands = [Band(id="split", kind="split", dials={} if isinstance(mask, Source) else {"mask": mask})]
    if isinstance(mask, Source):
        slips.wires.append(Wire(source=mask, target=Target(part="split", dial="mask")))
    report.add("exactly", "mix of shaders", "Split: Mask")
    for side, port in sides.items():
        inner = shader.getActiveInput(port)
        node = inner.getConnectedNode() if inner is not None else None
        if node is None or node.getCategory() == "mix":
            raise refused_file("mixes of more than two shaders", "a shader, or two mixed")
        bands += _bands_of_one(node, slips, report, side)
    return bands


def _bands_of_one(shader, slips: NodeSlips, report: Report, side: str) -> list[Band]:
    if shader.getCategory() == volume_nodes.SHADER:
        return volume_nodes.bands_of(shader, slips, report, side)
    fibre = fibre_nodes.bands_of(shader, slips, report, side)
    return fibre if fibre is not None else bands_of(_inputs(shader, slips, report), slips, report, side)


def _inputs(shader, slips: NodeSlips, report: Report) -> dict:
    """The inputs of a surface as those of OpenPBR, by value or by what drives them."""
    known = surfaces.SURFACES.get(shader.getCategory())
    if known is None:
        allowed = ", ".join((*surfaces.SURFACES, f"{fibre_nodes.SURFACE} of a {fibre_nodes.BSDF}", volume_nodes.SHADER))
        raise refused_file(f"a surface of the kind {shader.getCategory()!r}", f"one of {allowed}")
    definition = shader.getNodeDef()
    given = {}
    for port in definition.getActiveInputs():
        own = shader.getActiveInput(port.getName())
        if own is None and known.is_own:
            continue
        value = slips.at(own if own is not None else port)
        if value is not None and not isinstance(value, bool | str):
            unit = own.getUnit() if own is not None else ""
            given[port.getName()] = value * CM_OF.get(unit, 1.0) if unit and isinstance(value, float) else value
    if not known.is_own:
        report.add("nearly", f"Surface {shader.getCategory()}", "read as the OpenPBR surface that comes nearest")
    return known.as_openpbr(given, slips)


FORMAT = Format(
    name=NAME,
    title="MaterialX",
    ending=".mtlx",
    help="A surface of the OpenPBR standard, a fibre or a volume; the network as standard nodes or as pictures.",
    begins=lambda head: b"<materialx" in head,
    read=read_files,
    write=write,
    place=1,
)
