"""Form in a real browser: sections, mouldings, kinds of body, and lines drawn on the stage."""

import math
import unittest
from typing import Any

from playwright.sync_api import Locator, expect

from tests.browser.workshop import WorkshopTest


class FormTest(WorkshopTest):
    def form(self, ident: str, block: int = 0) -> dict[str, Any]:
        return self.document(ident)["blocks"][block]["form"]

    def recipe(self) -> Locator:
        return self.page.locator("[data-part=recipe-cell]", has_text="Form")

    def on_stage(self, x: float, y: float) -> tuple[float, float]:
        """The place in the window of a share of the picture's width and height."""
        box = self.page.locator("[data-part=marks]").bounding_box()
        assert box
        return box["x"] + x * box["width"], box["y"] + y * box["height"]

    def open_form(self) -> str:
        ident = self.open_new()
        self.station("Form")
        return ident

    def test_the_section_is_drawn_and_marked_on_the_stage(self) -> None:
        self.open_form()
        captions = self.page.locator("[data-part=drawing] [data-part=caption]")
        expect(captions).to_have_count(2)
        expect(captions.first).to_contain_text("A–A thickest")
        expect(self.page.locator("[data-part=cutting-mark]")).to_have_count(2)
        self.station("Light")
        expect(self.page.locator("[data-part=cutting-mark]")).to_have_count(0)

    def test_depth_and_bevel_are_dragged_and_nudged_on_the_section(self) -> None:
        ident = self.open_form()
        handle = self.page.get_by_role("slider", name="Depth, on the section")
        box = handle.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        for step in range(1, 6):
            self.page.mouse.move(box["x"], box["y"] - 6 * step)
        self.page.mouse.up()
        expect(self.recipe()).not_to_contain_text("60 deep")
        self.assertLess(self.form(ident)["depth"], 60)
        self.page.keyboard.press("Control+z")
        expect(self.recipe()).to_contain_text("60 deep")
        width = self.page.get_by_role("slider", name="Bevel width, on the section")
        width.focus()
        width.press("ArrowLeft")
        expect(self.recipe()).to_contain_text("9 × 8")

    def test_every_moulding_can_be_chosen(self) -> None:
        ident = self.open_form()
        for name in ("ovolo", "cavetto", "cyma", "bead", "step", "curve", "chamfer"):
            self.page.get_by_role("radio", name=name, exact=True).click()
            expect(self.recipe()).to_contain_text(name)
        self.assertEqual(self.form(ident)["bevel"]["profile"], "chamfer")

    def test_the_free_curve_is_edited_point_by_point(self) -> None:
        ident = self.open_form()
        self.page.get_by_role("radio", name="curve", exact=True).click()
        editor = self.page.get_by_role("group", name="Free curve")
        expect(editor.get_by_role("slider")).to_have_count(2)
        point = editor.get_by_role("slider", name="Curve point 1")
        point.focus()
        point.press("Shift+ArrowUp")
        expect(point).to_have_attribute("aria-valuenow", "25")
        box = editor.bounding_box()
        assert box
        self.page.mouse.dblclick(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(editor.get_by_role("slider")).to_have_count(3)
        point = editor.get_by_role("slider", name="Curve point 2")
        point.focus()
        point.press("Delete")
        expect(editor.get_by_role("slider")).to_have_count(2)
        self.assertEqual(self.form(ident)["bevel"]["curve"][0], [0.35, 0.25])

    def test_ridge_cushion_outset_and_corners_are_switches(self) -> None:
        ident = self.open_form()
        self.page.get_by_role("checkbox", name="to the ridge").click()
        expect(self.recipe()).to_contain_text("ridge × 8")
        self.page.get_by_role("checkbox", name="cushion").click()
        expect(self.recipe()).to_contain_text("cushion")
        self.page.get_by_role("radio", name="outset").click()
        self.page.get_by_role("radio", name="rounded").click()
        expect(self.recipe()).to_contain_text("outset")
        self.wait_for_document(ident, "document.blocks[0].form.bevel.corner === 'rounded'")

    def test_letters_become_rims_tubes_and_cuts_and_stay_retypable(self) -> None:
        ident = self.open_form()
        for choice, expected in (("rim", "rim 12"), ("tube", "tube 20"), ("solid", "60 deep")):
            before, pixels = self.revision_shown(), self.pixels()
            self.page.get_by_role("radio", name=choice, exact=True).click()
            expect(self.recipe()).to_contain_text(expected)
            self.wait_for_revision_after(before)
            self.assertTrue(self.pixels() != pixels, choice)
        for choice, expected in (
            ("raised", "raised"),
            ("v-cut", "V-cut 90°"),
            ("flat-cut", "cut 20 deep"),
            ("free", "60 deep"),
        ):
            self.page.get_by_role("radio", name=choice, exact=True).click()
            expect(self.recipe()).to_contain_text(expected)
        self.page.get_by_role("radio", name="v-cut").click()
        self.station("Set")
        self.page.get_by_label("Words", exact=True).fill("Oar")
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("Oar")
        self.assertEqual(self.form(ident)["stands"], "v-cut")

    def test_plates_runs_and_holes_are_added_and_removed(self) -> None:
        ident = self.open_form()
        self.page.get_by_role("button", name="Plates").click()
        self.page.get_by_role("button", name="Add a plate").click()
        expect(self.recipe()).to_contain_text("1 plate")
        self.page.get_by_role("button", name="Add a plate").click()
        expect(self.recipe()).to_contain_text("2 plates")
        self.assertEqual([plate["distance"] for plate in self.form(ident)["plates"]], [16, 32])
        self.page.get_by_label("Plate 1", exact=True).get_by_role("button", name="Remove").click()
        expect(self.recipe()).to_contain_text("1 plate")
        self.page.get_by_role("button", name="Run straight").click()
        self.page.get_by_role("button", name="Add a point").click()
        expect(self.recipe()).to_contain_text("run through 1 point")
        self.page.get_by_role("button", name="Drilled holes none").click()
        self.page.get_by_role("button", name="Bore holes").click()
        expect(self.page.get_by_role("button", name="Drilled holes 12")).to_be_visible()
        self.page.get_by_role("button", name="Remove the holes").click()
        expect(self.page.get_by_role("button", name="Drilled holes none")).to_be_visible()

    def test_a_kerf_is_drawn_across_the_letters_and_its_points_move(self) -> None:
        ident = self.open_form()
        self.page.get_by_role("button", name="Kerf cuts none").click()
        self.page.get_by_role("button", name="Draw a kerf").click()
        before, pixels = self.revision_shown(), self.pixels()
        for place in ((0.1, 0.5), (0.9, 0.9), (0.9, 0.45)):
            self.page.mouse.click(*self.on_stage(*place))
        self.page.keyboard.press("Backspace")
        self.page.mouse.click(*self.on_stage(0.9, 0.5))
        self.page.keyboard.press("Backspace")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("button", name="Kerf cuts 1")).to_be_visible()
        points = self.form(ident)["kerfs"][0]["points"]
        # The canvas is 320 × 180 px, seen head on: shares of it are px from its middle.
        for point, (x, y) in zip(points, ((0.1, 0.5), (0.9, 0.9)), strict=True):
            self.assertAlmostEqual(point["x"], (x - 0.5) * 320, delta=1)
            self.assertAlmostEqual(point["y"], (0.5 - y) * 180, delta=1)
        self.wait_for_revision_after(before)
        self.assertTrue(self.pixels() != pixels, "the picture is another one")
        end = self.page.get_by_role("button", name="Kerf 1, point 2")
        end.focus()
        end.press("Shift+ArrowUp")
        self.wait_for_document(ident, "Math.abs(document.blocks[0].form.kerfs[0].points[1].y + 62) < 1.1")
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("button", name="Kerf cuts none")).to_be_visible()

    def test_strokes_are_drawn_by_points_and_freehand(self) -> None:
        ident = self.open_new()
        self.page.locator("[data-part=block-name]").click()
        self.page.get_by_role("menuitem", name="Draw a stroke by points").click()
        expect(self.page.locator("[data-part=tool-hint]")).to_be_visible()
        self.page.mouse.click(*self.on_stage(0.2, 0.8))
        self.page.mouse.move(*self.on_stage(0.6, 0.8))
        self.page.mouse.down()
        self.page.mouse.move(*self.on_stage(0.7, 0.7))
        self.page.mouse.up()
        self.page.keyboard.press("Enter")
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Set")).to_contain_text("1 more")
        stroke = self.document(ident)["blocks"][1]["strokes"][0]
        self.assertAlmostEqual(stroke["points"][1]["out_x"], 0.1 * 320, delta=1)
        self.assertEqual(self.form(ident, 1)["kind"], "tube")
        self.page.get_by_role("button", name="Freehand").click()
        self.page.mouse.move(*self.on_stage(0.1, 0.2))
        self.page.mouse.down()
        for k in range(1, 40):
            self.page.mouse.move(*self.on_stage(0.1 + k / 50, 0.2 + 0.06 * math.sin(k / 4)))
        self.page.mouse.up()
        expect(self.page.get_by_role("heading", name="Stroke 2")).to_be_visible()
        drawn = self.document(ident)["blocks"][1]["strokes"]
        self.assertEqual(len(drawn), 2)
        self.assertGreater(len(drawn[1]["points"]), 10)
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("heading", name="Stroke 2")).to_have_count(0)

    def test_escape_leaves_a_line_undrawn(self) -> None:
        ident = self.open_form()
        self.page.get_by_role("button", name="Kerf cuts none").click()
        self.page.get_by_role("button", name="Draw a kerf").click()
        self.page.mouse.click(*self.on_stage(0.1, 0.5))
        self.page.keyboard.press("Escape")
        expect(self.page.locator("[data-part=tool-hint]")).to_have_count(0)
        self.assertEqual(self.form(ident)["kerfs"], [])

    def test_shapes_are_added_shown_and_removed(self) -> None:
        ident = self.open_new()
        self.page.locator("[data-part=block-name]").click()
        self.page.get_by_role("menuitem", name="Add a shape").click()
        self.page.get_by_role("radio", name="polygon").click()
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("polygon")
        self.page.get_by_label("Sides", exact=True).fill("7")
        self.page.get_by_label("Sides", exact=True).press("Enter")
        self.wait_for_document(ident, "document.blocks[1].sides === 7")
        self.page.locator("[data-part=block-name]").click()
        self.page.get_by_role("menuitem", name="Remove this block").click()
        expect(self.page.locator("[data-part=block-name]")).to_contain_text("Quay")
        self.wait_for_document(ident, "document.blocks.length === 1")

    def test_advice_offers_the_one_act_that_helps(self) -> None:
        ident = self.open_form()
        width = self.page.get_by_label("Bevel width", exact=True)
        width.fill("30")
        width.press("Enter")
        advice = self.page.locator("[data-part=advice]")
        expect(advice).to_contain_text("becomes a ridge there")
        advice.get_by_role("button").click()
        expect(self.page.locator("[data-part=advice]")).to_have_count(0)
        self.assertLess(self.form(ident)["bevel"]["width"], 15)

    def test_letters_over_the_slab_are_explained_on_the_stage(self) -> None:
        form = {"stands": "v-cut", "slab": {"width": 300, "height": 150, "bevel": {"width": 2, "height": 2}}}
        self.open_new(blocks=[{"words": "Quay", "size": 80, "form": form}])
        self.station("Form")
        width = self.page.get_by_label("Slab width", exact=True)
        width.fill("60")
        width.press("Enter")
        expect(self.page.locator("[data-part=notice]")).to_contain_text("more margin")
        # The numbers are kept all the same, and a larger slab brings the picture back.
        width.fill("280")
        width.press("Enter")
        expect(self.page.locator("[data-part=notice]")).to_have_count(0)

    def test_an_older_picture_does_not_take_back_why_there_is_none(self) -> None:
        form = {"stands": "v-cut", "slab": {"width": 300, "height": 150, "bevel": {"width": 2, "height": 2}}}
        self.open_new(blocks=[{"words": "Quay", "size": 80, "form": form}])
        self.station("Form")
        # From now on pictures take two seconds to be decoded.
        self.page.evaluate(
            """() => {
                const decode = window.createImageBitmap;
                window.begun = window.decoded = 0;
                window.createImageBitmap = async (...all) => {
                    window.begun += 1;
                    await new Promise(done => setTimeout(done, 2000));
                    window.decoded += 1;
                    return decode(...all);
                };
            }"""
        )
        width = self.page.get_by_label("Slab width", exact=True)
        for entered in ("290", "60"):
            width.fill(entered)
            width.press("Enter")
            expect(self.page.get_by_role("status", name="Last edit")).to_contain_text(f"{entered} px")
            # There is an older picture, however slow the machine.
            self.page.wait_for_function("() => window.begun > 0")
        notice = self.page.locator("[data-part=notice]")
        expect(notice).to_contain_text("more margin")
        self.page.wait_for_function("() => window.decoded > 0")
        self.page.wait_for_timeout(200)
        expect(notice).to_contain_text("more margin")

    def test_bad_numbers_are_explained_at_the_field(self) -> None:
        self.open_form()
        depth = self.page.get_by_label("Depth", exact=True)
        depth.fill("-4")
        depth.press("Enter")
        expect(self.page.locator("[data-part=fault]")).to_contain_text("greater than or equal to 0.0001")


if __name__ == "__main__":
    unittest.main()
