"""Noise taken out of pictures that have had a few samples, and how much is left."""

import threading

import numpy as np

MOST_SIZES, MOST_PIXELS = 4, 4_000_000
"""How many sizes of picture a thread keeps its filter ready for, and of how many pixels in all: a filter takes 400 bytes a pixel."""

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
            for prepared in ready.values():
                prepared.release()
            ready.clear()
        ready[key] = _Prepared(*key)
    return ready[key].make(rgb, *(guidance or ()))


class _Prepared:
    """The filter for pictures of one size; what it holds is given back only when it is told to."""

    def __init__(self, shape: tuple, guided: bool):
        import pyoidn

        self.device = pyoidn.Device()
        self.device.commit()
        names = [pyoidn.OIDN_IMAGE_COLOR, *((pyoidn.OIDN_IMAGE_ALBEDO, pyoidn.OIDN_IMAGE_NORMAL) if guided else ())]
        self.given, self.out = [np.zeros(shape, np.float32) for _ in names], np.zeros(shape, np.float32)
        self.filter = pyoidn.Filter(self.device)
        for name, picture in zip(names, self.given, strict=True):
            self.filter.set_image(name, picture, pyoidn.OIDN_FORMAT_FLOAT3)
        self.filter.set_image(pyoidn.OIDN_IMAGE_OUTPUT, self.out, pyoidn.OIDN_FORMAT_FLOAT3)
        self.filter.set_bool("hdr", True)
        self.filter.set_int("quality", pyoidn.OIDN_QUALITY_FAST)
        self.filter.commit()

    def make(self, *pictures: np.ndarray) -> np.ndarray:
        for into, one in zip(self.given, pictures, strict=True):
            into[...] = one
        self.filter.execute()
        return self.out.copy()

    def release(self) -> None:
        self.filter.release()
        self.device.release()
