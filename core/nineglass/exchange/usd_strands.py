"""Strands as OpenUSD keeps them, `BasisCurves`, in and out. Source: the schema UsdGeomBasisCurves of OpenUSD.

Curves of every basis become cubic Bezier spans, exactly; a file that reaches for other files is refused.
"""

import tempfile
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from nineglass.files import refused_file

LARGEST_BYTES = 500_000_000
MOST_STRANDS, MOST_POINTS = 1_000_000, 40_000_000
FARTHEST = 1e9
ROOT_PLACE, ROOT_NORMAL, NUMBER = "root:place", "root:normal", "number"
"""Our primvars: the place and the normal of the skin at each root, and the random number of each strand."""


@dataclass(frozen=True)
class Curves:
    """Cubic Bezier spans of strands end to end, in the unit of the file."""

    points: np.ndarray
    """(p, 4) float32: places and radii; spans of one strand share their ends"""
    spans: np.ndarray
    """(n,) int32: how many spans each strand has"""
    metres: float
    """Of one unit."""
    up: str = "Y"
    uv: np.ndarray | None = None
    """(n, 2) texture coordinates of the skin at the roots"""
    unread: list[str] = field(default_factory=list)
    """What of the file was left out, and why"""


def read_usd(given: bytes) -> Curves:
    """All curves of a file. Raises Refused."""
    if len(given) > LARGEST_BYTES:
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    from pxr import Tf, Usd, UsdGeom

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"strands.{ending(given)}"
        path.write_bytes(given)
        try:
            stage = opened(str(path))
            found = [curves_of(prim) for prim in Usd.PrimRange(stage.GetPseudoRoot()) if prim.IsA(UsdGeom.BasisCurves)]
        except Tf.ErrorException as error:
            said = str(error).strip().splitlines()[-1][:120]
            raise refused_file(f"not a USD file that can be read ({said})", "a .usda or .usdc file") from None
        unread = [one for one in found if isinstance(one, str)]
        found = [one for one in found if not isinstance(one, str)]
        if not found:
            raise refused_file("; ".join(unread) or "it holds no curves", "at least one BasisCurves, linear or cubic")
        points = np.concatenate([points for points, _, _ in found])
        spans = np.concatenate([spans for _, spans, _ in found])
        _within_limits(points, len(spans))
        uv = None if any(one is None for *_, one in found) else np.concatenate([one for *_, one in found])
        metres, up = float(UsdGeom.GetStageMetersPerUnit(stage)), str(UsdGeom.GetStageUpAxis(stage))
        return Curves(points, spans, metres, up, uv, unread)


def ending(given: bytes) -> str:
    """Of a USD file, by its first bytes. Raises Refused."""
    if given[:8] == b"PXR-USDC":
        return "usdc"
    if given[:5] == b"#usda":
        return "usda"
    raise refused_file("not a USD file", "a .usda or .usdc file")


def opened(path: str):
    """The stage of a file that is complete in itself. Raises Refused."""
    from pxr import Sdf, Usd

    layer = Sdf.Layer.FindOrOpen(path)
    if layer is None:
        raise refused_file("not a USD file that can be read", "a .usda or .usdc file")
    if _refers_elsewhere(layer):
        raise refused_file(
            "it refers to other files", "a file that is complete", "Flatten it in the program that made it."
        )
    return Usd.Stage.Open(layer, Usd.Stage.LoadNone)


def _refers_elsewhere(layer) -> bool:
    """Whether a layer is put together of others: by sublayers, references and payloads, in any variant, or by clips of values."""
    # A reference within the file names no asset.
    if any(layer.GetCompositionAssetDependencies()) or any(layer.GetExternalAssetDependencies()):
        return True
    clipped = []

    def look_at(path) -> None:
        prim = layer.GetPrimAtPath(path)
        if prim and prim.HasInfo("clips"):
            clipped.append(path)

    layer.Traverse("/", look_at)
    return bool(clipped)


def _within_limits(points: np.ndarray, strands: int) -> None:
    if strands > MOST_STRANDS:
        raise refused_file(f"{strands:,} strands", f"at most {MOST_STRANDS:,}")
    if not np.isfinite(points).all() or np.abs(points[:, :3]).max() > FARTHEST:
        raise refused_file("places that are not numbers, or too far", f"finite, at most {FARTHEST:g}")
    if (points[:, 3] <= 0).any():
        raise refused_file("widths that are not above 0", "widths above 0")


def curves_of(prim) -> tuple[np.ndarray, np.ndarray, np.ndarray | None] | str:
    """(points, spans, texture coordinates) of one prim on the stage, or why it is left out."""
    from pxr import Usd, UsdGeom

    curves, when = UsdGeom.BasisCurves(prim), Usd.TimeCode.EarliestTime()
    counts = np.array(curves.GetCurveVertexCountsAttr().Get(when) or (), np.int64)
    places = np.array(curves.GetPointsAttr().Get(when) or (), float).reshape(-1, 3)
    name = prim.GetName()
    if not len(counts):
        return f"{name} holds no curve"
    if len(places) > MOST_POINTS or counts.sum() != len(places) or (counts < 2).any():
        return f"{name} has {len(places):,} points for curves of {int(counts.sum()):,}"
    basis, wrap = str(curves.GetBasisAttr().Get()), str(curves.GetWrapAttr().Get())
    basis = basis if str(curves.GetTypeAttr().Get()) == "cubic" else "linear"
    if wrap == "periodic":
        return f"{name} has closed curves"
    matrix = np.array(UsdGeom.XformCache(when).GetLocalToWorldTransform(prim), float)
    widths = _widths(curves, when, counts)
    if widths is None:
        return f"{name} has widths that do not fit its curves"
    scale = abs(np.linalg.det(matrix[:3, :3])) ** (1 / 3)
    placed = np.column_stack([places @ matrix[:3, :3] + matrix[3, :3], widths * scale / 2])
    try:
        points, spans = _as_bezier(placed, counts, basis, wrap == "pinned")
    except ValueError as error:
        return f"{name}: {error}"
    return points.astype(np.float32), spans.astype(np.int32), _uv_of(prim, len(counts))


def _widths(curves, when, counts: np.ndarray) -> np.ndarray | None:
    """(points,) the width at each point, however it is given."""
    given, total = np.array(curves.GetWidthsAttr().Get(when) or (1.0,), float), int(counts.sum())
    if len(given) == 1:
        return np.full(total, given[0])
    if len(given) == total:
        return given
    if len(given) == len(counts):
        return np.repeat(given, counts)
    for ends in (counts - 2, (counts + 2) // 3):
        # One for each end of a span ("varying"): those of the points between are taken evenly.
        if ends.min() >= 2 and len(given) == ends.sum():
            starts = np.concatenate([[0], np.cumsum(ends)[:-1]])
            return np.concatenate(
                [
                    np.interp(np.linspace(0, 1, n), np.linspace(0, 1, e), given[s : s + e])
                    for n, e, s in zip(counts, ends, starts, strict=True)
                ]
            )
    return None


def _uv_of(prim, count: int) -> np.ndarray | None:
    from pxr import UsdGeom

    primvar = UsdGeom.PrimvarsAPI(prim).GetPrimvar("st")
    given = primvar.ComputeFlattened() if primvar and primvar.HasValue() else None
    uv = np.array(given if given is not None else (), np.float32).reshape(-1, 2) if given is not None else None
    return uv if uv is not None and len(uv) == count else None


def _as_bezier(points: np.ndarray, counts: np.ndarray, basis: str, pinned: bool) -> tuple[np.ndarray, np.ndarray]:
    """((p, 4), (n,)) Bezier spans through the same curves, those of equal length together, in the order of the strands."""
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    spans = np.array([_spans_of(basis, pinned, int(n)) for n in np.unique(counts)])
    if (spans < 1).any():
        raise ValueError(f"too few points for a curve of the basis {basis}")
    of_each = dict(zip(np.unique(counts).tolist(), spans.tolist(), strict=True))
    spans = np.array([of_each[int(n)] for n in counts])
    made = np.empty((int((3 * spans + 1).sum()), 4))
    into = np.concatenate([[0], np.cumsum(3 * spans + 1)[:-1]])
    for n, k in of_each.items():
        which = np.flatnonzero(counts == n)
        rows = points[starts[which][:, None] + np.arange(n)]
        made[into[which][:, None] + np.arange(3 * k + 1)] = _TO_BEZIER[basis](
            _pinned(rows) if pinned and basis in ENDS else rows
        )
    return made, spans


ENDS = ("bspline", "catmullRom")
"""Bases of which a pinned curve has an end more at each side."""


def _spans_of(basis: str, pinned: bool, n: int) -> int:
    if basis == "linear":
        return n - 1
    if basis == "bezier":
        return (n - 1) // 3 if (n - 1) % 3 == 0 else 0
    return n - 1 if pinned else n - 3


def _pinned(rows: np.ndarray) -> np.ndarray:
    first, last = 2 * rows[:, :1] - rows[:, 1:2], 2 * rows[:, -1:] - rows[:, -2:-1]
    return np.concatenate([first, rows, last], axis=1)


def _joined(corners: np.ndarray) -> np.ndarray:
    """(n, 3k + 1, 4) from (n, k, 4 points, 4)."""
    n, k = corners.shape[:2]
    return np.concatenate([corners[:, :, :3].reshape(n, 3 * k, 4), corners[:, -1, 3:]], axis=1)


def _from_linear(rows: np.ndarray) -> np.ndarray:
    a, b = rows[:, :-1], rows[:, 1:]
    return _joined(np.stack([a, a + (b - a) / 3, b - (b - a) / 3, b], axis=2))


def _from_bspline(rows: np.ndarray) -> np.ndarray:
    a, b, c, d = (rows[:, k : rows.shape[1] - 3 + k] for k in range(4))
    return _joined(np.stack([(a + 4 * b + c) / 6, (2 * b + c) / 3, (b + 2 * c) / 3, (b + 4 * c + d) / 6], axis=2))


def _from_catmull_rom(rows: np.ndarray) -> np.ndarray:
    a, b, c, d = (rows[:, k : rows.shape[1] - 3 + k] for k in range(4))
    return _joined(np.stack([b, b + (c - a) / 6, c - (d - b) / 6, c], axis=2))


_TO_BEZIER = {
    "linear": _from_linear,
    "bezier": lambda rows: rows,
    "bspline": _from_bspline,
    "catmullRom": _from_catmull_rom,
}


def as_curves(rows) -> tuple[Curves, dict[str, np.ndarray]]:
    """(the curves in cm, more of each strand by name) to be written to a file. rows: `trace.geometry.strands.StrandRows`."""
    points = rows.points * np.float32(100)
    spans = np.bincount(rows.strand, minlength=len(rows.roots)).astype(np.int32)
    more = {ROOT_PLACE: rows.roots[:, :3] * 100, ROOT_NORMAL: rows.roots[:, 3:6], NUMBER: rows.traits[:, 0]}
    return Curves(points, spans, 0.01, "Y", rows.roots[:, 6:8]), more


def write_usd(curves: Curves, primvars_of: dict[str, np.ndarray], path: Path) -> None:
    """Write strands as cubic Bezier curves. path: ends in .usda or .usdc. primvars_of: more of them by name, one row for each strand."""
    from pxr import Usd, UsdGeom

    path.unlink(missing_ok=True)
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageMetersPerUnit(stage, curves.metres)
    UsdGeom.SetStageUpAxis(stage, curves.up)
    stage.SetDefaultPrim(put_curves(stage, "/strands", curves, primvars_of).GetPrim())
    stage.GetRootLayer().Save()


def put_curves(stage, path: str, curves: Curves, primvars_of: dict[str, np.ndarray]):
    """Strands as `BasisCurves` at a path of a stage, in its unit."""
    from pxr import Gf, Sdf, UsdGeom, Vt

    made = UsdGeom.BasisCurves.Define(stage, path)
    made.CreateTypeAttr("cubic")
    made.CreateBasisAttr("bezier")
    made.CreateWrapAttr("nonperiodic")
    made.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(curves.points[:, :3], np.float32)))
    made.CreateCurveVertexCountsAttr(Vt.IntArray.FromNumpy((3 * curves.spans + 1).astype(np.int32)))
    made.CreateWidthsAttr(Vt.FloatArray.FromNumpy((2 * curves.points[:, 3]).astype(np.float32)))
    made.SetWidthsInterpolation("vertex")
    places = curves.points[:, :3]
    made.CreateExtentAttr([Gf.Vec3f(*map(float, places.min(axis=0))), Gf.Vec3f(*map(float, places.max(axis=0)))])
    primvars = UsdGeom.PrimvarsAPI(made)
    if curves.uv is not None:
        st = primvars.CreatePrimvar("st", Sdf.ValueTypeNames.TexCoord2fArray, "uniform")
        st.Set(Vt.Vec2fArray.FromNumpy(np.ascontiguousarray(curves.uv, np.float32)))
    for name, rows in primvars_of.items():
        rows = np.ascontiguousarray(rows, np.float32)
        wide = rows.ndim == 2
        kind, array = (
            (Sdf.ValueTypeNames.Float3Array, Vt.Vec3fArray) if wide else (Sdf.ValueTypeNames.FloatArray, Vt.FloatArray)
        )
        primvars.CreatePrimvar(name, kind, "uniform").Set(array.FromNumpy(rows))
    return made
