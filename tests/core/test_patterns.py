"""Patterns: footprints against many samples, shares against geometry, rings that close, facets, and
pictures of patterns that go with their block."""

import math
import unittest

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.orders import DraftOrder, SampledOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.kernels import kernel
from halvex.core.optics.oklab import linear_to_oklab
from halvex.core.optics.patterns import (
    VARIANTS,
    _cell,
    _nearest_two,
    _two_chances,
    cells_around,
    pattern_at,
    variants_of,
)
from halvex.core.optics.sources import AS_IT_IS, MAIN, OWN, Look, pack_sources
from halvex.core.optics.vectors import floor
from halvex.core.piece.pattern import PATTERN_NAMES, Pattern, PatternPaint
from halvex.core.piece.reading import PieceError, piece_from_values
from halvex.core.piece.source import Layered
from tests.core.small_scenes import piece_of

F = np.float32
PLANE = (0, 0, 0, 0)
PAINTS = (
    PatternPaint(colour="#000000"),
    PatternPaint(colour="#ffffff"),
    PatternPaint(colour="#d02030"),
)


@kernel
def look(row, paints, places, ring, width, found, slopes):
    for n in range(len(places)):
        i, j = places[n, 0], places[n, 1]
        colour, slope = pattern_at(row, paints, i, j, (i, j, F(0.0)), ring, width)
        for c in range(4):
            found[n, c] = colour[c]
        for c in range(3):
            slopes[n, c] = slope[c]


@kernel
def nearest_two(places, ring, found, expected):
    """The two points nearest to each place, and the way to the border between them, as patterns find them and
    by looking at all nine cells."""
    for n in range(len(places)):
        i, j = places[n, 0], places[n, 1]
        first, second, border = _nearest_two(i, j, ring, 5)
        found[n, 0], found[n, 1], found[n, 2] = first, second, border
        points = expected[n]
        for cell in range(9):
            h = _cell(floor(i) + cell % 3 - 1, floor(j) + cell // 3 - 1, ring, 5)
            across, up = _two_chances(h)
            points[cell, 0] = h
            points[cell, 1] = floor(i) + cell % 3 - 1 + 0.1 + 0.8 * across - i
            points[cell, 2] = floor(j) + cell // 3 - 1 + 0.1 + 0.8 * up - j


@kernel
def nearest_around(which, i, j):
    return cells_around(which, i, j)


def seen(
    pattern: Pattern,
    places: NDArray[np.float64],
    width: float,
    ring: tuple[int, int, int, int] = PLANE,
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """(colours (n, 4), slopes (n, 3)) of a pattern at places (n, 2) in cells."""
    sources = pack_sources([{MAIN: Layered(layers=(pattern,))}], [Look(AS_IT_IS)])
    found, slopes = np.zeros((len(places), 4), np.float32), np.zeros((len(places), 3), np.float32)
    look(sources.layers[0, OWN:], sources.paints, places.astype(np.float32), ring, F(width), found, slopes)
    return found, slopes


def somewhere(count: int, seed: int = 1) -> NDArray[np.float64]:
    return np.random.default_rng(seed).uniform(-20, 20, (count, 2))


class FootprintTest(unittest.TestCase):
    def test_a_footprint_is_about_the_mean_of_1024_samples(self) -> None:
        steps = (np.arange(32) + 0.5) / 32 - 0.5
        within = np.stack(np.meshgrid(steps, steps), axis=-1).reshape(-1, 2)
        places = somewhere(60)
        for name in PATTERN_NAMES:
            pattern = Pattern(pattern=name, paints=PAINTS, fill=70)
            for width in (0.08, 0.3, 0.6, 2.5):
                with self.subTest(name, width=width):
                    whole, _ = seen(pattern, places, width)
                    parts, _ = seen(pattern, (places[:, None] + within * width).reshape(-1, 2), width / 32)
                    truth = parts.reshape(len(places), -1, 4).mean(axis=1)
                    # The mean over all cells stands for a footprint of a few, whose own differs at random.
                    most = 0.13 if width > 1 else 0.1 if width > 0.5 else 0.06
                    self.assertLess(np.abs(whole - truth).mean(), most)

    def test_bands_and_checks_are_exact_means(self) -> None:
        places = somewhere(50)
        steps = np.linspace(-0.5, 0.5, 2001)[:-1] + 0.5 / 2000
        for name in ("stripes", "checks", "tiles"):
            pattern = Pattern(pattern=name, paints=PAINTS[:2], fill=60)
            whole, _ = seen(pattern, places, 0.4)
            rows = []
            for place in places[:10]:
                grid = np.stack(np.meshgrid(steps[::10] * 0.4, steps[::10] * 0.4), axis=-1).reshape(-1, 2)
                rows.append(seen(pattern, place + grid, 1e-3)[0].mean(axis=0))
            np.testing.assert_allclose(whole[:10], rows, atol=0.012)

    def test_shapes_take_the_share_that_geometry_gives_them(self) -> None:
        places, two = np.random.default_rng(3).uniform(0, 40, (40_000, 2)), PAINTS[:2]
        joint = 0.3 / 2
        for name, share in (
            ("stripes", 0.7),
            ("checks", 0.5),
            ("dots", math.pi / 4 * 0.7**2),
            ("tiles", 0.7**2),
            ("bricks", 0.7 * (1 - joint)),
        ):
            with self.subTest(name):
                found, _ = seen(Pattern(pattern=name, paints=two, fill=70), places, 0.01)
                self.assertAlmostEqual(float(found[:, 0].mean()), share, delta=0.012)


class RingTest(unittest.TestCase):
    def test_cells_are_the_same_once_around(self) -> None:
        places = somewhere(400)
        for name in PATTERN_NAMES:
            if name == "cloud":
                continue  # which is laid around a circle, see below
            pattern = Pattern(pattern=name, paints=PAINTS, fill=70, hue_jitter=90, tone_jitter=50)
            for ring in ((7, 0, 0, 0), (5, -4, 0, 0), (0, 6, 0, 0), (7, 2, -2, 4)):
                for way in (ring[:2], ring[2:]):
                    with self.subTest(name, ring=ring, way=way):
                        one, slope = seen(pattern, places, 0.05, ring)
                        other, tilt = seen(pattern, places + way, 0.05, ring)
                        # An edge that falls on a sample may round to either side.
                        self.assertLess(np.quantile(np.abs(one - other), 0.99), 2e-4)
                        self.assertLess(np.quantile(np.abs(slope - tilt), 0.99), 2e-4)

    def test_a_ring_closes_after_whole_cells_and_an_even_number_of_rows(self) -> None:
        bricks, stripes = F(PATTERN_NAMES.index("bricks")), F(PATTERN_NAMES.index("stripes"))
        self.assertEqual(nearest_around(stripes, F(6.6), F(-2.4)), (7, -2))
        self.assertEqual(nearest_around(stripes, F(0.2), F(0.1)), (1, 0))
        self.assertEqual(nearest_around(bricks, F(6.6), F(-2.9)), (7, -2))
        self.assertEqual(nearest_around(bricks, F(0.1), F(0.4)), (0, 2))


class NearestTest(unittest.TestCase):
    def test_cells_that_are_left_out_are_never_nearest(self) -> None:
        places = somewhere(20_000).astype(np.float32)
        for ring in (PLANE, (7, 3, -2, 5)):
            found, points = np.zeros((len(places), 3)), np.zeros((len(places), 9, 3))
            nearest_two(places, ring, found, points)
            apart = np.hypot(points[..., 1], points[..., 2])
            order = np.argsort(apart, axis=1)
            one, two = (points[np.arange(len(places)), order[:, n]] for n in (0, 1))
            # Where two are as near as each other either may be called the nearer.
            clear = np.diff(np.sort(apart, axis=1)[:, :3], axis=1).min(axis=1) > 1e-4
            self.assertGreater(clear.mean(), 0.99)
            np.testing.assert_array_equal(found[clear, :2], np.stack([one[:, 0], two[:, 0]], axis=1)[clear])
            between = one[:, 1:] - two[:, 1:]
            middle = (one[:, 1:] + two[:, 1:]) / 2
            border = np.abs((between * middle).sum(axis=1)) / np.hypot(*between.T)
            np.testing.assert_allclose(found[clear, 2], border[clear], atol=1e-4)


class FacetTest(unittest.TestCase):
    def test_facets_tilt_every_way_and_no_further_than_asked_for(self) -> None:
        _, slopes = seen(Pattern(pattern="crystals", tilt=30), somewhere(4000), 0.01)
        self.assertLess(np.abs(slopes.mean(axis=0)).max(), 0.03)
        steepness = np.hypot(slopes[:, 0], slopes[:, 1])
        self.assertLess(steepness.max(), math.tan(math.radians(30)) + 1e-5)
        self.assertGreater(steepness.max(), 0.95 * math.tan(math.radians(30)))

    def test_the_phase_goes_through_a_closed_cycle(self) -> None:
        places = somewhere(500)
        _, begin = seen(Pattern(pattern="crystals", phase=0), places, 0.01)
        _, between = seen(Pattern(pattern="crystals", phase=90), places, 0.01)
        _, end = seen(Pattern(pattern="crystals", phase=360), places, 0.01)
        np.testing.assert_allclose(begin, end, atol=1e-4)
        self.assertGreater(np.abs(begin - between).mean(), 0.05)

    def test_variants_are_turned_in_hue_and_changed_in_tone_as_far_as_asked_for(self) -> None:
        # Dull colours, which sRGB has at every hue; one half opaque.
        paints = np.array([[0.34, 0.3, 0.36, 1.0], [0.17, 0.2, 0.15, 0.5]])
        same = variants_of(paints, 0.0, 0.0, 1).reshape(2, VARIANTS, 4)
        np.testing.assert_allclose(same, np.repeat(paints[:, None], VARIANTS, axis=1), atol=1e-12)
        turned = variants_of(paints, math.radians(70), 0.0, 1).reshape(2, VARIANTS, 4)
        np.testing.assert_allclose(turned[:, 0], paints, atol=1e-9)
        before = linear_to_oklab(paints[:, :3] / paints[:, 3:])
        after = linear_to_oklab(turned[..., :3] / turned[..., 3:])
        np.testing.assert_allclose(after[..., 0], np.repeat(before[:, :1], VARIANTS, axis=1), atol=1e-6)
        hues = np.arctan2(after[..., 2], after[..., 1]) - np.arctan2(before[:, 2], before[:, 1])[:, None]
        apart = np.degrees((hues + np.pi) % (2 * np.pi) - np.pi)
        self.assertTrue(60 < np.abs(apart).max() <= 70.01)
        self.assertTrue((apart.min(axis=1) < -40).all() and (apart.max(axis=1) > 40).all())
        toned = variants_of(paints, 0.0, 0.5, 1).reshape(2, VARIANTS, 4)
        by = toned[..., 0] / paints[:, None, 0]
        self.assertTrue(0.6 < by.min() < 0.7 < 1.4 < by.max() < 1.66)


def rectangle(kind: str, pattern: dict, x: float = 0.0, turn: float = 0.0) -> dict:
    """A piece with a rectangle of 200 × 100 px whose face has this pattern."""
    colour = {"base": "#808080", "layers": [{"kind": "pattern", **pattern}]}
    return piece_of(colour, kind, place={"x": x, "turn": {"z": turn}})


def drawn(values: dict, samples: int | None = None) -> NDArray[np.float64]:
    order = DraftOrder() if samples is None else SampledOrder(samples=samples)
    return np.asarray(render_piece(piece_from_values(values), order).display, float)


class PictureOfPatternTest(unittest.TestCase):
    def test_a_moved_block_carries_its_pattern_to_the_pixel(self) -> None:
        for name in ("dots", "crystals", "terrazzo"):
            pattern = {"pattern": name, "size": 20, "hue_jitter": 40}
            here, there = drawn(rectangle("flat", pattern)), drawn(rectangle("flat", pattern, x=30))
            np.testing.assert_allclose(there[50:130, 100:280], here[50:130, 70:250], atol=2.5 / 255)

    def test_a_turned_block_carries_its_pattern(self) -> None:
        pattern = {"pattern": "checks", "size": 40}
        upright = drawn(rectangle("flat", pattern))
        turned = drawn(rectangle("flat", pattern, turn=90))
        # The middles of squares, away from edges that pixels see in part.
        for x, y in ((-50, -30), (-10, 10), (30, 30), (50, -10)):
            np.testing.assert_allclose(turned[90 - x, 160 - y], upright[90 - y, 160 + x], atol=3 / 255)

    def test_4_samples_a_pixel_are_as_calm_as_many(self) -> None:
        for name in PATTERN_NAMES:
            values = rectangle("flat", {"pattern": name, "size": 3})
            few, many = (drawn(values, samples)[60:120, 90:230] for samples in (4, 36))
            self.assertLess(np.abs(few - many).mean(), 0.03, name)
            # A cloud has shapes of all sizes.
            if name != "cloud":
                finer = drawn(rectangle("flat", {"pattern": name, "size": 0.6}), 4)[60:120, 90:230]
                self.assertLess(finer.std(axis=(0, 1)).max(), 0.02, name)

    def test_drafts_and_paths_show_the_same_pattern(self) -> None:
        for kind in ("paint", "plastic", "metal"):
            pattern = {
                "pattern": "checks",
                "size": 50,
                "paints": [{"colour": "#303030"}, {"colour": "#e0c080"}],
            }
            draft, path = drawn(rectangle(kind, pattern)), drawn(rectangle(kind, pattern), 64)
            self.assertLess(np.abs(draft - path)[60:120, 90:230].mean(), 0.06, kind)

    def test_pixels_that_share_light_have_their_own_colour(self) -> None:
        # One colour throughout as a pattern is that colour.
        for kind in ("paint", "plastic", "metal"):
            same = {"pattern": "dots", "paints": [{"colour": "#a06030"}, {"colour": "#a06030"}]}
            patterned = rectangle(kind, same)
            plain = rectangle(kind, same)
            plain["blocks"][0]["surface"]["face"]["tint" if kind == "metal" else "colour"] = "#a06030"
            np.testing.assert_allclose(drawn(patterned), drawn(plain), atol=4 / 255, err_msg=kind)


class BadPatternTest(unittest.TestCase):
    def test_faults_name_the_field_and_the_remedy(self) -> None:
        for pattern, said in (
            ({"paints": []}, "/paints: a pattern needs two paints"),
            ({"paints": [{}] * 9}, "/paints: a pattern has 8 paints at most"),
            ({"pattern": "fur"}, "/pattern: Input should be 'stripes'"),
            ({"size": 0}, "/size: "),
            ({"paints": [{"colour": "red"}, {}]}, "/paints/0/colour: "),
        ):
            with self.subTest(said), self.assertRaises(PieceError) as caught:
                piece_from_values(rectangle("paint", pattern))
            self.assertIn(f"/blocks/0/surface/face/colour/layers/0{said}", str(caught.exception))

    def test_a_layer_of_no_known_kind_is_refused(self) -> None:
        for kind in ("fur", 3, None):
            with self.assertRaisesRegex(PieceError, "of the kind gradient, pattern, picture, tile or mesh"):
                piece_from_values(rectangle("paint", {"kind": kind}))


if __name__ == "__main__":
    unittest.main()
