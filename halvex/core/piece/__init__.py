"""The document: models, limits, units and reading."""

from halvex.core.piece.lettering import Lettering
from halvex.core.piece.light import Lamp
from halvex.core.piece.model import Piece, json_schema, to_json
from halvex.core.piece.reading import PieceError, piece_from_json, piece_from_values

__all__ = [
    "Lamp",
    "Lettering",
    "Piece",
    "PieceError",
    "json_schema",
    "piece_from_json",
    "piece_from_values",
    "to_json",
]
