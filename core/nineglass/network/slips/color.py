from functools import lru_cache
from math import log

import numpy as np

from nineglass.describe import choice, color_dial, curve, dial, gives
from nineglass.matter.substances import NONE, clear_names, substances
from nineglass.network.pictures import chart_of
from nineglass.network.slips import SLIPS
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of, rgb_of_filter

BRIGHT = {"hard": (0, 1000)}


def _color(default=(0.35, 0.7, 0.5), **about):
    return color_dial(default, **(BRIGHT | about))


@SLIPS.kind(title="Colour mix", family="join", standard="mix")
class ColorMix:
    """Goes from one colour to another."""

    synonyms = "blend lerp"
    thin = _color((0.62, 0.77, 0.55), label="At 0")
    thick = _color((0.07, 0.26, 0.12), label="At 1")
    amount = dial(0.5, 0, 1, hard=(-1000, 1000), ends=("first", "second"))
    out = gives("color")

    def emit(self, ops, dials):
        return ops.mix(dials.thin, dials.thick, dials.amount)


@SLIPS.kind(title="Colour blend", family="join", standard="overlay")
class ColorBlend:
    """Lays one colour over another by a rule of the darkroom."""

    synonyms = "multiply screen overlay add layer"
    how = choice("multiply", "add", "subtract", "screen", "overlay", "darker", "lighter", "difference", label="How")
    below = _color((0.62, 0.77, 0.55))
    above = _color((0.8, 0.4, 0.2))
    amount = dial(1.0, 0, 1, ends=("below", "blended"))
    out = gives("color")

    def emit(self, ops, dials):
        return tuple(
            ops.mix(a, self._rule(ops, dials.how, a, b), dials.amount)
            for a, b in zip(dials.below, dials.above, strict=True)
        )

    @staticmethod
    def _rule(ops, how, a, b):
        two = ops.constant(2)
        screen = ops.one_minus(ops.mul(ops.one_minus(a), ops.one_minus(b)))
        rules = {
            "multiply": lambda: ops.mul(a, b),
            "add": lambda: ops.add(a, b),
            "subtract": lambda: ops.max(ops.sub(a, b), ops.constant(0)),
            "screen": lambda: screen,
            "darker": lambda: ops.min(a, b),
            "lighter": lambda: ops.max(a, b),
            "difference": lambda: ops.abs(ops.sub(a, b)),
            "overlay": lambda: ops.mix(
                ops.sub(ops.mul(two, screen), ops.constant(1)),
                ops.mul(two, ops.mul(a, b)),
                ops.less(a, ops.constant(0.5)),
            ),
        }
        return rules[how]()


def _hue_of(ops, color):
    """(hue in turns, saturation, value). Source: Smith 1978, Color Gamut Transform Pairs."""
    r, g, b = color
    top, low = ops.max(ops.max(r, g), b), ops.min(ops.min(r, g), b)
    spread = ops.sub(top, low)
    by_red = ops.div(ops.sub(g, b), spread)
    by_green = ops.add(ops.div(ops.sub(b, r), spread), ops.constant(2))
    by_blue = ops.add(ops.div(ops.sub(r, g), spread), ops.constant(4))
    is_red = ops.one_minus(ops.less(r, top))
    is_green = ops.one_minus(ops.less(g, top))
    hue = ops.div(ops.mix(ops.mix(by_blue, by_green, is_green), by_red, is_red), ops.constant(6))
    return ops.sub(hue, ops.floor(hue)), ops.div(spread, top), top


def _of_hue(ops, hue, saturation, value):
    found = []
    for shift in (1.0, 2 / 3, 1 / 3):
        turn = ops.add(hue, ops.constant(shift))
        away = ops.abs(ops.sub(ops.mul(ops.sub(turn, ops.floor(turn)), ops.constant(6)), ops.constant(3)))
        pure = ops.clamp(ops.sub(away, ops.constant(1)), ops.constant(0), ops.constant(1))
        found.append(ops.mul(value, ops.mix(ops.constant(1), pure, saturation)))
    return tuple(found)


@SLIPS.kind(title="Hue shift", family="color", standard="hsvadjust")
class HueShift:
    """Turns a colour around the wheel of hues."""

    synonyms = "rotate hsv"
    color = _color()
    shift = dial(0.1, -0.5, 0.5, hard=(-100, 100), ends=("back", "on"), help="In whole turns of the wheel.")
    out = gives("color")

    def emit(self, ops, dials):
        hue, saturation, value = _hue_of(ops, dials.color)
        return _of_hue(ops, ops.add(hue, dials.shift), saturation, value)


@SLIPS.kind(title="Saturation", family="color", standard="saturate")
class Saturation:
    """Pulls a colour to the grey of its luminance, or away from it."""

    color = _color()
    amount = dial(1.0, 0, 2, hard=(0, 100), ends=("grey", "vivid"))
    out = gives("color")

    def emit(self, ops, dials):
        grey = ops.luminance(dials.color)
        return tuple(ops.max(ops.mix(grey, part, dials.amount), ops.constant(0)) for part in dials.color)


@SLIPS.kind(title="Brightness", family="color", standard="multiply")
class Brightness:
    """Multiplies a colour."""

    synonyms = "gain scale value"
    color = _color()
    amount = dial(1.0, 0, 2, hard=(0, 1000), ends=("black", "brighter"))
    out = gives("color")

    def emit(self, ops, dials):
        return ops.each(ops.mul, dials.color, dials.amount)


@SLIPS.kind(title="Exposure", family="color", standard="range")
class Exposure:
    """Brightens or darkens a colour by stops, each of them a factor of two."""

    synonyms = "ev stops"
    color = _color()
    stops = dial(0.0, -4, 4, hard=(-30, 30), unit="EV", ends=("darker", "lighter"))
    out = gives("color")

    def emit(self, ops, dials):
        return ops.each(ops.mul, dials.color, ops.pow(ops.constant(2), dials.stops))


@SLIPS.kind(title="Contrast", family="color", standard="contrast")
class Contrast:
    """Spreads a colour about a pivot, or draws it together."""

    color = _color()
    amount = dial(1.0, 0, 3, hard=(0, 100), ends=("flat", "hard"))
    pivot = dial(0.18, 0, 1, hard=(0, 100), ends=("dark", "light"))
    out = gives("color")

    def emit(self, ops, dials):
        spread = ops.each(ops.mul, ops.each(ops.sub, dials.color, dials.pivot), dials.amount)
        return tuple(ops.max(ops.add(part, dials.pivot), ops.constant(0)) for part in spread)


@SLIPS.kind(title="Separate colour", family="color", standard="separate3")
class SeparateColor:
    """The three channels of a colour."""

    synonyms = "split channels rgb red green blue"
    color = _color()
    red, green, blue = gives("number"), gives("number"), gives("number")

    def emit(self, ops, dials):
        return dict(zip(("red", "green", "blue"), dials.color, strict=True))


@SLIPS.kind(title="Combine colour", family="color", standard="combine3")
class CombineColor:
    """A colour from three numbers."""

    synonyms = "join channels rgb red green blue"
    red, green, blue = (dial(v, 0, 1, hard=(0, 1000), ends=("less", "more")) for v in (0.35, 0.7, 0.5))
    out = gives("color")

    def emit(self, ops, dials):
        return dials.red, dials.green, dials.blue


@SLIPS.kind(title="Luminance", family="color", standard="luminance")
class Luminance:
    """How bright a colour is to the eye."""

    synonyms = "grey value"
    color = _color()
    out = gives("number")

    def emit(self, ops, dials):
        return ops.luminance(dials.color)


COOLEST_K, HOTTEST_K = 1000.0, 12000.0


def glow(kelvin: float) -> list[float]:
    """Linear Rec.709 of a black body, its brightest channel 1."""
    rgb = rgb_of(blackbody(kelvin)).clip(0)
    return (rgb / rgb.max()).tolist()


@lru_cache(1)
def glow_chart() -> np.ndarray:
    """Glows from COOLEST_K to HOTTEST_K, even in their logarithm."""
    return chart_of([glow(kelvin) for kelvin in np.geomspace(COOLEST_K, HOTTEST_K, 128)])


@SLIPS.kind(title="Black body", family="color", standard="blackbody")
class BlackBody:
    """The colour of a glowing body, its brightest channel at full; 1000 to 12000 K."""

    synonyms = "temperature kelvin fire heat"
    kelvin = dial(2400, 1000, 12000, hard=(100, 100000), unit="K", scale="log", ends=("ember", "blue sky"))
    out = gives("color")

    def emit(self, ops, dials):
        given = ops.value_of(dials.kelvin)
        if given:
            return ops.constants(glow(min(max(given, COOLEST_K), HOTTEST_K)))
        low, high = log(COOLEST_K), log(HOTTEST_K)
        share = ops.div(ops.sub(ops.log(dials.kelvin), ops.constant(low)), ops.constant(high - low))
        return ops.along(glow_chart(), share)


THINNEST_CM, THICKEST_CM = 1e-3, 1e3
"""Between these the colour is worked out when the depth is driven."""


@lru_cache(32)
def depth_chart(per_cm: tuple[float, ...]) -> np.ndarray:
    """Colours of white light after depths from THINNEST_CM to THICKEST_CM, even in their logarithm.

    per_cm: the logarithm of the transmittance of 1 cm at each of WAVELENGTHS_NM.
    """
    depths = np.geomspace(THINNEST_CM, THICKEST_CM, 512)
    return chart_of(rgb_of_filter(np.exp(depths[:, None] * np.array(per_cm))).clip(0))


@SLIPS.kind(title="Spectrum", family="color", standard="constant")
class Spectrum:
    """The colour of white light through a drawn curve, or through a measured substance, at a depth."""

    synonyms = "wavelength transmittance filter"
    substance = choice(*clear_names(), help="Measured matter in place of the curve.")
    depth = dial(
        1.0,
        0.01,
        100,
        hard=(1e-4, 1e5),
        unit="cm",
        scale="log",
        ends=("thin", "thick"),
        help="Measured matter is this thick; the curve holds for 1 cm.",
    )
    values = curve(
        [[400, 0.1], [500, 0.6], [560, 0.9], [620, 0.6], [700, 0.2]], label="Curve", when=("substance", NONE)
    )
    out = gives("color")

    def emit(self, ops, dials):
        if dials.substance == NONE:
            points = np.array(dials.values, float)
            per_cm = np.log(np.interp(WAVELENGTHS_NM, points[:, 0], points[:, 1]).clip(1e-6))
        else:
            per_cm = -substances()[dials.substance].sigma_a / 100
        depth = ops.value_of(dials.depth)
        if depth is not None:
            return ops.constants(rgb_of_filter(np.exp(per_cm * depth)).clip(0))
        low, high = log(THINNEST_CM), log(THICKEST_CM)
        share = ops.div(ops.sub(ops.log(dials.depth), ops.constant(low)), ops.constant(high - low))
        return ops.along(depth_chart(tuple(per_cm)), share)
