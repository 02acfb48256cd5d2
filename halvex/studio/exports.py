"""Exports: pictures made in the background, one after another, from an exact recipe.

Each export keeps the document it was asked for, so that later edits do not change it. After a crash,
exports that were under way start again.
"""

import json
import logging
import queue
import subprocess
import sys
import threading
import uuid
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from halvex.core.finish.orders import Order, order_of, picture_size
from halvex.core.finish.picture import Picture
from halvex.core.output.pictures import encode
from halvex.core.piece import to_json
from halvex.core.piece.model import LONGEST_CANVAS_SIDE_PX
from halvex.core.render import gate
from halvex.studio import finished
from halvex.studio.faults import NoRoomError, StoreError
from halvex.studio.files import remove_unfinished, write_whole
from halvex.studio.precedence import precedence
from halvex.studio.store import ExportRecord, load_piece, writing

# A worker that has had nothing to do for so long is let go.
IDLE_S = 60.0
# An export that the disk had no room for is made again after so long.
ROOM_S = 5.0
WAITS_FOR_ROOM = "waiting for room: the disk is full"
KILLED = (
    "the export was ended from outside, perhaps for want of memory; export again, or make one side smaller"
)
BROKEN = (
    "the export failed by a fault of Halvex' own, recorded in the server's log; another size or format may do"
)

ENDED = ("done", "failed", "cancelled")
# What the process says of an export, beside what is new of it, when it is through.
THROUGH: dict[str, Any] = {}

log = logging.getLogger(__name__)

Side = Annotated[int | None, Field(ge=1, le=LONGEST_CANVAS_SIDE_PX)]


class ExportOrder(BaseModel):
    """What to deliver: the format, the size in px (a missing side follows the canvas' shape) and
    the quality."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["png", "jpg", "webp", "tiff", "exr"] = "png"
    width: Side = None
    height: Side = None
    transparent: bool = False
    quality: Literal["draft", "proof", "final"] = "final"
    samples: int | None = Field(None, ge=1, le=1_000_000)
    seed: int = Field(0, ge=0, le=2**31 - 1)
    depth: Literal[8, 16] = 8
    noise: float | None = Field(None, ge=1e-4, le=1)
    layers: bool = False

    @property
    def is_plain_final(self) -> bool:
        """Whether this is the picture that a stage shows when it has finished, in whatever format."""
        plain = {"format", "width", "height", "depth"}
        return self.model_dump(exclude=plain) == ExportOrder().model_dump(exclude=plain)

    def order(self) -> Order:
        """Raises RenderError for what this quality does not take."""
        options = self.model_dump(exclude={"format", "depth", "quality"})
        return order_of(self.quality, **options)


def update_export(ident: str, **values: object) -> None:
    """Store what is new of an export. Raises StoreError."""
    with writing():
        ExportRecord.update(**values).where(ExportRecord.id == ident).execute()


def write_export(
    ident: str, order: ExportOrder, picture: Picture, ppi: float, folder: Path
) -> dict[str, Any]:
    """Write an export's picture as its order says; what is then to be stored of it.

    Raises NoRoomError, StoreError.
    """
    path = folder / f"{ident}.{order.format}"
    write_whole(path, encode(picture, order.format, ppi=ppi, depth=order.depth))
    return {"status": "done", "share": 1.0, "path": str(path)}


class _Worker:
    """The process that makes exports (export_worker.py); started when there is one to make."""

    def __init__(self, data: Path):
        self._data = data
        self._sending = threading.Lock()
        self.process: subprocess.Popen[str] | None = None

    def make(self, ident: str, store: Callable[..., None]) -> int:
        """Have an export made and what is new of it stored, by `store(**values)`; returns 0, or how the
        process ended before it was through: the signal below 0, or a code over 0."""
        if self.process is None:
            command = [sys.executable, "-m", "halvex.studio.export_worker", str(self._data)]
            # Of a session of its own: an interrupt from the keyboard is the server's to deal with.
            self.process = subprocess.Popen(
                command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, start_new_session=True
            )
        process = self.process
        assert process.stdout
        self._send(process, f"make {ident}")
        for line in process.stdout:
            values = json.loads(line)
            if values == THROUGH:
                precedence.forget(process)
                return 0
            if values.get("status") == "rendering":
                # From now on it uses the database no more.
                precedence.give_way(process)
            store(**values)
        return self.let_go() or 1

    def cancel(self, ident: str) -> None:
        """Have an export stopped, if it is the one that is being made."""
        if (process := self.process) is not None:
            self._send(process, f"cancel {ident}")

    def _send(self, process: subprocess.Popen[str], line: str) -> None:
        assert process.stdin
        with self._sending, suppress(BrokenPipeError, ValueError):  # it has ended, or is being let go
            process.stdin.write(f"{line}\n")
            process.stdin.flush()

    def let_go(self) -> int:
        """End the process, which gives its memory back; returns how it ended."""
        if self.process is None:
            return 0
        process, self.process = self.process, None
        precedence.forget(process)
        with suppress(BrokenPipeError):
            process.communicate()
        return process.returncode


class Exporter:
    """Has exports made one after another; files go to a folder of the data folder."""

    def __init__(self, data: Path):
        (data / "exports").mkdir(parents=True, exist_ok=True)
        remove_unfinished(data / "exports")
        self._folder = data / "exports"
        self._queue: queue.Queue[str] = queue.Queue()
        self.worker = _Worker(data)
        for record in ExportRecord.select().where(ExportRecord.status.in_(("waiting", "rendering"))):
            self._queue.put(record.id)
        threading.Thread(target=self._work, name="exports", daemon=True).start()

    def ask(self, piece_id: str, order: ExportOrder) -> ExportRecord:
        """Queue an export of the piece as it stands. Raises StoreError, RenderError."""
        piece = load_piece(piece_id)
        if order.transparent and order.format == "jpg":
            raise StoreError("transparent", "JPEG holds no transparency; take png, webp, tiff or exr")
        if order.layers and order.format != "exr":
            raise StoreError("layers", "only OpenEXR holds layers; take exr")
        width, height, _ = picture_size(piece, order.order())
        picture = finished.find(piece, width, height) if order.is_plain_final else None
        with writing():
            record = ExportRecord.create(
                id=uuid.uuid4().hex,
                piece=piece_id,
                document=json.dumps(to_json(piece)),
                order=order.model_dump_json(),
            )
        if picture is not None:
            # Where the disk has no room, the queue waits for it.
            with suppress(NoRoomError):
                update_export(
                    record.id, **write_export(record.id, order, picture, piece.canvas.ppi, self._folder)
                )
                return get_export(record.id)
        self._queue.put(record.id)
        return record

    def cancel(self, ident: str) -> None:
        update_export(ident, cancelled=True)
        self.worker.cancel(ident)

    def _work(self) -> None:
        while True:
            try:
                ident = self._queue.get(timeout=IDLE_S)
            except queue.Empty:
                self.worker.let_go()
                continue
            # The worker would compile what another process is compiling already.
            gate.wait()
            ended = self.worker.make(ident, partial(self._store, ident))
            if ended:
                self._store(ident, status="failed", message=KILLED if ended < 0 else BROKEN)

    def _store(self, ident: str, **values: Any) -> None:
        """Store what is new of an export, if the disk takes it; the exporter lives on if not."""
        stored = True
        try:
            update_export(ident, **values)
        except StoreError as fault:
            stored = False
            log.warning("%s of export %s could not be stored: %s", values, ident, fault)
        waits = values.get("status") == "waiting"
        if waits or (not stored and values.get("status") in ENDED):
            again = threading.Timer(ROOM_S, self._queue.put, (ident,))
            again.daemon = True
            again.start()


def get_export(ident: str) -> ExportRecord:
    record = ExportRecord.get_or_none(ExportRecord.id == ident)
    if record is None:
        raise StoreError("id", "there is no such export")
    return record
