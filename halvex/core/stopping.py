"""Stopping: whoever starts long work says when it is out of date; the work asks between its parts.

with stoppable(overtaken):
    build_scene(piece)      # raises CancelledError between two letters once overtaken() is true
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


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


def stop_if_overtaken() -> None:
    """Raise CancelledError if whoever started this work no longer wants it."""
    if _overtaken.get()():
        raise CancelledError
