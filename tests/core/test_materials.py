"""Materials: no energy gained or lost, reciprocity, dispersion, textures."""

import math
import unittest

import numpy as np
from numpy.typing import NDArray

from halvex.core.kernels import kernel
from halvex.core.optics.albedo import albedo_table
from halvex.core.optics.colour import hex_to_linear
from halvex.core.optics.eight import LANES
from halvex.core.optics.material import (
    ALPHA,
    CAUCHY,
    FIRST_TEXTURE,
    FLAKE_ALPHA,
    INDEX,
    Materials,
    pack_materials,
)
from halvex.core.optics.metals import metal_tables
from halvex.core.optics.scattering import (
    NO_PEARL,
    NO_SAMPLES,
    evaluate,
    lobe_shares,
    matte_part,
    pearl_of,
    sample,
    sample_glass,
    seen_base,
    shining,
    tinted_base,
)
from halvex.core.optics.spectrum import cauchy, dispersed, wavelength_weight
from halvex.core.optics.textures import RELIEF, SECOND, textured
from halvex.core.piece.coat import Coat
from halvex.core.piece.material import AnyMaterial, Glass, Glow, Metal, Paint, Plaster, Plastic, Stone, Wood
from halvex.core.render.sampler import draw, forget_numbers, pixel_key, sample_2d
from halvex.core.render.world import make_scratch

F = np.float32
SAMPLES = 16_384
WHITE = "#ffffff"


@kernel
def returned(materials, wo, count, entering, each, total, scratch):
    """Add up what a surface of material 0 and base 1 returns of uniform light, over `count`
    samples, into total (3,); `each` lobe of a plastic by samples of its own."""
    alpha = materials.params[0, ALPHA]
    base = seen_base(materials, 0, (F(1.0), F(1.0), F(1.0)), wo, alpha)
    key = pixel_key(7, 0, 0, 0, LANES)
    shares = lobe_shares(materials, 0, base, pearl_of(materials, 0), wo, each)
    forget_numbers(scratch)
    for i in range(count):
        draw(scratch, key, i, 0, 2)
        u1, u2 = sample_2d(scratch, key, i, 0)
        u3, _ = sample_2d(scratch, key, i, 1)
        if materials.kind[0] == 3:
            _, weight, _, _ = sample_glass(
                materials, 0, materials.params[0, INDEX], wo, entering, alpha, (u1, u2, u3)
            )
            for c in range(3):
                total[c] += weight
            continue
        for way in range(2 if each else 1):
            _, w, pdf = sample(
                materials, 0, base, pearl_of(materials, 0), wo, alpha, shares, (u1, u2, u3 + F(way))
            )
            if pdf <= F(0.0):
                continue
            for c in range(3):
                total[c] += w[c]


@kernel
def lit_evenly(materials, wo, side, matte_only, total):
    """The same by quadrature of `evaluate` over the hemisphere, side × side directions."""
    alpha = materials.params[0, ALPHA]
    base = seen_base(materials, 0, (F(1.0), F(1.0), F(1.0)), wo, alpha)
    for i in range(side):
        for j in range(side):
            z = (F(i) + F(0.5)) / F(side)
            phi = (F(j) + F(0.5)) / F(side) * F(2 * math.pi)
            r = math.sqrt(F(1.0) - z * z)
            wi = (r * math.cos(phi), r * math.sin(phi), z)
            if matte_only:
                f = matte_part(materials, 0, base, wo, wi)
            else:
                f, _ = evaluate(materials, 0, base, pearl_of(materials, 0), wo, wi, alpha, NO_SAMPLES)
            for c in range(3):
                total[c] += f[c] * F(2 * math.pi) / F(side * side)


def seen_from(cosine: float, around: float = 0.0) -> tuple[np.float32, np.float32, np.float32]:
    sine = math.sqrt(1 - cosine**2)
    return F(sine * math.cos(around)), F(sine * math.sin(around)), F(cosine)


def furnace(
    material: AnyMaterial,
    cosine: float,
    *,
    around: float = 0.0,
    entering: bool = True,
    each: bool = False,
) -> float:
    """Share of uniform light that comes back, green."""
    total = np.zeros(3)
    returned(
        pack_materials([material], tables=np.ones_like(metal_tables())),
        seen_from(cosine, around),
        SAMPLES,
        entering,
        each,
        total,
        make_scratch(),
    )
    return float(total[1]) / SAMPLES


class FurnaceTest(unittest.TestCase):
    """In a uniform surround a surface of albedo 1 returns exactly what arrives; Heitz, JCGT 3(2), 2014."""

    def test_white_opaque_materials_of_every_roughness(self) -> None:
        for roughness in (0.0, 0.05, 0.15, 0.3, 0.45, 0.6, 0.8, 1.0):
            made = (
                Metal(roughness=roughness),
                Plastic(colour=WHITE, roughness=roughness),
                Plastic(colour=WHITE, roughness=roughness, pearl=60, pearl_colour=WHITE),
                Stone(colour=WHITE, second=WHITE, roughness=roughness),
                Wood(colour=WHITE, second=WHITE, roughness=roughness),
            )
            for material in made:
                for cosine in (0.2, 0.5, 0.98):
                    self.assertAlmostEqual(
                        furnace(material, cosine), 1.0, delta=0.02, msg=f"{material} at {cosine}"
                    )

    def test_a_glow_with_a_core_sends_out_as_much(self) -> None:
        cosines = (np.arange(4000) + 0.5) / 4000
        for core in (0.0, 40.0, 100.0):
            materials = pack_materials([Glow(core=core)])
            seen = np.array([shining(materials, 0, F(cosine)) for cosine in cosines])
            # Flux over that of an even glow: ∫ L cos dω / π.
            self.assertAlmostEqual(float((2 * seen * cosines).mean()), 1.0, delta=1e-4)
            self.assertEqual(bool(seen[-1] > seen[0]), core > 0)

    def test_coats_over_white_of_every_kind(self) -> None:
        for coat in (
            Coat(),
            Coat(index=1.3, roughness=0.4),
            Coat(index=2.0, roughness=0.0),
            Coat(roughness=0.9),
        ):
            for material in (
                Paint(colour=WHITE, coat=coat),
                Plaster(colour=WHITE, relief=0, coat=coat),
                Stone(colour=WHITE, second=WHITE, coat=coat),
                Plastic(colour=WHITE, pearl=40, pearl_colour=WHITE, coat=coat),
                Metal(roughness=0.1, coat=coat),
                Metal(roughness=0.6, coat=coat),
                Metal(roughness=0.5, brushed=80, coat=coat),
            ):
                for cosine in (0.2, 0.5, 0.98):
                    for each in (False, True):
                        share = furnace(material, cosine, each=each)
                        self.assertAlmostEqual(share, 1.0, delta=0.025, msg=f"{material} at {cosine}")

    def test_a_coat_and_what_is_under_it_by_samples_of_their_own(self) -> None:
        for roughness in (0.05, 0.3, 0.8):
            for material in (
                Plastic(colour=WHITE, roughness=roughness),
                Plastic(colour=WHITE, roughness=roughness, pearl=60, pearl_colour=WHITE),
            ):
                for cosine in (0.2, 0.5, 0.98):
                    share = furnace(material, cosine, each=True)
                    self.assertAlmostEqual(share, 1.0, delta=0.02, msg=f"{material} at {cosine}")

    def test_paint_of_every_finish_and_plaster(self) -> None:
        for material in (
            *(Paint(colour=WHITE, finish=finish) for finish in ("matt", "satin", "gloss")),
            Plaster(colour=WHITE),
        ):
            for cosine in (0.2, 0.5, 0.98):
                self.assertAlmostEqual(
                    furnace(material, cosine), 1.0, delta=0.02, msg=f"{material} at {cosine}"
                )

    def test_brushed_metal_seen_along_and_across_its_brush(self) -> None:
        for brushed in (30, 80, 100):
            for roughness in (0.2, 0.5, 0.9):
                for around in (0.0, 0.8, math.pi / 2):
                    share = furnace(Metal(roughness=roughness, brushed=brushed), 0.6, around=around)
                    self.assertAlmostEqual(
                        share, 1.0, delta=0.03, msg=f"{brushed} % of {roughness} at {around}"
                    )

    def test_glass_of_every_roughness_from_both_sides(self) -> None:
        for roughness in (0.0, 0.1, 0.3, 0.5, 0.7, 1.0):
            for cosine in (0.3, 0.7, 0.95):
                for entering in (True, False):
                    share = furnace(Glass(roughness=roughness, tint=WHITE), cosine, entering=entering)
                    self.assertAlmostEqual(share, 1.0, delta=0.03, msg=f"{roughness} at {cosine}, {entering}")

    def test_thin_panes(self) -> None:
        for roughness in (0.0, 0.3, 0.8):
            self.assertAlmostEqual(
                furnace(Glass(thin=True, roughness=roughness, tint=WHITE), 0.6), 1.0, delta=0.03
            )

    def test_evaluation_is_what_sampling_is(self) -> None:
        """∫ f cos dω by quadrature, of lobes wide enough for it, against the mean of the samples' weights."""
        for material in (
            Metal(roughness=0.7),
            Metal(roughness=0.7, brushed=50),
            Plastic(colour="#808080", roughness=0.6),
            Plastic(roughness=0.7, pearl=50),
            Metal(roughness=0.7, brushed=40, coat=Coat(roughness=0.6)),
        ):
            materials = pack_materials([material], tables=np.ones_like(metal_tables()))
            sampled, summed = np.zeros(3), np.zeros(3)
            returned(materials, seen_from(0.7), SAMPLES, True, False, sampled, make_scratch())
            lit_evenly(materials, seen_from(0.7), 256, False, summed)
            np.testing.assert_allclose(sampled / SAMPLES, summed, rtol=0.02, err_msg=str(material))

    def test_what_scatters_evenly_is_a_part_of_all(self) -> None:
        materials = pack_materials(
            [Plastic(colour="#808080", roughness=0.6)], tables=np.ones_like(metal_tables())
        )
        matte, whole = np.zeros(3), np.zeros(3)
        lit_evenly(materials, seen_from(0.7), 128, True, matte)
        lit_evenly(materials, seen_from(0.7), 128, False, whole)
        self.assertTrue((matte < whole).all() and (matte > 0).all())


class ScatteringTest(unittest.TestCase):
    def test_plastic_and_metal_are_reciprocal(self) -> None:
        """Helmholtz: f(a, b) = f(b, a), without energy between facets."""
        a, b = (F(0.3), F(0.1), F(math.sqrt(0.9))), (F(-0.6), F(0.2), F(math.sqrt(0.6)))
        for material in (Plastic(roughness=0.5), Metal(roughness=0.5, brushed=60)):
            materials = pack_materials([material])
            alpha = materials.params[0, ALPHA]
            base = (F(0.8), F(0.5), F(0.2))
            one, other = (
                evaluate(materials, 0, base, NO_PEARL, a, b, alpha, NO_SAMPLES)[0],
                evaluate(materials, 0, base, NO_PEARL, b, a, alpha, NO_SAMPLES)[0],
            )
            self.assertAlmostEqual(one[0] / b[2], other[0] / a[2], places=5, msg=material.kind)

    def test_albedo_of_smooth_metal_is_one(self) -> None:
        np.testing.assert_allclose(albedo_table("metal", 1e-3, 1.0, 1.0)[0, :, 4:], 1.0, atol=1e-3)

    def test_a_brushed_highlight_is_wide_across_the_brush(self) -> None:
        materials = pack_materials([Metal(roughness=0.5, brushed=100)])
        alpha, base, up = materials.params[0, ALPHA], (F(1), F(1), F(1)), seen_from(1.0)
        tilt = 0.35
        along = evaluate(
            materials, 0, base, NO_PEARL, up, (F(math.sin(tilt)), F(0), F(math.cos(tilt))), alpha, NO_SAMPLES
        )[0][1]
        across = evaluate(
            materials, 0, base, NO_PEARL, up, (F(0), F(math.sin(tilt)), F(math.cos(tilt))), alpha, NO_SAMPLES
        )[0][1]
        self.assertGreater(across, 5 * along)


class CoatTest(unittest.TestCase):
    def returned_by(self, material: AnyMaterial, base: float = 1.0) -> NDArray[np.float64]:
        """Share (rgb) of even light that comes back at right angles."""
        total = np.zeros(3)
        tables = np.full_like(metal_tables(), base)
        packed = pack_materials([material], tables=tables)
        returned(packed, seen_from(1.0), SAMPLES, True, False, total, make_scratch())
        return total / SAMPLES

    def test_a_coat_over_black_mirrors_by_fresnel(self) -> None:
        """((n - 1) / (n + 1))² at right angles: Hecht, Optics, 4.6."""
        for index in (1.3, 1.5, 2.0):
            packed = pack_materials([Paint(coat=Coat(index=index, roughness=0))])
            at_right_angles = packed.albedo[0, 0, 0, -1]
            self.assertAlmostEqual(at_right_angles, ((index - 1) / (index + 1)) ** 2, delta=2e-3)

    def test_between_coat_and_metal_light_goes_to_and_fro(self) -> None:
        """R = r + (1 - r)² m / (1 - r m) of two faces one over the other without interference: the geometric
        series over all orders."""
        for metal in (0.3, 0.7, 0.95):
            for index in (1.3, 1.5, 2.0):
                r = ((index - 1) / (index + 1)) ** 2
                found = self.returned_by(Metal(roughness=0.02, coat=Coat(index=index, roughness=0.02)), metal)
                expected = r + (1 - r) ** 2 * metal / (1 - r * metal)
                self.assertAlmostEqual(float(found[0]), expected, delta=0.01)

    def test_a_tint_is_what_is_left_after_going_in_and_out(self) -> None:
        tint = hex_to_linear("#c04020")
        base = (F(1.0), F(1.0), F(1.0))
        for thickness in (100, 250):
            packed = pack_materials([Metal(coat=Coat(tint="#c04020", thickness=thickness))])
            straight = tinted_base(packed, 0, base, seen_from(1.0))
            np.testing.assert_allclose(straight, tint ** (thickness / 100), rtol=1e-4)
            # At a slant the way within is longer by 1 / cos of the refracted angle (Snell).
            slanted = tinted_base(packed, 0, base, seen_from(0.5))
            within = math.sqrt(1 - (1 - 0.25) / 1.5**2)
            np.testing.assert_allclose(slanted, tint ** (thickness / 100 / within), rtol=1e-4)

    def test_under_a_coat_only_a_metal_keeps_its_gloss(self) -> None:
        coat = Coat(roughness=0.3)
        dull, shiny = (pack_materials([Plastic(roughness=rough, coat=coat)]) for rough in (0.9, 0.1))
        np.testing.assert_array_equal(dull.params, shiny.params)
        dull, shiny = (pack_materials([Metal(roughness=rough, coat=coat)]) for rough in (0.9, 0.4))
        self.assertGreater(dull.params[0, FLAKE_ALPHA], shiny.params[0, FLAKE_ALPHA])


class DispersionTest(unittest.TestCase):
    def test_abbe_number_of_crown_glass(self) -> None:
        """N-BK7: n_d 1.51680, V_d 64.17; V = (n_d - 1) / (n_F - n_C) at 587.56, 486.13 and 656.27
        nm (ISO 7944), from memory of the catalogue."""
        b = cauchy(1.5168, 64.17)
        at = {nm: 1.5168 + b * (1 / (nm / 1000) ** 2 - 1 / 0.58756**2) for nm in (486.13, 656.27)}
        self.assertAlmostEqual((1.5168 - 1) / (at[486.13] - at[656.27]), 64.17, delta=0.05)

    def test_blue_is_bent_more_than_red(self) -> None:
        materials = pack_materials([Glass(abbe=30)])
        index, b = materials.params[0, INDEX], materials.params[0, CAUCHY]
        places = np.linspace(0.02, 0.98, 97, dtype=np.float32)
        red, green, blue = np.array([wavelength_weight(u) for u in places]).T
        reddest, bluest = places[np.argmax(red - green - blue)], places[np.argmax(blue - red - green)]
        self.assertGreater(dispersed(index, b, bluest) - dispersed(index, b, reddest), 0.01)

    def test_the_wavelengths_together_are_white(self) -> None:
        mean = np.mean([wavelength_weight(F((i + 0.5) / 4096)) for i in range(4096)], axis=0)
        np.testing.assert_allclose(mean, 1.0, atol=0.01)


def colours_of(materials: Materials) -> tuple[tuple[tuple[np.float32, ...], ...], np.float32]:
    """Both colours and the relief of the texture of the first of these materials."""
    row = materials.params[0]
    second = FIRST_TEXTURE + SECOND
    return (tuple(row[:3]), tuple(row[second : second + 3])), row[FIRST_TEXTURE + RELIEF]


class TextureTest(unittest.TestCase):
    def looks(self, material: AnyMaterial) -> np.ndarray:
        materials = pack_materials([material])
        texture = FIRST_TEXTURE, 0, materials.texture[0], *colours_of(materials)
        up = (F(0), F(0), F(1))
        points = np.random.default_rng(3).uniform(-60, 60, (200, 3)).astype(F)
        return np.array([textured(materials.params, *texture, tuple(q), up)[0] for q in points])

    def test_textures_end_where_numbers_do(self) -> None:
        """Far off, and where there is no place at all, a texture is a colour and keeps the normal: a picture
        that is looked up in a direction which is no number ends the process."""
        wild = [(F(x), F(3.0), F(-7.0)) for x in (math.inf, -math.inf, math.nan, 1e30, 1e12)]
        up = (F(0.0), F(0.0), F(1.0))
        made: list[AnyMaterial] = [Stone(grain=1e-4), Wood(grain=1e-4), Plaster(grain=1e-4)]
        for material in made:
            materials = pack_materials([material])
            texture = FIRST_TEXTURE, 0, materials.texture[0], *colours_of(materials)
            for place in wild:
                with self.subTest(material=material.kind, x=float(place[0])):
                    colour, normal = textured(materials.params, *texture, place, up)
                    self.assertTrue(np.isfinite(colour).all())
                    self.assertAlmostEqual(float(np.linalg.norm(normal)), 1, delta=1e-3)

    def test_every_texture_varies_stays_in_range_and_repeats_by_seed(self) -> None:
        made: list[AnyMaterial] = [Stone(stone=name) for name in ("granite", "marble", "slate", "sandstone")]  # type: ignore[arg-type]
        for material in (*made, Wood()):
            first = self.looks(material)
            self.assertGreater(float(first.std(axis=0).max()), 0.005, str(material))
            self.assertTrue(((first >= 0) & (first <= 1)).all(), str(material))
            np.testing.assert_array_equal(first, self.looks(material))
            self.assertFalse(
                np.array_equal(first, self.looks(material.model_copy(update={"seed": 9}))), str(material)
            )


if __name__ == "__main__":
    unittest.main()
