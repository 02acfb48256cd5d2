"""A small piece, its film and views of it, for the tests of drafts, films and light transport."""

from collections.abc import Mapping

from halvex.core.piece import Piece, piece_from_values
from halvex.core.render.film import Film, light_levels
from halvex.core.render.world import World

VIEWS: Mapping[str, Mapping[str, object]] = {
    "central": {"turn": {"x": -8, "y": -20}},
    "from near by, shifted": {
        "turn": {"x": 35, "y": 50, "z": 15},
        "focal_length": 18,
        "shift_x": 20,
        "zoom": 1.4,
    },
    "from behind": {"turn": {"y": 165}},
    "parallel": {"turn": {"x": -25, "y": 30}, "projection": "parallel"},
    "oblique": {"projection": "oblique"},
}


def small_piece(**changes: object) -> Piece:
    values: dict[str, object] = {
        "canvas": {"width": 160, "height": 90},
        "blocks": [{"words": "Re", "size": 80, "form": {"depth": 20, "bevel": {"width": 3, "height": 3}}}],
        "view": {"turn": {"x": -8, "y": -20}},
        **changes,
    }
    return piece_from_values(values)


def new_film(world: World, width: int = 160, height: int = 90) -> Film:
    return Film(width, height, len(light_levels(world)))


def piece_of(colour: object, kind: str = "flat", **block: object) -> dict:
    """A piece with a plain rectangle of 200 × 100 px whose face has this colour."""
    name = "tint" if kind == "metal" else "colour"
    return {
        "canvas": {"width": 320, "height": 180},
        "backdrop": {"ground": "none", "colour": "#000000"},
        "view": {"projection": "parallel"},
        "blocks": [
            {
                "kind": "shape",
                "shape": "rectangle",
                "width": 200,
                "height": 100,
                "form": {"depth": 10, "bevel": {"width": 0, "height": 0}},
                "surface": {"face": {"kind": kind, name: colour}},
                **block,
            }
        ],
    }
