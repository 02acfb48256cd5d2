"""Exports: pictures made in the background, one after another, from an exact recipe.

Each export keeps the document it was asked for, so that later edits do not change it. After a crash,
exports that were under way start again.
"""

import json
import os
import queue
import threading
import uuid
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from halvex.core.finish.render_piece import Order, picture_size, render_piece
from halvex.core.output.pictures import encode
from halvex.core.piece import piece_from_json, to_json
from halvex.core.piece.model import LONGEST_CANVAS_SIDE_PX
from halvex.core.render.work import CancelledError, thread_count
from halvex.studio.files import write_whole
from halvex.studio.store import ExportRecord, StoreError, load_piece

# How far exports stand back (nice): high enough that a draft has nearly all of a core, low enough that they go on.
NICENESS = 15

Side = Annotated[int | None, Field(ge=1, le=LONGEST_CANVAS_SIDE_PX)]


class ExportOrder(BaseModel):
    """What to deliver: the format, the size in px (a side left out follows the canvas' shape) and the quality."""

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

    def order(self) -> Order:
        return Order(
            self.width,
            self.height,
            self.quality,
            self.samples,
            self.noise,
            self.seed,
            transparent=self.transparent,
            layers=self.layers,
        )


def _give_way() -> None:
    """Let this thread, and those it starts, run only where the live picture leaves room: Linux ranks threads one by one."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICENESS)


class Exporter:
    """Works off exports on one background thread and tiles of its own; files go to a folder of the data folder.

    Its tiles never stand in the queue of the live pictures', and its threads give way to them.
    """

    def __init__(self, folder: Path):
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self._queue: queue.Queue[str] = queue.Queue()
        self._pool = ThreadPoolExecutor(thread_count(), thread_name_prefix="export tile", initializer=_give_way)
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
        picture_size(piece, order.order())
        record = ExportRecord.create(id=uuid.uuid4().hex, piece=piece_id, document=json.dumps(to_json(piece)), order=order.model_dump_json())
        self._queue.put(record.id)
        return record

    def cancel(self, ident: str) -> None:
        ExportRecord.update(cancelled=True).where(ExportRecord.id == ident).execute()

    def _work(self) -> None:
        _give_way()
        while True:
            record = ExportRecord.get_or_none(ExportRecord.id == self._queue.get())
            if record is not None:
                self._make(record)

    def _make(self, record: ExportRecord) -> None:
        piece = piece_from_json(record.document)
        order = ExportOrder.model_validate_json(record.order)

        def update(**values: object) -> None:
            ExportRecord.update(**values).where(ExportRecord.id == record.id).execute()

        def cancelled() -> bool:
            # Asked between tiles: one look-up by key in a table of few rows.
            return bool(ExportRecord.select(ExportRecord.cancelled).where(ExportRecord.id == record.id).scalar())

        update(status="rendering")
        try:
            picture = render_piece(piece, order.order(), pool=self._pool, progress=lambda share: update(share=share), cancelled=cancelled)
            data = encode(picture, order.format, ppi=piece.canvas.ppi, depth=order.depth)
            path = self._folder / f"{record.id}.{order.format}"
            write_whole(path, data)
            update(status="done", share=1.0, path=str(path))
        except CancelledError:
            update(status="cancelled", message="cancelled")
        except ValueError as fault:
            update(status="failed", message=str(fault)[:250])
        except MemoryError:
            update(status="failed", message="the picture does not fit into memory; make one side smaller")


def get_export(ident: str) -> ExportRecord:
    record = ExportRecord.get_or_none(ExportRecord.id == ident)
    if record is None:
        raise StoreError("id", "there is no such export")
    return record
