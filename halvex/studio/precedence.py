"""The hand goes first: processes that give way stand still while an edit is stored and its draft is drawn.

The lowest priority is not enough: they share memory and caches with the draft, and often a core.
"""

import signal
import subprocess
import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Precedence:
    """Stops processes while anyone goes first. A stopped one must hold nothing that others wait for."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._first = 0
        self._giving_way: set[subprocess.Popen[str]] = set()

    @contextmanager
    def first(self) -> Iterator[None]:
        """Go before all processes that give way, within this block."""
        self._count(1)
        try:
            yield
        finally:
            self._count(-1)

    def give_way(self, process: subprocess.Popen[str]) -> None:
        """From now on, this process gives way."""
        with self._lock:
            self._giving_way.add(process)
            if self._first:
                process.send_signal(signal.SIGSTOP)

    def forget(self, process: subprocess.Popen[str]) -> None:
        """From now on, it does not."""
        with self._lock:
            self._giving_way.discard(process)
            process.send_signal(signal.SIGCONT)

    def _count(self, step: int) -> None:
        with self._lock:
            before, self._first = self._first, self._first + step
            if not (before and self._first):
                for process in self._giving_way:
                    process.send_signal(signal.SIGSTOP if self._first else signal.SIGCONT)


precedence = Precedence()
