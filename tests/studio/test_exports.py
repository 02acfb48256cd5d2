"""Exports: pictures made by a process of its own, which gives way to the hand."""

import io
import json
import os
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from halvex.core.piece import piece_from_values, to_json
from halvex.studio import finished, store
from halvex.studio.exports import Exporter, ExportOrder
from halvex.studio.frames import Wanted
from halvex.studio.live import LiveSession
from halvex.studio.precedence import precedence
from tests.studio.store_case import StoreCase

TINY = {"canvas": {"width": 96, "height": 54}, "blocks": [{"words": "i", "size": 40}]}
# A server that is killed while the process that makes its exports stands still.
SERVER = """
import sys, time
from pathlib import Path
from halvex.studio import store
from halvex.studio.exports import Exporter, ExportOrder, get_export
from halvex.studio.precedence import precedence
store.open_store(Path(sys.argv[1]))
exporter = Exporter(Path(sys.argv[1]))
export = exporter.ask(sys.argv[2], ExportOrder(width=1600, samples=100_000))
while get_export(export.id).status != "rendering":
    time.sleep(0.05)
with precedence.first():
    print(exporter.worker.process.pid, flush=True)
    time.sleep(600)
"""


def state_of(pid: int) -> str:
    """A process' state as in ps(1): T is stopped; empty where there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except FileNotFoundError:
        return ""


class ExportTest(StoreCase):
    def exporter(self) -> Exporter:
        exporter = Exporter(self.folder)
        self.addCleanup(exporter.worker.let_go)
        return exporter

    def until(self, ident: str, *wanted: str) -> store.ExportRecord:
        for _ in range(600):
            record = store.ExportRecord.get_by_id(ident)
            if record.status in wanted:
                break
            time.sleep(0.1)
        self.assertIn(record.status, wanted)
        return record

    def test_an_export_under_way_when_the_server_was_killed_is_made_after_all(self) -> None:
        piece = piece_from_values(TINY)
        ident = store.create_piece(piece)
        order = ExportOrder(width=32, samples=1).model_dump_json()
        store.ExportRecord.create(
            id="half", piece=ident, document=json.dumps(to_json(piece)), order=order, status="rendering"
        )
        self.exporter()
        record = self.until("half", "done")
        self.assertEqual(Path(record.path).read_bytes()[:4], b"\x89PNG")

    def test_an_export_that_cannot_be_made_says_why(self) -> None:
        ident = store.create_piece(piece_from_values({"blocks": [{"words": ""}]}))
        record = self.exporter().ask(ident, ExportOrder(width=32))
        self.assertIn("no words", self.until(record.id, "failed").message)

    def test_exports_run_behind_the_live_picture_and_can_be_lost_without_it(self) -> None:
        """A process of its own runs where all else is idle (sched(7)); one that is killed fails its
        export, and the next is made."""
        ident = store.create_piece(piece_from_values(TINY))
        exporter = self.exporter()
        endless = exporter.ask(ident, ExportOrder(width=1600, samples=100_000))
        self.until(endless.id, "rendering")
        assert exporter.worker.process
        self.assertEqual(os.sched_getscheduler(exporter.worker.process.pid), os.SCHED_IDLE)
        os.kill(exporter.worker.process.pid, signal.SIGKILL)
        self.assertIn("ended from outside", self.until(endless.id, "failed").message)
        self.until(exporter.ask(ident, ExportOrder(width=32, samples=1)).id, "done")

    def test_what_a_stage_has_finished_is_the_export(self) -> None:
        """At the same size, in any format and depth, without a process; anything else is rendered."""
        piece = piece_from_values(TINY)
        frames: list[dict[str, Any]] = []
        images: list[bytes | None] = []
        done = threading.Event()

        def receive(header: dict[str, Any], image: bytes | None) -> None:
            frames.append(header)
            images.append(image)
            if header.get("stage") == "clean":
                done.set()

        session = LiveSession(receive)
        self.addCleanup(session.close)
        session.show(Wanted(piece, 1, 1, 96, 54, False))
        self.assertTrue(done.wait(120))
        stage = images[-1]
        assert stage is not None
        for _ in range(100):
            if finished.find(piece, 96, 54) is not None:
                break
            time.sleep(0.05)
        exporter, ident = self.exporter(), store.create_piece(piece)
        record = exporter.ask(ident, ExportOrder())
        self.assertEqual((record.status, exporter.worker.process), ("done", None))
        delivered = np.asarray(Image.open(record.path).convert("RGB"), int)
        shown = np.asarray(Image.open(io.BytesIO(stage)).convert("RGB"), int)
        np.testing.assert_array_equal(delivered, shown)
        self.assertEqual(exporter.ask(ident, ExportOrder(format="exr", width=96)).status, "done")
        for other in (
            ExportOrder(width=48),
            ExportOrder(transparent=True),
            ExportOrder(samples=1),
            ExportOrder(quality="draft"),
        ):
            self.assertNotEqual(exporter.ask(ident, other).status, "done", other)
        moved = store.create_piece(piece_from_values({**TINY, "view": {"turn": {"y": 20}}}))
        self.assertNotEqual(exporter.ask(moved, ExportOrder(samples=1)).status, "done")

    def test_an_export_is_cancelled_between_tiles(self) -> None:
        exporter = self.exporter()
        endless = exporter.ask(
            store.create_piece(piece_from_values(TINY)), ExportOrder(width=1600, samples=100_000)
        )
        self.until(endless.id, "rendering")
        exporter.cancel(endless.id)
        self.until(endless.id, "cancelled")

    def test_an_export_stands_still_while_the_hand_goes_first(self) -> None:
        exporter = self.exporter()
        piece = store.create_piece(piece_from_values(TINY))
        endless = exporter.ask(piece, ExportOrder(width=1600, samples=100_000))
        self.until(endless.id, "rendering")
        assert exporter.worker.process
        pid = exporter.worker.process.pid
        with precedence.first():
            with precedence.first():
                self.wait(lambda: state_of(pid) == "T")
            # The outer hand still moves; one who cancels is heard afterwards.
            self.assertEqual(state_of(pid), "T")
            exporter.cancel(endless.id)
            # Nothing that the process has locked holds up a change.
            store.create_piece(piece_from_values(TINY))
        self.wait(lambda: state_of(pid) != "T")
        self.until(endless.id, "cancelled")
        self.until(exporter.ask(piece, ExportOrder(width=32, samples=1)).id, "done")

    def test_a_process_that_stands_still_ends_with_its_server(self) -> None:
        piece = store.create_piece(piece_from_values(TINY))
        server = subprocess.Popen(
            [sys.executable, "-c", SERVER, str(self.folder), piece], stdout=subprocess.PIPE, text=True
        )
        self.addCleanup(server.wait)
        self.addCleanup(server.kill)
        assert server.stdout is not None
        self.addCleanup(server.stdout.close)
        pid = int(server.stdout.readline())
        self.wait(lambda: state_of(pid) == "T")
        server.kill()
        self.wait(lambda: state_of(pid) in ("", "Z"))
