"""While kernels are compiled, the page is served and says how far they are; then the whole application."""

import threading
import unittest
from collections.abc import Callable
from unittest import mock

from flask import Flask
from werkzeug.test import Client

from halvex.core.compiled import USUAL_DRAFTS_S
from halvex.core.render import gate
from halvex.web.opening import OpeningServer


def whole() -> Flask:
    app = Flask(__name__)

    @app.get("/api/pieces")
    def pieces() -> str:
        return "all pieces"

    return app


class OpeningTest(unittest.TestCase):
    def setUp(self) -> None:
        self.compiled, self.made = threading.Event(), threading.Event()
        self.addCleanup(self.made.set)
        self.addCleanup(gate.open_up)
        self.addCleanup(self.compiled.set)

    def open(self, compiling: object) -> Client:
        patch = mock.patch("halvex.web.opening.compile_kernels", compiling)
        patch.start()
        self.addCleanup(patch.stop)
        return Client(OpeningServer({"localhost"}, None, self.make))

    def make(self, all_there: Callable[[], object], seconds: float) -> Flask:
        self.all_there = all_there
        self.made.wait(60)
        return whole()

    def until_whole(self, client: Client) -> None:
        for _ in range(600):
            if client.get("/api/pieces").text == "all pieces":
                return
            threading.Event().wait(0.05)
        self.fail("it never opened")

    def test_the_page_says_how_far_it_is_until_everything_is_there(self) -> None:
        client = self.open(lambda report, drafts_are_there: self.compiled.wait(60))
        answer = client.get("/api/opening")
        self.assertLess(answer.json["share"], 0.1)
        self.assertAlmostEqual(answer.json["seconds"], USUAL_DRAFTS_S, delta=20)
        self.assertIn("<html", client.get("/", buffered=True).text)
        self.assertIn("<html", client.get("/piece/abc", buffered=True).text)
        for path in ("/api/pieces", "/live"):
            refused = client.get(path)
            self.assertEqual((refused.status_code, refused.json["title"]), (503, "Not open yet"))
        self.assertEqual(client.get("/api/opening", headers={"Host": "elsewhere"}).status_code, 403)
        self.compiled.set()
        gate.wait()
        # Making the application takes a moment, in which the page must not go on.
        self.assertLess(client.get("/api/opening").json["share"], 1)
        self.made.set()
        self.until_whole(client)

    def test_it_opens_once_there_are_drafts_and_can_wait_for_the_rest(self) -> None:
        def compile_kernels(report: object, drafts_are_there: Callable[[], None]) -> None:
            drafts_are_there()
            self.compiled.wait(60)

        self.made.set()
        self.until_whole(self.open(compile_kernels))
        waiting = threading.Thread(target=self.all_there)
        waiting.start()
        waiting.join(0.2)
        self.assertTrue(waiting.is_alive())
        self.compiled.set()
        waiting.join(10)
        self.assertFalse(waiting.is_alive())

    def test_it_opens_even_if_nothing_could_be_compiled(self) -> None:
        self.made.set()
        with self.assertLogs("halvex.web.opening", "ERROR"):
            self.until_whole(self.open(mock.Mock(side_effect=OSError("no space left"))))


if __name__ == "__main__":
    unittest.main()
