"""Backdrops as they are often set."""

import unittest

import numpy as np

from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.piece import Piece, piece_from_values
from halvex.core.piece.source import pictures_in
from halvex.studio.assets import assets
from halvex.studio.recipe import recipe
from halvex.studio.usual_backdrops import USUAL_BACKDROPS


class UsualBackdropsTest(unittest.TestCase):
    def piece(self, backdrop: object) -> Piece:
        values = {"canvas": {"width": 160, "height": 90}, "blocks": [{"words": "Quay", "size": 40}]}
        return piece_from_values({**values, "backdrop": backdrop})

    def test_each_has_a_name_and_settings_of_its_own(self) -> None:
        self.assertEqual(len({usual.name for usual in USUAL_BACKDROPS}), len(USUAL_BACKDROPS))
        settings = {usual.backdrop.model_dump_json() for usual in USUAL_BACKDROPS}
        self.assertEqual(len(settings), len(USUAL_BACKDROPS))

    def test_a_piece_takes_each_and_shows_it(self) -> None:
        """No two look alike, each is even enough to read letters before it, and the recipe has a line."""
        seen = []
        for name, backdrop in USUAL_BACKDROPS:
            piece = self.piece(backdrop.model_dump(mode="json"))
            with self.subTest(name):
                self.assertEqual(piece.backdrop, backdrop)
                self.assertTrue(all(picture in assets().pictures for picture in pictures_in(backdrop)))
                shown = render_piece(piece, DraftOrder()).display
                self.assertTrue(np.isfinite(shown).all())
                self.assertGreater(float(shown.mean()), 0.02)
                seen.append(shown)
                lines = recipe(piece)["backdrop"]
                self.assertTrue(all(text for line in lines for text, _ in line))
        for at, one in enumerate(seen):
            for other in seen[at + 1 :]:
                self.assertGreater(float(np.abs(one - other).mean()), 0.005)


if __name__ == "__main__":
    unittest.main()
