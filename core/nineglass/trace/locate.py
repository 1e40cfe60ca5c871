"""Absorption up to the hit, light that the path ran into, and queues of what is to be shaded."""

from math import exp

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, optic
from nineglass.network.interpret import white_noise
from nineglass.network.ops import INPUTS
from nineglass.trace.ask_lamps import around_here, escaped_share, glow_at, lamp_share
from nineglass.trace.generate import FIRST_BOUNCE, PER_BOUNCE, SIDE
from nineglass.trace.intersect import to_own, to_stage
from nineglass.trace.paths import (
    ACTIVE,
    AIR,
    ASKED,
    ENDED,
    FLOOR,
    FLOORS,
    FORM,
    FORMS,
    LAMP,
    OPEN,
    SHADOWS,
)
from nineglass.trace.random import single
from nineglass.vectors import add, cross, dot, negate, put3, scale, sub, unit, vec3

CM = F(100)
NORMAL_AT, VIEW_AT, UV_AT, SLOPES_AT, STAGE_AT, OBJECT_AT, PIECE_AT, TIME_AT, SIZE_AT, STAGE_AXES_AT, CAMERA_AXES_AT = (
    INPUTS.index(name)
    for name in (
        *("normal_x", "view_x", "u", "u_x", "stage_x", "object", "piece", "time", "width"),
        *("stage_right_x", "camera_right_x"),
    )
)


@optic
def _corner_normal(forest, t, u, v):
    """The smooth normal within a triangle, in its own axes."""
    n, rest = forest.normals, ONE - u - v
    return unit(
        (
            n[t, 0] * rest + n[t, 3] * u + n[t, 6] * v,
            n[t, 1] * rest + n[t, 4] * u + n[t, 7] * v,
            n[t, 2] * rest + n[t, 5] * u + n[t, 8] * v,
        )
    )


@optic
def _travel(paths, i, distance, things):
    """Absorb along the way; keep the length through the material on the bench (row 0)."""
    medium = paths.medium[i]
    if medium == AIR:
        return
    if things.matter[medium] == 0:
        paths.length[i] += distance
    for w in range(4):
        paths.weight[w, i] *= exp(-paths.sigma_a[w, i] * distance)


@kernel
def locate(batch, scene):
    """Bring every active path to what it met; end those that met light."""
    paths, hits, counts = batch.paths, batch.hits, batch.counts
    counts[FORMS], counts[FLOORS], counts[SHADOWS] = 0, 0, 0
    batch.starts[:] = 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        what, distance = hits.what[i], hits.distance[i]
        if what in (FORM, FLOOR):
            _travel(paths, i, distance, scene.things)
            for axis in range(3):
                paths.origin[axis, i] += paths.direction[axis, i] * distance
            if what == FLOOR:
                batch.floor_queue[counts[FLOORS]] = i
                counts[FLOORS] += 1
            else:
                batch.met[counts[FORMS]] = i
                counts[FORMS] += 1
                batch.starts[scene.things.matter[hits.thing[i]] + 1] += 1
            continue
        paths.state[i] |= ENDED
        if what >= LAMP:
            _travel(paths, i, distance, scene.things)
            share = lamp_share(scene, paths, i, what - LAMP, distance)
        else:
            share = escaped_share(scene, paths, i)
            if paths.bounce[i] == 0:
                paths.state[i] |= OPEN
        if paths.state[i] & ASKED and what >= LAMP and paths.pdf[i] < ZERO:
            share = ZERO
        if share > ZERO:
            around = around_here(scene, paths, i)
            for w in range(4):
                glow = glow_at(scene, around, what - LAMP, vec3(paths.direction, i), paths.wavelength[w, i])
                paths.light[w, i] += paths.weight[w, i] * glow * share


@optic
def _fill(registers, row, at, column, value):
    if row[at] >= 0:
        registers[row[at], column] = value


@optic
def _fill3(registers, row, at, column, a):
    _fill(registers, row, at, column, a[0])
    _fill(registers, row, at + 1, column, a[1])
    _fill(registers, row, at + 2, column, a[2])


@optic
def _frames(scene, j, row, registers, column):
    """The size of the object, and the axes of the stage and of the camera in its own."""
    things, camera = scene.things, scene.camera_axes
    for axis in range(3):
        _fill(registers, row, SIZE_AT + axis, column, things.size[j, axis])
        on_stage = (F(axis == 0), F(axis == 1), F(axis == 2))
        of_camera = (camera[3 * axis], camera[3 * axis + 1], camera[3 * axis + 2])
        _fill3(registers, row, STAGE_AXES_AT + 3 * axis, column, to_own(things, j, on_stage))
        _fill3(registers, row, CAMERA_AXES_AT + 3 * axis, column, to_own(things, j, of_camera))


@optic
def _more_inputs(paths, hits, scene, row, registers, column, i, edges):
    """The inputs that few programs read; `network.ops.INPUTS` has their order."""
    forest, things = scene.forest, scene.things
    j, t, u, v = hits.thing[i], hits.triangle[i], hits.u[i], hits.v[i]
    _fill3(registers, row, NORMAL_AT, column, to_own(things, j, vec3(hits.normal, i)))
    _fill3(registers, row, VIEW_AT, column, to_own(things, j, negate(vec3(paths.direction, i))))
    place, uv = vec3(paths.origin, i), forest.uvs
    _fill3(registers, row, STAGE_AT, column, scale(place, CM))
    which = F(things.bit[j] % 1009) + HALF
    _fill(registers, row, OBJECT_AT, column, white_noise(which, HALF, HALF))
    if row[PIECE_AT] >= 0:
        registers[row[PIECE_AT], column] = white_noise(which, F(forest.pieces[t]) + HALF, HALF)
    _fill(registers, row, TIME_AT, column, scene.time)
    rest = ONE - u - v
    _fill(registers, row, UV_AT, column, uv[t, 0] * rest + uv[t, 2] * u + uv[t, 4] * v)
    _fill(registers, row, UV_AT + 1, column, uv[t, 1] * rest + uv[t, 3] * u + uv[t, 5] * v)
    # The change of u and v along the triangle: the dual of its edges.
    first, second = edges
    aa, ab, bb = dot(first, first), dot(first, second), dot(second, second)
    size = max(aa * bb - ab * ab, F(1e-30)) * CM
    along = sub(scale(first, bb), scale(second, ab))
    across = sub(scale(second, aa), scale(first, ab))
    for axis in range(2):
        one, two = (uv[t, 2 + axis] - uv[t, axis]) / size, (uv[t, 4 + axis] - uv[t, axis]) / size
        _fill3(registers, row, SLOPES_AT + 3 * axis, column, add(scale(along, one), scale(across, two)))


@kernel
def sort_by_material(batch, scene, registers):
    """Queue the paths that met objects by material, with their normals and the inputs of the material's program."""
    paths, hits, starts, forest, things = batch.paths, batch.hits, batch.starts, scene.forest, scene.things
    materials = scene.matters.surface.size
    for m in range(materials):
        starts[m + 1] += starts[m]
    for slot in range(batch.counts[FORMS]):
        i = batch.met[slot]
        j, t, u, v = hits.thing[i], hits.triangle[i], hits.u[i], hits.v[i]
        m = things.matter[j]
        column = starts[m]
        starts[m] += 1
        batch.form_queue[column] = i
        hits.matter[i] = m
        first = (forest.triangles[t, 3], forest.triangles[t, 4], forest.triangles[t, 5])
        second = (forest.triangles[t, 6], forest.triangles[t, 7], forest.triangles[t, 8])
        normal = to_stage(things.axes, j, _corner_normal(forest, t, u, v))
        put3(hits.normal, i, normal)
        put3(hits.flat, i, to_stage(things.axes, j, unit(cross(first, second))))
        inputs = scene.matters.inputs
        if inputs[m, 0] >= 0:
            registers[inputs[m, 0], column] = min(abs(dot(normal, vec3(paths.direction, i))), ONE)
        for axis in range(3):
            if inputs[m, 1 + axis] >= 0:
                at = forest.triangles[t, axis] + first[axis] * u + second[axis] * v
                registers[inputs[m, 1 + axis], column] = at * CM
        if scene.matters.more_inputs[m]:
            _more_inputs(paths, hits, scene, inputs[m], registers, column, i, (first, second))
            if scene.matters.frames[m]:
                _frames(scene, j, inputs[m], registers, column)
    for m in range(materials, 0, -1):
        starts[m] = starts[m - 1]
    starts[0] = 0


@kernel
def choose_sides(batch, registers, scene, seed):
    """At a split, let each path meet one of its two sides, by the mask."""
    paths, hits, matters = batch.paths, batch.hits, scene.matters
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        m = hits.matter[i]
        if matters.split[m] < 0:
            continue
        dimension = FIRST_BOUNCE + PER_BOUNCE * paths.bounce[i] + SIDE
        second = single(seed, paths.pixel[i], paths.sample[i], dimension) < registers[matters.mask[m], column]
        hits.matter[i] = matters.split[m] + (1 if second else 0)
