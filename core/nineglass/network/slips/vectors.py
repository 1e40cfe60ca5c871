from nineglass.describe import choice, color_dial, dial, gives, toggle, vector_in
from nineglass.network.ops import STEP_CM
from nineglass.network.slips import SLIPS
from nineglass.network.slips.arithmetic import ANY
from nineglass.network.slips.pattern import leaning_normal


@SLIPS.kind(title="Combine vector", family="vector", standard="combine3")
class CombineVector:
    """A vector from three numbers."""

    synonyms = "join xyz"
    x, y, z = (dial(v, -1, 1, label=n, **ANY) for v, n in ((0, "X"), (1, "Y"), (0, "Z")))
    out = gives("vector")

    def emit(self, ops, dials):
        return dials.x, dials.y, dials.z


@SLIPS.kind(title="Separate vector", family="vector", standard="separate3")
class SeparateVector:
    """The three parts of a vector."""

    synonyms = "split xyz"
    vector = vector_in(label="Vector")
    x, y, z = gives("number"), gives("number"), gives("number")

    def emit(self, ops, dials):
        return dict(zip("xyz", dials.vector, strict=True))


@SLIPS.kind(title="Vector arithmetic", family="vector", standard="add")
class VectorArithmetic:
    """One calculation on two vectors, part by part; the second can be scaled first."""

    synonyms = "add subtract multiply scale offset"
    how = choice("add", "subtract", "multiply", label="How")
    first, second = vector_in(label="First"), vector_in(label="Second")
    times = dial(1.0, -2, 2, label="Second times", **ANY)
    out = gives("vector")

    def emit(self, ops, dials):
        scaled = ops.each(ops.mul, dials.second, dials.times)
        return ops.each({"add": ops.add, "subtract": ops.sub, "multiply": ops.mul}[dials.how], dials.first, scaled)


@SLIPS.kind(title="Dot product", family="vector", standard="dotproduct")
class DotProduct:
    """How far two vectors run the same way."""

    first, second = vector_in(label="First"), vector_in(label="Second")
    out = gives("number")

    def emit(self, ops, dials):
        return ops.dot(dials.first, dials.second)


@SLIPS.kind(title="Cross product", family="vector", standard="crossproduct")
class CrossProduct:
    """The vector at right angles to two others."""

    first, second = vector_in(label="First"), vector_in(label="Second")
    out = gives("vector")

    def emit(self, ops, dials):
        (a, b, c), (d, e, f) = dials.first, dials.second
        pairs = ((b, f, c, e), (c, d, a, f), (a, e, b, d))
        return tuple(ops.sub(ops.mul(p, q), ops.mul(r, s)) for p, q, r, s in pairs)


@SLIPS.kind(title="Normalise", family="vector", standard="normalize")
class Normalise:
    """The same direction with length 1; and the length that it had."""

    synonyms = "unit direction length magnitude"
    vector = vector_in(label="Vector")
    out = gives("vector")
    length = gives("number")

    def emit(self, ops, dials):
        return {"out": ops.unit(dials.vector), "length": ops.sqrt(ops.dot(dials.vector, dials.vector))}


@SLIPS.kind(title="Change of space", family="vector", standard="transformvector")
class ChangeOfSpace:
    """A direction in other axes: of the form, the stage, the camera (z towards it), the eye at this place, or the surface (z its normal)."""

    synonyms = "transform world camera object tangent"
    vector = vector_in(label="Vector")
    of = choice("form", "stage", "camera", "eye", "surface", label="From", help="Whose axes it is given in.")
    into = choice("eye", "surface", "form", "stage", "camera", label="Into")
    out = gives("vector")

    def emit(self, ops, dials):
        right, up, front = self._axes(ops, dials.of)
        parts = (ops.each(ops.mul, axis, share) for axis, share in zip((right, up, front), dials.vector, strict=True))
        first, second, third = parts
        here = ops.each(ops.add, ops.each(ops.add, first, second), third)
        return tuple(ops.dot(here, axis) for axis in self._axes(ops, dials.into))

    @staticmethod
    def _axes(ops, space):
        if space == "eye":
            z = ops.unit(ops.inputs("view_x", "view_y", "view_z"))
            x = ops.unit((z[2], ops.constant(0), ops.sub(ops.constant(0), z[0])))
        elif space == "surface":
            z = ops.normal
            u = ops.inputs("u_x", "u_y", "u_z")
            x = ops.unit(ops.each(ops.sub, u, ops.each(ops.mul, z, ops.dot(u, z))))
        else:
            return ops.axes_of(space)
        y = tuple(ops.sub(ops.mul(z[b], x[c]), ops.mul(z[c], x[b])) for b, c in ((1, 2), (2, 0), (0, 1)))
        return x, y, z


@SLIPS.kind(title="Bump", family="vector", standard="bump")
class Bump:
    """A normal that leans as a height does; wire it to the normal of a band."""

    synonyms = "height relief displacement normal"
    height = dial(0.0, 0, 1, hard=(-1e5, 1e5), ends=("low", "high"), help="Wire the height here.", sloped=True)
    strength = dial(0.2, 0, 2, hard=(-100, 100), unit="cm", ends=("flat", "deep"), help="How deep a height of 1 is.")
    out = gives("vector")

    def emit(self, ops, dials):
        slopes = getattr(dials, "slopes", None)
        if slopes is None:
            return ops.normal
        per_cm = ops.constant(1 / STEP_CM)
        gradient = tuple(ops.mul(ops.mul(ops.sub(there, dials.height), per_cm), dials.strength) for there in slopes)
        normal = ops.normal
        along = ops.dot(gradient, normal)
        leaning = (ops.sub(g, ops.mul(along, n)) for g, n in zip(gradient, normal, strict=True))
        return ops.unit(tuple(ops.sub(n, g) for n, g in zip(normal, leaning, strict=True)))


@SLIPS.kind(title="Normal from picture", family="vector", standard="normalmap")
class NormalFromPicture:
    """A normal that leans as a picture of normals says: red across, green up, blue out."""

    synonyms = "normal map bump tangent"
    color = color_dial((0.5, 0.5, 1.0), hard=(0, 1), label="Picture", help="Wire a picture that is read as data.")
    strength = dial(1.0, 0, 2, hard=(0, 100), ends=("flat", "strong"))
    flip = toggle(False, label="Green is down")
    out = gives("vector")

    def emit(self, ops, dials):
        x, y, z = (ops.sub(ops.mul(part, ops.constant(2)), ops.constant(1)) for part in dials.color)
        x, y = ops.mul(x, dials.strength), ops.mul(y, dials.strength)
        y = ops.sub(ops.constant(0), y) if dials.flip else y
        return leaning_normal(ops, x, y, z)
