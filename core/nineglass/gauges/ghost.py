"""The ghost of a flame: a lamp that nobody sees in place of its light."""

from math import pi

import numpy as np

from nineglass.gauges import Reading
from nineglass.matter.substances import WAVELENGTHS_NM
from nineglass.spectra.blackbody import COLDEST_SEEN_K, blackbody
from nineglass.spectra.observer import CMF, D65, rgb_of
from nineglass.spectra.upsampling import sigmoid_spectrum
from nineglass.trace.geometry.standing import Placed, size_cm, standing_of
from nineglass.trace.matter import varying_of
from nineglass.trace.media.fields import Field, field_of, inputs_around, luminances
from nineglass.trace.media.varying import GLOW, GLOW_COLOR, KELVIN
from nineglass.trace.scene import lamp_glow
from nineglass.trace.sensor import axes_of, lens_of


def fields_on_bench(reading: Reading) -> tuple[Placed, list[Field]] | None:
    """The first thing that wears the material on the bench, and what varies within it: of two media that are mixed, each."""
    sides = varying_of(reading.compiled)
    standing = standing_of(reading.stage)
    placed = next((one for one in standing.placed if one.material is None and one.sown is None), None)
    if not sides or placed is None:
        return None
    ids = [one.id for one in reading.stage.objects]
    number = ids.index(placed.object_id)
    axes = axes_of(lens_of(reading.stage.camera, 1.0)[0])
    size = size_cm(reading.stage.objects[number]).astype(np.float32)
    around = inputs_around(placed, 1 << number, size, float(reading.stage.time), axes)
    return placed, [field_of(varying, placed, around) for varying in sides]


def flame_on_bench(reading: Reading) -> tuple[Placed, Field] | None:
    """The first thing that wears the material on the bench, and what glows within it."""
    placed, found = fields_on_bench(reading) or (None, [])
    return next(((placed, one) for one in found if GLOW in one.channels), None)


def glow_of(field: Field) -> tuple[np.ndarray, np.ndarray]:
    """((z, y, x) luminance per m that is sent out at every voxel, (401,) the mean spectrum of it)."""
    glow = field.channels[GLOW][0].astype(float)
    if KELVIN in field.channels:
        kelvin = field.channels[KELVIN][0]
        glow = glow * np.interp(kelvin, *luminances())
        steps = np.linspace(max(float(kelvin.min()), COLDEST_SEEN_K), float(kelvin.max()) + 1, 25)
        weights = np.histogram(kelvin, steps, weights=glow)[0]
        spectrum = sum(w * blackbody((a + b) / 2) for w, a, b in zip(weights, steps, steps[1:], strict=False))
        return glow, spectrum / max(float(weights.sum()), 1e-12)
    luminance, mean = np.empty_like(glow), np.zeros(len(WAVELENGTHS_NM[::COARSE_NM]))
    for z, plane in enumerate(glow):
        coefficients = np.stack([channel[z].reshape(-1) for channel in field.channels[GLOW_COLOR]], axis=1)
        spectra = sigmoid_spectrum(coefficients, COARSE_NM) * D65[::COARSE_NM]
        luminance[z] = (spectra @ (CMF[::COARSE_NM, 1] * COARSE_NM)).reshape(plane.shape)
        mean += plane.reshape(-1) @ spectra
    mean = np.interp(WAVELENGTHS_NM, WAVELENGTHS_NM[::COARSE_NM], mean)
    return glow * luminance, mean / max(float(mean @ CMF[:, 1]), 1e-12)


COARSE_NM = 8
"""Smooth spectra of many colours are summed in such steps."""


def ghost_of(placed: Placed, field: Field, others: list[str]) -> dict:
    """A sphere lamp that nobody sees in place of a flame's light: as much of it, of its colour, where it comes from.

    others: what it lights: all but the flame.
    """
    glow, spectrum = glow_of(field)
    voxel = field.box.size / np.array(field.box.shape[::-1])
    total = float(glow.sum())
    middles = [field.box.low[k] + (np.arange(field.box.shape[2 - k]) + 0.5) * voxel[k] for k in range(3)]
    sums = [glow.sum(axis=tuple(axis for axis in range(3) if axis != 2 - k)) for k in range(3)]
    own = np.array([float(middle @ one) / total for middle, one in zip(middles, sums, strict=True)])
    wide = np.array(
        [float((middle - at) ** 2 @ one) / total for middle, one, at in zip(middles, sums, own, strict=True)]
    )
    x, y, z = placed.axes @ own + placed.offset
    distance = float(np.sqrt(x * x + y * y + z * z))
    kelvin, color = _white_and_filter(spectrum)
    power = 4 * pi * total * float(np.prod(voxel)) / float(lamp_glow(blackbody(kelvin), color) @ CMF[:, 1])
    dials = {
        "power": float(f"{power:.5g}"),
        "kelvin": kelvin,
        "color": list(color),
        "diameter": float(f"{200 * max(float(np.sqrt(np.sort(wide)[:2].mean())) * 2, 5e-4):.3g}"),
        "distance": float(f"{max(distance * 100, 1.0):.5g}"),
        "azimuth": round(float(np.degrees(np.arctan2(x, z))), 3),
        "elevation": round(float(np.degrees(np.arcsin(np.clip(y / max(distance, 1e-9), -1, 1)))), 3),
    }
    seen = {"camera": False, "reflections": False, "shadows": True}
    return {"kind": "sphere", "name": "Ghost of the flame", "dials": dials, "seen": seen, "lights": others}


def _white_and_filter(spectrum: np.ndarray) -> tuple[float, tuple[float, float, float]]:
    """The temperature of the lamp whose colour is nearest, and the filter that takes it to the colour itself."""
    wanted = rgb_of(spectrum)
    steps = np.geomspace(800, 12000, 240)
    lamps = np.array([rgb_of(blackbody(one)) for one in steps])
    away = ((wanted / wanted.sum() - lamps / lamps.sum(axis=1, keepdims=True)) ** 2).sum(axis=1)
    kelvin = float(np.round(steps[int(away.argmin())]))
    if away.min() < SAME_COLOR:
        return kelvin, (1.0, 1.0, 1.0)
    white = rgb_of(blackbody(WHITE_K))
    share = np.maximum(wanted, 0) / white
    return WHITE_K, tuple(round(float(v), 4) for v in share / share.max())


SAME_COLOR = 1e-3
"""Squared distance of shares of red, green and blue up to which a glowing body has a colour."""

WHITE_K = 6500.0
