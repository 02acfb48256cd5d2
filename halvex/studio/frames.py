"""Frames: what a window wants to see, how large that is drawn, and what goes with each picture of it."""

import io
import math
import time
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from halvex.core.piece import Piece

LARGEST_STAGE_PX = 2600
DRAFT_QUALITY = 90


@dataclass(frozen=True)
class Wanted:
    """What the window shows: a piece, whose id is `ident`, at a revision, at a size in px, and whether the
    hand is moving; of the canvas, a part 1 / zoom as wide and high, whose upper left is at (left, top);
    `bare` for the picture without the piece's effects."""

    piece: Piece
    revision: int
    seq: int
    width: int
    height: int
    moving: bool
    ident: str = ""
    zoom: float = 1.0
    left: float = 0.0
    top: float = 0.0
    bare: bool = False

    @property
    def part(self) -> tuple[float, float]:
        """Width and height of the part in px of the canvas."""
        return self.piece.canvas.width / self.zoom, self.piece.canvas.height / self.zoom


def scale_of(wanted: Wanted, size: tuple[int, int]) -> float:
    """Px of the picture per px of the canvas."""
    return size[0] / wanted.part[0]


def fineness(scale: float) -> float:
    """The px_scale that bodies are built for: up to twice the picture's, by powers of two, so that
    quick drafts and whole ones, windows of other sizes and typefaces that were only looked at share
    them."""
    return 2.0 ** math.ceil(math.log2(scale))


def size_of(wanted: Wanted, fit: float) -> tuple[int, int]:
    """Width and height of the picture, `fit` px of it per px of the canvas."""
    width, height = wanted.part
    return max(round(width * fit), 1), max(round(height * fit), 1)


def frame_header(
    wanted: Wanted,
    stage: str,
    size: tuple[int, int],
    started: float,
    samples: float = 0,
) -> dict[str, Any]:
    """What goes with a frame."""
    return {
        "type": "frame",
        "seq": wanted.seq,
        "piece": wanted.ident,
        "revision": wanted.revision,
        "zoom": wanted.zoom,
        "left": wanted.left,
        "top": wanted.top,
        "stage": stage,
        "samples": round(samples, 1),
        "width": size[0],
        "height": size[1],
        "ms": round((time.perf_counter() - started) * 1000),
        "media": "image/png" if stage == "clean" else "image/jpeg",
    }


def encoded(pixels: NDArray[np.uint8], *, lossless: bool) -> bytes:
    """A frame's picture as a file: PNG, or JPEG."""
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    if lossless:
        image.save(out, "PNG", compress_level=1)
    else:
        image.save(out, "JPEG", quality=DRAFT_QUALITY, subsampling=0)
    return out.getvalue()
