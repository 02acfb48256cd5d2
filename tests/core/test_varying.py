"""What layers make of a material besides its main colour: roughness, brush, relief, depths and strengths,
tinted glass, embossing; and masks."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from halvex.core.assets import SHIPPED, Assets
from halvex.core.kernels import kernel
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.material import ALPHA, LEVELS, pack_materials
from halvex.core.optics.sources import mean_number
from halvex.core.piece.material import Glass, Glow, Metal
from halvex.core.piece.reading import PieceError, piece_from_values
from halvex.core.piece.varying import VariedRoughness
from halvex.core.render.assembling import make_world
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.film import add_samples, light_levels
from halvex.core.render.hits import FAR, first_hit
from halvex.core.render.interaction import appearance, shading_frame, surface_at
from halvex.core.render.shadow import shadow
from halvex.core.render.work import shared_pool
from halvex.core.render.world import World, make_scratch
from halvex.core.scene.scene import scene_of
from tests.core.small_scenes import new_film, piece_of

F = np.float32
# Dark at the left edge of a block, light at its right one.
ACROSS = {
    "kind": "gradient",
    "bearing": 0,
    "mix": "srgb",
    "stops": [{"at": 0, "colour": "#000000"}, {"at": 100, "colour": "#ffffff"}],
}


@kernel
def look_at(world, places, scratch, bases, normals, brushes, pearls, made_of):
    """What is seen square on at places (n, 2): base, normal, way of the brush and pearl, each (n, 3), and
    material (n,)."""
    for n in range(len(places)):
        o, d = (places[n, 0], places[n, 1], F(500.0)), (F(0.0), F(0.0), F(-1.0))
        hit = first_hit(world, o, d, FAR, scratch)
        base, si = appearance(world, surface_at(world, o, d, hit))
        brush = shading_frame(world, si, si.ns)[0]
        made_of[n] = si.material
        for c in range(3):
            bases[n, c], normals[n, c], brushes[n, c] = base[c], si.ns[c], brush[c]
            pearls[n, c] = si.pearl[c]


@kernel
def left_along(world, o, far, scratch):
    return shadow(world, o, (F(0.0), F(0.0), F(-1.0)), far, False, False, scratch)


class Seen:
    """A rectangle of 200 × 100 px about the middle, seen square on at places (n, 2)."""

    def __init__(self, face: dict, places: object, *, assets: Assets | None = None, **block: object):
        values = piece_of("#ffffff", **block)
        values["blocks"][0]["surface"] = {"face": face}
        piece = piece_from_values(values)
        self.world: World = make_world(scene_of(piece) if assets is None else scene_of(piece, assets=assets))
        at = np.array(places, np.float32).reshape(-1, 2)
        looked_up = [np.zeros((len(at), 3), np.float32) for _ in range(4)]
        self.bases, self.normals, self.brushes, self.pearls = looked_up
        self.made_of = np.zeros(len(at), np.int32)
        look_at(self.world, at, make_scratch(), *looked_up, self.made_of)


def spread(count: int = 4000, seed: int = 3) -> NDArray[np.float64]:
    return np.random.default_rng(seed).uniform((-99, -49), (99, 49), (count, 2))


class RoughnessTest(unittest.TestCase):
    def test_it_follows_the_tones(self) -> None:
        """One of two adjacent levels is chosen at random, so that their mean is the roughness in between."""
        face = {"kind": "metal", "roughness": {"dark": 0.1, "light": 0.7, "layers": [ACROSS]}}
        places = spread(20_000)
        seen = Seen(face, places)
        rough = np.sqrt(seen.world.materials.params[seen.made_of, ALPHA])
        expected = 0.1 + 0.6 * (places[:, 0] + 100) / 200
        self.assertLess(np.abs(rough - expected).max(), 0.6 / (LEVELS - 1) * 1.1)
        for x in range(-90, 100, 20):
            near = np.abs(places[:, 0] - x) < 9
            self.assertAlmostEqual(float((rough - expected)[near].mean()), 0, delta=0.002)

    def test_one_that_is_the_same_everywhere_is_that_number(self) -> None:
        varied = VariedRoughness(dark=0.3, light=0.3)
        for plain, other in (
            (Metal(roughness=0.3), Metal(roughness=varied)),
            (Glass(roughness=0.3), Glass(roughness=varied)),
        ):
            one, several = pack_materials([plain]), pack_materials([other])
            self.assertEqual(len(several.kind), 1 + LEVELS)
            np.testing.assert_allclose(several.params, np.repeat(one.params, 1 + LEVELS, axis=0), atol=1e-6)
            np.testing.assert_allclose(several.albedo, np.repeat(one.albedo, 1 + LEVELS, axis=0), atol=2e-3)

    def test_without_layers_it_is_dark(self) -> None:
        self.assertEqual(mean_number(VariedRoughness(dark=0.2, light=0.9, layers=())), 0.2)
        self.assertAlmostEqual(
            float(pack_materials([Metal(roughness=VariedRoughness(dark=0.2, layers=()))]).params[0, ALPHA]),
            0.04,
            places=6,
        )


# Red on the left, green on the right.
HALVES = {**ACROSS, "stops": [{"at": 50, "colour": "#c02020"}, {"at": 50, "colour": "#20a040"}]}


class PearlTest(unittest.TestCase):
    def face(self, pearl: object, **more: object) -> dict:
        return {"kind": "plastic", "colour": "#8090a0", "pearl": 60, "pearl_colour": pearl, **more}

    def test_it_has_the_colour_that_its_layers_say(self) -> None:
        colour = {"base": "#ffffff", "layers": [HALVES]}
        rough = {"dark": 0.1, "light": 0.5, "layers": [ACROSS]}
        for more in ({}, {"roughness": rough}, {"colour": {"base": "#000000", "layers": [ACROSS]}}):
            pearls = Seen(self.face(colour, **more), [(-60, 0), (60, 0)]).pearls
            np.testing.assert_allclose(pearls[0], hex_to_linear("#c02020"), atol=1e-5)
            np.testing.assert_allclose(pearls[1], hex_to_linear("#20a040"), atol=1e-5)

    def test_without_layers_it_is_that_of_the_material(self) -> None:
        np.testing.assert_allclose(Seen(self.face("#c02020"), [(0, 0)]).pearls[0], hex_to_linear("#c02020"))

    def test_pictures_and_drafts_show_each_colour_as_if_it_were_the_only_one(self) -> None:
        def pictures(colour: object) -> list[NDArray[np.float32]]:
            values = piece_of("#8090a0", "plastic")
            values["blocks"][0]["surface"]["face"] = self.face(colour)
            scene = scene_of(piece_from_values(values))
            world = make_world(scene)
            film = new_film(world, 320, 180)
            add_samples(world, film, 16, pool=shared_pool())
            return [
                film.develop(light_levels(world)),
                Sketcher().draw(scene, 320, 180, pool=shared_pool()).light,
            ]

        both = pictures({"base": "#ffffff", "layers": [HALVES]})
        for side, colour in ((slice(100, 150), "#c02020"), (slice(170, 220), "#20a040")):
            for mixed, alone in zip(both, pictures(colour), strict=True):
                np.testing.assert_allclose(
                    mixed[60:120, side].mean(axis=(0, 1)), alone[60:120, side].mean(axis=(0, 1)), rtol=0.01
                )


class NumbersTest(unittest.TestCase):
    def test_a_brush_turns_with_the_tones(self) -> None:
        bearing = {"dark": 0, "light": 90, "layers": [ACROSS]}
        places = np.array([[x, 0] for x in (-80.0, -40.0, 0.0, 40.0, 80.0)])
        seen = Seen({"kind": "metal", "brushed": 80, "brush_bearing": bearing}, places)
        found = np.degrees(np.arctan2(seen.brushes[:, 1], seen.brushes[:, 0])) % 180
        np.testing.assert_allclose(found, 90 * (places[:, 0] + 100) / 200, atol=0.5)

    def test_a_glow_is_as_strong_as_the_tones_say(self) -> None:
        strength = {"dark": -1, "light": 3, "layers": [ACROSS]}
        places = [[-99.9, 0], [0, 0], [99.9, 0]]
        seen = Seen({"kind": "glow", "colour": "#ffffff", "strength": strength}, places)
        np.testing.assert_allclose(seen.bases[:, 0], [0.5, 2.0, 8.0], rtol=0.02)
        plain = pack_materials([Glow(colour="#ffffff", strength=1)]).params[0, 0]
        self.assertAlmostEqual(float(plain), 2.0, places=5)

    def test_relief_follows_the_tones(self) -> None:
        """Half of the plaster is as rough as plain plaster of that relief, the other half is smooth."""
        halves = {**ACROSS, "stops": [{"at": 50, "colour": "#000000"}, {"at": 50, "colour": "#ffffff"}]}
        places = spread(2000)
        plain = Seen({"kind": "plaster", "relief": 0.8}, places)
        seen = Seen({"kind": "plaster", "relief": {"dark": 0, "light": 0.8, "layers": [halves]}}, places)
        left, right = places[:, 0] < -1, places[:, 0] > 1
        np.testing.assert_allclose(seen.normals[left], np.tile([0, 0, 1], (left.sum(), 1)), atol=1e-6)
        np.testing.assert_allclose(seen.normals[right], plain.normals[right], atol=1e-4)

    def test_a_number_out_of_range_names_the_field(self) -> None:
        for at, value, field in (
            ("roughness", {"dark": 2}, "/blocks/0/surface/face/roughness/dark"),
            ("roughness", 2, "/blocks/0/surface/face/roughness"),
            ("coat", {"index": 0.5}, "/blocks/0/surface/face/coat/index"),
            ("embossing", {"layers": [{"kind": "cloth"}]}, "/blocks/0/surface/face/embossing/layers/0"),
        ):
            values = piece_of("#ffffff")
            values["blocks"][0]["surface"] = {"face": {"kind": "metal", at: value}}
            with self.assertRaises(PieceError) as caught:
                piece_from_values(values)
            self.assertEqual(caught.exception.field, field)


class GlassTest(unittest.TestCase):
    """What glass absorbs per px where a path enters it: Beer-Lambert's law gives back the tint."""

    def test_its_tint_can_be_a_gradient(self) -> None:
        stops = [{"at": 0, "colour": "#40c0e0"}, {"at": 100, "colour": "#d04080"}]
        tint = {"base": "#ffffff", "layers": [{**ACROSS, "mix": "linear", "stops": stops}]}
        places = np.array([[x, 0] for x in (-80.0, 0.0, 80.0)])
        seen = Seen({"kind": "glass", "tint": tint, "tint_depth": 10}, places)
        shares = (places[:, :1] + 100) / 200
        mixed = hex_to_linear("#40c0e0") * (1 - shares) + hex_to_linear("#d04080") * shares
        np.testing.assert_allclose(np.exp(-10 * seen.bases), mixed, rtol=0.01)

    def test_the_depth_of_a_tint_follows_the_tones(self) -> None:
        depth = {"dark": 40, "light": 10, "layers": [ACROSS]}
        places = np.array([[x, 0] for x in (-80.0, 80.0)])
        seen = Seen({"kind": "glass", "tint": "#808080", "tint_depth": depth}, places)
        within = 40 - 30 * (places[:, 0] + 100) / 200
        tint = float(hex_to_linear("#808080")[0])
        np.testing.assert_allclose(np.exp(-seen.bases[:, 0] * within), tint, rtol=0.01)

    def test_its_shadow_has_the_mean_tint(self) -> None:
        """A slab of 10 px, two walls of 4 % each (Fresnel at an index of 1.5)."""
        seen = Seen({"kind": "glass", "tint": "#808080", "tint_depth": 10}, [[0, 0]])
        share = left_along(seen.world, (F(0), F(0), F(50)), F(200), make_scratch())
        self.assertAlmostEqual(float(share[0]), 0.96**2 * float(hex_to_linear("#808080")[0]), delta=4e-3)


class MaskTest(unittest.TestCase):
    def test_the_layer_above_shows_as_far_as_the_mask_is_light(self) -> None:
        """CSS Masking 1, 6.1: a luminance mask counts by its luminance times its opacity; here by its tone,
        as pictures have it."""
        mask = {**ACROSS, "masks": True}
        above = {"kind": "gradient", "stops": [{"at": 0, "colour": "#ffffff"}]}
        places = np.array([[x, 0] for x in (-75.0, 0.0, 75.0)])
        face = {"kind": "paint", "colour": {"base": "#000000", "layers": [mask, above]}}
        np.testing.assert_allclose(Seen(face, places).bases[:, 0], (places[:, 0] + 100) / 200, atol=0.01)

    def test_it_masks_one_layer_alone_and_by_its_strength(self) -> None:
        nothing = {"kind": "gradient", "masks": True, "stops": [{"at": 0, "colour": "#000000"}]}
        white = {"kind": "gradient", "stops": [{"at": 0, "colour": "#ffffff"}]}
        red = {"kind": "gradient", "blend": "multiply", "stops": [{"at": 0, "colour": "#ff0000"}]}
        for layers, expected in (
            ([nothing, white], (0, 0, 0)),
            ([nothing, red, white], (1, 1, 1)),
            ([{**nothing, "strength": 25}, white], (0.75, 0.75, 0.75)),
            ([nothing], (0, 0, 0)),
        ):
            face = {"kind": "paint", "colour": {"base": "#000000", "layers": layers}}
            np.testing.assert_allclose(Seen(face, [[0, 0]]).bases[0], expected, atol=1e-3)


class EmbossingTest(unittest.TestCase):
    def picture(self, pixels: NDArray[np.uint8]) -> Assets:
        """Assets with a picture of these, called “it”."""
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        Image.fromarray(pixels).save(folder / "it.png")
        empty = folder / "none"
        return SHIPPED | Assets.of(typefaces=empty, panoramas=empty, pictures=folder)

    def slopes(self, embossing: dict, places: object, **more: object) -> NDArray[np.float64]:
        """Slopes (n, 2) of the surface to the right and up."""
        normals = Seen({"kind": "metal", "embossing": embossing}, places, **more).normals.astype(float)
        return -normals[:, :2] / normals[:, 2:]

    def test_a_ramp_is_as_steep_as_it_is_high_and_long(self) -> None:
        places = [[-50, 0], [0, 20], [60, -30]]
        for height in (20, -40):
            found = self.slopes({"height": height, "layers": [ACROSS]}, places)
            np.testing.assert_allclose(found, np.tile([height / 200, 0], (3, 1)), atol=2e-3)

    def test_it_goes_along_with_its_block(self) -> None:
        up = {**ACROSS, "bearing": 90}
        found = self.slopes({"height": 30, "layers": [up]}, [[0, 0]], place={"turn": {"z": 90}})
        np.testing.assert_allclose(found, [[-0.3, 0]], atol=3e-3)

    def test_steps_are_softened(self) -> None:
        black, white = {"colour": "#000000"}, {"colour": "#ffffff"}
        stops = [{"at": 0, **black}, {"at": 50, **black}, {"at": 50, **white}, {"at": 100, **white}]
        step = {**ACROSS, "stops": stops}
        for softness in (4, 20):
            steep = self.slopes({"height": 10, "softness": softness, "layers": [step]}, [[-softness / 8, 0]])
            # A quarter of the way through its light rises from 3/8 to 5/8, its tone by 0.16.
            self.assertAlmostEqual(steep[0, 0], 10 * 0.16 / (softness / 4), delta=0.1 * 10 / softness)
            far = self.slopes({"height": 10, "softness": softness, "layers": [step]}, [[softness, 0]])
            self.assertAlmostEqual(far[0, 0], 0, delta=1e-4)

    def test_heights_come_from_a_picture(self) -> None:
        """A grey wedge of 200 px over 200 px."""
        wedge = np.tile(np.linspace(0, 255, 200).astype(np.uint8), (100, 1))
        layer = {"kind": "picture", "picture": "it", "edges": "held"}
        # Over far more than a px, so that steps of 1/255 do not show.
        embossing = {"height": 40, "softness": 40, "layers": [layer]}
        found = self.slopes(embossing, [[-40, 10], [30, -20]], assets=self.picture(wedge))
        np.testing.assert_allclose(found, [[0.2, 0], [0.2, 0]], atol=0.02)

    def test_normals_come_from_a_picture(self) -> None:
        """Red is to the right, green up, blue towards the viewer; 128 is none."""
        layer = {"kind": "picture", "picture": "it", "edges": "held"}
        for rgb, turn, expected in (
            ((128, 128, 255), 0, (0, 0)),
            ((218, 128, 218), 0, (-1, 0)),
            ((128, 218, 218), 0, (0, -1)),
            ((218, 128, 218), 90, (0, -1)),
        ):
            assets = self.picture(np.tile(np.uint8(rgb), (100, 200, 1)))
            embossing = {"reads": "normals", "layers": [{**layer, "turn": turn}]}
            found = self.slopes(embossing, [[0, 0]], assets=assets)
            np.testing.assert_allclose(found, [expected], atol=0.02)


if __name__ == "__main__":
    unittest.main()
