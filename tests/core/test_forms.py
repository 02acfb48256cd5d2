"""Every form of a block as closed solids, and their measures against solid geometry."""

import math
import unittest

import numpy as np

from halvex.core.lettering import set_block
from halvex.core.lettering.shapes import shape_outline
from halvex.core.lettering.strokes import MOST_BLOCK_POINTS
from halvex.core.piece.block import Block, Shape, Stroke, StrokePoint, Strokes
from halvex.core.piece.form import (
    Bevel,
    Drift,
    Form,
    Holes,
    Incision,
    Kerf,
    Plate,
    Point,
    Rim,
    Run,
    RunPoint,
    Slab,
    Taper,
    Tube,
)
from halvex.core.piece.lettering import Lettering, LetterSetting
from halvex.core.solids import Mesh, PartOf, SolidError, block_bodies
from halvex.core.solids.areas import hole_shapes, kerf_shape
from halvex.core.solids.bodies import formed_ink
from halvex.core.solids.inks import ink_of
from halvex.core.solids.tubes import Strand, lifted, tube_body
from tests.core.checks import fault_of

NO_BEVEL = Bevel(width=0, height=0)
CRACK = Kerf(
    points=(Point(x=-300, y=-80), Point(x=0, y=30), Point(x=300, y=10)), width=8, end_width=30, jagged=6
)
BLOCKS: dict[str, Block] = {
    "slab letters": Lettering(words="Ray&8", typeface="alfa-slab-one"),
    "letters set by themselves": Lettering(
        words="Ray",
        typeface="anton",
        letters={
            0: LetterSetting(size=140, turn=12),
            1: LetterSetting(shift=80, kern=-30),
            2: LetterSetting(turn=-150),
        },
    ),
    "joined script": Lettering(words="Lantern", typeface="lobster"),
    "star": Shape(shape="star", corner_radius=8),
    "rectangle": Shape(shape="rectangle", width=300, corner_radius=20),
    "ellipse": Shape(shape="ellipse", width=300),
    "hexagon": Shape(shape="polygon", sides=6),
    "strokes": Strokes(
        strokes=(
            Stroke(
                points=(
                    StrokePoint(x=-200, y=-50, out_x=150, out_y=200),
                    StrokePoint(x=200, y=-50, in_x=-150, in_y=200),
                )
            ),
            Stroke(
                points=(StrokePoint(x=-200, y=60), StrokePoint(x=0, y=-20), StrokePoint(x=200, y=-40)),
                smoothing=10,
            ),
        ),
        form=Form(),
    ),
}
FORMS = {
    "solid": Form(),
    "rim inside": Form(kind="rim", bevel=Bevel(width=3, height=3)),
    "rim centred": Form(
        kind="rim", rim=Rim(side="centred"), bevel=Bevel(profile="cyma", width=2, height=2, back=True)
    ),
    "rim outside": Form(kind="rim", rim=Rim(side="outside"), bevel=Bevel(corner="rounded", width=4)),
    "tube": Form(kind="tube", tube=Tube(radius=6)),
    "square tube": Form(kind="tube", tube=Tube(radius=5, section="square", caps="flat")),
    "half round tube": Form(kind="tube", tube=Tube(radius=6, section="half round", end_radius=40)),
    "raised": Form(stands="raised", slab=Slab(margin=60)),
    "V-cut": Form(stands="v-cut", incision=Incision(angle=70)),
    "V-cut by depth": Form(
        stands="v-cut",
        incision=Incision(by="depth", depth=30),
        slab=Slab(width=1400, height=600, bevel=NO_BEVEL),
    ),
    "flat cut": Form(stands="flat-cut", bevel=Bevel(profile="cavetto", width=5)),
    "upright cut": Form(stands="flat-cut", bevel=NO_BEVEL),
    "plates": Form(plates=(Plate(), Plate(distance=30, join="mitred", close_holes=False, gap=4))),
    "kerf": Form(kerfs=(CRACK,)),
    "holes": Form(holes=Holes(count=20, variety=40)),
    "cracked rim": Form(kind="rim", kerfs=(CRACK,), bevel=Bevel(width=2, height=2)),
    "cracked V": Form(stands="v-cut", kerfs=(CRACK,)),
    "taper": Form(taper=Taper(amount=60, x=40, y=200)),
    "drift": Form(drift=Drift(x=80, y=-40)),
    "run": Form(
        run=Run(points=(RunPoint(x=100, y=50, z=-300), RunPoint(x=300, y=-50, z=-500)), scale=40, turn=60)
    ),
    "cushion": Form(bevel=Bevel(cushion=True, height=30, profile="ovolo", corner="rounded", back=True)),
}


def bodies(block: Block, form: Form, **options: float) -> list[Mesh]:
    return [body.mesh for body in block_bodies(set_block(block), form, **options)]


def of_size(size: float, **more: object) -> Shape:
    return Shape(shape="rectangle", width=size, height=size, **more)


class EveryFormTest(unittest.TestCase):
    def test_every_form_of_every_kind_of_block_is_solid(self) -> None:
        for form_name, form in FORMS.items():
            for block_name, block in BLOCKS.items():
                with self.subTest(form=form_name, block=block_name):
                    for mesh in bodies(block, form):
                        self.assertEqual(fault_of(mesh), "")
                        self.assertEqual(mesh.uv.shape, (len(mesh.triangles), 3, 2))
                        self.assertTrue(np.isfinite(mesh.uv).all())

    def test_finer_pictures_get_finer_bodies(self) -> None:
        block = Lettering(words="O", typeface="archivo-black")
        coarse, fine = (
            sum(
                len(m.triangles)
                for m in bodies(block, Form(bevel=Bevel(profile="ovolo", width=20)), px_scale=s)
            )
            for s in (0.2, 4)
        )
        self.assertLess(coarse, fine)


class MeasureTest(unittest.TestCase):
    def test_a_taper_is_a_frustum(self) -> None:
        """V = depth/3 · A (1 + s + s²), with s the back's scale, whatever the centre."""
        form = Form(depth=90, bevel=NO_BEVEL, taper=Taper(amount=40, x=70, y=-20))
        self.assertAlmostEqual(
            bodies(of_size(100), form)[0].volume, 90 / 3 * 100**2 * (1 + 0.6 + 0.36), places=6
        )

    def test_a_drift_keeps_its_volume(self) -> None:
        """Cavalieri's principle."""
        straight, drifted = (bodies(BLOCKS["star"], Form(drift=Drift(x=x, y=33)))[0].volume for x in (0, 150))
        self.assertAlmostEqual(straight, drifted, places=6)

    def test_a_run_following_an_arc_has_pappus_volume(self) -> None:
        """V = A · length of the path of the centroid (Pappus-Guldin), for a quarter of a circle, to
        the path's facets."""
        radius = 600.0
        points = tuple(
            RunPoint(x=radius * (1 - math.cos(a)), y=0, z=-radius * math.sin(a))
            for a in np.radians([15, 30, 45, 60, 75, 90])
        )
        mesh = bodies(of_size(80), Form(bevel=NO_BEVEL, run=Run(points=points, following=True)))[0]
        self.assertAlmostEqual(mesh.volume / (80**2 * radius * math.pi / 2), 1.0, delta=2e-3)

    def test_the_end_of_a_run_is_scaled_turned_and_where_the_last_point_is(self) -> None:
        form = Form(bevel=NO_BEVEL, run=Run(points=(RunPoint(x=50, y=20, z=-300),), scale=50, turn=90))
        mesh = bodies(Shape(shape="rectangle", width=200, height=100), form)[0]
        back = mesh.positions[np.unique(mesh.triangles[mesh.part == PartOf.BACK])]
        np.testing.assert_allclose(back.mean(axis=0), (50, 20, -300), atol=1e-6)
        np.testing.assert_allclose(np.ptp(back, axis=0), (50, 100, 0), atol=1e-6)

    def test_a_rim_is_the_outline_less_its_inset(self) -> None:
        for side, expected in (
            ("inside", 100**2 - 80**2),
            ("centred", 110**2 - 90**2),
            ("outside", 120**2 - 100**2),
        ):
            mesh = bodies(
                of_size(100), Form(kind="rim", depth=10, rim=Rim(width=10, side=side), bevel=NO_BEVEL)
            )[0]
            self.assertAlmostEqual(mesh.volume, 10 * expected, places=6, msg=side)

    def test_a_rim_as_wide_as_the_stroke_is_the_letter(self) -> None:
        solid, rim = (
            bodies(of_size(100), Form(kind=kind, bevel=NO_BEVEL, rim=Rim(width=70)))[0].volume
            for kind in ("solid", "rim")
        )
        self.assertAlmostEqual(solid, rim, places=6)

    def test_a_v_cut_takes_a_pyramid_out_of_the_slab(self) -> None:
        """A square of side s cut at an included angle a goes s/2 / tan(a/2) deep; its volume is a
        third of the box's."""
        slab = Slab(margin=50, corner_radius=0, depth=80, bevel=NO_BEVEL)
        mesh = bodies(of_size(100), Form(stands="v-cut", incision=Incision(angle=90), slab=slab))[0]
        self.assertAlmostEqual(mesh.volume, 200**2 * 80 - 100**2 * 50 / 3, places=4)
        pit = mesh.positions[mesh.triangles[mesh.part == PartOf.BEVEL]]
        self.assertAlmostEqual(float(pit[..., 2].min()), -50, places=6)
        by_depth = bodies(
            of_size(100), Form(stands="v-cut", incision=Incision(by="depth", depth=20), slab=slab)
        )[0]
        self.assertAlmostEqual(by_depth.volume, 200**2 * 80 - 100**2 * 20 / 3, places=4)

    def test_a_flat_cut_takes_a_frustum_or_a_box(self) -> None:
        slab = Slab(margin=50, corner_radius=0, depth=80, bevel=NO_BEVEL)
        for bevel, taken in (
            (NO_BEVEL, 100**2 * 30),
            (Bevel(width=10), 30 / 3 * (100**2 + 80**2 + 100 * 80)),
        ):
            mesh = bodies(
                of_size(100), Form(stands="flat-cut", bevel=bevel, incision=Incision(depth=30), slab=slab)
            )[0]
            self.assertAlmostEqual(mesh.volume, 200**2 * 80 - taken, places=4)

    def test_a_slab_grows_to_hold_the_deepest_cut(self) -> None:
        mesh = bodies(
            of_size(100),
            Form(stands="flat-cut", bevel=NO_BEVEL, incision=Incision(depth=90), slab=Slab(depth=20)),
        )[0]
        self.assertLess(float(mesh.positions[:, 2].min()), -90)

    def test_letters_that_reach_over_the_slab_are_one_clear_error(self) -> None:
        with self.assertRaisesRegex(SolidError, "more margin"):
            bodies(of_size(100), Form(stands="v-cut", slab=Slab(width=90, height=90)))

    def test_a_plate_is_the_outline_at_a_distance(self) -> None:
        """Round: A + P·d + π·d² (Steiner's formula)."""
        plate = Plate(distance=10, depth=5, bevel=NO_BEVEL)
        mesh = bodies(of_size(100), Form(plates=(plate,)))[1]
        self.assertAlmostEqual(mesh.volume / 5, 100**2 + 400 * 10 + math.pi * 100, delta=2)
        mitred = bodies(of_size(100), Form(plates=(plate.model_copy(update={"join": "mitred"}),)))[1]
        self.assertAlmostEqual(mitred.volume / 5 / 120**2, 1.0, delta=1e-6)

    def test_plates_merge_and_close_their_holes(self) -> None:
        block = Lettering(words="OO", typeface="archivo-black")
        apart = [
            len(
                bodies(block, Form(plates=(Plate(distance=d, bevel=NO_BEVEL, close_holes=closed),)))[
                    -1
                ].triangles
            )
            for d, closed in ((4, False), (4, True))
        ]
        self.assertGreater(apart[0], apart[1])
        self.assertEqual(len(bodies(block, Form(plates=(Plate(),)))), 3)

    def test_a_kerf_and_holes_take_away_what_they_are(self) -> None:
        kerf = Kerf(points=(Point(x=-200), Point(x=200)), width=10)
        mesh = bodies(of_size(100), Form(depth=10, bevel=NO_BEVEL, kerfs=(kerf,)))[0]
        # Cut outlines lie on a grid of 2^-24 em.
        self.assertAlmostEqual(mesh.volume / (10 * (100 * 100 - 100 * 10)), 1.0, delta=1e-6)
        self.assertAlmostEqual(kerf_shape(kerf).area, 400 * 10, places=6)
        holes = Holes(count=9, radius=6, seed=3)
        drilled = bodies(of_size(100), Form(depth=10, bevel=NO_BEVEL, holes=holes))[0]
        inside = hole_shapes(holes, (-50, -50, 50, 50)).intersection(
            kerf_shape(Kerf(points=(Point(x=-50), Point(x=50)), width=100))
        )
        self.assertAlmostEqual(drilled.volume, 10 * (100**2 - inside.area), places=2)

    def test_a_seed_gives_the_same_crack_again(self) -> None:
        same = [kerf_shape(CRACK).wkb for _ in range(2)]
        self.assertEqual(same[0], same[1])
        self.assertNotEqual(same[0], kerf_shape(CRACK.model_copy(update={"seed": 2})).wkb)

    def test_overlapping_letters_are_one_body_or_stay_apart(self) -> None:
        block = BLOCKS["joined script"]
        joined, apart = ink_of(set_block(block), Form()), ink_of(set_block(block), Form(joined=False))
        self.assertEqual(len(apart), 7)
        self.assertLess(len(joined), 7)
        self.assertEqual("".join(ink.outline.name for ink in joined), "Lantern")
        self.assertLess(sum(ink.outline.area for ink in joined), sum(ink.outline.area for ink in apart))

    def test_cuts_that_leave_nothing_are_explained(self) -> None:
        with self.assertRaisesRegex(SolidError, "narrower"):
            formed_ink(
                set_block(of_size(100)), Form(kerfs=(Kerf(points=(Point(x=-200), Point(x=200)), width=400),))
            )


class ShapeTest(unittest.TestCase):
    def test_areas_are_those_of_plane_geometry(self) -> None:
        """Rectangle with round corners w·h - (4 - π) r²; ellipse π·a·b; hexagon of side s 3√3/2 s²;
        pentagram-like star by its corners."""
        tolerance = 1e-6
        rounded = shape_outline(Shape(shape="rectangle", width=200, height=100, corner_radius=20), tolerance)
        self.assertAlmostEqual(rounded.area * 200**2, 200 * 100 - (4 - math.pi) * 400, delta=0.1)
        ellipse = shape_outline(Shape(shape="ellipse", width=200, height=100), tolerance)
        self.assertAlmostEqual(ellipse.area * 200**2, math.pi * 100 * 50, delta=0.2)
        side = 100 / 2
        hexagon = shape_outline(
            Shape(shape="polygon", sides=6, width=math.sqrt(3) * side, height=100), tolerance
        )
        self.assertAlmostEqual(hexagon.area * 100**2, 3 * math.sqrt(3) / 2 * side**2, places=6)


class TubeTest(unittest.TestCase):
    def test_a_torus_has_pappus_volume(self) -> None:
        """V = 2π² R r² (Pappus-Guldin), to the facets of both circles."""
        turns = np.linspace(0, 2 * np.pi, 400, endpoint=False)
        ring = Strand(
            np.column_stack([100 * np.cos(turns), 100 * np.sin(turns), 0 * turns]), np.full(400, 10.0), True
        )
        mesh = tube_body(ring, Tube(), px_scale=100)
        self.assertEqual(fault_of(mesh), "")
        self.assertAlmostEqual(mesh.volume / (2 * math.pi**2 * 100 * 10**2), 1.0, delta=2e-3)

    def test_a_straight_tube_is_a_cylinder_with_the_caps_asked_for(self) -> None:
        """V = π r² l, and 4/3 π r³ more with round ends; a cone frustum where the radius varies."""
        points = np.column_stack([np.linspace(0, 200, 21), np.zeros(21), np.zeros(21)])
        cylinder = math.pi * 10**2 * 200
        for tube, radii, expected in (
            (Tube(caps="flat"), np.full(21, 10.0), cylinder),
            (Tube(caps="round"), np.full(21, 10.0), cylinder + 4 / 3 * math.pi * 1000),
            (Tube(caps="flat"), np.linspace(10, 5, 21), math.pi * 200 / 3 * (100 + 50 + 25)),
            (Tube(caps="flat", section="square"), np.full(21, 10.0), 20 * 20 * 200),
            (Tube(caps="flat", section="half round"), np.full(21, 10.0), cylinder / 2),
        ):
            mesh = tube_body(Strand(points, radii, False), tube, px_scale=100)
            self.assertEqual(fault_of(mesh), "")
            self.assertAlmostEqual(mesh.volume / expected, 1.0, delta=0.02, msg=f"{tube}")

    def test_the_later_strand_passes_over_with_room(self) -> None:
        def line(x0: float, y0: float, x1: float, y1: float) -> Strand:
            t = np.linspace(0, 1, 201)[:, None]
            return Strand(np.hstack([(1 - t) * (x0, y0) + t * (x1, y1), 0 * t]), np.full(201, 8.0), False)

        under, over = lifted([line(-200, 0, 200, 0), line(0, -200, 0, 200)])
        self.assertEqual(float(np.abs(under.points[:, 2]).max()), 0.0)
        self.assertAlmostEqual(float(over.points[:, 2].max()), 16.0, delta=0.1)
        self.assertEqual(float(over.points[0, 2]), 0.0)

    def test_strands_that_only_touch_are_not_lifted(self) -> None:
        t = np.linspace(0, 1, 101)[:, None]
        bar = Strand(np.hstack([t * 400 - 200, 0 * t, 0 * t]), np.full(101, 8.0), False)
        stem = Strand(np.hstack([0 * t, -200 * t, 0 * t]), np.full(101, 8.0), False)
        self.assertEqual(float(lifted([bar, stem])[1].points[:, 2].max()), 0.0)

    def test_drawn_strokes_keep_their_ends_and_pass_through_smooth_points(self) -> None:
        lines = set_block(BLOCKS["strokes"]).lines
        np.testing.assert_allclose(lines[0][0][[0, -1]], [(-200, -50), (200, -50)], atol=1e-9)
        # A cubic's middle: (p0 + 3 p1 + 3 p2 + p3) / 8.
        middle = lines[0][0][np.argmin(np.abs(lines[0][0][:, 0]))]
        self.assertAlmostEqual(float(middle[1]), (-50 + 3 * 150 + 3 * 150 - 50) / 8, delta=0.5)

    def test_long_strokes_share_their_points_by_length(self) -> None:
        long = [
            Stroke(points=(StrokePoint(x=0, y=9.0 * n), StrokePoint(x=reach, y=9.0 * n)), closed=False)
            for n, reach in enumerate((100_000, 100_000, 50_000, 40))
        ]
        counts = [len(points) for points, _ in set_block(Strokes(strokes=tuple(long))).lines]
        self.assertLess(sum(counts), 1.01 * MOST_BLOCK_POINTS)
        self.assertAlmostEqual(counts[0] / counts[3], 4000 / 20, delta=30)
        alone = set_block(Strokes(strokes=(long[3],))).lines[0][0]
        self.assertEqual(len(alone), 21)
        self.assertEqual(len(set_block(Strokes(strokes=(long[0],))).lines[0][0]), 4001)


if __name__ == "__main__":
    unittest.main()
