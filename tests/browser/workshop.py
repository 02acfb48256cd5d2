"""A running Halvex with a browser in front of it, for the tests of this folder."""

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

CHROMIUM = "/usr/bin/chromium"
AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]
PATIENCE_MS = 60_000


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def is_taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


class Server:
    """`halvex serve --demo` on a port and data folder of its own; it can be killed and started again."""

    def __init__(self, data: Path, *more: str):
        self.data = data
        self._more = more
        self.port = free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [
            sys.executable,
            "-m",
            "halvex.cli",
            "serve",
            "--demo",
            "--data",
            str(self.data),
            "--port",
            str(self.port),
            *self._more,
        ]
        # HALVEX_TEST_LOG names a file to read in what the server writes.
        named = os.environ.get("HALVEX_TEST_LOG")
        with open(named, "a+b") if named else tempfile.TemporaryFile() as log:
            self.process = subprocess.Popen(command, stderr=log, start_new_session=True)
            for _ in range(300):
                try:
                    self.get("/api/pieces")
                    return
                except OSError:
                    if self.process.poll() is not None:
                        break
                    time.sleep(0.2)
            log.seek(0)
            raise RuntimeError(f"the server did not start: {log.read().decode()[-2000:]}")

    def kill(self) -> None:
        if self.process and self.process.poll() is None:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            # The worker keeps the port until its memory is given back.
            ends = time.monotonic() + 10
            while is_taken(self.port) and time.monotonic() < ends:
                time.sleep(0.05)

    def get(self, path: str) -> dict:
        with urllib.request.urlopen(self.address + path, timeout=60) as answer:
            return json.load(answer)

    def post(self, path: str, body: object) -> dict:
        headers = {"Content-Type": "application/json"}
        order = urllib.request.Request(self.address + path, json.dumps(body).encode(), headers)
        with urllib.request.urlopen(order, timeout=60) as answer:
            return json.load(answer)


class WorkshopTest(unittest.TestCase):
    """Starts the server and the browser once per class, and a tab for each test."""

    server: ClassVar[Server]
    browser: ClassVar[Browser]

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.server = Server(Path(folder.name))
        cls.server.start()
        cls.addClassCleanup(lambda: cls.server.kill())
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        cls.browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        cls.addClassCleanup(cls.browser.close)
        expect.set_options(timeout=PATIENCE_MS)

    def setUp(self) -> None:
        # A small window keeps the picture small, and so the tests quick.
        self.page = self.browser.new_page(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        self.page.set_default_timeout(PATIENCE_MS)
        self.addCleanup(self.page.close)

    def open_page(self, path: str = "/") -> None:
        """Open a page of the workshop, by default that of a demo piece, and wait for its first picture."""
        self.page.goto(self.server.address + path)
        self.page.locator("canvas[data-seq]").wait_for()

    def open_new(self, **document: object) -> str:
        """Open a new piece made of a document; returns its id."""
        small = {"canvas": {"width": 320, "height": 180}, "blocks": [{"words": "Quay", "size": 80}]}
        ident = str(self.server.post("/api/pieces", {"document": {**small, **document}})["id"])
        self.open_page(f"/piece/{ident}")
        return ident

    def expect_no_finding(self, where: str, part: str = "html") -> None:
        """axe-core finds nothing wrong with a part of the page."""
        expect(self.page.locator(part)).to_be_visible()
        # Through the debugger, which the page's own content security policy does not bind.
        self.page.evaluate(AXE.read_text())
        found = self.page.evaluate(
            "part => axe.run(part, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})",
            part,
        )
        self.assertEqual(
            [(f["id"], [n["html"][:120] for n in f["nodes"]]) for f in found["violations"]], [], where
        )

    def middle(self, of: Locator) -> tuple[float, float]:
        box = of.bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def station(self, name: str) -> None:
        self.page.locator("[data-part=recipe-cell]", has_text=name).first.click()

    def document(self, ident: str) -> dict:
        return self.server.get(f"/api/pieces/{ident}")["document"]

    def wait_for_document(self, ident: str, condition: str) -> None:
        """Wait until a condition (JavaScript) holds of the stored `document`, and the window, where
        it shows the piece, has nothing left to store and shows what is stored."""
        # Asked from here: the page's own waiting takes a promise for an answer.
        question = (
            "id => fetch('/api/pieces/' + id).then(answer => answer.json())"
            f".then(({{document, revision}}) => ({condition}) ? revision : 0)"
        )
        # A window that still has changes to store objects to being closed.
        settled = "() => window.dispatchEvent(new Event('beforeunload', {cancelable: true}))"
        deadline = time.monotonic() + PATIENCE_MS / 1000
        while not (self.page.evaluate(settled) and (stored := self.page.evaluate(question, ident))):
            if time.monotonic() > deadline:
                self.fail(f"the document never came to {condition}: {self.document(ident)}")
            self.page.wait_for_timeout(50)
        if ident in self.page.url:
            # The picture and the marks over it come by different messages.
            shown = (
                "r => [...document.querySelectorAll('canvas[data-revision], [data-part=marks]')]"
                ".every(e => Number(e.dataset.revision) >= r)"
            )
            self.page.wait_for_function(shown, arg=stored)

    def revision_shown(self, page: Page | None = None) -> int:
        return int((page or self.page).locator("canvas[data-revision]").get_attribute("data-revision") or 0)

    def wait_for_revision_after(self, revision: int) -> None:
        self.page.wait_for_function(
            "r => Number(document.querySelector('canvas').dataset.revision) > r", arg=revision
        )

    def pixels(self) -> list[int]:
        """The stage's pixels, thinned."""
        return self.page.evaluate(
            "() => { const c = document.querySelector('canvas');"
            " return Array.from(c.getContext('2d').getImageData(0, 0, c.width, "
            "c.height).data.filter((_, i) => i % 97 === 0)); }"
        )
