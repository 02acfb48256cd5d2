"""Lengths, transforms, viewports and the cascade of SVG files, against the numbers of the standards."""

import math
import unittest
from xml.etree.ElementTree import fromstring

import cssselect2

from halvex.core.lettering.svg.basic_shapes import path_of
from halvex.core.lettering.svg.measures import diagonal, fit_of, length_of, transform_of
from halvex.core.lettering.svg.style import INITIAL, OWN, Rules, Style, paint_of, share_of


class LengthTest(unittest.TestCase):
    def test_units_of_css(self) -> None:
        """CSS Values and Units 4, absolute lengths: 1 in = 96 px = 2.54 cm = 25.4 mm = 101.6 Q = 72
        pt = 6 pc."""
        for text in ("96px", "96", "1in", "2.54cm", "25.4mm", "101.6Q", "72pt", "6pc", "6em", "12ex"):
            self.assertAlmostEqual(length_of(text, 0), 96, places=9, msg=text)

    def test_percentages_are_of_the_viewport(self) -> None:
        """SVG 2, 8.9: of width, of height, or of √(w² + h²) / √2."""
        self.assertEqual(length_of("25%", 400), 100)
        self.assertAlmostEqual(diagonal(300, 400), 500 / math.sqrt(2))

    def test_what_is_no_length_is_refused(self) -> None:
        for text in ("wide", "12furlongs", "1 2", "--3"):
            with self.subTest(text), self.assertRaises(ValueError):
                length_of(text, 100)


class TransformTest(unittest.TestCase):
    def at(self, text: str, x: float, y: float) -> tuple[float, float]:
        return tuple(round(v, 9) for v in transform_of(text).transformPoint((x, y)))  # type: ignore[return-value]

    def test_each_function(self) -> None:
        """SVG 2, 8.5: angles in degrees, clockwise as y runs down."""
        self.assertEqual(self.at("translate(3)", 1, 2), (4, 2))
        self.assertEqual(self.at("translate(3, 4)", 1, 2), (4, 6))
        self.assertEqual(self.at("scale(2)", 1, 2), (2, 4))
        self.assertEqual(self.at("scale(2 3)", 1, 2), (2, 6))
        self.assertEqual(self.at("rotate(90)", 1, 0), (0, 1))
        self.assertEqual(self.at("rotate(90 10 0)", 10, 5), (5, 0))
        self.assertEqual(self.at("skewX(45)", 0, 2), (2, 2))
        self.assertEqual(self.at("skewY(45)", 2, 0), (2, 2))
        self.assertEqual(self.at("matrix(1 2 3 4 5 6)", 1, 1), (9, 12))

    def test_lists_apply_from_the_right(self) -> None:
        self.assertEqual(self.at("translate(10,0) scale(2)", 1, 1), (12, 2))
        self.assertEqual(self.at("scale(2)translate(10 0)", 1, 1), (22, 2))
        self.assertEqual(self.at("rotate(.25turn), translate(1px, 0)", 0, 0), (0, 1))
        self.assertEqual(self.at("none", 3, 4), (3, 4))

    def test_nonsense_is_refused(self) -> None:
        for text in ("spin(3)", "rotate()", "matrix(1 2 3)", "scale(2", "translate(1em)"):
            with self.subTest(text), self.assertRaises(ValueError):
                transform_of(text)


class ViewportTest(unittest.TestCase):
    def corners(self, keep: str | None) -> list[tuple[float, ...]]:
        fit = fit_of("0 0 200 100", keep, 100, 100)
        return [tuple(round(v, 6) for v in fit.transformPoint(point)) for point in ((0, 0), (200, 100))]

    def test_ways_to_keep_the_ratio(self) -> None:
        """SVG 2, 8.2: meet fits inside, slice covers, none stretches; xMidYMid is the way where
        none is named."""
        self.assertEqual(self.corners(None), [(0, 25), (100, 75)])
        self.assertEqual(self.corners("xMinYMin"), [(0, 0), (100, 50)])
        self.assertEqual(self.corners("xMaxYMax meet"), [(0, 50), (100, 100)])
        self.assertEqual(self.corners("xMidYMid slice"), [(-50, 0), (150, 100)])
        self.assertEqual(self.corners("none"), [(0, 0), (100, 100)])

    def test_no_viewbox_is_refused(self) -> None:
        for text in ("0 0 10", "0 0 0 10", "a b c d", "0 0 -1 5"):
            with self.subTest(text), self.assertRaises(ValueError):
                fit_of(text, None, 100, 100)


class ShapeTest(unittest.TestCase):
    def test_what_draws_nothing_is_nothing(self) -> None:
        for tag, attributes in (
            ("rect", {"width": "0", "height": "5"}),
            ("circle", {"r": "-1"}),
            ("ellipse", {"rx": "0", "ry": "4"}),
            ("path", {"d": "  "}),
            ("polygon", {}),
        ):
            self.assertIsNone(path_of(tag, attributes, 100, 100), tag)

    def test_one_corner_radius_is_both(self) -> None:
        one = path_of("rect", {"width": "40", "height": "20", "rx": "5"}, 100, 100)
        self.assertEqual(one, path_of("rect", {"width": "40", "height": "20", "ry": "5"}, 100, 100))
        self.assertIn("A5.0 5.0 0 0 1", one or "")


class CascadeTest(unittest.TestCase):
    def style_of(self, sheet: str, element: str, parent: Style | None = None) -> Style:
        root = cssselect2.ElementWrapper.from_xml_root(fromstring(f"<svg>{element}</svg>"))
        reports: list[str] = []
        return Rules([sheet], reports.append).style(
            next(iter(root.iter_children())), parent or {**INITIAL, **OWN}
        )

    def test_who_outweighs_whom(self) -> None:
        """CSS Cascading 4: attribute < rule < more specific rule < style attribute < !important."""
        element = '<rect id="r" class="a" fill="red" style="stroke:blue"/>'
        self.assertEqual(self.style_of("", element)["fill"], "red")
        self.assertEqual(self.style_of("rect{fill:green}", element)["fill"], "green")
        self.assertEqual(
            self.style_of("#r{fill:black}.a{fill:white}rect{fill:green}", element)["fill"], "black"
        )
        self.assertEqual(self.style_of("#r{stroke:black}", element)["stroke"], "blue")
        self.assertEqual(self.style_of("rect{stroke:black !important}", element)["stroke"], "black")
        self.assertEqual(self.style_of("rect{fill:green}rect{fill:navy}", element)["fill"], "navy")

    def test_what_children_take(self) -> None:
        parent = {**INITIAL, **OWN, "stroke": "teal", "opacity": "0.5"}
        self.assertEqual(self.style_of("", "<rect/>", parent)["stroke"], "teal")
        self.assertEqual(self.style_of("", "<rect/>", parent)["opacity"], "1")
        self.assertEqual(self.style_of("rect{opacity:inherit}", "<rect/>", parent)["opacity"], "0.5")
        self.assertEqual(self.style_of("rect{stroke:initial}", "<rect/>", parent)["stroke"], "none")
        self.assertEqual(self.style_of("rect{stroke:unset}", "<rect/>", parent)["stroke"], "teal")

    def test_paints(self) -> None:
        """CSS Color 4: named, hexadecimal, functional."""
        for text, colour in (
            ("tomato", "#ff6347"),
            ("#0f8", "#00ff88"),
            ("rgb(10 20 30)", "#0a141e"),
            ("hsl(120 100% 25%)", "#008000"),
        ):
            self.assertEqual(paint_of(text, "black").colour, colour, text)  # type: ignore[union-attr]
        self.assertEqual(paint_of("currentColor", "navy").colour, "#000080")  # type: ignore[union-attr]
        self.assertAlmostEqual(paint_of("#ff000080", "black").opacity, 128 / 255)  # type: ignore[union-attr]
        self.assertIsNone(paint_of("none", "black"))
        self.assertEqual(paint_of("url(#g) red", "black").server, "g")  # type: ignore[union-attr]
        self.assertEqual(share_of("40%"), 0.4)
        with self.assertRaises(ValueError):
            paint_of("sort of blue", "black")
