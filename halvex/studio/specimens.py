"""Specimens: a block's own words in another typeface, as a quick solid in the block's own form and light."""

import os
import threading
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass

from halvex.core.advice.fitness import misfits
from halvex.core.advice.stems import thinnest
from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.picture import Picture
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering import LetteringError, set_block
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.block import Place
from halvex.core.piece.digest import digest
from halvex.core.piece.lettering import Along, Lettering
from halvex.core.piece.model import Canvas, Piece
from halvex.core.piece.resolving import resolve
from halvex.core.piece.source import base_of
from halvex.core.piece.view import View
from halvex.core.render.assembling import make_world
from halvex.core.scene import SceneError, build_scene
from halvex.core.solids import SolidError
from halvex.core.solids.inks import single_inks
from halvex.studio.assets import assets

WIDTH, HEIGHT = 272, 64
# Of the words, so many characters are shown: the first word or two.
MOST_SHOWN = 12
MARGIN = 1.12
# Longer words are not built ahead: all typefaces of them together would push out what the picture needs.
MOST_AHEAD = 24
NICENESS = 15


@dataclass(frozen=True)
class Fit:
    """The thinnest stem of a block's words in a typeface, in px, its letter, and what is too thin
    for the form; "" if nothing is."""

    stem: float
    letter: str
    text: str
    wanted: float


def _give_way() -> None:
    """Let this thread run behind all others: Linux ranks threads one by one (setpriority(2))."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)


_ahead = ThreadPoolExecutor(1, thread_name_prefix="ahead", initializer=_give_way)
# The block, its typeface apart, that was asked for last.
_looked_at = ""


def in_typeface(block: Lettering, typeface: str) -> Lettering:
    """The first words of a block in another typeface, on one straight line; what was set for single
    letters is omitted."""
    words = next((line.strip() for line in block.words.split("\n") if line.strip()), "")
    shown = words if len(words) <= MOST_SHOWN else words[:MOST_SHOWN].rsplit(" ", 1)[0]
    return block.model_copy(
        update={
            "words": shown,
            "typeface": typeface,
            "along": Along(),
            "letters": {},
            "axes": {},
            "features": {},
            "place": Place(),
        }
    )


def specimen(piece: Piece, block: Lettering, typeface: str) -> Picture:
    """A small draft, the words as large as they fit. Raises LetteringError, SolidError, SceneError.

    Its outlines are as fine as the canvas' own, so that taking the typeface finds them made.
    """
    shown = in_typeface(block, typeface)
    left, bottom, right, top = set_block(shown, assets=assets()).box
    wide = max((right - left) * MARGIN, (top - bottom) * MARGIN * WIDTH / HEIGHT)
    canvas = Canvas(width=max(round(wide), 16), height=max(round(wide * HEIGHT / WIDTH), 16))
    alone = Piece(
        canvas=canvas,
        blocks=(shown,),
        view=View(),
        light=piece.light,
        backdrop=Backdrop(ground="none", colour=base_of(piece.backdrop.colour)),
    )
    return render_piece(alone, DraftOrder(width=WIDTH, height=HEIGHT, detail=1.0), assets=assets())


def fit(block: Lettering, typeface: str) -> Fit:
    """How the words' thinnest stem in a typeface suits the block's form. Raises LetteringError,
    SolidError."""
    shown = in_typeface(block, typeface)
    if not shown.words:
        raise LetteringError("words", "there are no words to set; type at least one letter")
    thin = thinnest(single_inks(set_block(shown, assets=assets())))
    found = misfits(shown.form, thin)
    text = f"stem {thin.width:.1f} px in {thin.letter}; {found[0].wanted:.1f} px would do" if found else ""
    return Fit(round(thin.width, 2), thin.letter, text, round(found[0].wanted, 2) if found else 0.0)


def build_ahead(piece: Piece, block: Lettering, typeface: str) -> Future[None] | None:
    """Have the bodies of a block in another typeface built in the background: whoever looks at it
    is about to take it.

    What was asked for other words, or another form, before is not built any more.
    """
    global _looked_at
    if len(block.words) > MOST_AHEAD:
        return None
    _looked_at = digest(block.model_dump(mode="json", exclude={"typeface"}))
    return _ahead.submit(_build, piece, block, typeface, _looked_at)


def _build(piece: Piece, block: Lettering, typeface: str, asked: str) -> None:
    if asked != _looked_at:
        return
    taken = piece.model_copy(update={"blocks": (block.model_copy(update={"typeface": typeface}),)})
    # What cannot be built is reported when the typeface is taken.
    with suppress(LetteringError, SolidError, SceneError):
        make_world(build_scene(resolve(taken, assets())))
