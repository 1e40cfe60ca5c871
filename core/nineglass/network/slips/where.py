from math import pi

from nineglass.describe import choice, dial, gives, toggle
from nineglass.network.slips import SLIPS


@SLIPS.kind(title="Facing", family="where", standard="facingratio")
class Facing:
    """How squarely the surface faces the eye: 1 face-on, 0 at the rim."""

    synonyms = "rim edge angle incidence fresnel"
    scale = choice("cosine", "angle", help="Follow the cosine of the angle, or the angle itself.")
    bias = dial(0.5, 0.02, 0.98, ends=("rim", "centre"), help="Moves the middle of the range (Schlick 1994).")
    gain = dial(0.5, 0.02, 0.98, ends=("soft", "steep"), help="Steepens the middle of the range (Schlick 1994).")
    gamma = dial(1.0, 0.1, 10, hard=(0.01, 100), scale="log", ends=("wide", "narrow"), help="A power at the end.")
    invert = toggle(False, help="1 at the rim instead.")
    out = gives("number")

    def emit(self, ops, dials):
        facing = ops.facing
        if dials.scale == "angle":
            facing = ops.one_minus(ops.mul(ops.acos(facing), ops.constant(2 / pi)))
        facing = ops.gain(ops.bias(facing, dials.bias), dials.gain)
        facing = ops.one_minus(facing) if dials.invert else facing
        return facing if ops.value_of(dials.gamma) == 1 else ops.pow(facing, dials.gamma)


@SLIPS.kind(title="Position", family="where", standard="position")
class Position:
    """Where on the form: its own axes, from its centre, y upwards, in cm. The height runs from 0 to 1 over a span."""

    synonyms = "place point height"
    span = dial(
        10,
        1,
        100,
        hard=(0.001, 100000),
        unit="cm",
        scale="log",
        ends=("fine", "broad"),
        help="The span of the height, about the centre.",
    )
    out = gives("vector")
    height = gives("number")

    def emit(self, ops, dials):
        place = ops.position
        height = ops.add(ops.div(place[1], dials.span), ops.constant(0.5))
        return {"out": place, "height": ops.clamp(height, ops.constant(0), ops.constant(1))}


@SLIPS.kind(title="Stage position", family="where", standard="position")
class StagePosition:
    """Where on the stage, in cm from its middle; the same for all objects."""

    synonyms = "world place"
    out = gives("vector")

    def emit(self, ops, dials):
        return ops.inputs("stage_x", "stage_y", "stage_z")


@SLIPS.kind(title="Normal", family="where", standard="normal")
class Normal:
    """Which way the smooth surface looks, in the axes of the form."""

    out = gives("vector")

    def emit(self, ops, dials):
        return ops.normal


@SLIPS.kind(title="View direction", family="where", standard="viewdirection")
class ViewDirection:
    """The way from the surface to the eye, in the axes of the form."""

    synonyms = "camera eye"
    out = gives("vector")

    def emit(self, ops, dials):
        return ops.inputs("view_x", "view_y", "view_z")


@SLIPS.kind(title="Tangent", family="where", standard="tangent")
class Tangent:
    """Which way the first texture coordinate grows on the surface, in the axes of the form."""

    synonyms = "direction grain"
    out = gives("vector")

    def emit(self, ops, dials):
        return ops.unit(ops.inputs("u_x", "u_y", "u_z"))


@SLIPS.kind(title="Texture coordinates", family="where", standard="texcoord")
class TextureCoordinates:
    """Where on the surface, 0 to 1 across and up: those of the mesh, or once around the form's upright axis."""

    synonyms = "uv unwrap mapping"
    out = gives("vector")
    across = gives("number")
    up = gives("number")

    def emit(self, ops, dials):
        u, v = ops.uv
        return {"out": (u, v, ops.constant(0)), "across": u, "up": v}


@SLIPS.kind(title="Height along an axis", family="where", standard="ramptb")
class HeightAlong:
    """How far along a direction a place lies: 0 at one end, 1 at the other."""

    synonyms = "gradient from root to tip length"
    axis = choice("y", "x", "z", help="Up the form, across it, or from back to front.")
    start = dial(-5, -20, 20, hard=(-1e5, 1e5), unit="cm", label="Begins at", ends=("lower", "higher"))
    end = dial(5, -20, 20, hard=(-1e5, 1e5), unit="cm", label="Ends at", ends=("lower", "higher"))
    out = gives("number")

    def emit(self, ops, dials):
        return ops.step_between(ops.position["xyz".index(dials.axis)], dials.start, dials.end)


@SLIPS.kind(title="Object size", family="where", standard="constant")
class ObjectSize:
    """How large the object is, in cm along its own axes; to fit a pattern to any form."""

    synonyms = "bounds dimensions extent scale bounding box"
    out = gives("vector")
    width = gives("number")
    height = gives("number")
    depth = gives("number")
    longest = gives("number")

    def emit(self, ops, dials):
        width, height, depth = size = ops.inputs("width", "height", "depth")
        longest = ops.max(ops.max(width, height), depth)
        return {"out": size, "width": width, "height": height, "depth": depth, "longest": longest}


@SLIPS.kind(title="Random per object", family="where", standard="randomfloat")
class RandomPerObject:
    """A number from low to high that is another for each object on the stage."""

    synonyms = "vary id instance"
    per = "object"
    low = dial(0, 0, 1, hard=(-1e5, 1e5), ends=("less", "more"))
    high = dial(1, 0, 1, hard=(-1e5, 1e5), ends=("less", "more"))
    out = gives("number")

    def emit(self, ops, dials):
        return ops.mix(dials.low, dials.high, ops.input(self.per))


@SLIPS.kind(title="Random per piece", family="where", standard="randomfloat")
class RandomPerPiece(RandomPerObject):
    """A number from low to high that is another for each piece of a form: faces that hang together are one piece."""

    synonyms = "vary id island shell beads"
    per = "piece"


@SLIPS.kind(title="Time", family="where", standard="time")
class Time:
    """The stage's time in seconds, and the frame that it is."""

    synonyms = "frame animate"
    per_second = dial(24, 1, 120, hard=(0.01, 1e4), label="Frames a second", ends=("slow", "fast"))
    out = gives("number")
    frame = gives("number")

    def emit(self, ops, dials):
        time = ops.input("time")
        return {"out": time, "frame": ops.floor(ops.add(ops.mul(time, dials.per_second), ops.constant(1e-4)))}
