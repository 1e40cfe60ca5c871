from nineglass.describe import choice, color_dial, dial, gives, toggle
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


@SLIPS.kind(title="Colour mix", family="join", standard="mix")
class ColorMix:
    """Goes from one colour to another."""

    thin = color_dial((0.62, 0.77, 0.55), hard=(0, 1000), label="At 0")
    thick = color_dial((0.07, 0.26, 0.12), hard=(0, 1000), label="At 1")
    amount = dial(0.5, 0, 1, hard=(-1000, 1000), ends=("first", "second"))
    out = gives("color")

    def emit(self, ops, dials):
        return ops.mix(dials.thin, dials.thick, dials.amount)


@SLIPS.kind(title="Arithmetic", family="join", standard="add")
class Arithmetic:
    """One calculation on two numbers."""

    how = choice("add", "subtract", "multiply", "divide", "power", "smaller", "larger", label="How")
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
        }
        return operations[dials.how](dials.first, dials.second)
