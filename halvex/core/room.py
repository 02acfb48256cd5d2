"""Room for images that may be larger than memory: a large one lies in a file."""

import math
import os
import tempfile

import numpy as np
from numpy.typing import NDArray

# A larger image lies in a file without a name, which goes with the array: the system keeps as much of it in
# memory as there is room for.
IN_MEMORY_BYTES = 128_000_000


def room(shape: tuple[int, ...], *, zeroed: bool = False) -> NDArray[np.float32]:
    """An image of this shape, to be filled, or of zeros. Raises MemoryError where the disk has no room."""
    size = 4 * math.prod(shape)
    if size <= IN_MEMORY_BYTES:
        return np.zeros(shape, np.float32) if zeroed else np.empty(shape, np.float32)
    with tempfile.TemporaryFile() as file:
        try:
            # A mapped file that the disk turns out to have no room for would end the process.
            os.posix_fallocate(file.fileno(), 0, size)
        except OSError:
            raise MemoryError from None
        return np.asarray(np.memmap(file, np.float32, "r+", shape=shape))
