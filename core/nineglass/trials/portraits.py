"""The picture of a material by itself, for shelves and pickers: on a small stage that suits its family."""

from dataclasses import dataclass

import numpy as np

from nineglass.documents.families import family_of
from nineglass.documents.model import Material, Stage, read
from nineglass.picture.smooth import Shot
from nineglass.picture.views import VIEWS
from nineglass.trace.film import Film
from nineglass.trace.render import Tracer
from nineglass.trace.scene import build_set

SIDE = 192
SAMPLES = 24


def _thing(form: str, dials: dict, **about) -> dict:
    return {"id": form, "form": {"kind": form, "dials": dials}, **about}


@dataclass(frozen=True)
class Shelf:
    """What a family is shown on, and from where."""

    objects: tuple[dict, ...]
    distance: float = 24.0
    elevation: float = 16.0
    exposure: float = 0.2
    lit: bool = True
    dark: bool = False
    """Whether it stands before dark, without a floor."""


PLAIN = {"section": {"bands": [{"id": "body", "kind": "body", "dials": {"base_color": [0.2, 0.17, 0.15]}}]}}
SKIN = _thing("ball", {"diameter": 5}, wears={"body": {"material": PLAIN}})
FUR = {"count": 60000, "length": 0.9, "lean": 45, "root_width": 60, "tip_width": 15, "clumps": 700, "frizz": 0.05}
BALL = Shelf((_thing("ball", {"diameter": 6}),))
SHELVES: dict[str, Shelf] = {
    "glass": Shelf((_thing("step_block", {}),), 34),
    "liquid": Shelf((_thing("vase", {}),), 56, 8),
    "gem": Shelf((_thing("brilliant_cut", {"diameter": 6}, tilt=18),), 26, 24),
    "fibre": Shelf((SKIN, _thing("strands", FUR)), 27, 20),
    "volume": Shelf((_thing("ball", {"diameter": 40}),), 150, 4, 2.2, dark=True),
    "flame": Shelf(
        (_thing("rounded_box", {"width": 0.95, "height": 2.6, "depth": 0.95, "edge": 80}),),
        12,
        exposure=-0.5,
        lit=False,
    ),
    "film": Shelf((_thing("shell", {}),), 27, 34),
}
GREY, DARKER = [0.35, 0.34, 0.33], [0.16, 0.155, 0.15]
LAMPS = (
    {"width": 40, "height": 50, "power": 5, "kelvin": 6000, "azimuth": -70, "elevation": 45, "distance": 60},
    {"width": 12, "height": 40, "power": 2.5, "kelvin": 4600, "azimuth": 140, "elevation": 25, "distance": 55},
)
FAR_LAMPS = tuple(one | {"distance": 160, "width": 80, "height": 80} for one in LAMPS)


def stage_for(material: Material) -> Stage:
    """The small stage on which a material is shown by itself."""
    shelf = SHELVES.get(family_of(material), BALL)
    lamps = (FAR_LAMPS if shelf.dark else LAMPS) if shelf.lit else ()
    light = {"above": [0.5, 0.52, 0.55], "below": [0.12, 0.11, 0.1], "softness": 0.4}
    squares = {"pattern": "squares", "color": GREY, "second_color": DARKER, "square_size": 2.5}
    strength = 0.6 if shelf.lit and not shelf.dark else 0.03
    return read(
        Stage,
        {
            "name": "Shelf",
            "objects": list(shelf.objects),
            "lamps": [{"id": f"lamp_{i}", "kind": "rectangle", "dials": dials} for i, dials in enumerate(lamps)],
            "floor": None if shelf.dark else {"kind": "floor", "dials": squares},
            "surround": {"light": {"kind": "gradient", "dials": light | {"strength": strength}}},
            "camera": {
                "kind": "camera",
                "dials": {
                    "focal_length": 85,
                    "distance": shelf.distance,
                    "elevation": shelf.elevation,
                    "azimuth": 20,
                    "exposure": shelf.exposure,
                },
            },
        },
    )


@dataclass(frozen=True)
class Portrait:
    pixels: np.ndarray
    """(SIDE, SIDE, 3) uint8."""
    mean: list[float]
    """Linear colour of the middle, exposed."""


STAGE_SAMPLES = 16


def portrait_of_stage(material: Material, stage: Stage, tracer: Tracer, side: int = SIDE) -> np.ndarray:
    """(side, side, 3) uint8: a stage as its camera sees it, with a material on it."""
    the_set, film = build_set(material, stage), Film(side, side)
    tracer.render(the_set, film, 0, STAGE_SAMPLES)
    return VIEWS[stage.view](Shot.of(film, the_set.exposure).smoothed()[0], the_set.exposure)


def portrait_of(material: Material, tracer: Tracer, side: int = SIDE, samples: int = SAMPLES) -> Portrait:
    stage = stage_for(material)
    the_set, film = build_set(material, stage), Film(side, side)
    tracer.render(the_set, film, 0, samples)
    rgb, _ = Shot.of(film, the_set.exposure).smoothed()
    middle = rgb[side * 3 // 8 : side * 5 // 8, side * 3 // 8 : side * 5 // 8] * 2.0**the_set.exposure
    return Portrait(VIEWS[stage.view](rgb, the_set.exposure), [float(v) for v in middle.mean(axis=(0, 1))])
