"""The tree of what glows: every place is chosen as often as its density says, and near ones more often."""

import unittest

import numpy as np
from numpy.typing import NDArray

from halvex.core.render.assembling import make_world
from halvex.core.render.direct import BOTH, LAMPS_ONLY, SURFACE_ONLY
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.glows import chance_of_leaf, choose_leaf
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World
from halvex.core.scene import scene_of
from tests.core.small_scenes import new_film, small_piece

F = np.float32
DARK = {"lamps": [], "surround": {"kind": "plain", "strength": -30}}
TUBE = {"words": "Re", "size": 80, "form": {"kind": "tube", "tube": {"radius": 3}}}
NEON = {"kind": "glow", "colour": "#ff4020", "strength": 1, "core": 80}
PLACES = ((0.0, 0.0, -8.0), (-30.0, 20.0, -8.0), (10.0, -25.0, 4.0), (300.0, 100.0, 200.0))


def neon(**changes: object) -> World:
    blocks = [{**TUBE, "surface": {"face": NEON}}]
    return make_world(scene_of(small_piece(**{"light": DARK, "blocks": blocks, **changes})))


def chances(world: World, place: tuple[float, ...]) -> NDArray[np.float64]:
    """The chance (leaves,) of each leaf at a place."""
    point = tuple(F(x) for x in place)
    return np.array([chance_of_leaf(world.glows, point, k) for k in range(len(world.glows.first) - 1)], float)


class GlowTreeTest(unittest.TestCase):
    def test_chances_are_those_of_the_choice_and_add_up(self) -> None:
        world = neon()
        for place in PLACES:
            expected, point = chances(world, place), tuple(F(x) for x in place)
            self.assertAlmostEqual(expected.sum(), 1, delta=1e-4)
            draws = 4096
            found = np.zeros(len(expected))
            for k in range(draws):
                leaf, chance, left = choose_leaf(world.glows, point, F((k + 0.5) / draws))
                self.assertAlmostEqual(chance / expected[leaf], 1, delta=1e-3)
                self.assertTrue(0 <= left < 1)
                found[leaf] += 1 / draws
            # As evenly as the numbers are spread, but for what rounding shifts.
            self.assertLess(np.abs(found - expected).max(), 2 / draws)

    def test_a_place_is_lit_alike_by_what_is_chosen_and_by_everything(self) -> None:
        """The square of what one sample brings, in the mean: a tenth of that of samples by light alone where
        tubes are near, and never more."""
        world = neon()
        glows, letters = world.glows, world.letters
        corners = np.array(
            [
                letters.bodies.corners[t].reshape(3, 3) @ letters.matrix[i].T + letters.offset[i]
                for i, t in zip(glows.instance, glows.triangle, strict=True)
            ],
            float,
        )
        vector = 0.5 * np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        area, middle = np.linalg.norm(vector, axis=1), corners.mean(axis=1)
        gains = []
        for place in PLACES:
            way = np.asarray(place) - middle
            d2 = (way**2).sum(axis=1)
            brought = np.maximum((way * vector).sum(axis=1), 0) / d2**1.5
            chance = chances(world, place)[glows.leaf] * glows.density * area
            self.assertAlmostEqual(chance.sum(), 1, delta=1e-3)
            by_light = area / area.sum()
            squares = [(brought**2 / each).sum() / brought.sum() ** 2 for each in (chance, by_light)]
            gains.append(squares[1] / squares[0])
        self.assertGreater(min(gains), 0.95, gains)
        self.assertGreater(max(gains), 10, gains)

    def test_lights_and_surfaces_sampled_agree(self) -> None:
        """A wall behind neon, also where the tubes' light changes along them and they are turned."""
        fading = {
            **NEON,
            "colour": {
                "base": "#ff4020",
                "layers": [
                    {
                        "kind": "gradient",
                        "stops": [{"at": 0, "colour": "#ff4020"}, {"at": 100, "colour": "#2040ff"}],
                    }
                ],
            },
        }
        for name, changes in (
            ("even", {}),
            (
                "turned and fading",
                {
                    "view": {"turn": {"x": 10, "y": 30}},
                    "blocks": [{**TUBE, "surface": {"face": fading}}],
                },
            ),
        ):
            with self.subTest(name):
                world = neon(backdrop={"colour": "#c0c0c0", "gap": 12}, **changes)
                means = []
                for use, samples in ((BOTH, 32), (LAMPS_ONLY, 32), (SURFACE_ONLY, 256)):
                    film = new_film(world)
                    add_samples(world, film, samples, pool=shared_pool(), rules=PathRules(use_lamps=use))
                    wall = film.ground_cover > 0.99
                    means.append(film.develop(light_levels(world))[wall].mean(axis=0))
                self.assertGreater(means[0].mean(), 0.01)
                np.testing.assert_allclose(means[1], means[0], rtol=0.02)
                np.testing.assert_allclose(means[2], means[0], rtol=0.02)

    def test_black_parts_glow_with_nothing(self) -> None:
        """They have a share of the film like any, of which nothing is sampled."""
        for blocks in (
            [{**TUBE, "surface": {"face": {**NEON, "colour": "#000000"}}}],
            [
                {**TUBE, "surface": {"face": NEON}},
                {
                    **TUBE,
                    "surface": {"face": {**NEON, "colour": "#000000"}},
                    "id": "dark",
                    "place": {"y": 30},
                },
            ],
        ):
            world = neon(blocks=blocks)
            film = new_film(world)
            add_samples(world, film, 4, pool=shared_pool())
            self.assertEqual(len(light_levels(world)), 2)
            self.assertTrue(np.isfinite(film.sums).all())


if __name__ == "__main__":
    unittest.main()
