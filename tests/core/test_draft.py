"""Drafts: what is kept between them, and primary hits drawn against primary hits traced."""

import unittest
from unittest.mock import patch

import numpy as np

from halvex.core.kernels import kernel
from halvex.core.optics.vectors import F, row3, scale
from halvex.core.references import Held
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.cells import left_out, spot
from halvex.core.render.draft.raster import rows_to_draw
from halvex.core.render.draft.shadows import towards, visibility
from halvex.core.render.draft.sketch import Sketcher, letters_seen
from halvex.core.render.draft.sky import facing_of, part_at, sky_of
from halvex.core.render.draft.surfaces import NORMAL, POINT, Surfaces, ground_at, no_surfaces, primary_hits
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.interaction import offset_from
from halvex.core.render.shadow import shadow
from halvex.core.render.work import held_scratch, scratch, shared_pool
from halvex.core.render.world import World
from halvex.core.scene import scene_of
from halvex.core.scene.camera import lettering_to_picture
from halvex.core.solids.mesh import PartOf
from tests.core.small_scenes import VIEWS, new_film, small_piece


@kernel
def shares_one_by_one(world, sky, material, shares, scratch):
    """How much of each light reaches the ground, by a ray for each cell whatever stands near; -1
    where none is computed."""
    for y in range(shares.shape[0]):
        for x in range(shares.shape[1]):
            for k in range(shares.shape[2]):
                share = (F(-1.0), F(-1.0), F(-1.0))
                if material[2 * y, 2 * x] == world.ground.material and not left_out(x, y):
                    p, n, _ = ground_at(world, 2 * y, 2 * x)
                    i, j = spot(x, y)
                    d, distance, lit = towards(world, k, p, n, i, j)
                    if k == world.lamps.kind.shape[0]:
                        d = row3(sky.direction[facing_of(sky, n)], part_at(x, y))
                    share = (
                        shadow(world, offset_from(world, p, n, d), d, distance, False, False, scratch)
                        if lit
                        else scale(share, F(0.0))
                    )
                for c in range(3):
                    shares[y, x, k, c] = share[c]


class DraftTest(unittest.TestCase):
    LAMPS = ({"id": "key", "strength": 1}, {"id": "fill", "bearing": -20, "strength": -2})

    def drawn(
        self, sketcher: Sketcher, lamps: object, surround: object = "studio", exposure: float = 0
    ) -> np.ndarray:
        glass = {"words": "e", "size": 60, "place": {"x": 50}, "surface": {"face": {"kind": "glass"}}}
        blocks = [
            {"words": "R", "size": 80, "surface": {"face": {"kind": "metal"}}},
            {"id": "glass", **glass},
        ]
        piece = small_piece(
            blocks=blocks, light={"lamps": lamps, "surround": {"kind": surround}, "exposure": exposure}
        )
        scene = scene_of(piece)
        return sketcher.draw(scene, 160, 90, pool=shared_pool()).composed(scene.finish)

    def test_a_lamp_at_another_level_needs_no_new_draft(self) -> None:
        """Colour and strength of one lamp, again and again: what a fresh sketcher draws, to rounding."""
        key, fill = self.LAMPS
        sketcher = Sketcher()
        self.drawn(sketcher, [key, fill])
        for change in (
            {"strength": 3},
            {"strength": -8},
            {"strength": 2, "colour": "#ff4020"},
            {"strength": 1},
        ):
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
                np.testing.assert_allclose(
                    self.drawn(sketcher, lamps, surround, exposure), fresh, rtol=1e-3, atol=1e-4
                )

    def test_the_ground_is_lit_anew_when_letters_begin_to_shine(self) -> None:
        """Other materials leave the kept light of the ground as it is; one that glows does not."""
        sketcher = Sketcher()
        for surface in (
            {"kind": "metal"},
            {"kind": "plastic"},
            {"kind": "glow", "strength": 2},
            {"kind": "glow", "strength": 0},
            {"kind": "metal"},
        ):
            for colour in ("#203040", "#a03020"):
                with self.subTest(surface=surface, colour=colour):
                    block = {"words": "Re", "size": 80, "surface": {"face": surface}}
                    piece = small_piece(blocks=[block], backdrop={"colour": colour})
                    kept, fresh = (
                        one.draw(scene_of(piece), 160, 90, pool=shared_pool()).light
                        for one in (sketcher, Sketcher())
                    )
                    np.testing.assert_allclose(kept, fresh, rtol=1e-3, atol=1e-4)

    def test_the_look_of_the_ground_is_kept_only_while_it_is_the_same(self) -> None:
        """One edit after another before ground that is looked up in detail."""
        ramp = {"kind": "gradient", "span": "canvas"}
        bricks = {"kind": "pattern", "pattern": "bricks", "size": 14}
        relief = {"height": 3, "layers": [bricks]}
        by_key = {**ramp, "span": "facing", "towards": "key lamp"}
        plaster = {"kind": "plaster", "colour": {"base": "#c0a080", "layers": [ramp]}, "embossing": relief}
        grounds: list[dict[str, object]] = [
            {"colour": {"base": "#406080", "layers": [ramp]}},
            {"colour": {"base": "#406080", "layers": [ramp, {**bricks, "strength": 40}]}},
            {"material": plaster},
            {"colour": {"base": "#406080", "layers": [by_key]}},
            {"ground": "floor", "colour": {"base": "#406080", "layers": [ramp]}},
        ]
        key, fill = self.LAMPS
        edits: list[dict[str, object]] = [
            {},
            {"lamps": [{**key, "bearing": 20}, fill]},
            {"turn": {"x": -20, "y": 10}},
            {"words": "Ra"},
            {"depth": 35},
            {"gap": 60},
            {"zoom": 1.3},
            {"colour": "#a03020"},
            {},
        ]
        for ground in grounds:
            kept = Sketcher()
            for edit in edits:
                with self.subTest(ground=ground, edit=edit):
                    block = {
                        "words": edit.get("words", "Re"),
                        "size": 60,
                        "form": {"depth": edit.get("depth", 20)},
                        "surface": {"face": {"kind": "plastic", "colour": edit.get("colour", "#d0d0d0")}},
                    }
                    scene = scene_of(
                        small_piece(
                            blocks=[block],
                            view={"turn": edit.get("turn", {"y": -15}), "zoom": edit.get("zoom", 1)},
                            light={"lamps": edit.get("lamps", [key, fill])},
                            backdrop={**ground, "gap": edit.get("gap", 20)},
                        )
                    )
                    both = kept, Sketcher()
                    drawn, fresh = (one.draw(scene, 160, 90, pool=shared_pool()) for one in both)
                    np.testing.assert_allclose(drawn.light, fresh.light, rtol=1e-3, atol=1e-4)
                    np.testing.assert_allclose(drawn.flat, fresh.flat, rtol=1e-3, atol=1e-4)

    def test_a_block_takes_its_grain_along(self) -> None:
        """Grain is fixed to its block: a moved one shows the same picture elsewhere, one turned by a
        quarter the same picture turned. The light is even and the view parallel."""

        def face_of(place: dict[str, object]) -> np.ndarray:
            wood = {"face": {"kind": "wood", "grain": 14, "relief": 0.5}}
            block = {"kind": "shape", "shape": "rectangle", "width": 50, "height": 50, "surface": wood}
            piece = small_piece(
                canvas={"width": 120, "height": 120},
                blocks=[{**block, "place": place}],
                view={"projection": "parallel"},
                light={"lamps": [], "surround": {"kind": "plain", "strength": 0}},
                backdrop={"ground": "none"},
            )
            return Sketcher().draw(scene_of(piece), 120, 120, pool=shared_pool()).light

        plain = face_of({})
        self.assertGreater(float(plain[40:80, 40:80].std()), 0.01, "the grain is seen")
        moved = face_of({"x": 20, "y": -10})
        np.testing.assert_allclose(moved[50:90, 60:100], plain[40:80, 40:80], atol=1e-3)
        turned = face_of({"turn": {"z": 90}})
        np.testing.assert_allclose(turned[40:80, 40:80], np.rot90(plain)[40:80, 40:80], atol=1e-3)

    def test_a_gap_between_mirrors_is_dark(self) -> None:
        """What a metal mirrors of another is followed: it sees the sky no more than that one does."""
        bar = {
            "kind": "shape",
            "shape": "rectangle",
            "width": 30,
            "height": 70,
            "form": {"depth": 120, "bevel": {"width": 0, "height": 0}},
            "surface": {"face": {"kind": "metal", "metal": "gold", "roughness": 0.15}},
        }
        scene = scene_of(
            small_piece(
                blocks=[{**bar, "id": name, "place": {"x": x}} for name, x in (("left", -16), ("right", 16))],
                view={"turn": {"y": -4}},
                light={"lamps": [], "surround": {"kind": "horizon", "strength": 0}},
                backdrop={"ground": "none"},
            )
        )
        sketcher, world = Sketcher(), make_world(scene)
        draft = sketcher.draw(scene, 160, 90, pool=shared_pool()).light
        film = new_film(world)
        add_samples(world, film, 256, pool=shared_pool())
        seen = sketcher._sheet.surfaces.triangle[:90]
        parts = np.where(seen >= 0, world.letters.bodies.part[np.maximum(seen, 0)], -1)
        gap = parts == PartOf.RETURN
        self.assertGreater(int(gap.sum()), 100)
        traced = film.develop(light_levels(world))[gap].mean(axis=0)
        self.assertLess(float(np.abs(draft[gap].mean(axis=0) - traced).max()), 0.17)

    def test_a_wall_beside_a_large_lamp_is_about_as_bright_as_in_renders(self) -> None:
        """Lit from the middle of the lamp alone it was 8 % brighter."""
        lamp = {"id": "key", "kind": "softbox", "bearing": 90, "elevation": 45, "distance": 400}
        scene = scene_of(
            small_piece(
                blocks=[{"words": "i", "size": 4}],
                light={"lamps": [{**lamp, "width": 250, "height": 250}], "surround": {"strength": -30}},
            )
        )
        world = make_world(scene)
        film = new_film(world)
        add_samples(world, film, 64, pool=shared_pool())
        path = film.develop(light_levels(world))
        draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light
        for rows in (slice(0, 20), slice(70, 90)):
            self.assertAlmostEqual(float(draft[rows].mean() / path[rows].mean()), 1.0, delta=0.045)

    def test_letters_beside_a_wide_lamp_are_as_bright_as_in_renders(self) -> None:
        """Lit from its middle alone a face was 9 % brighter, with the lamp before it and aslant."""
        face = {"face": {"kind": "paint", "finish": "matt"}}
        plate = {"kind": "shape", "shape": "rectangle", "width": 300, "height": 200, "surface": face}
        for kind, bearing, elevation in (("softbox", 90, 80), ("round", 90, 80), ("softbox", 150, 45)):
            with self.subTest(f"{kind}, {elevation}"):
                lamp = {"id": "key", "kind": kind, "bearing": bearing, "elevation": elevation}
                lamp |= {"distance": 400, "width": 300, "height": 300}
                scene = scene_of(
                    small_piece(
                        blocks=[plate],
                        view={"projection": "parallel"},
                        light={"lamps": [lamp], "surround": {"strength": -30}},
                    )
                )
                world = make_world(scene)
                film = new_film(world)
                add_samples(world, film, 64, pool=shared_pool())
                path = film.develop(light_levels(world))[20:70, 20:140]
                draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light[20:70, 20:140]
                self.assertAlmostEqual(float(draft.mean() / path.mean()), 1.0, delta=0.015)

    def test_an_open_wall_is_as_bright_as_in_renders(self) -> None:
        """Under a surround alone, with cards behind the wall: its dull coat mirrors none of these."""
        cards = [
            {"bearing": 114, "elevation": 32, "width": 82, "height": 55, "softness": 20, "strength": 0.7},
            {"bearing": 103, "elevation": -17, "width": 42, "height": 42, "softness": 14, "strength": 1.8},
            {"bearing": 176, "elevation": -29, "width": 42, "height": 42, "softness": 14, "strength": 0.8},
        ]
        scene = scene_of(
            small_piece(
                blocks=[{"words": "i", "size": 2}],
                light={"lamps": [], "surround": {"kind": "studio", "gradient": 4, "cards": cards}},
                backdrop={"ground": "wall", "colour": "#12343a"},
            )
        )
        world = make_world(scene)
        film = new_film(world)
        add_samples(world, film, 64, pool=shared_pool())
        path = film.develop(light_levels(world))
        draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light
        self.assertAlmostEqual(float(draft[:30].mean() / path[:30].mean()), 1.0, delta=0.05)

    def test_ground_taken_for_open_is_open(self) -> None:
        """Blocks of ground that no letter can shade are lit without rays: the same as with a ray
        for every cell."""
        lamps = [
            {"id": "key"},
            {"id": "disc", "kind": "round", "bearing": 20, "distance": 400},
            {"id": "bulb", "kind": "bulb", "bearing": 200, "elevation": 20, "distance": 150, "width": 60},
            {"id": "sun", "kind": "sun", "bearing": 300, "elevation": 30},
        ]
        blocks = [
            {"words": "Re", "size": 50, "surface": {"face": {"kind": "glass"}}},
            {"id": "dot", "words": ".", "size": 50, "place": {"x": 60}},
        ]
        shaded = 0
        for name, view in VIEWS.items():
            for kind in ("wall", "floor"):
                with self.subTest(view=name, ground=kind):
                    world = make_world(
                        scene_of(
                            small_piece(
                                blocks=blocks,
                                view=view,
                                light={"lamps": lamps},
                                backdrop={"ground": kind, "gap": 20},
                            )
                        )
                    )
                    surfaces = no_surfaces(90, 160)
                    cover, drawing = letters_seen(world, surfaces)
                    for work in drawing:
                        work()
                    primary_hits(Held(world), cover, Held(surfaces), 0, 90, held_scratch())
                    seen, alone = np.empty((2, 45, 80, len(lamps) + 1, 3), np.float32)
                    sky, lights = sky_of(world), np.ones(len(lamps) + 1, np.uint8)
                    visibility(Held(world), Held(surfaces), Held(sky), seen, lights, 0, 45, held_scratch())
                    shares_one_by_one(world, sky, surfaces.material, alone, scratch())
                    ground = alone[..., 0] >= 0
                    apart = np.abs(seen - alone)[ground].max(axis=1)
                    # A ray that grazes a letter may go either way, by the last digit.
                    self.assertLessEqual(int((apart > 1e-3).sum()), 3)
                    shaded += int((alone[ground] < 0.9).any(axis=1).sum())
        self.assertGreater(shaded, 500)


class DrawnSurfacesTest(unittest.TestCase):
    """Letters drawn by projecting their triangles, against a ray through the middle of every pixel."""

    def rows(self, world: World, width: int = 160, height: int = 90) -> tuple[float, float] | None:
        return rows_to_draw(world, lettering_to_picture(world.camera, world.turn), width, height)

    def surfaces(self, world: World, drawn: bool) -> Surfaces:
        found = no_surfaces(90, 160)
        with patch(
            "halvex.core.render.draft.sketch.rows_to_draw", return_value=(20.0, 70.0) if drawn else None
        ):
            cover, drawing = letters_seen(world, found)
        for work in drawing:
            work()
        primary_hits(Held(world), cover, Held(found), 0, 90, held_scratch())
        return found

    def test_drawn_letters_are_the_traced_ones(self) -> None:
        """Every pixel the same material; its point within a twentieth of a px, its normals within
        two degrees."""
        two = [
            {"words": "Rg&", "size": 60},
            {"id": "behind", "words": "O", "size": 90, "place": {"z": -30, "turn": {"y": 40}}},
        ]
        for name, view in VIEWS.items():
            for kind in ("wall", "floor"):
                with self.subTest(view=name, ground=kind):
                    world = make_world(
                        scene_of(small_piece(blocks=two, view=view, backdrop={"ground": kind}))
                    )
                    drawn, traced = self.surfaces(world, True), self.surfaces(world, False)
                    ground = world.ground.material
                    # A pixel whose middle lies on a silhouette to the last digit may go either way.
                    self.assertLessEqual(int((drawn.material != traced.material).sum()), 2)
                    self.assertGreater(int((traced.material != ground).sum()), 800)
                    letters = (
                        (drawn.material == traced.material)
                        & (traced.material >= 0)
                        & (traced.material != ground)
                    )
                    apart = np.abs(drawn.place - traced.place)[letters]
                    self.assertGreater(float((apart[:, POINT].max(axis=1) < 0.05).mean()), 0.999)
                    # Nor is it settled to which side a middle belongs that lies on the edge between
                    # two triangles: of this lettering, whose places are whole px, in the oblique
                    # view two in a thousand do.
                    self.assertGreater(
                        float((apart[:, NORMAL:].max(axis=(1, 2)) < 0.035).mean()),
                        0.999 if view != VIEWS["oblique"] else 0.997,
                    )

    def test_letters_about_the_eye_are_traced(self) -> None:
        """What reaches the plane of the eye cannot be projected; the piece is drawn all the same."""
        top, bottom = self.rows(make_world(scene_of(small_piece()))) or (0.0, 0.0)
        self.assertTrue(0 < top < 45 < bottom < 90)
        for place in (215, 400):
            near = {"words": "Re", "size": 80, "place": {"z": place}, "form": {"depth": 60}}
            piece = small_piece(blocks=[near, {"id": "far", "words": "Re", "size": 40}])
            scene = scene_of(piece)
            self.assertIsNone(self.rows(make_world(scene)))
            self.assertTrue(np.isfinite(Sketcher().draw(scene, 160, 90, pool=shared_pool()).light).all())

    def test_too_many_triangles_are_traced(self) -> None:
        world = make_world(scene_of(small_piece()))
        self.assertIsNone(self.rows(world, 16, 9))


class LampMirrorTest(unittest.TestCase):
    """Drafts mirror rectangular lamps in metal as paths do: bright where they are, not all around."""

    def test_strips_and_boxes_keep_their_shape(self) -> None:
        sizes = {"strip": {"width": 80, "height": 700}, "softbox": {"width": 300, "height": 200}}
        # How far drafts are off, on the mean: most where an edge of a pixel's width is missed.
        for kind, roughness, most in (("strip", 0.1, 0.8), ("strip", 0.3, 0.3), ("softbox", 0.1, 0.25)):
            with self.subTest(kind=kind, roughness=roughness):
                metal = {"kind": "metal", "metal": "chromium", "roughness": roughness}
                piece = small_piece(
                    backdrop={"ground": "none", "colour": "#000000"},
                    light={
                        "lamps": [
                            {"id": "key", "kind": kind, "bearing": 170, "elevation": 30, "distance": 700}
                            | sizes[kind]
                        ],
                        "surround": {"kind": "plain", "colour": "#000000"},
                    },
                    view={},
                    blocks=[
                        {
                            "kind": "shape",
                            "shape": "rectangle",
                            "width": 130,
                            "height": 70,
                            "corner_radius": 30,
                            "form": {"depth": 20, "bevel": {"profile": "ovolo", "width": 30, "height": 30}},
                            "surface": {"face": metal},
                        }
                    ],
                )
                scene = scene_of(piece)
                world = make_world(scene)
                film = new_film(world)
                add_samples(world, film, 128, pool=shared_pool())
                path = film.develop(light_levels(world))
                draft = Sketcher().draw(scene, 160, 90, pool=shared_pool()).light
                self.assertLess(float(np.abs(draft - path).mean() / path.mean()), most)
                self.assertAlmostEqual(float(draft.mean() / path.mean()), 1.0, delta=0.1)


if __name__ == "__main__":
    unittest.main()
