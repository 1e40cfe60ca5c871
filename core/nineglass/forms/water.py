import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh

CELLS = 128
GRAVITY = 9.81


@FORMS.kind(title="Water surface", family="liquid")
class WaterSurface:
    """A square pool of water whose surface is moved by wind: waves by their spectrum, with sharpened crests."""

    size = dial(100, 10, 1000, hard=(0.1, 100000), unit="cm", scale="log", ends=("basin", "pool"))
    depth = dial(20, 1, 200, hard=(0.1, 100000), unit="cm", scale="log", ends=("shallow", "deep"))
    wind = dial(1.5, 0.5, 10, hard=(0.05, 50), unit="m/s", scale="log", ends=("breath", "gale"))
    wave_height = dial(
        1.0, 0.0, 10, hard=(0, 1000), unit="cm", ends=("calm", "rough"), help="Root mean square of the surface."
    )
    choppiness = dial(0.6, 0, 1.5, hard=(0, 3), ends=("rolling", "sharp crests"))
    time = dial(0, 0, 10, hard=(-1e6, 1e6), unit="s", ends=("now", "later"))

    def mesh(self, dials) -> Mesh:
        size, depth = dials["size"] / 100, dials["depth"] / 100
        shift = _waves(size, dials["wind"], round(dials["time"], 4)) * dials["wave_height"] / 100
        grid = (np.arange(CELLS + 1) / CELLS - 0.5) * size
        z, x = np.meshgrid(grid, grid, indexing="ij")
        edge = np.minimum(1, (CELLS / 2 - np.abs(np.arange(CELLS + 1) - CELLS / 2)) / 6)
        fade = dials["choppiness"] * edge[:, None] * edge[None, :]
        wrapped = np.pad(shift, ((0, 0), (0, 1), (0, 1)), mode="wrap")
        top = np.stack(
            [x + fade * wrapped[1], np.maximum(wrapped[0] + depth, depth * 0.1), z + fade * wrapped[2]], axis=-1
        )
        return _box(top)


@remembered
def _waves(size: float, wind: float, time: float) -> np.ndarray:
    """(3, CELLS, CELLS) height and sideways shift in x and z of a sea of unit root mean square.

    Source: Tessendorf 2001, Simulating Ocean Water: Phillips spectrum, deep-water dispersion, choppy waves.
    """
    rng = np.random.default_rng(9)
    k1 = 2 * np.pi * np.fft.fftfreq(CELLS, size / CELLS)
    kz, kx = np.meshgrid(k1, k1, indexing="ij")
    k = np.hypot(kx, kz)
    k[0, 0] = 1
    longest = wind * wind / GRAVITY
    along = (kx * 0.86 + kz * 0.5) / k
    spectrum = np.exp(-1 / (k * longest) ** 2) / k**4 * along**2 * np.exp(-((k * size / CELLS * 0.8) ** 2))
    spectrum[0, 0] = 0
    noise = rng.normal(size=(2, CELLS, CELLS))
    start = (noise[0] + 1j * noise[1]) * np.sqrt(spectrum / 2)
    mirrored = np.conj(np.roll(start[::-1, ::-1], 1, axis=(0, 1)))
    phase = np.exp(1j * np.sqrt(GRAVITY * k) * time)
    waves = start * phase + mirrored * np.conj(phase)
    height = np.fft.ifft2(waves).real
    sideways = [np.fft.ifft2(-1j * axis / k * waves).real for axis in (kx, kz)]
    return np.stack([height, *sideways]) / max(height.std(), 1e-12)


def _box(top: np.ndarray) -> Mesh:
    """A solid from a square of points (n, n, 3) down to the level 0."""
    n = len(top)
    low = top.copy()
    low[..., 1] = 0
    across, down = np.gradient(top, axis=1), np.gradient(top, axis=0)
    normal = np.cross(down, across)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    i, j = (g.ravel() for g in np.meshgrid(np.arange(n - 1), np.arange(n - 1), indexing="ij"))
    a, b, c, d = i * n + j, i * n + j + 1, (i + 1) * n + j + 1, (i + 1) * n + j
    up = np.concatenate([np.stack([a, d, c], 1), np.stack([a, c, b], 1)])
    parts = [(top.reshape(-1, 3), normal.reshape(-1, 3), up)]
    parts.append((low.reshape(-1, 3), np.tile([0.0, -1.0, 0.0], (n * n, 1)), up[:, ::-1]))
    for edge, out in (
        (top[0], (0, 0, -1)),
        (top[-1][::-1], (0, 0, 1)),
        (top[:, 0][::-1], (-1, 0, 0)),
        (top[:, -1], (1, 0, 0)),
    ):
        parts.append(_skirt(edge, np.array(out, float)))
    starts = np.cumsum([0, *(len(v) for v, _, _ in parts)])
    return Mesh(
        np.concatenate([v for v, _, _ in parts]).astype(np.float32),
        np.concatenate([nn for _, nn, _ in parts]).astype(np.float32),
        np.concatenate([f + s for (_, _, f), s in zip(parts, starts, strict=False)]).astype(np.int32),
    )


def _skirt(edge: np.ndarray, out: np.ndarray):
    """A wall from an edge (n, 3) down to the level 0, seen from `out` with the edge running to the left."""
    n = len(edge)
    low = edge * [1, 0, 1]
    i = np.arange(n - 1)
    faces = np.concatenate([np.stack([i, i + n, i + n + 1], 1)[:, ::-1], np.stack([i, i + n + 1, i + 1], 1)[:, ::-1]])
    return np.concatenate([edge, low]), np.tile(out, (2 * n, 1)), faces
