"""What varies within media without a boundary, laid out on voxels: networks are run at places in space, once, before the picture is made."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from nineglass import at_hand
from nineglass.documents.bands.flame import BLACK_BODY, TRUE_DIMNESS
from nineglass.documents.bands.interior import COLOR as COLOR_AT_DEPTH
from nineglass.documents.bands.interior import CURVE, SUBSTANCE
from nineglass.exchange.vdb import Grid
from nineglass.lamps.light import SUN
from nineglass.network.interpret import evaluate, evaluate_many
from nineglass.network.ops import Ops, Program
from nineglass.optics.limits import CLEAREST
from nineglass.spectra.blackbody import COLDEST_SEEN_K, SECOND_RADIATION_CONSTANT_NM_K, planck
from nineglass.spectra.observer import CMF, D65, LUMINANCE, WAVELENGTHS_NM
from nineglass.spectra.upsampling import squashed, table
from nineglass.trace.media.varying import (
    ABSORBS,
    ASYMMETRY,
    CELL,
    CHANNELS,
    COLDEST_K,
    COLOR,
    GLOW,
    GLOW_COLOR,
    HOTTEST_K,
    KELVIN,
    SCATTERS,
    TINT,
    Fields,
)
from nineglass.trace.programs import fit_colors

VOXELS = 700_000
"""About how many there are where no grid says it."""

MOST_VOXELS = 256**3
CM = 0.01
NO_SURFACE = {"facing": np.float32(1)}
"""What networks read of a surface, within matter."""

REFERENCE_K = 1500.0
"""The temperature at which a flame whose brightness follows from it is as bright as its dial says: of a wood fire."""

NO_FIELDS = Fields(
    of=np.full(1, -1, np.int32),
    low=np.zeros((1, 3), np.float32),
    voxel=np.ones((1, 3), np.float32),
    shape=np.ones((1, 3), np.int32),
    first=np.full((1, CHANNELS), -1, np.int32),
    values=np.zeros(1, np.float32),
    cells=np.ones((1, 3), np.int32),
    first_cell=np.zeros(1, np.int32),
    most=np.zeros((1, 3), np.float32),
    lights=np.ones(1, np.int32),
    near=np.zeros(1, np.int32),
    matter=np.zeros(1, np.int32),
    other=np.full(1, -1, np.int32),
    white=D65.astype(np.float32),
)
"""Of a stage on which every medium is the same everywhere."""


@dataclass(frozen=True)
class Box:
    """Where a field lies: in m, in the axes of its thing."""

    low: np.ndarray
    size: np.ndarray
    shape: tuple[int, int, int]
    """Voxels along z, y, x."""


MASK = ("split", "mask")
"""The signal of what mixes two media."""


@dataclass(frozen=True)
class Varying:
    """What of a material varies in space."""

    program: Program
    signals: dict[tuple[str, str], tuple[int, ...]]
    """The registers of each dial of a band that is driven."""
    interior: dict | None
    """Of its interior the dials that what varies follows from (`read_of`), and all of its flame; None for none."""
    flame: dict | None
    second: bool = False
    """Of two sides that are mixed by a mask, whether it is the one that is there where the mask is 1."""

    @property
    def registers(self) -> list[int]:
        return sorted({register for of in self.signals.values() for register in of})


@dataclass(frozen=True)
class Field:
    """What varies within one thing."""

    box: Box
    channels: dict[int, np.ndarray]
    """(k, z, y, x) float32 of those that vary: three coefficients of a colour, one of all else."""
    most: np.ndarray
    """(cells, 3): see `Fields.most`."""
    lights: bool
    reads: tuple
    """The grids and pictures that it was worked out from: while it is kept nothing else can be taken for them."""


@dataclass(frozen=True)
class Row:
    """What becomes a row of `Fields`."""

    field: Field
    matter: int
    near: bool
    other: int


def fields_of(standing, rows: list[int], split, laid: list, things, time: float, camera_axes, lamps) -> Fields:
    """rows: of each thing the row of its material; split: `matter.Sides.split`; laid: the materials, `matter.Laid`; things:
    `geometry.standing.Things`; camera_axes: see `sensor.axes_of`; lamps: `light.lamps.Lamps`."""
    found, of = [], np.full(len(rows), -1, np.int32)
    for j, (placed, m) in enumerate(zip(standing.placed, rows, strict=True)):
        sides = laid[m].varying
        if not sides:
            continue
        of[j], near = len(found), _stands_near(placed, lamps)
        around = inputs_around(placed, int(things.bit[j]), things.size[j], time, camera_axes)
        is_mixed = len(sides) > 1
        first = split[m] if is_mixed else m
        for k, varying in enumerate(sides):
            other = len(found) + 1 if is_mixed and k == 0 else -1
            found.append(Row(field_of(varying, placed, around), int(first + k), near, other))
    return _joined(of, found) if found else NO_FIELDS._replace(of=of)


def _stands_near(placed, lamps) -> bool:
    """Whether a lamp stands within the box of a thing, or at half its size from there."""
    low, high = (np.asarray(corner, float) for corner in placed.mesh.bounds())
    close = lamps.shape != SUN
    own = (lamps.centre[close] - placed.offset) @ placed.axes
    margin = (high - low) / 2
    return bool(((own > low - margin) & (own < high + margin)).all(axis=1).any())


def inputs_around(placed, bit: int, size: np.ndarray, time: float, camera_axes) -> dict[str, float]:
    """The inputs of a program that are the same everywhere within a thing. bit: of its object; size: of that, cm."""
    ways = ("right", "up", "front")
    names = {
        "time": time,
        "object": _random_of_object(bit),
        **dict(zip(("width", "height", "depth"), size, strict=True)),
    }
    for k, way in enumerate(ways):
        of_camera = np.asarray(camera_axes[3 * k : 3 * k + 3], float) @ placed.axes
        for axis, on_stage, seen in zip("xyz", placed.axes[k], of_camera, strict=True):
            names[f"stage_{way}_{axis}"], names[f"camera_{way}_{axis}"] = float(on_stage), float(seen)
    return names


@lru_cache(64)
def _random_of_object(bit: int) -> float:
    """The same number as on the surface of the object (`locate`)."""
    ops = Ops()
    number = ops.white(ops.constants((bit % 1009 + 0.5, 0.5, 0.5)))
    return float(evaluate(ops.program(), [number], 1)[0, 0])


def field_of(varying: Varying, placed, around: dict) -> Field:
    low, high = (np.asarray(corner, float) for corner in placed.mesh.bounds())
    program = varying.program
    box = Box(low, high - low, _shape_of(high - low, program.grids) if varying.registers else (1, 1, 1))
    used = {name: around[name] for name in program.inputs if name in around}
    place = (placed.axes.tobytes(), placed.offset.tobytes()) if _reads_the_stage(program) else ()
    key = (
        *(repr(one) for one in (varying.interior, varying.flame, varying.signals, varying.second)),
        program.operations.tobytes(),
        tuple(program.constants),
        tuple(program.inputs.items()),
        tuple(map(id, _read_by(program))),
        tuple(used.items()),
        (low.tobytes(), high.tobytes(), box.shape, place),
    )
    return at_hand.get(Field, key, lambda: _worked_out(varying, box, placed, used))


def _read_by(program: Program) -> tuple:
    return (*program.grids, *program.pictures)


def _reads_the_stage(program: Program) -> bool:
    return not {"stage_x", "stage_y", "stage_z"}.isdisjoint(program.inputs)


def _shape_of(size: np.ndarray, grids) -> tuple[int, int, int]:
    """Voxels along z, y, x: as many as the grids that are read have, else cubes."""
    if grids:
        shape = np.max([grid.shape for grid in grids], axis=0)
    else:
        voxel = (float(np.prod(np.maximum(size, size.max() / 1000))) / VOXELS) ** (1 / 3)
        shape = np.maximum(np.round(size / voxel), 2)[::-1]
    most = (MOST_VOXELS / max(float(np.prod(shape)), 1.0)) ** (1 / 3)
    return tuple(int(side) for side in np.maximum(np.asarray(shape) * min(most, 1.0), 1))


def _worked_out(varying: Varying, box: Box, placed, around: dict) -> Field:
    """Run the program at the middles of all voxels."""
    registers = varying.registers
    flat = run_in_space(varying.program, registers, box, placed, around)
    values = {dial: flat[[registers.index(r) for r in of]] for dial, of in varying.signals.items()}
    channels = {}
    if varying.interior is not None:
        channels |= _shares_of(varying.interior, values, flat.shape[1])
    if varying.flame:
        channels |= _glow_of(varying.flame, values, flat.shape[1])
    if MASK in values:
        mask = np.clip(values[MASK], 0, 1)
        share = mask if varying.second else 1 - mask
        channels |= {k: channels[k] * share for k in (ABSORBS, SCATTERS, GLOW) if k in channels}
    shaped = {k: np.ascontiguousarray(v, np.float32).reshape(-1, *box.shape) for k, v in channels.items()}
    lights = varying.flame is None or varying.flame["lights"]
    return Field(box, shaped, most_in_cells(shaped, box.shape), lights, _read_by(varying.program))


def read_of(interior: dict, driven: set[str]) -> dict:
    """The dials of an interior that its channels follow from, beside those that are driven: any other is turned without laying out anew."""
    names = {"density"} - driven
    if "transmission_depth" in driven:
        names |= {"transmission_depth", "absorption", "scattering"}
    if "transmission_color" in driven:
        names |= {"transmission_depth", "absorption", "concentration"}
    return {name: interior[name] for name in sorted(names)}


def _shares_of(interior: dict, values: dict, count: int) -> dict[int, np.ndarray]:
    """The channels of an interior, over what `matter.material` makes of it at the same everywhere. interior: see `read_of`."""

    def of(dial: str) -> np.ndarray | None:
        return values.get(("interior", dial))

    density = of("density")
    density = np.full((1, count), interior["density"], np.float32) if density is None else density
    depth, amount = of("transmission_depth"), of("scatter_amount")
    shallower = None if depth is None else interior["transmission_depth"] / np.maximum(depth, 1e-4)
    absorbs = scatters = density
    tint = of("transmission_color")
    if tint is not None and interior["absorption"] != COLOR_AT_DEPTH:
        tint = None
    if tint is not None:
        absorbs = density * interior["concentration"] / (interior["transmission_depth"] * CM)
    if shallower is not None and interior["absorption"] in (COLOR_AT_DEPTH, CURVE):
        absorbs = absorbs * shallower
    if shallower is not None and interior["scattering"] != SUBSTANCE:
        scatters = density * shallower
    if amount is not None:
        scatters = scatters * amount
    channels = {ABSORBS: absorbs, SCATTERS: scatters}
    if tint is not None:
        channels[TINT] = coefficients(tint)
    if (color := of("transmission_scatter")) is not None:
        channels[COLOR] = coefficients(color)
    if (asymmetry := of("transmission_scatter_anisotropy")) is not None:
        channels[ASYMMETRY] = asymmetry
    return channels


def run_in_space(program: Program, signals: list[int], box: Box, placed, around: dict) -> np.ndarray:
    """(len(signals), voxels) float32: what a program gives at the middles of the voxels of a box, x fastest."""
    nz, ny, nx = box.shape
    voxel = box.size * 100 / np.array([nx, ny, nz])
    on_stage = _reads_the_stage(program)

    def inputs(first: int, last: int) -> dict:
        k = np.arange(first, last)
        own = box.low * 100 + (np.stack([k % nx, k // nx % ny, k // (nx * ny)], axis=1) + 0.5) * voxel
        names = NO_SURFACE | around | dict(zip("xyz", own.T.astype(np.float32), strict=True))
        if on_stage:
            there = own @ placed.axes.T + placed.offset * 100
            names |= dict(zip(("stage_x", "stage_y", "stage_z"), there.T.astype(np.float32), strict=True))
        return names

    return evaluate_many(program, signals, nz * ny * nx, inputs)


def coefficients(colors: np.ndarray) -> np.ndarray:
    """(3, n) coefficients of the spectra of colours (3, n)."""
    registers = np.concatenate([np.clip(colors, 0, 1), np.zeros_like(colors)]).astype(np.float32)
    fit_colors(registers, np.arange(6, dtype=np.int32), table(), 0, registers.shape[1])
    return registers[3:]


@lru_cache(1)
def luminances() -> tuple[np.ndarray, np.ndarray]:
    """(temperatures in K, luminance there of light that is 1 at 560 nm)."""
    kelvin = np.geomspace(COLDEST_K, HOTTEST_K, 400)
    return kelvin, np.array([planck(WAVELENGTHS_NM, one) @ CMF[:, 1] for one in kelvin])


def radiance_at_560(kelvin: np.ndarray, is_true: bool) -> np.ndarray:
    """Spectral radiance at 560 nm of a black body: of luminance 1 at every temperature; or, when true to nature, at `REFERENCE_K`."""
    temperatures, luminance = luminances()
    kelvin = np.maximum(kelvin, COLDEST_K).astype(float)
    if not is_true:
        return 1 / np.interp(kelvin, temperatures, luminance)
    reference = 1 / np.interp(REFERENCE_K, temperatures, luminance)
    exponent = SECOND_RADIATION_CONSTANT_NM_K / 560
    return reference * np.expm1(exponent / REFERENCE_K) / np.expm1(np.minimum(exponent / kelvin, 600))


def _glow_of(flame: dict, values: dict, count: int) -> dict[int, np.ndarray]:
    """The channels of a flame. Its brightness is that of a layer 1 cm thick."""

    def of(dial: str) -> np.ndarray:
        given = values.get(("flame", dial))
        if given is None:
            given = np.broadcast_to(np.reshape(flame[dial], (-1, 1)), (np.size(flame[dial]), count))
        return np.maximum(given.astype(float), 0)

    strength = (of("flame_density") * of("emission_luminance"))[0]
    if flame["light_from"] == BLACK_BODY:
        kelvin = of("temperature")[0]
        per_luminance = radiance_at_560(kelvin, flame["dimness"] == TRUE_DIMNESS)
        luminance = strength * per_luminance * np.interp(kelvin, *luminances())
        glow = _held(strength, luminance, flame["most_luminance"]) * per_luminance
        return {GLOW: np.where(kelvin < COLDEST_SEEN_K, 0, glow) / CM, KELVIN: np.clip(kelvin, COLDEST_K, HOTTEST_K)}
    color = of("emission_color")
    brightest = np.maximum(color.max(axis=0), 1.0)
    glow = _held(strength, strength * (LUMINANCE @ color), flame["most_luminance"])
    return {GLOW: glow * brightest / CM, GLOW_COLOR: coefficients(color / brightest)}


def _held(strength: np.ndarray, luminance: np.ndarray, most: float) -> np.ndarray:
    """A strength, lowered where what it gives is brighter than it may be."""
    return strength * np.minimum(1.0, most / np.maximum(luminance, 1e-12))


def most_in_cells(channels: dict[int, np.ndarray], shape: tuple) -> np.ndarray:
    """(cells, 3): see `Fields.most`."""
    cells = tuple(-(-side // CELL) for side in shape)
    most = np.zeros((*cells, 3), np.float32)
    for column, channel in enumerate((ABSORBS, SCATTERS, GLOW)):
        if channel in channels:
            most[..., column] = _largest_about(channels[channel][0], cells)
    if TINT in channels:
        most[..., 0] *= _largest_about(_most_absorbed(channels[TINT]), cells)
    return most.reshape(-1, 3)


def _most_absorbed(tint: np.ndarray) -> np.ndarray:
    """The most that 1 m absorbs at any wavelength, of three coefficients (3, ...): at an end, or where their parabola turns."""
    a, b, c = tint.astype(float)
    turns = np.clip(-b / np.where(np.abs(a) < 1e-12, 1e-12, 2 * a), 0, 1)
    least = np.min([a * t * t + b * t + c for t in (np.zeros_like(a), np.ones_like(a), turns)], axis=0)
    return -np.log(np.maximum(squashed(least), CLEAREST)) * ROUNDED_UP


ROUNDED_UP = 1.001
"""The kernels work in single precision: a bound stays one with so much to spare."""


def _largest_about(values: np.ndarray, cells: tuple) -> np.ndarray:
    """The largest value in each cell and the voxel around it, which the values between voxels are made of."""
    for axis, count in enumerate(cells):
        side = values.shape[axis]
        ends = [slice(max(k * CELL - 1, 0), min((k + 1) * CELL + 1, side)) for k in range(count)]
        values = np.stack([values[(slice(None),) * axis + (one,)].max(axis=axis) for one in ends], axis=axis)
    return values


NAMES = {ABSORBS: "absorption", SCATTERS: "density", ASYMMETRY: "anisotropy", KELVIN: "temperature", GLOW: "flame"}
"""How grids of the channels are called in files; colours are left to the network."""


def grids_of(found: list[Field]) -> list[Grid]:
    """The fields of one thing as grids for a file, in cm about its middle; of two media those of the second by names with a 2."""
    grids = []
    for one, ending in zip(found, ("", "_2"), strict=False):
        voxel = one.box.size * 100 / np.array(one.box.shape[::-1])
        sides, first = (tuple(float(v) for v in row) for row in (voxel, one.box.low * 100 + voxel / 2))
        there = {name: one.channels[k][0] for k, name in NAMES.items() if k in one.channels}
        grids += [Grid(name + ending, values, sides, first) for name, values in there.items()]
    return grids


def _joined(of: np.ndarray, rows: list[Row]) -> Fields:
    found = [row.field for row in rows]
    first = np.full((len(found), CHANNELS), -1, np.int32)
    values, at, cells_at, first_cell = [], 0, 0, []
    for f, one in enumerate(found):
        there: dict[int, int] = {}
        for channel, array in one.channels.items():
            first[f, channel] = there.setdefault(array.ctypes.data, at)
            if first[f, channel] == at:
                values.append(array.reshape(-1))
                at += array.size
        first_cell.append(cells_at)
        cells_at += len(one.most)
    shapes = np.array([one.box.shape[::-1] for one in found], np.int32)
    return Fields(
        of=of,
        low=np.array([one.box.low for one in found], np.float32),
        voxel=np.array([one.box.size for one in found], np.float32) / shapes.astype(np.float32),
        shape=shapes,
        first=first,
        values=np.concatenate(values) if values else np.zeros(1, np.float32),
        cells=-(-shapes // CELL),
        first_cell=np.array(first_cell, np.int32),
        most=np.concatenate([one.most for one in found]),
        lights=np.array([one.lights for one in found], np.int32),
        near=np.array([row.near for row in rows], np.int32),
        matter=np.array([row.matter for row in rows], np.int32),
        other=np.array([row.other for row in rows], np.int32),
        white=D65.astype(np.float32),
    )
