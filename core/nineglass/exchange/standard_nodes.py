"""Networks as standard nodes of MaterialX: each operation of the program that drives a dial is a node. Source: MaterialX 1.39, `stdlib_defs.mtlx` and
`nprlib_defs.mtlx`. The other way is `node_slips`.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from nineglass.exchange.report import Report
from nineglass.network import ops
from nineglass.network.ops import Program, flow_of

TWO = {
    ops.ADD: "add",
    ops.SUB: "subtract",
    ops.MUL: "multiply",
    ops.DIV: "divide",
    ops.MIN: "min",
    ops.MAX: "max",
    ops.POW: "power",
}
ONE = {
    ops.ABS: "absval",
    ops.SQRT: "sqrt",
    ops.EXP: "exp",
    ops.LOG: "ln",
    ops.SIN: "sin",
    ops.COS: "cos",
    ops.ACOS: "acos",
    ops.FLOOR: "floor",
}
AT_PLACE = {ops.NOISE: "noise3d", ops.WHITE: "cellnoise3d"}
"""Operations that have a node of another pattern of the same kind."""

AXES = {"x": 0, "y": 1, "z": 2}
SPACES = {
    "": ("position", "object"),
    "stage_": ("position", "world"),
    "normal_": ("normal", "object"),
    "view_": ("viewdirection", "object"),
}
"""By how the inputs of a program begin: the node that gives them, and in which space."""


MOST_READABLE, MOST_AT_ALL = 48, 300
"""Nodes that drive one input: as many as a person reads, where it can be laid down as a picture or curve as well; and where it cannot."""


class NoNode(ValueError):
    """Something that no standard node says."""


@dataclass
class Nodes:
    """A program written into a node graph of MaterialX. put_picture: keeps a picture beside the document and says its file name."""

    graph: object
    program: Program
    put_picture: Callable[[object], str]
    report: Report
    _named: dict[int, str] = field(default_factory=dict)
    _shared: dict[str, str] = field(default_factory=dict)
    _count: int = 0

    def __post_init__(self):
        self._constants = dict(self.program.constants)
        self._inputs = {register: name for name, register in self.program.inputs.items()}
        self._rows = {register: row for row in self.program.operations.tolist() for register in flow_of(row)[0]}

    def check(self, registers: tuple[int, ...], most: int = MOST_READABLE) -> None:
        """Raises NoNode where not all that some registers are worked out by can be said, or only by more nodes than `most`."""
        count = 0
        for register in registers:
            for needed in self._missing(register):
                count += 1
                if needed in self._inputs:
                    self._check_input(self._inputs[needed])
                else:
                    self._check_operation(self._rows[needed])
        if count > most:
            raise NoNode(f"what takes {count} nodes")

    def _check_operation(self, row: list[int]) -> None:
        operation, _, *operands = row
        said = operation in TWO or operation in ONE or operation in AT_PLACE or operation in (ops.LESS, ops.ATAN2)
        if operation == ops.TEXEL:
            said = self.program.pictures[int(self._constants[operands[2]])].shape[0] > 1
        if not said:
            raise NoNode("a pattern of ours")

    @staticmethod
    def _check_input(name: str) -> None:
        if name not in ("facing", "u", "v", "time") and (name[-1] not in AXES or name[:-1] not in SPACES):
            raise NoNode(f"{name!r}")

    def number(self, register: int) -> tuple[str, object]:
        """("value", it) of a constant, else ("nodename", the node that gives it)."""
        if register in self._constants:
            return "value", float(self._constants[register])
        if register not in self._named:
            for needed in self._missing(register):
                self._named[needed] = self._written(needed)
        return "nodename", self._named[register]

    def _missing(self, register: int) -> list[int]:
        """Registers that are still to be written for one, those first that others need."""
        order, stack = [], [(register, False)]
        while stack:
            one, ready = stack.pop()
            if one in self._constants or one in self._named or one in order:
                continue
            if ready or one not in self._rows:
                order.append(one)
                continue
            stack.append((one, True))
            stack += [(operand, False) for operand in flow_of(self._rows[one])[1]]
        return order

    def color(self, registers) -> str:
        """The node that gives a colour."""
        return self._three(registers, "color3")

    def _three(self, registers, kind: str) -> str:
        key = f"{kind}{registers}"
        if key not in self._shared:
            given = zip(("in1", "in2", "in3"), registers, strict=True)
            self._shared[key] = self._node("combine3", kind, {name: ("float", register) for name, register in given})
        return self._shared[key]

    def _node(self, category: str, kind: str, inputs: dict) -> str:
        """inputs: by name (type, a register), or (type, None, a value or the name of a node as "@name")."""
        self._count += 1
        name = f"{category}_{self._count}"
        node = self.graph.addNode(category, name, kind)
        for port, (port_kind, register, *given) in inputs.items():
            how, what = self.number(register) if register is not None else ("value", given[0])
            entry = node.addInput(port, port_kind)
            if how == "nodename":
                entry.setNodeName(what)
            elif isinstance(what, str) and what.startswith("@"):
                entry.setNodeName(what[1:])
            elif isinstance(what, str):
                entry.setValueString(what)
            else:
                entry.setValue(what, port_kind)
        return name

    def _once(self, key: str, category: str, kind: str, inputs: dict) -> str:
        if key not in self._shared:
            self._shared[key] = self._node(category, kind, inputs)
        return self._shared[key]

    def _part(self, of: str, kind: str, index: int) -> str:
        return self._node("extract", "float", {"in": (kind, None, f"@{of}"), "index": ("integer", None, index)})

    def _written(self, register: int) -> str:
        if register in self._inputs:
            return self._input(self._inputs[register])
        operation, first, *operands = self._rows[register]
        if operation in TWO:
            return self._node(TWO[operation], "float", {"in1": ("float", operands[0]), "in2": ("float", operands[1])})
        if operation in ONE:
            return self._node(ONE[operation], "float", {"in": ("float", operands[0])})
        if operation == ops.LESS:
            compared = {"value1": ("float", operands[1]), "value2": ("float", operands[0])}
            return self._node(
                "ifgreater", "float", {**compared, "in1": ("float", None, 1.0), "in2": ("float", None, 0.0)}
            )
        if operation == ops.ATAN2:
            return self._node("atan2", "float", {"iny": ("float", operands[0]), "inx": ("float", operands[1])})
        if operation in AT_PLACE:
            self.report.add(
                "nearly", f"Network: {AT_PLACE[operation]}", "a pattern of the same kind and size, otherwise strewn"
            )
            place = self._three(tuple(operands[:3]), "vector3")
            return self._node(AT_PLACE[operation], "float", {"position": ("vector3", None, f"@{place}")})
        return self._texel(first, operands, register - first)

    def _texel(self, first: int, operands: list[int], channel: int) -> str:
        """One channel of a picture at texture coordinates."""
        picture = self.program.pictures[int(self._constants[operands[2]])]
        at = self._once(
            f"at{operands[:2]}", "combine2", "vector2", {"in1": ("float", operands[0]), "in2": ("float", operands[1])}
        )
        file = self.put_picture(picture)
        inputs = {"file": ("filename", None, file), "texcoord": ("vector2", None, f"@{at}")}
        image = self._once(f"image{first}", "image", "color3", inputs)
        return self._part(image, "color3", channel)

    def _input(self, name: str) -> str:
        if name == "facing":
            # The cosine, whichever side is seen: `facingratio` turns the normal to the eye.
            return self._once("facing", "facingratio", "float", {})
        if name in ("u", "v"):
            at = self._once("texcoord", "texcoord", "vector2", {})
            return self._part(at, "vector2", "uv".index(name))
        if name == "time":
            return self._once("time", "time", "float", {})
        stem, axis = name[:-1], name[-1]
        category, space = SPACES[stem]
        whole = self._once(f"{category}{space}", category, "vector3", {"space": ("string", None, space)})
        part = self._part(whole, "vector3", AXES[axis])
        if category != "viewdirection":
            return part
        # Ours points to the eye, the standard's from it.
        return self._node("multiply", "float", {"in1": ("float", None, f"@{part}"), "in2": ("float", None, -1.0)})
