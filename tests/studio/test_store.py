"""The store: nothing is lost, everything can be undone."""

import os
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np

from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.scene.camera import make_camera, world_to_canvas
from halvex.core.solids.profiles import PROFILES
from halvex.studio import store
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.pieces import pieces
from halvex.studio.recipe import recipe
from halvex.studio.samples import demo_names, demo_piece, fill_empty_store
from tests.studio.store_case import StoreCase

# Stores words without end, saying each one only after it is stored.
WRITER = """
import sys
from pathlib import Path
from halvex.core.piece import Piece
from halvex.studio import store
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.pieces import pieces
store.open_store(Path(sys.argv[1]))
ident = store.create_piece(Piece())
print(ident, flush=True)
for number in range(10**6):
    head = store.head_of(ident)
    edit = Edit(op="replace", path="/blocks/0/words", value=f"word {number}")
    piece, label = apply_edits(store.piece_of(head), [edit])
    store.commit(head, piece, label)
    print(number, flush=True)
"""


class StoreTest(StoreCase):
    def edit(self, path: str, value: object, gesture: str | None = None) -> None:
        pieces.edit(self.ident, [Edit(op="replace", path=path, value=value)], gesture)

    def size(self) -> float:
        return store.load_piece(self.ident).blocks[0].size

    def test_a_stored_piece_is_what_is_read_after_a_restart(self) -> None:
        """And what an edit did not change is one part before and after it."""
        before = store.load_piece(self.ident)
        self.edit("/view/turn/x", 7)
        edited = store.load_piece(self.ident)
        self.assertIs(edited.blocks[0], before.blocks[0])
        store._pieces = store._Pieces()
        read = store.load_piece(self.ident)
        self.assertIsNot(read.blocks[0], before.blocks[0])
        self.assertEqual(read, edited)

    def test_undo_and_redo_survive_a_restart(self) -> None:
        self.edit("/blocks/0/size", 100)
        self.edit("/blocks/0/size", 120)
        store.undo(self.ident)
        store.open_store(self.folder)
        self.assertEqual(self.size(), 100)
        store.redo(self.ident)
        self.assertEqual(self.size(), 120)
        store.undo(self.ident)
        store.undo(self.ident)
        self.assertEqual(self.size(), 200)
        with self.assertRaises(store.StoreError):
            store.undo(self.ident)

    def test_a_gesture_is_one_step(self) -> None:
        for size in range(100, 140):
            self.edit("/blocks/0/size", size, "drag-1")
        store.undo(self.ident)
        self.assertEqual(self.size(), 200)
        store.redo(self.ident)
        self.assertEqual(self.size(), 139)

    def test_an_edit_after_undo_keeps_the_other_branch(self) -> None:
        self.edit("/blocks/0/size", 100)
        store.undo(self.ident)
        self.edit("/blocks/0/size", 300)
        sizes = {r.document for r in store.Revision.select()}
        self.assertEqual(len(sizes), 3)

    def test_any_state_can_be_gone_to(self) -> None:
        """Undo and redo go on along the branch that was taken up again."""
        for size in (100, 110):
            self.edit("/blocks/0/size", size)
        far = store.head_of(self.ident).id
        store.undo(self.ident)
        store.undo(self.ident)
        self.edit("/blocks/0/size", 300)
        self.assertEqual(
            [r.label.split(" → ")[-1] for r in store.history(self.ident)],
            ["300 px", "110 px", "100 px", "Created"],
        )
        store.go_to(self.ident, far)
        self.assertEqual(self.size(), 110)
        store.undo(self.ident)
        store.undo(self.ident)
        store.redo(self.ident)
        self.assertEqual(self.size(), 100)
        other = store.create_piece(Piece())
        for wrong in (store.head_of(other).id, 10**9):
            with self.assertRaises(store.StoreError):
                store.go_to(self.ident, wrong)

    def test_the_state_before_a_gesture(self) -> None:
        self.assertIsNone(store.before_gesture(store.head_of(self.ident), "drag-1"))
        for size in (100, 110):
            self.edit("/blocks/0/size", size, "drag-1")
        before = store.before_gesture(store.head_of(self.ident), "drag-1")
        assert before
        self.assertEqual(before.blocks[0].size, 200)
        self.assertIsNone(store.before_gesture(store.head_of(self.ident), "drag-2"))

    def test_deleted_pieces_come_back(self) -> None:
        pieces.delete(self.ident)
        self.assertEqual([r.id for r in store.list_pieces(deleted=True)], [self.ident])
        pieces.restore(self.ident)
        self.assertEqual([r.id for r in store.list_pieces()], [self.ident])

    def test_a_newer_database_is_refused(self) -> None:
        store.database.execute_sql("PRAGMA user_version = 99")
        with self.assertRaises(store.StoreError):
            store.open_store(self.folder)
        store.database.execute_sql(f"PRAGMA user_version = {store.SCHEMA_VERSION}")

    def test_an_older_database_is_brought_up_to_date(self) -> None:
        """One of version 1, before windows numbered their messages, with a piece in it."""
        self.edit("/blocks/0/size", 77)
        store.database.execute_sql("DROP TABLE windowrecord")
        store.database.execute_sql("PRAGMA user_version = 1")
        store.open_store(self.folder)
        self.assertEqual(self.size(), 77)
        self.assertFalse(store.was_carried_out(store.Sent("here", 1)))
        pieces.undo(self.ident, sent=store.Sent("here", 1))
        self.assertTrue(store.was_carried_out(store.Sent("here", 1)))

    def test_writes_are_ahead_logged(self) -> None:
        self.assertEqual(store.database.execute_sql("PRAGMA journal_mode").fetchone()[0], "wal")

    def test_a_killed_process_comes_back_to_the_last_edit(self) -> None:
        store.database.close()
        writer = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(self.folder)], stdout=subprocess.PIPE, text=True
        )
        assert writer.stdout
        ident = writer.stdout.readline().strip()
        for _ in range(40):
            last = int(writer.stdout.readline())
        os.kill(writer.pid, signal.SIGKILL)
        rest = writer.stdout.read().split()
        writer.wait()
        writer.stdout.close()
        last = int(rest[-1]) if rest else last
        store.open_store(self.folder)
        kept = int(store.load_piece(ident).blocks[0].words.split()[1])
        self.assertGreaterEqual(kept, last, "what was said to be stored is there")


class EditTest(unittest.TestCase):
    def test_typed_entries_are_read_with_units(self) -> None:
        piece, label = apply_edits(Piece(), [Edit(op="enter", path="/blocks/0/form/depth", value="1in")])
        self.assertEqual(piece.blocks[0].form.depth, 96)
        self.assertEqual(label, "Depth 60 → 96 px")
        piece, _ = apply_edits(Piece(), [Edit(op="enter", path="/canvas/width", value="1000/3")])
        self.assertEqual(piece.canvas.width, 333)

    def test_edits_count_together_or_not_at_all(self) -> None:
        good, bad = (
            Edit(op="replace", path="/name", value="New"),
            Edit(op="replace", path="/blocks/0/size", value=-3),
        )
        with self.assertRaises(PieceError) as caught:
            apply_edits(Piece(), [good, bad])
        self.assertEqual(caught.exception.field, "/blocks/0/size")

    def test_lamps_come_and_go(self) -> None:
        piece, label = apply_edits(Piece(), [Edit(op="add", path="/light/lamps/-", value={"id": "b"})])
        self.assertEqual((len(piece.light.lamps), label), (2, "Added a lamp"))
        piece, _ = apply_edits(piece, [Edit(op="remove", path="/light/lamps/0")])
        self.assertEqual(piece.light.lamps[0].id, "b")

    def test_a_letter_set_for_the_first_time_gets_a_setting(self) -> None:
        piece, label = apply_edits(Piece(), [Edit(op="enter", path="/blocks/0/letters/1/size", value="120%")])
        self.assertEqual((piece.blocks[0].letters[1].size, label), (120, "Letter size of “o” 100 → 120 %"))
        piece, label = apply_edits(piece, [Edit(op="remove", path="/blocks/0/letters/1")])
        self.assertEqual((piece.blocks[0].letters, label), ({}, "“o” set like the others"))
        for path, value in (
            ("/blocks/0/letters/1/size", -3),
            ("/blocks/0/letters/x/size", 3),
            ("/blocks/7/letters/1/size", 3),
            ("/blocks/0/letters/1/kern", "far"),
        ):
            with self.subTest(path=path), self.assertRaises(PieceError):
                apply_edits(Piece(), [Edit(op="replace", path=path, value=value)])

    def test_edits_that_undermine_each_other_are_refused_as_one(self) -> None:
        words, letter = (
            Edit(op="replace", path="/blocks/0/words", value=5),
            Edit(op="replace", path="/blocks/0/letters/0/size", value=50),
        )
        bare = Edit(op="replace", path="/blocks/0", value={"words": "x"})
        for edits in ([words, letter], [bare, words], [bare, letter, words]):
            with self.subTest(edits=edits), self.assertRaises(PieceError):
                apply_edits(Piece(), edits)

    def test_letters_keep_their_settings_through_a_spell_of_typing(self) -> None:
        start, _ = apply_edits(Piece(), [Edit(op="replace", path="/blocks/0/letters/3/turn", value=9)])
        typed = start
        for words in ("", "P", "Po", "Por", "Port"):
            typed, _ = apply_edits(typed, [Edit(op="replace", path="/blocks/0/words", value=words)], start)
        self.assertEqual(typed.blocks[0].letters, start.blocks[0].letters)

    def test_the_last_block_in_sight_cannot_be_hidden(self) -> None:
        with self.assertRaises(PieceError) as caught:
            apply_edits(Piece(), [Edit(op="replace", path="/blocks/0/hidden", value=True)])
        self.assertIn("show one of them", str(caught.exception))

    def test_a_recut_canvas_shows_the_same_picture(self) -> None:
        """Every world point lands where it did, scaled about the middle, in each projection."""
        square = {"width": 1000, "height": 1000}
        for view in (
            {"focal_length": 35, "across": 20, "shift_x": 9},
            {"projection": "parallel"},
            {"projection": "oblique", "zoom": 2},
        ):
            with self.subTest(view=view):
                piece = piece_from_values({"canvas": {"width": 800, "height": 400}, "view": view})
                recut, label = apply_edits(piece, [Edit(op="recut", path="/canvas", value=square)])
                self.assertEqual(label, "Canvas 1000 × 1000 px, picture fitted")
                points = np.array([[10, 20, -70, 1], [-300, 90, 40, 1], [0, -150, 0, 1]], float)
                spots = []
                for one in (piece, recut):
                    seen = points @ world_to_canvas(make_camera(one.view, one.canvas, 1.0)).T
                    spots.append(seen[:, :2] / seen[:, 2:] - (one.canvas.width / 2, one.canvas.height / 2))
                np.testing.assert_allclose(spots[1], spots[0] * 1.25, atol=1e-3)
        for path, value in (("/view", square), ("/canvas", {"width": -1})):
            with self.assertRaises(PieceError):
                apply_edits(Piece(), [Edit(op="recut", path=path, value=value)])

    def test_a_lamp_is_put_at_a_point(self) -> None:
        piece, label = apply_edits(Piece(), [Edit(op="stand", path="/light/lamps/0", value=[0, 300, 400])])
        lamp = piece.light.lamps[0]
        self.assertEqual((lamp.bearing, lamp.distance, label), (90, 500, "Place of key"))
        self.assertAlmostEqual(lamp.elevation, 53.13, places=2)
        for path, value in (
            ("/light/lamps/7", [0, 0, 9]),
            ("/view/turn", [0, 0, 9]),
            ("/light/lamps/0", [1, 2]),
            ("/light/lamps/0", "there"),
        ):
            with self.assertRaises(PieceError):
                apply_edits(Piece(), [Edit(op="stand", path=path, value=value)])

    def test_paths_that_lead_nowhere_are_explained(self) -> None:
        for path in ("/nothing", "/blocks/9/size", "/blocks/x", "/light/lamps/7"):
            with self.assertRaises(PieceError):
                apply_edits(Piece(), [Edit(op="remove", path=path)])


class LargeTest(unittest.TestCase):
    def test_a_piece_that_could_not_be_read_again_is_not_stored(self) -> None:
        """Marks of long paths, brought one after another: the one too many is refused, and the
        piece stays as it was."""
        path = "M0 0" + "L12.345 67.891" * 13_000 + "Z"
        with tempfile.TemporaryDirectory() as folder:
            store.open_store(Path(folder))
            ident = store.create_piece(Piece())
            with self.assertRaises(store.StoreError) as raised:
                for number in range(20):
                    mark = {"kind": "mark", "id": f"m{number}", "parts": [{"path": path}]}
                    pieces.edit(ident, [Edit(op="add", path="/blocks/-", value=mark)])
            self.assertIn("remove a mark", raised.exception.remedy)
            self.assertEqual(len(store.load_piece(ident).blocks), number + 1)
            store.database.close()


class DemoTest(unittest.TestCase):
    def test_the_pieces_show_every_kind_of_material(self) -> None:
        demos = [demo_piece(name) for name in demo_names()]
        self.assertGreaterEqual(len(demos), 6)
        kinds = {
            material.kind
            for p in demos
            for material in (p.blocks[0].surface.face, p.blocks[0].surface.return_)
            if material
        }
        self.assertEqual(kinds, {"metal", "plastic", "glass", "stone", "paint", "glow", "flat"})
        for piece in demos:
            self.assertEqual(
                set(recipe(piece)),
                {"set", "form", "view", "light", "surface", "backdrop", "finish", "export"},
            )

    def test_every_form_appears_in_a_demo_piece(self) -> None:
        forms = [block.form for name in demo_names() for block in demo_piece(name).blocks]
        self.assertEqual({form.kind for form in forms}, {"solid", "rim", "tube"})
        self.assertLessEqual({"free", "raised", "v-cut"}, {form.stands for form in forms})
        self.assertEqual(
            {form.bevel.profile for form in forms} | {form.slab.bevel.profile for form in forms},
            set(PROFILES),
        )
        self.assertTrue(any(form.taper.amount for form in forms))
        self.assertTrue(any(form.drift.x for form in forms))
        self.assertTrue(any(form.run.points for form in forms))
        self.assertTrue(any(len(form.plates) > 1 for form in forms))
        self.assertTrue(any(form.kerfs and form.holes for form in forms))
        self.assertTrue(
            any(form.bevel.cushion for form in forms) and any(form.bevel.side == "outset" for form in forms)
        )
        kinds = {block.kind for name in demo_names() for block in demo_piece(name).blocks}
        self.assertEqual(kinds, {"lettering", "shape", "strokes", "mark"})

    def test_an_empty_store_is_filled_once(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            store.open_store(Path(folder))
            fill_empty_store()
            fill_empty_store()
            self.assertEqual(len(store.list_pieces()), len(demo_names()))
            store.database.close()


if __name__ == "__main__":
    unittest.main()
