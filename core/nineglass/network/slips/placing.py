from math import pi

from nineglass.describe import choice, dial, gives, toggle, vector_in
from nineglass.network.slips import SLIPS
from nineglass.network.slips.pattern import PLACE_HELP, coordinates, place_of, uv_of

SHIFT = {"hard": (-1e5, 1e5), "ends": ("back", "on")}
TIMES = {"hard": (1e-4, 1e4), "scale": "log", "ends": ("large", "small")}
DEGREES = {"hard": (-3600, 3600), "unit": "deg", "ends": ("left", "right")}


def turned(ops, x, y, degrees):
    """(x, y) turned anticlockwise."""
    angle = ops.mul(degrees, ops.constant(pi / 180))
    s, c = ops.sin(angle), ops.cos(angle)
    return ops.sub(ops.mul(x, c), ops.mul(y, s)), ops.add(ops.mul(x, s), ops.mul(y, c))


@SLIPS.kind(name="place_2d", title="Place in 2D", family="place", standard="place2d")
class Place2D:
    """Moves, turns and scales texture coordinates about their middle."""

    synonyms = "transform uv offset rotate scale"
    coordinates = coordinates()
    across = dial(0, -1, 1, label="Shift across", **SHIFT)
    up = dial(0, -1, 1, label="Shift up", **SHIFT)
    turn = dial(0, -180, 180, **DEGREES)
    times_across = dial(1, 0.1, 10, label="Times across", **TIMES)
    times_up = dial(1, 0.1, 10, label="Times up", **TIMES)
    out = gives("vector")

    def emit(self, ops, dials):
        half = ops.constant(0.5)
        u, v = uv_of(ops, dials)
        u, v = turned(ops, ops.sub(u, half), ops.sub(v, half), dials.turn)
        u = ops.add(ops.add(ops.mul(u, dials.times_across), half), dials.across)
        return u, ops.add(ops.add(ops.mul(v, dials.times_up), half), dials.up), ops.constant(0)


@SLIPS.kind(name="place_3d", title="Place in 3D", family="place", standard="rotate3d")
class Place3D:
    """Moves, turns and scales places in space."""

    synonyms = "transform offset rotate scale"
    place = vector_in(label="Place", help=PLACE_HELP)
    shift_x = dial(0, -10, 10, unit="cm", **SHIFT)
    shift_y = dial(0, -10, 10, unit="cm", **SHIFT)
    shift_z = dial(0, -10, 10, unit="cm", **SHIFT)
    turn_x = dial(0, -180, 180, **DEGREES)
    turn_y = dial(0, -180, 180, **DEGREES)
    turn_z = dial(0, -180, 180, **DEGREES)
    times_x = dial(1, 0.1, 10, **TIMES)
    times_y = dial(1, 0.1, 10, **TIMES)
    times_z = dial(1, 0.1, 10, **TIMES)
    out = gives("vector")

    def emit(self, ops, dials):
        x, y, z = ops.each(ops.sub, place_of(ops, dials), (dials.shift_x, dials.shift_y, dials.shift_z))
        y, z = turned(ops, y, z, dials.turn_x)
        z, x = turned(ops, z, x, dials.turn_y)
        x, y = turned(ops, x, y, dials.turn_z)
        return ops.mul(x, dials.times_x), ops.mul(y, dials.times_y), ops.mul(z, dials.times_z)


@SLIPS.kind(title="Projection", family="place", standard="triplanarprojection")
class Projection:
    """Texture coordinates thrown onto the form: around it, from all around, or from one side; three-sided takes the side that faces."""

    synonyms = "mapping spherical cylindrical planar triplanar box wrap"
    place = vector_in(label="Place", help=PLACE_HELP)
    how = choice("cylindrical", "spherical", "flat", "three-sided", "form", label="Kind")
    size = dial(
        10, 1, 100, hard=(1e-3, 1e5), unit="cm", scale="log", ends=("small", "large"), help="The span of 0 to 1."
    )
    out = gives("vector")

    def emit(self, ops, dials):
        half, zero = ops.constant(0.5), ops.constant(0)
        if dials.how == "form":
            return (*ops.uv, zero)
        x, y, z = place_of(ops, dials)

        def span(value):
            return ops.add(ops.div(value, dials.size), half)

        around = ops.add(ops.mul(ops.atan2(x, z), ops.constant(1 / (2 * pi))), half)
        if dials.how == "cylindrical":
            return around, span(y), zero
        if dials.how == "spherical":
            up = ops.div(y, ops.sqrt(ops.dot((x, y, z), (x, y, z))))
            return around, ops.one_minus(ops.mul(ops.acos(up), ops.constant(1 / pi))), zero
        if dials.how == "flat":
            return span(x), span(y), zero
        nx, ny, nz = (ops.abs(axis) for axis in ops.normal)
        by_x = ops.mul(ops.less(ny, nx), ops.less(nz, nx))
        by_y = ops.mul(ops.one_minus(by_x), ops.less(nz, ny))
        u = ops.mix(ops.mix(span(x), span(x), by_y), span(z), by_x)
        return u, ops.mix(span(y), span(z), by_y), zero


@SLIPS.kind(title="Tiling", family="place", standard="modulo")
class Tiling:
    """Repeats texture coordinates within 0 to 1, every other tile mirrored if wanted."""

    synonyms = "repeat wrap mirror"
    coordinates = coordinates()
    across = dial(3, 1, 20, label="Tiles across", **TIMES)
    up = dial(3, 1, 20, label="Tiles up", **TIMES)
    mirror = toggle(False, help="So that edges meet.")
    out = gives("vector")

    def emit(self, ops, dials):
        found = []
        for axis, times in zip(uv_of(ops, dials), (dials.across, dials.up), strict=True):
            along = ops.mul(axis, times)
            within = ops.sub(along, ops.floor(along))
            if dials.mirror:
                half = ops.mul(ops.floor(along), ops.constant(0.5))
                odd = ops.mul(ops.sub(half, ops.floor(half)), ops.constant(2))
                within = ops.mix(within, ops.one_minus(within), odd)
            found.append(within)
        return (*found, ops.constant(0))


@SLIPS.kind(title="Turn", family="place", standard="rotate2d")
class Turn:
    """Turns a vector about the upright axis."""

    synonyms = "rotate"
    vector = vector_in(label="Vector")
    angle = dial(0, -180, 180, **DEGREES)
    out = gives("vector")

    def emit(self, ops, dials):
        z, x = turned(ops, dials.vector[2], dials.vector[0], dials.angle)
        return x, dials.vector[1], z
