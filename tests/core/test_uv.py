"""uv of bodies: true to area where a part unrolls, continuous along smooth outlines, exact at the seam; and
as rays find it."""

import unittest

import numpy as np

from halvex.core.kernels import kernel
from halvex.core.lettering import set_block
from halvex.core.optics.vectors import F
from halvex.core.piece.block import Block, Shape, Stroke, StrokePoint, Strokes
from halvex.core.piece.form import Bevel, Form, Plate, Tube
from halvex.core.piece.lettering import Lettering
from halvex.core.render.assembling import make_world
from halvex.core.render.camera_rays import camera_ray
from halvex.core.render.hits import FAR, NOTHING, first_hit
from halvex.core.render.interaction import surface_at
from halvex.core.render.work import scratch
from halvex.core.scene import Scene, scene_of
from halvex.core.solids import Mesh, PartOf, block_bodies
from tests.core.small_scenes import small_piece

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


@kernel
def interactions(world, width, height, out, parts, scratch):
    """Fill out (height, width, 11) with point, uv, tangent and normal of what each pixel's middle sees, and
    parts (height, width): the ground is -1, nothing is -2."""
    for y in range(height):
        for x in range(width):
            o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
            hit = first_hit(world, o, d, FAR, scratch)
            parts[y, x] = -2
            if hit.kind != NOTHING:
                si = surface_at(world, o, d, hit)
                parts[y, x] = si.part
                for c in range(3):
                    out[y, x, c], out[y, x, 5 + c], out[y, x, 8 + c] = si.p[c], si.dpdu[c], si.ng[c]
                out[y, x, 3], out[y, x, 4] = si.uv[0], si.uv[1]


# A colour for which uv and tangents are looked up.
ALONG_SURFACE = {
    "base": "#888888",
    "layers": [{"kind": "pattern", "pattern": "dots", "size": 4, "span": "surface"}],
}


class InteractionTest(unittest.TestCase):
    """uv and the tangent that rays find, against the frames that the scene gives."""

    def seen(self, scene: Scene, width: int = 160, height: int = 90) -> tuple[np.ndarray, np.ndarray]:
        out, parts = np.zeros((height, width, 11), np.float32), np.zeros((height, width), np.int32)
        interactions(make_world(scene), width, height, out, parts, scratch())
        return out.astype(float), parts

    def test_on_a_letter_that_is_moved_and_turned(self) -> None:
        """On its face uv is the place in the body's frame. On returns and on bevels, all of them over
        straight edges, the tangent is a unit vector along the edge: square to the depth and to the normal."""
        block = {
            "words": "H",
            "size": 70,
            "place": {"x": 6, "y": -4, "z": 10, "turn": {"x": 15, "y": -30, "z": 20}},
            "form": {"depth": 30, "bevel": {"width": 4, "height": 3}},
            "surface": {"face": {"kind": "paint", "colour": ALONG_SURFACE}},
        }
        piece = small_piece(blocks=[block], view={"turn": {"x": -10, "y": 25}}, backdrop={"ground": "none"})
        scene = scene_of(piece)
        out, parts = self.seen(scene)
        (instance,) = scene.instances
        axes = scene.turn @ instance.transform[:, :3]
        for part in (PartOf.FACE, PartOf.BEVEL, PartOf.RETURN):
            at = out[parts == part]
            self.assertGreater(len(at), 40, part.name)
            np.testing.assert_allclose(np.linalg.norm(at[:, 5:8], axis=1), 1, atol=2e-3)
            np.testing.assert_allclose((at[:, 5:8] * at[:, 8:11]).sum(axis=1), 0, atol=2e-3)
            if part == PartOf.FACE:
                body = (at[:, :3] @ scene.turn - instance.transform[:, 3]) @ instance.transform[:, :3]
                np.testing.assert_allclose(at[:, 3:5], body[:, :2], atol=2e-3)
                np.testing.assert_allclose(at[:, 5:8], np.broadcast_to(axes[:, 0], (len(at), 3)), atol=2e-3)
            else:
                np.testing.assert_allclose(at[:, 5:8] @ axes[:, 2], 0, atol=2e-3)

    def test_what_takes_no_uv_has_none(self) -> None:
        """Nor a tangent: plain colours, those laid over the word, and parts beside one that takes them."""
        over_word = {"base": "#888888", "layers": [{"kind": "pattern", "pattern": "dots", "span": "word"}]}
        for face, uv in ((None, False), (over_word, False), (ALONG_SURFACE, True)):
            with self.subTest(face=face):
                materials = {"bevel": {"kind": "paint", "colour": "#203040"}}
                if face is not None:
                    materials["face"] = {"kind": "paint", "colour": face}
                block = {"words": "H", "size": 70, "form": {"depth": 20}, "surface": materials}
                out, parts = self.seen(scene_of(small_piece(blocks=[block])))
                self.assertEqual(bool(out[parts == PartOf.FACE][:, 3:8].any()), uv)
                self.assertFalse(out[parts == PartOf.BEVEL][:, 3:8].any())

    def test_on_the_ground(self) -> None:
        """Distances in uv are those in space, also where a floor sweeps up to a wall."""
        for ground in ("wall", "floor"):
            with self.subTest(ground=ground):
                out, parts = self.seen(scene_of(small_piece(backdrop={"ground": ground})))
                both = (parts[1:] == -1) & (parts[:-1] == -1)
                self.assertGreater(int(both.sum()), 100)
                apart = np.linalg.norm(out[1:, :, :3] - out[:-1, :, :3], axis=2)[both]
                apart_uv = np.linalg.norm(out[1:, :, 3:5] - out[:-1, :, 3:5], axis=2)[both]
                np.testing.assert_allclose(apart_uv, apart, rtol=0.01)
                on_ground = out[parts == -1]
                np.testing.assert_allclose((on_ground[:, 5:8] * on_ground[:, 8:11]).sum(axis=1), 0, atol=1e-5)
                if ground != "wall":  # a wall is turned with the lettering
                    np.testing.assert_allclose(on_ground[:, 3], on_ground[:, 0], atol=1e-2)


if __name__ == "__main__":
    unittest.main()
