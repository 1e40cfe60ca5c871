"""The materials of a scene as the kernels read them: curves over wavelength, and where each program's dials lie."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nineglass.documents.bands.body import EVEN, GRAINY, VELVET
from nineglass.documents.bands.interface import CHOSEN_FAN
from nineglass.documents.bands.metal import TWO_COLORS
from nineglass.documents.model import Material
from nineglass.matter.material import absorption_curve, fan_colors, index_curve, reads_color
from nineglass.matter.substances import NONE, substances
from nineglass.network.compile import ALWAYS, Compiled, Leaf, compile_network
from nineglass.network.ops import INPUTS, Program
from nineglass.spectra.observer import CMF, D65, XYZ_TO_RGB
from nineglass.spectra.upsampling import coefficients_of, sigmoid_spectrum

CLEAR, LAYERED = 0, 1
"""Kinds of surface: a plain interface, and everything that has more bands."""

INDEX, EXTINCTION, SIGMA, TINT, MIRRORED, CURVES = range(6)
"""Rows of one material's curves; CURVES of them."""

IOR, ROUGHNESS, DEPTH, C0, C1, C2 = range(6)
NORMAL = 6
BODY_WEIGHT, BODY_ROUGHNESS, BODY_COLOR, BODY_NORMAL = 9, 10, 11, 14
FUZZ_WEIGHT, FUZZ_ROUGHNESS, FUZZ_COLOR = 17, 18, 19
FACING, EDGE = 22, 25
COATS, PER_COAT = 28, 9
COAT_WEIGHT, COAT_ROUGHNESS, COAT_IOR, COAT_COLOR, COAT_NORMAL = 0, 1, 2, 3, 6
FILMS, PER_FILM = 46, 3
FILM_WEIGHT, FILM_THICKNESS, FILM_IOR = range(3)
FUZZ_NORMAL = 58
DIALS = 61
"""Entries of `Matters.dials`: the register of each dial; colours as the three coefficients of their spectrum, normals as three
registers. -1 where there is none. Two coats and four films, the outermost first."""

GRAINS = {EVEN: 0, GRAINY: 1, VELVET: 2}


FRAMES_FROM = INPUTS.index("width")
"""The inputs from here on are the size of the object and the axes of the stage and the camera."""


class Matters(NamedTuple):
    """One row a material, in the order of `Set.materials`; then the two sides of each that is split."""

    surface: np.ndarray  # (m,) int32: CLEAR or LAYERED
    metal: np.ndarray  # (m,) int32: 1 for measured metal, 2 for one of two colours
    base: np.ndarray  # (m,) int32: whether an interface lies above what is at the bottom
    opaque: np.ndarray  # (m,) int32: whether lamps cannot shine straight through
    dispersive: np.ndarray  # (m,) int32
    ior: np.ndarray  # (m,) float32: the index where it does not vary over wavelength
    ior_driven: np.ndarray  # (m,) int32
    interior_driven: np.ndarray  # (m,) int32: its absorption is read where light enters
    concentration: np.ndarray  # (m,) float32
    coats: np.ndarray  # (m,) int32: how many
    films: (
        np.ndarray
    )  # (m, 4) int32: those from films[0] to films[1] lie on the first coat, and so on; the last are on the base
    body: np.ndarray  # (m,) int32: the grain of its body colour, -1 for none
    fuzz: np.ndarray  # (m,) int32
    tinted: np.ndarray  # (m,) int32: whether what passes is tinted
    mirror_tinted: np.ndarray  # (m,) int32: whether what is mirrored from outside is tinted
    fan: np.ndarray  # (m,) int32: whether its fan is recoloured
    curves: np.ndarray  # (m * CURVES, 401) float32
    dials: np.ndarray  # (m, DIALS) int32
    inputs: np.ndarray  # (m, inputs) int32: register of each input, -1 when not read
    more_inputs: np.ndarray  # (m,) int32: whether any beyond the first four is read
    frames: np.ndarray  # (m,) int32: whether the size of the object or the axes of the stage or the camera are read
    split: np.ndarray  # (m,) int32: row of its first side, the second follows; -1 for none
    mask: np.ndarray  # (m,) int32: register of the split's mask


@dataclass
class Table:
    """The rows of all materials, with their programs laid one after the other."""

    matters: Matters
    programs: list[np.ndarray]
    """Operations of each material that its dials are worked out by, (k, 5) int32."""
    texels: list[tuple[np.ndarray, np.ndarray]]
    """The pictures of each material's program."""
    fits: list[np.ndarray]
    """For each material the colours that vary over the form: (k, 6) registers of red, green, blue and three coefficients."""
    registers: int
    constants: list[tuple[int, float]]
    compiled: list[Compiled]
    fans: np.ndarray
    """(m + 1, 3, 401) response to light by the material whose fan it was in; row 0 is the true one."""


def settled(compiled: Compiled, kind: str, leaf: Leaf | None = None) -> dict:
    """The dials of a band, with what wires give where that is the same everywhere."""
    leaf = leaf or compiled.leaves[0]
    known = {dial: compiled.constant(kind, dial, leaf) for slot, dial in leaf.dials if slot == kind}
    return leaf.settings[kind] | {dial: value for dial, value in known.items() if value is not None}


@dataclass
class _Registers:
    """Registers of one material beyond those of its program: coefficients of colours."""

    next: int
    constants: list[tuple[int, float]]
    fits: list[list[int]]
    known: dict[tuple, int]

    def color(self, signal, constant) -> list[int]:
        """Three registers with the coefficients of a colour's spectrum."""
        if signal not in self.known:
            self.known[signal] = self.next
            self.next += 3
            there = range(self.known[signal], self.known[signal] + 3)
            if constant is None:
                self.fits.append([*signal, *there])
            else:
                self.constants += zip(there, coefficients_of(*np.clip(constant, 0, 1)), strict=True)
        return list(range(self.known[signal], self.known[signal] + 3))


def table_of(materials: list[Material], response: np.ndarray) -> Table:
    """Lay out the materials of a scene. response: (3, 401) of the sensor to radiance."""
    rows, sides, programs, texels, fits, constants, all_compiled, at = [], [], [], [], [], [], [], 0
    for material in materials:
        compiled = compile_network(material)
        program = compiled.program
        registers = _Registers(program.registers, list(program.constants), [], {})
        made = [_row(compiled, leaf, registers) for leaf in compiled.leaves]
        read = {register for row in made for register in row["dials"].tolist()} | {compiled.mask}
        read |= {register for fit in registers.fits for register in fit[:3]}
        needed = program.only(read)
        inputs = inputs_of(needed)
        for row in made:
            row |= {
                "inputs": _moved(inputs, at),
                "more_inputs": int(inputs[4:].max() >= 0),
                "frames": int(inputs[FRAMES_FROM:].max() >= 0),
                "dials": _moved(row["dials"], at),
                "split": -1,
                "mask": -1,
            }
        row = made[0]
        if len(made) > 1:
            row = made[0] | {"surface": LAYERED, "split": len(materials) + len(sides), "mask": compiled.mask + at}
            row |= {"interior_driven": 0, "ior_driven": 0, "opaque": int(all(side["opaque"] for side in made))}
            sides += made
        rows.append(row)
        operations = needed.operations.copy()
        operations[:, 1:] += at
        programs.append(operations)
        texels.append(program.texels())
        fits.append(np.array(registers.fits, np.int32).reshape(-1, 6) + np.int32(at))
        constants += [(register + at, value) for register, value in registers.constants]
        all_compiled.append(compiled)
        at += registers.next
    rows += sides
    fans = np.stack([response, *(fan_response(response, row["interface"]) for row in rows)]).astype(np.float32)
    floats = ("ior", "concentration")
    columns = {
        name: np.array([row[name] for row in rows], np.float32 if name in floats else np.int32)
        for name in Matters._fields
        if name != "curves"
    }
    curves = np.concatenate([row["curves"] for row in rows]).astype(np.float32)
    return Table(Matters(curves=curves, **columns), programs, texels, fits, at, constants, all_compiled, fans)


def inputs_of(program: Program) -> np.ndarray:
    """(inputs,) int32: the register of each input of a program, -1 where it does not read it."""
    return np.array([program.inputs.get(name, -1) for name in INPUTS], np.int32)


def _moved(registers: np.ndarray, by: int) -> np.ndarray:
    return np.where(registers >= 0, registers + by, -1).astype(np.int32)


def color_spectrum(color) -> np.ndarray:
    """(401,) the smooth spectrum of a linear Rec.709 colour, within 0 and 1."""
    return sigmoid_spectrum(coefficients_of(*np.clip(color, 0, 1)))


def _row(compiled: Compiled, leaf: Leaf, registers: _Registers) -> dict:
    interface, interior, body, metal = (settled(compiled, kind, leaf) for kind in ALWAYS)
    there = set(leaf.order)
    is_metal = "metal" in there
    ior_driven = compiled.constant("interface", "specular_ior", leaf) is None and interface["substance"] == NONE
    index = index_curve(interface)
    sigma = absorption_curve(interior, color_spectrum)
    driven = reads_color(interior) and None in (
        compiled.constant("interior", "transmission_color", leaf),
        compiled.constant("interior", "transmission_depth", leaf),
    )
    extinction, measured = np.zeros_like(index), is_metal and metal["substance"] != TWO_COLORS
    if measured:
        index, extinction = substances()[metal["substance"]].index, substances()[metal["substance"]].extinction
    plain = there <= {"interface", "interior"}
    opaque = is_metal or ("body" in there and body["base_weight"] > 0)
    tints = np.sqrt(color_spectrum(interface["tint"])), color_spectrum(interface["specular_color"])
    return {
        "interface": interface,
        "surface": CLEAR if plain else LAYERED,
        "metal": 0 if not is_metal else 1 if measured else 2,
        "base": int("interface" in there),
        "opaque": int(opaque),
        "dispersive": int(not opaque and "interface" in there and np.ptp(index) > 1e-6),
        "ior": float(np.interp(587.56, np.arange(380, 781), index)),
        "ior_driven": int(ior_driven),
        "interior_driven": int(driven),
        "concentration": interior["concentration"],
        "coats": sum(slot.startswith("coat") for slot in leaf.order),
        "films": _films_on(leaf.order),
        "body": GRAINS[body["grain"]] if "body" in there else -1,
        "fuzz": int("fuzz" in there),
        "tinted": int(min(interface["tint"]) < 0.9995),
        "mirror_tinted": int(min(interface["specular_color"]) < 0.9995),
        "fan": int(interface["fan"] == CHOSEN_FAN),
        "curves": np.stack([index, extinction, sigma, *tints]),
        "dials": _dials(compiled, leaf, registers),
    }


def _films_on(order: list[str]) -> list[int]:
    """Where the films on the first coat, the second coat and the base begin among all films, and where the last end."""
    starts, films, coats = [0], 0, 0
    for slot in order:
        films += slot.startswith("film")
        if slot.startswith("coat"):
            starts.append(films)
            coats += 1
    return [*starts, *[starts[-1]] * (2 - coats), films]


def _dials(compiled: Compiled, leaf: Leaf, registers: _Registers) -> np.ndarray:
    dials, found = leaf.dials, np.full(DIALS, -1, np.int32)
    boundary = "metal" if "metal" in leaf.order else "interface"

    def put(at: int, slot: str, name: str) -> None:
        signal = dials[slot, name]
        if name == "normal":
            if (slot, name) in leaf.driven:
                found[at : at + 3] = signal
        elif isinstance(signal, tuple):
            found[at : at + 3] = registers.color(signal, compiled.constant(slot, name, leaf))
        else:
            found[at] = signal

    put(IOR, "interface", "specular_ior")
    put(ROUGHNESS, boundary, "specular_roughness")
    put(DEPTH, "interior", "transmission_depth")
    put(C0, "interior", "transmission_color")
    put(NORMAL, boundary, "normal")
    bands = {
        "body": {
            BODY_WEIGHT: "base_weight",
            BODY_ROUGHNESS: "base_diffuse_roughness",
            BODY_COLOR: "base_color",
            BODY_NORMAL: "normal",
        },
        "fuzz": {
            FUZZ_WEIGHT: "fuzz_weight",
            FUZZ_ROUGHNESS: "fuzz_roughness",
            FUZZ_COLOR: "fuzz_color",
            FUZZ_NORMAL: "normal",
        },
        "metal": {FACING: "base_color", EDGE: "specular_color"},
    }
    coat = {
        COAT_WEIGHT: "coat_weight",
        COAT_ROUGHNESS: "coat_roughness",
        COAT_IOR: "coat_ior",
        COAT_COLOR: "coat_color",
        COAT_NORMAL: "normal",
    }
    film = {FILM_WEIGHT: "thin_film_weight", FILM_THICKNESS: "thin_film_thickness", FILM_IOR: "thin_film_ior"}
    several = {"coat": (COATS, PER_COAT, coat), "film": (FILMS, PER_FILM, film)}
    for slot in leaf.order:
        kind, _, number = slot.partition("_")
        first, each, names = several.get(kind, (0, 0, bands.get(kind, {})))
        for at, name in names.items():
            put(first + each * (int(number or 1) - 1) + at, slot, name)
    return found


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
