"""From scene-linear light to what a screen shows, in one of several views. A view is one entry of `VIEWS` here and in `documents.shown`.

plain: sRGB as it is, clipped. film: the ACES 2 view for standard screens, of OpenColorIO's built-in configuration, by a table that is baked
from its own processor, so that a frame takes milliseconds.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache

import numpy as np

from nineglass.documents.shown import MOST_STOPS, stop_color
from nineglass.kernels import ONE, ZERO, F, kernel
from nineglass.picture.display import to_srgb8
from nineglass.picture.noise import LUMINANCE

CONFIGURATION = "ocio://cg-config-v5.0.0_aces-v2.1_ocio-v2.6"
REC709, WORKING = "Linear Rec.709 (sRGB)", "ACEScg"
DISPLAY, FILM_LIKE = "sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"

NODES = 65
BRIGHTEST = 256.0
BEND = 512.0
"""How early the even steps of the table turn from those of light to those of its logarithm: about at 1 / BEND."""

MID_GREY = 0.18


def _steps(values: np.ndarray) -> np.ndarray:
    """Where light lies along an axis of the table, 0 to 1."""
    return np.log2(1 + values * BEND) / np.log2(1 + BRIGHTEST * BEND)


@cache
def _configuration():
    import PyOpenColorIO

    return PyOpenColorIO.Config.CreateFromFile(CONFIGURATION)


def film_processor(space: str):
    """The library's own way from a linear space to the film-like view."""
    import PyOpenColorIO

    transform = PyOpenColorIO.DisplayViewTransform(src=space, display=DISPLAY, view=FILM_LIKE)
    return _configuration().getProcessor(transform).getDefaultCPUProcessor()


@cache
def _film_table() -> tuple[np.ndarray, np.ndarray]:
    """((3, 3) from Rec.709 to the working space, (n, n, n, 3) what is shown at even steps of it, 0 to 255)."""
    to_working = np.eye(3, dtype=np.float32)
    _configuration().getProcessor(REC709, WORKING).getDefaultCPUProcessor().applyRGB(to_working)
    along = (2 ** (np.linspace(0, 1, NODES) * np.log2(1 + BRIGHTEST * BEND)) - 1) / BEND
    grid = np.stack(np.meshgrid(along, along, along, indexing="ij"), axis=-1).astype(np.float32)
    film_processor(WORKING).applyRGB(grid)
    return np.ascontiguousarray(to_working.T), np.clip(grid, 0, 1) * np.float32(255)


@kernel
def look_up(places, table, out):
    """Colours (n, 3) 8-bit from places (n, 3) in [0, 1] of a table, linear between its eight nodes."""
    last = table.shape[0] - 1
    for k in range(places.shape[0]):
        x, y, z = places[k, 0] * F(last), places[k, 1] * F(last), places[k, 2] * F(last)
        i, j, m = min(int(x), last - 1), min(int(y), last - 1), min(int(z), last - 1)
        fx, fy, fz = x - F(i), y - F(j), z - F(m)
        for c in range(3):
            total = ZERO
            for corner in range(8):
                a, b, d = corner >> 2 & 1, corner >> 1 & 1, corner & 1
                share = (fx if a else ONE - fx) * (fy if b else ONE - fy) * (fz if d else ONE - fz)
                total += share * table[i + a, j + b, m + d, c]
            out[k, c] = int(total + F(0.5))


def film_like(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w, 3) linear Rec.709 to 8-bit through the film-like view."""
    to_working, table = _film_table()
    flat = rgb.reshape(-1, 3)
    out = np.empty(flat.shape, np.uint8)

    def show(part: slice) -> None:
        light = np.clip(flat[part] @ (to_working.T * np.float32(2.0**exposure_ev)), 0, BRIGHTEST)
        look_up(_steps(light).astype(np.float32), table, out[part])

    parts = [slice(first, first + PART) for first in range(0, len(flat), PART)]
    if len(parts) == 1:
        show(parts[0])
    else:
        with ThreadPoolExecutor(THREADS) as threads:
            list(threads.map(show, parts))
    return out.reshape(rgb.shape)


PART, THREADS = 1 << 17, 2
"""Pixels that are shown at a time, and by how many threads."""


VIEWS: dict[str, Callable[[np.ndarray, float], np.ndarray]] = {"plain": to_srgb8, "film": film_like}
"""(h, w, 3) linear Rec.709 and exposure in EV to 8-bit; `documents.shown` says what each is."""


def clipped(pixels: np.ndarray) -> tuple[float, float, float]:
    """The shares of a shown picture (h, w, 3) 8-bit whose red, green and blue are at the end of the scale."""
    return tuple(float(v) for v in (pixels == 255).mean(axis=(0, 1)))


def stops(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w) how many stops the luminance of each pixel lies above mid grey (0.18)."""
    return np.log2(np.maximum(rgb @ LUMINANCE, 1e-9) / MID_GREY) + exposure_ev


def stops_drawn(rgb: np.ndarray, exposure_ev: float = 0.0) -> np.ndarray:
    """(h, w, 3) 8-bit: steps of grey, one a stop, with a line where they meet, the marker over mid grey; what lies beyond six stops above
    is hatched, and dotted beyond six below."""
    away = stops(rgb, exposure_ev)
    step = np.clip(np.rint(away), -MOST_STOPS, MOST_STOPS).astype(int)
    colors = np.array([stop_color(stop) for stop in range(-MOST_STOPS, MOST_STOPS + 1)], np.uint8)
    drawn = colors[step + MOST_STOPS]
    row, column = np.indices(step.shape)
    drawn[(away > MOST_STOPS + 0.5) & ((row + column) % 6 < 2)] = 20
    drawn[(away < -MOST_STOPS - 0.5) & (row % 4 == 0) & (column % 4 == 0)] = 150
    edge = np.zeros(step.shape, bool)
    edge[:, 1:] |= step[:, 1:] != step[:, :-1]
    edge[1:] |= step[1:] != step[:-1]
    drawn[edge] = drawn[edge] // 2
    return drawn
