"""Steps on threads, tiles among them: kernels release the interpreter's lock, so a plain pool uses
every core.

Work can be cancelled between steps; any `concurrent.futures.Executor` may take the pool's place.
"""

import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from functools import lru_cache, partial
from typing import Any, TypeVar

from halvex.core.references import Held
from halvex.core.render.world import Scratch, make_scratch
from halvex.core.stopping import CancelledError

# So many threads of a pool take steps, if it has as many, whatever this machine has.
LEAST_LOOPS = 4

T = TypeVar("T")

_local = threading.local()


def thread_count() -> int:
    return len(os.sched_getaffinity(0))


@lru_cache(maxsize=1)
def shared_pool() -> ThreadPoolExecutor:
    """The process' pool for tiles: one thread per core."""
    return ThreadPoolExecutor(thread_count(), thread_name_prefix="tile")


# A copy of the process has none of its threads.
os.register_at_fork(after_in_child=shared_pool.cache_clear)


def scratch() -> Scratch:
    """This thread's working memory."""
    if not hasattr(_local, "scratch"):
        _local.scratch = make_scratch()
    return _local.scratch


def held_scratch() -> Held:
    """The same for kernels that are called often."""
    if not hasattr(_local, "held"):
        _local.held = Held(scratch())
    held: Held = _local.held
    return held


class Steps:
    """Work in order. A step may need earlier ones; threads take the next that is left and wait for
    what it needs."""

    def __init__(self) -> None:
        self._works: list[tuple[Callable[[], None], tuple[int, ...]]] = []

    def add(self, work: Callable[[], None], needs: Iterable[int] = ()) -> int:
        """Add a step; its number, for others to need."""
        self._works.append((work, tuple(needs)))
        return len(self._works) - 1

    def run(self, pool: Executor, cancelled: Callable[[], bool]) -> None:
        """Run them all. Raises CancelledError when `cancelled()` turns true in between, or what a
        step raises."""
        ended, stopped = [threading.Event() for _ in self._works], threading.Event()
        left = iter(enumerate(self._works))

        def take() -> None:
            for number, (work, needs) in left:
                for need in needs:
                    ended[need].wait()
                if cancelled():
                    stopped.set()
                if not stopped.is_set():
                    work()
                ended[number].set()

        def some() -> None:
            try:
                take()
            except BaseException:
                stopped.set()
                # Threads that wait must learn that all has stopped.
                for event in ended:
                    event.set()
                raise

        for future in [
            pool.submit(some) for _ in range(min(max(thread_count(), LEAST_LOOPS), len(self._works)))
        ]:
            future.result()
        if stopped.is_set() or cancelled():
            raise CancelledError


class StoppablePool(Executor):
    """A pool that takes no more work once `cancelled()` is true: `submit` raises CancelledError then."""

    def __init__(self, pool: Executor, cancelled: Callable[[], bool]):
        self._pool, self._cancelled = pool, cancelled

    def submit(self, work: Callable[..., T], /, *given: Any, **named: Any) -> Future[T]:
        if self._cancelled():
            raise CancelledError
        return self._pool.submit(work, *given, **named)


def run_tiles(
    pool: Executor, task: Callable[..., None], tiles: Iterable[tuple[int, ...]], cancelled: Callable[[], bool]
) -> None:
    """Run task(*tile) for every tile, each thread taking the next that is left. Raises
    CancelledError when `cancelled()` turns true in between."""
    steps = Steps()
    for tile in tiles:
        steps.add(partial(task, *tile))
    steps.run(pool, cancelled)


def run_bands(pool: Executor, task: Callable[[int, int], None], rows: int, height: int) -> None:
    """Run task(first, end) for bands of so many rows of a picture of `height` rows, here and on threads of
    the pool; they are quick and not cancelled."""
    firsts = range(0, height, rows)
    left = iter(firsts)

    def take() -> None:
        for first in left:
            task(first, min(first + rows, height))

    others = [pool.submit(take) for _ in range(min(thread_count(), len(firsts)) - 1)]
    try:
        take()
    finally:
        for other in others:
            # One that has not begun by now would find nothing left.
            if not other.cancel():
                other.result()
