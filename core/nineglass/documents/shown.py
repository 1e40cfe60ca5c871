"""How pictures may be shown: their views and their shapes, in words. `picture.views` has what a view does."""

from typing import Literal

VIEWS: dict[str, tuple[str, str]] = {
    "plain": ("plain", "sRGB as it is: what is brighter than the screen clips."),
    "film": ("film-like", "ACES 2 for standard screens: bright parts roll off and pale."),
}
"""Title and help of each."""

ASPECTS: dict[str, float] = {"square": 1.0, "3:2": 3 / 2, "16:9": 16 / 9, "2:3": 2 / 3}
"""Width over height of each shape."""

View = Literal[*VIEWS]
Shape = Literal[*ASPECTS]


def as_json() -> dict:
    return {
        "views": [{"name": name, "title": title, "help": about} for name, (title, about) in VIEWS.items()],
        "shapes": [{"name": name, "aspect": aspect} for name, aspect in ASPECTS.items()],
    }
