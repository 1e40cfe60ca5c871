"""Bakes what thick pelts look like: for the shape of a fibre's lobes, the absorption by which a pelt has a colour.

    python tools/bake_pelts.py     writes core/nineglass/matter/data/pelts.npz (about five minutes on two cores)

Light that is seen of lying strands over a matt skin, evenly lit, is followed back through strands that absorb nothing; noted is how far it went
within them until it comes out into the open, and how often it met the skin. What comes out of strands that absorb, over a skin of the pelt's own color, is
the mean of color^(times at the skin) * exp(-absorption * way).
Source of the idea: Chiang, Bitterli, Tappan & Burley 2016, 4.4; the strands' cross-section: Jakob et al. 2010, A Radiative Transfer
Framework for Rendering Materials with Anisotropic Structure.
"""

import sys
from itertools import product
from math import cos, log, pi, sin, sqrt
from multiprocessing import get_context
from pathlib import Path

import numba
import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "core"))

from nineglass.matter.pelts import ALONG, AROUND, FILE, HIGHLIGHT, IOR, MEDULLA, STEPS
from nineglass.optics.fibre import (
    MORE,
    ONCE_WITHIN,
    PASSED,
    azimuthal_scale,
    bent_within,
    draw_lobe,
    longitudinal_variance,
    mirrored_share,
    shares,
)

F = np.float32
PATHS = 6000
MOST_ROOT = 12.0
MOST = 4000
DEEP = 30.0
"""Depth of the pelt in strands, one above another."""
LEAN, LEAN_UNEVEN, COMB_UNEVEN = 68.0, 12.0, 10.0
SEEN_FROM, SEEN_UNEVEN = 32.0, 8.0
"""How the pelt is looked at, in degrees from the skin's normal."""

TILT = F(np.radians(2.5))


@numba.njit(nogil=True)
def walk(paths, seed, along, around, highlight, medulla, ior):
    """(ways in diameters within strands of the light that comes out again, -1 for what was not followed to its end; times at the skin)."""
    np.random.seed(seed)
    found, skins = np.full(paths, F(-1)), np.zeros(paths, np.int64)
    variance, scale = longitudinal_variance(F(along)), azimuthal_scale(F(around))
    for k in range(paths):
        z = cos((SEEN_FROM + SEEN_UNEVEN * (2 * np.random.random() - 1)) * pi / 180)
        phi = 2 * pi * np.random.random()
        r = sqrt(1 - z * z)
        wx, wy, wz = r * cos(phi), r * sin(phi), -z
        depth, way = 0.0, 0.0
        for _ in range(MOST):
            depth -= wz * -log(1 - np.random.random())
            if depth < 0:
                found[k] = way
                break
            if depth > DEEP:
                depth = DEEP
                skins[k] += 1
                wz = sqrt(np.random.random())
                phi = 2 * pi * np.random.random()
                r = sqrt(1 - wz * wz)
                wx, wy = r * cos(phi), r * sin(phi)
                continue
            lean = (LEAN + LEAN_UNEVEN * (2 * np.random.random() - 1)) * pi / 180
            comb = COMB_UNEVEN * (2 * np.random.random() - 1) * pi / 180
            tx, ty, tz = sin(lean) * cos(comb), sin(lean) * sin(comb), cos(lean)
            slant = wx * tx + wy * ty + wz * tz
            sine = sqrt(max(1 - slant * slant, 0.0))
            if np.random.random() >= sine or sine < 1e-4:
                continue
            zx, zy, zz = (slant * tx - wx) / sine, (slant * ty - wy) / sine, (slant * tz - wz) / sine
            yx, yy, yz = zy * tz - zz * ty, zz * tx - zx * tz, zx * ty - zy * tx
            sin_o, cos_o = F(-slant), F(sine)
            h = F(2 * np.random.random() - 1)
            gamma_o, gamma_t, through = bent_within(sin_o, cos_o, h, F(ior))
            mirrored = mirrored_share(cos_o, h, F(ior))
            first, passed, once, more = shares(F(0), through, mirrored, F(highlight), F(medulla))
            lot = F(np.random.random()) * (first + passed + once + more)
            lobe, times = 0, 0
            if lot < first:
                lobe = 0
            elif lot < first + passed:
                lobe, times = PASSED, 1
            elif lot < first + passed + once:
                lobe, times = ONCE_WITHIN, 2
            else:
                lobe, times = MORE, 3
                cored = (passed / max(1 - medulla, 1e-9)) * medulla if medulla < 1 else (1 - first) * (1 - mirrored)
                if np.random.random() * more < cored:
                    times = 1
                else:
                    while times < 64 and np.random.random() < mirrored:
                        times += 1
            way += times * through
            a, b, c = draw_lobe(
                lobe,
                sin_o,
                cos_o,
                F(pi / 2),
                gamma_o,
                gamma_t,
                TILT,
                variance,
                scale,
                F(np.random.random()),
                F(np.random.random()),
                F(np.random.random()),
            )
            wx, wy, wz = a * tx + b * yx + c * zx, a * ty + b * yy + c * zy, a * tz + b * yz + c * zz
            norm = 1 / sqrt(wx * wx + wy * wy + wz * wz)
            wx, wy, wz = wx * norm, wy * norm, wz * norm
    return found, skins


def table(case) -> np.ndarray:
    """(STEPS,) the root of the absorption by even steps of the colour."""
    ways, skins = walk(PATHS, 7, *case, IOR)
    ended = ways >= 0
    return np.array(
        [_root(color, ways[ended].astype(float), skins[ended]) for color in np.linspace(0, 1, STEPS)], np.float32
    )


def _root(color: float, ways: np.ndarray, skins: np.ndarray) -> float:
    """The root of the absorption by which a pelt over a skin of a color has that color; 0 where no strands are as bright."""
    low, high = 0.0, MOST_ROOT
    left = color**skins
    for _ in range(30):
        middle = (low + high) / 2
        if (left * np.exp(-middle * middle * ways)).sum() / PATHS > color:
            low = middle
        else:
            high = middle
    return low


def main() -> None:
    cases = list(product(ALONG, AROUND, HIGHLIGHT, MEDULLA))
    walk(1, 7, *cases[0], IOR)
    with get_context("fork").Pool(2) as pool:
        tables = pool.map(table, cases, chunksize=1)
    shape = tuple(len(axis) for axis in (ALONG, AROUND, HIGHLIGHT, MEDULLA))
    np.savez_compressed(FILE, roots=np.array(tables).reshape(*shape, STEPS))


if __name__ == "__main__":
    main()
