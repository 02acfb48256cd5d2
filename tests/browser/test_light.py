"""View, Light and Surface in a real browser: the plot, the highlight, surroundings, coupons, projections."""

import re
import tempfile
from pathlib import Path

import numpy as np
import OpenEXR
from playwright.sync_api import WebSocketRoute, expect

from halvex.studio.coupons import COUPONS
from tests.browser.workshop import WorkshopTest

STAGES = """
() => {
  const canvas = document.querySelector("canvas");
  window.stages = [];
  const note = () => window.stages.push(`${canvas.dataset.revision} ${canvas.dataset.stage}`);
  new MutationObserver(note).observe(canvas, { attributes: true });
}
"""


class LightTest(WorkshopTest):
    def lamp(self, ident: str, index: int = 0) -> dict:
        return self.document(ident)["light"]["lamps"][index]

    def test_a_lamp_is_dragged_in_plan_and_elevation_and_undone_in_one_step(self) -> None:
        ident = self.open_new()
        self.station("Light")
        before = self.lamp(ident)
        for plot in ("plan", "elevation"):
            revision = self.revision_shown()
            x, y = self.middle(
                self.page.get_by_role("button", name=f"in {plot}").locator("[data-part=badge]")
            )
            self.page.mouse.move(x, y)
            self.page.mouse.down()
            for step in range(1, 6):
                self.page.mouse.move(x + 4 * step, y + 3 * step)
            self.page.mouse.up()
            self.wait_for_document(ident, f"document.light.lamps[0].bearing !== {before['bearing']}")
            # Passes come only once the hand rests and its last edit is stored.
            self.wait_for_revision_after(revision)
            self.page.locator("canvas[data-stage=pass]").wait_for()
            after = self.lamp(ident)
            self.assertTrue(
                {"bearing", "elevation", "distance"}
                <= {name for name in after if after[name] != before[name]},
                plot,
            )
            self.page.get_by_role("button", name="Undo: Place of key").click()
            self.wait_for_document(ident, f"document.light.lamps[0].bearing === {before['bearing']}")
            self.assertEqual(self.lamp(ident), before)

    def test_arrow_keys_move_a_lamp_in_the_plot(self) -> None:
        ident = self.open_new()
        self.station("Light")
        before = self.lamp(ident)
        self.page.get_by_role("button", name="in elevation").focus()
        self.page.keyboard.press("ArrowUp")
        self.wait_for_document(ident, f"document.light.lamps[0].distance > {before['distance']}")

    def test_a_setup_is_chosen_from_pictures_and_follows_the_piece(self) -> None:
        ident = self.open_new(blocks=[{"words": "Quay", "size": 60}])
        self.station("Light")
        self.page.get_by_role("button", name="Choose a setup").click()
        tile = self.page.get_by_role("button", name="Strip pair")
        expect(tile.locator("img")).to_be_visible()
        tile.click()
        self.wait_for_document(ident, "document.light.setup?.name === 'strip pair'")
        self.page.keyboard.press("Escape")
        cards = self.document(ident)["light"]["surround"]["cards"]
        # Turned, other cards are mirrored: they go where they are needed once the hand rests.
        x, y = self.middle(self.page.locator("canvas"))
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 60, y + 20, steps=5)
        self.page.mouse.up()
        self.wait_for_document(ident, "document.view.turn.y > 5")
        self.page.wait_for_timeout(500)
        after = self.document(ident)["light"]
        self.assertNotEqual(after["surround"]["cards"], cards)
        self.assertTrue(after["setup"]["follows"])
        # A lamp that is moved by hand ends that, and says so.
        self.page.get_by_label("Bearing", exact=True).fill("100")
        self.page.get_by_label("Bearing", exact=True).press("Enter")
        self.wait_for_document(ident, "document.light.setup.follows === false")
        expect(self.page.get_by_role("checkbox", name="follows the piece")).not_to_be_checked()

    def test_each_light_is_seen_alone_and_a_lamp_left_alone(self) -> None:
        lamps = [{"id": "key", "name": "key"}, {"id": "rim", "name": "rim", "bearing": 300}]
        ident = self.open_new(blocks=[{"words": "Quay", "size": 60}], light={"lamps": lamps})
        self.station("Light")
        self.page.get_by_role("button", name="Share of each light").click()
        pictures = self.page.get_by_role("group", name="Share of each light").locator("img")
        expect(pictures).to_have_count(3)
        for number in range(3):
            loaded = "img => img.decode().then(() => img.naturalWidth)"
            self.assertGreater(pictures.nth(number).evaluate(loaded), 100)
        self.page.get_by_role("button", name="rim", exact=True).click()
        self.page.get_by_role("button", name="Only rim").click()
        self.wait_for_document(ident, "document.light.lamps.map(lamp => lamp.on).join() === 'false,true'")
        self.page.get_by_role("button", name="All lamps on").click()
        self.wait_for_document(ident, "document.light.lamps.map(lamp => lamp.on).join() === 'true,true'")

    def test_a_lamp_is_added_where_its_highlight_is_clicked(self) -> None:
        ident = self.open_new(blocks=[{"words": "I", "size": 150}])
        self.station("Light")
        self.page.get_by_role("button", name="Add by highlight").click()
        expect(self.page.locator("[data-part=highlight-cross]")).to_be_visible()
        self.wait_for_document(ident, "document.light.lamps.length === 2")
        self.page.mouse.click(*self.middle(self.page.locator("canvas")))
        self.wait_for_document(ident, "document.light.lamps[1].elevation > 80")
        self.assertEqual(self.lamp(ident)["elevation"], 40)

    def test_parts_are_lit_by_tones(self) -> None:
        ident = self.open_new(blocks=[{"words": "Quay", "size": 60}])
        self.station("Light")
        self.page.get_by_role("button", name="Light by tones").click()
        face = self.page.get_by_role("row", name="face")
        expect(face).to_contain_text("face")
        self.page.get_by_label("Wanted lightness of the face").fill("sixty")
        self.page.get_by_role("button", name="Light it so").click()
        expect(self.page.locator("[data-part=fault]")).to_contain_text("number")
        self.page.get_by_label("Wanted lightness of the face").fill("58")
        self.page.get_by_role("button", name="Light it so").click()
        self.wait_for_document(ident, "document.light.surround.strength !== -1")
        expect(face.get_by_role("cell").first).to_have_text(re.compile("^5[6-9]$|^60$"))

    def test_a_highlight_is_placed_by_a_click_and_by_keys(self) -> None:
        ident = self.open_new(blocks=[{"words": "I", "size": 150}])
        self.station("Light")
        self.page.get_by_role("button", name="Place highlight").click()
        x, y = self.middle(self.page.locator("canvas"))
        self.page.mouse.click(x, y)
        self.wait_for_document(ident, "document.light.lamps[0].elevation > 80")
        lamp = self.lamp(ident)
        # The face looks straight at the camera: to be mirrored in its middle the lamp stands all
        # but before it.
        self.assertGreater(lamp["elevation"], 85)
        expect(self.page.get_by_role("button", name="Undo: Highlight of key placed")).to_be_visible()
        self.page.get_by_role("button", name="Place highlight").click()
        self.page.keyboard.press("ArrowUp")
        self.page.keyboard.press("Enter")
        self.wait_for_document(ident, f"document.light.lamps[0].elevation !== {lamp['elevation']}")

    def test_a_highlight_is_dragged_in_one_step(self) -> None:
        ident = self.open_new(blocks=[{"words": "I", "size": 150}])
        self.station("Light")
        before = self.lamp(ident)
        self.page.get_by_role("button", name="Place highlight").click()
        x, y = self.middle(self.page.locator("canvas"))
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.wait_for_document(ident, "document.light.lamps[0].elevation > 80")
        placed = self.lamp(ident)["elevation"]
        # Beside the letters nothing mirrors the lamp: it stays where it was last.
        self.page.mouse.move(x - 200, y, steps=3)
        expect(self.page.locator("[data-part=notice]")).to_contain_text("point at a letter")
        self.page.mouse.move(x, y - 12, steps=3)
        self.page.mouse.up()
        self.wait_for_document(ident, f"document.light.lamps[0].elevation !== {placed}")
        expect(self.page.locator("[data-part=notice]")).to_have_count(0)
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, f"document.light.lamps[0].elevation === {before['elevation']}")

    def test_a_refusal_that_arrives_late_goes_with_the_change_that_mends_it(self) -> None:
        ident = self.open_new(blocks=[{"words": "I", "size": 150}])
        held: list[tuple[WebSocketRoute, str | bytes]] | None = None

        def connect(window: WebSocketRoute) -> None:
            server = window.connect_to_server()

            def heard(message: str | bytes) -> None:
                if held is None:
                    window.send(message)
                else:
                    held.append((window, message))

            server.on_message(heard)

        self.page.route_web_socket("**/live*", connect)
        self.page.reload()
        self.station("Light")
        self.page.get_by_role("button", name="Place highlight").click()
        before = self.lamp(ident)["elevation"]
        x, y = self.middle(self.page.locator("canvas"))
        self.page.mouse.move(x - 200, y)
        held = []
        self.page.mouse.down()
        while not held:
            self.page.wait_for_timeout(20)
        self.page.mouse.move(x, y - 12)
        self.page.mouse.up()
        late, held = held, None
        for window, message in late:
            window.send(message)
        self.wait_for_document(ident, f"document.light.lamps[0].elevation !== {before}")
        expect(self.page.locator("[data-part=notice]")).to_have_count(0)

    def test_a_click_beside_the_letters_says_what_to_do(self) -> None:
        ident = self.open_new()
        self.station("Light")
        before = self.lamp(ident)
        self.page.get_by_role("button", name="Place highlight").click()
        box = self.page.locator("canvas").bounding_box()
        assert box
        self.page.mouse.click(box["x"] + 4, box["y"] + 4)
        expect(self.page.locator("[data-part=notice]")).to_contain_text("point at a letter")
        self.assertEqual(self.lamp(ident), before)

    def test_a_strength_on_a_finished_picture_needs_no_draft(self) -> None:
        self.open_new(canvas={"width": 96, "height": 54}, blocks=[{"words": "i", "size": 40}])
        self.station("Light")
        self.page.locator("canvas[data-stage=clean]").wait_for(timeout=120_000)
        expect(self.page.locator("[data-part=progress]")).to_contain_text("final after")
        revision = self.revision_shown()
        self.page.evaluate(STAGES)
        self.page.get_by_label("Strength", exact=True).first.press("ArrowUp")
        self.wait_for_revision_after(revision)
        self.page.locator("canvas[data-stage=clean]").wait_for(timeout=120_000)
        stages = [
            entry.split()[1]
            for entry in self.page.evaluate("() => window.stages")
            if int(entry.split()[0]) > revision
        ]
        self.assertNotIn("draft", stages)
        self.assertIn("pass", stages)

    def test_kinds_of_lamp_bring_their_own_numbers(self) -> None:
        ident = self.open_new()
        self.station("Light")
        self.page.get_by_role("radio", name="sun").click()
        expect(self.page.get_by_label("Angular size", exact=True)).to_be_visible()
        self.page.get_by_role("radio", name="strip").click()
        self.wait_for_document(ident, "document.light.lamps[0].width < document.light.lamps[0].height")
        self.page.get_by_role("button", name="Aim and options").click()
        self.page.get_by_label("Aim across", exact=True).fill("1 in")
        self.page.keyboard.press("Enter")
        self.wait_for_document(ident, "document.light.lamps[0].aim.x === 96")
        self.page.get_by_role("radio", name="lettering").click()
        self.page.get_by_role("checkbox", name="picked colour").click()
        self.wait_for_document(
            ident,
            "document.light.lamps[0].colour === '#ffffff' && document.light.lamps[0].fixed_to "
            "=== 'lettering'",
        )

    def test_surroundings_are_chosen_by_picture_and_set_by_numbers(self) -> None:
        ident = self.open_new()
        self.station("Light")
        kinds = self.page.get_by_role("group", name="Kind of surroundings")
        for kind, label in (
            ("horizon", "Break height"),
            ("dusk", "Sunset bearing"),
            ("studio", "Floor to ceiling"),
        ):
            kinds.get_by_role("button", name=kind).click()
            expect(self.page.get_by_label(label, exact=True)).to_be_visible()
            self.assertEqual(self.document(ident)["light"]["surround"]["kind"], kind)
        self.page.get_by_role("button", name="Cards").click()
        self.page.get_by_role("button", name="Add a card").click()
        self.wait_for_document(ident, "document.light.surround.cards.length === 4")

    def test_a_panorama_of_ones_own_is_brought_and_a_broken_one_refused(self) -> None:
        ident = self.open_new()
        self.station("Light")
        self.page.get_by_role("group", name="Kind of surroundings").get_by_role(
            "button", name="panorama"
        ).click()
        chooser = self.page.locator("input[type=file]")
        with tempfile.TemporaryDirectory() as folder:
            broken, good = Path(folder) / "fog.hdr", Path(folder) / "Old Mole.exr"
            broken.write_bytes(b"#?RADIANCE\n\nno size")
            picture = np.random.default_rng(1).uniform(0, 2, (32, 64, 3)).astype(np.float32)
            with OpenEXR.File(
                {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}, {"RGB": picture}
            ) as exr:
                exr.write(str(good))
            chooser.set_input_files(broken)
            expect(self.page.locator("[data-part=notice]")).to_contain_text("no size")
            chooser.set_input_files(good)
            self.wait_for_document(ident, "document.light.surround.picture === 'old-mole'")
        expect(
            self.page.get_by_role("group", name="Panorama").get_by_role("button", name="old-mole")
        ).to_be_visible()


class SurfaceTest(WorkshopTest):
    def test_every_coupon_can_be_had_for_a_part(self) -> None:
        ident = self.open_new()
        self.station("Surface")
        self.page.get_by_role("list", name="Parts").get_by_role("button", name="bevel gold").click()
        expect(self.page.locator("[data-part=panel]")).to_contain_text("As the face")
        for family in dict.fromkeys(coupon.family for coupon in COUPONS.values()):
            self.page.get_by_role("group", name="Kind of material").get_by_role(
                "button", name=family, exact=True
            ).click()
            name = [coupon.name for coupon in COUPONS.values() if coupon.family == family][-1]
            button = self.page.get_by_role("group", name="Coupons").get_by_role(
                "button", name=name, exact=True
            )
            button.click()
            expect(button).to_have_attribute("aria-pressed", "true")
            expect(button.locator("img")).to_be_visible()
            self.assertEqual(
                self.document(ident)["blocks"][0]["surface"]["bevel"],
                COUPONS[name].material.model_dump(mode="json"),
            )
        self.page.get_by_role("button", name="As face").click()
        self.wait_for_document(ident, "document.blocks[0].surface.bevel === null")

    def test_glass_has_an_inner_layer_and_numbers_are_typed(self) -> None:
        ident = self.open_new(blocks=[{"words": "I", "size": 100, "surface": {"face": {"kind": "glass"}}}])
        self.station("Surface")
        self.page.get_by_label("Abbe number", exact=True).fill("35")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("checkbox", name="inner layer").click()
        self.page.get_by_role("button", name="Inner layer plain").click()
        self.page.get_by_role("radio", name="stripes").click()
        self.wait_for_document(
            ident,
            "document.blocks[0].surface.face.abbe === 35 && "
            "document.blocks[0].surface.face.layer.pattern === 'stripes'",
        )
        self.page.get_by_label("Index", exact=True).fill("0.5")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_label("Index", exact=True)).to_have_attribute("aria-invalid", "true")


class ViewTest(WorkshopTest):
    def test_named_projections(self) -> None:
        ident = self.open_new()
        self.station("View")
        for name, projection, said in (
            ("cabinet", "oblique", "cabinet"),
            ("dimetric", "parallel", "dimetric"),
            ("floor", "parallel", "isometric"),
        ):
            button = self.page.locator("[data-part=projections]").get_by_role("button", name=name)
            button.click()
            expect(button).to_have_attribute("aria-pressed", "true")
            expect(self.page.locator("[data-part=recipe-cell]", has_text="View")).to_contain_text(said)
            self.assertEqual(self.document(ident)["view"]["projection"], projection)

    def test_framing_and_depth_of_field(self) -> None:
        ident = self.open_new()
        self.station("View")
        before, pixels = self.revision_shown(), self.pixels()
        self.page.get_by_role("button", name="Framing").click()
        self.page.get_by_label("Shift across", exact=True).fill("60")
        self.page.keyboard.press("Enter")
        self.wait_for_revision_after(before)
        self.assertTrue(self.pixels() != pixels)
        self.page.get_by_role("button", name="Depth of field").click()
        self.page.get_by_label("Aperture", exact=True).fill("2.8")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("button", name="Depth of field")).to_contain_text("blur")
        self.page.get_by_role("radio", name="oblique").click()
        expect(self.page.get_by_label("Receding scale", exact=True)).to_be_visible()
        self.wait_for_document(
            ident, "document.view.projection === 'oblique' && document.view.shift_x === 60"
        )
