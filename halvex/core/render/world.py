"""The world: a scene with its trees, as the one argument that every kernel takes."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.eight import LANES
from halvex.core.optics.material import Materials
from halvex.core.render.beads import Beads
from halvex.core.render.glows import Glows
from halvex.core.render.lanes import NODE_FLOATS
from halvex.core.render.sampler import DIMENSIONS
from halvex.core.render.tree import NOWHERE
from halvex.core.scene.backing import Backing
from halvex.core.scene.camera import Camera
from halvex.core.scene.ground import Ground
from halvex.core.scene.lamps import MOST_LIGHTS, Lamps
from halvex.core.scene.surround import Surround

# Each level of a tree leaves up to seven siblings on the stack: those of the tree over the instances, then
# those of a body's (tree.py).
STACK_DEPTH = 1024
# Leaves that the rays of one pixel are tried against without a search (beams.py).
MOST_LEAVES = 24
# Bytes that a processor's cache holds together.
CACHE_LINE = 64


class Scratch(NamedTuple):
    """One thread's working memory: a traversal stack (STACK_DEPTH,) int64; results of eight tests
    (3 · LANES,) float32 with a view of the same bits as int32; the leaves that a pixel may show
    (MOST_LEAVES, 3) int32, bits of a distance, instance and packet; the sampler's numbers
    (DIMENSIONS · 2 · LANES,), in rows of eight, and which block of samples each two rows are of,
    drawn (DIMENSIONS,); how often a path's last surface sampled each light in the mean, times
    (MOST_LIGHTS,) (choosing.py)."""

    stack: np.ndarray
    lanes: np.ndarray
    bits: np.ndarray
    leaves: np.ndarray
    numbers: np.ndarray
    drawn: np.ndarray
    times: np.ndarray


def on_lines(numbers: NDArray[np.float32]) -> NDArray[np.float32]:
    """A copy (n,) that begins with a line of the processor's cache: no row of eight lies across two
    of them, which would take twice as long to read."""
    room = np.empty(numbers.nbytes + CACHE_LINE, np.uint8)
    begin = -room.ctypes.data % CACHE_LINE
    copy = room[begin : begin + numbers.nbytes].view(numbers.dtype)
    copy[:] = numbers
    return copy


def make_scratch() -> Scratch:
    lanes = on_lines(np.zeros(3 * LANES, np.float32))
    numbers, drawn = on_lines(np.zeros(DIMENSIONS * 2 * LANES, np.float32)), np.full(DIMENSIONS, -1, np.int32)
    return Scratch(
        np.zeros(STACK_DEPTH, np.int64),
        lanes,
        lanes.view(np.int32),
        np.zeros((MOST_LEAVES, 3), np.int32),
        numbers,
        drawn,
        np.zeros(MOST_LIGHTS, np.float32),
    )


class Bodies(NamedTuple):
    """Trees and triangles of several bodies end to end, numbered through.

    corners, normals (t, 9), uv (t, 6) in px of triangles in the body's frame; part (t,); packets (p ·
    PACKET_FLOATS,) the same corners as lanes.py reads them, first (p,): a packet's first triangle;
    boxes, child: the trees.
    """

    corners: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    part: np.ndarray
    packets: np.ndarray
    first: np.ndarray
    boxes: np.ndarray
    child: np.ndarray


class Letters(NamedTuple):
    """Bodies and their instances.

    Per instance its body's root (i,) and span (i, 2), its first triangle and the one after its
    last. A point of a body is matrix (i, 3, 3) · point + offset (i, 3) in the lettering's frame,
    and back by inverse (i, 3, 3); straight (i,): it is neither turned nor scaled; unit (i,): px of
    the body per px. place_boxes, place_child: the tree over the instances, in the lettering's
    frame; error: how far in px a point computed on a triangle may lie off it (`error_bound`).
    """

    bodies: Bodies
    error: np.float32
    root: np.ndarray
    span: np.ndarray
    offset: np.ndarray
    matrix: np.ndarray
    inverse: np.ndarray
    straight: np.ndarray
    unit: np.ndarray
    place_boxes: np.ndarray
    place_child: np.ndarray


class Frames(NamedTuple):
    """The frame of each block, and last that of the ground: a point of it is turn (f, 3, 3) · point
    + origin (f, 3) in the world. Textures and brushes lie in them."""

    turn: np.ndarray
    origin: np.ndarray


class World(NamedTuple):
    """Kernel arrays. Per instance materials_of (i, parts), frame_of (i,), the frame of its block, and
    spans (i, PLANES, 6), the boxes that layers are laid over: middle x, y, half width, half height,
    front z, depth; per triangle extents (t, 4) as in solids/extents.py, none where no layer follows the
    body; turn (3, 3) takes the lettering's frame to the world; key: the direction of the key lamp;
    has_glass: shadow rays must look for glass."""

    letters: Letters
    materials_of: np.ndarray
    frame_of: np.ndarray
    spans: np.ndarray
    extents: np.ndarray
    frames: Frames
    turn: np.ndarray
    materials: Materials
    lamps: Lamps
    surround: Surround
    glows: Glows
    beads: Beads
    ground: Ground
    backing: Backing
    camera: Camera
    key: tuple[np.float32, np.float32, np.float32]
    flat_gain: np.float32
    has_glass: bool


def letters_bounds(letters: Letters) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
    """The lowest and the highest corner (3,) of all letters, in the lettering's frame; None without any."""
    root = letters.place_boxes[:NODE_FLOATS].reshape(2, 3, LANES)[..., letters.place_boxes[:LANES] < NOWHERE]
    return (root[0].min(axis=1), root[1].max(axis=1)) if root.size else None


def projections_of(letters: Letters, projection: NDArray[np.float64]) -> NDArray[np.float64]:
    """From each instance's body to the picture (i, 4, 4); `projection` (4, 4) is the camera's
    `lettering_to_picture`."""
    transforms = np.zeros((len(letters.root), 4, 4))
    transforms[:, :3, :3], transforms[:, :3, 3], transforms[:, 3, 3] = letters.matrix, letters.offset, 1.0
    return np.ascontiguousarray(projection @ transforms)
