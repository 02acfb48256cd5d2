"""The store: pieces, their revisions and their exports in SQLite.

A piece's history is a tree of revisions, each a whole document. Undo goes to the parent; redo to the
child visited last. Every change is one transaction, on disk before anyone is notified.
"""

import json
import threading
import time
import uuid
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

from peewee import (
    AutoField,
    BooleanField,
    CharField,
    DatabaseError,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    OperationalError,
    SqliteDatabase,
    TextField,
)

from halvex.core.piece import Piece, PieceError, piece_from_json, piece_from_values, to_json
from halvex.core.piece.reading import LARGEST_DOCUMENT_BYTES, values_of
from halvex.studio.faults import NoRoomError, StoreError
from halvex.studio.folder import DATABASE, FILE_MODE, FOLDER_MODE, SCHEMA_VERSION, check_database

database = SqliteDatabase(None, check_same_thread=False)
# peewee keeps a connection per thread; writers take turns here rather than wait on SQLite's lock.
_writing = threading.RLock()

# How long a write waits for one of another process.
BUSY_MS = 15_000
# A history longer than this is listed from its newest state back.
MOST_LISTED = 500
# Edits of other windows that may come between those of one gesture.
LONGEST_GESTURE = 64
LONGEST_WINDOW_ID = 32
# A window that was not heard of for so long will not send anything again.
WINDOW_FORGOTTEN_S = 30 * 86_400


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

    id = AutoField()
    piece = ForeignKeyField(PieceRecord, backref="revisions", on_delete="CASCADE")
    parent = ForeignKeyField("self", null=True)
    # What peewee adds to the two above.
    piece_id: str
    parent_id: int | None
    document = TextField()
    label = CharField()
    gesture = CharField(null=True)
    last_child = IntegerField(null=True)
    created = FloatField(default=time.time)


class AssetRecord(Record):
    """A file of one's own by its digest; `name` is its place in the data folder."""

    digest = CharField(primary_key=True)
    media_type = CharField()
    name = CharField()
    size = IntegerField()
    created = FloatField(default=time.time)

    class Meta:
        table_name = "asset"


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


class WindowRecord(Record):
    """The number of the newest message of a window that was carried out."""

    id = CharField(primary_key=True, max_length=LONGEST_WINDOW_ID)
    carried_out = IntegerField()
    updated = FloatField(default=time.time)


class Sent(NamedTuple):
    """A message that asks for a change: which window sent it, and its number there."""

    window: str
    seq: int


def _create_tables() -> None:
    database.create_tables([PieceRecord, Revision, AssetRecord, ExportRecord])


def _number_messages() -> None:
    database.create_tables([WindowRecord])


# Step n brings a database from version n to n + 1.
MIGRATIONS = (_create_tables, _number_messages)


@contextmanager
def writing() -> Iterator[None]:
    """One transaction that writes. Raises StoreError where the database does not take it; nothing
    is changed then.

    It is immediate: one that read first and wrote later would fail at once whenever another process
    has written in between.
    """
    try:
        with _writing, database.atomic("IMMEDIATE"):
            yield
    except OperationalError as fault:
        raise _refusal_of(fault) from fault


def _refusal_of(fault: BaseException) -> StoreError:
    """What an error of the database means, and what helps."""
    text = str(fault)
    # A full disk ends the transaction by itself; that it cannot be rolled back then is not what matters.
    if "no transaction is active" in text and fault.__context__ is not None:
        return _refusal_of(fault.__context__)
    if "full" in text:
        return NoRoomError("disk", "the disk is full; make room on it and try again")
    if "locked" in text or "busy" in text:
        return NoRoomError("disk", "the data folder is busy; try again in a moment")
    return StoreError("disk", f"the database does not take it ({text}); check the data folder")


def open_store(folder: Path) -> None:
    """Open (and bring up to date) the database in a data folder. Raises StoreError for a newer one,
    or one that cannot be used."""
    folder.mkdir(parents=True, exist_ok=True, mode=FOLDER_MODE)
    check_database(folder)
    if not database.is_closed():
        database.close()
    database.init(
        str(folder / DATABASE),
        pragmas={"journal_mode": "wal", "foreign_keys": 1, "synchronous": "full", "busy_timeout": BUSY_MS},
    )
    try:
        database.connect(reuse_if_open=True)
        (folder / DATABASE).chmod(FILE_MODE)
        version = database.execute_sql("PRAGMA user_version").fetchone()[0]
    except DatabaseError as fault:
        raise StoreError(
            "data", f"{folder / DATABASE} cannot be opened ({fault}); use another folder"
        ) from fault
    for step in range(version, SCHEMA_VERSION):
        with writing():
            MIGRATIONS[step]()
            database.execute_sql(f"PRAGMA user_version = {step + 1}")
    with writing():
        WindowRecord.delete().where(WindowRecord.updated < time.time() - WINDOW_FORGOTTEN_S).execute()


def was_carried_out(sent: Sent | None) -> bool:
    """Whether the change that a message asks for is stored already: a window whose connection broke sends
    again what was not acknowledged."""
    if sent is None:
        return False
    record = WindowRecord.get_or_none(WindowRecord.id == sent.window)
    return record is not None and sent.seq <= record.carried_out


def _note(sent: Sent | None) -> None:
    """Note, in the transaction that stores its change, that a message was carried out."""
    if sent is not None:
        WindowRecord.replace(id=sent.window, carried_out=sent.seq, updated=time.time()).execute()


def create_piece(piece: Piece, label: str = "Created") -> str:
    """Store a new piece; returns its id."""
    ident = uuid.uuid4().hex
    with writing():
        record = PieceRecord.create(id=ident, name=piece.name)
        revision = Revision.create(piece=record, document=_written(piece), label=label)
        PieceRecord.update(head=revision.id).where(PieceRecord.id == ident).execute()
    return ident


def _written(piece: Piece) -> str:
    """The piece as it is stored. Raises StoreError for one so large that it could not be read again."""
    document = json.dumps(to_json(piece))
    if len(document) > LARGEST_DOCUMENT_BYTES:
        raise StoreError(
            "document",
            f"the piece would grow over {LARGEST_DOCUMENT_BYTES // 10**6} MB; remove a mark, "
            "or simplify its drawing",
        )
    return document


def list_pieces(*, deleted: bool = False) -> list[PieceRecord]:
    """Pieces, the ones worked on last first."""
    return list(
        PieceRecord.select()
        .where(PieceRecord.deleted.is_null(not deleted))
        .order_by(PieceRecord.updated.desc())
    )


def get_record(ident: str) -> PieceRecord:
    record = PieceRecord.get_or_none(PieceRecord.id == ident)
    if record is None:
        raise StoreError("id", "there is no such piece; it may have been deleted in another window")
    return record


def head_of(ident: str) -> Revision:
    """The newest state of a piece. Raises StoreError where there is no such piece."""
    head = (
        Revision.select()
        .join(PieceRecord, on=PieceRecord.head == Revision.id)
        .where(PieceRecord.id == ident)
        .first()
    )
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
        return _pieces.of(revision.document)
    except PieceError as fault:
        raise StoreError("document", f"the stored piece cannot be read: {fault}") from fault


class _Pieces:
    """Pieces by the documents that hold them. While the hand moves, the same few are asked for again and
    again; what stays in a piece from edit to edit is one part, which is checked and hashed only once."""

    MOST = 32

    def __init__(self) -> None:
        self._kept: OrderedDict[str, Piece] = OrderedDict()
        self._using = threading.Lock()

    def of(self, document: str) -> Piece:
        """Raises PieceError."""
        with self._using:
            piece = self._kept.get(document)
            if piece is not None:
                self._kept.move_to_end(document)
        return piece if piece is not None else self.keep(document, piece_from_json(document))

    def keep(self, document: str, piece: Piece) -> Piece:
        with self._using:
            self._kept[document] = piece
            while len(self._kept) > self.MOST:
                self._kept.popitem(last=False)
        return piece


_pieces = _Pieces()


def commit(
    head: Revision, piece: Piece, label: str, gesture: str | None = None, sent: Sent | None = None
) -> Revision:
    """Make `piece` the state after `head`, the newest one, as the message `sent` asks. Edits of the same
    gesture, one after another, are one step.

    Raises StoreError.
    """
    document, ident = _written(piece), head.piece_id
    # As it will be read, but for parts that were read before.
    _pieces.keep(document, piece_from_values(values_of(piece, checked=piece_of(head))))
    with writing():
        _note(sent)
        if gesture and head.gesture == gesture and head.parent_id is not None:
            Revision.update(document=document, label=label).where(Revision.id == head.id).execute()
            revision = head
            revision.document, revision.label = document, label
        else:
            revision = Revision.create(
                piece=ident, parent=head, document=document, label=label, gesture=gesture
            )
            Revision.update(last_child=revision.id).where(Revision.id == head.id).execute()
        PieceRecord.update(head=revision.id, name=piece.name, updated=time.time()).where(
            PieceRecord.id == ident
        ).execute()
    return revision


def before_gesture(head: Revision, gesture: str | None) -> Piece | None:
    """The piece as it stood before a gesture that led to its newest state `head`, or to one before
    it; None for a new gesture.

    Other windows may have edited the piece since the gesture began.
    """
    if not gesture:
        return None
    found = database.execute_sql(
        "WITH RECURSIVE line(id, parent_id, gesture, depth) AS ("
        " SELECT id, parent_id, gesture, 0 FROM revision WHERE id = ?"
        " UNION ALL SELECT r.id, r.parent_id, r.gesture, depth + 1 FROM revision r JOIN "
        "line ON r.id = line.parent_id WHERE depth < ?)"
        " SELECT parent_id FROM line WHERE gesture = ? ORDER BY depth DESC LIMIT 1",
        (head.id, LONGEST_GESTURE, gesture),
    ).fetchone()
    return piece_of(Revision.get_by_id(found[0])) if found and found[0] is not None else None


def undo(ident: str, sent: Sent | None = None) -> Revision:
    """Step back. Raises StoreError at the first state."""
    with writing():
        _note(sent)
        head = head_of(ident)
        if head.parent_id is None:
            raise StoreError("history", "there is nothing to undo")
        Revision.update(last_child=head.id).where(Revision.id == head.parent_id).execute()
        return _go(ident, head.parent_id)


def redo(ident: str, sent: Sent | None = None) -> Revision:
    """Step forward again. Raises StoreError at the newest state."""
    with writing():
        _note(sent)
        head = head_of(ident)
        if head.last_child is None:
            raise StoreError("history", "there is nothing to redo")
        return _go(ident, head.last_child)


def history(ident: str) -> list[Revision]:
    """The newest states of a piece, the newest first, without their documents."""
    get_record(ident)
    listed = (Revision.id, Revision.parent, Revision.label, Revision.created, Revision.last_child)
    return list(
        Revision.select(*listed)
        .where(Revision.piece == ident)
        .order_by(Revision.id.desc())
        .limit(MOST_LISTED)
    )


def present_line(head: Revision, listed: list[Revision]) -> set[int]:
    """Ids of the listed states that undo leads back through and redo forward."""
    parents = {revision.id: revision.parent_id for revision in listed}
    following = {revision.id: revision.last_child for revision in listed}
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
    """Make any earlier or later state the newest one's place: undo and redo continue from there, and
    new edits branch off."""
    with writing():
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


def put_aside(ident: str, aside: bool) -> None:
    """Put a piece aside, or bring it back."""
    get_record(ident)
    with writing():
        PieceRecord.update(deleted=time.time() if aside else None).where(PieceRecord.id == ident).execute()
