"""The surround as the ground of drafts sees it: parts that light it alike, and the shadows that they cast."""

import unittest

import numpy as np

from halvex.core.kernels import kernel
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.cells import left_out
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.draft.sky import GROUP, PARTS, part_at, sky_of
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from halvex.core.scene.surround import coated_lookup, lookup, matte_lookup
from tests.core.small_scenes import new_film, small_piece

CARD = {"bearing": 90, "elevation": 25, "width": 20, "height": 20, "softness": 5, "strength": 4}
SURROUNDS = ({"kind": "plain"}, {"kind": "studio"}, {"kind": "dusk"}, {"kind": "studio", "cards": [CARD]})


@kernel
def parts_of_cells(out):
    """The part that each cell (rows, columns) looks at; -1 for those that look at none."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            out[y, x] = np.int32(-1) if left_out(x, y) else np.int32(part_at(x, y))


@kernel
def radiances(image, directions, out):
    for i in range(directions.shape[0]):
        d = directions[i]
        light = lookup(image, (d[0], d[1], d[2]))
        for c in range(3):
            out[i, c] = light[c]


@kernel
def even_lights(surround, n, out):
    """Mean light (2, 3) on a matte surface of normal n, and on one under a coat."""
    plain, coated = matte_lookup(surround, n), coated_lookup(surround, n)
    for c in range(3):
        out[0, c], out[1, c] = plain[c], coated[c]


def hemisphere(normal: np.ndarray, count: int) -> np.ndarray:
    """So many directions (count, 3) about a normal, evenly by the cosine (Malley's method)."""
    k = np.arange(count) + 0.5
    radius, angle = np.sqrt(k / count), k * np.pi * (3 - np.sqrt(5))
    z = np.sqrt(1 - radius**2)
    side = np.linalg.svd(normal[None])[2][1:]
    return (
        (radius * np.cos(angle))[:, None] * side[0]
        + (radius * np.sin(angle))[:, None] * side[1]
        + z[:, None] * normal
    )


class SkyTest(unittest.TestCase):
    def test_parts_share_all_of_the_light(self) -> None:
        for surround in SURROUNDS:
            for ground in ("wall", "floor"):
                with self.subTest(f"{surround}, {ground}"):
                    world = make_world(
                        scene_of(small_piece(backdrop={"ground": ground}, light={"surround": surround}))
                    )
                    sky = sky_of(world)
                    np.testing.assert_allclose(sky.share.sum(axis=1), 1, atol=1e-5)
                    bright = sky.share @ [0.2126, 0.7152, 0.0722]
                    # Cuts go between cells, of which a small card fills but a few.
                    self.assertLess(bright.max() * PARTS, 2)
                    self.assertGreater(bright.min() * PARTS, 0.1)
                    np.testing.assert_allclose(np.linalg.norm(sky.direction, axis=2), 1, atol=1e-5)
                    above = np.einsum("nkc,nc->nk", sky.direction, sky.normal)
                    self.assertGreater(above.min(), 0)

    def test_parts_send_what_the_hemisphere_does(self) -> None:
        """Half of it is hidden: as much of the light is left as of 100,000 directions."""
        for surround in SURROUNDS:
            world = make_world(
                scene_of(small_piece(backdrop={"ground": "wall"}, light={"surround": surround}))
            )
            sky, normal = sky_of(world), np.array(world.ground.normal, float)
            directions = hemisphere(normal, 100_000)
            light = np.empty((len(directions), 3), np.float32)
            radiances(world.surround.image, directions.astype(np.float32), light)
            for way in np.linalg.svd(normal[None])[2][1:]:
                with self.subTest(f"{surround}, {way.round(1)}"):
                    left = light[directions @ way > 0].sum(axis=0) / light.sum(axis=0)
                    found = sky.share[0][sky.direction[0] @ way > 0].sum(axis=0)
                    np.testing.assert_allclose(found, left, atol=2 / PARTS)

    def test_what_a_coat_lets_in_is_weighed_by_fresnel(self) -> None:
        """Mean light on matte surfaces, with and without a coat of index 1.5 over them, against 100,000
        directions (Fresnel's equations as in Hecht, Optics, 4.6)."""
        for surround in SURROUNDS:
            found = make_world(scene_of(small_piece(light={"surround": surround}))).surround
            for normal in (np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0]), np.array([0.6, 0.0, 0.8])):
                with self.subTest(f"{surround}, {normal}"):
                    directions = hemisphere(normal, 100_000)
                    light = np.empty((len(directions), 3), np.float32)
                    radiances(found.image, directions.astype(np.float32), light)
                    light *= found.level
                    cosine = directions @ normal
                    inside = np.sqrt(1 - (1 - cosine**2) / 1.5**2)
                    across = (cosine - 1.5 * inside) / (cosine + 1.5 * inside)
                    along = (1.5 * cosine - inside) / (1.5 * cosine + inside)
                    let_in = 1 - (across**2 + along**2) / 2
                    means = np.empty((2, 3), np.float32)
                    even_lights(found, tuple(np.float32(normal)), means)
                    np.testing.assert_allclose(means[0], light.mean(axis=0), rtol=0.06)
                    np.testing.assert_allclose(
                        means[1] / means[0],
                        (light * let_in[:, None]).sum(axis=0) / let_in.sum() / light.mean(axis=0),
                        atol=0.03,
                    )

    def test_cells_look_at_each_part_once(self) -> None:
        parts = np.empty((40, 48), np.int32)
        parts_of_cells(parts)
        for y in range(0, 32, 4):
            for x in range(0, 40, 4):
                seen = parts[y : y + 8, x : x + 8]
                np.testing.assert_array_equal(np.sort(seen[seen >= 0]), np.arange(PARTS))
        for y in range(36):
            for x in range(44):
                near = parts[y : y + 4, x : x + 4]
                np.testing.assert_array_equal(np.sort(near[near >= 0] // GROUP), np.arange(PARTS // GROUP))

    def test_a_bright_card_casts_a_shadow_and_nothing_else_does(self) -> None:
        """Drafts against renders: a wall behind letters, under a studio with a card above them."""
        letters = {"words": "HE", "size": 60, "form": {"depth": 20}, "surface": {"face": {"kind": "plastic"}}}
        scene = scene_of(
            small_piece(
                blocks=[letters],
                light={"lamps": [], "surround": {"kind": "studio", "cards": [CARD]}},
                backdrop={"ground": "wall", "gap": 20, "colour": "#c0c0c0"},
            )
        )
        world = make_world(scene)
        film = new_film(world)
        add_samples(world, film, 256, pool=shared_pool())
        render = film.develop(light_levels(world))[..., 1]
        draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light[..., 1]
        open_wall, above, shadow = np.s_[5:60, 4:20], np.s_[4:20, 40:120], np.s_[80:88, 60:110]
        as_bright = draft[open_wall].mean() / render[open_wall].mean()
        self.assertAlmostEqual(float(as_bright), 1, delta=0.08)
        for area, most in ((open_wall, 0.03), (above, 0.07)):
            self.assertLess(float(np.abs(draft[area] / render[area] / as_bright - 1).mean()), most)
        self.assertLess(float(render[shadow].mean() / render[open_wall].mean()), 0.3)
        self.assertLess(float(draft[shadow].mean() / draft[open_wall].mean()), 0.3)

    def test_a_turned_surround_is_seen_anew(self) -> None:
        sketcher, shown = Sketcher(), []
        for turn in (0.0, 180.0, 0.0):
            surround = {"kind": "studio", "cards": [{**CARD, "bearing": 180}], "turn": turn}
            scene = scene_of(
                small_piece(backdrop={"ground": "floor"}, light={"lamps": [], "surround": surround})
            )
            shown.append(sketcher.draw(scene, 160, 90, pool=shared_pool()).light)
        np.testing.assert_allclose(shown[2], shown[0], atol=1e-5)
        self.assertGreater(float(np.abs(shown[1] - shown[0]).max()), 0.01)
