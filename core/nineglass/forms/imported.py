"""Meshes that were put in: GLB, OBJ, PLY, STL. A file is hostile until it is read within limits."""

import io
from functools import lru_cache

import numpy as np

from nineglass.describe import Fault, Refused, choice, dial, file_dial
from nineglass.files import path_of
from nineglass.forms import FORMS
from nineglass.forms.mesh import Mesh, centred, faults_of_surface, flat_solid

METRES = {"mm": 0.001, "cm": 0.01, "m": 1.0, "inch": 0.0254}
LARGEST_BYTES = 300_000_000
MOST_TRIANGLES = 4_000_000


@FORMS.kind(title="Imported mesh", family="imported")
class Imported:
    """A mesh from a file (GLB, OBJ, PLY or STL). Say what unit its numbers are in; nothing else tells how large it is."""

    file = file_dial("mesh", label="File")
    unit = choice("cm", "mm", "m", "inch", label="Unit of the file")
    scale = dial(1, 0.1, 10, hard=(1e-6, 1e6), scale="log", ends=("smaller", "larger"))
    sides = choice("as given", "flipped", label="Outside", help="Flip when the surface was found inside out.")

    def mesh(self, dials) -> Mesh:
        if not dials["file"]:
            return flat_solid(_stand_in())
        mesh = _read(dials["file"])
        size = np.float32(METRES[dials["unit"]] * dials["scale"])
        vertices, normals, faces = mesh.vertices * size, mesh.normals, mesh.faces
        if dials["sides"] == "flipped":
            normals, faces = -normals, faces[:, ::-1].copy()
        return centred(Mesh(vertices, normals, faces, mesh.uv))


def _stand_in() -> np.ndarray:
    """A tetrahedron of 4 cm, shown until a file is chosen."""
    a, b, c, d = 0.02 * np.array([[1, 1, 1], [-1, -1, 1], [-1, 1, -1], [1, -1, -1]], float)
    return np.array([[a, c, b], [a, b, d], [a, d, c], [b, c, d]])


@lru_cache(8)
def _read(name: str) -> Mesh:
    return read_mesh(path_of(name).read_bytes())


def kind_of(given: bytes) -> str:
    """glb, ply, stl or obj, told by the first bytes."""
    if given[:4] == b"glTF":
        return "glb"
    if given[:3] == b"ply":
        return "ply"
    if given[:5] == b"solid" or (len(given) >= 84 and len(given) == 84 + 50 * int.from_bytes(given[80:84], "little")):
        return "stl"
    return "obj"


def read_mesh(given: bytes) -> Mesh:
    """A mesh in the numbers of its file, with its own normals where it has them. Raises Refused."""
    if len(given) > LARGEST_BYTES:
        raise _refused("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    import trimesh

    try:
        loaded = trimesh.load(io.BytesIO(given), file_type=kind_of(given), force="mesh", process=False, resolver=None)
    except Exception as error:
        raise _refused(f"not a mesh that can be read ({type(error).__name__})", "GLB, OBJ, PLY or STL") from None
    faces = np.asarray(getattr(loaded, "faces", ()), np.int64).reshape(-1, 3)
    if not len(faces):
        raise _refused("the file has no triangles", "a surface of triangles")
    if len(faces) > MOST_TRIANGLES:
        raise _refused(f"{len(faces):,} triangles", f"at most {MOST_TRIANGLES:,}")
    vertices = np.asarray(loaded.vertices, float)
    if not np.isfinite(vertices).all() or faces.min() < 0 or faces.max() >= len(vertices):
        raise _refused("places that are not numbers, or faces without them", "finite vertices")
    corners = vertices[faces]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    faces = faces[area > 0]
    if kind_of(given) == "stl" or not len(faces):
        return flat_solid(vertices[faces])
    uv = getattr(getattr(loaded, "visual", None), "uv", None)
    uv = np.asarray(uv, np.float32)[:, :2] if uv is not None and len(uv) == len(vertices) else None
    normals = np.asarray(loaded.vertex_normals, np.float32)
    return Mesh(vertices.astype(np.float32), normals, faces.astype(np.int32), uv)


def facts_of(given: bytes) -> dict:
    """What a person should know before a mesh is used: its size in its own numbers, its triangles, and what is wrong with its surface."""
    mesh = read_mesh(given)
    low, high = mesh.bounds()
    corners = mesh.vertices[mesh.faces].astype(float)
    volume = float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)
    faults = faults_of_surface(mesh)
    if not faults and volume < 0:
        faults.append("the surface is inside out: set Outside to flipped")
    return {"size": (high - low).tolist(), "triangles": len(mesh.faces), "faults": faults}


def _refused(fault: str, allowed: str) -> Refused:
    return Refused([Fault("file", fault, allowed, "Choose another file.")])
