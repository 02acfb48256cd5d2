"""Pictures that a stage has finished: an export of the same piece at the same size is one of them."""

import threading
from collections import OrderedDict

from halvex.core.finish.picture import Picture
from halvex.core.piece import Piece, to_json
from halvex.core.piece.digest import digest

# A picture of 1280 × 720 takes 22 MB; the newest is kept however large it is.
MOST_BYTES = 200_000_000

_lock = threading.Lock()
_pictures: OrderedDict[tuple[str, int, int], Picture] = OrderedDict()


def keep(piece: Piece, picture: Picture) -> None:
    """Keep a picture of a piece, over its backdrop; those that were kept long ago go."""
    height, width = picture.display.shape[:2]
    with _lock:
        _pictures[digest(to_json(piece)), width, height] = picture
        while len(_pictures) > 1 and sum(_bytes_of(other) for other in _pictures.values()) > MOST_BYTES:
            _pictures.popitem(last=False)


def find(piece: Piece, width: int, height: int) -> Picture | None:
    """The picture of a piece at a size in px, where a stage has finished it."""
    with _lock:
        return _pictures.get((digest(to_json(piece)), width, height))


def _bytes_of(picture: Picture) -> int:
    return picture.display.nbytes + picture.linear.nbytes
