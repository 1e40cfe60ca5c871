"""What a picture is while it is made: sums that add up over passes, tiles and workers."""

from dataclasses import dataclass, field

import numpy as np

from nineglass.trace.paths import LENGTH_BINS, LONGEST_M, SHORTEST_M

DARKEST = 0.02
"""Luminance below which noise is judged against this, so that black does not count as noisy."""


@dataclass
class Film:
    """sums (h*w, channels): linear Rec.709 and what else the response has; squares (h*w,) of luminance, counts (h*w,), those of
    them that saw past everything (h*w,); lengths through the matter by bin; the weight of paths that the limit of bounces cut."""

    width: int
    height: int
    channels: int = 3
    sums: np.ndarray = field(init=False)
    squares: np.ndarray = field(init=False)
    counts: np.ndarray = field(init=False)
    open_counts: np.ndarray = field(init=False)
    lengths: np.ndarray = field(init=False)
    cut: np.ndarray = field(init=False)

    def __post_init__(self):
        size = self.width * self.height
        self.sums = np.zeros((size, self.channels))
        self.squares = np.zeros(size)
        self.counts = np.zeros(size, np.int64)
        self.open_counts = np.zeros(size, np.int64)
        self.lengths = np.zeros(LENGTH_BINS)
        self.cut = np.zeros(1)

    def add(self, other: "Film") -> None:
        """Merge what another worker made of the same picture."""
        for name in ("sums", "squares", "counts", "open_counts", "lengths", "cut"):
            getattr(self, name)[...] += getattr(other, name)

    def rgb(self) -> np.ndarray:
        """(h, w, 3) linear Rec.709; pixels without samples are black."""
        mean = self.sums[:, :3] / np.maximum(self.counts, 1)[:, None]
        return mean.reshape(self.height, self.width, 3)

    def alpha(self) -> np.ndarray:
        """(h, w) how much of each pixel is covered by something."""
        return (1 - self.open_counts / np.maximum(self.counts, 1)).reshape(self.height, self.width)

    def cut_share(self) -> float:
        """The share of the paths' weight that the limit of bounces cut: about the share of light that is missing."""
        return float(self.cut[0] / max(int(self.counts.sum()), 1))

    def samples(self) -> int:
        """Samples in the pixel that has the fewest."""
        return int(self.counts.min())

    def luminance(self) -> np.ndarray:
        """(h*w,) mean of each pixel."""
        return self.sums[:, :3] @ (0.2126, 0.7152, 0.0722) / np.maximum(self.counts, 1)

    def variance(self) -> np.ndarray:
        """(h*w,) of the mean luminance of each pixel, which must have two samples."""
        return np.maximum(self.squares / self.counts - self.luminance() ** 2, 0) / (self.counts - 1)

    def noise(self) -> float | None:
        """Typical error of a pixel's luminance relative to it (root mean square); None below two samples."""
        if self.counts.min() < 2:
            return None
        relative = self.variance() / np.maximum(self.luminance(), DARKEST) ** 2
        return float(np.sqrt(np.mean(np.minimum(relative, 25.0))))


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
