"""Tiles of blocks: their ink drawn as a picture that comes again and again."""

from hashlib import sha256

import numpy as np

from halvex.core.lettering import SetBlock
from halvex.core.lettering.filling import ink_cover
from halvex.core.memory import kept
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.texels import Pyramid, pyramid_of_light

# A tile is drawn so many px wide, and no higher than this.
TILE_PX, HIGHEST_TILE_PX = 512, 2048


@kept
def tile_of(ink: SetBlock, colour: str, spacing: float, staggered: bool) -> tuple[str, Pyramid]:
    """(a name by its content, the picture) of one tile with its spacing, or of two rows of which the second
    stands half a tile aside."""
    left, bottom, right, top = ink.box
    long = max(right - left, 1e-6) * (1 + spacing)
    high = max(top - bottom, 1e-6) * (1 + spacing)
    rows = 2 if staggered else 1
    width = TILE_PX
    if rows * high / long * TILE_PX > HIGHEST_TILE_PX:
        width = max(round(HIGHEST_TILE_PX * long / high / rows), 1)
    height = max(round(width * rows * high / long), rows)
    across, up = width / long, height / (rows * high)
    middle = (left + right) / 2, (bottom + top) / 2
    rings = []
    for row in range(rows):
        for shift in (0.0,) if row == 0 else (-0.5, 0.5):
            # Rows are counted from above.
            x, y = (0.5 + shift) * long - middle[0], (rows - row - 0.5) * high - middle[1]
            rings += [(ring + (x, y)) * (across, up) for letter in ink.letters for ring in letter.rings]
    cover = ink_cover(rings, width, height)
    light = np.dstack([cover[..., None] * hex_to_linear(colour), cover]).astype(np.float32)
    name = f"tile-{sha256(np.round(light * 255).astype(np.uint8).tobytes()).hexdigest()[:24]}"
    return name, pyramid_of_light(light)
