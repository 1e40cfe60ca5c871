"""How final pictures scale past one machine: chunks taken by many workers, merged in turn by piece; a simulation from measured times.

Prints a table in Markdown. The times are measured here first: of a chunk on one core, and of merging one into the sums of its tile.
"""

import heapq
import statistics
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core")]

MATERIAL, STAGE = "net-float", "window-bench"
SIZES = ((1280, 720), (4096, 4096))
WORKERS = (1, 2, 4, 8, 16, 32, 64)
TAKE_S = 0.05
"""From the end of a chunk to the next being taken: the queue's pick-up, 20 to 70 ms."""

CHUNKS = 2000


def measured(width: int, height: int) -> tuple[float, float, int]:
    """(seconds of a chunk on one core, of merging it, pieces) of a picture."""
    from nineglass.documents.final import Final
    from nineglass.documents.model import Material, Stage, read
    from nineglass.finals.chunk import Maker, Place
    from nineglass.finals.plan import tiles_of
    from nineglass.finals.sums import from_bytes, to_bytes
    from nineglass.trace.render import Tracer

    material, stage = (
        read(model, (ROOT / "demo" / f"{name}.json").read_bytes())
        for model, name in ((Material, MATERIAL), (Stage, STAGE))
    )
    final = Final(width=width, height=height, noise=None)
    tiles, maker = tiles_of(final), Maker(Tracer(threads=1))
    maker.make("one", final, material, stage, Place())
    began = time.perf_counter()
    film = maker.make("one", final, material, stage, Place(number=6))
    of_chunk = time.perf_counter() - began
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sums"
        path.write_bytes(to_bytes(film))
        spent = []
        for _ in range(5):
            began = time.perf_counter()
            total = from_bytes(tiles[0], path.read_bytes())
            total.add(film)
            path.write_bytes(to_bytes(total))
            spent.append(time.perf_counter() - began)
    return of_chunk, statistics.median(spent), len(tiles)


def rate(workers: int, of_chunk: float, of_merge: float, pieces: int) -> float:
    """Chunks a second: each worker takes the next one, makes it, and waits for the piece to merge it."""
    free = [(0.0, k) for k in range(workers)]
    merged = [0.0] * pieces
    for number in range(CHUNKS):
        now, worker = heapq.heappop(free)
        piece = number % pieces
        merged[piece] = max(now + TAKE_S + of_chunk, merged[piece]) + of_merge
        heapq.heappush(free, (merged[piece], worker))
    return CHUNKS / max(at for at, _ in free)


def main() -> None:
    print("| picture | chunk | merge | " + " | ".join(f"{count}" for count in WORKERS) + " |")
    print("|" + "---|" * (3 + len(WORKERS)))
    for width, height in SIZES:
        of_chunk, of_merge, pieces = measured(width, height)
        one = rate(1, of_chunk, of_merge, pieces)
        times = " | ".join(f"{rate(count, of_chunk, of_merge, pieces) / one:.1f}" for count in WORKERS)
        print(f"| {width}x{height}, {pieces} pieces | {of_chunk:.1f} s | {of_merge:.2f} s | {times} |")


if __name__ == "__main__":
    main()
