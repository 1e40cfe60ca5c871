"""What was written, read back and rendered beside the original: how far apart they look, in three lights."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nineglass.documents.model import Lamp, Material, Part, Stage, Surround
from nineglass.exchange.formats import LIGHTS
from nineglass.gauges import reading_of
from nineglass.gauges.surface import worn
from nineglass.picture.display import exposed, to_srgb8
from nineglass.picture.smooth import Shot
from nineglass.spectra.difference import delta_e_2000, to_lab
from nineglass.trace.film import Film
from nineglass.trace.first_hits import first_hits
from nineglass.trace.geometry.standing import standing_of
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set

SIDE, SAMPLES, BLOCK = 128, 16, 4
"""Pixels on a side, samples in each, and pixels on a side of what is compared: what is finer is noise."""

WORST_SHARE = 95
"""The percentile that stands for the worst places."""


@dataclass(frozen=True)
class Difference:
    """Of a material and what became of it, on one stage."""

    stage: str
    delta_e: float
    """CIEDE2000, the mean over what is seen of the form."""
    worst: float
    noise: float | None
    """How far two renders of the original are apart that were made with other random numbers; None where it was not asked for."""
    original: np.ndarray
    """(h, w, 3) linear, exposed"""
    read_back: np.ndarray
    apart: np.ndarray
    """(h, w) delta E of each block"""


def stages_for(material: Material, stage: Stage) -> list[Stage]:
    """The stage as it is, and the same forms in soft light all round and lit from behind."""
    size = _size_cm(material, stage)
    soft = {"above": [0.9, 0.92, 0.95], "below": [0.35, 0.34, 0.33], "softness": 0.6, "strength": 1.5}
    dark = {"color": [0.02, 0.02, 0.02], "strength": 1.0}
    behind = {"width": 2 * size, "height": 2 * size, "power": 2.0 * (size / 10) ** 2, "kelvin": 5600}
    behind |= {"azimuth": 160, "elevation": 30, "distance": 3 * size}
    camera = stage.camera.model_copy(update={"dials": stage.camera.dials | {"exposure": 0.0}})
    plain = stage.model_copy(update={"camera": camera, "lamps": []})
    around, darkness = (
        Surround(light=Part(kind=kind, dials=dials)) for kind, dials in (("gradient", soft), ("plain", dark))
    )
    lamp = Lamp(id="behind", kind="rectangle", dials=behind)
    changes = ({"surround": around}, {"surround": darkness, "lamps": [lamp]})
    lit = zip(LIGHTS[1:], changes, strict=True)
    return [stage, *(plain.model_copy(update={"name": name} | change) for name, change in lit)]


def _size_cm(material: Material, stage: Stage) -> float:
    found = worn(reading_of(material, stage))
    low, high = found[1].bounds() if found else (np.zeros(3), np.full(3, 0.1))
    return float(np.clip((high - low).max() * 100, 1, 300))


def difference_on(
    material: Material,
    other: Material,
    stage: Stage,
    tracer: Tracer,
    stopped: Callable[[], bool] = lambda: False,
    side: int = SIDE,
    samples: int = SAMPLES,
    tells_noise: bool = True,
) -> Difference:
    """How far apart two materials look on a stage. Raises Interrupted when `stopped()`, Refused for bad documents."""
    first = build_set(material, stage)
    second = build_set(other, stage, before=first)
    exposure = first.exposure
    seen = _seen(first, stage, side)

    def rendered(the_set, seed: int) -> np.ndarray:
        film = Film(side, side)
        tracer.render(the_set, film, 0, samples, seed=seed, stopped=stopped)
        return exposed(Shot.of(film, exposure).smoothed(tells=False)[0], exposure)

    original, read_back = rendered(first, 1), rendered(second, 1)
    apart = _apart(original, read_back)
    return Difference(
        stage=stage.name,
        delta_e=float(apart[seen].mean()),
        worst=float(np.percentile(apart[seen], WORST_SHARE)),
        noise=float(_apart(original, rendered(first, 2))[seen].mean()) if tells_noise else None,
        original=original,
        read_back=read_back,
        apart=apart,
    )


def _seen(the_set, stage: Stage, side: int) -> np.ndarray:
    """(blocks, blocks) where what wears the material is seen; everything where nothing of it is."""
    hits = first_hits(the_set, side, side)
    wearing = [1 + k for k, placed in enumerate(standing_of(stage).placed) if placed.material is None]
    blocks = _blocks(np.isin(hits.thing, wearing)[..., None].astype(float))[..., 0] >= 0.5
    return blocks if blocks.any() else np.ones_like(blocks)


def _blocks(picture: np.ndarray) -> np.ndarray:
    side = picture.shape[0] // BLOCK
    return picture[: side * BLOCK, : side * BLOCK].reshape(side, BLOCK, side, BLOCK, -1).mean((1, 3))


def _apart(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Delta E of each block, as a display shows it."""
    return delta_e_2000(*(to_lab(np.clip(_blocks(one), 0, 1)) for one in (first, second)))


GREATEST_SHOWN = 20.0
"""Delta E that is drawn as black ink."""

EDGE = 4


def drawn(found: Difference) -> np.ndarray:
    """(h, w, 3) bytes: the original, what was read back, and how far apart they are, side by side on grey."""
    apart = np.repeat(np.repeat(found.apart, BLOCK, axis=0), BLOCK, axis=1)
    paper = 1 - np.clip(apart / GREATEST_SHOWN, 0, 1)
    ink = np.repeat((paper * 255 + 0.5).astype(np.uint8)[..., None], 3, axis=-1)
    side = len(ink)
    shown = [to_srgb8(np.ascontiguousarray(one[:side, :side], np.float32)) for one in (found.original, found.read_back)]
    gap = np.full((side, EDGE, 3), 118, np.uint8)
    return np.hstack([shown[0], gap, shown[1], gap, ink])
