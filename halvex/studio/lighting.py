"""Setups that follow their piece: lamps and surroundings fitted anew when what they light has changed."""

import re
from collections.abc import Sequence

from halvex.core.lettering import LetteringError
from halvex.core.piece import Lettering, Piece
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.form import Bevel, Form
from halvex.core.piece.light import FittedSetup, Light
from halvex.core.piece.material import Metal, Surface
from halvex.core.piece.resolving import resolve
from halvex.core.piece.view import Turn, View
from halvex.core.scene.setups import fitting_setup, lit_by
from halvex.studio.assets import assets
from halvex.studio.edits import Edit

# Changes after which lamps and surroundings are somebody's own; switching lamps off and on is none.
BY_HAND = re.compile(r"/light/(lamps|surround)(?!/\d+/on$)(/|$)")


def fitted(piece: Piece) -> Piece:
    """The piece with the light of its setup as the piece stands; the same piece where nothing changes, or
    where its words cannot be set."""
    setup = piece.light.setup
    if setup is None or not setup.follows:
        return piece
    try:
        light = lit_by(piece.light, setup, resolve(piece, assets()))
    except LetteringError:
        return piece
    return piece if light == piece.light else piece.model_copy(update={"light": light})


def _is_by_hand(edit: Edit) -> bool:
    return edit.op != "alone" and BY_HAND.match(edit.path) is not None


def lit_anew(piece: Piece, edits: Sequence[Edit], *, moving: bool) -> Piece:
    """A piece after edits, its light fitted anew; while the hand moves it stays, as surroundings take longer
    to make than a frame. A setup whose lamps were changed by hand follows no more."""
    setup = piece.light.setup
    if setup is not None and setup.follows and any(_is_by_hand(edit) for edit in edits):
        kept = piece.light.model_copy(update={"setup": setup.model_copy(update={"follows": False})})
        return piece.model_copy(update={"light": kept})
    return piece if moving else fitted(piece)


def lit_for_its_material(piece: Piece) -> Piece:
    """A piece under the setup that suits what its lettering is made of. Raises LetteringError."""
    resolved = resolve(piece, assets())
    setup = FittedSetup(name=fitting_setup(resolved))
    return piece.model_copy(update={"light": lit_by(piece.light, setup, resolved)})


def new_piece() -> Piece:
    """What a new piece starts as: a word that leaves room around it, with body, lit for its material."""
    words = Lettering(
        size=178,
        form=Form(depth=70, bevel=Bevel(profile="ovolo", width=9, height=9)),
        surface=Surface(face=Metal(metal="gold", roughness=0.1)),
    )
    piece = Piece(
        blocks=(words,),
        view=View(turn=Turn(x=-8, y=-10)),
        light=Light(tone="rich"),
        backdrop=Backdrop(colour="#0d2b34"),
    )
    return lit_for_its_material(piece)
