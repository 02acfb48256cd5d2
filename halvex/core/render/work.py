"""Tiles on threads: kernels release the interpreter's lock, so a plain pool uses every core.

Work can be cancelled between tiles; any `concurrent.futures.Executor` may take the pool's place.
"""

import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import Executor, ThreadPoolExecutor
from functools import lru_cache

from halvex.core.render.world import Scratch, make_scratch

# So many threads of a pool take tiles, if it has as many, whatever this machine has.
LEAST_LOOPS = 4

_local = threading.local()


class CancelledError(Exception):
    """The work was overtaken by something newer."""


def thread_count() -> int:
    return len(os.sched_getaffinity(0))


@lru_cache(maxsize=1)
def shared_pool() -> ThreadPoolExecutor:
    """The process' pool for tiles: one thread per core."""
    return ThreadPoolExecutor(thread_count(), thread_name_prefix="tile")


def scratch() -> Scratch:
    """This thread's working memory."""
    if not hasattr(_local, "scratch"):
        _local.scratch = make_scratch()
    return _local.scratch


def run_tiles(pool: Executor, task: Callable[..., None], tiles: Iterable[tuple[int, ...]], cancelled: Callable[[], bool]) -> None:
    """Run task(*tile) for every tile, each thread taking the next that is left. Raises CancelledError when `cancelled()` turns true in between."""
    tiles = list(tiles)
    left = iter(tiles)

    def some() -> None:
        for tile in left:
            if cancelled():
                return
            task(*tile)

    for future in [pool.submit(some) for _ in range(min(max(thread_count(), LEAST_LOOPS), len(tiles)))]:
        future.result()
    if cancelled():
        raise CancelledError
