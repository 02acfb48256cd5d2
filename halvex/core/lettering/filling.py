"""Outlines drawn as pictures by Pillow, for tiles that come again and again."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from halvex.core.lettering.outlines import signed_area

# A picture is drawn so many times as large, as Pillow's polygons have hard edges.
FINER = 4


def ink_cover(rings: Iterable[NDArray[np.float64]], width: int, height: int) -> NDArray[np.float32]:
    """Share (height, width) of each px that clean rings (n, 2) cover, ink on their left, in px from the lower
    left."""
    image = Image.new("L", (FINER * width, FINER * height))
    draw = ImageDraw.Draw(image)
    # Outer rings before what is cut out of them, and what stands in the cut after that.
    for ring in sorted(rings, key=lambda ring: -abs(signed_area(ring))):
        points = FINER * np.column_stack([ring[:, 0], height - ring[:, 1]])
        draw.polygon([tuple(point) for point in points], fill=255 if signed_area(ring) > 0 else 0)
    cover = np.asarray(image, np.float32).reshape(height, FINER, width, FINER)
    return np.asarray(cover.mean(axis=(1, 3)) / 255, np.float32)
