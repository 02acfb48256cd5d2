"""Whole jobs in a real browser, from the typed word to the delivered file."""

import io
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests.browser.workshop import WorkshopTest

STATIONS = ("Set", "Form", "View", "Light", "Surface", "Backdrop", "Finish", "Export")


class JobTest(WorkshopTest):
    def test_a_retyped_word_changes_the_picture(self) -> None:
        ident = self.open_new()
        before, pixels = self.revision_shown(), self.pixels()
        self.page.get_by_label("Words", exact=True).fill("Mole")
        self.wait_for_revision_after(before)
        self.assertTrue(self.pixels() != pixels, "the picture is another one")
        self.assertEqual(self.document(ident)["blocks"][0]["words"], "Mole")

    def test_dragging_turns_and_undo_turns_back_in_one_step(self) -> None:
        ident = self.open_new()
        self.station("View")
        box = self.page.locator("canvas").bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        for step in range(1, 9):
            self.page.mouse.move(x + 10 * step, y + 5 * step)
        self.page.mouse.up()
        expect(self.page.locator("[data-part=recipe-cell]", has_text="View")).to_contain_text("10°, 20°, 0°")
        self.assertEqual(self.document(ident)["view"]["turn"], {"x": 10, "y": 20, "z": 0})
        self.page.keyboard.press("Control+z")
        expect(self.page.locator("[data-part=recipe-cell]", has_text="View")).to_contain_text("0°, 0°, 0°")

    def test_lamps_materials_and_reload(self) -> None:
        ident = self.open_new()
        self.station("Light")
        self.page.get_by_role("button", name="Add a lamp").click()
        expect(self.page.locator("[data-part=schedule] tbody tr")).to_have_count(2)
        self.station("Surface")
        self.page.get_by_role("button", name="plastic", exact=True).click()
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Surface")).to_contain_text("plastic")
        self.page.get_by_role("button", name="Undo:").click()
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Surface")).to_contain_text("gold")
        self.page.reload()
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Surface")).to_contain_text("gold")
        expect(self.page.get_by_role("button", name="Redo:")).to_be_enabled()
        self.assertEqual(len(self.document(ident)["light"]["lamps"]), 2)

    def test_numbers_take_units_sums_and_nudges_and_explain_what_is_wrong(self) -> None:
        ident = self.open_new()
        self.station("Form")
        depth = self.page.get_by_label("Depth", exact=True)
        depth.fill("1/2in")
        depth.press("Enter")
        expect(depth).to_have_value("48")
        depth.press("ArrowUp")
        expect(depth).to_have_value("50")
        depth.press("Shift+ArrowDown")
        expect(depth).to_have_value("30")
        depth.fill("5000")
        depth.press("Enter")
        expect(depth).to_have_value("5000")
        depth.fill("deep")
        depth.press("Enter")
        expect(self.page.locator("[data-part=fault]")).to_contain_text("is not a number")
        self.assertEqual(self.document(ident)["blocks"][0]["form"]["depth"], 5000)

    def test_a_file_is_what_the_command_line_renders(self) -> None:
        ident = self.open_new(canvas={"width": 160, "height": 90}, blocks=[{"words": "Re", "size": 60}])
        self.station("Export")
        self.page.get_by_label("Width, px").fill("120")
        self.page.get_by_role("radio", name="proof").click()
        self.page.get_by_role("checkbox", name="Transparent").click()
        self.page.get_by_role("button", name="Make the file").click()
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download PNG").click()
        mine = Image.open(io.BytesIO(Path(download.value.path()).read_bytes()))
        with tempfile.TemporaryDirectory() as folder:
            piece, out = Path(folder) / "piece.json", Path(folder) / "out.png"
            piece.write_text(json.dumps(self.document(ident)))
            command = [
                sys.executable,
                "-m",
                "halvex.cli",
                "render",
                str(piece),
                str(out),
                "--size",
                "120x",
                "--quality",
                "proof",
                "--transparent",
            ]
            subprocess.run(command, check=True, timeout=600)
            theirs = Image.open(out)
            theirs.load()
        self.assertEqual((mine.size, mine.mode), ((120, 68), "RGBA"))
        self.assertTrue(np.array_equal(np.array(mine), np.array(theirs)))

    def test_pieces_are_renamed_duplicated_deleted_and_restored(self) -> None:
        self.open_new(name="Slipway")
        self.page.get_by_role("button", name="Slipway").click()
        self.page.get_by_label("Name").fill("Breakwater")
        self.page.get_by_label("Name").press("Enter")
        expect(self.page.locator("[data-part=piece-name]")).to_have_text("Breakwater")
        self.page.get_by_role("button", name="Duplicate").click()
        expect(self.page.locator("[data-part=piece-name]")).to_have_text("Breakwater copy")
        self.page.locator("[data-part=piece-name]").click()
        self.page.get_by_role("button", name="Delete").click()
        expect(self.page.locator("[data-part=piece-name]")).not_to_have_text("Breakwater copy")
        restore = self.page.get_by_role("button", name="Restore Breakwater copy")
        if not restore.is_visible():
            self.page.locator("[data-part=piece-name]").click()
        restore.click()
        expect(self.page.locator("[data-part=piece-name]")).to_have_text("Breakwater copy")

    def test_two_windows_stay_the_same(self) -> None:
        ident = self.open_new()
        other = self.browser.new_page()
        self.addCleanup(other.close)
        other.goto(f"{self.server.address}/piece/{ident}")
        expect(other.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("80 px")
        self.page.get_by_label("Size", exact=True).fill("64")
        self.page.get_by_label("Size", exact=True).press("Enter")
        expect(other.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("64 px")

    def test_words_without_ink_are_explained_on_the_stage(self) -> None:
        self.open_new()
        self.page.get_by_label("Words", exact=True).fill("🎉")
        expect(self.page.locator("[data-part=notice]")).to_contain_text("party popper")
        self.page.get_by_label("Words", exact=True).fill("Pier")
        expect(self.page.locator("[data-part=notice]")).to_have_count(0)

    def test_a_killed_server_loses_nothing(self) -> None:
        ident = self.open_new()
        size = self.page.get_by_label("Size", exact=True)
        size.fill("70")
        size.press("Enter")
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("70 px")
        self.server.kill()
        expect(self.page.locator("[data-part=offline]")).to_be_visible()
        size.fill("72")
        size.press("Enter")
        self.server.start()
        expect(self.page.locator("[data-part=offline]")).to_have_count(0)
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("72 px")
        self.assertEqual(self.document(ident)["blocks"][0]["size"], 72)

    def test_what_was_typed_while_the_server_was_away_stays_with_its_piece(self) -> None:
        """Another piece is opened before the server is back: the edit is not its own."""
        other = self.open_new()
        ident = self.open_new()
        self.server.kill()
        expect(self.page.locator("[data-part=offline]")).to_be_visible()
        size = self.page.get_by_label("Size", exact=True)
        size.fill("72")
        size.press("Enter")
        self.page.evaluate(
            "id => { history.pushState(null, '', `/piece/${id}`); dispatchEvent(new "
            "PopStateEvent('popstate')); }",
            other,
        )
        self.server.start()
        expect(self.page.locator("[data-part=offline]")).to_have_count(0)
        self.wait_for_document(ident, "document.blocks[0].size === 72")
        self.assertEqual(self.document(other)["blocks"][0]["size"], 80)

    def test_the_picture_clears_up(self) -> None:
        self.open_new(canvas={"width": 64, "height": 36}, blocks=[{"words": "i", "size": 30}])
        self.page.locator("canvas[data-stage=clean]").wait_for(timeout=120_000)


# While a menu is open, what lies behind it is hidden from screen readers and cannot take the focus.
MENU = "[role=menu]"


class AccessTest(WorkshopTest):
    def test_no_station_has_a_finding(self) -> None:
        """axe-core, the rules of WCAG 2.2 A and AA; also with several kinds of blocks, and with
        each list open."""
        star = {"kind": "shape", "id": "star", "width": 40, "height": 40}
        curved = {
            "words": "Quay",
            "size": 50,
            "id": "b",
            "along": {"kind": "curve", "curve": {"points": [{"x": -80}, {"x": 80, "y": 20}]}},
        }
        self.open_new(blocks=[curved, star, {"words": "Pier", "size": 30, "id": "c", "guide": True}])
        for station in STATIONS:
            self.station(station)
            self.expect_no_finding(station)
        self.station("Set")
        self.page.keyboard.press("F2")
        self.expect_no_finding("commands")
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("?")
        self.expect_no_finding("keys")
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Typeface:").click()
        self.expect_no_finding("typefaces")
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="Kern on the stage").click()
        self.expect_no_finding("letters")
        self.page.keyboard.press("Escape")
        for part, opened in (("block-name", MENU), ("piece-name", "html")):
            self.page.locator(f"[data-part={part}]").click()
            self.expect_no_finding(part, opened)
            self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="History").click()
        self.expect_no_finding("history")
        self.page.keyboard.press("Escape")
        self.page.locator("[data-part=block-frame]").last.click(button="right")
        self.expect_no_finding("the menu of a block", MENU)
        self.page.get_by_role("menuitem", name="Duplicate").click()
        self.page.locator("[data-part=block-frame]").last.click(button="right")
        self.page.get_by_role("menuitem", name="Remove").click()
        expect(self.page.get_by_role("button", name="Undo", exact=True).last).to_be_visible()
        self.expect_no_finding("a toast")

    def test_the_screen_holds_at_every_size(self) -> None:
        """Small and large windows, a tablet, 200 % zoom (half as many px to lay out): nothing is
        cut off sideways, the stage stays."""
        self.open_new()
        for width, height in ((1280, 800), (1440, 900), (1920, 1080), (1024, 768), (640, 400)):
            with self.subTest(f"{width} × {height}"):
                self.page.set_viewport_size({"width": width, "height": height})
                self.page.wait_for_timeout(200)
                self.assertLessEqual(
                    self.page.evaluate("document.documentElement.scrollWidth - innerWidth"), 0
                )
                box = self.page.locator("canvas").bounding_box()
                assert box
                self.assertGreater(box["width"], width * 0.3)
                words = self.page.get_by_label("Words", exact=True)
                words.scroll_into_view_if_needed()
                expect(words).to_be_in_viewport()

    def test_every_control_is_reached_by_keyboard_with_a_visible_focus(self) -> None:
        self.open_new()
        for number, station in enumerate(STATIONS, 1):
            self.page.locator("canvas").focus()
            self.page.keyboard.press(str(number))
            expect(self.page.locator("[data-part=panel] h2")).to_have_text(station)
            wanted = self.page.evaluate(
                "() => [...document.querySelector('[data-part=panel]')"
                ".querySelectorAll('button, input, textarea, a[href]')]"
                ".filter(e => !e.disabled && e.offsetParent && (e.role !== 'radio' || e.tabIndex === 0))"
                ".length"
            )
            reached = set()
            for _ in range(wanted + 40):
                self.page.keyboard.press("Tab")
                where = self.page.evaluate(
                    "() => { const e = document.activeElement;"
                    " if (!e.closest('[data-part=panel]')) return null;"
                    " e.dataset.walked ??= String(Math.random());"
                    " const seen = [e, e.parentElement].some(x => { const s = getComputedStyle(x);"
                    "   return (s.outlineStyle !== 'none' && s.outlineWidth !== '0px') || "
                    "s.borderTopColor === 'rgb(11, 110, 99)'; });"
                    " return [e.dataset.walked, seen, e.outerHTML.slice(0, 120)]; }"
                )
                if where:
                    self.assertTrue(where[1], f"no visible focus in {station}: {where[2]}")
                    reached.add(where[0])
            self.assertGreaterEqual(len(reached), wanted, station)

    def test_no_request_leaves_the_machine(self) -> None:
        requests: list[str] = []
        self.page.on("request", lambda request: requests.append(request.url))
        self.open_new()
        for station in STATIONS:
            self.station(station)
        foreign = [url for url in requests if not url.startswith((self.server.address, "blob:", "data:"))]
        self.assertEqual(foreign, [])


if __name__ == "__main__":
    unittest.main()
