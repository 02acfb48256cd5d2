"""The live socket: edits in, state and frames out.

Text messages are JSON. In: `open` (piece, stage size), `edit` (seq, edits, gesture, moving), `undo`,
`redo`, `size`. Out: `state`, `error`, `problem`, and frames as binary messages: four bytes of header length
(big endian), the header as JSON (with pass number), the image.
"""

import json
import threading
from collections import defaultdict
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from simple_websocket import ConnectionClosed, Server

from halvex.core.piece import PieceError
from halvex.studio import store
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.live import LARGEST_STAGE_PX, LiveSession, Wanted
from halvex.web.problems import describe
from halvex.web.state import dump, state_at

LARGEST_MESSAGE_BYTES = 1_000_000


class Message(BaseModel):
    """One message from a window."""

    model_config = ConfigDict(extra="forbid")

    type: str = Field(max_length=20)
    seq: int = 0
    piece: str = Field("", max_length=32)
    width: int = Field(960, ge=16, le=LARGEST_STAGE_PX)
    height: int = Field(540, ge=16, le=LARGEST_STAGE_PX)
    edits: list[Edit] = Field(default_factory=list, max_length=200)
    gesture: str | None = Field(None, max_length=60)
    moving: bool = False


class Hub:
    """All open windows by piece, so that two windows on one piece stay the same."""

    def __init__(self) -> None:
        self._windows: dict[str, set[Window]] = defaultdict(set)
        self._locks: dict[str, threading.Lock] = defaultdict(threading.Lock)

    def lock_of(self, ident: str) -> threading.Lock:
        """Held while a piece is read, edited and stored, so that no edit is lost between two windows."""
        return self._locks[ident]

    def join(self, ident: str, window: "Window") -> None:
        self._windows[ident].add(window)

    def leave(self, window: "Window") -> None:
        for windows in self._windows.values():
            windows.discard(window)

    def edit(self, ident: str, edits: list[Edit], gesture: str | None) -> store.Revision:
        """Edit a piece and store it; returns its new state. Raises PieceError and StoreError; nothing is changed then."""
        with self.lock_of(ident):
            head = store.head_of(ident)
            piece, label = apply_edits(store.piece_of(head), edits, store.before_gesture(head, gesture))
            return store.commit(ident, piece, label, gesture)

    def tell(self, ident: str, but: "Window | None" = None) -> None:
        """Show the newest state to every window of a piece but one."""
        for window in list(self._windows[ident]):
            if window is not but:
                window.refresh(0)


hub = Hub()


class Window:
    """One open socket."""

    def __init__(self, socket: Server):
        self._socket = socket
        self._sending = threading.Lock()
        self._session = LiveSession(self._send_frame)
        self._piece = ""
        self._size = (960, 540)

    def run(self) -> None:
        """Serve messages until the window closes."""
        try:
            while True:
                self._receive(self._socket.receive())
        except ConnectionClosed:
            pass
        finally:
            hub.leave(self)
            self._session.close()

    def refresh(self, seq: int, moving: bool = False, head: store.Revision | None = None) -> None:
        """Draw the picture anew and send the state; the picture first, as it takes longer and the hand waits for it.

        While the hand moves, the window sends its next edit when it has the state: then picture and state take turns.
        """
        head = head or store.head_of(self._piece)
        piece = store.piece_of(head)
        number = self._session.show(Wanted(piece, head.id, seq, *self._size, moving))
        if seq:  # an edit of another window's has built its bodies there
            self._session.wait_for(number, shown=moving)
            # Another window may have been quicker meanwhile: its state must not be told before this one's.
            head = store.head_of(self._piece)
        self._send(dump(state_at(self._piece, head, store.piece_of(head), seq)))

    def _receive(self, text: str | bytes | None) -> None:
        seq = 0
        try:
            if not isinstance(text, str) or len(text) > LARGEST_MESSAGE_BYTES:
                raise PieceError("", "a message is JSON text of at most 1 MB")
            try:
                values = json.loads(text)
            except (ValueError, RecursionError):
                raise PieceError("", "the message is not JSON") from None
            seq = values.get("seq", 0) if isinstance(values, dict) and isinstance(values.get("seq", 0), int) else 0
            self._act(Message.model_validate(values))
        except (PieceError, ValidationError, store.StoreError) as fault:
            self._send({"type": "error", "seq": seq, "problem": describe(fault).model_dump()})

    def _act(self, message: Message) -> None:
        if message.type == "open":
            store.get_record(message.piece)
            hub.leave(self)
            self._piece, self._size = message.piece, (message.width, message.height)
            hub.join(self._piece, self)
            self.refresh(message.seq)
            return
        if not self._piece:
            raise PieceError("/type", "open a piece first")
        match message.type:
            case "edit" if not message.edits:
                raise PieceError("/edits", "there is nothing to do; send at least one edit")
            case "edit":
                head = hub.edit(self._piece, message.edits, message.gesture)
                self.refresh(message.seq, message.moving, head)
                hub.tell(self._piece, but=self)
            case "undo" | "redo":
                with hub.lock_of(self._piece):
                    (store.undo if message.type == "undo" else store.redo)(self._piece)
                self.refresh(message.seq)
                hub.tell(self._piece, but=self)
            case "size":
                self._size = (message.width, message.height)
                self.refresh(message.seq)
            case "rest":
                self.refresh(message.seq)
            case _:
                raise PieceError("/type", f"there is no message “{message.type}”; send open, edit, undo, redo, size or rest")

    def _send(self, values: dict[str, Any]) -> None:
        with self._sending:
            try:
                self._socket.send(json.dumps(values))
            except ConnectionClosed:
                return

    def _send_frame(self, header: dict[str, Any], image: bytes | None) -> None:
        if image is None:
            self._send(header)
            return
        head = json.dumps(header).encode()
        with self._sending:
            try:
                self._socket.send(len(head).to_bytes(4, "big") + head + image)
            except ConnectionClosed as gone:
                raise ConnectionError from gone
