from nineglass.describe import choice, dial, gives, toggle
from nineglass.network.slips import SLIPS

ANY = {"hard": (-100000, 100000), "ends": ("less", "more")}


@SLIPS.kind(title="Remap", family="shape", standard="remap")
class Remap:
    """Carries one range over to another."""

    value = dial(0.5, 0, 1, **ANY)
    from_low = dial(0, 0, 1, label="From", **ANY)
    from_high = dial(1, 0, 1, label="From, up to", **ANY)
    to_low = dial(0, 0, 1, label="To", **ANY)
    to_high = dial(1, 0, 1, label="To, up to", **ANY)
    clamp = toggle(True, help="Stay within the new range.")
    out = gives("number")

    def emit(self, ops, dials):
        share = ops.div(ops.sub(dials.value, dials.from_low), ops.sub(dials.from_high, dials.from_low))
        if dials.clamp:
            share = ops.clamp(share, ops.constant(0), ops.constant(1))
        return ops.mix(dials.to_low, dials.to_high, share)


@SLIPS.kind(title="Clamp", family="shape", standard="clamp")
class Clamp:
    """Brings back what runs past two ends."""

    value = dial(0.5, 0, 1, **ANY)
    low = dial(0, 0, 1, label="Lowest", **ANY)
    high = dial(1, 0, 1, label="Highest", **ANY)
    out = gives("number")

    def emit(self, ops, dials):
        return ops.clamp(dials.value, dials.low, dials.high)


@SLIPS.kind(title="Mix", family="join", standard="mix")
class Mix:
    """Goes from one number to another."""

    thin = dial(0, 0, 1, label="At 0", **ANY)
    thick = dial(1, 0, 1, label="At 1", **ANY)
    amount = dial(0.5, 0, 1, hard=(-1000, 1000), ends=("first", "second"))
    out = gives("number")

    def emit(self, ops, dials):
        return ops.mix(dials.thin, dials.thick, dials.amount)


@SLIPS.kind(title="Arithmetic", family="join", standard="add")
class Arithmetic:
    """One calculation on two numbers."""

    synonyms = "math plus minus times divide modulo"
    how = choice(
        "add", "subtract", "multiply", "divide", "power", "smaller", "larger", "remainder", "difference", label="How"
    )
    first = dial(0.5, 0, 1, **ANY)
    second = dial(0.5, 0, 1, **ANY)
    out = gives("number")

    def emit(self, ops, dials):
        operations = {
            "add": ops.add,
            "subtract": ops.sub,
            "multiply": ops.mul,
            "divide": ops.div,
            "power": ops.pow,
            "smaller": ops.min,
            "larger": ops.max,
            "remainder": lambda a, b: ops.sub(a, ops.mul(b, ops.floor(ops.div(a, b)))),
            "difference": lambda a, b: ops.abs(ops.sub(a, b)),
        }
        return operations[dials.how](dials.first, dials.second)


@SLIPS.kind(title="Function", family="shape", standard="absval")
class Function:
    """One calculation on one number."""

    synonyms = "math sine cosine root round absolute sign"
    how = choice("absolute", "root", "sine", "cosine", "round down", "fraction", "sign", "opposite", label="How")
    value = dial(0.5, 0, 1, **ANY)
    out = gives("number")

    def emit(self, ops, dials):
        zero, value = ops.constant(0), dials.value
        operations = {
            "absolute": lambda: ops.abs(value),
            "root": lambda: ops.sqrt(value),
            "sine": lambda: ops.sin(value),
            "cosine": lambda: ops.cos(value),
            "round down": lambda: ops.floor(value),
            "fraction": lambda: ops.sub(value, ops.floor(value)),
            "sign": lambda: ops.sub(ops.less(zero, value), ops.less(value, zero)),
            "opposite": lambda: ops.one_minus(value),
        }
        return operations[dials.how]()


@SLIPS.kind(title="Comparison", family="join", standard="ifgreater")
class Comparison:
    """1 where the comparison holds, else 0; soft within a width."""

    synonyms = "greater less equal threshold if"
    how = choice("first is less", "first is more", "about equal", label="How")
    first = dial(0.5, 0, 1, **ANY)
    second = dial(0.5, 0, 1, **ANY)
    width = dial(0.0, 0, 0.5, hard=(0, 1e5), ends=("hard", "soft"))
    out = gives("number")

    def emit(self, ops, dials):
        half = ops.mul(ops.max(dials.width, ops.constant(1e-6)), ops.constant(0.5))
        apart = ops.sub(dials.second, dials.first)
        if dials.how == "about equal":
            return ops.one_minus(ops.step_between(ops.abs(apart), ops.constant(0), ops.mul(half, ops.constant(2))))
        if dials.how == "first is more":
            apart = ops.sub(dials.first, dials.second)
        return ops.step_between(apart, ops.sub(ops.constant(0), half), half)


@SLIPS.kind(title="Switch", family="join", standard="switch")
class Switch:
    """One of four numbers, by a whole number from 0 to 3."""

    synonyms = "choose select pick"
    which = dial(0, 0, 3, hard=(-1e5, 1e5), ends=("first", "last"))
    first = dial(0.0, 0, 1, **ANY)
    second = dial(0.33, 0, 1, **ANY)
    third = dial(0.67, 0, 1, **ANY)
    fourth = dial(1.0, 0, 1, **ANY)
    out = gives("number")

    def emit(self, ops, dials):
        value = dials.first
        for number, given in ((1, dials.second), (2, dials.third), (3, dials.fourth)):
            value = ops.mix(value, given, ops.one_minus(ops.less(dials.which, ops.constant(number))))
        return value


@SLIPS.kind(title="Bias and gain", family="shape", standard="curveadjust")
class BiasGain:
    """Moves the middle of 0 to 1, and steepens it (Schlick 1994)."""

    value = dial(0.5, 0, 1, **ANY)
    bias = dial(0.5, 0.02, 0.98, ends=("lower", "higher"))
    gain = dial(0.5, 0.02, 0.98, ends=("soft", "steep"))
    out = gives("number")

    def emit(self, ops, dials):
        within = ops.clamp(dials.value, ops.constant(0), ops.constant(1))
        return ops.gain(ops.bias(within, dials.bias), dials.gain)


@SLIPS.kind(title="Gamma", family="shape", standard="power")
class Gamma:
    """A power of what is above 0."""

    synonyms = "power exponent"
    value = dial(0.5, 0, 1, **ANY)
    gamma = dial(2.0, 0.1, 10, hard=(0.01, 100), scale="log", ends=("lifted", "pressed"))
    out = gives("number")

    def emit(self, ops, dials):
        return ops.pow(dials.value, dials.gamma)


@SLIPS.kind(title="Smooth step", family="shape", standard="smoothstep")
class SmoothStep:
    """0 below one end, 1 above the other, and a smooth rise between."""

    value = dial(0.5, 0, 1, **ANY)
    low = dial(0.25, 0, 1, label="Begins at", **ANY)
    high = dial(0.75, 0, 1, label="Ends at", **ANY)
    out = gives("number")

    def emit(self, ops, dials):
        return ops.smooth(ops.step_between(dials.value, dials.low, dials.high))
