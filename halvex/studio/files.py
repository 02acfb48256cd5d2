"""Files of the data folder, written whole or not at all: a killed process leaves no half file under a name."""

import os
from pathlib import Path


def write_whole(path: Path, data: bytes) -> None:
    """Put `data` under a name at once."""
    unfinished = path.with_name(f"{path.name}.part")
    unfinished.write_bytes(data)
    os.replace(unfinished, path)
