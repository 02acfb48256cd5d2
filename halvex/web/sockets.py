"""Windows: the live socket of each, edits in, states and frames out (messages.py).

A window has three threads: one reads its messages and acts upon them; one, the outbox's, sends;
one, its session's, draws. Whoever has something to say leaves it in the outbox and goes on: a
window that does not read holds up nobody else.
"""

import json
import threading
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from simple_websocket import ConnectionClosed

from halvex.core.piece import PieceError
from halvex.studio import store
from halvex.studio.frames import Wanted
from halvex.studio.live import LiveSession
from halvex.studio.pieces import pieces
from halvex.studio.precedence import precedence
from halvex.web.messages import Refusal, Stored, WindowMessage
from halvex.web.problems import describe
from halvex.web.state import state_at
from halvex.web.websocket import WebSocket

# Answers that a window has not yet taken; one that leaves more is let go.
MOST_ANSWERS = 1000


@dataclass(frozen=True)
class _State:
    """A state to be sent: `wait()` returns once the frame it belongs to has had its chance, `make()`
    gives its message."""

    wait: Callable[[], None]
    make: Callable[[], str]


class Outbox:
    """What a window is still to be sent. Of states and of frames only the newest is kept, and a reason
    why there is no picture takes the place of a frame; answers are all sent, in order."""

    def __init__(self, socket: WebSocket):
        self._socket = socket
        self._changed = threading.Condition()
        self._answers: list[str] = []
        self._state: _State | None = None
        self._frame: str | bytes | None = None
        self._closed = False
        self._thread = threading.Thread(target=self._send_all, name="outbox", daemon=True)
        self._thread.start()

    def answer(self, text: str) -> None:
        with self._changed:
            self._answers.append(text)
            self._closed = self._closed or len(self._answers) > MOST_ANSWERS
            self._changed.notify()

    def frame(self, data: str | bytes) -> None:
        with self._changed:
            self._frame = data
            self._changed.notify()

    def state(self, make: Callable[[], str], wait: Callable[[], None] = lambda: None) -> None:
        """Have a state made, by `make()`, when it is its turn to be sent and `wait()` has returned."""
        with self._changed:
            self._state = _State(wait, make)
            self._changed.notify()

    def close(self) -> None:
        with self._changed:
            self._closed = True
            self._changed.notify()

    @property
    def closed(self) -> bool:
        return self._closed

    def _send_all(self) -> None:
        try:
            while True:
                with self._changed:
                    self._changed.wait_for(
                        lambda: self._closed or self._answers or self._state or self._frame
                    )
                    if self._closed:
                        return
                    answers, self._answers = self._answers, []
                    state, self._state = self._state, None
                for answer in answers:
                    self._socket.send_whole(answer)
                if state is not None:
                    state.wait()
                # A frame comes before the state it belongs to: the hand waits for it.
                self._send_newest_frame()
                if state is not None:
                    self._socket.send_whole(state.make())
        except ConnectionClosed:
            self.close()

    def _send_newest_frame(self) -> None:
        with self._changed:
            frame, self._frame = self._frame, None
        if frame is not None:
            self._socket.send_whole(frame)


class Window:
    """One open socket."""

    def __init__(self, socket: WebSocket):
        self._socket = socket
        self._outbox = Outbox(socket)
        self._session = LiveSession(self._send_frame)
        self._piece = ""
        # What the window calls itself; empty where it wants none of its messages to be known again.
        self._name = ""
        self._size = (960, 540)
        # Zoom, and the upper left of the part that is shown.
        self._part, self._bare = (1.0, 0.0, 0.0), False
        # The newest message of this window, and the state that is being drawn.
        self._seq = 0
        self._drawn = (0, "")

    def run(self) -> None:
        """Serve messages until the window closes."""
        try:
            while not self._outbox.closed:
                self._receive(self._socket.next_message())
        except ConnectionClosed:
            pass
        finally:
            self._leave()
            self._session.close()
            self._outbox.close()

    def _changed(self) -> None:
        """Another window has changed the piece."""
        self._outbox.state(self._refreshed)

    def _refresh(self, seq: int, moving: bool = False, head: store.Revision | None = None) -> None:
        """Draw the picture anew and send the state, in answer to message `seq`."""
        self._seq = seq
        number = self._show(head or store.head_of(self._piece), seq, moving)
        # While the hand moves, the window sends its next edit when it has the state: then picture and
        # state take turns.
        self._outbox.state(self._refreshed, partial(self._session.wait_for, number, shown=moving))

    def _show(self, head: store.Revision, seq: int, moving: bool) -> int:
        self._drawn = head.id, head.document
        return self._session.show(
            Wanted(
                store.piece_of(head),
                head.id,
                seq,
                *self._size,
                moving,
                head.piece_id,
                *self._part,
                self._bare,
            )
        )

    def _refreshed(self) -> str:
        """The newest state as a message."""
        ident, seq = self._piece, self._seq
        try:
            head = store.head_of(ident)
            # Another window may have been quicker than this one.
            if (head.id, head.document) != self._drawn:
                self._show(head, seq, False)
            return state_at(ident, head, store.piece_of(head), seq).model_dump_json(by_alias=True)
        except Exception as fault:
            return Refusal(seq=seq, problem=describe(fault)).model_dump_json()

    def _receive(self, text: str | bytes) -> None:
        seq = 0
        try:
            if not isinstance(text, str):
                raise PieceError("", "a message is JSON text")
            try:
                values = json.loads(text)
            except (ValueError, RecursionError):
                raise PieceError("", "the message is not JSON") from None
            seq = (
                values.get("seq", 0)
                if isinstance(values, dict) and isinstance(values.get("seq", 0), int)
                else 0
            )
            with precedence.first():
                self._act(WindowMessage.model_validate(values))
        except Exception as fault:
            # Whatever is raised, the window hears of it and lives on.
            self._outbox.answer(
                Refusal(seq=min(max(seq, 0), 2**53), problem=describe(fault)).model_dump_json()
            )

    def _act(self, message: WindowMessage) -> None:
        if message.type == "open":
            store.get_record(message.piece)
            self._leave()
            self._piece, self._size = message.piece, (message.width, message.height)
            self._part, self._bare = (message.zoom, message.left, message.top), message.bare
            self._name = message.window or self._name
            pieces.watch(self._piece, self._changed)
            self._refresh(message.seq)
            return
        if not self._piece:
            raise PieceError("/type", "open a piece first")
        if message.type == "size":
            self._size = (message.width, message.height)
            self._part, self._bare = (message.zoom, message.left, message.top), message.bare
        if message.type == "size":
            self._refresh(message.seq)
            return
        if message.type == "rest":
            self._refresh(message.seq, head=pieces.settle(self._piece, by=self._changed))
            return
        shown = message.piece in ("", self._piece)
        head = self._change(message, self._piece if shown else message.piece)
        if shown:
            self._refresh(message.seq, message.moving, head)
        else:
            self._outbox.answer(Stored(seq=message.seq).model_dump_json())

    def _change(self, message: WindowMessage, piece: str) -> store.Revision:
        """Carry out a change of a piece, once, however often its message comes."""
        sent = store.Sent(self._name, message.seq) if self._name else None
        if message.type == "undo":
            return pieces.undo(piece, by=self._changed, sent=sent)
        if message.type == "redo":
            return pieces.redo(piece, by=self._changed, sent=sent)
        if not message.edits:
            raise PieceError("/edits", "there is nothing to do; send at least one edit")
        return pieces.edit(
            piece, message.edits, message.gesture, moving=message.moving, by=self._changed, sent=sent
        )

    def _leave(self) -> None:
        if self._piece:
            pieces.forget(self._piece, self._changed)

    def _send_frame(self, header: dict[str, Any], image: bytes | None) -> None:
        if self._outbox.closed:
            raise ConnectionError
        head = json.dumps(header).encode()
        if image is not None:
            self._outbox.frame(len(head).to_bytes(4, "big") + head + image)
        elif header["type"] == "problem":
            # An older picture that is still to be sent would take it back.
            self._outbox.frame(head.decode())
        else:
            self._outbox.answer(head.decode())
