"""What is around the objects, as the kernels read it: two colours that change over at the horizon, or a picture of all directions."""

from math import acos, atan2, cos, sin
from typing import NamedTuple

import numpy as np

from nineglass.kernels import HALF, ONE, PI, TWO, ZERO, F, kernel, optic
from nineglass.spectra.observer import LUMINANCE
from nineglass.vectors import index_among, smooth

SAMPLED_HEIGHT = 128
"""Rows of the table that directions are drawn from."""


class Around(NamedTuple):
    """One surround. With `pictured`, its radiance is picture (h, w, 3) times the spectra of red, green and blue."""

    below: int  # row of `Scene.spectra`
    above: int
    softness: np.float32
    pictured: int
    picture: np.ndarray  # (h, w, 3) float32
    rows: np.ndarray  # (s + 1,) float32: the chance of a row above this one
    columns: np.ndarray  # (s, 2 s + 1) float32: within a row, the chance of a column before this one
    worth: np.float32  # about the luminous irradiance that it gives; 0 where it is not asked for light


def around_of(below: int, above: int, softness: float, picture: np.ndarray | None, uniform: bool = False) -> Around:
    """A surround with the table that directions are drawn from. uniform: draw all directions alike (for comparison)."""
    if picture is None:
        nothing = np.zeros((1, 1, 3), np.float32)
        tables = np.zeros(2, np.float32), np.zeros((1, 3), np.float32)
        return Around(below, above, np.float32(softness), 0, nothing, *tables, np.float32(0))
    picture = np.ascontiguousarray(picture, np.float32)
    rows, columns = _tables(picture, uniform)
    down = np.sin((np.arange(len(picture)) + 0.5) / len(picture) * np.pi)[:, None]
    mean = float((picture @ LUMINANCE * down).mean() / down.mean())
    return Around(below, above, np.float32(softness), 1, picture, rows, columns, np.float32(np.pi * mean + 1e-9))


def _tables(picture: np.ndarray, uniform: bool):
    height, width = SAMPLED_HEIGHT, 2 * SAMPLED_HEIGHT
    weight = _brightest_around(picture @ LUMINANCE, height, width)
    weight = weight + 0.02 * weight.mean() + 1e-9
    if uniform:
        weight = np.ones((height, width))
    weight = weight * np.sin((np.arange(height) + 0.5) / height * np.pi)[:, None]
    row = weight.sum(axis=1)
    rows = np.concatenate([[0], np.cumsum(row)]) / row.sum()
    columns = np.concatenate([np.zeros((height, 1)), np.cumsum(weight, axis=1)], axis=1) / row[:, None]
    return rows.astype(np.float32), np.ascontiguousarray(columns, np.float32)


def _brightest_around(luminance: np.ndarray, height: int, width: int) -> np.ndarray:
    """The mean over the texels in and around each cell, so that no cell with light in it has no chance."""
    y = (np.arange(height * 2) + 0.5) / (height * 2) * luminance.shape[0]
    x = (np.arange(width * 2) + 0.5) / (width * 2) * luminance.shape[1]
    if luminance.shape[0] > height * 2:
        step = luminance.shape[0] // (height * 2)
        luminance = (
            luminance[: height * 2 * step, : width * 2 * step]
            .reshape(height * 2, step, width * 2, step)
            .mean(axis=(1, 3))
        )
        y, x = np.arange(height * 2), np.arange(width * 2)
    fine = luminance[y.astype(int)][:, x.astype(int)]
    cells = fine.reshape(height, 2, width, 2).mean(axis=(1, 3))
    up, down = np.vstack([cells[:1], cells[:-1]]), np.vstack([cells[1:], cells[-1:]])
    return cells * 0.6 + 0.1 * (up + down + np.roll(cells, 1, axis=1) + np.roll(cells, -1, axis=1))


BRIGHT_FROM = 8.0
"""Cells of the table that are so many times brighter than the mean make up the bright part of a picture."""

NO_BRIGHT = around_of(0, 0, 1.0, None)


def bright_part(around: Around) -> Around:
    """Directions of the bright places of a pictured surround alone; all others have no chance."""
    if not around.pictured or around.worth <= 0:
        return NO_BRIGHT
    height = len(around.rows) - 1
    share = np.diff(around.rows.astype(float))[:, None] * np.diff(around.columns.astype(float), axis=1)
    solid = np.sin((np.arange(height) + 0.5) / height * np.pi)[:, None] * np.ones((1, 2 * height))
    solid /= solid.sum()
    kept = np.where(share > BRIGHT_FROM * solid, share, 0)
    if not kept.any():
        return NO_BRIGHT
    row = kept.sum(axis=1)
    rows = np.concatenate([[0], np.cumsum(row)]) / row.sum()
    columns = np.concatenate([np.zeros((height, 1)), np.cumsum(kept, axis=1)], axis=1) / np.maximum(row, 1e-30)[:, None]
    return NO_BRIGHT._replace(
        rows=rows.astype(np.float32),
        columns=np.ascontiguousarray(columns, np.float32),
        worth=np.float32(around.worth * row.sum()),
    )


@optic
def surround_share(height, softness):
    """How much of the upper colour a direction sees. height: its vertical component."""
    return smooth(HALF + HALF * height / max(softness, F(1e-3)))


@optic
def picture_place(direction):
    """(across, down) in [0, 1) of a direction in a picture of the surround."""
    across = HALF + F(atan2(direction[0], direction[2])) / (TWO * PI)
    down = F(acos(min(max(direction[1], -ONE), ONE))) / PI
    return across, down


@optic
def picture_color(picture, direction):
    """Linear Rec.709 of a picture in a direction, bilinear."""
    height, width = picture.shape[0], picture.shape[1]
    across, down = picture_place(direction)
    x, y = across * F(width) - HALF, min(max(down * F(height) - HALF, ZERO), F(height - 1))
    if x < ZERO:
        x += F(width)
    i, j = index_among(x, width), index_among(y, max(height - 1, 1))
    fx, fy = x - F(i), y - F(j)
    k, below = (i + 1) % width, min(j + 1, height - 1)
    a, b = (ONE - fx) * (ONE - fy), fx * (ONE - fy)
    c, d = (ONE - fx) * fy, fx * fy
    return (
        a * picture[j, i, 0] + b * picture[j, k, 0] + c * picture[below, i, 0] + d * picture[below, k, 0],
        a * picture[j, i, 1] + b * picture[j, k, 1] + c * picture[below, i, 1] + d * picture[below, k, 1],
        a * picture[j, i, 2] + b * picture[j, k, 2] + c * picture[below, i, 2] + d * picture[below, k, 2],
    )


@optic
def place_in(cumulative, u):
    """The interval of a rising table that holds u."""
    low, high = 0, cumulative.size - 1
    while high - low > 1:
        middle = (low + high) // 2
        if cumulative[middle] <= u:
            low = middle
        else:
            high = middle
    return low


@optic
def draw_direction(around, u, v):
    """A direction drawn by the brightness of a picture, from two numbers in [0, 1)."""
    row = place_in(around.rows, u)
    column = place_in(around.columns[row], v)
    low, high = around.rows[row], around.rows[row + 1]
    left, right = around.columns[row, column], around.columns[row, column + 1]
    y = (F(row) + (u - low) / max(high - low, F(1e-12))) / F(around.rows.size - 1)
    x = (F(column) + (v - left) / max(right - left, F(1e-12))) / F(around.columns.shape[1] - 1)
    theta, phi = y * PI, (x - HALF) * TWO * PI
    return F(sin(theta) * sin(phi)), F(cos(theta)), F(sin(theta) * cos(phi))


@optic
def direction_pdf(around, direction):
    """Density per solid angle of `draw_direction`. Source: Pharr, Jakob & Humphreys 2016, 14.2.4."""
    height, width = around.rows.size - 1, around.columns.shape[1] - 1
    across, down = picture_place(direction)
    row, column = index_among(down * F(height), height), index_among(across * F(width), width)
    share = (around.rows[row + 1] - around.rows[row]) * (around.columns[row, column + 1] - around.columns[row, column])
    sine = max(F(sin(down * PI)), F(1e-4))
    return share * F(height * width) / (TWO * PI * PI * sine)


@kernel
def drawn(around, u, v, directions, pdf):
    """Fill directions (3, n) and their densities (n,) from numbers u, v (n,)."""
    for i in range(pdf.size):
        way = draw_direction(around, u[i], v[i])
        directions[0, i], directions[1, i], directions[2, i] = way
        pdf[i] = direction_pdf(around, way)
