from math import ceil, pi

from nineglass.describe import choice, dial, file_dial, gives, toggle, vector_in
from nineglass.network.pictures import OURS, SPACES, our_picture, picture_file
from nineglass.network.slips import SLIPS

MOST_OCTAVES = 8
SIZE = {
    "hard": (0.001, 10000),
    "unit": "cm",
    "scale": "log",
    "ends": ("fine", "broad"),
    "help": "Size of the largest features.",
}
PLACE_HELP = "Where to look it up; the place on the form when nothing is wired."


def place_of(ops, dials):
    """The place that is wired, or that on the form."""
    return dials.place if "place" in dials.driven else ops.position


def scaled_place(ops, dials):
    return ops.each(ops.div, place_of(ops, dials), dials.size)


def uv_of(ops, dials):
    """The texture coordinates that are wired, or those of the form."""
    return dials.coordinates[:2] if "coordinates" in dials.driven else ops.uv


def coordinates():
    return vector_in(label="Coordinates", help="Across and up; those of the form when nothing is wired.")


def leaning_normal(ops, across, up, out):
    """A direction by its parts across and up the texture coordinates and out of the surface."""
    normal = ops.normal
    leant = ops.each(ops.mul, normal, out)
    for name, part in (("u", across), ("v", up)):
        along = ops.inputs(f"{name}_x", f"{name}_y", f"{name}_z")
        axis = ops.unit(ops.each(ops.sub, along, ops.each(ops.mul, normal, ops.dot(along, normal))))
        leant = ops.each(ops.add, leant, ops.each(ops.mul, axis, part))
    return ops.unit(leant)


@SLIPS.kind(title="Noise", family="pattern", standard="noise3d")
class Noise:
    """Soft lumps through space, 0 to 1, all of one size."""

    synonyms = "perlin cloud random smooth"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(1.0, 0.05, 20, **SIZE)
    amplitude = dial(1.0, 0, 2, hard=(0, 100), label="Strength", ends=("flat", "strong"))
    out = gives("number")

    def emit(self, ops, dials):
        swing = ops.mul(ops.noise(scaled_place(ops, dials)), ops.mul(dials.amplitude, ops.constant(0.6)))
        return ops.clamp(ops.add(swing, ops.constant(0.5)), ops.constant(0), ops.constant(1))


@SLIPS.kind(title="Fractal noise", family="pattern", standard="fractal3d")
class FractalNoise:
    """Cloudy variation through space, 0 to 1, finer and fainter with each octave."""

    synonyms = "turbulence clouds fbm perlin"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(1.0, 0.05, 20, **SIZE)
    octaves = dial(3, 1, MOST_OCTAVES, ends=("plain", "detailed"), help="How many sizes are added; the last in part.")
    diminish = dial(0.5, 0, 1, label="Diminish", ends=("smooth", "rough"), help="How much fainter each octave is.")
    out = gives("number")

    def emit(self, ops, dials):
        octaves = ceil(ops.value_of(dials.octaves) or MOST_OCTAVES)
        place = scaled_place(ops, dials)
        total = strength = None
        whole = ops.constant(0)
        for octave in range(octaves):
            strength = ops.constant(1) if octave == 0 else ops.mul(strength, dials.diminish)
            there = ops.clamp(ops.sub(dials.octaves, ops.constant(octave)), ops.constant(0), ops.constant(1))
            share = strength if octave == 0 else ops.mul(strength, there)
            layer = ops.mul(ops.noise(place), share)
            total = layer if octave == 0 else ops.add(total, layer)
            whole = ops.add(whole, share)
            place = tuple(ops.add(ops.mul(axis, ops.constant(2.0)), ops.constant(17.31)) for axis in place)
        half = ops.constant(0.5)
        spread = ops.add(ops.mul(ops.div(total, whole), ops.constant(0.9)), half)
        return ops.clamp(spread, ops.constant(0), ops.constant(1))


@SLIPS.kind(title="Worley", family="pattern", standard="worleynoise3d")
class Worley:
    """Distance to the nearest of points strewn through space, and to the border between two of them (Worley 1996)."""

    synonyms = "voronoi cellular cracks crackle"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(1.0, 0.05, 20, **SIZE)
    out = gives("number")
    border = gives("number")

    def emit(self, ops, dials):
        nearest, second, _ = ops.strewn(scaled_place(ops, dials))
        return {"out": nearest, "border": ops.sub(second, nearest)}


@SLIPS.kind(title="Cells", family="pattern", standard="cellnoise3d")
class Cells:
    """A random number from 0 to 1 for each of many rounded cells."""

    synonyms = "voronoi mosaic patches crystals"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(1.0, 0.05, 20, **SIZE)
    out = gives("number")

    def emit(self, ops, dials):
        return ops.strewn(scaled_place(ops, dials))[2]


@SLIPS.kind(title="White noise", family="pattern", standard="cellnoise3d")
class WhiteNoise:
    """A random number from 0 to 1 for each small cube of space."""

    synonyms = "grain speckle random"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(0.1, 0.01, 5, **SIZE)
    out = gives("number")

    def emit(self, ops, dials):
        return ops.white(scaled_place(ops, dials))


@SLIPS.kind(title="Checker", family="pattern", standard="checkerboard")
class Checker:
    """Cubes by turns 0 and 1."""

    synonyms = "squares chess"
    place = vector_in(label="Place", help=PLACE_HELP)
    size = dial(1.0, 0.05, 20, **SIZE)
    out = gives("number")

    def emit(self, ops, dials):
        x, y, z = (ops.floor(axis) for axis in scaled_place(ops, dials))
        half = ops.mul(ops.add(ops.add(x, y), z), ops.constant(0.5))
        return ops.mul(ops.sub(half, ops.floor(half)), ops.constant(2))


@SLIPS.kind(title="Stripes", family="pattern", standard="line")
class Stripes:
    """Layers by turns 0 and 1 along an axis, with soft or hard edges."""

    synonyms = "bands lines rings"
    place = vector_in(label="Place", help=PLACE_HELP)
    axis = choice("y", "x", "z")
    size = dial(1.0, 0.05, 20, **SIZE)
    share = dial(0.5, 0, 1, ends=("thin", "thick"), help="How much of each period is 1.")
    soft = dial(0.02, 0, 0.5, label="Softness", ends=("hard", "soft"))
    out = gives("number")

    def emit(self, ops, dials):
        along = scaled_place(ops, dials)["xyz".index(dials.axis)]
        half = ops.constant(0.5)
        away = ops.abs(ops.sub(ops.sub(along, ops.floor(along)), half))
        edge = ops.mul(dials.share, half)
        soft = ops.max(ops.mul(dials.soft, half), ops.constant(1e-4))
        return ops.one_minus(ops.step_between(away, ops.sub(edge, soft), ops.add(edge, soft)))


@SLIPS.kind(title="Waves", family="pattern", standard="sin")
class Waves:
    """Ripples along an axis or around the upright axis, 0 to 1, bent by what is wired to the shift."""

    synonyms = "sine rings ripple wood marble"
    place = vector_in(label="Place", help=PLACE_HELP)
    kind = choice("straight", "rings", label="Run")
    axis = choice("y", "x", "z")
    size = dial(1.0, 0.05, 20, **SIZE)
    shift = dial(
        0.0, -1, 1, hard=(-1000, 1000), ends=("back", "on"), help="In periods; wire a noise here to bend them."
    )
    out = gives("number")

    def emit(self, ops, dials):
        place = scaled_place(ops, dials)
        along = place["xyz".index(dials.axis)]
        if dials.kind == "rings":
            x, _, z = place
            along = ops.sqrt(ops.add(ops.mul(x, x), ops.mul(z, z)))
        turn = ops.mul(ops.add(along, dials.shift), ops.constant(2 * pi))
        return ops.add(ops.mul(ops.sin(turn), ops.constant(0.5)), ops.constant(0.5))


@SLIPS.kind(title="Random tiles", family="pattern", standard="tiledimage")
class RandomTiles:
    """Tiles of random size, place, shade and tilt strewn over texture coordinates, in layers over one another."""

    synonyms = "scatter shingles scales flakes glitter bombing leaves"
    layers = 3
    coordinates = coordinates()
    count = dial(12, 1, 100, hard=(0.1, 10000), scale="log", ends=("large", "small"), help="Tiles across.")
    turn = dial(0.3, 0, 1, label="Turn", ends=("straight", "any way"), help="How far each is turned, in half turns.")
    tilt = dial(
        15, 0, 60, hard=(0, 80), unit="deg", ends=("flat", "steep"), help="How far each leans, at most: see the normal."
    )
    spread = dial(0.4, 0, 1, label="Size spread", ends=("all alike", "mixed"))
    coverage = dial(0.8, 0, 1, ends=("few", "all"), help="The share of tiles that are there.")
    soft = dial(0.05, 0, 0.5, label="Edge", ends=("hard", "soft"))
    blend = choice(
        "over", "lighter", "darker", "average", label="Blend", help="Which is seen where tiles lie on tiles."
    )
    out = gives("number")
    shade = gives("number")
    normal = gives("vector")

    def emit(self, ops, dials):
        covered = shade = laid = ops.constant(0)
        lean = (ops.constant(0), ops.constant(0))
        reach = self._tangent_of(ops, dials.tilt)
        for layer in range(self.layers):
            inside, random = self._tile(ops, dials, layer)
            laid = ops.add(laid, inside)
            share = self._share(ops, dials.blend, inside, (shade, random[3]), covered, laid)
            shade = ops.mix(shade, random[3], share)
            own = tuple(ops.mul(ops.sub(ops.add(r, r), ops.constant(1)), reach) for r in random[4:])
            lean = ops.mix(lean, own, share)
            covered = ops.max(covered, inside)
        return {"out": covered, "shade": shade, "normal": leaning_normal(ops, *lean, ops.constant(1))}

    @staticmethod
    def _share(ops, blend, inside, shades, covered, laid):
        """How much of what lies beneath a tile gives way to it. shades: beneath and of the tile; laid: of all tiles so far."""
        beneath, own = shades
        if blend == "lighter":
            return ops.mul(inside, ops.less(beneath, own))
        if blend == "darker":
            return ops.mul(inside, ops.max(ops.less(own, beneath), ops.one_minus(covered)))
        if blend == "average":
            return ops.div(inside, laid)
        return inside

    @staticmethod
    def _tangent_of(ops, degrees):
        angle = ops.mul(degrees, ops.constant(pi / 180))
        return ops.div(ops.sin(angle), ops.cos(angle))

    @staticmethod
    def _tile(ops, dials, layer: int):
        """(how much of this place the tile of one layer covers, six random numbers of the tile)."""
        u, v = uv_of(ops, dials)
        seed, shift, half = ops.constant(layer * 31.7 + 0.5), ops.constant(layer * 0.37), ops.constant(0.5)
        x, y = (ops.add(ops.mul(axis, dials.count), shift) for axis in (u, v))
        cell = ops.floor(x), ops.floor(y)
        random = [ops.white((*cell, ops.add(seed, ops.constant(k)))) for k in range(6)]
        dx, dy = (ops.sub(ops.sub(axis, low), half) for axis, low in zip((x, y), cell, strict=True))
        turn = ops.mul(ops.mul(ops.sub(random[0], half), dials.turn), ops.constant(2 * pi))
        s, c = ops.sin(turn), ops.cos(turn)
        a, b = ops.sub(ops.mul(dx, c), ops.mul(dy, s)), ops.add(ops.mul(dx, s), ops.mul(dy, c))
        size = ops.mul(ops.constant(0.48 * 0.7), ops.one_minus(ops.mul(dials.spread, random[1])))
        within = ops.sub(size, ops.max(ops.abs(a), ops.abs(b)))
        inside = ops.step_between(within, ops.constant(0), ops.add(dials.soft, ops.constant(1e-4)))
        return ops.mul(inside, ops.less(random[2], dials.coverage)), random


@SLIPS.kind(title="Picture", family="pattern", standard="image")
class Picture:
    """A picture on the surface: one of ours, or a file (PNG, JPEG, EXR, HDR)."""

    synonyms = "image texture map bitmap file scratches wood"
    coordinates = coordinates()
    source = choice(*OURS, "file", label="Picture")
    file = file_dial("texture", label="File", when=("source", "file"))
    space = choice(
        *SPACES, label="Colour space", help="How the file's numbers are to be read.", when=("source", "file")
    )
    repeat = dial(1, 0.1, 20, hard=(0.001, 10000), scale="log", ends=("large", "small"), help="How often it fits.")
    flip = toggle(False, label="Upside down")
    out = gives("color")
    grey = gives("number")

    def emit(self, ops, dials):
        u, v = (ops.mul(axis, dials.repeat) for axis in uv_of(ops, dials))
        if dials.source == "file" and not dials.file:
            grey = ops.constant(0.5)
            return {"out": (grey, grey, grey), "grey": grey}
        found = picture_file(dials.file, dials.space) if dials.source == "file" else our_picture(dials.source)
        color = ops.picture(found, u, ops.one_minus(v) if dials.flip else v)
        return {"out": color, "grey": ops.luminance(color)}
