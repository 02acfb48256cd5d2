"""Beads that stand for what glows: their areas, and the light that they throw in drafts."""

import unittest

import numpy as np
import trimesh

from halvex.core.kernels import kernel
from halvex.core.piece import Piece
from halvex.core.render.assembling import make_world
from halvex.core.render.beads import FAR, MOST_BEADS, OVER_FAR, PLACE, WIDE, PlacedBeads, gather, grouped
from halvex.core.render.draft.glowlight import shown
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from tests.core.small_scenes import new_film, small_piece

DARK = {"lamps": [], "surround": {"kind": "plain", "strength": -30}}
RED = {"kind": "glow", "colour": "#ff4020", "strength": 1}
LINE = {
    "kind": "strokes",
    "strokes": [{"points": [{"x": -400}, {"x": 400}]}],
    "form": {"kind": "tube", "tube": {"radius": 3}},
    "surface": {"face": RED},
}


@kernel
def areas_shown(rows, ways, area):
    """What bead 0 shows from each direction to it (n, 3), in px²."""
    for i in range(ways.shape[0]):
        area[i] = shown(rows, 0, ways[i, 0], ways[i, 1], ways[i, 2])


def glowing(**changes: object) -> Piece:
    return small_piece(**{"light": DARK, "view": {"projection": "parallel"}, **changes})


class BeadsTest(unittest.TestCase):
    def test_beads_have_all_of_the_area(self) -> None:
        scene = scene_of(glowing(blocks=[LINE]))
        (instance,) = scene.instances
        corners = instance.body.positions[instance.body.triangles].astype(np.float32)
        sides = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        area = 0.5 * np.linalg.norm(np.cross(*sides), axis=1).sum()
        for thickness in (2.0, 6.0, 1e9):
            found = gather(corners, thickness)
            self.assertLessEqual(len(found.area), MOST_BEADS)
            self.assertAlmostEqual(found.area.sum() / area, 1, delta=1e-5)
            np.testing.assert_allclose(found.vector.sum(axis=0), 0, atol=1e-3 * area)
        world = make_world(scene)
        count, beads = len(world.beads.instance), world.beads
        places = beads.rows[PLACE : PLACE + 3].T
        self.assertGreater(len(places), count + 1)
        self.assertEqual(beads.first[-1], count)
        for k, group in enumerate(range(count, len(places))):
            own = slice(beads.first[k], beads.first[k + 1])
            distance = np.linalg.norm(places[own] - places[group], axis=1)
            self.assertLess(FAR * distance.max(), 1 / np.sqrt(beads.rows[OVER_FAR, group]))
            self.assertLessEqual(beads.rows[WIDE, group], distance.max() ** 2)

    def test_beads_show_what_bodies_do(self) -> None:
        """Tubes, balls and plates, with light from all of their surface or from their middle, against the sum
        over their triangles."""
        ball = trimesh.creation.icosphere(3, 5.0)
        tube = trimesh.creation.cylinder(2.0, 30.0, sections=64)
        tube.update_faces(np.abs(tube.face_normals[:, 2]) < 0.5)
        plate = trimesh.Trimesh([[0, 0, 0], [8, 0, 0], [8, 5, 0], [0, 5, 0]], [[0, 1, 2], [0, 2, 3]])
        ways = np.random.default_rng(3).normal(size=(200, 3))
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        for name, body, apart in (("ball", ball, 0.025), ("tube", tube, 0.03), ("plate", plate, 1e-5)):
            for core in (0.0, 0.8):
                with self.subTest(f"{name}, core {core}"):
                    found = gather(body.triangles.astype(np.float32), 1e9)
                    one, none = np.ones(1), np.zeros(1, np.int64)
                    placed = PlacedBeads(*found[:4], found.side * one, core * one, none, none)
                    area = np.zeros(len(ways), np.float32)
                    areas_shown(grouped(placed).rows, ways.astype(np.float32), area)
                    cosine = np.maximum(-ways @ body.face_normals.T, 0)
                    even = (1 - core + core * cosine**3) / (1 - 0.6 * core)
                    expected = (cosine * even) @ body.area_faces
                    allowed = (
                        apart if core == 0 else max(apart, 0.13 if name == "ball" else 0.05)
                    ) * expected.max()
                    np.testing.assert_allclose(area, expected, atol=allowed)

    def test_what_glows_need_not_be_there(self) -> None:
        """A plate of letters that have none, and a line far longer than it is thick."""
        plate = {"words": "I", "size": 40, "surface": {"face": {"kind": "plastic"}, "plate": RED}}
        self.assertEqual(make_world(scene_of(glowing(blocks=[plate]))).beads.rows.shape[1], 0)
        thin = {
            **LINE,
            "strokes": [{"points": [{"x": -90000}, {"x": 90000, "y": 50000}]}],
            "form": {"kind": "tube", "tube": {"radius": 0.05}},
        }
        beads = make_world(scene_of(glowing(blocks=[thin]))).beads
        self.assertGreater(len(beads.instance), 30)
        self.assertTrue(np.isfinite(beads.rows).all())

    def test_a_long_tube_lights_a_wall_by_the_inverse_of_its_distance(self) -> None:
        """Of a long line, E = πrLh/d² at the distance d from its axis, h over the wall (Lambert)."""
        beside, radius, found, expected = 15.0, 3.0, [], []
        for gap in (20, 40):
            piece = glowing(blocks=[LINE], backdrop={"colour": "#ffffff", "gap": gap})
            light = Sketcher().draw(scene_of(piece), 160, 90, pool=shared_pool()).light
            found.append(float(light[int(45 - beside), 80, 0]))
            height = gap + radius
            expected.append(radius * height / (height**2 + beside**2))
        self.assertAlmostEqual(found[0] / found[1] / (expected[0] / expected[1]), 1, delta=0.06)
        # A glow of one stop has a radiance of 2; white paper sends back the irradiance over π.
        self.assertAlmostEqual(found[0] / (2 * expected[0]), 1, delta=0.1)

    def test_drafts_show_the_light_of_what_glows_as_renders_do(self) -> None:
        solid = {"words": "Re", "size": 80, "form": {"depth": 16}}
        tube = {"words": "Re", "size": 80, "form": {"kind": "tube", "tube": {"radius": 3}}}
        bricks = {
            "kind": "plaster",
            "colour": {"base": "#c0c0c0", "layers": [{"kind": "pattern", "pattern": "bricks", "size": 20}]},
        }
        for name, block, backdrop in (
            ("a tube", {**tube, "surface": {"face": RED}}, {"colour": "#c0c0c0", "gap": 12}),
            ("a tube before bricks", {**tube, "surface": {"face": RED}}, {"gap": 12, "material": bricks}),
            (
                "letters lit from behind",
                {**solid, "surface": {"face": {"kind": "plastic"}, "back": RED}},
                {"colour": "#c0c0c0", "gap": 25},
            ),
        ):
            with self.subTest(name):
                scene = scene_of(glowing(blocks=[block], backdrop=backdrop))
                world, pool = make_world(scene), shared_pool()
                film = new_film(world)
                add_samples(world, film, 64, pool=pool)
                wall = film.ground_cover > 0.99
                render = film.develop(light_levels(world))[..., 0][wall]
                draft = Sketcher().draw(scene, 160, 90, pool=pool).light[..., 0][wall]
                self.assertGreater(render.mean(), 0.01)
                self.assertAlmostEqual(draft.mean() / render.mean(), 1, delta=0.2)
                self.assertGreater(np.corrcoef(draft, render)[0, 1], 0.95)

    def test_light_on_a_wall_is_as_sharp_in_drafts_as_it_is_near(self) -> None:
        """A tube close to a wall: from its edge on, drafts show as much of its light as farther off."""
        for gap in (2, 6, 12):
            scene = scene_of(glowing(blocks=[LINE], backdrop={"colour": "#c0c0c0", "gap": gap}))
            world, pool = make_world(scene), shared_pool()
            film = new_film(world)
            add_samples(world, film, 64, pool=pool)
            beside = np.flatnonzero((film.ground_cover[:45] > 0.99).all(axis=1))[-6:]
            render = film.develop(light_levels(world))[beside, :, 0].mean(axis=1)
            draft = Sketcher().draw(scene, 160, 90, pool=pool).light[beside, :, 0].mean(axis=1)
            self.assertLess(np.ptp(draft / render), 0.12, gap)


if __name__ == "__main__":
    unittest.main()
