"""uv of bodies: true to area where a part unrolls, continuous along smooth outlines, exact at the seam."""

import unittest

import numpy as np

from halvex.core.lettering import set_block
from halvex.core.piece.block import Block, Shape, Stroke, StrokePoint, Strokes
from halvex.core.piece.form import Bevel, Form, Plate, Tube
from halvex.core.piece.lettering import Lettering
from halvex.core.solids import Mesh, PartOf, block_bodies

LETTERS = Lettering(words="Re&", size=200)
BEVELS = {
    "chamfer": Bevel(width=8, height=8, back=True),
    "ovolo": Bevel(profile="ovolo", width=12, height=9),
    "step": Bevel(profile="step", width=12, height=12),
    "outset": Bevel(width=8, height=8, side="outset"),
    "rounded": Bevel(width=8, height=8, side="outset", corner="rounded"),
    "none": Bevel(width=0, height=0),
}


def meshes(block: Block, form: Form) -> list[Mesh]:
    return [body.mesh for body in block_bodies(set_block(block), form)]


def areas(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    """(areas in space, areas in uv) of triangles (m,)."""
    p, q = mesh.positions[mesh.triangles], mesh.uv.astype(float)
    space = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2
    (a, b), (c, d) = (q[:, 1] - q[:, 0]).T, (q[:, 2] - q[:, 0]).T
    return space, np.abs(a * d - b * c) / 2


def jumps(mesh: Mesh, part: PartOf) -> np.ndarray:
    """(n, 2) how far uv of a part jump at edges that two of its triangles share."""
    met: dict[tuple[int, int], np.ndarray] = {}
    found = []
    for triangle, uv in zip(mesh.triangles[mesh.part == part], mesh.uv[mesh.part == part], strict=True):
        for side in range(3):
            ends = (int(triangle[side]), int(triangle[(side + 1) % 3]))
            here = uv[[side, (side + 1) % 3]]
            if ends[::-1] in met:
                found += list(met[ends[::-1]][::-1] - here)
            met[ends] = here
    return np.array(found)


class UvTest(unittest.TestCase):
    def assert_true_to_area(self, mesh: Mesh, part: PartOf, within: float = 0.01) -> None:
        chosen = mesh.part == part
        self.assertTrue(chosen.any(), part.name)
        space, flat = areas(mesh)
        self.assertLess(np.abs(flat - space)[chosen].sum() / space[chosen].sum(), within, part.name)

    def test_faces_returns_and_backs_are_true_to_area(self) -> None:
        for name, bevel in BEVELS.items():
            with self.subTest(bevel=name):
                for mesh in meshes(LETTERS, Form(depth=60, bevel=bevel)):
                    for part in (PartOf.FACE, PartOf.RETURN, PartOf.BACK):
                        self.assert_true_to_area(mesh, part)

    def test_bevels_of_straight_sides_are_true_to_area(self) -> None:
        for shape in (Shape(shape="rectangle", width=200, height=90), Shape(shape="polygon", sides=6)):
            for name in ("chamfer", "ovolo", "step", "outset"):
                with self.subTest(shape=shape.shape, bevel=name):
                    for mesh in meshes(shape, Form(depth=60, bevel=BEVELS[name])):
                        self.assert_true_to_area(mesh, PartOf.BEVEL)

    def test_slabs_plates_and_cuts_are_true_to_area(self) -> None:
        plate = meshes(LETTERS, Form(plates=(Plate(bevel=BEVELS["none"]),)))[-1]
        self.assert_true_to_area(plate, PartOf.PLATE)
        raised = meshes(LETTERS, Form(stands="raised"))[-1]
        self.assert_true_to_area(raised, PartOf.SLAB)
        (cut,) = meshes(LETTERS, Form(stands="flat-cut", bevel=BEVELS["none"]))
        for part in (PartOf.SLAB, PartOf.FACE, PartOf.RETURN):
            self.assert_true_to_area(cut, part)

    def test_tubes_are_true_to_area(self) -> None:
        line = Strokes(strokes=(Stroke(points=(StrokePoint(x=-200, y=0), StrokePoint(x=200, y=90))),))
        for section in ("round", "square", "half round"):
            with self.subTest(section=section):
                tube = Tube(radius=10, section=section, caps="flat")  # type: ignore[arg-type]
                (mesh,) = meshes(line, Form(kind="tube", tube=tube))
                self.assert_true_to_area(mesh, PartOf.FACE)

    def test_uv_are_continuous_where_the_outline_is(self) -> None:
        """On an ellipse they jump at one seam only, there by exactly the length of the outline."""
        ellipse = Shape(shape="ellipse", width=300, height=160)
        (outline,) = set_block(ellipse).letters
        ring = outline.outline.rings[0] * outline.size
        length = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum()
        for bevel in ("chamfer", "ovolo", "step"):
            (mesh,) = meshes(ellipse, Form(depth=60, bevel=BEVELS[bevel].model_copy(update={"back": False})))
            for part in (PartOf.BEVEL, PartOf.RETURN):
                with self.subTest(bevel=bevel, part=part.name):
                    found = jumps(mesh, part)
                    self.assertLess(float(np.abs(found[:, 1]).max()), 1e-3)
                    leaps = np.abs(found[:, 0])
                    seam = leaps > 1e-2
                    self.assertTrue(0 < seam.sum() < 0.1 * len(leaps))
                    np.testing.assert_allclose(leaps[seam], length, rtol=1e-6)
                    self.assertLess(float(leaps[~seam].max()), 2e-3)

    def test_a_ring_of_tube_closes_at_its_length(self) -> None:
        ring = Stroke(
            points=tuple(
                StrokePoint(x=100 * c, y=100 * s, in_x=55 * s, in_y=-55 * c, out_x=-55 * s, out_y=55 * c)
                for c, s in ((1, 0), (0, 1), (-1, 0), (0, -1))
            ),
            closed=True,
        )
        (mesh,) = meshes(Strokes(strokes=(ring,)), Form(kind="tube", tube=Tube(radius=8)))
        leaps = np.abs(jumps(mesh, PartOf.FACE))
        length, around = mesh.uv[..., 0].max(), mesh.uv[..., 1].max()
        self.assertAlmostEqual(float(length), 2 * np.pi * 100, delta=2)
        self.assertAlmostEqual(float(around), 2 * np.pi * 8, delta=0.5)
        for axis, whole in ((0, length), (1, around)):
            seam = leaps[:, axis] > 1e-2
            self.assertTrue(seam.any())
            np.testing.assert_allclose(leaps[seam, axis], whole, rtol=1e-6)


if __name__ == "__main__":
    unittest.main()
