"""A final picture put together from the sums of its tiles and lights: what it shows, how far it is, and the files that it is handed out as."""

import json
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nineglass.documents.final import Final
from nineglass.documents.lights import Gain
from nineglass.documents.model import Material, Stage
from nineglass.finals.plan import tiles_of
from nineglass.picture.denoise import denoised
from nineglass.picture.files import write_layers, write_png
from nineglass.picture.noise import level, screen_luminance, told
from nineglass.picture.smooth import GUIDED_BELOW, LOST
from nineglass.picture.views import VIEWS
from nineglass.trace.film import Film
from nineglass.trace.first_hits import first_hits
from nineglass.trace.scene import build_set

PREVIEW_SIDE = 800


@dataclass
class Whole:
    """The picture as far as its sums are given; a tile without any is black."""

    final: Final
    lights: list[tuple[str, Gain]]
    """Name of what is made by itself, and by how much it is turned."""
    exposure: float
    rgb: list[np.ndarray] = field(init=False)
    """Of each light as it was made, (h, w, 3) linear."""
    halves: list[np.ndarray] = field(init=False)
    """Of all light, two pictures of half of the samples each."""
    alpha: np.ndarray = field(init=False)
    guides: np.ndarray = field(init=False)
    """(h, w, 7): see `trace.guides`."""
    samples: np.ndarray = field(init=False)
    """(h, w) of the light that has the fewest."""

    def __post_init__(self):
        high, wide = self.final.height, self.final.width
        self.rgb = [np.zeros((high, wide, 3), np.float32) for _ in self.lights]
        self.halves = [np.zeros((high, wide, 3), np.float32) for _ in range(2)]
        self.alpha, self.guides = np.zeros((high, wide), np.float32), np.zeros((high, wide, 7), np.float32)
        self.samples = np.zeros((high, wide), np.int32)

    def put(self, light: int, tile: int, film: Film) -> None:
        """Put in the sums of a tile, of one light."""
        place = tiles_of(self.final)[tile]
        here = (slice(place.top, place.top + place.height), slice(place.left, place.left + place.width))
        gain = np.array(self.lights[light][1])
        self.rgb[light][here] = film.rgb()
        for half, own in zip(self.halves, film.halves(), strict=True):
            half[here] += own * gain
        counts = film.counts.reshape(place.height, place.width)
        if light == 0:
            self.alpha[here], self.samples[here] = film.alpha(), counts
        self.samples[here] = np.minimum(self.samples[here], counts)
        self.guides[here] += film.guides.reshape(place.height, place.width, 7)

    @property
    def beauty(self) -> np.ndarray:
        """All lights together as they are turned, (h, w, 3)."""
        return np.sum([self.turned(light) for light in range(len(self.lights))], axis=0)

    def turned(self, light: int) -> np.ndarray:
        return self.rgb[light] * np.array(self.lights[light][1], np.float32)

    def guidance(self) -> tuple[np.ndarray, np.ndarray] | None:
        """Colour within 1, and normal, (h, w, 3) each."""
        counts = self.guides[..., 6:]
        if not counts.any():
            return None
        mean = self.guides[..., :6] / np.maximum(counts, 1)
        return np.minimum(mean[..., :3], 1), mean[..., 3:]

    def noise(self) -> float | None:
        """Of the picture as rendered; None below two samples."""
        return told(*self.halves, self.exposure) if self.samples.min() >= 2 else None

    def handed_out(self) -> tuple[np.ndarray, float | None]:
        """(the picture as it is handed out, linear; how far it is from what it will be)."""
        beauty = self.beauty
        if not self.final.smoothed or not self.samples.any():
            return beauty, self.noise()
        guidance = self.guidance() if self.samples.mean() < GUIDED_BELOW else None
        smooth = denoised(beauty, guidance)
        if self.samples.min() < 2:
            return smooth, None
        left = told(*(denoised(half, guidance) for half in self.halves), self.exposure)
        return smooth, left * (1 + LOST / float(self.samples.mean()) ** 0.5)

    def preview(self, picture: np.ndarray, view: str) -> np.ndarray:
        """(h, w, 3) uint8, small."""
        return VIEWS[view](self.small(picture).astype(np.float32), self.exposure)

    def small_lights(self) -> list[np.ndarray]:
        """Every light by itself as it was made, (h, w, 3) linear, small, and smoothed as the picture is: they add up to it, but for that."""
        return [self.small(denoised(rgb) if self.final.smoothed else rgb) for rgb in self.rgb]

    @staticmethod
    def small(picture: np.ndarray) -> np.ndarray:
        step = max(1, -(-max(picture.shape[:2]) // PREVIEW_SIDE))
        high, wide = (size // step * step for size in picture.shape[:2])
        return picture[:high, :wide].reshape(high // step, step, wide // step, step, 3).mean(axis=(1, 3))

    def noise_map(self) -> np.ndarray:
        """(h, w) how far each pixel is from settled, over the level of the picture."""
        apart = screen_luminance(self.halves[0], self.exposure) - screen_luminance(self.halves[1], self.exposure)
        return np.abs(apart) / 2 / level(self.beauty, self.exposure)


def layers_of(whole: Whole, material: Material, stage: Stage, picture: np.ndarray) -> dict[str, np.ndarray]:
    """Everything that is known of the picture, by the names of layers; (h, w) or (h, w, 3) float32."""
    final = whole.final
    layers = {"": picture}
    if whole.final.smoothed:
        layers["as_rendered"] = whole.beauty
    if final.by_light:
        names = {}
        for light, (name, _) in enumerate(whole.lights):
            word = "light_" + "".join(c if c.isalnum() else "_" for c in name.lower())
            names[word] = names.get(word, 0) + 1
            layers[word if names[word] == 1 else f"{word}_{names[word]}"] = whole.turned(light)
    guidance = whole.guidance()
    if guidance is not None:
        layers["albedo"], layers["normal"] = guidance
    the_set = build_set(material, stage, final.width / final.height)
    hits = first_hits(the_set, final.width, final.height)
    layers |= {
        "depth": hits.depth_cm,
        "position": hits.position_cm,
        "object_id": hits.thing,
        "material_id": hits.matter,
    }
    layers["noise"] = whole.noise_map()
    return layers


def write_files(whole: Whole, material: Material, stage: Stage, folder: Path) -> tuple[Path, Path]:
    """(an OpenEXR file with all layers, a PNG in the view of the stage); each holds what it takes to make it again."""
    picture, noise = whole.handed_out()
    cut_out = stage.surround.cut_out
    facts = {
        "final": whole.final.model_dump(mode="json"),
        "material": material.model_dump(mode="json"),
        "stage": stage.model_dump(mode="json"),
        "noise": noise,
        "samples": float(whole.samples.mean()),
    }
    exr, png = folder / "final.exr", folder / "final.png"
    alpha = whole.alpha if cut_out else None
    write_layers(exr, layers_of(whole, material, stage, picture), facts, alpha)
    write_png(png, picture, whole.exposure, alpha, stage.view, {"nineglass": json.dumps(facts)})
    return exr, png
