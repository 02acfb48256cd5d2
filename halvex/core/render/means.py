"""What a film's sums over samples come to: the picture that its lights make, and single channels.

The sums of a picture are many times larger than a processor's caches: reading them takes most of the time.
"""

from halvex.core.kernels import kernel, wide_kernel
from halvex.core.optics.vectors import F
from halvex.core.render import channels


@kernel
def mean_channels(sums, counts, first, out):
    """Fill out (rows, width, n) with the means over samples (rows, width) of the channels
    first..first + n - 1; 0 without samples."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(out.shape[2]):
                out[y, x, c] = sums[y, x, first + c] * share


@kernel
def mean_light(sums, counts, levels, out):
    """Fill out (rows, width, 3) with linear light, the lights at their levels (lights, 3)."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(3):
                light = sums[y, x, channels.FLAT + c]
                for k in range(levels.shape[0]):
                    light += sums[y, x, channels.SHARES + 3 * k + c] * levels[k, c]
                out[y, x, c] = light * share


@kernel
def mean_scene(sums, counts, levels, backdrop, flat_gain, rows, means):
    """Fill rows (first, last), up to last - 1, of the means, all in one reading; light is over a backdrop
    (3,), flat colours multiplied by `flat_gain` in it."""
    light, flat, through, albedo, normal = means
    for y in range(rows[0], rows[1]):
        for x in range(light.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(3):
                lit = F(0.0)
                for k in range(levels.shape[0]):
                    lit += sums[y, x, channels.SHARES + 3 * k + c] * levels[k, c]
                flat[y, x, c] = sums[y, x, channels.FLAT + c] * share
                through[y, x, c] = sums[y, x, channels.THROUGH + c] * share
                seen = (
                    sums[y, x, channels.FLAT + c] * flat_gain + sums[y, x, channels.THROUGH + c] * backdrop[c]
                )
                light[y, x, c] = (lit + seen) * share
                albedo[y, x, c] = min(sums[y, x, channels.ALBEDO + c] * share, F(1.0))
                normal[y, x, c] = min(max(sums[y, x, channels.NORMAL + c] * share, F(-1.0)), F(1.0))


@kernel
def without_flat_and_backdrop(light, flat, through, backdrop, flat_gain, first, last):
    """Take flat colours and the backdrop out of rows first..last - 1 of light (rows, width, 3) again."""
    for y in range(first, last):
        for x in range(light.shape[1]):
            for c in range(3):
                light[y, x, c] -= flat[y, x, c] * flat_gain + through[y, x, c] * backdrop[c]


@wide_kernel
def compose(light, flat, through, backdrop, flat_gain, out):
    """Fill out (n,), the channels of px after px, with light over a backdrop (3,), with flat colours
    multiplied by `flat_gain`."""
    red, green, blue = backdrop[0], backdrop[1], backdrop[2]
    for n in range(out.shape[0] // 3):
        r, g, b = 3 * n, 3 * n + 1, 3 * n + 2
        out[r] = light[r] + flat[r] * flat_gain + through[r] * red
        out[g] = light[g] + flat[g] * flat_gain + through[g] * green
        out[b] = light[b] + flat[b] * flat_gain + through[b] * blue
