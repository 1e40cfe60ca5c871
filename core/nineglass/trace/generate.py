"""Rays from the camera."""

from math import cos, sin, sqrt

from nineglass.kernels import HALF, ONE, PI, QUARTER, TWO, ZERO, F, kernel, step
from nineglass.spectra.curves import curve_at
from nineglass.trace.gather import drawn_offset
from nineglass.trace.paths import ACTIVE, FREE, WHOLE
from nineglass.trace.random import pair, single_of_both
from nineglass.trace.sensor import CAMERA_STEPS
from nineglass.vectors import add, dot, put3, scale, sub, triple, unit

WAVELENGTHS, LENS, JITTER, CAMERA_DRAWS = range(4)
"""Dimensions of the random numbers that a camera ray draws; whatever meets the path draws the next ones, as `Paths.dimension` counts."""


@step
def draw_wavelengths(sensor, u, wavelength, per_density, i):
    """Four wavelengths evenly apart in probability (hero wavelength sampling). Source: Wilkie et al. 2014."""
    for k in range(4):
        x = (u + F(k)) * QUARTER * F(CAMERA_STEPS)
        place = min(int(x), CAMERA_STEPS - 1)
        width = sensor.inverse[place + 1] - sensor.inverse[place]
        wavelength[k, i] = sensor.inverse[place] + width * (x - F(place))
        per_density[k, i] = width * F(CAMERA_STEPS) * QUARTER


@kernel
def generate(batch, lens, start, sensor, width, height, seed, first_pixel, pixels, first_sample, done, count):
    """Start `count` paths of a job in free columns.

    The job covers `pixels` pixels from first_pixel, sample by sample from first_sample; `done` of its paths are begun.
    """
    paths, counts = batch.paths, batch.counts
    right, up, ahead, eye = triple(lens.right), triple(lens.up), triple(lens.forward), triple(lens.eye)
    batch.pixel[0] = TWO * sqrt(dot(right, right)) / F(width)
    for k in range(count):
        counts[FREE] -= 1
        i = batch.free[counts[FREE]]
        pixel = first_pixel + (done + k) % pixels
        sample = first_sample + (done + k) // pixels
        a, b = pair(seed, pixel, sample, JITTER)
        x = TWO * (F(pixel % width) + HALF + drawn_offset(sensor.window, a)) / F(width) - ONE + lens.aside
        y = ONE - TWO * (F(pixel // width) + HALF + drawn_offset(sensor.window, b)) / F(height) + lens.raised
        target = scale(add(ahead, add(scale(right, x), scale(up, y))), lens.focus)
        origin = eye
        if lens.radius > ZERO:
            a, b = pair(seed, pixel, sample, LENS)
            r, phi = lens.radius * sqrt(a), TWO * PI * b
            shift = add(scale(unit(right), r * cos(phi)), scale(unit(up), r * sin(phi)))
            origin, target = add(eye, shift), sub(target, shift)
        put3(paths.origin, i, origin)
        put3(paths.direction, i, unit(target))
        lot = single_of_both(seed, pixel, sample, WAVELENGTHS)
        draw_wavelengths(sensor, lot, paths.wavelength, paths.per_density, i)
        for w in range(4):
            paths.weight[w, i] = ONE
            paths.light[w, i] = ZERO
            paths.sigma_a[w, i] = curve_at(start.sigma_a, paths.wavelength[w, i])
            paths.sigma_s[w, i] = curve_at(start.sigma_s, paths.wavelength[w, i])
        paths.asymmetry[i] = start.asymmetry
        paths.lines[i] = 4
        paths.pdf[i] = -ONE
        paths.length[i] = ZERO
        paths.pixel[i] = pixel
        paths.sample[i] = sample
        paths.dimension[i] = CAMERA_DRAWS
        paths.bounce[i] = 0
        paths.state[i] = 0
        paths.levels[i] = start.levels
        for level in range(start.levels):
            paths.within[level, i] = start.within[level]
        paths.medium[i] = start.medium
        paths.bit[i] = 0
        paths.parts[i] = 1
        paths.fan[i] = 0
        batch.active[counts[ACTIVE]] = i
        counts[ACTIVE] += 1
    counts[WHOLE] += count
