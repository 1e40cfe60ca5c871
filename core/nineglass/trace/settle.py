"""End paths, add them to the picture, and keep the rest under way."""

from math import ceil, floor, log

from nineglass.kernels import HALF, ONE, ZERO, F, kernel, step
from nineglass.spectra.curves import curve_at
from nineglass.trace.gather import REACH, window
from nineglass.trace.paths import (
    ACTIVE,
    ENDED,
    FREE,
    LENGTH_BINS,
    LONGEST_M,
    MEASURED,
    MOST_MATT,
    ONE_MATT,
    ONE_WITHIN,
    OPEN,
    SHORTEST_M,
    THROWN,
    WHOLE,
)
from nineglass.trace.random import is_odd, single

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
def _channel(paths, i, response):
    """What the light of a path adds to one channel."""
    total = ZERO
    for w in range(4):
        if paths.light[w, i] > ZERO:
            total += paths.light[w, i] * paths.per_density[w, i] * curve_at(response, paths.wavelength[w, i])
    return total


@step
def deposit(paths, i, fans, films):
    """Add a finished path to its pixel. The parts of a split sample are counted once."""
    pixel, fan, in_odd = paths.pixel[i], paths.fan[i], is_odd(paths.sample[i])
    is_open = paths.state[i] & OPEN != 0
    is_behind = is_open and paths.bounce[i] > 0
    for channel in range(films.sums.shape[1]):
        total = _channel(paths, i, fans[fan, channel])
        if is_behind:
            if channel < 3:
                films.through[pixel, channel] += total
            continue
        films.sums[pixel, channel] += total
        if in_odd and channel < 3:
            films.odd[pixel, channel] += total
    if paths.parts[i] > 0:
        films.counts[pixel] += 1
        films.odd_counts[pixel] += 1 if in_odd else 0
        if is_open and not is_behind:
            films.open_counts[pixel] += 1


@step
def deposit_thrown(paths, i, fans, thrown, thrown_odd, width, height):
    """Add light that was thrown at the picture to the pixels around its place."""
    if paths.light[0, i] + paths.light[1, i] + paths.light[2, i] + paths.light[3, i] <= ZERO:
        return
    fan, in_odd, pixels = paths.fan[i], is_odd(paths.sample[i]), F(width) * F(height)
    red, green, blue = (
        pixels * _channel(paths, i, fans[fan, 0]),
        pixels * _channel(paths, i, fans[fan, 1]),
        pixels * _channel(paths, i, fans[fan, 2]),
    )
    x, y = paths.place[0, i] * F(width) - HALF, paths.place[1, i] * F(height) - HALF
    for row in range(max(ceil(y - REACH), 0), min(floor(y + REACH), height - 1) + 1):
        high = window(F(row) - y)
        for column in range(max(ceil(x - REACH), 0), min(floor(x + REACH), width - 1) + 1):
            share = high * window(F(column) - x)
            into = row * width + column
            thrown[into, 0] += share * red
            thrown[into, 1] += share * green
            thrown[into, 2] += share * blue
            if in_odd:
                thrown_odd[into, 0] += share * red
                thrown_odd[into, 1] += share * green
                thrown_odd[into, 2] += share * blue


@step
def strongest_of(paths, i):
    """The largest of the weights that a path carries."""
    if paths.lines[i] == 1:
        return paths.weight[0, i]
    return max(paths.weight[0, i], paths.weight[1, i], paths.weight[2, i], paths.weight[3, i])


@step
def _limit_met(paths, i, limits):
    """Which of the limits a path has come to; -1 for none."""
    if paths.bounce[i] >= limits.bounces:
        return 0
    state = paths.state[i]
    if state // ONE_MATT & MOST_MATT >= limits.matt:
        return 1
    if state // ONE_WITHIN >= limits.within:
        return 2
    return -1


@kernel
def settle(batch, fans, films, thrown, thrown_odd, lengths, width, height, limits, seed):
    """Deposit ended paths and free their columns; play Russian roulette with the others."""
    paths, counts = batch.paths, batch.counts
    kept = 0
    for slot in range(counts[ACTIVE]):
        i = batch.active[slot]
        ended, is_thrown = paths.state[i] & ENDED != 0, paths.state[i] & THROWN != 0
        if is_thrown:
            paths.length[i] = ZERO
        elif ended or paths.state[i] & MEASURED:
            book_length(paths, i, lengths)
        strongest = strongest_of(paths, i)
        bounce, beyond = paths.bounce[i], _limit_met(paths, i, limits)
        if not strongest > ZERO:
            ended = True
        elif not ended and beyond >= 0:
            ended = True
            batch.cut[beyond] += ZERO if is_thrown else strongest
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
            if is_thrown:
                deposit_thrown(paths, i, fans, thrown, thrown_odd, width, height)
            else:
                deposit(paths, i, fans, films)
            batch.free[counts[FREE]] = i
            counts[FREE] += 1
        else:
            batch.active[kept] = i
            kept += 1
    counts[ACTIVE] = kept
