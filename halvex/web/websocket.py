"""One WebSocket connection: simple-websocket, with bounds on what a window may make the server hold
and wait for."""

import socket
import threading
from typing import Any

from simple_websocket import ConnectionClosed, Server

LARGEST_MESSAGE_BYTES = 1_000_000
# A window that takes nothing for so long, or answers no ping, is let go.
SEND_TIMEOUT_S, PING_INTERVAL_S = 20.0, 20.0
# Messages read but not yet acted upon; while so many wait, no more are read.
MOST_WAITING = 32


class _Wire:
    """The socket as several threads use it: what is sent is sent whole, one after another, within a time."""

    def __init__(self, wire: socket.socket):
        wire.settimeout(SEND_TIMEOUT_S)
        self._wire = wire
        self._sending = threading.Lock()

    def send(self, data: bytes) -> None:
        with self._sending:
            self._wire.sendall(data)

    def recv(self, count: int) -> bytes:
        return self._wire.recv(count)

    def fileno(self) -> int:
        return self._wire.fileno()

    def close(self) -> None:
        self._wire.close()


class _Inbox(list[Any]):
    """Messages that wait to be acted upon; adding one waits for room."""

    def __init__(self) -> None:
        super().__init__()
        self._room = threading.Semaphore(MOST_WAITING)

    def append(self, message: Any) -> None:
        self._room.acquire()
        super().append(message)

    def pop(self, at: Any = -1) -> Any:
        message = super().pop(at)
        self._room.release()
        return message


class WebSocket(Server):
    """A window's connection. Messages over LARGEST_MESSAGE_BYTES are refused while they arrive."""

    def __init__(self, environ: dict[str, Any]):
        # Pictures are compressed already: without this header, deflate is not agreed on.
        plain = {name: value for name, value in environ.items() if name != "HTTP_SEC_WEBSOCKET_EXTENSIONS"}
        source = "gunicorn.socket" if "gunicorn.socket" in plain else "werkzeug.socket"
        if source in plain:
            plain[source] = _Wire(plain[source])
        super().__init__(plain, ping_interval=PING_INTERVAL_S, max_message_size=LARGEST_MESSAGE_BYTES)

    def handshake(self) -> None:
        """Agree on the connection; from then on another thread fills the inbox."""
        self.input_buffer = _Inbox()
        super().handshake()

    def next_message(self) -> str | bytes:
        """The next message. Raises ConnectionClosed when there will be none."""
        while True:
            # A time-out, as the library may set its event before it notes that the connection has ended.
            message = self.receive(timeout=PING_INTERVAL_S)
            if message is not None:
                return message
            if not self.connected:
                raise ConnectionClosed(self.close_reason, self.close_message)

    def send_whole(self, data: str | bytes) -> None:
        """Send a message. Raises ConnectionClosed, also where the window takes nothing."""
        try:
            self.send(data)
        except OSError as fault:
            self.connected = False
            self.event.set()
            raise ConnectionClosed(self.close_reason, str(fault)) from fault
