"""A live session: one window looking at one piece, and the picture that follows its hand.

A session has one drawing thread. It always works on the newest state: an edit overtakes whatever is
being drawn, between two tiles. First comes the draft, then the path integrator's passes, each shown,
at last the clean picture, which is as near to the converged one as a final export.

The film is kept with each light's share apart. An edit that only changes strengths, colours or the
exposure develops it anew at once and goes on where it stood.
"""

import logging
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.picture import display_of, finish, finished_bytes
from halvex.core.lettering import LetteringError
from halvex.core.memory import next_picture
from halvex.core.output.pictures import to_integers
from halvex.core.piece import to_json
from halvex.core.piece.digest import digest
from halvex.core.piece.resolving import resolve
from halvex.core.render import gate
from halvex.core.render.assembling import make_world
from halvex.core.render.clean import flip_to_converged, next_step
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, add_samples, in_parts, light_levels
from halvex.core.render.layers import RenderLayers, develop, relit
from halvex.core.render.noise import AIM, LIVE_PASSES, MOST_SAMPLES, STILL_CLEAN
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World
from halvex.core.scene import Scene, SceneError, build_scene
from halvex.core.solids import SolidError
from halvex.core.stopping import CancelledError, stoppable
from halvex.studio import finished
from halvex.studio.assets import assets
from halvex.studio.finished import Developed
from halvex.studio.frames import Wanted, encoded, fineness, frame_header, scale_of, size_of
from halvex.studio.precedence import precedence

# Picture px per px of the canvas, at most, where a part of it is looked at closely.
MOST_DETAIL = 8.0
# A tile is this many samples long: the time an edit may have to wait for one to end.
SAMPLES_BETWEEN_LOOKS = 2
# The draft that follows the hand has at most so many pixels (640 × 360), however large the stage.
QUICK_PX = 640 * 360
# Where even that takes long (a slow machine, an export beside), its sides shrink by these shares,
# step by step: down when a quick draft took over SLOW_MS, up again when it took under FAST_MS.
COARSENESS = (1.0, 0.75, 0.5)
SLOW_MS, FAST_MS = 60.0, 16.0
# Rest before the first pass, so that quick edits do not start work that is thrown away.
REST_S = 0.12
# Whoever waits for bodies to be built, or for a picture, waits so long at most.
WAIT_S = 0.25
# Denoising the last picture and sending it takes about so long; and of the pace of samples so much is kept
# while a next few are taken.
FINISHING_S = 1.0
PACE_KEPT = 0.9
# While the integrator is compiled, a window hears how far it is so often.
PREPARING_EVERY_S = 1.0
FAULT = (
    "this piece could not be drawn because of a fault in Halvex, which the server's log records; "
    "undo the last edit, or try other numbers"
)

log = logging.getLogger(__name__)

T = TypeVar("T")


@dataclass
class _Settled:
    """A finished picture as it was sent: what it depends on, its header's numbers, its bytes and what it is
    finished from, which lives as long as the stage shows it."""

    of: tuple[object, ...]
    samples: float
    data: bytes
    developed: Developed


@dataclass
class _Kept:
    """A film and what it is of: the scene's film key and the size."""

    key: tuple[object, ...]
    size: tuple[int, int]
    world: World
    film: Film
    developed: tuple[RenderLayers, NDArray[np.float32]] | None = None  # the last layers, and their levels
    settled: _Settled | None = None


@dataclass
class _Pace:
    """How fast this machine takes samples of late."""

    samples: float = 0.0
    seconds: float = 0.0

    @property
    def seconds_per_sample(self) -> float:
        return self.seconds / max(self.samples, 1.0)

    @contextmanager
    def of(self, samples: int) -> Iterator[None]:
        """Measure so many samples that are taken within this block."""
        started = time.perf_counter()
        yield
        # What is long past counts less and less.
        self.samples = PACE_KEPT * self.samples + samples
        self.seconds = PACE_KEPT * self.seconds + time.perf_counter() - started


Send = Callable[[dict[str, Any], bytes | None], None]


class LiveSession:
    """Draws the newest wanted picture and sends its frames with `send(header, image bytes)`."""

    def __init__(self, send: Send):
        self._send = send
        self._changed = threading.Condition()
        self._wanted: Wanted | None = None
        self._number = 0
        self._built = self._shown = 0
        self._closed = False
        self._quick, self._whole = Sketcher(), Sketcher()
        self._coarse = 0
        self._pace = _Pace()
        self._kept: _Kept | None = None
        self._latest: Scene | None = None
        self._cleaner = ThreadPoolExecutor(1, thread_name_prefix="clean")
        self._thread = threading.Thread(target=self._draw_all, name="live", daemon=True)
        self._thread.start()

    def show(self, wanted: Wanted) -> int:
        """From now on, this is what the window wants to see; returns its number."""
        with self._changed:
            self._wanted = wanted
            self._number += 1
            self._changed.notify_all()
            return self._number

    def wait_for(self, number: int, *, shown: bool) -> None:
        """Wait until the bodies of what was wanted are built, or its first picture is `shown`, or
        it was overtaken or cannot be drawn; for a moment at most.

        Who needs the same bodies then finds them built, and what else is done then does not hold up
        the picture.
        """
        with self._changed:
            self._changed.wait_for(
                lambda: (self._shown if shown else self._built) >= number or self._closed, timeout=WAIT_S
            )

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
                with stoppable(partial(self._newer_than, drawn)):
                    self._draw(wanted, drawn)
            except CancelledError:
                continue
            except ConnectionError:
                return
            except Exception as fault:
                self._report(wanted, fault)
            finally:
                self._note(drawn, shown=True)

    def _report(self, wanted: Wanted, fault: Exception) -> None:
        """Tell the window why there is no picture. The thread lives on, whatever the fault: the
        next edit is drawn."""
        if isinstance(fault, (LetteringError, SolidError, SceneError)):
            detail = str(fault)
        else:
            log.error("piece %s cannot be drawn", digest(to_json(wanted.piece)), exc_info=fault)
            detail = (
                "out of memory; make the piece smaller or simpler"
                if isinstance(fault, MemoryError)
                else FAULT
            )
        with suppress(ConnectionError):
            self._send(
                {"type": "problem", "seq": wanted.seq, "revision": wanted.revision, "detail": detail}, None
            )

    def _note(self, number: int, *, shown: bool) -> None:
        """What was wanted is built, or is shown."""
        with self._changed:
            self._built = number
            self._shown = number if shown else self._shown
            self._changed.notify_all()

    def _draw(self, wanted: Wanted, number: int) -> None:
        overtaken = partial(self._newer_than, number)
        next_picture()
        started = time.perf_counter()
        with precedence.first():
            drawn = self._sketch(wanted, number, overtaken, started)
        if drawn is not None:
            self._pause(overtaken)
            self._prepare(overtaken)
            self._refine(wanted, *drawn, overtaken, started)

    def _sketch(
        self, wanted: Wanted, number: int, overtaken: Callable[[], bool], started: float
    ) -> tuple[Scene, tuple[int, int]] | None:
        """Show the draft, or what is kept of this picture; the scene and the size in px of what is still
        to be refined, if anything is."""
        width, height = wanted.part
        # A whole canvas is shown no larger than it is; of one that is looked at closely a part is.
        fit = min(wanted.width / width, wanted.height / height, 1.0 if wanted.zoom == 1 else MOST_DETAIL)
        size = size_of(wanted, fit)
        scene = self._scene(wanted, size)
        kept = self._kept
        if (
            kept is not None
            and (kept.key, kept.size) == (scene.film_key, size)
            and kept.developed is not None
        ):
            if kept.settled is not None and kept.settled.of == _picture_key(scene, size):
                settled = kept.settled
                self._send(frame_header(wanted, "clean", size, started, settled.samples), settled.data)
                return None
            self._relight(wanted, scene, kept, started)
            self._note(number, shown=True)
            self._rest(wanted, overtaken)
        else:
            # The quick draft is never cancelled: a newer edit waits the few ms, so that a steady
            # hand sees steady frames.
            quick = size_of(
                wanted,
                fit * min((QUICK_PX / (size[0] * size[1])) ** 0.5, 1.0) * COARSENESS[self._coarse],
            )
            self._note(number, shown=False)
            self._draft(wanted, scene.at_scale(scale_of(wanted, quick)), quick, self._quick, started)
            self._note(number, shown=True)
            self._keep_pace((time.perf_counter() - started) * 1000)
            self._rest(wanted, overtaken)
            if quick != size:
                self._draft(wanted, scene, size, self._whole, started, overtaken)
        return scene, size

    def _keep_pace(self, ms: float) -> None:
        if ms > SLOW_MS:
            self._coarse = min(self._coarse + 1, len(COARSENESS) - 1)
        elif ms < FAST_MS:
            self._coarse = max(self._coarse - 1, 0)

    def _rest(self, wanted: Wanted, overtaken: Callable[[], bool]) -> None:
        """Go on only if this is the newest state and the hand rests."""
        if wanted.moving or overtaken():
            raise CancelledError

    def _draft(
        self,
        wanted: Wanted,
        scene: Scene,
        size: tuple[int, int],
        sketcher: Sketcher,
        started: float,
        overtaken: Callable[[], bool] = lambda: False,
    ) -> None:
        layers = sketcher.draw(scene, *size, pool=shared_pool(), cancelled=overtaken)
        pixels = finished_bytes(layers, scene.finish, scene, pool=shared_pool())
        self._send(frame_header(wanted, "draft", size, started), encoded(pixels, lossless=False))

    def _relight(self, wanted: Wanted, scene: Scene, kept: _Kept, started: float) -> None:
        """Show the kept film at other levels, without tracing anything."""
        assert kept.developed is not None
        layers, before = kept.developed
        layers = relit(
            layers, kept.film, before, light_levels(make_world(scene, sampled=False)), scene.finish
        )
        header = frame_header(wanted, "pass", kept.size, started, kept.film.samples)
        pixels = finished_bytes(layers, scene.finish, scene, pool=shared_pool())
        self._send(header, encoded(pixels, lossless=False))

    def _scene(self, wanted: Wanted, size: tuple[int, int]) -> Scene:
        """The scene for a stage of this size."""
        scale = scale_of(wanted, size)
        piece = wanted.piece.model_copy(update={"finish": ()}) if wanted.bare else wanted.piece
        whole = build_scene(resolve(piece, assets()), px_scale=scale, detail=fineness(scale))
        # What it is made of is found by the next one, however large it is.
        self._latest = whole
        return whole if wanted.zoom == 1 else whole.for_part(wanted.left, wanted.top, *wanted.part)

    def _refine(
        self,
        wanted: Wanted,
        scene: Scene,
        size: tuple[int, int],
        overtaken: Callable[[], bool],
        started: float,
    ) -> None:
        """Pass after pass, each shown, until the denoised picture has the quality of a final export."""
        world, key = make_world(scene), scene.film_key
        levels = light_levels(world)
        kept = self._kept
        if kept is None or (kept.key, kept.size) != (key, size):
            kept = self._kept = _Kept(
                key, size, world, Film(size[0], size[1], len(levels), blocks=scene.covered_blocks)
            )
        film = kept.film
        shown = display_of(scene.finish)

        def add(each: NDArray[np.int32]) -> None:
            for some in in_parts(each, SAMPLES_BETWEEN_LOOKS):
                with self._pace.of(int(some.sum())):
                    add_samples(kept.world, film, some, pool=shared_pool(), cancelled=overtaken)

        def show(stage: str) -> tuple[RenderLayers, bytes]:
            is_clean = stage == "clean"
            developing = partial(
                develop,
                film,
                levels,
                scene.finish,
                transparent=False,
                clean="high" if is_clean else "fast",
                pool=shared_pool(),
            )
            layers = self._beside(developing, overtaken)
            kept.developed = layers, levels
            if is_clean:
                # Dithered as it is delivered: smooth backdrops show no bands.
                pixels = np.asarray(to_integers(finish(layers, scene.finish, scene)), np.uint8)
            else:
                pixels = finished_bytes(layers, scene.finish, scene, pool=shared_pool())
            data = encoded(pixels, lossless=is_clean)
            self._send(frame_header(wanted, stage, size, started, film.samples), data)
            return layers, data

        for total in LIVE_PASSES:
            due = np.maximum(film.early(kept.world, total) - film.counts, 0)
            if due.any():
                add(due)
                show("pass")
        aim = AIM["final"] * (1.0 if kept.settled is None else STILL_CLEAN)
        while True:
            judging = partial(flip_to_converged, film, levels, scene.finish, shown, shared_pool(), overtaken)
            step = next_step(film, self._beside(judging, overtaken), aim, MOST_SAMPLES["final"])
            if step is None:
                break
            self._foretell(wanted, (step.in_the_end - film.samples) * film.counts.size)
            add(film.wanted(step.mean, levels, shown))
            if step.is_last:
                break
            show("pass")
        layers, data = show("clean")
        developed = Developed(layers, scene.finish, scene)
        kept.settled = _Settled(_picture_key(scene, size), film.samples, data, developed)
        if wanted.zoom == 1 and not wanted.bare:
            finished.keep(wanted.piece, developed)

    def _foretell(self, wanted: Wanted, samples: float) -> None:
        """Tell the window when the picture will be final, if it takes so many samples more."""
        seconds = round(samples * self._pace.seconds_per_sample + FINISHING_S, 1)
        self._send({"type": "outlook", "revision": wanted.revision, "seconds": seconds}, None)

    def _beside(self, work: Callable[[], T], overtaken: Callable[[], bool]) -> T:
        """Work on a film on another thread: denoising cannot be stopped, and the hand does not wait."""
        future = self._cleaner.submit(work)
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

    def _prepare(self, overtaken: Callable[[], bool]) -> None:
        """Wait for the integrator, and tell the window how far it is."""
        while not gate.is_open():
            self._send({"type": "preparing", "share": round(gate.share(), 3)}, None)
            with self._changed:
                self._changed.wait_for(lambda: overtaken() or gate.is_open(), timeout=PREPARING_EVERY_S)
            if overtaken():
                raise CancelledError

    def _pause(self, overtaken: Callable[[], bool]) -> None:
        with self._changed:
            self._changed.wait_for(overtaken, timeout=REST_S)
        if overtaken():
            raise CancelledError


def _picture_key(scene: Scene, size: tuple[int, int]) -> tuple[object, ...]:
    """All that a finished picture depends on."""
    return scene.keys, scene.finish, size
