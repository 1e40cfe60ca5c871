"""The ray library, Embree, as the package `embreex` brings it: scenes of triangles or of strands, and scenes of their instances.

Only what this room needs of it is declared here; kernels call it by name (`geometry.rays`). Its own manual is the source of the numbers
(Embree 4 API, embree.org). The library copies what it is given; a scene is let go of when nothing refers to it any more.
"""

import ctypes
import importlib.util
import threading
import weakref
from functools import lru_cache
from pathlib import Path

import numpy as np

from nineglass.forms.curves import Strands
from nineglass.forms.mesh import Mesh

TRIANGLE, FLAT_BEZIER, INSTANCE = 0, 25, 121
INDEX, VERTEX = 0, 1
UINT, UINT3, FLOAT3, FLOAT4, FLOAT3X4_COLUMN_MAJOR = 0x5001, 0x5003, 0x9003, 0x9004, 0x9234
ROBUST = 4
"""Watertight along edges, at about a fifth of the speed (measured): without it light leaks through closed forms."""
PLAIN = 0
"""For strands, which have no edges to leak at: saves 6 % of their rays (measured)."""

BYTES_OF = {TRIANGLE: 140, FLAT_BEZIER: 250}
"""About what a primitive takes in a scene of the library, with what it is found by (measured)."""

EVERYTHING = 0xFFFFFFFF
NOTHING_HIT = np.uint32(0xFFFFFFFF)

RAY_WORDS = 24
ORIGIN, NEAR, DIRECTION, TIME, REACH, MASK, ID, FLAGS, NORMAL, U, V, PRIMITIVE, GEOMETRY, INSTANCE_ID = (
    *(0, 3, 4, 7, 8, 9, 10, 11),
    *(12, 15, 16, 17, 18, 19),
)
"""Words of a ray and its hit, as the library reads and writes them."""

_P, _I, _U, _Z = ctypes.c_void_p, ctypes.c_int, ctypes.c_uint, ctypes.c_size_t
_FUNCTIONS = {
    "rtcNewDevice": (_P, [ctypes.c_char_p]),
    "rtcGetDeviceError": (_I, [_P]),
    "rtcNewScene": (_P, [_P]),
    "rtcSetSceneFlags": (None, [_P, _I]),
    "rtcCommitScene": (None, [_P]),
    "rtcReleaseScene": (None, [_P]),
    "rtcNewGeometry": (_P, [_P, _I]),
    "rtcSetNewGeometryBuffer": (_P, [_P, _I, _U, _I, _Z, _Z]),
    "rtcSetGeometryInstancedScene": (None, [_P, _P]),
    "rtcSetGeometryTransform": (None, [_P, _U, _I, _P]),
    "rtcSetGeometryMask": (None, [_P, _U]),
    "rtcCommitGeometry": (None, [_P]),
    "rtcAttachGeometryByID": (None, [_P, _P, _U]),
    "rtcReleaseGeometry": (None, [_P]),
    "rtcIntersect1": (None, [_P, _P, _P]),
}


def ray_words() -> np.ndarray:
    """(24,) float32 for one ray and its hit, where the library wants them in memory."""
    raw = np.zeros(RAY_WORDS * 4 + 64, np.uint8)
    start = -raw.ctypes.data % 64
    return raw[start : start + RAY_WORDS * 4].view(np.float32)


class NoRays(RuntimeError):
    """The ray library cannot be loaded, or refuses what it is given."""


def _file(pattern: str) -> Path:
    package = importlib.util.find_spec("embreex")
    folders = [Path(place).parent / "embreex.libs" for place in (package.submodule_search_locations if package else ())]
    found = sorted(file for folder in folders for file in folder.glob(pattern))
    if not found:
        raise NoRays(f"the ray library is not there ({pattern} of the package embreex); ./start installs it")
    return found[0]


@lru_cache(1)
def library_file() -> Path:
    """Where the library is; its helper is loaded before it."""
    try:
        ctypes.CDLL(str(_file("libtbb*")), ctypes.RTLD_GLOBAL)
    except OSError as error:
        raise NoRays(f"the ray library cannot be loaded: {error}; ./start installs it again") from None
    return _file("libembree4*")


@lru_cache(1)
def library() -> ctypes.CDLL:
    try:
        loaded = ctypes.CDLL(str(library_file()))
        for name, (gives, takes) in _FUNCTIONS.items():
            function = getattr(loaded, name)
            function.restype, function.argtypes = gives, takes
    except (OSError, AttributeError) as error:
        raise NoRays(f"the ray library cannot be loaded: {error}; ./start installs it again") from None
    return loaded


_once = threading.Lock()


def _device() -> int:
    """The one device of this process: what was made with another is not met by rays. Threads that ask at once get the same."""
    with _once:
        return _new_device()


@lru_cache(1)
def _new_device() -> int:
    device = library().rtcNewDevice(None)
    if not device:
        raise NoRays(f"the ray library does not start (its error {library().rtcGetDeviceError(None)})")
    return device


class Rays:
    """A scene that rays can be sent into; `handle` is what the kernels are given."""

    def __init__(self, flags: int = ROBUST):
        self.handle = library().rtcNewScene(_device())
        library().rtcSetSceneFlags(self.handle, flags)
        weakref.finalize(self, library().rtcReleaseScene, self.handle).atexit = False

    def _attach(self, geometry: int, number: int, mask: int) -> None:
        library().rtcSetGeometryMask(geometry, mask)
        library().rtcCommitGeometry(geometry)
        library().rtcAttachGeometryByID(self.handle, geometry, number)
        library().rtcReleaseGeometry(geometry)

    def _hold(self, kind: int, vertices: tuple[int, np.ndarray], indices: tuple[int, np.ndarray]) -> None:
        """Fill an empty scene with primitives of one kind; of none it stays empty. vertices, indices: format and rows."""
        self.held_bytes = len(indices[1]) * BYTES_OF[kind]
        if len(indices[1]):
            geometry = library().rtcNewGeometry(_device(), kind)
            _fill(geometry, VERTEX, vertices[0], np.ascontiguousarray(vertices[1], np.float32))
            _fill(geometry, INDEX, indices[0], np.ascontiguousarray(indices[1], np.uint32))
            self._attach(geometry, 0, EVERYTHING)
        self._commit()

    def _commit(self) -> None:
        library().rtcCommitScene(self.handle)
        if error := library().rtcGetDeviceError(_device()):
            raise NoRays(f"the ray library refuses a scene (its error {error})")

    def first(
        self, origin, direction, near: float = 0.0, seen_by: int = EVERYTHING
    ) -> tuple[float, int, int, float, float]:
        """The first surface along one ray: (distance, instance or -1, primitive, u, v). For single questions; kernels ask themselves."""
        words = ray_words()
        bits = words.view(np.uint32)
        words[ORIGIN : ORIGIN + 3], words[NEAR], words[REACH] = origin, near, np.float32(1e30)
        words[DIRECTION : DIRECTION + 3] = direction
        bits[MASK], bits[GEOMETRY], bits[INSTANCE_ID] = seen_by, NOTHING_HIT, NOTHING_HIT
        library().rtcIntersect1(self.handle, words.ctypes.data, None)
        if bits[GEOMETRY] == NOTHING_HIT:
            return float(words[REACH]), -1, -1, 0.0, 0.0
        instance = 0 if bits[INSTANCE_ID] == NOTHING_HIT else int(bits[INSTANCE_ID])
        return float(words[REACH]), instance, int(bits[PRIMITIVE]), float(words[U]), float(words[V])


class MeshRays(Rays):
    """A mesh by itself, in its own axes."""

    def __init__(self, mesh: Mesh):
        super().__init__()
        self._hold(TRIANGLE, (FLOAT3, mesh.vertices), (UINT3, mesh.faces))


class StrandRays(Rays):
    """Strands by themselves, in the axes of their skin."""

    def __init__(self, strands: Strands):
        super().__init__(PLAIN)
        self._hold(FLAT_BEZIER, (FLOAT4, strands.points), (UINT, strands.first))


class StageRays(Rays):
    """All that stands on a stage. Instance k is placed[k]: (rays of its mesh or strands, rotation (3, 3), offset (3,) in m, who sees it)."""

    def __init__(self, placed: list[tuple[Rays, np.ndarray, np.ndarray, int]]):
        super().__init__()
        for number, (rays, rotation, offset, seen) in enumerate(placed):
            geometry = library().rtcNewGeometry(_device(), INSTANCE)
            library().rtcSetGeometryInstancedScene(geometry, rays.handle)
            columns = np.concatenate([np.asarray(rotation, float).T.ravel(), offset]).astype(np.float32)
            library().rtcSetGeometryTransform(geometry, 0, FLOAT3X4_COLUMN_MAJOR, columns.ctypes.data)
            self._attach(geometry, number, seen)
        self._commit()


def _fill(geometry: int, what: int, format: int, rows: np.ndarray) -> None:
    place = library().rtcSetNewGeometryBuffer(geometry, what, 0, format, rows.strides[0], len(rows))
    if not place:
        raise NoRays(f"the ray library has no room for {len(rows):,} rows")
    ctypes.memmove(place, rows.ctypes.data, rows.nbytes)
