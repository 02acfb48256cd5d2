"""A connection that breaks again and again: every edit has its effect, in order, once."""

import json
import random
import socket
import sqlite3
import threading
from contextlib import closing, suppress

from halvex.studio.folder import DATABASE
from tests.browser.workshop import WorkshopTest

DROPS = 200
MOST_EDITS = 1500


class BreakingProxy:
    """Passes connections on to a server and breaks those of live sockets after a few packets, in the middle
    of whatever was being sent."""

    def __init__(self, port: int):
        self._to = port
        self._random = random.Random(7)
        self._listening = socket.create_server(("127.0.0.1", 0))
        self.port = self._listening.getsockname()[1]
        self.breaking = True
        self.broken = 0
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self) -> None:
        self._listening.close()

    def _accept(self) -> None:
        with suppress(OSError):
            while True:
                window, _ = self._listening.accept()
                threading.Thread(target=self._serve, args=(window,), daemon=True).start()

    def _serve(self, window: socket.socket) -> None:
        server = socket.create_connection(("127.0.0.1", self._to))
        begin = window.recv(65536)
        server.sendall(begin)
        # Whichever side passes so many packets first ends both.
        left = self._random.randint(1, 12) if begin.startswith(b"GET /live") else 0
        sides = [(window, server), (server, window)]
        for number, (source, target) in enumerate(sides):
            most = self._random.randint(1, 6) if left and number == 0 else left
            threading.Thread(target=self._pass, args=(source, target, most), daemon=True).start()

    def _pass(self, source: socket.socket, target: socket.socket, most: int) -> None:
        """Pass packets on; after `most` of them, or never for 0, break the connection: one more is passed to
        half, or not at all."""
        with suppress(OSError):
            while data := source.recv(65536):
                if most == 1 and self.breaking:
                    target.sendall(data[: len(data) // 2 * self._random.randint(0, 1)])
                    self.broken += 1
                    break
                target.sendall(data)
                most -= most > 1
        for end in (source, target):
            with suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()


class ConnectionTest(WorkshopTest):
    def test_no_edit_is_lost_or_made_twice(self) -> None:
        """Sizes typed one after another while the connection breaks 200 times: the states that were stored
        are these sizes, and undo made meanwhile is once in effect."""
        proxy = BreakingProxy(self.server.port)
        self.addCleanup(proxy.close)
        ident = self.open_new()
        self.page.goto(f"http://127.0.0.1:{proxy.port}/piece/{ident}")
        field = self.page.get_by_label("Size", exact=True)
        typed: list[float] = []
        while proxy.broken < DROPS:
            self.assertLess(len(typed), MOST_EDITS, f"only {proxy.broken} connections were broken")
            typed.append(round(20 + len(typed) / 10, 1))
            field.fill(str(typed[-1]))
            field.press("Enter")
        self.page.locator("canvas").focus()
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+Shift+z")
        proxy.breaking = False
        self.wait_for_document(ident, f"document.blocks[0].size === {typed[-2]}")
        with closing(sqlite3.connect(self.server.data / DATABASE)) as database:
            stored = database.execute(
                "SELECT document FROM revision WHERE piece_id = ? ORDER BY id", (ident,)
            ).fetchall()
        sizes = [json.loads(document)["blocks"][0]["size"] for (document,) in stored]
        self.assertEqual(sizes, [80.0, *typed])
