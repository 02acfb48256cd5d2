"""What the Set station asks for over HTTP: marks, proposals, specimens, outlines."""

import io
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from PIL import Image

from halvex.core.piece import Lettering, piece_from_values
from halvex.core.scene import scene_of
from halvex.core.solids.body import _outline_body
from halvex.studio import store
from halvex.studio.specimens import build_ahead
from halvex.web.server import make_app

TINY = {"canvas": {"width": 64, "height": 36}}

ANCHOR = (
    b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 10 10' width='400'>"
    b"<path d='M5 0V10M1 7H9' stroke='navy'/><circle r='2' fill='red'/><text/></svg>"
)


class SetApiTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.app = make_app(Path(folder.name), demo=False)
        cls.addClassCleanup(store.database.close)

    def setUp(self) -> None:
        self.client = self.app.test_client()
        blocks = [{"words": "IIII", "typeface": "anton", "size": 20, "letters": {"0": {"kern": 90}}}]
        self.ident = self.client.post(
            "/api/pieces", json={"document": {**TINY, "blocks": blocks}}
        ).get_json()["id"]

    def test_a_mark_is_brought_fitted_told_and_undone(self) -> None:
        answer = self.client.post(f"/api/pieces/{self.ident}/marks?name=anchor", data=ANCHOR)
        self.assertEqual(answer.status_code, 201)
        state = answer.get_json()
        mark = state["document"]["blocks"][1]
        self.assertEqual((mark["kind"], mark["name"], len(mark["parts"])), ("mark", "anchor", 2))
        self.assertEqual(mark["left_out"], ["text (turn it into paths first)"])
        self.assertEqual(state["undo"], "Brought the mark anchor")
        left, bottom, right, top = state["drawings"]["blocks"][1]["span"]
        canvas = state["document"]["canvas"]
        self.assertLessEqual(right - left, canvas["width"])
        self.assertLessEqual(top - bottom, canvas["height"])
        undone = self.client.post(f"/api/pieces/{self.ident}/undo").get_json()
        self.assertEqual(len(undone["document"]["blocks"]), 1)

    def test_what_is_no_drawing_is_refused_and_nothing_is_changed(self) -> None:
        for data in (b"", b"\x89PNG", b"<svg/>", b"<!DOCTYPE s [<!ENTITY a 'b'>]><svg>&a;</svg>"):
            answer = self.client.post(f"/api/pieces/{self.ident}/marks", data=data)
            self.assertEqual(answer.status_code, 422, data)
            self.assertEqual(answer.get_json()["field"], "file")
        self.assertEqual(
            self.client.post(f"/api/pieces/{self.ident}/marks", data=b"x" * 2_000_000).status_code, 413
        )
        self.assertEqual(
            len(self.client.get(f"/api/pieces/{self.ident}").get_json()["document"]["blocks"]), 1
        )

    def test_a_proposal_comes_with_the_edits_that_take_it(self) -> None:
        offered = self.client.get(f"/api/pieces/{self.ident}/blocks/lettering/evening").get_json()
        self.assertEqual([kern["pair"] for kern in offered["kerns"]], ["II"])
        state = self.client.post(
            f"/api/pieces/{self.ident}/edits", json={"edits": offered["edits"]}
        ).get_json()
        self.assertLess(abs(state["document"]["blocks"][0]["letters"].get("0", {"kern": 0})["kern"]), 10)
        self.assertEqual(self.client.get(f"/api/pieces/{self.ident}/blocks/nobody/evening").status_code, 422)

    def test_specimens_differ_by_typeface_and_say_what_is_too_thin(self) -> None:
        at = f"/api/pieces/{self.ident}/blocks/lettering"
        one, other = (self.client.get(f"{at}/specimens/{face}").data for face in ("anton", "lobster"))
        self.assertEqual(Image.open(io.BytesIO(one)).size, (272, 64))
        self.assertNotEqual(one, other)
        fit = self.client.get(f"{at}/fits/comfortaa").get_json()
        self.assertGreater(fit["wanted"], fit["stem"])
        self.assertIn("would do", fit["text"])
        self.assertEqual(self.client.get(f"{at}/specimens/nobody").status_code, 422)

    def test_a_typeface_that_was_looked_at_is_built_when_it_is_taken(self) -> None:
        """All its letters, also those that the specimen does not show; long words are left alone."""
        words = {"words": "Harbour\nLights", "typeface": "anton", "size": 20}
        piece = piece_from_values({**TINY, "blocks": [words]})
        block = piece.blocks[0]
        assert isinstance(block, Lettering)
        ahead = build_ahead(piece, block, "lobster")
        assert ahead
        ahead.result(timeout=60)
        built = _outline_body.misses
        scene_of(piece_from_values({**TINY, "blocks": [{**words, "typeface": "lobster"}]}))
        self.assertEqual(_outline_body.misses, built)
        self.assertIsNone(
            build_ahead(
                piece, block.model_copy(update={"words": "far too many words to be built"}), "lobster"
            )
        )

    def test_of_words_that_were_typed_over_nothing_is_built(self) -> None:
        piece = piece_from_values({**TINY, "blocks": [{"words": "Harbour"}]})
        block = piece.blocks[0]
        assert isinstance(block, Lettering)
        gate = threading.Event()
        specimens = "halvex.studio.specimens"
        with (
            mock.patch(f"{specimens}.build_scene", side_effect=lambda taken: gate.wait(60)) as built,
            mock.patch(f"{specimens}.make_world"),
        ):
            asked = [
                build_ahead(piece, block.model_copy(update={"words": words}), "anton")
                for words in ("H", "Ha", "Har")
            ]
            gate.set()
            for future in asked:
                assert future
                future.result(timeout=60)
        self.assertIn(built.call_count, (1, 2))  # the first may have begun before the second was asked for
        self.assertEqual(built.call_args.args[0].blocks[0].block.words, "Har")

    def test_flat_outlines_are_a_file(self) -> None:
        answer = self.client.get(f"/api/pieces/{self.ident}/outlines")
        self.assertEqual(answer.mimetype, "image/svg+xml")
        self.assertIn("attachment", answer.headers["Content-Disposition"])
        self.assertEqual(answer.data.count(b"<path"), 4)
