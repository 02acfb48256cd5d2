"""Content keys: equal where what they stand for is equal, on any machine.

Renderers keep what they made by these keys. They are taken from the numbers that a renderer reads, so
nothing that a picture does not depend on (names, locks, groups, units) can change one.
"""

import hashlib
from typing import Any, NamedTuple

import numpy as np


class SceneKeys(NamedTuple):
    """A key for each part of a scene; `paints` is what materials look like, `materials` also which part has
    which, and over what they are laid; `ground` is its place, whose paint is among the materials, `backing`
    how it is shown."""

    bodies: str
    paints: str
    materials: str
    light_geometry: str
    light_levels: str
    camera: str
    ground: str
    backing: str
    backdrop: str


def content_key(*values: Any) -> str:
    """A 16-byte hexadecimal digest of numbers, texts, arrays and tuples of them.

    >>> content_key(np.zeros(2), "a") == content_key(np.zeros(2), "a")
    True
    >>> content_key(np.zeros(2)) == content_key(np.zeros(3))
    False
    """
    state = hashlib.blake2b(digest_size=16)
    _add(state, values)
    return state.hexdigest()


def _add(state: Any, value: Any) -> None:
    if isinstance(value, tuple | list):
        state.update(b"(%d" % len(value))
        for part in value:
            _add(state, part)
    elif isinstance(value, np.ndarray):
        state.update(f"{value.dtype.str}{value.shape}".encode())
        state.update(np.ascontiguousarray(value).data)
    else:
        # Lengths in front, so that no two sequences of values read alike.
        data = value if isinstance(value, bytes) else str(value).encode()
        state.update(f"{type(value).__name__}{len(data)}:".encode())
        state.update(data)
