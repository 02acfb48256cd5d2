"""The HTTP API: what it serves, what it refuses and how it says so."""

import io
import json
import tempfile
import time
import unittest
import zipfile
from pathlib import Path

import numpy as np
import schemathesis
from flask import Flask
from fontTools.ttLib import TTFont
from hypothesis import HealthCheck, given, settings
from PIL import Image

from halvex.core.assets import SHIPPED_TYPEFACES
from halvex.core.finish.orders import FinalOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering import set_block
from halvex.core.output.pictures import to_integers
from halvex.core.piece import Lettering, piece_from_values
from halvex.studio import store
from halvex.studio.assets import assets, read_again
from halvex.web.openapi import openapi
from halvex.web.server import make_app
from halvex.web.state import workshop

TINY = {"canvas": {"width": 64, "height": 36}, "blocks": [{"words": "i", "size": 30}]}
CORPUS = Path(__file__).parents[1] / "corpus"
_folder = tempfile.TemporaryDirectory()
app: Flask


def setUpModule() -> None:
    global app
    app = make_app(Path(_folder.name), demo=True)


def tearDownModule() -> None:
    store.database.close()
    _folder.cleanup()


def png(colour: str) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 20), colour).save(out, "PNG")
    return out.getvalue()


class ApiTest(unittest.TestCase):
    def setUp(self) -> None:
        self.client = app.test_client()

    def create(self) -> str:
        return self.client.post("/api/pieces", json={"document": TINY}).get_json()["id"]

    def test_a_piece_lives_through_its_life(self) -> None:
        ident = self.create()
        edited = self.client.post(
            f"/api/pieces/{ident}/edits",
            json={"edits": [{"op": "enter", "path": "/blocks/0/size", "value": "10+5"}]},
        ).get_json()
        self.assertEqual(edited["document"]["blocks"][0]["size"], 15)
        self.assertEqual(edited["undo"], "Size 30 → 15 px")
        self.assertEqual(
            self.client.post(f"/api/pieces/{ident}/undo").get_json()["document"]["blocks"][0]["size"], 30
        )
        self.assertEqual(self.client.post(f"/api/pieces/{ident}/undo").status_code, 409)
        self.assertEqual(
            self.client.post(f"/api/pieces/{ident}/redo").get_json()["document"]["blocks"][0]["size"], 15
        )
        copy = self.client.post(f"/api/pieces/{ident}/duplicate").get_json()
        self.assertTrue(copy["document"]["name"].endswith("copy"))
        self.assertEqual(self.client.delete(f"/api/pieces/{ident}").status_code, 204)
        self.assertIn(ident, [p["id"] for p in self.client.get("/api/pieces").get_json()["deleted"]])
        self.assertEqual(self.client.post(f"/api/pieces/{ident}/restore").status_code, 200)

    def wait(self, ident: str) -> dict[str, object]:
        for _ in range(600):
            state = self.client.get(f"/api/exports/{ident}").get_json()
            if state["status"] not in ("waiting", "rendering"):
                return state
            time.sleep(0.1)
        self.fail("the export did not end")

    def test_an_export_is_what_the_core_renders(self) -> None:
        asked = self.client.post(
            f"/api/pieces/{self.create()}/exports", json={"width": 80, "samples": 4, "transparent": True}
        )
        self.assertEqual(asked.status_code, 202)
        self.assertEqual(self.wait(asked.get_json()["id"])["status"], "done")
        with self.client.get(f"/api/exports/{asked.get_json()['id']}/file") as answer:
            data = answer.data
        mine = to_integers(
            render_piece(piece_from_values(TINY), FinalOrder(width=80, samples=4, transparent=True))
        )
        self.assertTrue(np.array_equal(np.array(Image.open(io.BytesIO(data))), mine))

    def test_an_export_finds_a_typeface_brought_after_the_last_one(self) -> None:
        """The process that makes exports had listed the typefaces before this one was brought in."""
        ident = self.create()
        order = {"quality": "draft", "width": 16}
        first = self.client.post(f"/api/pieces/{ident}/exports", json=order).get_json()["id"]
        self.assertEqual(self.wait(first)["status"], "done")
        font, out = TTFont(SHIPPED_TYPEFACES / "anton" / "latin.ttf"), io.BytesIO()
        for record in font["name"].names:
            if record.nameID in (1, 4):
                record.string = "Late Tide"
        font.save(out)
        self.assertEqual(self.client.post("/api/typefaces", data=out.getvalue()).status_code, 201)
        set_in = {"edits": [{"op": "replace", "path": "/blocks/0/typeface", "value": "late-tide"}]}
        self.assertEqual(self.client.post(f"/api/pieces/{ident}/edits", json=set_in).status_code, 200)
        then = self.client.post(f"/api/pieces/{ident}/exports", json=order).get_json()["id"]
        self.assertEqual(self.wait(then)["status"], "done")

    def test_an_export_can_be_cancelled(self) -> None:
        asked = self.client.post(
            f"/api/pieces/{self.create()}/exports", json={"width": 640, "samples": 100_000}
        ).get_json()
        self.client.delete(f"/api/exports/{asked['id']}")
        self.assertEqual(self.wait(asked["id"])["status"], "cancelled")
        self.assertEqual(self.client.get(f"/api/exports/{asked['id']}/file").status_code, 409)

    def test_errors_name_the_field_and_the_remedy(self) -> None:
        ident = self.create()
        cases = [
            ({"edits": [{"op": "replace", "path": "/blocks/0/size", "value": -4}]}, "/blocks/0/size"),
            ({"edits": [{"op": "replace", "path": "/canvas/width", "value": 100_000}]}, "/canvas/width"),
            (
                {"edits": [{"op": "enter", "path": "/blocks/0/form/depth", "value": "deep"}]},
                "/blocks/0/form/depth",
            ),
            (
                {"edits": [{"op": "replace", "path": "/blocks/0/words", "value": "a" * 10_000}]},
                "/blocks/0/words",
            ),
            ({"edits": []}, "/edits"),
        ]
        for body, field in cases:
            answer = self.client.post(f"/api/pieces/{ident}/edits", json=body)
            self.assertEqual((answer.status_code, answer.mimetype), (422, "application/problem+json"))
            self.assertEqual(answer.get_json()["field"], field)
            self.assertTrue(answer.get_json()["detail"])
        self.assertEqual(
            self.client.get(f"/api/pieces/{ident}").get_json()["document"]["blocks"][0]["size"], 30
        )

    def test_hostile_bodies_are_refused_and_the_server_lives(self) -> None:
        for body in (
            b"{",
            b"[1]",
            b"[" * 100_000,
            b'{"document": NaN}',
            b"\xff\xfe",
            b'{"document": {"canvas": {"width": NaN}}}',
        ):
            answer = self.client.post("/api/pieces", data=body, content_type="application/json")
            self.assertEqual(answer.status_code, 422, body[:20])
        self.assertEqual(self.client.post("/api/pieces", data=b" " * 5_000_000).status_code, 413)
        self.assertEqual(self.client.get("/api/pieces").status_code, 200)

    def test_words_without_ink_are_kept_and_explained(self) -> None:
        ident = self.create()
        for words in ("", "🎉🎉🎉"):
            edit = {"edits": [{"op": "replace", "path": "/blocks/0/words", "value": words}]}
            state = self.client.post(f"/api/pieces/{ident}/edits", json=edit).get_json()
            self.assertEqual(state["document"]["blocks"][0]["words"], words)
            self.assertTrue(state["drawings"]["advice"][0]["text"])
            self.assertEqual(self.client.get(f"/api/pieces/{ident}/thumbnail").status_code, 422)

    def test_only_this_machines_pages_are_served(self) -> None:
        self.assertEqual(self.client.get("/api/pieces", headers={"Host": "evil.example"}).status_code, 403)
        self.assertEqual(
            self.client.post("/api/pieces", json={}, headers={"Origin": "http://evil.example"}).status_code,
            403,
        )
        answer = self.client.get(
            "/api/pieces", headers={"Host": "localhost:8047", "Origin": "http://localhost:8047"}
        )
        self.assertEqual(answer.status_code, 200)
        self.assertIn("default-src 'self'", answer.headers["Content-Security-Policy"])
        self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")

    def test_paths_do_not_leave_the_static_folder(self) -> None:
        for path in ("/../server.py", "/%2e%2e/server.py", "/..%2f..%2fcli.py"):
            self.assertEqual(self.client.get(path).status_code, 404)

    def test_the_front_ends_types_are_of_this_api(self) -> None:
        """`make schema` writes them; a path or model that is missing there means that it was not run."""
        types = (Path(__file__).parents[2] / "frontend/src/api/schema.d.ts").read_text()
        document = json.loads(json.dumps(openapi()))
        for name in [*document["paths"], *document["components"]["schemas"]]:
            self.assertTrue(name.removeprefix("/") in types, f"{name} is missing; run make schema")


class LightApiTest(unittest.TestCase):
    def setUp(self) -> None:
        self.client = app.test_client()
        self.ident = self.client.post(
            "/api/pieces", json={"document": {**TINY, "blocks": [{"words": "I", "size": 60}]}}
        ).get_json()["id"]

    def test_a_highlight_is_placed_and_undone(self) -> None:
        before = self.client.get(f"/api/pieces/{self.ident}").get_json()["document"]["light"]["lamps"][0]
        placed = {"op": "highlight", "path": "/light/lamps/0", "value": [32, 18]}
        state = self.client.post(f"/api/pieces/{self.ident}/edits", json={"edits": [placed]}).get_json()
        self.assertNotEqual(state["document"]["light"]["lamps"][0]["elevation"], before["elevation"])
        self.assertEqual(state["undo"], "Highlight of key placed")
        undone = self.client.post(f"/api/pieces/{self.ident}/undo").get_json()
        self.assertEqual(undone["document"]["light"]["lamps"][0], before)

    def test_a_highlight_nowhere_is_explained(self) -> None:
        for lamp, spot, said in (
            (0, [1, 1], "point at a letter"),
            (7, [32, 18], "no such lamp"),
            (0, [32], "two numbers"),
        ):
            edit = {"op": "highlight", "path": f"/light/lamps/{lamp}", "value": spot}
            answer = self.client.post(f"/api/pieces/{self.ident}/edits", json={"edits": [edit]})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.get_json()["detail"])

    def test_coupons_and_surroundings_are_drawn(self) -> None:
        offered = self.client.get("/api/workshop").get_json()
        self.assertEqual(
            {entry["kind"] for entry in offered["materials"]},
            {coupon["family"] for coupon in offered["coupons"]},
        )
        colours = set()
        for entry in offered["materials"]:
            answer = self.client.post(f"/api/pieces/{self.ident}/coupon", json={"material": entry})
            self.assertEqual(answer.mimetype, "image/webp", entry)
            colours.add(tuple(np.asarray(Image.open(io.BytesIO(answer.data)))[40, 60].tolist()))
        self.assertGreater(len(colours), 6, "materials differ")
        for kind in ("studio", "dusk", "plain", "horizon", "panorama"):
            picture = Image.open(
                io.BytesIO(self.client.post("/api/surround", json={"surround": {"kind": kind}}).data)
            )
            self.assertEqual(picture.size, (128, 64))

    def test_panoramas_are_kept_once_and_bad_ones_refused(self) -> None:
        height, width = 16, 32
        good = b"#?RADIANCE\n\n-Y %d +X %d\n" % (height, width) + bytes([128, 128, 128, 129]) * (
            height * width
        )
        answer = self.client.post("/api/panoramas/old-mole", data=good)
        self.assertEqual((answer.status_code, answer.get_json()["names"]), (201, ["old-mole", "quayside"]))
        for name, data, said in (
            ("old-mole", good, "already"),
            ("quayside", good, "already"),
            ("haze", good, "as “old-mole”"),
            ("fog", good[:60], ""),
            ("Fog!", good, "small letters"),
            ("fog", b"x", "neither"),
        ):
            answer = self.client.post(f"/api/panoramas/{name}", data=data)
            self.assertEqual(answer.status_code, 422, name)
            self.assertIn(said, answer.get_json()["detail"])
        self.assertEqual(self.client.get("/api/panoramas").get_json()["names"], ["old-mole", "quayside"])

    def test_pictures_are_kept_once_and_shown_small(self) -> None:
        answer = self.client.post("/api/pictures?name=Wet+slate!", data=png("#405060"))
        self.assertEqual((answer.status_code, answer.get_json()["name"]), (201, "wet-slate"))
        again = self.client.post("/api/pictures?name=another", data=png("#405060"))
        self.assertEqual(again.get_json(), answer.get_json())
        kept = self.client.get("/api/pictures").get_json()["pictures"]
        self.assertEqual(kept[-1], {"id": "harbour", "name": "harbour"})
        self.assertIn(answer.get_json(), kept)
        small = self.client.get(f"/api/pictures/{answer.get_json()['id']}/small")
        self.assertEqual(Image.open(io.BytesIO(small.data)).size, (40, 20))
        self.assertLessEqual(
            max(Image.open(io.BytesIO(self.client.get("/api/pictures/harbour/small").data)).size), 192
        )
        for data in (b"", b"GIF89a", png("#000000")[:50]):
            refused = self.client.post("/api/pictures?name=bad", data=data)
            self.assertEqual(refused.status_code, 422)
        self.assertEqual(self.client.get("/api/pictures/gone/small").status_code, 422)

    def test_a_piece_is_saved_and_opened_as_one_file(self) -> None:
        picture = self.client.post("/api/pictures?name=brick", data=png("#a04030")).get_json()["id"]
        ident = self.client.post("/api/pieces", json={"document": TINY}).get_json()["id"]
        cover = {"op": "cover", "path": "/blocks/0", "value": picture}
        self.assertEqual(
            self.client.post(f"/api/pieces/{ident}/edits", json={"edits": [cover]}).status_code, 200
        )
        saved = self.client.get(f"/api/pieces/{ident}/bundle")
        self.assertIn("untitled.halvex", saved.headers["Content-Disposition"])
        # As on a machine that has not got the picture, or one where it was deleted.
        (Path(_folder.name) / f"pictures/{picture}.png").unlink()
        opened = self.client.post("/api/bundles", data=saved.data)
        self.assertEqual(opened.status_code, 201)
        self.assertNotEqual(opened.get_json()["id"], ident)
        self.assertEqual(
            opened.get_json()["document"], self.client.get(f"/api/pieces/{ident}").get_json()["document"]
        )
        self.assertTrue(assets().pictures[picture].path.is_file())
        forged = io.BytesIO()
        with zipfile.ZipFile(forged, "w") as archive:
            archive.writestr("piece.json", json.dumps(TINY))
            archive.writestr("pictures/brick-00000000000000000000.png", png("#a04031"))
        for data, said in ((forged.getvalue(), "not the one that was saved"), (b"PK", "cannot be read")):
            refused = self.client.post("/api/bundles", data=data)
            self.assertEqual(refused.status_code, 422)
            self.assertIn(said, refused.get_json()["detail"])

    def test_a_font_that_cannot_be_used_is_not_kept(self) -> None:
        """A lookup table past the end of its own, no units per em: both were kept once, and took
        the whole workshop down."""
        font, out = TTFont(SHIPPED_TYPEFACES / "anton" / "latin.ttf"), io.BytesIO()
        font["head"].unitsPerEm = 0
        font.save(out)
        before = self.client.get("/api/workshop").get_json()["typefaces"]
        for data in (out.getvalue(), (CORPUS / "font-broken-gsub.ttf").read_bytes()):
            answer = self.client.post("/api/typefaces", data=data)
            self.assertEqual(answer.status_code, 422, answer.get_json())
            self.assertEqual(answer.get_json()["field"], "typeface")
        self.assertEqual(self.client.get("/api/workshop").get_json()["typefaces"], before)

    def test_names_in_any_script_are_kept_apart(self) -> None:
        for name in ("Маяк", "Причал"):
            font, out = TTFont(SHIPPED_TYPEFACES / "anton" / "latin.ttf"), io.BytesIO()
            for record in font["name"].names:
                if record.nameID in (1, 4):
                    record.string = name
            font.save(out)
            answer = self.client.post("/api/typefaces", data=out.getvalue())
            self.assertEqual(answer.status_code, 201, answer.get_json())
            self.assertEqual(answer.get_json()["typefaces"][-1]["name"], name)
        self.assertTrue(
            {"maiak", "prichal"}
            <= {face["id"] for face in self.client.get("/api/workshop").get_json()["typefaces"]}
        )

    def test_a_kept_typeface_that_went_bad_is_listed_as_such(self) -> None:
        font, out = TTFont(SHIPPED_TYPEFACES / "anton" / "latin.ttf"), io.BytesIO()
        for record in font["name"].names:
            if record.nameID in (1, 4):
                record.string = "Wet Rope"
        font.save(out)
        self.client.post("/api/typefaces", data=out.getvalue())
        ident = self.client.post("/api/pieces", json={"document": TINY}).get_json()["id"]
        set_in = {"edits": [{"op": "replace", "path": "/blocks/0/typeface", "value": "wet-rope"}]}
        self.assertEqual(self.client.post(f"/api/pieces/{ident}/edits", json=set_in).status_code, 200)
        (Path(_folder.name) / "typefaces/wet-rope/font.ttf").write_bytes(b"\0\1\0\0 washed out")
        workshop.cache_clear()
        read_again()
        offered = self.client.get("/api/workshop").get_json()
        self.assertEqual([face["name"] for face in offered["damaged"]], ["Wet Rope"])
        self.assertNotIn("wet-rope", [face["id"] for face in offered["typefaces"]])
        # A piece that is set in it opens, says what is wrong, and can be given another.
        state = self.client.get(f"/api/pieces/{ident}").get_json()
        self.assertIn("wet-rope", state["drawings"]["advice"][0]["text"])
        self.assertEqual(self.client.post(f"/api/pieces/{ident}/undo").status_code, 200)

    def test_own_typefaces_are_kept_once_and_set(self) -> None:
        font = TTFont(SHIPPED_TYPEFACES / "anton" / "latin.ttf")
        for record in font["name"].names:
            record.string = str(record).replace("Anton", "Old Mole")
        out = io.BytesIO()
        font.save(out)
        answer = self.client.post("/api/typefaces", data=out.getvalue())
        self.assertEqual((answer.status_code, answer.get_json()["ids"]), (201, ["old-mole"]))
        self.assertEqual(answer.get_json()["typefaces"][-1]["kind"], "own, installable")
        self.assertIn(
            "old-mole", [face["id"] for face in self.client.get("/api/workshop").get_json()["typefaces"]]
        )
        again = self.client.post("/api/typefaces", data=out.getvalue())
        self.assertEqual((again.status_code, again.get_json()["field"]), (422, "typeface"))
        self.assertIn("already", again.get_json()["detail"])
        self.assertEqual(self.client.post("/api/typefaces", data=b"x").status_code, 422)
        own, shipped = (
            set_block(Lettering(words="Quay", typeface=ident, size=100), assets=assets())
            .letters[0]
            .outline.rings[0]
            for ident in ("old-mole", "anton")
        )
        np.testing.assert_array_equal(own, shipped)


class SchemathesisTest(unittest.TestCase):
    def test_any_request_gets_an_answer_of_the_document(self) -> None:
        """Made-up requests of every operation: no answer outside the OpenAPI document, no server error."""
        schema = schemathesis.openapi.from_wsgi("/api/openapi.json", app)
        for result in schema.get_all_operations():
            operation = result.ok()
            if operation.path.endswith("/file"):
                continue

            @settings(max_examples=12, deadline=None, database=None, suppress_health_check=list(HealthCheck))
            @given(case=operation.as_strategy())
            def check(case: schemathesis.Case) -> None:
                answer = case.call()
                self.assertLess(
                    answer.status_code, 500, f"{case.method} {case.path}: {answer.content[:200]!r}"
                )

            check()


if __name__ == "__main__":
    unittest.main()
