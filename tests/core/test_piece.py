"""The document: what it takes, what it refuses and how it says so."""

import json
import pickle
import unittest
from typing import get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from halvex.core.piece import Piece, PieceError, json_schema, piece_from_json, piece_from_values, to_json
from halvex.core.piece.canvases import CANVASES
from halvex.core.piece.digest import digest
from halvex.core.piece.fields import fields_of
from halvex.core.piece.light import Lamp
from halvex.core.piece.material import Paint
from halvex.core.piece.part import all_parts
from halvex.core.piece.quantity import QuantityError, parse_quantity, px_per_unit

PLAIN_JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
    lambda inner: (
        st.lists(inner, max_size=4)
        | st.dictionaries(
            st.sampled_from(["canvas", "blocks", "words", "size", "light", "x"]), inner, max_size=4
        )
    ),
    max_leaves=20,
)


class CanvasTest(unittest.TestCase):
    def test_sheets_are_those_of_the_standards(self) -> None:
        """ISO 216: A4 is 210 × 297 mm, each sheet half the one before, to the mm; US letter 8.5 ×
        11 in; at 300 ppi."""
        sheets = {entry.name: entry.canvas for entry in CANVASES}
        self.assertEqual((sheets["A4"].width, sheets["A4"].height), (2480, 3508))
        self.assertEqual((sheets["letter"].width, sheets["letter"].height), (2550, 3300))
        for larger, smaller in (("A3", "A4"), ("A4", "A5"), ("A5", "A6")):
            mm = [
                side / 300 * 25.4
                for side in (
                    sheets[larger].width,
                    sheets[larger].height,
                    sheets[smaller].width,
                    sheets[smaller].height,
                )
            ]
            self.assertAlmostEqual(mm[2], mm[1] / 2, delta=0.6)
            self.assertAlmostEqual(mm[3], mm[0], delta=0.1)
        self.assertEqual(len(sheets), len(CANVASES))


class PieceTest(unittest.TestCase):
    def test_written_and_read_again_it_is_the_same(self) -> None:
        piece = piece_from_values(
            {"name": "Quay", "blocks": [{"words": "QUAY", "surface": {"return": {"kind": "glass"}}}]}
        )
        self.assertEqual(piece_from_json(json.dumps(to_json(piece))), piece)

    def test_equal_parts_have_equal_hashes_and_changed_copies_others(self) -> None:
        values = {"surface": {"face": {"kind": "paint", "colour": {"base": "#102030", "layers": [{}]}}}}
        first, second = (piece_from_values({"blocks": [values]}).blocks[0].surface for _ in range(2))
        self.assertIsNot(first, second)
        hashes = hash(first), hash(second)
        self.assertEqual(*hashes)
        self.assertEqual((hash(first), hash(second)), hashes, "they stay")
        other = first.model_copy(update={"face": Paint(colour="#203040")})
        self.assertNotEqual(hash(other), hash(first))
        self.assertEqual(hash(other.model_copy(update={"face": first.face})), hash(first))
        self.assertEqual(pickle.loads(pickle.dumps(first)), first)

    def test_the_first_fault_is_named_with_its_pointer(self) -> None:
        with self.assertRaises(PieceError) as caught:
            piece_from_values({"blocks": [{"form": {"depth": -4}}]})
        self.assertEqual(caught.exception.field, "/blocks/0/form/depth")
        self.assertIn("greater than or equal to 0.0001", caught.exception.remedy)

    def test_what_no_piece_can_hold_is_refused(self) -> None:
        for text in (
            "{",
            "[]",
            "NaN",
            '{"canvas": {"width": NaN}}',
            '{"canvas": {"width": 100000}}',
            '{"canvas": {"width": 30000, "height": 30000}}',
            '{"blocks": []}',
            '{"blocks": [{"size": -1}]}',
            '{"blocks": [{"size": 1e999}]}',
            '{"colour": 1}',
            '{"version": 99}',
            '{"blocks": [{"words": "a\\u0000b"}]}',
            json.dumps({"blocks": [{"words": "a" * 10_000}]}),
            "[" * 100_000,
            '{"light": {"lamps": [{"id": "a"}, {"id": "a"}]}}',
            '{"backdrop": {"colour": "red"}}',
        ):
            with self.subTest(text=text[:60]), self.assertRaises(PieceError):
                piece_from_json(text)

    @settings(max_examples=150, deadline=None)
    @given(PLAIN_JSON)
    def test_any_json_is_a_piece_or_one_clear_error(self, values: object) -> None:
        try:
            self.assertIsInstance(piece_from_values(values), Piece)
        except PieceError as fault:
            self.assertTrue(fault.remedy)

    def test_schema_describes_what_is_written(self) -> None:
        import jsonschema

        jsonschema.Draft202012Validator.check_schema(json_schema())
        jsonschema.validate(to_json(Piece()), json_schema())

    def test_digests_follow_content_alone(self) -> None:
        self.assertEqual(digest(Piece()), digest(Piece()))
        self.assertNotEqual(digest(Piece()), digest(Piece(name="Other")))


class FieldsTest(unittest.TestCase):
    def test_a_model_lists_its_fields_with_labels_options_and_conditions(self) -> None:
        paint = {field.name: field for field in fields_of(Paint)}
        self.assertEqual(
            (paint["finish"].kind, paint["finish"].options), ("choice", ("matt", "satin", "gloss"))
        )
        self.assertEqual((paint["colour"].kind, paint["colour"].label), ("source", "Colour"))
        lamp = {field.name: field for field in fields_of(Lamp)}
        self.assertEqual(lamp["height"].when, (("kind", ("softbox", "strip")),))
        self.assertEqual(lamp["kelvin"].when, (("colour", (None,)),))
        self.assertEqual(lamp["colour"].when, (("colour", None),))
        self.assertEqual((lamp["name"].kind, lamp["on"].kind, lamp["on"].group), ("text", "tick", "aim"))

    def test_conditions_name_fields_and_values_that_there_are(self) -> None:
        """A condition that no document can meet would hide its field for good."""
        for model in all_parts():
            for field in fields_of(model):
                for other, values in field.when:
                    self.assertIn(other, model.model_fields, f"{model.__name__}.{field.name}")
                    options = get_args(model.model_fields[other].annotation)
                    for value in values or ():
                        self.assertTrue(value is None or value in options, f"{model.__name__}.{field.name}")


class QuantityTest(unittest.TestCase):
    def test_units_are_those_of_css(self) -> None:
        """CSS Values and Units: 1 in = 25.4 mm = 72 pt = 96 px at 96 ppi."""
        for text, px in (
            ("1in", 96),
            ("25.4mm", 96),
            ("72pt", 96),
            ("2.54cm", 96),
            ("96px", 96),
            ("96", 96),
            ("12mm", 12 / 25.4 * 96),
            ("3/8in", 36),
        ):
            self.assertAlmostEqual(parse_quantity(text, unit="px", ppi=96), px, places=9, msg=text)
        self.assertEqual(px_per_unit("in", 300), 300)

    def test_arithmetic(self) -> None:
        for text, value in (
            ("40+6", 46),
            ("2*(3+4)", 14),
            ("-5", -5),
            ("−5", -5),
            ("10/4", 2.5),
            ("1in+4", 100),
            ("1,5", 1.5),
            ("30°", None),
        ):
            if value is None:
                self.assertEqual(parse_quantity(text, unit="°", ppi=96), 30)
            else:
                self.assertAlmostEqual(parse_quantity(text, unit="px", ppi=96), value)

    def test_what_is_no_number_is_explained(self) -> None:
        for text in (
            "",
            "abc",
            "1/0",
            "12°",
            "__import__('os')",
            "2**9999",
            "1e999",
            "(" * 70,
            "9" * 79 + "*9",
            "True",
            "[1]",
        ):
            with self.subTest(text=text):
                try:
                    self.assertLess(abs(parse_quantity(text, unit="px", ppi=96)), 1e90)
                except QuantityError as fault:
                    self.assertTrue(str(fault))

    @settings(max_examples=200, deadline=None)
    @given(st.text(max_size=60))
    def test_any_text_is_a_number_or_an_explanation(self, text: str) -> None:
        try:
            self.assertIsInstance(parse_quantity(text, unit="mm", ppi=300), float)
        except QuantityError as fault:
            self.assertTrue(str(fault))


if __name__ == "__main__":
    unittest.main()
