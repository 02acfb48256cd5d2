"""Which lights are sampled where: none that may bring light is left out, none that cannot takes samples."""

import unittest
from typing import Any

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F
from halvex.core.piece import piece_from_values
from halvex.core.references import by_reference
from halvex.core.render.assembling import make_world
from halvex.core.render.choosing import ALIKE, may_bring, share_samples
from halvex.core.render.direct import BOTH, LAMPS_ONLY, SURFACE_ONLY
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.lights import light_count
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import scratch, shared_pool
from halvex.core.render.world import World
from halvex.core.scene import scene_of
from tests.core.test_lamps import gathered

WIDTH, HEIGHT = 96, 54
SIDE = 24
OFF = -30


def lamp(ident: str, **values: Any) -> dict[str, Any]:
    return {"id": ident, "name": ident, "distance": 200, "width": 110, "height": 80, **values}


LAMPS = (
    lamp("key", bearing=140, elevation=45),
    lamp("disc", kind="round", bearing=20, elevation=30, strength=-1),
    lamp("bulb", kind="bulb", bearing=250, elevation=20, width=40),
    lamp("sun", kind="sun", bearing=90, elevation=20, strength=-2),
    lamp("behind", bearing=200, elevation=-30),
    lamp("near", bearing=300, elevation=60, distance=40, width=90, strength=1),
    lamp("faint", bearing=60, elevation=70, strength=-6),
)
PLAIN = {"kind": "plain", "strength": -2}


def world_of(lamps: tuple[dict[str, Any], ...], **changes: Any) -> World:
    """Two letters of gold, which mirror each other, before a wall."""
    block = {
        "words": "Re",
        "size": 48,
        "surface": {"face": {"kind": "metal", "metal": "gold", "roughness": 0.5}},
        "form": {"depth": 12, "bevel": {"width": 2.5, "height": 2.5}},
    }
    values = {
        "canvas": {"width": WIDTH, "height": HEIGHT},
        "blocks": [block],
        "view": {"turn": {"x": -8, "y": -20}},
        "light": {"lamps": list(lamps), "surround": PLAIN},
        "backdrop": {"ground": "wall", "gap": 4, "colour": "#a8a8a8"},
        **changes,
    }
    return make_world(scene_of(piece_from_values(values)))


@kernel
def _weights(world, p, n, out):
    world = by_reference(world)
    for k in range(light_count(world)):
        out[k] = may_bring(world, k, p, n, 0)


@kernel
def _times(world, p, n, at_once, scratch):
    share_samples(by_reference(world), p, n, 0, at_once, by_reference(scratch))


def vector(values: NDArray[np.float64]) -> tuple[np.float32, ...]:
    return tuple(F(v) for v in values)


def places(count: int) -> list[tuple[tuple[np.float32, ...], tuple[np.float32, ...]]]:
    """Points about the letters, with normals of all directions."""
    random = np.random.default_rng(5)
    normals = random.normal(size=(count, 3))
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    points = random.uniform((-48, -27, -20), (48, 27, 20), (count, 3))
    return [(vector(p), vector(n)) for p, n in zip(points, normals, strict=True)]


class ChoosingTest(unittest.TestCase):
    def test_what_a_lamp_may_bring_is_about_what_it_sends(self) -> None:
        """Against an even sum over the lamp; a lamp that sends something is never left out."""
        world = world_of(LAMPS)
        found, ratios = np.zeros(len(LAMPS) + 1, np.float32), []
        for p, n in places(400):
            _weights(world, p, n, found)
            for k in range(len(LAMPS)):
                level = float(world.lamps.level[k] @ (0.2126, 0.7152, 0.0722))
                sent = level * gathered(world.lamps, k, p, n, SIDE)
                if sent > 0:
                    self.assertGreater(found[k], 0, (LAMPS[k]["id"], p, n))
                if sent > 0.05 * level:
                    ratios.append(found[k] / sent)
        self.assertGreater(len(ratios), 500)
        # Lamps half under the horizon, and those nearer than they are wide, are estimated roughly.
        self.assertLess(np.percentile(ratios, 98), 3)
        self.assertGreater(np.percentile(ratios, 2), 1 / 3)
        self.assertAlmostEqual(float(np.median(ratios)), 1, delta=0.15)

    def test_a_surface_with_its_back_to_a_card(self) -> None:
        """Parallel to it, so that no part of the card is higher than another."""
        world = world_of(LAMPS)
        found, own = np.zeros(len(LAMPS) + 1, np.float32), scratch()
        for k in (0, 1, 4):
            away = vector(world.lamps.normal[k].astype(float))
            _weights(world, vector(np.zeros(3)), away, found)
            self.assertTrue(np.isfinite(found).all(), found)
            self.assertEqual(found[k], 0)
            _times(world, vector(np.zeros(3)), away, 1, own)
            self.assertAlmostEqual(float(own.times[: len(found)].sum()), 1, delta=1e-4)

    def test_places_far_off_on_the_ground(self) -> None:
        """A wall has no end: estimates stay numbers wherever a path meets it, however it is turned."""
        world, own, random = world_of(LAMPS), scratch(), np.random.default_rng(3)
        normals = [*np.eye(3), *-np.eye(3), *random.normal(size=(6, 3))]
        for distance in 10.0 ** np.arange(0, 13):
            for normal in normals:
                p = vector(distance * random.normal(size=3))
                _times(world, p, vector(normal / np.linalg.norm(normal)), 1, own)
                self.assertAlmostEqual(float(own.times[: len(LAMPS) + 1].sum()), 1, delta=1e-3, msg=str(p))

    def test_a_surround_sends_its_mean(self) -> None:
        """Plain light of radiance 1 sends π to any surface."""
        world = world_of((), light={"lamps": [], "surround": {"kind": "plain", "strength": 0}})
        found = np.zeros(1, np.float32)
        _weights(world, vector(np.zeros(3)), vector(np.array([0.0, 0, 1])), found)
        sky = world.surround.image.mean(axis=(0, 1)) @ (0.2126, 0.7152, 0.0722)
        self.assertAlmostEqual(float(found[0]) / (np.pi * float(sky)), 1, delta=0.01)

    def test_samples_are_shared_out_in_all(self) -> None:
        lights = len(LAMPS) + 1
        world, own = world_of(LAMPS), scratch()
        for p, n in places(40):
            for at_once in (1, 5):
                _times(world, p, n, at_once, own)
                times = own.times[:lights]
                self.assertAlmostEqual(float(times.sum()), at_once, delta=1e-4)
                chosen = times > 0
                self.assertGreaterEqual(times[chosen].min(), 0.99 * at_once * ALIKE / chosen.sum())
            _times(world, p, n, lights, own)
            self.assertTrue((own.times[:lights] == 1).all())

    def test_lights_that_are_off_take_no_samples(self) -> None:
        """Six of them leave the noise of three lights as it is: where all have the same chance, it grows."""
        dark = tuple(lamp(f"off{k}", bearing=50 * k, elevation=40, strength=OFF) for k in range(6))
        spreads, means = [], []
        for lamps in (LAMPS[:2], (*LAMPS[:2], *dark)):
            world = world_of(lamps)
            levels = light_levels(world)
            pictures = []
            for seed in range(12):
                film = Film(WIDTH, HEIGHT, len(levels))
                add_samples(world, film, 4, pool=shared_pool(), seed=seed)
                pictures.append(film.develop(levels))
            means.append(np.mean(pictures))
            spreads.append(np.var(pictures, axis=0).mean())
        self.assertAlmostEqual(means[1] / means[0], 1, delta=0.01)
        self.assertLess(spreads[1] / spreads[0], 1.25)

    def test_many_lights_are_the_same_however_they_are_sampled(self) -> None:
        """Eight lights, some behind what they would light: samples of lights, of surfaces and of both
        come to the same picture."""
        world = world_of(LAMPS)
        levels, means = light_levels(world), []
        for use, samples in ((BOTH, 48), (LAMPS_ONLY, 96), (SURFACE_ONLY, 512)):
            film = Film(WIDTH, HEIGHT, len(levels))
            add_samples(world, film, samples, pool=shared_pool(), rules=PathRules(use_lamps=use))
            # Without the sun and the bulb, which scattered rays all but never meet.
            shares = [film.share(k) * levels[k] for k in (0, 1, 4, 5, 7)]
            letters = film.ground_cover < 0.01
            means.append([[share[where].mean() for share in shares] for where in (letters, ~letters)])
        for other in means[1:]:
            np.testing.assert_allclose(other, means[0], rtol=0.03, atol=1e-4)


if __name__ == "__main__":
    unittest.main()
