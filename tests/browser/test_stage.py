"""Blocks handled on the stage in a real browser: picked, moved, snapped, scaled, turned, kerned,
grouped, copied, drawn over."""

import re

from playwright.sync_api import Locator, expect

from tests.browser.workshop import WorkshopTest

STAR = {
    "kind": "shape",
    "id": "star",
    "shape": "rectangle",
    "width": 60,
    "height": 40,
    "place": {"x": -90, "y": 30},
}
WORDS = {"words": "Quay", "size": 60, "id": "words", "place": {"x": 60, "y": -40}}


class StageTest(WorkshopTest):
    def frame(self, name: str) -> Locator:
        return self.page.get_by_role("button", name=f"Block {name}")

    def per_px(self) -> float:
        """Screen px of one px of the small canvas."""
        return float(
            self.page.evaluate(
                "document.querySelector('[data-part=marks]').getBoundingClientRect().width / 320"
            )
        )

    def drag(self, target: Locator, dx: float, dy: float, *, key: str = "") -> None:
        """Drag from the middle of a target by so many px of the canvas, y up."""
        box = target.bounding_box()
        assert box
        x, y, scale = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, self.per_px()
        if key:
            self.page.keyboard.down(key)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + dx * scale / 2, y - dy * scale / 2, steps=4)
        self.page.mouse.move(x + dx * scale, y - dy * scale, steps=4)
        self.page.mouse.up()
        if key:
            self.page.keyboard.up(key)

    def test_a_block_is_dragged_and_undone_in_one_step(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.drag(self.frame("rectangle"), 23, -17, key="Alt")
        self.wait_for_document(
            ident,
            "Math.abs(document.blocks[1].place.x + 67) < 1 && Math.abs(document.blocks[1].place.y - 13) < 1",
        )
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("rectangle")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(
            ident, "document.blocks[1].place.x === -90 && document.blocks[1].place.y === 30"
        )

    def test_a_dragged_block_snaps_to_the_middle_and_to_its_neighbours(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.drag(self.frame("rectangle"), 89, 0)
        self.wait_for_document(ident, "document.blocks[1].place.x === 0")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.blocks[1].place.x === -90")
        # Its middle meets the middle of the words' ink.
        self.drag(self.frame("rectangle"), 0, -69)
        self.wait_for_document(ident, "document.blocks[1].place.y === -40")

    def test_arrow_keys_move_and_one_spell_is_one_step(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.frame("rectangle").focus()
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowUp", "Alt+ArrowLeft"):
            self.page.keyboard.press(key)
        self.wait_for_document(
            ident, "Math.abs(document.blocks[1].place.x + 88.1) < 1e-6 && document.blocks[1].place.y === 40"
        )
        self.page.keyboard.press("Control+z")
        self.wait_for_document(
            ident, "document.blocks[1].place.x === -90 && document.blocks[1].place.y === 30"
        )

    def test_corners_scale_and_the_stalk_turns(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.frame("rectangle").click()
        self.drag(self.page.locator("[data-part=corner] circle").nth(2), 30, 20)
        self.wait_for_document(
            ident,
            "Math.abs(document.blocks[1].width - 120) < 3 && Math.abs(document.blocks[1].height - 80) < 3",
        )
        self.drag(self.page.locator("[data-part=turning]"), 70, -50)
        self.wait_for_document(ident, "document.blocks[1].place.turn.z < -20")
        self.assertEqual(self.document(ident)["blocks"][0]["place"]["turn"]["z"], 0)

    def test_picked_blocks_move_together_and_are_arranged(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.frame("Quay").click()
        self.frame("rectangle").click(modifiers=["Shift"])
        expect(self.page.get_by_role("checkbox", name="Pick rectangle too")).to_be_checked()
        self.drag(self.frame("Quay"), 10, 12, key="Alt")
        self.wait_for_document(
            ident,
            "Math.abs(document.blocks[0].place.x - 70) < 1 && Math.abs(document.blocks[1].place.x + 80) < 1",
        )
        self.page.get_by_role("radio", name="each other").click()
        self.page.get_by_role("button", name="middle", exact=True).click()
        self.wait_for_document(
            ident, "Math.abs(document.blocks[0].place.y - document.blocks[1].place.y) < 0.02"
        )
        self.page.get_by_role("button", name="Group", exact=True).click()
        self.wait_for_document(
            ident, "document.blocks[0].group !== '' && document.blocks[0].group === document.blocks[1].group"
        )
        before = self.document(ident)["blocks"][1]["place"]["x"]
        self.frame("rectangle").click()
        self.drag(self.frame("Quay"), -20, 0, key="Alt")
        self.wait_for_document(ident, f"Math.abs(document.blocks[1].place.x - {before} + 20) < 1")

    def test_a_locked_block_stays(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.frame("rectangle").click()
        self.page.get_by_role("button", name="Lock", exact=True).click()
        self.wait_for_document(ident, "document.blocks[1].locked")
        self.drag(self.frame("rectangle"), 30, 30)
        self.page.get_by_label("Across", exact=True).fill("5")
        self.page.get_by_label("Across", exact=True).press("Enter")
        expect(self.page.locator("[data-part=fault]")).to_contain_text("unlock it first")
        self.assertEqual(self.document(ident)["blocks"][1]["place"]["x"], -90)

    def test_letters_are_dragged_apart_and_nudged(self) -> None:
        ident = self.open_new(blocks=[WORDS])
        self.page.get_by_role("button", name="Kern on the stage").click()
        self.drag(self.page.get_by_role("button", name="Letter a,"), 6, 0)
        self.wait_for_document(ident, "Math.abs((document.blocks[0].letters[1]?.kern ?? 0) - 100) < 12")
        self.page.get_by_role("button", name="Letter y,").focus()
        self.page.keyboard.press("ArrowLeft")
        self.page.keyboard.press("ArrowLeft")
        self.wait_for_document(ident, "document.blocks[0].letters[2]?.kern === -10")
        # What was set for a letter, here the space after it, is taken back from its own menu.
        self.page.get_by_role("button", name="Letter a,").click(button="right")
        self.page.get_by_role("menuitem", name="like the others").click()
        self.wait_for_document(ident, "document.blocks[0].letters[2] === undefined")
        # The space before it is kept with the letter there; its menu takes that back too.
        self.page.get_by_role("button", name="Letter a,").click(button="right")
        self.page.get_by_role("menuitem", name="Remove the kern").click()
        self.wait_for_document(ident, "(document.blocks[0].letters[1]?.kern ?? 0) === 0")
        self.page.get_by_role("button", name="Letter Q,").click(button="right")
        expect(self.page.get_by_role("menuitem", name="like the others")).to_be_disabled()
        self.page.keyboard.press("Escape")
        self.page.locator("canvas").focus()
        self.page.keyboard.press("Escape")
        expect(self.page.locator("[data-part=letter-frame]")).to_have_count(0)

    def test_spaces_are_evened_by_a_proposal(self) -> None:
        ident = self.open_new(
            blocks=[{"words": "IIII", "typeface": "anton", "size": 60, "letters": {"0": {"kern": 120}}}]
        )
        self.page.get_by_role("button", name="Even the spaces").click()
        expect(self.page.locator("[data-part=evening]")).to_contain_text("II 120")
        self.page.get_by_role("button", name="Leave it").click()
        self.assertEqual(self.document(ident)["blocks"][0]["letters"]["0"]["kern"], 120)
        self.page.get_by_role("button", name="Even the spaces").click()
        self.page.get_by_role("button", name="Take these").click()
        self.wait_for_document(ident, "Math.abs(document.blocks[0].letters[0]?.kern ?? 0) < 10")

    def test_blocks_and_looks_are_copied_from_piece_to_piece(self) -> None:
        self.open_new(blocks=[{**WORDS, "surface": {"face": {"kind": "metal", "metal": "copper"}}}])
        self.frame("Quay").focus()
        self.page.evaluate(
            "() => { localStorage.removeItem('halvex-block'); window.dispatchEvent(new Event('storage')); }"
        )
        self.page.get_by_role("button", name="Block: Quay").click()
        expect(self.page.get_by_role("menuitem", name="Paste its look only")).to_be_disabled()
        self.page.keyboard.press("Escape")
        self.frame("Quay").focus()
        self.page.keyboard.press("Control+c")
        self.page.get_by_role("button", name="Block: Quay").click()
        expect(self.page.get_by_role("menuitem", name="Paste its look only")).to_be_enabled()
        self.page.keyboard.press("Escape")
        ident = self.open_new(blocks=[{"words": "Pier", "size": 50}])
        self.frame("Pier").focus()
        self.page.keyboard.press("Control+Shift+v")
        self.wait_for_document(
            ident,
            "document.blocks.length === 1 && document.blocks[0].surface.face.metal === "
            "'copper' && document.blocks[0].words === 'Pier'",
        )
        self.page.keyboard.press("Control+v")
        self.wait_for_document(
            ident,
            "document.blocks.length === 2 && document.blocks[1].words === 'Quay' && "
            "document.blocks[1].size === 60",
        )
        # At once after one another: the second copies what the first has only just brought.
        self.page.keyboard.press("Control+v")
        self.page.keyboard.press("Control+d")
        self.wait_for_document(
            ident,
            "document.blocks.map(b => b.words).join() === 'Pier,Quay,Quay,Quay' && new "
            "Set(document.blocks.map(b => b.id)).size === 4",
        )
        self.wait_for_document(ident, "document.blocks[3].place.x === document.blocks[2].place.x + 40")

    def test_words_stand_on_an_arc_and_on_a_drawn_curve(self) -> None:
        ident = self.open_new(blocks=[WORDS])
        self.page.get_by_role("button", name=re.compile("^Line")).click()
        self.page.get_by_role("radio", name="an arc").click()
        self.wait_for_document(ident, "document.blocks[0].along.kind === 'arc'")
        self.page.get_by_label("Bend", exact=True).fill("-120")
        self.page.get_by_label("Bend", exact=True).press("Enter")
        self.wait_for_document(ident, "document.blocks[0].along.bend === -120")
        self.page.get_by_role("radio", name="a curve").click()
        sheet = self.page.locator("[data-part=in-hand]").bounding_box()
        assert sheet
        for across, down in ((0.2, 0.6), (0.5, 0.4), (0.8, 0.6)):
            self.page.mouse.click(sheet["x"] + across * sheet["width"], sheet["y"] + down * sheet["height"])
        self.page.keyboard.press("Enter")
        self.wait_for_document(
            ident,
            "document.blocks[0].along.kind === 'curve' && document.blocks[0].along.curve.points.length === 3",
        )
        # A point becomes smooth, its handles stay in line; another one is removed.
        middle = self.page.get_by_role("button", name="Curve, point 2")
        middle.focus()
        self.page.keyboard.press("Enter")
        self.wait_for_document(ident, "document.blocks[0].along.curve.points[1].out_x > 0")
        self.drag(self.page.locator("[data-part=pulling]").nth(1), 0, 20)
        self.wait_for_document(
            ident,
            "(p => p.out_y > 5 && Math.abs(p.in_x * p.out_y - p.in_y * p.out_x) < 3 && p.in_x "
            "< 0)(document.blocks[0].along.curve.points[1])",
        )
        # Its menu makes it a corner again.
        middle.click(button="right")
        self.page.get_by_role("menuitem", name="smooth, or a corner").click()
        self.wait_for_document(ident, "document.blocks[0].along.curve.points[1].out_x === 0")
        self.page.get_by_role("button", name="Curve, point 3").focus()
        self.page.keyboard.press("Delete")
        self.wait_for_document(ident, "document.blocks[0].along.curve.points.length === 2")
        # A line keeps two points.
        middle.click(button="right")
        expect(self.page.get_by_role("menuitem", name="Remove the picked point")).to_be_disabled()
        self.page.keyboard.press("Escape")

    def test_a_finger_picks_and_moves_a_block(self) -> None:
        """On a tablet of 1024 px with touch: taps and drags arrive as pointer events of a finger."""
        self.page.close()
        context = self.browser.new_context(viewport={"width": 1024, "height": 768}, has_touch=True)
        self.addCleanup(context.close)
        self.page = context.new_page()
        self.page.set_default_timeout(60_000)
        ident = self.open_new(blocks=[WORDS, STAR])
        self.frame("rectangle").tap()
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("rectangle")
        box = self.frame("rectangle").bounding_box()
        assert box
        x, y, scale = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, self.per_px()
        finger = context.new_cdp_session(self.page)
        finger.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
        for share in (0.3, 0.6, 1.0):
            finger.send(
                "Input.dispatchTouchEvent",
                {"type": "touchMove", "touchPoints": [{"x": x + 37 * scale * share, "y": y}]},
            )
        finger.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
        self.wait_for_document(ident, "Math.abs(document.blocks[1].place.x + 53) < 4")

    def test_guides_and_rulers_are_shown_when_wanted(self) -> None:
        self.open_new(canvas={"width": 320, "height": 180, "ppi": 300, "unit": "mm"})
        self.page.locator("canvas[data-seq]").focus()
        self.page.keyboard.press("g")
        self.page.keyboard.press("r")
        expect(self.page.locator("[data-part=guides] path")).to_have_count(10)
        expect(self.page.locator("[data-part=rulers] text").first).to_have_text("0")
        width = self.page.get_by_label("Width", exact=True)
        expect(width).to_have_value("27.09")
        width.fill("30")
        width.press("Enter")
        expect(self.page.locator("[data-part=measure]")).to_contain_text("354")
        self.page.locator("canvas[data-seq]").focus()
        self.page.keyboard.press("g")
        expect(self.page.locator("[data-part=guides]")).to_have_count(0)

    def test_the_list_of_commands_and_the_sheet_of_keys(self) -> None:
        ident = self.open_new(blocks=[WORDS, STAR])
        self.page.keyboard.press("F2")
        field = self.page.get_by_role("combobox", name="Find a command")
        field.fill("centre on")
        field.press("Enter")
        self.wait_for_document(ident, "document.blocks[0].place.x === 0 && document.blocks[0].place.y === 0")
        self.page.keyboard.press("F2")
        self.page.get_by_role("combobox", name="Find a command").fill("no such thing")
        expect(self.page.get_by_role("dialog", name="All commands")).to_contain_text("No command matches")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("dialog", name="All keys")).to_contain_text("without snapping")
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("dialog")).to_have_count(0)

    def test_typefaces_are_browsed_in_ones_own_words(self) -> None:
        ident = self.open_new(blocks=[WORDS])
        self.page.get_by_role("button", name="Typeface:").click()
        browser = self.page.get_by_role("dialog", name="Typefaces")
        # A picture of the words, not an empty frame.
        self.page.wait_for_function(
            "() => document.querySelector('[aria-label=Typefaces] img')?.naturalWidth === 272"
        )
        browser.get_by_role("radio", name="heaviness").click()
        shown = [
            float(text.split("heaviness ")[1])
            for text in browser.locator("li small:not([data-part=too-thin])").all_text_contents()
        ]
        self.assertEqual(shown, sorted(shown, reverse=True))
        browser.get_by_role("searchbox").fill("comfortaa")
        expect(browser.locator("li")).to_have_count(1)
        expect(browser.locator("[data-part=too-thin]")).to_contain_text("would do")
        browser.locator("li button").click()
        self.wait_for_document(ident, "document.blocks[0].typeface === 'comfortaa'")
        browser.get_by_role("searchbox").fill("zzz")
        expect(browser).to_contain_text("No typeface matches")
