"""From the hand to the frame: a real server, a real socket, a block of twelve letters at 960 × 540."""

import io
import json
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
from PIL import Image
from simple_websocket import Client

from benchmarks.result import Result

WORDS = "Port\nSorrelan"
EDITS = 24
PHOTOGRAPHS = 5


@contextmanager
def server() -> Iterator[tuple[str, float]]:
    """A server on a free port: (address, seconds until it answers)."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory() as data:
        started = time.perf_counter()
        command = [sys.executable, "-m", "halvex.cli", "serve", "--demo", "--data", data, "--port", str(port)]
        process = subprocess.Popen(command, stderr=subprocess.DEVNULL)
        try:
            while True:
                try:
                    urllib.request.urlopen(f"http://127.0.0.1:{port}/api/pieces", timeout=30).close()
                    break
                except OSError:
                    time.sleep(0.02)
            yield f"127.0.0.1:{port}", started
        finally:
            process.terminate()
            process.wait()


TWELVE_LETTERS = {
    "canvas": {"width": 960, "height": 540},
    "blocks": [{"words": WORDS, "size": 190, "leading": 0.9}],
    "view": {"turn": {"y": -15}},
}


def create(address: str, document: dict[str, Any] = TWELVE_LETTERS) -> str:
    """A new piece; its id."""
    request = urllib.request.Request(
        f"http://{address}/api/pieces",
        json.dumps({"document": document}).encode(),
        {"Content-Type": "application/json"},
    )
    with urllib.request.urlopen(request) as answer:
        return str(json.load(answer)["id"])


def _frame(client: Client, seq: int, stages: tuple[str, ...] = ("draft",)) -> dict[str, Any]:
    """Wait for a frame that answers message `seq`."""
    while True:
        message = client.receive(timeout=120)
        if isinstance(message, bytes):
            length = int.from_bytes(message[:4], "big")
            header = json.loads(message[4 : 4 + length])
            if header["seq"] >= seq and header["stage"] in stages:
                return header


def edits_ms(
    make: Callable[[int], list[dict[str, Any]]], *, moving: bool, document: dict[str, Any] = TWELVE_LETTERS
) -> float:
    """Median ms from sending an edit to having received its draft."""
    with server() as (address, _):
        client = Client.connect(f"ws://{address}/live")
        client.send(
            json.dumps(
                {"type": "open", "piece": create(address, document), "width": 960, "height": 540, "seq": 1}
            )
        )
        _frame(client, 1, ("pass", "clean"))
        times = []
        for number in range(EDITS):
            started = time.perf_counter()
            client.send(
                json.dumps(
                    {
                        "type": "edit",
                        "seq": number + 2,
                        "edits": make(number),
                        "gesture": "g",
                        "moving": moving,
                    }
                )
            )
            _frame(client, number + 2)
            times.append((time.perf_counter() - started) * 1000)
        client.close()
    return statistics.median(times[2:])


# No edit comes back to the piece that was opened, whose kept film would be shown in place of a draft.
def _lamp(number: int) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/light/lamps/0/bearing", "value": 130 + number}]


def _turn(number: int) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/view/turn/y", "value": -45 + number}]


def _word(number: int) -> list[dict[str, Any]]:
    return [
        {"op": "replace", "path": "/blocks/0/words", "value": WORDS[: -1 - number % 3] + "aeost"[number % 5]}
    ]


def result(name: str, ms: float, goal: float) -> Result:
    """A time in ms and its goal."""
    return Result(name, round(ms, 1), "ms", None, None, None, f"≤ {goal:g} ms", ms <= goal)


def draft_edit() -> list[Result]:
    """A lamp and a view edit, at rest (960 × 540) and while the hand moves (640 × 360)."""
    return [
        result("draft-edit, lamp", edits_ms(_lamp, moving=False), 150),
        result("draft-edit, view", edits_ms(_turn, moving=False), 150),
        result("draft-edit, lamp, moving", edits_ms(_lamp, moving=True), 150),
        result("draft-edit, view, moving", edits_ms(_turn, moving=True), 150),
    ]


def photograph() -> list[Result]:
    """A JPEG of 24 megapixels, from the beginning of its upload to the draft that shows it on the letters."""
    times = []
    noise = np.random.default_rng(1)
    with server() as (address, _):
        client = Client.connect(f"ws://{address}/live")
        client.send(
            json.dumps({"type": "open", "piece": create(address), "width": 960, "height": 540, "seq": 1})
        )
        _frame(client, 1, ("pass", "clean"))
        for run in range(PHOTOGRAPHS):
            small = Image.fromarray(noise.integers(0, 255, (400, 600, 3), np.uint8))
            out = io.BytesIO()
            small.resize((6000, 4000)).save(out, "JPEG", quality=92)
            started = time.perf_counter()
            request = urllib.request.Request(
                f"http://{address}/api/pictures?name=photograph",
                out.getvalue(),
                {"Content-Type": "application/octet-stream"},
            )
            with urllib.request.urlopen(request) as answer:
                name = json.load(answer)["id"]
            colour = {"base": "#808080", "layers": [{"kind": "picture", "picture": name}]}
            face = {"kind": "plastic", "colour": colour}
            edit = {"op": "replace", "path": "/blocks/0/surface/face", "value": face}
            client.send(json.dumps({"type": "edit", "seq": run + 2, "edits": [edit]}))
            _frame(client, run + 2)
            times.append(time.perf_counter() - started)
        client.close()
    seconds = statistics.median(times)
    return [
        Result("photograph on the stage", round(seconds, 2), "s", None, None, None, "≤ 2 s", seconds <= 2)
    ]


# From a key on a number field to the draft that answers it, drawn on the canvas.
IN_THE_PAGE = """
async ([label, edits]) => {
  const named = document.evaluate(`//label[text()="${label}"]`, document).iterateNext();
  const input = document.getElementById(named.htmlFor);
  const canvas = document.querySelector("canvas");
  input.focus();
  const times = [];
  for (let edit = 0; edit < edits; edit++) {
    const revision = Number(canvas.dataset.revision);
    const started = performance.now();
    await new Promise((done) => {
      const watcher = new MutationObserver(() => {
        if (Number(canvas.dataset.revision) <= revision) return;
        watcher.disconnect();
        requestAnimationFrame(() => done());
      });
      watcher.observe(canvas, { attributes: true });
      input.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowUp", bubbles: true }));
    });
    times.push(performance.now() - started);
    await new Promise((done) => setTimeout(done, 900));
  }
  return times;
}
"""


def draft_browser() -> list[Result]:
    """From a key pressed in the browser to the draft on its canvas, 95th percentile: a lamp and a
    view edit."""
    from playwright.sync_api import sync_playwright

    results = []
    with server() as (address, _), sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1312, "height": 800})
        page.goto(f"http://{address}/piece/{create(address)}")
        for station, label in (("Light", "Bearing"), ("View", "y")):
            page.locator("[data-part=recipe-cell]", has_text=station).click()
            page.locator("canvas[data-stage=clean]").wait_for(timeout=180_000)
            times = page.evaluate(IN_THE_PAGE, [label, EDITS])
            results.append(
                result(f"draft-browser, {station.lower()}, p95", statistics.quantiles(times, n=20)[-1], 120)
            )
        browser.close()
    return results


def word_edit() -> list[Result]:
    """A word retyped."""
    return [result("word-edit", edits_ms(_word, moving=False), 300)]


def start() -> list[Result]:
    """From starting the server to the first picture, kernels already compiled."""
    with server() as (address, started):
        ident = create(address)
        client = Client.connect(f"ws://{address}/live")
        client.send(json.dumps({"type": "open", "piece": ident, "width": 960, "height": 540, "seq": 1}))
        _frame(client, 1)
        seconds = time.perf_counter() - started
        client.close()
    return [Result("start", round(seconds, 2), "s", None, None, None, "≤ 4 s", seconds <= 4)]
