"""The sRGB transfer curve and hexadecimal colours. Source: IEC 61966-2-1."""

import numpy as np


def encode(linear) -> np.ndarray:
    """Linear light to sRGB, both in [0, 1]; values outside are clipped, and what is no number is dark."""
    linear = np.clip(np.nan_to_num(linear), 0, 1)
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)


def decode(encoded) -> np.ndarray:
    """sRGB to linear light, both in [0, 1]; values outside are clipped."""
    encoded = np.clip(encoded, 0, 1)
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def to_hex(linear) -> str:
    """Linear colour to '#rrggbb'."""
    return "#" + "".join(f"{round(float(v) * 255):02x}" for v in encode(linear))
