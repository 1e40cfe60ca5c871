"""What each ray meets first."""

from math import exp

from nineglass.kernels import FAR, ONE, ZERO, F, kernel, optic
from nineglass.optics.dielectric import dielectric_reflectance
from nineglass.trace.generate import curve_at
from nineglass.trace.lamps import BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS, meet_lamp
from nineglass.trace.matter import CURVES, SIGMA, TINT
from nineglass.trace.paths import ACTIVE, AIR, FLOOR, FORM, LAMP, NOTHING, SHADOWS
from nineglass.trace.tree import walk
from nineglass.vectors import add, cross, dot, scale, unit, vec3

MOST_PANES = 64
"""Surfaces that light goes straight through with fast shadows."""


@optic
def to_own(things, j, a):
    """A vector of the stage in the axes of thing j."""
    m = things.axes
    return (
        m[j, 0] * a[0] + m[j, 1] * a[1] + m[j, 2] * a[2],
        m[j, 3] * a[0] + m[j, 4] * a[1] + m[j, 5] * a[2],
        m[j, 6] * a[0] + m[j, 7] * a[1] + m[j, 8] * a[2],
    )


@optic
def to_stage(m, j, a):
    """A vector of the axes of thing j on the stage. m: `Things.axes`."""
    return (
        m[j, 0] * a[0] + m[j, 3] * a[1] + m[j, 6] * a[2],
        m[j, 1] * a[0] + m[j, 4] * a[1] + m[j, 7] * a[2],
        m[j, 2] * a[0] + m[j, 5] * a[1] + m[j, 8] * a[2],
    )


@optic
def _in_box(things, j, origin, direction, far):
    """Whether a ray comes through the box of a thing before `far`."""
    near = ZERO
    for axis in range(3):
        o, d = origin[axis], direction[axis]
        if abs(d) < F(1e-12):
            if o < things.low[j, axis] or o > things.high[j, axis]:
                return False
            continue
        a, b = (things.low[j, axis] - o) / d, (things.high[j, axis] - o) / d
        near, far = max(near, min(a, b)), min(far, max(a, b))
    return near <= far


@optic
def nearest(forest, things, origin, direction, far, seen_by, stack, nears, any_hit):
    """The closest triangle of all things that `seen_by` sees: (distance, thing or -1, triangle, u, v)."""
    found, triangle, at_u, at_v = -1, -1, ZERO, ZERO
    for j in range(things.root.size):
        if things.seen[j] & seen_by == 0 or not _in_box(things, j, origin, direction, far):
            continue
        start = (origin[0] - things.offset[j, 0], origin[1] - things.offset[j, 1], origin[2] - things.offset[j, 2])
        t, hit, u, v = walk(
            forest,
            things.root[j],
            to_own(things, j, start),
            to_own(things, j, direction),
            ZERO,
            far,
            stack,
            nears,
            any_hit,
        )
        if hit >= 0:
            far, found, triangle, at_u, at_v = t, j, int(hit), u, v
            if any_hit:
                break
    return far, found, triangle, at_u, at_v


@kernel
def intersect(batch, forest, things, ground, lamps):
    """Fill hits for all active paths."""
    paths, hits = batch.paths, batch.hits
    stack, nears = batch.stack, batch.nears
    for slot in range(batch.counts[ACTIVE]):
        i = batch.active[slot]
        origin, direction = vec3(paths.origin, i), vec3(paths.direction, i)
        seen_by = BY_CAMERA if paths.bounce[i] == 0 else BY_REFLECTIONS
        far, what = FAR, NOTHING
        if ground.present and (origin[1] > ground.height) != (direction[1] > ZERO):
            t = (ground.height - origin[1]) / direction[1]
            if t > ZERO and t < far:
                far, what = t, FLOOR
        for k in range(lamps.shape.size):
            if lamps.seen[k] & seen_by == 0:
                continue
            t = meet_lamp(lamps, k, origin, direction)
            if t < far:
                far, what = t, LAMP + k
        t, thing, triangle, u, v = nearest(forest, things, origin, direction, far, seen_by, stack, nears, False)
        if thing >= 0:
            what = FORM
        hits.distance[i] = t
        hits.what[i] = what
        hits.thing[i] = thing
        hits.triangle[i] = triangle
        hits.u[i] = u
        hits.v[i] = v


@kernel
def cast_shadows(batch, forest, things):
    """Add the light of every shadow ray that nothing stops."""
    paths, shadows = batch.paths, batch.shadows
    stack, nears = batch.stack, batch.nears
    for k in range(batch.counts[SHADOWS]):
        origin, direction = vec3(shadows.origin, k), vec3(shadows.direction, k)
        thing = -1
        if shadows.far[k] > ZERO:
            _, thing, _, _, _ = nearest(
                forest, things, origin, direction, shadows.far[k], BY_SHADOWS, stack, nears, True
            )
        if thing < 0:
            i = shadows.path[k]
            for w in range(4):
                paths.light[w, i] += shadows.light[w, k]


@kernel
def cast_fast_shadows(batch, forest, things, matters, clearance):
    """As `cast_shadows`, but clear matter lets light straight through, less what it reflects and absorbs (untrue)."""
    paths, shadows = batch.paths, batch.shadows
    for k in range(batch.counts[SHADOWS]):
        i = shadows.path[k]
        origin, direction, left = vec3(shadows.origin, k), vec3(shadows.direction, k), shadows.far[k]
        medium, open_way = shadows.medium[k], True
        for _ in range(MOST_PANES):
            if left <= ZERO:
                break
            t, j, triangle, _, _ = nearest(
                forest, things, origin, direction, left, BY_SHADOWS, batch.stack, batch.nears, False
            )
            m = things.matter[max(j, 0)]
            if j < 0:
                break
            if matters.opaque[m]:
                open_way = False
                break
            first = (forest.triangles[triangle, 3], forest.triangles[triangle, 4], forest.triangles[triangle, 5])
            second = (forest.triangles[triangle, 6], forest.triangles[triangle, 7], forest.triangles[triangle, 8])
            cosine = dot(to_stage(things.axes, j, unit(cross(first, second))), direction)
            _pass_pane(paths, shadows, k, i, matters, m, abs(cosine), t if medium >= 0 else ZERO, things, medium)
            medium = AIR if cosine > ZERO else j
            origin = add(origin, scale(direction, t + clearance))
            left -= t + clearance
        if open_way:
            for w in range(4):
                paths.light[w, i] += shadows.light[w, k]


@optic
def _pass_pane(paths, shadows, k, i, matters, m, cosine, length, things, medium):
    """Take from a shadow ray what a pane reflects (seen from outside), and what the matter before it absorbs."""
    reflectance, _ = dielectric_reflectance(min(cosine, ONE), max(matters.ior[m], ONE))
    for w in range(4):
        nm = paths.wavelength[w, i]
        share = (ONE - reflectance) * curve_at(matters.curves[m * CURVES + TINT], nm)
        if medium >= 0:
            share *= exp(-curve_at(matters.curves[things.matter[medium] * CURVES + SIGMA], nm) * length)
        shadows.light[w, k] *= share
