"""MaterialX nodes as OpenUSD shaders: what its renderers read of a material. Source: UsdShade, and the way UsdMtlx lays MaterialX documents out."""

from nineglass.exchange.report import Report

TYPES = {
    "float": "Float",
    "integer": "Int",
    "boolean": "Bool",
    "string": "String",
    "filename": "Asset",
    "color3": "Color3f",
    "color4": "Color4f",
    "vector2": "Float2",
    "vector3": "Float3",
    "vector4": "Float4",
    "matrix33": "Matrix3d",
    "matrix44": "Matrix4d",
    "surfaceshader": "Token",
    "volumeshader": "Token",
    "BSDF": "Token",
    "EDF": "Token",
    "VDF": "Token",
    "displacementshader": "Token",
}
"""Types of MaterialX, and what OpenUSD calls them."""

OUT = "out"
MADE = "material"


def put_material(stage, path: str, document, report: Report):
    """The first material of a MaterialX document as a `UsdShade.Material` at a path of a stage."""
    from pxr import UsdShade

    made = UsdShade.Material.Define(stage, path)
    material = document.getMaterialNodes()[0]
    shader = next(found for entry in material.getInputs() if (found := entry.getConnectedNode()) is not None)
    nodes = [node for node in document.getNodes() if node.getType() != MADE]
    # The library's own graphs are among those of a document.
    for name in sorted({entry.getNodeGraphString() for node in nodes for entry in node.getInputs()} - {""}):
        _put_graph(stage, f"{path}/{name}", document.getNodeGraph(name))
    for node in nodes:
        _put_node(stage, f"{path}/{node.getName()}", node, path)
    put = made.CreateVolumeOutput if shader.getType() == "volumeshader" else made.CreateSurfaceOutput
    put("mtlx").ConnectToSource(UsdShade.Shader.Get(stage, f"{path}/{shader.getName()}").ConnectableAPI(), OUT)
    report.add("exactly", material.getName(), "its MaterialX nodes as shaders of the stage")
    return made


def _kind(name: str):
    from pxr import Sdf

    return getattr(Sdf.ValueTypeNames, TYPES[name])


def _put_graph(stage, path: str, graph) -> None:
    from pxr import UsdShade

    made = UsdShade.NodeGraph.Define(stage, path)
    for node in graph.getNodes():
        _put_node(stage, f"{path}/{node.getName()}", node, path)
    for output in graph.getOutputs():
        source = UsdShade.Shader.Get(stage, f"{path}/{output.getNodeName()}")
        made.CreateOutput(output.getName(), _kind(output.getType())).ConnectToSource(
            source.ConnectableAPI(), output.getOutputString() or OUT
        )


def _put_node(stage, path: str, node, within: str) -> None:
    from pxr import UsdShade

    made = UsdShade.Shader.Define(stage, path)
    made.CreateIdAttr(node.getNodeDef().getName())
    for output in node.getNodeDef().getActiveOutputs():
        made.CreateOutput(output.getName(), _kind(output.getType()))
    for entry in node.getInputs():
        if not (entry.getNodeGraphString() or entry.getNodeName() or entry.getValueString()):
            continue
        put = made.CreateInput(entry.getName(), _kind(entry.getType()))
        if entry.getNodeGraphString():
            _connect(stage, put, f"{within}/{entry.getNodeGraphString()}", entry.getOutputString(), entry.getType())
        elif entry.getNodeName():
            _connect(stage, put, f"{within}/{entry.getNodeName()}", entry.getOutputString() or OUT, entry.getType())
        else:
            put.Set(_value(entry))
            if entry.getColorSpace() and entry.getType() == "filename":
                put.GetAttr().SetColorSpace(entry.getColorSpace())


def _connect(stage, put, path: str, output: str, kind: str) -> None:
    """To a node that may not be there yet."""
    from pxr import UsdShade

    source = UsdShade.ConnectableAPI(stage.OverridePrim(path))
    put.ConnectToSource(UsdShade.ConnectionSourceInfo(source, output, UsdShade.AttributeType.Output, _kind(kind)))


def _value(entry):
    from pxr import Gf, Sdf

    kind, value = entry.getType(), entry.getValue()
    if kind == "filename":
        return Sdf.AssetPath(f"./{entry.getValueString()}")
    if kind in ("color3", "vector3"):
        return Gf.Vec3f(*(float(value[k]) for k in range(3)))
    if kind == "vector2":
        return Gf.Vec2f(float(value[0]), float(value[1]))
    if kind in ("color4", "vector4"):
        return Gf.Vec4f(*(float(value[k]) for k in range(4)))
    return value
