import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import choice, dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh

GRAVITY = 9.81
AROUND = 288
"""Sectors; rings are as far apart as sectors are wide, so that what is near is fine and the horizon costs little."""

INNERMOST_M = 0.4
WAVES = 220
SHORTEST_M = 0.25
"""The shortest wave of the mesh; what is smaller is left to the normal."""

ALPHA, BETA = 0.0081, 0.74
FROM_WIND, BY_DIAL = "the wind", "the dial"


@FORMS.kind(title="Sea", family="liquid")
class Sea:
    """Open water to the horizon, moved by wind that has blown long: waves of many lengths, none of them alike.

    Its middle is about the middle of the stage; the farther from there, the coarser it is.
    """

    wind = dial(
        6, 2, 20, hard=(0.5, 40), unit="m/s", scale="log", ends=("breath", "gale"), help="At 19.5 m over the sea."
    )
    height_from = choice(FROM_WIND, BY_DIAL, label="Height follows")
    wave_height = dial(
        60,
        5,
        800,
        hard=(0, 10000),
        unit="cm",
        scale="log",
        ends=("calm", "rough"),
        help="Of the highest third of the waves, from trough to crest.",
        when=("height_from", BY_DIAL),
    )
    choppiness = dial(0.7, 0, 1.5, hard=(0, 3), ends=("rolling", "sharp crests"))
    direction = dial(
        30, -180, 180, hard=(-3600, 3600), unit="deg", ends=("left", "right"), help="Where the wind blows to."
    )
    depth = dial(1000, 50, 20000, hard=(1, 1000000), unit="cm", scale="log", ends=("shallow", "deep"))
    reach = dial(
        200000,
        10000,
        500000,
        hard=(100, 10000000),
        unit="cm",
        scale="log",
        ends=("bay", "ocean"),
        help="How far it goes.",
    )
    time = dial(0, 0, 10, hard=(-1e6, 1e6), unit="s", ends=("now", "later"))

    def mesh(self, dials) -> Mesh:
        moved, normals, _ = _surface(tuple(sorted(dials.items())))
        depth = max(dials["depth"] / 100, 0.01)
        top = np.stack([moved[0], np.maximum(moved[1], -0.9 * depth), moved[2]], axis=1)
        return _closed(top, normals.T, depth)

    def faults(self, dials) -> list[tuple[str, str, float]]:
        """(what is wrong, the dial, what to set it to): crests that fold over themselves."""
        *_, stretch = _surface(tuple(sorted(dials.items())))
        folded = float((stretch < 0).mean())
        if folded == 0:
            return []
        better = round(0.9 * dials["choppiness"] / (1 - float(stretch.min())), 2)
        return [(f"crests fold over themselves on {folded:.1%} of the mesh", "choppiness", better)]


def significant_height(wind: float) -> float:
    """Of the highest third of the waves (m), of a sea that wind (m/s) has blown on for long. Source: Pierson & Moskowitz 1964."""
    return 4 * float(np.sqrt(ALPHA * wind**4 / (4 * BETA * GRAVITY**2)))


@remembered
def _waves(wind: float) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """(wave numbers (1/m), ways (rad, about the wind's), amplitudes (m), phases) of the waves that make up a sea.

    Sources: Pierson & Moskowitz 1964, A Proposed Spectral Form for Fully Developed Wind Seas; ways spread as the square of a cosine.
    """
    rng = np.random.default_rng(11)
    lowest = 0.55 * GRAVITY / wind
    highest = max(np.sqrt(GRAVITY * 2 * np.pi / SHORTEST_M), 3 * lowest)
    edges = np.geomspace(lowest, highest, WAVES + 1)
    frequency = edges[:-1] + rng.random(WAVES) * np.diff(edges)
    spectrum = ALPHA * GRAVITY**2 / frequency**5 * np.exp(-BETA * (GRAVITY / (wind * frequency)) ** 4)
    amplitude = np.sqrt(2 * spectrum * np.diff(edges))
    amplitude *= significant_height(wind) / 4 / np.sqrt((amplitude**2).sum() / 2)
    way = np.arcsin(rng.uniform(-1, 1, WAVES)) * rng.choice([0.6, 1.0], WAVES)
    return frequency**2 / GRAVITY, way, amplitude, rng.uniform(0, 2 * np.pi, WAVES)


@remembered
def plane_of(reach: float) -> tuple[np.ndarray, np.ndarray]:
    """((n, 2) places on a flat sea in m, (n,) how far apart they are there): its middle, then ring by ring."""
    step = 1 + 2 * np.pi / AROUND
    rings = int(np.ceil(np.log(reach / INNERMOST_M) / np.log(step))) + 1
    radius = np.minimum(INNERMOST_M * step ** np.arange(rings), reach)
    angle = np.arange(AROUND) * 2 * np.pi / AROUND
    places = radius[:, None, None] * np.stack([np.sin(angle), np.cos(angle)], axis=-1)
    cells = np.repeat(radius * 2 * np.pi / AROUND, AROUND)
    return np.concatenate([[[0.0, 0.0]], places.reshape(-1, 2)]), np.concatenate([[INNERMOST_M / 2], cells])


@remembered
def _surface(dials: tuple) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """`displaced` of the whole sea, for its mesh and for what is said of it."""
    given = dict(dials)
    return displaced(*plane_of(round(given["reach"] / 100, 3)), given)


def displaced(plane: np.ndarray, cells: np.ndarray, dials: dict) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """((3, n) places in m, (3, n) normals, (n,) by how much the surface is stretched at each: below 0 it folds).

    Source: Fournier & Reeves 1986, A Simple Model of Ocean Waves (Gerstner's waves).
    """
    number, way, amplitude, phase = _waves(round(dials["wind"], 3))
    if dials["height_from"] == BY_DIAL:
        amplitude = amplitude * dials["wave_height"] / 100 / significant_height(round(dials["wind"], 3))
    way = way + np.radians(dials["direction"])
    x, z = plane.T
    height, ahead_x, ahead_z = np.zeros((3, len(x)))
    slope_x, slope_z, xx, xz, zz = np.zeros((5, len(x)))
    chop, depth = dials["choppiness"], dials["depth"] / 100
    pace = np.sqrt(GRAVITY * number * np.tanh(number * depth))
    for k, angle, a, start, omega in zip(number, way, amplitude, phase, pace, strict=True):
        # What lies farther out is too coarse for this wave.
        near = slice(0, int(np.searchsorted(cells, np.pi / k)))
        shown = np.clip(np.pi / (2 * k * cells[near]) - 0.5, 0, 1) * a
        east, north = np.sin(angle), np.cos(angle)
        turn = k * (x[near] * east + z[near] * north) - omega * dials["time"] + start
        up, along = shown * np.cos(turn), shown * np.sin(turn)
        height[near] += up
        ahead_x[near] -= chop * east * along
        ahead_z[near] -= chop * north * along
        slope_x[near] -= k * east * along
        slope_z[near] -= k * north * along
        xx[near] -= chop * k * east * east * up
        xz[near] -= chop * k * east * north * up
        zz[near] -= chop * k * north * north * up
    across = np.stack([1 + xx, slope_x, xz])
    away = np.stack([xz, slope_z, 1 + zz])
    normals = np.cross(away, across, axis=0)
    stretch = (1 + xx) * (1 + zz) - xz * xz
    normals /= np.linalg.norm(normals, axis=0)
    return np.stack([x + ahead_x, height, z + ahead_z]), normals * np.sign(normals[1] + 1e-9), stretch


def _closed(top: np.ndarray, normals: np.ndarray, depth: float) -> Mesh:
    """The water beneath a surface, down to a flat bottom. top: (n, 3), its middle, then ring by ring."""
    n, rings = len(top), (len(top) - 1) // AROUND
    sector = np.arange(AROUND)
    after = (sector + 1) % AROUND
    fan = np.stack([np.zeros(AROUND, int), 1 + sector, 1 + after], axis=1)
    inner = 1 + np.arange(rings - 1)[:, None] * AROUND
    a, b = (inner + sector).ravel(), (inner + after).ravel()
    c, d = a + AROUND, b + AROUND
    faces = np.concatenate([fan, np.stack([a, c, d], 1), np.stack([a, d, b], 1)])
    edge = top[1 + (rings - 1) * AROUND :]
    low = edge * [1, 0, 1] - [0, depth, 0]
    out = edge * [1, 0, 1] / np.linalg.norm(edge * [1, 0, 1], axis=1, keepdims=True)
    wall_top, wall_low = n + sector, n + AROUND + sector
    wall = [
        np.stack([wall_top, wall_low, wall_low[after]], 1),
        np.stack([wall_top, wall_low[after], wall_top[after]], 1),
    ]
    middle, ring = n + 2 * AROUND, n + 2 * AROUND + 1 + sector
    floor = np.stack([np.full(AROUND, middle), ring[after], ring], axis=1)
    down = np.tile([0.0, -1.0, 0.0], (AROUND + 1, 1))
    return Mesh(
        np.concatenate([top, edge, low, [[0.0, -depth, 0.0]], low]).astype(np.float32),
        np.concatenate([normals, out, out, down]).astype(np.float32),
        np.concatenate([faces, *wall, floor]).astype(np.int32),
    )
