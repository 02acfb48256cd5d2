"""Roofs and bodies against solid geometry, CGAL, trimesh and manifold3d."""

import itertools
import math
import unittest

import numpy as np
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from halvex.core.assets import SHIPPED
from halvex.core.lettering import Outline, set_block
from halvex.core.lettering.outlines import fill_nonzero, outline_of, polygon_of
from halvex.core.lettering.typefaces import opened
from halvex.core.piece import Lettering
from halvex.core.piece.form import Bevel, Form
from halvex.core.solids import PartOf, letter_body
from halvex.core.solids.areas import offset
from halvex.core.solids.body import outline_body
from halvex.core.solids.inks import ink_of
from halvex.core.solids.profiles import PROFILES, profile_curve, steps_for
from halvex.core.solids.roof import MITRE_LIMIT_TURN_DEG, OutlineKey, roof_of, roof_or_fault, roof_over
from tests.core.checks import cgal_inset_areas, fault_of

SQUARE = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float)
CROSSED = (
    np.array(
        [
            *(
                (131, 1275),
                (211, 1251),
                (365, 639),
                (132, 639),
                (114, 537),
                (371, 537),
                (347, 399),
                (90, 399),
                (72, 297),
                (329, 297),
            ),
            *(
                (292, 90),
                (146, 66),
                (135, 0),
                (689, 0),
                (700, 66),
                (561, 90),
                (598, 297),
                (852, 297),
                (870, 399),
                (616, 399),
            ),
            *(
                (640, 537),
                (894, 537),
                (912, 639),
                (679, 639),
                (1052, 1255),
                (1141, 1275),
                (1153, 1341),
                (822, 1341),
                (810, 1275),
            ),
            *((916, 1251), (597, 702), (488, 1249), (604, 1275), (616, 1341), (143, 1341)),
        ]
    )
    / 2048
)
# All but the soft hyphen, which has no ink.
ALPHABET = [chr(code) for code in (*range(33, 127), *range(0xA1, 0x100)) if code != 0xAD]
PROFILE_NAMES = tuple(PROFILES)
# One in so many letters is made into a body here, all in tools/prove_bodies.py. Of about 189 letters of each
# typeface these are others than of the last.
EVERY = 5


def letter(words: str, typeface: str = "archivo-black") -> Outline:
    return set_block(Lettering(words=words, typeface=typeface)).letters[0].outline


def area_above(roof, height: float) -> float:
    """Area of the roof's plan above a height, by clipping its triangles."""
    total = 0.0
    for triangle in roof.triangles:
        corners = [roof.nodes[i] for i in triangle]
        kept = []
        for a, b in zip(corners, corners[1:] + corners[:1], strict=True):
            if a[2] >= height:
                kept.append(a[:2])
            if (a[2] >= height) != (b[2] >= height):
                s = (height - a[2]) / (b[2] - a[2])
                kept.append(a[:2] + s * (b[:2] - a[:2]))
        if len(kept) > 2:
            p = np.array(kept)
            total += 0.5 * float(p[:, 0] @ np.roll(p[:, 1], -1) - p[:, 1] @ np.roll(p[:, 0], -1))
    return total


def sharpest_turn(outline: Outline) -> float:
    """The sharpest inner corner of an outline in degrees."""
    sharpest = 0.0
    for ring in outline.rings:
        along = np.roll(ring, -1, axis=0) - ring
        before = np.roll(along, 1, axis=0)
        turn = np.degrees(
            np.arctan2(
                before[:, 0] * along[:, 1] - before[:, 1] * along[:, 0], np.einsum("ij,ij->i", before, along)
            )
        )
        sharpest = max(sharpest, float(-turn.min()))
    return sharpest


class RoofTest(unittest.TestCase):
    def test_inset_of_a_square_is_steiners(self) -> None:
        """A(d) = (s - 2d)² (Steiner's formula)."""
        roof = roof_over((SQUARE,))
        self.assertAlmostEqual(roof.ridge, 0.5)
        for d in (0.0, 0.1, 0.3, 0.49):
            self.assertAlmostEqual(area_above(roof, d), (1 - 2 * d) ** 2, places=12)

    def test_a_rectangle_has_a_ridge(self) -> None:
        roof = roof_over((SQUARE * (2, 1),))
        ridge = roof.nodes[roof.nodes[:, 2] > 0.4999]
        np.testing.assert_allclose(np.sort(ridge[:, 0]), [0.5, 1.5], atol=1e-12)

    def test_insets_agree_with_cgal(self) -> None:
        """Area of mitred insets against CGAL's offset polygons, to 1e-9."""
        shapes = {
            "L": [(0, 0), (1, 0), (1, 0.3), (0.3, 0.3), (0.3, 1), (0, 1)],
            "star": [
                (np.cos(a) * r, np.sin(a) * r)
                for a, r in zip(np.arange(10) * np.pi / 5, [1, 0.45] * 5, strict=True)
            ],
            "comb": [
                (0, 0),
                (1, 0),
                (1, 0.8),
                (0.85, 0.8),
                (0.85, 0.2),
                (0.6, 0.2),
                (0.6, 0.8),
                (0.4, 0.8),
                (0.4, 0.2),
                (0.15, 0.2),
                (0.15, 0.8),
                (0, 0.8),
            ],
        }
        outlines = {name: (np.array(points, float),) for name, points in shapes.items()}
        outlines |= {
            f"{face} {c}": letter(c, face).rings
            for face in ("anton", "abril-fatface", "fredoka")
            for c in "SgRe8"
        }
        compared = 0
        for name, rings in outlines.items():
            if (
                sum(
                    np.dot(r[:, 0], np.roll(r[:, 1], -1)) > np.dot(r[:, 1], np.roll(r[:, 0], -1))
                    for r in rings
                )
                != 1
            ):
                continue
            if sharpest_turn(Outline(rings, name)) >= MITRE_LIMIT_TURN_DEG:
                continue
            roof = roof_over(rings)
            heights = [share * roof.ridge for share in (0.15, 0.4, 0.7, 0.9)]
            for height, theirs in zip(heights, cgal_inset_areas(rings, heights), strict=True):
                self.assertAlmostEqual(area_above(roof, height), theirs, places=9, msg=f"{name} at {height}")
            compared += 1
        self.assertGreaterEqual(compared, 12)

    def test_the_rounded_roof_is_euclids(self) -> None:
        """The ground further than d from the outline, against shapely's round buffer, to the
        facets' error (3e-4 of the letter)."""
        for face, characters in (("anton", "EKr"), ("cinzel-decorative", "Aw"), ("unifraktur-maguntia", "m")):
            for character in characters:
                outline = letter(character, face)
                roof = roof_of(OutlineKey(outline), "rounded")
                for share in (0.2, 0.6):
                    d = share * roof.ridge
                    theirs = polygon_of(outline.rings).buffer(-d, quad_segs=90).area
                    self.assertAlmostEqual(
                        area_above(roof, d), theirs, delta=3e-4 * outline.area, msg=f"{face} {character}"
                    )

    def test_an_l_with_a_rounded_corner_has_the_inscribed_circles_ridge(self) -> None:
        """The largest circle in an L of stem w touches both far sides and the inner corner: (w -
        r)·√2 = r."""
        corner = np.array([(0, 0), (1, 0), (1, 0.3), (0.3, 0.3), (0.3, 1), (0, 1)], float)
        self.assertAlmostEqual(
            roof_over((corner,), corner="rounded").ridge, 0.3 * math.sqrt(2) / (1 + math.sqrt(2)), places=3
        )
        self.assertAlmostEqual(roof_over((corner,)).ridge, 0.15, places=12)

    def test_offsets_outwards_are_steiners(self) -> None:
        """Round: A + P·d + π·d²; mitred: A + P·d + 4·d² for four right angles (Steiner's formula)."""
        square = Outline((SQUARE,), "square")
        self.assertAlmostEqual(offset(square, 0.1, "mitred").area, 1.44, places=12)
        self.assertAlmostEqual(offset(square, 0.1, "rounded").area, 1 + 0.4 + math.pi * 0.01, delta=1e-4)
        self.assertAlmostEqual(offset(square, -0.1, "mitred").area, 0.64, places=12)
        self.assertEqual(offset(square, -0.6, "mitred").rings, ())

    def test_nodes_in_line_leave_no_flat_triangles(self) -> None:
        """Two bars cross a stem and two slanted arms: two arcs of one face lie on one line, node by node."""
        made = outline_body(OutlineKey(outline_of((CROSSED,))), size=200, depth=40, bevel=Bevel(width=2))
        self.assertEqual(fault_of(made), "")

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.tuples(st.integers(0, 8), st.integers(0, 8), st.integers(1, 4), st.integers(1, 4)),
            min_size=1,
            max_size=6,
        )
    )
    def test_unions_of_boxes_have_roofs(self, boxes: list[tuple[int, int, int, int]]) -> None:
        rings = fill_nonzero([(SQUARE * (w, h) + (x, y)) / 12 for x, y, w, h in boxes])
        for corner in ("mitred", "rounded"):
            roof = roof_over(rings, corner=corner)
            self.assertAlmostEqual(area_above(roof, 0.0), Outline(rings, "boxes").area, places=9)

    @settings(max_examples=40, deadline=None)
    @given(
        st.integers(0, 2**31),
        st.integers(5, 24),
        st.integers(0, 3),
        st.sampled_from(PROFILE_NAMES),
        st.booleans(),
    )
    def test_any_polygon_with_holes_is_a_body(
        self, seed: int, corners: int, holes: int, profile: str, rounded: bool
    ) -> None:
        random = np.random.default_rng(seed)
        turns = np.sort(random.uniform(0, 2 * np.pi, corners))
        outer = np.column_stack([np.cos(turns), np.sin(turns)]) * random.uniform(0.25, 0.5, corners)[:, None]
        area = shapely.Polygon(outer).buffer(0)
        for _ in range(holes):
            x, y = random.uniform(-0.25, 0.25, 2)
            area = area.difference(
                shapely.Point(x, y).buffer(random.uniform(0.02, 0.1), quad_segs=random.integers(1, 5))
            )
        rings = fill_nonzero(
            [
                shapely.get_coordinates(ring)[:-1]
                for part in shapely.get_parts(area)
                for ring in (part.exterior, *part.interiors)
            ]
        )
        if not rings:
            return
        bevel = Bevel(
            profile=profile,
            width=float(random.uniform(1, 30)),
            height=8,
            back=bool(seed % 2),
            corner="rounded" if rounded else "mitred",
        )
        body = outline_body(
            OutlineKey(Outline(rings, f"random {seed} {corners} {holes}")), size=200, depth=30, bevel=bevel
        )
        self.assertEqual(fault_of(body), "")


class ProfileTest(unittest.TestCase):
    def test_every_profile_runs_from_the_outline_to_the_face(self) -> None:
        for name in PROFILES:
            points = profile_curve(Bevel(profile=name), 40).points
            self.assertEqual((points[0].tolist(), points[-1].tolist()), ([0, 0], [1, 1]), name)
            self.assertTrue((np.diff(points[:, 0]) >= 0).all(), name)

    def test_quarter_rounds_are_circles(self) -> None:
        ovolo, cavetto = (profile_curve(Bevel(profile=name), 200).points for name in ("ovolo", "cavetto"))
        np.testing.assert_allclose(np.hypot(1 - ovolo[:, 0], ovolo[:, 1]), 1, atol=1e-12)
        np.testing.assert_allclose(np.hypot(cavetto[:, 0], 1 - cavetto[:, 1]), 1, atol=1e-12)

    def test_a_free_curve_passes_its_points_and_never_overshoots(self) -> None:
        given_points = ((0.2, 0.8), (0.5, 0.3), (0.8, 0.9))
        points = profile_curve(Bevel(profile="curve", curve=given_points), 40).points
        for x, y in given_points:
            self.assertAlmostEqual(float(np.interp(x, *points.T)), y, places=6)
        self.assertTrue(((points[:, 1] >= 0) & (points[:, 1] <= 1)).all())

    def test_facets_follow_the_picture(self) -> None:
        self.assertLess(steps_for(2), steps_for(40))


class BodyTest(unittest.TestCase):
    def test_chamfered_block_is_a_block_and_a_frustum(self) -> None:
        """V = A·depth + h/3 (A1 + A2 + √(A1·A2)), solid geometry."""
        form = Form(depth=50, bevel=Bevel(width=10, height=5))
        body = letter_body(Outline((SQUARE,), "square"), size=100, form=form)
        self.assertAlmostEqual(body.volume, 100 * 100 * 45 + 5 / 3 * (10_000 + 6_400 + 8_000), places=6)

    def test_volume_is_the_integral_of_the_insets_for_every_profile(self) -> None:
        """V = A·depth' + ∫ A(inset(z)) dz with A = (s - 2d)², the profile's own pieces integrated exactly."""
        for name in PROFILES:
            bevel = Bevel(profile=name, width=20, height=10)
            body = letter_body(
                Outline((SQUARE,), "square"), size=100, form=Form(depth=50, bevel=bevel), px_scale=50
            )
            points = profile_curve(bevel, 20 * 50).points * (20, 10)
            volume = 100 * 100 * 40
            for (d0, z0), (d1, z1) in itertools.pairwise(points):
                ends = [(100 - 2 * d) ** 2 for d in (d0, (d0 + d1) / 2, d1)]
                volume += (z1 - z0) * (ends[0] + 4 * ends[1] + ends[2]) / 6
            self.assertAlmostEqual(body.volume / volume, 1.0, places=12, msg=name)

    def test_volume_of_letters_agrees_with_cgals_insets(self) -> None:
        """V = A·(depth - h) + h/w ∫ A(d) dd, A by CGAL; between two heights of roof nodes A is
        quadratic, so Simpson is exact.

        (CGAL's binding gives up at some distance of many other letters; these it answers in full.)
        """
        for face, character in (
            ("alfa-slab-one", "s"),
            ("alfa-slab-one", "t"),
            ("archivo-black", "S"),
            ("lalezar", "S"),
        ):
            outline = letter(character, face)
            self.assertLess(
                sharpest_turn(outline), MITRE_LIMIT_TURN_DEG, "CGAL does not blunt sharp inner corners"
            )
            width = 0.03
            heights = roof_of(OutlineKey(outline), "mitred").nodes[:, 2]
            breaks = np.unique(np.concatenate([[0.0, width], heights[(heights > 1e-9) & (heights < width)]]))
            breaks = breaks[np.append(True, np.diff(breaks) > 1e-5)]
            middles = (breaks[1:] + breaks[:-1]) / 2
            # CGAL offsets by more than nothing only.
            areas = cgal_inset_areas(outline.rings, [*breaks[1:], *middles])
            at = [outline.area, *areas[: len(breaks) - 1]]
            middle = areas[len(breaks) - 1 :]
            integral = sum(
                (b - a) * (at[i] + 4 * middle[i] + at[i + 1]) / 6
                for i, (a, b) in enumerate(itertools.pairwise(breaks))
            )
            body = letter_body(outline, size=1.0, form=Form(depth=0.2, bevel=Bevel(width=width, height=0.05)))
            theirs = outline.area * 0.15 + 0.05 / width * integral
            self.assertAlmostEqual(body.volume / theirs, 1.0, delta=1e-6, msg=f"{face} {character}")

    def test_letters_of_every_typeface_are_solids(self) -> None:
        """Of printable ASCII and Latin-1; a narrow, a wide and a ridge bevel, each profile, mitred and
        rounded, all in turn.

        The full product, of every letter, is what tools/prove_bodies.py goes through.
        """
        number, turn = 0, 0
        for ident in SHIPPED.typefaces:
            files = opened(SHIPPED.typefaces[ident])
            for character in ALPHABET:
                if not any(ord(character) in file.coverage for file in files):
                    continue
                number += 1
                if number % EVERY:
                    continue
                for ink in ink_of(set_block(Lettering(words=character, typeface=ident)), Form()):
                    turn += 1
                    shape = ({"width": 2}, {"width": 10, "back": True}, {"to_ridge": True})[turn % 3]
                    bevel = Bevel(
                        profile=PROFILE_NAMES[turn % len(PROFILE_NAMES)],
                        corner=("mitred", "rounded")[turn % 2],
                        **shape,
                    )
                    body = outline_body(ink.key, size=200, depth=40, bevel=bevel)
                    self.assertEqual(fault_of(body), "", f"{ident} {character} {bevel}")

    def test_extreme_numbers_still_give_solids(self) -> None:
        for bevel in (
            Bevel(width=500, height=20, back=True, profile="ovolo"),
            Bevel(width=3, height=80, back=True),
            Bevel(width=0.001, height=0.001),
            Bevel(width=30, height=8, side="outset", corner="rounded", profile="bead"),
            Bevel(width=400, height=8, side="outset"),
            Bevel(cushion=True, height=30, back=True, corner="rounded", profile="ovolo"),
            Bevel(width=0, height=0),
        ):
            for character, face in (("R", "alfa-slab-one"), ("&", "lobster"), ("8", "saira-stencil-one")):
                body = outline_body(OutlineKey(letter(character, face)), size=200, depth=1, bevel=bevel)
                self.assertEqual(fault_of(body), "", f"{character} {bevel}")

    def test_an_outset_bevel_leaves_the_outline_as_the_face(self) -> None:
        outline = letter("R")
        body = outline_body(
            OutlineKey(outline), size=200, depth=30, bevel=Bevel(width=12, height=6, side="outset")
        )
        corners = body.positions[body.triangles[body.part == PartOf.FACE]]
        face = (
            0.5
            * np.linalg.norm(
                np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
            ).sum()
        )
        self.assertAlmostEqual(face / 200**2, outline.area, places=9)

    def test_euler_characteristic_counts_holes(self) -> None:
        """V - E + F = 2 (components - handles), Euler-Poincaré: B has two holes, i two parts."""
        for words, expected in (("B", 2 * (1 - 2)), ("O", 0), ("I", 2), ("i", 4)):
            body = letter_body(letter(words), size=200, form=Form())
            self.assertEqual(
                trimesh.Trimesh(body.positions, body.triangles, process=False).euler_number, expected, words
            )

    def test_a_wide_bevel_leaves_no_face(self) -> None:
        for bevel in (Bevel(width=400, height=30), Bevel(to_ridge=True, height=30)):
            body = letter_body(letter("I"), size=200, form=Form(bevel=bevel))
            self.assertFalse((body.part == PartOf.FACE).any())

    def test_a_bevel_to_the_ridge_reaches_the_face_plane_on_the_widest_stroke(self) -> None:
        body = letter_body(letter("R"), size=200, form=Form(bevel=Bevel(to_ridge=True, height=30)))
        self.assertAlmostEqual(float(body.positions[:, 2].max()), 0.0, places=9)

    def test_normals_turn_along_curves_and_break_at_corners(self) -> None:
        body = letter_body(letter("O"), size=200, form=Form(bevel=Bevel(width=0, height=0)))
        walls = body.part == PartOf.RETURN
        at: dict[int, list[np.ndarray]] = {}
        for triangle, normals in zip(body.triangles[walls], body.normals[walls], strict=True):
            for corner, normal in zip(triangle, normals, strict=True):
                at.setdefault(int(corner), []).append(normal)
        widest = max(
            float(np.linalg.norm(a - b)) for normals in at.values() for a in normals for b in normals
        )
        self.assertLess(widest, 1e-5, "the wall of an O has no seam")
        square = letter_body(
            Outline((SQUARE,), "square"), size=100, form=Form(bevel=Bevel(width=0, height=0))
        )
        self.assertEqual(
            len(np.unique(square.normals[square.part == PartOf.RETURN].reshape(-1, 3), axis=0)), 4
        )

    def test_a_round_bevel_has_a_cones_normals(self) -> None:
        """On a chamfered disc the normal leans by the chamfer and points away from the middle, everywhere."""
        turns = np.linspace(0, 2 * np.pi, 60, endpoint=False)
        disc = Outline((np.column_stack([np.cos(turns), np.sin(turns)]) / 2,), "disc")
        body = letter_body(disc, size=100, form=Form(bevel=Bevel(width=20, height=20)))
        bevel = body.part == PartOf.BEVEL
        away = body.positions[body.triangles[bevel]][..., :2]
        away = away / np.linalg.norm(away, axis=2, keepdims=True)
        expected = np.concatenate([away, np.ones((*away.shape[:2], 1))], axis=2) / math.sqrt(2)
        self.assertLess(float(np.abs(body.normals[bevel] - expected).max()), 1e-4)

    def test_depth_costs_nothing(self) -> None:
        thin, deep = (
            len(letter_body(letter("R"), size=200, form=Form(depth=d)).triangles) for d in (10, 10_000)
        )
        self.assertEqual(thin, deep)

    def test_another_bevel_reuses_the_roof(self) -> None:
        outline = letter("Q")
        letter_body(outline, size=200, form=Form(bevel=Bevel(width=4)))
        before = roof_or_fault.misses
        for profile in PROFILES:
            letter_body(
                outline, size=200, form=Form(depth=31, bevel=Bevel(profile=profile, width=7, height=3))
            )
        self.assertEqual(roof_or_fault.misses, before)


if __name__ == "__main__":
    unittest.main()
