"""Content hashes: two values that say the same have the same digest, on any machine.

Every stage memoises on the digest of its input, so a moved lamp does not rebuild a mesh.
"""

import hashlib
import json
from typing import Any

from pydantic import BaseModel


def digest(*values: Any) -> str:
    """A 16-byte hexadecimal digest of plain values and parts of a piece.

    >>> digest(1, "a") == digest(1, "a"), digest(1) == digest(2)
    (True, False)
    """
    plain = [
        value.model_dump(mode="json", by_alias=True) if isinstance(value, BaseModel) else value
        for value in values
    ]
    text = json.dumps(plain, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:32]
