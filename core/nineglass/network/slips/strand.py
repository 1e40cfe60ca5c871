from nineglass.describe import dial, gives
from nineglass.network.slips import SLIPS


@SLIPS.kind(title="Strand", family="where", standard="geompropvalue")
class Strand:
    """Of hair, fur and bristles: how far along the strand, 0 at the root and 1 at the tip; a random number for each strand; its length
    and thickness. On other forms all of them are 0."""

    synonyms = "hair fur fibre root tip along random length thickness"
    out = gives("number")
    random = gives("number")
    length = gives("number")
    thickness = gives("number")

    def emit(self, ops, dials):
        along, random, length, thickness = ops.inputs("along", "strand", "strand_length", "strand_width")
        return {"out": along, "random": random, "length": length, "thickness": thickness}


@SLIPS.kind(title="At the root", family="where", standard="geompropvalue")
class AtTheRoot:
    """Of a strand what the skin has at its root: the place in cm, the normal, the texture coordinates. Position, Normal and Texture
    coordinates give the same there, so that whatever colours the skin colours its strands alike."""

    synonyms = "skin beneath hair fur coordinates uv"
    out = gives("vector")
    normal = gives("vector")
    across = gives("number")
    up = gives("number")

    def emit(self, ops, dials):
        u, v = ops.uv
        return {"out": ops.position, "normal": ops.normal, "across": u, "up": v}


@SLIPS.kind(title="Position on the strand", family="where", standard="position")
class PositionOnStrand:
    """Where on a strand, in the axes of its skin, in cm: for a pattern that lies in space instead of on the skin."""

    synonyms = "hair fur place point"
    out = gives("vector")

    def emit(self, ops, dials):
        return ops.inputs("strand_x", "strand_y", "strand_z")


@SLIPS.kind(title="Strand bands", family="pattern", standard="ramplr")
class StrandBands:
    """A band across each strand, as on a badger's hair: 1 within it, 0 at root and tip. Where it lies differs a little from strand to strand."""

    synonyms = "agouti hair fur stripe white tip"
    begins = dial(0.45, 0, 1, label="Begins at", ends=("root", "tip"))
    ends_at = dial(0.8, 0, 1, label="Ends at", ends=("root", "tip"))
    softness = dial(0.08, 0, 0.5, hard=(0, 1), ends=("sharp", "soft"))
    uneven = dial(0.06, 0, 0.5, hard=(0, 1), ends=("alike", "mixed"))
    out = gives("number")

    def emit(self, ops, dials):
        along, random = ops.inputs("along", "strand")
        shift = ops.mul(dials.uneven, ops.sub(ops.mul(random, ops.constant(2)), ops.constant(1)))
        at = ops.add(along, shift)
        soft = ops.max(dials.softness, ops.constant(1e-4))
        rises = ops.step_between(at, ops.sub(dials.begins, soft), ops.add(dials.begins, soft))
        falls = ops.step_between(at, ops.sub(dials.ends_at, soft), ops.add(dials.ends_at, soft))
        return ops.mul(ops.smooth(rises), ops.one_minus(ops.smooth(falls)))
