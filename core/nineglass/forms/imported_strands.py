"""Strands that were put in: OpenUSD `BasisCurves`. A file is hostile until it is read within limits."""

import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import Fault, Refused, choice, dial, file_dial
from nineglass.forms import FORMS
from nineglass.forms.curves import Roots, Strands, curves_through, numbers_of, sown
from nineglass.forms.imported import METRES
from nineglass.forms.mesh import Mesh
from nineglass.put_in import ReadFile, arrays_of

AS_SAID = "as the file says"
LARGEST_M = 1e3
SKIN_PLACES = 40_000
"""Places of the skin among which that beneath each root is looked for."""


@FORMS.kind(title="Imported strands", family="fibre")
class ImportedStrands:
    """Strands from an OpenUSD file (BasisCurves). They stay where they are in the axes of the skin that they are put on, whose pattern they take."""

    grows = True
    synonyms = "hair fur curves usd groom"

    file = file_dial("strands", label="File")
    unit = choice(AS_SAID, "cm", "mm", "m", "inch", label="Unit of the file")
    up = choice(AS_SAID, "Y", "Z", label="Up in the file")
    scale = dial(1, 0.1, 10, hard=(1e-6, 1e6), scale="log", ends=("smaller", "larger"))
    thickness = dial(
        1,
        0.1,
        10,
        hard=(1e-6, 1e6),
        scale="log",
        ends=("finer", "thicker"),
        help="Of the strands, of what the file says.",
    )
    placed = choice("by the file's origin", "on the middle of the skin", label="Placed")
    seed = dial(
        1, 0, 100, hard=(0, 1_000_000), ends=("first", "hundredth"), help="Of the random number of each strand."
    )

    def how_many(self, dials: dict) -> int:
        """How many strands there are."""
        return len(_read(dials["file"])["spans"]) if dials["file"] else 1

    def spans(self, dials: dict) -> int:
        """How many spans they are made of."""
        return int(_read(dials["file"])["spans"].sum()) if dials["file"] else 1

    def sow(self, dials: dict, skin: Mesh, share: float = 1.0) -> Roots:
        """The roots of a share of the strands, with what the skin has beneath them."""
        if not dials["file"]:
            return sown(skin, 1, int(dials["seed"]))
        points, first, found = _placed(dials)
        count = max(1, round(len(first) * share))
        place = points[first[:count], :3]
        place = place + _shift(dials, points, skin)
        near = sown(skin, SKIN_PLACES, 0)
        nearest = _tree(near).query(place, workers=2)[1]
        uv = found.get("uv")
        return Roots(
            place.astype(np.float32),
            near.normal[nearest],
            near.uv[nearest] if uv is None else uv[:count],
            numbers_of(int(dials["seed"]), 1, count),
            np.arange(count),
        )

    def grow(self, dials: dict, roots: Roots, down: np.ndarray, lengths: np.ndarray | None = None) -> Strands:
        """The strands of some roots. lengths: (n,) share of the length that each keeps from its root on."""
        if not dials["file"]:
            return _stand_in(roots)
        points, first, found = _placed(dials)
        spans = found["spans"][roots.which]
        rows = np.repeat(first[roots.which], 3 * spans + 1) + _counted(3 * spans + 1)
        own = points[rows].astype(np.float32)
        starts = np.concatenate([[0], np.cumsum(3 * spans + 1)[:-1]]).astype(np.int64)
        own[:, :3] += (roots.place - own[starts, :3]).repeat(3 * spans + 1, axis=0)
        if lengths is not None:
            there = own[starts, :3].repeat(3 * spans + 1, axis=0)
            own[:, :3] = there + (own[:, :3] - there) * lengths.repeat(3 * spans + 1)[:, None]
        at = _counted(spans)
        strand = np.repeat(np.arange(len(spans), dtype=np.int32), spans)
        along = np.stack([at, at + 1], axis=1) / np.repeat(spans, spans)[:, None]
        ends = starts.repeat(spans) + 3 * at
        steps = np.linalg.norm(own[ends + 3, :3] - own[ends, :3], axis=1)
        length = np.bincount(strand, steps, len(spans))
        return Strands(own, ends.astype(np.int32), strand, along.astype(np.float32), roots, length.astype(np.float32))


def _counted(counts: np.ndarray) -> np.ndarray:
    """0 to n - 1 for each n, end to end."""
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]])
    return np.arange(int(counts.sum())) - np.repeat(starts, counts)


def _stand_in(roots: Roots) -> Strands:
    """One upright strand, until a file is chosen."""
    ends = np.stack([roots.place, roots.place + 0.02 * roots.normal], axis=1)
    return curves_through(ends, np.array([200.0]), np.array([50.0]), roots)


@remembered
def _read(name: str) -> dict[str, np.ndarray]:
    return arrays_of(name, "strands")


def _placed(dials: dict) -> tuple[np.ndarray, np.ndarray, dict[str, np.ndarray]]:
    """(points in m, the first of each strand, the arrays of the file)."""
    found = _read(dials["file"])
    unit = float(found["metres"]) if dials["unit"] == AS_SAID else METRES[dials["unit"]]
    points = found["points"] * np.float32(unit * dials["scale"])
    points[:, 3] *= np.float32(dials["thickness"])
    up = str(found["up"]) if dials["up"] == AS_SAID else dials["up"]
    if up == "Z":
        points[:, 1], points[:, 2] = points[:, 2].copy(), -points[:, 1]
    across = float(np.ptp(points[:, :3], axis=0).max())
    if across > LARGEST_M:
        fault, allowed = f"the strands are {across:.3g} m across", f"at most {LARGEST_M:g} m"
        raise Refused([Fault("file", fault, allowed, "Choose another unit or scale.")])
    counts = 3 * found["spans"] + 1
    return points, np.concatenate([[0], np.cumsum(counts)[:-1]]), found


def _shift(dials: dict, points: np.ndarray, skin: Mesh) -> np.ndarray:
    if dials["placed"] == "by the file's origin":
        return np.zeros(3)
    low, high = skin.bounds()
    return (low + high) / 2 - (points[:, :3].min(axis=0) + points[:, :3].max(axis=0)) / 2


def _tree(roots: Roots):
    from scipy.spatial import cKDTree

    return cKDTree(roots.place)


def read_file(given: bytes) -> ReadFile:
    """Strands, with what a person should know before they are used."""
    from nineglass.exchange.usd_strands import read_usd

    curves = read_usd(given)
    size = np.ptp(curves.points[:, :3], axis=0)
    widths = 2 * curves.points[:, 3].astype(float)
    thinnest, thickest = (float(one) * curves.metres * 1e6 for one in (widths.min(), widths.max()))
    facts = {
        "says": [
            f"{len(curves.spans):,} strands, {thinnest:.0f} to {thickest:.0f} um thick.",
            f"Its unit is {curves.metres:g} m, {curves.up} is up.",
        ],
        "strands": len(curves.spans),
        "size": size.tolist(),
        "metres": curves.metres,
        "up": curves.up,
        "width_um": [thinnest, thickest],
        "faults": [f"Not read: {why}." for why in curves.unread],
    }
    arrays = {
        "points": curves.points,
        "spans": curves.spans,
        "metres": np.array(curves.metres),
        "up": np.array(curves.up),
    }
    return ReadFile(facts, arrays if curves.uv is None else arrays | {"uv": curves.uv})
