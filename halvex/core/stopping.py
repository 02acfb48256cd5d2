"""Stopping: whoever starts long work says when it is out of date; the work asks between its parts.

with stoppable(overtaken):
    build_scene(resolved)   # raises CancelledError between two letters once overtaken() is true
"""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

import numpy as np
from numpy.typing import NDArray

# How often a kernel's caller is asked whether the work was overtaken.
LOOK_S = 0.02


class CancelledError(Exception):
    """The work was overtaken by something newer."""


def _never() -> bool:
    return False


_overtaken: ContextVar[Callable[[], bool]] = ContextVar("overtaken", default=_never)


@contextmanager
def stoppable(overtaken: Callable[[], bool]) -> Iterator[None]:
    """Let work within this block, on this thread, stop as soon as `overtaken()` is true."""
    token = _overtaken.set(overtaken)
    try:
        yield
    finally:
        _overtaken.reset(token)


@contextmanager
def stop_flag() -> Iterator[NDArray[np.uint8]]:
    """An array (1,) for a compiled kernel to look at: it becomes 1 once the work within this block
    was overtaken.

    Raises CancelledError at the end of the block then.
    """
    flag, ended, overtaken = np.zeros(1, np.uint8), threading.Event(), _overtaken.get()
    if overtaken is _never:
        yield flag
        return

    def watch() -> None:
        while not ended.wait(LOOK_S):
            if overtaken():
                flag[0] = 1
                return

    watcher = threading.Thread(target=watch, name="overtaken", daemon=True)
    watcher.start()
    try:
        yield flag
    finally:
        ended.set()
    stop_if_overtaken()


def stop_if_overtaken() -> None:
    """Raise CancelledError if whoever started this work no longer wants it."""
    if _overtaken.get()():
        raise CancelledError
