"""What each ray meets first."""

from nineglass.kernels import FAR, ONE, ZERO, F, kernel, optic
from nineglass.trace.paths import ACTIVE, FLOOR, FORM, LAMP, NOTHING, SHADOWS
from nineglass.trace.tree import walk
from nineglass.vectors import vec3


@optic
def turned_back(a, turn):
    """A vector of the stage in the form's own axes."""
    return turn[0] * a[0] - turn[1] * a[2], a[1], turn[1] * a[0] + turn[0] * a[2]


@optic
def turned(a, turn):
    """A vector of the form's own axes on the stage."""
    return turn[0] * a[0] + turn[1] * a[2], a[1], turn[0] * a[2] - turn[1] * a[0]


@optic
def meet_lamp(lamps, k, origin, direction):
    """Distance to the glowing side of a lamp, or FAR."""
    n = (lamps.normal[k, 0], lamps.normal[k, 1], lamps.normal[k, 2])
    facing = direction[0] * n[0] + direction[1] * n[1] + direction[2] * n[2]
    if facing >= F(-1e-7):
        return FAR
    cx, cy, cz = lamps.corner[k, 0] - origin[0], lamps.corner[k, 1] - origin[1], lamps.corner[k, 2] - origin[2]
    t = (cx * n[0] + cy * n[1] + cz * n[2]) / facing
    if t <= ZERO:
        return FAR
    x, y, z = direction[0] * t - cx, direction[1] * t - cy, direction[2] * t - cz
    ax, ay, az = lamps.across[k, 0], lamps.across[k, 1], lamps.across[k, 2]
    bx, by, bz = lamps.up[k, 0], lamps.up[k, 1], lamps.up[k, 2]
    a = (x * ax + y * ay + z * az) / (ax * ax + ay * ay + az * az)
    b = (x * bx + y * by + z * bz) / (bx * bx + by * by + bz * bz)
    if a < ZERO or a > ONE or b < ZERO or b > ONE:
        return FAR
    return t


@kernel
def intersect(batch, tree, turn, ground, lamps):
    """Fill hits for all active paths."""
    paths, hits = batch.paths, batch.hits
    stack, nears = batch.stack, batch.nears
    for slot in range(batch.counts[ACTIVE]):
        i = batch.active[slot]
        origin, direction = vec3(paths.origin, i), vec3(paths.direction, i)
        far, what = FAR, NOTHING
        if ground.present and (origin[1] > ground.height) != (direction[1] > ZERO):
            t = (ground.height - origin[1]) / direction[1]
            if t > ZERO and t < far:
                far, what = t, FLOOR
        for k in range(lamps.area.size):
            if paths.bounce[i] == 0 and not lamps.seen[k]:
                continue
            t = meet_lamp(lamps, k, origin, direction)
            if t < far:
                far, what = t, LAMP + k
        own_origin, own_direction = turned_back(origin, turn), turned_back(direction, turn)
        t, triangle, u, v = walk(tree, own_origin, own_direction, ZERO, far, stack, nears, False)
        if triangle >= 0:
            what = FORM
        hits.distance[i] = t
        hits.what[i] = what
        hits.triangle[i] = triangle
        hits.u[i] = u
        hits.v[i] = v


@kernel
def cast_shadows(batch, tree, turn):
    """Add the light of every shadow ray that nothing stops."""
    paths, shadows = batch.paths, batch.shadows
    stack, nears = batch.stack, batch.nears
    for k in range(batch.counts[SHADOWS]):
        origin = turned_back(vec3(shadows.origin, k), turn)
        direction = turned_back(vec3(shadows.direction, k), turn)
        _, triangle, _, _ = walk(tree, origin, direction, ZERO, shadows.far[k], stack, nears, True)
        if triangle < 0:
            i = shadows.path[k]
            for w in range(4):
                paths.light[w, i] += shadows.light[w, k]
