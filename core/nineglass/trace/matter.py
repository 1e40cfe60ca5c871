"""The materials of a scene as the kernels read them: one row each, with where each program's dials lie.

A material is laid out by itself (`Laid`, kept while it does not change) and then joined with the others of the stage (`table_of`).
"""

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from nineglass.describe import Fault, Refused
from nineglass.documents.bands.interface import CHOSEN_FAN
from nineglass.documents.bands.interior import COLOR, SUBSTANCE
from nineglass.documents.bands.subsurface import ONCE
from nineglass.documents.model import Material
from nineglass.matter.material import (
    absorption_curve,
    fan_colors,
    index_curve,
    radius_scale,
    reads_color,
    scattering_curve,
    subsurface_curves,
    subsurface_inversion,
)
from nineglass.matter.phases import NO_TABLE, phase_table
from nineglass.matter.substances import D_NM, NONE, WAVELENGTHS_NM
from nineglass.network.compile import Compiled, Leaf, compile_network
from nineglass.network.ops import INPUTS, Program
from nineglass.optics.inversion import STEPS
from nineglass.spectra.observer import CMF, D65, XYZ_TO_RGB
from nineglass.spectra.upsampling import coefficients_of, color_spectrum
from nineglass.trace.families import glow
from nineglass.trace.families.registry import FAMILIES, FIBRES, LAYERS, family_of
from nineglass.trace.media.clear import Media
from nineglass.trace.media.fields import MASK, Varying, read_of
from nineglass.trace.paths import MOST_MATERIALS

FEW_INPUTS = 4
"""The inputs before these are the cosine to the eye and the place: nearly every program reads no others."""

FRAMES_FROM = INPUTS.index("width")
"""The inputs from here on are the size of the object and the axes of the stage and the camera."""

READS_EVERYTHING = 3
"""What `Sides.reads` holds of a program that reads frames."""


class Sides(NamedTuple):
    """One row a material, in the order of `Set.materials`; then the two sides of each that is split."""

    family: np.ndarray  # (m,) int32
    split: np.ndarray  # (m,) int32: row of its first side, the second follows; -1 for none
    mask: np.ndarray  # (m,) int32: register of the split's mask
    inputs: np.ndarray  # (m, inputs) int32: register of each input, -1 when not read
    reads: np.ndarray  # (m,) int32: 0 for no input, 1 for facing and place, 2 for others as well, 3 for frames as well


@dataclass
class Registers:
    """Registers of one material beyond those of its program: coefficients of colours, and choices."""

    compiled: Compiled
    next: int
    constants: list[tuple[int, float]]
    fits: list[list[int]] = field(default_factory=list)
    known: dict[tuple, int] = field(default_factory=dict)

    def of(self, leaf: Leaf, slot: str, dial: str) -> list[int]:
        """The registers of a dial: one of a number or choice, three coefficients of a colour's spectrum, three of a vector."""
        if (slot, dial) not in leaf.dials:
            return [self._choice(leaf, slot, dial)]
        signal = leaf.dials[slot, dial]
        if not isinstance(signal, tuple):
            return [signal]
        return list(signal) if dial == "normal" else self._color(signal, self.compiled.constant(slot, dial, leaf))

    def _choice(self, leaf: Leaf, slot: str, dial: str) -> int:
        self.next += 1
        self.constants.append((self.next - 1, float(leaf.choice(slot, dial))))
        return self.next - 1

    def _color(self, signal, constant) -> list[int]:
        if signal not in self.known:
            self.known[signal] = self.next
            self.next += 3
            there = range(self.known[signal], self.known[signal] + 3)
            if constant is None:
                self.fits.append([*signal, *there])
            else:
                self.constants += zip(there, coefficients_of(*np.clip(constant, 0, 1)), strict=True)
        return list(range(self.known[signal], self.known[signal] + 3))


@dataclass
class Side:
    """One stack of bands of a material, as the families read it."""

    compiled: Compiled
    leaf: Leaf
    registers: Registers

    def settled(self, kind: str) -> dict:
        return settled(self.compiled, kind, self.leaf)


def settled(compiled: Compiled, kind: str, leaf: Leaf | None = None) -> dict:
    """The dials of a band, with what wires give where that is the same everywhere."""
    leaf = leaf or compiled.leaves[0]
    known = {dial: compiled.constant(kind, dial, leaf) for slot, dial in leaf.dials if slot == kind}
    return leaf.settings[kind] | {dial: value for dial, value in known.items() if value is not None}


@dataclass(frozen=True)
class Places:
    """Where the registers of a program go. It follows from what the program does, not from the values of its constants."""

    of: tuple
    """What it follows from."""
    places: np.ndarray
    varying: int
    program: Program
    """What is needed of the program, on its new places."""


@dataclass
class Laid:
    """One material laid out by itself."""

    material: Material
    compiled: Compiled
    rows: list[dict]
    """Its own row, then those of the two sides of a split: fields of `Sides`, of `Media` ("media") and of each family by its name."""
    placed: Places
    """Registers that vary over the form come first, and materials share them; those of constants follow."""
    texels: tuple[np.ndarray, ...]
    fits: np.ndarray
    constants: np.ndarray
    """(k, 2) register and value."""
    varying: tuple[Varying, ...]
    """What of it varies in space: of two sides when it is two media, mixed; none when it is the same everywhere."""
    glow: np.ndarray | None
    """(401,) radiance when it glows the same everywhere."""
    fans: list[np.ndarray]
    """Of each row the response to light that went through its fan."""


def _same_pictures(one: Compiled, other: Compiled) -> bool:
    def read(compiled: Compiled) -> list[int]:
        return [id(one) for one in (*compiled.program.pictures, None, *compiled.program.grids)]

    return read(one) == read(other)


def lay_out(material: Material, before: Laid | None = None) -> Laid:
    """Compile a checked material and lay it out. before: an earlier version, of which what has not changed is kept."""
    compiled = compile_network(material, before and before.compiled)
    registers = Registers(compiled, compiled.program.registers, list(compiled.program.constants))
    sides = [Side(compiled, leaf, registers) for leaf in compiled.leaves]
    rows = [_row(side) for side in sides]
    if len(sides) > 1:
        media = rows[0]["media"] | dict.fromkeys(MEDIA_REGISTERS, -1)
        media |= {"opaque": int(all(row["media"]["opaque"] for row in rows))}
        media |= {name: int(any(row["media"][name] for row in rows)) for name in ("throws", "scatters")}
        media |= {"open": int(all(row["media"]["open"] for row in rows))}
        rows = [rows[0] | {"media": media, "split": 0, "mask": compiled.mask}, *rows]
    read = {compiled.mask} | {register for fit in registers.fits for register in fit[:3]}
    for row in rows:
        read |= _registers_in(row)
    placed = _placed(compiled.program, registers, read, before and before.placed)
    places, inputs = placed.places, inputs_of(placed.program)
    fits = np.array(registers.fits, np.int32).reshape(-1, 6)
    beyond = inputs.max() >= 0, inputs[FEW_INPUTS:].max() >= 0, inputs[FRAMES_FROM:].max() >= 0
    for row in rows:
        _move(row, places)
        row |= {"inputs": inputs, "reads": max(k for k, read in enumerate((True, *beyond)) if read)}
    return Laid(
        material=material,
        compiled=compiled,
        rows=rows,
        placed=placed,
        texels=before.texels if before and _same_pictures(compiled, before.compiled) else compiled.program.texels,
        fits=places[fits],
        constants=np.array([(places[register], value) for register, value in registers.constants], float).reshape(
            -1, 2
        ),
        varying=varying_of(compiled),
        glow=glow.even_glow(sides[0]) if len(sides) == 1 else None,
        fans=[fan_response(sensor_response(), row["dials"]) for row in rows],
    )


def _placed(program: Program, registers: Registers, kept: set[int], before: Places | None) -> Places:
    """Those that vary first, as few as there need be, then the constants."""
    constants = [register for register, _ in registers.constants]
    of = (program.operations.tobytes(), program.inputs, constants, registers.fits, kept, registers.next)
    if before and before.of == of:
        return before
    needed = program.only(kept)
    found, varying = needed.places(kept)
    for fit in registers.fits:
        found |= dict(zip(fit[3:], range(varying, varying + 3), strict=True))
        varying += 3
    places = np.full(registers.next + 1, -1, np.int32)
    places[list(found)] = list(found.values())
    places[constants] = varying + np.arange(len(constants))
    return Places(of, places, varying, needed.moved(places))


def _move(row: dict, places: np.ndarray) -> None:
    """Have a row name its registers by their new places; -1 stays."""
    row["mask"] = int(places[row["mask"]])
    row["media"] |= {name: int(places[row["media"][name]]) for name in MEDIA_REGISTERS}
    for name, names in _REGISTER_FIELDS.items():
        row[name] = row[name] | {one: places[row[name][one]] for one in names}


def _registers_in(row: dict) -> set[int]:
    found = {row["media"][name] for name in MEDIA_REGISTERS}
    for color in MEDIA_COLORS:
        if row["media"][color] >= 0:
            found |= {row["media"][color] + k for k in range(3)}
    for name, names in _REGISTER_FIELDS.items():
        for one in names:
            found |= set(np.ravel(row[name][one]).tolist())
    return found


MEDIA_COLORS = ("color_register", "scatter_color_register", "scale_register")
MEDIA_REGISTERS = (
    *("ior_register", "depth_register", "amount_register", "density_register", "asymmetry_register", "radius_register"),
    *MEDIA_COLORS,
)
_REGISTER_FIELDS = {family.name: family.room.REGISTERS for family in FAMILIES} | {"glow": glow.REGISTERS}


def _row(side: Side) -> dict:
    about = {"family": family_of(side.leaf), "split": -1, "mask": -1, "dials": side.settled("interface")}
    made = {family.name: family.room.row(side) for family in FAMILIES}
    return about | made | {"glow": glow.row(side), "media": _medium(side)}


def _medium(side: Side) -> dict:
    compiled, leaf, registers = side.compiled, side.leaf, side.registers
    interface = side.settled("interface")
    index = index_curve(interface)
    varies = compiled.constant("interface", "specular_ior", leaf) is None and interface["substance"] == NONE
    opaque, ior = _is_opaque(side), float(np.interp(D_NM, WAVELENGTHS_NM, index))
    return _matter_within(side, ior) | {
        "ior": ior,
        "ior_register": registers.of(leaf, "interface", "specular_ior")[0] if varies else -1,
        "dispersive": int(not opaque and "interface" in leaf.order and np.ptp(index) > 1e-6),
        "index": index,
        "opaque": int(opaque),
        "open": int(is_open(leaf)),
        "throws": int(_throws(side, opaque)),
        "tint": np.sqrt(color_spectrum(interface["tint"])),
        "fan": int(interface["fan"] == CHOSEN_FAN),
    }


def _matter_within(side: Side, index: float) -> dict:
    """What of a row of `Media` follows from the interior, or from the subsurface in its place. index: of the boundary."""
    return _subsurface(side, index) if "subsurface" in side.leaf.order else _interior(side)


def _is_driven(side: Side, kind: str, dials: tuple) -> bool:
    return None in [side.compiled.constant(kind, dial, side.leaf) for dial in dials]


def is_open(leaf: Leaf) -> bool:
    """Whether a stack has no boundary."""
    return set(leaf.order) <= WITHIN


def _has_field(side: Side) -> bool:
    """Whether what is within has to be laid out on voxels: a stack without a boundary of which something is driven, or that glows or is mixed."""
    if not all(map(is_open, side.compiled.leaves)):
        return False
    return (
        len(side.compiled.leaves) > 1
        or "flame" in side.leaf.order
        or any(_is_driven(side, "interior", (dial,)) for dial in IN_SPACE)
    )


IN_SPACE = (
    *("density", "scatter_amount", "transmission_color", "transmission_depth"),
    *("transmission_scatter", "transmission_scatter_anisotropy"),
)
"""The dials of an interior that are read in space."""


def _base_of(interior: dict, varies: set[str], has_field: bool) -> dict:
    """The dials that a field is laid out over: what it says of a place is a share of what follows from them."""
    base = {"density": 1.0} if has_field else {}
    if "scatter_amount" in varies:
        base["scatter_amount"] = 1.0
    if "transmission_scatter" in varies:
        base["transmission_scatter"] = (1.0, 1.0, 1.0)
    return base


def _is_tinted(interior: dict, varies: set[str]) -> bool:
    """Whether the colour at depth is laid out on voxels."""
    return "transmission_color" in varies and reads_color(interior)


def varying_of(compiled: Compiled) -> tuple[Varying, ...]:
    """What of a material varies in space, of each of its sides."""
    sides = [Side(compiled, leaf, Registers(compiled, compiled.program.registers, [])) for leaf in compiled.leaves]
    return tuple(_varying(side, second) for second, side in enumerate(sides) if _has_field(side))


def _varying(side: Side, second: int) -> Varying:
    dials = [("interior", dial) for dial in IN_SPACE]
    dials += [(slot, dial) for slot, dial in side.leaf.dials if slot == "flame"]
    driven = [one for one in dials if one in side.leaf.dials and _is_driven(side, one[0], one[1:])]
    signals = {one: (s if isinstance(s := side.leaf.dials[one], tuple) else (s,)) for one in driven}
    if side.compiled.mask is not None:
        signals[MASK] = (side.compiled.mask,)
    program, places = side.compiled.program.alone({register for of in signals.values() for register in of})
    signals = {one: tuple(places[register] for register in of) for one, of in signals.items()}
    interior, flame = (side.settled(kind) if kind in side.leaf.order else None for kind in ("interior", "flame"))
    if interior is not None:
        interior = read_of(interior, {dial for slot, dial in driven if slot == "interior"})
    return Varying(program, signals, interior, flame, bool(second))


NO_INVERSION = np.zeros(STEPS, np.float32)


def _interior(side: Side) -> dict:
    interior, registers, leaf = side.settled("interior"), side.registers, side.leaf
    reads, in_open, has_field = reads_color(interior), is_open(leaf), _has_field(side)
    varies = {dial for dial in IN_SPACE if _is_driven(side, "interior", (dial,))}
    tinted = in_open and _is_tinted(interior, varies)
    if in_open:
        interior, varies = interior | _base_of(interior, varies, has_field), set()
    hue = "transmission_scatter" in varies and interior["scattering"] == COLOR
    amount_varies = not in_open and _is_driven(side, "interior", ("scatter_amount",))
    driven = not in_open and (
        amount_varies
        or hue
        or _is_driven(side, "interior", ("density",))
        or _is_driven(side, "interior", ("transmission_scatter_anisotropy",))
        or (reads and _is_driven(side, "interior", ("transmission_color", "transmission_depth")))
    )

    def register(dial: str, read: bool = driven) -> int:
        return registers.of(leaf, "interior", dial)[0] if read else -1

    turns = phase_table(interior)
    white = {"transmission_scatter": (1.0, 1.0, 1.0)} if hue else {}
    sigma_s, scattered = (
        scattering_curve(interior | one | white, color_spectrum)
        for one in ({}, {"scatter_amount": 1.0, "density": 1.0, "transmission_depth": 100.0})
    )
    sigma = absorption_curve(interior | ({"density": 1.0} if driven else {}), color_spectrum)
    return {
        "sigma": np.ones_like(sigma) if tinted else sigma,
        "depth_register": register("transmission_depth"),
        "color_register": register("transmission_color", driven and reads),
        "amount_register": register("scatter_amount"),
        "density_register": register("density"),
        "scatter_color_register": register("transmission_scatter", hue),
        "concentration": interior["concentration"],
        "scatters": int((scattered if amount_varies else sigma_s).max() > 0),
        "scattered": scattered,
        "by_depth": int(interior["scattering"] != SUBSTANCE),
        "sigma_s": sigma_s,
        "asymmetry": interior["transmission_scatter_anisotropy"],
        "asymmetry_register": register("transmission_scatter_anisotropy"),
        "tabled": int(turns is not None),
        "phase": NO_TABLE if turns is None else turns,
        "scattered_once": 0,
        "from_behind": 1.0,
        "radius_register": -1,
        "scale_register": -1,
        "radius_scale": np.ones_like(sigma_s),
        "inversion": NO_INVERSION,
    }


READ_WHERE_ENTERED = (
    *("subsurface_color", "subsurface_radius"),
    *("subsurface_radius_scale", "subsurface_scatter_anisotropy"),
)
"""The dials of a subsurface that are read where light enters."""


def _subsurface(side: Side, index: float) -> dict:
    subsurface = side.settled("subsurface")
    driven = _is_driven(side, "subsurface", READ_WHERE_ENTERED)

    def register(dial: str, read: bool = driven) -> int:
        return side.registers.of(side.leaf, "subsurface", dial)[0] if read else -1

    turns = _is_driven(side, "subsurface", ("subsurface_scatter_anisotropy",))
    inverted = subsurface | ({"subsurface_scatter_anisotropy": 0.0} if turns else {})
    sigma_a, sigma_s = subsurface_curves(subsurface, index, color_spectrum)
    return {
        "sigma": sigma_a,
        "depth_register": -1,
        "color_register": register("subsurface_color"),
        "amount_register": -1,
        "density_register": -1,
        "scatter_color_register": -1,
        "concentration": 1.0,
        "scatters": 1,
        "scattered": np.zeros_like(sigma_s),
        "by_depth": 0,
        "sigma_s": sigma_s,
        "asymmetry": subsurface["subsurface_scatter_anisotropy"],
        "tabled": 0,
        "phase": NO_TABLE,
        "scattered_once": int(subsurface["scatterings"] == ONCE),
        "from_behind": subsurface["from_behind"],
        "asymmetry_register": register("subsurface_scatter_anisotropy", turns),
        "radius_register": register("subsurface_radius"),
        "scale_register": register(
            "subsurface_radius_scale", _is_driven(side, "subsurface", ("subsurface_radius_scale",))
        ),
        "radius_scale": radius_scale(subsurface, color_spectrum),
        "inversion": subsurface_inversion(inverted, index),
    }


def _is_opaque(side: Side) -> bool:
    """Whether lamps cannot shine straight through: a metal, flakes, strands, or body colour."""
    return not {"metal", "flakes", "fibre"}.isdisjoint(side.leaf.order) or (
        "body" in side.leaf.order and side.settled("body")["base_weight"] > 0
    )


WITHIN = {"interior", "subsurface", "flame"}
"""Kinds that have no boundary of their own."""

POLISHED_TO = 0.3
"""Roughness up to which a metal throws light on what is around it."""


def _throws(side: Side, opaque: bool) -> bool:
    """Whether light is worth throwing at it from lamps: clear matter, and metal that is about polished."""
    if "flakes" in side.leaf.order:
        return False
    if "metal" not in side.leaf.order:
        return not opaque and "interface" in side.leaf.order
    roughness = side.compiled.constant("metal", "specular_roughness", side.leaf)
    return roughness is not None and roughness <= POLISHED_TO


@dataclass
class Table:
    """The rows of all materials, with their programs laid one after the other."""

    sides: Sides
    media: Media
    families: list[NamedTuple]
    """The rows of each family, in the order of `FAMILIES`."""
    glow: glow.Rows
    programs: list[np.ndarray]
    """Operations of each material that its dials are worked out by, (k, 5) int32."""
    texels: list[tuple[np.ndarray, ...]]
    """The pictures and grids of each material's program."""
    fits: list[np.ndarray]
    """For each material the colours that vary over the form: (k, 6) registers of red, green, blue and three coefficients."""
    registers: int
    constants: np.ndarray
    """(k, 2) register and value."""
    laid: list[Laid]
    fans: np.ndarray
    """(m + 1, 3, 401) response to light by the material whose fan it was in; row 0 is the true one."""

    @property
    def compiled(self) -> list[Compiled]:
        return [one.compiled for one in self.laid]

    @property
    def guiding(self) -> tuple[NamedTuple, NamedTuple]:
        """The rows that `guides` reads."""
        return self.families[LAYERS], self.families[FIBRES]

    @property
    def glows(self) -> bool:
        return bool((self.glow.luminance >= 0).any())

    @property
    def has_fog(self) -> bool:
        """Whether lamps shine through media without a boundary."""
        return bool(self.media.open.any())

    @property
    def walks(self) -> bool:
        """Whether light has to walk through any of the media."""
        return bool(self.media.scatters.any()) or self.has_fog

    def uses(self, family: int) -> bool:
        return bool((self.sides.family == family).any())

    @property
    def splits(self) -> bool:
        return bool((self.sides.split >= 0).any())


def table_of(laid: list[Laid]) -> Table:
    """Join the materials of a scene, that on the bench first."""
    varying = max(one.placed.varying for one in laid)
    firsts = varying + np.cumsum([0, *(len(one.constants) for one in laid)])
    order = [(k, 0) for k in range(len(laid))]
    splits = {}
    for k, one in enumerate(laid):
        if len(one.rows) > 1:
            splits[k] = len(order)
            order += [(k, 1), (k, 2)]
    if len(order) > MOST_MATERIALS:
        fault = f"{len(order)} materials and sides of splits on one stage"
        raise Refused([Fault("objects", fault, f"at most {MOST_MATERIALS}", "Let objects wear the same material.")])
    rows = [laid[k].rows[side] for k, side in order]
    shift = _Shift(*np.array([(laid[k].placed.varying, firsts[k]) for k, _ in order], np.int32).T)
    sides = _joined(Sides, rows, shift, ("mask", "inputs"))
    for k, first in splits.items():
        sides.split[k] = first
    families = []
    for number, family in enumerate(FAMILIES):
        shared = family.room.tables(bool((sides.family == number).any()))
        own = [row[family.name] for row in rows]
        families.append(_joined(family.room.Rows, own, shift, family.room.REGISTERS, shared))
    programs, fits, constants = [], [], []
    for one, at in zip(laid, firsts, strict=False):
        own = _Shift(np.int32(one.placed.varying), np.int32(at))
        operations = one.placed.program.operations
        programs.append(np.hstack([operations[:, :1], own(operations[:, 1:])]))
        fits.append(own(one.fits))
        constants.append(np.stack([own(one.constants[:, 0].astype(np.int32)), one.constants[:, 1]], axis=1))
    true = sensor_response()
    return Table(
        sides=sides,
        media=_joined(Media, [row["media"] for row in rows], shift, MEDIA_REGISTERS),
        families=families,
        glow=_joined(glow.Rows, [row["glow"] for row in rows], shift, glow.REGISTERS),
        programs=programs,
        texels=[one.texels for one in laid],
        fits=fits,
        registers=int(firsts[-1]),
        constants=np.concatenate(constants),
        laid=laid,
        fans=np.stack([true, *(laid[k].fans[side] for k, side in order)]).astype(np.float32),
    )


@dataclass(frozen=True)
class _Shift:
    """Where the registers of materials lie among those of a scene: those that vary are shared, the constants of each begin at its `first`."""

    varying: np.ndarray
    first: np.ndarray

    def __call__(self, registers: np.ndarray) -> np.ndarray:
        """registers: one row for each material."""
        varying, first = (
            one.reshape(one.shape + (1,) * (registers.ndim - one.ndim)) for one in (self.varying, self.first)
        )
        return np.where(registers >= varying, registers - varying + first, registers).astype(np.int32)


def _joined(kind: type, rows: list[dict], shift: _Shift, registers: tuple, shared: dict | None = None):
    """Rows as arrays; those that name registers moved to where each material's lie."""
    columns = dict(shared or {})
    for name in kind._fields:
        if name in columns:
            continue
        column = np.array([row[name] for row in rows])
        if name in registers:
            column = shift(column)
        columns[name] = np.ascontiguousarray(column, np.float32 if column.dtype.kind == "f" else np.int32)
    return kind(**columns)


def inputs_of(program: Program) -> np.ndarray:
    """(inputs,) int32: the register of each input of a program, -1 where it does not read it."""
    return np.array([program.inputs.get(name, -1) for name in INPUTS], np.int32)


def fan_response(response: np.ndarray, interface: dict) -> np.ndarray:
    """(3, 401) the response with the fan in chosen colours, scaled so that white light together is white still."""
    if interface["fan"] != CHOSEN_FAN:
        return response
    chosen = fan_colors(interface).T * (response * np.array([[0.2126], [0.7152], [0.0722]])).sum(axis=0).clip(0)
    white = (response * D65).sum(axis=1)
    return chosen * (white / np.maximum((chosen * D65).sum(axis=1), 1e-9))[:, None]


def sensor_response() -> np.ndarray:
    """(3, 401) linear Rec.709 response per unit of radiance."""
    return XYZ_TO_RGB @ CMF.T
