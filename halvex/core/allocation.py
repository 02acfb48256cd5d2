"""Freed memory and garbage: what a draft is made of is wanted again at once, and no draft waits for the
collector."""

import ctypes
import gc

# So much of freed memory stays with the process; arrays larger than `LARGEST_KEPT` go back at once.
KEPT_BYTES, LARGEST_KEPT = 128_000_000, 32 * 2**20

# Numbers of the settings, from glibc's malloc.h.
_TRIM_THRESHOLD, _MMAP_THRESHOLD, _ARENA_MAX = -1, -3, -8


def keep_freed_memory() -> bool:
    """Keep the memory of freed arrays for the next ones, whichever thread asks for them; returns whether the
    C library can do so (only glibc can).

    A draft's images take tens of megabytes. To get as much from the system each time, page by page, took up
    to a seventh of the processor's time that a draft takes.
    """
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is None:
        return False
    settings = {_TRIM_THRESHOLD: KEPT_BYTES, _MMAP_THRESHOLD: LARGEST_KEPT, _ARENA_MAX: 1}
    return all(mallopt(setting, value) for setting, value in settings.items())


def collect_rarely() -> None:
    """Leave what is loaded by now out of garbage collection for good, and collect the rest rarely. Kept
    bodies are many and hold no cycles: to walk them all would hold up a frame by 150 ms."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 200)
