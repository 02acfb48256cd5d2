"""Whole scenes against mitsuba 3 (scalar_rgb), from the same meshes and numbers:
benchmarks/peer_scenes.py."""

import unittest
from collections.abc import Callable

import numpy as np
from scipy.ndimage import maximum_filter

from benchmarks.peer_scenes import SCENES, mitsuba_scene, our_picture, our_world

# Independent renders of each side, from which every pixel's own spread is measured.
RENDERS = 12
OURS, THEIRS = 48, 96
# Rare bright samples make the means of few lopsided, which Student's t does not allow for: here
# more are taken.
MORE = {"glow": 3}
# Differences are measured for cells of so many px square: within one the noise of neighbours evens out.
CELL = 3
# At edges the pixel filters differ by so much of the brighter side: mitsuba's is a table of 31 steps.
FILTERED = 0.003


def cells(pictures: list[np.ndarray]) -> np.ndarray:
    """Means over cells (renders, rows, columns, 3)."""
    whole = np.array(pictures, float)
    n, h, w, c = whole.shape
    return whole.reshape(n, h // CELL, CELL, w // CELL, CELL, c).mean(axis=(2, 4))


class PeerTest(unittest.TestCase):
    def compare(self, name: str) -> None:
        """The picture's mean within 1 %, and every cell's difference within the noise of both (Welch's t)."""
        import mitsuba as mi

        mi.set_variant("scalar_rgb")
        peer = next(scene for scene in SCENES if scene.name == name)
        scene, world = our_world(peer)
        loaded = mitsuba_scene(mi, scene, world)
        more = MORE.get(name, 1)
        ours = cells([our_picture(world, OURS * more, seed) for seed in range(RENDERS)])
        theirs = cells(
            [np.array(mi.render(loaded, spp=THEIRS * more, seed=seed + 1)) for seed in range(RENDERS)]
        )
        np.testing.assert_allclose(ours.mean(), theirs.mean(), rtol=0.01)
        spread = (ours.var(axis=0, ddof=1) + theirs.var(axis=0, ddof=1)) / RENDERS
        lit = spread > 1e-12 * theirs.mean() ** 2
        self.assertGreater(lit.sum(), 200)
        filtered = (FILTERED * maximum_filter(theirs.mean(axis=0), size=(3, 3, 1))) ** 2
        t = (ours.mean(axis=0) - theirs.mean(axis=0))[lit] / np.sqrt(spread + filtered)[lit]
        # Student's t of about 2 · 11 degrees of freedom: variance 22/20; beyond 4.5 one in 5 000.
        self.assertLess(float(np.mean(t**2)), 1.35, "differences are over the noise")
        self.assertLess(float(np.mean(np.abs(t) > 4.5)), 0.006)


def _make(name: str) -> Callable[[PeerTest], None]:
    def test(self: PeerTest) -> None:
        self.compare(name)

    test.__doc__ = f"{name}."
    return test


for _scene in SCENES:
    setattr(PeerTest, f"test_{_scene.name.replace(' ', '_')}", _make(_scene.name))


if __name__ == "__main__":
    unittest.main()
