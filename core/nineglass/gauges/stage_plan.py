"""The stage as a lighting plan: outlines of what stands there, and the surround unrolled."""

import base64
from functools import lru_cache

import numpy as np

from nineglass.catalogue import SURROUNDS
from nineglass.documents.model import Stage
from nineglass.picture.display import encoded
from nineglass.spectra.srgb import encode
from nineglass.trace.geometry.standing import Standing, standing_of
from nineglass.trace.scene import filled, picture_of

MOST_POINTS = 500
STRIP = (36, 144)


def plan_of(stage: Stage) -> dict:
    """Outlines in cm about the middle of the stage, from above (x, z) and from the front (x, y); the floor; two strips."""
    return _plan_of(stage.model_dump_json())


@lru_cache(16)
def _plan_of(document: str) -> dict:
    """Of a stage as JSON: a dial of the material is turned many times on one stage."""
    stage = Stage.model_validate_json(document)
    standing = standing_of(stage)
    return {
        "outlines": outlines(standing),
        "floor_cm": standing.floor * 100,
        "size_cm": standing.size * 100,
        "strips": {"light": _strip(stage, "light"), "camera": _strip(stage, "camera")},
    }


def outlines(standing: Standing) -> list[dict]:
    found = []
    for placed in standing.placed:
        vertices = placed.mesh.vertices
        some = vertices[:: max(1, len(vertices) // MOST_POINTS)].astype(float)
        there = (some @ placed.axes.T + placed.offset) * 100
        found.append(
            {
                "object": placed.object_id,
                "part": placed.part,
                "above": _hull(there[:, [0, 2]]),
                "front": _hull(there[:, [0, 1]]),
            }
        )
    return found


def _hull(points: np.ndarray) -> list[list[float]]:
    """The convex outline of points (n, 2), anticlockwise. Source: Andrew 1979, monotone chain."""
    ordered = sorted({(round(float(x), 3), round(float(y), 3)) for x, y in points})

    def half(run):
        chain: list[tuple[float, float]] = []
        for p in run:
            while len(chain) > 1 and _turns_right(chain[-2], chain[-1], p):
                chain.pop()
            chain.append(p)
        return chain[:-1]

    return [list(p) for p in half(ordered) + half(ordered[::-1])]


def _turns_right(a, b, c) -> bool:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) <= 0


def _strip(stage: Stage, which: str) -> str:
    """A small PNG of what lights, or of what the camera sees behind: all directions unrolled, the front in the middle."""
    part = getattr(stage.surround, which) or stage.surround.light
    height, width = STRIP
    picture = picture_of(stage.surround, part)
    if picture is None:
        below, above, softness = SURROUNDS.kinds[part.kind].make().ends(filled(part, SURROUNDS))
        up = np.cos((np.arange(height) + 0.5) / height * np.pi)
        t = np.clip(0.5 + 0.5 * up / max(softness, 1e-3), 0, 1)
        share = (t * t * (3 - 2 * t))[:, None, None]
        picture = np.array(below) + share * (np.array(above) - np.array(below)) * np.ones((1, width, 3))
    rows = np.arange(height) * len(picture) // height
    columns = np.arange(width) * picture.shape[1] // width
    small = picture[rows][:, columns]
    pixels = (encode(np.clip(small * 2.0 ** float(stage.camera.dials.get("exposure", 0)), 0, 1)) * 255 + 0.5).astype(
        np.uint8
    )
    return base64.b64encode(encoded(pixels, "PNG")).decode()
