"""End paths, add them to the picture, and keep the rest under way."""

from math import log

from nineglass.kernels import ONE, ZERO, F, kernel, step
from nineglass.spectra.curves import curve_at
from nineglass.trace.paths import ACTIVE, ENDED, FREE, LENGTH_BINS, LONGEST_M, MEASURED, OPEN, SHORTEST_M, WHOLE
from nineglass.trace.random import single

ROULETTE_FROM, LONG_FROM = 4, 64
"""Bounces from which a path may end by lot: one that has lost light, and any."""

LONG_KEEP = F(0.9)
PER_LOG = F(LENGTH_BINS / (log(LONGEST_M) - log(SHORTEST_M)))
LOG_SHORTEST = F(log(SHORTEST_M))


@step
def book_length(paths, i, lengths):
    """Count how far a path went through the matter, once, when it first meets something that is not the matter."""
    if paths.length[i] > ZERO:
        k = int((log(paths.length[i]) - LOG_SHORTEST) * PER_LOG)
        lengths[min(max(k, 0), LENGTH_BINS - 1)] += 1.0
        paths.length[i] = ZERO


@step
def deposit(paths, i, fans, sums, squares, counts, open_counts):
    """Add a finished path to its pixel: the channels of the response, and the square of its luminance.

    The parts of a split sample are counted once, and their squares as if they were separate samples: a little too much noise
    is told rather than too little.
    """
    pixel, fan = paths.pixel[i], paths.fan[i]
    luminance = ZERO
    for channel in range(sums.shape[1]):
        total = ZERO
        for w in range(4):
            if paths.light[w, i] > ZERO:
                share = curve_at(fans[fan, channel], paths.wavelength[w, i])
                total += paths.light[w, i] * paths.per_density[w, i] * share
        sums[pixel, channel] += total
        if channel < 3:
            luminance += total * (F(0.2126) if channel == 0 else F(0.7152) if channel == 1 else F(0.0722))
    parts = paths.parts[i]
    squares[pixel] += luminance * luminance * F(abs(parts))
    if parts > 0:
        counts[pixel] += 1
        if paths.state[i] & OPEN:
            open_counts[pixel] += 1


@step
def strongest_of(paths, i):
    """The largest of the weights that a path carries."""
    if paths.lines[i] == 1:
        return paths.weight[0, i]
    return max(paths.weight[0, i], paths.weight[1, i], paths.weight[2, i], paths.weight[3, i])


@kernel
def settle(batch, fans, sums, squares, samples, open_counts, lengths, most_bounces, seed):
    """Deposit ended paths and free their columns; play Russian roulette with the others."""
    paths, counts = batch.paths, batch.counts
    kept = 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        ended = paths.state[i] & ENDED != 0
        if ended or paths.state[i] & MEASURED:
            book_length(paths, i, lengths)
        strongest = strongest_of(paths, i)
        bounce = paths.bounce[i]
        if not strongest > ZERO:
            ended = True
        elif not ended and bounce >= most_bounces:
            ended = True
            batch.cut[0] += strongest
        elif not ended and bounce >= ROULETTE_FROM and (strongest < ONE or bounce >= LONG_FROM):
            chance = max(min(strongest, LONG_KEEP if bounce >= LONG_FROM else ONE), F(0.05))
            lot = single(seed, paths.pixel[i], paths.sample[i], paths.dimension[i])
            paths.dimension[i] += 1
            if lot >= chance:
                ended = True
            else:
                for w in range(paths.lines[i]):
                    paths.weight[w, i] /= chance
        if ended:
            if paths.lines[i] == 4:
                counts[WHOLE] -= 1
            deposit(paths, i, fans, sums, squares, samples, open_counts)
            batch.free[counts[FREE]] = i
            counts[FREE] += 1
        else:
            batch.active[kept] = i
            kept += 1
    counts[ACTIVE] = kept
