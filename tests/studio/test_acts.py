"""Acts on blocks: described in words, done from where the gesture began, refused where a block is locked."""

import unittest

from halvex.core.piece import Piece, PieceError, piece_from_values, to_json
from halvex.studio.edits import Edit, apply_edits
from halvex.studio.lighting import lit_anew

PIECE = piece_from_values(
    {
        "canvas": {"width": 800, "height": 400},
        "blocks": [
            {"id": "words", "words": "Quay", "size": 100, "place": {"x": 10, "y": 20}},
            {
                "id": "star",
                "kind": "shape",
                "width": 60,
                "height": 60,
                "group": "crest",
                "place": {"x": -100},
            },
            {
                "id": "disc",
                "kind": "shape",
                "shape": "ellipse",
                "width": 60,
                "height": 60,
                "group": "crest",
                "place": {"x": 100},
            },
        ],
    }
)


def done(piece: Piece, op: str, path: str, value: object, since: Piece | None = None) -> tuple[Piece, str]:
    return apply_edits(piece, [Edit.model_validate({"op": op, "path": path, "value": value})], since)


class ActsTest(unittest.TestCase):
    def test_a_drag_counts_from_where_it_began(self) -> None:
        piece = PIECE
        for x in (3, 7, 12.5):
            piece, label = done(piece, "shift", "/blocks/0", [x, -x], PIECE)
        self.assertEqual((piece.blocks[0].place.x, piece.blocks[0].place.y), (22.5, 7.5))
        self.assertEqual(label, "Moved a block")

    def test_blocks_that_an_edit_does_not_change_are_the_same_objects(self) -> None:
        """So nothing that was found out about them has to be found again."""
        edits = (
            ("shift", "/blocks/0", [5, 0]),
            ("replace", "/blocks/0/size", 90),
            ("enter", "/blocks/0/size", "90"),
            ("remove", "/blocks/0", None),
            ("replace", "/view/turn/x", 12),
            ("add", "/blocks/-", {"kind": "shape"}),
        )
        for op, path, value in edits:
            with self.subTest(op=op, path=path):
                changed, _ = done(PIECE, op, path, value)
                held = [block for block in changed.blocks if block.id in ("star", "disc")]
                self.assertEqual(list(map(id, held)), list(map(id, PIECE.blocks[1:])))
                self.assertEqual(changed.view is PIECE.view, not path.startswith("/view"))

    def test_edits_in_a_row_change_neither_the_piece_nor_what_was_given(self) -> None:
        before, layered = to_json(PIECE), {"base": "#102030", "layers": [{"kind": "pattern"}]}
        given = {"kind": "paint", "colour": layered}
        colour = "/blocks/0/surface/face/colour"
        edits = [
            Edit(op="replace", path="/blocks/0/surface/face", value=given),
            Edit(op="replace", path=f"{colour}/base", value="#405060"),
            Edit(op="shift", path="/blocks/1", value=[1, 0]),
            Edit(op="remove", path=f"{colour}/layers/0"),
        ]
        changed, _ = apply_edits(PIECE, edits)
        self.assertEqual(to_json(PIECE), before)
        self.assertEqual(layered, {"base": "#102030", "layers": [{"kind": "pattern"}]})
        self.assertEqual(changed.blocks[0].surface.face.colour.base, "#405060")
        self.assertEqual(changed.blocks[0].surface.face.colour.layers, ())
        with self.assertRaises(PieceError):
            apply_edits(PIECE, [*edits, Edit(op="remove", path=f"{colour}/layers/0")])
        self.assertEqual(to_json(PIECE), before)

    def test_words_typed_during_a_drag_stay(self) -> None:
        typed, _ = done(PIECE, "replace", "/blocks/0/words", "Quays")
        moved, _ = done(typed, "shift", "/blocks/0", [5, 0], PIECE)
        self.assertEqual((moved.blocks[0].words, moved.blocks[0].place.x), ("Quays", 15))  # type: ignore[union-attr]

    def test_a_group_is_moved_scaled_and_turned_as_one(self) -> None:
        moved, _ = done(PIECE, "shift", "/blocks/1", [0, 30])
        self.assertEqual([block.place.y for block in moved.blocks], [20, 30, 30])
        scaled, _ = done(PIECE, "scale", "/blocks/1", 2)
        self.assertEqual([block.place.x for block in scaled.blocks[1:]], [-200, 200])
        self.assertEqual([block.width for block in scaled.blocks[1:]], [120, 120])  # type: ignore[union-attr]
        turned, _ = done(PIECE, "turn", "/blocks/2", 90)
        self.assertAlmostEqual(turned.blocks[2].place.y, 100, places=1)
        self.assertEqual([block.place.turn.z for block in turned.blocks], [0, 90, 90])

    def test_the_middle_of_the_canvas_in_one_gesture(self) -> None:
        edits = [
            Edit(op="arrange", path="/blocks", value={"blocks": ["words"], "how": how, "to": "canvas"})
            for how in ("centre", "middle")
        ]
        piece, label = apply_edits(PIECE, edits)
        self.assertEqual((piece.blocks[0].place.x, piece.blocks[0].place.y), (0, 0))
        self.assertEqual(label, "Blocks aligned centre; Blocks aligned middle")

    def test_blocks_are_reordered(self) -> None:
        piece, _ = done(PIECE, "reorder", "/blocks/0", 2)
        self.assertEqual([block.id for block in piece.blocks], ["star", "disc", "words"])

    def test_a_locked_block_is_left_as_it_is_until_it_is_unlocked(self) -> None:
        locked, label = done(PIECE, "replace", "/blocks/0/locked", True)
        self.assertEqual(label, "Locked a block")
        for op, path, value in (
            ("shift", "/blocks/0", [1, 1]),
            ("reorder", "/blocks/0", 2),
            ("replace", "/blocks/0/words", "No"),
            ("remove", "/blocks/0", None),
            ("arrange", "/blocks", {"blocks": ["words"], "how": "left"}),
        ):
            with self.subTest(op), self.assertRaises(PieceError) as raised:
                done(locked, op, path, value)
            self.assertIn("unlock it first", raised.exception.remedy)
        hidden, _ = done(locked, "replace", "/blocks/0/hidden", True)
        self.assertTrue(hidden.blocks[0].hidden)
        free, _ = done(locked, "replace", "/blocks/0/locked", False)
        self.assertFalse(free.blocks[0].locked)

    def test_a_group_with_a_locked_block_stays(self) -> None:
        locked, _ = done(PIECE, "replace", "/blocks/1/locked", True)
        with self.assertRaises(PieceError):
            done(locked, "shift", "/blocks/2", [1, 1])

    def test_blocks_are_grouped_under_a_name_that_is_free(self) -> None:
        both = {"blocks": ["words", "star"], "together": True}
        named = done(PIECE, "replace", "/blocks/2/group", "group 1")[0]
        grouped, label = done(named, "group", "/blocks", both)
        self.assertEqual([block.group for block in grouped.blocks], ["group 2", "group 2", "group 1"])
        self.assertEqual(label, "Grouped blocks")
        alone, label = done(grouped, "group", "/blocks", {**both, "together": False})
        self.assertEqual([block.group for block in alone.blocks], ["", "", "group 1"])
        self.assertEqual(label, "Ungrouped blocks")

    def test_a_look_is_taken_from_a_block_or_from_one_that_was_copied(self) -> None:
        formed = done(PIECE, "replace", "/blocks/1/form/depth", 33)[0]
        painted = done(formed, "replace", "/blocks/1/surface/face", {"kind": "paint"})[0]
        copied = to_json(painted)["blocks"][1]
        for value in ("star", copied):
            given, _ = done(painted, "look", "/blocks/0", value)
            self.assertEqual(given.blocks[0].form, painted.blocks[1].form)
            self.assertEqual(given.blocks[0].surface, painted.blocks[1].surface)
            self.assertEqual(given.blocks[0].place, painted.blocks[0].place)

    def test_a_square_softbox_becomes_a_narrow_strip(self) -> None:
        strip, label = done(PIECE, "kind", "/light/lamps/0", "strip")
        lamp = strip.light.lamps[0]
        self.assertAlmostEqual(lamp.width, lamp.height / 6, delta=0.1)
        self.assertEqual(label, "Kind of key softbox → strip")
        # One that has a shape of its own keeps it.
        narrow, _ = done(PIECE, "replace", "/light/lamps/0/width", 90)
        (lamp,) = done(narrow, "kind", "/light/lamps/0", "strip")[0].light.lamps
        self.assertEqual((lamp.width, lamp.height), (90, 500))

    def test_a_lamp_is_left_alone_and_then_all_are_on(self) -> None:
        lamps = [{"id": "key"}, {"id": "fill", "on": False}, {"id": "rim"}]
        lit = done(PIECE, "replace", "/light/lamps", lamps)[0]
        alone, label = done(lit, "alone", "/light/lamps/1", None)
        self.assertEqual([lamp.on for lamp in alone.light.lamps], [False, True, False])
        self.assertEqual(label, "key alone")
        again, label = done(alone, "alone", "/light/lamps/1", None)
        self.assertEqual([lamp.on for lamp in again.light.lamps], [True, True, True])
        self.assertEqual(label, "All lamps on")
        with self.assertRaises(PieceError):
            done(lit, "alone", "/light/lamps/3", None)

    def test_lamps_switched_off_stay_off_while_their_setup_follows(self) -> None:
        lit = done(PIECE, "setup", "/light", {"name": "softbox and fill"})[0]
        for edit in (
            Edit(op="alone", path="/light/lamps/1"),
            Edit(op="replace", path="/light/lamps/0/on", value=False),
        ):
            switched = lit_anew(apply_edits(lit, [edit])[0], [edit], moving=False)
            turn = Edit(op="replace", path="/view/turn/y", value=30)
            turned = lit_anew(apply_edits(switched, [turn])[0], [turn], moving=False)
            assert turned.light.setup is not None
            self.assertTrue(turned.light.setup.follows)
            self.assertFalse(turned.light.lamps[0].on)
            self.assertTrue(turned.light.lamps[1].on)
        again = {"name": "softbox and fill", "follows": True}
        self.assertFalse(done(turned, "setup", "/light", again)[0].light.lamps[0].on)
        other = {"name": "graded face", "follows": True}
        self.assertTrue(all(lamp.on for lamp in done(turned, "setup", "/light", other)[0].light.lamps))
        brighter = Edit(op="replace", path="/light/lamps/0/strength", value=1)
        kept = lit_anew(apply_edits(lit, [brighter])[0], [brighter], moving=False)
        assert kept.light.setup is not None
        self.assertFalse(kept.light.setup.follows)

    def test_a_run_follows_a_drawn_stroke_and_goes_back_by_the_depth(self) -> None:
        stroke = {
            "id": "drawn",
            "kind": "strokes",
            "strokes": [{"points": [{"x": 10, "y": 5}, {"x": 90, "y": 65}]}],
        }
        piece = piece_from_values({"blocks": [{"words": "Quay", "form": {"depth": 40}}, stroke]})
        piece, label = done(piece, "follow", "/blocks/0", "drawn")
        run = piece.blocks[0].form.run.points
        self.assertEqual((run[-1].x, run[-1].y, run[-1].z), (80, 60, -40))
        self.assertEqual((run[3].x, run[3].y, run[3].z), (40, 30, -20))
        self.assertEqual(label, "Run follows drawn strokes")
        with self.assertRaises(PieceError):
            done(piece, "follow", "/blocks/1", "lettering")

    def test_an_axis_is_typed_though_it_was_never_set(self) -> None:
        piece = piece_from_values({"blocks": [{"words": "Quay", "typeface": "anybody"}]})
        piece, label = done(piece, "enter", "/blocks/0/axes/wght", "300+50")
        self.assertEqual(piece.blocks[0].axes, {"wght": 350})  # type: ignore[union-attr]
        self.assertEqual(label, "Wght 350")

    def test_nonsense_is_explained(self) -> None:
        for op, path, value, words in (
            ("shift", "/blocks/0", [1], "two numbers"),
            ("shift", "/blocks/9", [1, 1], "no such block"),
            ("scale", "/blocks/0", -1, "over 0"),
            ("scale", "/blocks/0", True, "over 0"),
            ("turn", "/blocks/0", "round", "degrees"),
            ("reorder", "/blocks/0", 7, "from 0 to 2"),
            ("arrange", "/blocks", {"blocks": ["nobody"], "how": "left"}, "pick it again"),
            ("arrange", "/blocks", {"blocks": ["words"], "how": "sideways"}, "left"),
            (
                "arrange",
                "/blocks",
                {"blocks": ["star", "disc"], "how": "left", "to": "each other"},
                "another one",
            ),
            ("group", "/blocks", {"blocks": ["nobody"], "together": True}, "pick it again"),
            ("group", "/blocks/0", {"blocks": ["words"], "together": True}, "only blocks"),
            ("look", "/blocks/0", "nobody", "pick it again"),
            ("look", "/blocks/0", {"kind": "cloud"}, "kind"),
            ("look", "/blocks/0", 7, ""),
            ("kind", "/light/lamps/0", "candle", "softbox"),
            ("kind", "/light/lamps/4", "bulb", "no such lamp"),
            ("arrange", "/canvas", {"blocks": ["words"], "how": "left"}, "only blocks"),
            ("scale", "/blocks/0", 1e9, "less than or equal"),
        ):
            with self.subTest(f"{op} {value}"), self.assertRaises(PieceError) as raised:
                done(PIECE, op, path, value)
            self.assertIn(words, raised.exception.remedy)

    def test_a_side_of_the_canvas_is_typed_in_the_canvas_own_unit(self) -> None:
        """25.4 mm are an inch (CSS Values and Units)."""
        sheet = piece_from_values({"canvas": {"width": 1000, "height": 1000, "ppi": 300, "unit": "mm"}})
        piece, _ = done(sheet, "enter", "/canvas/width", "210")
        self.assertEqual(piece.canvas.width, round(210 / 25.4 * 300))
        piece, _ = done(sheet, "enter", "/canvas/width", "8.5in")
        self.assertEqual(piece.canvas.width, 2550)
        piece, _ = done(sheet, "enter", "/canvas/width", "600px")
        self.assertEqual(piece.canvas.width, 600)


class ColourTest(unittest.TestCase):
    def setUp(self) -> None:
        striped = {"base": "#ffffff", "layers": [{"kind": "pattern"}]}
        self.striped = striped
        surface = {
            "face": {"kind": "metal", "tint": striped},
            "return": {"kind": "paint"},
            "plate": {"kind": "glass"},
        }
        self.piece = piece_from_values({"blocks": [{"words": "i", "surface": surface}]})

    def test_a_part_takes_the_colour_of_another_and_stays_what_it_is(self) -> None:
        piece, label = done(self.piece, "colour-as", "/blocks/0/surface/return", "face")
        self.assertEqual(label, "Colour of the return as the face")
        side = piece.blocks[0].surface.return_
        assert side is not None
        self.assertEqual((side.kind, side.colour), ("paint", piece.blocks[0].surface.face.tint))
        # Glass takes layers for its tint.
        glass, _ = done(self.piece, "colour-as", "/blocks/0/surface/plate", "face")
        assert glass.blocks[0].surface.plate is not None
        self.assertEqual(glass.blocks[0].surface.plate.tint, piece.blocks[0].surface.face.tint)
        # What followed its neighbour has a material of its own then.
        piece, _ = done(self.piece, "colour-as", "/blocks/0/surface/bevel", "return")
        self.assertEqual(to_json(piece)["blocks"][0]["surface"]["bevel"]["tint"], "#2f5d62")

    def test_a_picture_covers_a_face_above_what_is_there(self) -> None:
        piece, _ = done(self.piece, "cover", "/blocks/0", "harbour")
        tint = piece.blocks[0].surface.face.tint
        self.assertEqual([layer.kind for layer in tint.layers], ["pattern", "picture"])

    def test_a_locked_block_keeps_its_colours(self) -> None:
        locked, _ = done(self.piece, "replace", "/blocks/0/locked", True)
        tint = "/blocks/0/surface/face/tint"
        for op, path, value in (
            ("cover", "/blocks/0", "harbour"),
            ("colour-as", "/blocks/0/surface/return", "face"),
            ("paint", f"{tint}/base", "White"),
            ("lay-along", f"{tint}/layers/0", [[0, 0], [9, 9]]),
            ("enter", f"{tint}/base", "teal"),
        ):
            with self.subTest(op), self.assertRaisesRegex(PieceError, "locked"):
                done(locked, op, path, value)

    def test_what_takes_no_colour_says_so(self) -> None:
        for op, path, value, said in (
            ("colour-as", "/blocks/0/surface/nose", "face", "name two parts"),
            ("colour-as", "/blocks/0/surface/face", 3, "name two parts"),
            ("colour-as", "/blocks/9/surface/face", "return", "no such block"),
            ("cover", "/blocks/0", "../etc", "/blocks/0/picture"),
        ):
            with self.subTest(said), self.assertRaisesRegex(PieceError, said):
                done(self.piece, op, path, value)


if __name__ == "__main__":
    unittest.main()
