"""Pictures as files."""

import json
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from nineglass.picture.display import encoded
from nineglass.picture.views import VIEWS

REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
"""Chromaticities of red, green, blue and white. Source: ITU-R BT.709."""


def write_exr(path: Path, rgb: np.ndarray, facts: dict, alpha: np.ndarray | None = None) -> None:
    """Scene-linear Rec.709 as OpenEXR in single precision, which holds the light of a mirrored sun that half precision does not; the
    colour space and the facts stand in its header. With alpha the colour is that of what is covered, times how much (associated)."""
    _write(path, {"RGB": rgb} if alpha is None else {"RGBA": np.dstack([rgb, alpha])}, facts)


def exr_bytes(rgb: np.ndarray) -> bytes:
    """(h, w, 3) scene-linear Rec.709 as an OpenEXR file in half precision."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "picture.exr"
        _write(path, {"RGB": rgb}, {}, np.float16)
        return path.read_bytes()


def _write(path: Path, channels: dict[str, np.ndarray], facts: dict, kind: type = np.float32) -> None:
    import OpenEXR

    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": REC709,
        "colorSpace": "lin_rec709",
        "comments": json.dumps(facts),
    }
    OpenEXR.File(header, {k: np.ascontiguousarray(v, kind) for k, v in channels.items()}).write(str(path))


class LayersFile:
    """Several pictures as the layers of one OpenEXR file, written from the top by parts; the layer without a name is the picture itself, with
    `alpha` as in `write_exr`. Colours are those of Rec.709, which a file means that says nothing else.

    half: whether colours are in half precision; what is no colour is in single precision always.
    """

    def __init__(self, path: Path, width: int, height: int, facts: dict, half: bool = False):
        self.path, self.size, self.facts, self.half, self._out = path, (width, height), facts, half, None

    def add(self, layers: dict[str, np.ndarray]) -> None:
        """The next rows. layers: (h, w) or (h, w, 3), by name; always the same."""
        channels = {}
        for name, given in layers.items():
            before = f"{name}." if name else ""
            if name == ALPHA:
                channels["A"] = given
            elif given.ndim == 2:
                channels[f"{before}Z" if name == "depth" else f"{before}Y"] = given
            else:
                letters = "XYZ" if name in OF_PLACES else "RGB"
                channels |= {f"{before}{c}": given[..., k] for k, c in enumerate(letters)}
        if self._out is None:
            self._out = self._begun(channels)
        rows = {name: _held(one, self._is_half(name)).tobytes() for name, one in channels.items()}
        self._out.writePixels(rows, len(next(iter(channels.values()))))

    def _begun(self, names):
        import Imath
        import OpenEXR

        kinds = {
            is_half: Imath.Channel(Imath.PixelType(Imath.PixelType.HALF if is_half else Imath.PixelType.FLOAT))
            for is_half in (False, True)
        }
        header = OpenEXR.Header(*self.size) | {
            "channels": {name: kinds[self._is_half(name)] for name in names},
            "compression": Imath.Compression(Imath.Compression.ZIP_COMPRESSION),
            "colorSpace": b"lin_rec709",
            "comments": json.dumps(self.facts).encode(),
        }
        return OpenEXR.OutputFile(str(self.path), header)

    def _is_half(self, channel: str) -> bool:
        return self.half and channel.rpartition(".")[2] in ("R", "G", "B", "A")

    def close(self) -> None:
        self._out.close()


def _held(numbers: np.ndarray, half: bool) -> np.ndarray:
    """In half or single precision; what is brighter than half precision holds is as bright as it holds."""
    if not half:
        return np.ascontiguousarray(numbers, np.float32)
    return np.ascontiguousarray(np.clip(numbers, -BRIGHTEST_HALF, BRIGHTEST_HALF), np.float16)


BRIGHTEST_HALF = float(np.finfo(np.float16).max)


def read_picture(path: Path) -> tuple[np.ndarray, np.ndarray | None, dict]:
    """(the picture (h, w, 3), its alpha, the facts) of an OpenEXR file of layers that was written here; its other layers are not held."""
    with _Reading(path) as file:
        rgb = np.concatenate(list(file.parts("RGB")))
        alpha = np.concatenate(list(file.parts("A")))[..., 0] if "A" in file.names else None
        return rgb, alpha, file.facts


def read_small(path: Path, most_side: int) -> np.ndarray:
    """(h, w, 3) the picture of such a file, of at most so many pixels along a side, by the means of blocks; it is never held as a whole."""
    with _Reading(path) as file:
        step = step_to(most_side, *file.size)
        return np.concatenate([shrunk(rows, step) for rows in file.parts("RGB", step)])


def small(picture: np.ndarray, most_side: int) -> np.ndarray:
    """(h, w, 3) of at most so many pixels along a side, by the means of blocks."""
    return shrunk(picture, step_to(most_side, *picture.shape[:2]))


def step_to(most_side: int, *sides: int) -> int:
    """How many pixels along a side become one, so that a picture has at most so many."""
    return max(1, -(-max(sides) // most_side))


def shrunk(picture: np.ndarray, step: int) -> np.ndarray:
    """(h, w, 3) the means of blocks of so many pixels a side; what is left over at the end of rows and columns is left out."""
    high, wide = (size // step * step for size in picture.shape[:2])
    blocks = picture[:high, :wide].reshape(high // step, step, wide // step, step, 3)
    return blocks.mean(axis=(1, 3), dtype=np.float32)


class _Reading:
    """An OpenEXR file, read by parts of rows."""

    ROWS = 256

    def __init__(self, path: Path):
        import OpenEXR

        self.file = OpenEXR.InputFile(str(path))
        header = self.file.header()
        window = header["dataWindow"]
        self.names, self.facts = set(header["channels"]), json.loads(header["comments"])
        self.size = (window.max.x - window.min.x + 1, window.max.y - window.min.y + 1)

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.file.close()

    def parts(self, names: str, multiple: int = 1) -> Iterator[np.ndarray]:
        """(rows, w, channels) from the top. names: a letter for each channel; multiple: of rows in a part, but the last."""
        import Imath

        wide, high = self.size
        rows = max(self.ROWS // multiple, 1) * multiple
        for first in range(0, high, rows):
            last = min(first + rows, high) - 1
            given = self.file.channels(list(names), Imath.PixelType(Imath.PixelType.FLOAT), first, last)
            planes = [np.frombuffer(one, np.float32).reshape(-1, wide) for one in given]
            yield np.stack(planes, axis=-1)


ALPHA = "alpha"
"""The layer that says how much is covered."""

OF_PLACES = ("normal", "position")
"""Layers whose three numbers are no colour."""


def pixels_of(rgb: np.ndarray, exposure_ev: float, alpha: np.ndarray | None = None, view: str = "plain") -> np.ndarray:
    """(h, w, 3 or 4) 8-bit: exposed and shown in a view; with alpha, what is not covered is transparent, and an edge has the colour of what
    covers it."""
    if alpha is None:
        return VIEWS[view](rgb, exposure_ev)
    pixels = VIEWS[view](rgb / np.maximum(alpha, 1e-6)[..., None], exposure_ev)
    return np.dstack([pixels, np.rint(alpha * 255).astype(np.uint8)])


def write_png(path: Path, pixels: np.ndarray, facts: dict[str, str] | None = None) -> None:
    """(h, w, 3 or 4) 8-bit. facts: texts that are written into the file, by keyword."""
    from PIL import PngImagePlugin

    told = PngImagePlugin.PngInfo()
    for key, text in (facts or {}).items():
        told.add_text(key, text, zip=True)
    path.write_bytes(encoded(pixels, "PNG", pnginfo=told))
