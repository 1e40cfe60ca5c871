"""Meshes that were put in: GLB, OBJ, PLY, STL. A file is hostile until it is read within limits."""

import io

import numpy as np

from nineglass.at_hand import remembered
from nineglass.describe import Fault, Refused, choice, dial, file_dial
from nineglass.files import refused_file
from nineglass.forms import FORMS
from nineglass.forms.edges import by_angle
from nineglass.forms.mesh import Mesh, centred, faults_of_surface, flat_solid
from nineglass.put_in import ReadFile, arrays_of

OF_FILE, BY_ANGLE = "of the file", "by edge angle"
METRES = {"mm": 0.001, "cm": 0.01, "m": 1.0, "inch": 0.0254}
LARGEST_BYTES = 300_000_000
MOST_TRIANGLES = 4_000_000
FARTHEST = 1e12
"""How large the numbers of a file may be."""

SMALLEST_M, LARGEST_M = 1e-5, 1e4
"""How large a mesh may be, in its unit and at its scale."""


@FORMS.kind(title="Imported mesh", family="imported")
class Imported:
    """A mesh from a file (GLB, OBJ, PLY or STL). Say what unit its numbers are in; nothing else tells how large it is."""

    file = file_dial("mesh", label="File")
    unit = choice("cm", "mm", "m", "inch", label="Unit of the file")
    scale = dial(1, 0.1, 10, hard=(1e-6, 1e6), scale="log", ends=("smaller", "larger"))
    sides = choice("as given", "flipped", label="Outside", help="Flip when the surface was found inside out.")

    facets = choice(
        OF_FILE, BY_ANGLE, label="Facets", help="Crisp or smooth as the file says, or by the angle of each edge."
    )
    edge_angle = dial(
        30,
        0,
        180,
        unit="deg",
        ends=("all crisp", "all smooth"),
        help="Edges that are bent by more are crisp.",
        when=("facets", BY_ANGLE),
    )
    edge_radius = dial(
        0,
        0,
        2,
        hard=(0, 50),
        unit="mm",
        ends=("sharp", "round"),
        help="How wide crisp edges catch the light. No point moves: the outline stays as sharp.",
        when=("facets", BY_ANGLE),
    )

    def mesh(self, dials) -> Mesh:
        if not dials["file"]:
            return flat_solid(_stand_in())
        mesh = _read(dials["file"])
        size = np.float32(METRES[dials["unit"]] * dials["scale"])
        _within_reason(mesh, float(size))
        vertices, normals, faces = mesh.vertices * size, mesh.normals, mesh.faces
        if dials["sides"] == "flipped":
            normals, faces = -normals, faces[:, ::-1].copy()
        made = Mesh(vertices, normals, faces, mesh.uv)
        if dials["facets"] == BY_ANGLE:
            made = by_angle(made, dials["edge_angle"], dials["edge_radius"] / 1000)
        return centred(made)


def _within_reason(mesh: Mesh, scale: float) -> None:
    low, high = mesh.bounds()
    across = float((high.astype(float) - low).max()) * scale
    if not SMALLEST_M <= across <= LARGEST_M:
        fault, allowed = f"the mesh is {across:.3g} m across", f"{SMALLEST_M:g} to {LARGEST_M:g} m"
        raise Refused([Fault("file", fault, allowed, "Choose another unit or scale.")])


def _stand_in() -> np.ndarray:
    """A tetrahedron of 4 cm, shown until a file is chosen."""
    a, b, c, d = 0.02 * np.array([[1, 1, 1], [-1, -1, 1], [-1, 1, -1], [1, -1, -1]], float)
    return np.array([[a, c, b], [a, b, d], [a, d, c], [b, c, d]])


@remembered
def _read(name: str) -> Mesh:
    found = arrays_of(name, "mesh")
    return Mesh(found["vertices"], found["normals"], found["faces"], found.get("uv"))


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
        raise refused_file("the file is too large", f"at most {LARGEST_BYTES // 1_000_000} MB")
    import trimesh

    try:
        loaded = trimesh.load(io.BytesIO(given), file_type=kind_of(given), process=False, resolver=None)
        if isinstance(loaded, trimesh.Scene):
            _few_enough(sum(len(loaded.geometry[name].faces) for _, name in _placed(loaded)))
            loaded = loaded.to_mesh()
    except (Refused, MemoryError):
        raise
    except Exception as error:
        raise refused_file(f"not a mesh that can be read ({type(error).__name__})", "GLB, OBJ, PLY or STL") from None
    faces = np.asarray(getattr(loaded, "faces", ()), np.int64).reshape(-1, 3)
    if not len(faces):
        raise refused_file("the file has no triangles", "a surface of triangles")
    _few_enough(len(faces))
    vertices = np.asarray(loaded.vertices, float)
    if not np.isfinite(vertices).all() or faces.min() < 0 or faces.max() >= len(vertices):
        raise refused_file("places that are not numbers, or faces without them", "finite vertices")
    if np.abs(vertices).max() > FARTHEST:
        raise refused_file("its numbers are too large", f"at most {FARTHEST:g}")
    corners = vertices[faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    has_area = (across != 0).any(axis=1)
    if not has_area.all():
        faces = faces[has_area]
    if not len(faces) or not np.ptp(vertices[faces].reshape(-1, 3).astype(np.float32), axis=0).max() > 0:
        raise refused_file("every triangle is flat or without size", "triangles with an area")
    if kind_of(given) == "stl":
        return flat_solid(vertices[faces])
    uv = getattr(getattr(loaded, "visual", None), "uv", None)
    uv = np.asarray(uv, np.float32)[:, :2] if uv is not None and len(uv) == len(vertices) else None
    normals = np.asarray(loaded.vertex_normals, np.float32)
    return Mesh(vertices.astype(np.float32), normals, faces.astype(np.int32), uv)


def _few_enough(triangles: int) -> None:
    if triangles > MOST_TRIANGLES:
        raise refused_file(f"{triangles:,} triangles", f"at most {MOST_TRIANGLES:,}")


def _placed(scene) -> list[tuple[str, str]]:
    """Every place of a scene with the name of what stands there."""
    return [(node, scene.graph[node][1]) for node in scene.graph.nodes_geometry]


def read_file(given: bytes) -> ReadFile:
    """A mesh, with what a person should know before it is used: its size in its own numbers, its triangles, and what is wrong with its
    surface."""
    mesh = read_mesh(given)
    low, high = mesh.bounds()
    corners = mesh.vertices[mesh.faces].astype(float)
    volume = float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)
    faults = faults_of_surface(mesh)
    if not faults and volume < 0:
        faults.append("the surface is inside out: set Outside to flipped")
    facts = {"size": (high - low).tolist(), "triangles": len(mesh.faces), "faults": faults}
    arrays = {"vertices": mesh.vertices, "normals": mesh.normals, "faces": mesh.faces}
    return ReadFile(facts, arrays if mesh.uv is None else arrays | {"uv": mesh.uv})
