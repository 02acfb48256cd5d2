"""The store: pieces, their revisions and their exports in SQLite.

A piece's history is a tree of revisions, each a whole document. Undo goes to the parent; redo to the
child visited last. Every change is one transaction, on disk before anyone is told of it.
"""

import json
import threading
import time
import uuid
from functools import lru_cache
from pathlib import Path

from peewee import BooleanField, CharField, FloatField, ForeignKeyField, IntegerField, Model, SqliteDatabase, TextField

from halvex.core.piece import Piece, PieceError, piece_from_json, to_json
from halvex.core.piece.reading import LARGEST_DOCUMENT_BYTES

database = SqliteDatabase(None, check_same_thread=False)
# peewee keeps a connection per thread; writers take turns here rather than wait on SQLite's lock.
_writing = threading.RLock()

SCHEMA_VERSION = 1
# A history longer than this is told from its newest state back.
MOST_TOLD = 500


class Record(Model):
    class Meta:
        database = database


class PieceRecord(Record):
    """A piece as the list shows it. `head` is the revision it stands at."""

    id = CharField(primary_key=True, max_length=32)
    name = CharField()
    head = IntegerField(null=True)
    created = FloatField(default=time.time)
    updated = FloatField(default=time.time)
    deleted = FloatField(null=True)


class Revision(Record):
    """One state of a piece. Edits of one gesture (a drag) replace each other within one revision."""

    piece = ForeignKeyField(PieceRecord, backref="revisions", on_delete="CASCADE")
    parent = ForeignKeyField("self", null=True)
    document = TextField()
    label = CharField()
    gesture = CharField(null=True)
    last_child = IntegerField(null=True)
    created = FloatField(default=time.time)


class Asset(Record):
    """A file that pieces refer to by its content hash."""

    digest = CharField(primary_key=True)
    media_type = CharField()
    name = CharField()
    size = IntegerField()
    created = FloatField(default=time.time)


class ExportRecord(Record):
    """An export that was asked for, its exact recipe and what became of it."""

    id = CharField(primary_key=True, max_length=32)
    piece = ForeignKeyField(PieceRecord, backref="exports", on_delete="CASCADE")
    document = TextField()
    order = TextField()
    status = CharField(default="waiting")
    share = FloatField(default=0.0)
    message = CharField(default="")
    path = CharField(default="")
    cancelled = BooleanField(default=False)
    created = FloatField(default=time.time)


def _create_tables() -> None:
    database.create_tables([PieceRecord, Revision, Asset, ExportRecord])


# Step n brings a database from version n to n + 1.
MIGRATIONS = (_create_tables,)


class StoreError(ValueError):
    """A request the store cannot meet; `field` names what is at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


def open_store(folder: Path) -> None:
    """Open (and bring up to date) the database in a data folder. Raises StoreError for a newer one."""
    folder.mkdir(parents=True, exist_ok=True)
    if not database.is_closed():
        database.close()
    database.init(folder / "halvex.sqlite", pragmas={"journal_mode": "wal", "foreign_keys": 1, "synchronous": "full", "busy_timeout": 5000})
    database.connect(reuse_if_open=True)
    version = database.execute_sql("PRAGMA user_version").fetchone()[0]
    if version > SCHEMA_VERSION:
        raise StoreError("data", f"the data folder is of a newer Halvex (version {version}); update Halvex or use another folder")
    for step in range(version, SCHEMA_VERSION):
        with database.atomic():
            MIGRATIONS[step]()
            database.execute_sql(f"PRAGMA user_version = {step + 1}")


def create_piece(piece: Piece, label: str = "Created") -> str:
    """Store a new piece; returns its id."""
    ident = uuid.uuid4().hex
    with _writing, database.atomic():
        record = PieceRecord.create(id=ident, name=piece.name)
        revision = Revision.create(piece=record, document=_written(piece), label=label)
        PieceRecord.update(head=revision.id).where(PieceRecord.id == ident).execute()
    return ident


def _written(piece: Piece) -> str:
    """The piece as it is stored. Raises StoreError for one so large that it could not be read again."""
    document = json.dumps(to_json(piece))
    if len(document) > LARGEST_DOCUMENT_BYTES:
        raise StoreError("document", f"the piece would grow over {LARGEST_DOCUMENT_BYTES // 10**6} MB; remove a mark, or simplify its drawing")
    return document


def list_pieces(*, deleted: bool = False) -> list[PieceRecord]:
    """Pieces, the ones worked on last first."""
    return list(PieceRecord.select().where(PieceRecord.deleted.is_null(not deleted)).order_by(PieceRecord.updated.desc()))


def get_record(ident: str) -> PieceRecord:
    record = PieceRecord.get_or_none(PieceRecord.id == ident)
    if record is None:
        raise StoreError("id", "there is no such piece; it may have been deleted in another window")
    return record


def head_of(ident: str) -> Revision:
    """The newest state of a piece. Raises StoreError where there is no such piece."""
    head = Revision.select().join(PieceRecord, on=PieceRecord.head == Revision.id).where(PieceRecord.id == ident).first()
    if head is None:
        get_record(ident)
        raise StoreError("document", "the stored piece has no state; take another one")
    return head


def load_piece(ident: str) -> Piece:
    """The piece as it stands."""
    return piece_of(head_of(ident))


def piece_of(revision: Revision) -> Piece:
    """The piece as it stood. Raises StoreError where it cannot be read."""
    try:
        return _read(revision.document)
    except PieceError as fault:
        raise StoreError("document", f"the stored piece cannot be read: {fault}") from fault


# While the hand moves, the same few documents are asked for again and again.
_read = lru_cache(maxsize=32)(piece_from_json)


def commit(ident: str, piece: Piece, label: str, gesture: str | None = None) -> Revision:
    """Make `piece` the newest state. Edits of the same gesture, one after another, are one step. Raises StoreError."""
    document = _written(piece)
    with _writing, database.atomic():
        head = head_of(ident)
        if gesture and head.gesture == gesture and head.parent_id is not None:
            Revision.update(document=document, label=label).where(Revision.id == head.id).execute()
            revision = head
            revision.document, revision.label = document, label
        else:
            revision = Revision.create(piece=ident, parent=head, document=document, label=label, gesture=gesture)
            Revision.update(last_child=revision.id).where(Revision.id == head.id).execute()
        PieceRecord.update(head=revision.id, name=piece.name, updated=time.time()).where(PieceRecord.id == ident).execute()
    return revision


def before_gesture(head: Revision, gesture: str | None) -> Piece | None:
    """The piece as it stood before the gesture that its newest state `head` belongs to; None where that is another one."""
    return piece_of(head.parent) if gesture and head.gesture == gesture and head.parent_id is not None else None


def undo(ident: str) -> Revision:
    """Step back. Raises StoreError at the first state."""
    with _writing, database.atomic():
        head = head_of(ident)
        if head.parent_id is None:
            raise StoreError("history", "there is nothing to undo")
        Revision.update(last_child=head.id).where(Revision.id == head.parent_id).execute()
        return _go(ident, head.parent_id)


def redo(ident: str) -> Revision:
    """Step forward again. Raises StoreError at the newest state."""
    with _writing, database.atomic():
        head = head_of(ident)
        if head.last_child is None:
            raise StoreError("history", "there is nothing to redo")
        return _go(ident, head.last_child)


def history(ident: str) -> list[Revision]:
    """The newest states of a piece, the newest first, without their documents."""
    get_record(ident)
    told = (Revision.id, Revision.parent, Revision.label, Revision.created, Revision.last_child)
    return list(Revision.select(*told).where(Revision.piece == ident).order_by(Revision.id.desc()).limit(MOST_TOLD))


def present_line(head: Revision, told: list[Revision]) -> set[int]:
    """Ids of the told states that undo leads back through and redo forward."""
    parents = {revision.id: revision.parent_id for revision in told}
    following = {revision.id: revision.last_child for revision in told}
    line: set[int] = set()
    for ways, at in ((parents, head.id), (following, head.last_child)):
        while at is not None and at not in line:
            line.add(at)
            at = ways.get(at)
    return line


def revision_of(ident: str, number: int) -> Revision:
    """One state of a piece. Raises StoreError where the piece has no such state."""
    revision = Revision.get_or_none((Revision.id == number) & (Revision.piece == ident))
    if revision is None:
        raise StoreError("revision", "this piece never stood so; open its history again")
    return revision


def go_to(ident: str, number: int) -> Revision:
    """Make any earlier or later state the newest one's place: undo and redo go on from there, and new edits branch off."""
    with _writing, database.atomic():
        revision = revision_of(ident, number)
        child = revision
        while child.parent_id is not None:
            Revision.update(last_child=child.id).where(Revision.id == child.parent_id).execute()
            child = child.parent
        return _go(ident, revision.id)


def _go(ident: str, revision: int) -> Revision:
    target = Revision.get_by_id(revision)
    name = json.loads(target.document)["name"]
    PieceRecord.update(head=revision, name=name, updated=time.time()).where(PieceRecord.id == ident).execute()
    return target


def duplicate_piece(ident: str) -> str:
    piece = load_piece(ident)
    return create_piece(piece.model_copy(update={"name": f"{piece.name[:110]} copy"}), "Duplicated")


def delete_piece(ident: str) -> None:
    """Put a piece aside; `restore_piece` brings it back."""
    get_record(ident)
    PieceRecord.update(deleted=time.time()).where(PieceRecord.id == ident).execute()


def restore_piece(ident: str) -> None:
    get_record(ident)
    PieceRecord.update(deleted=None).where(PieceRecord.id == ident).execute()
