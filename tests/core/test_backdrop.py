"""What stands behind the letters: layers, grounds of materials, shade and reflections on them."""

import unittest

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from halvex.core.finish.orders import DraftOrder, FinalOrder
from halvex.core.finish.picture import finish
from halvex.core.finish.render_piece import render_piece
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb
from halvex.core.optics.gradients import colours_at
from halvex.core.optics.oklab import linear_to_oklab
from halvex.core.optics.texels import levels_of, light_of
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.gradient import Gradient
from halvex.core.piece.mesh import Mesh, MeshPoint
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.path_state import PathRules
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of
from halvex.core.scene.meshes import picture_of_mesh
from tests.core.small_scenes import small_piece

Array = NDArray[np.float32]
UPWARDS = {
    "span": "canvas",
    "bearing": 90,
    "mix": "srgb",
    "stops": [{"at": 0, "colour": "#20406f"}, {"at": 100, "colour": "#e0b060"}],
}
BLACK = {"face": {"kind": "paint", "colour": "#000000"}}
DARK = {"kind": "plain", "strength": -30}
LAMP = {"id": "key", "kind": "sun", "bearing": 90, "elevation": 45, "angular_size": 2}


def layered(*layers: dict) -> dict:
    return {"base": "#404040", "layers": list(layers)}


def card(backdrop: dict, **changes: object) -> Piece:
    """A black card of 40 × 20 px before a backdrop, seen straight on by parallel rays."""
    block = {
        "kind": "shape",
        "shape": "rectangle",
        "width": 40,
        "height": 20,
        "form": {"depth": 10, "bevel": {"width": 0, "height": 0}},
        "surface": BLACK,
    }
    values = {
        "canvas": {"width": 160, "height": 90},
        "blocks": [block],
        "view": {"projection": "parallel"},
        "light": {"lamps": [LAMP], "surround": DARK},
        "backdrop": backdrop,
        **changes,
    }
    return piece_from_values(values)


def filmed(piece: Piece, samples: int = 64, *, transparent: bool = False) -> Film:
    world = make_world(scene_of(piece))
    film = Film(piece.canvas.width, piece.canvas.height, len(light_levels(world)))
    add_samples(world, film, samples, pool=shared_pool(), rules=PathRules(transparent=transparent))
    return film


def drafted(piece: Piece) -> Array:
    return render_piece(piece, DraftOrder()).display


def rendered(piece: Piece, samples: int = 64) -> Array:
    return render_piece(piece, FinalOrder(samples=samples)).display


class LayeredBackdropTest(unittest.TestCase):
    def test_a_gradient_is_shown_as_picked_where_there_is_no_ground(self) -> None:
        """By the formula of CSS Images 4; whatever the exposure and the tone curve, in drafts and renders."""
        rows = np.array([8, 40, 80])
        for light in ({}, {"exposure": 1.5}, {"tone": "rich"}):
            piece = small_piece(
                backdrop={"ground": "none", "colour": layered(UPWARDS)},
                blocks=[{"words": "I", "size": 30}],
                light=light,
            )
            places = 1 - (rows + 0.5) / 90
            wanted = linear_to_srgb(colours_at(Gradient(**UPWARDS).stops, "srgb", places)[:, :3])
            for name, shown in (("draft", drafted(piece)), ("render", rendered(piece, 8))):
                with self.subTest(name, light=light):
                    np.testing.assert_allclose(shown[rows, 5], wanted, atol=0.012)

    def test_parts_of_the_canvas_show_their_part_of_it(self) -> None:
        piece = small_piece(backdrop={"ground": "none", "colour": layered(UPWARDS)}, view={})
        scene = scene_of(piece, px_scale=1.0)
        whole = finish(Sketcher().draw(scene, 160, 90, pool=shared_pool()), scene.finish).display
        part = scene.for_part(100, 10, 50, 40)
        shown = finish(Sketcher().draw(part, 50, 40, pool=shared_pool()), part.finish).display
        np.testing.assert_allclose(shown[:, 40:], whole[10:50, 140:150], atol=2e-3)

    def test_glass_bends_what_it_shows(self) -> None:
        """Through a slab at a slant an edge stands aside by t sin a (1 - cos a / sqrt(n² - sin² a)) (Snell);
        thin walls do not move it."""
        edge = {
            "span": "canvas",
            "bearing": 0,
            "stops": [{"at": 0, "colour": "#202020", "hardness": 100}, {"at": 100, "colour": "#b0b0b0"}],
        }
        deep, angle, index = 30, np.radians(40), 1.5
        seen = {}
        for thin in (False, True):
            block = card({}).blocks[0].model_dump() | {
                "width": 90,
                "height": 60,
                "form": {"depth": deep, "bevel": {"width": 0, "height": 0}},
                "surface": {"face": {"kind": "glass", "tint": "#ffffff", "index": index, "thin": thin}},
            }
            slanted = {"projection": "parallel", "turn": {"y": 40}}
            backdrop = {"ground": "none", "colour": layered(edge)}
            piece = card(backdrop, view=slanted, blocks=[block])
            row = filmed(piece, 256).flat[40:50, 64:96, 0].mean(axis=0)
            seen[thin] = 64 + int(np.abs(np.diff(row)).argmax()) + 1
        self.assertLessEqual(abs(seen[True] - 80), 1)
        wanted = deep * np.sin(angle) * (1 - np.cos(angle) / np.sqrt(index**2 - np.sin(angle) ** 2))
        self.assertLessEqual(abs(abs(seen[False] - 80) - wanted), 1.5)

    def test_a_transparent_picture_has_no_backdrop(self) -> None:
        piece = small_piece(backdrop={"ground": "none", "colour": layered(UPWARDS)})
        film = filmed(piece, 4, transparent=True)
        self.assertEqual(film.flat.max(), 0)
        self.assertGreater(film.through[2, 2, 0], 0.99)


class GroundTest(unittest.TestCase):
    def test_what_is_not_lit_is_shown_as_picked(self) -> None:
        """A wall that takes no light, and has no shade: its colour, however the lamps shine and whatever it
        is made of."""
        off = {"density": 0, "contact": 0}
        for strength in (-3, 2):
            lamps = [{**LAMP, "strength": strength}]
            for material in (None, {"kind": "paint", "colour": "#a06030", "finish": "gloss"}):
                backdrop = {"colour": "#a06030", "material": material, "lit": 0, "shade": off}
                piece = card(backdrop, light={"lamps": lamps, "surround": DARK})
                for name, shown in (("draft", drafted(piece)), ("render", rendered(piece, 8))):
                    with self.subTest(name, material=material, strength=strength):
                        seen = shown[10, 10]
                        np.testing.assert_allclose(seen, np.array([0xA0, 0x60, 0x30]) / 255, atol=0.012)

    def test_half_lit_is_half_of_both(self) -> None:
        """In linear light, shade and all."""
        films = {lit: filmed(card({"colour": "#808080", "lit": lit}), 256) for lit in (0, 50, 100)}
        seen = {lit: film.develop(np.ones((3, 3), np.float32)[: film.lights]) for lit, film in films.items()}
        np.testing.assert_allclose(
            seen[50].mean(axis=(0, 1)), (seen[0] + seen[100]).mean(axis=(0, 1)) / 2, rtol=0.01
        )

    def test_an_unlit_photograph_is_as_dark_as_its_shade(self) -> None:
        """Where letters leave a share of the light, the photograph keeps that share of its own."""
        backdrop = {"colour": layered({"kind": "picture", "span": "canvas"}), "lit": 0}
        film = filmed(card(backdrop), 128)
        free = filmed(card({**backdrop, "shade": {"density": 0, "contact": 0}}), 8)
        ground = film.ground_cover > 0.999
        shade = film.shade
        self.assertLess(shade[ground].min(), 0.05)
        apart = np.abs(film.flat - free.flat * shade[..., None])[ground]
        self.assertLess(float(apart.mean()), 0.01 * float(free.flat.mean()))

    def test_a_material_has_its_own_colour_in_drafts_as_in_renders(self) -> None:
        for material in (
            {"kind": "wood"},
            {"kind": "metal", "metal": "brass", "roughness": 0.4},
            {"kind": "plaster", "colour": layered({"kind": "pattern", "span": "surface", "size": 40})},
        ):
            piece = small_piece(backdrop={"material": material}, canvas={"width": 320, "height": 180})
            draft, render = drafted(piece), rendered(piece, 64)
            with self.subTest(material["kind"]):
                difference = np.abs(
                    draft[20:60, 20:100].mean(axis=(0, 1)) - render[20:60, 20:100].mean(axis=(0, 1))
                )
                self.assertLess(difference.max(), 0.1)

    def test_a_floor_and_its_wall_can_differ_and_meet_in_a_corner(self) -> None:
        backdrop = {
            "ground": "floor",
            "sweep": 0,
            "material": {"kind": "flat", "colour": "#c00000"},
            "wall": {"kind": "flat", "colour": "#0000c0"},
        }
        for shown in (drafted(small_piece(backdrop=backdrop)), rendered(small_piece(backdrop=backdrop), 8)):
            red, blue = shown[88, 4], shown[2, 4]
            self.assertGreater(red[0], 5 * red[2])
            self.assertGreater(blue[2], 5 * blue[0])
            column = shown[:, 4, 0] > 0.3
            # One line parts them: no band of a sweep between.
            self.assertEqual(int(np.abs(np.diff(column.astype(int))).sum()), 1)

    def test_layers_on_the_canvas_stay_where_the_letters_turn(self) -> None:
        """Over the canvas a picture is seen the same however the wall behind it stands; over the wall itself
        it turns with it."""
        shown = {}
        for span in ("canvas", "surface"):
            for turn in (0, 30):
                layer = {"kind": "picture", "span": span}
                backdrop = {"colour": layered(layer), "lit": 0, "shade": {"density": 0, "contact": 0}}
                view = {"projection": "parallel", "turn": {"y": turn}}
                shown[span, turn] = filmed(card(backdrop, view=view), 16).flat[:15]
        still = np.abs(shown["canvas", 0] - shown["canvas", 30]).mean()
        turned = np.abs(shown["surface", 0] - shown["surface", 30]).mean()
        self.assertLess(still, 0.1 * turned)


class ShadeTest(unittest.TestCase):
    """A card's shade on the wall behind it, far enough off to be seen whole."""

    def shade(self, samples: int = 256, **changed: object) -> Array:
        return filmed(card({"colour": "#808080", "gap": 20, "shade": changed}), samples).shade

    def test_off_is_off(self) -> None:
        self.assertGreater(self.shade(16, density=0, contact=0).min(), 0.999)

    def test_a_block_can_cast_none(self) -> None:
        """Neither of two cards does but the second: the shade is that of the second alone, in drafts too."""
        one = card({"colour": "#808080", "gap": 20}).blocks[0].model_dump()
        left, right = ({**one, "id": side, "place": {"x": x}} for side, x in (("left", -40), ("right", 40)))
        for glass in (False, True):
            surface = {"face": {"kind": "glass"}} if glass else BLACK
            blocks = [{**left, "surface": surface, "shades_ground": False}, {**right, "surface": surface}]
            piece = card({"colour": "#808080", "gap": 20}, blocks=blocks)
            shade, draft = 1 - filmed(piece, 32).shade, drafted(piece)
            with self.subTest(glass=glass):
                self.assertLess(shade[:, :75].max(), 1e-3)
                self.assertGreater(shade[:, 85:].max(), 0.1)
                self.assertGreater(draft[60:80, 20:60].min(), draft[60:80, 100:140].min() + 0.02)

    def test_density_and_tint_leave_their_share(self) -> None:
        deep = self.shade()
        half = self.shade(density=50)
        np.testing.assert_allclose(1 - half, (1 - deep) / 2, atol=0.06)
        light = filmed(card({"colour": "#808080", "gap": 20, "shade": {"tint": "#8080ff"}}), 64)
        dark = light.share(0)[light.shade < light.shade.min() + 0.02].mean(axis=0)
        free = light.share(0)[5, 5]
        np.testing.assert_allclose(dark / free, hex_to_linear("#8080ff"), atol=0.05)

    def test_it_is_moved_along_the_ground(self) -> None:
        """To the right and up by whole px: the same shade there."""
        still, moved = self.shade(), self.shade(x=12, y=6)
        far = np.s_[60:85, 20:140]
        self.assertLess(float(np.abs(moved[54:79, 32:152] - still[far]).mean()), 0.005)

    def test_softness_is_a_gaussian_over_it(self) -> None:
        hard, soft = 1 - self.shade(), 1 - self.shade(1024, softness=6)
        columns = np.s_[70:80]
        wanted = gaussian_filter1d(gaussian_filter1d(hard, 6, axis=0), 6, axis=1)[columns]
        self.assertLess(float(np.abs(soft[columns] - wanted).mean()), 0.03)

    def test_drafts_show_it_changed_too(self) -> None:
        """Darkest where it is in the render."""
        for changed in ({}, {"x": 20, "y": 0}, {"softness": 8}, {"density": 40}):
            piece = card(
                {"colour": "#c0c0c0", "gap": 20, "shade": changed}, canvas={"width": 320, "height": 180}
            )
            with self.subTest(**changed):
                below = np.s_[110:160]
                draft, render = (seen[below].mean(axis=(0, 2)) for seen in (drafted(piece), rendered(piece)))
                self.assertLess(float(np.abs(draft - render).mean()), 0.03)


class ReflectionTest(unittest.TestCase):
    def piece(self, **reflection: object) -> Piece:
        """A red card that shines, standing on a black floor, seen from a little above."""
        backdrop = {"ground": "floor", "colour": "#000000", "reflection": reflection or None}
        piece = card(
            backdrop, view={"turn": {}, "up": 40, "shift_y": 40}, light={"lamps": [], "surround": DARK}
        )
        flat = {"face": {"kind": "flat", "colour": "#ff0000"}}
        blocks = [piece.blocks[0].model_dump() | {"surface": flat}]
        return piece_from_values(piece.model_dump() | {"blocks": blocks})

    def test_letters_are_mirrored_below_their_feet_and_fade(self) -> None:
        for name, show in (("draft", drafted), ("render", rendered)):
            with self.subTest(name):
                mirrored = show(self.piece(strength=80, roughness=0, fade=12))
                column = mirrored[:, 80, 0]
                feet = int(np.flatnonzero(column > 0.9).max())
                below = column[feet + 2 : feet + 12]
                self.assertGreater(below[0], 0.5)
                self.assertTrue((np.diff(below) < 0.02).all())
                self.assertLess(below[-1], 0.5 * below[0])
                without = show(self.piece())[feet + 3 : feet + 12, 80, 0]
                # The paint has a dull gloss of its own.
                self.assertLess(without.max(), 0.5 * below[0])

    def feet(self) -> int:
        """The lowest row that shows the card."""
        return int(np.flatnonzero(filmed(self.piece(), 4).part_covers.sum(axis=2)[:, 80] > 0.5).max())

    def test_a_rough_one_is_softer(self) -> None:
        """Farther from the feet, its sides are less sharp."""
        rows = np.s_[self.feet() + 8 : self.feet() + 14]
        clear, rough = (filmed(self.piece(strength=100, roughness=r, fade=500), 128).flat for r in (0.0, 0.5))
        edges = [float(np.abs(np.diff(seen[rows, :, 0].mean(axis=0))).max()) for seen in (clear, rough)]
        self.assertLess(edges[1], 0.5 * edges[0])

    def test_a_transparent_picture_keeps_it(self) -> None:
        film = filmed(self.piece(strength=70, roughness=0, fade=500), 64, transparent=True)
        below = film.through[self.feet() + 2 : self.feet() + 6, 80, 0]
        self.assertLess(below.max(), 0.5)
        self.assertGreater(film.through[-2, 20, 0], 0.99)


class MeshTest(unittest.TestCase):
    def test_each_point_has_its_colour_and_none_goes_past_them(self) -> None:
        random = np.random.default_rng(5)
        colours = ["#f2b56b", "#c8506a", "#3f6f8c", "#2b2350", "#e8e0d0", "#101810"]
        for count in (1, 2, 3, 4, 6):
            points = tuple(
                MeshPoint(x=float(x), y=float(y), colour=colour)
                for (x, y), colour in zip(random.uniform(5, 95, (count, 2)), colours, strict=False)
            )
            pyramid = picture_of_mesh(Mesh(points=points))[1]
            light = light_of(pyramid, levels_of(pyramid)[0])
            size = light.shape[0]
            with self.subTest(count):
                for point in points:
                    at = light[int((1 - point.y / 100) * size), int(point.x / 100 * size), :3]
                    np.testing.assert_allclose(at, hex_to_linear(point.colour), atol=0.05)
                lab = linear_to_oklab(light[..., :3].reshape(-1, 3).astype(float))
                own = linear_to_oklab(np.array([hex_to_linear(point.colour) for point in points]))
                self.assertTrue(
                    (lab >= own.min(axis=0) - 0.02).all() and (lab <= own.max(axis=0) + 0.02).all()
                )

    def test_three_points_of_one_line_and_two_of_one_place_make_a_picture(self) -> None:
        for places in ([(0, 0), (50, 50), (100, 100)], [(50, 50), (50, 50)], [(0, 0), (0, 0), (100, 0)]):
            points = tuple(MeshPoint(x=x, y=y) for x, y in places)
            self.assertTrue(np.isfinite(light_of(*_first_level(Mesh(points=points)))).all())

    def test_a_backdrop_shows_it_over_the_canvas(self) -> None:
        """Its corners at the canvas' corners, on the letters' face at those of the block."""
        piece = small_piece(
            backdrop={"ground": "none", "colour": layered({"kind": "mesh"})},
            blocks=[{"words": "i", "size": 20}],
        )
        shown = drafted(piece)
        for point, (row, column) in zip(Mesh().points, ((0, 0), (0, -1), (-1, 0), (-1, -1)), strict=True):
            np.testing.assert_allclose(
                shown[row, column], linear_to_srgb(hex_to_linear(point.colour)), atol=0.03
            )


def _first_level(mesh: Mesh) -> tuple:
    pyramid = picture_of_mesh(mesh)[1]
    return pyramid, levels_of(pyramid)[0]


class BlurTest(unittest.TestCase):
    def test_a_blurred_picture_is_smooth_and_as_light_on_the_whole(self) -> None:
        sharp, soft = (
            filmed(
                card(
                    {"ground": "none", "colour": layered({"kind": "picture", "span": "canvas", "blur": blur})}
                ),
                8,
            ).flat
            for blur in (0, 4)
        )
        sky = np.s_[:30]
        np.testing.assert_allclose(sharp[sky].mean(axis=(0, 1)), soft[sky].mean(axis=(0, 1)), rtol=0.25)
        steps = [float(np.abs(np.diff(seen, axis=1)).max()) for seen in (sharp, soft)]
        self.assertLess(steps[1], 0.3 * steps[0])


class DocumentTest(unittest.TestCase):
    def test_older_backdrops_are_as_they_were(self) -> None:
        self.assertEqual(
            piece_from_values({"backdrop": {"ground": "wall", "gap": 3}}).backdrop, Backdrop(gap=3)
        )

    def test_glass_is_no_ground(self) -> None:
        with self.assertRaisesRegex(ValueError, "/backdrop/material"):
            piece_from_values({"backdrop": {"material": {"kind": "glass"}}})


if __name__ == "__main__":
    unittest.main()
