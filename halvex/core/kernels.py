"""How kernels are compiled: decorators, and the choice of what arithmetic may be rearranged."""

from numba import config, njit

from halvex.core.cache import cache_folder, kernel_group

# Full fast-math would let the compiler assume that no infinity occurs; slab tests need them.
SAFE_MATH = {"contract", "reassoc", "nsz", "arcp", "afn"}


_OPTIONS = {"cache": True, "nogil": True, "fastmath": SAFE_MATH, "error_model": "numpy", "_nrt": False}


def _compiled(function, options):
    """Numba asks for the cache's folder while it wraps a function, and only then."""
    before = config.CACHE_DIR
    config.CACHE_DIR = cache_folder(kernel_group(function.__module__))
    try:
        return njit(**options)(function)
    finally:
        config.CACHE_DIR = before


def kernel(function):
    """Compile a kernel: cached on disk, without the interpreter's lock, with the safe part of fast-math.

    Kernels allocate nothing, so they are compiled without reference counts: two threads that count
    references to the same arrays would spend most of their time on that.
    """
    return _compiled(function, _OPTIONS)


def helper(function):
    """Compile a small function into its callers: a call that hands over vectors costs more than
    most of them do."""
    return _compiled(function, {**_OPTIONS, "forceinline": True})


def exact_helper(function):
    """The same with exact arithmetic: what is computed twice is equal both times."""
    return _compiled(function, {"cache": True, "nogil": True, "_nrt": False, "forceinline": True})


def allocating_kernel(function):
    """Compile a kernel that makes arrays of its own, such as a tree; exact arithmetic."""
    return _compiled(function, {"cache": True, "nogil": True})
