"""The tree of boxes over triangles: built by binned surface area, walked four boxes at a time.

Sources: Wald 2007, On Fast Construction of SAH-based Bounding Volume Hierarchies; Dammertz, Hanika & Keller 2008,
Shallow Bounding Volume Hierarchies; Moeller & Trumbore 1997 for the triangle.
"""

from typing import NamedTuple

import numpy as np

from nineglass.forms.mesh import Mesh
from nineglass.kernels import FAR, ONE, ZERO, F, builder, optic

BINS = 16
LARGEST_LEAF = 4
STACK = 192
LEAST = F(1e-12)
EDGE = F(2e-6)
"""By so much of a side a triangle is wider than it is, so that no ray slips between two."""


class Tree(NamedTuple):
    """A leaf is written ~(first * 16 + count) in place of a child."""

    boxes: np.ndarray  # (n, 24) float32: four lows of x, y, z, then four highs
    children: np.ndarray  # (n, 4) int32
    triangles: np.ndarray  # (m, 9) float32: corner and two edges
    faces: np.ndarray  # (m,) int32: the face of the mesh that each triangle is


def build_tree(mesh: Mesh) -> Tree:
    """The tree over a mesh."""
    corners = mesh.vertices[mesh.faces]
    low, high = corners.min(axis=1), corners.max(axis=1)
    order = np.arange(len(mesh.faces), dtype=np.int32)
    boxes, children = _split(low, high, (low + high) * F(0.5), order)
    wide_boxes, wide_children = _widen(boxes, children)
    corners = corners[order]
    triangles = np.concatenate([corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]], axis=1)
    return Tree(wide_boxes, wide_children, np.ascontiguousarray(triangles), order)


@optic
def _half_area(box, at):
    x, y, z = box[at + 3] - box[at], box[at + 4] - box[at + 1], box[at + 5] - box[at + 2]
    return x * y + y * z + z * x


@optic
def _empty(box, at):
    for k in range(3):
        box[at + k] = FAR
        box[at + 3 + k] = -FAR


@optic
def _grow(box, at, low, high, i):
    for k in range(3):
        box[at + k] = min(box[at + k], low[i, k])
        box[at + 3 + k] = max(box[at + 3 + k], high[i, k])


@builder
def _best_split(low, high, middle, order, start, stop, spread, limit, bins, counts, right_cost):
    """The axis and bin with the least expected cost below `limit`, or axis -1."""
    best_axis, best_bin, best = -1, 0, limit
    side = np.empty(6, np.float32)
    for axis in range(3):
        extent = spread[3 + axis] - spread[axis]
        if extent <= F(1e-12):
            continue
        per = F(BINS) * F(0.9999) / extent
        for b in range(BINS):
            counts[b] = 0
            _empty(bins, b * 6)
        for slot in range(start, stop):
            i = order[slot]
            b = np.int32((middle[i, axis] - spread[axis]) * per)
            counts[b] += 1
            _grow(bins, b * 6, low, high, i)
        _empty(side, 0)
        count = 0
        for b in range(BINS - 1, 0, -1):
            for k in range(3):
                side[k] = min(side[k], bins[b * 6 + k])
                side[3 + k] = max(side[3 + k], bins[b * 6 + 3 + k])
            count += counts[b]
            right_cost[b] = F(count) * _half_area(side, 0) if count else ZERO
        total = count + counts[0]
        _empty(side, 0)
        count = 0
        for b in range(BINS - 1):
            for k in range(3):
                side[k] = min(side[k], bins[b * 6 + k])
                side[3 + k] = max(side[3 + k], bins[b * 6 + 3 + k])
            count += counts[b]
            if count in (0, total):
                continue
            cost = F(count) * _half_area(side, 0) + right_cost[b + 1]
            if cost < best:
                best_axis, best_bin, best = axis, b, cost
    return best_axis, best_bin


@builder
def _split(low, high, middle, order):
    """Binary tree: boxes (n, 12) of both children and children (n, 2); reorders `order` so that leaves are runs."""
    count = order.size
    boxes, children = np.empty((count + 1, 12), np.float32), np.empty((count + 1, 2), np.int32)
    todo = np.empty((256, 4), np.int64)
    box, spread = np.empty(6, np.float32), np.empty(6, np.float32)
    bins, counts, right_cost = np.empty(BINS * 6, np.float32), np.zeros(BINS, np.int64), np.empty(BINS, np.float32)
    todo[0, 0], todo[0, 1], todo[0, 2], todo[0, 3] = 0, count, -1, 0
    waiting, made = 1, 0
    while waiting > 0:
        waiting -= 1
        start, stop, parent, slot = todo[waiting, 0], todo[waiting, 1], todo[waiting, 2], todo[waiting, 3]
        _empty(box, 0)
        _empty(spread, 0)
        for s in range(start, stop):
            _grow(box, 0, low, high, order[s])
            _grow(spread, 0, middle, middle, order[s])
        if parent >= 0:
            for k in range(6):
                boxes[parent, slot * 6 + k] = box[k]
        size = stop - start
        limit = F(size - 1) * _half_area(box, 0) if size <= LARGEST_LEAF else FAR
        axis, split = -1, 0
        if size > 1:
            axis, split = _best_split(low, high, middle, order, start, stop, spread, limit, bins, counts, right_cost)
        if axis < 0 and size <= LARGEST_LEAF:
            leaf = np.int32(~(start * 16 + size))
            if parent >= 0:
                children[parent, slot] = leaf
            else:
                for k in range(3):
                    boxes[0, k], boxes[0, 3 + k] = box[k], box[3 + k]
                    boxes[0, 6 + k], boxes[0, 9 + k] = FAR, -FAR
                children[0, 0], children[0, 1], made = leaf, np.int32(~0), 1
            continue
        if axis < 0:
            cut = (start + stop) // 2
        else:
            per = F(BINS) * F(0.9999) / (spread[3 + axis] - spread[axis])
            i, j = start, stop - 1
            while i <= j:
                if np.int32((middle[order[i], axis] - spread[axis]) * per) <= split:
                    i += 1
                else:
                    order[i], order[j] = order[j], order[i]
                    j -= 1
            cut = i
        node = made
        made += 1
        if parent >= 0:
            children[parent, slot] = node
        todo[waiting, 0], todo[waiting, 1], todo[waiting, 2], todo[waiting, 3] = cut, stop, node, 1
        todo[waiting + 1, 0], todo[waiting + 1, 1], todo[waiting + 1, 2], todo[waiting + 1, 3] = start, cut, node, 0
        waiting += 2
    return boxes[:made].copy(), children[:made].copy()


@builder
def _widen(boxes, children):
    """Binary to four wide, by opening the child with the largest box."""
    count = children.shape[0]
    wide, links = np.empty((count, 24), np.float32), np.empty((count, 4), np.int32)
    todo = np.empty((512, 2), np.int32)
    todo[0, 0], todo[0, 1] = 0, -1
    waiting, made = 1, 0
    child, box = np.empty(4, np.int32), np.empty((4, 6), np.float32)
    while waiting > 0:
        waiting -= 1
        node, back = todo[waiting, 0], todo[waiting, 1]
        filled = 2
        for j in range(2):
            child[j] = children[node, j]
            box[j] = boxes[node, j * 6 : j * 6 + 6]
        while filled < 4:
            largest, area = -1, -ONE
            for j in range(filled):
                if child[j] >= 0 and _half_area(box[j], 0) > area:
                    largest, area = j, _half_area(box[j], 0)
            if largest < 0:
                break
            opened = child[largest]
            child[largest], child[filled] = children[opened, 0], children[opened, 1]
            box[largest] = boxes[opened, 0:6]
            box[filled] = boxes[opened, 6:12]
            filled += 1
        here = made
        made += 1
        if back >= 0:
            links[back // 4, back % 4] = here
        for j in range(4):
            if j >= filled:
                links[here, j] = np.int32(~0)
                for k in range(3):
                    wide[here, k * 4 + j], wide[here, (3 + k) * 4 + j] = FAR, -FAR
                continue
            links[here, j] = child[j]
            for k in range(6):
                wide[here, k * 4 + j] = box[j, k]
            if child[j] >= 0:
                todo[waiting, 0], todo[waiting, 1] = child[j], here * 4 + j
                waiting += 1
    return wide[:made].copy(), links[:made].copy()


@optic
def _push(stack, nears, top, base, child, near):
    """Insert a child so that the nearest is on top."""
    j = top
    while j > base and nears[j - 1] < near:
        stack[j], nears[j] = stack[j - 1], nears[j - 1]
        j -= 1
    stack[j], nears[j] = child, near


@optic
def _inverse(d):
    """1 / d, finite for rays along an axis, so that no slab distance is inf - inf."""
    if abs(d) < LEAST:
        return ONE / LEAST
    return ONE / d


@optic
def walk(tree, root, origin, direction, near, far, stack, nears, any_hit):
    """The closest triangle along a ray within (near, far): (distance, triangle or -1, u, v). With any_hit, some triangle.

    tree: anything with boxes, children and triangles as `Tree` has them. root: the node to begin at.
    """
    boxes, children, triangles = tree.boxes, tree.children, tree.triangles
    ox, oy, oz = origin
    dx, dy, dz = direction
    ix, iy, iz = _inverse(dx), _inverse(dy), _inverse(dz)
    oix, oiy, oiz = ox * ix, oy * iy, oz * iz
    nx, fx = (12, 0) if ix < ZERO else (0, 12)
    ny, fy = (16, 4) if iy < ZERO else (4, 16)
    nz, fz = (20, 8) if iz < ZERO else (8, 20)
    t, found, at_u, at_v = far, np.int32(-1), ZERO, ZERO
    top, node = 0, np.int32(root)
    while True:
        if node >= 0:
            a0 = max(boxes[node, nx] * ix - oix, boxes[node, ny] * iy - oiy, boxes[node, nz] * iz - oiz, near)
            a1 = max(
                boxes[node, nx + 1] * ix - oix, boxes[node, ny + 1] * iy - oiy, boxes[node, nz + 1] * iz - oiz, near
            )
            a2 = max(
                boxes[node, nx + 2] * ix - oix, boxes[node, ny + 2] * iy - oiy, boxes[node, nz + 2] * iz - oiz, near
            )
            a3 = max(
                boxes[node, nx + 3] * ix - oix, boxes[node, ny + 3] * iy - oiy, boxes[node, nz + 3] * iz - oiz, near
            )
            b0 = min(boxes[node, fx] * ix - oix, boxes[node, fy] * iy - oiy, boxes[node, fz] * iz - oiz, t)
            b1 = min(boxes[node, fx + 1] * ix - oix, boxes[node, fy + 1] * iy - oiy, boxes[node, fz + 1] * iz - oiz, t)
            b2 = min(boxes[node, fx + 2] * ix - oix, boxes[node, fy + 2] * iy - oiy, boxes[node, fz + 2] * iz - oiz, t)
            b3 = min(boxes[node, fx + 3] * ix - oix, boxes[node, fy + 3] * iy - oiy, boxes[node, fz + 3] * iz - oiz, t)
            base = top
            if a0 <= b0:
                stack[top], nears[top] = children[node, 0], a0
                top += 1
            if a1 <= b1:
                _push(stack, nears, top, base, children[node, 1], a1)
                top += 1
            if a2 <= b2:
                _push(stack, nears, top, base, children[node, 2], a2)
                top += 1
            if a3 <= b3:
                _push(stack, nears, top, base, children[node, 3], a3)
                top += 1
        else:
            run = ~node
            first = run >> 4
            for i in range(first, first + (run & 15)):
                e1x, e1y, e1z = triangles[i, 3], triangles[i, 4], triangles[i, 5]
                e2x, e2y, e2z = triangles[i, 6], triangles[i, 7], triangles[i, 8]
                px, py, pz = dy * e2z - dz * e2y, dz * e2x - dx * e2z, dx * e2y - dy * e2x
                inverse = ONE / (e1x * px + e1y * py + e1z * pz)
                sx, sy, sz = ox - triangles[i, 0], oy - triangles[i, 1], oz - triangles[i, 2]
                u = (sx * px + sy * py + sz * pz) * inverse
                if not (u >= -EDGE and u <= ONE + EDGE):
                    continue
                qx, qy, qz = sy * e1z - sz * e1y, sz * e1x - sx * e1z, sx * e1y - sy * e1x
                v = (dx * qx + dy * qy + dz * qz) * inverse
                if not (v >= -EDGE and u + v <= ONE + EDGE):
                    continue
                distance = (e2x * qx + e2y * qy + e2z * qz) * inverse
                if distance > near and distance < t:
                    t, found, at_u, at_v = distance, np.int32(i), u, v
            if any_hit and found >= 0:
                return t, found, at_u, at_v
        while top > 0:
            top -= 1
            if nears[top] <= t:
                break
        else:
            return t, found, at_u, at_v
        node = stack[top]


@builder
def closest_hits(tree, origins, directions, distances, found):
    """For rays (3, n): the distance to the closest triangle (n,) and which (n,), -1 for none."""
    stack, nears = np.empty(STACK, np.int32), np.empty(STACK, np.float32)
    for i in range(found.size):
        origin = (origins[0, i], origins[1, i], origins[2, i])
        direction = (directions[0, i], directions[1, i], directions[2, i])
        distances[i], found[i], _, _ = walk(tree, 0, origin, direction, ZERO, FAR, stack, nears, False)


@builder
def any_hits(tree, origins, directions, far, found):
    """For rays (3, n) that end at far (n,): whether some triangle is in the way (n,)."""
    stack, nears = np.empty(STACK, np.int32), np.empty(STACK, np.float32)
    for i in range(found.size):
        origin = (origins[0, i], origins[1, i], origins[2, i])
        direction = (directions[0, i], directions[1, i], directions[2, i])
        _, hit, _, _ = walk(tree, 0, origin, direction, ZERO, far[i], stack, nears, True)
        found[i] = hit >= 0
