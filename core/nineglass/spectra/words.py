"""Words for colours, as people seek them: "greenish, dark"."""

import numpy as np

from nineglass.spectra.difference import to_lab

GREY_BELOW, PALE_BELOW = 6.0, 18.0
"""Chroma in L*a*b* below which a colour is grey, and below which it is said with -ish. Common practice."""

HUES = (
    (20, "pink"),
    (45, "red"),
    (78, "orange"),
    (106, "yellow"),
    (165, "green"),
    (215, "cyan"),
    (312, "blue"),
    (340, "violet"),
    (360, "pink"),
)
"""Up to which hue angle in L*a*b* (degrees) which word is used. Common practice, by trial."""

ISH = {"pink": "pinkish", "red": "reddish", "orange": "orange", "yellow": "yellowish"} | {
    name: f"{name}ish" for name in ("green", "blue")
}


def words_for(rgb) -> list[str]:
    """Hue and lightness of a linear colour, in words."""
    lightness, a, b = to_lab(np.clip(rgb, 0, None))
    chroma, angle = float(np.hypot(a, b)), float(np.degrees(np.arctan2(b, a)) % 360)
    light = "dark" if lightness < 30 else "light" if lightness > 70 else "mid"
    if chroma < GREY_BELOW:
        return ["black" if lightness < 12 else "white" if lightness > 88 else "grey", light]
    hue = next(name for up_to, name in HUES if angle <= up_to)
    if hue in ("orange", "red", "yellow") and lightness < 45 and chroma < 60:
        return ["brown", hue, light]
    return [ISH.get(hue, hue) if chroma < PALE_BELOW else hue, light]
