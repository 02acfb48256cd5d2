"""What gradients, pictures and masks show at a place of what they are laid over."""

from halvex.core.kernels import helper, routine
from halvex.core.optics.blending import encoded
from halvex.core.optics.gradients import WIDEST, ramp_colour
from halvex.core.optics.sources import (
    BEGIN,
    COSINE,
    EDGE,
    FILLED,
    FIT,
    LENGTH,
    MIRRORED,
    MOVED_X,
    MOVED_Y,
    NATURAL,
    OWN,
    PICTURE_SCALE,
    RAMP_NUMBER,
    REPEATED,
    REVERSED,
    SINE,
    STRENGTH,
    STRETCHED,
    TEXTURE,
)
from halvex.core.optics.texels import MIRRORED as MIRRORED_EDGES
from halvex.core.optics.texels import TILED, texel_colour
from halvex.core.optics.vectors import F, floor, floorf, luminance_of


@routine
def gradient_along(sources, row, t, per_px, width):
    """Premultiplied light and opacity at t along a gradient, whose share changes by per_px, over a footprint
    of so many px; row holds its own numbers."""
    if row[REVERSED] > F(0.0):
        t = F(1.0) - t
    t = (t - row[BEGIN]) / row[LENGTH]
    repeated = row[REPEATED] > F(0.0)
    if row[MIRRORED] > F(0.0):
        if repeated:
            t -= floorf(t)
        t = F(1.0) - abs(F(2.0) * t - F(1.0))
        per_px *= F(2.0)
    wide = min(width * per_px / row[LENGTH], WIDEST)
    return ramp_colour(sources.ramps, sources.sums, int(row[RAMP_NUMBER]), t, wide, repeated)


@routine
def picture_on_sheet(texels, layer, x, y, half, run, width):
    """Premultiplied light and opacity of a picture at (x, y) px from the middle of what it is laid over, half
    as wide and high as `half`, over a footprint of so many px. Along a ring of `run` px whole pictures are
    repeated; 0 stands for none."""
    row = layer[OWN:]
    picture, fit, edges = int(row[TEXTURE]), int(row[FIT]), int(row[EDGE])
    first = texels.pictures[picture, 0]
    across, down = F(texels.levels[first, 1]), F(texels.levels[first, 2])
    x -= F(2.0) * half[0] * layer[MOVED_X]
    y -= F(2.0) * half[1] * layer[MOVED_Y]
    texels_per_px, squeezed = F(1.0), F(1.0)
    if fit != NATURAL:
        wide = across / max(F(2.0) * half[0], F(1e-6))
        high = down / max(F(2.0) * half[1], F(1e-6))
        texels_per_px = min(wide, high) if fit == FILLED else max(wide, high)
        if fit == STRETCHED:
            texels_per_px, squeezed = wide, high / wide
    texels_per_px /= row[PICTURE_SCALE]
    c, s = layer[COSINE], layer[SINE]
    u, v = (x * c + y * s) * texels_per_px, (y * c - x * s) * texels_per_px * squeezed
    if run > F(0.0) and s == F(0.0) and (edges in (TILED, MIRRORED_EDGES)):
        # As many whole pictures as go once around.
        tile = across * (F(2.0) if edges == MIRRORED_EDGES else F(1.0))
        u *= max(F(floor(run * texels_per_px / tile + F(0.5))), F(1.0)) * tile / (run * texels_per_px)
    footprint = width * texels_per_px * max(squeezed, F(1.0))
    return texel_colour(texels, picture, F(0.5) * across + u, F(0.5) * down - v, footprint, edges)


@helper
def tone_of(c):
    """How light a colour (rgb) is, as a picture's grey has it, in 0 to 1."""
    return encoded(min(max(luminance_of(c), F(0.0)), F(1.0)))


@helper
def left_by_mask(layer, c, opacity):
    """The share of the layer above that a mask of a colour (rgb) and opacity leaves."""
    return F(1.0) - layer[STRENGTH] * (F(1.0) - tone_of(c) * opacity)
