"""Pictures as files."""

import json
from pathlib import Path

import numpy as np

from nineglass.picture.display import encoded
from nineglass.picture.views import VIEWS

REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""Chromaticities of red, green, blue and white. Source: ITU-R BT.709."""


def write_exr(path: Path, rgb: np.ndarray, facts: dict, alpha: np.ndarray | None = None) -> None:
    """Scene-linear Rec.709 as OpenEXR in single precision, which holds the light of a mirrored sun that half precision does not; the
    colour space and the facts stand in its header. With alpha the colour is that of what is covered, times how much (associated)."""
    _write(path, {"RGB": rgb} if alpha is None else {"RGBA": np.dstack([rgb, alpha])}, facts)


def _write(path: Path, channels: dict[str, np.ndarray], facts: dict) -> None:
    import OpenEXR

    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": REC709,
        "colorSpace": "lin_rec709",
        "comments": json.dumps(facts),
    }
    OpenEXR.File(header, {k: np.ascontiguousarray(v, np.float32) for k, v in channels.items()}).write(str(path))


def write_layers(path: Path, layers: dict[str, np.ndarray], facts: dict, alpha: np.ndarray | None = None) -> None:
    """Several pictures as the layers of one OpenEXR file, in single precision; the one without a name is the picture itself.

    layers: (h, w) or (h, w, 3), by name; alpha as in `write_exr`.
    """
    channels = {}
    for name, given in layers.items():
        before = f"{name}." if name else ""
        if given.ndim == 2:
            channels[f"{before}Z" if name == "depth" else f"{before}Y"] = given
        else:
            channels |= {f"{before}{c}": given[..., k] for k, c in enumerate("XYZ" if name in OF_PLACES else "RGB")}
    if alpha is not None:
        channels["A"] = alpha
    _write(path, channels, facts)


OF_PLACES = ("normal", "position")
"""Layers whose three numbers are no colour."""


def write_png(
    path: Path,
    rgb: np.ndarray,
    exposure_ev: float,
    alpha: np.ndarray | None = None,
    view: str = "plain",
    facts: dict[str, str] | None = None,
) -> None:
    """Exposed and shown in a view; with alpha, what is not covered is transparent, and an edge has the colour of what covers it.

    facts: texts that are written into the file, by keyword.
    """
    from PIL import PngImagePlugin

    if alpha is not None:
        rgb = rgb / np.maximum(alpha, 1e-6)[..., None]
    pixels = VIEWS[view](rgb, exposure_ev)
    if alpha is not None:
        pixels = np.dstack([pixels, np.rint(alpha * 255).astype(np.uint8)])
    told = PngImagePlugin.PngInfo()
    for key, text in (facts or {}).items():
        told.add_text(key, text, zip=True)
    path.write_bytes(encoded(pixels, "PNG", pnginfo=told))
