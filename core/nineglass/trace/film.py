"""What a picture is while it is made: sums that add up over passes, tiles and workers."""

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from nineglass.picture.noise import LUMINANCE, told
from nineglass.trace.paths import GUIDES, LENGTH_BINS, LONGEST_M, SHORTEST_M, Limits


class Sums(NamedTuple):
    """What the camera's paths add up to, one row a pixel."""

    sums: np.ndarray  # (h*w, channels): linear Rec.709 and what else the response has
    odd: np.ndarray  # (h*w, 3): those of the odd half of the samples (`random.is_odd`)
    counts: np.ndarray  # (h*w,) int64: samples
    odd_counts: np.ndarray  # (h*w,) int64
    open_counts: np.ndarray  # (h*w,) int64: those that saw past everything
    through: np.ndarray  # (h*w, 3): what of white behind everything is seen through clear matter


@dataclass
class Film:
    """sums and what goes with them: see `Sums`; thrown (h*w, 3): light thrown from lamps, of `throws` paths (all, and the odd half);
    guides (h*w, 7): see `guides`; lengths through the matter by bin; the weight of paths that each of `Limits` cut."""

    width: int
    height: int
    channels: int = 3
    sums: np.ndarray = field(init=False)
    odd: np.ndarray = field(init=False)
    counts: np.ndarray = field(init=False)
    odd_counts: np.ndarray = field(init=False)
    open_counts: np.ndarray = field(init=False)
    through: np.ndarray = field(init=False)
    thrown: np.ndarray = field(init=False)
    thrown_odd: np.ndarray = field(init=False)
    throws: np.ndarray = field(init=False)
    guides: np.ndarray = field(init=False)
    lengths: np.ndarray = field(init=False)
    cut: np.ndarray = field(init=False)

    def __post_init__(self):
        size = self.width * self.height
        self.sums, self.odd = np.zeros((size, self.channels)), np.zeros((size, 3))
        self.counts, self.odd_counts, self.open_counts = (np.zeros(size, np.int64) for _ in range(3))
        self.through = np.zeros((size, 3))
        self.thrown, self.thrown_odd, self.throws = np.zeros((size, 3)), np.zeros((size, 3)), np.zeros(2, np.int64)
        self.guides = np.zeros((size, GUIDES), np.float32)
        self.lengths = np.zeros(LENGTH_BINS)
        self.cut = np.zeros(len(Limits._fields))

    @property
    def rows(self) -> Sums:
        return Sums(self.sums, self.odd, self.counts, self.odd_counts, self.open_counts, self.through)

    def add(self, other: "Film") -> None:
        """Merge what another worker made of the same picture."""
        for name in (*Sums._fields, "thrown", "thrown_odd", "throws", "guides", "lengths", "cut"):
            getattr(self, name)[...] += getattr(other, name)

    def rgb(self) -> np.ndarray:
        """(h, w, 3) linear Rec.709; pixels without samples are black but for light thrown at them."""
        return self._mean(self.sums[:, :3], self.counts, self.thrown, self.throws[0])

    def halves(self) -> tuple[np.ndarray, np.ndarray]:
        """Two pictures (h, w, 3) of half of the samples each."""
        odd = self._mean(self.odd, self.odd_counts, self.thrown_odd, self.throws[1])
        even_counts, even_throws = self.counts - self.odd_counts, self.throws[0] - self.throws[1]
        return self._mean(self.sums[:, :3] - self.odd, even_counts, self.thrown - self.thrown_odd, even_throws), odd

    def _mean(self, sums, counts, thrown, throws) -> np.ndarray:
        mean = sums / np.maximum(counts, 1)[:, None] + thrown / max(int(throws), 1)
        return mean.reshape(self.height, self.width, 3)

    def alpha(self) -> np.ndarray:
        """(h, w) how much of each pixel is covered by something; what is seen through clear matter counts by its luminance."""
        return np.clip(1 - self.behind() @ LUMINANCE, 0, 1)

    def behind(self) -> np.ndarray:
        """(h, w, 3) how much is seen of what lies behind everything, past it and through clear matter, linear Rec.709."""
        seen = self.open_counts[:, None] + self.through
        return (seen / np.maximum(self.counts, 1)[:, None]).reshape(self.height, self.width, 3)

    def guidance(self) -> tuple[np.ndarray, np.ndarray] | None:
        """Colour within 1 and normal, (h, w, 3) each, of what each pixel shows, for the filter; None while no samples have told."""
        counts = self.guides[:, 6:]
        if not counts.any():
            return None
        mean = (self.guides[:, :6] / np.maximum(counts, 1)).reshape(self.height, self.width, 6)
        return np.minimum(mean[..., :3], 1), mean[..., 3:]

    def cut_share(self) -> float:
        """The share of the paths' weight that limits cut: about the share of light that is missing."""
        return float(self.cut.sum() / max(int(self.counts.sum()), 1))

    def samples(self) -> int:
        """Samples in the pixel that has the fewest."""
        return int(self.counts.min())

    def noise(self, exposure: float = 0.0) -> float | None:
        """The error of the picture as rendered, as `picture.noise` tells it; None below two samples."""
        if self.samples() < 2:
            return None
        return told(*self.halves(), exposure)


def length_edges_m() -> np.ndarray:
    """(101,) the edges of the bins of `Film.lengths`, in m."""
    return np.geomspace(SHORTEST_M, LONGEST_M, LENGTH_BINS + 1)


def length_facts(lengths: np.ndarray) -> dict | None:
    """Shortest, middle and longest lengths (5th, 50th, 95th percentile) in cm, and the histogram; None without any."""
    total = lengths.sum()
    if total < 20:
        return None
    edges = length_edges_m() * 100
    share = np.concatenate([[0], np.cumsum(lengths)]) / total
    low, middle, high = (float(np.interp(p, share, edges)) for p in (0.05, 0.5, 0.95))
    return {"low_cm": low, "middle_cm": middle, "high_cm": high, "edges_cm": edges.tolist(), "counts": lengths.tolist()}
