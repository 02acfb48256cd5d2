"""Finish in a real browser: the stack of effects, and the parts of a material that it can have or not."""

from playwright.sync_api import expect

from tests.browser.workshop import WorkshopTest

SMALL = [{"words": "i", "size": 60, "surface": {"face": {"kind": "metal"}}}]


class FinishTest(WorkshopTest):
    def test_effects_are_added_ordered_switched_and_taken_away(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Finish")
        expect(self.page.get_by_text("Add one below.")).to_be_visible()
        for kind in ("bloom", "vignette", "grain"):
            self.page.get_by_role("button", name=f"Add {kind}").click()
        self.wait_for_document(ident, "document.finish.map(e => e.kind).join() === 'bloom,vignette,grain'")
        expect(self.page.get_by_role("heading", name="Grain")).to_be_visible()
        self.page.get_by_role("button", name="Earlier").click()
        self.wait_for_document(ident, "document.finish.map(e => e.kind).join() === 'bloom,grain,vignette'")
        self.page.get_by_role("checkbox", name="Bloom").click()
        self.wait_for_document(ident, "document.finish[0].on === false")
        self.page.get_by_role("button", name="Remove").click()
        self.wait_for_document(ident, "document.finish.map(e => e.kind).join() === 'bloom,vignette'")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.finish.length === 3")

    def test_numbers_are_typed_and_the_recipe_says_what_is_done(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Finish")
        self.page.get_by_role("button", name="Add halo").click()
        self.wait_for_document(ident, "document.finish.length === 1")
        radius = self.page.get_by_role("textbox", name="Radius")
        radius.fill("12+6")
        radius.press("Enter")
        self.wait_for_document(ident, "document.finish[0].radius === 18")
        expect(self.page.locator("[data-part=recipe-cell]", has_text="Finish")).to_contain_text("halo")

    def test_an_effect_begins_with_a_usual_setting(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "keyline", "on": False}])
        self.station("Finish")
        self.page.get_by_role("button", name="stitches").click()
        self.wait_for_document(ident, "document.finish[0].dash === 10 && document.finish[0].on === false")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.finish[0].dash === 0")

    def test_a_tone_has_a_curve(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "tone"}])
        self.station("Finish")
        middle = self.page.get_by_role("textbox", name="Curve at 50 %")
        middle.fill("62")
        middle.press("Enter")
        self.wait_for_document(ident, "document.finish[0].at_50 === 62")

    def test_a_key_hides_all_effects_while_it_is_held(self) -> None:
        self.open_new(blocks=SMALL, finish=[{"kind": "grain"}])
        self.station("Finish")
        hide, show = (self.page.get_by_role("button", name=name) for name in ("Hide them all", "Show them"))
        expect(hide).to_be_visible()
        self.page.keyboard.down("f")
        expect(show).to_be_visible()
        self.page.wait_for_timeout(500)
        self.page.keyboard.up("f")
        expect(hide).to_be_visible()
        # Pressed briefly, it stays as it was set.
        self.page.keyboard.press("f")
        expect(show).to_be_visible()
        self.page.wait_for_timeout(500)
        expect(show).to_be_visible()

    def test_a_line_along_tones_says_when_there_are_none(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "keyline", "around": "tones"}])
        self.station("Finish")
        note = self.page.get_by_text("There are no graphic tones")
        expect(note).to_be_visible()
        expect(self.page.get_by_label("Width", exact=True)).to_be_visible()
        expect(self.page.get_by_text("Gap of a double line")).to_have_count(0)
        gradient = {"kind": "gradient", "span": "facing"}
        flat = {"kind": "flat", "colour": {"base": "#808080", "layers": [gradient]}}
        self.page.evaluate(
            """async ([ident, value]) => {
              const edits = [{ op: "replace", path: "/blocks/0/surface/face", value }];
              const answer = await fetch(`/api/pieces/${ident}/edits`, {
                method: "POST",
                headers: { "Content-Type": "application/json" },
                body: JSON.stringify({ edits }),
              });
              if (!answer.ok) throw new Error(await answer.text());
            }""",
            [ident, flat],
        )
        expect(note).to_have_count(0)

    def test_the_stage_shows_what_an_effect_does(self) -> None:
        """A vignette that covers all leaves a black picture."""
        vignette = {"kind": "vignette", "strength": 100, "radius": 0, "softness": 0}
        self.open_new(blocks=SMALL, finish=[vignette])
        self.page.wait_for_function(
            "() => { const stage = document.querySelector('canvas'); const at = stage.getContext('2d')"
            ".getImageData(stage.width / 2, stage.height / 2, 1, 1).data; return at[0] + at[1] + at[2] < 6; }"
        )


class MaterialPartsTest(WorkshopTest):
    def test_a_coat_and_embossing_are_had_or_not(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Surface")
        face = "document.blocks[0].surface.face"
        for name in ("coat", "embossing"):
            self.page.get_by_role("checkbox", name=name).click()
            self.wait_for_document(ident, f"{face}.{name} !== null")
        self.page.locator("[data-part=fold]", has_text="Coat").click()
        thickness = self.page.get_by_role("textbox", name="Thickness")
        thickness.fill("150")
        thickness.press("Enter")
        self.wait_for_document(ident, f"{face}.coat.thickness === 150")
        self.page.get_by_role("checkbox", name="coat").click()
        self.wait_for_document(ident, f"{face}.coat === null")

    def test_roughness_follows_the_tones_of_layers(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Surface")
        face = "document.blocks[0].surface.face"
        self.page.get_by_role("button", name="Vary roughness").click()
        self.wait_for_document(ident, f"{face}.roughness.layers?.length === 1")
        light = self.page.get_by_role("textbox", name="Where light")
        light.fill("0.8")
        light.press("Enter")
        self.wait_for_document(ident, f"{face}.roughness.light === 0.8")
        self.page.get_by_role("button", name="The same everywhere").click()
        self.wait_for_document(ident, f"{face}.roughness === 0.05")

    def test_a_block_becomes_a_tile(self) -> None:
        ident = self.open_new(
            blocks=[
                {"words": "i", "size": 60, "surface": {"face": {"kind": "paint", "colour": "#c8402f"}}},
                {"id": "star", "words": "v", "size": 20, "hidden": True},
            ]
        )
        self.station("Surface")
        self.page.get_by_role("button", name="Add tile").click()
        layer = "document.blocks[0].surface.face.colour.layers[0]"
        self.wait_for_document(ident, f"{layer}?.kind === 'tile'")
        self.page.get_by_role("combobox", name="Tile").click()
        self.page.get_by_role("option", name="2: v").click()
        self.wait_for_document(ident, f"{layer}.block === 'star'")
