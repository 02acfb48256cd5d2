"""Pictures larger than memory: images lie in files, and all else is done by bands."""

import errno
import tracemalloc
import unittest
from typing import Any
from unittest import mock

import numpy as np
import shapely

from halvex.core import room
from halvex.core.finish.covering import coverage
from halvex.core.finish.orders import FinalOrder, RenderError
from halvex.core.finish.picture import Composed, Picture, finished
from halvex.core.finish.plate import NothingSeen
from halvex.core.finish.render_piece import FINISHING_SHARE, render_piece
from halvex.core.finish.tone import ROWS_ALONE
from halvex.core.piece.effects import EFFECT_KINDS, Bloom, Halo, Keyline
from halvex.core.piece.source import Layered
from halvex.core.render.film import Film
from halvex.core.render.layers import RenderLayers, develop
from halvex.core.render.work import shared_pool
from halvex.core.scene.finish import DEPTH, Finish, Frame
from halvex.core.scene.outlines import FaceSeen
from halvex.core.stopping import CancelledError
from tests.core.small_scenes import small_piece

# Each effect once, and some on the backdrop alone, which is an image of its own.
STACK = (
    *(kind() for kind in EFFECT_KINDS),
    Keyline(colour=Layered(base="#ffffff")),
    Halo(target="backdrop"),
    Bloom(target="backdrop"),
)
IN_FILES = mock.patch("halvex.core.room.IN_MEMORY_BYTES", 0)


class Letter(NothingSeen):
    """A face with a counter, before which another one stands."""

    def __init__(self, width: int, height: int):
        box = shapely.box(0.2 * width, 0.2 * height, 0.8 * width, 0.8 * height)
        self.area = box.difference(box.centroid.buffer(height / 8))

    def faces(self) -> tuple[FaceSeen, ...]:
        return (FaceSeen(self.area, 0),)

    def in_front(self, height: float, box: object) -> shapely.Geometry:
        return self.area.centroid.buffer(self.area.bounds[3] / 4)


def picture(width: int, height: int, *, transparent: bool) -> Composed:
    letters = coverage(Letter(width, height).area, width, height)
    light = np.random.default_rng(1).random((height, width, 3), np.float32) * (0.1 + letters[..., None])
    return Composed(
        3 * light, letters.copy() if transparent else None, {"letters": letters, DEPTH: -50 * letters}
    )


def finish(of: Composed) -> Picture:
    height, width = of.linear.shape[:2]
    settings = Finish("#204050", 0.0, "neutral", STACK, Frame(1.0, 0.0, 0.0, float(width), float(height)))
    return finished(of, settings, Letter(width, height), shared_pool())


class LargePicturesTest(unittest.TestCase):
    def test_files_in_place_of_memory_change_nothing(self) -> None:
        for transparent in (False, True):
            expected = finish(picture(160, 96, transparent=transparent))
            with IN_FILES:
                found = finish(picture(160, 96, transparent=transparent))
            np.testing.assert_array_equal(found.display, expected.display)
            np.testing.assert_array_equal(found.linear, expected.linear)
            if expected.alpha is not None:
                np.testing.assert_array_equal(found.alpha, expected.alpha)

    def test_no_effect_takes_memory_for_the_whole_picture(self) -> None:
        """Bands and what is blurred at a lower resolution take less than one of the picture's planes."""
        width, height = 1600, 2400
        finish(picture(64, 64, transparent=True))
        for transparent in (False, True):
            large = picture(width, height, transparent=transparent)
            self.addCleanup(tracemalloc.stop)
            with IN_FILES:
                tracemalloc.start()
                finish(large)
                peak = tracemalloc.get_traced_memory()[1]
                tracemalloc.stop()
            self.assertLess(peak, 4 * width * height)

    def test_what_lies_in_files_is_rendered_in_wider_bands(self) -> None:
        piece = small_piece(canvas={"width": 100, "height": 250})
        bands = []

        def kept(film: Film, *given: Any, **named: Any) -> RenderLayers:
            bands.append((film.first_row, film.rows))
            return develop(film, *given, **named)

        where = "halvex.core.finish.render_piece"
        with (
            mock.patch(f"{where}.BAND_PX", 100 * 100),
            mock.patch(f"{where}.LARGE_BAND_PX", 100 * 150),
            mock.patch(f"{where}.develop", kept),
        ):
            render_piece(piece, FinalOrder(samples=1))
            self.assertEqual(bands, [(0, 148), (52, 196), (152, 98)])
            bands.clear()
            with IN_FILES, mock.patch(f"{where}.IN_MEMORY_BYTES", 0):
                render_piece(piece, FinalOrder(samples=1))
            self.assertEqual(bands, [(0, 198), (102, 148)])

    def test_effects_can_be_cancelled(self) -> None:
        # Of so few rows as a small piece has all are worked on at once.
        canvas = {"width": 160, "height": 2 * ROWS_ALONE}
        piece, shares = small_piece(canvas=canvas, finish=[{"kind": "bloom"}]), [0.0]

        def rendered() -> bool:
            return shares[-1] >= 1

        with self.assertRaises(CancelledError):
            render_piece(piece, FinalOrder(samples=1), progress=shares.append, cancelled=rendered)
        render_piece(small_piece(), FinalOrder(samples=1), progress=shares.append)

    def test_effects_on_a_large_picture_have_their_share_of_the_progress(self) -> None:
        effects, shares = [{"kind": "bloom"}, {"kind": "grain"}, {"kind": "vignette", "on": False}], []
        with mock.patch("halvex.core.finish.render_piece.IN_MEMORY_BYTES", 0):
            render_piece(small_piece(finish=effects), FinalOrder(samples=2), progress=shares.append)
        self.assertEqual(shares, sorted(shares))
        left = 1 - FINISHING_SHARE
        np.testing.assert_allclose(shares[-3:], (left, left + FINISHING_SHARE / 2, 1))

    def test_a_disk_without_room_is_no_crash(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with IN_FILES, mock.patch("os.posix_fallocate", side_effect=full), self.assertRaises(MemoryError):
            room.room((4, 4))

    def test_a_picture_too_large_for_its_effects_is_refused_in_words(self) -> None:
        piece = small_piece(finish=[{"kind": "bloom"}])
        path = "halvex.core.finish.render_piece"
        with mock.patch(f"{path}.IN_MEMORY_BYTES", 0), mock.patch(f"{path}.shutil.disk_usage") as usage:
            usage.return_value.free = 1_000_000
            with self.assertRaisesRegex(RenderError, "0.0 GB are free; .* switch its effects off") as caught:
                render_piece(piece, FinalOrder(samples=1))
            self.assertEqual(caught.exception.field, "width")
            render_piece(small_piece(), FinalOrder(samples=1))


if __name__ == "__main__":
    unittest.main()
