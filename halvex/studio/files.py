"""Files of the data folder, written whole or not at all: a killed process or a full disk leaves no
half file under a name."""

import errno
import os
from contextlib import suppress
from pathlib import Path

from halvex.studio.faults import NoRoomError, StoreError

PART = ".part"
FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


def write_whole(path: Path, data: bytes) -> None:
    """Put `data` under a name at once. Raises StoreError, or NoRoomError on a full disk; nothing is
    left behind then."""
    unfinished = path.with_name(f"{path.name}{PART}")
    try:
        unfinished.write_bytes(data)
        os.replace(unfinished, path)
    except OSError as fault:
        # What kept the file from being written may keep it from being found.
        with suppress(OSError):
            unfinished.unlink(missing_ok=True)
        kind = NoRoomError if fault.errno in FULL else StoreError
        raise kind("disk", disk_words(fault)) from fault


def remove_unfinished(folder: Path) -> None:
    """Remove what a killed process has left half written in a folder."""
    for path in folder.glob(f"*{PART}"):
        path.unlink(missing_ok=True)


def disk_words(fault: OSError) -> str:
    """What an error of the disk means, and what helps."""
    if fault.errno in FULL:
        return "the disk is full; make room on it and try again"
    return f"the disk does not take it ({fault.strerror or fault}); check the data folder"
