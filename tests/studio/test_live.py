"""Live sessions and exports: the newest edit wins, nothing that was asked for is forgotten."""

import io
import threading
import time
import unittest
from typing import Any
from unittest import mock

import flip_evaluator
import numpy as np
from PIL import Image

from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering import set_block
from halvex.core.piece import Lettering, Piece, piece_from_values, to_json
from halvex.core.piece.block import Place
from halvex.core.piece.digest import digest
from halvex.core.render import gate
from halvex.core.render.draft.sketch import Sketcher
from halvex.core.render.noise import AIM, LIVE_PASSES
from halvex.core.scene import scene_of
from halvex.studio.frames import Wanted
from halvex.studio.live import COARSENESS, LiveSession

TINY = {"canvas": {"width": 96, "height": 54}, "blocks": [{"words": "i", "size": 40}]}


def turned(angle: float) -> Piece:
    return piece_from_values({**TINY, "view": {"turn": {"y": angle}}})


class LiveTest(unittest.TestCase):
    def setUp(self) -> None:
        self.frames: list[dict[str, Any]] = []
        # What else the window hears of a picture.
        self.messages: list[dict[str, Any]] = []
        self.images: list[bytes] = []
        self.arrived = threading.Condition()
        self.session = LiveSession(self.receive)
        self.addCleanup(self.session.close)

    def receive(self, header: dict[str, Any], image: bytes | None) -> None:
        with self.arrived:
            (self.messages if header["type"] in ("outlook", "preparing") else self.frames).append(header)
            if header.get("stage") == "clean" and image is not None:
                self.images.append(image)
            self.arrived.notify_all()

    def wait(self, wanted: dict[str, Any]) -> None:
        with self.arrived:
            found = self.arrived.wait_for(
                lambda: any(wanted.items() <= frame.items() for frame in [*self.frames, *self.messages]),
                timeout=120,
            )
        self.assertTrue(found, self.frames)

    def show(self, number: int, *, moving: bool = False, piece: Piece | None = None) -> None:
        self.session.show(Wanted(piece or turned(number), number, number, 96, 54, moving))

    def test_a_draft_is_followed_by_passes_and_the_clean_picture(self) -> None:
        self.show(1)
        self.wait({"stage": "clean"})
        samples = [frame["samples"] for frame in self.frames]
        # The ground gets half as many as the letters while it is early.
        self.assertEqual(samples[0], 0)
        for total, mean in zip(LIVE_PASSES, samples[1:], strict=False):
            self.assertTrue(total / 2 < mean < total)
        self.assertEqual(samples, sorted(samples))
        self.assertEqual({frame["seq"] for frame in self.frames}, {1})

    def test_a_finished_picture_has_the_quality_of_a_final_export(self) -> None:
        """Against a picture of many more samples; and the window is sent how long it takes."""
        gloss = {"face": {"kind": "plastic", "colour": "#c03020"}}
        block = {"words": "Rg", "size": 90, "surface": gloss, "form": {"depth": 60}}
        # Deep letters before a pale wall, of which the first samples are not enough.
        wall = {"ground": "wall", "colour": "#f0ece4"}
        canvas = {"width": 192, "height": 108}
        piece = piece_from_values({"canvas": canvas, "blocks": [block], "backdrop": wall})
        self.session.show(Wanted(piece, 1, 1, 192, 108, False))
        self.wait({"stage": "clean"})
        outlook = [frame for frame in self.messages if frame["type"] == "outlook"]
        self.assertTrue(outlook)
        self.assertEqual({frame["revision"] for frame in outlook}, {1})
        self.assertTrue(all(frame["seconds"] > 0 for frame in outlook))
        stage = np.asarray(Image.open(io.BytesIO(self.images[-1])), np.float32) / 255
        best = render_piece(piece, FinalOrder(width=192, height=108, samples=512, seed=9)).display
        apart = flip_evaluator.evaluate(best, stage, "LDR", inputsRGB=True, applyMagma=False)[1]
        self.assertLess(float(apart), 1.35 * AIM["final"])

    def test_a_draft_waits_for_the_integrator(self) -> None:
        """While the kernels are compiled elsewhere the draft follows every edit and the window hears how far
        they are; then the picture goes on by itself."""
        gate.shut(60)
        self.addCleanup(gate.open_up)
        for number in (1, 2):
            self.show(number)
            self.wait({"stage": "draft", "seq": number})
        self.wait({"type": "preparing"})
        self.assertNotIn("pass", [frame.get("stage") for frame in self.frames])
        gate.open_up()
        self.wait({"stage": "clean", "seq": 2})

    def test_what_no_ray_depends_on_costs_no_sample(self) -> None:
        """Names, locks, groups, guides, units, ppi and a backdrop that nothing is painted with: the
        finished picture stays, to the byte, or is put over another backdrop."""
        ground = {"backdrop": {"ground": "none"}}
        block = {"words": "i", "size": 40}
        first = piece_from_values({**TINY, **ground})
        self.show(1, piece=first)
        self.wait({"stage": "clean", "seq": 1})
        sketch = {"id": "line", "kind": "shape", "guide": True}
        same: list[dict[str, Any]] = [
            {"name": "Quay sign"},
            {"blocks": [{**block, "locked": True, "group": "sign"}]},
            {"blocks": [block, sketch]},
            {"canvas": {**TINY["canvas"], "ppi": 300, "unit": "mm"}},
        ]
        with (
            mock.patch("halvex.studio.live.add_samples", side_effect=AssertionError("a ray")),
            mock.patch.object(Sketcher, "draw", side_effect=AssertionError("a draft")),
        ):
            for number, changes in enumerate(same, 2):
                with self.subTest(changes=changes):
                    self.show(number, piece=piece_from_values({**TINY, **ground, **changes}))
                    self.wait({"stage": "clean", "seq": number})
                    self.assertEqual(self.images[-1], self.images[number - 2])
                    self.assertEqual([frame["seq"] for frame in self.frames].count(number), 1)
            for number, changes in enumerate(
                ({"backdrop": {"ground": "none", "colour": "#ff0000"}}, {"light": {"exposure": -1}}), 6
            ):
                with self.subTest(changes=changes):
                    self.show(number, piece=piece_from_values({**TINY, **ground, **changes}))
                    self.wait({"stage": "clean", "seq": number})
                    self.assertNotEqual(self.images[-1], self.images[-2])

    def test_flat_colours_are_finished_and_not_rendered(self) -> None:
        """Exposure leaves them as they are, and renders nothing again."""
        flat = {"words": "i", "size": 40, "surface": {"face": {"kind": "flat", "colour": "#c05020"}}}
        self.show(1, piece=piece_from_values({**TINY, "blocks": [flat]}))
        self.wait({"stage": "clean", "seq": 1})
        with mock.patch("halvex.studio.live.add_samples", side_effect=AssertionError("a ray")):
            bright = piece_from_values({**TINY, "blocks": [flat], "light": {"exposure": -1.5}})
            self.show(2, piece=bright)
            self.wait({"stage": "clean", "seq": 2})
        before, after = (
            np.asarray(Image.open(io.BytesIO(image)), int) for image in (self.images[-2], self.images[-1])
        )
        face = (np.abs(before - (0xC0, 0x50, 0x20)) < 4).all(axis=2)
        self.assertGreater(face.sum(), 50)
        self.assertLess(float(np.abs(after[face] - before[face]).mean()), 1.5)

    def test_the_newest_edit_overtakes(self) -> None:
        for number in range(1, 30):
            self.show(number)
        self.wait({"stage": "clean", "seq": 29})
        self.assertEqual([frame["seq"] for frame in self.frames if frame["stage"] == "clean"], [29])
        self.assertEqual(
            [frame["seq"] for frame in self.frames], sorted(frame["seq"] for frame in self.frames)
        )

    def test_whatever_is_raised_the_next_edit_is_drawn(self) -> None:
        """A fault of the program itself: the window hears of it, the log says of which document,
        and the thread lives on."""
        with (
            mock.patch("halvex.studio.live.build_scene", side_effect=RuntimeError("a fault")),
            self.assertLogs("halvex.studio.live", "ERROR") as logged,
        ):
            self.show(1)
            self.wait({"type": "problem", "seq": 1})
        self.assertIn(digest(to_json(turned(1))), logged.output[0])
        self.show(2)
        self.wait({"stage": "clean", "seq": 2})

    def test_building_is_left_for_a_newer_edit(self) -> None:
        """Two hundred letters, each of its own size, take seconds to build; an edit that comes
        meanwhile is drawn before they are done."""
        letters = {str(at): {"size": 60 + at * 0.37} for at in range(200)}
        block = {
            "words": "\n".join(["Rg" * 10] * 10),
            "size": 8,
            "letters": letters,
            "form": {"joined": False},
        }
        self.show(1, piece=piece_from_values({"canvas": {"width": 96, "height": 54}, "blocks": [block]}))
        time.sleep(0.05)
        self.show(2)
        self.wait({"stage": "draft", "seq": 2})
        self.assertEqual([frame["seq"] for frame in self.frames], [2])

    def test_while_the_hand_moves_drafts_are_smaller_and_alone(self) -> None:
        large = piece_from_values(
            {"canvas": {"width": 1280, "height": 720}, "blocks": [{"words": "Re", "size": 500}]}
        )
        self.session.show(Wanted(large, 1, 1, 1280, 720, True))
        self.wait({"stage": "draft", "width": 640})
        time.sleep(0.5)
        self.assertEqual(len(self.frames), 1)
        self.session.show(Wanted(large, 1, 2, 1280, 720, False))
        self.wait({"stage": "pass", "seq": 2})
        quick, *later = [frame["width"] for frame in self.frames if frame["seq"] == 2][:3]
        # Smaller still where the machine is slow or busy.
        self.assertIn(quick, [640 * share for share in COARSENESS])
        self.assertEqual(later, [1280, 1280], "whole, first pass")

    def test_a_strength_is_developed_without_a_new_render(self) -> None:
        """The next frame after a change of levels is no draft; it has the samples of the film that
        was kept."""
        self.show(1)
        self.wait({"stage": "clean", "seq": 1})
        samples = self.frames[-1]["samples"]
        for number, light in (
            (2, {"lamps": [{"strength": 1.5}]}),
            (3, {"lamps": [{"kelvin": 2500}]}),
            (4, {"exposure": -1}),
        ):
            self.show(number, piece=piece_from_values({**TINY, "view": {"turn": {"y": 1}}, "light": light}))
            self.wait({"stage": "clean", "seq": number})
            own = [frame for frame in self.frames if frame["seq"] == number]
            self.assertEqual(own[0]["stage"], "pass", light)
            self.assertGreaterEqual(own[0]["samples"], samples, light)
        self.show(
            5,
            piece=piece_from_values(
                {**TINY, "view": {"turn": {"y": 1}}, "light": {"lamps": [{"bearing": 10}]}}
            ),
        )
        self.wait({"stage": "draft", "seq": 5})

    def test_a_missing_panorama_is_explained(self) -> None:
        self.show(
            1,
            piece=piece_from_values({**TINY, "light": {"surround": {"kind": "panorama", "picture": "lost"}}}),
        )
        self.wait({"type": "problem", "seq": 1})
        self.assertIn("lost", self.frames[0]["detail"])

    def test_words_without_ink_are_explained_and_the_session_lives(self) -> None:
        self.show(1, piece=piece_from_values({"blocks": [{"words": " "}]}))
        self.wait({"type": "problem", "seq": 1})
        self.show(2)
        self.wait({"stage": "draft", "seq": 2})


class PaceTest(unittest.TestCase):
    """Quick drafts that take long shrink by steps, and grow again where there is time."""

    def test_sides_go_down_by_steps_and_up_again(self) -> None:
        session = LiveSession(lambda header, image: None)
        self.addCleanup(session.close)
        shares = []
        for ms in (20, 90, 40, 90, 90, 40, 10, 10, 10):
            session._keep_pace(ms)
            shares.append(COARSENESS[session._coarse])
        self.assertEqual(shares, [1.0, 0.75, 0.75, 0.5, 0.5, 0.5, 0.75, 1.0, 1.0])


class SharedTest(unittest.TestCase):
    """What an edit does not touch is not made anew."""

    def test_quick_and_whole_drafts_share_their_bodies(self) -> None:
        piece = piece_from_values({"blocks": [{"words": "Og", "size": 120}]})
        whole = scene_of(piece, px_scale=0.9)
        quick = scene_of(piece, px_scale=0.4, detail=0.9)
        for one, other in zip(whole.instances, quick.instances, strict=True):
            self.assertIs(one.body, other.body)

    def test_a_moved_block_is_not_set_anew_and_a_retyped_one_is(self) -> None:
        block = Lettering(words="Og", size=120)
        moved = block.model_copy(update={"place": Place(x=30), "id": "other"})
        self.assertIs(set_block(block), set_block(moved))
        self.assertIsNot(set_block(block), set_block(block.model_copy(update={"words": "Ok"})))
        self.assertIsNot(set_block(block), set_block(block, px_scale=3.0))


if __name__ == "__main__":
    unittest.main()
