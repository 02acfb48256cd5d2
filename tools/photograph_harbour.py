"""Photograph the quayside that ships as a panorama, for the picture that ships: a view over the harbour
into the evening sun.

.venv/bin/python tools/photograph_harbour.py
"""

import math

import numpy as np
from numpy.typing import NDArray
from paint_quayside import paint
from PIL import Image
from scipy.ndimage import map_coordinates

from halvex.core.assets import SHIPPED_PICTURES
from halvex.core.finish.tone import to_display

WIDTH, HEIGHT = 1600, 900
BEARING_DEG, UP_DEG, ANGLE_OF_VIEW_DEG = 80.0, 10.0, 100.0
STOPS = -0.2
# Of the panorama, beside the one that ships.
FINENESS = 6


def view(panorama: NDArray[np.float64]) -> NDArray[np.float64]:
    """What a camera with a flat picture sees (HEIGHT, WIDTH, 3)."""
    rows, columns = panorama.shape[:2]
    reach = math.tan(math.radians(ANGLE_OF_VIEW_DEG / 2))
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    u = ((x + 0.5) / WIDTH * 2 - 1) * reach
    v = (1 - (y + 0.5) / HEIGHT * 2) * reach * HEIGHT / WIDTH
    up = math.radians(UP_DEG)
    ahead, high = math.cos(up) - v * math.sin(up), math.sin(up) + v * math.cos(up)
    height = np.arctan2(high, np.hypot(u, ahead))
    around = np.arctan2(u, ahead) + math.radians(BEARING_DEG)
    places = (
        (0.5 - height / math.pi) * rows - 0.5,
        ((around / (2 * math.pi) + 0.5) % 1.0) * columns - 0.5,
    )
    return np.stack(
        [map_coordinates(panorama[..., c], places, order=1, mode="grid-wrap") for c in range(3)], axis=-1
    )


def main() -> None:
    seen = view(paint(FINENESS)).astype(np.float32)
    shown = to_display(seen, STOPS, "rich")
    SHIPPED_PICTURES.mkdir(exist_ok=True)
    Image.fromarray(np.round(shown * 255).astype(np.uint8)).save(
        SHIPPED_PICTURES / "harbour.jpg", quality=90, subsampling=0
    )


if __name__ == "__main__":
    main()
