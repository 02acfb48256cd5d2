"""Hits against Embree, and light transport: threads, sampling, glass, layers, noise."""

import unittest
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from itertools import product
from unittest.mock import patch

import numpy as np

from halvex.core.finish.layers import layers_of
from halvex.core.finish.picture import Picture, finish_film, relit
from halvex.core.finish.render_piece import Order, RenderError, render_piece
from halvex.core.optics.tone import to_display
from halvex.core.optics.vectors import kernel
from halvex.core.piece import Piece, piece_from_values
from halvex.core.render.cover import spread_of_a_pixel
from halvex.core.render.draft.raster import can_draw
from halvex.core.render.draft.sketch import Sketcher, see_surfaces
from halvex.core.render.draft.surfaces import MATERIAL, SURFACE_CHANNELS
from halvex.core.render.film import Film, add_samples, add_until, add_where_noisy, light_levels
from halvex.core.render.hits import FAR, LETTER, SEARCH, camera_ray, first_hit, leaves_in_beam, seen_hit
from halvex.core.render.path import BOTH, LAMPS_ONLY, SURFACE_ONLY
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World, make_scratch, make_world
from halvex.core.scene import build_scene
from halvex.core.scene.camera import lettering_to_picture

F = np.float32


def small_piece(**changes: object) -> Piece:
    values: dict[str, object] = {
        "canvas": {"width": 160, "height": 90},
        "blocks": [{"words": "Re", "size": 80, "form": {"depth": 20, "bevel": {"width": 3, "height": 3}}}],
        "view": {"turn": {"x": -8, "y": -20}},
        **changes,
    }
    return piece_from_values(values)


def new_film(world: World, width: int = 160, height: int = 90) -> Film:
    return Film(width, height, len(light_levels(world)))


def mean_light(world: World, samples: int, **options: object) -> np.ndarray:
    film = new_film(world)
    add_samples(world, film, samples, pool=shared_pool(), **options)  # type: ignore[arg-type]
    return (film.develop(light_levels(world)) + film.through * world.backdrop).reshape(-1, 3).mean(axis=0)


@kernel
def trace_many(world, origins, directions, far, out, scratch):
    for i in range(origins.shape[0]):
        o = (origins[i, 0], origins[i, 1], origins[i, 2])
        d = (directions[i, 0], directions[i, 1], directions[i, 2])
        _, t, place, _, _, _ = first_hit(world, o, d, far, scratch)
        out[i] = t if place >= 0 else far


class DraftTest(unittest.TestCase):
    LAMPS = ({"id": "key", "strength": 1}, {"id": "fill", "bearing": -20, "strength": -2})

    def drawn(self, sketcher: Sketcher, lamps: object, surround: object = "studio", exposure: float = 0) -> np.ndarray:
        glass = {"words": "e", "size": 60, "place": {"x": 50}, "surface": {"face": {"kind": "glass"}}}
        blocks = [{"words": "R", "size": 80, "surface": {"face": {"kind": "metal"}}}, {"id": "glass", **glass}]
        piece = small_piece(blocks=blocks, light={"lamps": lamps, "surround": {"kind": surround}, "exposure": exposure})
        return sketcher.draw(piece, make_world(build_scene(piece)), 160, 90, pool=shared_pool())

    def test_a_lamp_at_another_level_needs_no_new_draft(self) -> None:
        """Colour and strength of one lamp, again and again: what a fresh sketcher draws, to rounding."""
        key, fill = self.LAMPS
        sketcher = Sketcher()
        self.drawn(sketcher, [key, fill])
        for change in ({"strength": 3}, {"strength": -8}, {"strength": 2, "colour": "#ff4020"}, {"strength": 1}):
            with self.subTest(change=change):
                lamps = [{**key, **change}, fill]
                fresh = self.drawn(Sketcher(), lamps)
                np.testing.assert_allclose(self.drawn(sketcher, lamps), fresh, rtol=1e-3, atol=1e-4)

    def test_what_is_kept_of_a_draft_never_outlives_its_cause(self) -> None:
        """Both lamps at once, another place, another surround, another exposure: drawn anew."""
        key, fill = self.LAMPS
        sketcher = Sketcher()
        for lamps, surround, exposure in (
            ([key, fill], "studio", 0.0),
            ([{**key, "strength": 0}, {**fill, "strength": 0}], "studio", 0.0),
            ([{**key, "bearing": 10, "strength": 0}, fill], "studio", 0.0),
            ([{**key, "bearing": 10}, fill], "dusk", 0.0),
            ([{**key, "bearing": 10}, fill], "dusk", 1.0),
            ([fill], "dusk", 1.0),
        ):
            with self.subTest(lamps=lamps, surround=surround, exposure=exposure):
                fresh = self.drawn(Sketcher(), lamps, surround, exposure)
                np.testing.assert_allclose(self.drawn(sketcher, lamps, surround, exposure), fresh, rtol=1e-3, atol=1e-4)

    def test_the_ground_is_lit_anew_when_letters_begin_to_shine(self) -> None:
        """Other materials leave the kept light of the ground as it is; one that glows does not."""
        sketcher = Sketcher()
        for surface in ({"kind": "metal"}, {"kind": "plastic"}, {"kind": "glow", "strength": 2}, {"kind": "glow", "strength": 0}, {"kind": "metal"}):
            for colour in ("#203040", "#a03020"):
                with self.subTest(surface=surface, colour=colour):
                    block = {"words": "Re", "size": 80, "surface": {"face": surface}}
                    piece = small_piece(blocks=[block], backdrop={"colour": colour})
                    world = make_world(build_scene(piece))
                    kept, fresh = (one.draw(piece, world, 160, 90, pool=shared_pool()) for one in (sketcher, Sketcher()))
                    np.testing.assert_allclose(kept, fresh, rtol=1e-3, atol=1e-4)


class DrawnSurfacesTest(unittest.TestCase):
    """Letters drawn by projecting their triangles, against a ray through the middle of every pixel."""

    VIEWS: Mapping[str, Mapping[str, object]] = {
        "central": {"turn": {"x": -8, "y": -20}},
        "from near by, shifted": {"turn": {"x": 35, "y": 50, "z": 15}, "focal_length": 18, "shift_x": 20, "zoom": 1.4},
        "from behind": {"turn": {"y": 165}},
        "parallel": {"turn": {"x": -25, "y": 30}, "projection": "parallel"},
        "oblique": {"projection": "oblique"},
    }

    def can_draw(self, world: World, covered: int) -> bool:
        return can_draw(world, lettering_to_picture(world.camera, world.turn), covered)

    def surfaces(self, world: World, drawn: bool) -> np.ndarray:
        found = np.zeros((90, 160, SURFACE_CHANNELS), np.float32)
        with patch("halvex.core.render.draft.sketch.can_draw", return_value=drawn):
            see_surfaces(world, found, shared_pool(), lambda: False)
        return found

    def test_drawn_letters_are_the_traced_ones(self) -> None:
        """Every pixel the same material; its point within a twentieth of a px, its normals within two degrees."""
        two = [{"words": "Rg&", "size": 60}, {"id": "behind", "words": "O", "size": 90, "place": {"z": -30, "turn": {"y": 40}}}]
        for name, view in self.VIEWS.items():
            for ground in ("wall", "floor"):
                with self.subTest(view=name, ground=ground):
                    world = make_world(build_scene(small_piece(blocks=two, view=view, backdrop={"ground": ground})))
                    drawn, traced = self.surfaces(world, True), self.surfaces(world, False)
                    # A pixel whose middle lies on a silhouette to the last digit may go either way.
                    self.assertLessEqual(int((drawn[..., MATERIAL] != traced[..., MATERIAL]).sum()), 2)
                    self.assertGreater(int((traced[..., MATERIAL] != world.ground.material).sum()), 800)
                    alike = drawn[..., MATERIAL] == traced[..., MATERIAL]
                    apart = np.abs(drawn - traced)[alike & (traced[..., MATERIAL] >= 0)]
                    self.assertGreater(float((apart[:, :3].max(axis=1) < 0.05).mean()), 0.999)
                    self.assertGreater(float((apart[:, 3:9].max(axis=1) < 0.035).mean()), 0.999)

    def test_letters_about_the_eye_are_traced(self) -> None:
        """What reaches the plane of the eye cannot be projected; the piece is drawn all the same."""
        self.assertTrue(self.can_draw(make_world(build_scene(small_piece())), 160 * 90))
        for place in (215, 400):
            near = {"words": "Re", "size": 80, "place": {"z": place}, "form": {"depth": 60}}
            piece = small_piece(blocks=[near, {"id": "far", "words": "Re", "size": 40}])
            world = make_world(build_scene(piece))
            self.assertFalse(self.can_draw(world, 160 * 90))
            self.assertTrue(np.isfinite(Sketcher().draw(piece, world, 160, 90, pool=shared_pool())).all())

    def test_too_many_triangles_are_traced(self) -> None:
        world = make_world(build_scene(small_piece()))
        self.assertFalse(self.can_draw(world, 10))


@kernel
def seen_both_ways(world, width, rows, spread, scratch, found):
    """Rays through the corners of every pixel's filter, tried against the leaves listed for the pixel and by a search. Adds up in
    found: rays whose hits differ, rays that meet a letter in a listed leaf, pixels whose leaves are too many to list."""
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
                kind, t, _, _, _, _ = seen_hit(world, o, d, leaves, scratch)
                sought, far, _, _, _, _ = first_hit(world, o, d, FAR, scratch)
                # On an edge that two triangles share, either may be met first, by the last digit.
                if kind != sought or abs(t - far) > F(2e-7) * far:
                    found[0] += 1
                elif kind == LETTER:
                    found[1] += 1


class HitTest(unittest.TestCase):
    def test_leaves_of_a_pixel_hold_all_that_its_rays_meet(self) -> None:
        """By a search or by the list, the same distances, from near by and in parallel, before nothing and before a floor."""
        two = [{"words": "Rg&", "size": 60}, {"id": "behind", "words": "O", "size": 90, "place": {"z": -30, "turn": {"y": 40}}}]
        for name, view in DrawnSurfacesTest.VIEWS.items():
            with self.subTest(view=name):
                world = make_world(build_scene(small_piece(blocks=two, view=view, backdrop={"ground": "floor"})))
                found = np.zeros(3, np.int64)
                seen_both_ways(world, 160, 90, spread_of_a_pixel(world), make_scratch(), found)
                self.assertEqual(found[0], 0)
                self.assertGreater(found[1], 4000)
                self.assertLess(found[2], 160 * 90 // 2)

    def test_first_hits_are_embrees(self) -> None:
        """Ten million rays against Embree through embreex: the same distance to 1e-4."""
        import trimesh
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh

        piece = small_piece(backdrop={"ground": "none"}, blocks=[{"words": "Regatta&", "size": 60, "form": {"bevel": {"profile": "ovolo"}}}])
        scene = build_scene(piece)
        world = make_world(scene)
        corners = np.vstack([((p.body.positions.astype(np.float32) + np.float32(p.offset)) @ scene.turn.T)[p.body.triangles] for p in scene.placements])
        peer = rtcore_scene.EmbreeScene()
        TriangleMesh(peer, corners.astype(np.float32))
        rng, met = np.random.default_rng(5), 0
        for _ in range(5):
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

        piece = small_piece(backdrop={"ground": "none"}, view={"turn": {}}, blocks=[{"words": "R", "size": 80, "form": {"bevel": {"profile": "ovolo"}}}])
        scene = build_scene(piece)
        world = make_world(scene)
        placed = scene.placements[0]
        body = trimesh.Trimesh(placed.body.positions + placed.offset, placed.body.triangles, process=True)
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
        """Rays through a letter meet it from outside first, from every side, along edges and axes."""
        world = make_world(build_scene(small_piece(backdrop={"ground": "none"}, view={"turn": {}}, blocks=[{"words": "I", "size": 80}])))
        low = world.letters.corners.reshape(-1, 3).min(axis=0) + world.letters.offset[0]
        high = world.letters.corners.reshape(-1, 3).max(axis=0) + world.letters.offset[0]
        across = np.linspace(low[1] + 1, high[1] - 1, 2001)
        origins = np.column_stack([np.full(2001, -500.0), across, np.full(2001, -30.0)]).astype(np.float32)
        out = np.empty(2001, np.float32)
        trace_many(world, origins, np.tile(F([1, 0, 0]), (2001, 1)), F(1e30), out, make_scratch())
        self.assertTrue((out < 1000).all())


class TransportTest(unittest.TestCase):
    def test_any_number_of_threads_gives_the_same_bytes(self) -> None:
        piece = small_piece(blocks=[{"words": "Re", "size": 80, "surface": {"face": {"kind": "glass"}, "return": {"kind": "plastic"}}}])
        pictures = []
        for threads in (1, 2, 4):
            with ThreadPoolExecutor(threads) as pool:
                pictures.append(render_piece(piece, Order(samples=3), pool=pool).display)
        self.assertEqual(pictures[0].tobytes(), pictures[1].tobytes())
        self.assertEqual(pictures[0].tobytes(), pictures[2].tobytes())

    def test_another_seed_is_another_noise_of_the_same_picture(self) -> None:
        world = make_world(build_scene(small_piece()))
        one, other = (mean_light(world, 64, seed=s) for s in (0, 1))
        self.assertFalse(np.array_equal(one, other))
        np.testing.assert_allclose(one, other, rtol=0.01)

    def test_lamp_and_surface_sampling_agree(self) -> None:
        """Veach & Guibas 1995: both converge to the same picture, and so does their combination."""
        piece = small_piece(
            light={"lamps": [{"kind": "softbox", "width": 1600, "height": 1600, "distance": 900}]},
            blocks=[{"words": "Re", "size": 80, "surface": {"face": {"kind": "metal", "roughness": 0.6}, "return": {"kind": "plastic"}}}],
        )
        world = make_world(build_scene(piece))
        both, lamps, surface = (mean_light(world, n, use_lamps=use, caustic_alpha=0.0) for use, n in ((BOTH, 128), (LAMPS_ONLY, 256), (SURFACE_ONLY, 1024)))
        np.testing.assert_allclose(lamps, both, rtol=0.01)
        np.testing.assert_allclose(surface, both, rtol=0.01)

    def test_a_white_body_vanishes_in_a_furnace(self) -> None:
        """Albedo 1 in a uniform surround returns 1 everywhere (Heitz 2014)."""
        piece = small_piece(
            light={"lamps": [], "surround": {"kind": "plain", "strength": 0}},
            backdrop={"ground": "none", "colour": "#000000"},
            blocks=[{"words": "I", "size": 90, "surface": {"face": {"kind": "plastic", "colour": "#ffffff", "roughness": 0.7}}}],
        )
        world = make_world(build_scene(piece))
        film = new_film(world)
        add_samples(world, film, 128, pool=shared_pool(), caustic_alpha=0.0)
        whole = film.through[..., 0] == 0
        self.assertAlmostEqual(float(film.develop(light_levels(world))[whole].mean()), 1.0, delta=0.02)

    def test_light_dims_along_glass_by_beer_and_lambert(self) -> None:
        """A slab 50 px deep seen square on: T = (1-R)² e^(-σd) / (1 - R² e^(-2σd)), σ from the tint."""
        piece = piece_from_values(
            {
                "canvas": {"width": 64, "height": 64},
                "blocks": [
                    {"words": "I", "typeface": "archivo-black", "size": 400, "form": {"depth": 50, "bevel": {"width": 0, "height": 0}},
                     "surface": {"face": {"kind": "glass", "index": 1.5, "tint": "#808080", "tint_depth": 50}}}
                ],
                "view": {"projection": "parallel"},
                "light": {"lamps": [], "surround": {"strength": -30}},
                "backdrop": {"ground": "none", "colour": "#ffffff"},
            }
        )  # fmt: skip
        world = make_world(build_scene(piece))
        film = new_film(world, 64, 64)
        add_samples(world, film, 256, pool=shared_pool())
        tint, r = ((0x80 / 255 + 0.055) / 1.055) ** 2.4, 0.04
        expected = (1 - r) ** 2 * tint / (1 - r**2 * tint**2)
        self.assertAlmostEqual(float(film.through[24:40, 24:40].mean()), expected, delta=0.01)

    def test_a_shadow_of_glass_is_tinted_light(self) -> None:
        """The wall behind red glass is lit red, and not left black."""
        glass = {"face": {"kind": "glass", "tint": "#ff4040", "tint_depth": 10}}
        world = make_world(build_scene(small_piece(blocks=[{"words": "I", "size": 90, "surface": glass}], backdrop={"colour": "#ffffff"})))
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
                build_scene(small_piece(blocks=[{"words": "I", "size": 60, "surface": glow}], light={"lamps": [], "surround": {"strength": -30}}))
            )
            film = new_film(world)
            add_samples(world, film, 64, pool=shared_pool())
            means.append(film.develop(light_levels(world))[film.ground_cover > 0.99].mean(axis=0))
        self.assertGreater(means[0][0], 2 * means[0][2], "red light")
        np.testing.assert_allclose(means[1] / means[0], 2.0, rtol=0.02)

    def test_a_flat_face_is_shown_as_picked_under_any_light(self) -> None:
        flat = {"face": {"kind": "flat", "colour": "#3080c0"}}
        piece = small_piece(blocks=[{"words": "I", "size": 90, "surface": flat}], light={"exposure": 1.5})
        for quality in ("draft", "proof"):
            display = render_piece(piece, Order(quality=quality, samples=8)).display  # type: ignore[arg-type]
            shown = np.abs(display * 255 - [0x30, 0x80, 0xC0]).max(axis=2) < 2.5
            self.assertGreater(shown.sum(), 300, quality)

    def test_many_lamps_are_as_bright_together_as_one_by_one(self) -> None:
        """Twelve lamps are chosen from; one world for each adds up to the same."""
        lamps = [{"id": f"l{n}", "bearing": 30 * n, "elevation": 20 + 5 * n, "strength": -2} for n in range(12)]
        dark = {"kind": "plain", "strength": -30}
        whole = mean_light(make_world(build_scene(small_piece(light={"lamps": lamps, "surround": dark}, backdrop={"colour": "#808080"}))), 128)
        apart = sum(
            mean_light(make_world(build_scene(small_piece(light={"lamps": [lamp], "surround": dark}, backdrop={"colour": "#808080"}))), 64) for lamp in lamps
        )
        np.testing.assert_allclose(whole, apart, rtol=0.02)

    def test_bands_of_a_large_picture_leave_no_seam(self) -> None:
        """A picture made in bands, each going on from what the one above has of its margin, against the same in one piece: the very
        samples, and cleaned alike up to the row where bands meet."""
        piece = small_piece(canvas={"width": 120, "height": 250})
        taken: list[Film] = []

        def kept(film: Film, *given: object, **named: object) -> Picture:
            taken.append(film)
            return finish_film(film, *given, **named)  # type: ignore[arg-type]

        pictures = []
        for band_px in (120 * 250, 120 * 100):
            with patch("halvex.core.finish.render_piece.BAND_PX", band_px), patch("halvex.core.finish.render_piece.finish_film", kept):
                pictures.append(render_piece(piece, Order(samples=8)))
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
        picture = render_piece(small_piece(), Order(width=160, samples=16, transparent=True))
        assert picture.alpha is not None
        self.assertGreater(picture.alpha.max(), 0.99)
        self.assertLess(np.median(picture.alpha[:6]), 0.1)
        half = (picture.alpha > 0.2) & (picture.alpha < 0.9)
        self.assertGreater(half.sum(), 20, "a shadow lies beside the letters")

    def test_orders_that_cannot_be_met_are_explained(self) -> None:
        for order, field in ((Order(width=100_000), "width"), (Order(height=0), "height"), (Order(samples=0), "samples")):
            with self.assertRaises(RenderError) as caught:
                render_piece(small_piece(), order)
            self.assertEqual(caught.exception.field, field)

    def test_a_draft_looks_like_the_picture(self) -> None:
        """Mean brightness of draft and converged picture within a tenth: the draft does not lie."""
        piece = small_piece()
        draft, final = (render_piece(piece, Order(width=160, quality=q, samples=64)).display.mean(axis=(0, 1)) for q in ("draft", "final"))
        np.testing.assert_allclose(draft, final, rtol=0.12)


class FilmTest(unittest.TestCase):
    LIGHT: Mapping[str, object] = {
        "lamps": [{"id": "key"}, {"id": "fill", "bearing": -20, "kelvin": 3000, "strength": -1}],
        "surround": {"kind": "studio"},
    }

    def exposed(self, light: Mapping[str, object], samples: int = 32, seed: int = 0) -> tuple[World, Film]:
        world = make_world(build_scene(small_piece(light=light)))
        film = new_film(world)
        add_samples(world, film, samples, pool=shared_pool(), seed=seed)
        return world, film

    def test_a_level_is_changed_by_developing_alone(self) -> None:
        """A film of other strengths and colours, developed at these, is the picture rendered at these, but for its noise."""
        dim = {**self.LIGHT, "lamps": [{"id": "key", "strength": 1.5, "colour": "#80c0ff"}, {"id": "fill", "bearing": -20, "strength": -3}]}
        _, film = self.exposed(self.LIGHT)
        other, rendered = self.exposed(dim)
        developed, own = film.develop(light_levels(other)), rendered.develop(light_levels(other))
        np.testing.assert_allclose(developed.mean(axis=(0, 1)), own.mean(axis=(0, 1)), rtol=0.01)
        self.assertLess(float(np.abs(developed - own).mean()), 0.05 * float(own.mean()))

    def test_relit_is_near_what_cleaning_again_gives(self) -> None:
        world, film = self.exposed(self.LIGHT, 64)
        before = light_levels(world)
        after = before * np.array([[0.4], [2.0], [1.2]], np.float32)
        cleaned = finish_film(film, before, world.backdrop, 0.0, transparent=False, clean="high").linear
        again = finish_film(film, after, world.backdrop, 0.0, transparent=False, clean="high").display
        apart = np.abs(to_display(relit(cleaned, film, before, after, world.backdrop), 0.0) - again) * 255
        self.assertLess(float(apart.mean()), 1.5, "levels of 255")
        self.assertLess(float(np.percentile(apart, 95)), 4.0)

    def test_noise_is_what_it_says(self) -> None:
        """The estimate of one film against the spread of sixteen: never under it, and on the safe side by less than half."""
        films = [self.exposed(self.LIGHT, 16, seed) for seed in range(16)]
        world = films[0][0]
        levels = light_levels(world)
        shown = np.array([to_display(film.develop(levels), 0.0) for _, film in films])
        spread = float(np.sqrt(shown.var(axis=0, ddof=1).mean()))
        told = float(np.mean([np.sqrt((film.noise(levels, 0.0) ** 2).mean()) for _, film in films]))
        self.assertGreater(told / spread, 0.9)
        self.assertLess(told / spread, 1.5)

    def test_sampling_stops_where_the_noise_is_gone(self) -> None:
        world = make_world(build_scene(small_piece(light=self.LIGHT)))
        rough, fine = new_film(world), new_film(world)
        left = [add_until(world, film, noise=noise, most=256, exposure=0.0, pool=shared_pool()) for film, noise in ((rough, 0.08), (fine, 0.015))]
        self.assertLess(left[1], left[0])
        self.assertLess(rough.samples, fine.samples)
        self.assertLess(int(fine.counts.min()), int(fine.counts.max()), "even pixels need fewer")

    def test_samples_go_where_the_noise_is(self) -> None:
        """As many samples in all, and less error than spread evenly (Neyman, JRSS 97(4), 1934); few are spread evenly."""
        world, converged = self.exposed(self.LIGHT, 512, 9)
        levels = light_levels(world)
        _, even = self.exposed(self.LIGHT, 64, 1)
        adapted, few, told = new_film(world), new_film(world), []
        add_where_noisy(world, adapted, 64, shown=lambda light: light, pool=shared_pool(), seed=1, progress=told.append)
        self.assertAlmostEqual(adapted.samples, 64, delta=1)
        errors = [float(((film.develop(levels) - converged.develop(levels)) ** 2).mean()) for film in (even, adapted)]
        self.assertLess(errors[1], 0.8 * errors[0])
        self.assertEqual(told, sorted(told))
        self.assertAlmostEqual(told[-1], 1.0, delta=0.02)
        add_where_noisy(world, few, 20, shown=lambda light: light, pool=shared_pool(), seed=1)
        self.assertEqual((few.counts.min(), few.counts.max()), (20, 20))

    def test_pixels_without_a_mark_show_no_letter(self) -> None:
        """In every projection, through a lens, before a wall and before nothing, and with the letters up to the camera; the marks
        leave out most of what shows none."""
        views: tuple[dict[str, object], ...] = (
            {},
            {"turn": {"x": 30, "y": -60}},
            {"projection": "parallel"},
            {"projection": "oblique"},
            {"aperture": 8, "focus": 10},
            {"zoom": 3, "shift_x": 20},
        )
        for view, ground in product(views, ("wall", "none")):
            with self.subTest(view=view, ground=ground):
                world = make_world(build_scene(small_piece(view=view, backdrop={"ground": ground})))
                film = new_film(world)
                add_samples(world, film, 4, pool=shared_pool())
                marks = film.cover_of(world)
                everywhere = new_film(world)
                everywhere._cover = np.ones_like(marks)
                add_samples(world, everywhere, 4, pool=shared_pool())
                np.testing.assert_array_equal(film.sums, everywhere.sums)
                if view != {"zoom": 3, "shift_x": 20}:
                    self.assertLess(float(marks.mean()), 2 * float((film.part_covers.sum(axis=2) > 0).mean()))

    def test_letters_get_twice_the_early_samples(self) -> None:
        world, film = self.exposed(self.LIGHT, 1)
        shown = film.cover_of(world) != 0
        for letters, ground in ((1, 1), (2, 1), (3, 2), (4, 2)):
            due = film.early(world, letters)
            self.assertEqual((set(due[shown]), set(due[~shown])), ({letters}, {ground}))

    def test_a_picture_is_its_lights_at_their_levels(self) -> None:
        """Developing is the sum over lights, each times its level."""
        _, film = self.exposed(self.LIGHT, 2)
        levels = np.array([[0.5, 1.0, 2.0], [3.0, 0.0, 1.0], [0.1, 0.2, 0.3]], np.float32)
        summed = film.flat + sum(film.share(light) * levels[light] for light in range(3))
        np.testing.assert_allclose(film.develop(levels), summed, rtol=1e-4, atol=1e-6)

    def test_tiles_are_whole_and_the_most_work_comes_first(self) -> None:
        each = np.zeros((50, 70), np.int32)
        each[3:9, 60:] = 5
        each[40:, :20] = 9
        asked = []

        class Told(ThreadPoolExecutor):
            def submit(self, task, tile):  # type: ignore[no-untyped-def, override]
                asked.append(tile)
                return super().submit(task, tile)

        world = make_world(build_scene(small_piece()))
        film = Film(70, 50, len(light_levels(world)))
        with Told(1) as pool:
            add_samples(world, film, each, pool=pool)
        np.testing.assert_array_equal(film.counts, each)
        work = [int(each[y0:y1, x0:x1].sum()) for x0, y0, x1, y1 in asked]
        self.assertEqual(work, sorted(work, reverse=True))
        self.assertGreater(min(work), 0)

    def test_a_film_goes_on_after_it_was_stopped(self) -> None:
        """Stopped between tiles and gone on with, it comes to the same bytes."""
        from halvex.core.render.work import CancelledError

        world, whole = self.exposed(self.LIGHT, 8)
        film, asked = new_film(world), iter([False] * 4 + [True] * 1000)
        with self.assertRaises(CancelledError):
            add_samples(world, film, 8, pool=shared_pool(), cancelled=lambda: next(asked))
        self.assertTrue(0 < film.samples < 8)
        add_samples(world, film, 8 * (film.counts == 0).astype(np.int32), pool=shared_pool())
        np.testing.assert_array_equal(film.sums, whole.sums)

    def test_frames_of_a_loop(self) -> None:
        """Each frame has its own noise, or with still noise the same; frame 0 is the plain picture."""
        piece = small_piece(light=self.LIGHT)
        made = {
            key: render_piece(piece, Order(samples=2, frame=frame, still_noise=still)).linear
            for key, frame, still in (("first", 0, False), ("next", 1, False), ("again", 1, False), ("still", 1, True))
        }
        np.testing.assert_array_equal(made["first"], made["still"])
        np.testing.assert_array_equal(made["next"], made["again"])
        self.assertFalse(np.array_equal(made["first"], made["next"]))

    def test_lights_and_flat_colours_are_all_there_is(self) -> None:
        """Before cleaning the layers add up to the film, flat parts included."""
        surface = {"face": {"kind": "flat", "colour": "#e04020"}, "return": {"kind": "glow", "colour": "#ffd0a0"}}
        piece = small_piece(light=self.LIGHT, blocks=[{"words": "Re", "size": 80, "surface": surface}])
        world = make_world(build_scene(piece))
        levels, film = light_levels(world), new_film(world)
        add_samples(world, film, 8, pool=shared_pool())
        layers = layers_of(film, levels, piece.light, clean=None)
        self.assertGreater(float(layers["flat"].max()), 0.3)
        whole = sum((image for name, image in layers.items() if name.startswith("light.")), layers["flat"])
        np.testing.assert_allclose(whole, film.develop(levels), atol=1e-5)

    def test_layers_add_up(self) -> None:
        """The lights' shares together are the picture; masks and alpha cover it whole."""
        picture = render_piece(small_piece(light=self.LIGHT, backdrop={"colour": "#204060"}), Order(samples=64, layers=True))
        layers = picture.layers
        assert layers is not None
        lights = sum(layers[f"light.{name}"] for name in ("key", "fill", "surround"))
        self.assertLess(float(np.abs(lights - picture.linear).mean()), 0.03 * float(picture.linear.mean()))
        masks = sum(image for name, image in layers.items() if name.startswith("mask."))
        np.testing.assert_allclose(masks, layers["alpha"], atol=1e-3)
        edge = (layers["mask.face"] > 0.1) & (layers["mask.face"] < 0.9)
        self.assertGreater(edge.sum(), 20, "masks are smooth at their edges")
        self.assertGreater(float(layers["shadow"].max()), 0.3)
        self.assertLess(float(layers["depth"][2, 2]), -15.0)
        self.assertTrue({"albedo", "normal", "glow", "reflection"} <= set(layers))


if __name__ == "__main__":
    unittest.main()
