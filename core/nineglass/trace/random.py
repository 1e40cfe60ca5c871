"""Random numbers keyed by (pixel, sample, dimension), so that any worker can do any share of the work.

Source: Burley 2020, Practical Hash-based Owen Scrambling; Sobol' 1967 for the first two dimensions.
"""

import numpy as np

from nineglass.kernels import F, optic

U = np.uint32
TO_UNIT = F(1 / 2**32)
BELOW_ONE = F(np.nextafter(F(1), F(0)))


@optic
def mix_bits(a):
    """A 32-bit integer hash. Source: Wellons 2018, 'lowbias32'."""
    a = U(a)
    a = (a ^ (a >> U(16))) * U(0x7FEB352D)
    a = (a ^ (a >> U(15))) * U(0x846CA68B)
    return a ^ (a >> U(16))


@optic
def key_of(seed, pixel, dimension):
    """A key for one pixel and one dimension."""
    return mix_bits(U(seed) ^ mix_bits(U(pixel) ^ mix_bits(U(dimension) * U(0x9E3779B9))))


@optic
def reverse_bits(a):
    a = U(a)
    a = (a << U(16)) | (a >> U(16))
    a = ((a & U(0x00FF00FF)) << U(8)) | ((a & U(0xFF00FF00)) >> U(8))
    a = ((a & U(0x0F0F0F0F)) << U(4)) | ((a & U(0xF0F0F0F0)) >> U(4))
    a = ((a & U(0x33333333)) << U(2)) | ((a & U(0xCCCCCCCC)) >> U(2))
    return ((a & U(0x55555555)) << U(1)) | ((a & U(0xAAAAAAAA)) >> U(1))


@optic
def _permute(a, key):
    a = U(a) ^ (U(a) * U(0x3D20ADEA))
    a += U(key)
    a *= (U(key) >> U(16)) | U(1)
    a ^= a * U(0x05526C56)
    return a ^ (a * U(0x53A22864))


@optic
def _supersets(a):
    """The second Sobol' matrix (Pascal's triangle modulo 2) times the bits of a."""
    a = U(a)
    a ^= (a >> U(1)) & U(0x55555555)
    a ^= (a >> U(2)) & U(0x33333333)
    a ^= (a >> U(4)) & U(0x0F0F0F0F)
    a ^= (a >> U(8)) & U(0x00FF00FF)
    return a ^ (a >> U(16))


@optic
def _shuffled(place, key):
    """A place in a sequence shuffled by Owen scrambling."""
    return reverse_bits(_permute(reverse_bits(place), key))


@optic
def _to_unit(bits):
    return min(F(reverse_bits(bits)) * TO_UNIT, BELOW_ONE)


@optic
def is_odd(sample):
    """Which of two halves a sample belongs to, each spread as well as the whole: by the parity of its bits (Thue 1906, Morse 1921).

    Each half has a sequence of its own that knows nothing of the other, so that what their means differ by is the error of both together
    (replicates of a randomised sequence; Owen 1997, Monte Carlo Variance of Scrambled Net Quadrature).
    """
    a = U(sample)
    a ^= a >> U(16)
    a ^= a >> U(8)
    a ^= a >> U(4)
    a ^= a >> U(2)
    a ^= a >> U(1)
    return a & U(1) != U(0)


@optic
def _key_and_place(seed, pixel, sample, dimension):
    """The key of a sample's half, and the sample's place in it: of any two samples 2k and 2k + 1 one is in each half."""
    half = U(1) if is_odd(sample) else U(0)
    return key_of(seed, pixel, U(dimension) * U(2) + half), U(sample) >> U(1)


@optic
def row_of(seed, pixel, sample, dimension):
    """Where a row of random numbers that are not spread begins (`next_random`)."""
    return U(key_of(seed, pixel, dimension) ^ mix_bits(U(sample) * U(0x85EBCA6B)))


@optic
def next_random(state):
    """The next of a row of random numbers that are not spread: (state, number in [0, 1))."""
    state = U(mix_bits(U(state) + U(0x9E3779B9)))
    return state, min(F(state) * TO_UNIT, BELOW_ONE)


@optic
def pair(seed, pixel, sample, dimension):
    """Two numbers in [0, 1), well spread over the samples of a pixel."""
    key, place = _key_and_place(seed, pixel, sample, dimension)
    index = _shuffled(place, key)
    first = _permute(index, mix_bits(key ^ U(0xA511E9B3)))
    second = _permute(_supersets(index), mix_bits(key ^ U(0x63D83595)))
    return _to_unit(first), _to_unit(second)


@optic
def single(seed, pixel, sample, dimension):
    """One number in [0, 1), well spread over the samples of a pixel."""
    key, place = _key_and_place(seed, pixel, sample, dimension)
    return _to_unit(_permute(_shuffled(place, key), mix_bits(key ^ U(0xA511E9B3))))


@optic
def single_of_both(seed, pixel, sample, dimension):
    """As `single`, but spread over both halves together, and over each: for what luminance hardly depends on, since what the halves differ by
    then tells too much noise of it.

    A place in the sequence has two numbers, side by side on the finest level: one for each half.
    """
    key = key_of(seed, pixel, dimension)
    place = _shuffled(U(sample) >> U(1), key)
    second = U(1) if is_odd(place) != is_odd(sample) else U(0)
    return _to_unit(_permute(place * U(2) + second, mix_bits(key ^ U(0xA511E9B3))))
