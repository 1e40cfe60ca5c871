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


MOST_STOPS = 6
"""Stops from mid grey that are told apart, up and down."""

MARKER = (246, 226, 74)
"""The pen: what lies within half a stop of mid grey."""


def stop_color(stop: int) -> tuple[int, int, int]:
    """8-bit: what is drawn for so many stops from mid grey; a step of grey for each, and the marker for none."""
    return MARKER if stop == 0 else (round(128 + stop * 104 / MOST_STOPS),) * 3


def as_json() -> dict:
    return {
        "views": [{"name": name, "title": title, "help": about} for name, (title, about) in VIEWS.items()],
        "shapes": [{"name": name, "aspect": aspect} for name, aspect in ASPECTS.items()],
        "stops": [
            {"stop": stop, "color": "#" + bytes(stop_color(stop)).hex()} for stop in range(-MOST_STOPS, MOST_STOPS + 1)
        ],
    }
