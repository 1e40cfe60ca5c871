from math import cos, pi, radians, sin, tan

import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import color_dial, dial
from nineglass.surrounds import BRIGHT, SURROUNDS
from nineglass.surrounds.directions import directions

HEIGHT, WIDTH = 128, 256
KCD_PER_UNIT = 10.0
"""Luminance (kcd/m2) that is 1 in the picture at strength 1."""

PEREZ_LUMINANCE = ((0.1787, -1.4630), (-0.3554, 0.4275), (-0.0227, 5.3251), (0.1206, -2.5771), (-0.0670, 0.3703))
PEREZ_X = ((-0.0193, -0.2592), (-0.0665, 0.0008), (-0.0004, 0.2125), (-0.0641, -0.8989), (-0.0033, 0.0452))
PEREZ_Y = ((-0.0167, -0.2608), (-0.0950, 0.0092), (-0.0079, 0.2102), (-0.0441, -1.6537), (-0.0109, 0.0529))
"""Coefficients A to E as slope and offset over turbidity. Source: Preetham et al. 1999, appendix A.2."""

ZENITH_X = (
    (0.00166, -0.00375, 0.00209, 0.0),
    (-0.02903, 0.06377, -0.03202, 0.00394),
    (0.11693, -0.21196, 0.06052, 0.25886),
)
ZENITH_Y = (
    (0.00275, -0.00610, 0.00317, 0.0),
    (-0.04214, 0.08970, -0.04153, 0.00516),
    (0.15346, -0.26756, 0.06670, 0.26688),
)
"""Rows for turbidity squared, turbidity and 1; columns for the cube to the 0th power of the sun's zenith angle."""

XYZ_TO_RGB = np.array(
    [[3.2404542, -1.5371385, -0.4985314], [-0.9692660, 1.8760108, 0.0415560], [0.0556434, -0.2040259, 1.0572252]]
)


def perez(coefficients, turbidity: float, cos_zenith, gamma) -> np.ndarray:
    """Perez's function F(theta, gamma). Source: Preetham et al. 1999, eq. 3."""
    a, b, c, d, e = (slope * turbidity + offset for slope, offset in coefficients)
    return (1 + a * np.exp(b / np.maximum(cos_zenith, 0.01))) * (1 + c * np.exp(d * gamma) + e * np.cos(gamma) ** 2)


def zenith(turbidity: float, sun_zenith: float) -> tuple[float, float, float]:
    """(x, y, luminance in kcd/m2) straight up; sun_zenith in rad, turbidity 2 to 10. Source: Preetham et al. 1999, A.2."""
    powers = np.array([sun_zenith**3, sun_zenith**2, sun_zenith, 1])
    haze = np.array([turbidity**2, turbidity, 1])
    chi = (4 / 9 - turbidity / 120) * (pi - 2 * sun_zenith)
    luminance = (4.0453 * turbidity - 4.9710) * tan(chi) - 0.2155 * turbidity + 2.4192
    return float(haze @ np.array(ZENITH_X) @ powers), float(haze @ np.array(ZENITH_Y) @ powers), luminance


def sky_xyy(turbidity: float, sun: np.ndarray, out: np.ndarray) -> np.ndarray:
    """(..., 3) chromaticity x, y and luminance (kcd/m2) of a clear sky in unit directions `out` above the horizon."""
    sun_zenith = float(np.arccos(np.clip(sun[1], 0, 1)))
    cos_zenith = np.maximum(out[..., 1], 0)
    gamma = np.arccos(np.clip(out @ sun, -1, 1))
    values = []
    for top, table in zip(zenith(turbidity, sun_zenith), (PEREZ_X, PEREZ_Y, PEREZ_LUMINANCE), strict=True):
        at_zenith = perez(table, turbidity, 1.0, sun_zenith)
        values.append(top * perez(table, turbidity, cos_zenith, gamma) / at_zenith)
    return np.stack(values, axis=-1)


def direction_of(azimuth_deg: float, elevation_deg: float) -> np.ndarray:
    azimuth, elevation = radians(azimuth_deg), radians(elevation_deg)
    return np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])


@SURROUNDS.kind(title="Clear sky", family="surround")
class Sky:
    """A clear sky over level ground. Its sun is a lamp of its own: put a sun lamp at the same height and direction."""

    elevation = dial(35, 1, 90, hard=(0, 90), unit="deg", label="Sun height", ends=("horizon", "zenith"))
    azimuth = dial(50, -180, 180, hard=(-3600, 3600), unit="deg", label="Sun direction", ends=("left", "right"))
    turbidity = dial(3, 2, 10, ends=("mountain air", "haze"), help="How hazy the air is: 2 very clear, 10 hazy.")
    ground = color_dial((0.18, 0.17, 0.16), label="Ground")
    strength = dial(1, 0.005, 20, **BRIGHT)

    def picture(self, dials) -> np.ndarray:
        key = (dials["elevation"], dials["azimuth"], dials["turbidity"])
        return _sky(*key, tuple(dials["ground"])) * dials["strength"]


@remembered
def _sky(elevation: float, azimuth: float, turbidity: float, ground: tuple) -> np.ndarray:
    out = directions(HEIGHT, WIDTH)
    x, y, luminance = np.moveaxis(sky_xyy(turbidity, direction_of(azimuth, elevation), out), -1, 0)
    luminance = np.maximum(luminance, 0) / KCD_PER_UNIT
    xyz = np.stack([x / y * luminance, luminance, (1 - x - y) / y * luminance], axis=-1)
    rgb = np.maximum(xyz @ XYZ_TO_RGB.T, 0)
    above = HEIGHT // 2
    weight = np.broadcast_to(
        np.maximum(out[:above, :, 1:2], 0) * np.sin(np.arccos(out[:above, :, 1:2])), rgb[:above].shape
    )
    falling = (rgb[:above] * weight).sum(axis=(0, 1)) / weight.sum(axis=(0, 1))
    rgb[above:] = falling * np.array(ground)
    return rgb
