"""Runs a program over a batch of hits, one operation at a time over a block that fits the first-level cache."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from math import acos, atan2, cos, exp, floor, log, sin, sqrt

import numpy as np

from nineglass.kernels import ONE, ZERO, F, kernel, optic
from nineglass.lattice import along, between
from nineglass.network import ops as code
from nineglass.network.ops import LARGEST, Program
from nineglass.vectors import lerp

BLOCK = 256

ADD, SUB, MUL, DIV, MIN, MAX = code.ADD, code.SUB, code.MUL, code.DIV, code.MIN, code.MAX
ABS, SQRT, POW, EXP, LOG = code.ABS, code.SQRT, code.POW, code.EXP, code.LOG
SIN, COS, ACOS, FLOOR, LESS, NOISE = code.SIN, code.COS, code.ACOS, code.FLOOR, code.LESS, code.NOISE
ATAN2, WHITE, STREWN, TEXEL, GRID = code.ATAN2, code.WHITE, code.STREWN, code.TEXEL, code.GRID


@optic
def _corner(ix, iy, iz, x, y, z):
    h = (
        np.uint32(ix) * np.uint32(0x8DA6B343)
        ^ np.uint32(iy) * np.uint32(0xD8163841)
        ^ np.uint32(iz) * np.uint32(0xCB1AB31F)
    )
    h = (h ^ (h >> np.uint32(15))) * np.uint32(0x2C1B3C6D)
    h = (h ^ (h >> np.uint32(12))) & np.uint32(15)
    u = x if h < np.uint32(8) else y
    v = y if h < np.uint32(4) else (x if h == np.uint32(12) or h == np.uint32(14) else z)
    return (u if h & np.uint32(1) == np.uint32(0) else -u) + (v if h & np.uint32(2) == np.uint32(0) else -v)


@optic
def _fade(t):
    return t * t * t * (t * (t * F(6) - F(15)) + F(10))


@optic
def gradient_noise(x, y, z):
    """Gradient noise in three dimensions, about -1 to 1, 0 at whole numbers. Source: Perlin 2002, Improving Noise."""
    fx, fy, fz = floor(x), floor(y), floor(z)
    ix, iy, iz = np.int32(fx), np.int32(fy), np.int32(fz)
    x, y, z = F(x - fx), F(y - fy), F(z - fz)
    u, v, w = _fade(x), _fade(y), _fade(z)
    jx, jy, jz = ix + np.int32(1), iy + np.int32(1), iz + np.int32(1)
    x1, y1, z1 = x - ONE, y - ONE, z - ONE
    a = lerp(_corner(ix, iy, iz, x, y, z), _corner(jx, iy, iz, x1, y, z), u)
    b = lerp(_corner(ix, jy, iz, x, y1, z), _corner(jx, jy, iz, x1, y1, z), u)
    c = lerp(_corner(ix, iy, jz, x, y, z1), _corner(jx, iy, jz, x1, y, z1), u)
    d = lerp(_corner(ix, jy, jz, x, y1, z1), _corner(jx, jy, jz, x1, y1, z1), u)
    return lerp(lerp(a, b, v), lerp(c, d, v), w)


@optic
def _power(a, b):
    if a > ZERO:
        return exp(b * log(a))
    return ZERO


TO_UNIT = F(1 / 2**32)


@optic
def _bits_of(ix, iy, iz):
    h = (
        np.uint32(ix) * np.uint32(0x8DA6B343)
        ^ np.uint32(iy) * np.uint32(0xD8163841)
        ^ np.uint32(iz) * np.uint32(0xCB1AB31F)
    )
    h = np.uint32((np.uint32(h) ^ (np.uint32(h) >> np.uint32(16))) * np.uint32(0x7FEB352D))
    h = np.uint32((h ^ (h >> np.uint32(15))) * np.uint32(0x846CA68B))
    return np.uint32(h ^ (h >> np.uint32(16)))


@optic
def _another(bits):
    bits = np.uint32(np.uint32(bits) * np.uint32(1664525) + np.uint32(1013904223))
    h = np.uint32((bits ^ (bits >> np.uint32(15))) * np.uint32(0x2C1B3C6D))
    return np.uint32(h ^ (h >> np.uint32(13)))


@optic
def white_noise(x, y, z):
    """A random number from 0 to 1 for each cube of side 1."""
    return F(_bits_of(np.int32(floor(x)), np.int32(floor(y)), np.int32(floor(z)))) * TO_UNIT


@optic
def strewn_points(x, y, z):
    """(distance to the nearest of points strewn one to a cube, to the second nearest, random number of the nearest).

    Source: Worley 1996, A Cellular Texture Basis Function.
    """
    fx, fy, fz = floor(x), floor(y), floor(z)
    x, y, z = F(x - fx), F(y - fy), F(z - fz)
    ix, iy, iz = np.int32(fx), np.int32(fy), np.int32(fz)
    nearest, second, which = F(1e9), F(1e9), ZERO
    for k in range(27):
        dx, dy, dz = k % 3 - 1, (k // 3) % 3 - 1, k // 9 - 1
        bits = _bits_of(ix + np.int32(dx), iy + np.int32(dy), iz + np.int32(dz))
        b2 = _another(bits)
        b3 = _another(b2)
        px, py, pz = F(dx) + F(bits) * TO_UNIT - x, F(dy) + F(b2) * TO_UNIT - y, F(dz) + F(b3) * TO_UNIT - z
        away = px * px + py * py + pz * pz
        if away < nearest:
            second, nearest, which = nearest, away, F(_another(b3)) * TO_UNIT
        elif away < second:
            second = away
    return sqrt(nearest), sqrt(second), which


@optic
def _bilinear(texels, a, b, c, d, channel, fx, fy):
    high = lerp(texels[a, channel], texels[b, channel], fx)
    return lerp(high, lerp(texels[c, channel], texels[d, channel], fx), fy)


@optic
def texel(texels, places, number, u, v):
    """A picture's colour at texture coordinates, bilinear and repeated; (0, 0) is the lower left corner."""
    start, height, width = places[number, 0], places[number, 1], places[number, 2]
    x, y = F(u - floor(u)) * F(width) - F(0.5), (ONE - F(v - floor(v))) * F(height) - F(0.5)
    low_x, low_y = floor(x), floor(y)
    fx, fy, i, j = F(x - low_x), F(y - low_y), np.int32(low_x), np.int32(low_y)
    left, right = i % width, (i + 1) % width
    top, bottom = start + (j % height) * width, start + ((j + 1) % height) * width
    return (
        _bilinear(texels, top + left, top + right, bottom + left, bottom + right, 0, fx, fy),
        _bilinear(texels, top + left, top + right, bottom + left, bottom + right, 1, fx, fy),
        _bilinear(texels, top + left, top + right, bottom + left, bottom + right, 2, fx, fy),
    )


@optic
def voxel(voxels, boxes, number, x, y, z):
    """A grid's number at a place, each part from 0 to 1 over it, linear between the middles of voxels; 0 outside."""
    inside = x >= ZERO and x <= ONE and y >= ZERO and y <= ONE and z >= ZERO and z <= ONE
    if not inside:
        return ZERO
    start, nx, ny, nz = boxes[number, 0], boxes[number, 1], boxes[number, 2], boxes[number, 3]
    i, dx, fx = along(x * F(nx), nx)
    j, dy, fy = along(y * F(ny), ny)
    k, dz, fz = along(z * F(nz), nz)
    corner = start + (k * ny + j) * nx + i
    return between(voxels, corner, dx, dy * nx, dz * nx * ny, fx, fy, fz)


@kernel
def run_program(operations, registers, texels, places, voxels, boxes, first, last):
    """Run (n, 5) int32 operations on the columns first to last (without it) of registers (r, batch) float32.

    texels, places, voxels, boxes: the pictures and grids, as `Program.texels` gives them.
    """
    for start in range(first, last, BLOCK):
        stop = min(start + BLOCK, last)
        for k in range(operations.shape[0]):
            operation = operations[k, 0]
            out = registers[operations[k, 1], start:stop]
            a = registers[operations[k, 2], start:stop]
            b = registers[operations[k, 3], start:stop]
            if operation == ADD:
                for i in range(out.size):
                    out[i] = a[i] + b[i]
            elif operation == SUB:
                for i in range(out.size):
                    out[i] = a[i] - b[i]
            elif operation == MUL:
                for i in range(out.size):
                    out[i] = a[i] * b[i]
            elif operation == DIV:
                for i in range(out.size):
                    out[i] = a[i] / b[i] if b[i] != ZERO else ZERO
            elif operation == MIN:
                for i in range(out.size):
                    out[i] = a[i] if a[i] < b[i] else b[i]
            elif operation == MAX:
                for i in range(out.size):
                    out[i] = a[i] if a[i] > b[i] else b[i]
            elif operation == ABS:
                for i in range(out.size):
                    out[i] = abs(a[i])
            elif operation == LESS:
                for i in range(out.size):
                    out[i] = ONE if a[i] < b[i] else ZERO
            elif operation == SQRT:
                for i in range(out.size):
                    out[i] = sqrt(max(a[i], ZERO))
            elif operation == POW:
                for i in range(out.size):
                    out[i] = _power(a[i], b[i])
            elif operation == EXP:
                for i in range(out.size):
                    out[i] = exp(min(a[i], F(80)))
            elif operation == LOG:
                for i in range(out.size):
                    out[i] = log(max(a[i], F(1e-30)))
            elif operation == SIN:
                for i in range(out.size):
                    out[i] = sin(a[i])
            elif operation == COS:
                for i in range(out.size):
                    out[i] = cos(a[i])
            elif operation == ACOS:
                for i in range(out.size):
                    out[i] = acos(min(max(a[i], -ONE), ONE))
            elif operation == FLOOR:
                for i in range(out.size):
                    out[i] = floor(a[i])
            elif operation == NOISE:
                c = registers[operations[k, 4], start:stop]
                for i in range(out.size):
                    out[i] = gradient_noise(a[i], b[i], c[i])
            elif operation == ATAN2:
                for i in range(out.size):
                    out[i] = atan2(a[i], b[i])
            elif operation == WHITE:
                c = registers[operations[k, 4], start:stop]
                for i in range(out.size):
                    out[i] = white_noise(a[i], b[i], c[i])
            elif operation >= GRID:
                c = registers[operations[k, 4], start:stop]
                for i in range(out.size):
                    out[i] = voxel(voxels, boxes, operation - GRID, a[i], b[i], c[i])
            elif operation in (STREWN, TEXEL):
                c = registers[operations[k, 4], start:stop]
                second = registers[operations[k, 1] + 1, start:stop]
                third = registers[operations[k, 1] + 2, start:stop]
                if operation == STREWN:
                    for i in range(out.size):
                        out[i], second[i], third[i] = strewn_points(a[i], b[i], c[i])
                else:
                    for i in range(out.size):
                        out[i], second[i], third[i] = texel(texels, places, int(c[i]), a[i], b[i])


def fill_constants(program: Program, registers: np.ndarray) -> None:
    """Write the constants of a program into registers (r, batch); the program never changes them."""
    for register, value in program.constants:
        registers[register] = value


AT_ONCE = 1 << 14
"""Columns that a long run goes through at a time: more would need too much room for registers."""


def evaluate_many(program: Program, signals: list[int], count: int, inputs: Callable[[int, int], dict]) -> np.ndarray:
    """As `evaluate`, for many columns, by two threads. inputs: gives those of the columns from one to another (without it)."""
    found = np.empty((len(signals), count), np.float32)

    def share(first: int) -> None:
        last = min(first + AT_ONCE, count)
        found[:, first:last] = evaluate(program, signals, last - first, **inputs(first, last))

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(share, range(0, count, AT_ONCE)))
    return found


def evaluate(program: Program, signals: list[int], count: int, **inputs) -> np.ndarray:
    """(len(signals), count) float32: values of some registers over given inputs, each (count,); inputs not given are 0."""
    registers = np.zeros((max(program.registers, 1), count), np.float32)
    fill_constants(program, registers)
    for name, register in program.inputs.items():
        registers[register] = inputs.get(name, 0)
    run_program(program.operations, registers, *program.texels, 0, count)
    return np.nan_to_num(registers[signals], nan=0, posinf=LARGEST, neginf=-LARGEST)
