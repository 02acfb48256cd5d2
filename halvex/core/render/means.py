"""What a film's sums over samples come to: the picture that its lights make, and single channels."""

from halvex.core.optics.vectors import F, kernel
from halvex.core.render import channels


@kernel
def mean_channels(sums, counts, first, out):
    """Fill out (rows, width, n) with the means over samples (rows, width) of the channels first..first + n - 1; 0 without samples."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(out.shape[2]):
                out[y, x, c] = sums[y, x, first + c] * share


@kernel
def mean_light(sums, counts, levels, out):
    """Fill out (rows, width, 3) with linear light: each light's share at its level (lights, 3), and flat colours."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(3):
                light = sums[y, x, channels.FLAT + c]
                for k in range(levels.shape[0]):
                    light += sums[y, x, channels.SHARES + 3 * k + c] * levels[k, c]
                out[y, x, c] = light * share
