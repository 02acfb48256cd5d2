"""Effects: blurs against scipy, tone against colour-science, grain as it is set; the same picture at every
size and over every ground."""

import itertools
import math
import unittest

import colour
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from halvex.core.finish.blurring import blurred, reduced, spread
from halvex.core.finish.effects import ON_DISPLAY, ON_LIGHT, seek_covers, work_on
from halvex.core.finish.glints import brightest_spots
from halvex.core.finish.orders import DraftOrder, FinalOrder
from halvex.core.finish.plate import Plate
from halvex.core.finish.render_piece import render_piece
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, luminance, srgb_to_linear
from halvex.core.optics.oklab import linear_to_oklab
from halvex.core.piece.effects import (
    EFFECT_KINDS,
    Bloom,
    Fringe,
    Glints,
    Gloss,
    Grain,
    Halo,
    Keyline,
    Sharpen,
    Tone,
    Vignette,
    Wash,
)
from halvex.core.piece.reading import PieceError, piece_from_values
from tests.core.effect_plates import POOL, Array, plate_of, worked
from tests.core.small_scenes import small_piece


class BlurTest(unittest.TestCase):
    def test_blurs_are_gaussians(self) -> None:
        """Against scipy's, of an edge and a noisy ground; wide ones are made on a reduced picture."""
        image = np.random.default_rng(1).random((150, 210)).astype(np.float32) * 0.2
        image[40:100, 60:150] += 0.8
        for sigma in (0.4, 1.0, 2.5, 4.0, 7.0, 15.0, 40.0):
            with self.subTest(sigma):
                theirs = gaussian_filter(image.astype(float), sigma, mode="nearest", truncate=6)
                ours = blurred(image[..., None], sigma, POOL)[..., 0]
                self.assertLess(np.abs(ours - theirs)[9:-9, 9:-9].max(), 0.012)
                self.assertLess(np.abs(ours - theirs).max(), 0.02)
                self.assertLess(np.abs(ours - theirs).mean(), 0.002)

    def test_several_radii_in_one_act(self) -> None:
        image = plate_of().light
        parts = [(2.0, 0.5), (6.0, 0.3), (0.0, 0.2)]
        apart = sum(weight * blurred(image, sigma, POOL) for sigma, weight in parts[:2]) + 0.2 * image
        np.testing.assert_allclose(spread(image, parts, POOL), apart, atol=0.02)

    def test_bloom_keeps_all_light(self) -> None:
        """Far enough from the picture's edge none is lost."""
        plate = plate_of(ground=0.0)
        before = float(plate.light.sum(dtype=float))
        work_on(plate, (Bloom(strength=60, radius=2, tail=4),), ON_LIGHT)
        self.assertAlmostEqual(float(plate.light.sum(dtype=float)) / before, 1.0, delta=1e-4)
        self.assertGreater(float(plate.light[45, 160, 0]), 1e-4)


class ToneTest(unittest.TestCase):
    def graded(self, pixels: Array, **numbers: object) -> NDArray[np.float64]:
        plate = plate_of()
        plate.light = pixels.reshape(1, -1, 3).astype(np.float32).copy()
        work_on(plate, (Tone.model_validate(numbers),), ON_DISPLAY)
        return plate.light[0].astype(float)

    def setUp(self) -> None:
        self.pixels = np.random.default_rng(5).uniform(0.1, 0.6, (300, 3)).astype(np.float32)

    def lch(self, linear: NDArray[np.float64]) -> NDArray[np.float64]:
        """OKLCh by colour-science, hue in degrees."""
        lab = colour.XYZ_to_Oklab(colour.RGB_to_XYZ(linear, "sRGB"))
        return np.column_stack(
            [lab[:, 0], np.hypot(lab[:, 1], lab[:, 2]), np.degrees(np.arctan2(lab[:, 2], lab[:, 1]))]
        )

    def test_nothing_changes_at_zero(self) -> None:
        np.testing.assert_allclose(self.graded(self.pixels), self.pixels, atol=2e-4)

    def test_hue_and_saturation_are_those_of_oklch(self) -> None:
        before = self.lch(self.pixels)
        calm = before[:, 1] < 0.05
        after = self.lch(self.graded(self.pixels, hue=40, saturation=20))
        np.testing.assert_allclose(after[calm, 0], before[calm, 0], atol=2e-3)
        np.testing.assert_allclose(after[calm, 1], 1.2 * before[calm, 1], atol=2e-3)
        turned = (after[:, 2] - before[:, 2] - 40 + 180) % 360 - 180
        self.assertLess(np.abs(turned[calm & (before[:, 1] > 0.02)]).max(), 2)

    def test_without_saturation_greys_are_as_light(self) -> None:
        grey = self.graded(self.pixels, saturation=-100)
        self.assertLess(np.ptp(grey, axis=1).max(), 2e-3)
        np.testing.assert_allclose(linear_to_oklab(grey)[:, 0], linear_to_oklab(self.pixels)[:, 0], atol=2e-3)

    def test_a_curve_goes_through_its_points_and_is_monotone_between(self) -> None:
        """Of lightness by OKLab, of a channel by its sRGB value; the other channels stay."""
        greys = np.repeat(np.linspace(0, 1, 101, dtype=np.float32)[:, None] ** 2.2, 3, axis=1)
        points = {"at_0": 5, "at_25": 20, "at_50": 60, "at_75": 85, "at_100": 95}
        light = linear_to_oklab(self.graded(greys, **points))[:, 0]
        before = linear_to_oklab(greys.astype(float))[:, 0]
        for at in (0, 25, 50, 75, 100):
            self.assertAlmostEqual(np.interp(at / 100, before, light), points[f"at_{at}"] / 100, delta=6e-3)
        self.assertGreater(np.diff(light).min(), -1e-4)
        red = self.graded(greys, curve_of="red", **points)
        encoded = linear_to_srgb(greys.astype(float))[:, 0]
        found = np.interp(0.5, encoded, linear_to_srgb(red)[:, 0])
        self.assertAlmostEqual(found, 0.6, delta=6e-3)
        np.testing.assert_allclose(red[:, 1:], greys[:, 1:], atol=2e-3)
        flat = self.graded(greys, at_0=-100, at_25=0, at_50=200)
        self.assertGreaterEqual(flat.min(), 0)
        self.assertLessEqual(flat.max(), 1)

    def test_contrast_and_lightness_keep_black_white_and_order(self) -> None:
        greys = np.repeat(np.linspace(0, 1, 101, dtype=np.float32)[:, None], 3, axis=1)
        for numbers in ({"contrast": 60}, {"contrast": -60}, {"lightness": 40}, {"lightness": -40}):
            found = self.graded(greys, **numbers)[:, 0]
            self.assertLess(abs(found[0]), 2e-3)
            self.assertAlmostEqual(found[-1], 1, delta=2e-3)
            self.assertGreater(np.diff(found).min(), -1e-4)
        self.assertGreater(self.graded(greys, contrast=60)[80, 0], greys[80, 0])
        self.assertLess(self.graded(greys, contrast=60)[5, 0], greys[5, 0])

    def test_a_tint_keeps_lightness(self) -> None:
        before = linear_to_oklab(self.pixels)
        after = linear_to_oklab(self.graded(self.pixels, tint="#d0a050", tinted=60))
        np.testing.assert_allclose(after[:, 0], before[:, 0], atol=4e-3)
        wanted = linear_to_oklab(hex_to_linear("#d0a050"))[1:]
        apart = [np.linalg.norm(lab[:, 1:] - wanted, axis=1).mean() for lab in (before, after)]
        self.assertLess(apart[1], 0.6 * apart[0])


class LensTest(unittest.TestCase):
    def grey(self, value: float, scale: float = 1.0) -> Plate:
        plate = plate_of(scale)
        plate.light = np.full(plate.light.shape, srgb_to_linear(value), np.float32)
        return plate

    def test_grain_is_as_strong_as_set_and_strongest_in_the_middle(self) -> None:
        deviations = {}
        for value in (0.1, 0.5, 0.9):
            plate = self.grey(value)
            work_on(plate, (Grain(strength=20, coloured=0),), ON_DISPLAY)
            shown = linear_to_srgb(plate.light[..., 1])
            deviations[value] = float(shown.std())
            self.assertAlmostEqual(float(shown.mean()), value, delta=0.01)
        self.assertAlmostEqual(deviations[0.5], 0.2 * 0.25, delta=0.006)
        self.assertGreater(deviations[0.5], 2 * deviations[0.1])
        self.assertGreater(deviations[0.5], 2 * deviations[0.9])

    def test_grain_repeats_by_seed_and_keeps_its_size(self) -> None:
        def grained(seed: int, scale: float = 1.0) -> Array:
            plate = self.grey(0.5, scale)
            work_on(plate, (Grain(strength=30, size=4, coloured=0, seed=seed),), ON_DISPLAY)
            return plate.light[..., 0]

        np.testing.assert_array_equal(grained(3), grained(3))
        self.assertFalse(np.array_equal(grained(3), grained(4)))
        large = grained(3, 2.0)
        means = large.reshape(180, 2, 320, 2).mean(axis=(1, 3))
        self.assertLess(np.abs(means - grained(3)).mean(), 0.25 * grained(3).std())

    def test_a_vignette_leaves_the_middle_and_darkens_the_corners(self) -> None:
        plate = self.grey(0.6)
        before = plate.light.copy()
        work_on(plate, (Vignette(strength=80),), ON_DISPLAY)
        np.testing.assert_array_equal(plate.light[80:100, 140:180], before[80:100, 140:180])
        self.assertLess(float(plate.light[0, 0, 0]), 0.5 * float(before[0, 0, 0]))
        np.testing.assert_allclose(plate.light, plate.light[::-1, ::-1], atol=1e-5)

    def test_fringes_part_red_and_blue_by_their_width_at_the_corners(self) -> None:
        """Red is drawn outwards, blue inwards, each by half of the width."""
        plate = plate_of()
        x = np.arange(320, dtype=np.float32)
        plate.light = np.repeat(np.tile(x / 320, (180, 1))[..., None], 3, axis=2).astype(np.float32)
        work_on(plate, (Fringe(width=6),), ON_DISPLAY)
        corner = math.hypot(160, 90)
        for column in (20, 160, 290):
            moved = (column + 0.5 - 160) / corner * 3
            self.assertAlmostEqual(float(plate.light[90, column, 0]) * 320, column - moved, delta=0.02)
            self.assertAlmostEqual(float(plate.light[90, column, 1]) * 320, column, delta=0.01)
            self.assertAlmostEqual(float(plate.light[90, column, 2]) * 320, column + moved, delta=0.02)

    def test_sharpening_steepens_edges_and_leaves_areas(self) -> None:
        plate = plate_of()
        plate.light = np.clip(blurred(plate.light, 1.5, POOL), 0, 1)
        before = plate.light.copy()
        work_on(plate, (Sharpen(strength=100, radius=2),), ON_DISPLAY)
        np.testing.assert_allclose(plate.light[5:30, 5:30], before[5:30, 5:30], atol=1e-3)
        row = [
            np.abs(np.diff(linear_to_srgb(luminance(light[120])))).max() for light in (before, plate.light)
        ]
        self.assertGreater(row[1], 1.2 * row[0])


class WashTest(unittest.TestCase):
    def test_a_gradient_lies_over_the_canvas(self) -> None:
        """From black at the left to white at the right in linear light, over all of the picture."""
        ramp = {
            "kind": "gradient",
            "bearing": 0,
            "mix": "linear",
            "stops": [{"at": 0, "colour": "#000000"}, {"at": 100, "colour": "#ffffff"}],
        }
        for scale in (1.0, 2.5):
            plate = plate_of(scale)
            wash = Wash.model_validate({"target": "picture", "layers": [ramp]})
            work_on(plate, (wash,), ON_DISPLAY)
            wide = plate.light.shape[1]
            expected = (np.arange(wide) + 0.5) / wide
            np.testing.assert_allclose(plate.light[60, :, 1], expected, atol=2e-3)

    def test_layers_blend_with_what_is_below_and_behind_the_letters_alone(self) -> None:
        dots = {
            "kind": "pattern",
            "pattern": "checks",
            "size": 20,
            "blend": "multiply",
            "paints": [{"colour": "#ffffff"}, {"colour": "#000000"}],
        }
        plate = plate_of(ground=0.4)
        before = plate.light.copy()
        work_on(plate, (Wash.model_validate({"layers": [dots]}),), ON_DISPLAY)
        np.testing.assert_array_equal(plate.light[90, 100], before[90, 100])
        corner = plate.light[:40, :, 0]
        self.assertAlmostEqual(float(corner.mean()), 0.2, delta=0.02)
        self.assertLess(float(corner.min()), 0.01)
        self.assertAlmostEqual(float(corner.max()), 0.4, delta=0.01)

    def test_a_layer_masks_the_one_above_it(self) -> None:
        """White shows as far as the grey below it is light: 0 to 1 of sRGB from left to right."""
        ramp = {
            "kind": "gradient",
            "bearing": 0,
            "mix": "srgb",
            "masks": True,
            "stops": [{"at": 0, "colour": "#000000"}, {"at": 100, "colour": "#ffffff"}],
        }
        white = {**ramp, "masks": False, "stops": [{"at": at, "colour": "#ffffff"} for at in (0, 100)]}
        plate = plate_of()
        plate.light[:] = 0
        work_on(plate, (Wash.model_validate({"target": "picture", "layers": [ramp, white]}),), ON_DISPLAY)
        wide = plate.light.shape[1]
        np.testing.assert_allclose(plate.light[60, :, 1], (np.arange(wide) + 0.5) / wide, atol=4e-3)

    def test_pictures_and_tiles_are_found_in_a_piece(self) -> None:
        for layer in ({"kind": "picture", "span": "canvas"}, {"kind": "tile", "block": "main", "size": 30}):
            piece = small_piece(finish=[{"kind": "wash", "target": "picture", "layers": [layer]}])
            plain = render_piece(small_piece(), DraftOrder()).display
            washed = render_piece(piece, DraftOrder()).display
            self.assertGreater(np.abs(washed - plain).mean(), 0.02, layer["kind"])


class GlintsTest(unittest.TestCase):
    def test_they_stand_where_light_is_and_go_with_it(self) -> None:
        plate = plate_of()
        spots = brightest_spots(plate, Glints(count=1))
        self.assertEqual(len(spots), 1)
        self.assertTrue(99 < spots[0].x < 109 and 59 < spots[0].y < 67, spots)
        plate.light = np.minimum(plate.light, 0.5)
        self.assertEqual(brightest_spots(plate, Glints()), [])

    def test_they_stand_apart(self) -> None:
        plate = plate_of()
        plate.light[60:120, 95:225] += np.random.default_rng(1).random((60, 130, 1)).astype(np.float32) * 4
        spots = brightest_spots(plate, Glints(count=12, spacing=30))
        places = np.array([(spot.x, spot.y) for spot in spots])
        far = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1)) + 1e9 * np.eye(len(places))
        self.assertGreater(len(spots), 3)
        self.assertGreaterEqual(far.min(), 29)


class StackTest(unittest.TestCase):
    STACK = (
        Bloom(strength=20),
        Glints(size=40, count=2, jitter=0),
        Keyline(width=3),
        Halo(radius=10),
        Gloss(),
        Tone(contrast=15, saturation=10),
        Vignette(),
        Fringe(width=2),
        Sharpen(radius=2),
    )

    def test_a_picture_is_the_same_at_every_size(self) -> None:
        """At 320 × 180 and at four times that, scaled to each other."""
        small = linear_to_srgb(worked(self.STACK, plate_of(1.0)).light)
        large = worked(self.STACK, plate_of(4.0)).light
        means = linear_to_srgb(large.reshape(180, 4, 320, 4, 3).mean(axis=(1, 3)))
        self.assertLess(np.abs(small - means).mean(), 0.006)

    def test_work_that_waits_is_done_before_anything_is_seen(self) -> None:
        """Whatever waits for what: the same as one effect after the other."""
        stack = tuple(kind() for kind in EFFECT_KINDS)
        for effects, clear in itertools.product((stack, stack[::-1], self.STACK), (False, True)):
            waiting, settled = plate_of(clear=clear), plate_of(clear=clear)
            seek_covers(waiting, effects)
            for works in (ON_LIGHT, ON_DISPLAY):
                work_on(waiting, effects, works)
                work_on(settled, effects, works, lambda plate: plate.settle())
                waiting.light, settled.light = np.clip(waiting.light, 0, 1), np.clip(settled.light, 0, 1)
            np.testing.assert_array_equal(waiting.light, settled.light)
            if clear:
                np.testing.assert_array_equal(waiting.alpha, settled.alpha)

    def test_work_on_encoded_values_leaves_light_to_what_follows(self) -> None:
        """IEC 61966-2-1, by colour-science."""
        plate = plate_of()
        before = plate.light = np.clip(plate.light, 0, 1)
        brighter = np.minimum(colour.models.eotf_inverse_sRGB(before) + 0.2, 1)

        def add(encodings: NDArray[np.float32], y0: int, y1: int) -> None:
            encodings[y0:y1] = np.minimum(encodings[y0:y1] + np.float32(0.1), 1)

        plate.by_encoded_rows(add)
        plate.by_encoded_rows(add)
        pixels, floats = (np.empty(before.shape, kind) for kind in (np.uint8, np.float32))
        plate.show(pixels)
        plate.show(floats)
        np.testing.assert_allclose(floats, brighter, atol=2e-6)
        np.testing.assert_array_equal(pixels, np.floor(255 * floats + np.float32(0.5)))
        np.testing.assert_allclose(plate.light, colour.models.eotf_sRGB(brighter), atol=5e-6)
        plate.show(floats)
        np.testing.assert_allclose(floats, brighter, atol=5e-6)

    def test_reduced_light_has_all_work_that_waits_in_it(self) -> None:
        plate = plate_of()
        before = plate.light.copy()
        for k in (1, 3, 7):
            plate.by_rows(lambda light, alpha, y0, y1: np.multiply(2, light[y0:y1], out=light[y0:y1]))
            before *= 2
            np.testing.assert_allclose(plate.reduced(k), reduced(before, POOL, k), rtol=1e-5)

    def test_effects_that_are_off_or_without_strength_do_nothing(self) -> None:
        plain = plate_of().light
        for kind in EFFECT_KINDS:
            for numbers in ({"on": False}, {"strength": 0}):
                plate = plate_of()
                work_on(plate, (kind.model_validate(numbers),), {**ON_LIGHT, **ON_DISPLAY})  # type: ignore[arg-type]
                np.testing.assert_array_equal(plate.light, plain, err_msg=kind.__name__)

    def test_every_effect_works_on_what_it_is_told_to(self) -> None:
        """On letters alone the ground's corner stays, on the backdrop alone the middle of the letter."""
        for effect in (Tone(lightness=40), Grain(strength=60), Sharpen(strength=100), Fringe(width=12)):
            for target, place in (("letters", (4, 4)), ("backdrop", (90, 110))):
                plate = plate_of()
                plate.light = np.clip(plate.light, 0, 1)
                before = plate.light.copy()
                work_on(plate, (effect.model_copy(update={"target": target}),), ON_DISPLAY)
                self.assertFalse(np.array_equal(plate.light, before), effect.kind)
                np.testing.assert_allclose(plate.light[place], before[place], atol=1e-6, err_msg=effect.kind)

    def test_a_piece_is_drawn_with_its_effects(self) -> None:
        for order in (DraftOrder(), FinalOrder(samples=8), FinalOrder(samples=8, transparent=True)):
            plain = render_piece(small_piece(), order)
            piece = small_piece(finish=[effect.model_dump() for effect in self.STACK])
            found = render_piece(piece, order)
            self.assertEqual(found.display.shape, plain.display.shape)
            self.assertTrue(np.isfinite(found.display).all())
            self.assertGreater(np.abs(found.display - plain.display).max(), 0.1)
            self.assertEqual(found.alpha is None, plain.alpha is None)

    def test_faults_name_their_field(self) -> None:
        for effect, field in (
            ({"kind": "halo", "radius": -1}, "/finish/0/radius"),
            ({"kind": "keyline", "colour": "red"}, "/finish/0/colour"),
            ({"kind": "sparkle"}, "/finish/0"),
            ({"kind": "glints", "count": -1}, "/finish/0/count"),
        ):
            with self.assertRaises(PieceError) as caught:
                piece_from_values(small_piece().model_dump(by_alias=True) | {"finish": [effect]})
            self.assertEqual(caught.exception.field, field)


if __name__ == "__main__":
    unittest.main()
