import numpy as np

from nineglass.describe import dial
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh

CELLS = 160


@FORMS.kind(title="Fold", family="solid")
class Fold:
    """A hanging cloth with folds that grow downwards, as thick as it is said to be."""

    width = dial(16, 2, 100, hard=(0.1, 10000), unit="cm", scale="log", ends=("swatch", "curtain"))
    height = dial(16, 2, 100, hard=(0.1, 10000), unit="cm", scale="log", ends=("low", "tall"))
    folds = dial(4, 1, 12, hard=(0.5, 40), ends=("one", "many"))
    deep = dial(0.12, 0, 0.3, hard=(0, 0.5), ends=("flat", "deep"), help="How far they swing, over the width.")
    thickness = dial(0.12, 0.02, 1, hard=(0.001, 100), unit="cm", scale="log", ends=("silk", "felt"))

    def mesh(self, dials) -> Mesh:
        wide, high, thick = dials["width"] / 100, dials["height"] / 100, dials["thickness"] / 200
        u, v = (grid.ravel() for grid in np.meshgrid(*[np.linspace(0, 1, CELLS + 1)] * 2, indexing="ij"))
        turn = 2 * np.pi * dials["folds"]
        # Thinner than half of the tightest bend, within which the two sides would meet.
        thick = min(thick, wide / 60, 0.5 * wide / max(dials["deep"] * turn**2, 1e-6))
        # Below, where v is 0, the folds swing whole; above they are gathered to a third.
        reach, slope = wide * dials["deep"] * (1 - 0.65 * v), -0.65 * wide * dials["deep"]
        phase = turn * u + 0.6 * np.sin(2 * np.pi * v) * v
        swing = np.sin(phase)
        places = np.stack([(u - 0.5) * wide, v * high, reach * swing], axis=1)
        by_u = np.stack([np.full_like(u, wide), np.zeros_like(u), reach * np.cos(phase) * turn], axis=1)
        phase_v = 0.6 * (np.sin(2 * np.pi * v) + 2 * np.pi * v * np.cos(2 * np.pi * v))
        by_v = np.stack(
            [np.zeros_like(u), np.full_like(u, high), slope * swing + reach * np.cos(phase) * phase_v], axis=1
        )
        normals = np.cross(by_u, by_v)
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        return _thick(places, normals, thick)


def _thick(places: np.ndarray, normals: np.ndarray, half: float) -> Mesh:
    """A grid of places with thickness to both sides, closed along its rim."""
    n = CELLS + 1
    row = np.arange(CELLS)[:, None] * n + np.arange(CELLS)
    a, b, c, d = row, row + n, row + n + 1, row + 1
    squares = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    edge = np.arange(n)
    rim = np.concatenate([edge * n, CELLS * n + edge, (edge * n + CELLS)[::-1], edge[::-1]])
    front, back = places + half * normals, places - half * normals
    before, after = rim, np.roll(rim, -1)
    keep = before != after
    before, after = before[keep], after[keep]
    corners = np.stack([front[after], front[before], back[before], back[after]], axis=1)
    out = np.cross(corners[:, 1] - corners[:, 0], corners[:, 3] - corners[:, 0])
    out /= np.linalg.norm(out, axis=1, keepdims=True)
    at = 2 * len(places) + 4 * np.arange(len(before))[:, None]
    sides = np.concatenate([at + np.array([0, 1, 2]), at + np.array([0, 2, 3])])
    return Mesh(
        np.concatenate([front, back, corners.reshape(-1, 3)]).astype(np.float32),
        np.concatenate([normals, -normals, np.repeat(out, 4, axis=0)]).astype(np.float32),
        np.concatenate([squares, squares[:, ::-1] + len(places), sides]).astype(np.int32),
    )
