"""The first station in a real browser: single letters, features, the canvas, blocks, the history."""

import io
import urllib.request

from fontTools.ttLib import TTFont
from playwright.sync_api import expect

from halvex.core.assets import SHIPPED_TYPEFACES
from tests.browser.workshop import WorkshopTest


class SetTest(WorkshopTest):
    def letter(self, text: str) -> None:
        self.page.get_by_role("radiogroup", name="Letter").get_by_text(text, exact=True).click()

    def thumbnail(self, ident: str) -> bytes:
        """A draft of the stored piece: the same bytes for the same piece."""
        with urllib.request.urlopen(
            f"{self.server.address}/api/pieces/{ident}/thumbnail", timeout=60
        ) as answer:
            return bytes(answer.read())

    def type_into(self, label: str, value: str) -> None:
        field = self.page.get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")

    def test_a_late_change_of_words_keeps_what_was_set_for_single_letters(self) -> None:
        ident = self.open_new()
        self.letter("u")
        self.type_into("Turn", "12")
        self.wait_for_document(ident, "document.blocks[0].letters[1]?.turn === 12")
        self.letter("a")
        self.type_into("Kern a y", "-35")
        self.wait_for_document(ident, "document.blocks[0].letters[2]?.kern === -35")
        self.page.get_by_label("Words", exact=True).fill("The Quay")
        self.wait_for_document(
            ident, "document.blocks[0].letters[5]?.turn === 12 && document.blocks[0].letters[6]?.kern === -35"
        )
        # All of it deleted and typed again, in one spell of typing.
        words = self.page.get_by_label("Words", exact=True)
        words.fill("")
        words.press_sequentially("Quay 9", delay=40)
        self.wait_for_document(
            ident, "document.blocks[0].words === 'Quay 9' && document.blocks[0].letters[1]?.turn === 12"
        )
        self.letter("u")
        self.page.get_by_role("button", name="Set like the others").click()
        self.wait_for_document(ident, "!document.blocks[0].letters[1]")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.blocks[0].letters[1]?.turn === 12")

    def test_letters_are_walked_with_the_arrow_keys(self) -> None:
        self.open_new()
        letters = self.page.get_by_role("radiogroup", name="Letter").get_by_role("radio")
        letters.first.focus()
        self.page.keyboard.press("ArrowRight")
        expect(letters.nth(1)).to_be_focused()
        expect(letters.nth(1)).to_have_attribute("aria-checked", "true")
        self.page.keyboard.press("End")
        expect(letters.last).to_be_focused()
        expect(self.page.get_by_label("Kern a y", exact=True)).to_have_count(0)

    def test_colliding_letters_are_kerned_apart_in_one_gesture(self) -> None:
        form = {"bevel": {"side": "outset", "width": 9, "height": 4}}
        ident = self.open_new(blocks=[{"words": "Quay", "size": 80, "form": form}])
        self.station("Form")
        expect(self.page.locator("[data-part=advice]")).to_contain_text("run together")
        self.page.get_by_role("button", name="Kern them apart").click()
        expect(self.page.locator("[data-part=advice]").filter(has_text="run together")).to_have_count(0)
        self.assertTrue(
            all(letter["kern"] > 0 for letter in self.document(ident)["blocks"][0]["letters"].values())
        )
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "Object.keys(document.blocks[0].letters).length === 0")

    def test_a_typeface_of_ones_own(self) -> None:
        """A font file is added on the screen and the words stand in it, also after the server was
        killed; no font is explained."""
        ident = self.open_new()
        font = TTFont(SHIPPED_TYPEFACES / "righteous" / "latin.ttf")
        for record in font["name"].names:
            record.string = str(record).replace("Righteous", "Quay Hand")
        out = io.BytesIO()
        font.flavor = "woff2"
        font.save(out)
        self.page.get_by_role("button", name="Typeface:").click()
        files = self.page.get_by_label("Font file")
        files.set_input_files({"name": "broken.ttf", "mimeType": "font/ttf", "buffer": b"no font"})
        expect(self.page.locator("[data-part=notice]")).to_contain_text("this is no font")
        files.set_input_files({"name": "hand.woff2", "mimeType": "font/woff2", "buffer": out.getvalue()})
        self.wait_for_document(ident, "document.blocks[0].typeface === 'quay-hand'")
        expect(
            self.page.locator("[data-part=typefaces]").get_by_role("button", name="Quay Hand")
        ).to_have_attribute("aria-pressed", "true")
        self.server.kill()
        self.server.start()
        self.page.goto(f"{self.server.address}/piece/{ident}")
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("Quay Hand")
        self.page.locator("canvas[data-seq]").wait_for()

    def test_features_by_name(self) -> None:
        ident = self.open_new(blocks=[{"words": "1/2", "size": 80, "typeface": "bebas-neue"}])
        self.page.get_by_role("button", name="Features").click()
        self.page.get_by_label("Fractions").click()
        self.wait_for_document(ident, "document.blocks[0].features.frac === true")
        expect(self.page.get_by_role("button", name="Features fractions")).to_be_visible()

    def test_a_canvas_of_the_trade(self) -> None:
        ident = self.open_new()
        self.page.get_by_role("button", name="Standard sizes").click()
        self.page.get_by_role("menuitem", name="square").click()
        self.wait_for_document(ident, "document.canvas.width === 1080 && document.view.zoom === 3.375")
        self.page.get_by_label("Standard sizes scale the picture to fit").click()
        self.page.get_by_role("button", name="Standard sizes").click()
        self.page.get_by_role("menuitem", name="A4").click()
        self.wait_for_document(
            ident,
            "document.canvas.width === 2480 && document.canvas.height === 3508 && "
            "document.view.zoom === 3.375",
        )

    def test_blocks_are_doubled_hidden_and_centred(self) -> None:
        ident = self.open_new()
        menu = self.page.get_by_role("button", name="Block:")
        menu.click()
        expect(self.page.get_by_role("menuitem", name="Hide this block")).to_be_disabled()
        self.page.get_by_role("menuitem", name="Duplicate this block").click()
        self.wait_for_document(ident, "document.blocks.length === 2 && document.blocks[1].place.x === 40")
        menu.click()
        self.page.get_by_role("menuitem", name="Centre on the canvas").click()
        self.wait_for_document(ident, "document.blocks[1].place.x === 0 && document.blocks[1].place.y === 0")
        self.station("Surface")
        self.page.get_by_role("button", name="plastic", exact=True).click()
        self.wait_for_document(ident, "document.blocks[1].surface.face.kind === 'plastic'")
        menu.click()
        self.page.get_by_role("menuitem", name="Give its look to all blocks").click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.kind === 'plastic'")
        # Apart again, so that both are seen.
        self.page.keyboard.press("Escape")
        for expected in (
            "document.blocks[0].surface.face.kind === 'metal'",
            "document.blocks[1].surface.face.kind === 'metal'",
            "document.blocks[1].place.x === 40",
        ):
            self.page.get_by_role("button", name="Undo:").click()
            self.wait_for_document(ident, expected)
        both = self.thumbnail(ident)
        menu.click()
        self.page.get_by_role("menuitem", name="Hide this block").click()
        self.wait_for_document(ident, "document.blocks[1].hidden")
        self.assertNotEqual(self.thumbnail(ident), both)
        menu.click()
        self.page.get_by_role("menuitem", name="Show this block").click()
        self.wait_for_document(ident, "!document.blocks[1].hidden")
        self.assertEqual(self.thumbnail(ident), both)

    def test_any_state_of_the_history_comes_back_and_branches(self) -> None:
        ident = self.open_new()
        for size in ("60", "90", "70"):
            self.type_into("Size", size)
            self.wait_for_document(ident, f"document.blocks[0].size === {size}")
        self.page.get_by_role("button", name="History").click()
        steps = self.page.locator("[aria-label=History] li")
        expect(steps).to_have_count(4)
        expect(steps.locator("img").first).to_have_js_property("complete", True)
        steps.filter(has_text="80 → 60").get_by_role("button").click()
        self.wait_for_document(ident, "document.blocks[0].size === 60")
        self.page.keyboard.press("Escape")
        self.type_into("Size", "50")
        self.wait_for_document(ident, "document.blocks[0].size === 50")
        self.page.get_by_role("button", name="History").click()
        expect(steps).to_have_count(5)
        expect(self.page.locator("[aria-label=History] small")).to_have_count(2)
        steps.filter(has_text="90 → 70").get_by_role("button").click()
        self.wait_for_document(ident, "document.blocks[0].size === 70")
