"""How kernels are compiled: decorators, and the choice of what arithmetic may be rearranged."""

from numba import config, njit

from halvex.core.cache import cache_folder, kernel_group
from halvex.core.inlining import Helper
from halvex.core.widening import WideCompiler

# Full fast-math would let the compiler assume that no infinity occurs; slab tests need them.
SAFE_MATH = {"contract", "reassoc", "nsz", "arcp", "afn"}


# What is left out here numba takes from the caller's options: what a helper calls would be compiled into it.
_EXACT = {"nogil": True, "_nrt": False, "forceinline": False}
_ARITHMETIC = {**_EXACT, "fastmath": SAFE_MATH, "error_model": "numpy"}


def _compiled(function, options):
    """Numba asks for the cache's folder while it wraps a function, and only then."""
    before = config.CACHE_DIR
    config.CACHE_DIR = cache_folder(kernel_group(function.__module__))
    try:
        return njit(**options, cache=True)(function)
    finally:
        config.CACHE_DIR = before


def kernel(function):
    """Compile a kernel: cached on disk, without the interpreter's lock, with the safe part of fast-math.

    Kernels allocate nothing, so they are compiled without reference counts: two threads that count
    references to the same arrays would spend most of their time on that.
    """
    return _compiled(function, _ARITHMETIC)


def wide_kernel(function):
    """A kernel in the widest vectors that the processor has: for loops over images, in rows of numbers."""
    return _compiled(function, {**_ARITHMETIC, "pipeline_class": WideCompiler})


def helper(function):
    """Compile a small function into its callers: a call that hands over vectors costs more than
    most of them do."""
    return Helper(function, {**_ARITHMETIC, "forceinline": True}, kernel)


def routine(function):
    """Compile a larger function along with its callers, which share it: compiled into each place where it is
    called it would make them longer than compilers can digest."""
    return Helper(function, _ARITHMETIC, kernel)


def exact_helper(function):
    """The same with exact arithmetic: what is computed twice is equal both times."""
    return Helper(function, {**_EXACT, "forceinline": True}, lambda alone: _compiled(alone, _EXACT))


def allocating_kernel(function):
    """Compile a kernel that makes arrays of its own, such as a tree; exact arithmetic."""
    return _compiled(function, {"nogil": True, "forceinline": False})
