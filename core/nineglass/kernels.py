"""Decorators for compiled code, and where its machine code is kept.

`optic` is for small scalar functions (one formula, one function), `kernel` for loops over batches.
numba's own cache is keyed by folder and misses an edit in a called file; ours is keyed by the contents of every Python file
that holds compiled code, and of those that such a file imports from (their constants are part of the machine code), so a fresh
clone starts warm and a stale kernel never runs.
"""

import hashlib
import os
import re
import sys
from functools import cache
from pathlib import Path

import numba
import numpy as np
from numba import types
from numba.core.caching import _CacheLocator
from numba.extending import intrinsic
from numba.np import linalg

ROOT = Path(__file__).resolve().parent

FAST = {"contract", "arcp", "nsz", "reassoc", "afn"}
"""Without nnan and ninf: the slab test of the boxes relies on infinities."""

F = np.float32
ZERO, HALF, ONE, TWO = F(0), F(0.5), F(1), F(2)
PI = F(np.pi)
INV_PI = F(1 / np.pi)
FAR = F(1e30)


def cache_folder() -> Path:
    """The folder for compiled kernels: NINEGLASS_KERNEL_CACHE, or the user's cache folder."""
    home = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(os.environ.get("NINEGLASS_KERNEL_CACHE") or Path(home) / "nineglass" / "kernels")


@cache
def stamp() -> str:
    """A key over all sources with compiled code and the versions that generate code."""
    digest = hashlib.sha256(f"{numba.__version__} {sys.version_info[:3]} {np.__version__}".encode())
    for path in sources():
        digest.update(path.relative_to(ROOT).as_posix().encode())
        digest.update(path.read_bytes())
    return digest.hexdigest()[:24]


def sources() -> list[Path]:
    """The files with compiled code, and those that they import from."""
    found = set()
    for path in ROOT.rglob("*.py"):
        text = path.read_text()
        if "nineglass.kernels" in text:
            found |= {path, *_imported(text)}
    return sorted(found)


_IMPORT = re.compile(r"^from nineglass\.?([\w.]*) import ([\w, ]+|\([^)]*\))", re.MULTILINE)


def _imported(text: str) -> list[Path]:
    """The files that the imports in a module's first column lead to."""
    paths = []
    for room, names in _IMPORT.findall(text):
        folder = ROOT.joinpath(*filter(None, room.split(".")))
        paths += [
            folder.with_suffix(".py"),
            folder / "__init__.py",
            *(folder / f"{n}.py" for n in re.findall(r"\w+", names)),
        ]
    return [path for path in paths if path.is_file()]


class SourceLocator(_CacheLocator):
    """Tells numba to keep kernels under a folder named by `stamp`."""

    def __init__(self, function):
        self._name = f"{function.__module__}-{function.__code__.co_firstlineno}"

    def get_cache_path(self):
        return str(cache_folder() / stamp())

    def get_source_stamp(self):
        return stamp()

    def get_disambiguator(self):
        return self._name

    @classmethod
    def from_function(cls, py_func, py_file):
        if ROOT not in Path(py_file).resolve().parents:
            return None
        locator = cls(py_func)
        locator.ensure_cache_path()
        return locator


numba.config.CACHE_LOCATOR_CLASSES = "nineglass.kernels.SourceLocator"


def _no_blas():
    raise ImportError("kernels here do without matrix products")


linalg.ensure_blas = _no_blas
"""numba imports scipy.linalg just to ask whether there is one: a quarter of a second at every start."""

_compiled = []


def _compile(function, **how):
    made = numba.njit(cache=True, nogil=True, fastmath=FAST, error_model="numpy", **how)(function)
    _compiled.append(made)
    return made


def optic(function):
    """Compile a small scalar function; callable from a test and from a kernel alike."""
    return _compile(function, _nrt=False)


def kernel(function):
    """Compile a loop over a batch; runs without the interpreter's lock.

    It may not allocate: without numba's reference counts a call with arrays costs nothing (measured: 200 ns a path less).
    """
    return _compile(function, _nrt=False)


def builder(function):
    """Compile a function that may allocate, to be called once rather than once a path."""
    return _compile(function)


@intrinsic
def stand_alone(typing_context):
    """Called in the first line of a large optic, keeps it from being copied into each of its callers: kernels that call it in
    several places compile in seconds rather than minutes."""

    def lower(context, builder, signature, arguments):
        builder.function.attributes.add("noinline")
        return context.get_dummy_value()

    return types.void(), lower


def cache_misses() -> list[str]:
    """Names of the functions that this process had to compile; empty when the cache is warm."""
    return [made.py_func.__qualname__ for made in _compiled if sum(made.stats.cache_misses.values())]
