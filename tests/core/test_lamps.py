"""Lamps against form factors, surroundings and panoramas, and the place of a highlight."""

import math
import tempfile
import unittest
from unittest.mock import patch

import numpy as np
import OpenEXR

from halvex.core.advice.highlight import lamp_for, place_highlight
from halvex.core.assets import SHIPPED
from halvex.core.kernels import kernel
from halvex.core.piece import piece_from_values
from halvex.core.piece.light import Aim, Dusk, Horizon, Lamp, Panorama, Plain, Studio
from halvex.core.piece.turning import rotation
from halvex.core.render.aiming import aimed, is_aimed_at
from halvex.core.render.assembling import make_world
from halvex.core.render.lights import hit_lamp, sample_lamp, sample_surround, surround_pdf, table_for
from halvex.core.render.spots import Spot, spot_at
from halvex.core.scene import SceneError, scene_of
from halvex.core.scene.lamps import lamp_direction, lamp_stood_at, pack_lamps, rectangle_form_factor
from halvex.core.scene.panorama import open_panorama, read_panorama
from halvex.core.scene.skies import panorama_of, picture_of
from halvex.core.scene.surround import radiance_from
from halvex.core.scene.surroundings import MOST_VARIANCE, facing, make_surround, surround_of

F = np.float32


@kernel
def gathered(lamps, k, p, n, side):
    """Irradiance at p with normal n from lamp k of 0 stops, over side × side points of it."""
    total = 0.0
    for i in range(side):
        for j in range(side):
            d, _, radiance, pdf = sample_lamp(
                lamps, k, p, (F(i) + F(0.5)) / F(side), (F(j) + F(0.5)) / F(side)
            )
            if pdf > F(0.0):
                total += radiance * max(d[0] * n[0] + d[1] * n[1] + d[2] * n[2], F(0.0)) / pdf
    return total / (side * side)


@kernel
def brought(lamps, k, p, n, is_aimed, samples):
    """Fill samples (side, side) with the irradiance at p with normal n that spots of lamp k bring, even ones
    or those of `aimed`."""
    side = samples.shape[0]
    for i in range(side):
        for j in range(side):
            u1, u2, density = (F(i) + F(0.5)) / F(side), (F(j) + F(0.5)) / F(side), F(1)
            if is_aimed:
                u1, u2, density = aimed(lamps, k, p, n, u1, u2)
            d, _, radiance, pdf = sample_lamp(lamps, k, p, u1, u2)
            cosine = d[0] * n[0] + d[1] * n[1] + d[2] * n[2]
            samples[i, j] = radiance * max(cosine, F(0.0)) / (pdf * density) if pdf > F(0.0) else F(0.0)


def polygon_irradiance(corners: np.ndarray, point: np.ndarray, normal: np.ndarray) -> float:
    """Irradiance over radiance at a point from a polygon (n, 3): Lambert's sum over edges (Baum,
    Rushmeier & Winget, SIGGRAPH 1989)."""
    r = corners - point
    r /= np.linalg.norm(r, axis=1, keepdims=True)
    total = 0.0
    for a, b in zip(r, np.roll(r, -1, axis=0), strict=True):
        across = np.cross(a, b)
        total += math.acos(np.clip(a @ b, -1, 1)) * float(across @ normal) / np.linalg.norm(across)
    return abs(total) / 2


class LampTest(unittest.TestCase):
    def irradiance(self, lamp: Lamp, point: tuple[float, float, float] = (0, 0, 0)) -> float:
        """Irradiance (green) at a point of the plane z = 0 that faces +z, over π."""
        lamps = pack_lamps((lamp,))
        light = gathered(lamps, 0, tuple(F(v) for v in point), (F(0), F(0), F(1)), 128)
        return float(light * lamps.level[0, 1]) / math.pi

    def test_a_card_facing_a_lamp_of_0_stops_is_fully_lit(self) -> None:
        for lamp in (
            Lamp(kind="softbox"),
            Lamp(kind="round", width=900, distance=700),
            Lamp(kind="sun"),
            Lamp(kind="bulb", width=300),
            Lamp(width=3000, height=200, distance=800),
        ):
            overhead = lamp.model_copy(update={"elevation": 90.0, "kelvin": 5500.0})
            self.assertAlmostEqual(self.irradiance(overhead), 1.0, places=2, msg=str(lamp))

    def test_rectangle_form_factor_is_howells(self) -> None:
        """Howell's catalogue: one corner over the point, a = b = c: 0.138532."""
        self.assertAlmostEqual(rectangle_form_factor(2, 2, 1) / 4, 0.138532, places=6)

    def test_rectangle_irradiance_off_its_axis(self) -> None:
        """Corner over the point: a quarter of a lamp twice the size. E = π L F."""
        lamp = Lamp(kind="softbox", elevation=90, distance=1000, width=1000, height=1000, kelvin=5500)
        radiance = pack_lamps((lamp,)).radiance[0]
        corner = self.irradiance(lamp, (500, 500, 0))
        self.assertAlmostEqual(corner / (radiance * 0.138532), 1.0, places=3)

    def test_a_stop_doubles(self) -> None:
        one, two = (self.irradiance(Lamp(elevation=60, strength=s)) for s in (0, 1))
        self.assertAlmostEqual(two / one, 2.0, places=4)

    def test_densities_of_sampling_and_meeting_agree(self) -> None:
        for kind in ("softbox", "strip", "round", "bulb", "sun"):
            lamps = pack_lamps((Lamp(kind=kind, angular_size=8),))
            d, _, _, pdf = sample_lamp(lamps, 0, (F(30), F(-20), F(0)), F(0.3), F(0.7))
            distance, met = hit_lamp(lamps, 0, (F(30), F(-20), F(0)), d)
            self.assertLess(distance, 1e30)
            self.assertAlmostEqual(met / pdf, 1.0, places=3, msg=kind)

    def test_a_tilted_rectangle_is_lamberts_polygon(self) -> None:
        lamps = pack_lamps(
            (
                Lamp(
                    bearing=70,
                    elevation=40,
                    distance=1100,
                    width=700,
                    height=300,
                    roll=20,
                    aim=Aim(x=120, y=-40),
                ),
            )
        )
        centre, u, v = lamps.centre[0].astype(float), lamps.u[0].astype(float), lamps.v[0].astype(float)
        corners = np.array([centre + u + v, centre - u + v, centre - u - v, centre + u - v])
        for point, normal in (
            ((0, 0, 0), (0, 0, 1)),
            ((200, 90, -30), (0.2, 0.9, 0.4)),
            ((-150, 0, 40), (0.3, 0.5, 0.8)),
        ):
            n = np.array(normal) / np.linalg.norm(normal)
            above = (corners - np.array(point)) @ n
            self.assertTrue((above > 0).all(), "the check needs a lamp wholly over the horizon")
            expected = polygon_irradiance(corners, np.array(point, float), n) * float(lamps.radiance[0])
            mine = gathered(lamps, 0, tuple(F(x) for x in point), tuple(F(x) for x in n), 256)
            self.assertAlmostEqual(mine / expected, 1.0, places=3)

    def test_spots_that_matt_surfaces_aim_at_bring_as_much_and_more_evenly(self) -> None:
        lamps = pack_lamps(
            (
                Lamp(kind="softbox", bearing=70, elevation=40, distance=300, width=260, height=120, roll=20),
                Lamp(kind="round", bearing=200, elevation=35, distance=300, width=200),
                Lamp(kind="bulb", bearing=300, elevation=20, distance=300, width=120),
            )
        )
        for k in range(3):
            for point, normal in (
                ((0, 0, 0), (0, 0, 1)),
                ((60, 90, -30), (0.2, 0.5, 0.8)),
                ((-50, 0, 40), (-0.3, -0.5, 0.8)),
            ):
                p = tuple(F(x) for x in point)
                n = tuple(F(x) for x in np.array(normal) / np.linalg.norm(normal))
                self.assertTrue(is_aimed_at(lamps, k, p))
                even, of_aimed = np.zeros((128, 128), F), np.zeros((128, 128), F)
                brought(lamps, k, p, n, False, even)
                brought(lamps, k, p, n, True, of_aimed)
                self.assertAlmostEqual(float(of_aimed.mean() / even.mean()), 1.0, places=2)
                # Where the lamp sets behind the surface, it ends within the square.
                most = 0.7 if even.min() > 0 else 0.75
                self.assertLess(float(of_aimed.std()), most * float(even.std()))

    def test_a_lamp_that_does_not_light_a_surface_is_not_aimed_at(self) -> None:
        lamps = pack_lamps((Lamp(kind="softbox", elevation=90, distance=300),))
        samples = np.ones((4, 4), F)
        brought(lamps, 0, (F(0), F(0), F(0)), (F(0), F(0), F(-1)), True, samples)
        np.testing.assert_array_equal(samples, 0)

    def test_places_far_off_aim_at_lamps_too(self) -> None:
        """A wall has no end: a path may meet it anywhere."""
        lamps = pack_lamps((Lamp(kind="softbox"), Lamp(kind="bulb"), Lamp(kind="sun"), Lamp(kind="round")))
        for k in range(4):
            for distance in 10.0 ** np.arange(0, 16):
                p = F(distance), F(-0.3 * distance), F(-50)
                samples = np.full((8, 8), np.nan, F)
                brought(lamps, k, p, (F(0), F(0), F(1)), True, samples)
                self.assertTrue(np.isfinite(samples).all(), (k, distance))

    def test_a_surface_beside_a_lamp_samples_it_both_ways(self) -> None:
        lamps = pack_lamps((Lamp(kind="softbox", elevation=90, distance=300, width=200, height=100),))
        for distance, aims in ((300, True), (200, True), (150, False), (20, False)):
            self.assertEqual(is_aimed_at(lamps, 0, (F(0), F(0), F(300 - distance))), aims)

    def test_a_bulb_is_a_sphere(self) -> None:
        """Howell's catalogue: a sphere lights a point that faces it to π L (r/d)²."""
        lamps = pack_lamps((Lamp(kind="bulb", elevation=90, distance=800, width=500),))
        for distance in (800, 500):
            mine = gathered(lamps, 0, (F(0), F(0), F(800 - distance)), (F(0), F(0), F(1)), 128)
            self.assertAlmostEqual(
                mine / (math.pi * float(lamps.radiance[0]) * (250 / distance) ** 2), 1.0, places=3
            )

    def test_a_lamp_fixed_to_the_lettering_turns_along(self) -> None:
        turn = rotation(piece_from_values({"view": {"turn": {"x": 20, "y": -35}}}).view.turn)
        fixed = pack_lamps((Lamp(fixed_to="lettering", aim=Aim(x=50)),), turn)
        free = pack_lamps((Lamp(aim=Aim(x=50)),), turn)
        np.testing.assert_allclose(fixed.centre[0], turn @ free.centre[0], rtol=1e-5)
        np.testing.assert_allclose(fixed.u[0], turn @ free.u[0], rtol=1e-4, atol=1e-3)

    def test_a_lamp_stands_where_it_is_put(self) -> None:
        turn = rotation(piece_from_values({"view": {"turn": {"y": 30}}}).view.turn)
        for lamp in (
            Lamp(),
            Lamp(fixed_to="lettering", aim=Aim(x=40, y=10, z=-5)),
            Lamp(kind="bulb", aim=Aim(y=90)),
        ):
            for point in ((300.0, 400.0, 700.0), (-500.0, -100.0, -80.0)):
                stood = lamp_stood_at(lamp, np.array(point), turn)
                np.testing.assert_allclose(pack_lamps((stood,), turn).centre[0], point, atol=0.01)
        self.assertEqual(
            lamp_stood_at(Lamp(kind="sun"), np.array([0.0, 0, 9]), turn).distance, Lamp().distance
        )


class SurroundTest(unittest.TestCase):
    ALL = (
        Studio(),
        Dusk(),
        Plain(),
        Horizon(),
        Panorama(),
        Panorama(turn=130),
        Horizon(height=10, softness=0, turn=-70),
    )

    def test_density_agrees_and_light_is_what_sampling_finds(self) -> None:
        """∫ L dω by samples of the density, and by a fine grid of directions."""
        for part in self.ALL:
            surround = make_surround(part)
            found, dice = [], np.random.default_rng(1).random((4000, 2)).astype(F)
            for number, (a, b) in enumerate(dice):
                d, radiance, pdf, of_all = sample_surround(surround, 0, a, b)
                self.assertEqual(of_all, pdf)
                found.append(radiance[1] / pdf)
                if number % 400 == 0:
                    self.assertAlmostEqual(surround_pdf(surround, d) / pdf, 1.0, places=2, msg=str(part))
                    np.testing.assert_allclose(radiance, radiance_from(surround, d), rtol=2e-2, atol=1e-3)
            image = picture_of(part, panorama_of(part, SHIPPED))
            height = image.shape[0]
            band = np.cos(np.arange(height) / height * math.pi) - np.cos(
                (np.arange(height) + 1) / height * math.pi
            )
            whole = float((image[..., 1].mean(axis=1) * band).sum() * 2 * math.pi)
            self.assertAlmostEqual(np.mean(found) / whole, 1.0, delta=0.04, msg=str(part))

    def test_tables_are_as_coarse_as_the_light_allows(self) -> None:
        """Even light needs few numbers, a sun of one pixel needs that pixel; samples spread little
        more than with one number a pixel."""
        even = np.full((256, 512, 3), 0.5)
        sun = even.copy()
        sun[100, 300] = 1e4
        self.assertEqual(surround_of(even).tables.column_guide.shape, (1, 16, 32))
        self.assertEqual(surround_of(sun).tables.column_guide.shape, (1, 256, 512))
        dice = np.random.default_rng(2).random((2000, 2)).astype(F)
        for part in self.ALL:
            spreads = []
            for allowed in (0.0, MOST_VARIANCE):
                with patch("halvex.core.scene.surroundings.MOST_VARIANCE", allowed):
                    surround = surround_of(picture_of(part, panorama_of(part, SHIPPED)))
                samples = (sample_surround(surround, 0, a, b) for a, b in dice)
                weights = [float(np.mean(radiance)) / pdf for _, radiance, pdf, _ in samples]
                spreads.append(np.var(weights) / np.mean(weights) ** 2)
            self.assertLess(spreads[1], spreads[0] + 2 * MOST_VARIANCE, str(part))

    def test_tables_of_what_reaches_a_surface(self) -> None:
        """Irradiance of tilted surfaces as by the tables of all light, from samples that spread far less;
        none is spent on what lies behind the surface."""
        dice = np.random.default_rng(3).random((3000, 2)).astype(F)
        normals = [np.array([0.0, 1.0, 0.0]), np.array([0.6, 0.0, 0.8]), np.array([-0.48, -0.6, 0.64])]
        for part in self.ALL:
            surround = facing(make_surround(part), normals)
            self.assertEqual(len(surround.tables.normals), 4)
            for normal in normals:
                n = tuple(F(x) for x in normal)
                table = table_for(surround, n)
                self.assertGreater(table, 0)
                found = []
                for chosen in (0, table):
                    samples = [sample_surround(surround, chosen, a, b) for a, b in dice]
                    light = [max(float(np.dot(d, n)), 0) * c[1] / pdf for d, c, pdf, _ in samples]
                    found.append((np.mean(light), np.std(light)))
                    if chosen:
                        behind = np.mean([np.dot(d, n) < 0 for d, *_ in samples])
                        self.assertLess(behind, 0.06)
                        for d, _, _, of_all in samples[:50]:
                            self.assertAlmostEqual(surround_pdf(surround, d) / of_all, 1.0, places=2)
                (all_light, spread), (reaching, less) = found
                self.assertAlmostEqual(reaching / all_light, 1.0, delta=0.08, msg=f"{part} {normal}")
                self.assertLess(less, 0.6 * spread, msg=f"{part} {normal}")

    def test_blocks_hold_all_of_the_light(self) -> None:
        """Their radiance times their size is that of the picture's pixels, in each colour."""
        for part in self.ALL:
            surround = make_surround(part)
            self.assertEqual(surround.blocks.shape, (*surround.tables.column_guide.shape[1:], 3))
            sums = []
            for picture in (surround.image, surround.blocks):
                height, width = picture.shape[:2]
                edges = np.cos(np.arange(height + 1) / height * math.pi)
                sums.append((picture.sum(axis=1) * (edges[:-1] - edges[1:])[:, None]).sum(axis=0) / width)
            np.testing.assert_allclose(*sums, rtol=2e-3, err_msg=str(part))

    def test_other_normals_have_the_tables_of_all_light(self) -> None:
        surround = facing(make_surround(Studio()), [np.array([0.0, 0.0, 1.0])])
        self.assertEqual(table_for(surround, (F(0), F(0), F(1))), 1)
        self.assertEqual(table_for(surround, (F(0), F(0.1), F(0.995))), 0)
        self.assertEqual(table_for(make_surround(Studio()), (F(0), F(0), F(1))), 0)

    def test_a_surface_that_nothing_reaches_has_no_table(self) -> None:
        above = np.zeros((64, 128, 3))
        above[:20] = 1.0
        surround = surround_of(above)
        self.assertEqual(len(facing(surround, [np.array([0.0, 1.0, 0.0])]).tables.normals), 2)
        dark = surround_of(np.zeros((64, 128, 3)))
        for normals in ([], [np.array([0.0, 0.0, 1.0])]):
            tables = facing(dark, normals).tables
            self.assertTrue(np.isfinite(tables.rows).all() and np.isfinite(tables.columns).all())

    def test_a_stop_doubles_and_a_turn_turns(self) -> None:
        ahead, right = (F(0), F(0.2), F(0.98)), (F(0.98), F(0.2), F(0))
        plain, turned = make_surround(Horizon()), make_surround(Dusk(turn=90))
        self.assertAlmostEqual(float(make_surround(Horizon(strength=0)).level / plain.level), 2.0, places=5)
        np.testing.assert_allclose(
            radiance_from(turned, right), radiance_from(make_surround(Dusk()), ahead), rtol=1e-3
        )

    def test_the_break_of_a_horizon_stands_where_it_is_set(self) -> None:
        """Dark, light, break, dark, light from below upwards: the brightest step is at the height
        that was set."""
        for height in (-20.0, 0.0, 15.0):
            column = picture_of(Horizon(height=height, softness=0))[:, 256, 1][::-1]
            steps = np.abs(np.diff(column))
            self.assertAlmostEqual(float((np.argmax(steps) + 1) / len(column) * 180 - 90), height, delta=1.5)


class PanoramaTest(unittest.TestCase):
    def radiance_file(self, picture: np.ndarray) -> bytes:
        """A Radiance file, flat pixels: Ward, Real Pixels, in Graphics Gems II, 1991."""
        most = picture.max(axis=2)
        exponent = np.where(most > 0, np.ceil(np.log2(np.maximum(most, 1e-30))), -128)
        mantissa = np.clip(picture / 2.0 ** exponent[..., None] * 256, 0, 255).astype(np.uint8)
        pixels = np.dstack([mantissa, (exponent + 128).astype(np.uint8)])
        return b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y %d +X %d\n" % picture.shape[:2] + pixels.tobytes()

    def picture(self) -> np.ndarray:
        return np.random.default_rng(4).uniform(0.2, 30, (32, 64, 3)).astype(F)

    def test_radiance_and_open_exr_are_read(self) -> None:
        picture = self.picture()
        np.testing.assert_allclose(read_panorama(self.radiance_file(picture)), picture, rtol=0.2, atol=0.3)
        with tempfile.NamedTemporaryFile(suffix=".exr") as file:
            with OpenEXR.File(
                {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, {"RGB": picture}
            ) as exr:
                exr.write(file.name)
            np.testing.assert_array_equal(read_panorama(file.read()), picture)

    def test_the_one_that_ships_has_a_sun(self) -> None:
        picture = open_panorama(SHIPPED.panoramas["quayside"])
        self.assertEqual(picture.shape, (512, 1024, 3))
        self.assertGreater(float(picture.max()), 50.0)

    def test_bad_files_are_refused_with_what_is_wrong(self) -> None:
        good = self.radiance_file(self.picture())
        bad = {
            b"": "neither",
            b"GIF89a": "neither",
            good[: len(good) // 2]: "",
            good.replace(b"-Y 32 +X 64", b"-Y 90000 +X 180000"): "16384",
            self.radiance_file(np.ones((32, 32, 3), F)): "twice as wide",
            b"#?RADIANCE\n\n": "no size",
            b"\x76\x2f\x31\x01" + b"\x00" * 200: "OpenEXR",
        }
        for data, said in bad.items():
            with self.assertRaises(SceneError, msg=str(data[:20])) as caught:
                read_panorama(data)
            self.assertIn(said, str(caught.exception))

    def test_a_missing_one_is_named(self) -> None:
        with self.assertRaises(SceneError) as caught:
            make_surround(Panorama(picture="no-such"))
        self.assertIn("no-such", str(caught.exception))


class HighlightTest(unittest.TestCase):
    """The law of reflection: the lamp's middle, the spot and the eye lie in one plane with the
    normal, at equal angles to it."""

    def check(self, spot: Spot, lamp: Lamp, turn: np.ndarray) -> None:
        moved = lamp_for(lamp, spot, turn)
        if lamp.kind == "sun":
            towards = lamp_direction(moved.bearing, moved.elevation)
        else:
            to = pack_lamps((moved,), turn).centre[0].astype(float) - spot.point
            towards = to / np.linalg.norm(to)
        eye = -spot.sight
        self.assertAlmostEqual(float(towards @ spot.normal), float(eye @ spot.normal), places=4)
        np.testing.assert_allclose((towards + eye) / np.linalg.norm(towards + eye), spot.normal, atol=1e-4)
        self.assertEqual(moved.distance, lamp.distance)

    def test_law_of_reflection_for_every_kind_of_lamp(self) -> None:
        piece = piece_from_values({"view": {"turn": {"x": -10, "y": -22}}})
        scene = scene_of(piece)
        world = make_world(scene)
        spots = 0
        for x in range(160, 1140, 61):
            for y in range(290, 440, 29):
                try:
                    spot = spot_at(world, float(x), float(y))
                except SceneError:
                    continue
                spots += 1
                for lamp in (
                    Lamp(),
                    Lamp(kind="bulb", aim=Aim(x=200, y=50)),
                    Lamp(kind="sun"),
                    Lamp(kind="round", fixed_to="lettering", distance=2500),
                ):
                    self.check(spot, lamp, scene.turn)
        self.assertGreater(spots, 15)

    def test_where_there_is_nothing_to_shine(self) -> None:
        piece = piece_from_values({})
        for x, y, lamp, said in (
            (2.0, 2.0, "key", "no lettering"),
            (5000.0, 3.0, "key", "no lettering"),
            (640.0, 360.0, "moon", "no lamp"),
        ):
            with self.assertRaises(SceneError) as caught:
                place_highlight(piece, lamp, x, y)
            self.assertIn(said, str(caught.exception))

    def test_a_lamp_too_near_to_its_aim_is_told_apart(self) -> None:
        spot = Spot(np.array([400.0, 0, 0]), np.array([0.0, 0, 1]), np.array([0.0, 0, -1]))
        with self.assertRaises(SceneError) as caught:
            lamp_for(Lamp(distance=200), spot, np.eye(3))
        self.assertIn("distance over 400", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
