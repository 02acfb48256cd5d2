"""How much of each pixel outlines cover, against geometry."""

import math
import unittest

import numpy as np
import shapely

from halvex.core.finish.covering import coverage


class CoverageTest(unittest.TestCase):
    def test_areas_are_exact(self) -> None:
        random = np.random.default_rng(4)
        for count in (3, 5, 9):
            angles = np.sort(random.uniform(0, math.tau, count))
            radii = random.uniform(3, 18, count)
            area = shapely.Polygon(
                np.column_stack([20 + radii * np.cos(angles), 20 + radii * np.sin(angles)])
            )
            cover = coverage(area, 40, 40)
            for y, x in random.integers(0, 40, (120, 2)):
                whole = shapely.intersection(area, shapely.box(x, y, x + 1, y + 1)).area
                self.assertAlmostEqual(float(cover[y, x]), whole, delta=2e-4)
            self.assertAlmostEqual(float(cover.sum(dtype=float)), area.area, delta=0.02)

    def test_what_lies_beyond_the_picture_is_cut_off(self) -> None:
        for box in ((-10, -5, 12, 8), (15, 3, 60, 90), (-50, -50, 90, 90), (-9, 2, -3, 9), (40, 0, 50, 9)):
            area = shapely.box(*box)
            seen = shapely.intersection(area, shapely.box(0, 0, 30, 20)).area
            self.assertAlmostEqual(float(coverage(area, 30, 20).sum(dtype=float)), seen, delta=1e-3)

    def test_outlines_that_end_nowhere_are_refused(self) -> None:
        for nowhere in (math.nan, math.inf, -math.inf):
            with self.subTest(nowhere), np.errstate(invalid="ignore"):
                triangle = shapely.Polygon([(0, 0), (9, nowhere), (9, 9)])
                with self.assertRaisesRegex(ValueError, "nowhere"):
                    coverage(triangle, 30, 20)

    def test_several_areas_at_once(self) -> None:
        """Those that do not overlap, without what lies within them."""
        ring, hole = shapely.box(3, 2, 17, 15), shapely.Point(9, 8).buffer(3.3)
        cut, beyond, none = shapely.box(-4.5, 16.25, 8, 40), shapely.box(50, 5, 60, 9), shapely.MultiPolygon()
        two = shapely.union_all([shapely.box(18, 1, 19.5, 3), shapely.box(20, 9.1, 22, 12)])
        areas, within = [ring, cut, beyond, none, two], [hole, none, none, none, none]
        expected = sum(coverage(area, 30, 20) for area in areas) - coverage(hole, 30, 20)
        np.testing.assert_allclose(coverage(areas, 30, 20, without=within), expected, atol=1e-5)


if __name__ == "__main__":
    unittest.main()
