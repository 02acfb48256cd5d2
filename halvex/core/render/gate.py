"""Where samples wait while the integrator's kernels are still being compiled by another process.

Compiling takes minutes, once after each change of the kernels; drafts have kernels of their own. Whoever
opens before that shuts the gate, and opens it when the kernels are there. It is open as a rule.
"""

import threading
import time
from collections.abc import Callable

from halvex.core.stopping import CancelledError

LOOK_S = 0.1
# A wait that lasts longer than was expected is almost over.
MOST_SHARE = 0.99

_opened = threading.Event()
_opened.set()
_since, _expected = 0.0, 1.0


def shut(expected_s: float) -> None:
    """From now on samples wait, for about so long."""
    global _since, _expected
    _since, _expected = time.monotonic(), max(expected_s, 1.0)
    _opened.clear()


def open_up() -> None:
    """Let all that wait go on."""
    _opened.set()


def is_open() -> bool:
    return _opened.is_set()


def share() -> float:
    """How much of the wait is over, as was expected; 1 when it is."""
    return 1.0 if is_open() else min((time.monotonic() - _since) / _expected, MOST_SHARE)


def seconds_left() -> float:
    """How long the wait will still take, as was expected; 0 when it is over."""
    return 0.0 if is_open() else max(_expected - (time.monotonic() - _since), 0.0)


def wait(cancelled: Callable[[], bool] = lambda: False) -> None:
    """Wait until the gate is open. Raises CancelledError."""
    while not _opened.wait(LOOK_S):
        if cancelled():
            raise CancelledError
