"""Pictures that networks look up: files that were put in, and a few of our own, made by code with a fixed seed."""

import io

import numpy as np

from nineglass.at_hand import remembered
from nineglass.files import refused_file
from nineglass.put_in import ReadFile, arrays_of
from nineglass.spectra.observer import WAVELENGTHS_NM, rgb_of_filter

LARGEST_SIDE = 8192
WORKING_SIDE = 2048
SPACES = ("sRGB", "linear", "data")
"""How the numbers of a file are to be read: encoded as IEC 61966-2-1 says, linear light, or plain data."""


def read_picture(given: bytes) -> tuple[np.ndarray, bool]:
    """((h, w, 3) float32 as the file has it, whether it is linear light). PNG, JPEG, OpenEXR or Radiance HDR; raises Refused."""
    from nineglass.picture.lighting import read_linear

    if given[:4] == b"\x76\x2f\x31\x01" or given[:2] == b"#?":
        return _smaller(read_linear(given)), True
    from PIL import Image

    try:
        with Image.open(io.BytesIO(given), formats=("PNG", "JPEG")) as opened:
            if max(opened.size) > LARGEST_SIDE:
                raise refused_file(f"{opened.size[0]} x {opened.size[1]}", f"at most {LARGEST_SIDE} a side")
            pixels = np.asarray(opened.convert("RGB"))
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise refused_file("not a picture that can be read", "PNG, JPEG, OpenEXR or Radiance HDR") from None
    return _smaller(pixels), False


def read_file(given: bytes) -> ReadFile:
    pixels, linear = read_picture(given)
    facts = {"width": pixels.shape[1], "height": pixels.shape[0], "linear": linear}
    return ReadFile(facts, {"pixels": pixels, "linear": np.array(linear)})


def _smaller(pixels: np.ndarray) -> np.ndarray:
    """As 32-bit floats, bytes as shares of 255; halved until it is no larger than `WORKING_SIDE`."""
    most = 255 if pixels.dtype == np.uint8 else 1
    while max(pixels.shape[:2]) > WORKING_SIDE:
        even = pixels[: len(pixels) // 2 * 2, : pixels.shape[1] // 2 * 2]
        quarter = np.zeros((len(even) // 2, even.shape[1] // 2, 3), np.float32)
        for row, column in ((0, 0), (1, 0), (0, 1), (1, 1)):
            quarter += even[row::2, column::2]
        pixels = quarter / 4
    return np.ascontiguousarray(pixels, np.float32) / np.float32(most)


def linear_of(encoded: np.ndarray) -> np.ndarray:
    """Linear light of sRGB values. Source: IEC 61966-2-1."""
    low = encoded / 12.92
    return np.where(encoded <= 0.04045, low, ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4).astype(np.float32)


@remembered
def picture_file(name: str, space: str) -> np.ndarray:
    """A picture that was put in, read in a colour space."""
    found = arrays_of(name, "texture")
    pixels, linear = found["pixels"], bool(found["linear"])
    return pixels if linear or space != "sRGB" else linear_of(pixels)


def _octaves(rng, shape, beta: float) -> np.ndarray:
    """Repeating cloudy noise of a falling spectrum, 0 to 1."""
    y, x = np.fft.fftfreq(shape[0])[:, None] * shape[0], np.fft.fftfreq(shape[1])[None] * shape[1]
    size = np.hypot(y, x)
    size[0, 0] = np.inf
    field = np.fft.ifft2(np.fft.fft2(rng.normal(size=shape)) / size**beta).real
    return (field - field.min()) / np.ptp(field)


def _planks() -> np.ndarray:
    """Weathered boards, their grain along u: grey-brown, with dark seams and cracks."""
    rng = np.random.default_rng(31)
    height, width, boards = 512, 1024, 5
    v = (np.arange(height)[:, None] + 0.5) / height * boards
    board, within = v.astype(int), v % 1
    stretched = np.repeat(_octaves(rng, (height, width // 16), 1.2), 16, axis=1)
    sway = _octaves(rng, (height, width), 2.2)
    rings = 0.5 + 0.5 * np.sin(2 * np.pi * (within * 7 + 3.5 * sway + board * 1.7 + 2.0 * stretched))
    shade = 0.35 + 0.35 * rings + 0.3 * stretched
    tone = rng.uniform(0.75, 1.1, boards)[board]
    cracks = np.clip((_octaves(rng, (height, width // 32), 0.6).repeat(32, axis=1) - 0.82) * 9, 0, 1)
    seam = np.clip(np.minimum(within, 1 - within) * 28, 0, 1)
    light = (shade * tone * (1 - 0.75 * cracks) * (0.12 + 0.88 * seam))[..., None]
    return (light * np.array([0.42, 0.31, 0.215]) + 0.02).astype(np.float32)


def _scratches() -> np.ndarray:
    """Fine scratches and wiped streaks: 0 on clean glass, 1 in a scratch."""
    rng = np.random.default_rng(17)
    side = 1024
    field = 0.25 * np.clip(_octaves(rng, (side, side // 8), 1.4).repeat(8, axis=1) - 0.45, 0, 1)
    for _ in range(420):
        x, y, turn = rng.uniform(0, side), rng.uniform(0, side), rng.normal(0.25, 0.5)
        length, bend, strength = rng.uniform(40, 420), rng.normal(0, 0.0016), rng.uniform(0.3, 1.0)
        t = np.arange(0, length, 0.5)
        angle = turn + bend * t
        px, py = x + np.cumsum(np.cos(angle)) * 0.5, y + np.cumsum(np.sin(angle)) * 0.5
        fade = strength * np.sin(np.pi * t / length) ** 0.5
        rows, columns = py.astype(int) % side, px.astype(int) % side
        np.maximum.at(field, (rows, columns), fade)
    soft = field + 0.4 * (np.roll(field, 1, 0) + np.roll(field, -1, 0))
    return np.repeat(np.clip(soft, 0, 1)[..., None], 3, axis=2).astype(np.float32)


def _squares() -> np.ndarray:
    """A chart of squares with a red corner, to see how a picture lies on a form."""
    y, x = np.mgrid[0:256, 0:256]
    light = np.where(((y // 32) + (x // 32)) % 2 == 0, 0.75, 0.25)[..., None] * np.ones(3)
    light[224:, :32] = (0.7, 0.05, 0.03)
    return light.astype(np.float32)


OURS = {"planks": _planks, "scratches": _scratches, "squares": _squares}


@remembered
def our_picture(name: str) -> np.ndarray:
    """(h, w, 3) linear Rec.709 of one of `OURS`."""
    return OURS[name]()


def chart_of(colors: list) -> np.ndarray:
    """(1, n, 3) a row of colours, to be looked up by `Ops.along`."""
    return np.array([colors], np.float32)


def _fresnel(n_a, cos_a, n_b, cos_b):
    """Amplitudes of both polarisations at one boundary."""
    s = (n_a * cos_a - n_b * cos_b) / (n_a * cos_a + n_b * cos_b)
    return s, (n_b * cos_a - n_a * cos_b) / (n_b * cos_a + n_a * cos_b)


@remembered
def film_chart(index: float, beyond: float) -> np.ndarray:
    """(32, 256, 3) linear Rec.709 of white light off a film on clear matter: across, 0 to 2000 nm thick; up, the cosine of
    the angle from 0 to 1. Airy's sum; source: Born & Wolf, Principles of Optics, 7th ed., 7.6.1."""
    nm = WAVELENGTHS_NM[::4]
    cosine = 1 - (np.arange(32)[:, None, None] + 0.5) / 32
    thickness = (np.arange(256)[None, :, None] + 0.5) / 256 * 2000
    sine2 = 1 - cosine**2
    inner, last = (np.sqrt((1 - sine2 / n**2).astype(complex)) for n in (index, beyond))
    turn = np.exp(4j * np.pi * index * inner * thickness / nm)
    share = 0.0
    for top, bottom in zip(_fresnel(1.0, cosine, index, inner), _fresnel(index, inner, beyond, last), strict=True):
        share = share + np.abs((top + bottom * turn) / (1 + top * bottom * turn)) ** 2 / 2
    weights = np.array([np.interp(WAVELENGTHS_NM, nm, row) for row in np.eye(len(nm))])
    return (share @ rgb_of_filter(weights)).astype(np.float32)
