"""The small pictures on slips, and the range that arrives at each driven number."""

import base64
import io

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.describe import Port
from nineglass.documents.modules import WITHIN, network_at
from nineglass.gauges import Reading
from nineglass.gauges.surface import PATCH, everywhere, patch, places, values_at
from nineglass.spectra.srgb import encode, to_hex

CURVE_POINTS = 48
EVERYWHERE_ALIKE = {"object", "time", "width", "height", "depth"}


def slip_pictures(reading: Reading, inside: str = "") -> dict[str, dict]:
    """For each slip what its first output looks like: a curve or strip over facing, a patch of the form, or one value.

    inside: the use of a module whose slips are wanted, by `use/use within`; empty for the material's own. Keys are the slips' ids.
    """
    before = f"{inside}{WITHIN}" if inside else ""
    kinds = {name: kind for name, kind in reading.compiled.kinds.items() if name.rpartition(WITHIN)[0] == inside}
    wanted = {name: kind.gives[0] for name, kind in kinds.items() if kind.gives}
    drawn = {name: _drawn_over(reading.compiled.depends[name]) for name in wanted}
    pictures = {}
    for over, inputs in _INPUTS.items():
        here = [name for name in wanted if drawn[name] == over]
        signals = {name: reading.compiled.outputs[name, wanted[name].name] for name in here}
        values = values_at(reading, signals, inputs(reading)) if here else {}
        pictures |= {name.removeprefix(before): _DRAW[over](wanted[name], rows) for name, rows in values.items()}
    return pictures


def _drawn_over(depends: set[str]) -> str:
    varying = {
        name
        for name in depends - EVERYWHERE_ALIKE
        if not name.startswith(("stage_right", "stage_up", "stage_front", "camera_"))
    }
    if varying - {"facing"}:
        return "patch"
    return "facing" if varying else "value"


def _over_facing(reading: Reading) -> dict:
    return everywhere(reading) | {"facing": np.linspace(0, 1, CURVE_POINTS, dtype=np.float32)}


_INPUTS = {"patch": patch, "facing": _over_facing, "value": everywhere}


def _draw_patch(port: Port, values: np.ndarray) -> dict:
    shown = values
    if port.type == "vector":
        reach = max(float(np.abs(values).max()), 1e-9)
        shown = 0.5 + 0.5 * values / reach
    elif port.type == "number" and (values.min() < 0 or values.max() > 1):
        shown = (values - values.min()) / max(float(np.ptp(values)), 1e-9)
    return {"draws": "patch", "png": _png(shown, *PATCH), **_range(values)}


def _draw_facing(port: Port, values: np.ndarray) -> dict:
    if port.type == "color":
        return {"draws": "strip", "colors": [to_hex(v) for v in values.T], **_range(values)}
    return {"draws": "curve", "values": values[0].astype(float).round(5).tolist(), **_range(values)}


def _draw_value(port: Port, values: np.ndarray) -> dict:
    if port.type == "color":
        return {"draws": "strip", "colors": [to_hex(values[:, 0])], **_range(values)}
    return {"draws": "value", **_range(values)}


_DRAW = {"patch": _draw_patch, "facing": _draw_facing, "value": _draw_value}


def _range(values: np.ndarray) -> dict:
    return {"low": float(values.min()), "high": float(values.max())}


def _png(values: np.ndarray, width: int, height: int) -> str:
    from PIL import Image

    channels = np.broadcast_to(values, (3, values.shape[1])) if len(values) == 1 else values
    pixels = (encode(channels.T) * 255 + 0.5).astype(np.uint8).reshape(height, width, 3)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return base64.b64encode(out.getvalue()).decode()


def driven_ranges(reading: Reading, inside: str = "") -> dict[str, dict]:
    """For each driven number on the open paper, by 'part.dial': the least and most that arrives over the form.

    inside: the use of a module that is open, as for `slip_pictures`.
    """
    compiled, before = reading.compiled, f"{inside}{WITHIN}" if inside else ""
    bands = {} if inside else {band.id: BANDS.kinds[band.kind] for band in reading.material.section.bands}
    arriving = {}
    network = network_at(reading.material, inside)
    for wire in network.wires if network else ():
        part, dial = wire.target.part, wire.target.dial
        kind = bands.get(part) or compiled.kinds[before + part]
        signal = compiled.outputs[before + wire.source.slip, wire.source.port]
        if part in bands:
            signal = compiled.arriving.get((part, dial))
        if kind.dials[dial].type == "number" and signal is not None and not isinstance(signal, tuple):
            arriving[f"{part}.{dial}"] = signal
    values = values_at(reading, arriving, places(reading))
    return {name: _range(rows) for name, rows in values.items()}
