"""What tests of stored things share: a store in a folder of its own, and a piece in it."""

import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path

from halvex.core.piece import Piece
from halvex.studio import store
from halvex.studio.pieces import pieces


class StoreCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(ignore_cleanup_errors=True)
        self.addCleanup(folder.cleanup)
        self.addCleanup(store.database.close)
        self.folder = Path(folder.name)
        store.open_store(self.folder)
        self.ident = pieces.create(Piece())

    def start(self, script: str) -> subprocess.Popen[str]:
        process = subprocess.Popen(
            [sys.executable, "-c", script, str(self.folder)], stdout=subprocess.PIPE, text=True
        )
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        assert process.stdout is not None
        self.addCleanup(process.stdout.close)
        self.assertEqual(process.stdout.readline().strip(), "ready")
        return process

    def states(self) -> int:
        return store.Revision.select().where(store.Revision.piece == self.ident).count()

    def wait(self, condition: Callable[[], bool]) -> None:
        for _ in range(1200):
            if condition():
                return
            time.sleep(0.1)
        self.fail("it never came to that")
