"""Make the grids that ship with us, as OpenVDB files: chimney smoke and the flame of a wick. By code, with fixed seeds.

python tools/bake_grids.py
"""

import numpy as np
from nineglass.exchange.vdb import Grid, write_vdb
from nineglass.network.grids import DATA, OURS
from nineglass.network.interpret import evaluate_many
from nineglass.network.ops import Ops

CHANNELS = ("density", "temperature")
"""What each holds; temperature in K."""

SPREAD = 0.22
"""By how much the plume of smoke widens on its way, of that way."""


def _places(shape: tuple[int, int, int]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(x, y, z) from 0 to 1 of the middles of voxels of a grid (z, y, x), each flat."""
    z, y, x = (np.arange(side, dtype=np.float32) / side + np.float32(0.5 / side) for side in shape)
    z, y, x = np.meshgrid(z, y, x, indexing="ij")
    return x.ravel(), y.ravel(), z.ravel()


def _noise(ops: Ops, place, size: float, octaves: int, seed: float):
    """Cloudy noise about 0, of a few octaves; size: of the largest lumps."""
    total, strength = ops.constant(0), 1.0
    for octave in range(octaves):
        scale, off = ops.constant(2**octave / size), ops.constants((seed, seed * 1.7 + octave, seed * 2.3))
        lumps = ops.noise(tuple(ops.add(ops.mul(axis, scale), o) for axis, o in zip(place, off, strict=True)))
        total, strength = ops.add(total, ops.mul(lumps, ops.constant(strength))), strength * 0.55
    return total


def _smoke(ops: Ops, x, y, z):
    """A plume that rises, leans, widens and curls."""
    constant = ops.constant
    x, z = ops.sub(x, constant(0.34)), ops.sub(z, constant(0.5))
    radius = ops.add(constant(0.05), ops.mul(constant(SPREAD), y))
    lean = ops.mul(constant(0.34), ops.mul(y, ops.sqrt(y)))
    risen = ops.mul(constant(1 / SPREAD), ops.log(radius))
    place = ops.div(ops.sub(x, lean), radius), risen, ops.div(z, radius)
    curl = [ops.mul(_noise(ops, place, 1.5, 2, seed), constant(0.85)) for seed in (3.1, 7.7, 12.9)]
    place = tuple(map(ops.add, place, curl))
    away = ops.sqrt(ops.add(ops.mul(place[0], place[0]), ops.mul(place[2], place[2])))
    lumps = _noise(ops, place, 0.8, 4, 21.3)
    body = ops.add(ops.sub(constant(0.72), ops.mul(away, constant(0.85))), ops.mul(lumps, constant(0.75)))
    body = ops.smooth(ops.step_between(body, constant(0), constant(0.75)))
    thinner = ops.sub(constant(1), ops.mul(constant(0.72), ops.sqrt(y)))
    ends = ops.mul(ops.step_between(y, constant(0), constant(0.03)), ops.step_between(y, constant(1), constant(0.86)))
    density = ops.mul(ops.mul(body, thinner), ends)
    cooled = ops.exp(ops.mul(constant(-4), y))
    return density, ops.mul(density, ops.add(constant(320), ops.mul(constant(600), cooled)))


def _flame(ops: Ops, x, y, z):
    """The flame of a wick: a drop, dark about the wick, hottest at its rim; soot glows in it. The air about it is as hot."""
    constant = ops.constant
    up = ops.step_between(y, constant(0.04), constant(0.97))
    sway = ops.mul(constant(0.035), ops.mul(ops.sin(ops.mul(y, constant(5.2))), y))
    x, z = ops.sub(ops.sub(x, constant(0.5)), sway), ops.sub(z, constant(0.5))
    width = ops.mul(ops.pow(up, constant(0.55)), ops.pow(ops.one_minus(up), constant(0.85)))
    radius = ops.add(ops.mul(constant(0.83), width), constant(1e-4))
    share = ops.div(ops.sqrt(ops.add(ops.mul(x, x), ops.mul(z, z))), radius)
    inside = ops.smooth(ops.step_between(share, constant(1), constant(0.72)))
    lit = ops.smooth(ops.step_between(up, constant(0.06), constant(0.42)))
    about_wick = ops.mul(
        ops.step_between(up, constant(0.30), constant(0.10)), ops.step_between(share, constant(0.9), constant(0.3))
    )
    tip = ops.step_between(up, constant(1), constant(0.94))
    density = ops.mul(ops.mul(inside, ops.mul(lit, tip)), ops.one_minus(about_wick))
    mantle = ops.smooth(ops.step_between(share, constant(0.1), constant(0.85)))
    hotter = ops.add(ops.mul(constant(330), mantle), ops.mul(constant(260), ops.smooth(up)))
    kelvin = ops.add(constant(1400), hotter)
    return density, ops.mul(kelvin, ops.step_between(share, constant(1.5), constant(1.3)))


def _worked_out(build, shape: tuple[int, int, int]) -> dict[str, np.ndarray]:
    ops = Ops()
    signals = build(ops, *ops.position)
    place = _places(shape)

    def inputs(first: int, last: int) -> dict:
        return {axis: along[first:last] for axis, along in zip("xyz", place, strict=True)}

    found = evaluate_many(ops.program().only(set(signals)), list(signals), int(np.prod(shape)), inputs)
    return {name: values.reshape(shape) for name, values in zip(CHANNELS, found, strict=True)}


MADE = {"chimney smoke": (_smoke, (96, 144, 128), 1.0), "wick flame": (_flame, (56, 112, 56), 3 / 112)}
"""How each is worked out, its voxels along z, y, x, and their side in cm."""


def main() -> None:
    DATA.mkdir(exist_ok=True)
    for name, (build, shape, voxel) in MADE.items():
        found = _worked_out(build, shape)
        file = write_vdb([Grid(channel, values, (voxel,) * 3) for channel, values in found.items()])
        (DATA / OURS[name]).write_bytes(file)
        print(f"{name}: {len(file) / 1e6:.2f} MB")


if __name__ == "__main__":
    main()
