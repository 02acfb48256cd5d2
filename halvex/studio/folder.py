"""The data folder before anything is opened: whose it is, whether it can be used, and the lock of
the server that uses it.

Nothing heavy is imported here, so that a folder that will not do is refused within a moment.
"""

import errno
import fcntl
import json
import os
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import IO

from halvex.studio.faults import StoreError

DATABASE = "halvex.sqlite"
SCHEMA_VERSION = 2
LOCK = "server.lock"
# Only the user may look into the folder and the database.
FOLDER_MODE, FILE_MODE = 0o700, 0o600
# A server that was just killed keeps its port and its folder until its memory is given back.
LETTING_GO_S = 0.5


def when_let_go(take: Callable[[], None]) -> None:
    """Take what a server uses, a port or a lock, once a server that was just killed has let it go.

    Raises OSError where it stays in use, or where `take` fails for another reason.
    """
    ends = time.monotonic() + LETTING_GO_S
    while True:
        try:
            return take()
        except OSError as fault:
            if fault.errno not in (errno.EADDRINUSE, errno.EWOULDBLOCK) or time.monotonic() > ends:
                raise
        time.sleep(0.05)


def check_folder(folder: Path) -> None:
    """Raises StoreError where a server could not use the folder now."""
    claim(folder).close()


def claim(folder: Path, address: str = "") -> IO[str]:
    """Make the folder ready for the one server that may use it; hold the result for as long as it runs.

    Raises StoreError where another server uses the folder, naming it, or where the folder cannot be used.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=FOLDER_MODE)
        folder.chmod(FOLDER_MODE)
        # A lock belongs to the open file: what a killed server leaves behind holds nobody up.
        lock = (folder / LOCK).open("a+")
    except OSError as fault:
        raise StoreError(
            "data", f"the data folder {folder} cannot be used ({fault.strerror}); name another with --data"
        ) from None
    try:
        when_let_go(lambda: fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB))
    except OSError:
        with lock:
            lock.seek(0)
            user = _named(lock.read())
        raise StoreError(
            "data", f"the data folder {folder} is in use by {user}; use that one, or name another with --data"
        ) from None
    try:
        check_database(folder)
    except StoreError:
        lock.close()
        raise
    lock.truncate(0)
    lock.write(json.dumps({"address": address, "process": os.getpid()}))
    lock.flush()
    return lock


def _named(text: str) -> str:
    try:
        server = json.loads(text)
        return f"the Halvex at {server['address']} (process {server['process']})"
    except (ValueError, TypeError, KeyError):
        return "another Halvex"


def check_database(folder: Path) -> None:
    """Raises StoreError where a folder's database, if it has one, is of a newer Halvex, broken, or
    cannot be written."""
    path = folder / DATABASE
    if not path.exists():
        return
    if not os.access(path, os.R_OK | os.W_OK):
        raise StoreError(
            "data", f"{path} cannot be written; change its permissions, or name another folder with --data"
        )
    try:
        with closing(sqlite3.connect(path)) as connection:
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            connection.execute("PRAGMA schema_version").fetchone()
    except sqlite3.DatabaseError as fault:
        raise StoreError(
            "data",
            f"{path} is no database of Halvex ({fault}); move it away, or name another folder with --data",
        ) from None
    if version > SCHEMA_VERSION:
        raise StoreError(
            "data",
            f"the data folder is of a newer Halvex (version {version}); update Halvex, or name "
            "another with --data",
        )
