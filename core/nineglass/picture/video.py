"""Frames as a video that browsers play: WebM with VP9, in the colours of BT.709, which the file says."""

from collections.abc import Iterable
from pathlib import Path

import numpy as np

QUALITY = {"crf": "8", "b": "0", "deadline": "good", "cpu-used": "3", "row-mt": "1"}
"""Of the encoder: constant quality, near what the eye tells apart."""

RED, BLUE = 0.2126, 0.0722
GREEN = 1 - RED - BLUE
TO_LUMA = np.array([RED, GREEN, BLUE]) * 219 / 255
TO_CHROMA = np.array(
    [
        [-RED / (2 - 2 * BLUE), -GREEN / (2 - 2 * BLUE), 0.5],
        [0.5, -GREEN / (2 - 2 * RED), -BLUE / (2 - 2 * RED)],
    ]
) * (224 / 255)
"""From 8-bit red, green and blue to luma and to the two differences of colour, limited range. Source: ITU-R BT.709-6, 3.2 to 3.5; its code values
stand for sRGB's as they are."""


def write_webm(path: Path, frames: Iterable[np.ndarray], per_second: int) -> int:
    """How many frames were written. frames: (h, w, 3) uint8 sRGB, all of one size; an odd last row or column is doubled, as colour is kept at half
    of the resolution."""
    import av
    from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc

    count = 0
    with av.open(str(path), "w", format="webm") as out:
        stream = None
        for pixels in frames:
            planes = to_planes(pixels)
            if stream is None:
                stream = out.add_stream("libvpx-vp9", rate=per_second, options=QUALITY)
                stream.width, stream.height, stream.pix_fmt = planes.shape[1], planes.shape[0] * 2 // 3, "yuv420p"
                told = stream.codec_context
                told.colorspace, told.color_range = Colorspace.ITU709.value, ColorRange.MPEG.value
                told.color_primaries, told.color_trc = ColorPrimaries.BT709.value, ColorTrc.BT709.value
            frame = av.VideoFrame.from_ndarray(planes, format="yuv420p")
            frame.pts = count
            frame.colorspace, frame.color_range = Colorspace.ITU709, ColorRange.MPEG
            for packet in stream.encode(frame):
                out.mux(packet)
            count += 1
        if stream is not None:
            for packet in stream.encode():
                out.mux(packet)
    return count


def to_planes(pixels: np.ndarray) -> np.ndarray:
    """(h * 3 / 2, w) uint8: luma, and below it the differences of colour, each of half the width and height."""
    high, wide = (size + size % 2 for size in pixels.shape[:2])
    even = np.pad(pixels, ((0, high - pixels.shape[0]), (0, wide - pixels.shape[1]), (0, 0)), mode="edge").astype(float)
    luma = even @ TO_LUMA + 16
    chroma = even.reshape(high // 2, 2, wide // 2, 2, 3).mean(axis=(1, 3)) @ TO_CHROMA.T + 128
    planes = [luma, *np.moveaxis(chroma, -1, 0)]
    return np.concatenate([np.rint(plane).astype(np.uint8).ravel() for plane in planes]).reshape(-1, wide)


def from_planes(planes: np.ndarray) -> np.ndarray:
    """(h, w, 3) uint8, of luma and differences of colour."""
    wide, high = planes.shape[1], planes.shape[0] * 2 // 3
    luma = (planes[:high].astype(float) - 16) / 219
    blue, red = (
        ((planes.ravel()[high * wide :].reshape(2, high // 2, wide // 2).astype(float) - 128) / 224)
        .repeat(2, 1)
        .repeat(2, 2)
    )
    r, b = luma + (2 - 2 * RED) * red, luma + (2 - 2 * BLUE) * blue
    g = (luma - RED * r - BLUE * b) / GREEN
    return np.rint(np.clip(np.dstack([r, g, b]), 0, 1) * 255).astype(np.uint8)


def read_webm(path: Path) -> list[np.ndarray]:
    """The frames, (h, w, 3) uint8, of a video that was written here."""
    import av

    with av.open(str(path)) as given:
        return [from_planes(frame.to_ndarray(format="yuv420p")) for frame in given.decode(video=0)]
