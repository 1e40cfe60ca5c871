"""Grids of numbers in space that networks read: files that were put in, and two of our own, made by code with a fixed seed."""

from pathlib import Path

import numpy as np

from nineglass.at_hand import remembered
from nineglass.files import refused_file
from nineglass.put_in import ReadFile, arrays_of
from nineglass.spectra.blackbody import COLDEST_SEEN_K

LARGEST_SIDE = 256
"""Voxels along a side that are worked with; a larger grid is halved."""

DATA = Path(__file__).parent / "data"


def read_file(given: bytes) -> ReadFile:
    """The grids of an OpenVDB file, and the list of them. Raises Refused."""
    from nineglass.exchange.vdb import halved, in_one_box, read_vdb

    contents = read_vdb(given)
    if not contents.grids:
        raise refused_file("; ".join(contents.unread) or "it holds nothing", "at least one grid of single numbers")
    facts, arrays, told = [], {}, [f"Not read: {why}." for why in contents.unread]
    for k, grid in enumerate(in_one_box(contents.grids)):
        size = grid.values.shape[::-1]
        if not np.isfinite(grid.values).all():
            raise refused_file(f"{grid.name} holds what is no number", "finite numbers")
        arrays[f"grid_{k}"] = values = halved(grid.values, LARGEST_SIDE)
        if values.shape != grid.values.shape:
            fewer = " × ".join(map(str, values.shape[::-1]))
            told.append(f"{grid.name} has {' × '.join(map(str, size))} voxels; it is worked with as {fewer}.")
        extent = [float(side * voxel) for side, voxel in zip(size, grid.voxel, strict=True)]
        arrays[f"extent_{k}"] = np.array(extent)
        facts.append(
            {
                "name": grid.name,
                "size": list(map(int, size)),
                "extent": extent,
                "low": float(grid.values.min()),
                "high": float(grid.values.max()),
                "megabytes": round(values.nbytes / 1e6, 1),
                "drives": drives(float(grid.values.max())),
            }
        )
    arrays["names"] = np.array([grid.name for grid in contents.grids])
    return ReadFile({"grids": facts, "faults": told}, arrays)


def drives(high: float) -> str:
    """What a grid could drive, by the range of its numbers."""
    return "temperature in K, or any number" if high > COLDEST_SEEN_K else "density, colour by a ramp, or any number"


def _arrays(source: str, file: str) -> dict[str, np.ndarray]:
    return _our_arrays(source) if source in OURS else arrays_of(file, "grid")


def names_in(source: str, file: str) -> list[str]:
    """The names of the grids of a source."""
    return [str(name) for name in _arrays(source, file)["names"]]


@remembered
def grid_of(source: str, file: str, channel: str) -> tuple[np.ndarray, tuple[float, float, float]] | None:
    """((z, y, x) float32, its size in the unit of the file) of a grid by its name, the first for none; None when there is no such grid."""
    if source not in OURS and not file:
        return None
    arrays = _arrays(source, file)
    names = [str(name) for name in arrays["names"]]
    if channel and channel not in names:
        return None
    k = names.index(channel) if channel else 0
    return arrays[f"grid_{k}"], tuple(arrays[f"extent_{k}"].tolist())


OURS = {"chimney smoke": "chimney-smoke.vdb", "wick flame": "wick-flame.vdb"}
"""Files of ours, made by tools/bake_grids.py; a unit in them is 1 cm."""


@remembered
def our_file(source: str) -> bytes:
    """The OpenVDB file of one of `OURS`."""
    return (DATA / OURS[source]).read_bytes()


@remembered
def _our_arrays(source: str) -> dict[str, np.ndarray]:
    return read_file(our_file(source)).arrays
