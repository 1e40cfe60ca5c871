"""The materials of a scene as the kernels read them: curves over wavelength, and where each program's dials lie."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nineglass.documents.bands.interface import CHOSEN_FAN
from nineglass.documents.model import Material
from nineglass.matter.material import absorption_curve, fan_colors, index_curve, reads_color
from nineglass.matter.substances import NONE, substances
from nineglass.network.compile import Compiled, compile_network
from nineglass.network.ops import INPUTS
from nineglass.spectra.observer import CMF, D65, XYZ_TO_RGB
from nineglass.spectra.upsampling import coefficients_of, sigmoid_spectrum

CLEAR, METAL = 0, 1
"""Kinds of surface."""

INDEX, EXTINCTION, SIGMA, TINT, BODY, CURVES = range(6)
"""Rows of one material's curves; CURVES of them."""

IOR, ROUGHNESS, RED, GREEN, BLUE, DEPTH, C0, C1, C2 = range(9)
"""Entries of `Matters.dials`: the register of each dial, and of the coefficients of the transmission colour."""


class Matters(NamedTuple):
    """One row a material, in the order of `Set.materials`."""

    surface: np.ndarray  # (m,) int32: CLEAR or METAL
    dispersive: np.ndarray  # (m,) int32
    ior: np.ndarray  # (m,) float32: the index where it does not vary over wavelength
    ior_driven: np.ndarray  # (m,) int32
    interior_driven: np.ndarray  # (m,) int32: its absorption is read where light enters
    concentration: np.ndarray  # (m,) float32
    body: np.ndarray  # (m,) float32: share of what passes that the body colour throws back
    tinted: np.ndarray  # (m,) int32
    fan: np.ndarray  # (m,) int32: whether its fan is recoloured
    curves: np.ndarray  # (m * CURVES, 401) float32
    dials: np.ndarray  # (m, 9) int32
    inputs: np.ndarray  # (m, 4) int32: register of each input, -1 when not read
    color_varies: np.ndarray  # (m,) int32


@dataclass
class Table:
    """The rows of all materials, with their programs laid one after the other."""

    matters: Matters
    programs: list[np.ndarray]
    """Operations of each material, (k, 5) int32."""
    registers: int
    constants: list[tuple[int, float]]
    compiled: list[Compiled]
    fans: np.ndarray
    """(m + 1, 3, 401) response to light by the material whose fan it was in; row 0 is the true one."""


def settled(compiled: Compiled, kind: str) -> dict:
    """The dials of a band, with what wires give where that is the same everywhere."""
    known = {dial: compiled.constant(kind, dial) for band, dial in compiled.dials if band == kind}
    return compiled.settings[kind] | {dial: value for dial, value in known.items() if value is not None}


def table_of(materials: list[Material], response: np.ndarray) -> Table:
    """Lay out the materials of a scene. response: (3, 401) of the sensor to radiance."""
    rows = [_row(compile_network(material)) for material in materials]
    programs, constants, at = [], [], 0
    for row in rows:
        operations = row["compiled"].program.operations.copy()
        operations[:, 1:] = np.where(operations[:, 1:] >= 0, operations[:, 1:] + at, operations[:, 1:])
        programs.append(operations)
        constants += [(register + at, value) for register, value in row["constants"]]
        row["dials"] = row["dials"] + at
        row["inputs"] = np.where(row["inputs"] >= 0, row["inputs"] + at, -1)
        at += row["registers"]
    fans = np.stack([response, *(fan_response(response, row["interface"]) for row in rows)]).astype(np.float32)

    def column(name, kind):
        return np.array([row[name] for row in rows], kind)

    matters = Matters(
        surface=column("surface", np.int32),
        dispersive=column("dispersive", np.int32),
        ior=column("ior", np.float32),
        ior_driven=column("ior_driven", np.int32),
        interior_driven=column("interior_driven", np.int32),
        concentration=column("concentration", np.float32),
        body=column("body", np.float32),
        tinted=column("tinted", np.int32),
        fan=column("fan", np.int32),
        curves=np.concatenate([row["curves"] for row in rows]).astype(np.float32),
        dials=column("dials", np.int32),
        inputs=column("inputs", np.int32),
        color_varies=column("color_varies", np.int32),
    )
    return Table(matters, programs, at, constants, [row["compiled"] for row in rows], fans)


def color_spectrum(color) -> np.ndarray:
    """(401,) the smooth spectrum of a linear Rec.709 colour, within 0 and 1."""
    return sigmoid_spectrum(coefficients_of(*np.clip(color, 0, 1)))


def _row(compiled: Compiled) -> dict:
    interface, interior, body, metal = (settled(compiled, kind) for kind in ("interface", "interior", "body", "metal"))
    is_metal = "metal" in compiled.present
    ior_driven = compiled.constant("interface", "specular_ior") is None and interface["substance"] == NONE
    index = index_curve(interface)
    sigma = absorption_curve(interior, color_spectrum)
    driven = reads_color(interior) and None in (
        compiled.constant("interior", "transmission_color"),
        compiled.constant("interior", "transmission_depth"),
    )
    extinction = np.zeros_like(index)
    if is_metal:
        index, extinction = substances()[metal["substance"]].index, substances()[metal["substance"]].extinction
    dials, constants, registers, color_varies = _dial_registers(compiled, "metal" if is_metal else "interface")
    return {
        "compiled": compiled,
        "interface": interface,
        "surface": METAL if is_metal else CLEAR,
        "dispersive": int(np.ptp(index) > 1e-6 and not is_metal),
        "ior": float(np.interp(587.56, np.arange(380, 781), index)),
        "ior_driven": int(ior_driven),
        "interior_driven": int(driven),
        "concentration": interior["concentration"],
        "body": body["base_weight"] if "body" in compiled.present else 0.0,
        "tinted": int(min(interface["tint"]) < 0.9995),
        "fan": int(interface["fan"] == CHOSEN_FAN),
        "curves": np.stack(
            [index, extinction, sigma, np.sqrt(color_spectrum(interface["tint"])), color_spectrum(body["base_color"])]
        ),
        "dials": dials,
        "inputs": np.array([compiled.program.inputs.get(name, -1) for name in INPUTS], np.int32),
        "constants": constants,
        "registers": registers,
        "color_varies": int(color_varies),
    }


def _dial_registers(compiled: Compiled, boundary: str):
    color = compiled.dials["interior", "transmission_color"]
    registers = compiled.program.registers
    coefficients = [registers, registers + 1, registers + 2]
    constants = list(compiled.program.constants)
    known = compiled.constant("interior", "transmission_color")
    if known is not None:
        constants += zip(coefficients, coefficients_of(*np.clip(known, 0, 1)), strict=True)
    dials = [
        compiled.dials["interface", "specular_ior"],
        compiled.dials[boundary, "specular_roughness"],
        *color,
        compiled.dials["interior", "transmission_depth"],
        *coefficients,
    ]
    return np.array(dials, np.int32), constants, registers + 3, known is None


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
