import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import choice, dial, file_dial
from nineglass.put_in import arrays_of
from nineglass.surrounds import BRIGHT, SURROUNDS
from nineglass.surrounds.directions import directions

HEIGHT, WIDTH = 256, 512


@SURROUNDS.kind(title="Lighting picture", family="surround")
class LightingPicture:
    """A picture of all directions that lights the stage: two of ours, or a file (Radiance HDR or OpenEXR, twice as wide as high)."""

    picture_of = choice("studio", "gallery", "file", label="Picture")
    file = file_dial("picture", label="File", when=("picture_of", "file"))
    turn = dial(0, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"))
    strength = dial(1, 0.005, 20, **BRIGHT)

    def picture(self, dials) -> np.ndarray:
        rgb = _own(dials["file"]) if dials["picture_of"] == "file" and dials["file"] else _ours(dials["picture_of"])
        shift = round(dials["turn"] / 360 * rgb.shape[1])
        return np.roll(rgb, shift, axis=1) * dials["strength"]


@remembered
def _own(name: str) -> np.ndarray:
    return arrays_of(name, "picture")["rgb"]


@remembered
def _ours(name: str) -> np.ndarray:
    return studio() if name in ("studio", "file") else gallery()


def _soft_box(out, azimuth, elevation, width, height, glow, edge=0.06):
    """A glowing rectangle in a direction (rad), with soft edges; (h, w, 3)."""
    toward = np.array([np.sin(azimuth) * np.cos(elevation), np.sin(elevation), np.cos(azimuth) * np.cos(elevation)])
    side = np.array([np.cos(azimuth), 0.0, -np.sin(azimuth)])
    up = np.cross(toward, side)
    ahead = out @ toward
    x, y = out @ side / np.maximum(ahead, 1e-6), out @ up / np.maximum(ahead, 1e-6)
    inside = np.clip((width / 2 - np.abs(x)) / (edge * width), 0, 1) * np.clip(
        (height / 2 - np.abs(y)) / (edge * height), 0, 1
    )
    return (inside * (ahead > 0))[..., None] * np.asarray(glow)


def studio() -> np.ndarray:
    """A dark room with two soft boxes, a narrow strip and a low fill: what a photographer of stones puts up."""
    out = directions(HEIGHT, WIDTH)
    rgb = 0.025 * np.ones((HEIGHT, WIDTH, 3)) * (1 + 0.6 * out[..., 1:2])
    rgb += _soft_box(out, np.radians(-62), np.radians(38), 1.1, 0.9, [9.0, 9.2, 9.6])
    rgb += _soft_box(out, np.radians(70), np.radians(18), 0.28, 1.5, [12.0, 11.6, 11.0])
    rgb += _soft_box(out, np.radians(168), np.radians(48), 1.6, 0.25, [7.0, 7.2, 7.6])
    rgb += _soft_box(out, np.radians(-140), np.radians(4), 0.5, 0.5, [1.2, 1.0, 0.8])
    rgb += _soft_box(out, np.radians(20), np.radians(82), 0.5, 0.5, [6.0, 6.0, 6.0])
    return rgb


def gallery() -> np.ndarray:
    """A pale room with a row of tall windows to the left, a wooden floor and a dark doorway."""
    out = directions(HEIGHT, WIDTH)
    up = out[..., 1:2]
    wall = np.array([0.42, 0.41, 0.39]) * (0.75 + 0.25 * np.clip(-out[..., 0:1], -1, 1))
    rgb = np.where(up < -0.12, np.array([0.16, 0.11, 0.07]) * (1 + 0.5 * up), wall)
    for azimuth in (-125, -95, -65):
        rgb = rgb + _soft_box(out, np.radians(azimuth), np.radians(22), 0.34, 0.85, [7.0, 8.0, 9.4])
    door = _soft_box(out, np.radians(150), np.radians(6), 0.4, 0.95, [1.0, 1.0, 1.0])
    return rgb * (1 - 0.97 * np.clip(door, 0, 1))
