"""Effects: blurs against scipy, keylines against geometry, compositing against W3C's formulas,
tone against colour-science, grain as it is set; the same picture at every size and over every ground."""

import math
import unittest
from collections.abc import Iterable

import colour
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from halvex.core.finish.blurring import blurred, spread
from halvex.core.finish.covering import coverage
from halvex.core.finish.effects import ON_DISPLAY, ON_LIGHT, work_on
from halvex.core.finish.glints import brightest_spots
from halvex.core.finish.lines import lines_along
from halvex.core.finish.orders import DraftOrder, FinalOrder
from halvex.core.finish.painting import lay_colour
from halvex.core.finish.plate import NothingSeen, Plate
from halvex.core.finish.render_piece import render_piece
from halvex.core.optics.blending import BLENDS
from halvex.core.optics.colour import hex_to_linear, linear_to_srgb, luminance, srgb_to_linear
from halvex.core.optics.oklab import linear_to_oklab
from halvex.core.piece.effects import (
    EFFECT_KINDS,
    AnyEffect,
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
from halvex.core.render.work import shared_pool
from halvex.core.scene.finish import DEPTH, Frame
from halvex.core.scene.outlines import FaceSeen
from halvex.core.scene.scene import scene_of
from tests.core.small_scenes import piece_of, small_piece

Array = NDArray[np.float32]
POOL = shared_pool()
ORANGE = np.array([0.7, 0.4, 0.1], np.float32)
# A letter of sorts on a canvas of 320 × 180 px: a frame with a round hole.
LETTER = shapely.box(90, 50, 230, 130).difference(shapely.Point(160, 90).buffer(25, quad_segs=32))


class LetterSeen(NothingSeen):
    """What effects ask of a scene with one face."""

    def __init__(self, face: shapely.Geometry):
        self.face = face

    def faces(self) -> tuple[FaceSeen, ...]:
        return (FaceSeen(self.face, 0),)


def area_along(face: shapely.Geometry, line: Keyline, scale: float) -> shapely.Geometry:
    """The area of a keyline along a face."""
    return shapely.union_all(
        [shapely.difference(one.outer, one.inner) for one in lines_along([face], line, scale, POOL)]
    )


def plate_of(scale: float = 1.0, *, clear: bool = False, ground: float = 0.1, **covers: np.ndarray) -> Plate:
    """A plate of 320 × 180 px of canvas with the letter, orange with a spot of bright light."""
    width, height = round(320 * scale), round(180 * scale)
    face = shapely.transform(LETTER, lambda points: points * scale)
    letters = coverage(face, width, height)
    light = np.full((height, width, 3), ground, np.float32)
    # A clear picture is not premultiplied: its colours are whole where they cover a part of a pixel.
    light += (letters[..., None] > 0 if clear else letters[..., None]) * (ORANGE - light)
    spot = coverage(shapely.box(100 * scale, 60 * scale, 108 * scale, 66 * scale), width, height)
    light += spot[..., None] * np.float32(6)
    return Plate(
        light,
        letters.copy() if clear else None,
        {"letters": letters, DEPTH: np.where(letters > 0.5, 0, -200).astype(np.float32), **covers},
        Frame(scale, 0.0, 0.0, 320.0, 180.0),
        1.0,
        LetterSeen(face),
        POOL,
    )


def worked(effects: Iterable[AnyEffect], plate: Plate) -> Plate:
    """A plate that a stack has worked on; what is brighter than white shows as white."""
    stack = tuple(effects)
    work_on(plate, stack, ON_LIGHT)
    plate.light = np.clip(plate.light, 0, 1)
    work_on(plate, stack, ON_DISPLAY)
    return plate


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


class KeylineTest(unittest.TestCase):
    def test_it_is_as_wide_as_it_is_set_at_any_scale(self) -> None:
        """A rectangle's mitred line has the area between two rectangles."""
        box = shapely.box(50, 40, 170, 100)
        for scale in (0.25, 1.0, 3.0):
            face = shapely.transform(box, lambda points, by=scale: points * by)
            for place, out, within in (("centred", 2, 2), ("inside", 0, 4), ("outside", 4, 0)):
                area = area_along(face, Keyline(width=4, place=place), scale)
                expected = (120 + 2 * out) * (60 + 2 * out) - (120 - 2 * within) * (60 - 2 * within)
                self.assertAlmostEqual(area.area, expected * scale**2, delta=1e-6 * expected)
                drawn = coverage(area, round(240 * scale), round(140 * scale)).sum(dtype=float)
                self.assertAlmostEqual(float(drawn), expected * scale**2, delta=0.05)

    def test_lines_of_several_faces_are_those_of_all_at_once(self) -> None:
        """Faces that overlap, that lie in another's counter, apart, and so close that lines overlap: against
        a buffer of their union."""
        ring = shapely.Point(60, 60).buffer(40).difference(shapely.Point(60, 60).buffer(28))
        faces = [
            ring,
            shapely.box(53, 50, 70, 66),
            shapely.box(120, 30, 160, 70),
            shapely.box(150, 60, 190, 90),
            shapely.box(193, 30, 220, 90),
            shapely.box(240, 30, 280, 90),
        ]
        size, whole = (320, 180), shapely.union_all(faces)
        for place, out, within in (("centred", 3, -3), ("inside", 0, -6), ("outside", 6, 0)):
            with self.subTest(place):
                line = Keyline(width=6, place=place, join="round")
                lines = lines_along(faces, line, 1.0, POOL)
                area = whole.buffer(out, quad_segs=64).difference(whole.buffer(within, quad_segs=64))
                outer, inner = zip(*lines, strict=True)
                drawn = coverage(outer, *size, without=inner)
                np.testing.assert_allclose(drawn, coverage(area, *size), atol=0.02)

    def test_dashes_run_around_faces_that_lie_close(self) -> None:
        """Where lines of two faces overlap there is one line."""
        faces = [shapely.box(50, 40, 100, 100), shapely.box(104, 40, 150, 100)]
        line = Keyline(width=2, place="outside", dash=8, gap=4)
        wide = line.model_copy(update={"width": 6.0})
        for each, count in ((line, 2), (wide, 1)):
            (dashes,) = lines_along(faces, each, 1.0, POOL)
            gap = shapely.box(102 - 1.5, 45, 102 + 1.5, 95)
            self.assertEqual(shapely.intersects(dashes.outer, gap), count == 2)

    def test_round_corners_and_double_lines(self) -> None:
        box = shapely.box(50, 40, 170, 100)
        line = area_along(box, Keyline(width=4, place="outside", join="round"), 1.0)
        self.assertAlmostEqual(line.area, 2 * (120 + 60) * 4 + math.pi * 16, delta=0.1)
        double = area_along(box, Keyline(width=2, place="outside", double=3), 1.0)
        self.assertEqual(len(shapely.get_parts(double)), 2)
        self.assertAlmostEqual(shapely.distance(*shapely.get_parts(double)), 3, places=6)

    def test_dashes_share_a_ring_without_a_seam(self) -> None:
        """Of a circle they cover their share; on a rectangle one goes around the corner it begins at."""
        dashed = Keyline(width=4, join="round", dash=12, gap=6)
        disc = shapely.Point(100, 100).buffer(60, quad_segs=64)
        area = area_along(disc, dashed, 1.0)
        count = round(2 * math.pi * 60 / 18)
        self.assertEqual(len(shapely.get_parts(area)), count)
        whole = area_along(disc, dashed.model_copy(update={"dash": 0}), 1.0)
        self.assertAlmostEqual(area.area / whole.area, 12 / 18, delta=0.005)
        self.assertLess(np.ptp(shapely.area(shapely.get_parts(area))), 0.5)
        box = shapely.box(50, 40, 170, 100)
        area = area_along(box, dashed.model_copy(update={"join": "mitred", "width": 2}), 2.0)
        corner = shapely.Point(box.exterior.coords[0])
        self.assertTrue(area.contains(corner.buffer(1.9, cap_style="square")))

    def test_a_soft_edge_fades_and_keeps_its_place(self) -> None:
        lines = [
            worked([Keyline(width=6, colour="#ffffff", softness=soft)], plate_of(2.0)).light
            - worked([], plate_of(2.0)).light
            for soft in (0, 8)
        ]
        hard, soft = (np.abs(light).sum(axis=2) for light in lines)
        self.assertLess(np.abs(np.diff(soft, axis=1)).max(), 0.5 * np.abs(np.diff(hard, axis=1)).max())
        self.assertGreater((soft > 0).sum(), 1.5 * (hard > 0).sum())

    def test_faces_are_those_that_the_camera_sees(self) -> None:
        """A rectangle of 200 × 100 px square on, in the middle of the canvas; from behind none is seen."""
        values = piece_of("#ffffff")
        (face,) = scene_of(piece_from_values(values)).faces()
        np.testing.assert_allclose(face.area.bounds, (60, 40, 260, 140), atol=1e-3)
        self.assertAlmostEqual(face.area.area, 20_000, delta=1)
        values["view"]["turn"] = {"y": 60}
        (turned,) = scene_of(piece_from_values(values)).faces()
        self.assertAlmostEqual(turned.area.area, 10_000, delta=1)
        values["view"]["turn"] = {"y": 170}
        self.assertEqual(scene_of(piece_from_values(values)).faces(), ())

    def test_letters_have_their_counters(self) -> None:
        piece = small_piece(view={}, blocks=[{"words": "o", "size": 100, "form": {"bevel": {"width": 2}}}])
        (face,) = scene_of(piece).faces()
        self.assertEqual(len(face.area.interiors), 1)

    def test_a_bevel_up_to_its_ridge_counts_as_the_face(self) -> None:
        """A chiselled letter, and the same letter without a bevel, have one outline."""
        areas = []
        for width in (0, 500):
            bevel = {"profile": "chamfer", "width": width}
            block = {"words": "o", "size": 100, "form": {"bevel": bevel}}
            (face,) = scene_of(small_piece(view={"projection": "parallel"}, blocks=[block])).faces()
            areas.append(face.area)
        self.assertLess(shapely.hausdorff_distance(*areas), 0.3)


class CompositingTest(unittest.TestCase):
    def test_every_blend_mode_over_opaque_and_clear_ground(self) -> None:
        """Compositing and Blending Level 1, 9: αo = αs + αb (1 - αs), co = αs ((1 - αb) Cs + αb B(Cb, Cs)) +
        (1 - αs) αb Cb; here mixed in linear light, with B of encoded values."""
        random = np.random.default_rng(2)
        below = random.random((6, 5, 3)).astype(np.float32)
        alpha = random.random((6, 5)).astype(np.float32)
        opacity = random.random((6, 5)).astype(np.float32)
        above = hex_to_linear("#3a80c5")
        for mode in BLENDS:
            plate = plate_of()
            plate.light, plate.alpha = below.copy(), alpha.copy()
            lay_colour(plate, "#3a80c5", opacity, mode)  # type: ignore[arg-type]
            cb, cs = linear_to_srgb(below), linear_to_srgb(above)
            mixed = srgb_to_linear(_blend(mode, cb, np.broadcast_to(cs, cb.shape)))
            ab, a_s = alpha[..., None], opacity[..., None]
            whole = a_s + ab * (1 - a_s)
            expected = a_s * ((1 - ab) * above + ab * mixed) + (1 - a_s) * ab * below
            np.testing.assert_allclose(plate.light, expected / whole, atol=2e-3, err_msg=mode)
            np.testing.assert_allclose(plate.alpha, whole[..., 0], atol=1e-6)

    def test_effects_with_alpha_are_right_over_any_ground(self) -> None:
        """What is laid over a clear picture, put over a ground, is what is laid over that ground."""
        for stack in (
            [Halo(colour="#40a0ff", radius=8)],
            [Keyline(width=5, place="outside"), Halo(radius=5, falloff=2)],
            [Gloss(strength=60, blend="normal")],
        ):
            clear = worked(stack, plate_of(clear=True))
            assert clear.alpha is not None
            for ground in (0.0, 1.0):
                over = clear.light * clear.alpha[..., None] + ground * (1 - clear.alpha[..., None])
                solid = worked(stack, plate_of(ground=ground)).light
                inner = (slice(2, -2), slice(2, -2))
                np.testing.assert_allclose(over[inner], solid[inner], atol=1 / 255)


def _lum(c: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray((c @ [0.3, 0.59, 0.11])[..., np.newaxis])


def _set_sat(c: NDArray[np.float64], s: NDArray[np.float64]) -> NDArray[np.float64]:
    """Channel by channel, sorted, as the recommendation has it."""
    order = np.argsort(c, axis=-1)
    low, middle, high = np.split(np.take_along_axis(c, order, -1), 3, axis=-1)
    span = np.where(high > low, high - low, 1)
    found = np.concatenate([0 * s, np.where(high > low, (middle - low) * s / span, 0), s * (high > low)], -1)
    out = np.empty_like(found)
    np.put_along_axis(out, order, found, -1)
    return out


def _set_lum(c: NDArray[np.float64], light: NDArray[np.float64]) -> NDArray[np.float64]:
    """SetLum and ClipColor."""
    c = c + light - _lum(c)
    low, high = c.min(axis=-1, keepdims=True), c.max(axis=-1, keepdims=True)
    c = np.where(low < 0, light + (c - light) * light / np.maximum(light - low, 1e-12), c)
    return np.where(high > 1, light + (c - light) * (1 - light) / np.maximum(high - light, 1e-12), c)


def _blend(mode: str, b: NDArray[np.float64], s: NDArray[np.float64]) -> NDArray[np.float64]:
    """B(Cb, Cs) as the recommendation has it."""
    if mode in ("hue", "saturation", "color", "luminosity"):
        saturation = np.ptp(b, axis=-1, keepdims=True), np.ptp(s, axis=-1, keepdims=True)
        if mode == "hue":
            return _set_lum(_set_sat(s, saturation[0]), _lum(b))
        if mode == "saturation":
            return _set_lum(_set_sat(b, saturation[1]), _lum(b))
        return _set_lum(s, _lum(b)) if mode == "color" else _set_lum(b, _lum(s))
    if mode == "hard-light":
        return np.where(s <= 0.5, b * 2 * s, _blend("screen", b, 2 * s - 1))
    if mode == "soft-light":
        d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
        return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))
    if mode == "overlay":
        return _blend("hard-light", s, b)
    simple = {
        "normal": s,
        "multiply": b * s,
        "screen": b + s - b * s,
        "darken": np.minimum(b, s),
        "lighten": np.maximum(b, s),
        "color-dodge": np.where(b <= 0, 0.0, np.minimum(b / np.maximum(1 - s, 1e-9), 1.0)),
        "color-burn": np.where(b >= 1, 1.0, 1 - np.minimum((1 - b) / np.maximum(s, 1e-9), 1.0)),
        "difference": np.abs(b - s),
        "exclusion": b + s - 2 * b * s,
    }
    return np.asarray(simple[mode])


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
