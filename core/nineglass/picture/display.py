"""Scene-linear light to what a screen shows."""

import io

import numpy as np

from nineglass.kernels import ZERO, F, kernel

_STEPS = 4096
_CURVE = None


def exposed(rgb: np.ndarray, exposure_ev: float) -> np.ndarray:
    """Light times 2^EV."""
    return rgb * 2.0**exposure_ev


@kernel
def _look_up(rgb, gain, curve, out):
    last = F(curve.size - 1)
    for i in range(rgb.shape[0]):
        for c in range(3):
            v = F(rgb[i, c] * gain)
            out[i, c] = curve[int(min(max(v, ZERO), F(1)) * last + F(0.5))]


def to_srgb8(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w, 3) linear Rec.709 to 8-bit sRGB, clipped. Source: IEC 61966-2-1."""
    global _CURVE
    if _CURVE is None:
        from nineglass.spectra.srgb import encode

        _CURVE = (encode(np.linspace(0, 1, _STEPS * 4)) * 255 + 0.5).astype(np.uint8)
    out = np.empty(rgb.shape, np.uint8)
    _look_up(rgb.reshape(-1, 3), 2.0**exposure_ev, _CURVE, out.reshape(-1, 3))
    return out


def encoded(pixels: np.ndarray, format: str, **how) -> bytes:
    """8-bit (h, w, 3) as the bytes of a PNG or JPEG."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(pixels).save(out, format, **how)
    return out.getvalue()
