"""How far apart two colours are to the eye. Colours are linear Rec.709 (D65) unless said otherwise."""

import numpy as np

from nineglass.spectra.observer import XYZ_TO_RGB

XYZ_OF_REC709 = np.linalg.inv(XYZ_TO_RGB)
WHITE = XYZ_OF_REC709 @ np.ones(3)


def to_lab(rgb) -> np.ndarray:
    """(..., 3) linear colours to CIE L*a*b* against display white. Source: CIE 15:2018, 8.2.1."""
    t = (np.asarray(rgb, float) @ XYZ_OF_REC709.T) / WHITE
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def delta_e_2000(first, second) -> np.ndarray:
    """Difference of (..., 3) L*a*b* colours. Source: CIE 15:2018, 8.3.1; Sharma, Wu & Dalal 2005."""
    (l1, a1, b1), (l2, a2, b2) = (np.moveaxis(np.asarray(one, float), -1, 0) for one in (first, second))
    c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(c7 / (c7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = (np.degrees(np.arctan2(b, a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    turn = (h2 - h1 + 180) % 360 - 180
    turn = np.where(c1 * c2 == 0, 0, np.where(np.abs(h2 - h1) == 180, h2 - h1, turn))
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    lightness, chroma = (l1 + l2) / 2, (c1 + c2) / 2
    hue = np.where(np.abs(h1 - h2) <= 180, (h1 + h2) / 2, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2)
    hue = np.where(c1 * c2 == 0, h1 + h2, hue)
    t = 1 - 0.17 * _cos(hue - 30) + 0.24 * _cos(2 * hue) + 0.32 * _cos(3 * hue + 6) - 0.2 * _cos(4 * hue - 63)
    sl = 1 + 0.015 * (lightness - 50) ** 2 / np.sqrt(20 + (lightness - 50) ** 2)
    sc, sh = 1 + 0.045 * chroma, 1 + 0.015 * chroma * t
    around = 60 * np.exp(-(((hue - 275) / 25) ** 2))
    c7 = chroma**7
    rt = -2 * np.sqrt(c7 / (c7 + 25.0**7)) * np.sin(np.radians(around))
    x, y, z = (l2 - l1) / sl, (c2 - c1) / sc, dh / sh
    return np.sqrt(x**2 + y**2 + z**2 + rt * y * z)


def _cos(degrees):
    return np.cos(np.radians(degrees))


def delta_e_of(first, second) -> float:
    """Difference of two linear colours."""
    return float(delta_e_2000(to_lab(first), to_lab(second)))


def how_apart(first, second) -> str:
    """What a linear colour has to another, in words: "lighter by 4, yellower by 2"."""
    lightness, *sides = to_lab(first) - to_lab(second)
    words = [f"{'lighter' if lightness > 0 else 'darker'} by {abs(lightness):.0f}"] if abs(lightness) >= 1 else []
    for by, names in zip(sides, (("redder", "greener"), ("yellower", "bluer")), strict=True):
        if abs(by) >= 1:
            words.append(f"{names[0] if by > 0 else names[1]} by {abs(by):.0f}")
    return ", ".join(words) or "alike"
