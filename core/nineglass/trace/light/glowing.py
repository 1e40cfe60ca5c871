"""Surfaces that glow, as lamps: a thing whose material has a glow that is the same everywhere is asked for light like a lamp."""

from math import sqrt
from typing import NamedTuple

import numpy as np

from nineglass.kernels import ONE, ZERO, F, step
from nineglass.spectra.observer import CMF
from nineglass.trace.geometry.standing import Standing
from nineglass.trace.geometry.surface import surface_at
from nineglass.trace.light.surround import place_in
from nineglass.vectors import dot, row3, scale, sub


class Glowing(NamedTuple):
    """One row a glowing thing."""

    thing: np.ndarray  # (g,) int32: row of `Things`
    row: np.ndarray  # (t,) int32: of each thing its row here, -1 for none
    first: np.ndarray  # (g,) int32: where its triangles begin in `shares`
    count: np.ndarray  # (g,) int32: how many triangles
    area: np.ndarray  # (g,) float32, m2
    centre: np.ndarray  # (g, 3) float32, m
    reach: np.ndarray  # (g,) float32, m: from the centre to its farthest place
    strength: np.ndarray  # (g,) float32: luminance
    spectra: np.ndarray  # (g, 401) float32 radiance
    shares: (
        np.ndarray
    )  # float32: for each glowing thing count + 1 rising numbers, the share of its area before each triangle


def glowing_of(standing: Standing, rows: list[int], spectra: dict[int, np.ndarray]) -> Glowing:
    """The glowing things of a stage. rows: the row of each thing's material. spectra: radiance (401,) of the materials that glow."""
    things = [k for k, row in enumerate(rows) if row in spectra]
    shares, areas, centres, reaches, firsts = [np.zeros(1, np.float32)], [], [], [], []
    for k in things:
        placed = standing.placed[k]
        at = placed.mesh.vertices[placed.mesh.faces].astype(float)
        area = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1) / 2
        firsts.append(sum(len(one) for one in shares))
        shares.append((np.concatenate([[0], np.cumsum(area)]) / area.sum()).astype(np.float32))
        low, high = placed.mesh.bounds()
        areas.append(area.sum())
        centres.append(placed.axes @ ((low + high) / 2) + placed.offset)
        reaches.append(np.linalg.norm(high - low) / 2)
    row_of = np.full(len(rows), -1, np.int32)
    row_of[things] = np.arange(len(things))
    glow = np.array([spectra[rows[k]] for k in things], np.float32).reshape(-1, 401)
    return Glowing(
        thing=np.array(things, np.int32),
        row=row_of,
        first=np.array(firsts, np.int32),
        count=np.array([len(standing.placed[k].mesh.faces) for k in things], np.int32),
        area=np.array(areas, np.float32),
        centre=np.array(centres, np.float32).reshape(-1, 3),
        reach=np.array(reaches, np.float32),
        strength=(glow @ CMF[:, 1]).astype(np.float32),
        spectra=glow,
        shares=np.concatenate(shares),
    )


@step
def glow_worth(glowing, g, origin):
    """About the luminous irradiance that a glowing thing can give to a place; never 0."""
    away = sub(row3(glowing.centre, g), origin)
    square = dot(away, away) + glowing.reach[g] * glowing.reach[g]
    return glowing.strength[g] * glowing.area[g] * F(0.25) / square


@step
def draw_on_glowing(geometry, glowing, g, origin, u, a, b):
    """(unit direction to a place drawn on a glowing thing, distance, density per solid angle); a distance of 0 from behind."""
    first, count = glowing.first[g], glowing.count[g]
    t = place_in(glowing.shares[first : first + count + 1], u)
    root = sqrt(a)
    surface = surface_at(geometry, glowing.thing[g], t, root * (ONE - b), root * b)
    way = sub(surface.place, origin)
    distance = sqrt(max(dot(way, way), F(1e-20)))
    way = scale(way, ONE / distance)
    facing = -dot(way, surface.flat)
    if facing <= F(1e-6):
        return way, ZERO, ONE
    return way, distance, distance * distance / (facing * glowing.area[g])


@step
def glow_density(glowing, g, facing, distance):
    """Density per solid angle with which `draw_on_glowing` draws a place that is met under a cosine."""
    return distance * distance / (max(facing, F(1e-6)) * glowing.area[g])
