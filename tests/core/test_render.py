"""Hits against Embree, and light transport: threads, sampling, glass, bands."""

import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from unittest.mock import patch

import numpy as np

from halvex.core.finish.orders import DraftOrder, FinalOrder, ProofOrder, RenderError, order_of
from halvex.core.finish.render_piece import render_piece
from halvex.core.kernels import kernel
from halvex.core.optics.vectors import dot
from halvex.core.piece import piece_from_values
from halvex.core.piece.turning import rotation
from halvex.core.piece.view import Turn
from halvex.core.render.assembling import make_world
from halvex.core.render.beams import leaves_in_beam
from halvex.core.render.camera_rays import camera_ray
from halvex.core.render.cover import spread_of_a_pixel
from halvex.core.render.direct import BOTH, LAMPS_ONLY, SURFACE_ONLY
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.hits import FAR, LETTER, SEARCH, first_hit, seen_hit
from halvex.core.render.interaction import surface_at
from halvex.core.render.layers import RenderLayers, develop
from halvex.core.render.path_state import PathRules
from halvex.core.render.shadow import shadow
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World, make_scratch
from halvex.core.scene import Scene, scene_of
from halvex.core.scene.finish import Finish
from tests.core.small_scenes import VIEWS, new_film, small_piece

F = np.float32


def mean_light(world: World, samples: int, backdrop: str = "#24424a", **options: object) -> np.ndarray:
    film = new_film(world)
    add_samples(world, film, samples, pool=shared_pool(), **options)  # type: ignore[arg-type]
    return (
        (film.develop(light_levels(world)) + film.through * Finish(backdrop, 0.0).backdrop_light)
        .reshape(-1, 3)
        .mean(axis=0)
    )


def tumbled(scene: Scene, random: np.random.Generator) -> Scene:
    """The scene with each letter turned and made smaller by itself."""
    instances = []
    for instance in scene.instances:
        turn = rotation(Turn(**dict(zip("xyz", random.uniform(-180, 180, 3), strict=True))))
        matrix = turn * random.uniform(0.5, 0.9)
        points = instance.body.positions @ matrix.T + instance.transform[:, 3]
        transform = np.column_stack([matrix, instance.transform[:, 3]])
        bounds = np.array([points.min(axis=0), points.max(axis=0)])
        instances.append(replace(instance, transform=transform, bounds=bounds))
    return replace(scene, instances=tuple(instances), bodies_key=f"tumbled {random.integers(1 << 60)}")


@kernel
def trace_many(world, origins, directions, far, out, scratch):
    for i in range(origins.shape[0]):
        o = (origins[i, 0], origins[i, 1], origins[i, 2])
        d = (directions[i, 0], directions[i, 1], directions[i, 2])
        hit = first_hit(world, o, d, far, scratch)
        out[i] = hit.t if hit.instance >= 0 else far


@kernel
def meet_many(world, origins, directions, out, scratch):
    """The cosine between each ray and the outward normal of what it meets first; 0 where it meets nothing."""
    for i in range(origins.shape[0]):
        o = (origins[i, 0], origins[i, 1], origins[i, 2])
        d = (directions[i, 0], directions[i, 1], directions[i, 2])
        hit = first_hit(world, o, d, FAR, scratch)
        out[i] = dot(surface_at(world, o, d, hit).ng, d) if hit.kind == LETTER else F(0.0)


@kernel
def share_along(world, o, far, scratch):
    """Share (rgb) of light that comes through the letters along -z."""
    return shadow(world, o, (F(0.0), F(0.0), F(-1.0)), far, False, False, scratch)


@kernel
def seen_both_ways(world, width, rows, spread, scratch, found):
    """Rays through the corners of every pixel's filter, tried against the leaves listed for the
    pixel and by a search. Adds up in found: rays whose hits differ, rays that meet a letter in a
    listed leaf, pixels whose leaves are too many to list."""
    for y in range(rows):
        for x in range(width):
            o, d = camera_ray(world.camera, F(x) + F(0.5), F(y) + F(0.5))
            leaves = leaves_in_beam(world, o, d, spread, scratch)
            if leaves == SEARCH:
                found[2] += 1
                continue
            for corner in range(4):
                px, py = F(0.8) if corner & 1 else F(-0.8), F(0.8) if corner & 2 else F(-0.8)
                o, d = camera_ray(world.camera, F(x) + F(0.5) + px, F(y) + F(0.5) + py)
                hit, found_by_search = (
                    seen_hit(world, o, d, leaves, scratch),
                    first_hit(world, o, d, FAR, scratch),
                )
                kind, t, sought, far = hit.kind, hit.t, found_by_search.kind, found_by_search.t
                # On an edge that two triangles share, either may be met first, by the last digit.
                if kind != sought or abs(t - far) > F(2e-7) * far:
                    found[0] += 1
                elif kind == LETTER:
                    found[1] += 1


class HitTest(unittest.TestCase):
    def test_rows_of_eight_begin_on_lines_of_the_cache(self) -> None:
        """None then lies across two lines: lines are of 64 bytes on processors of today (from
        memory), rows of 32."""
        letters, scratch = make_world(scene_of(small_piece())).letters, make_scratch()
        for rows in (
            letters.place_boxes,
            letters.bodies.boxes,
            letters.bodies.packets,
            scratch.lanes,
            scratch.numbers,
        ):
            self.assertEqual(rows.ctypes.data % 64, 0)

    def test_leaves_of_a_pixel_hold_all_that_its_rays_meet(self) -> None:
        """By a search or by the list, the same distances, from near by and in parallel, before
        nothing and before a floor."""
        two = [
            {"words": "Rg&", "size": 60},
            {"id": "behind", "words": "O", "size": 90, "place": {"z": -30, "turn": {"y": 40}}},
        ]
        for name, view in VIEWS.items():
            with self.subTest(view=name):
                world = make_world(scene_of(small_piece(blocks=two, view=view, backdrop={"ground": "floor"})))
                found = np.zeros(3, np.int64)
                seen_both_ways(world, 160, 90, spread_of_a_pixel(world), make_scratch(), found)
                self.assertEqual(found[0], 0)
                self.assertGreater(found[1], 4000)
                self.assertLess(found[2], 160 * 90 // 2)

    def test_first_hits_are_embrees(self) -> None:
        """Ten million rays against Embree through embreex: the same distance to 1e-4; of letters as they
        are, and of letters that are turned and made smaller one by one."""
        import trimesh
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh

        piece = small_piece(
            backdrop={"ground": "none"},
            blocks=[{"words": "Regatta&", "size": 60, "form": {"bevel": {"profile": "ovolo"}}}],
        )
        rng, met = np.random.default_rng(5), 0
        plain = scene_of(piece)
        for number in range(5):
            scene = plain if number < 3 else tumbled(plain, rng)
            world = make_world(scene)
            corners = np.vstack([(p.positions @ scene.turn.T)[p.body.triangles] for p in scene.instances])
            peer = rtcore_scene.EmbreeScene()
            TriangleMesh(peer, corners.astype(np.float32))
            aims = rng.uniform((-90, -30, -60), (90, 30, 0), (2_000_000, 3))
            origins = (trimesh.unitize(rng.normal(size=aims.shape)) * 600).astype(np.float32)
            directions = trimesh.unitize(aims - origins).astype(np.float32)
            theirs = peer.run(origins, directions, query="DISTANCE")
            mine = np.empty(len(origins), np.float32)
            trace_many(world, origins, directions, F(1e30), mine, make_scratch())
            both = (mine < 1e29) & (theirs < 1e29)
            met += int(both.sum())
            # Rays that graze a silhouette may fall to either side in single precision.
            self.assertLess(np.mean((mine < 1e29) != (theirs < 1e29)), 2e-5)
            self.assertGreater(np.mean(np.abs(mine[both] - theirs[both]) < 1e-4 * theirs[both]), 0.99998)
        self.assertGreater(met, 1_000_000)

    def test_no_ray_slips_through_shared_edges(self) -> None:
        """Rays aimed at edges between triangles that face them meet the body there, or before."""
        import trimesh

        piece = small_piece(
            backdrop={"ground": "none"},
            view={"turn": {}},
            blocks=[{"words": "R", "size": 80, "form": {"bevel": {"profile": "ovolo"}}}],
        )
        scene = scene_of(piece)
        world = make_world(scene)
        placed = scene.instances[0]
        body = trimesh.Trimesh(placed.positions, placed.body.triangles, process=True)
        rng = np.random.default_rng(8)
        faces, edges = body.face_adjacency, body.vertices[body.face_adjacency_edges]
        normals = body.face_normals[faces]
        for _ in range(40):
            share = rng.uniform(0.2, 0.8, (len(edges), 1))  # at its ends an edge may lie on a silhouette
            points = edges[:, 0] * (1 - share) + edges[:, 1] * share
            towards = trimesh.unitize(rng.normal(size=(len(edges), 3)))
            facing = (np.einsum("efi,ei->ef", normals, towards) > 0.05).all(axis=1)
            origins = (points + towards * 300)[facing].astype(np.float32)
            directions = trimesh.unitize(points[facing] - origins).astype(np.float32)
            out = np.empty(len(origins), np.float32)
            trace_many(world, origins, directions, F(1e30), out, make_scratch())
            self.assertTrue((out < np.linalg.norm(points[facing] - origins, axis=1) + 0.01).all())

    def test_no_ray_slips_through_a_closed_body(self) -> None:
        """What a ray from outside meets first, it meets from outside, along axes and from all sides. A ray
        that slipped through a seam would meet a wall from within."""
        scene = scene_of(
            small_piece(backdrop={"ground": "none"}, view={"turn": {}}, blocks=[{"words": "I", "size": 80}])
        )
        world, body = make_world(scene), scene.instances[0]
        random = np.random.default_rng(4)
        low, high = body.bounds
        aims = random.uniform(low, high, (400_000, 3))
        ways = random.normal(size=aims.shape)
        axes = np.vstack([np.eye(3), -np.eye(3)])
        ways[:100_000] = axes[random.integers(0, 6, 100_000)]
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        cosines = np.empty(len(aims), np.float32)
        meet_many(
            world, (aims - 500 * ways).astype(np.float32), ways.astype(np.float32), cosines, make_scratch()
        )
        self.assertGreater(float((cosines < 0).mean()), 0.5, "rays that meet it")
        # A ray that grazes a silhouette to the last digit may see either side of it.
        self.assertLess(float((cosines > 1e-5).mean()), 1e-5)


class TransportTest(unittest.TestCase):
    def test_any_number_of_threads_gives_the_same_bytes(self) -> None:
        piece = small_piece(
            blocks=[
                {
                    "words": "Re",
                    "size": 80,
                    "surface": {"face": {"kind": "glass"}, "return": {"kind": "plastic"}},
                }
            ]
        )
        pictures = []
        for threads in (1, 2, 4):
            with ThreadPoolExecutor(threads) as pool:
                pictures.append(render_piece(piece, FinalOrder(samples=3), pool=pool).display)
        self.assertEqual(pictures[0].tobytes(), pictures[1].tobytes())
        self.assertEqual(pictures[0].tobytes(), pictures[2].tobytes())

    def test_another_seed_is_another_noise_of_the_same_picture(self) -> None:
        world = make_world(scene_of(small_piece()))
        one, other = (mean_light(world, 64, seed=s) for s in (0, 1))
        self.assertFalse(np.array_equal(one, other))
        np.testing.assert_allclose(one, other, rtol=0.01)

    def test_lamp_and_surface_sampling_agree(self) -> None:
        """Veach & Guibas 1995: both converge to the same picture, and so does their combination."""
        piece = small_piece(
            light={"lamps": [{"kind": "softbox", "width": 1600, "height": 1600, "distance": 900}]},
            blocks=[
                {
                    "words": "Re",
                    "size": 80,
                    "surface": {"face": {"kind": "metal", "roughness": 0.6}, "return": {"kind": "plastic"}},
                }
            ],
        )
        world = make_world(scene_of(piece))
        both, lamps, surface = (
            mean_light(world, n, rules=PathRules(use_lamps=use, caustic_alpha=F(0.0)))
            for use, n in ((BOTH, 128), (LAMPS_ONLY, 256), (SURFACE_ONLY, 1024))
        )
        np.testing.assert_allclose(lamps, both, rtol=0.01)
        np.testing.assert_allclose(surface, both, rtol=0.01)

    def test_a_white_body_vanishes_in_a_furnace(self) -> None:
        """Albedo 1 in a uniform surround returns 1 everywhere (Heitz 2014)."""
        piece = small_piece(
            light={"lamps": [], "surround": {"kind": "plain", "strength": 0}},
            backdrop={"ground": "none", "colour": "#000000"},
            blocks=[
                {
                    "words": "I",
                    "size": 90,
                    "surface": {"face": {"kind": "plastic", "colour": "#ffffff", "roughness": 0.7}},
                }
            ],
        )
        world = make_world(scene_of(piece))
        film = new_film(world)
        add_samples(world, film, 128, pool=shared_pool(), rules=PathRules(caustic_alpha=F(0.0)))
        whole = film.through[..., 0] == 0
        self.assertAlmostEqual(float(film.develop(light_levels(world))[whole].mean()), 1.0, delta=0.02)

    def test_light_dims_along_glass_by_beer_and_lambert(self) -> None:
        """A slab 50 px deep seen square on: T = (1-R)² e^(-σd) / (1 - R² e^(-2σd)), σ from the tint."""
        piece = piece_from_values(
            {
                "canvas": {"width": 64, "height": 64},
                "blocks": [
                    {
                        "words": "I",
                        "typeface": "archivo-black",
                        "size": 400,
                        "form": {"depth": 50, "bevel": {"width": 0, "height": 0}},
                        "surface": {
                            "face": {"kind": "glass", "index": 1.5, "tint": "#808080", "tint_depth": 50}
                        },
                    }
                ],
                "view": {"projection": "parallel"},
                "light": {"lamps": [], "surround": {"strength": -30}},
                "backdrop": {"ground": "none", "colour": "#ffffff"},
            }
        )
        world = make_world(scene_of(piece))
        film = new_film(world, 64, 64)
        add_samples(world, film, 256, pool=shared_pool())
        tint, r = ((0x80 / 255 + 0.055) / 1.055) ** 2.4, 0.04
        expected = (1 - r) ** 2 * tint / (1 - r**2 * tint**2)
        self.assertAlmostEqual(float(film.through[24:40, 24:40].mean()), expected, delta=0.01)

    def test_light_dims_along_a_shadow_ray_by_walls_and_way(self) -> None:
        """Two slabs square on, 20 and 30 px deep: (1-R) for each wall, e^(-σd) for the way inside,
        wherever the ray begins and ends."""
        glass = {"face": {"kind": "glass", "index": 1.5, "tint": "#808080", "tint_depth": 50}}
        slab = {"kind": "shape", "shape": "rectangle", "width": 400, "height": 400, "surface": glass}
        flat = {"width": 0, "height": 0}
        near = {"id": "near", **slab, "form": {"depth": 20, "bevel": flat}}
        far = {"id": "far", **slab, "form": {"depth": 30, "bevel": flat}, "place": {"z": -100}}
        tint, r = ((0x80 / 255 + 0.055) / 1.055) ** 2.4, 0.04
        for blocks in ([near, far], [far, near]):
            world = make_world(scene_of(small_piece(blocks=blocks, view={}, backdrop={"ground": "none"})))
            for begin, end, walls, inside in (
                (50, -200, 4, 50),
                (50, -110, 3, 30),
                (-10, -60, 1, 10),
                (-50, -105, 1, 5),
            ):
                with self.subTest(begin=begin, end=end):
                    share = share_along(world, (F(3), F(7), F(begin)), F(begin - end), make_scratch())
                    self.assertAlmostEqual(share[0], (1 - r) ** walls * tint ** (inside / 50), delta=2e-3)

    def test_a_shadow_of_glass_is_tinted_light(self) -> None:
        """The wall behind red glass is lit red, and not left black."""
        glass = {"face": {"kind": "glass", "tint": "#ff4040", "tint_depth": 10}}
        world = make_world(
            scene_of(
                small_piece(
                    blocks=[{"words": "I", "size": 90, "surface": glass}], backdrop={"colour": "#ffffff"}
                )
            )
        )
        film = new_film(world)
        add_samples(world, film, 64, pool=shared_pool())
        wall = film.develop(light_levels(world))[film.ground_cover > 0.99]
        shaded = film.shade[film.ground_cover > 0.99] < 0.8
        self.assertGreater(shaded.sum(), 50)
        shadow = wall[shaded].mean(axis=0)
        self.assertGreater(shadow[0], 1.5 * shadow[1])
        self.assertGreater(shadow[0], 0.1 * wall[~shaded].mean(axis=0)[0])

    def test_what_glows_lights_what_is_near(self) -> None:
        """A wall behind a glowing letter, with no other light; more strength is as much more light."""
        means = []
        for strength in (0, 1):
            glow = {"face": {"kind": "glow", "colour": "#ff5a36", "strength": strength}}
            world = make_world(
                scene_of(
                    small_piece(
                        blocks=[{"words": "I", "size": 60, "surface": glow}],
                        light={"lamps": [], "surround": {"strength": -30}},
                    )
                )
            )
            film = new_film(world)
            add_samples(world, film, 64, pool=shared_pool())
            means.append(film.develop(light_levels(world))[film.ground_cover > 0.99].mean(axis=0))
        self.assertGreater(means[0][0], 2 * means[0][2], "red light")
        np.testing.assert_allclose(means[1] / means[0], 2.0, rtol=0.02)

    def test_a_flat_face_is_shown_as_picked_under_any_light(self) -> None:
        flat = {"face": {"kind": "flat", "colour": "#3080c0"}}
        piece = small_piece(blocks=[{"words": "I", "size": 90, "surface": flat}], light={"exposure": 1.5})
        for order in (DraftOrder(), ProofOrder(samples=8)):
            display = render_piece(piece, order).display
            shown = np.abs(display * 255 - [0x30, 0x80, 0xC0]).max(axis=2) < 2.5
            self.assertGreater(shown.sum(), 300, order)

    def test_many_lamps_are_as_bright_together_as_one_by_one(self) -> None:
        """Twelve lamps are chosen from; one world for each adds up to the same."""
        lamps = [
            {"id": f"l{n}", "bearing": 30 * n, "elevation": 20 + 5 * n, "strength": -2} for n in range(12)
        ]
        dark = {"kind": "plain", "strength": -30}
        whole = mean_light(
            make_world(
                scene_of(
                    small_piece(light={"lamps": lamps, "surround": dark}, backdrop={"colour": "#808080"})
                )
            ),
            128,
        )
        apart = sum(
            mean_light(
                make_world(
                    scene_of(
                        small_piece(light={"lamps": [lamp], "surround": dark}, backdrop={"colour": "#808080"})
                    )
                ),
                64,
            )
            for lamp in lamps
        )
        np.testing.assert_allclose(whole, apart, rtol=0.02)

    def test_bands_of_a_large_picture_leave_no_seam(self) -> None:
        """A picture made in bands, each going on from what the one above has of its margin, against
        the same in one piece: the very samples, and denoised alike up to the row where bands
        meet."""
        piece = small_piece(canvas={"width": 120, "height": 250})
        taken: list[Film] = []

        def kept(film: Film, *given: object, **named: object) -> RenderLayers:
            taken.append(film)
            return develop(film, *given, **named)  # type: ignore[arg-type]

        pictures = []
        for band_px in (120 * 250, 120 * 100):
            with (
                patch("halvex.core.finish.render_piece.BAND_PX", band_px),
                patch("halvex.core.finish.render_piece.develop", kept),
            ):
                pictures.append(render_piece(piece, FinalOrder(samples=8)))
        whole, *bands = taken
        self.assertEqual([(band.first_row, band.rows) for band in bands], [(0, 148), (52, 196), (152, 98)])
        for band in bands:
            rows = slice(band.first_row, band.first_row + band.rows)
            np.testing.assert_array_equal(band.counts, whole.counts[rows])
            np.testing.assert_array_equal(band.sums, whole.sums[rows])
        apart = np.abs(pictures[0].display - pictures[1].display)
        self.assertLess(float(apart.mean()), 1 / 255)
        self.assertLess(float(apart[[99, 100, 199, 200]].max()), 6 / 255)

    def test_transparent_pictures_keep_the_shadow(self) -> None:
        picture = render_piece(small_piece(), FinalOrder(width=160, samples=16, transparent=True))
        assert picture.alpha is not None
        self.assertGreater(picture.alpha.max(), 0.99)
        self.assertLess(np.median(picture.alpha[:6]), 0.1)
        half = (picture.alpha > 0.2) & (picture.alpha < 0.9)
        self.assertGreater(half.sum(), 20, "a shadow lies beside the letters")

    def test_orders_that_cannot_be_met_are_explained(self) -> None:
        for order, field in (
            (FinalOrder(width=100_000), "width"),
            (FinalOrder(height=0), "height"),
            (FinalOrder(samples=0), "samples"),
        ):
            with self.assertRaises(RenderError) as caught:
                render_piece(small_piece(), order)
            self.assertEqual(caught.exception.field, field)
        options = {"samples": 8, "seed": 3, "transparent": True, "layers": True, "frame": 2}
        for name, value in options.items():
            with self.subTest(name), self.assertRaises(RenderError) as caught:
                order_of("draft", **{name: value})
            self.assertEqual(caught.exception.field, name)
            self.assertIn("proof or final", caught.exception.remedy)
        self.assertEqual(order_of("draft", width=9, samples=None, seed=0, layers=False), DraftOrder(width=9))

    def test_a_draft_looks_like_the_picture(self) -> None:
        """Mean brightness of draft and converged picture within a tenth: the draft does not lie."""
        piece = small_piece()
        draft = render_piece(piece, DraftOrder(width=160)).display
        final = render_piece(piece, FinalOrder(width=160, samples=64, layers=True))
        np.testing.assert_allclose(draft.mean(axis=(0, 1)), final.display.mean(axis=(0, 1)), rtol=0.12)
        assert final.layers is not None
        for part in ("face", "bevel", "return", "ground"):
            with self.subTest(part=part):
                seen = final.layers[f"mask.{part}"] > 0.99
                self.assertGreater(int(seen.sum()), 20)
                mean = final.display[seen].mean(axis=0)
                np.testing.assert_allclose(draft[seen].mean(axis=0), mean, rtol=0.2, atol=0.04)


if __name__ == "__main__":
    unittest.main()
