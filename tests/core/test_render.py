"""Light transport against form factors, Embree and mitsuba."""

import math
import unittest
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from halvex.core.finish.render_piece import Order, RenderError, render_piece
from halvex.core.optics.vectors import kernel
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.model import Lamp, View
from halvex.core.render.film import Film, add_samples
from halvex.core.render.hits import first_hit
from halvex.core.render.lights import hit_lamp, sample_lamp, sample_surround, surround_pdf
from halvex.core.render.path import BOTH, LAMPS_ONLY, SURFACE_ONLY
from halvex.core.render.work import shared_pool
from halvex.core.render.world import STACK_DEPTH, World, make_world
from halvex.core.scene import build_scene
from halvex.core.scene.camera import angle_of_view, camera_distance
from halvex.core.scene.lamps import pack_lamps, rectangle_form_factor
from halvex.core.scene.surround import make_surround
from halvex.core.scene.turning import ISOMETRIC_TURNS, rotation

F = np.float32


def small_piece(**changes: object) -> Piece:
    values: dict[str, object] = {
        "canvas": {"width": 160, "height": 90},
        "blocks": [{"words": "Re", "size": 80, "form": {"depth": 20, "bevel": {"width": 3, "height": 3}}}],
        "view": {"turn": {"x": -8, "y": -20}},
        **changes,
    }
    return piece_from_values(values)


def mean_light(world: World, samples: int, **options: object) -> np.ndarray:
    film = Film(160, 90)
    add_samples(world, film, samples, pool=shared_pool(), **options)  # type: ignore[arg-type]
    return (film.colour + film.through * world.backdrop).reshape(-1, 3).mean(axis=0)


class LampTest(unittest.TestCase):
    def irradiance(self, lamp: Lamp, point: tuple[float, float, float] = (0, 0, 0)) -> float:
        """Irradiance (green) at a point of the plane z = 0 that faces +z, over π."""
        lamps = pack_lamps((lamp,))
        total = 0.0
        side = 128
        for i in range(side):
            for j in range(side):
                d, _, radiance, pdf = sample_lamp(lamps, 0, tuple(F(v) for v in point), F((i + 0.5) / side), F((j + 0.5) / side))
                if pdf > 0:
                    total += radiance[1] * max(d[2], 0.0) / pdf
        return total / side**2 / math.pi

    def test_a_card_facing_a_lamp_of_0_stops_is_fully_lit(self) -> None:
        for lamp in (Lamp(kind="softbox"), Lamp(kind="round", width=900, distance=700), Lamp(kind="sun"), Lamp(width=3000, height=200, distance=800)):
            overhead = lamp.model_copy(update={"elevation": 90.0, "kelvin": 5500.0})
            self.assertAlmostEqual(self.irradiance(overhead), 1.0, places=2, msg=str(lamp))

    def test_rectangle_form_factor_is_howells(self) -> None:
        """Howell's catalogue: one corner over the point, a = b = c: 0.138532."""
        self.assertAlmostEqual(rectangle_form_factor(2, 2, 1) / 4, 0.138532, places=6)

    def test_rectangle_irradiance_off_its_axis(self) -> None:
        """Corner over the point: a quarter of a lamp twice the size. E = π L F."""
        lamp = Lamp(kind="softbox", elevation=90, distance=1000, width=1000, height=1000, kelvin=5500)
        radiance = pack_lamps((lamp,)).radiance[0, 1]
        corner = self.irradiance(lamp, (500, 500, 0))
        self.assertAlmostEqual(corner / (radiance * 0.138532), 1.0, places=3)

    def test_a_stop_doubles(self) -> None:
        one, two = (self.irradiance(Lamp(elevation=60, strength=s)) for s in (0, 1))
        self.assertAlmostEqual(two / one, 2.0, places=4)

    def test_densities_of_sampling_and_meeting_agree(self) -> None:
        for kind in ("softbox", "round", "sun"):
            lamps = pack_lamps((Lamp(kind=kind, angular_size=8),))
            d, _, _, pdf = sample_lamp(lamps, 0, (F(30), F(-20), F(0)), F(0.3), F(0.7))
            distance, met = hit_lamp(lamps, 0, (F(30), F(-20), F(0)), d)
            self.assertLess(distance, 1e30)
            self.assertAlmostEqual(met / pdf, 1.0, places=3, msg=kind)

    def test_surround_density_agrees_and_integrates_to_one(self) -> None:
        surround = make_surround("studio", 0.0)
        for u in (0.1, 0.5, 0.9):
            d, _, pdf = sample_surround(surround, F(u), F(0.37))
            self.assertAlmostEqual(surround_pdf(surround, d) / pdf, 1.0, places=3)


class ViewTest(unittest.TestCase):
    def test_isometric_axes_are_foreshortened_alike(self) -> None:
        """ISO 5456-3: all axes by √(2/3)."""
        for name, turn in ISOMETRIC_TURNS.items():
            seen = np.linalg.norm(rotation(turn)[:2], axis=0)
            np.testing.assert_allclose(seen, math.sqrt(2 / 3), atol=1e-9, err_msg=name)
        self.assertGreater(rotation(ISOMETRIC_TURNS["left wall"])[0, 2], 0, "a left wall faces right")
        self.assertGreater(rotation(ISOMETRIC_TURNS["floor"])[1, 2], 0, "a floor faces up")
        self.assertLess(rotation(ISOMETRIC_TURNS["ceiling"])[1, 2], 0, "a ceiling faces down")

    def test_field_of_view(self) -> None:
        """36 × 24 mm, 50 mm: 39.60° across, 26.99° high, 46.79° diagonal."""
        for side, angle in ((36, 39.60), (24, 26.99), (math.hypot(36, 24), 46.79)):
            self.assertAlmostEqual(angle_of_view(50, side), angle, places=2)

    def test_the_face_keeps_its_scale_at_any_focal_length(self) -> None:
        canvas = Piece().canvas
        for focal in (20, 50, 200):
            distance = camera_distance(focal, canvas)
            self.assertAlmostEqual(math.degrees(2 * math.atan(canvas.width / 2 / distance)), angle_of_view(focal))
        self.assertEqual(View().projection, "central")


@kernel
def trace_many(world, origins, directions, far, out, stack):
    for i in range(origins.shape[0]):
        o = (origins[i, 0], origins[i, 1], origins[i, 2])
        d = (directions[i, 0], directions[i, 1], directions[i, 2])
        _, t, place, _, _, _ = first_hit(world, o, d, far, stack)
        out[i] = t if place >= 0 else far


class HitTest(unittest.TestCase):
    def test_first_hits_are_embrees(self) -> None:
        """Two hundred thousand rays against Embree through embreex: the same distance to 1e-4."""
        import trimesh
        from embreex import rtcore_scene
        from embreex.mesh_construction import TriangleMesh

        piece = small_piece(backdrop={"ground": "none"}, blocks=[{"words": "Regatta&", "size": 60, "form": {"bevel": {"profile": "ovolo"}}}])
        scene = build_scene(piece)
        world = make_world(scene)
        corners = np.vstack([((p.body.positions.astype(np.float32) + np.float32(p.offset)) @ scene.turn.T)[p.body.triangles] for p in scene.placements])
        rng = np.random.default_rng(5)
        aims = rng.uniform((-90, -30, -60), (90, 30, 0), (200_000, 3))
        origins = (trimesh.unitize(rng.normal(size=(200_000, 3))) * 600).astype(np.float32)
        directions = trimesh.unitize(aims - origins).astype(np.float32)
        peer = rtcore_scene.EmbreeScene()
        TriangleMesh(peer, corners.astype(np.float32))
        theirs = peer.run(origins, directions, query="DISTANCE")
        mine = np.empty(len(origins), np.float32)
        trace_many(world, origins, directions, F(1e30), mine, np.zeros(STACK_DEPTH, np.int32))
        both = (mine < 1e29) & (theirs < 1e29)
        self.assertGreater(both.sum(), 20_000)
        # Rays that graze a silhouette may fall to either side in single precision.
        self.assertLess(np.mean((mine < 1e29) != (theirs < 1e29)), 2e-4)
        self.assertGreater(np.mean(np.abs(mine[both] - theirs[both]) < 1e-4 * theirs[both]), 0.9995)

    def test_no_ray_slips_through_a_closed_body(self) -> None:
        """Rays through a letter meet it from outside first, from every side, along edges and axes."""
        world = make_world(build_scene(small_piece(backdrop={"ground": "none"}, view={"turn": {}}, blocks=[{"words": "I", "size": 80}])))
        low = world.corners.reshape(-1, 3).min(axis=0) + world.offset[0]
        high = world.corners.reshape(-1, 3).max(axis=0) + world.offset[0]
        across = np.linspace(low[1] + 1, high[1] - 1, 2001)
        origins = np.column_stack([np.full(2001, -500.0), across, np.full(2001, -30.0)]).astype(np.float32)
        out = np.empty(2001, np.float32)
        trace_many(world, origins, np.tile(F([1, 0, 0]), (2001, 1)), F(1e30), out, np.zeros(STACK_DEPTH, np.int32))
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
        film = Film(160, 90)
        add_samples(world, film, 128, pool=shared_pool(), caustic_alpha=0.0)
        whole = film.through[..., 0] == 0
        self.assertAlmostEqual(float(film.colour[whole].mean()), 1.0, delta=0.02)

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
        film = Film(64, 64)
        add_samples(world, film, 256, pool=shared_pool())
        tint, r = ((0x80 / 255 + 0.055) / 1.055) ** 2.4, 0.04
        expected = (1 - r) ** 2 * tint / (1 - r**2 * tint**2)
        self.assertAlmostEqual(float(film.through[24:40, 24:40].mean()), expected, delta=0.01)

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


class MitsubaTest(unittest.TestCase):
    """The same meshes in mitsuba 3 (scalar_rgb). Lamp and surround apart: in mitsuba a lamp also hides the sky behind it."""

    def test_a_plain_scene_under_a_lamp_is_mitsubas(self) -> None:
        self.compare(lamp=True)

    def test_a_plain_scene_under_the_sky_is_mitsubas(self) -> None:
        self.compare(lamp=False)

    def compare(self, *, lamp: bool) -> None:
        """Mean of the picture within 1 %."""
        import mitsuba as mi

        mi.set_variant("scalar_rgb")
        piece = small_piece(
            light={
                "lamps": [{"kind": "softbox", "kelvin": 5500, "width": 600, "height": 400, "distance": 900, "on": lamp}],
                "surround": {"kind": "plain", "strength": -30 if lamp else -2},
            },
            backdrop={"ground": "none", "colour": "#000000"},
        )
        scene = build_scene(piece)
        # A grey matte surface, which both renderers define alike.
        from halvex.core.optics.material import pack_materials
        from halvex.core.optics.metals import metal_tables

        grey = np.array([0.5, 0.5, 0.5])
        world = make_world(scene)._replace(materials=pack_materials([grey] * len(scene.materials.kind), metal_tables()), backdrop=np.zeros(3, np.float32))
        mine = mean_light(world, 256, caustic_alpha=0.0)

        shapes: dict[str, object] = {"sky": {"type": "constant", "radiance": 0.25}}
        if lamp:
            centre, u, v, normal = (field[0] for field in (scene.lamps.centre, scene.lamps.u, scene.lamps.v, scene.lamps.normal))
            to_world = np.eye(4)
            to_world[:3, :] = np.column_stack([u if np.linalg.det([u, v, normal]) > 0 else -u, v, normal, centre])
            glow = {"type": "area", "radiance": {"type": "rgb", "value": scene.lamps.radiance[0].tolist()}}
            shapes = {"lamp": {"type": "rectangle", "to_world": mi.ScalarTransform4f(to_world), "emitter": glow}}
        parts: dict[str, object] = {
            "type": "scene",
            "integrator": {"type": "path", "max_depth": 13, "hide_emitters": True},
            **shapes,
            "camera": {
                "type": "perspective", "fov": angle_of_view(50), "fov_axis": "larger", "near_clip": 0.1, "far_clip": 1e5,
                "to_world": mi.ScalarTransform4f().look_at(origin=[0, 0, float(world.camera.stand)], target=[0, 0, 0], up=[0, 1, 0]),
                "film": {"type": "hdrfilm", "width": 160, "height": 90, "rfilter": {"type": "box"}, "pixel_format": "rgb"},
                "sampler": {"type": "independent", "sample_count": 256},
            },
        }  # fmt: skip
        for number, placement in enumerate(scene.placements):
            corners = ((placement.body.positions + placement.offset) @ scene.turn.T)[placement.body.triangles].reshape(-1, 3)
            normals = placement.body.normals.reshape(-1, 3) @ scene.turn.T
            mesh = mi.Mesh(f"m{number}", len(corners), len(corners) // 3, has_vertex_normals=True, props=_grey(mi))
            params = mi.traverse(mesh)
            params["vertex_positions"] = corners.astype(np.float32).ravel()
            params["vertex_normals"] = normals.astype(np.float32).ravel()
            params["faces"] = np.arange(len(corners), dtype=np.uint32)
            params.update()
            parts[f"m{number}"] = mesh
        theirs = np.array(mi.render(mi.load_dict(parts), seed=1)).reshape(-1, 3).mean(axis=0)
        np.testing.assert_allclose(mine, theirs, rtol=0.01)


def _grey(mi):
    props = mi.Properties()
    props["bsdf"] = mi.load_dict({"type": "diffuse", "reflectance": {"type": "rgb", "value": [0.5, 0.5, 0.5]}})
    return props


if __name__ == "__main__":
    unittest.main()
