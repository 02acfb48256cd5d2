"""Patterns of an SVG file as pictures that are tiled (SVG 2, 14.3).

A tile is drawn once, as large as it needs to be on the mark, and laid over the box of its part so that tiles
lie where they lie in the file. Tiles may be turned and scaled along their sides, but not sheared or mirrored.
"""

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from xml.etree.ElementTree import Element

import numpy as np
from fontTools.misc.transform import Identity, Transform
from numpy.typing import NDArray
from PIL import Image, ImageColor

from halvex.core.lettering.filling import ink_cover
from halvex.core.lettering.marks import part_outline
from halvex.core.lettering.svg.elements import chain_of, first_of, tag_of
from halvex.core.lettering.svg.gradients import Box
from halvex.core.lettering.svg.measures import fit_of, length_of, numbers_of, transform_of
from halvex.core.piece.mark import MarkPart
from halvex.core.piece.picture import Picture

# Px of a tile's longer side for each px that it is long on the mark; at least and at most.
TEXELS_PER_PX, FEWEST_TEXELS, MOST_TEXELS = 4, 64, 512
# Sides that are less than so far from a right angle count as at one, and tiles this much longer than wide, or
# so large or small on the mark, are none.
SQUARE = 0.02
MOST_DRAWN_OUT = 200.0
LEAST_PX, MOST_PX = 0.05, 20_000.0


class PatternError(ValueError):
    """A pattern that cannot be tiled; the text says why."""


@dataclass(frozen=True)
class Tile:
    """One tile of a pattern: what is drawn in it stands in `element`; contents takes that to texels from the
    upper left, of which there are width × height, and viewport is what shares of lengths in it are of. A
    texel is so many px long on the mark, where the tile stands turned by `turn` degrees about its middle, in
    px of the mark, y up."""

    element: Element
    contents: Transform
    viewport: tuple[float, float]
    width: int
    height: int
    px_per_texel: float
    turn: float
    middle: tuple[float, float]


def tile_of(
    element: Element,
    named: Mapping[str | None, Element],
    *,
    drawn: Box,
    viewport: tuple[float, float],
    matrix: Transform,
) -> Tile:
    """The tile that a pattern describes.

    drawn: the bounding box of the path (left, top, right, bottom) in its own units, y down; matrix takes
    these to px of the mark, y down. Raises PatternError, ValueError for numbers that cannot be read.
    """
    chain = chain_of(element, named, "pattern")
    filled = next((each for each in chain if any(tag_of(child) for child in each)), None)
    if filled is None:
        raise PatternError("it has no tile")
    wide, high = drawn[2] - drawn[0], drawn[3] - drawn[1]
    by_box = first_of(chain, "patternUnits", "objectBoundingBox") == "objectBoundingBox"
    whole = (1.0, 1.0) if by_box else viewport
    x, y, long, tall = (
        length_of(first_of(chain, name, "0"), whole[axis], 0.0)
        for name, axis in (("x", 0), ("y", 1), ("width", 0), ("height", 1))
    )
    if by_box:
        x, y, long, tall = drawn[0] + x * wide, drawn[1] + y * high, long * wide, tall * high
    if not (long > 0 and tall > 0):
        raise PatternError("its tile has no size")
    # To px of the mark, y up.
    own = transform_of(first_of(chain, "patternTransform", ""))
    onto = Identity.scale(1, -1).transform(matrix).transform(own)
    across, down = np.array([onto[0], onto[1]]) * long, np.array([onto[2], onto[3]]) * tall
    sides = float(np.hypot(*across)), float(np.hypot(*down))
    if not (min(sides) > LEAST_PX and max(sides) < min(MOST_PX, MOST_DRAWN_OUT * min(sides))):
        raise PatternError("its tile is too large, too small or too thin")
    is_mirrored = across[0] * down[1] - across[1] * down[0] > 0
    if is_mirrored or abs(float(across @ down)) > SQUARE * sides[0] * sides[1]:
        raise PatternError("its transforms shear or mirror it")
    width, height = _texels(sides)
    box = first_of(chain, "viewBox", "")
    # Contents begin where the tile does.
    if box:
        inside = fit_of(box, first_of(chain, "preserveAspectRatio", "") or None, long, tall)
        seen = numbers_of(box)[2], numbers_of(box)[3]
    elif first_of(chain, "patternContentUnits", "userSpaceOnUse") == "objectBoundingBox":
        inside, seen = Identity.scale(wide, high), (1.0, 1.0)
    else:
        inside, seen = Identity, viewport
    return Tile(
        filled,
        Identity.scale(width / long, height / tall).transform(inside),
        seen,
        width,
        height,
        max(sides) / max(width, height),
        math.degrees(math.atan2(across[1], across[0])),
        onto.transformPoint((x + long / 2, y + tall / 2)),
    )


def _texels(sides: tuple[float, float]) -> tuple[int, int]:
    """How many texels wide and high a tile is drawn whose sides are so many px long: enough, and so many that
    they are as near to square as can be, as else tiles would stray from their places."""
    least = round(min(max(TEXELS_PER_PX * max(sides), FEWEST_TEXELS), MOST_TEXELS / 2))
    share = min(sides) / max(sides)
    longer = min(
        range(least, 2 * least), key=lambda count: abs(count * share - max(round(count * share), 1)) / count
    )
    shorter = max(round(longer * share), 1)
    return (longer, shorter) if sides[0] >= sides[1] else (shorter, longer)


def drawn_tile(tile: Tile, parts: Sequence[MarkPart]) -> tuple[bytes, bool]:
    """(a tile with these parts drawn in it as a PNG file, whether anything in it is clear). The parts are in
    texels and painted in one colour each; colours are mixed as encoded, as in the file."""
    light = np.zeros((tile.height, tile.width, 3))
    cover = np.zeros((tile.height, tile.width, 1))
    for part in parts:
        outline = part_outline(part, 1.0)
        if outline is None:
            continue
        # Y is up in outlines, and down in the tile.
        rings = [ring * outline[1] + (0.0, tile.height) for ring in outline[0].rings]
        own = ink_cover(rings, tile.width, tile.height)[..., None]
        light = light * (1 - own) + own * np.array(ImageColor.getrgb(_colour_of(part))[:3])
        cover = cover * (1 - own) + own
    pixels: NDArray[np.float64] = np.dstack([light / np.maximum(cover, 1e-6), 255 * cover])
    out = io.BytesIO()
    Image.fromarray(np.clip(pixels.round(), 0, 255).astype(np.uint8)).save(out, "PNG")
    return out.getvalue(), bool(cover.min() < 1)


def laid(tile: Tile, picture: str, box: Box) -> Picture:
    """The picture of a tile as a layer over the box of a part (left, bottom, right, top) in px of the mark, y
    up: tiled from where the tile nearest to the box's middle stands."""
    half = np.maximum([box[2] - box[0], box[3] - box[1]], 1e-6) / 2
    middle = np.array([box[0] + box[2], box[1] + box[3]]) / 2
    angle = math.radians(tile.turn)
    axes = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    sides = tile.px_per_texel * np.array([tile.width, tile.height])
    off = axes @ (np.array(tile.middle) - middle)
    off -= sides * np.round(off / sides)
    x, y = 100 * (axes.T @ off) / (2 * half)
    # In shares of the box, so that the pattern grows with the mark.
    share = max(tile.width / (2 * half[0]), tile.height / (2 * half[1])) * tile.px_per_texel
    return Picture(
        picture=picture,
        span="letter",
        fit="fit",
        edges="tiled",
        scale=float(np.clip(100 * share, 0.1, 10_000)),
        turn=tile.turn,
        x=float(np.clip(x, -1000, 1000)),
        y=float(np.clip(y, -1000, 1000)),
    )


def _colour_of(part: MarkPart) -> str:
    colour = getattr(part.material, "colour", "#000000")
    return colour if isinstance(colour, str) else str(colour.base)
