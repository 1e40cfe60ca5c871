"""Facets of a mesh made crisp or smooth by the angle of its edges, and edges rounded for the light alone."""

import numpy as np

from nineglass.forms.mesh import Mesh, welded

DEEPEST = 0.3
"""Of a triangle's height: a rounded edge takes no more of it."""

AFTER, BEFORE = np.array([1, 2, 0]), np.array([2, 0, 1])
"""Edge i of a triangle lies against corner i, from the corner after it to the one before."""


def by_angle(mesh: Mesh, degrees: float, radius: float = 0.0) -> Mesh:
    """The same surface with normals of its own: crisp at edges of more than some degrees, smooth elsewhere.

    radius (m): within it of a crisp edge normals turn from one side to the other, as if the edge were rounded; no point moves.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    _, spots = welded(mesh)
    flat, weights = _flat_normals(mesh)
    crisp, joined, halfway = _edges(spots, flat, np.cos(np.radians(degrees)))
    corners = len(spots) * 3
    _, group = connected_components(
        coo_array((np.ones(len(joined)), joined.T), shape=(corners, corners)), directed=False
    )
    weighted = np.repeat(flat, 3, axis=0) * weights.reshape(-1, 1)
    normals = _mean(group, weighted).reshape(-1, 3, 3)
    at = mesh.vertices[mesh.faces]
    uv = None if mesh.uv is None else mesh.uv[mesh.faces]
    if radius <= 0 or not crisp.any():
        return _soup(at, normals, uv)
    turned = _mean(spots.reshape(-1), weighted).reshape(-1, 3, 3)
    made = _rounded(at, normals, turned, halfway, uv, crisp, radius)
    # No point moved: it is closed where it was.
    made.__dict__["faults"] = mesh.faults
    return made


def _flat_normals(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    """((f, 3) normals, (f, 3) angles at the corners)."""
    at = mesh.vertices[mesh.faces].astype(float)
    along = [at[:, AFTER[i]] - at[:, i] for i in range(3)]
    across = np.cross(along[0], -along[2])
    ways = [one / np.linalg.norm(one, axis=1, keepdims=True) for one in along]
    angles = [np.arccos(np.clip(-(ways[i] * ways[BEFORE[i]]).sum(axis=1), -1, 1)) for i in range(3)]
    return across / np.linalg.norm(across, axis=1, keepdims=True), np.stack(angles, axis=1)


def _edges(spots: np.ndarray, flat: np.ndarray, least_cosine: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """((f, 3) whether each edge is crisp, (k, 2) corners that share a normal, as 3 * face + corner, (f, 3, 3) normals midway over edges)."""
    first, second = spots[:, AFTER], spots[:, BEFORE]
    ends = np.sort(np.stack([first, second], axis=-1).reshape(-1, 2), axis=1)
    order = np.lexsort(ends.T)
    same = (ends[order[1:]] == ends[order[:-1]]).all(axis=1)
    a, b = order[:-1][same], order[1:][same]
    is_crisp = (flat[a // 3] * flat[b // 3]).sum(axis=1) < least_cosine
    crisp = np.zeros(len(ends), bool)
    crisp[a[is_crisp]] = crisp[b[is_crisp]] = True
    halfway = np.repeat(flat, 3, axis=0)
    halfway[a] = halfway[b] = flat[a // 3] + flat[b // 3]
    a, b = a[~is_crisp], b[~is_crisp]
    joined = []
    for mine in (AFTER, BEFORE):
        corner = a // 3 * 3 + mine[a % 3]
        for theirs in (AFTER, BEFORE):
            other = b // 3 * 3 + theirs[b % 3]
            shared = spots.reshape(-1)[corner] == spots.reshape(-1)[other]
            joined.append(np.stack([corner[shared], other[shared]], axis=1))
    return crisp.reshape(-1, 3), np.concatenate(joined), halfway.reshape(-1, 3, 3)


def _mean(group: np.ndarray, normals: np.ndarray) -> np.ndarray:
    """For each corner the unit normal of its group."""
    total = np.stack([np.bincount(group, normals[:, axis]) for axis in range(3)], axis=1)
    size = np.linalg.norm(total, axis=1, keepdims=True)
    return (total / np.where(size > 0, size, 1))[group]


def _soup(at: np.ndarray, normals: np.ndarray, uv: np.ndarray | None) -> Mesh:
    """A mesh of triangles that share the points that are alike in everything."""
    rows = np.concatenate(
        [at.reshape(-1, 3), normals.reshape(-1, 3)] + ([] if uv is None else [uv.reshape(-1, 2)]), axis=1
    )
    alike, faces = np.unique(rows.astype(np.float32), axis=0, return_inverse=True)
    own = None if uv is None else alike[:, 6:8].copy()
    return Mesh(alike[:, :3].copy(), alike[:, 3:6].copy(), faces.reshape(-1, 3).astype(np.int32), own)


def _rounded(at, normals, turned, halfway, uv, crisp, radius: float) -> Mesh:
    """Each triangle as an inner one, a strip along each of its crisp edges, and a corner where two of these meet.

    turned, halfway: (f, 3, 3) normals at corners and along edges, between those of all sides there.
    """
    area = np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]).astype(float), axis=1)
    lengths = np.linalg.norm(at[:, BEFORE].astype(float) - at[:, AFTER], axis=2)
    depth = np.where(crisp, np.minimum(radius * lengths / area[:, None], DEEPEST), 0)
    pieces = []

    def point(share: dict[int, np.ndarray], corner: int) -> np.ndarray:
        """(f, 3) barycentric shares of a point near a corner: some of each of the other two."""
        made = np.zeros((len(at), 3))
        for k, part in share.items():
            made[:, k] = part
        made[:, corner] = 1 - made.sum(axis=1)
        return made

    def add(which, *corners) -> None:
        """One triangle for some of those there are. corners: shares, and the normal where it is not their own."""
        shares = np.stack([share[which] for share, _ in corners], axis=1)
        own = shares @ normals[which]
        ways = np.stack([own[:, k] if way is None else way[which] for k, (_, way) in enumerate(corners)], axis=1)
        pieces.append((shares @ at[which], ways, None if uv is None else shares @ uv[which]))

    inner = [(point({AFTER[i]: depth[:, AFTER[i]], BEFORE[i]: depth[:, BEFORE[i]]}, i), None) for i in range(3)]
    add(np.ones(len(at), bool), *inner)
    for i in range(3):
        p, q = AFTER[i], BEFORE[i]
        near_p = (point({q: depth[:, q]}, p), halfway[:, i])
        near_q = (point({p: depth[:, p]}, q), halfway[:, i])
        add(crisp[:, i], near_p, near_q, inner[q])
        add(crisp[:, i], near_p, inner[q], inner[p])
        corner = (point({}, i), turned[:, i])
        on_q, on_p = (point({p: depth[:, p]}, i), halfway[:, q]), (point({q: depth[:, q]}, i), halfway[:, p])
        add(crisp[:, p] & crisp[:, q], corner, on_q, inner[i])
        add(crisp[:, p] & crisp[:, q], corner, inner[i], on_p)
    places, ways, textures = zip(*pieces, strict=True)
    ways = np.concatenate(ways)
    ways /= np.linalg.norm(ways, axis=2, keepdims=True)
    return _soup(np.concatenate(places), ways, None if uv is None else np.concatenate(textures))
