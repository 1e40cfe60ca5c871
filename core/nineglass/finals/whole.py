"""A final picture put together from the sums of its tiles and lights, by bands of rows, so that the largest needs no more memory than a few
million pixels: what it shows, how far it is, and the files that it is handed out as."""

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nineglass.documents.final import Final
from nineglass.documents.finish import Finish
from nineglass.documents.lights import Gain
from nineglass.documents.model import Material, Stage
from nineglass.documents.trials import exposure_of
from nineglass.finals.finished import finished
from nineglass.finals.plan import tiles_of
from nineglass.picture.denoise import denoised
from nineglass.picture.files import ALPHA, LayersFile, pixels_of, shrunk, step_to, write_png
from nineglass.picture.noise import LUMINANCE, Errors, screen_luminance
from nineglass.picture.smooth import GUIDED_BELOW, least_lost
from nineglass.trace.film import Film
from nineglass.trace.first_hits import first_hits
from nineglass.trace.scene import build_set

PREVIEW_SIDE = 800
BAND_PIXELS = 2_000_000
MARGIN = 64
"""Rows beyond its own that a band is smoothed with, so that no edge shows where two meet."""

Rows = tuple[int, int]


@dataclass
class Whole:
    """Some rows of the picture (all, when not given) as far as their sums are given; where there are none it is black."""

    final: Final
    lights: list[tuple[str, Gain]]
    """Name of what is made by itself, and by how much it is turned; with `final.on_floor` the last is the floor alone, which is not added."""
    is_frame: bool = False
    """Of a series, whose pictures are all smoothed in the same way."""
    own: Rows | None = None
    """First row, and the one after the last."""
    exposure: float = 0.0
    """EV at which it is seen."""
    rgb: list[np.ndarray] = field(init=False)
    """Of each light as it was made, (h, w, 3) linear."""
    halves: list[np.ndarray] = field(init=False)
    """Of all light, two pictures of half of the samples each."""
    alpha: np.ndarray = field(init=False)
    guides: np.ndarray = field(init=False)
    """(h, w, 7): see `trace.guides`."""
    samples: np.ndarray = field(init=False)
    """(h, w) of the light that has the fewest."""
    most_samples: np.ndarray = field(init=False)
    """(h, w) of the light that has the most: that with the most noise."""
    spreads: np.ndarray = field(init=False)
    """(lights,) the sum over the own pixels of the squared error of one sample of each light as it was made, as it is seen."""
    behind: np.ndarray = field(init=False)
    """(h, w, 3) how much is seen of what will be laid behind: see `Film.behind`."""
    cut: np.ndarray = field(init=False)
    """(3,) the share of all light of the picture that each of `trace.paths.Limits` takes away in these rows, about."""

    def __post_init__(self):
        self.own = self.own or (0, self.final.height)
        beyond = MARGIN if self.own != (0, self.final.height) else 0
        self.top, bottom = max(self.own[0] - beyond, 0), min(self.own[1] + beyond, self.final.height)
        high, wide = bottom - self.top, self.final.width
        self.rgb = [np.zeros((high, wide, 3), np.float32) for _ in self.lights]
        self.halves = [np.zeros((high, wide, 3), np.float32) for _ in range(2)]
        self.alpha, self.guides = np.zeros((high, wide), np.float32), np.zeros((high, wide, 7), np.float32)
        self.samples, self.most_samples = (np.zeros((high, wide), np.int32) for _ in range(2))
        self.behind, self.spreads = np.zeros((high, wide, 3), np.float32), np.zeros(len(self.lights))
        self.cut = np.zeros(3)

    def needs(self, tile: int) -> bool:
        """Whether a tile has rows that are wanted."""
        place = tiles_of(self.final)[tile]
        return place.top < self.top + len(self.alpha) and place.top + place.height > self.top

    def put(self, light: int, tile: int, film: Film) -> None:
        """Put in the sums of a tile, of one light."""
        place = tiles_of(self.final)[tile]
        first = max(place.top, self.top)
        last = min(place.top + place.height, self.top + len(self.alpha))
        there = slice(first - place.top, last - place.top)
        here = (slice(first - self.top, last - self.top), slice(place.left, place.left + place.width))
        gain = np.array(self.lights[light][1], np.float32) if light < self.added else np.float32(0)
        self.rgb[light][here] = film.rgb()[there]
        halves = [own[there].astype(np.float32) for own in film.halves()]
        for half, own in zip(self.halves, halves, strict=True):
            half[here] += own * gain
        counts = film.counts.reshape(place.height, place.width)[there]
        self.spreads[light] += self._spread(halves, counts, first)
        share = place.height * place.width / (self.final.width * self.final.height) / len(self.lights)
        if self.own[0] <= place.top < self.own[1]:
            self.cut += film.cut / max(int(film.counts.sum()), 1) * share
        if light == 0:
            self.alpha[here], self.samples[here] = film.alpha()[there], counts
            self.behind[here] = film.behind()[there]
        self.samples[here] = np.minimum(self.samples[here], counts)
        self.most_samples[here] = np.maximum(self.most_samples[here], counts)
        self.guides[here] += film.guides.reshape(place.height, place.width, 7)[there]

    def _spread(self, halves: list[np.ndarray], counts: np.ndarray, first: int) -> float:
        """See `spreads`, of rows from the first on."""
        apart = screen_luminance(halves[0], self.exposure) - screen_luminance(halves[1], self.exposure)
        own = slice(max(self.own[0] - first, 0), max(self.own[1] - first, 0))
        return float((apart[own] ** 2 * counts[own]).sum(dtype=float)) / 4

    @property
    def inner(self) -> slice:
        """Where the own rows are among those that are held."""
        return slice(self.own[0] - self.top, self.own[1] - self.top)

    @property
    def beauty(self) -> np.ndarray:
        """All lights together as they are turned, (h, w, 3)."""
        return np.sum([self.turned(light) for light in range(self.added)], axis=0)

    @property
    def added(self) -> int:
        """How many of the lights add up to the picture."""
        return len(self.lights) - self.final.on_floor

    def turned(self, light: int) -> np.ndarray:
        return self.rgb[light] * np.array(self.lights[light][1], np.float32)

    def guidance(self) -> tuple[np.ndarray, np.ndarray] | None:
        """Colour within 1, and normal, (h, w, 3) each."""
        counts = self.guides[..., 6:]
        if not counts.any():
            return None
        mean = self.guides[..., :6] / np.maximum(counts, 1)
        return np.minimum(mean[..., :3], 1), mean[..., 3:]

    def handed_out(self, errors: Errors | None = None) -> np.ndarray:
        """(h, w, 3) the own rows as they are handed out, linear; how far they are from what they will be is added to `errors`."""
        smooths, has_halves = self.final.smoothed and self.samples.any(), self.samples.min() >= 2
        guided = self.is_frame or self.own != (0, self.final.height) or self.most_samples.mean() < GUIDED_BELOW
        guidance = self.guidance() if smooths and guided else None

        def made(rgb: np.ndarray) -> np.ndarray:
            return (denoised(rgb, guidance) if smooths else rgb)[self.inner]

        if errors is not None and has_halves:
            rendered = [half[self.inner] for half in self.halves]
            if smooths:
                lost = least_lost(float(self.most_samples.mean()))
                errors.add_smoothed(rendered, [made(half) for half in self.halves], lost)
            else:
                errors.add(*rendered)
        elif errors is not None:
            errors.is_known = False
        return made(self.beauty)


PartOf = Callable[[Rows | None], Whole]
"""Gives rows of a picture, put together; all of them for None."""


def bands(final: Final) -> list[Rows | None]:
    """Rows that are put together at a time; None where it is the whole picture. Blocks of the preview are not cut by them."""
    if final.width * final.height <= 3 * BAND_PIXELS:
        return [None]
    step = step_to(PREVIEW_SIDE, final.height, final.width)
    rows = max(BAND_PIXELS // final.width // step, 1) * step
    return [(first, min(first + rows, final.height)) for first in range(0, final.height, rows)]


@dataclass(frozen=True)
class Look:
    """A picture as far as it is."""

    small: np.ndarray
    """(h, w, 3) linear, of at most `PREVIEW_SIDE`."""
    lights: list[np.ndarray]
    """The same of every light by itself as it was made, where they are asked for; they add up to it, but for what smoothing does."""
    noise: float | None
    """Of the picture as it is handed out; None below two samples."""
    level: float
    """What errors are judged by: see `picture.noise.level`."""
    cut: list[float]
    """See `Whole.cut`."""
    samples: float
    spreads: list[float]
    """Of each light, how far one sample of it is off: the root mean square over the picture."""


def look_at(final: Final, part_of: PartOf, exposure: float, with_lights: bool = False) -> Look:
    errors, rows, lights, cut, samples, spreads = Errors(exposure), [], [], np.zeros(3), [], 0.0
    for band in bands(final):
        part = part_of(band)
        step = step_to(PREVIEW_SIDE, final.height, final.width)
        rows.append(shrunk(part.handed_out(errors), step))
        if with_lights:
            made = (denoised(rgb) if final.smoothed else rgb for rgb in part.rgb[: part.added])
            lights.append([shrunk(rgb[part.inner], step) for rgb in made])
        cut += part.cut
        spreads += part.spreads
        samples.append(float(part.samples[part.inner].mean()) * (part.own[1] - part.own[0]))
    each = [np.concatenate(one) for one in zip(*lights, strict=True)]
    about = {"noise": errors.noise, "level": errors.level, "cut": cut.tolist(), "samples": sum(samples) / final.height}
    about["spreads"] = np.sqrt(spreads / (final.width * final.height)).tolist()
    return Look(np.concatenate(rows), each, **about)


def seen(rgb: np.ndarray, stage: Stage, finish: Finish | None = None, frame: int = 0, alpha=None) -> np.ndarray:
    """(h, w, 3) uint8, or 4 with alpha: a linear picture with its finish, exposed and in its view."""
    view = (finish and finish.view) or stage.view
    return pixels_of(finished(rgb, finish, frame), exposure_of(stage), alpha, view)


def layers_of(part: Whole, the_set, picture: np.ndarray, level: float) -> dict[str, np.ndarray]:
    """Everything that is known of the rows of a picture, by the names of layers; (h, w) or (h, w, 3) float32."""
    final, rows = part.final, part.inner
    layers = {"": picture}
    if final.smoothed:
        layers["as_rendered"] = part.beauty[rows]
    if final.by_light:
        names = {}
        for light, (name, _) in enumerate(part.lights[: part.added]):
            word = "light_" + "".join(c if c.isalnum() else "_" for c in name.lower())
            names[word] = names.get(word, 0) + 1
            layers[word if names[word] == 1 else f"{word}_{names[word]}"] = part.turned(light)[rows]
    guidance = part.guidance()
    if guidance is not None:
        layers["albedo"], layers["normal"] = (one[rows] for one in guidance)
    hits = first_hits(the_set, final.width, final.height, part.own)
    layers |= {
        "depth": hits.depth_cm,
        "position": hits.position_cm,
        "object_id": hits.thing,
        "material_id": hits.matter,
    }
    if final.on_floor:
        bare = denoised(part.rgb[-1]) if final.smoothed else part.rgb[-1]
        layers |= shadow_and_caustic(picture, bare[rows], (hits.thing > 0) & (hits.matter == 0))
    first, second = (screen_luminance(half[rows], the_set.exposure) for half in part.halves)
    layers["noise"] = np.abs(first - second) / 2 / level
    surround = the_set.stage.surround
    if surround.cut_out:
        layers[ALPHA] = part.alpha[rows]
        if surround.lets_through:
            layers["behind"] = part.behind[rows]
    return layers


def shadow_and_caustic(picture: np.ndarray, bare: np.ndarray, is_floor: np.ndarray) -> dict[str, np.ndarray]:
    """Where the floor is seen: the share of its light that forms take away (h, w), and the light that they throw onto it (h, w, 3)."""
    left = (picture @ LUMINANCE) / np.maximum(bare @ LUMINANCE, 1e-6)
    return {
        "shadow": np.where(is_floor, 1 - np.clip(left, 0, 1), 0),
        "caustic": np.where(is_floor[..., None], np.maximum(picture - bare, 0), 0),
    }


def write_files(
    look: Look,
    part_of: PartOf,
    final: Final,
    material: Material,
    stage: Stage,
    folder: Path,
    finish: Finish | None = None,
    frame: int = 0,
) -> tuple[Path, Path]:
    """(an OpenEXR file with all layers, a PNG in the view of the stage with its finish); each holds what it takes to make it again."""
    facts = {
        "final": final.model_dump(mode="json"),
        "material": material.model_dump(mode="json"),
        "stage": stage.model_dump(mode="json"),
        "noise": look.noise,
        "samples": look.samples,
    }
    exr, png = folder / "final.exr", folder / "final.png"
    the_set, written = (
        build_set(material, stage, final.width / final.height),
        LayersFile(exr, final.width, final.height, facts, final.half),
    )
    shown = Shown(stage, facts, finish, frame)
    for band in bands(final):
        part = part_of(band)
        picture = part.handed_out()
        layers = layers_of(part, the_set, picture, look.level)
        written.add(layers)
        shown.add(picture, layers.get(ALPHA))
    written.close()
    shown.write(png)
    return exr, png


class Shown:
    """A picture as it is seen, row by row; a finish waits for all of them, as light spreads over the whole picture."""

    def __init__(self, stage: Stage, facts: dict, finish: Finish | None, frame: int):
        self.stage, self.finish, self.frame, self.rows = stage, finish, frame, []
        self.facts = facts | {"finish": finish and finish.model_dump(mode="json")}

    def add(self, picture: np.ndarray, alpha: np.ndarray | None) -> None:
        steps = self.finish and any(step.on for step in self.finish.steps)
        self.rows.append((picture, alpha) if steps else self._pixels(picture, alpha))

    def _pixels(self, picture: np.ndarray, alpha: np.ndarray | None) -> np.ndarray:
        """8-bit."""
        return seen(picture, self.stage, self.finish, self.frame, alpha)

    def write(self, path: Path) -> None:
        if isinstance(self.rows[0], tuple):
            pictures, alphas = zip(*self.rows, strict=True)
            alpha = None if alphas[0] is None else np.concatenate(alphas)
            self.rows = [self._pixels(np.concatenate(pictures), alpha)]
        write_png(path, np.concatenate(self.rows), {"nineglass": json.dumps(self.facts)})


def write_seen(
    path: Path, rgb: np.ndarray, alpha, stage: Stage, facts: dict, finish: Finish | None, frame: int = 0
) -> None:
    """A PNG of a linear picture with its finish, which it holds beside the facts."""
    shown = Shown(stage, facts, finish, frame)
    shown.add(rgb, alpha)
    shown.write(path)
