"""Tiles of blocks: their ink drawn as a picture that comes again and again."""

from hashlib import sha256

import numpy as np
from PIL import Image, ImageDraw

from halvex.core.lettering import SetBlock
from halvex.core.lettering.outlines import signed_area
from halvex.core.memory import kept
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.texels import Pyramid, pyramid_of_light

# A tile is drawn so many px wide, and no higher than this, from a picture so many times as large.
TILE_PX, HIGHEST_TILE_PX, FINER = 512, 2048, 4


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
    across, down = FINER * width / long, FINER * height / (rows * high)
    image = Image.new("L", (FINER * width, FINER * height))
    draw = ImageDraw.Draw(image)
    middle = (left + right) / 2, (bottom + top) / 2
    # Outer rings before what is cut out of them, and what stands in the cut after that.
    rings = [ring for letter in ink.letters for ring in letter.rings]
    rings.sort(key=lambda ring: -abs(signed_area(ring)))
    for row in range(rows):
        for shift in (0.0,) if row == 0 else (-0.5, 0.5):
            x, y = (0.5 + shift) * long, (row + 0.5) * high
            for ring in rings:
                points = np.column_stack(
                    [(ring[:, 0] - middle[0] + x) * across, (y - ring[:, 1] + middle[1]) * down]
                )
                draw.polygon([tuple(point) for point in points], fill=255 if signed_area(ring) > 0 else 0)
    cover = np.asarray(image, np.float32).reshape(height, FINER, width, FINER).mean(axis=(1, 3)) / 255
    light = np.dstack([cover[..., None] * hex_to_linear(colour), cover]).astype(np.float32)
    name = f"tile-{sha256(np.round(light * 255).astype(np.uint8).tobytes()).hexdigest()[:24]}"
    return name, pyramid_of_light(light)
