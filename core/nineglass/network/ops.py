"""The operations that slips are written in, and the program they build.

A program is a list of operations on registers; a register is one number per hit. Colours and vectors are three registers.
Operations on constants are done at once, and the same operation on the same registers is done once.
"""

import math
from dataclasses import dataclass, field

import numpy as np

ADD, SUB, MUL, DIV, MIN, MAX, ABS, SQRT, POW, EXP, LOG, SIN, COS, ACOS, FLOOR, LESS, NOISE = range(17)

INPUTS = ("facing", "x", "y", "z")
"""Registers that a program starts from: the cosine between normal and eye, and the place on the form in cm."""

Register = int
Three = tuple[Register, Register, Register]
Signal = Register | Three


def _power(a: float, b: float) -> float:
    return max(a, 0.0) ** b if a > 0 or b > 0 else 0.0


_CONSTANT = {
    ADD: lambda a, b: a + b,
    SUB: lambda a, b: a - b,
    MUL: lambda a, b: a * b,
    DIV: lambda a, b: a / b if b else 0.0,
    MIN: min,
    MAX: max,
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
}


@dataclass
class Program:
    """What the interpreter runs: (n, 5) int32 of operation, result, three operands; and the constants' registers."""

    operations: np.ndarray
    constants: list[tuple[int, float]]
    inputs: dict[str, int]
    registers: int


@dataclass
class Ops:
    """Builds a program; every method takes and gives registers."""

    _constants: dict[float, int] = field(default_factory=dict)
    _values: dict[int, float] = field(default_factory=dict)
    _done: dict[tuple, int] = field(default_factory=dict)
    _operations: list[tuple[int, int, int, int, int]] = field(default_factory=list)
    _inputs: dict[str, int] = field(default_factory=dict)
    _registers: int = 0

    def program(self) -> Program:
        operations = np.array(self._operations, np.int32).reshape(-1, 5)
        constants = [(register, value) for value, register in self._constants.items()]
        return Program(operations, constants, dict(self._inputs), self._registers)

    def _new(self) -> int:
        self._registers += 1
        return self._registers - 1

    def constant(self, value: float) -> int:
        value = float(value)
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
        known = [self._values.get(o) for o in operands]
        if operation in _CONSTANT and None not in known:
            return self.constant(_CONSTANT[operation](*known))
        key = (operation, *operands)
        if key not in self._done:
            self._done[key] = result = self._new()
            self._operations.append((operation, result, *operands, *[0] * (3 - len(operands))))
        return self._done[key]

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

    @property
    def position(self) -> Three:
        return self.input("x"), self.input("y"), self.input("z")

    @property
    def facing(self) -> int:
        return self.input("facing")
