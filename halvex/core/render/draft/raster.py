"""Which triangle of the letters each pixel sees, by drawing them in perspective with a buffer of
what is nearest.

Where triangles are few for the pixels they cover, this is several times quicker than a ray a pixel.
Triangles are drawn row by row; an edge that two of them share is crossed at one place from both
sides, so no pixel slips between them.
"""

import itertools

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import helper, kernel
from halvex.core.optics.eight import LANES
from halvex.core.optics.vectors import floorf
from halvex.core.render.lanes import NODE_FLOATS
from halvex.core.render.tree import NOWHERE
from halvex.core.render.world import World, letters_bounds

# Of more triangles for a pixel of the rectangle around all letters, rays are quicker.
MOST_TRIANGLES_A_PIXEL = 2
# Letters this near the eye's plane (homogeneous weight) are left to rays: nothing is clipped here.
LEAST_WEIGHT = 0.02
# A pixel's middle this near an edge, in px, belongs to both sides.
ON_EDGE_PX = 1e-6
NO_TRIANGLE = -1

Matrix = NDArray[np.float64]


def rows_to_draw(world: World, projection: Matrix, width: int, height: int) -> tuple[float, float] | None:
    """The rows of a picture of this size that letters span, where drawing them is exact and quicker
    than tracing; else None. `projection` is the camera's `lettering_to_picture`."""
    bounds = letters_bounds(world.letters)
    if bounds is None:
        return None
    corners = np.array([[x, y, z, 1.0] for x, y, z in itertools.product(*np.transpose(bounds))])
    x, y, _, weight = projection @ corners.T
    if not (weight > LEAST_WEIGHT).all():
        return None
    columns, rows = np.clip(x / weight, 0, width), np.clip(y / weight, 0, height)
    triangles = int((world.letters.span[:, 1] - world.letters.span[:, 0]).sum())
    if triangles > MOST_TRIANGLES_A_PIXEL * float(np.ptp(columns) * np.ptp(rows)):
        return None
    return float(rows.min()), float(rows.max())


@helper
def _row(projection, p):
    """The row of the picture that a point (3,) of a body's frame falls on, and one over its weight."""
    over = 1.0 / (
        projection[3, 0] * p[0] + projection[3, 1] * p[1] + projection[3, 2] * p[2] + projection[3, 3]
    )
    return (
        projection[1, 0] * p[0] + projection[1, 1] * p[1] + projection[1, 2] * p[2] + projection[1, 3]
    ) * over, over


@helper
def _corner(corners, triangle, k):
    """Corner k of a triangle (3,) in the frame of its body."""
    return (
        float(corners[triangle, 3 * k]),
        float(corners[triangle, 3 * k + 1]),
        float(corners[triangle, 3 * k + 2]),
    )


@helper
def _column(projection, p, over):
    """(column, nearness) on the picture of a point (3,); nearness is linear there, and more is nearer."""
    u = (
        projection[0, 0] * p[0] + projection[0, 1] * p[1] + projection[0, 2] * p[2] + projection[0, 3]
    ) * over
    near = (
        projection[2, 0] * p[0] + projection[2, 1] * p[1] + projection[2, 2] * p[2] + projection[2, 3]
    ) * over
    return u, near


@helper
def _narrow(low, high, ax, ay, bx, by, row):
    """The stretch low..high of a row, less what lies outside the edge from a to b; a triangle seen
    from the front turns anticlockwise."""
    if by != ay:
        crossing = ax + (bx - ax) / (by - ay) * (row - ay)
        if by > ay:
            low = max(low, crossing)
        else:
            high = min(high, crossing)
    return low, high


@helper
def _rows_of(letters, i, projection):
    """The rows of the picture, from..to, that the boxes at the root of an instance's tree reach."""
    top, bottom = 1e30, -1e30
    at = letters.root[i] * NODE_FLOATS
    for lane in range(LANES):
        if letters.bodies.boxes[at + lane] >= NOWHERE:
            continue
        for corner in range(8):
            x = float(letters.bodies.boxes[at + lane + (3 * LANES if corner & 1 else 0)])
            y = float(letters.bodies.boxes[at + lane + (4 * LANES if corner & 2 else LANES)])
            z = float(letters.bodies.boxes[at + lane + (5 * LANES if corner & 4 else 2 * LANES)])
            row, _ = _row(projection, (x, y, z))
            top, bottom = min(top, row), max(bottom, row)
    return top, bottom


@helper
def _first_from(x):
    """The first pixel whose middle does not lie before x."""
    return int(-floorf(0.5 - x))


@helper
def _last_to(x):
    """The last pixel whose middle does not lie after x."""
    return int(floorf(x - 0.5))


@kernel
def draw_letters(letters, projections, near, drawn, y0, y1):
    """Fill rows y0..y1-1 of `drawn`: triangle, instance (H, W), what each pixel's middle sees, NO_TRIANGLE
    without a letter; and weights (H, W, 2), those of its second and third corner. projections (i, 4,
    4): from each body's frame to the picture (`projections_of`); near (H, W) is working memory."""
    triangle, instance, weights = drawn
    width = near.shape[1]
    for y in range(y0, y1):
        near[y, :] = np.float32(-1e30)
        triangle[y, :] = NO_TRIANGLE
    for i in range(letters.span.shape[0]):
        projection = projections[i]
        reach = _rows_of(letters, i, projection)
        if reach[1] < y0 - 1 or reach[0] > y1 + 1:
            continue
        for t in range(letters.span[i, 0], letters.span[i, 1]):
            a, b, c = (
                _corner(letters.bodies.corners, t, 0),
                _corner(letters.bodies.corners, t, 1),
                _corner(letters.bodies.corners, t, 2),
            )
            (ay, aw), (by, bw), (cy, cw) = _row(projection, a), _row(projection, b), _row(projection, c)
            top, bottom = (
                max(_first_from(min(ay, by, cy)), y0),
                min(_last_to(max(ay, by, cy)), y1 - 1),
            )
            if top > bottom:
                continue
            (ax, az), (bx, bz), (cx, cz) = (
                _column(projection, a, aw),
                _column(projection, b, bw),
                _column(projection, c, cw),
            )
            # Twice its area; the picture's y runs down, so what faces the camera is negative.
            area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
            if area >= 0.0:
                continue
            across = ((bz - az) * (cy - ay) - (cz - az) * (by - ay)) / area
            down = ((cz - az) * (bx - ax) - (bz - az) * (cx - ax)) / area
            nearest = max(az, bz, cz)
            left, right = min(ax, bx, cx), max(ax, bx, cx)
            for y in range(top, bottom + 1):
                row = y + 0.5
                low, high = _narrow(left, right, ax, ay, bx, by, row)
                low, high = _narrow(low, high, bx, by, cx, cy, row)
                low, high = _narrow(low, high, cx, cy, ax, ay, row)
                first, last = (
                    max(_first_from(low - ON_EDGE_PX), 0),
                    min(_last_to(high + ON_EDGE_PX), width - 1),
                )
                for x in range(first, last + 1):
                    dx, dy = x + 0.5 - ax, row - ay
                    z = np.float32(min(az + across * dx + down * dy, nearest))
                    if z <= near[y, x]:
                        continue
                    near[y, x] = z
                    triangle[y, x], instance[y, x] = t, i
                    second = min(max((dx * (cy - ay) - (cx - ax) * dy) / area, 0.0), 1.0)
                    third = min(max(((bx - ax) * dy - dx * (by - ay)) / area, 0.0), 1.0 - second)
                    # What is linear on the picture is not on the triangle: weights over depth are.
                    wb, wc = second * bw, third * cw
                    total = (1.0 - second - third) * aw + wb + wc
                    weights[y, x, 0], weights[y, x, 1] = wb / total, wc / total
