"""The small pictures on slips, and the range that arrives at a driven dial."""

import base64
import io

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.describe import Port
from nineglass.documents.modules import WITHIN
from nineglass.gauges import REFERENCE, Reading
from nineglass.gauges.ladder import form_size_cm
from nineglass.network.interpret import evaluate
from nineglass.spectra.srgb import encode, to_hex

CURVE_POINTS = 48
PATCH = (72, 16)
PLACES = 512


def _values(reading: Reading, signal, count: int, **inputs) -> np.ndarray:
    """(channels, count) of a signal; inputs that are not given keep their reference."""
    registers = list(signal) if isinstance(signal, tuple) else [signal]
    return evaluate(reading.compiled.program, registers, count, **(REFERENCE | inputs))


def slip_pictures(reading: Reading, inside: str = "") -> dict[str, dict]:
    """For each slip what its first output looks like: a curve or strip over facing, a patch of the form, or one value.

    inside: the use of a module whose slips are wanted, by `use/use within`; empty for the material's own. Keys are the slips' ids.
    """
    span, before = form_size_cm(reading) or 10.0, f"{inside}{WITHIN}" if inside else ""
    kinds = {name: kind for name, kind in reading.compiled.kinds.items() if name.rpartition(WITHIN)[0] == inside}
    return {
        name.removeprefix(before): _picture(reading, name, kind.gives[0], span)
        for name, kind in kinds.items()
        if kind.gives
    }


def _picture(reading: Reading, name: str, port: Port, span: float) -> dict:
    signal = reading.compiled.outputs[name, port.name]
    depends = reading.compiled.depends[name]
    if depends & {"x", "y", "z"}:
        width, height = PATCH
        x = (np.arange(width) + 0.5) / width - 0.5
        y = 0.5 - (np.arange(height) + 0.5) / height
        shape = {"x": np.tile(x * span, height), "y": np.repeat(y * span * height / width, width)}
        values = _values(reading, signal, width * height, **{k: v.astype(np.float32) for k, v in shape.items()})
        if port.type == "vector":
            values = values / span + 0.5
        elif port.type == "number" and (values.min() < 0 or values.max() > 1):
            shown = (values - values.min()) / max(float(np.ptp(values)), 1e-9)
            return {"draws": "patch", "png": _png(shown, width, height), **_range(values)}
        return {"draws": "patch", "png": _png(values, width, height), **_range(values)}
    if "facing" in depends:
        facing = np.linspace(0, 1, CURVE_POINTS, dtype=np.float32)
        values = _values(reading, signal, CURVE_POINTS, facing=facing)
        if port.type == "color":
            return {"draws": "strip", "colors": [to_hex(v) for v in values.T], **_range(values)}
        return {"draws": "curve", "values": values[0].astype(float).round(5).tolist(), **_range(values)}
    values = _values(reading, signal, 1)
    if port.type == "color":
        return {"draws": "strip", "colors": [to_hex(values[:, 0])], **_range(values)}
    return {"draws": "value", **_range(values)}


def _range(values: np.ndarray) -> dict:
    return {"low": float(values.min()), "high": float(values.max())}


def _png(values: np.ndarray, width: int, height: int) -> str:
    from PIL import Image

    channels = np.broadcast_to(values, (3, values.shape[1])) if len(values) == 1 else values
    pixels = (encode(channels.T) * 255 + 0.5).astype(np.uint8).reshape(height, width, 3)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return base64.b64encode(out.getvalue()).decode()


def driven_ranges(reading: Reading) -> dict[str, dict]:
    """For each driven number of a band, by 'band.dial': the least and most that arrives over the form."""
    spread = np.random.default_rng(1)
    span = form_size_cm(reading) or 10.0
    places = {axis: (spread.random(PLACES, np.float32) - 0.5) * np.float32(span) for axis in "xyz"}
    facing = spread.random(PLACES, np.float32)
    bands = {band.id: band.kind for band in reading.material.section.bands}
    ranges = {}
    for wire in reading.material.wires:
        kind = bands.get(wire.target.part)
        if kind and BANDS.kinds[kind].dials[wire.target.dial].type == "number":
            signal = reading.compiled.by_band.get((wire.target.part, wire.target.dial))
            if signal is None:
                continue
            values = _values(reading, signal, PLACES, facing=facing, **places)
            ranges[f"{wire.target.part}.{wire.target.dial}"] = _range(values)
    return ranges
