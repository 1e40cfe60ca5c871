"""What one slip gives, seen on the form: unlit, as numbers and as a picture."""

from dataclasses import dataclass

import numpy as np

from nineglass.catalogue import BANDS
from nineglass.documents.model import Material
from nineglass.network.interpret import fill_constants, run_program
from nineglass.network.ops import INPUTS
from nineglass.spectra.srgb import encode
from nineglass.trace.generate import generate
from nineglass.trace.geometry.rays import intersect
from nineglass.trace.geometry.standing import pieces_of
from nineglass.trace.locate import locate, sort_by_material
from nineglass.trace.matter import READS_EVERYTHING, inputs_of
from nineglass.trace.render import BATCH, Worker
from nineglass.trace.scene import Scene, Set

BELOW, ABOVE = np.array([0.1, 0.25, 0.9]), np.array([0.95, 0.3, 0.1])
"""Shown in place of what is below and above the range; both are told in words as well."""

AROUND = 0.35


@dataclass
class Held:
    """A slip held up: values (h, w, channels), not a number where the material on the bench is not seen."""

    values: np.ndarray
    low: float = 0.0
    high: float = 1.0
    """What counts as within range."""

    @property
    def seen(self) -> np.ndarray:
        return ~np.isnan(self.values[..., 0])

    def facts(self) -> dict:
        """The range over the picture, and the shares of it that are below and above what is within range."""
        seen = self.values[self.seen]
        if not len(seen):
            seen = np.zeros((1, 1))
        return {
            "low": float(seen.min()),
            "high": float(seen.max()),
            "below": float((seen < self.low).any(axis=-1).mean()),
            "above": float((seen > self.high).any(axis=-1).mean()),
            "least": self.low,
            "most": self.high,
            "seen": float(self.seen.mean()),
        }

    def _shades(self) -> tuple[float, float]:
        """What is shown black and white: 0 and 1, or where another range is driven what there is within it."""
        seen = self.values[self.seen]
        if (self.low, self.high) == (0.0, 1.0) or not len(seen):
            return self.low, self.high
        low, high = max(self.low, float(seen.min())), min(self.high, float(seen.max()))
        return (low, high) if high > low else (self.low, self.high)

    def picture(self, is_vector: bool) -> np.ndarray:
        """(h, w, 3) uint8. A vector is shown as x, y, z from -1 to 1, or over its own range where it is longer."""
        low, high = self._shades()
        values = (self.values - low) / (high - low)
        values = np.broadcast_to(values, (*self.values.shape[:2], 3))
        if is_vector:
            reach = max(1.0, float(np.nanmax(np.abs(values), initial=1.0)))
            shown = np.nan_to_num(0.5 + 0.5 * values / reach)
        else:
            shown = encode(np.clip(np.nan_to_num(values), 0, 1)) if self.values.shape[2] == 3 else np.nan_to_num(values)
            shown = np.where((self.values < self.low).any(axis=-1, keepdims=True), BELOW, shown)
            shown = np.where((self.values > self.high).any(axis=-1, keepdims=True), ABOVE, shown)
        shown = np.where(self.seen[..., None], shown, AROUND)
        return (np.clip(shown, 0, 1) * 255 + 0.5).astype(np.uint8)


def driven_range(material: Material, slip: str) -> tuple[float, float]:
    """The range on screen of the first number of a band that a slip drives; 0 to 1 when it drives none."""
    bands = {band.id: BANDS.kinds[band.kind] for band in material.section.bands}
    for wire in material.wires:
        if wire.source.slip == slip and wire.target.part in bands:
            dial = bands[wire.target.part].dials[wire.target.dial]
            if dial.type == "number":
                return dial.low, dial.high
    return 0.0, 1.0


def _with_all_inputs(the_set: Set) -> Scene:
    """The scene with what every slip of the material on the bench reads, whether or not it drives something."""
    scene, sides = the_set.scene, the_set.scene.sides
    inputs, reads = np.full_like(sides.inputs, -1), np.zeros_like(sides.reads)
    inputs[0] = inputs_of(the_set.compiled.program)
    reads[0] = READS_EVERYTHING
    geometry = scene.geometry
    if inputs[0, INPUTS.index("piece")] >= 0:
        triangles = geometry.triangles._replace(pieces=pieces_of(the_set.standing))
        geometry = geometry._replace(triangles=triangles)
    return scene._replace(sides=sides._replace(inputs=inputs, reads=reads), geometry=geometry)


def hold_up(the_set: Set, slip: str, width: int, port: str | None = None, height: int | None = None) -> Held:
    """The output of a slip of the material on the bench, as the camera sees it on the form. height: as the width when not given."""
    height = height or width
    count = width * height
    outputs = the_set.compiled.outputs
    name = port or next(p for s, p in outputs if s == slip)
    signal = outputs[slip, name]
    wanted = list(signal) if isinstance(signal, tuple) else [signal]
    worker = Worker(min(BATCH, count))
    program = the_set.compiled.program
    worker.registers = np.zeros((max(program.registers, 1), min(BATCH, count)), np.float32)
    fill_constants(program, worker.registers)
    scene, lens = _with_all_inputs(the_set), the_set.lens._replace(radius=np.float32(0))
    values = np.full((count, len(wanted)), np.nan, np.float32)
    for first in range(0, count, BATCH):
        pixels = range(first, min(first + BATCH, count))
        _hold_some(the_set, scene, lens, worker, (width, height), pixels, wanted, values)
    within = driven_range(the_set.materials[0], slip) if len(wanted) == 1 else (0.0, 1.0)
    return Held(values.reshape(height, width, -1), *within)


def _hold_some(
    the_set, scene, lens, worker: Worker, size: tuple[int, int], pixels: range, wanted: list[int], values
) -> None:
    """Fill in the values at some pixels."""
    batch, registers = worker.batch, worker.registers
    worker.clear()
    place = (pixels.start, len(pixels), 0, 0, len(pixels))
    generate(batch, lens, the_set.start, the_set.sensor, *size, 1, *place)
    intersect(batch, scene)
    locate(batch, scene)
    sort_by_material(batch, scene, registers)
    first, last = int(batch.starts[0]), int(batch.starts[1])
    operations = the_set.compiled.program.operations
    if len(operations) and last > first:
        run_program(operations, registers, *the_set.table.texels[0], first, last)
    values[batch.paths.pixel[batch.form_queue[first:last]]] = registers[wanted][:, first:last].T
