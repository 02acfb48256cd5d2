"""Colour and light on surfaces against standards and handbooks."""

import itertools
import math
import unittest

import colour
import numpy as np

from halvex.core.finish.tone import to_bytes, to_display
from halvex.core.kernels import kernel
from halvex.core.optics.blending import decoded, encoded
from halvex.core.optics.colour import (
    black_body,
    contrast_ratio,
    hex_to_linear,
    linear_to_srgb,
    luminance,
    srgb_to_linear,
)
from halvex.core.optics.metals import METALS, metal_tables
from halvex.core.optics.microfacet import fresnel_dielectric, ggx_d, sample_visible_normal, visible_normal_pdf
from halvex.core.optics.tone import CURVES, SCALE, SHOULDER, STEEPNESS, light_shown_as, pbr_neutral
from halvex.core.optics.vectors import cosine_and_sine
from halvex.core.render.sampler import draw, forget_numbers, pixel_key, sample_2d, shifted
from halvex.core.render.world import make_scratch

F = np.float32


@kernel
def _through_blending(values, encodings, decodings):
    for i in range(values.shape[0]):
        encodings[i], decodings[i] = encoded(values[i]), decoded(values[i])


class ColourTest(unittest.TestCase):
    def test_transfer_is_iec_61966_2_1(self) -> None:
        self.assertAlmostEqual(float(srgb_to_linear(0.04045)), 0.0031308, places=6)
        self.assertAlmostEqual(float(srgb_to_linear(0.5)), 0.21404, places=5)
        values = np.linspace(0, 1, 257)
        np.testing.assert_allclose(linear_to_srgb(srgb_to_linear(values)), values, atol=2e-5)

    def test_kernels_encode_and_decode_as_the_standard_says(self) -> None:
        """colour-science, IEC 61966-2-1; what lies outside 0 to 1 as the nearer end, NaN as 0."""
        steps = np.concatenate([np.linspace(0, 1, 40_001), np.geomspace(1e-12, 1, 10_000)])
        values = steps.astype(np.float32)
        encodings, decodings = np.empty_like(values), np.empty_like(values)
        _through_blending(values, encodings, decodings)
        exact = values.astype(float)
        np.testing.assert_allclose(encodings, colour.models.eotf_inverse_sRGB(exact), atol=1e-6)
        np.testing.assert_allclose(decodings, colour.models.eotf_sRGB(exact), atol=1e-6)
        self.assertEqual((float(encodings.max()), float(decodings.max())), (1.0, 1.0))
        beyond = np.array([-1.0, np.nan, -np.inf, 2.0, np.inf], np.float32)
        ends = np.empty_like(beyond), np.empty_like(beyond)
        _through_blending(beyond, *ends)
        for end in ends:
            np.testing.assert_array_equal(end, [0, 0, 0, 1, 1])

    def test_contrast_is_wcag(self) -> None:
        """WCAG 2.2: black on white 21, #767676 4.54, #777777 4.48."""
        for grey, ratio in (("#000000", 21.0), ("#767676", 4.54), ("#777777", 4.48)):
            self.assertAlmostEqual(contrast_ratio(grey, "#ffffff"), ratio, places=2)

    def test_illuminant_a_is_a_black_body_of_2856_k(self) -> None:
        """CIE 15: illuminant A has x 0.4476, y 0.4074."""
        xyz = np.linalg.inv(
            [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
        ) @ black_body(2856)
        np.testing.assert_allclose(xyz[:2] / xyz.sum(), [0.4476, 0.4074], atol=2e-3)

    def test_metals_have_their_measured_colours(self) -> None:
        """Normal reflectance under D65 as linear sRGB, computed with colour-science from published
        n and k."""
        expected = {
            "gold": (1.022, 0.783, 0.343),
            "silver": (0.971, 0.960, 0.915),
            "copper": (0.955, 0.638, 0.538),
            "aluminium": (0.913, 0.922, 0.924),
            "chromium": (0.635, 0.662, 0.705),
            "tungsten": (0.515, 0.496, 0.468),
        }
        for name, reflected in expected.items():
            np.testing.assert_allclose(
                metal_tables()[METALS.index(name), -1], reflected, atol=2e-3, err_msg=name
            )
            np.testing.assert_allclose(
                metal_tables()[METALS.index(name), 0], 1.0, atol=5e-3, err_msg=f"{name}, grazing"
            )

    def test_no_metal_returns_more_than_light_brings(self) -> None:
        """Reflectance is at most 1 at every wavelength; out of gamut gold is over 1 in one channel,
        never in luminance."""
        for name, table in zip(METALS, metal_tables(), strict=True):
            self.assertLessEqual(float(luminance(table).max()), 1.005, name)
            self.assertGreater(float(luminance(table[-1])), 0.4, name)


class ToneTest(unittest.TestCase):
    def test_kernel_is_the_published_function(self) -> None:
        """Khronos PBR Neutral."""
        light = np.random.default_rng(1).uniform(0, 6, (40, 40, 3)).astype(np.float32)
        expected = linear_to_srgb(np.clip(pbr_neutral(light.astype(float)), 0, 1))
        np.testing.assert_allclose(to_display(light, 0.0), expected, atol=1.5e-3)
        np.testing.assert_array_equal(
            to_bytes(light, 0.0),
            (to_display(light, 0.0) * np.float32(255) + np.float32(0.5)).astype(np.uint8),
        )

    def test_rich_holds_hue_and_never_turns_back(self) -> None:
        """Brightening a metal's colour: lightness rises all along, and its hue in CIELAB (colour-science)
        stays within a few degrees while it has any colour to speak of."""
        light = np.geomspace(0.01, 8, 120)
        for name in ("gold", "copper", "bronze", "silver"):
            metal = metal_tables()[METALS.index(name), -1].astype(float)
            shown = to_display((light[:, None] * metal).astype(np.float32)[None], 0.0, "rich")[0].astype(
                float
            )
            lab = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(shown))
            self.assertTrue((np.diff(lab[:, 0]) > -1e-3).all(), name)
            chroma, hue = np.hypot(lab[:, 1], lab[:, 2]), np.degrees(np.arctan2(lab[:, 2], lab[:, 1]))
            coloured = chroma > 12
            if coloured.any():
                self.assertLess(np.ptp(hue[coloured]), 12, name)

    def test_rich_and_plain_are_their_formulas(self) -> None:
        grey = np.array([0.001, 0.02, 0.18, 0.5, 1.0, 3.0], np.float32)
        image = np.repeat(grey[:, None], 3, axis=1)[None]
        power = grey.astype(float) ** STEEPNESS
        expected = linear_to_srgb(np.minimum(SCALE * power / (power + SHOULDER), 1))
        np.testing.assert_allclose(to_display(image, 0.0, "rich")[0, :, 0], expected, atol=1e-5)
        self.assertAlmostEqual(float(to_display(image, 0.0, "rich")[0, 2, 0]), linear_to_srgb(0.18), places=3)
        plain = to_display(image, 0.0, "plain")[0, :, 1]
        np.testing.assert_allclose(plain, linear_to_srgb(np.minimum(grey, 1)), atol=1e-5)

    def test_any_light_is_shown_by_every_curve(self) -> None:
        """From the smallest number of single precision to the largest, in all proportions."""
        steps = np.concatenate([[0.0, 1e-45, np.inf, np.nan, -1.0], np.geomspace(1e-38, 3e38, 60)])
        light = np.array(list(itertools.product(steps, repeat=3)), np.float32)[None]
        for curve, exposure in itertools.product(CURVES, (-30.0, 0.0, 30.0)):
            shown = to_display(light, exposure, curve)
            self.assertTrue(((shown >= 0) & (shown <= 1)).all(), curve)
        # Just over the dimmest light that counts, the curve is still its formula, which is black there.
        dim = np.geomspace(1e-14, 1e-6, 60)
        faint = np.array(list(itertools.product(dim, repeat=3)), np.float32)[None]
        self.assertLess(float(to_display(faint, 0.0, "rich").max()), 1e-4)

    def test_light_that_is_no_light_is_shown_too(self) -> None:
        odd = np.array([[[np.inf, np.inf, np.inf], [np.nan, -1.0, -np.inf], [1e30, 0.0, np.nan]]], np.float32)
        shown = to_bytes(odd, 20.0)[0].tolist()
        self.assertEqual(shown[:2], [[255, 255, 255], [0, 0, 0]])
        self.assertEqual(shown[2][0], 255)

    def test_a_backdrop_is_shown_as_picked(self) -> None:
        colours = ("#24424a", "#e6ddcc", "#000000", "#808080", "#c8402f", "#fbfbf0")
        for picked, curve, exposure in itertools.product(colours, CURVES, (-2.0, 0.0, 1.5)):
            light = light_shown_as(picked, exposure, curve).astype(np.float32).reshape(1, 1, 3)
            shown = to_display(light, exposure, curve)[0, 0]
            np.testing.assert_allclose(
                shown, linear_to_srgb(hex_to_linear(picked)), atol=4e-3, err_msg=f"{picked} {curve}"
            )


class FresnelTest(unittest.TestCase):
    def test_normal_incidence(self) -> None:
        """((n - 1)/(n + 1))²; Hecht, Optics, ch. 4."""
        for n, reflectance in ((1.5, 0.04), (1.5168, 0.04216), (2.417, 0.17197)):
            self.assertAlmostEqual(fresnel_dielectric(F(1), F(n))[0], reflectance, places=4)

    def test_brewster_and_critical_angle(self) -> None:
        """N = 1.5: 56.310° and 41.810°. At Brewster's angle only s-polarised light returns: half of
        ((n²-1)/(n²+1))²."""
        at_brewster = fresnel_dielectric(F(math.cos(math.radians(56.310))), F(1.5))[0]
        self.assertAlmostEqual(at_brewster, 0.5 * ((2.25 - 1) / (2.25 + 1)) ** 2, places=4)
        self.assertLess(fresnel_dielectric(F(math.cos(math.radians(41.7))), F(1 / 1.5))[0], 1.0)
        self.assertEqual(fresnel_dielectric(F(math.cos(math.radians(41.9))), F(1 / 1.5))[0], 1.0)


class MicrofacetTest(unittest.TestCase):
    def test_distribution_is_normalised(self) -> None:
        """∫ D(m) (n·m) dm = 1; Walter et al., EGSR 2007."""
        for alpha in (0.1, 0.4, 1.0):
            theta = (np.arange(4000) + 0.5) / 4000 * math.pi / 2
            d = np.array([ggx_d((F(math.sin(t)), F(0), F(math.cos(t))), F(alpha), F(alpha)) for t in theta])
            total = np.sum(d * np.cos(theta) * np.sin(theta)) * 2 * math.pi * (math.pi / 2 / 4000)
            self.assertAlmostEqual(total, 1.0, places=2, msg=f"alpha {alpha}")

    def test_a_drawn_out_distribution_is_normalised_too(self) -> None:
        """The same integral over both angles, rough 0.1 along and 0.5 across."""
        theta = (np.arange(600) + 0.5) / 600 * math.pi / 2
        phi = (np.arange(240) + 0.5) / 240 * 2 * math.pi
        total = 0.0
        for t in theta:
            ring = [
                ggx_d(
                    (F(math.sin(t) * math.cos(p)), F(math.sin(t) * math.sin(p)), F(math.cos(t))),
                    F(0.1),
                    F(0.5),
                )
                for p in phi
            ]
            total += float(np.mean(ring)) * math.cos(t) * math.sin(t) * 2 * math.pi * (math.pi / 2 / 600)
        self.assertAlmostEqual(total, 1.0, places=2)

    def test_visible_normals_have_their_density(self) -> None:
        """Mean of 1/pdf over samples is the solid angle of the hemisphere of normals seen."""
        wo, alpha = (F(0.6), F(0.0), F(0.8)), F(0.7)
        rng = np.random.default_rng(2).random((20_000, 2)).astype(np.float32)
        cosines = [sample_visible_normal(wo, alpha, alpha, a, b) for a, b in rng]
        share = np.mean(
            [m[2] / visible_normal_pdf(wo, m, alpha, alpha) * ggx_d(m, alpha, alpha) for m in cosines]
        )
        direct = np.mean(
            [
                1.0
                / visible_normal_pdf(wo, m, alpha, alpha)
                * ggx_d(m, alpha, alpha)
                * max(m[0] * 0.6 + m[2] * 0.8, 0)
                for m in cosines
            ]
        )
        # ∫ D·(wo·m)⁺ dm over normals ≥ the projected area cos θ; ∫ D·(n·m) over those seen ≤ 1.
        self.assertGreaterEqual(direct, 0.8 - 0.02)
        self.assertLessEqual(share, 1.02)


@kernel
def drawn(scratch, x, y, seed, early, together, first, count, dimension, out):
    key = pixel_key(x, y, seed, early, together)
    forget_numbers(scratch)
    for i in range(count):
        draw(scratch, key, first + i, dimension, dimension + 1)
        out[i, 0], out[i, 1] = sample_2d(scratch, key, first + i, dimension)


def reversed_bits(x: int) -> int:
    return int(f"{x:032b}"[::-1], 2)


class SamplerTest(unittest.TestCase):
    def draw(
        self,
        pixel: tuple[int, int],
        first: int,
        count: int,
        dimension: int,
        early: int = 2,
        seed: int = 0,
        together: int = 8,
    ) -> np.ndarray:
        out = np.zeros((count, 2), np.float32)
        drawn(make_scratch(), *pixel, seed, early, together, first, count, dimension, out)
        return out

    def assert_one_in_each_box(self, points: np.ndarray, msg: object) -> None:
        """Of 2^n points, every box of area 2^-n with sides that are powers of two holds one: a (0,
        n, 2)-net in base 2."""
        count, across = len(points), 1
        while across <= count:
            boxes = {(int(x * across), int(y * count // across)) for x, y in points.astype(float)}
            self.assertEqual(len(boxes), count, (msg, across))
            across *= 2

    def test_second_dimension_is_sobols(self) -> None:
        """Direction numbers of the second Sobol dimension (polynomial x + 1), after Bratley & Fox,
        TOMS 14(1), 1988."""
        first = [reversed_bits(int(shifted(np.uint32(i)))) / 2**32 for i in range(8)]
        self.assertEqual(first, [0, 0.5, 0.75, 0.25, 0.625, 0.125, 0.375, 0.875])

    def test_elementary_boxes_hold_one_sample_each(self) -> None:
        """What makes a (0, 2)-sequence in base 2: it holds of samples in a row from a multiple of
        their number on (Niederreiter, Random Number Generation, 1992); scrambling keeps it (Owen
        1995). However many first samples are the picture's."""
        for pixel, first, dimension in (
            ((1, 0), 0, 0),
            ((700, 5), 0, 2),
            ((7, 90), 48, 3),
            ((3, 2), 4064, 11),
            ((99, 8), 4096, 5),
            ((3, 60_000), 70_000, 40),
        ):
            for early in (0, 1, 2):
                self.assert_one_in_each_box(
                    self.draw(pixel, first, 16, dimension, early), (pixel, first, dimension, early)
                )
        self.assert_one_in_each_box(self.draw((31, 17), 0, 256, 6), "256 samples")

    def test_first_samples_of_neighbours_are_one_net(self) -> None:
        """A square of pixels in Z-order holds a stretch of the picture's sequence (Ahmed & Wonka
        2020), so a net again."""
        for early in (0, 1, 2):
            for side, x0, y0 in ((2, 6, 40), (4, 8, 0), (8, 640, 256)):
                pixels = [(x0 + x, y0 + y) for y in range(side) for x in range(side)]
                points = np.concatenate([self.draw(pixel, 0, 2**early, 4, early) for pixel in pixels])
                self.assert_one_in_each_box(points, (early, side))

    def test_later_samples_of_neighbours_have_nothing_in_common(self) -> None:
        """Numbers of pixels side by side, and of dimensions, are as little alike as those of a good
        generator: |r| under 4 / √n."""
        own = np.array([self.draw((x, 3), 4, 60, 5) for x in range(64)])
        for other in (
            np.array([self.draw((x + 1, 3), 4, 60, 5) for x in range(64)]),
            np.array([self.draw((x, 3), 4, 60, 6) for x in range(64)]),
        ):
            for a, b in ((0, 0), (0, 1), (1, 0), (1, 1)):
                self.assertLess(
                    abs(np.corrcoef(own[..., a].ravel(), other[..., b].ravel())[0, 1]),
                    4 / math.sqrt(own[..., 0].size),
                )

    def test_the_error_of_a_pixel_falls_as_owen_scrambling_lets_it(self) -> None:
        """Faster than 1 / n for a smooth function (Owen, Annals of Statistics 25(4), 1997), though
        the first samples are the picture's."""
        whole = (1 - math.exp(-1)) * (1 - math.exp(-2)) / 2
        points = np.array([self.draw((x, y), 0, 64, 7) for x in range(24) for y in range(24)]).astype(float)
        values = np.exp(-points[..., 0] - 2 * points[..., 1])
        errors = [float(np.sqrt(np.mean((values[:, :n].mean(axis=1) - whole) ** 2))) for n in (1, 64)]
        self.assertLess(errors[1], errors[0] / 128)

    def test_a_sample_is_the_same_however_it_is_asked_for(self) -> None:
        whole = self.draw((5, 2), 0, 40, 2)
        for first in (1, 7, 8, 23):
            for together in (1, 2, 3, 4, 16):
                np.testing.assert_array_equal(
                    self.draw((5, 2), first, 9, 2, together=together), whole[first : first + 9]
                )
        self.assertTrue(((whole >= 0) & (whole < 1)).all())
        self.assertFalse(
            np.array_equal(self.draw((6, 2), 0, 40, 2), whole), "pixels have numbers of their own"
        )
        self.assertFalse(np.array_equal(self.draw((5, 2), 0, 40, 3), whole), "and so have dimensions")
        self.assertFalse(np.array_equal(self.draw((5, 2), 0, 40, 2, seed=1), whole), "and so have seeds")

    def test_sines_and_cosines(self) -> None:
        """Against the library's, over a few turns either way."""
        for turns in np.linspace(-3, 3, 4001):
            angle = float(F(turns)) * 2 * math.pi
            c, s = cosine_and_sine(F(turns))
            self.assertAlmostEqual(float(c), math.cos(angle), delta=6e-7)
            self.assertAlmostEqual(float(s), math.sin(angle), delta=6e-7)


class LuminanceTest(unittest.TestCase):
    def test_weights(self) -> None:
        self.assertAlmostEqual(float(luminance([1, 1, 1])), 1.0)


if __name__ == "__main__":
    unittest.main()
