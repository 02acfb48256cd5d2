"""Blocks moved, scaled, turned, aligned and spread out; words on arcs and curves; guides. Against
plane geometry."""

import itertools
import math
import unittest

import numpy as np

from halvex.core.lettering import LetteringError, set_block
from halvex.core.lettering.arranging import How, arranged, scaled, shifted, span_of, turned_about
from halvex.core.piece import piece_from_values
from halvex.core.piece.block import Place, Shape, Stroke, StrokePoint, Strokes
from halvex.core.piece.canvases import CANVASES
from halvex.core.piece.guides import guides
from halvex.core.piece.lettering import Along, Lettering, Stagger
from halvex.core.piece.model import Canvas
from halvex.core.piece.resolving import resolve
from halvex.core.piece.turning import rotation
from halvex.core.piece.view import Turn
from halvex.core.scene import place_bodies
from halvex.core.solids import PartOf

CANVAS = Canvas(width=1000, height=600)


def box(ident: str, width: float, height: float, x: float, y: float, **more: object) -> Shape:
    return Shape.model_validate(
        {
            "id": ident,
            "shape": "rectangle",
            "width": width,
            "height": height,
            "place": {"x": x, "y": y},
            **more,
        }
    )


class SpanTest(unittest.TestCase):
    def test_a_turned_block_spans_its_turned_corners(self) -> None:
        left, bottom, right, top = span_of(
            box("a", 200, 100, 10, 20).model_copy(update={"place": Place(x=10, y=20, turn=Turn(z=90))})
        )
        for value, expected in zip((left, bottom, right, top), (-40, -80, 60, 120), strict=True):
            self.assertAlmostEqual(value, expected)

    def test_turned_about_the_upright_it_is_foreshortened(self) -> None:
        left, _, right, _ = span_of(
            box("a", 200, 100, 0, 0).model_copy(update={"place": Place(turn=Turn(y=60))})
        )
        self.assertAlmostEqual(right - left, 200 * math.cos(math.radians(60)))


class ActTest(unittest.TestCase):
    def test_scaling_about_a_point_keeps_it(self) -> None:
        block = scaled(box("a", 200, 100, 30, 40), 2.0, 10 + 20j)
        self.assertEqual((block.width, block.height), (400, 200))  # type: ignore[union-attr]
        self.assertEqual((block.place.x, block.place.y), (50, 60))

    def test_strokes_scale_with_points_handles_and_width(self) -> None:
        stroke = Stroke(points=(StrokePoint(x=-10, y=0, out_x=4), StrokePoint(x=10, y=6)))
        block = scaled(Strokes(strokes=(stroke,), width=8), 1.5, 0j)
        assert isinstance(block, Strokes)
        self.assertEqual(block.width, 12)
        self.assertEqual(
            (block.strokes[0].points[0].x, block.strokes[0].points[0].out_x, block.strokes[0].points[1].y),
            (-15, 6, 9),
        )

    def test_turning_about_a_point_goes_round_it(self) -> None:
        block = turned_about(box("a", 200, 100, 100, 0), 90, 0j)
        self.assertAlmostEqual(block.place.x, 0)
        self.assertAlmostEqual(block.place.y, 100)
        self.assertEqual(block.place.turn.z, 90)
        self.assertEqual(turned_about(block, 135, 0j).place.turn.z, -135)

    def test_a_shifted_block_keeps_all_else(self) -> None:
        block = box("a", 20, 10, 1, 2)
        self.assertEqual(shifted(shifted(block, 3, 4), -3, -4), block)


class ArrangeTest(unittest.TestCase):
    def spans(self, how: How, canvas: Canvas | None) -> list[tuple[float, ...]]:
        units = [[box("a", 100, 40, -300, 10)], [box("b", 60, 80, 0, -50)], [box("c", 200, 20, 350, 90)]]
        return [tuple(round(v, 6) for v in span_of(block)) for block in arranged(units, how, canvas)]

    def test_edges_and_middles_of_the_canvas(self) -> None:
        self.assertEqual({span[0] for span in self.spans("left", CANVAS)}, {-500})
        self.assertEqual({span[2] for span in self.spans("right", CANVAS)}, {500})
        self.assertEqual({span[3] for span in self.spans("top", CANVAS)}, {300})
        self.assertEqual({span[1] for span in self.spans("bottom", CANVAS)}, {-300})
        self.assertEqual({span[0] + span[2] for span in self.spans("centre", CANVAS)}, {0})
        self.assertEqual({span[1] + span[3] for span in self.spans("middle", CANVAS)}, {0})

    def test_each_other(self) -> None:
        self.assertEqual({span[0] for span in self.spans("left", None)}, {-350})
        self.assertEqual({span[3] for span in self.spans("top", None)}, {100})

    def test_spreading_leaves_equal_gaps(self) -> None:
        spans = sorted(self.spans("spread across", None))
        gaps = [b[0] - a[2] for a, b in itertools.pairwise(spans)]
        self.assertAlmostEqual(gaps[0], gaps[1])
        self.assertEqual((spans[0][0], spans[-1][2]), (-350, 450))
        spans = sorted(self.spans("spread across", CANVAS))
        gaps = [spans[0][0] + 500, *(b[0] - a[2] for a, b in itertools.pairwise(spans)), 500 - spans[-1][2]]
        for gap in gaps:
            self.assertAlmostEqual(gap, (1000 - 360) / 4)

    def test_a_group_moves_as_one(self) -> None:
        pair = [box("a", 100, 40, -100, 0), box("b", 100, 40, 100, 0)]
        left, right = arranged([pair], "right", CANVAS)
        self.assertAlmostEqual(span_of(right)[2], 500)
        self.assertAlmostEqual(right.place.x - left.place.x, 200)


class FollowingTest(unittest.TestCase):
    def test_letters_of_an_arc_stand_on_one_circle_square_to_it(self) -> None:
        """The longest line of length L spans the bend: its radius is L / bend, and each letter
        turns by its angle there."""
        straight = set_block(Lettering(words="OOOOO", size=100)).letters
        arc = set_block(Lettering(words="OOOOO", size=100, along=Along(kind="arc", bend=120))).letters
        middles = [
            complex((box[0] + box[2]) / 2, (box[1] + box[3]) / 2) for box in (letter.box for letter in arc)
        ]
        pitch = straight[1].x - straight[0].x
        radius = 5 * pitch / math.radians(120)
        # Middles of O stand above the baseline's circle by the same height; their chords are all alike.
        chords = [abs(b - a) for a, b in itertools.pairwise(middles)]
        high = (straight[0].box[3] + straight[0].box[1]) / 2 - straight[0].y
        for chord in chords:
            self.assertAlmostEqual(chord, 2 * (radius + high) * math.sin(math.radians(12)), delta=0.5)
        self.assertAlmostEqual(middles[2].real, 0, delta=0.1)

    def test_a_valley_bends_the_other_way(self) -> None:
        up = set_block(Lettering(words="OOO", size=100, along=Along(kind="arc", bend=90))).letters
        down = set_block(Lettering(words="OOO", size=100, along=Along(kind="arc", bend=-90))).letters
        self.assertLess(up[0].box[1], up[1].box[1])
        self.assertGreater(down[0].box[1], down[1].box[1])

    def test_words_follow_a_drawn_line(self) -> None:
        """On a straight line at 30° every letter leans by 30° and the whole is as wide as before,
        times its cosine."""
        end = 400 * math.cos(math.radians(30)), 400 * math.sin(math.radians(30))
        line = Stroke(points=(StrokePoint(x=-end[0], y=-end[1]), StrokePoint(x=end[0], y=end[1])))
        placed = set_block(Lettering(words="III", size=100, along=Along(kind="curve", curve=line))).letters
        flat = set_block(Lettering(words="III", size=100)).letters
        origin = complex(placed[0].x, placed[0].y) - complex(placed[2].x, placed[2].y)
        self.assertAlmostEqual(abs(origin), flat[2].x - flat[0].x, places=3)
        self.assertAlmostEqual(math.degrees(math.atan2(-origin.imag, -origin.real)), 30, places=3)

    def test_upright_letters_only_move(self) -> None:
        turned = set_block(
            Lettering(words="HHH", size=100, along=Along(kind="arc", bend=90, upright=True))
        ).letters
        flat = set_block(Lettering(words="HHH", size=100)).letters
        self.assertEqual([a.outline.digest for a in turned], [b.outline.digest for b in flat])

    def test_too_many_lines_for_an_arc_are_explained(self) -> None:
        with self.assertRaises(LetteringError) as raised:
            set_block(Lettering(words="A\nB\nC\nD\nE\nF", size=100, along=Along(kind="arc", bend=350)))
        self.assertEqual(raised.exception.field, "along")

    def test_stagger_by_turns_and_by_chance(self) -> None:
        flat = set_block(Lettering(words="HHHH", size=100)).letters
        by_turns = set_block(Lettering(words="HHHH", size=100, stagger=Stagger(rise=100))).letters
        rises = [round(a.y - b.y, 6) for a, b in zip(by_turns, flat, strict=True)]
        self.assertEqual(rises, [10, -10, 10, -10])
        chance = [
            set_block(
                Lettering(words="HHHH", size=100, stagger=Stagger(rise=100, by="chance", seed=seed))
            ).letters
            for seed in (1, 1, 2)
        ]
        self.assertEqual([letter.y for letter in chance[0]], [letter.y for letter in chance[1]])
        self.assertNotEqual([letter.y for letter in chance[0]], [letter.y for letter in chance[2]])


class CaseTest(unittest.TestCase):
    def digests(self, **lettering: object) -> list[str]:
        return [
            letter.outline.digest
            for letter in set_block(Lettering.model_validate({"size": 100, **lettering})).letters
        ]

    def test_capitals_keep_the_words_and_the_letters_numbers(self) -> None:
        self.assertEqual(self.digests(words="Quay", case="capitals"), self.digests(words="QUAY"))
        letters = set_block(Lettering(words="Maß", size=100, case="capitals")).letters
        # ß becomes two capitals, both of the third letter.
        self.assertEqual([letter.letter for letter in letters], [0, 1, 2, 2])

    def test_small_capitals_are_the_typefaces_own_or_a_little_over_the_x_height(self) -> None:
        letters = set_block(
            Lettering(words="Hh", typeface="alfa-slab-one", size=100, case="small capitals")
        ).letters
        self.assertEqual(letters[0].outline.digest, letters[1].outline.digest)
        x = set_block(Lettering(words="x", typeface="alfa-slab-one", size=100)).box
        small = letters[1].box[3] - letters[1].box[1]
        self.assertAlmostEqual(small / (x[3] - x[1]), 1.08, delta=0.03)


class TurnedBodyTest(unittest.TestCase):
    def test_a_block_turned_by_itself_is_the_same_body_elsewhere(self) -> None:
        values = {
            "blocks": [{"words": "I", "size": 100, "place": {"x": 30, "turn": {"x": 20, "y": 30, "z": 40}}}]
        }
        plain = place_bodies(resolve(piece_from_values({"blocks": [{"words": "I", "size": 100}]}))).instances[
            0
        ]
        turned = place_bodies(resolve(piece_from_values(values))).instances[0]
        self.assertIs(turned.body, plain.body, "a turn needs no other body")
        expected = (plain.positions @ rotation(Turn(x=20, y=30, z=40)).T) + (30, 0, 0)
        np.testing.assert_allclose(turned.positions, expected, atol=1e-9)
        low, high = turned.bounds
        np.testing.assert_allclose((low, high), (expected.min(axis=0), expected.max(axis=0)), atol=1e-9)
        np.testing.assert_allclose(np.linalg.norm(turned.normals, axis=2), 1.0, atol=1e-6)

    def test_a_letter_has_a_material_of_its_own_all_over(self) -> None:
        red = {"kind": "plastic", "colour": "#cc2222"}
        values = {
            "blocks": [
                {
                    "words": "IL",
                    "size": 100,
                    "letters": {"1": {"material": red}},
                    "surface": {"return": {"kind": "paint"}},
                }
            ]
        }
        whole = place_bodies(resolve(piece_from_values(values)))
        placed, materials = whole.instances, whole.materials
        self.assertEqual({materials[i].kind for i in placed[0].materials[:4]}, {"metal", "paint"})  # type: ignore[union-attr]
        self.assertEqual({materials[i].kind for i in placed[1].materials[:4]}, {"plastic"})  # type: ignore[union-attr]
        self.assertEqual(len(PartOf), len(placed[0].materials))


class GuideTest(unittest.TestCase):
    def at(self, canvas: Canvas, family: str, way: str) -> list[float]:
        return sorted(guide.at for guide in guides(canvas) if guide.family == family and guide.way == way)

    def test_thirds_and_safe_areas(self) -> None:
        """EBU R 95: action safe 3.5 %, graphics safe 5 % from each side."""
        canvas = Canvas(width=1920, height=1080)
        self.assertEqual(self.at(canvas, "thirds", "upright"), [-320, 320])
        self.assertEqual(self.at(canvas, "middle", "level"), [0])
        for found, share in zip(self.at(canvas, "safe", "upright")[2:], (0.05, 0.035), strict=True):
            self.assertAlmostEqual(found, 960 - share * 1920)

    def test_paper_has_a_bleed(self) -> None:
        canvas = Canvas(width=2480, height=3508, ppi=300, unit="mm")
        self.assertAlmostEqual(self.at(canvas, "safe", "level")[1], 3508 / 2 - 3 * 300 / 25.4)

    def test_a_book_cover_shows_its_spine(self) -> None:
        cover = next(named for named in CANVASES if named.name == "book cover with spine")
        self.assertEqual(self.at(cover.canvas, "spine", "upright"), [-0.375 * 300, 0.375 * 300])
        self.assertEqual(self.at(Canvas(), "spine", "upright"), [])
