"""The process that makes exports: it reads line by line what to make and what to cancel, and answers with
what is new of an export, a JSON object a line, at last an empty one.

It shares neither the interpreter's lock nor the memory of the live picture, and gives way to it: the
server stops it while the hand moves. So the database is used before it renders only: a process that is
stopped with a lock would hold up everyone. It ends with the server that started it.
"""

import ctypes
import json
import os
import queue
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path

from halvex.core.finish.render_piece import render_piece
from halvex.core.piece import piece_from_json
from halvex.core.stopping import CancelledError
from halvex.studio.assets import assets, read_again
from halvex.studio.data import open_data
from halvex.studio.exports import THROUGH, WAITS_FOR_ROOM, ExportOrder, write_export
from halvex.studio.faults import NoRoomError
from halvex.studio.store import ExportRecord

# How often the server is sent how far an export is, at the most.
SHARE_EVERY_S = 0.25
# prctl(2): the signal a process gets when the thread that started it ends.
PR_SET_PDEATHSIG = 1


class _Progress:
    """Reports how far an export is, from time to time."""

    def __init__(self, report: Callable[..., None]):
        self._report = report
        self._last = 0.0

    def __call__(self, share: float) -> None:
        if time.monotonic() - self._last >= SHARE_EVERY_S:
            self._last = time.monotonic()
            self._report(share=share)


class _Orders:
    """What the server says, read beside the work: exports to make, in order, and those to cancel."""

    def __init__(self, lines: Iterable[str]):
        self._lines = lines
        self.cancelled: set[str] = set()
        self.wanted: queue.SimpleQueue[str | None] = queue.SimpleQueue()
        threading.Thread(target=self._read, name="orders", daemon=True).start()

    def _read(self) -> None:
        for line in self._lines:
            what, ident = line.split()
            if what == "cancel":
                self.cancelled.add(ident)
            else:
                self.wanted.put(ident)
        self.wanted.put(None)


def make_export(ident: str, folder: Path, report: Callable[..., None], cancelled: Callable[[], bool]) -> None:
    """Make an export's file in `folder`, and `report(**values)` what is new of its record."""
    record = ExportRecord.get_or_none(ExportRecord.id == ident)
    if record is None:
        return
    piece = piece_from_json(record.document)
    order = ExportOrder.model_validate_json(record.order)
    # The server may have taken in files since the last export.
    read_again()
    report(status="rendering", message="")
    try:
        picture = render_piece(
            piece,
            order.order(),
            assets=assets(),
            progress=_Progress(report),
            cancelled=lambda: record.cancelled or cancelled(),
        )
        report(**write_export(ident, order, picture, piece.canvas.ppi, folder))
    except CancelledError:
        report(status="cancelled", message="cancelled")
    except NoRoomError:
        report(status="waiting", message=WAITS_FOR_ROOM)
    except ValueError as fault:
        report(status="failed", message=str(fault)[:250])
    except MemoryError:
        report(
            status="failed",
            message="there is no room for the picture in memory or on the disk; make one side smaller",
        )


def main(data: Path) -> None:
    """Make exports of a data folder until the input ends."""
    # One that is stopped would not see its input end when the server is killed.
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    # Only where the live picture leaves a core idle (sched(7)); a high nice value would still keep
    # a draft waiting.
    os.sched_setscheduler(0, os.SCHED_IDLE, os.sched_param(0))
    # What libraries may print must not be taken for an answer.
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "w")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())

    def report(**values: object) -> None:
        print(json.dumps(values), file=answers, flush=True)

    open_data(data)
    orders = _Orders(sys.stdin)
    while (ident := orders.wanted.get()) is not None:
        make_export(ident, data / "exports", report, partial(orders.cancelled.__contains__, ident))
        report(**THROUGH)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
