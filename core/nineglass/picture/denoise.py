"""Noise taken out of pictures that have had a few samples, and how much is left."""

import threading

import numpy as np

MOST_SIZES, MOST_PIXELS = 4, 4_000_000
"""How many sizes of picture a thread keeps its filter ready for, and of how many pixels in all: a filter takes 200 bytes a pixel and more."""

_own = threading.local()
"""Each thread has its own filters, so that none waits for another."""


def denoised(rgb: np.ndarray, guidance: tuple[np.ndarray, np.ndarray] | None = None) -> np.ndarray:
    """A linear picture (h, w, 3) with its noise taken out by a trained filter: Open Image Denoise, through the package `pyoidn`.

    guidance: colour and normal (h, w, 3) of what each pixel shows, so that edges stay sharp.
    """
    ready, key = vars(_own).setdefault("ready", {}), (rgb.shape, guidance is not None)
    if key not in ready:
        held = sum(high * wide for (high, wide, _), _ in ready)
        if len(ready) >= MOST_SIZES or held + rgb.shape[0] * rgb.shape[1] > MOST_PIXELS:
            ready.clear()
        ready[key] = _prepared(*key)
    _device, given, out, execute = ready[key]
    for into, one in zip(given, (rgb, *(guidance or ())), strict=True):
        into[...] = one
    execute()
    return out.copy()


def _prepared(shape: tuple, guided: bool) -> tuple:
    """(what must be kept, the pictures before, the picture after, what makes the one of the others)."""
    import pyoidn

    device = pyoidn.Device()
    device.commit()
    names = [pyoidn.OIDN_IMAGE_COLOR, *((pyoidn.OIDN_IMAGE_ALBEDO, pyoidn.OIDN_IMAGE_NORMAL) if guided else ())]
    given, out = [np.zeros(shape, np.float32) for _ in names], np.zeros(shape, np.float32)
    noise_filter = pyoidn.Filter(device)
    for name, picture in zip(names, given, strict=True):
        noise_filter.set_image(name, picture, pyoidn.OIDN_FORMAT_FLOAT3)
    noise_filter.set_image(pyoidn.OIDN_IMAGE_OUTPUT, out, pyoidn.OIDN_FORMAT_FLOAT3)
    noise_filter.set_bool("hdr", True)
    noise_filter.set_int("quality", pyoidn.OIDN_QUALITY_FAST)
    noise_filter.commit()
    return device, given, out, noise_filter.execute
