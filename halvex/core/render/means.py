"""What a film's sums over samples come to: the picture that its lights make, and single channels.

The sums of a picture are many times larger than a processor's caches: reading them takes most of the time.
"""

from halvex.core.optics.vectors import F, helper, kernel
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


@helper
def _light_of(sums, y, x, levels, c):
    """Channel c of a pixel's linear light, summed: each light's share at its level (lights, 3), and
    flat colours."""
    light = sums[y, x, channels.FLAT + c]
    for k in range(levels.shape[0]):
        light += sums[y, x, channels.SHARES + 3 * k + c] * levels[k, c]
    return light


@kernel
def mean_light(sums, counts, levels, out):
    """Fill out (rows, width, 3) with linear light, the lights at their levels (lights, 3)."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(3):
                out[y, x, c] = _light_of(sums, y, x, levels, c) * share


@kernel
def mean_scene(sums, counts, levels, backdrop, first, last, light, albedo, normal):
    """Fill rows first..last - 1 of three images (rows, width, 3), all in one reading: linear light
    before a backdrop (3,), albedo up to 1, normals."""
    for y in range(first, last):
        for x in range(light.shape[1]):
            share = F(1.0) / F(max(counts[y, x], 1))
            for c in range(3):
                light[y, x, c] = (
                    _light_of(sums, y, x, levels, c) + sums[y, x, channels.THROUGH + c] * backdrop[c]
                ) * share
                albedo[y, x, c] = min(sums[y, x, channels.ALBEDO + c] * share, F(1.0))
                normal[y, x, c] = min(max(sums[y, x, channels.NORMAL + c] * share, F(-1.0)), F(1.0))
