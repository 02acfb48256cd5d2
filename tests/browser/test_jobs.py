"""Whole jobs in a real browser, from an empty piece to a file."""

import io

from PIL import Image
from playwright.sync_api import expect

from tests.browser.workshop import WorkshopTest

CREST = (
    b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 100 120' width='100' height='120'>"
    b"<path d='M5 5H95V70C95 100 50 118 50 118S5 100 5 70Z' fill='#20466e'/><circle "
    b"cx='50' cy='45' r='20' fill='none' stroke='#c9a227' stroke-width='8'/>"
    b"<path d='M50 65V100' stroke='#c9a227' stroke-width='8'/></svg>"
)


class JobsTest(WorkshopTest):
    def type_into(self, label: str, value: str) -> None:
        field = self.page.get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")

    def put(self, label: str, value: str, ident: str, condition: str) -> None:
        self.type_into(label, value)
        self.wait_for_document(ident, condition)

    def export(self) -> Image.Image:
        self.station("Export")
        self.page.get_by_role("radio", name="proof").click()
        self.page.get_by_role("button", name="Make the file").click()
        with self.page.expect_download(timeout=180_000) as download:
            self.page.get_by_role("link", name="Download PNG").click(timeout=180_000)
        return Image.open(io.BytesIO(download.value.path().read_bytes()))

    def test_a_thumbnail_from_nothing(self) -> None:
        """New piece, a canvas of the trade, words, typeface, form, turn, light, surface, backdrop, export."""
        ident = self.open_new(canvas={"width": 320, "height": 180}, blocks=[{}])
        self.page.get_by_label("Words", exact=True).fill("Ferry\nnow")
        self.wait_for_document(ident, "document.blocks[0].words === 'Ferry\\nnow'")
        self.put("Size", "70", ident, "document.blocks[0].size === 70")
        self.page.get_by_role("button", name="Typeface:").click()
        self.page.get_by_role("searchbox").fill("anton")
        self.page.locator("[aria-label=Typefaces] li button").first.click()
        self.wait_for_document(ident, "document.blocks[0].typeface === 'anton'")
        self.page.keyboard.press("Escape")
        self.station("Form")
        self.put("Depth", "30", ident, "document.blocks[0].form.depth === 30")
        self.station("View")
        self.put("y", "-18", ident, "document.view.turn.y === -18")
        self.station("Light")
        self.put("Bearing", "140", ident, "document.light.lamps[0].bearing === 140")
        self.station("Surface")
        self.page.get_by_role("group", name="Kind of material").get_by_role(
            "button", name="plastic", exact=True
        ).click()
        self.page.get_by_role("group", name="Coupons").get_by_role(
            "button", name="red plastic", exact=True
        ).click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.colour === '#c8402f'")
        self.station("Backdrop")
        self.page.get_by_role("radio", name="floor").click()
        self.wait_for_document(ident, "document.backdrop.ground === 'floor'")
        picture = self.export()
        self.assertEqual(picture.size, (320, 180))
        red = sum(
            count
            for count, (r, g, b, *_) in picture.convert("RGB").getcolors(1 << 20) or []
            if r > 90 and r > 2 * g
        )
        self.assertGreater(red, 320 * 180 * 0.05)

    def test_a_crest_with_an_imported_mark(self) -> None:
        ident = self.open_new(
            blocks=[{"words": "Rowers", "size": 44, "along": {"kind": "arc", "bend": 70}, "place": {"y": 60}}]
        )
        self.page.get_by_label("SVG file").set_input_files(
            {"name": "crest.svg", "mimeType": "image/svg+xml", "buffer": CREST}
        )
        self.wait_for_document(ident, "document.blocks[1]?.parts.length === 3")
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("crest")
        self.put("Scale", "80", ident, "document.blocks[1].scale === 80")
        part = self.page.get_by_role("region", name="Part 1")
        part.get_by_label("Own depth", exact=True).fill("26")
        part.get_by_label("Own depth", exact=True).press("Enter")
        part.get_by_label("Material", exact=True).click()
        self.page.get_by_role("option", name="slate", exact=True).click()
        self.wait_for_document(
            ident,
            "document.blocks[1].parts[0].depth === 26 && "
            "document.blocks[1].parts[0].material.kind === 'stone'",
        )
        self.page.get_by_role("button", name="centre", exact=True).click()
        self.wait_for_document(ident, "document.blocks[1].place.x === 0")
        # What is no drawing is explained, and the mark stays.
        self.page.get_by_label("SVG file").set_input_files(
            {"name": "x.svg", "mimeType": "image/svg+xml", "buffer": b"no drawing"}
        )
        expect(self.page.locator("[data-part=notice]")).to_contain_text("no SVG drawing")
        self.station("Export")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Flat outlines").click()
        self.assertIn("<path", download.value.path().read_text())

    def test_a_tube_word_drawn_over_a_guide(self) -> None:
        ident = self.open_new(blocks=[{"words": "ll", "typeface": "pacifico", "size": 110}])
        self.page.locator("[data-part=block-name]").click()
        self.page.get_by_role("menuitem", name="Draw over these words").click()
        self.strike([(0.45, 0.75), (0.47, 0.5), (0.45, 0.25)])
        self.wait_for_document(ident, "document.blocks[1]?.kind === 'strokes' && document.blocks[0].guide")
        expect(self.page.locator("[data-part=guide-outline]")).to_have_count(1)
        self.page.get_by_role("button", name="By points").click()
        self.strike([(0.55, 0.75), (0.57, 0.5), (0.55, 0.25)])
        self.wait_for_document(
            ident, "document.blocks[1].strokes.length === 2 && document.blocks[1].form.kind === 'tube'"
        )
        # The guide is still a word.
        self.page.locator("[data-part=blocks] button[aria-pressed]").first.click()
        before = self.page.locator("[data-part=guide-outline]").get_attribute("d")
        self.page.get_by_label("Words", exact=True).fill("lb")
        self.wait_for_document(ident, "document.blocks[0].words === 'lb'")
        expect(self.page.locator("[data-part=guide-outline]")).not_to_have_attribute("d", before or "")

    def strike(self, points: list[tuple[float, float]]) -> None:
        sheet = self.page.locator("[data-part=in-hand]").bounding_box()
        assert sheet
        for across, down in points:
            self.page.mouse.click(sheet["x"] + across * sheet["width"], sheet["y"] + down * sheet["height"])
        self.page.keyboard.press("Enter")

    def test_a_killed_server_comes_back_to_the_last_edit_of_the_job(self) -> None:
        ident = self.open_new()
        letters = self.page.get_by_role("radiogroup", name="Letter")
        letters.get_by_text("u", exact=True).click()
        self.put("Raise", "60", ident, "document.blocks[0].letters[1]?.shift === 60")
        self.page.get_by_label("SVG file").set_input_files(
            {"name": "crest.svg", "mimeType": "image/svg+xml", "buffer": CREST}
        )
        self.wait_for_document(ident, "document.blocks.length === 2")
        self.put("Across", "33", ident, "document.blocks[1].place.x === 33")
        self.server.kill()
        expect(self.page.locator("[data-part=offline]")).to_be_visible()
        self.server.start()
        expect(self.page.locator("[data-part=offline]")).to_have_count(0)
        kept = self.document(ident)
        self.assertEqual(
            (kept["blocks"][1]["place"]["x"], kept["blocks"][0]["letters"]["1"]["shift"]), (33, 60)
        )
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.blocks[1].place.x === 0")
