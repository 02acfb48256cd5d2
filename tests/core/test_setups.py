"""Lighting setups: what they promise holds whichever way the piece is turned, and a new piece looks good."""

import math
import unittest
from typing import get_args

import numpy as np

from halvex.core.advice.tones import measure
from halvex.core.piece import Lettering, Piece
from halvex.core.piece.light import FittedSetup, Light, SetupName, Studio
from halvex.core.piece.material import AnyMaterial, Glass, Glow, Metal, Paint, Plastic, Stone
from halvex.core.piece.resolving import resolve
from halvex.core.piece.view import Oblique, Turn, View
from halvex.core.scene.lamps import lamp_direction
from halvex.core.scene.setups import SETUPS, fitting_setup, light_of, lit_by
from halvex.core.scene.skies import HEIGHT, WIDTH, picture_of
from halvex.core.scene.subject import subject_of
from halvex.studio.lighting import lit_for_its_material, new_piece

TURNS = (Turn(), Turn(x=-18, y=24), Turn(x=12, y=-30), Turn(y=10, z=25))
TYPEFACES = ("alfa-slab-one", "anton", "lobster", "bangers", "abril-fatface")
MATERIALS: tuple[AnyMaterial, ...] = (
    Metal(roughness=0.1),
    Metal(metal="silver", roughness=0.15),
    Metal(metal="copper", roughness=0.12),
    Plastic(),
    Paint(colour="#d9b44a"),
    Stone(),
)


def piece(turn: Turn, **view: object) -> Piece:
    return Piece(
        blocks=(Lettering(words="Quay", size=300),), view=View.model_validate({"turn": turn, **view})
    )


def seen(picture: np.ndarray, towards: np.ndarray) -> float:
    """Light of surroundings from a direction."""
    u = math.atan2(towards[0], towards[2]) / (2 * math.pi) + 0.5
    v = math.atan2(math.hypot(towards[0], towards[2]), towards[1]) / math.pi
    return float(picture[min(int(v * HEIGHT), HEIGHT - 1), int(u * WIDTH) % WIDTH].mean())


class SubjectTest(unittest.TestCase):
    def test_a_face_seen_straight_on_mirrors_the_camera(self) -> None:
        """The angle of reflection is that of incidence: over a face h high, seen from a distance d, what it
        mirrors turns by 2 atan(h / 2d)."""
        resolved = resolve(piece(Turn()))
        subject = subject_of(resolved)
        np.testing.assert_allclose(subject.face, [0, 0, 1], atol=1e-2)
        distance = 50 / 36 * 1280
        self.assertAlmostEqual(
            subject.rise_deg, math.degrees(2 * math.atan(subject.height / 2 / distance)), delta=0.1
        )
        self.assertAlmostEqual(
            subject.span_deg, math.degrees(2 * math.atan(subject.width / 2 / distance)), delta=0.1
        )
        self.assertGreater(subject.up_axis[1], 0.99)
        # A bevel of 45° over a face seen straight on mirrors what is straight above.
        np.testing.assert_allclose(subject.bevels["up"], [0, 1, 0], atol=0.05)

    def test_a_turned_face_mirrors_twice_as_far_round(self) -> None:
        subject = subject_of(resolve(piece(Turn(y=20))))
        towards = math.degrees(math.atan2(subject.face[0], subject.face[2]))
        self.assertAlmostEqual(towards, 40, delta=0.5)

    def test_parallel_views_mirror_one_direction(self) -> None:
        subject = subject_of(resolve(piece(Turn(x=15), projection="parallel")))
        self.assertLess(subject.rise_deg, 1e-3)
        self.assertGreater(subject.up_axis[1], 0.5)
        oblique = subject_of(resolve(piece(Turn(), projection="oblique", oblique=Oblique(angle=45))))
        self.assertLess(oblique.face[0], -0.1)


class SetupTest(unittest.TestCase):
    def test_every_name_has_a_rule_and_every_substance_a_setup(self) -> None:
        self.assertEqual(set(SETUPS), set(get_args(SetupName)))
        self.assertGreaterEqual(len(SETUPS), 12)
        for face, wanted in (
            (Metal(), "graded face"),
            (Plastic(), "softbox and fill"),
            (Stone(), "raking light"),
            (Glass(), "dark field"),
            (Glow(), "dark room"),
        ):
            block = Lettering(words="Quay")
            block = block.model_copy(update={"surface": block.surface.model_copy(update={"face": face})})
            self.assertEqual(fitting_setup(resolve(Piece(blocks=(block,)))), wanted)

    def test_a_graded_face_is_light_above_and_dark_below_however_it_is_turned(self) -> None:
        for turn in TURNS:
            resolved = resolve(piece(turn))
            subject, lit = subject_of(resolved), light_of("graded face", resolved)
            assert isinstance(lit.surround, Studio)
            picture = picture_of(lit.surround)
            half = math.radians(subject.rise_deg / 2)
            for across in (-0.4, 0.0, 0.4):
                side = math.radians(subject.span_deg * across)
                ends = [
                    subject.face
                    + math.sin(half) * way * subject.up_axis
                    + math.sin(side) * subject.across_axis
                    for way in (1, 0, -1)
                ]
                top, middle, bottom = (seen(picture, end / np.linalg.norm(end)) for end in ends)
                self.assertGreater(top, 1.2 * middle, turn)
                self.assertGreater(middle, 1.5 * bottom, turn)

    def test_no_lamp_of_a_setup_is_mirrored_in_the_face(self) -> None:
        for turn in TURNS:
            resolved = resolve(piece(turn))
            subject = subject_of(resolved)
            for name in SETUPS:
                for lamp in light_of(name, resolved).lamps:
                    apart = math.degrees(
                        math.acos(float(lamp_direction(lamp.bearing, lamp.elevation) @ subject.face))
                    )
                    if lamp.in_reflections:
                        self.assertGreater(apart, subject.span_deg / 2, f"{name}, {lamp.name}")

    def test_setups_fit_words_of_any_size(self) -> None:
        for size in (3.0, 40.0, 900.0):
            tiny = resolve(Piece(blocks=(Lettering(words="i", size=size),)))
            for name in SETUPS:
                light = lit_by(Light(), FittedSetup(name=name), tiny)
                self.assertEqual(Light.model_validate(light.model_dump()), light)


class FirstSightTest(unittest.TestCase):
    def test_a_new_piece_looks_good_in_five_typefaces_and_six_materials(self) -> None:
        """Common practice: a face in the upper middle tones, bevels that spread over the scale, nothing
        bleached, letters at 3 : 1 or more against what is behind them (WCAG 2.2, large text)."""
        start = new_piece()
        for typeface in TYPEFACES:
            for face in MATERIALS:
                block = start.blocks[0]
                surface = block.surface.model_copy(update={"face": face})
                block = block.model_copy(update={"typeface": typeface, "surface": surface})
                measured = measure(
                    resolve(lit_for_its_material(start.model_copy(update={"blocks": (block,)})))
                )
                tones, which = measured.lightness(), f"{typeface}, {face.kind}"
                with self.subTest(which):
                    self.assertTrue(55 <= tones["face"] <= 80.5, tones["face"])
                    bevels = np.concatenate(
                        [measured.tones()[name] for name in ("upper bevel", "lower bevel")]
                    )
                    low, high = np.percentile(bevels, (2, 98))
                    self.assertGreater(high - low, 35)
                    self.assertLess(measured.clipped()["face"], 0.01)
                    face_light, behind = (((tones[name] + 16) / 116) ** 3 for name in ("face", "backdrop"))
                    self.assertGreater((face_light + 0.05) / (behind + 0.05), 3)


if __name__ == "__main__":
    unittest.main()
