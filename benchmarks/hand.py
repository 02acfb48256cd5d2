"""The hand in the browser: from a pointer or a key to the picture that answers it, while an export
runs beside.

95th percentiles, in Debian's Chromium, twelve letters, kernels warm.
"""

import json
import statistics
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from playwright.sync_api import Page, sync_playwright

from benchmarks.live import create, edits_ms, result, server
from benchmarks.result import Result

STEPS = 24
PAUSE_MS = 400
# Keeps when an event reached the page and when the next picture was drawn on the canvas.
WATCH = """
(kind) => {
  const canvas = document.querySelector("canvas");
  window.hand = { at: 0, took: 0, seq: Number(canvas.dataset.seq) };
  window.addEventListener(kind, () => {
    if (window.hand.waiting) return;
    Object.assign(window.hand, { at: performance.now(), waiting: true, took: 0 });
  }, true);
  new MutationObserver(() => {
    const seq = Number(canvas.dataset.seq);
    if (seq > window.hand.seq) {
      window.hand.seq = seq;
      if (!window.hand.waiting) return;
      requestAnimationFrame(() => {
        Object.assign(window.hand, { took: performance.now() - window.hand.at, waiting: false });
      });
    }
  }).observe(canvas, { attributes: true });
}
"""


@contextmanager
def _page(address: str, ident: str) -> Iterator[Page]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = browser.new_page(viewport={"width": 1312, "height": 800})
        page.goto(f"http://{address}/piece/{ident}")
        page.locator("canvas[data-stage=pass], canvas[data-stage=clean]").wait_for(timeout=180_000)
        yield page
        browser.close()


def _export(address: str, ident: str) -> None:
    order = json.dumps({"format": "png", "width": 3840, "quality": "final"}).encode()
    request = urllib.request.Request(
        f"http://{address}/api/pieces/{ident}/exports", order, {"Content-Type": "application/json"}
    )
    urllib.request.urlopen(request).close()


def _times(page: Page, kind: str, act: Callable[[int], Any]) -> list[float]:
    """How many ms from the first event of each act to the picture that it makes."""
    page.evaluate(WATCH, kind)
    times = []
    for step in range(STEPS):
        act(step)
        page.wait_for_function("() => window.hand.took > 0", timeout=60_000)
        times.append(
            float(page.evaluate("() => { const t = window.hand.took; window.hand.took = 0; return t; }"))
        )
        page.wait_for_timeout(PAUSE_MS)
    return times


def _p95(times: list[float]) -> float:
    return statistics.quantiles(times[2:], n=20)[-1]


def hand_move() -> list[Result]:
    """A block dragged on the stage, pointer move to picture, while an export runs."""
    with server() as (address, _):
        ident = create(address)
        with _page(address, ident) as page:
            _export(address, ident)
            box = page.locator("[data-part=block-frame]").bounding_box()
            assert box
            x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
            page.mouse.move(x, y)
            page.mouse.down()
            page.mouse.move(x + 9, y + 9)
            page.wait_for_timeout(1000)
            times = _times(
                page, "pointermove", lambda step: page.mouse.move(x + 12 + 3 * step, y + 11 + 2 * step)
            )
            page.mouse.up()
    return [result("hand-move, p95", _p95(times), 120)]


def hand_word() -> list[Result]:
    """A word retyped, a pair kerned, the typeface switched, while an export runs."""
    results = []
    for name, kind, act in (
        ("word", "input", _type),
        ("kern", "keydown", _kern),
        ("typeface", "click", _typeface),
    ):
        with server() as (address, _):
            ident = create(address)
            with _page(address, ident) as page:
                _export(address, ident)
                results.append(
                    result(
                        f"hand-word, {name}, p95",
                        _p95(_times(page, kind, lambda step, act=act, page=page: act(page, step))),
                        250,
                    )
                )
    return results


def _type(page: Page, step: int) -> None:
    words = page.get_by_label("Words", exact=True)
    if step == 0:
        words.focus()
        page.keyboard.press("Control+End")
    page.keyboard.press("Backspace" if step % 2 else "aenstr"[step // 2 % 6])


def _kern(page: Page, step: int) -> None:
    field = page.get_by_label("Kern P o", exact=True)
    if step == 0:
        field.focus()
    page.keyboard.press("ArrowUp")


def _typeface(page: Page, step: int) -> None:
    if step == 0:
        page.get_by_role("button", name="Typeface:").evaluate("button => button.click()")
        page.locator("[aria-label=Typefaces] li").first.wait_for()
        page.wait_for_timeout(12_000)
        page.evaluate("() => { window.hand.took = 0; window.hand.waiting = false; }")
    page.locator("[aria-label=Typefaces] li button").nth(step + 1).evaluate("button => button.click()")


def many() -> list[Result]:
    """A piece of 40 blocks and 1 000 letters: one block moved, edit to draft at 960 × 540."""
    blocks = [
        {
            "id": f"b{i}",
            "words": "PORT SORREL FERRY NOW OPEN ALL DAY"[: 25 + 5 * (i % 2)],
            "size": 30,
            "typeface": "anton",
            "place": {"x": -240 + 480 * (i % 2), "y": 250 - 25 * (i // 2)},
        }
        for i in range(40)
    ]
    document = {"canvas": {"width": 960, "height": 540}, "blocks": blocks}
    edit = [{"op": "shift", "path": "/blocks/7", "value": [0.0, 0.0]}]
    return [
        result(
            "many",
            edits_ms(
                lambda number: [{**edit[0], "value": [number + 1, number]}], moving=True, document=document
            ),
            500,
        )
    ]


def typefaces() -> list[Result]:
    """From opening the typeface browser to the pictures of its first row."""
    with server() as (address, _):
        ident = create(address)
        with _page(address, ident) as page:
            page.locator("canvas[data-stage=clean]").wait_for(timeout=180_000)
            took = page.evaluate(
                """async () => {
                  const started = performance.now();
                  document.querySelector("[data-part=typeface]").click();
                  const images = document.getElementsByTagName("img");
                  const shown = () =>
                    [...images].filter((image) => image.closest("[aria-label=Typefaces]")).slice(0, 2);
                  const drawn = (image) => image.complete && image.naturalWidth;
                  while (shown().length < 2 || !shown().every(drawn)) {
                    await new Promise(requestAnimationFrame);
                  }
                  return performance.now() - started;
                }"""
            )
    return [result("typefaces, first row", float(took), 1000)]
