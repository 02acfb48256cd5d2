"""Guides over a canvas: lines that things are set by, and that a moved block snaps to.

Shares are of the canvas' sides. Safe areas are those of EBU R 95 for 16:9 pictures (action safe 3.5
%, graphics safe 5 % from each side), for sheets of paper a margin of 3 mm, the bleed that printers
commonly ask for.
"""

from dataclasses import dataclass
from typing import Literal

from halvex.core.piece.canvases import CANVASES
from halvex.core.piece.model import Canvas
from halvex.core.piece.quantity import px_per_unit

Family = Literal["middle", "thirds", "safe", "spine"]
ACTION_SAFE, GRAPHICS_SAFE = 0.035, 0.05
BLEED_MM = 3.0


@dataclass(frozen=True)
class Guide:
    """One line: across the canvas (`way` "level", at a y) or up it ("upright", at an x), px from
    the canvas' middle."""

    family: Family
    way: Literal["level", "upright"]
    at: float


def guides(canvas: Canvas) -> list[Guide]:
    """All guides of a canvas."""
    half_w, half_h = canvas.width / 2, canvas.height / 2
    found = [Guide("middle", "upright", 0.0), Guide("middle", "level", 0.0)]
    for sign in (-1, 1):
        found += [
            Guide("thirds", "upright", sign * canvas.width / 6),
            Guide("thirds", "level", sign * canvas.height / 6),
        ]
    bleed = BLEED_MM * px_per_unit("mm", canvas.ppi)
    insets = (
        [(bleed, bleed)]
        if canvas.unit != "px"
        else [(share * canvas.width, share * canvas.height) for share in (ACTION_SAFE, GRAPHICS_SAFE)]
    )
    for across, up in insets:
        for sign in (-1, 1):
            found += [
                Guide("safe", "upright", sign * (half_w - across)),
                Guide("safe", "level", sign * (half_h - up)),
            ]
    for named in CANVASES:
        if named.spine and named.canvas == canvas:
            found += [Guide("spine", "upright", sign * named.spine / 2) for sign in (-1, 1)]
    return found
