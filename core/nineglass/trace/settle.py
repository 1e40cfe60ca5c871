"""End paths, add them to the picture, and keep the rest under way."""

from math import log

from nineglass.kernels import ONE, ZERO, F, kernel, optic
from nineglass.spectra.observer import LOW_NM
from nineglass.trace.generate import FIRST_BOUNCE, PER_BOUNCE, ROULETTE
from nineglass.trace.paths import ACTIVE, ENDED, FREE, LENGTH_BINS, LONGEST_M, MEASURED, SHORTEST_M
from nineglass.trace.random import single

ROULETTE_FROM = 4
LAST_BIN = 400
PER_LOG = F(LENGTH_BINS / (log(LONGEST_M) - log(SHORTEST_M)))
LOG_SHORTEST = F(log(SHORTEST_M))


@optic
def book_length(paths, i, lengths):
    """Count how far a path went through the matter, once, when it first meets something that is not the matter."""
    if paths.length[i] > ZERO:
        k = int((log(paths.length[i]) - LOG_SHORTEST) * PER_LOG)
        lengths[min(max(k, 0), LENGTH_BINS - 1)] += 1.0
        paths.length[i] = ZERO


@optic
def deposit(paths, i, response, sums, squares, counts):
    """Add a finished path to its pixel: linear Rec.709, and the square of its luminance."""
    red, green, blue = ZERO, ZERO, ZERO
    for w in range(4):
        x = paths.wavelength[w, i] - F(LOW_NM)
        k = min(max(int(x), 0), LAST_BIN - 1)
        t = x - F(k)
        light = paths.light[w, i] * paths.per_density[w, i]
        red += light * (response[0, k] + (response[0, k + 1] - response[0, k]) * t)
        green += light * (response[1, k] + (response[1, k + 1] - response[1, k]) * t)
        blue += light * (response[2, k] + (response[2, k + 1] - response[2, k]) * t)
    pixel = paths.pixel[i]
    sums[pixel, 0] += red
    sums[pixel, 1] += green
    sums[pixel, 2] += blue
    luminance = F(0.2126) * red + F(0.7152) * green + F(0.0722) * blue
    squares[pixel] += luminance * luminance
    counts[pixel] += 1


@kernel
def settle(batch, response, sums, squares, samples, lengths, most_bounces, seed):
    """Deposit ended paths and free their columns; play Russian roulette with the others."""
    paths, counts = batch.paths, batch.counts
    kept = 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        ended = paths.state[i] & ENDED != 0
        if ended or paths.state[i] & MEASURED:
            book_length(paths, i, lengths)
        strongest = max(paths.weight[0, i], paths.weight[1, i], paths.weight[2, i], paths.weight[3, i])
        bounce = paths.bounce[i]
        if bounce >= most_bounces or strongest <= ZERO:
            ended = True
        elif not ended and bounce >= ROULETTE_FROM and strongest < ONE:
            dimension = FIRST_BOUNCE + PER_BOUNCE * bounce + ROULETTE
            chance = max(strongest, F(0.05))
            if single(seed, paths.pixel[i], paths.sample[i], dimension) >= chance:
                ended = True
            else:
                for w in range(4):
                    paths.weight[w, i] /= chance
        if ended:
            deposit(paths, i, response, sums, squares, samples)
            batch.free[counts[FREE]] = i
            counts[FREE] += 1
        else:
            batch.active[kept] = i
            kept += 1
    counts[ACTIVE] = kept
