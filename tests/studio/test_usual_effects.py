"""Effects as they are often set."""

import unittest
from collections import Counter

from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.effects import EFFECT_KINDS
from halvex.core.scene import scene_of
from halvex.studio.samples import demo_piece
from halvex.studio.usual_effects import USUAL_EFFECTS


class UsualEffectsTest(unittest.TestCase):
    def test_every_kind_has_some_each_with_a_name_and_settings_of_its_own(self) -> None:
        kinds = Counter(usual.effect.kind for usual in USUAL_EFFECTS)
        self.assertEqual(set(kinds), {kind().kind for kind in EFFECT_KINDS})
        self.assertGreaterEqual(min(kinds.values()), 2)
        names = [(usual.effect.kind, usual.name) for usual in USUAL_EFFECTS]
        settings = [usual.effect.model_dump_json() for usual in USUAL_EFFECTS]
        self.assertEqual(len(set(names)), len(names))
        self.assertEqual(len(set(settings)), len(settings))

    def test_a_piece_takes_each(self) -> None:
        for name, effect in USUAL_EFFECTS:
            values = Piece().model_dump(mode="json") | {"finish": [effect.model_dump(mode="json")]}
            with self.subTest(name):
                self.assertEqual(piece_from_values(values).finish, (effect,))

    def test_letters_bevelled_to_a_ridge_have_outlines(self) -> None:
        """Of the second, edges of the ridge cross by rounding."""
        for name in ("high-tide", "regatta-buoys", "rowing-club"):
            faces = scene_of(demo_piece(name)).faces()
            self.assertTrue(faces, name)
            self.assertTrue(all(face.area.is_valid and face.area.area > 100 for face in faces), name)


if __name__ == "__main__":
    unittest.main()
