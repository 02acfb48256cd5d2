"""The server as it is started: what it refuses at once, who may talk to it, and that nobody holds
up anybody else."""

import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.error
import urllib.request
from contextlib import suppress
from pathlib import Path

from simple_websocket import Client, ConnectionClosed, ConnectionError

from halvex.studio import store
from halvex.web.server import MOST_WINDOWS
from halvex.web.websocket import LARGEST_MESSAGE_BYTES
from tests.browser.workshop import Server, free_port

QUICKLY_S = 3.0


def serve(*arguments: str, cwd: str | None = None) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "halvex.cli", "serve", *arguments]
    environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
    return subprocess.run(command, capture_output=True, text=True, timeout=60, cwd=cwd, env=environment)


class RefusalTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def refused(self, words: str, *arguments: str) -> None:
        answer = serve("--data", str(self.folder / "data"), "--port", str(free_port()), *arguments)
        self.assertEqual(answer.returncode, 2, answer.stderr)
        self.assertEqual(len(answer.stderr.splitlines()), 1, answer.stderr)
        self.assertIn(words, answer.stderr)

    def test_what_cannot_be_served_is_said_in_one_line(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            self.refused("cannot be served", "--port", str(taken.getsockname()[1]))
        self.refused("--port", "--port", "0")
        data = self.folder / "data"
        data.mkdir(exist_ok=True)
        (data / "halvex.sqlite").write_bytes(b"no database at all " * 100)
        self.refused("is no database of Halvex")
        (data / "halvex.sqlite").unlink()
        store.open_store(data)
        store.database.execute_sql("PRAGMA user_version = 99")
        store.database.close()
        self.refused("of a newer Halvex")
        blocked = self.folder / "file"
        blocked.write_text("a file where a folder should be")
        self.refused("cannot be used", "--data", str(blocked / "data"))


class RunningTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        cls.addClassCleanup(folder.cleanup)
        cls.server = Server(Path(folder.name))
        cls.server.start()
        cls.addClassCleanup(cls.server.kill)
        cls.ident = cls.server.get("/api/pieces")["pieces"][0]["id"]

    def window(self) -> Client:
        window = Client.connect(f"ws://127.0.0.1:{self.server.port}/live")
        self.addCleanup(self.close, window)
        return window

    @staticmethod
    def close(window: Client) -> None:
        with suppress(ConnectionClosed, OSError):
            window.close()

    def raw_window(self, more: str = "") -> socket.socket:
        """A window's socket by hand, its handshake sent and its answer not yet read."""
        wire = socket.create_connection(("127.0.0.1", self.server.port))
        self.addCleanup(wire.close)
        wire.sendall(
            f"GET /live HTTP/1.1\r\nHost: 127.0.0.1:{self.server.port}\r\nUpgrade: "
            f"websocket\r\nConnection: Upgrade\r\n{more}"
            "Sec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\nSec-WebSocket-Version: 13\r\n\r\n".encode()
        )
        return wire

    def opened(self) -> Client:
        window = self.window()
        window.send(json.dumps({"type": "open", "piece": self.ident, "seq": 1, "width": 64, "height": 36}))
        return window

    def answer(self, window: Client, seq: int) -> dict[str, object]:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            message = window.receive(timeout=60)
            if (
                isinstance(message, str)
                and (values := json.loads(message)).get("seq") == seq
                and values["type"] != "problem"
            ):
                return values
        self.fail("no answer")

    def edit(self, window: Client, seq: int, value: object, **more: object) -> dict[str, object]:
        window.send(
            json.dumps(
                {
                    "type": "edit",
                    "seq": seq,
                    "edits": [{"op": "replace", "path": "/view/turn/x", "value": value}],
                    **more,
                }
            )
        )
        return self.answer(window, seq)

    def test_a_second_server_on_the_same_folder_names_the_first(self) -> None:
        answer = serve("--data", str(self.server.data), "--port", str(free_port()))
        self.assertEqual(answer.returncode, 2)
        self.assertIn(self.server.address, answer.stderr)

    def test_idle_windows_leave_requests_their_threads(self) -> None:
        windows = [self.window() for _ in range(MOST_WINDOWS)]
        started = time.monotonic()
        self.assertTrue(self.server.get("/api/pieces")["pieces"])
        self.assertLess(time.monotonic() - started, QUICKLY_S)
        with self.assertRaises(ConnectionError):
            Client.connect(f"ws://127.0.0.1:{self.server.port}/live")
        for window in windows:
            self.close(window)

    def test_a_window_that_does_not_read_holds_up_nobody(self) -> None:
        silent = self.raw_window()
        silent.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        body = json.dumps(
            {"type": "open", "piece": self.ident, "seq": 1, "width": 2000, "height": 1200}
        ).encode()
        mask = b"\0\0\0\0"
        silent.sendall(b"\x81" + bytes([0x80 | len(body)]) + mask + body)
        other = self.opened()
        self.answer(other, 1)
        for seq in range(2, 60):
            self.edit(other, seq, seq, moving=True)
        answered = self.edit(other, 60, 1.5)
        self.assertEqual(answered["document"]["view"]["turn"]["x"], 1.5)  # type: ignore[index]

    def test_what_is_too_long_or_no_message_is_refused(self) -> None:
        window = self.opened()
        self.answer(window, 1)
        for seq, message in (
            (5, {"type": "dance"}),
            (6, {"type": "edit", "edits": []}),
            (7, {"type": "edit", "edits": [{"op": "replace", "path": "x"}]}),
        ):
            window.send(json.dumps({**message, "seq": seq}))
            self.assertEqual(self.answer(window, seq)["type"], "error")
        window.send("x" * (LARGEST_MESSAGE_BYTES + 1))
        with self.assertRaises(ConnectionClosed):
            for _ in range(1000):
                window.receive(timeout=10)

    def test_edits_go_to_the_piece_they_were_made_of(self) -> None:
        """Made while the server could not be reached, and sent when another piece is open."""
        other = self.server.get("/api/pieces")["pieces"][1]["id"]
        window = self.opened()
        before = self.answer(window, 1)["document"]
        self.assertEqual(self.edit(window, 2, 33, piece=other), {"type": "stored", "seq": 2})
        self.assertEqual(self.server.get(f"/api/pieces/{other}")["document"]["view"]["turn"]["x"], 33)
        self.assertEqual(self.server.get(f"/api/pieces/{self.ident}")["document"], before)

    def test_pictures_are_not_compressed_twice(self) -> None:
        with self.raw_window("Sec-WebSocket-Extensions: permessage-deflate\r\n") as window:
            answer = window.recv(4096)
        self.assertIn(b"101", answer)
        self.assertNotIn(b"permessage-deflate", answer)


class KeyTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        cls.addClassCleanup(folder.cleanup)
        cls.port = free_port()
        # Relative to the folder it is started in.
        command = [
            sys.executable,
            "-m",
            "halvex.cli",
            "serve",
            "--host",
            "0.0.0.0",
            "--port",
            str(cls.port),
            "--data",
            "kept here",
        ]
        environment = {**os.environ, "PYTHONPATH": str(Path(__file__).parents[2])}
        cls.process = subprocess.Popen(
            command, stderr=subprocess.PIPE, text=True, cwd=folder.name, env=environment
        )
        cls.addClassCleanup(cls.process.wait)
        cls.addClassCleanup(cls.process.terminate)
        assert cls.process.stderr is not None
        cls.addClassCleanup(cls.process.stderr.close)
        cls.process.stderr.readline()
        cls.key = cls.process.stderr.readline().removeprefix("Access key: ").strip()
        cls.folder = Path(folder.name) / "kept here"

    def ask(
        self, path: str, *, cookie: str = "", host: str = "", body: bytes | None = None
    ) -> tuple[int, str, str]:
        """(status, set cookie, text)."""
        headers = {name: value for name, value in {"Cookie": cookie, "Host": host}.items() if value}
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", body, headers)
        try:
            opener = urllib.request.build_opener(_NoRedirect)
            with opener.open(request, timeout=60) as answer:
                return answer.status, answer.headers.get("Set-Cookie", ""), answer.read().decode()
        except urllib.error.HTTPError as fault:
            with fault:
                return fault.code, fault.headers.get("Set-Cookie", ""), fault.read().decode()

    def test_without_the_key_every_request_is_refused(self) -> None:
        for host in ("", "127.0.0.1", "localhost", "port-sorrel.example"):
            for path in ("/api/pieces", "/api/openapi.json", "/live", "/", "/piece/x", "/assets/x.js"):
                status, _, text = self.ask(path, host=host)
                self.assertEqual(status, 401, (host, path))
                self.assertNotIn(self.key, text)
        with self.assertRaises(ConnectionError):
            Client.connect(f"ws://127.0.0.1:{self.port}/live")
        self.assertEqual(self.ask("/key", body=b"key=guess")[0], 401)

    def test_the_key_is_asked_for_once_and_kept_in_a_cookie(self) -> None:
        self.assertIn("Access key", self.ask("/")[2])
        status, cookie, _ = self.ask("/key", body=f"key={self.key}".encode())
        self.assertEqual(status, 303)
        for word in ("HttpOnly", "SameSite=Strict"):
            self.assertIn(word, cookie)
        self.assertNotIn(self.key, cookie)
        held = cookie.split(";")[0]
        self.assertEqual(self.ask("/api/pieces", cookie=held, host="anything.example")[0], 200)
        window = Client.connect(f"ws://127.0.0.1:{self.port}/live", headers={"Cookie": held})
        window.close()

    def test_a_relative_folder_is_that_of_where_it_was_started(self) -> None:
        self.ask("/")
        self.assertTrue((self.folder / "halvex.sqlite").is_file())


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *given: object) -> None:
        return None


if __name__ == "__main__":
    unittest.main()
