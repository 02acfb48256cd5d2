"""Sources: gradients against the formulas of CSS, OKLab against colour-science, blend modes against W3C's
formulas, footprints against many samples, and what is drawn against what was asked for."""

import math
import unittest

import colour
import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.orders import DraftOrder, SampledOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.finish.tone import to_display
from halvex.core.kernels import kernel
from halvex.core.optics.blending import BLENDS, blended_channel
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, srgb_to_linear
from halvex.core.optics.gradients import (
    CONIC,
    LINEAR,
    OVAL,
    POLYGON,
    RAMP,
    ROUND,
    along_gradient,
    colours_at,
    ramp_colour,
    ramp_of,
)
from halvex.core.optics.oklab import linear_to_oklab, oklab_to_linear
from halvex.core.optics.tone import CURVES, light_that_shows
from halvex.core.piece.gradient import Gradient, Stop
from halvex.core.piece.reading import PieceError, piece_from_values
from halvex.core.scene.scene import scene_of
from halvex.core.scene.travelling import scene_from_bytes, scene_to_bytes
from halvex.core.solids.extents import extents_of
from halvex.core.solids.mesh import PartOf
from tests.core.small_scenes import piece_of

F = np.float32
BLACK_TO_WHITE = [{"at": 0, "colour": "#000000"}, {"at": 100, "colour": "#ffffff"}]


@kernel
def place_along(shape, points, half_width, half_height, angle, scale, sides, found):
    for i in range(len(points)):
        found[i] = along_gradient(
            shape,
            points[i, 0],
            points[i, 1],
            half_width,
            half_height,
            F(math.cos(angle)),
            F(math.sin(angle)),
            scale,
            sides,
        )[0]


@kernel
def look_up(ramps, sums, places, width, repeated, found):
    for i in range(len(places)):
        found[i, 0], found[i, 1], found[i, 2], found[i, 3] = ramp_colour(
            ramps, sums, 0, places[i], width, repeated
        )


@kernel
def blend_all(mode, below, above, found):
    for i in range(len(below)):
        found[i] = blended_channel(mode, below[i], above[i])


def along(
    shape: int,
    points: list[tuple[float, float]],
    size: tuple[float, float],
    angle: float = 0.0,
    sides: int = 6,
) -> NDArray[np.float32]:
    """The shares (n,) of points about the middle of a span of this size."""
    found = np.zeros(len(points), np.float32)
    half = F(size[0] / 2), F(size[1] / 2)
    place_along(shape, np.array(points, F), *half, F(math.radians(angle)), F(1.0), F(sides), found)
    return found


def drawn(values: dict, samples: int | None = None) -> NDArray[np.float64]:
    """The picture (h, w, 3) of a piece, encoded, 0 to 1."""
    order = DraftOrder() if samples is None else SampledOrder(samples=samples)
    return np.asarray(render_piece(piece_from_values(values), order).display, float)


def layered(**gradient: object) -> dict:
    return {"base": "#40c0a0", "layers": [{"kind": "gradient", **gradient}]}


class ColoursTest(unittest.TestCase):
    def test_oklab_is_that_of_another_implementation(self) -> None:
        linear = np.random.default_rng(1).random((200, 3))
        theirs = colour.XYZ_to_Oklab(colour.RGB_to_XYZ(linear, "sRGB"))
        np.testing.assert_allclose(linear_to_oklab(linear), theirs, atol=2e-4)
        np.testing.assert_allclose(oklab_to_linear(linear_to_oklab(linear)), linear, atol=1e-9)

    def test_stops_are_mixed_premultiplied_in_the_space_asked_for(self) -> None:
        # CSS Color 4, 12.3: premultiply, interpolate, divide.
        stops = (Stop(at=0, colour="#2040ff", opacity=100), Stop(at=100, colour="#ffd020", opacity=20))
        for mix, into, back in (
            ("oklab", linear_to_oklab, oklab_to_linear),
            ("srgb", linear_to_srgb, srgb_to_linear),
            ("linear", np.asarray, np.asarray),
        ):
            one, other = into(hex_to_linear("#2040ff")), into(hex_to_linear("#ffd020"))
            alpha = 0.75 * 1.0 + 0.25 * 0.2
            mixed = np.clip(back((0.75 * one + 0.25 * 0.2 * other) / alpha), 0, 1)
            np.testing.assert_allclose(
                colours_at(stops, mix, np.array([0.25]))[0], [*(mixed * alpha), alpha], atol=1e-9
            )

    def test_stops_of_one_place_are_a_hard_break(self) -> None:
        stops = (
            Stop(at=0, colour="#ff0000"),
            Stop(at=50, colour="#ff0000"),
            Stop(at=50, colour="#0000ff"),
            Stop(at=100, colour="#0000ff"),
        )
        found = colours_at(stops, "oklab", np.array([0.4999, 0.5001]))
        np.testing.assert_allclose(found[:, :3], [[1, 0, 0], [0, 0, 1]], atol=1e-6)

    def test_hardness_draws_a_change_together(self) -> None:
        stops = (Stop(at=0, colour="#000000", hardness=50), Stop(at=100, colour="#ffffff"))
        found = colours_at(stops, "linear", np.array([0.2, 0.25, 0.5, 0.75, 0.8]))[:, 0]
        np.testing.assert_allclose(found, [0, 0, 0.5, 1, 1], atol=1e-9)
        hard = (Stop(at=0, colour="#000000", hardness=100), Stop(at=100, colour="#ffffff"))
        np.testing.assert_allclose(colours_at(hard, "srgb", np.array([0.49, 0.51]))[:, 0], [0, 1], atol=1e-9)

    def test_light_is_shown_as_the_colour_that_was_asked_for(self) -> None:
        colours = np.random.default_rng(3).random((300, 3)) * 0.75
        for curve in CURVES:
            light = np.array([light_that_shows(one, curve) for one in colours], np.float32)
            shown = to_display(light[None], 0.0, curve)[0]
            np.testing.assert_allclose(shown, linear_to_srgb(colours), atol=3e-3)

    def test_full_colours_keep_their_hue(self) -> None:
        for curve in CURVES:
            for channel in range(3):
                full = np.zeros(3)
                full[channel] = 1.0
                light = light_that_shows(full, curve).astype(np.float32)
                shown = to_display(light.reshape(1, 1, 3), 0.0, curve)[0, 0]
                self.assertGreater(shown[channel], 0.92)
                self.assertLess(np.delete(shown, channel).max(), 0.1)


class GradientTest(unittest.TestCase):
    def test_a_line_is_as_long_as_css_says(self) -> None:
        # CSS Images 4, 3.1.1: abs(W sin A) + abs(H cos A), A from the top; corners are at 0 and at 1.
        for bearing in (0, 30, 90, 117, 200, 270):
            a = math.radians(90 - bearing)
            length = abs(200 * math.sin(a)) + abs(80 * math.cos(a))
            c, s = math.cos(math.radians(bearing)), math.sin(math.radians(bearing))
            ends = [(-c * length / 2, -s * length / 2), (0.0, 0.0), (c * length / 2, s * length / 2)]
            np.testing.assert_allclose(along(LINEAR, ends, (200, 80), bearing), [0, 0.5, 1], atol=1e-5)

    def test_circles_and_ellipses_reach_the_corners(self) -> None:
        corners = [(100.0, 40.0), (-100.0, 40.0), (0.0, 0.0)]
        for shape in (ROUND, OVAL):
            np.testing.assert_allclose(along(shape, corners, (200, 80)), [1, 1, 0], atol=1e-5)
        # An ellipse keeps the span's proportions.
        np.testing.assert_allclose(
            along(OVAL, [(100.0, 0.0), (0.0, 40.0)], (200, 80)), [math.sqrt(0.5)] * 2, atol=1e-5
        )

    def test_a_polygon_is_level_along_its_sides(self) -> None:
        for sides in (3, 4, 7):
            turns = np.array([-0.3, 0.0, 0.2]) * 2 * math.pi / sides
            side = [(30.0, 30.0 * math.tan(turn)) for turn in turns]
            found = along(POLYGON, side, (100, 100), sides=sides)
            np.testing.assert_allclose(found, found[0], atol=1e-5)

    def test_a_conic_one_turns_from_its_bearing(self) -> None:
        points = [(math.cos(a), math.sin(a)) for a in np.radians([91, 180, 270, 359.9])]
        np.testing.assert_allclose(
            along(CONIC, points, (10, 10), 90), [1 / 360, 0.25, 0.5, 269.9 / 360], atol=1e-4
        )

    def test_a_footprint_takes_the_mean_of_what_it_covers(self) -> None:
        stops = (
            Stop(at=10, colour="#101010", hardness=100),
            Stop(at=40, colour="#f0f0f0", opacity=30),
            Stop(at=41, colour="#3060ff"),
            Stop(at=90, colour="#ff8020"),
        )
        ramp = ramp_of(Gradient(stops=stops))
        places = np.linspace(-0.4, 1.4, 61).astype(np.float32)
        for width in (0.003, 0.02, 0.4, 1.7):
            for repeated in (False, True):
                found = np.zeros((len(places), 4), np.float32)
                look_up(ramp.means, ramp.sums, places, F(width), repeated, found)
                within = (np.arange(1024) + 0.5) / 1024 - 0.5
                at = (places[:, None] + within * width).ravel().astype(np.float32)
                single = np.zeros((len(at), 4), np.float32)
                look_up(ramp.means, ramp.sums, at, F(0.0), repeated, single)
                expected = single.reshape(len(places), 1024, 4).mean(axis=1)
                # A width of a cell is its mean; single samples run between the cells' middles.
                np.testing.assert_allclose(found, expected, atol=0.6 / RAMP / width + 2e-3)

    def test_blend_modes_are_those_of_the_recommendation(self) -> None:
        # Compositing and Blending Level 1, 10.1: B(Cb, Cs), written out again.
        below, above = np.random.default_rng(5).random((2, 400))
        below[:3], above[:3] = (0, 1, 0.5), (1, 0, 0.5)
        hard = np.where(above <= 0.5, below * 2 * above, below + (2 * above - 1) * (1 - below))
        over = np.where(below <= 0.5, above * 2 * below, above + (2 * below - 1) * (1 - above))
        d = np.where(below <= 0.25, ((16 * below - 12) * below + 4) * below, np.sqrt(below))
        with np.errstate(divide="ignore", invalid="ignore"):
            dodge = np.where(below == 0, 0, np.where(above == 1, 1, np.minimum(1, below / (1 - above))))
            burn = np.where(below == 1, 1, np.where(above == 0, 0, 1 - np.minimum(1, (1 - below) / above)))
        expected = {
            "normal": above,
            "multiply": below * above,
            "screen": 1 - (1 - below) * (1 - above),
            "overlay": over,
            "darken": np.minimum(below, above),
            "lighten": np.maximum(below, above),
            "color-dodge": dodge,
            "color-burn": burn,
            "hard-light": hard,
            "soft-light": np.where(
                above <= 0.5,
                below - (1 - 2 * above) * below * (1 - below),
                below + (2 * above - 1) * (d - below),
            ),
            "difference": abs(below - above),
            "exclusion": below + above - 2 * below * above,
        }
        for number, name in enumerate(BLENDS[: len(expected)]):
            found = np.zeros(400, np.float32)
            blend_all(number, below.astype(np.float32), above.astype(np.float32), found)
            np.testing.assert_allclose(found, expected[name], atol=2e-5, err_msg=name)


class DrawnTest(unittest.TestCase):
    def test_a_gradient_lies_over_its_block(self) -> None:
        source = layered(bearing=0, mix="srgb", stops=BLACK_TO_WHITE)
        for samples in (None, 16):
            row = drawn(piece_of(source), samples)[90, 62:258, 1]
            expected = (np.arange(62, 258) + 0.5 - 60) / 200
            # The tone curve stops short of white.
            self.assertLess(float(np.abs(row - expected)[:180].max()), 2 / 255, samples)

    def test_it_is_in_a_scene_that_has_travelled(self) -> None:
        for source in (layered(bearing=0), "#40c0a0"):
            scene = scene_of(piece_from_values(piece_of(source)))
            there = scene_from_bytes(scene_to_bytes(scene))
            self.assertEqual(there.keys, scene.keys)
            for one, other in zip(there.materials.sources, scene.materials.sources, strict=True):
                np.testing.assert_array_equal(one, other)

    def test_it_goes_with_its_block(self) -> None:
        source = layered(shape="polygon", sides=5, bearing=0, repeated=True, scale=20, stops=BLACK_TO_WHITE)
        still = drawn(piece_of(source))
        moved = drawn(piece_of(source, place={"x": 30, "y": 20}))
        np.testing.assert_allclose(moved[15:110, 95:285], still[35:130, 65:255], atol=2 / 255)
        turned = drawn(piece_of(source, place={"turn": {"z": 180}}))
        np.testing.assert_allclose(turned[45:135, 65:255], still[::-1, ::-1][45:135, 65:255], atol=2 / 255)

    def test_two_stops_of_one_place_are_all_of_a_gradient(self) -> None:
        for at in (50, -1000, 1000):
            stops = [{"at": at, "colour": "#204060"}, {"at": at, "colour": "#c08040"}]
            picture = drawn(piece_of(layered(bearing=0, stops=stops)))
            left, right = picture[90, 100] * 255, picture[90, 220] * 255
            np.testing.assert_allclose(left, (0xC0, 0x80, 0x40) if at < 0 else (0x20, 0x40, 0x60), atol=1.5)
            np.testing.assert_allclose(right, (0x20, 0x40, 0x60) if at > 90 else (0xC0, 0x80, 0x40), atol=1.5)

    def test_layers_lie_over_each_other_and_the_base(self) -> None:
        half = [{"at": 0, "colour": "#ff0000", "opacity": 50}]
        source = {
            "base": "#004080",
            "layers": [
                {"kind": "gradient", "stops": half},
                {"kind": "gradient", "stops": [{"at": 0, "colour": "#808080"}], "blend": "multiply"},
            ],
        }
        found = drawn(piece_of(source))[90, 160]
        below = 0.5 * hex_to_linear("#ff0000") + 0.5 * hex_to_linear("#004080")
        expected = linear_to_srgb(below) * 128 / 255
        np.testing.assert_allclose(found, expected, atol=2 / 255)

    def test_a_gradient_of_one_colour_is_that_colour(self) -> None:
        stops = [{"at": 0, "colour": "#7a90b0"}, {"at": 100, "colour": "#7a90b0"}]
        for kind in ("metal", "plastic", "paint", "stone", "wood", "plaster", "glow", "flat"):
            for samples in (None, 4):
                plain = drawn(piece_of("#7a90b0", kind), samples)
                same = drawn(piece_of(layered(stops=stops), kind), samples)
                np.testing.assert_allclose(same, plain, atol=2.5 / 255, err_msg=f"{kind} {samples}")

    def test_depth_runs_from_the_face_to_the_back(self) -> None:
        values = piece_of("#808080")
        values["blocks"][0]["form"]["depth"] = 80
        values["blocks"][0]["surface"]["return"] = {
            "kind": "flat",
            "colour": layered(span="depth", mix="srgb", stops=BLACK_TO_WHITE),
        }
        values["view"]["turn"] = {"y": -60}
        row = drawn(values)[90, :, 1]
        begin, end = np.flatnonzero(row > 0.02)[[0, -1]]
        seen = row[begin : end + 1]
        deep = round(80 * math.sin(math.radians(60)))
        side = seen[-deep:] if abs(float(seen[deep // 2]) - 128 / 255) < 0.01 else seen[:deep]
        steps = np.diff(side[2:-2])
        self.assertTrue((np.abs(steps) < 0.03).all())
        self.assertTrue((steps >= -1 / 255).all() or (steps <= 1 / 255).all())
        self.assertGreater(float(np.ptp(side)), 0.8)

    def test_tones_follow_the_way_a_surface_faces(self) -> None:
        tones = [
            {"at": 0, "colour": "#c0b040"},
            {"at": 25, "colour": "#c0b040"},
            {"at": 25, "colour": "#207060"},
            {"at": 75, "colour": "#207060"},
            {"at": 75, "colour": "#802040"},
            {"at": 100, "colour": "#802040"},
        ]
        for compass, elevation, tone in (
            (0, 90, "#c0b040"),
            (0, 0, "#207060"),
            (200, 0, "#207060"),
            (0, -90, "#802040"),
            (45, 60, "#c0b040"),
        ):
            values = piece_of(layered(span="facing", stops=tones, compass=compass, elevation=elevation))
            expected = linear_to_srgb(hex_to_linear(tone))
            np.testing.assert_allclose(drawn(values)[90, 160], expected, atol=3 / 255)
        # Towards the first lamp, wherever that is: its own shadow side is behind the face.
        values = piece_of(layered(span="facing", towards="key lamp", stops=tones))
        for z, tone in ((900, "#c0b040"), (-900, "#802040")):
            values["light"] = {"lamps": [{"id": "key", "kind": "sun", "elevation": 90 if z > 0 else -90}]}
            expected = linear_to_srgb(hex_to_linear(tone))
            np.testing.assert_allclose(drawn(values)[90, 160], expected, atol=3 / 255)

    def test_tones_turn_with_their_block_and_not_with_the_key_lamp(self) -> None:
        halves = [
            {"at": 0, "colour": "#c0b040"},
            {"at": 45, "colour": "#c0b040"},
            {"at": 45, "colour": "#207060"},
        ]
        on_block = piece_of(layered(span="facing", stops=halves, compass=90, elevation=60))
        on_block["view"]["turn"] = {"x": 35}
        np.testing.assert_allclose(
            drawn(on_block)[90, 160], linear_to_srgb(hex_to_linear("#c0b040")), atol=3 / 255
        )


class SpanTest(unittest.TestCase):
    def test_words_and_letters_have_boxes_of_their_own(self) -> None:
        values = piece_of("#808080")
        values["blocks"] = [
            {
                "words": "Eel pie",
                "size": 60,
                "surface": {"face": {"kind": "flat", "colour": layered(span="word")}},
            }
        ]
        scene = scene_of(piece_from_values(values))
        words = np.unique(scene.spans[:, 1, :, 0], axis=0)
        self.assertEqual(len(scene.spans), 6)
        self.assertEqual(len(words), 2)
        self.assertLess(words[0, 1], words[1, 0])
        np.testing.assert_allclose(words[0], [scene.spans[:3, 0, 0, 0].min(), scene.spans[:3, 0, 1, 0].max()])

    def test_a_ring_is_as_long_as_its_outline_and_closes(self) -> None:
        for words, rings in (("I", 1), ("O", 2)):
            scene = scene_of(
                piece_from_values({"blocks": [{"words": words, "form": {"bevel": {"to_ridge": True}}}]})
            )
            mesh = scene.instances[0].body
            extents = extents_of(mesh)
            upright = mesh.part == PartOf.RETURN
            self.assertEqual(len(np.unique(extents[upright][:, 2].round(2))), rings)
            self.assertTrue((extents[mesh.part == PartOf.BEVEL, 2] > 0).all())
            self.assertTrue((extents[mesh.part == PartOf.BACK, 2] == 0).all())
            # Where the ring closes, its first point and its last are one.
            u = (mesh.uv[upright][:, :, 0] - extents[upright][:, :1]) / extents[upright][:, 2:3]
            points = mesh.positions[mesh.triangles[upright]]
            begin, end = points[u < 1e-6], points[u > 1 - 1e-6]
            gaps = np.linalg.norm(begin[:, None] - end[None], axis=2).min(axis=1)
            self.assertLess(float(gaps.max()), 1e-3)

    def test_strands_of_a_tube_are_measured_one_by_one(self) -> None:
        form = {"kind": "tube", "tube": {"radius": 6}}
        scene = scene_of(piece_from_values({"blocks": [{"words": "Ei", "size": 200, "form": form}]}))
        mesh = scene.instances[0].body
        extents = extents_of(mesh)
        self.assertTrue((extents[:, 2] > 0).all())
        self.assertGreater(len(np.unique(extents[:, 2].round(2))), 1)


class BadInputTest(unittest.TestCase):
    def refused(self, source: object) -> PieceError:
        with self.assertRaises(PieceError) as raised:
            piece_from_values(piece_of(source))
        return raised.exception

    def test_the_field_and_the_remedy_are_named(self) -> None:
        at = "/blocks/0/surface/face/colour"
        disordered = [{"at": 60, "colour": "#000000"}, {"at": 20, "colour": "#ffffff"}]
        for source, field, remedy in (
            (layered(stops=[]), f"{at}/layers/0/stops", "add one"),
            (layered(stops=disordered), f"{at}/layers/0/stops", "put them in order"),
            (layered(stops=[{"colour": "#ffffff"}] * 40), f"{at}/layers/0/stops", "take some away"),
            ({"layers": [{}] * 9}, f"{at}/layers", "take some away"),
            ({"base": "red"}, f"{at}/base", "match"),
            ({"base": "#ffffff", "layer": []}, f"{at}/layer", "not permitted"),
            ("red", at, "match"),
            (7, at, "string"),
        ):
            fault = self.refused(source)
            self.assertEqual(fault.field, field)
            self.assertIn(remedy, str(fault))


if __name__ == "__main__":
    unittest.main()
