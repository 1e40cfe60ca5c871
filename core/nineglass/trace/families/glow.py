"""Surfaces that send out light: what a path takes of it where it meets one.

A glow that is the same everywhere is asked for like a lamp as well (`light.glowing`); one that is driven is met by chance only.
"""

from typing import NamedTuple

import numpy as np

from nineglass.documents.bands.glow import TEMPERATURE
from nineglass.kernels import ZERO, F, kernel
from nineglass.spectra.blackbody import blackbody
from nineglass.spectra.curves import curve_at
from nineglass.spectra.observer import D65
from nineglass.spectra.upsampling import color_spectrum, sigmoid
from nineglass.trace.light.ask import glow_share
from nineglass.trace.media.clear import held
from nineglass.trace.paths import FORMS, THROWN
from nineglass.vectors import dot, scale, sub, vec3

BRIGHTEST = F(1e9)


class Rows(NamedTuple):
    """One row a material; registers are -1 where there are none."""

    luminance: np.ndarray  # (m,) int32: register
    color: np.ndarray  # (m,) int32: the first of three registers
    light: np.ndarray  # (m, 401) float32: spectrum of white glow of luminance 1


REGISTERS = ("luminance", "color")
"""Rows that name registers."""


def row(side) -> dict:
    """The row of one stack. side: `matter.Side`."""
    if "glow" not in side.leaf.order:
        return {"luminance": -1, "color": -1, "light": np.zeros_like(D65)}
    [luminance] = side.registers.of(side.leaf, "glow", "emission_luminance")
    color = side.registers.of(side.leaf, "glow", "emission_color")[0]
    return {"luminance": luminance, "color": color, "light": white_glow(side.settled("glow"))}


def white_glow(glow: dict) -> np.ndarray:
    """(401,) the spectrum that a glow's colour filters, of luminance 1."""
    return blackbody(glow["kelvin"]) if glow["source"] == TEMPERATURE else D65


def even_glow(side) -> np.ndarray | None:
    """(401,) radiance of a glow that is the same everywhere, or None."""
    if "glow" not in side.leaf.order:
        return None
    known = [side.compiled.constant("glow", dial, side.leaf) for dial in ("emission_luminance", "emission_color")]
    if None in known:
        return None
    luminance, color = known
    return luminance * color_spectrum(color) * white_glow(side.settled("glow"))


@kernel
def add_glow(batch, registers, scene, rows):
    """Give every path that meets a glowing surface from outside the light of it. Before the surface is shaded."""
    paths, hits = batch.paths, batch.hits
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        m, j = hits.matter[i], hits.thing[i]
        direction = vec3(paths.direction, i)
        facing = -dot(direction, vec3(hits.flat, i))
        if rows.luminance[m] < 0 or facing <= ZERO or paths.state[i] & THROWN:
            continue
        share, g = F(1), scene.glowing.row[j]
        if g >= 0:
            start = sub(vec3(paths.origin, i), scale(direction, hits.distance[i]))
            share = glow_share(scene, paths, i, g, start, facing, hits.distance[i])
        luminance = share * held(registers[rows.luminance[m], column], ZERO, BRIGHTEST)
        first = rows.color[m]
        c0, c1, c2 = registers[first, column], registers[first + 1, column], registers[first + 2, column]
        for w in range(paths.lines[i]):
            nm = paths.wavelength[w, i]
            glow = luminance * sigmoid(c0, c1, c2, nm) * curve_at(rows.light[m], nm)
            paths.light[w, i] += paths.weight[w, i] * glow
