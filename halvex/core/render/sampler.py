"""Low-discrepancy numbers: Owen-scrambled Sobol points, padded by two dimensions at a time.

Each pair of dimensions is the same two-dimensional sequence, shuffled and scrambled by a hash of
pixel, seed and dimension (Burley, Practical Hash-based Owen Scrambling, JCGT 9(4), 2020). A sample
depends only on (pixel, sample number, dimension, seed): on no thread, tile or order.

Numbers of eight samples in a row are drawn at once, in vector registers, when the first of them is
asked for: one pair alone takes as long.
"""

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from halvex.core.optics.eight import LANES, Wholes, row_of, store_row
from halvex.core.optics.vectors import helper

U = np.uint32
# Pairs of numbers that a path may ask for.
DIMENSIONS = 160
_LANES_BITS = LANES.bit_length() - 1
# One less than 1 in single precision, times 2^-32.
TO_UNIT = 2.3283064e-10
BELOW_ONE = 0.99999994
# Sample numbers under this are shuffled among themselves only, so that the low bits stay short.
SHUFFLED = 4096
_SHORT = 20  # 32 less the bits of SHUFFLED - 1


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


def permuted(x, seed):
    """Laine-Karras permutation of 32-bit whole numbers: scrambles from low bits to high ones."""
    x = x ^ x * 0x3D20ADEA
    x = x + seed
    x = x * (seed >> 16 | 1)
    x = x ^ x * 0x05526C56
    return x ^ x * 0x53A22864


def shifted(x):
    """The polynomial over GF(2) whose coefficients are the bits of x, its argument moved by 1: Pascal's triangle modulo 2, in halves.

    With its bits reversed it is the second Sobol dimension, whose direction numbers, v' = v ^ (v >> 1), are Pascal's triangle backwards.
    """
    x = x ^ x >> 16
    x = x ^ (x & 0xFF00FF00) >> 8
    x = x ^ (x & 0xF0F0F0F0) >> 4
    x = x ^ (x & 0xCCCCCCCC) >> 2
    return x ^ (x & 0xAAAAAAAA) >> 1


@intrinsic
def _draw_eight(typing, first, short, seed, seed_a, seed_b, out, at):
    """The pairs of samples first..first + 7: the first numbers go to out[at:at + 8], the second to out[at + 8:at + 16]."""

    def build(context, builder, signature, arguments):
        first, short, seed, seed_a, seed_b = (Wholes.of(builder, argument) for argument in arguments[:5])
        out, at = arguments[5:]
        index = first + Wholes.row(builder, range(LANES))
        shuffled = permuted((index << short).reversed_bits(), seed).reversed_bits() >> short
        # Owen scrambling of the two Sobol dimensions; the reversals that would undo each other are left out.
        for row, bits in enumerate((permuted(shuffled, seed_a), permuted(shifted(shuffled), seed_b))):
            place = row_of(context, builder, signature.args[5], out, builder.add(at, ir.Constant(at.type, row * LANES)))
            store_row(builder, bits.reversed_bits().scaled(TO_UNIT, BELOW_ONE), place)
        return context.get_dummy_value()

    whole = types.uint32
    return types.void(whole, whole, whole, whole, whole, out, types.int64), build


@helper
def forget_numbers(scratch):
    """To be called before the numbers of another pixel are asked for."""
    for dimension in range(scratch.drawn.shape[0]):
        scratch.drawn[dimension] = -1


@helper
def sample_2d(scratch, pixel, index, dimension):
    """Two numbers in [0, 1) for a pixel's hash, its sample number and a pair of dimensions."""
    block = index >> _LANES_BITS
    at = dimension * 2 * LANES
    if scratch.drawn[dimension] != block:
        scratch.drawn[dimension] = block
        first = block << _LANES_BITS
        short = U(_SHORT) if first < SHUFFLED else U(0)
        seed = _mix(U(pixel) ^ U(U(dimension) * U(0x9E3779B9) + U(0x7F4A7C15)))
        _draw_eight(U(first), short, seed, _mix(U(seed + U(1))), _mix(U(seed + U(2))), scratch.numbers, at)
    at += index & (LANES - 1)
    return scratch.numbers[at], scratch.numbers[at + LANES]
