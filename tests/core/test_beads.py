"""Beads that stand for what glows: their areas, and the light that they throw in drafts."""

import unittest

import numpy as np

from halvex.core.piece import Piece
from halvex.core.render.assembling import make_world
from halvex.core.render.beads import FAR, MOST_BEADS, OVER_FAR, PLACE, WIDE, gather
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
