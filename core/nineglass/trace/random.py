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
def _scramble(a, key):
    return reverse_bits(_permute(reverse_bits(a), key))


@optic
def _second_sobol(index):
    result, direction = U(0), U(0x80000000)
    index = U(index)
    while index:
        if index & U(1):
            result ^= direction
        direction ^= direction >> U(1)
        index >>= U(1)
    return result


@optic
def pair(seed, pixel, sample, dimension):
    """Two numbers in [0, 1), well spread over the samples of a pixel."""
    key = key_of(seed, pixel, dimension)
    index = _scramble(U(sample), key)
    first = _scramble(reverse_bits(index), mix_bits(key ^ U(0xA511E9B3)))
    second = _scramble(_second_sobol(index), mix_bits(key ^ U(0x63D83595)))
    return min(F(first) * TO_UNIT, BELOW_ONE), min(F(second) * TO_UNIT, BELOW_ONE)


@optic
def single(seed, pixel, sample, dimension):
    """One number in [0, 1), well spread over the samples of a pixel."""
    key = key_of(seed, pixel, dimension)
    return min(F(_scramble(reverse_bits(_scramble(U(sample), key)), mix_bits(key ^ U(0xA511E9B3)))) * TO_UNIT, BELOW_ONE)
