"""The form that is strands, grown on another object."""

import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.curves import Roots, Strands, curves_through, numbers_of, sown, unit_of
from nineglass.forms.mesh import Mesh

MOST_STRANDS = 1_000_000
CM = 0.01


@FORMS.kind(title="Strands", family="fibre", name="strands")
class Growing:
    """Hair, fur, bristles: strands that grow on another object, evenly by its area. The same seed gives the same strands."""

    grows = True
    synonyms = "hair fur pelt brush bristle wool fibre groom"

    count = dial(
        20000, 100, 300000, hard=(1, MOST_STRANDS), scale="log", ends=("sparse", "dense"), help="How many strands."
    )
    length = dial(2, 0.1, 30, hard=(0.001, 1000), unit="cm", scale="log", ends=("stubble", "long"))
    length_random = dial(0.2, 0, 1, label="Uneven", ends=("alike", "ragged"), help="How much shorter some are.")
    root_width = dial(
        80,
        5,
        300,
        hard=(0.1, 20000),
        unit="um",
        scale="log",
        label="Thickness at the root",
        ends=("down", "bristle"),
        help="Fine fur 15 to 25, human hair 50 to 100, a bristle 150 to 250 (common practice).",
    )
    tip_width = dial(
        20, 1, 300, hard=(0.1, 20000), unit="um", scale="log", label="Thickness at the tip", ends=("pointed", "cut")
    )
    width_random = dial(0.2, 0, 1, label="Thickness uneven", ends=("alike", "mixed"))
    lean = dial(30, 0, 89, hard=(-89, 89), unit="deg", ends=("upright", "lying"), help="From the skin's normal.")
    lean_random = dial(8, 0, 45, hard=(0, 180), unit="deg", label="Lean uneven", ends=("combed", "tousled"))
    comb_turn = dial(
        0,
        -180,
        180,
        hard=(-3600, 3600),
        unit="deg",
        label="Combed towards",
        ends=("left", "right"),
        help="About the upright axis: 0 is to the right of the form, 90 to its front.",
    )
    comb_dip = dial(
        0, -90, 90, unit="deg", label="Combed down or up", ends=("down", "up"), help="-90 combs everything down."
    )
    comb_random = dial(10, 0, 90, hard=(0, 180), unit="deg", label="Comb uneven", ends=("combed", "tousled"))
    bend = dial(20, -180, 180, hard=(-3600, 3600), unit="deg", ends=("back", "onward"), help="From root to tip.")
    bend_random = dial(10, 0, 90, hard=(0, 3600), unit="deg", label="Bend uneven", ends=("alike", "mixed"))
    gravity = dial(0.2, 0, 3, hard=(0, 100), ends=("stiff", "limp"), help="How much they hang.")
    curl = dial(
        0, 0, 1, hard=(0, 100), unit="cm", label="Curl radius", ends=("straight", "ringlets"), help="Of its turns."
    )
    curl_turns = dial(2, 0.5, 10, hard=(0, 100), label="Turns", ends=("wave", "coil"))
    frizz = dial(0.02, 0, 0.5, hard=(0, 100), unit="cm", ends=("sleek", "frizzy"), help="How far they wander.")
    clumps = dial(0, 0, 3000, hard=(0, 200000), ends=("loose", "many locks"), help="How many locks; 0 for none.")
    tightness = dial(0.6, 0, 1, ends=("loose", "pointed"), help="How far tips come together in their lock.")
    pieces = dial(4, 1, 16, hard=(1, 64), ends=("coarse", "smooth"), help="Of each strand: more for curls.")
    seed = dial(1, 0, 100, hard=(0, 1_000_000), ends=("first", "hundredth"), help="Another gives other strands.")

    def how_many(self, dials: dict) -> int:
        """How many strands are sown."""
        return round(dials["count"])

    def spans(self, dials: dict) -> int:
        """How many spans they are made of."""
        return self.how_many(dials) * max(1, round(dials["pieces"]))

    def sow(self, dials: dict, skin: Mesh, share: float = 1.0) -> Roots:
        """The roots of a share of the strands."""
        return sown(skin, max(1, round(dials["count"] * share)), int(dials["seed"]))

    def grow(self, dials: dict, roots: Roots, down: np.ndarray, lengths: np.ndarray | None = None) -> Strands:
        """Strands from their roots. down: in the axes of the skin. lengths: (n,) share of the length that each has."""
        shifts, count = numbers_of(int(dials["seed"]), 2, len(_SPREADS)), len(roots.number)

        def uneven(which: int) -> np.ndarray:
            """(n, 1) from -1 to 1, of the roots' own numbers, so that those that stay keep it."""
            return 2 * ((roots.number[:, None] * _SPREADS[which] * 4096 + shifts[which]) % 1) - 1

        normal = roots.normal
        comb = _turned(normal, _combed(normal, dials["comb_turn"], dials["comb_dip"]), dials["comb_random"] * uneven(0))
        side = np.cross(normal, comb)
        knots = max(1, round(dials["pieces"])) + 1
        lean = dials["lean"] + dials["lean_random"] * uneven(1)
        bend = dials["bend"] + dials["bend_random"] * uneven(2)
        length = dials["length"] * CM * (1 - dials["length_random"] * (0.5 + 0.5 * uneven(3)))
        if lengths is not None:
            length = length * lengths[:, None]
        length = np.maximum(length, 1e-6).astype(np.float32)
        places = np.empty((count, knots, 3), np.float32)
        places[:, 0] = roots.place
        axes = np.empty((count, knots, 3), np.float32)
        down = np.asarray(down, np.float32)
        for k in range(knots):
            t = np.float32(k / (knots - 1))
            angle = np.radians(lean + bend * t).astype(np.float32)
            way = np.cos(angle) * normal + np.sin(angle) * comb + np.float32(dials["gravity"]) * t * down
            axes[:, k] = unit_of(way)
            if k:
                places[:, k] = places[:, k - 1] + unit_of(axes[:, k] + axes[:, k - 1]) * (length / (knots - 1))
        _curl(places, axes, side, dials, uneven(4))
        _frizz(places, axes, side, dials, [uneven(k) for k in (5, 6, 7, 8)])
        if dials["clumps"] >= 1 and count:
            _clump(places, roots.place, dials)
        wide = 1 + dials["width_random"] * 0.5 * uneven(9)[:, 0]
        return curves_through(places, dials["root_width"] * wide, dials["tip_width"] * wide, roots)


_SPREADS = np.sqrt(np.array([2, 3, 5, 7, 11, 13, 17, 19, 23, 29], float)) % 1
"""One for each thing that is uneven: roots of primes have nothing in common."""


def _combed(normal: np.ndarray, turn: float, dip: float) -> np.ndarray:
    """(n, 3) the direction of a comb along a skin."""
    a, b = np.radians(turn), np.radians(dip)
    way = np.array([np.cos(b) * np.cos(a), np.sin(b), np.cos(b) * np.sin(a)], np.float32)
    along = way - normal * (normal @ way)[:, None]
    lost = np.linalg.norm(along, axis=1) < 1e-3
    if lost.any():
        other = np.cross(normal[lost], np.roll(way, 1) + np.float32(0.1))
        along[lost] = other
    return unit_of(along)


def _turned(axis: np.ndarray, way: np.ndarray, degrees: np.ndarray) -> np.ndarray:
    angle = np.radians(degrees).astype(np.float32)
    return np.cos(angle) * way + np.sin(angle) * np.cross(axis, way)


def _curl(places, axes, side, dials, phase) -> None:
    radius, knots = dials["curl"] * CM, places.shape[1]
    if radius <= 0:
        return
    for k in range(1, knots):
        t = k / (knots - 1)
        turn = 2 * np.pi * dials["curl_turns"] * t + np.pi * phase
        across = np.cross(axes[:, k], side)
        start = np.cos(np.pi * phase) * side + np.sin(np.pi * phase) * across
        around = np.cos(turn) * side + np.sin(turn) * across
        places[:, k] += (radius * (around - start)).astype(np.float32)


def _frizz(places, axes, side, dials, random) -> None:
    reach, knots = dials["frizz"] * CM, places.shape[1]
    if reach <= 0:
        return
    for k in range(1, knots):
        t = k / (knots - 1)
        across = np.cross(axes[:, k], side)
        one = np.sin(np.pi * (t * (2 + 2 * random[0]) + 2 * random[1])) - np.sin(2 * np.pi * random[1])
        two = np.sin(np.pi * (t * (2 + 2 * random[2]) + 2 * random[3])) - np.sin(2 * np.pi * random[3])
        places[:, k] += (reach * (one * side + two * across)).astype(np.float32)


def _clump(places, roots, dials) -> None:
    """Bring tips towards those of the first strands, one for each lock."""
    from scipy.spatial import cKDTree

    count = min(round(dials["clumps"]), len(places))
    _, lock = cKDTree(roots[:count]).query(roots, workers=2)
    middles = places[:count].copy()
    knots = places.shape[1]
    for k in range(1, knots):
        pull = np.float32(dials["tightness"] * (k / (knots - 1)) ** 0.7)
        places[:, k] += pull * (middles[lock, k] - places[:, k])
