"""Reading of lighting pictures: OpenEXR, and Radiance HDR.

A file is hostile until it is read: sizes are limited, and values that are not finite or negative become 0.
"""

import os
import re
import tempfile

import numpy as np

from nineglass.describe import Refused
from nineglass.files import refused_file
from nineglass.put_in import ReadFile

LARGEST_SIDE = 8192
LARGEST_BYTES = 200_000_000
BRIGHTEST = 65504.0
WORKING_WIDTH = 2048


def read_lighting_picture(given: bytes) -> np.ndarray:
    """(h, w, 3) float32 linear Rec.709, at most 2048 wide. Raises Refused when the bytes are not such a picture."""
    rgb = read_linear(given)
    height, width = rgb.shape[:2]
    if width != 2 * height:
        raise refused_file(
            f"{width} x {height} is not twice as wide as high", "a picture of all directions (latitude-longitude)"
        )
    while rgb.shape[1] > WORKING_WIDTH and rgb.shape[0] % 2 == 0:
        rgb = (rgb[::2, ::2] + rgb[1::2, ::2] + rgb[::2, 1::2] + rgb[1::2, 1::2]) / 4
    return rgb


def read_file(given: bytes) -> ReadFile:
    rgb = read_lighting_picture(given)
    facts = {"width": rgb.shape[1], "height": rgb.shape[0], "brightest": float(rgb.max()), "mean": float(rgb.mean())}
    return ReadFile(facts, {"rgb": rgb})


def read_linear(given: bytes) -> np.ndarray:
    """(h, w, 3) float32 linear Rec.709 of an OpenEXR or Radiance file, without what is no light. Raises Refused."""
    if len(given) > LARGEST_BYTES:
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    if given[:4] == b"\x76\x2f\x31\x01":
        rgb = _read_exr(given)
    elif given[:2] == b"#?":
        rgb = _read_radiance(given)
    else:
        raise refused_file("neither OpenEXR nor Radiance HDR", "a file .exr or .hdr")
    return np.clip(np.nan_to_num(rgb, nan=0, posinf=BRIGHTEST, neginf=0), 0, BRIGHTEST).astype(np.float32)


def _read_exr(given: bytes) -> np.ndarray:
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr", delete=False) as file:
        file.write(given)
    try:
        with OpenEXR.File(file.name, header_only=True) as head:
            box = head.header()["dataWindow"]
            _within(int(box[1][0]) - int(box[0][0]) + 1, int(box[1][1]) - int(box[0][1]) + 1)
        with OpenEXR.File(file.name, separate_channels=True) as picture:
            channels = picture.channels()
            return np.stack([np.asarray(channels[name].pixels, np.float32) for name in "RGB"], axis=-1)
    except Refused:
        raise
    except (RuntimeError, KeyError, ValueError, TypeError) as error:
        raise refused_file(f"the OpenEXR file cannot be read: {error}", "channels R, G and B") from None
    finally:
        os.unlink(file.name)


def _within(width: int, height: int) -> None:
    if not (1 <= width <= LARGEST_SIDE and 1 <= height <= LARGEST_SIDE):
        raise refused_file(f"{width} x {height} pixels", f"at most {LARGEST_SIDE} a side")


def _read_radiance(given: bytes) -> np.ndarray:
    """Source: Ward 1991, Real Pixels (Graphics Gems II); the flat form and the run-length form of each scanline."""
    size = re.search(rb"\n-Y (\d{1,5}) \+X (\d{1,5})\n", given[:4096])
    if not size or b"32-bit_rle_rgbe" not in given[: size.start()]:
        raise refused_file("the Radiance header is not known", "32-bit_rle_rgbe, -Y height +X width")
    height, width = int(size[1]), int(size[2])
    _within(width, height)
    at, out = size.end(), np.zeros((height, width, 4), np.uint8)
    for row in out:
        runs = 8 <= width < 32768 and given[at : at + 2] == b"\2\2" and len(given) >= at + 4 and given[at + 2] < 128
        if not runs:
            if len(given) < at + width * 4:
                raise refused_file("the file ends early", "whole scanlines")
            row[:] = np.frombuffer(given, np.uint8, width * 4, at).reshape(width, 4)
            at += width * 4
            continue
        at += 4
        for channel in range(4):
            line, at = _scanline(given, at, width)
            row[:, channel] = np.frombuffer(line, np.uint8)
    scale = np.where(out[..., 3] > 0, np.ldexp(1.0, out[..., 3].astype(int) - 136), 0)
    return ((out[..., :3] + 0.5) * scale[..., None]).astype(np.float32)


def _scanline(given: bytes, at: int, width: int) -> tuple[bytearray, int]:
    """One channel of a row from its runs, and where the next begins."""
    line = bytearray()
    while len(line) < width:
        if at + 1 >= len(given):
            raise refused_file("the file ends early", "whole scanlines")
        count = given[at]
        if count > 128:
            line += given[at + 1 : at + 2] * (count - 128)
            at += 2
        else:
            line += given[at + 1 : at + 1 + count]
            at += 1 + count
        if count == 0 or len(line) > width:
            raise refused_file("a run leaves its scanline", "whole scanlines")
        if at > len(given):
            raise refused_file("the file ends early", "whole scanlines")
    return line, at
