"""Rays in single precision: no surface shades itself, at any size and in any projection."""

import unittest
from collections.abc import Iterator

import numpy as np
from scipy.ndimage import binary_erosion

from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.kernels import helper, kernel
from halvex.core.optics.scattering import cosine_sample
from halvex.core.optics.vectors import F, basis, to_world
from halvex.core.piece import Piece, piece_from_values
from halvex.core.render import channels
from halvex.core.render.assembling import make_world
from halvex.core.render.direct import SURFACE_ONLY
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.hits import FAR, LETTER, Hit, first_hit
from halvex.core.render.interaction import offset_from, surface_at
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import scratch, shared_pool
from halvex.core.render.world import World
from halvex.core.scene import Scene, scene_of
from halvex.core.solids.mesh import PartOf

SIDES_PX = (60, 1280, 8000, 32_768)
VIEWS: dict[str, dict[str, object]] = {
    "central": {},
    "central, turned": {"turn": {"x": -20, "y": 35, "z": 5}},
    "parallel": {"projection": "parallel"},
    "parallel, turned": {"projection": "parallel", "turn": {"x": 35.26, "y": 45}},
    "oblique": {"projection": "oblique"},
}
WIDTH = 160
# Of float32 sums of a few samples.
EVEN = 1e-5


def plate(side: int, view: dict[str, object], **backdrop: object) -> Piece:
    """A matte plate with a chamfer under light that is the same from everywhere, on a canvas of this side."""
    form = {"depth": side / 20, "bevel": {"width": side / 50, "height": side / 50}}
    height = min(side // 2, 6000)
    return piece_from_values(
        {
            "canvas": {"width": side, "height": height},
            "blocks": [
                {
                    "kind": "shape",
                    "shape": "rectangle",
                    "width": min(0.7 * side, 20_000),
                    "height": 0.6 * height,
                    "place": {"x": side / 16, "y": -height / 16},
                    "form": form,
                    "surface": {"face": {"kind": "plaster", "colour": "#808080", "relief": 0}},
                }
            ],
            "view": view,
            "light": {"lamps": [], "surround": {"kind": "plain"}},
            "backdrop": {"ground": "none", **backdrop},
        }
    )


def whole_faces(film: Film) -> np.ndarray:
    """(rows, width) the pixels around which every sample met a face."""
    return binary_erosion(film.sums[..., channels.PART_COVER + PartOf.FACE] == film.counts)


@helper
def _random(state):
    """(a number in [0, 1), the next state) of a linear congruential generator (Knuth's constants
    for 64 bits)."""
    state = state * np.uint64(6364136223846793005) + np.uint64(1442695040888963407)
    return F(state >> np.uint64(40)) * F(2.0**-24), state


@kernel
def self_hits(world, count, seed, scratch):
    """(rays that left a triangle, rays among them that met it again): count rays from random
    triangles into random directions."""
    left = again = 0
    state = np.uint64(seed)
    spans = world.letters.span
    for _ in range(count):
        u1, state = _random(state)
        u2, state = _random(state)
        u3, state = _random(state)
        instance = min(int(u1 * F(spans.shape[0])), spans.shape[0] - 1)
        begin, end = spans[instance, 0], spans[instance, 1]
        tri = min(begin + int(u2 * F(end - begin)), end - 1)
        u4, state = _random(state)
        b1, b2 = (u3, u4) if u3 + u4 <= F(1.0) else (F(1.0) - u3, F(1.0) - u4)
        up = (F(0.0), F(0.0), F(1.0))
        si = surface_at(
            world, up, up, Hit(np.int32(LETTER), F(0.0), np.int32(instance), np.int32(tri), b1, b2)
        )
        p, ng = si.p, si.ng
        u5, state = _random(state)
        u6, state = _random(state)
        s, t = basis(ng)
        d = to_world(cosine_sample(u5, u6), s, t, ng)
        hit = first_hit(world, offset_from(world, p, ng, d), d, FAR, scratch)
        left += 1
        if hit.kind == LETTER and hit.instance == instance and hit.triangle == tri:
            again += 1
    return left, again


def scene_for(piece: Piece, width: int = WIDTH) -> Scene:
    return scene_of(piece, px_scale=width / piece.canvas.width)


def world_of(piece: Piece, width: int = WIDTH) -> World:
    return make_world(scene_for(piece, width))


def film_of(piece: Piece, world: World) -> Film:
    return Film(WIDTH, round(WIDTH * piece.canvas.height / piece.canvas.width), len(light_levels(world)))


def every_plate(**backdrop: object) -> Iterator[tuple[str, Piece]]:
    for side in SIDES_PX:
        for name, view in VIEWS.items():
            yield f"{side} px, {name}", plate(side, view, **backdrop)


class PrecisionTest(unittest.TestCase):
    def test_a_matte_face_under_an_even_sky_is_even(self) -> None:
        for name, piece in every_plate():
            world = world_of(piece)
            film = film_of(piece, world)
            add_samples(world, film, 8, pool=shared_pool(), rules=PathRules(use_lamps=SURFACE_ONLY))
            light = film.develop(light_levels(world))[whole_faces(film)]
            self.assertGreater(len(light), 200, name)
            self.assertLess(float(np.ptp(light)), EVEN * float(light.max()), name)

    def test_a_draft_of_it_is_even_too(self) -> None:
        for name, piece in every_plate():
            world = world_of(piece)
            film = film_of(piece, world)
            add_samples(world, film, 2, pool=shared_pool(), rules=PathRules(use_lamps=SURFACE_ONLY))
            light = (
                Sketcher()
                .draw(scene_for(piece), WIDTH, film.rows, pool=shared_pool())
                .light[whole_faces(film)]
            )
            self.assertLess(float(np.ptp(light)), 1e-3 * float(light.max()), name)

    def test_ground_without_letters_near_is_even(self) -> None:
        for name, piece in every_plate(ground="wall", gap=50_000, colour="#808080"):
            picture = render_piece(piece, DraftOrder(width=WIDTH)).linear
            corner = picture[: WIDTH // 16, : WIDTH // 16]
            self.assertLess(float(np.ptp(corner)), 5e-3 * float(corner.max()), name)

    def test_no_ray_meets_the_triangle_it_left(self) -> None:
        """Ten million rays over bodies of all sizes and places."""
        words = {"words": "Rg", "form": {"depth": 60, "bevel": {"profile": "ovolo", "width": 9, "height": 9}}}
        bodies = [
            {
                "canvas": {"width": 60, "height": 30},
                "blocks": [
                    {**words, "size": 20, "form": {"depth": 4, "bevel": {"width": 0.4, "height": 0.4}}}
                ],
            },
            {"blocks": [{**words, "size": 300}], "view": {"turn": {"x": -12, "y": 31}}},
            {
                "canvas": {"width": 32_768, "height": 6000},
                "blocks": [{**words, "size": 5000, "place": {"x": -12_000}}],
                "view": {"turn": {"y": 40}},
            },
            {"blocks": [{**words, "size": 90, "place": {"x": 90_000, "y": -40_000, "z": 300}}]},
            {
                "blocks": [{**words, "size": 200, "form": {"kind": "tube"}, "place": {"x": 5000}}],
                "view": {"turn": {"z": 17}},
            },
        ]
        for number, values in enumerate(bodies):
            left, again = self_hits(
                make_world(scene_of(piece_from_values(values))), 2_000_000, number + 1, scratch()
            )
            self.assertEqual(left, 2_000_000)
            self.assertEqual(again, 0, values)


if __name__ == "__main__":
    unittest.main()
