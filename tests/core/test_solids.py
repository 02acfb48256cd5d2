"""Roofs and bodies against solid geometry, CGAL and trimesh."""

import json
import subprocess
import sys
import unittest

import numpy as np
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from halvex.core.lettering import Outline, set_block, typefaces
from halvex.core.lettering.outlines import fill_nonzero
from halvex.core.piece import Lettering
from halvex.core.piece.form import Bevel, Form
from halvex.core.solids import PartOf, letter_body
from halvex.core.solids.profiles import PROFILES, steps_for
from halvex.core.solids.roof import roof_over

SQUARE = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float)

# CGAL runs in a process of its own: it can crash on hard input.
CGAL = """
import json, sys
from compas_cgal.straight_skeleton_2 import offset_polygon
points, distance = json.load(sys.stdin)
from compas.geometry import Polygon
print(sum(Polygon(p.points).area for p in offset_polygon([[x, y, 0] for x, y in points], distance)))
"""


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


def closed(mesh) -> bool:
    body = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    return bool(body.is_watertight and body.is_winding_consistent and body.volume > 0)


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
        """Area of mitred insets against CGAL's offset polygons."""
        shapes = {
            "L": [(0, 0), (1, 0), (1, 0.3), (0.3, 0.3), (0.3, 1), (0, 1)],
            "star": [(np.cos(a) * r, np.sin(a) * r) for a, r in zip(np.arange(10) * np.pi / 5, [1, 0.45] * 5, strict=True)],
            "comb": [(0, 0), (1, 0), (1, 0.8), (0.85, 0.8), (0.85, 0.2), (0.6, 0.2), (0.6, 0.8), (0.4, 0.8), (0.4, 0.2), (0.15, 0.2), (0.15, 0.8), (0, 0.8)],
        }
        for name, points in shapes.items():
            roof = roof_over((np.array(points, float),))
            for share in (0.3, 0.7):
                d = share * roof.ridge
                answer = subprocess.run(
                    [sys.executable, "-c", CGAL], input=json.dumps([np.array(points).tolist(), d]), capture_output=True, text=True, timeout=120
                )
                self.assertEqual(answer.returncode, 0, answer.stderr[-300:])
                self.assertAlmostEqual(area_above(roof, d), float(answer.stdout), places=9, msg=f"{name} at {d}")

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8), st.integers(1, 4), st.integers(1, 4)), min_size=1, max_size=6))
    def test_unions_of_boxes_have_roofs(self, boxes: list[tuple[int, int, int, int]]) -> None:
        rings = fill_nonzero([(SQUARE * (w, h) + (x, y)) / 12 for x, y, w, h in boxes])
        roof = roof_over(rings)
        self.assertAlmostEqual(area_above(roof, 0.0), Outline(rings, "boxes").area, places=9)


class BodyTest(unittest.TestCase):
    def test_chamfered_block_is_a_block_and_a_frustum(self) -> None:
        """V = A·depth + h/3 (A1 + A2 + √(A1·A2)), solid geometry."""
        form = Form(depth=50, bevel=Bevel(width=10, height=5))
        body = letter_body(Outline((SQUARE,), "square"), size=100, form=form)
        self.assertAlmostEqual(body.volume, 100 * 100 * 45 + 5 / 3 * (10_000 + 6_400 + 8_000), places=6)

    def test_ovolo_volume_is_the_integral_of_its_insets(self) -> None:
        """V = A·depth' + ∫ A(inset(z)) dz with A = (s - 2d)²."""
        body = letter_body(Outline((SQUARE,), "square"), size=100, form=Form(depth=50, bevel=Bevel(profile="ovolo", width=20, height=10)), px_scale=50)
        t = np.linspace(0, 1, 200_001)
        rise = PROFILES["ovolo"].rise(t) * 10
        integral = np.trapezoid((100 - 40 * t) ** 2, rise)
        self.assertAlmostEqual(body.volume / (100 * 100 * 40 + integral), 1.0, places=3)

    def test_every_typeface_gives_closed_outward_bodies(self) -> None:
        forms = [
            Form(depth=40, bevel=Bevel(profile="chamfer", width=6, height=6)),
            Form(depth=40, bevel=Bevel(profile="ovolo", width=500, height=20, back=True)),
            Form(depth=1, bevel=Bevel(profile="ovolo", width=3, height=8, back=True)),
            Form(depth=40, bevel=Bevel(width=0, height=0)),
        ]
        for ident in typefaces():
            for letter in set_block(Lettering(words="Hag&8", typeface=ident)).letters:
                for form in forms:
                    body = letter_body(letter.outline, size=letter.size, form=form)
                    self.assertTrue(closed(body), f"{ident} {letter.outline.digest} {form}")

    def test_euler_characteristic_counts_holes(self) -> None:
        """V - E + F = 2 (components - handles), Euler-Poincaré: B has two holes, i two parts."""
        for words, expected in (("B", 2 * (1 - 2)), ("O", 0), ("I", 2), ("i", 4)):
            letter = set_block(Lettering(words=words, typeface="archivo-black")).letters[0]
            body = letter_body(letter.outline, size=200, form=Form())
            self.assertEqual(trimesh.Trimesh(body.positions, body.triangles, process=False).euler_number, expected, words)

    def test_a_wide_bevel_leaves_no_face(self) -> None:
        letter = set_block(Lettering(words="I", typeface="archivo-black")).letters[0]
        body = letter_body(letter.outline, size=200, form=Form(bevel=Bevel(width=400, height=30)))
        self.assertFalse((body.part == PartOf.FACE).any())

    def test_normals_turn_along_curves_and_break_at_corners(self) -> None:
        letter = set_block(Lettering(words="O", typeface="archivo-black")).letters[0]
        body = letter_body(letter.outline, size=200, form=Form(bevel=Bevel(width=0, height=0)))
        walls = body.part == PartOf.RETURN
        at: dict[int, list[np.ndarray]] = {}
        for triangle, normals in zip(body.triangles[walls], body.normals[walls], strict=True):
            for corner, normal in zip(triangle, normals, strict=True):
                at.setdefault(int(corner), []).append(normal)
        widest = max(float(np.linalg.norm(a - b)) for normals in at.values() for a in normals for b in normals)
        self.assertLess(widest, 1e-5, "the wall of an O has no seam")
        square = letter_body(Outline((SQUARE,), "square"), size=100, form=Form(bevel=Bevel(width=0, height=0)))
        self.assertEqual(len(np.unique(square.normals[square.part == PartOf.RETURN].reshape(-1, 3), axis=0)), 4)

    def test_depth_costs_nothing(self) -> None:
        letter = set_block(Lettering(words="R")).letters[0]
        thin, deep = (len(letter_body(letter.outline, size=200, form=Form(depth=d)).triangles) for d in (10, 10_000))
        self.assertEqual(thin, deep)

    def test_facets_follow_the_picture(self) -> None:
        self.assertLess(steps_for(2), steps_for(40))


if __name__ == "__main__":
    unittest.main()
