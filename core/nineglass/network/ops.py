"""The operations that slips are written in, and the program they build.

A program is a list of operations on registers; a register is one number per hit. Colours and vectors are three registers.
Operations on constants are done at once, and the same operation on the same registers is done once.
"""

import heapq
import math
from copy import copy
from dataclasses import dataclass, field, fields, replace
from functools import cached_property

import numpy as np

from nineglass.describe import Fault, Refused

ADD, SUB, MUL, DIV, MIN, MAX, ABS, SQRT, POW, EXP, LOG, SIN, COS, ACOS, FLOOR, LESS, NOISE = range(17)
ATAN2, WHITE, STREWN, TEXEL, GRID = range(17, 22)

MOST_GRIDS = 8
"""That one program reads; the operation of the k-th is GRID + k."""

NO_OPERANDS = (0, 0, 0)
OPERANDS = dict.fromkeys(range(21), 2)
OPERANDS |= dict.fromkeys((ABS, SQRT, EXP, LOG, SIN, COS, ACOS, FLOOR), 1)
OPERANDS |= dict.fromkeys((NOISE, WHITE, STREWN, TEXEL, *range(GRID, GRID + MOST_GRIDS)), 3)
"""How many operands each operation has."""

RESULTS = {STREWN: 3, TEXEL: 3}
"""Operations that fill more than one register, from the one that they name on."""

INPUTS = (
    *("facing", "x", "y", "z"),
    *("normal_x", "normal_y", "normal_z", "view_x", "view_y", "view_z"),
    *("u", "v", "u_x", "u_y", "u_z", "v_x", "v_y", "v_z"),
    *("stage_x", "stage_y", "stage_z", "object", "piece", "time"),
    *("along", "strand", "strand_length", "strand_width", "strand_x", "strand_y", "strand_z"),
    *("width", "height", "depth"),
    *(f"{space}_{way}_{axis}" for space in ("stage", "camera") for way in ("right", "up", "front") for axis in "xyz"),
)
"""Registers that a program starts from: the cosine between normal and eye; in the axes of the form the place in cm, the smooth
normal and the way to the eye; texture coordinates and how they change per cm; the place on the stage; a random
number from 0 to 1 for each object, and for each of the pieces that hang together; s; of a strand how far along it from root to tip, a
random number from 0 to 1 for each, its length in cm, its thickness in um, and the place on it in cm (on a strand the place, the
normal and the texture coordinates are those of the skin at its root); the size of the object in cm along its own
axes; and in the axes of the form those of the stage and of the camera."""

STEP_CM = 0.004
"""How far apart the places are between which a bump measures its slope."""

Register = int
Three = tuple[Register, Register, Register]
Signal = Register | Three


LARGEST = 1e30
"""No constant is larger: it must be finite in 32 bits."""


def _power(a: float, b: float) -> float:
    if a <= 0:
        return 0.0
    return math.exp(min(b * math.log(a), 80.0))


_CONSTANT = {
    ADD: lambda a, b: a + b,
    SUB: lambda a, b: a - b,
    MUL: lambda a, b: a * b,
    DIV: lambda a, b: a / b if b else 0.0,
    MIN: lambda a, b: a if a < b else b,
    MAX: lambda a, b: a if a > b else b,
    ABS: abs,
    SQRT: lambda a: math.sqrt(max(a, 0.0)),
    POW: _power,
    EXP: lambda a: math.exp(min(a, 80.0)),
    LOG: lambda a: math.log(max(a, 1e-30)),
    SIN: math.sin,
    COS: math.cos,
    ACOS: lambda a: math.acos(min(max(a, -1.0), 1.0)),
    FLOOR: math.floor,
    LESS: lambda a, b: float(a < b),
    ATAN2: math.atan2,
}


def flow_of(row: list[int]) -> tuple[range, list[int]]:
    """(registers that an operation fills, those that it reads)."""
    operation, result, *operands = row
    return range(result, result + RESULTS.get(operation, 1)), operands[: OPERANDS[operation]]


@dataclass
class Program:
    """What the interpreter runs: (n, 5) int32 of operation, (first) result, three operands; and the constants' registers."""

    operations: np.ndarray
    constants: list[tuple[int, float]]
    inputs: dict[str, int]
    registers: int
    pictures: tuple[np.ndarray, ...] = ()
    """(h, w, 3) float32 each."""
    grids: tuple[np.ndarray, ...] = ()
    """(z, y, x) float32 each."""

    def only(self, wanted: set[int]) -> "Program":
        """The part of the program that some registers are worked out by."""
        needed, kept = set(wanted), []
        for row in reversed(self.operations.tolist()):
            results, operands = flow_of(row)
            if not needed.isdisjoint(results):
                kept.append(row)
                needed.update(operands)
        operations = np.array(kept[::-1], np.int32).reshape(-1, 5)
        inputs = {name: register for name, register in self.inputs.items() if register in needed}
        constants = [(register, value) for register, value in self.constants if register in needed]
        return replace(self, operations=operations, inputs=inputs, constants=constants)

    def moved(self, places: np.ndarray) -> "Program":
        """The same program on other registers. places: the new one of each."""
        operations = np.hstack([self.operations[:, :1], places[self.operations[:, 1:]]]).astype(np.int32)
        constants = [(int(places[register]), value) for register, value in self.constants]
        inputs = {name: int(places[register]) for name, register in self.inputs.items()}
        return replace(self, operations=operations, constants=constants, inputs=inputs)

    def places(self, kept: set[int]) -> tuple[dict[int, int], int]:
        """New places for the registers that vary, each free again after its last use, and how many places there are.

        kept: registers that are read when the program has run. A place may be that of an operand of the same operation: every operation
        works through its hits one after another.
        """
        constants = {register for register, _ in self.constants}
        last_read: dict[int, int] = {}
        rows = self.operations.tolist()
        for k, row in enumerate(rows):
            last_read |= dict.fromkeys(flow_of(row)[1], k)
        last_read |= dict.fromkeys(kept, len(rows))
        found: dict[int, int] = {}
        free: list[int] = []
        count = 0

        def take(registers: list[int]) -> None:
            nonlocal count
            if len(registers) == 1 and free:
                found[registers[0]] = heapq.heappop(free)
                return
            found.update(zip(registers, range(count, count + len(registers)), strict=True))
            count += len(registers)

        for register in self.inputs.values():
            take([register])
        for k, row in enumerate(rows):
            results, operands = flow_of(row)
            for register in set(operands) - constants:
                if last_read[register] == k:
                    heapq.heappush(free, found[register])
            take(list(results))
            for register in results:
                if register not in last_read:
                    heapq.heappush(free, found[register])
        return found, count

    def alone(self, kept: set[int]) -> tuple["Program", dict[int, int]]:
        """The part of the program that some registers are worked out by, on registers that follow from what it does alone: (it, the new ones)."""
        needed = self.only(kept)
        found, count = needed.places(kept)
        found |= {register: count + k for k, (register, _) in enumerate(needed.constants)}
        places = np.full(self.registers + 1, -1, np.int32)
        places[list(found)] = list(found.values())
        return replace(needed.moved(places), registers=count + len(needed.constants)), found

    @cached_property
    def texels(self) -> tuple[np.ndarray, ...]:
        """All pictures end to end (n, 3) float32, and (pictures, 3) int32 of where each begins, its height and width; all grids end to end
        (n,) float32, and (grids, 4) int32 of where each begins and its voxels along x, y, z."""
        starts = np.cumsum([0, *(picture.shape[0] * picture.shape[1] for picture in self.pictures)])
        shapes = [(start, *picture.shape[:2]) for start, picture in zip(starts, self.pictures, strict=False)]
        flat = [picture.reshape(-1, 3) for picture in self.pictures] or [np.zeros((1, 3), np.float32)]
        whole = flat[0] if len(flat) == 1 else np.concatenate(flat)
        texels = np.ascontiguousarray(whole, np.float32), np.array(shapes, np.int32).reshape(-1, 3)
        starts = np.cumsum([0, *(grid.size for grid in self.grids)])
        boxes = [(start, *grid.shape[::-1]) for start, grid in zip(starts, self.grids, strict=False)]
        flat = [grid.reshape(-1) for grid in self.grids] or [np.zeros(1, np.float32)]
        whole = flat[0] if len(flat) == 1 else np.concatenate(flat)
        return *texels, np.ascontiguousarray(whole, np.float32), np.array(boxes, np.int32).reshape(-1, 4)


@dataclass
class Ops:
    """Builds a program; every method takes and gives registers."""

    _constants: dict[float, int] = field(default_factory=dict)
    _values: dict[int, float] = field(default_factory=dict)
    _done: dict[tuple, int] = field(default_factory=dict)
    _operations: list[tuple[int, int, int, int, int]] = field(default_factory=list)
    _inputs: dict[str, int] = field(default_factory=dict)
    _registers: int = 0
    _pictures: list[np.ndarray] = field(default_factory=list)
    _grids: list[np.ndarray] = field(default_factory=list)
    shift: int = 0
    """While a bump measures a slope: the axis along which places are shifted, from 1; 0 for none."""

    def copy(self) -> "Ops":
        """The same program, to be written on by itself."""
        kept = {one.name: copy(getattr(self, one.name)) for one in fields(self)}
        return Ops(**kept)

    def program(self) -> Program:
        operations = np.array(self._operations, np.int32).reshape(-1, 5)
        constants = [(register, value) for value, register in self._constants.items()]
        return Program(
            operations, constants, dict(self._inputs), self._registers, tuple(self._pictures), tuple(self._grids)
        )

    def _new(self) -> int:
        self._registers += 1
        return self._registers - 1

    def constant(self, value: float) -> int:
        value = min(max(float(value), -LARGEST), LARGEST)
        if value not in self._constants:
            self._constants[value] = register = self._new()
            self._values[register] = value
        return self._constants[value]

    def constants(self, values) -> Three:
        return tuple(self.constant(v) for v in values)

    def value_of(self, register: int) -> float | None:
        """The number in a register when it is a constant."""
        return self._values.get(register)

    def input(self, name: str) -> int:
        if name not in self._inputs:
            self._inputs[name] = self._new()
        return self._inputs[name]

    def _do(self, operation: int, *operands: int) -> int:
        key = (operation, *operands)
        done = self._done.get(key)
        if done is not None:
            return done
        values = self._values
        if operation in _CONSTANT and all(o in values for o in operands):
            return self.constant(_CONSTANT[operation](*(values[o] for o in operands)))
        self._done[key] = result = self._registers
        self._registers += RESULTS.get(operation, 1)
        self._operations.append((operation, result, *operands, *NO_OPERANDS[len(operands) :]))
        return result

    def _do_three(self, operation: int, *operands: int) -> Three:
        first = self._do(operation, *operands)
        return first, first + 1, first + 2

    def add(self, a, b):
        return self._do(ADD, a, b)

    def sub(self, a, b):
        return self._do(SUB, a, b)

    def mul(self, a, b):
        return self._do(MUL, a, b)

    def div(self, a, b):
        """a / b; 0 where b is 0."""
        return self._do(DIV, a, b)

    def min(self, a, b):
        return self._do(MIN, a, b)

    def max(self, a, b):
        return self._do(MAX, a, b)

    def abs(self, a):
        return self._do(ABS, a)

    def sqrt(self, a):
        return self._do(SQRT, a)

    def pow(self, a, b):
        """a to the power of b; a below 0 counts as 0."""
        return self._do(POW, a, b)

    def exp(self, a):
        return self._do(EXP, a)

    def log(self, a):
        return self._do(LOG, a)

    def sin(self, a):
        return self._do(SIN, a)

    def cos(self, a):
        return self._do(COS, a)

    def acos(self, a):
        return self._do(ACOS, a)

    def floor(self, a):
        return self._do(FLOOR, a)

    def less(self, a, b):
        """1 where a < b, else 0."""
        return self._do(LESS, a, b)

    def noise(self, place: Three):
        """Gradient noise, about -1 to 1, 0 at whole numbers."""
        return self._do(NOISE, *place)

    def one_minus(self, a):
        return self.sub(self.constant(1), a)

    def clamp(self, a, low, high):
        """a within low to high; what is no number becomes low."""
        return self.min(self.max(a, low), high)

    def mix(self, a: Signal, b: Signal, t: int) -> Signal:
        """a where t is 0, b where t is 1; numbers or colours."""
        if isinstance(a, tuple):
            return tuple(self.mix(x, y, t) for x, y in zip(a, b, strict=True))
        return self.add(a, self.mul(self.sub(b, a), t))

    def step_between(self, a, low, high):
        """How far a is from low to high, within 0 to 1."""
        return self.clamp(self.div(self.sub(a, low), self.sub(high, low)), self.constant(0), self.constant(1))

    def smooth(self, t):
        """3t^2 - 2t^3."""
        return self.mul(self.mul(t, t), self.sub(self.constant(3), self.mul(self.constant(2), t)))

    def bias(self, t, amount):
        """Moves the middle of 0..1 to `amount`. Source: Schlick 1994, Fast Alternatives to Perlin's Bias and Gain."""
        slope = self.sub(self.div(self.constant(1), amount), self.constant(2))
        return self.div(t, self.add(self.mul(slope, self.one_minus(t)), self.constant(1)))

    def gain(self, t, amount):
        """Steepens the middle of 0..1 for amounts above 0.5. Source: Schlick 1994."""
        two, half = self.constant(2), self.constant(0.5)
        amount = self.one_minus(amount)
        below = self.mul(half, self.bias(self.min(self.mul(two, t), self.constant(1)), amount))
        second = self.max(self.sub(self.mul(two, t), self.constant(1)), self.constant(0))
        above = self.add(half, self.mul(half, self.bias(second, self.one_minus(amount))))
        return self.mix(above, below, self.less(t, half))

    def atan2(self, y, x):
        return self._do(ATAN2, y, x)

    def white(self, place: Three):
        """A random number from 0 to 1 for each cube of side 1."""
        return self._do(WHITE, *place)

    def strewn(self, place: Three) -> Three:
        """Of points strewn one to a cube of side 1: the distance to the nearest, to the second nearest, and a random number from
        0 to 1 for the nearest."""
        return self._do_three(STREWN, *place)

    def picture(self, picture: np.ndarray, u, v) -> Three:
        """A picture (h, w, 3), repeated, at texture coordinates; (0, 0) is its lower left corner."""
        number = next((k for k, one in enumerate(self._pictures) if one is picture), len(self._pictures))
        if number == len(self._pictures):
            self._pictures.append(picture)
        return self._do_three(TEXEL, u, v, self.constant(number))

    def grid(self, grid: np.ndarray, place: Three):
        """A grid (z, y, x) at a place, each part from 0 to 1 over it; 0 outside."""
        number = next((k for k, one in enumerate(self._grids) if one is grid), len(self._grids))
        if number == len(self._grids):
            if number == MOST_GRIDS:
                remedy = "Read fewer, or join some into one."
                raise Refused(
                    [Fault("slips", f"more than {MOST_GRIDS} grids are read", f"at most {MOST_GRIDS}", remedy)]
                )
            self._grids.append(grid)
        return self._do(GRID + number, *place)

    def along(self, chart: np.ndarray, share) -> Three:
        """A chart of a row of colours (1, n, 3), the first at a share of 0 and the last at 1, linear between them."""
        count = chart.shape[1]
        place = self.clamp(share, self.constant(0), self.constant(1))
        u = self.add(self.mul(place, self.constant((count - 1) / count)), self.constant(0.5 / count))
        return self.picture(chart, u, self.constant(0.5))

    def dot(self, a: Three, b: Three):
        x, y, z = (self.mul(p, q) for p, q in zip(a, b, strict=True))
        return self.add(self.add(x, y), z)

    def each(self, operation, a: Three, b: Three | int) -> Three:
        """An operation on the parts of two vectors or colours, or of one and a number."""
        return tuple(operation(p, q) for p, q in zip(a, b if isinstance(b, tuple) else (b,) * 3, strict=True))

    def unit(self, a: Three) -> Three:
        return self.each(self.div, a, self.sqrt(self.dot(a, a)))

    def luminance(self, color: Three):
        """Relative luminance of linear Rec.709 (IEC 61966-2-1)."""
        return self.dot(color, self.constants((0.2126, 0.7152, 0.0722)))

    def inputs(self, *names: str) -> Signal:
        return tuple(self.input(name) for name in names)

    @property
    def position(self) -> Three:
        place = list(self.inputs("x", "y", "z"))
        if self.shift:
            place[self.shift - 1] = self.add(place[self.shift - 1], self.constant(STEP_CM))
        return tuple(place)

    @property
    def uv(self) -> tuple[int, int]:
        """Texture coordinates."""
        u, v = self.inputs("u", "v")
        if self.shift:
            axis, step = "xyz"[self.shift - 1], self.constant(STEP_CM)
            u = self.add(u, self.mul(self.input(f"u_{axis}"), step))
            v = self.add(v, self.mul(self.input(f"v_{axis}"), step))
        return u, v

    @property
    def normal(self) -> Three:
        return self.inputs("normal_x", "normal_y", "normal_z")

    def axes_of(self, space: str) -> tuple[Three, Three, Three]:
        """The axes to the right, up and to the front of the form, the stage or the camera, in those of the form."""
        if space == "form":
            return tuple(self.constants(row) for row in ((1, 0, 0), (0, 1, 0), (0, 0, 1)))
        return tuple(self.inputs(*(f"{space}_{way}_{axis}" for axis in "xyz")) for way in ("right", "up", "front"))

    @property
    def facing(self) -> int:
        return self.input("facing")
