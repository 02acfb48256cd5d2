"""The process that makes exports: it takes their ids line by line and answers each with its id when
it is through.

It shares neither the interpreter's lock nor the memory of the live picture, and gives way to it.
All else goes by the database: the order, the progress, the wish to cancel, the outcome. It ends
with the server that started it.
"""

import os
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path

from halvex.core.finish.render_piece import render_piece
from halvex.core.piece import piece_from_json
from halvex.core.stopping import CancelledError
from halvex.studio.assets import assets, read_again
from halvex.studio.data import open_data
from halvex.studio.exports import NO_ROOM, ExportOrder, update_export, write_export
from halvex.studio.faults import NoRoomError
from halvex.studio.store import ExportRecord


def make_export(ident: str, folder: Path, orphaned: Callable[[], bool]) -> None:
    """Make an export's file in `folder` and note the outcome; when `orphaned`, stop and leave it to
    the next server.

    Raises NoRoomError where the disk is full or the database held: the export is to be made again later.
    """
    record = ExportRecord.get_or_none(ExportRecord.id == ident)
    if record is None:
        return
    piece = piece_from_json(record.document)
    order = ExportOrder.model_validate_json(record.order)

    update = partial(update_export, ident)

    def cancelled() -> bool:
        # Asked between tiles: one look-up by key in a table of few rows.
        return orphaned() or bool(
            ExportRecord.select(ExportRecord.cancelled).where(ExportRecord.id == ident).scalar()
        )

    update(status="rendering", message="")
    # The server may have taken in files since the last export.
    read_again()
    try:
        picture = render_piece(
            piece,
            order.order(),
            assets=assets(),
            progress=lambda share: update(share=share),
            cancelled=cancelled,
        )
        write_export(ident, order, picture, piece.canvas.ppi, folder)
    except CancelledError:
        if not orphaned():
            update(status="cancelled", message="cancelled")
    except NoRoomError:
        raise
    except ValueError as fault:
        update(status="failed", message=str(fault)[:250])
    except MemoryError:
        update(status="failed", message="the picture does not fit into memory; make one side smaller")


def main(data: Path) -> None:
    """Make exports of a data folder until the input ends."""
    # Only where the live picture leaves a core idle (sched(7)); a high nice value would still keep
    # a draft waiting.
    os.sched_setscheduler(0, os.SCHED_IDLE, os.sched_param(0))
    # What libraries may print must not be taken for an answer.
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "w")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
    server = os.getppid()
    open_data(data)
    for line in sys.stdin:
        answer = line
        try:
            make_export(line.strip(), data / "exports", lambda: os.getppid() != server)
        except NoRoomError:
            answer = f"{NO_ROOM}\n"
        answers.write(answer)
        answers.flush()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
