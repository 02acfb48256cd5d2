"""Low-discrepancy numbers: Owen-scrambled Sobol points, padded by two dimensions at a time.

Each pair of dimensions is the same two-dimensional sequence, shuffled and scrambled by a hash of
pixel, seed and dimension (Burley, Practical Hash-based Owen Scrambling, JCGT 9(4), 2020). A sample
depends only on (pixel, sample number, dimension, seed): on no thread, tile or order.
"""

import numpy as np

from halvex.core.optics.vectors import F, helper, kernel

U = np.uint32
# One less than 1 in single precision, times 2^-32.
TO_UNIT = F(2.3283064e-10)
BELOW_ONE = F(0.99999994)


@helper
def _mix(x):
    """Avalanche of 32 bits (a finaliser of Wellons' hash prospector)."""
    x = U(x)
    x = U(x ^ (x >> U(16)))
    x = U(x * U(0x21F0AAAD))
    x = U(x ^ (x >> U(15)))
    x = U(x * U(0xD35A2D97))
    return U(x ^ (x >> U(15)))


@helper
def pixel_hash(x, y, seed):
    return _mix(U(U(x) * U(0x9E3779B1)) ^ _mix(U(U(y) + U(U(seed) * U(0x85EBCA6B)))))


@helper
def _reverse(x):
    x = U((U(x) << U(16)) | (U(x) >> U(16)))
    x = U(((x & U(0x00FF00FF)) << U(8)) | ((x >> U(8)) & U(0x00FF00FF)))
    x = U(((x & U(0x0F0F0F0F)) << U(4)) | ((x >> U(4)) & U(0x0F0F0F0F)))
    x = U(((x & U(0x33333333)) << U(2)) | ((x >> U(2)) & U(0x33333333)))
    return U(((x & U(0x55555555)) << U(1)) | ((x >> U(1)) & U(0x55555555)))


@helper
def _permute(x, seed):
    """Laine-Karras permutation: scrambles from low bits to high ones."""
    x = U(U(x) ^ U(U(x) * U(0x3D20ADEA)))
    x = U(x + U(seed))
    x = U(x * U((U(seed) >> U(16)) | U(1)))
    x = U(x ^ U(x * U(0x05526C56)))
    return U(x ^ U(x * U(0x53A22864)))


@helper
def owen_scramble(x, seed):
    return _reverse(_permute(_reverse(x), seed))


@helper
def _shifted(x):
    """The polynomial over GF(2) whose coefficients are the bits of x, its argument moved by 1: Pascal's triangle modulo 2, in halves."""
    x = U(x ^ (x >> U(16)))
    x = U(x ^ ((x & U(0xFF00FF00)) >> U(8)))
    x = U(x ^ ((x & U(0xF0F0F0F0)) >> U(4)))
    x = U(x ^ ((x & U(0xCCCCCCCC)) >> U(2)))
    return U(x ^ ((x & U(0xAAAAAAAA)) >> U(1)))


@helper
def sobol_second(index):
    """Second Sobol dimension of a 32-bit index: its direction numbers, v' = v ^ (v >> 1), are Pascal's triangle backwards."""
    return _reverse(_shifted(U(index)))


@kernel
def sample_2d(pixel, index, dimension):
    """Two numbers in [0, 1) for a pixel's hash, its sample number and a pair of dimensions."""
    seed = _mix(U(pixel) ^ U(U(dimension) * U(0x9E3779B9) + U(0x7F4A7C15)))
    # Sample numbers are shuffled within blocks of 4096 only, so that the low bits stay short.
    shuffled = U(_reverse(_permute(_reverse(U(index) << U(20)), seed)) >> U(20)) if index < 4096 else owen_scramble(U(index), seed)
    # Owen scrambling of the two Sobol dimensions; the reversals that would undo each other are left out.
    a = _reverse(_permute(shuffled, _mix(U(seed + U(1)))))
    b = _reverse(_permute(_shifted(shuffled), _mix(U(seed + U(2)))))
    return min(F(a) * TO_UNIT, BELOW_ONE), min(F(b) * TO_UNIT, BELOW_ONE)
