"""The paints of a piece as a palette: tones that follow their paint, all of them shifted at once, and a
colour made into a paint.

Tones are taken in OKLCh, as sign-writers take them: the same hue, lighter or darker by even steps, a little
less colourful towards both ends, and never black.
"""

import numpy as np
from slugify import slugify

from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.oklab import linear_to_oklab
from halvex.core.optics.typed_colour import hex_of_oklch
from halvex.core.piece import Piece
from halvex.core.piece.paints import NamedPaint

# Lightness of one step, and how dark and how light a tone may be.
STEP = 0.055
DARKEST, LIGHTEST = 0.18, 0.97
# By how much of its chroma a tone is duller for each step.
DULLER = 0.03
# The trade's tones of one paint: a bevel that catches light, a return in shade, a keyline that holds the
# shape.
TONAL_SET = (("bevel", 1.5), ("return", -2.0), ("shade", -4.0), ("keyline", -6.0))


def oklch_of(colour: str) -> tuple[float, float, float]:
    """(lightness, chroma, hue in radians) of a colour #rrggbb."""
    lightness, a, b = linear_to_oklab(hex_to_linear(colour))
    return float(lightness), float(np.hypot(a, b)), float(np.arctan2(b, a))


def tone_of(colour: str, steps: float) -> str:
    """A colour so many steps lighter, or darker.

    >>> tone_of("#c8402f", 0)
    '#c8402f'
    """
    lightness, chroma, hue = oklch_of(colour)
    low, high = min(DARKEST, lightness), max(LIGHTEST, lightness)
    return hex_of_oklch(
        min(max(lightness + STEP * steps, low), high), chroma * max(1 - DULLER * abs(steps), 0), hue
    )


def toned_anew(piece: Piece) -> Piece:
    """The piece with the colour of each tone as its paint has it now."""
    colours = {paint.id: paint.colour for paint in piece.paints}
    paints = tuple(
        paint
        if paint.of is None
        else paint.model_copy(update={"colour": tone_of(colours[paint.of], paint.steps)})
        for paint in piece.paints
    )
    return piece if paints == piece.paints else piece.model_copy(update={"paints": paints})


def shifted(piece: Piece, lightness: float, chroma: float, hue_deg: float) -> Piece:
    """The piece with all its paints shifted, but for those that are held: lightness added, chroma
    multiplied, hue turned."""
    paints = []
    for paint in piece.paints:
        if not paint.held and paint.of is None:
            was_lightness, was_chroma, hue = oklch_of(paint.colour)
            colour = hex_of_oklch(
                min(max(was_lightness + lightness, 0), 1), was_chroma * chroma, hue + np.radians(hue_deg)
            )
            paint = paint.model_copy(update={"colour": colour})
        paints.append(paint)
    return piece.model_copy(update={"paints": tuple(paints)})


def fresh_id(piece: Piece, name: str) -> str:
    """An id for a paint of this name, unlike those that are taken."""
    taken, plain = {paint.id for paint in piece.paints}, slugify(name, max_length=34) or "paint"
    return next(
        ident for ident in (plain, *(f"{plain}-{number}" for number in range(2, 10**4))) if ident not in taken
    )


def with_tonal_set(piece: Piece, paint: NamedPaint) -> Piece:
    """The piece with the trade's tones of a paint beside it."""
    paints = [*piece.paints]
    for name, steps in TONAL_SET:
        whole = f"{paint.name} {name}"[:40]
        ident = fresh_id(piece.model_copy(update={"paints": tuple(paints)}), whole)
        paints.append(
            NamedPaint(id=ident, name=whole, colour=tone_of(paint.colour, steps), of=paint.id, steps=steps)
        )
    return piece.model_copy(update={"paints": tuple(paints)})
