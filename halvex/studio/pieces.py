"""The one service that changes pieces: edits, undo, redo, states gone to, marks, copies.

Each change holds its piece's lock from reading the newest state to storing the next one, so that no
two are made from the same state; what is stored is one immediate transaction (store.py). Watchers
hear of it afterwards, outside the lock: a watcher only notes that there is something new, and never
waits.
"""

import threading
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from halvex.core.lettering.svg import PATTERN_NAME, read_svg
from halvex.core.output.bundle import read_bundle
from halvex.core.piece import Piece, to_json
from halvex.studio import store
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.lighting import fitted, lit_anew
from halvex.studio.marks import mark_of
from halvex.studio.pictures import keep as keep_picture
from halvex.studio.pictures import keep_files
from halvex.studio.store import Revision, Sent

Watcher = Callable[[], None]


class Pieces:
    """Changes of pieces, and who hears of them."""

    def __init__(self) -> None:
        self._locks: dict[str, threading.Lock] = defaultdict(threading.Lock)
        self._watchers: dict[str, set[Watcher]] = defaultdict(set)
        self._watching = threading.Lock()

    def watch(self, ident: str, watcher: Watcher) -> None:
        """Have `watcher` called after every change of a piece. It must not wait for anything."""
        with self._watching:
            self._watchers[ident].add(watcher)

    def forget(self, ident: str, watcher: Watcher) -> None:
        with self._watching:
            self._watchers[ident].discard(watcher)
            if not self._watchers[ident]:
                del self._watchers[ident]

    def edit(
        self,
        ident: str,
        edits: list[Edit],
        gesture: str | None = None,
        *,
        moving: bool = False,
        by: Watcher | None = None,
        sent: Sent | None = None,
    ) -> Revision:
        """Edit a piece; returns its new state. Raises PieceError and StoreError; nothing is changed then.

        While the hand is `moving`, a setup that follows waits for it to rest (`settle`).

        `by` is the watcher of whoever asks, which is not called; `sent` is the message that asks, which has
        its effect once, however often it comes.
        """
        with self._changing(ident, by) as head:
            if store.was_carried_out(sent):
                return head
            piece, label = apply_edits(store.piece_of(head), edits, store.before_gesture(head, gesture))
            piece = lit_anew(piece, edits, moving=moving)
            return store.commit(head, piece, label, gesture, sent)

    def settle(self, ident: str, *, by: Watcher | None = None) -> Revision:
        """The hand rests: what waited for that is done, as part of the gesture that led here."""
        with self._changing(ident, by) as head:
            piece = store.piece_of(head)
            settled = fitted(piece) if head.gesture else piece
            return head if settled is piece else store.commit(head, settled, head.label, head.gesture)

    def undo(self, ident: str, *, by: Watcher | None = None, sent: Sent | None = None) -> Revision:
        """Step back. Raises StoreError at the first state."""
        with self._changing(ident, by) as head:
            return head if store.was_carried_out(sent) else store.undo(ident, sent)

    def redo(self, ident: str, *, by: Watcher | None = None, sent: Sent | None = None) -> Revision:
        """Step forward again. Raises StoreError at the newest state."""
        with self._changing(ident, by) as head:
            return head if store.was_carried_out(sent) else store.redo(ident, sent)

    def go_to(self, ident: str, number: int) -> Revision:
        """Go to any state of a piece. Raises StoreError where there is none of this number."""
        with self._changing(ident):
            return store.go_to(ident, number)

    def bring_mark(self, ident: str, drawing: bytes, name: str) -> Revision:
        """Add an SVG drawing as a block, and keep the tiles of its patterns. Raises LetteringError,
        PieceError, SceneError, StoreError."""
        # Read before the piece is held: an intricate drawing takes seconds, and edits must not wait for it.
        read = read_svg(drawing, store.load_piece(ident).canvas.ppi)
        idents = {name: keep_picture(PATTERN_NAME, data) for name, data in read.pictures.items()}
        with self._changing(ident) as head:
            piece = store.piece_of(head)
            mark = mark_of(read, name, piece, idents)
            piece, _ = apply_edits(piece, [Edit(op="add", path="/blocks/-", value=to_json(mark))])
            return store.commit(head, piece, f"Brought the mark {mark.name}")

    def create(self, piece: Piece) -> str:
        """Store a new piece; returns its id."""
        return store.create_piece(piece)

    def open_bundle(self, data: bytes) -> str:
        """Store the piece of a `.halvex` file as a new one, and keep its files; returns its id. Raises
        PieceError, SceneError, StoreError; nothing is stored then but files that were whole."""
        bundle = read_bundle(data)
        keep_files(bundle)
        return store.create_piece(bundle.piece, "Opened")

    def duplicate(self, ident: str) -> str:
        """Store a copy of a piece; returns its id."""
        piece = store.load_piece(ident)
        return store.create_piece(piece.model_copy(update={"name": f"{piece.name[:110]} copy"}), "Duplicated")

    def delete(self, ident: str) -> None:
        """Put a piece aside; `restore` brings it back."""
        with self._changing(ident):
            store.put_aside(ident, True)

    def restore(self, ident: str) -> None:
        with self._changing(ident):
            store.put_aside(ident, False)

    @contextmanager
    def _changing(self, ident: str, by: Watcher | None = None) -> Iterator[Revision]:
        """Hold a piece, whose newest state is given, and notify its watchers when it has changed."""
        store.get_record(ident)
        with self._locks[ident]:
            yield store.head_of(ident)
        with self._watching:
            watchers = self._watchers.get(ident, set()) - {by}
        for watcher in watchers:
            watcher()


pieces = Pieces()
