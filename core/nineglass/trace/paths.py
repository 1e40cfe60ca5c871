"""The batch of paths under way, one column a path."""

from typing import NamedTuple

import numpy as np

from nineglass.trace.geometry.embree import ray_words

MEASURED, ENDED, SCATTERED, OPEN, ASKED = 1, 2, 4, 8, 16
"""Bits of `Paths.state`: its length through the matter is booked; nothing more to do; it met something matt; the camera saw past
everything; a lamp was asked straight through clear matter (fast shadows) at an earlier point."""

FROM_MATT, BENT, THROWN, AIMED, GUIDED = 32, 64, 128, 256, 512
"""More of them: the camera saw something matt first, and since then the path has met nothing but what throws light (`light.throw`); it
was mirrored or bent by that; it sets out from a lamp, against the way of all others; it has not yet met what it was aimed at; what
guides the filter of its pixel is noted."""

WALKED = 1024
"""One more: it was scattered in the midst of matter, so often that it goes evenly to all sides, and has not come out into the open since."""

DIFFUSED = 2048
"""And another: it was scattered in the midst of matter, which is still to be noted for the filter (`guides`)."""

TURNED = 4096
"""A further one: it was mirrored, so that what it sees does not lie behind what the camera looks at."""

ONE_MATT, ONE_WITHIN, MOST_MATT, MOST_WITHIN = 1 << 16, 1 << 24, 255, 127
"""Above the bits of `Paths.state` it is counted how often a path met something matt, and how often it was scattered in the midst of matter (each
time that it went in), as far as these."""


class Limits(NamedTuple):
    """How often a path may meet something before it ends: surfaces at all, matt ones, and the midst of scattering matter."""

    bounces: int = 128
    matt: int = MOST_MATT + 1
    within: int = MOST_WITHIN + 1


NOTHING, FORM, FLOOR, LAMP = 0, 1, 2, 3
"""What a ray hit; LAMP + i is lamp i."""

AIR = -1
"""The medium outside everything."""

BY_MIRROR = np.float32(-1)
"""In place of a density of directions: that of a mirror or of the camera, which lamps cannot be asked along."""

LEVELS = 8
"""How many media may lie within one another."""

LENGTH_BINS = 100
GUIDES = 7
"""Channels of the guides: colour, normal, and of how many samples they are."""

GUIDED_SAMPLES = 16
"""Samples of each pixel that note what guides the filter."""

MOST_MATERIALS = 64
MOST_FAMILIES = 8
SHORTEST_M, LONGEST_M = 1e-4, 10.0


class Paths(NamedTuple):
    origin: np.ndarray  # (3, n) m
    direction: np.ndarray  # (3, n) unit
    weight: np.ndarray  # (4, n) one per wavelength
    light: np.ndarray  # (4, n) gathered so far
    wavelength: np.ndarray  # (4, n) nm
    per_density: np.ndarray  # (4, n) nm: one over four times the density that drew the wavelength
    sigma_a: np.ndarray  # (4, n) absorption, 1/m, in the matter that the path is in
    sigma_s: np.ndarray  # (4, n) scattering, 1/m
    asymmetry: np.ndarray  # (n,) the mean cosine of scattering there
    lines: (
        np.ndarray
    )  # (n,) int32: how many of its wavelengths it still carries, the first ones: 4, or 1 once they have parted
    pdf: np.ndarray  # (n,) 1/sr of the last direction; or BY_MIRROR
    length: np.ndarray  # (n,) m travelled in the matter
    pixel: np.ndarray  # (n,) int32
    sample: np.ndarray  # (n,) int32
    dimension: np.ndarray  # (n,) int32: the next of its random numbers that nobody has drawn
    bounce: np.ndarray  # (n,) int32
    state: np.ndarray  # (n,) int32
    levels: np.ndarray  # (n,) int32: how many media the path is in
    within: np.ndarray  # (8, n) int32: those media, rows of `Things`, as they were entered
    medium: np.ndarray  # (n,) int32: the one of them that is there, or AIR
    bit: np.ndarray  # (n,) int32: of the object that the path left last
    parts: np.ndarray  # (n,) int32: into how many paths its sample was split; -1 when another of them is counted
    fan: np.ndarray  # (n,) int32: row of the response to its light
    place: np.ndarray  # (2, n) of thrown light: how far (m) it was aimed; then where on the picture it is seen, 0 to 1 from left and top


class Hits(NamedTuple):
    distance: np.ndarray  # (n,) m
    what: np.ndarray  # (n,) int32
    thing: np.ndarray  # (n,) int32: row of `Things`
    matter: np.ndarray  # (n,) int32: row of the material there
    primitive: np.ndarray  # (n,) int32: of its thing
    u: np.ndarray  # (n,)
    v: np.ndarray  # (n,)
    normal: np.ndarray  # (3, n) smooth, out of the matter
    flat: np.ndarray  # (3, n) of the primitive, out of the matter
    clearance: np.ndarray  # (n,) m: how far a new ray starts from the surface


class Shadows(NamedTuple):
    """Light on its way from a lamp, still to be tested for what stands between; up to two for each path (interface and body)."""

    origin: np.ndarray  # (3, n)
    direction: np.ndarray  # (3, n)
    far: np.ndarray  # (n,)
    light: np.ndarray  # (4, n)
    path: np.ndarray  # (n,) int32
    medium: np.ndarray  # (n,) int32: where it sets out


class Batch(NamedTuple):
    """Scratch of one thread, allocated once."""

    paths: Paths
    hits: Hits
    shadows: Shadows
    active: np.ndarray  # (n,) int32: columns under way
    met: np.ndarray  # (n,) int32: columns that met an object, as they came
    free: np.ndarray  # (n,) int32: columns to fill
    form_queue: np.ndarray  # (n,) int32: the same, by material; its places are the columns of the registers
    starts: np.ndarray  # (65,) int64: where each material begins in form_queue
    family_queue: np.ndarray  # (families, n) int32: places in form_queue by family
    family_counts: np.ndarray  # (families,) int64
    floor_queue: np.ndarray  # (n,) int32
    counts: np.ndarray  # (8,) int64: see below
    cut: np.ndarray  # (3,) float64: the weight of the paths that each of `Limits` ended
    pixel: np.ndarray  # (1,) float32: how wide a pixel of the picture is, of its distance
    ray: np.ndarray  # (24,) float32: one ray and its hit, as the ray library wants them
    ray_bits: np.ndarray  # (24,) uint32: the same memory


ACTIVE, FREE, FORMS, FLOORS, SHADOWS, WHOLE, THROWS, THROWS_ODD = range(8)
"""Entries of `Batch.counts`; WHOLE: paths under way that may still split; THROWS: paths that were thrown from lamps, and those of them that
are counted in the odd half."""


def new_batch(size: int) -> Batch:
    def floats(*shape):
        return np.zeros((*shape, size), np.float32)

    def whole():
        return np.zeros(size, np.int32)

    paths = Paths(
        *(floats(rows) for rows in (3, 3, 4, 4, 4, 4, 4, 4)),
        *(floats(), whole(), floats(), floats()),
        *(whole() for _ in range(6)),
        np.zeros((LEVELS, size), np.int32),
        *(whole() for _ in range(4)),
        floats(2),
    )
    hits = Hits(floats(), *(whole() for _ in range(4)), floats(), floats(), floats(3), floats(3), floats())
    ways = (np.zeros((rows, 2 * size), np.float32) for rows in (3, 3, 1, 4))
    origin, direction, far, light = ways
    shadows = Shadows(origin, direction, far[0], light, np.zeros(2 * size, np.int32), np.zeros(2 * size, np.int32))
    families = np.zeros((MOST_FAMILIES, size), np.int32), np.zeros(MOST_FAMILIES, np.int64)
    counts = np.array([0, size, 0, 0, 0, 0, 0, 0], np.int64)
    starts, free = np.zeros(MOST_MATERIALS + 1, np.int64), np.arange(size, dtype=np.int32)
    ray, pixel = ray_words(), np.zeros(1, np.float32)
    queues = (whole(), starts, *families, whole())
    return Batch(
        paths, hits, shadows, whole(), whole(), free, *queues, counts, np.zeros(3), pixel, ray, ray.view(np.uint32)
    )
