"""Flat outlines as SVG: the letters, shapes and marks of a piece as they are set, before any depth.

Coordinates are px of the canvas, y down from its top left, as SVG has them. Each block is a group
with its id, each letter or part a path filled by the nonzero rule with the colour of its face.
"""

import math
from xml.sax.saxutils import quoteattr

import numpy as np

from halvex.core.assets import SHIPPED, Assets
from halvex.core.lettering import set_block
from halvex.core.optics.colour import linear_to_srgb
from halvex.core.optics.material import linear_albedo
from halvex.core.piece.model import Piece
from halvex.core.piece.resolving import PartMaterial, resolve
from halvex.core.piece.turning import rotation

DIGITS = 3


def flat_svg(piece: Piece, assets: Assets = SHIPPED) -> bytes:
    """The outlines of all blocks that are shown. Blocks' own turns are seen from the front. Raises
    LetteringError."""
    canvas = piece.canvas
    unit = "px" if canvas.unit == "px" else "in"
    size = [side if unit == "px" else side / canvas.ppi for side in (canvas.width, canvas.height)]
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]:g}{unit}" '
        f'height="{size[1]:g}{unit}" viewBox="0 0 {canvas.width} {canvas.height}">',
        f"<title>{_text(piece.name)}</title>",
    ]
    for resolved in resolve(piece, assets).blocks:
        block = resolved.block
        turn = rotation(block.place.turn)[:2, :2]
        middle = np.array([canvas.width / 2 + block.place.x, canvas.height / 2 - block.place.y])
        lines.append(f"<g id={quoteattr(block.id)}>")
        for letter in set_block(block, px_scale=4.0, assets=assets).letters:
            colour = _colour(letter.material or resolved.materials[0])
            rings = [ring @ turn.T * (1, -1) + middle for ring in letter.rings]
            lines.append(
                f'<path fill="{colour}" d="{"".join(_ring(ring) for ring in rings)}">'
                f"<title>{_text(letter.outline.name)}</title></path>"
            )
        lines.append("</g>")
    return "\n".join([*lines, "</svg>", ""]).encode()


def _ring(ring: np.ndarray) -> str:
    corners = [f"{_number(x)} {_number(y)}" for x, y in ring.tolist()]
    return f"M{'L'.join(corners)}Z"


def _number(value: float) -> str:
    return f"{round(value, DIGITS) + 0.0:.{DIGITS}f}".rstrip("0").rstrip(".") if math.isfinite(value) else "0"


def _text(value: str) -> str:
    return value.replace("&", "&amp;").replace("<", "&lt;")


def _colour(material: PartMaterial) -> str:
    display = linear_to_srgb(np.clip(linear_albedo(material), 0.0, 1.0))
    red, green, blue = np.round(np.asarray(display) * 255).astype(int).tolist()
    return f"#{red:02x}{green:02x}{blue:02x}"
