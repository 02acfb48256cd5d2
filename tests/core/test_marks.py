"""Marks: SVG files are read part by part, safely, and what is not supported is named."""

import math
import unittest
from unittest.mock import patch

from halvex.core.lettering import LetteringError, set_block
from halvex.core.lettering.marks import MOST_POINTS, path_contours, widened
from halvex.core.lettering.svg import LARGEST_SVG_BYTES, ReadMark, read_svg
from halvex.core.piece.mark import LineStyle, Mark
from halvex.core.solids import block_bodies
from tests.core.checks import fault_of
from tests.core.svg_drawings import DRAWINGS

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" width="100" height="100">'


def read(inside: str, *, ppi: float = 96.0) -> ReadMark:
    return read_svg(f"{HEAD}{inside}</svg>".encode(), ppi)


class ReadingTest(unittest.TestCase):
    def test_parts_stand_about_the_middle_of_their_ink(self) -> None:
        mark = Mark(parts=read('<rect x="60" y="10" width="20" height="40"/>').parts)
        for value, expected in zip(set_block(mark).box, (-10, -20, 10, 20), strict=True):
            self.assertAlmostEqual(value, expected, places=3)

    def test_every_colour_is_kept_and_one_colour_alone_is_the_blocks_own(self) -> None:
        two = read(
            '<rect width="9" height="9" fill="red"/><rect x="20" width="9" height="9" fill="blue"/>'
        ).parts
        self.assertEqual([part.material.colour for part in two], ["#ff0000", "#0000ff"])  # type: ignore[union-attr]
        self.assertIsNone(read('<rect width="9" height="9" fill="red"/>').parts[0].material)

    def test_what_is_painted_over_another_stands_before_it(self) -> None:
        parts = read(
            '<rect width="90" height="90"/><circle cx="40" cy="40" r="20" fill="red"/><circle '
            'cx="45" cy="40" r="5" fill="blue"/>'
        ).parts
        self.assertEqual(parts[0].lift, 0)
        self.assertLess(0, parts[1].lift)
        self.assertAlmostEqual(parts[2].lift, 2 * parts[1].lift)

    def test_sizes_in_mm_are_true_on_paper(self) -> None:
        """CSS Values and Units: 25.4 mm are an inch, so as many px as the canvas has per inch."""
        mark = read_svg(
            b'<svg xmlns="http://www.w3.org/2000/svg" width="25.4mm" height="12.7mm" '
            b'viewBox="0 0 2 1"><rect width="2" height="1"/></svg>',
            300,
        )
        self.assertAlmostEqual(mark.width, 300, places=3)
        self.assertAlmostEqual(mark.height, 150, places=3)

    def test_what_is_not_supported_is_named(self) -> None:
        cases = {
            "<text>Quay</text>": "text",
            '<image href="x.png"/>': "a picture",
            "<script>alert(1)</script>": "a script",
            '<linearGradient id="g"/><rect width="9" height="9" fill="url(#g)"/>': "it has no stops",
            '<linearGradient id="g"><stop/></linearGradient><path d="M0 0H9" stroke="url(#g)"/>': "no box",
            '<radialGradient id="g" fx="0"><stop/></radialGradient><rect width="9" height="9" '
            'fill="url(#g)"/>': "focal points",
            '<pattern id="g"/><rect width="9" height="9" fill="url(#g) red"/>': "it has no tile",
            '<pattern id="g"><path/></pattern><rect width="9" height="9" fill="url(#g)"/>': "has no size",
            '<pattern id="g" width=".1" height=".1" patternTransform="skewX(30)"><path/></pattern>'
            '<rect width="9" height="9" fill="url(#g)"/>': "shear",
            '<pattern id="g" width="1" height="1"><rect width="9" height="9" fill="url(#g)"/></pattern>'
            '<rect width="9" height="9" fill="url(#g)"/>': "a pattern of itself",
            '<pattern id="g" width="1" height="1"><rect width="4" height="9"/></pattern>'
            '<rect width="9" height="9" fill="url(#g)"/>': "transparency",
            '<rect width="9" height="9" fill="url(#none) red"/>': "a paint that is not in the file",
            '<rect width="9" height="9" opacity=".5"/>': "transparency",
            '<rect width="9" height="9" clip-path="url(#c)"/>': "clipping",
            '<rect width="9" height="9" clip-path="circle(4px)"/>': "clipping",
            '<clipPath id="c" clipPathUnits="objectBoundingBox"/><rect width="9" height="9" '
            'clip-path="url(#c)"/>': "shares of a part",
            '<rect width="9" height="9" filter="url(#c)"/>': "filters",
            '<use href="other.svg#a"/>': "a copy of what is not in the file",
            '<g id="a"><use href="#a"/></g>': "a copy of itself",
            "<style>@import url(a.css);</style>": "@import",
            '<path id="bad" d="M0 0 L nonsense"/>': "bad",
            '<rect width="9" height="9" transform="twist(4)"/>': "twist",
            "<blink/>": "<blink>",
        }
        for inside, name in cases.items():
            with self.subTest(inside):
                left_out = read(f'<circle cx="50" cy="50" r="9"/>{inside}').left_out
                self.assertTrue(any(name in entry for entry in left_out), left_out)

    def test_clips_within_clips_that_are_too_long_together_are_named(self) -> None:
        clips = "".join(f'<clipPath id="{name}"><path d="M0 0H80V80H0Z"/></clipPath>' for name in "ab")
        inside = '<g clip-path="url(#a)"><rect width="99" height="99" clip-path="url(#b)"/></g>'
        self.assertEqual(len(read(clips + inside).parts[0].clips), 2)
        with patch("halvex.core.lettering.svg.reader.LONGEST_CLIPS", 20):
            found = read(clips + inside)
        self.assertEqual(found.parts[0].clips, ())
        self.assertIn("clipping by paths that are too long", found.left_out)

    def test_a_gradient_lies_over_its_first_colour(self) -> None:
        gradient = (
            '<linearGradient id="a"><stop style="stop-color:#336699"/></linearGradient>'
            '<linearGradient id="b" href="#a"/>'
        )
        parts = read(
            f'{gradient}<rect width="9" height="9" fill="url(#b)"/><rect x="20" width="9" '
            'height="9" fill="red"/>'
        ).parts
        colour = parts[0].material.colour  # type: ignore[union-attr]
        self.assertEqual((colour.base, len(colour.layers)), ("#336699", 1))


class SafetyTest(unittest.TestCase):
    """A file is data: whatever it holds gets one clear error that names the file."""

    def refused(self, data: bytes, words: str) -> None:
        with self.assertRaises(LetteringError) as raised:
            read_svg(data)
        self.assertEqual(raised.exception.field, "file")
        self.assertIn(words, raised.exception.remedy)

    def test_bombs_and_what_is_no_drawing(self) -> None:
        self.refused(b"<svg" + b" " * LARGEST_SVG_BYTES, "over 1 MB")
        self.refused(b"\x89PNG\r\n", "no SVG drawing")
        self.refused(b"<html/>", "no SVG drawing")
        self.refused(b"<svg xmlns='http://www.w3.org/2000/svg'/>", "no areas")
        entities = "".join(f'<!ENTITY e{i} "{f"&e{i - 1};" * 10}">' for i in range(1, 12))
        self.refused(f'<!DOCTYPE svg [<!ENTITY e0 "ha">{entities}]><svg>&e11;</svg>'.encode(), "entities")
        self.refused(b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg>&x;</svg>', "entities")
        self.refused(f"{HEAD}{'<g>' * 200}{'</g>' * 200}</svg>".encode(), "nested")
        self.refused(f"{HEAD}{'<g/>' * 20_001}</svg>".encode(), "elements")
        self.refused(
            b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 0 0"><rect width="9" height="9"/></svg>',
            "size",
        )

    def test_copies_of_copies_end(self) -> None:
        """Each group twice the one before: 2²⁰ parts from a few hundred characters."""
        doubled = "".join(
            f'<g id="g{i}"><use href="#g{i - 1}"/><use href="#g{i - 1}"/></g>' for i in range(1, 21)
        )
        self.refused(
            f'{HEAD}<defs><rect id="g0" width="9" height="9"/>{doubled}</defs><use '
            'href="#g20"/></svg>'.encode(),
            "over 200 parts",
        )


class LineTest(unittest.TestCase):
    """Areas of widened lines against geometry."""

    def area(self, path: str, **style: object) -> float:
        return float(
            widened(path_contours(path, 1e-3, 4.0), LineStyle.model_validate({"width": 2, **style})).area
        )

    def test_caps_and_joins(self) -> None:
        self.assertAlmostEqual(self.area("M0 0H10"), 20, places=4)
        self.assertAlmostEqual(self.area("M0 0H10", cap="square"), 24, places=4)
        self.assertAlmostEqual(self.area("M0 0H10", cap="round"), 20 + math.pi, delta=0.005)
        # A right angle: two bars share a quarter square; the mitre adds a square, the bevel half of
        # one, the round a quarter disc.
        self.assertAlmostEqual(self.area("M0 0H10V10"), 40, places=4)
        self.assertAlmostEqual(self.area("M0 0H10V10", join="bevel"), 39.5, places=4)
        self.assertAlmostEqual(self.area("M0 0H10V10", join="round"), 39 + math.pi / 4, delta=0.005)
        # A mitre of 90° is √2 widths long: under that limit it is cut to a bevel (SVG 2, stroke-miterlimit).
        self.assertAlmostEqual(self.area("M0 0H10V10", miter_limit=1.4), 39.5, places=4)

    def test_dashes_cover_their_share(self) -> None:
        self.assertAlmostEqual(self.area("M0 0H100", dashes=(3, 2)), 2 * 60, places=3)
        self.assertAlmostEqual(self.area("M0 0H100", dashes=(3,), dash_offset=1), 2 * 50, delta=2.1)

    def test_a_closed_line_has_no_ends(self) -> None:
        self.assertAlmostEqual(self.area("M0 0H10V10H0Z"), 12**2 - 8**2, places=4)


class MarkBodyTest(unittest.TestCase):
    def test_every_part_is_a_sound_body_of_its_own_depth(self) -> None:
        parts = read(
            '<rect width="90" height="60" fill="red"/><circle cx="40" cy="30" r="20" '
            'fill="blue" stroke="black" stroke-width="6"/>'
        ).parts
        parts = (parts[0].model_copy(update={"depth": 17.0}), *parts[1:])
        mark = Mark(parts=parts)
        bodies = block_bodies(set_block(mark), mark.form)
        self.assertEqual(len(bodies), 3)
        for body in bodies:
            self.assertEqual(fault_of(body.mesh), "")
        deep = [-float(body.mesh.positions[:, 2].min()) for body in bodies]
        self.assertAlmostEqual(deep[0], 17.0, places=4)
        self.assertAlmostEqual(deep[1], mark.form.depth, places=4)
        self.assertEqual([body.material for body in bodies], [part.material for part in parts])

    def test_hidden_parts_are_left_out_and_one_must_be_shown(self) -> None:
        parts = tuple(
            part.model_copy(update={"hidden": True}) for part in read('<rect width="9" height="9"/>').parts
        )
        with self.assertRaises(LetteringError):
            set_block(Mark(parts=parts))

    def test_all_drawings_become_bodies(self) -> None:
        for name, text in DRAWINGS.items():
            with self.subTest(name):
                mark = Mark(parts=read_svg(text.encode()).parts)
                self.assertTrue(block_bodies(set_block(mark), mark.form))

    def test_a_drawing_of_very_many_points_is_drawn_coarser(self) -> None:
        """A jagged disc of 6 000 points: still the same area, in few enough points for a body."""
        points = " ".join(
            f"{50 + (40 + i % 2) * math.cos(i * math.tau / 6000):.3f},"
            f"{50 + (40 + i % 2) * math.sin(i * math.tau / 6000):.3f}"
            for i in range(6000)
        )
        letters = set_block(Mark(parts=read(f'<polygon points="{points}"/>').parts)).letters
        self.assertLessEqual(sum(len(ring) for ring in letters[0].outline.rings), MOST_POINTS)
        self.assertAlmostEqual(letters[0].outline.area * letters[0].size ** 2, math.pi * 40.5**2, delta=150)

    def test_what_stays_too_intricate_is_refused_in_words(self) -> None:
        squares = "".join(f"M{3 * (i % 20)} {3 * (i // 20)}h2v2h-2z" for i in range(400))
        with self.assertRaises(LetteringError) as raised:
            read(f'<path d="{squares}"/>')
        self.assertIn("too intricate", raised.exception.remedy)
        left_out = read(f'<path id="long" d="M0 0{"h1v1" * 12_000}"/><rect width="5" height="5"/>').left_out
        self.assertIn("over 20000 points", left_out[0])
