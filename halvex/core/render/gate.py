"""Where samples wait while the integrator's kernels are still being compiled by another process.

Compiling takes minutes, once after each change of the kernels; drafts have kernels of their own. Whoever
opens before that shuts the gate, and opens it when the kernels are there. It is open as a rule.
"""

import threading
from collections.abc import Callable

from halvex.core.stopping import CancelledError

LOOK_S = 0.1

_opened = threading.Event()
_opened.set()


def shut() -> None:
    """From now on samples wait."""
    _opened.clear()


def open_up() -> None:
    """Let all that wait go on."""
    _opened.set()


def is_open() -> bool:
    return _opened.is_set()


def wait(cancelled: Callable[[], bool] = lambda: False) -> None:
    """Wait until the gate is open. Raises CancelledError."""
    while not _opened.wait(LOOK_S):
        if cancelled():
            raise CancelledError
