"""What effects work on, go around and are coloured by; and blur by distance."""

import unittest
from unittest import mock

import numpy as np
import shapely
from scipy.ndimage import binary_dilation, gaussian_filter

from halvex.core.finish.covering import coverage
from halvex.core.finish.defocus import how_far_off
from halvex.core.finish.orders import DraftOrder, FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb
from halvex.core.optics.gradients import colours_at
from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.piece.effects import Blur, Gloss, Halo, Keyline, Vignette
from halvex.core.piece.gradient import Gradient, Stop
from halvex.core.piece.source import Layered
from halvex.core.scene import Scene, outlines, scene_of
from halvex.core.scene.camera import lettering_to_picture
from tests.core.effect_plates import LETTER, area_along, plate_of, worked
from tests.core.small_scenes import small_piece

RED, BLUE = ({"kind": "flat", "colour": colour} for colour in ("#c03020", "#2040c0"))
FLAT_FORM = {"depth": 12, "bevel": {"width": 4, "height": 4}}


def two_cards(finish: list[dict], **changes: object) -> Piece:
    """Two cards side by side, red and blue, of the blocks left and right."""
    card = {"kind": "shape", "shape": "rectangle", "width": 60, "height": 60, "form": FLAT_FORM}
    blocks = [
        {**card, "id": "left", "place": {"x": -40}, "surface": {"face": RED}},
        {**card, "id": "right", "place": {"x": 40}, "surface": {"face": BLUE}},
    ]
    values = {
        "canvas": {"width": 160, "height": 90},
        "blocks": blocks,
        "view": {"projection": "parallel"},
        "backdrop": {"ground": "none", "colour": "#808080"},
        "finish": finish,
        **changes,
    }
    return piece_from_values(values)


def grey(target: str) -> dict:
    return {"kind": "tone", "saturation": -100, "target": target}


def colourful(shown: np.ndarray) -> float:
    """How far a patch is from grey."""
    return float(np.ptp(shown.reshape(-1, 3).mean(axis=0)))


class TargetTest(unittest.TestCase):
    def shown(self, piece: Piece) -> dict[str, np.ndarray]:
        return {
            "draft": render_piece(piece, DraftOrder()).display,
            "render": render_piece(piece, FinalOrder(samples=8)).display,
        }

    def test_one_block(self) -> None:
        """The right card turns grey, the left one stays red; a block that is gone is nothing."""
        left, right = np.s_[40:50, 35:45], np.s_[40:50, 115:125]
        for name, shown in self.shown(two_cards([grey("block:right")])).items():
            with self.subTest(name):
                self.assertGreater(colourful(shown[left]), 0.4)
                self.assertLess(colourful(shown[right]), 0.03)
        for name, shown in self.shown(two_cards([grey("block:gone")])).items():
            with self.subTest(name):
                self.assertGreater(colourful(shown[right]), 0.4)

    def test_one_part(self) -> None:
        """Bevels turn grey, faces stay as they are."""
        bevel = np.s_[35:55, 11:13]
        for name, shown in self.shown(two_cards([grey("part:bevel")])).items():
            with self.subTest(name):
                self.assertGreater(colourful(shown[40:50, 35:45]), 0.4)
                self.assertLess(colourful(shown[bevel]), 0.06)

    def test_the_light_of_one_lamp(self) -> None:
        """Where the red lamp lights a wall it loses its colour; where the blue one does, it stays."""
        lamp = {"kind": "bulb", "distance": 60, "width": 10, "elevation": 20}
        lamps = [
            {**lamp, "id": "warm", "colour": "#ff2010", "bearing": 180, "aim": {"x": -40}},
            {**lamp, "id": "cool", "colour": "#1030ff", "bearing": 0, "aim": {"x": 40}},
        ]
        light = {"lamps": lamps, "surround": {"kind": "plain", "strength": -30}}
        backdrop = {"colour": "#a0a0a0"}
        plain = self.shown(two_cards([], light=light, backdrop=backdrop))
        changed = self.shown(two_cards([grey("light:warm")], light=light, backdrop=backdrop))
        for name in plain:
            with self.subTest(name):
                warm, cool = np.s_[30:60, 2:8], np.s_[30:60, 152:158]
                self.assertLess(colourful(changed[name][warm]), 0.35 * colourful(plain[name][warm]))
                self.assertGreater(colourful(changed[name][cool]), 0.65 * colourful(plain[name][cool]))

    def test_keylines_and_halos_go_around_one_block(self) -> None:
        for effect in ({"kind": "keyline", "width": 4, "colour": "#00ff00"}, {"kind": "halo", "radius": 4}):
            piece = two_cards([{**effect, "target": "block:left"}])
            plain, changed = two_cards([]), render_piece(piece, FinalOrder(samples=8)).display
            apart = np.abs(changed - render_piece(plain, FinalOrder(samples=8)).display).max(axis=2)
            with self.subTest(effect["kind"]):
                self.assertGreater(apart[:, :75].max(), 0.2)
                self.assertLess(apart[:, 100:].max(), 0.03)

    def test_what_is_no_target_is_refused(self) -> None:
        for target in ("sky", "part:ear", "block:", "light:"):
            with self.subTest(target), self.assertRaisesRegex(PieceError, "/finish/0/target"):
                two_cards([grey(target)])


class LayeredColourTest(unittest.TestCase):
    """Colours of effects may be layers, laid over the canvas."""

    COLOUR = Layered(
        base="#000000",
        layers=(
            Gradient(
                bearing=0, mix="srgb", stops=(Stop(at=0, colour="#203080"), Stop(at=100, colour="#e0c040"))
            ),
        ),
    )

    def test_a_keyline_has_the_colour_of_its_place(self) -> None:
        plate = worked([Keyline(width=8, colour=self.COLOUR)], plate_of())
        line = coverage(area_along(LETTER, Keyline(width=8), 1.0), 320, 180) > 0.999
        rows, columns = np.nonzero(line)
        wanted = colours_at(self.COLOUR.layers[0].stops, "srgb", (columns + 0.5) / 320)[:, :3]
        np.testing.assert_allclose(plate.light[rows, columns], wanted, atol=0.01)

    def test_one_colour_as_a_layer_is_that_colour(self) -> None:
        """Of every effect that has one, opaque and clear."""
        for kind in (Keyline, Halo, Gloss, Vignette):
            for clear in (False, True):
                one, layered = (
                    worked([kind(colour=colour)], plate_of(clear=clear))
                    for colour in ("#3070a0", Layered(base="#3070a0", layers=()))
                )
                with self.subTest(kind.__name__, clear=clear):
                    np.testing.assert_allclose(one.light, layered.light, atol=1e-5)


class OverlapTest(unittest.TestCase):
    """Two cards of which the right one lies over the left one: their faces go from 44 to 96 px and from 64 to
    116 px across, their bevels 4 px farther."""

    def shown(self, effect: dict, lift: float) -> np.ndarray:
        """The colours of the row through the middle of both."""
        piece = two_cards([effect])
        blocks = [
            block.model_copy(update={"place": block.place.model_copy(update=place)})
            for block, place in zip(piece.blocks, ({"x": -10.0}, {"x": 10.0, "z": lift}), strict=True)
        ]
        return render_piece(piece.model_copy(update={"blocks": tuple(blocks)}), DraftOrder()).display[45]

    def test_what_stands_before_a_keyline_hides_it(self) -> None:
        line = {"kind": "keyline", "width": 4, "colour": "#ffffff"}
        above, beside = self.shown(line, 40), self.shown(line, 0)
        for column in (44, 64, 116):
            self.assertGreater(above[column - 1 : column + 1].min(), 0.95)
        # The left card's right edge lies under the right card.
        np.testing.assert_allclose(above[94:98], above[[90] * 4], atol=0.02)
        # Side by side they are one shape.
        for column in (64, 96):
            self.assertLess(beside[column - 1 : column + 1].min(), 0.6)

    def test_gloss_lies_on_what_is_seen(self) -> None:
        gloss = {"kind": "gloss", "height": 100, "fade": 0, "strength": 100, "blend": "normal"}
        target = {**gloss, "target": "block:left"}
        shown = self.shown(target, 40)
        self.assertGreater(shown[45:55].min(), 0.9)
        self.assertLess(shown[65:95].min(axis=1).max(), 0.6)


class ToneEdgeTest(unittest.TestCase):
    """Lines where graphic tones change, against the picture of the tones without them."""

    STOPS = tuple(
        {"at": at, "colour": colour}
        for at, colour in (
            (0, "#e8d8a0"),
            (30, "#e8d8a0"),
            (30, "#c05030"),
            (48, "#c05030"),
            (48, "#502040"),
            (100, "#502040"),
        )
    )

    def shown(self, finish: list[dict], profile: str) -> np.ndarray:
        colour = {
            "base": "#808080",
            "layers": [{"kind": "gradient", "span": "facing", "stops": self.STOPS}],
        }
        flat = {"kind": "flat", "colour": colour}
        block = {
            "words": "B8",
            "size": 170,
            "typeface": "alfa-slab-one",
            "form": {"depth": 50, "bevel": {"width": 12, "height": 9, "profile": profile}},
            "surface": {"face": flat, "bevel": flat, "return": flat},
        }
        piece = piece_from_values(
            {
                "canvas": {"width": 480, "height": 270},
                "blocks": [block],
                "view": {"turn": {"x": 20, "y": -30}},
                "finish": finish,
            }
        )
        return render_piece(piece, DraftOrder()).display

    def test_lines_lie_where_tones_change_and_nowhere_else(self) -> None:
        line = {"kind": "keyline", "around": "tones", "width": 2, "colour": "#00ff00"}
        tones = [linear_to_srgb(hex_to_linear(stop["colour"])) for stop in self.STOPS[::2]]
        for profile in ("chamfer", "ovolo"):
            plain, lined = self.shown([], profile), self.shown([line], profile)
            # Which tone a px shows, or none: an edge that is smoothed, or the ground.
            apart = np.stack([np.abs(plain - tone).max(axis=2) for tone in tones], axis=2)
            tone = np.where(apart.min(axis=2) < 0.02, apart.argmin(axis=2), -1)
            changes = np.zeros(tone.shape, bool)
            for near, far in ((tone[:, :-1], tone[:, 1:]), (tone[:-1], tone[1:])):
                met = (near != far) & (near >= 0) & (far >= 0)
                changes[: met.shape[0], : met.shape[1]] |= met
            green = (lined[..., 1] > 0.9) & (lined[..., 0] < 0.4)
            with self.subTest(profile):
                self.assertGreater(int(changes.sum()), 500)
                near_green = binary_dilation(green, iterations=2)
                self.assertGreater(float(near_green[changes].mean()), 0.97)
                # Contours within the letters are lined also where both sides have one tone.
                near_change = binary_dilation(changes, iterations=3)
                self.assertGreater(float(near_change[green].mean()), 0.93)


class SilhouetteTest(unittest.TestCase):
    """Outlines of whole bodies, against all their triangles that face the camera, joined by shapely."""

    def of(self, **changes: object) -> Scene:
        form = {"depth": 30, "bevel": {"width": 4, "height": 4}}
        block = {"words": "B8", "size": 70, "typeface": "alfa-slab-one", "form": form}
        return scene_of(small_piece(**{"blocks": [block], "view": {"turn": {"x": 20, "y": -35}}, **changes}))

    def joined(self, scene: Scene, number: int) -> shapely.Geometry:
        body, transform = scene.instances[number].body, scene.instances[number].transform
        placed = body.positions @ transform[:, :3].T + transform[:, 3]
        projection = lettering_to_picture(scene.camera, scene.turn.astype(np.float32))
        x, y, _, weight = projection @ np.column_stack([placed, np.ones(len(placed))]).T
        corners = np.column_stack([x / weight, y / weight])[body.triangles]
        ways = np.diff(corners, axis=1)
        facing = ways[:, 0, 0] * ways[:, 1, 1] - ways[:, 0, 1] * ways[:, 1, 0] < -1e-9
        return shapely.union_all(shapely.polygons(corners[facing]))

    def test_letters_seen_from_all_around(self) -> None:
        for turn, projection in (
            ({}, "central"),
            ({"x": -50, "y": 60, "z": 20}, "central"),
            ({"y": 170}, "parallel"),
        ):
            scene = self.of(view={"turn": turn, "projection": projection})
            for number, seen in enumerate(scene.silhouettes(plates=False)):
                wanted = self.joined(scene, number)
                with self.subTest(turn, letter=number):
                    apart = shapely.symmetric_difference(seen.area, wanted).area
                    self.assertLess(apart, 1e-3 * wanted.area)

    def test_a_letter_that_is_twisted_several_times(self) -> None:
        """Its border crosses itself so often that it is divided, until no part does."""
        block = {"words": "W", "size": 70, "form": {"depth": 200, "run": {"turn": 700}}}
        scene = self.of(blocks=[block], view={"turn": {"x": 20, "y": -60}})
        with mock.patch.object(outlines, "_covered", wraps=outlines._covered) as covered:
            (seen,) = scene.silhouettes(plates=False)
        wanted = self.joined(scene, 0)
        self.assertLess(shapely.symmetric_difference(seen.area, wanted).area, 1e-3 * wanted.area)
        borders = [shapely.linestrings(call.args[0]) for call in covered.call_args_list]
        self.assertGreater(len(borders), 3)
        for edges in borders:
            crossings = len(shapely.STRtree(edges).query(edges)[0]) // 2
            self.assertLessEqual(
                crossings, max(2 * outlines.MOST_CROSSINGS * len(edges), outlines.SHORT_BORDER**2 // 2)
            )

    def test_plates_are_apart_from_letters_and_tubes_have_silhouettes(self) -> None:
        plated = {"words": "Be", "size": 60, "form": {"plates": [{}]}}
        scene = self.of(blocks=[plated])
        letters, plates = (scene.silhouettes(plates=of_plates) for of_plates in (False, True))
        self.assertEqual((len(letters), len(plates) > 0), (2, True))
        self.assertGreater(sum(p.area.area for p in plates), sum(letter.area.area for letter in letters))
        tube = self.of(blocks=[{"words": "o", "size": 60, "form": {"kind": "tube"}}])
        self.assertEqual(tube.faces(), ())
        self.assertGreater(tube.silhouettes(plates=False)[0].area.area, 100)

    def test_a_keyline_goes_around_it(self) -> None:
        """The line lies where the render's letters end."""
        line = {
            "kind": "keyline",
            "around": "silhouette",
            "place": "outside",
            "width": 3,
            "colour": "#00ff00",
        }
        block = {"words": "B", "size": 70, "form": {"depth": 40}}
        piece = small_piece(blocks=[block], finish=[line], view={"turn": {"y": -35}})
        shown = render_piece(piece, FinalOrder(samples=16)).display
        green = (shown[..., 1] > 0.9) & (shown[..., 0] < 0.2)
        letters = render_piece(piece.model_copy(update={"finish": ()}), FinalOrder(samples=16, layers=True))
        cover = sum(image for name, image in (letters.layers or {}).items() if name.startswith("mask."))
        cover = cover - (letters.layers or {})["mask.ground"]
        self.assertGreater(green.sum(), 300)
        self.assertLess(float((cover[green] > 0.5).mean()), 0.02)


class DefocusTest(unittest.TestCase):
    def test_what_is_in_focus_stays_and_does_not_glow(self) -> None:
        """The letter keeps its colours; the backdrop beside it takes none of them."""
        plain, blurred = plate_of(), worked([Blur(radius=20, reach=100)], plate_of())
        letter = plain.letters > 0.999
        np.testing.assert_allclose(blurred.light[letter], np.clip(plain.light[letter], 0, 1), atol=1e-3)
        ground = plain.letters < 0.001
        np.testing.assert_allclose(blurred.light[ground], 0.1, atol=0.02)

    def test_what_is_far_is_blurred_as_by_scipy(self) -> None:
        plate = plate_of()
        plate.covers = {**plate.covers, "depth": np.full_like(plate.letters, -500)}
        wanted = gaussian_filter(plate.light, (5, 5, 0), mode="nearest")
        found = worked([Blur(radius=10, reach=100)], plate).light
        np.testing.assert_allclose(found, np.clip(wanted, 0, 1), atol=0.02)

    def test_it_grows_with_distance_on_the_side_that_is_asked(self) -> None:
        depth = np.array([[-200.0, -50.0, 0.0, 50.0, 200.0]], np.float32)
        for side, wanted in (
            ("behind", [1, 0.5, 0, 0, 0]),
            ("before", [0, 0, 0, 0.5, 1]),
            ("both", [1, 0.5, 0, 0.5, 1]),
        ):
            np.testing.assert_allclose(how_far_off(depth, Blur(side=side, reach=100))[0], wanted, atol=1e-6)

    def test_drafts_and_renders_know_how_far_off_things_are(self) -> None:
        """A card far behind is blurred, the one in focus stays sharp."""
        blocks = [block.model_dump() for block in two_cards([]).blocks]
        blocks[1]["place"]["z"] = -300
        piece = two_cards([{"kind": "blur", "radius": 12}], blocks=blocks)
        for order in (DraftOrder(), FinalOrder(samples=16)):
            shown = render_piece(piece, order).display
            edges = np.abs(np.diff(shown[45], axis=0)).max(axis=1)
            with self.subTest(type(order).__name__):
                self.assertGreater(edges[:75].max(), 3 * edges[100:].max())


if __name__ == "__main__":
    unittest.main()
