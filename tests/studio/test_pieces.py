"""The service that changes pieces: many hands at once, other processes writing, a full disk; no
acknowledged edit is lost."""

import errno
import resource
import socket
import threading
import unittest
from pathlib import Path
from unittest import mock

from halvex.core.piece import PieceError
from halvex.studio import store
from halvex.studio.edits import Edit
from halvex.studio.exports import WAITS_FOR_ROOM, Exporter, ExportOrder, get_export
from halvex.studio.faults import StoreError
from halvex.studio.files import write_whole
from halvex.studio.folder import LOCK, claim, when_let_go
from halvex.studio.pieces import pieces
from tests.studio.store_case import StoreCase

# Another process that writes all the time.
BUSY_WRITER = """
import sys, time
from pathlib import Path
from halvex.studio import store
store.open_store(Path(sys.argv[1]))
print("ready", flush=True)
while True:
    time.sleep(0.002)
    with store.writing():
        store.AssetRecord.insert(digest="x", media_type="", name="", size=0).on_conflict_replace().execute()
"""
HOLDER = """
import sys, time
from pathlib import Path
from halvex.studio.folder import claim
lock = claim(Path(sys.argv[1]), "http://127.0.0.1:9999")
print("ready", flush=True)
time.sleep(600)
"""


def replace(path: str, value: object) -> list[Edit]:
    return [Edit(op="replace", path=path, value=value)]


class ManyHandsTest(StoreCase):
    def together(self, *works: object) -> list[Exception]:
        faults: list[Exception] = []

        def run(work: object) -> None:
            try:
                work()  # type: ignore[operator]
            except Exception as fault:
                faults.append(fault)

        threads = [threading.Thread(target=run, args=(work,)) for work in works]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return faults

    def test_no_edit_is_lost_while_another_process_writes(self) -> None:
        self.start(BUSY_WRITER)

        def edits(field: str) -> None:
            for number in range(100):
                pieces.edit(self.ident, replace(f"/view/turn/{field}", number))

        self.assertEqual(self.together(lambda: edits("x"), lambda: edits("y")), [])
        turn = store.load_piece(self.ident).view.turn
        self.assertEqual((turn.x, turn.y, self.states()), (99, 99, 201))

    def test_undo_and_edits_from_two_places_take_turns(self) -> None:
        """Each undo takes back one edit; all are either part of the line or branched off, none is
        half there."""
        pieces.edit(self.ident, replace("/blocks/0/words", "first"))

        def edit() -> None:
            for number in range(60):
                pieces.edit(self.ident, replace("/blocks/0/words", f"word {number}"))

        def undo() -> None:
            for _ in range(60):
                head = pieces.undo(self.ident)
                self.assertEqual(store.piece_of(head).name, "Untitled")
                pieces.redo(self.ident)

        faults = self.together(edit, undo)
        # The other's edit may come in between: then there is nothing to redo. Nothing else may happen.
        self.assertTrue(
            all(isinstance(fault, StoreError) and fault.field == "history" for fault in faults), faults
        )
        self.assertEqual(self.states(), 62)
        line, head = 0, store.head_of(self.ident)
        while head.parent_id is not None:
            head, line = head.parent, line + 1
        self.assertLessEqual(1, line)

    def test_a_gesture_goes_on_from_where_it_began_whoever_edits_meanwhile(self) -> None:
        """A block is dragged by 100 px in ten steps, each counted from its start; another window
        edits in between."""
        begun = store.load_piece(self.ident).blocks[0].place.x
        for step in range(1, 11):
            pieces.edit(self.ident, [Edit(op="shift", path="/blocks/0", value=[10 * step, 0])], "drag")
            pieces.edit(self.ident, replace("/view/turn/y", step))
        piece = store.load_piece(self.ident)
        self.assertEqual((piece.blocks[0].place.x, piece.view.turn.y), (begun + 100, 10))

    def test_a_message_that_comes_again_has_its_effect_once(self) -> None:
        """As after a lost connection: sent again in order, to a server that was started anew in between."""
        begun = store.load_piece(self.ident).blocks[0].place.x
        shift = [Edit(op="shift", path="/blocks/0", value=[1, 0])]
        for _ in range(3):
            for seq in range(1, 6):
                pieces.edit(self.ident, shift, sent=store.Sent("here", seq))
            store.open_store(self.folder)
        pieces.edit(self.ident, shift, sent=store.Sent("there", 1))
        self.assertEqual(store.load_piece(self.ident).blocks[0].place.x, begun + 6)
        for _ in range(2):
            pieces.undo(self.ident, sent=store.Sent("here", 6))
        self.assertEqual(store.load_piece(self.ident).blocks[0].place.x, begun + 5)
        for _ in range(2):
            pieces.redo(self.ident, sent=store.Sent("here", 7))
        self.assertEqual(store.load_piece(self.ident).blocks[0].place.x, begun + 6)

    def test_a_refused_message_may_be_sent_again(self) -> None:
        for _ in range(2):
            with self.assertRaises(PieceError):
                pieces.edit(self.ident, replace("/blocks/0/size", "large"), sent=store.Sent("here", 1))
        pieces.edit(self.ident, replace("/blocks/0/size", 90), sent=store.Sent("here", 2))
        self.assertEqual(store.load_piece(self.ident).blocks[0].size, 90)

    def test_watchers_hear_of_changes_of_others_after_the_lock_is_free(self) -> None:
        heard: list[str] = []

        def watcher() -> None:
            # A watcher that edits would hang if it were called under the lock.
            if not heard:
                heard.append(store.load_piece(self.ident).blocks[0].words)
                pieces.edit(self.ident, replace("/view/turn/x", 1), by=watcher)

        pieces.watch(self.ident, watcher)
        self.addCleanup(pieces.forget, self.ident, watcher)
        pieces.edit(self.ident, replace("/blocks/0/words", "own"), by=watcher)
        self.assertEqual(heard, [])
        pieces.edit(self.ident, replace("/blocks/0/words", "others"))
        self.assertEqual(heard, ["others"])


class DiskTest(StoreCase):
    def fill_database(self) -> None:
        """Let the database grow no further, as on a full disk."""
        pages = store.database.execute_sql("PRAGMA page_count").fetchone()[0]
        store.database.execute_sql(f"PRAGMA max_page_count = {pages}")
        self.addCleanup(store.database.execute_sql, "PRAGMA max_page_count = 1000000")

    def test_an_edit_on_a_full_disk_says_so_and_changes_nothing(self) -> None:
        self.fill_database()
        with self.assertRaises(StoreError) as raised:
            for number in range(200):
                pieces.edit(self.ident, replace("/blocks/0/words", f"{number} " * 300))
        self.assertEqual(raised.exception.field, "disk")
        self.assertIn("full", raised.exception.remedy)
        stored = store.load_piece(self.ident).blocks[0].words
        store.database.execute_sql("PRAGMA max_page_count = 1000000")
        pieces.edit(self.ident, replace("/blocks/0/words", "room again"))
        self.assertEqual(store.load_piece(self.ident).blocks[0].words, "room again")
        self.assertIn(stored, {"Port Sorrel", *(f"{number} " * 300 for number in range(200))})

    def test_a_file_on_a_full_disk_leaves_nothing_behind(self) -> None:
        path = self.folder / "mark.bin"
        with (
            mock.patch.object(
                Path, "write_bytes", side_effect=OSError(errno.ENOSPC, "No space left on device")
            ),
            self.assertRaises(StoreError) as raised,
        ):
            write_whole(path, b"x")
        self.assertIn("the disk is full", raised.exception.remedy)
        with (
            mock.patch("os.replace", side_effect=OSError(errno.ENOSPC, "No space left on device")),
            self.assertRaises(StoreError),
        ):
            write_whole(path, b"x")
        self.assertEqual(list(self.folder.glob("mark*")), [])

    def test_an_export_waits_for_room_and_goes_on(self) -> None:
        (self.folder / "exports").mkdir()
        (self.folder / "exports" / "left.png.part").write_bytes(b"half")
        # A file may grow no further than this: the picture passes it, the database does not.
        limits = resource.getrlimit(resource.RLIMIT_FSIZE)
        self.addCleanup(resource.setrlimit, resource.RLIMIT_FSIZE, limits)
        with mock.patch("halvex.studio.exports.ROOM_S", 0.2):
            exporter = Exporter(self.folder)
            self.addCleanup(exporter.worker.let_go)
            self.assertEqual(list((self.folder / "exports").iterdir()), [])
            resource.setrlimit(resource.RLIMIT_FSIZE, (200_000, limits[1]))
            export = exporter.ask(
                self.ident, ExportOrder(format="tiff", width=1920, quality="draft", depth=16)
            ).id
            self.wait(lambda: get_export(export).message == WAITS_FOR_ROOM)
            self.assertEqual(list((self.folder / "exports").glob("*.part")), [])
            assert exporter.worker.process is not None
            resource.prlimit(exporter.worker.process.pid, resource.RLIMIT_FSIZE, limits)
            self.wait(lambda: get_export(export).status == "done")
        self.assertGreater(Path(get_export(export).path).stat().st_size, 200_000)

    def test_an_export_that_can_never_be_written_ends_with_its_cause(self) -> None:
        exporter = Exporter(self.folder)
        self.addCleanup(exporter.worker.let_go)
        # A folder in the file's place is what no waiting mends.
        with mock.patch("uuid.uuid4", return_value=mock.Mock(hex="e" * 32)):
            (self.folder / "exports" / f"{'e' * 32}.png").mkdir()
            export = exporter.ask(self.ident, ExportOrder(quality="draft", width=16)).id
        self.wait(lambda: get_export(export).status == "failed")
        self.assertIn("directory", get_export(export).message)
        self.assertEqual(list((self.folder / "exports").glob("*.part")), [])


class FolderTest(StoreCase):
    def test_two_servers_do_not_share_a_folder(self) -> None:
        holder = self.start(HOLDER)
        with self.assertRaises(StoreError) as raised:
            claim(self.folder)
        self.assertIn("http://127.0.0.1:9999", raised.exception.remedy)
        self.assertIn(str(holder.pid), raised.exception.remedy)
        holder.kill()
        holder.wait()
        self.assertTrue((self.folder / LOCK).exists())
        claim(self.folder).close()

    def test_a_killed_server_may_take_a_moment_to_let_go(self) -> None:
        """Its port and its lock are free only once its memory is given back."""
        port = socket.create_server(("127.0.0.1", 0))
        lock = claim(self.folder)
        for held in (port, lock):
            timer = threading.Timer(0.2, held.close)
            timer.start()
            self.addCleanup(timer.join)
        address = port.getsockname()
        with socket.socket() as probe:
            when_let_go(lambda: probe.bind(address))
        claim(self.folder).close()

    def test_folder_and_database_are_the_users_own(self) -> None:
        claim(self.folder).close()
        self.assertEqual(self.folder.stat().st_mode & 0o777, 0o700)
        self.assertEqual((self.folder / "halvex.sqlite").stat().st_mode & 0o777, 0o600)


if __name__ == "__main__":
    unittest.main()
