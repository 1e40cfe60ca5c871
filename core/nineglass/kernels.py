"""Decorators for compiled code, and where its machine code is kept.

`optic` is for small scalar functions (one formula, one function), `step` for a named step of a kernel that only kernels call, and
`kernel` for loops over batches. numba's own cache is keyed by folder and misses an edit in a called file; ours is keyed, module by
module, by the contents of the module and of everything that it imports, so a fresh clone starts warm, a stale kernel never runs, and
an edit compiles what depends on it and no more.
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
from numba.core.codegen import CPUCodeLibrary
from numba.extending import intrinsic
from numba.np import linalg

ROOT = Path(__file__).resolve().parent

FAST = {"contract", "arcp", "nsz", "reassoc", "afn"}
"""Without nnan and ninf: far distances and closed hemispheres rely on infinities."""

F = np.float32
ZERO, QUARTER, HALF, ONE, TWO = F(0), F(0.25), F(0.5), F(1), F(2)
PI = F(np.pi)
INV_PI = F(1 / np.pi)
FAR = F(1e30)


def cache_folder() -> Path:
    """The folder for compiled kernels: NINEGLASS_KERNEL_CACHE, or the user's cache folder."""
    home = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(os.environ.get("NINEGLASS_KERNEL_CACHE") or Path(home) / "nineglass" / "kernels")


_IMPORT = re.compile(r"^from nineglass\.?([\w.]*) import ([\w, ]+|\([^)]*\))", re.MULTILINE)
_VERSIONS = f"{numba.__version__} {sys.version_info[:3]} {np.__version__}"
_also: dict[str, tuple[Path, ...]] = {}


def depends_on(module: str, *files: Path) -> None:
    """Say that compiled code of a module is made from files that it does not import by name."""
    _also[module] = (*_also.get(module, ()), *files)


@cache
def _imported(path: Path) -> tuple[Path, ...]:
    """The files that the imports in a file's first column lead to."""
    found = []
    for room, names in _IMPORT.findall(path.read_text()):
        folder = ROOT.joinpath(*filter(None, room.split(".")))
        found += [folder.with_suffix(".py"), folder / "__init__.py"]
        found += [folder / f"{name}.py" for name in re.findall(r"\w+", names)]
    return tuple(one for one in found if one.is_file())


def sources_of(module: str, file: Path) -> list[Path]:
    """The file of a module and all files that it depends on."""
    waiting, found = [file, *_also.get(module, ())], set()
    while waiting:
        path = waiting.pop()
        if path not in found:
            found.add(path)
            waiting += _imported(path)
    return sorted(found)


@cache
def _digest(path: Path) -> bytes:
    return hashlib.sha256(path.read_bytes()).digest()


@cache
def stamp_of(module: str, file: Path) -> str:
    """A key over the sources of a module and the versions that generate code."""
    digest = hashlib.sha256(_VERSIONS.encode())
    for path in sources_of(module, file):
        digest.update(path.name.encode() + _digest(path))
    return digest.hexdigest()[:16]


class SourceLocator(_CacheLocator):
    """Tells numba to keep the kernels of a module under a folder named by its stamp."""

    def __init__(self, function, file: Path):
        self._stamp = stamp_of(function.__module__, file)
        self._room = f"{function.__module__.removeprefix('nineglass.')}-{self._stamp}"
        self._name = f"{function.__code__.co_firstlineno}"

    def get_cache_path(self):
        return str(cache_folder() / self._room)

    def get_source_stamp(self):
        return self._stamp

    def get_disambiguator(self):
        return self._name

    @classmethod
    def from_function(cls, py_func, py_file):
        file = Path(py_file).resolve()
        if ROOT not in file.parents:
            return None
        locator = cls(py_func, file)
        locator.ensure_cache_path()
        return locator


numba.config.CACHE_LOCATOR_CLASSES = "nineglass.kernels.SourceLocator"


def _no_blas():
    raise ImportError("kernels here do without matrix products")


linalg.ensure_blas = _no_blas
"""numba imports scipy.linalg just to ask whether there is one: a quarter of a second at every start."""

_small: set[str] = set()
"""Qualified names of the functions that are mostly used within others."""

_steps: set[str] = set()
"""Those that are used in nothing but kernels."""


def _optimised_once(library):
    """In place of numba's two rounds, of which the first is for reference counts, which nothing here has: small functions are
    optimised lightly, since they are optimised again wherever they are used, and kernels once."""
    how = {"loop_vectorize": False, "slp_vectorize": False, "opt": 1, "cost": "cheap"} if library.name in _small else {}
    manager, builder = library._codegen._module_pass_manager(**how)
    manager.run(library._final_module, builder)


def _marked(library, module):
    """In place of passes function by function, which the passes over the whole repeat. Steps are marked to be copied into their kernel:
    a call would hand over the whole scene, some two hundred numbers."""
    module.data_layout = library._codegen._data_layout
    if library.name not in _steps:
        return
    for function in module.functions:
        if not function.is_declaration and not any(b"noinline" in held for held in function.attributes):
            function.add_function_attribute("alwaysinline")


CPUCodeLibrary._optimize_final_module = _optimised_once
CPUCodeLibrary._optimize_functions = _marked

_compiled = []


def _compile(function, **how):
    how = {"cache": True, "nogil": True, "no_cfunc_wrapper": True, "fastmath": FAST, "error_model": "numpy"} | how
    made = numba.njit(**how)(function)
    _compiled.append(made)
    return made


def optic(function):
    """Compile a small scalar function; callable from a test and from a kernel alike."""
    _small.add(function.__qualname__)
    return _compile(function, _nrt=False)


def step(function):
    """Compile a step of a kernel, which nothing but kernels can call. It is kept as a part of them, and costs them the least."""
    _small.add(function.__qualname__)
    _steps.add(function.__qualname__)
    return _compile(function, _nrt=False, cache=False, no_cpython_wrapper=True)


def kernel(function):
    """Compile a loop over a batch; runs without the interpreter's lock.

    It may not allocate: without numba's reference counts a call with arrays costs nothing (measured: 200 ns a path less).
    """
    return _compile(function, _nrt=False)


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
