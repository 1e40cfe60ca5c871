"""Absorption up to the hit, light that the path ran into, and queues of what is to be shaded."""

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, step
from nineglass.network.interpret import white_noise
from nineglass.network.ops import INPUTS
from nineglass.trace.geometry.strands import UM, along_at, root_of, round_normal
from nineglass.trace.geometry.strands import place_at as place_on_strand
from nineglass.trace.geometry.surface import surface_at, to_own
from nineglass.trace.geometry.triangles import piece_at, texture_at
from nineglass.trace.light.ask import (
    CAMERA,
    REFLECTIONS,
    SURROUND,
    around_here,
    escaped_share,
    glow_at,
    lamp_share,
    white_glow,
)
from nineglass.trace.light.throw import is_thrown
from nineglass.trace.media.clear import travel
from nineglass.trace.paths import (
    ACTIVE,
    AIMED,
    ASKED,
    BENT,
    ENDED,
    FLOOR,
    FLOORS,
    FORM,
    FORMS,
    FROM_MATT,
    LAMP,
    NOTHING,
    OPEN,
    SHADOWS,
    THROWN,
    TURNED,
)
from nineglass.trace.random import single
from nineglass.vectors import dot, negate, put3, scale, vec3

CM = F(100)
FACING_AT, PLACE_AT = INPUTS.index("facing"), INPUTS.index("x")
NORMAL_AT, VIEW_AT, UV_AT, SLOPES_AT, STAGE_AT, OBJECT_AT, PIECE_AT, TIME_AT, SIZE_AT, STAGE_AXES_AT, CAMERA_AXES_AT = (
    INPUTS.index(name)
    for name in (
        *("normal_x", "view_x", "u", "u_x", "stage_x", "object", "piece", "time", "width"),
        *("stage_right_x", "camera_right_x"),
    )
)
ALONG_AT, STRAND_AT, STRAND_LENGTH_AT, STRAND_WIDTH_AT, ON_STRAND_AT = (
    INPUTS.index(name) for name in ("along", "strand", "strand_length", "strand_width", "strand_x")
)


AIM = F(2e-5)
"""How far beside its mark, as a share of the way to it, thrown light may meet what it was aimed at."""


@step
def _misses(paths, i, what, distance):
    """Whether thrown light meets something else before what it was aimed at."""
    if paths.state[i] & AIMED == 0:
        return False
    paths.state[i] &= ~AIMED
    aimed = paths.place[0, i]
    return what != FORM or abs(distance - aimed) > AIM * aimed + F(1e-6)


@step
def _take_light(scene, paths, i, what, distance):
    """Give a path that ends in a lamp or in the surround the light of it."""
    around = around_here(paths, i)
    counted = paths.state[i] & FROM_MATT and paths.state[i] & BENT
    if counted and is_thrown(scene, what - LAMP if what >= LAMP else SURROUND, vec3(paths.direction, i)):
        return
    if what >= LAMP:
        share = lamp_share(scene, paths, i, what - LAMP, distance)
        if paths.state[i] & ASKED and paths.pdf[i] < ZERO:
            share = ZERO
    else:
        share = escaped_share(scene, paths, i)
        if around == CAMERA:
            paths.state[i] |= OPEN
            if scene.cut_out:
                return
        elif scene.lets_through and around == REFLECTIONS and paths.state[i] & TURNED == 0 and _is_dark(paths, i):
            paths.state[i] |= OPEN
            for w in range(paths.lines[i]):
                paths.light[w, i] = paths.weight[w, i] * white_glow(scene, paths.wavelength[w, i])
            return
    if share <= ZERO:
        return
    glow = glow_at(scene, paths, i, around, what - LAMP if what >= LAMP else -1, vec3(paths.direction, i))
    paths.light[0, i] += paths.weight[0, i] * glow[0] * share
    if paths.lines[i] > 1:
        paths.light[1, i] += paths.weight[1, i] * glow[1] * share
        paths.light[2, i] += paths.weight[2, i] * glow[2] * share
        paths.light[3, i] += paths.weight[3, i] * glow[3] * share


@step
def _is_dark(paths, i):
    """Whether a path has no light yet, so that all that it will have is what it sees now."""
    total = ZERO
    for w in range(paths.lines[i]):
        total += paths.light[w, i]
    return total <= ZERO


@kernel
def locate(batch, scene):
    """Bring every active path to what it met; end those that met light."""
    paths, hits, counts, things = batch.paths, batch.hits, batch.counts, scene.geometry.things
    counts[FORMS], counts[FLOORS], counts[SHADOWS] = 0, 0, 0
    batch.starts[:] = 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        what, distance = hits.what[i], hits.distance[i]
        thrown = paths.state[i] & THROWN != 0
        if thrown and (_misses(paths, i, what, distance) or what not in (FORM, FLOOR)):
            paths.state[i] |= ENDED
            hits.what[i] = NOTHING
            continue
        if what in (FORM, FLOOR):
            travel(paths, i, distance, things, scene.media)
            for axis in range(3):
                paths.origin[axis, i] += paths.direction[axis, i] * distance
            if what == FLOOR:
                batch.floor_queue[counts[FLOORS]] = i
                counts[FLOORS] += 1
            else:
                batch.met[counts[FORMS]] = i
                counts[FORMS] += 1
                batch.starts[things.matter[hits.thing[i]] + 1] += 1
            continue
        paths.state[i] |= ENDED
        if what >= LAMP:
            travel(paths, i, distance, things, scene.media)
        _take_light(scene, paths, i, what, distance)


@step
def _fill(registers, row, at, column, value):
    if row[at] >= 0:
        registers[row[at], column] = value


@step
def _fill3(registers, row, at, column, a):
    _fill(registers, row, at, column, a[0])
    _fill(registers, row, at + 1, column, a[1])
    _fill(registers, row, at + 2, column, a[2])


@step
def _frames(scene, j, row, registers, column):
    """The size of the object, and the axes of the stage and of the camera in its own."""
    things, camera = scene.geometry.things, scene.camera_axes
    for axis in range(3):
        _fill(registers, row, SIZE_AT + axis, column, things.size[j, axis])
        on_stage = (F(axis == 0), F(axis == 1), F(axis == 2))
        of_camera = (camera[3 * axis], camera[3 * axis + 1], camera[3 * axis + 2])
        _fill3(registers, row, STAGE_AXES_AT + 3 * axis, column, to_own(things, j, on_stage))
        _fill3(registers, row, CAMERA_AXES_AT + 3 * axis, column, to_own(things, j, of_camera))


@step
def _strand_inputs(strands, s, u, row, registers, column):
    """Those of a strand: what is asked of the skin is that of the skin at its root."""
    _, normal, uv = root_of(strands, s)
    place, _, radius = place_on_strand(strands, s, u)
    number, length = strands.traits[strands.strand[s], 0], strands.traits[strands.strand[s], 1]
    _fill3(registers, row, NORMAL_AT, column, normal)
    _fill(registers, row, UV_AT, column, uv[0])
    _fill(registers, row, UV_AT + 1, column, uv[1])
    _fill3(registers, row, SLOPES_AT, column, (ZERO, ZERO, ZERO))
    _fill3(registers, row, SLOPES_AT + 3, column, (ZERO, ZERO, ZERO))
    _fill(registers, row, PIECE_AT, column, number)
    _fill(registers, row, ALONG_AT, column, along_at(strands, s, u))
    _fill(registers, row, STRAND_AT, column, number)
    _fill(registers, row, STRAND_LENGTH_AT, column, length)
    _fill(registers, row, STRAND_WIDTH_AT, column, radius * (UM + UM))
    _fill3(registers, row, ON_STRAND_AT, column, scale(place, CM))


@step
def _more_inputs(paths, hits, scene, row, registers, column, i):
    """The inputs that few programs read; `network.ops.INPUTS` has their order."""
    geometry = scene.geometry
    things, j = geometry.things, hits.thing[i]
    t = things.first[j] + hits.primitive[i]
    _fill3(registers, row, VIEW_AT, column, to_own(things, j, negate(vec3(paths.direction, i))))
    _fill3(registers, row, STAGE_AT, column, scale(vec3(paths.origin, i), CM))
    which = F(things.bit[j] % 1009) + HALF
    _fill(registers, row, OBJECT_AT, column, white_noise(which, HALF, HALF))
    _fill(registers, row, TIME_AT, column, scene.time)
    if things.strands[j]:
        _strand_inputs(geometry.strands, t, hits.u[i], row, registers, column)
        return
    _fill3(registers, row, NORMAL_AT, column, to_own(things, j, vec3(hits.normal, i)))
    if row[PIECE_AT] >= 0:
        registers[row[PIECE_AT], column] = piece_at(geometry.triangles, t, which)
    _fill(registers, row, ALONG_AT, column, ZERO)
    _fill(registers, row, STRAND_AT, column, ZERO)
    _fill(registers, row, STRAND_LENGTH_AT, column, ZERO)
    _fill(registers, row, STRAND_WIDTH_AT, column, ZERO)
    _fill3(registers, row, ON_STRAND_AT, column, (ZERO, ZERO, ZERO))
    uv, u_slope, v_slope = texture_at(geometry.triangles, t, hits.u[i], hits.v[i])
    _fill(registers, row, UV_AT, column, uv[0])
    _fill(registers, row, UV_AT + 1, column, uv[1])
    _fill3(registers, row, SLOPES_AT, column, u_slope)
    _fill3(registers, row, SLOPES_AT + 3, column, v_slope)


@kernel
def sort_by_material(batch, scene, registers):
    """Queue the paths that met objects by material, with what is at the surface and the inputs of the material's program."""
    paths, hits, starts, sides = batch.paths, batch.hits, batch.starts, scene.sides
    materials = sides.family.size
    for m in range(materials):
        starts[m + 1] += starts[m]
    for slot in range(batch.counts[FORMS]):
        i = batch.met[slot]
        j = hits.thing[i]
        m = scene.geometry.things.matter[j]
        column = starts[m]
        starts[m] += 1
        batch.form_queue[column] = i
        hits.matter[i] = m
        surface = surface_at(scene.geometry, j, hits.primitive[i], hits.u[i], hits.v[i])
        normal = surface.smooth
        if scene.geometry.things.strands[j]:
            normal = round_normal(surface.smooth, vec3(paths.direction, i), hits.v[i])
        put3(paths.origin, i, surface.place)
        put3(hits.normal, i, normal)
        put3(hits.flat, i, surface.flat)
        hits.clearance[i] = surface.clearance
        inputs = sides.inputs[m]
        if sides.reads[m] == 0:
            continue
        facing = min(abs(dot(normal, vec3(paths.direction, i))), ONE)
        _fill(registers, inputs, FACING_AT, column, facing)
        _fill3(registers, inputs, PLACE_AT, column, scale(surface.own, CM))
        if sides.reads[m] > 1:
            _more_inputs(paths, hits, scene, inputs, registers, column, i)
        if sides.reads[m] > 2:
            _frames(scene, j, inputs, registers, column)
    for m in range(materials, 0, -1):
        starts[m] = starts[m - 1]
    starts[0] = 0


@kernel
def queue_by_family(batch, registers, scene, seed):
    """Queue the paths that met objects by the family of what they met; at a split each meets one of the two sides, by the mask."""
    paths, hits, sides, counts = batch.paths, batch.hits, scene.sides, batch.family_counts
    counts[:] = 0
    for column in range(batch.counts[FORMS]):
        i = batch.form_queue[column]
        m = hits.matter[i]
        if sides.split[m] >= 0:
            lot = single(seed, paths.pixel[i], paths.sample[i], paths.dimension[i])
            paths.dimension[i] += 1
            m = sides.split[m] + (1 if lot < registers[sides.mask[m], column] else 0)
            hits.matter[i] = m
        family = sides.family[m]
        batch.family_queue[family, counts[family]] = column
        counts[family] += 1
