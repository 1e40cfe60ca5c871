"""Standard nodes of MaterialX as slips, as far as there is one of their meaning. Source: MaterialX 1.39, `stdlib_defs.mtlx` and `nprlib_defs.mtlx`.

The other way is `standard_nodes`.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from nineglass.documents.model import Source
from nineglass.exchange.slips import Slips
from nineglass.files import refused_file

ARITHMETIC = {
    "add": "add",
    "subtract": "subtract",
    "multiply": "multiply",
    "divide": "divide",
    "power": "power",
    "min": "smaller",
    "max": "larger",
    "modulo": "remainder",
}
FUNCTIONS = {
    "absval": "absolute",
    "sqrt": "root",
    "sin": "sine",
    "cos": "cosine",
    "floor": "round down",
    "sign": "sign",
}
VECTOR = {"add": "add", "subtract": "subtract", "multiply": "multiply"}


DEEPEST = 100
"""How many nodes may stand after one another."""


@dataclass
class NodeSlips(Slips):
    """Slips made of nodes. keep_picture: keeps the picture of a file name and gives its name of ours, or None."""

    keep_picture: Callable[[str], str | None] = lambda name: None
    _made: dict[str, Source] = field(default_factory=dict)
    _under_way: list[str] = field(default_factory=list)
    """What waits for what it is wired from."""

    def of(self, node, output: str = ""):
        """What a node gives, a Source or a value; of what has no slip its rest, told in the report."""
        key = f"{node.getNamePath()}/{output}"
        if key not in self._made:
            if key in self._under_way:
                raise refused_file(
                    f"the node {node.getName()[:60]!r} is wired in a circle", "a network without circles"
                )
            if len(self._under_way) == DEEPEST:
                raise refused_file(f"nodes are wired more than {DEEPEST} deep", f"at most {DEEPEST} after one another")
            self._under_way.append(key)
            self._made[key] = self._made_of(node, output)
            self._under_way.pop()
        return self._made[key]

    def given(self, node, name: str, default=None):
        """What comes in at an input of a node: a Source, a value, or the default."""
        port = node.getActiveInput(name)
        if port is None:
            return default
        return self.at(port, default)

    def at(self, port, default=None):
        """What comes in at an input, through interfaces of node graphs."""
        source = port.getConnectedNode()
        if source is not None:
            return self.of(source, port.getOutputString())
        if port.hasInterfaceName() and (face := port.getInterfaceInput()) is not None:
            return self.at(face, default)
        output = port.getConnectedOutput()
        if output is not None:
            inner = output.getConnectedNode()
            return self.of(inner, output.getOutputString()) if inner is not None else default
        value = port.getValue()
        return default if value is None else plain(value)

    def _made_of(self, node, output: str):
        category, kind = node.getCategory(), node.getType()
        make = NODES.get(category)
        if make is not None:
            made = make(self, node, kind)
            if made is not None:
                return made
        self.report.add(
            "not",
            f"Node {node.getName()} ({category})",
            "there is no slip of its meaning; its rest stands in its place",
        )
        return (0.5, 0.5, 0.5) if kind.endswith("3") else 0.5


def plain(value):
    """A value of the MaterialX library as numbers."""
    if isinstance(value, bool | int | float | str):
        return value
    return tuple(float(v) for v in (value.asTuple() if hasattr(value, "asTuple") else value))


def listed(value):
    return list(value) if isinstance(value, tuple) else value


def _is_number(kind: str) -> bool:
    return kind in ("float", "integer", "boolean")


def _both(slips: NodeSlips, node, names, rest):
    return {name: listed(slips.given(node, port, rest)) for name, port in names.items()}


def _arithmetic(slips: NodeSlips, node, kind: str):
    category = node.getCategory()
    if _is_number(kind):
        rest = 0.0 if category in ("add", "subtract") else 1.0
        return slips.slip(
            "arithmetic",
            {"how": ARITHMETIC[category]},
            first=slips.given(node, "in1", 0.0),
            second=slips.given(node, "in2", rest),
        )
    if category == "multiply" and kind == "color3":
        first, second = (listed(slips.given(node, port, 1.0)) for port in ("in1", "in2"))
        if isinstance(second, float) or (isinstance(second, Source) and _is_number(_kind_at(node, "in2"))):
            return slips.slip("brightness", color=first, amount=second)
        return slips.slip("color_blend", {"how": "multiply"}, below=first, above=second)
    if category in ("add", "subtract") and kind == "color3":
        return slips.slip(
            "color_blend", {"how": category}, **_both(slips, node, {"below": "in1", "above": "in2"}, [0.0] * 3)
        )
    if category in VECTOR and kind == "vector3":
        first, second = (_vector(slips, slips.given(node, port, 0.0)) for port in ("in1", "in2"))
        return slips.slip("vector_arithmetic", {"how": VECTOR[category]}, first=first, second=second)
    return None


def _kind_at(node, port: str) -> str:
    found = node.getActiveInput(port)
    return found.getType() if found is not None else "float"


def _vector(slips: NodeSlips, given):
    """Vectors are driven only: a slip that gives a value."""
    if isinstance(given, Source):
        return given
    x, y, z = given if isinstance(given, tuple) else (given,) * 3
    return slips.slip("combine_vector", {"x": x, "y": y, "z": z})


def _function(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    return slips.slip("function", {"how": FUNCTIONS[node.getCategory()]}, value=slips.given(node, "in", 0.0))


def _e_to(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    return slips.slip("arithmetic", {"how": "power", "first": 2.718281828}, second=slips.given(node, "in", 0.0))


def _arc_cosine(slips: NodeSlips, node, kind: str):
    """Between places that lie closer together towards 1, where it is steep."""
    if not _is_number(kind):
        return None
    slips.report.add("nearly", f"Node {node.getName()} (acos)", "as a curve")
    turns = [math.pi / 2 * (1 - k / 15) for k in range(16)]
    stops = [[min(max(math.cos(turn), 0.0), 1.0), turn] for turn in turns]
    return slips.slip("curve", {"stops": stops}, at=slips.given(node, "in", 0.0))


def _constant(slips: NodeSlips, node, kind: str):
    return slips.given(node, "value", 0.0 if _is_number(kind) else (0.0,) * 3)


def _mix(slips: NodeSlips, node, kind: str):
    # "mix" shows the background where it is 0.
    ends = {"thin": "bg", "thick": "fg"}
    if _is_number(kind):
        return slips.slip("mix", **_both(slips, node, ends, 0.0), amount=slips.given(node, "mix", 0.0))
    if kind == "color3":
        return slips.slip("color_mix", **_both(slips, node, ends, [0.0] * 3), amount=slips.given(node, "mix", 0.0))
    return None


def _clamp(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    about = {"value": ("in", 0.0), "low": ("low", 0.0), "high": ("high", 1.0)}
    return slips.slip("clamp", **{dial: slips.given(node, port, rest) for dial, (port, rest) in about.items()})


def _remap(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    ports = {
        "from_low": ("inlow", 0.0),
        "from_high": ("inhigh", 1.0),
        "to_low": ("outlow", 0.0),
        "to_high": ("outhigh", 1.0),
    }
    given = {dial: slips.given(node, port, rest) for dial, (port, rest) in ports.items()}
    clamps = bool(slips.given(node, "doclamp", False))
    return slips.slip("remap", {"clamp": clamps}, value=slips.given(node, "in", 0.0), **given)


def _smoothstep(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    about = {"value": ("in", 0.0), "low": ("low", 0.0), "high": ("high", 1.0)}
    return slips.slip("smooth_step", **{dial: slips.given(node, port, rest) for dial, (port, rest) in about.items()})


def _ifgreater(slips: NodeSlips, node, kind: str):
    if not _is_number(kind):
        return None
    how = "first is more" if node.getCategory() != "ifequal" else "about equal"
    compared = slips.slip(
        "comparison", {"how": how}, first=slips.given(node, "value1", 1.0), second=slips.given(node, "value2", 0.0)
    )
    first, second = (slips.given(node, port, 0.0) for port in ("in1", "in2"))
    return compared if (first, second) == (1.0, 0.0) else slips.slip("mix", thin=second, thick=first, amount=compared)


def _combine(slips: NodeSlips, node, kind: str):
    parts = [slips.given(node, port, 0.0) for port in ("in1", "in2", "in3")]
    if kind == "color3":
        return slips.slip("combine_color", red=parts[0], green=parts[1], blue=parts[2])
    return slips.slip("combine_vector", x=parts[0], y=parts[1], z=parts[2])


def _extract(slips: NodeSlips, node, kind: str):
    index, source = int(slips.given(node, "index", 0)), node.getActiveInput("in")
    given = slips.given(node, "in", 0.0)
    if not isinstance(given, Source):
        return given[index] if isinstance(given, tuple) else given
    if source.getType() == "color3":
        return slips.slip("separate_color", port=("red", "green", "blue")[index], color=given)
    return slips.slip("separate_vector", port="xyz"[index], vector=given)


def _normal_map(slips: NodeSlips, node, kind: str):
    given = slips.given(node, "in", (0.5, 0.5, 1.0))
    strength = slips.given(node, "scale", 1.0)
    return slips.slip(
        "normal_from_picture", color=listed(given), strength=strength[0] if isinstance(strength, tuple) else strength
    )


def _of_vectors(kind: str, ports: dict[str, str]):
    def make(slips: NodeSlips, node, _kind: str):
        return slips.slip(kind, **{dial: _vector(slips, slips.given(node, port, 0.0)) for dial, port in ports.items()})

    return make


def _place(slips: NodeSlips, node, kind: str):
    given = slips.given(node, "space", "object")
    return slips.slip("stage_position" if given == "world" else "position")


def _without_dials(kind: str):
    return lambda slips, node, _kind: slips.slip(kind)


def _view(slips: NodeSlips, node, kind: str):
    return slips.slip(
        "vector_arithmetic",
        {"how": "multiply", "times": 1.0},
        first=slips.slip("view_direction"),
        second=_vector(slips, (-1.0, -1.0, -1.0)),
    )


def _facing(slips: NodeSlips, node, kind: str):
    return slips.slip("facing", {"invert": bool(slips.given(node, "invert", False))})


def _image(slips: NodeSlips, node, kind: str):
    file = node.getActiveInput("file")
    kept = slips.keep_picture(file.getResolvedValueString()) if file is not None else None
    if kept is None:
        return None
    space = file.getActiveColorSpace()
    dials = {
        "source": "file",
        "file": kept,
        "space": "sRGB" if space.startswith("srgb") else "data" if kind != "color3" else "linear",
    }
    at = slips.given(node, "texcoord")
    driven = {"coordinates": at} if isinstance(at, Source) else {}
    if node.getCategory() == "tiledimage":
        times = slips.given(node, "uvtiling", (1.0, 1.0))
        if isinstance(times, tuple) and times != (1.0, 1.0):
            driven = {"coordinates": slips.slip("place_2d", {"times_across": times[0], "times_up": times[1]}, **driven)}
    return slips.slip("picture", dials, port="grey" if _is_number(kind) else "out", title=node.getName(), **driven)


def _pattern(kind: str):
    def make(slips: NodeSlips, node, _kind: str):
        at = slips.given(node, "position")
        slips.report.add(
            "nearly",
            f"Node {node.getName()} ({node.getCategory()})",
            "a pattern of the same kind and size, otherwise strewn",
        )
        return slips.slip(kind, {"size": 1.0}, place=at if isinstance(at, Source) else None)

    return make


def _noise(slips: NodeSlips, node, kind: str):
    """Ours is from 0 to 1 about 0.5; the standard's about a pivot."""
    at = slips.given(node, "position")
    slips.report.add(
        "nearly",
        f"Node {node.getName()} ({node.getCategory()})",
        "a pattern of the same kind and size, otherwise strewn",
    )
    amplitude, pivot = (slips.given(node, name, rest) for name, rest in (("amplitude", 1.0), ("pivot", 0.0)))
    noise = slips.slip("noise", {"size": 1.0}, place=at if isinstance(at, Source) else None)
    signed = slips.slip(
        "remap", {"from_low": 0.0, "from_high": 1.0, "to_low": -1.0, "to_high": 1.0, "clamp": False}, value=noise
    )
    scaled = slips.times(signed, amplitude if isinstance(amplitude, float) else 1.0)
    if pivot in (0.0, None) or isinstance(pivot, Source):
        return scaled
    return slips.slip("arithmetic", {"how": "add", "second": pivot}, first=scaled)


def _of_color(kind: str, ports: dict[str, tuple[str, float]]):
    def make(slips: NodeSlips, node, kind_of_node: str):
        if kind_of_node not in ("color3", "vector3"):
            return None
        driven = {dial: listed(slips.given(node, port, rest)) for dial, (port, rest) in ports.items()}
        return slips.slip(kind, color=listed(slips.given(node, "in", (0.0,) * 3)), **driven)

    return make


def _luminance(slips: NodeSlips, node, kind: str):
    return slips.slip("luminance", color=listed(slips.given(node, "in", (0.0,) * 3)))


def _ramp_across(which: int, low: str, high: str):
    """A ramp over texture coordinates."""

    def make(slips: NodeSlips, node, kind: str):
        port = ("across", "up")[which]
        at = slips.slip("texture_coordinates", port=port)
        ends = [slips.given(node, name, 0.0) for name in (low, high)]
        if _is_number(kind):
            return slips.slip("mix", thin=ends[0], thick=ends[1], amount=at)
        return slips.slip("color_mix", thin=listed(ends[0]), thick=listed(ends[1]), amount=at)

    return make


def _time(slips: NodeSlips, node, kind: str):
    return slips.slip("time")


def _black_body(slips: NodeSlips, node, kind: str):
    return slips.slip("black_body", kelvin=slips.given(node, "temperature", 5000.0))


def _convert(slips: NodeSlips, node, kind: str):
    return slips.given(node, "in", 0.0)


NODES: dict[str, Callable] = {
    **dict.fromkeys(ARITHMETIC, _arithmetic),
    **dict.fromkeys(FUNCTIONS, _function),
    "exp": _e_to,
    "acos": _arc_cosine,
    "constant": _constant,
    "mix": _mix,
    "clamp": _clamp,
    "remap": _remap,
    "range": _remap,
    "smoothstep": _smoothstep,
    "ifgreater": _ifgreater,
    "ifgreatereq": _ifgreater,
    "ifequal": _ifgreater,
    "combine3": _combine,
    "combine2": _combine,
    "extract": _extract,
    "dotproduct": _of_vectors("dot_product", {"first": "in1", "second": "in2"}),
    "crossproduct": _of_vectors("cross_product", {"first": "in1", "second": "in2"}),
    "normalize": _of_vectors("normalise", {"vector": "in"}),
    "normalmap": _normal_map,
    "position": _place,
    "normal": _without_dials("normal"),
    "tangent": _without_dials("tangent"),
    "viewdirection": _view,
    "texcoord": _without_dials("texture_coordinates"),
    "facingratio": _facing,
    "image": _image,
    "tiledimage": _image,
    "noise3d": _noise,
    "cellnoise3d": _pattern("white_noise"),
    "worleynoise3d": _pattern("worley"),
    "hsvadjust": _of_color("hue_shift", {}),
    "saturate": _of_color("saturation", {"amount": ("amount", 1.0)}),
    "contrast": _of_color("contrast", {"amount": ("amount", 1.0), "pivot": ("pivot", 0.5)}),
    "luminance": _luminance,
    "ramplr": _ramp_across(0, "valuel", "valuer"),
    "ramptb": _ramp_across(1, "valueb", "valuet"),
    "time": _time,
    "blackbody": _black_body,
    "convert": _convert,
    "dot": _convert,
}
"""By the category of a node: makes what it gives."""
