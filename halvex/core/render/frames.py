"""Vectors between the world, the lettering's frame and the frames of bodies."""

import numpy as np

from halvex.core.kernels import helper

# An index as a number without a sign: a signed one is looked at each time whether it counts from the end.
AT = np.uintp


@helper
def to_frame(turn, v):
    """World direction or point into the lettering's frame (the transposed turn)."""
    return (
        turn[0, 0] * v[0] + turn[1, 0] * v[1] + turn[2, 0] * v[2],
        turn[0, 1] * v[0] + turn[1, 1] * v[1] + turn[2, 1] * v[2],
        turn[0, 2] * v[0] + turn[1, 2] * v[1] + turn[2, 2] * v[2],
    )


@helper
def from_frame(turn, v):
    return (
        turn[0, 0] * v[0] + turn[0, 1] * v[1] + turn[0, 2] * v[2],
        turn[1, 0] * v[0] + turn[1, 1] * v[1] + turn[1, 2] * v[2],
        turn[2, 0] * v[0] + turn[2, 1] * v[1] + turn[2, 2] * v[2],
    )


@helper
def out_of_body(letters, i, v):
    """A direction of an instance's body in the lettering's frame."""
    return v if letters.straight[AT(i)] != 0 else from_frame(letters.matrix[AT(i)], v)


@helper
def into_body(letters, i, v):
    """A direction of the lettering's frame in that of an instance's body, longer where the body is
    made smaller."""
    return v if letters.straight[AT(i)] != 0 else from_frame(letters.inverse[AT(i)], v)
