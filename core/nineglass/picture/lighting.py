"""Reading of lighting pictures: OpenEXR, and Radiance HDR.

A file is hostile until it is read: sizes are limited, and values that are not finite or negative become 0.
"""

import os
import re
import tempfile

import numpy as np

from nineglass.describe import Fault, Refused

LARGEST_SIDE = 8192
LARGEST_BYTES = 200_000_000
BRIGHTEST = 65504.0
WORKING_WIDTH = 2048


def read_lighting_picture(given: bytes) -> np.ndarray:
    """(h, w, 3) float32 linear Rec.709, at most 2048 wide. Raises Refused when the bytes are not such a picture."""
    rgb = read_linear(given)
    height, width = rgb.shape[:2]
    if width != 2 * height:
        raise _refused(
            f"{width} x {height} is not twice as wide as high", "a picture of all directions (latitude-longitude)"
        )
    while rgb.shape[1] > WORKING_WIDTH and rgb.shape[0] % 2 == 0:
        rgb = (rgb[::2, ::2] + rgb[1::2, ::2] + rgb[::2, 1::2] + rgb[1::2, 1::2]) / 4
    return rgb


def read_linear(given: bytes) -> np.ndarray:
    """(h, w, 3) float32 linear Rec.709 of an OpenEXR or Radiance file, without what is no light. Raises Refused."""
    if len(given) > LARGEST_BYTES:
        raise _refused("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    if given[:4] == b"\x76\x2f\x31\x01":
        rgb = _read_exr(given)
    elif given[:2] == b"#?":
        rgb = _read_radiance(given)
    else:
        raise _refused("neither OpenEXR nor Radiance HDR", "a file .exr or .hdr")
    return np.clip(np.nan_to_num(rgb, nan=0, posinf=BRIGHTEST, neginf=0), 0, BRIGHTEST).astype(np.float32)


def _refused(fault: str, allowed: str) -> Refused:
    return Refused([Fault("file", fault, allowed, "Choose another file.")])


def _read_exr(given: bytes) -> np.ndarray:
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr", delete=False) as file:
        file.write(given)
    try:
        with OpenEXR.File(file.name, separate_channels=True) as picture:
            box = picture.header()["dataWindow"]
            _within(int(box[1][0] - box[0][0]) + 1, int(box[1][1] - box[0][1]) + 1)
            channels = picture.channels()
            return np.stack([np.asarray(channels[name].pixels, np.float32) for name in "RGB"], axis=-1)
    except (RuntimeError, KeyError, ValueError, TypeError) as error:
        raise _refused(f"the OpenEXR file cannot be read: {error}", "channels R, G and B") from None
    finally:
        os.unlink(file.name)


def _within(width: int, height: int) -> None:
    if not (1 <= width <= LARGEST_SIDE and 1 <= height <= LARGEST_SIDE):
        raise _refused(f"{width} x {height} pixels", f"at most {LARGEST_SIDE} a side")


def _read_radiance(given: bytes) -> np.ndarray:
    """Source: Ward 1991, Real Pixels (Graphics Gems II); the flat form and the run-length form of each scanline."""
    size = re.search(rb"\n-Y (\d{1,5}) \+X (\d{1,5})\n", given[:4096])
    if not size or b"32-bit_rle_rgbe" not in given[: size.start()]:
        raise _refused("the Radiance header is not known", "32-bit_rle_rgbe, -Y height +X width")
    height, width = int(size[1]), int(size[2])
    _within(width, height)
    data, at = np.frombuffer(given, np.uint8), size.end()
    out = np.zeros((height, width, 4), np.uint8)
    for row in range(height):
        runs = 8 <= width < 32768 and len(data) >= at + 4 and data[at] == 2 and data[at + 1] == 2 and data[at + 2] < 128
        if not runs:
            if len(data) < at + width * 4:
                raise _refused("the file ends early", "whole scanlines")
            out[row] = data[at : at + width * 4].reshape(width, 4)
            at += width * 4
            continue
        at += 4
        for channel in range(4):
            at = _scanline(data, at, out[row, :, channel])
    scale = np.where(out[..., 3] > 0, np.ldexp(1.0, out[..., 3].astype(int) - 136), 0)
    return ((out[..., :3] + 0.5) * scale[..., None]).astype(np.float32)


def _scanline(data: np.ndarray, at: int, row: np.ndarray) -> int:
    """One channel of a row from its runs; returns where the next begins."""
    x = 0
    while x < len(row):
        if at + 1 >= len(data):
            raise _refused("the file ends early", "whole scanlines")
        count, at = int(data[at]), at + 1
        length = count - 128 if count > 128 else count
        stored = data[at] if count > 128 else data[at : at + length]
        if length == 0 or x + length > len(row) or (count <= 128 and len(stored) < length):
            raise _refused("a run leaves its scanline", "whole scanlines")
        row[x : x + length] = stored
        at += 1 if count > 128 else length
        x += length
    return at
