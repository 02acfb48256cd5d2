"""A piece lit by one of its lights alone: all shares add up to the picture."""

import unittest

import numpy as np
from numpy.typing import NDArray

from halvex.core.piece import Piece, PieceError, piece_from_values
from halvex.core.piece.shares import lit_by_lamp, lit_by_surroundings
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.work import shared_pool
from halvex.core.scene import scene_of

PIECE = piece_from_values(
    {
        "canvas": {"width": 96, "height": 60},
        "blocks": [{"words": "Q", "size": 50}],
        "light": {
            "lamps": [
                {"id": "key"},
                {"id": "rim", "bearing": 300, "strength": -1, "kelvin": 3000},
                {"id": "spare", "on": False},
            ]
        },
    }
)


def light_of(piece: Piece) -> NDArray[np.float64]:
    """Linear light of a draft (rows, width, 3)."""
    return np.asarray(Sketcher().draw(scene_of(piece), 96, 60, pool=shared_pool()).light, float)


class SharesTest(unittest.TestCase):
    def test_shares_of_all_that_is_on_make_the_picture(self) -> None:
        whole = light_of(PIECE)
        lit = (lit_by_lamp(PIECE, "key"), lit_by_lamp(PIECE, "rim"), lit_by_surroundings(PIECE))
        shares = [light_of(piece) for piece in lit]
        for share in shares:
            self.assertGreater(share.max(), 0.01)
        np.testing.assert_allclose(sum(shares), whole, atol=0.02 * whole.max())

    def test_a_lamp_that_is_off_is_shown_as_if_it_were_on(self) -> None:
        (lamp,) = lit_by_lamp(PIECE, "spare").light.lamps
        self.assertTrue(lamp.on)

    def test_a_lamp_there_is_not_names_those_there_are(self) -> None:
        with self.assertRaisesRegex(PieceError, "key, rim, spare"):
            lit_by_lamp(PIECE, "moon")


if __name__ == "__main__":
    unittest.main()
