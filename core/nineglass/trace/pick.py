"""What one place of the picture holds: its light as numbers and as a spectrum, and what is seen there."""

import numpy as np

from nineglass.catalogue import CAMERAS
from nineglass.matter.substances import D_NM
from nineglass.spectra.srgb import to_hex
from nineglass.trace.film import Film
from nineglass.trace.follow import Follower, through_pixel
from nineglass.trace.ray import RayStep
from nineglass.trace.render import MOST_BOUNCES, Tracer
from nineglass.trace.scene import Set, filled

BANDS = 40
SAMPLES = 512


def pick(
    the_set: Set, tracer: Tracer, x: float, y: float, size: tuple[int, int], most_bounces: int = MOST_BOUNCES
) -> dict:
    """Scene-linear Rec.709, display value, spectrum and object at a place, 0 to 1 from the left and from the top.

    size: pixels of the picture across and down; the place is as large as one of them. Light is found by chance alone here: little of
    what is thrown comes to one place.
    """
    width, height = size
    column, row = min(int(x * width), width - 1), min(int(y * height), height - 1)
    there = the_set.lens.framed(column / width, row / height, (column + 1) / width, (row + 1) / height)
    x, y = (column + 0.5) / width, (row + 0.5) / height
    film = Film(1, 1, channels=3 + BANDS)
    tracer.render(the_set.through(there).by_chance(), film, 0, SAMPLES, most_bounces=most_bounces)
    mean = film.sums[0] / max(film.counts[0], 1)
    exposed = mean[:3] * 2.0**the_set.exposure
    edges = np.linspace(380, 780, BANDS + 1)
    return {
        "linear": [float(v) for v in mean[:3]],
        "luminance": float(mean[:3] @ (0.2126, 0.7152, 0.0722)),
        "display": to_hex(np.clip(exposed, 0, 1)),
        "over": [bool(v > 1) for v in exposed],
        "wavelengths_nm": ((edges[1:] + edges[:-1]) / 2).tolist(),
        "spectrum": [float(v) for v in mean[3:]],
        "seen": _seen(the_set, x, y),
        "noise": film.noise(the_set.exposure),
    }


def focus_at(the_set: Set, x: float, y: float) -> float | None:
    """The camera's focus dial, in cm, that makes sharp what is seen at a place; None where nothing is."""
    first = _first_step(the_set, x, y)
    if first is None or not first.object:
        return None
    depth = float((np.array(first.end_cm) / 100 - the_set.lens.eye) @ the_set.lens.forward) * 100
    return round(depth - filled(the_set.stage.camera, CAMERAS)["distance"], 3)


def whose(the_set: Set, x: float, y: float) -> tuple[str, str] | None:
    """(object, part) that is seen at a place; None where nothing is."""
    thing = Follower(the_set).first_thing(*through_pixel(the_set, x, y))
    if thing is None:
        return None
    placed = the_set.standing.placed[thing]
    return placed.object_id, placed.part


def _seen(the_set: Set, x: float, y: float) -> str:
    first = _first_step(the_set, x, y)
    return (first and first.object) or "surround"


def _first_step(the_set: Set, x: float, y: float) -> RayStep | None:
    """How far the light of the d line is followed from a place to the first surface."""
    rays = Follower(the_set).follow(*through_pixel(the_set, x, y), D_NM)
    return rays[0].steps[0] if rays and rays[0].steps else None
