"""Pictures as files."""

import json
from pathlib import Path

import numpy as np

from nineglass.picture.display import encoded, to_srgb8

REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""Chromaticities of red, green, blue and white. Source: ITU-R BT.709."""


def write_exr(path: Path, rgb: np.ndarray, facts: dict, alpha: np.ndarray | None = None) -> None:
    """Scene-linear Rec.709 as OpenEXR in single precision, which holds the light of a mirrored sun that half precision does not; the
    colour space and the facts stand in its header. With alpha the colour is that of what is covered, times how much (associated)."""
    import OpenEXR

    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": REC709,
        "colorSpace": "lin_rec709",
        "comments": json.dumps(facts),
    }
    channels = {"RGB": rgb} if alpha is None else {"RGBA": np.dstack([rgb, alpha])}
    OpenEXR.File(header, {k: np.ascontiguousarray(v, np.float32) for k, v in channels.items()}).write(str(path))


def write_png(path: Path, rgb: np.ndarray, exposure_ev: float, alpha: np.ndarray | None = None) -> None:
    """Exposed and shown as sRGB; with alpha, what is not covered is transparent, and an edge has the colour of what covers it."""
    if alpha is not None:
        rgb = rgb / np.maximum(alpha, 1e-6)[..., None]
    pixels = to_srgb8(rgb, exposure_ev)
    if alpha is not None:
        pixels = np.dstack([pixels, np.rint(alpha * 255).astype(np.uint8)])
    path.write_bytes(encoded(pixels, "PNG"))
