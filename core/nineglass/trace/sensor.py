"""How wavelengths are drawn and weighed, and the camera's lens."""

from functools import lru_cache
from math import cos, radians, sin
from typing import NamedTuple

import numpy as np

from nineglass.catalogue import CAMERAS
from nineglass.documents.model import Part
from nineglass.spectra.observer import CMF, D65, HIGH_NM, LOW_NM, WAVELENGTHS_NM
from nineglass.trace.gather import window_inverse

CAMERA_STEPS = 512


class Lens(NamedTuple):
    """The camera. right and up reach from the middle of the frame to its edges at distance 1."""

    eye: np.ndarray  # (3,)
    forward: np.ndarray
    right: np.ndarray
    up: np.ndarray
    radius: np.float32
    focus: np.float32
    aside: np.float32  # how far the middle of the picture lies from straight ahead, in its own half widths
    raised: np.float32  # and in its half heights

    def framed(self, left: float, top: float, right: float, bottom: float) -> "Lens":
        """The lens for a part of the picture alone, 0 to 1 from the left and from the top."""
        wide, high = right - left, bottom - top
        return self._replace(
            right=(self.right * wide).astype(np.float32),
            up=(self.up * high).astype(np.float32),
            aside=np.float32((self.aside + left + right - 1) / wide),
            raised=np.float32((self.raised + 1 - top - bottom) / high),
        )


def axes_of(lens: Lens) -> np.ndarray:
    """(9,) float32: to the right, up and towards the camera, on the stage."""
    rows = np.stack([lens.right, lens.up, -lens.forward])
    return (rows / np.linalg.norm(rows, axis=1, keepdims=True)).ravel().astype(np.float32)


class Sensor(NamedTuple):
    """How wavelengths, and places in a pixel, are drawn."""

    inverse: np.ndarray  # (513,) wavelength at even steps of probability
    window: np.ndarray  # (257,) distance from the middle of a pixel (px) at even steps of probability


def lens_of(camera: Part, aspect: float) -> tuple[Lens, float]:
    """The lens, and the exposure in EV. aspect: width over height of the picture, whose longer side is that of a frame of 36 mm."""
    dials = CAMERAS.kinds[camera.kind].defaults() | camera.dials
    azimuth, elevation = radians(dials["azimuth"]), radians(dials["elevation"])
    toward = np.array([sin(azimuth) * cos(elevation), sin(elevation), cos(azimuth) * cos(elevation)])
    distance = dials["distance"] / 100
    right = np.array([cos(azimuth), 0.0, -sin(azimuth)])
    up = np.cross(toward, right)
    half = 18 / dials["focal_length"]
    wide, high = half * min(aspect, 1), half / max(aspect, 1)
    focus = max(distance + dials["focus"] / 100, 1e-3)
    aim = right * dials["aside"] / 100 + np.array([0, dials["raised"] / 100, 0])
    lens = Lens(
        eye=(aim + toward * distance).astype(np.float32),
        forward=(-toward).astype(np.float32),
        right=(right * wide).astype(np.float32),
        up=(up * high).astype(np.float32),
        radius=np.float32(_aperture_radius(dials["focal_length"] / 1000, dials["f_stop"], focus)),
        focus=np.float32(focus),
        aside=np.float32(0),
        raised=np.float32(0),
    )
    return lens, float(dials["exposure"])


def _aperture_radius(focal_length: float, f_stop: float, focus: float) -> float:
    """The radius (m) whose blur on a frame of fixed view is that of a thin lens drawn out to its focus distance.

    A lens that is focused close stands farther from its frame and sees less; here the view is kept as stated, and the blur grows in its
    place by the same share. Source: the thin lens equation, 1/f = 1/s + 1/v; Hecht, Optics, 5.2.3. Closer than two focal lengths, where a
    picture would be larger than life, it grows no more.
    """
    extension = focus / max(focus - focal_length, focus / 2)
    return focal_length / f_stop / 2 * extension


@lru_cache(1)
def sensor() -> Sensor:
    """Wavelengths are drawn as a picture of white light needs them: by D65 times the observer, and a little everywhere."""
    wanted = D65 * CMF.sum(axis=1)
    density = wanted / wanted.sum() + 0.1 / len(wanted)
    cumulative = np.concatenate([[0], np.cumsum((density[1:] + density[:-1]) / 2)])
    inverse = np.interp(np.linspace(0, 1, CAMERA_STEPS + 1), cumulative / cumulative[-1], WAVELENGTHS_NM)
    inverse[0], inverse[-1] = LOW_NM, HIGH_NM
    return Sensor(inverse.astype(np.float32), window_inverse())
