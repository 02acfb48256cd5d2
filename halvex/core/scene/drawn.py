"""Layers that are drawn before they are laid: tiles of blocks, meshes of colours and blurred pictures become
pictures."""

from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any, Generic, NamedTuple, TypeVar

from halvex.core.assets import Assets
from halvex.core.lettering import LetteringError, set_block
from halvex.core.optics.texels import Pyramid
from halvex.core.piece.mesh import Mesh
from halvex.core.piece.part import Part
from halvex.core.piece.picture import Picture
from halvex.core.piece.resolving import ResolvedPiece
from halvex.core.piece.source import parts_in
from halvex.core.piece.tile import Tile
from halvex.core.scene.meshes import picture_of_mesh
from halvex.core.scene.picture import blurred, checker, open_or_checker
from halvex.core.scene.tiles import tile_of

P = TypeVar("P", bound=Part)
Drawable = Tile | Mesh | Picture
_KINDS: tuple[type[Drawable], ...] = (Tile, Mesh, Picture)
# A layer as a picture, the name and the texels of that.
Made = tuple[Picture, str, Pyramid]


class Drawn(NamedTuple, Generic[P]):
    """Materials or effects, all that is to be drawn in them become pictures; these by name; and the names of
    all pictures in them, each once, in order."""

    parts: list[P]
    made: dict[str, Pyramid]
    pictures: tuple[str, ...]


def with_drawn(parts: Sequence[P], piece: ResolvedPiece) -> Drawn[P]:
    """Draw what is to be drawn in materials or effects."""
    made: dict[str, Pyramid] = {}
    replaced = list(parts)
    layers = [layer for part in parts for layer in _layers_in(part)]
    if any(map(_is_drawn, layers)):

        def as_picture(layer: Drawable) -> Picture:
            picture, name, pyramid = _drawn(layer, piece)
            made[name] = pyramid
            return picture

        replaced = [_replaced(part, as_picture) for part in parts]
        layers = [layer for part in replaced for layer in _layers_in(part)]
    named = dict.fromkeys(layer.picture for layer in layers if isinstance(layer, Picture))
    return Drawn(replaced, made, tuple(named))


# Most parts of a piece stay from edit to edit.
@lru_cache(maxsize=1_000)
def _layers_in(part: Part) -> tuple[Drawable, ...]:
    return tuple(parts_in(part, _KINDS))


def _is_drawn(value: Any) -> bool:
    return isinstance(value, Tile | Mesh) or (isinstance(value, Picture) and value.blur > 0)


def _drawn(layer: Drawable, piece: ResolvedPiece) -> Made:
    shared: dict[str, Any] = layer.model_dump(include={"span", "x", "y", "strength", "masks", "blend"})
    match layer:
        case Tile():
            name, pyramid = _tile(layer, piece)
            shared |= {"fit": "natural", "edges": "tiled", "turn": layer.bearing}
            scale = 100 * layer.size / pyramid.sizes[0][0]
        case Mesh():
            name, pyramid = picture_of_mesh(layer)
            shared |= {"fit": "stretch", "edges": "held", "x": 0.0, "y": 0.0, "turn": 0.0}
            scale = 100.0
        case Picture():
            name, pyramid, finer = _blurred(layer, piece.assets)
            shared |= layer.model_dump(include={"fit", "edges", "turn"})
            # One px of the picture as it was is one of the canvas.
            scale = layer.scale * (finer if layer.fit == "natural" else 1.0)
    # A picture's own limits are those of what people type.
    return Picture.model_construct(picture=name, scale=scale, blur=0.0, **shared), name, pyramid


def _tile(tile: Tile, piece: ResolvedPiece) -> tuple[str, Pyramid]:
    blocks = {block.id: block for block in piece.named}
    if tile.block in blocks:
        try:
            ink = set_block(blocks[tile.block], assets=piece.assets)
            return tile_of(ink, tile.colour, tile.spacing / 100, tile.staggered)
        except LetteringError:
            # Words without ink, or of a typeface that is gone: the checker stays.
            pass
    return "tile", checker()


def _blurred(picture: Picture, assets: Assets) -> tuple[str, Pyramid, float]:
    """(a name by what it shows, the blurred picture, how many texels of the one as it was are one of it)."""
    file = assets.pictures.get(picture.picture)
    if file is None:
        return "missing", checker(), 1.0
    pyramid = blurred(file, picture.blur / 100, picture.edges)
    finer = open_or_checker(file).sizes[0][0] / pyramid.sizes[0][0]
    return f"blurred-{file.digest}-{picture.blur:g}-{picture.edges}", pyramid, finer


def _replaced(value: Any, as_picture: Callable[[Drawable], Picture]) -> Any:
    if _is_drawn(value):
        return as_picture(value)
    if isinstance(value, tuple):
        return tuple(_replaced(held, as_picture) for held in value)
    if isinstance(value, Part):
        fields = type(value).model_fields
        return value.model_copy(update={name: _replaced(getattr(value, name), as_picture) for name in fields})
    return value
