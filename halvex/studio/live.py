"""A live session: one window looking at one piece, and the picture that follows its hand.

A session has one drawing thread. It always works on the newest state: an edit overtakes whatever is
being drawn, between two tiles. First comes the draft, then the path integrator's passes, each shown,
at last the clean picture.
"""

import io
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from PIL import Image

from halvex.core.finish.picture import Picture, finish_film
from halvex.core.lettering import LetteringError
from halvex.core.optics.tone import to_bytes
from halvex.core.piece import Piece
from halvex.core.render.film import Film, add_samples
from halvex.core.render.sketch import Sketcher
from halvex.core.render.work import CancelledError, shared_pool
from halvex.core.render.world import make_world
from halvex.core.scene import build_scene
from halvex.core.solids import SolidError

LARGEST_STAGE_PX = 2600
# Samples per pixel after which the picture is shown again; the last one is the settled picture.
PASSES = (2, 4, 8, 16, 32, 56)
# A tile is this many samples long: the time an edit may have to wait for one to end.
SAMPLES_BETWEEN_LOOKS = 4
# While the hand moves, drafts are drawn at this share of the size.
MOVING_SCALE = 2 / 3
# Rest before the first pass, so that quick edits do not start work that is thrown away.
REST_S = 0.12
DRAFT_QUALITY = 90


@dataclass(frozen=True)
class Wanted:
    """What the window shows: a piece at a revision, at a size in px, and whether the hand is moving."""

    piece: Piece
    revision: int
    seq: int
    width: int
    height: int
    moving: bool


Send = Callable[[dict[str, Any], bytes | None], None]


class LiveSession:
    """Draws the newest wanted picture and sends its frames with `send(header, image bytes)`."""

    def __init__(self, send: Send):
        self._send = send
        self._changed = threading.Condition()
        self._wanted: Wanted | None = None
        self._number = 0
        self._closed = False
        self._sketcher = Sketcher()
        self._cleaner = ThreadPoolExecutor(1, thread_name_prefix="clean")
        self._thread = threading.Thread(target=self._draw_all, name="live", daemon=True)
        self._thread.start()

    def show(self, wanted: Wanted) -> None:
        """From now on, this is what the window wants to see."""
        with self._changed:
            self._wanted = wanted
            self._number += 1
            self._changed.notify_all()

    def close(self) -> None:
        with self._changed:
            self._closed = True
            self._number += 1
            self._changed.notify_all()
        self._cleaner.shutdown(wait=False, cancel_futures=True)

    def _newer_than(self, number: int) -> bool:
        return self._number != number

    def _draw_all(self) -> None:
        drawn = 0
        while True:
            with self._changed:
                self._changed.wait_for(partial(self._newer_than, drawn))
                if self._closed:
                    return
                wanted, drawn = self._wanted, self._number
            if wanted is None:
                continue
            try:
                self._draw(wanted, partial(self._newer_than, drawn))
            except CancelledError:
                continue
            except (LetteringError, SolidError) as fault:
                self._send({"type": "problem", "seq": wanted.seq, "revision": wanted.revision, "detail": str(fault)}, None)
            except ConnectionError:
                return

    def _draw(self, wanted: Wanted, overtaken: Callable[[], bool]) -> None:
        canvas = wanted.piece.canvas
        fit = min(wanted.width / canvas.width, wanted.height / canvas.height, 1.0)
        started = time.perf_counter()
        self._draft(wanted, fit * MOVING_SCALE if wanted.moving else fit, started)
        if wanted.moving:
            return
        self._pause(overtaken)
        width, height = _size(wanted.piece, fit)
        scene = build_scene(wanted.piece, px_scale=width / canvas.width)
        world = make_world(scene)
        film = Film(width, height)
        for total in PASSES:
            while film.samples < total:
                step = min(SAMPLES_BETWEEN_LOOKS, total - film.samples)
                add_samples(world, film, step, pool=shared_pool(), cancelled=overtaken)
            settled = total == PASSES[-1]
            finish = partial(finish_film, film, world.backdrop, scene.exposure, transparent=False, clean="high" if settled else "fast")
            picture = self._beside(finish, overtaken)
            data = _encode((picture.display * 255 + 0.5).astype(np.uint8), lossless=settled)
            self._send(_frame(wanted, "clean" if settled else "pass", total, width, height, started), data)

    def _draft(self, wanted: Wanted, fit: float, started: float) -> None:
        """The draft is never cancelled: a newer edit waits the few ms, so that a steady hand sees steady frames."""
        width, height = _size(wanted.piece, fit)
        scene = build_scene(wanted.piece, px_scale=width / wanted.piece.canvas.width)
        linear = self._sketcher.draw(wanted.piece, make_world(scene), width, height, pool=shared_pool())
        self._send(_frame(wanted, "draft", 0, width, height, started), _encode(to_bytes(linear, scene.exposure), lossless=False))

    def _beside(self, finish: Callable[[], Picture], overtaken: Callable[[], bool]) -> Picture:
        """Clean a film on another thread: it cannot be stopped, and the hand shall not wait for it."""
        future = self._cleaner.submit(finish)
        future.add_done_callback(self._wake)
        with self._changed:
            self._changed.wait_for(lambda: future.done() or overtaken())
        if overtaken():
            future.cancel()
            raise CancelledError
        return future.result()

    def _wake(self, _: object) -> None:
        with self._changed:
            self._changed.notify_all()

    def _pause(self, overtaken: Callable[[], bool]) -> None:
        with self._changed:
            self._changed.wait_for(overtaken, timeout=REST_S)
        if overtaken():
            raise CancelledError


def _size(piece: Piece, fit: float) -> tuple[int, int]:
    return max(round(piece.canvas.width * fit), 1), max(round(piece.canvas.height * fit), 1)


def _frame(wanted: Wanted, stage: str, samples: int, width: int, height: int, started: float) -> dict[str, Any]:
    return {
        "type": "frame",
        "seq": wanted.seq,
        "revision": wanted.revision,
        "stage": stage,
        "samples": samples,
        "of": PASSES[-1],
        "width": width,
        "height": height,
        "ms": round((time.perf_counter() - started) * 1000),
        "media": "image/png" if stage == "clean" else "image/jpeg",
    }


def _encode(pixels: np.ndarray, *, lossless: bool) -> bytes:
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    if lossless:
        image.save(out, "PNG", compress_level=1)
    else:
        image.save(out, "JPEG", quality=DRAFT_QUALITY, subsampling=0)
    return out.getvalue()
