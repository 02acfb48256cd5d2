"""Which pixels may show a letter: the others need no search through the trees for what the camera sees.

The trees' own boxes are projected, from the root down until they are small on the picture. The answer
errs on the side of a letter: a pixel without its mark shows none.
"""

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import allocating_kernel
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import F
from halvex.core.render.lanes import NODE_FLOATS
from halvex.core.render.world import STACK_DEPTH, World, letters_bounds, projections_of
from halvex.core.scene.camera import blur_scale, lettering_to_picture

# Boxes of so many px of the picture are not taken apart any further.
SMALL_PX = F(4.0)
# The tent filter reaches 0.8 px from a pixel's middle; the rest is for rounding.
MARGIN_PX = F(1.5)
# To the corner of that filter, and a little for rounding.
SPREAD_PX = 1.2
# Homogeneous weight under which a corner counts as beside or behind the camera.
LEAST_WEIGHT = F(1e-3)


def may_show_letters(world: World, width: int, rows: int, first_row: int = 0) -> NDArray[np.uint8]:
    """1 for the pixels (rows, width) of rows `first_row`.. of the picture that may show a letter, 0
    for those that cannot."""
    marks = np.zeros((rows, width), np.uint8)
    projection = lettering_to_picture(world.camera, world.turn)
    projection[1] -= first_row * projection[3]
    blur = tuple(np.float32(value) for value in blur_scale(world.camera))
    letters = world.letters
    projections = projections_of(letters, projection).astype(np.float32)
    _mark(letters.root, letters.bodies.boxes, letters.bodies.child, projections, blur, marks)
    return marks


def spread_of_a_pixel(world: World) -> np.float32:
    """How far in px of the world the rays of one pixel may run from the one through its middle
    before they have left the letters; less than 0 where they start all over a lens."""
    camera = world.camera
    if camera.lens > 0:
        return np.float32(-1)
    bounds = letters_bounds(world.letters)
    apart = SPREAD_PX / float(camera.px_scale * camera.zoom)
    if camera.parallel or bounds is None:
        return np.float32(apart)
    low, high = bounds
    eye = np.array(camera.eye) @ world.turn
    farthest = np.linalg.norm(np.maximum(np.abs(low - eye), np.abs(high - eye)))
    return np.float32(apart * farthest / float(camera.eye[2]))


@allocating_kernel
def _mark(root, boxes, child, projections, blur, marks):
    rows, width = marks.shape
    stack = np.empty(STACK_DEPTH, np.int32)
    for instance in range(len(root)):
        stack[0] = root[instance]
        top = 1
        while top > 0:
            top -= 1
            node = stack[top]
            for lane in range(LANES):
                x0, y0, x1, y1, seen = _rectangle(
                    boxes, node * NODE_FLOATS + lane, projections[instance], blur, width, rows
                )
                if not seen:
                    continue
                inner = child[node * LANES + lane]
                if inner < 0 or (x1 - x0 <= SMALL_PX and y1 - y0 <= SMALL_PX):
                    marks[int(y0) : int(y1) + 1, int(x0) : int(x1) + 1] = 1
                else:
                    stack[top] = inner
                    top += 1


@allocating_kernel
def _rectangle(boxes, at, projection, blur, width, rows):
    """(x0, y0, x1, y1, whether any of it is on the picture) of a box, in px, blurred as the lens
    does; a box that reaches the camera covers all."""
    x0, y0, x1, y1 = F(1e30), F(1e30), F(-1e30), F(-1e30)
    if boxes[at] > boxes[at + 3 * LANES] or boxes[at] > F(1e30):
        return x0, y0, x1, y1, False  # a lane without a box
    for corner in range(8):
        x = boxes[at + (3 * LANES if corner & 1 else 0)]
        y = boxes[at + (4 * LANES if corner & 2 else LANES)]
        z = boxes[at + (5 * LANES if corner & 4 else 2 * LANES)]
        weight = projection[3, 0] * x + projection[3, 1] * y + projection[3, 2] * z + projection[3, 3]
        if weight < LEAST_WEIGHT:
            return F(0.0), F(0.0), F(width - 1), F(rows - 1), True
        u = (projection[0, 0] * x + projection[0, 1] * y + projection[0, 2] * z + projection[0, 3]) / weight
        v = (projection[1, 0] * x + projection[1, 1] * y + projection[1, 2] * z + projection[1, 3]) / weight
        spread = blur[0] * abs(F(1.0) / blur[1] - F(1.0) / weight)
        x0, x1, y0, y1 = min(x0, u - spread), max(x1, u + spread), min(y0, v - spread), max(y1, v + spread)
    x0, y0 = max(x0 - MARGIN_PX, F(0.0)), max(y0 - MARGIN_PX, F(0.0))
    x1, y1 = min(x1 + MARGIN_PX, F(width - 1)), min(y1 + MARGIN_PX, F(rows - 1))
    return x0, y0, x1, y1, x0 <= x1 and y0 <= y1
