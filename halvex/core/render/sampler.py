"""Low-discrepancy numbers: Owen-scrambled Sobol points, padded by two dimensions at a time.

Each pair of dimensions is the same two-dimensional sequence, shuffled and scrambled by a hash of
pixel, seed and dimension (Burley, Practical Hash-based Owen Scrambling, JCGT 9(4), 2020). A sample
depends only on (pixel, sample number, dimension, seed): on no thread, tile or order.

A pixel's first samples (`pixel_key`: one, two or four) are those of one sequence for the whole
picture, which runs from pixel to pixel along a curve that keeps neighbours together. Between
neighbours they are spread as evenly as within a pixel, so that the noise that is left has no coarse
spots, which no denoiser could distinguish from light (Ahmed & Wonka, Screen-space blue-noise diffusion of
Monte Carlo sampling error via hierarchical ordering of pixels, ACM TOG 39(6), 2020). A pixel's own
sequence continues them: it is scrambled in one of the ways that make it begin with these points.

Eight pairs of numbers are drawn at once, in vector registers, since one alone takes as long: as
many samples of one pair of dimensions, or of few samples several pairs in a row. Which of them are
drawn together changes none of them.
"""

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from halvex.core.kernels import helper
from halvex.core.optics.eight import LANES, Wholes, row_of, store_row

U = np.uint32
# Pairs of numbers that a path may ask for.
DIMENSIONS = 112
_LANES_BITS = LANES.bit_length() - 1
_ALL_BITS = 0xFFFFFFFF
# One less than 1 in single precision, times 2^-32.
TO_UNIT = 2.3283064e-10
BELOW_ONE = 0.99999994


def mixed(x):
    """Avalanche of 32 bits (a finaliser of Wellons' hash prospector)."""
    x = (x ^ x >> 16) * 0x21F0AAAD & _ALL_BITS
    x = (x ^ x >> 15) * 0xD35A2D97 & _ALL_BITS
    return x ^ x >> 15


_mix = helper(mixed)


@helper
def _apart(x):
    """The low 16 bits of x with a zero before each."""
    x = U(x)
    x = U((x | x << U(8)) & U(0x00FF00FF))
    x = U((x | x << U(4)) & U(0x0F0F0F0F))
    x = U((x | x << U(2)) & U(0x33333333))
    return U((x | x << U(1)) & U(0x55555555))


@helper
def _reversed(x):
    """The 32 bits of x from the last to the first."""
    x = U((x & U(0x55555555)) << U(1) | x >> U(1) & U(0x55555555))
    x = U((x & U(0x33333333)) << U(2) | x >> U(2) & U(0x33333333))
    x = U((x & U(0x0F0F0F0F)) << U(4) | x >> U(4) & U(0x0F0F0F0F))
    x = U((x & U(0x00FF00FF)) << U(8) | x >> U(8) & U(0x00FF00FF))
    return U(x << U(16) | x >> U(16))


@helper
def pixel_key(x, y, seed, early, samples):
    """What `draw` draws a pixel's numbers by: (its own hash, the picture's, the number of its first
    sample among the picture's, its bits reversed, 2^early - 1, how many samples are drawn side by
    side as a power of two).

    Its first 2^early samples (early 0, 1 or 2) are the picture's, which are numbered in Z-order:
    square after square of pixels. Side by side are as many as there are, of `samples` that are
    wanted in all.
    """
    own = U(_mix(U(U(x) * U(0x9E3779B1)) ^ U(_mix(U(U(y) + U(U(seed) * U(0x85EBCA6B)))))))
    place = _reversed(U(_apart(x) | _apart(y) << U(1))) >> U(early)
    together = 0
    while together < _LANES_BITS and 1 << together < samples:
        together += 1
    return own, U(_mix(U(U(seed) * U(4)) + U(early))), U(place), U(U(U(1) << U(early)) - U(1)), U(together)


def permuted(x, seed):
    """Laine-Karras permutation of 32-bit whole numbers: scrambles from low bits to high ones."""
    x = x ^ x * 0x3D20ADEA
    x = x + seed
    x = x * (seed >> 16 | 1)
    x = x ^ x * 0x05526C56
    return x ^ x * 0x53A22864


def zero_preserving_permutation(x, seed):
    """The like, but 0 stays 0, as a bit is changed by lower ones alone."""
    x = x ^ x * (seed << 1)
    x = x * (seed >> 16 | 1)
    x = x ^ x * 0x05526C56
    return x ^ x * 0x53A22864


def shifted(x):
    """The polynomial over GF(2) whose coefficients are the bits of x, its argument moved by 1:
    Pascal's triangle modulo 2, in halves.

    With its bits reversed it is the second Sobol dimension, whose direction numbers, v' = v ^ (v >>
    1), are Pascal's triangle backwards.
    """
    x = x ^ x >> 16
    x = x ^ (x & 0xFF00FF00) >> 8
    x = x ^ (x & 0xF0F0F0F0) >> 4
    x = x ^ (x & 0xCCCCCCCC) >> 2
    return x ^ (x & 0xAAAAAAAA) >> 1


def _seeds(key, dimension):
    """Three seeds for a pair of dimensions: for the order of samples and for its two numbers."""
    first = mixed(dimension * 0x9E3779B9 + 0x7F4A7C15 ^ key)
    second = first * 0xD192ED03
    second = second ^ second >> 16
    third = second * 0x2C1B3C6D
    return first, second, third ^ third >> 15


@intrinsic
def _draw_eight(typing, key, index, dimension, out, at):
    """Eight pairs from sample `index` and `dimension` on, by a key: the first numbers go to
    out[at:at + 8], the second to out[at + 8:at + 16]."""

    def build(context, builder, signature, arguments):
        own, picture, place, low, together = (
            Wholes.of(builder, number) for number in cgutils.unpack_tuple(builder, arguments[0])
        )
        first, dimension = (Wholes.of(builder, number) for number in arguments[1:3])
        out, at = arguments[3:]
        lane = Wholes.row(builder, range(LANES))
        across = lane >> together
        sample, dimension = first + (lane ^ across << together), dimension + across
        own, picture = _seeds(own, dimension), _seeds(picture, dimension)
        # The first of the points of the picture's sequence that begin the pixel's own; `low` is how
        # many more there are.
        begins = permuted(place, picture[0]).reversed_bits()
        begins = begins ^ (begins & low)
        index = zero_preserving_permutation(
            sample.reversed_bits() + (own[0] & low.reversed_bits()), own[0]
        ).reversed_bits()
        # Owen scrambling of the two Sobol dimensions; the reversals that would undo each other are
        # left out. What a point has in common with one of those that begin, from the highest digit
        # on, stays; beyond that its digits are scrambled once more.
        for row, (point, beginning) in enumerate(
            ((index, begins), (shifted(index), shifted(begins))), start=1
        ):
            known = point & low
            bits = permuted(beginning ^ known, picture[row]) ^ zero_preserving_permutation(
                point ^ known, own[row] + known * 0x9E3779B9
            )
            to = row_of(
                context,
                builder,
                signature.args[3],
                out,
                builder.add(at, ir.Constant(at.type, (row - 1) * LANES)),
            )
            store_row(builder, bits.reversed_bits().scaled(TO_UNIT, BELOW_ONE), to)
        return context.get_dummy_value()

    return types.void(types.UniTuple(types.uint32, 5), types.uint32, types.uint32, out, types.int64), build


@helper
def forget_numbers(scratch):
    """Call it before drawing the numbers of another pixel."""
    for dimension in range(scratch.drawn.shape[0]):
        scratch.drawn[dimension] = -1


@helper
def draw(scratch, key, index, first, last):
    """Draw the pairs of dimensions first..last - 1 for sample `index` of the pixel of this key.

    Several at once keep the processor busy; one drawn when it is needed would stall everything else.
    """
    together = np.int64(key[4])
    block, across = index >> together, _LANES_BITS - together
    for group in range(first >> across, ((last - 1) >> across) + 1):
        if scratch.drawn[group] != block:
            scratch.drawn[group] = block
            _draw_eight(key, U(block << together), U(group << across), scratch.numbers, group * 2 * LANES)


@helper
def sample_2d(scratch, key, index, dimension):
    """Two numbers in [0, 1) of a pair of dimensions that was drawn for this sample (`draw`)."""
    together = np.int64(key[4])
    lane = dimension << together
    at = lane + (lane & -LANES) + (index & ((1 << together) - 1))
    return scratch.numbers[at], scratch.numbers[at + LANES]
