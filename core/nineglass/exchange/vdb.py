"""OpenVDB files: grids of numbers in space, read and written.

Read are grids of single and half precision on the usual tree (5, 4, 3), stored plainly, zipped or by blosc, of file versions 222 to 224, with
maps that scale and move. Source: the format as its own library 10.0 writes it (Museth 2013, VDB: High-Resolution Sparse Volumes with Dynamic
Topology).
"""

import io
import struct
import uuid
import zlib
from dataclasses import dataclass, field, replace

import numpy as np

from nineglass.files import refused_file

MAGIC = 0x56444220
OLDEST, NEWEST = 222, 224
WRITTEN_BY = 10, 0
ZIPPED, ACTIVE_ONLY, BLOSC = 1, 2, 4
"""Bits of how the numbers of a tree are stored."""

NO_MASK_NEGATIVE, ONE_INACTIVE, MASK_NEGATIVE, MASK_ONE, MASK_TWO, ALL_VALUES = 1, 2, 3, 4, 5, 6
"""What stands for the voxels that are not active: 0 the background, else one of these."""

LEAF = 8
LEVELS = ((5, 128), (4, 8))
"""Of an inner node: the binary logarithm of its side in children, and the side of each in voxels."""

MOST_GRIDS = 32
LARGEST_SIDE, MOST_VOXELS = 1024, 512**3
TREE = "Tree_float_5_4_3"


@dataclass
class Grid:
    """A grid of a file."""

    name: str
    values: np.ndarray
    """(z, y, x) float32: the box of what is active."""
    voxel: tuple[float, float, float]
    """The sides of a voxel in the unit of the file, which the format does not say."""
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """The middle of the first voxel in it."""
    background: float = 0.0
    """What is everywhere else."""


@dataclass
class Contents:
    """What a file holds."""

    grids: list[Grid] = field(default_factory=list)
    unread: list[str] = field(default_factory=list)
    """The grids that are not read, each with the reason."""


class _Cursor:
    """Goes through bytes; whoever reads past their end is refused."""

    def __init__(self, given: bytes):
        self.given, self.at = given, 0

    def raw(self, count: int) -> bytes:
        if count < 0 or self.at + count > len(self.given):
            raise refused_file("it ends too early", "a whole OpenVDB file")
        self.at += count
        return self.given[self.at - count : self.at]

    def numbers(self, form: str) -> tuple:
        return struct.unpack("<" + form, self.raw(struct.calcsize("<" + form)))

    def one(self, form: str):
        return self.numbers(form)[0]

    def words(self) -> str:
        return self.raw(self.one("I")).decode("utf-8", "replace")

    def bits(self, count: int) -> np.ndarray:
        return np.unpackbits(np.frombuffer(self.raw(count // 8), np.uint8), bitorder="little").view(bool)

    def go(self, place: int) -> None:
        if not 0 <= place <= len(self.given):
            raise refused_file("it points beyond its own end", "a whole OpenVDB file")
        self.at = place


def read_vdb(given: bytes) -> Contents:
    """All grids of a file that can be read. Raises Refused."""
    cursor = _Cursor(given)
    if len(given) < 60 or cursor.one("q") != MAGIC:
        raise refused_file("not an OpenVDB file", "a file that ends in .vdb")
    version = cursor.one("I")
    if not OLDEST <= version <= NEWEST:
        raise refused_file(f"its file version is {version}", f"versions {OLDEST} to {NEWEST}", "Save it anew.")
    cursor.raw(8 + 1 + 36)
    _skip_metadata(cursor)
    count, contents = cursor.one("i"), Contents()
    if not 0 < count <= MOST_GRIDS:
        raise refused_file(f"it holds {count} grids", f"1 to {MOST_GRIDS}")
    for _ in range(count):
        _read_grid(cursor, contents)
    return contents


def _skip_metadata(cursor: _Cursor) -> None:
    for _ in range(cursor.one("I")):
        cursor.words(), cursor.words()
        cursor.raw(cursor.one("I"))


def _read_grid(cursor: _Cursor, contents: Contents) -> None:
    name, kind, parent = cursor.words().partition("\x1e")[0], cursor.words(), cursor.words()
    start, values, end = cursor.numbers("3q")
    is_half = kind.endswith("_HalfFloat")
    if parent or kind.removesuffix("_HalfFloat") != TREE:
        why = "shares the tree of another" if parent else f"holds {kind.removeprefix('Tree_')}, not single numbers"
        contents.unread.append(f"{name} {why}")
        cursor.go(end)
        return
    cursor.go(start)
    stored = cursor.one("I")
    _skip_metadata(cursor)
    voxel, origin = _map_of(cursor)
    tree = _Tree(cursor, stored, is_half)
    cursor.go(values)
    tree.read_leaves()
    cursor.go(end)
    if not tree.boxes:
        contents.unread.append(f"{name} is empty")
        return
    low, array = tree.dense()
    middle = tuple(float(o + v * at) for o, v, at in zip(origin, voxel, low, strict=True))
    contents.grids.append(Grid(name, np.ascontiguousarray(array.transpose(2, 1, 0)), voxel, middle, tree.background))


def _map_of(cursor: _Cursor) -> tuple[tuple, tuple]:
    """(sides of a voxel, where the voxel of indices 0 lies)."""
    kind = cursor.words()
    if kind in ("UniformScaleMap", "ScaleMap"):
        scale = cursor.numbers("3d")
        cursor.raw(4 * 24)
        return scale, (0.0, 0.0, 0.0)
    if kind in ("UniformScaleTranslateMap", "ScaleTranslateMap"):
        moved, scale = cursor.numbers("3d"), cursor.numbers("3d")
        cursor.raw(4 * 24)
        return scale, moved
    if kind == "TranslationMap":
        return (1.0, 1.0, 1.0), cursor.numbers("3d")
    if kind in ("AffineMap", "UnitaryMap"):
        rows = np.array(cursor.numbers("16d")).reshape(4, 4)
        if np.abs(rows[:3, :3] - np.diag(np.diag(rows[:3, :3]))).max() > 1e-9:
            raise refused_file("a grid is turned or slanted", "grids along the axes", "Resample it along the axes.")
        return tuple(np.diag(rows)[:3].tolist()), tuple(rows[3, :3].tolist())
    raise refused_file(f"a grid lies in a {kind}", "maps that scale and move", "Resample it on an even grid.")


class _Tree:
    """One tree while it is read: boxes of one value, and leaves."""

    def __init__(self, cursor: _Cursor, stored: int, is_half: bool):
        self.cursor, self.stored, self.is_half = cursor, stored, is_half
        cursor.one("i")
        self.background = cursor.one("f")
        tiles, children = cursor.numbers("2I")
        self.boxes: list[tuple[tuple, int, object]] = []
        """(corner, side, value or the (8, 8, 8) of a leaf)."""
        self.leaves: list[tuple] = []
        for _ in range(tiles):
            corner, value, is_active = cursor.numbers("3i"), cursor.one("f"), cursor.one("?")
            if is_active:
                self.boxes.append((corner, 4096, value))
        for _ in range(children):
            self._inner(cursor.numbers("3i"), 0)

    def _inner(self, corner: tuple, level: int) -> None:
        log, side = LEVELS[level]
        count, width = 1 << 3 * log, 1 << log
        children, active = self.cursor.bits(count), self.cursor.bits(count)
        values = self._values(count, active)

        def place(k: int) -> tuple:
            parts = k >> 2 * log, k >> log & width - 1, k & width - 1
            return tuple(c + part * side for c, part in zip(corner, parts, strict=True))

        self.boxes += [(place(k), side, float(values[k])) for k in np.flatnonzero(active).tolist()]
        for k in np.flatnonzero(children).tolist():
            if level == 0:
                self._inner(place(k), 1)
            else:
                self.cursor.bits(LEAF**3)
                self.leaves.append(place(k))

    def read_leaves(self) -> None:
        for corner in self.leaves:
            active = self.cursor.bits(LEAF**3)
            values = self._values(LEAF**3, active)
            self.boxes.append((corner, LEAF, values.reshape(LEAF, LEAF, LEAF)))

    def _values(self, count: int, active: np.ndarray) -> np.ndarray:
        """The numbers of one node, with what stands for those that are not active."""
        how, first, second = self.cursor.one("b"), self.background, self.background
        if how in (NO_MASK_NEGATIVE, MASK_NEGATIVE):
            first = -self.background
        if how in (ONE_INACTIVE, MASK_ONE, MASK_TWO):
            first = self.cursor.one("f")
        if how == MASK_TWO:
            second = self.cursor.one("f")
        chosen = self.cursor.bits(count) if how in (MASK_NEGATIVE, MASK_ONE, MASK_TWO) else None
        kept = int(active.sum()) if self.stored & ACTIVE_ONLY and how != ALL_VALUES else count
        kind = np.float16 if self.is_half else np.float32
        if kept == 0 and self.is_half:
            read = np.zeros(0, np.float32)
        else:
            read = np.frombuffer(self._block(kept * kind().itemsize), kind, kept).astype(np.float32)
        if kept == count:
            return read
        values = np.full(count, first, np.float32)
        if chosen is not None:
            values[chosen] = second
        values[active] = read
        return values

    def _block(self, size: int) -> bytes:
        if not self.stored & (ZIPPED | BLOSC):
            return self.cursor.raw(size)
        length = self.cursor.one("q")
        if length <= 0:
            return self._of_size(self.cursor.raw(-length), size)
        packed = self.cursor.raw(length)
        try:
            return self._of_size(self._unpacked(packed, size), size)
        except (zlib.error, ValueError, RuntimeError):
            raise refused_file("its numbers cannot be unpacked", "a whole OpenVDB file") from None

    def _unpacked(self, packed: bytes, size: int) -> bytes:
        if self.stored & BLOSC:
            import blosc

            if len(packed) < 16 or struct.unpack_from("<I", packed, 4)[0] != size:
                raise ValueError
            return blosc.decompress(packed)
        return zlib.decompressobj().decompress(packed, size)

    @staticmethod
    def _of_size(found: bytes, size: int) -> bytes:
        if len(found) != size:
            raise refused_file("its numbers are of another size than it says", "a whole OpenVDB file")
        return found

    def dense(self) -> tuple[np.ndarray, np.ndarray]:
        """(lowest indices, (x, y, z) float32 of the box that holds everything active)."""
        corners = np.array([corner for corner, _, _ in self.boxes], np.int64)
        low = corners.min(axis=0)
        high = (corners + np.array([side for _, side, _ in self.boxes])[:, None]).max(axis=0)
        size = high - low
        _held_within(size)
        array = np.full(size, self.background, np.float32)
        for (_, side, value), at in zip(self.boxes, corners - low, strict=True):
            array[tuple(slice(a, a + side) for a in at)] = value
        return _trimmed(low, array, self.background)


def _trimmed(low: np.ndarray, array: np.ndarray, background: float) -> tuple[np.ndarray, np.ndarray]:
    """Without what is the background on all sides."""
    kept = []
    for axis in range(3):
        others = tuple(k for k in range(3) if k != axis)
        there = np.flatnonzero((array != background).any(axis=others))
        kept.append(slice(there[0], there[-1] + 1) if there.size else slice(0, 1))
    return low + [one.start for one in kept], array[tuple(kept)]


def in_one_box(grids: list[Grid]) -> list[Grid]:
    """The same grids, those with voxels of the same size all over the box that holds them together: their numbers belong to the same places."""
    boxes: dict[tuple, list] = {}
    for grid in grids:
        low = np.round(np.array(grid.origin) / grid.voxel).astype(int)
        boxes.setdefault(grid.voxel, []).append((low, low + grid.values.shape[::-1]))
    placed = []
    for grid in grids:
        lows, highs = zip(*boxes[grid.voxel], strict=True)
        low, high = np.min(lows, axis=0), np.max(highs, axis=0)
        _held_within(high - low)
        own = np.round(np.array(grid.origin) / grid.voxel).astype(int) - low
        values = np.full((high - low)[::-1], grid.background, np.float32)
        values[tuple(slice(a, a + side) for a, side in zip(own[::-1], grid.values.shape, strict=True))] = grid.values
        origin = tuple(float(o - v * a) for o, v, a in zip(grid.origin, grid.voxel, own, strict=True))
        placed.append(replace(grid, values=values, origin=origin))
    return placed


def _held_within(size: np.ndarray) -> None:
    if size.max() > LARGEST_SIDE or int(size.prod()) > MOST_VOXELS:
        said = " x ".join(str(int(side)) for side in size)
        allowed = f"at most {LARGEST_SIDE} a side and {MOST_VOXELS // 2**20} million in all"
        raise refused_file(f"a grid has {said} voxels", allowed, "Resample it to fewer.")


class _Writer(io.BytesIO):
    def numbers(self, form: str, *values) -> None:
        self.write(struct.pack("<" + form, *values))

    def words(self, text: str) -> None:
        encoded = text.encode()
        self.numbers("I", len(encoded))
        self.write(encoded)

    def bits(self, mask: np.ndarray) -> None:
        self.write(np.packbits(mask, bitorder="little").tobytes())

    def block(self, values: np.ndarray) -> None:
        raw = values.tobytes()
        packed = zlib.compress(raw, 1)
        if raw and len(packed) < len(raw):
            self.numbers("q", len(packed))
            self.write(packed)
        else:
            self.numbers("q", -len(raw))
            self.write(raw)


def write_vdb(grids: list[Grid]) -> bytes:
    """A file of some grids with cubic voxels, zipped; what is 0 is left out. Version 224."""
    writer = _Writer()
    writer.numbers("q3Ib", MAGIC, NEWEST, *WRITTEN_BY, 1)
    writer.write(str(uuid.uuid4()).encode())
    writer.numbers("I", 0)
    writer.numbers("i", len(grids))
    for grid in grids:
        _write_grid(writer, grid)
    return writer.getvalue()


def _write_grid(writer: _Writer, grid: Grid) -> None:
    array = np.ascontiguousarray(grid.values.transpose(2, 1, 0), np.float32)
    shape = -(-np.array(array.shape) // LEAF) * LEAF
    padded = np.zeros(shape, np.float32)
    padded[tuple(map(slice, array.shape))] = array
    counts = shape // LEAF
    leaves = padded.reshape(counts[0], LEAF, counts[1], LEAF, counts[2], LEAF).transpose(0, 2, 4, 1, 3, 5)
    there = np.argwhere((leaves != 0).any(axis=(3, 4, 5)))
    active = np.argwhere(array != 0)
    box = (active.min(axis=0), active.max(axis=0)) if len(active) else (np.zeros(3, int), np.zeros(3, int))
    writer.words(grid.name)
    writer.words(TREE)
    writer.words("")
    marks = writer.tell()
    writer.numbers("3q", 0, 0, 0)
    start = writer.tell()
    writer.numbers("I", ZIPPED | ACTIVE_ONLY)
    _write_metadata(writer, grid.name, box)
    _write_map(writer, grid)
    writer.numbers("if", 1, 0.0)
    order = _write_nodes(writer, leaves, there)
    values = writer.tell()
    for leaf in order:
        writer.bits(leaf != 0)
        writer.numbers("b", 0)
        writer.block(leaf[leaf != 0])
    end = writer.tell()
    writer.seek(marks)
    writer.numbers("3q", start, values, end)
    writer.seek(end)


def _write_metadata(writer: _Writer, name: str, box: tuple) -> None:
    writer.numbers("I", 5)
    writer.words("is_saved_as_half_float")
    writer.words("bool")
    writer.numbers("Ib", 1, 0)
    for key, text in (("name", name), ("class", "fog volume")):
        writer.words(key)
        writer.words("string")
        writer.words(text)
    for key, corner in zip(("file_bbox_min", "file_bbox_max"), box, strict=True):
        writer.words(key)
        writer.words("vec3i")
        writer.numbers("I3i", 12, *map(int, corner))


def _write_map(writer: _Writer, grid: Grid) -> None:
    voxel = np.array(grid.voxel, float)
    writer.words("UniformScaleTranslateMap" if np.ptp(voxel) == 0 else "ScaleTranslateMap")
    for row in (grid.origin, voxel, np.abs(voxel), 1 / voxel**2, 1 / voxel, 0.5 / voxel):
        writer.numbers("3d", *row)


def _write_nodes(writer: _Writer, leaves: np.ndarray, there: np.ndarray) -> list[np.ndarray]:
    """The inner nodes; gives the leaves in the order in which their values follow."""
    origin = there * LEAF

    def inner(log: int, children: np.ndarray) -> None:
        mask = np.zeros(1 << 3 * log, bool)
        mask[children] = True
        writer.bits(mask)
        writer.bits(np.zeros_like(mask))
        writer.numbers("b", 0)
        writer.numbers("q", 0)

    roots, order = np.unique(origin // 4096 * 4096, axis=0), []
    writer.numbers("2I", 0, len(roots))
    for root in roots:
        writer.numbers("3i", *map(int, root))
        own = np.flatnonzero((origin // 4096 * 4096 == root).all(axis=1))
        fives = _child_of(origin[own] - root, *LEVELS[0])
        inner(5, np.unique(fives))
        for five in np.unique(fives):
            within = own[fives == five]
            fours = _child_of(origin[within] % 128, *LEVELS[1])
            inner(4, fours)
            for k in within[np.argsort(fours)]:
                leaf = leaves[tuple(there[k])].reshape(-1)
                writer.bits(leaf != 0)
                order.append(leaf)
    return order


def _child_of(places: np.ndarray, log: int, side: int) -> np.ndarray:
    x, y, z = (places // side).T
    return (x << 2 * log) + (y << log) + z


def halved(values: np.ndarray, largest: int) -> np.ndarray:
    """Means of pairs along every side that is longer, until none is; an odd side loses its last layer."""
    for axis in range(3):
        while values.shape[axis] > largest:
            pairs = np.arange(values.shape[axis] // 2) * 2
            values = (values.take(pairs, axis) + values.take(pairs + 1, axis)) / np.float32(2)
    return np.ascontiguousarray(values, np.float32)
