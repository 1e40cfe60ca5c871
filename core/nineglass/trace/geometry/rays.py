"""What each ray meets first, and which of the lamps that were asked are seen."""

from math import exp

import llvmlite.binding as llvm
from numba import types

from nineglass.kernels import FAR, ZERO, F, kernel, step
from nineglass.spectra.curves import curve_at
from nineglass.trace.geometry.embree import (
    DIRECTION,
    FLAGS,
    GEOMETRY,
    ID,
    INSTANCE_ID,
    MASK,
    NEAR,
    NOTHING_HIT,
    ORIGIN,
    PRIMITIVE,
    REACH,
    TIME,
    U,
    V,
    library_file,
)
from nineglass.trace.geometry.standing import BY_CAMERA, BY_REFLECTIONS, BY_SHADOWS
from nineglass.trace.geometry.surface import surface_at
from nineglass.trace.light.lamps import meet_lamp
from nineglass.trace.media.clear import pass_pane
from nineglass.trace.media.nesting import medium_without
from nineglass.trace.media.varying import pass_straight
from nineglass.trace.paths import ACTIVE, AIR, FLOOR, FORM, LAMP, NOTHING, SHADOWS, THROWN
from nineglass.trace.random import row_of
from nineglass.vectors import add, dot, negate, scale, vec3

llvm.load_library_permanently(str(library_file()))
# By name, so that the machine code of a cached kernel finds it in a new process (a ctypes pointer would be kept by its address).
_intersect1 = types.ExternalFunction("rtcIntersect1", types.void(types.intp, types.intp, types.intp))
_occluded1 = types.ExternalFunction("rtcOccluded1", types.void(types.intp, types.intp, types.intp))

MOST_PANES = 64
"""Surfaces that light goes straight through with fast shadows."""

SHADOW_SEED = 0x51AD0
"""Of the random numbers by which shadow rays pass media that vary."""

NO_BITS = NOTHING_HIT - NOTHING_HIT


@step
def _set_out(ray, bits, origin, direction, far, seen_by):
    ray[ORIGIN], ray[ORIGIN + 1], ray[ORIGIN + 2], ray[NEAR] = origin[0], origin[1], origin[2], ZERO
    ray[DIRECTION], ray[DIRECTION + 1], ray[DIRECTION + 2] = direction[0], direction[1], direction[2]
    ray[TIME], ray[REACH] = ZERO, far
    bits[MASK], bits[ID], bits[FLAGS] = seen_by, NO_BITS, NO_BITS


@step
def nearest(rays, ray, bits, origin, direction, far, seen_by):
    """The closest surface before `far` of all that `seen_by` sees: (distance, thing or -1, primitive, u, v)."""
    _set_out(ray, bits, origin, direction, far, seen_by)
    bits[GEOMETRY], bits[INSTANCE_ID] = NOTHING_HIT, NOTHING_HIT
    _intersect1(rays, ray.ctypes.data, 0)
    if bits[GEOMETRY] == NOTHING_HIT:
        return far, -1, 0, ZERO, ZERO
    return ray[REACH], int(bits[INSTANCE_ID]), int(bits[PRIMITIVE]), ray[U], ray[V]


@step
def blocked(rays, ray, bits, origin, direction, far, seen_by):
    """Whether anything that `seen_by` sees lies before `far`."""
    _set_out(ray, bits, origin, direction, far, seen_by)
    _occluded1(rays, ray.ctypes.data, 0)
    return ray[REACH] < ZERO


@step
def meet(batch, scene, i, ahead):
    """Fill the hit of a path: what it meets first, from so far ahead (m) on."""
    paths, hits, ground, lamps = batch.paths, batch.hits, scene.ground, scene.lamps
    direction = vec3(paths.direction, i)
    origin = add(vec3(paths.origin, i), scale(direction, ahead))
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
    t, thing, primitive, u, v = nearest(scene.geometry.rays, batch.ray, batch.ray_bits, origin, direction, far, seen_by)
    hits.distance[i], hits.what[i] = ahead + t, FORM if thing >= 0 else what
    hits.thing[i], hits.primitive[i], hits.u[i], hits.v[i] = thing, primitive, u, v


@kernel
def intersect(batch, scene):
    """Fill hits for all active paths."""
    for slot in range(batch.counts[ACTIVE]):
        meet(batch, scene, batch.active[slot], ZERO)


@step
def _lamp_hides(lamps, shadows, k):
    """Whether the camera sees a lamp rather than the place behind it that a ray to the lens sets out from."""
    direction, far = vec3(shadows.direction, k), shadows.far[k]
    lens = add(vec3(shadows.origin, k), scale(direction, far))
    for lamp in range(lamps.shape.size):
        if lamps.seen[lamp] & BY_CAMERA and meet_lamp(lamps, lamp, lens, negate(direction)) < far:
            return True
    return False


@kernel
def cast_shadows(batch, scene):
    """Add the light of every shadow ray that nothing stops; of thrown light, of every ray to the lens."""
    paths, shadows, rays = batch.paths, batch.shadows, scene.geometry.rays
    for k in range(batch.counts[SHADOWS]):
        origin, direction, far = vec3(shadows.origin, k), vec3(shadows.direction, k), shadows.far[k]
        i = shadows.path[k]
        if paths.state[i] & THROWN and _lamp_hides(scene.lamps, shadows, k):
            continue
        seen_by = BY_CAMERA if paths.state[i] & THROWN else BY_SHADOWS
        if far <= ZERO or not blocked(rays, batch.ray, batch.ray_bits, origin, direction, far, seen_by):
            for w in range(paths.lines[i]):
                paths.light[w, i] += shadows.light[w, k]


@step
def lit_through(batch, scene, k):
    """Weaken the light of shadow ray k by the media without a boundary in its way. Whether nothing else stops it."""
    paths, shadows, geometry, media = batch.paths, batch.shadows, scene.geometry, scene.media
    i, direction, left = shadows.path[k], vec3(shadows.direction, k), shadows.far[k]
    origin, medium = vec3(shadows.origin, k), shadows.medium[k]
    seen_by = BY_CAMERA if paths.state[i] & THROWN else BY_SHADOWS
    state = row_of(SHADOW_SEED, paths.pixel[i], paths.sample[i], paths.dimension[i])
    for _ in range(MOST_PANES):
        t, j, primitive, u, v = nearest(geometry.rays, batch.ray, batch.ray_bits, origin, direction, left, seen_by)
        if medium != AIR and scene.fields.of[medium] >= 0:
            state = pass_straight(
                scene,
                shadows.light,
                k,
                paths.wavelength,
                i,
                paths.lines[i],
                medium,
                scene.fields.of[medium],
                origin,
                direction,
                t,
                state,
            )
        elif medium != AIR and media.open[geometry.things.matter[medium]]:
            row = geometry.things.matter[medium]
            for w in range(paths.lines[i]):
                nm = paths.wavelength[w, i]
                extinction = curve_at(media.sigma[row], nm) + curve_at(media.sigma_s[row], nm)
                shadows.light[w, k] *= exp(-extinction * t)
        if j < 0:
            return True
        if media.open[geometry.things.matter[j]] == 0:
            return False
        place = surface_at(geometry, j, primitive, u, v)
        cosine = dot(place.flat, direction)
        if cosine < ZERO:
            medium = j
        else:
            medium = medium_without(paths, i, geometry.things.priority, j)
        onward = place.clearance / max(abs(cosine), F(0.01))
        origin = add(place.place, scale(direction, onward))
        left -= t + onward
        if left <= ZERO:
            return True
    return False


@kernel
def cast_shadows_in_fog(batch, scene):
    """As `cast_shadows`, with media that have no boundary in the way of the light."""
    paths, shadows = batch.paths, batch.shadows
    for k in range(batch.counts[SHADOWS]):
        i = shadows.path[k]
        if paths.state[i] & THROWN and _lamp_hides(scene.lamps, shadows, k):
            continue
        if shadows.far[k] <= ZERO or lit_through(batch, scene, k):
            for w in range(paths.lines[i]):
                paths.light[w, i] += shadows.light[w, k]


@kernel
def cast_fast_shadows(batch, scene):
    """As `cast_shadows`, but clear matter lets light straight through, less what it reflects and absorbs (untrue)."""
    paths, shadows, geometry, media = batch.paths, batch.shadows, scene.geometry, scene.media
    for k in range(batch.counts[SHADOWS]):
        i = shadows.path[k]
        origin, direction, left = vec3(shadows.origin, k), vec3(shadows.direction, k), shadows.far[k]
        medium, open_way = shadows.medium[k], True
        for _ in range(MOST_PANES):
            if left <= ZERO:
                break
            t, j, primitive, u, v = nearest(
                geometry.rays, batch.ray, batch.ray_bits, origin, direction, left, BY_SHADOWS
            )
            if j < 0:
                break
            m = geometry.things.matter[j]
            if media.opaque[m]:
                open_way = False
                break
            pane = surface_at(geometry, j, primitive, u, v)
            cosine = dot(pane.flat, direction)
            pass_pane(paths, shadows, k, i, media, m, abs(cosine), t, geometry.things, medium)
            medium = AIR if cosine > ZERO else j
            onward = pane.clearance / max(abs(cosine), F(0.01))
            origin = add(pane.place, scale(direction, onward))
            left -= t + onward
        if open_way:
            for w in range(paths.lines[i]):
                paths.light[w, i] += shadows.light[w, k]
