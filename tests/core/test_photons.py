"""Light that letters send to the ground: as much, and where, as paths find; and only where it pays."""

import itertools
import unittest
import unittest.mock
from concurrent.futures import Executor, ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.optics.vectors import F
from halvex.core.piece import piece_from_values
from halvex.core.render import mapping
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.mapping import MARGIN, MOST_MARGIN, map_photons
from halvex.core.render.path_state import PathRules
from halvex.core.render.photon_map import PhotonMap
from halvex.core.render.smoothing import LEVEL_OF_ONE, smoothed
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World, letters_bounds
from halvex.core.scene import scene_of
from halvex.core.scene.ground import developed
from halvex.core.stopping import CancelledError
from tests.core.small_scenes import new_film

WIDTH, HEIGHT = 96, 54
# Side in px of the squares whose means are compared.
SQUARE = 6

GOLD = {"kind": "metal", "metal": "gold", "roughness": 0.4}
KEY = {
    "id": "key",
    "name": "key",
    "bearing": 140,
    "elevation": 45,
    "distance": 200,
    "width": 110,
    "height": 80,
}
DIM = {"kind": "plain", "strength": -3}


def world_of(face: Any = GOLD, px_scale: float = 1, **changes: Any) -> World:
    letters = {
        "words": "Re",
        "size": 48,
        "surface": face if "face" in face else {"face": face},
        "form": {"depth": 12, "bevel": {"width": 2.5, "height": 2.5}},
    }
    values = {
        "canvas": {"width": WIDTH, "height": HEIGHT},
        "blocks": [letters],
        "view": {"turn": {"x": -8, "y": -20}},
        "light": {"lamps": [KEY], "surround": DIM},
        "backdrop": {"ground": "wall", "gap": 4, "colour": "#d8d8d8"},
        **changes,
    }
    return make_world(scene_of(piece_from_values(values), px_scale=px_scale))


def mapped(world: World, pool: Executor | None = None, seed: int = 0) -> PhotonMap:
    return map_photons(world, light_levels(world), pool or shared_pool(), seed, lambda: False)


def brightness(photons: PhotonMap, world: World) -> float:
    """The mean light of a map, lights being at their levels."""
    return float((photons.light * light_levels(world)[:, None, None, :]).sum(axis=0).mean())


def film_of(world: World, samples: int, by_photons: bool) -> Film:
    film = new_film(world, WIDTH, HEIGHT)
    # Paths see mirrors after matte surfaces as sharp as photons do.
    rules = PathRules(caustic_alpha=F(0.0), mapped=by_photons)
    add_samples(world, film, samples, pool=shared_pool(), rules=rules)
    return film


def means(image: NDArray[np.float32]) -> NDArray[np.float32]:
    """The means over squares of a picture."""
    squares = image.reshape(HEIGHT // SQUARE, SQUARE, WIDTH // SQUARE, SQUARE, -1)
    return np.asarray(squares.mean(axis=(1, 3)), np.float32)


FLOOR_AND_WALL = {"ground": "floor", "colour": "#d8d8d8", "wall": {"kind": "paint", "colour": "#a0c0ff"}}
BULB = {**KEY, "id": "bulb", "name": "bulb", "kind": "bulb", "width": 30, "bearing": 60, "colour": "#80a0ff"}
SCENES: dict[str, tuple[Any, dict[str, Any]]] = {
    "gold before a wall": (GOLD, {}),
    "polished silver": ({"kind": "metal", "metal": "silver", "roughness": 0.15}, {}),
    "paint on a floor": (
        {"kind": "paint", "colour": "#e08050", "finish": "gloss"},
        {"backdrop": FLOOR_AND_WALL},
    ),
    "plastic with pearl, two lamps": (
        {"kind": "plastic", "colour": "#f0e0e0", "pearl": 60},
        {"light": {"lamps": [KEY, BULB], "surround": DIM}},
    ),
    "a lamp that is not mirrored": (
        {"face": GOLD, "return": {"kind": "paint", "colour": "#ff8040", "finish": "gloss"}},
        {"light": {"lamps": [{**KEY, "in_reflections": False, "strength": 2}], "surround": DIM}},
    ),
    "ground under a coat": (
        GOLD,
        {
            "backdrop": {
                "ground": "floor",
                "material": {"kind": "paint", "colour": "#e0e0e0", "finish": "satin"},
            }
        },
    ),
    "letters that are turned": (
        GOLD,
        {
            "blocks": [
                {"words": "R", "size": 48, "surface": {"face": GOLD}, "place": {"turn": {"y": 50, "z": 20}}}
            ]
        },
    ),
    "ground with relief": (
        GOLD,
        {"backdrop": {"ground": "wall", "material": {"kind": "plaster", "colour": "#e0e0e0", "relief": 0.8}}},
    ),
    "ground that is partly shown flat": (
        GOLD,
        {"backdrop": {"ground": "wall", "gap": 4, "colour": "#d8d8d8", "lit": 50}},
    ),
    "glass and glowing parts beside gold": (
        {
            "face": {"kind": "glow", "colour": "#ff9050", "strength": 0},
            "bevel": {"kind": "glass", "tint": "#c0ffc0"},
            "return": GOLD,
        },
        {},
    ),
}


class AgreementTest(unittest.TestCase):
    def test_photons_find_what_paths_find(self) -> None:
        """Everywhere in the picture, of every light: both converge to the same light."""
        for name, (face, changes) in SCENES.items():
            with self.subTest(name):
                world = world_of(face, **changes)
                self.assertGreater(mapped(world).light.size, 0, "there is no map")
                films = [film_of(world, 160, by_photons) for by_photons in (True, False)]
                for light in range(len(light_levels(world))):
                    level = light_levels(world)[light]
                    one, other = (means(film.share(light) * level) for film in films)
                    np.testing.assert_allclose(one.mean(), other.mean(), rtol=0.01, atol=2e-5)
                    apart = np.abs(one - other) / (other + 0.05 * other.max() + 1e-3)
                    self.assertLess(float(np.percentile(apart, 95)), 0.06)
                    self.assertLess(float(apart.mean()), 0.02)

    def test_pictures_have_less_noise(self) -> None:
        world = world_of()
        noise = []
        for by_photons in (True, False):
            seeds = []
            for seed in range(6):
                film = new_film(world, WIDTH, HEIGHT)
                rules = PathRules(caustic_alpha=F(0.0), mapped=by_photons)
                add_samples(world, film, 8, pool=shared_pool(), seed=seed, rules=rules)
                seeds.append(film.develop(light_levels(world)))
            noise.append(float(np.var(seeds, axis=0).mean()))
        self.assertLess(noise[0], 0.85 * noise[1])

    def test_what_a_white_ledge_sends_to_a_wall(self) -> None:
        """A matt side lit from above is a Lambertian source: light on the wall over it against the integral
        that defines it, B cos θ cos θ' / r² over the side."""
        sun = {"id": "sun", "name": "sun", "kind": "sun", "bearing": 90, "elevation": 10, "width": 1}
        block = {
            "kind": "shape",
            "shape": "rectangle",
            "width": 60,
            "height": 20,
            "surface": {"face": {"kind": "paint", "colour": "#ffffff"}},
            "form": {"depth": 24, "bevel": {"width": 0, "height": 0}},
        }
        world = world_of(
            px_scale=4,
            blocks=[block],
            view={"turn": {"x": 0, "y": 0}},
            light={"lamps": [sun], "surround": {"kind": "plain", "strength": -30}},
            backdrop={"ground": "wall", "gap": 0, "colour": "#ffffff"},
        )
        with unittest.mock.patch.object(mapping, "PHOTONS_PER_TEXEL", 20):
            photons = mapped(world)
        lamps, colour = world.lamps, world.materials.params[world.materials_of[0, 2], :3]
        corners = world.letters.bodies.corners.reshape(-1, 3) + world.letters.offset[0]
        (x0, _, z0), (x1, y1, z1) = corners.min(axis=0), corners.max(axis=0)
        sent = lamps.radiance[0] * lamps.size[0] * lamps.centre[0, 1] * colour / np.pi
        x, z = (np.linspace(low, high, 401)[:-1] + (high - low) / 800 for low, high in ((x0, x1), (z0, z1)))
        across, out = np.meshgrid(x, z)
        area = (x1 - x0) * (z1 - z0) / across.size
        wall, ratios = float(world.ground.point[2]), []
        for above in (4.0, 8.0, 16.0):
            for beside in (0.0, 12.0):
                place = np.array([[beside, y1 + above, wall]])
                r2 = (across - beside) ** 2 + above**2 + (out - wall) ** 2
                expected = sent * float((above * (out - wall) / r2**2).sum()) * area
                u, v = developed(world.ground, place)[0]
                row, column = (
                    int((at - begin) * photons.per_px + 0.5) for at, begin in ((v, photons.v), (u, photons.u))
                )
                found = photons.light[0, row - 1 : row + 2, column - 1 : column + 2].mean(axis=(0, 1))
                ratios.append(found / expected)
        np.testing.assert_allclose(ratios, 1, rtol=0.2)
        self.assertAlmostEqual(float(np.mean(ratios)), 1, delta=0.04)


class MapTest(unittest.TestCase):
    def test_where_letters_send_little_light_there_is_no_map(self) -> None:
        dark = {"ground": "wall", "gap": 4, "colour": "#0d2b34"}
        unlit = {"lamps": [{**KEY, "strength": -30}], "surround": {"kind": "plain", "strength": -30}}
        for name, world in {
            "a dark wall": world_of(backdrop=dark),
            "no ground": world_of(backdrop={"ground": "none"}),
            "ground of metal": world_of(backdrop={"ground": "wall", "material": {"kind": "metal"}}),
            "ground shown flat": world_of(backdrop={"ground": "wall", "colour": "#d8d8d8", "lit": 0}),
            "glass": world_of({"kind": "glass"}),
            "glowing letters": world_of({"kind": "glow", "colour": "#ffffff"}),
            "no light": world_of(light=unlit),
        }.items():
            with self.subTest(name):
                self.assertEqual(mapped(world).light.size, 0)

    def test_it_is_the_same_on_any_number_of_threads_and_another_of_another_seed(self) -> None:
        world = world_of()
        with ThreadPoolExecutor(1) as alone:
            one, again = mapped(world, alone), mapped(world)
        np.testing.assert_array_equal(one.light, again.light)
        other = mapped(world, seed=1)
        self.assertFalse(np.array_equal(one.light, other.light))
        self.assertAlmostEqual(brightness(other, world) / brightness(one, world), 1.0, delta=0.05)

    def test_it_reaches_beyond_the_letters_and_grows_no_further_than_it_may(self) -> None:
        for ground in ("wall", "floor"):
            world = world_of(backdrop={"ground": ground, "colour": "#d8d8d8"})
            photons = mapped(world)
            _, rows, columns, _ = photons.light.shape
            corners = world.letters.bodies.corners.reshape(-1, 3)
            corners = np.concatenate([corners + offset for offset in world.letters.offset]) @ world.turn.T
            x, y = ((developed(world.ground, corners) - (photons.u, photons.v)) * photons.per_px).T
            beyond = MARGIN * float(np.ptp(corners[:, 1])) * photons.per_px / 2
            for place, texels in ((x, columns), (y, rows)):
                self.assertGreater(place.min(), beyond)
                self.assertLess(place.max(), texels - beyond)
            most = rows * columns // 4
            numbers = most * (3 * len(photons.light) + 1)
            with unittest.mock.patch.object(mapping, "MOST_NUMBERS", numbers):
                smaller = mapped(world)
            self.assertLessEqual(smaller.light.shape[1] * smaller.light.shape[2], 1.2 * most)
            self.assertAlmostEqual(brightness(smaller, world) / brightness(photons, world), 1.0, delta=0.05)

    def test_it_covers_the_ground_that_is_seen_near_the_letters(self) -> None:
        letters = {"words": "R", "size": 12, "surface": {"face": GOLD}, "place": {"x": -20, "y": 5}}
        view = {"projection": "parallel"}
        photons = mapped(world_of(blocks=[letters], view=view))
        _, rows, columns, _ = photons.light.shape
        low = np.array([photons.u, photons.v])
        high = low + np.array([columns, rows]) / photons.per_px
        # Straight on, a wall's places are those of the canvas.
        bounds = letters_bounds(world_of(blocks=[letters], view=view).letters)
        assert bounds is not None
        height = float(bounds[1][1] - bounds[0][1])
        for axis, half in ((0, WIDTH / 2), (1, HEIGHT / 2)):
            least = max(-half, float(bounds[0][axis]) - MOST_MARGIN * height)
            most = min(half, float(bounds[1][axis]) + MOST_MARGIN * height)
            self.assertLess(abs(low[axis] - least), 1.0)
            self.assertLess(abs(high[axis] - most), 2 / photons.per_px + 0.1)

    def test_bands_of_a_picture_share_one(self) -> None:
        world = world_of()
        above = new_film(world, WIDTH, 30)
        add_samples(world, above, 1, pool=shared_pool())
        below = Film(WIDTH, HEIGHT - 20, len(light_levels(world)), 20)
        below.resume_from(above.last_rows(10))
        with unittest.mock.patch("halvex.core.render.film.map_photons") as again:
            add_samples(world, below, 1, pool=shared_pool())
        again.assert_not_called()

    def test_making_it_can_be_cancelled(self) -> None:
        with self.assertRaises(CancelledError):
            world = world_of()
            map_photons(world, light_levels(world), shared_pool(), 0, lambda: True)


class SmoothingTest(unittest.TestCase):
    def smoothed(self, sums: NDArray[np.float32]) -> NDArray[np.float32]:
        return smoothed(sums, shared_pool())

    def even(self, density: float) -> NDArray[np.float32]:
        """What even photons of 3 each come to, so many to a texel."""
        sums = np.random.default_rng(1).poisson(density, (150, 171, 1)).astype(np.float32)
        return self.smoothed(np.concatenate([3 * sums, sums], axis=2))

    def test_even_photons_come_out_even(self) -> None:
        even = self.even(1.0)
        self.assertAlmostEqual(float(even.mean()), 3.0, delta=0.05)
        # A Gaussian over 4 π σ² texels has this noise; one of higher order has more, up to half more.
        texels = 4 * np.pi * 0.417 * 4 ** float(LEVEL_OF_ONE)
        self.assertGreater(float(even.std()), 3.0 / np.sqrt(texels))
        self.assertLess(float(even.std()), 1.5 * 3.0 / np.sqrt(texels))

    def test_noise_grows_by_less_than_photons_are_fewer(self) -> None:
        spreads = [float(self.even(density).std()) / density for density in (8.0, 1.0, 0.125)]
        for dense, sparse in itertools.pairwise(spreads):
            self.assertGreater(sparse, dense)
            self.assertLess(sparse, 2.0 * dense)

    def test_where_photons_are_dense_edges_stay(self) -> None:
        sums = np.zeros((64, 64, 2), np.float32)
        sums[:, 32:] = 1000
        edge = self.smoothed(sums)[20, :, 0]
        np.testing.assert_allclose(edge[36:], 1000, rtol=0.01)
        self.assertLess(edge[26], 100)

    def test_peaks_are_not_flattened(self) -> None:
        """A Gaussian of light three times as wide as a mean keeps 1 / (1 + 3⁻²) = 0.9 of its height."""
        y, x = np.mgrid[:96, :96] - 48.0
        width = 0.645 * 2 ** float(LEVEL_OF_ONE)
        light = np.exp(-(x**2 + y**2) / (2 * (3 * width) ** 2))
        sums = np.stack([light, np.ones_like(light)], axis=2).astype(np.float32)
        peak = self.smoothed(sums)[48, 48, 0]
        self.assertGreater(peak, 0.93)
        self.assertLess(peak, 1.0)

    def test_small_and_empty_maps(self) -> None:
        for shape in ((2, 2), (3, 2), (2, 200), (7, 5)):
            empty = self.smoothed(np.zeros((*shape, 4), np.float32))
            np.testing.assert_array_equal(empty, np.zeros((*shape, 3), np.float32))
            np.testing.assert_allclose(self.smoothed(np.ones((*shape, 4), np.float32)), 1, rtol=1e-5)


if __name__ == "__main__":
    unittest.main()
