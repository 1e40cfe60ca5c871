"""Absorption up to the hit, light that the path ran into, and queues of what is to be shaded."""

from math import exp

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, optic
from nineglass.trace.ask_lamps import lamp_pdf, mis_weight, spectrum_at
from nineglass.trace.intersect import turned
from nineglass.trace.paths import (
    ACTIVE,
    ENDED,
    FLOOR,
    FLOORS,
    FORM,
    FORMS,
    INSIDE,
    LAMP,
    SHADOWS,
)
from nineglass.trace.scene import LAMPS_FROM, LIGHT_ABOVE, LIGHT_BELOW, SEEN_ABOVE, SEEN_BELOW
from nineglass.vectors import cross, dot, put3, smooth, unit, vec3

CM = F(100)


@optic
def surround_share(height, softness):
    """How much of the upper colour a direction sees. height: its vertical component."""
    return smooth(HALF + HALF * height / max(softness, F(1e-3)))


@kernel
def locate(batch, corner_normals, triangles, turn, lamps, spectra, softness, inputs, registers):
    """Bring every active path to its hit."""
    paths, hits, counts = batch.paths, batch.hits, batch.counts
    counts[FORMS], counts[FLOORS], counts[SHADOWS] = 0, 0, 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        what, distance = hits.what[i], hits.distance[i]
        if paths.state[i] & INSIDE and what != 0:
            paths.length[i] += distance
            for w in range(4):
                paths.weight[w, i] *= exp(-paths.sigma_a[w, i] * distance)
        if what in (FORM, FLOOR):
            direction = vec3(paths.direction, i)
            for axis in range(3):
                paths.origin[axis, i] += direction[axis] * distance
            if what == FLOOR:
                batch.floor_queue[counts[FLOORS]] = i
                counts[FLOORS] += 1
                continue
            t, u, v = hits.triangle[i], hits.u[i], hits.v[i]
            first = (triangles[t, 3], triangles[t, 4], triangles[t, 5])
            second = (triangles[t, 6], triangles[t, 7], triangles[t, 8])
            flat = unit(cross(first, second))
            n0 = (corner_normals[t, 0], corner_normals[t, 1], corner_normals[t, 2])
            n1 = (corner_normals[t, 3], corner_normals[t, 4], corner_normals[t, 5])
            n2 = (corner_normals[t, 6], corner_normals[t, 7], corner_normals[t, 8])
            rest = ONE - u - v
            own = (
                n0[0] * rest + n1[0] * u + n2[0] * v,
                n0[1] * rest + n1[1] * u + n2[1] * v,
                n0[2] * rest + n1[2] * u + n2[2] * v,
            )
            normal = turned(unit(own), turn)
            put3(hits.normal, i, normal)
            put3(hits.flat, i, turned(flat, turn))
            column = counts[FORMS]
            if inputs[0] >= 0:
                registers[inputs[0], column] = min(abs(dot(normal, direction)), ONE)
            for axis in range(3):
                if inputs[1 + axis] >= 0:
                    at = triangles[t, axis] + first[axis] * u + second[axis] * v
                    registers[inputs[1 + axis], column] = at * CM
            batch.form_queue[column] = i
            counts[FORMS] += 1
            continue
        paths.state[i] |= ENDED
        if what >= LAMP:
            k = what - LAMP
            share = ONE
            if paths.pdf[i] >= ZERO:
                share = mis_weight(paths.pdf[i], lamp_pdf(lamps, k, distance, vec3(paths.direction, i)))
            for w in range(4):
                glow = spectrum_at(spectra, LAMPS_FROM + k, paths.wavelength[w, i])
                paths.light[w, i] += paths.weight[w, i] * glow * share
        else:
            below, above, soft = LIGHT_BELOW, LIGHT_ABOVE, softness[0]
            if paths.bounce[i] == 0:
                below, above, soft = SEEN_BELOW, SEEN_ABOVE, softness[1]
            share = surround_share(paths.direction[1, i], soft)
            for w in range(4):
                low = spectrum_at(spectra, below, paths.wavelength[w, i])
                high = spectrum_at(spectra, above, paths.wavelength[w, i])
                paths.light[w, i] += paths.weight[w, i] * (low + (high - low) * share)
