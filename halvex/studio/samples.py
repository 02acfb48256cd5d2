"""The demo pieces: lettering from Port Sorrel, a harbour town getting ready for its Lantern Regatta."""

from pathlib import Path

from halvex.core.piece import Piece, piece_from_json
from halvex.studio.store import create_piece, list_pieces

FOLDER = Path(__file__).parent / "demo"


def demo_names() -> list[str]:
    return sorted(path.stem for path in FOLDER.glob("*.json"))


def demo_piece(name: str) -> Piece:
    """A demo piece by its name. Raises KeyError."""
    if name not in demo_names():
        raise KeyError(name)
    return piece_from_json((FOLDER / f"{name}.json").read_text())


def fill_empty_store() -> None:
    """Put the demo pieces into a store that has none."""
    if not list_pieces() and not list_pieces(deleted=True):
        # The regatta's cover is stored last, so that it stands first in the list.
        for name in sorted(demo_names(), key=lambda name: name == "lantern-regatta"):
            create_piece(demo_piece(name), "From the demo")
