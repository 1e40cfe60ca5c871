"""Noise taken out of pictures that have had a few samples, and how much is left."""

import threading

import numpy as np

WHITEST = 1.0
"""Luminance up to which noise is told: beyond display white none is seen."""

DARK = 0.05
"""Pictures of a lower mean are judged by this: in the dark noise is seen less."""

LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""Of linear Rec.709 (IEC 61966-2-1)."""


MOST_SIZES = 4
"""How many sizes of picture a thread keeps its filter ready for."""

_own = threading.local()
"""Each thread has its own filters, so that none waits for another."""


def denoised(rgb: np.ndarray) -> np.ndarray:
    """A linear picture (h, w, 3) with its noise taken out by a trained filter: Open Image Denoise, through the package `pyoidn`."""
    ready = vars(_own).setdefault("ready", {})
    if rgb.shape not in ready:
        if len(ready) >= MOST_SIZES:
            ready.clear()
        ready[rgb.shape] = _prepared(rgb.shape)
    _device, color, out, execute = ready[rgb.shape]
    color[...] = rgb
    execute()
    return out.copy()


def _prepared(shape: tuple) -> tuple:
    """(what must be kept, the picture before, the picture after, what makes the one of the other)."""
    import pyoidn

    device = pyoidn.Device()
    device.commit()
    color, out = np.zeros(shape, np.float32), np.zeros(shape, np.float32)
    noise_filter = pyoidn.Filter(device)
    noise_filter.set_image(pyoidn.OIDN_IMAGE_COLOR, color, pyoidn.OIDN_FORMAT_FLOAT3)
    noise_filter.set_image(pyoidn.OIDN_IMAGE_OUTPUT, out, pyoidn.OIDN_FORMAT_FLOAT3)
    noise_filter.set_bool("hdr", True)
    noise_filter.set_int("quality", pyoidn.OIDN_QUALITY_FAST)
    noise_filter.commit()
    return device, color, out, noise_filter.execute


def evened_out(first: np.ndarray, second: np.ndarray, exposure: float = 0.0) -> tuple[np.ndarray, float]:
    """(one picture of two that differ in their samples alone, the noise left in it as a share of its mean luminance).

    exposure: in EV, as the picture will be seen.

    What the two still differ by when each is freed of noise by itself is noise; of that the one has half (its root mean square).
    Detail that is lost with the noise is not told.
    """
    a, b = (np.minimum(denoised(one) @ LUMINANCE * 2.0**exposure, WHITEST) for one in (first, second))
    mean = max(float(a.mean() + b.mean()) / 2, DARK)
    return denoised((first + second) / 2), float(np.sqrt(((a - b) ** 2).mean())) / 2 / mean
