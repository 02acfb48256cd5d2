"""Backdrop and the handles of Finish in a real browser."""

from playwright.sync_api import Route, expect

from tests.browser.workshop import WorkshopTest

SMALL = [{"words": "i", "size": 60, "surface": {"face": {"kind": "metal"}}}]


class BackdropTest(WorkshopTest):
    def test_a_usual_backdrop_is_taken_and_undone(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Backdrop")
        self.page.get_by_role("button", name="wet floor").click()
        self.wait_for_document(ident, "document.backdrop.ground === 'floor' && document.backdrop.reflection")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, "document.backdrop.ground === 'wall' && !document.backdrop.reflection")

    def test_a_floor_and_its_wall_are_made_of_materials(self) -> None:
        ident = self.open_new(blocks=SMALL, backdrop={"ground": "floor"})
        self.station("Backdrop")
        self.page.get_by_role("checkbox", name="made of a material").click()
        self.wait_for_document(ident, "document.backdrop.material?.kind === 'metal'")
        self.page.locator("[data-part=fold]", has_text="Material of the ground").click()
        self.page.get_by_role("button", name="wood", exact=True).click()
        self.wait_for_document(ident, "document.backdrop.material?.kind === 'wood'")
        # No light goes through a ground.
        expect(self.page.get_by_role("button", name="glass", exact=True)).to_have_count(0)
        self.page.get_by_role("checkbox", name="wall of another material").click()
        self.wait_for_document(ident, "document.backdrop.wall?.kind === 'metal'")
        self.page.get_by_role("checkbox", name="made of a material").click()
        self.wait_for_document(ident, "document.backdrop.material === null")

    def test_controls_wait_for_what_the_workshop_offers(self) -> None:
        """Ticked too early, a ground would be of no material; what comes later would move what is dragged."""
        held: list[Route] = []

        def held_back(asked: Route) -> None:
            held.append(asked)

        self.page.route("**/api/workshop", held_back)
        ident = self.open_new(blocks=SMALL)
        self.station("Backdrop")
        made = self.page.get_by_role("checkbox", name="made of a material")
        self.page.wait_for_timeout(500)
        expect(made).to_have_count(0)
        for asked in held:
            asked.continue_()
        made.click()
        self.wait_for_document(ident, "document.backdrop.material?.kind === 'metal'")

    def test_shade_is_changed_and_left_out_by_the_block(self) -> None:
        ident = self.open_new(blocks=SMALL)
        self.station("Backdrop")
        self.page.locator("[data-part=fold]", has_text="Shade of the letters").click()
        density = self.page.get_by_role("textbox", name="Cast shade")
        density.fill("40")
        density.press("Enter")
        self.wait_for_document(ident, "document.backdrop.shade.density === 40")
        self.page.get_by_role("checkbox", name="i", exact=True).click()
        self.wait_for_document(ident, "document.blocks[0].shades_ground === false")

    def test_a_mesh_is_moved_on_the_stage(self) -> None:
        backdrop = {"ground": "none", "colour": {"base": "#203040", "layers": [{"kind": "mesh"}]}}
        ident = self.open_new(blocks=SMALL, backdrop=backdrop)
        self.station("Backdrop")
        layer = "document.backdrop.colour.layers[0]"
        handle = self.page.get_by_role("button", name="Point 1 of the mesh. Arrow keys move it.")
        handle.focus()
        self.page.keyboard.press("ArrowDown")
        self.wait_for_document(ident, f"{layer}.points[0].y < 100")
        box = handle.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 80, box["y"] + 60, steps=4)
        self.page.mouse.up()
        self.wait_for_document(ident, f"{layer}.points[0].x > 3 && {layer}.points[0].y < 98")
        self.page.get_by_role("button", name="Add point in the middle").click()
        self.wait_for_document(ident, f"{layer}.points.length === 5 && {layer}.points[4].x === 50")

    def test_a_picture_is_moved_on_the_stage(self) -> None:
        picture = {"kind": "picture", "span": "canvas"}
        ident = self.open_new(blocks=SMALL, backdrop={"colour": {"base": "#203040", "layers": [picture]}})
        self.station("Backdrop")
        handle = self.page.get_by_role("button", name="Where the picture of the backdrop lies")
        handle.focus()
        self.page.keyboard.press("Shift+ArrowRight")
        self.wait_for_document(ident, "document.backdrop.colour.layers[0].x > 0")
        # A wall's layers lie over the canvas or over the wall itself.
        self.page.get_by_role("radio", name="surface").click()
        self.wait_for_document(ident, "document.backdrop.colour.layers[0].span === 'surface'")
        expect(self.page.get_by_role("button", name="Where the picture of the backdrop lies")).to_have_count(
            0
        )


class FinishHandlesTest(WorkshopTest):
    def test_an_effect_works_on_what_is_chosen(self) -> None:
        ident = self.open_new(
            blocks=[*SMALL, {"id": "other", "words": "o", "size": 40}], finish=[{"kind": "tone"}]
        )
        self.station("Finish")
        self.page.get_by_role("combobox", name="Works on").click()
        self.page.get_by_role("option", name="“o”").click()
        self.wait_for_document(ident, "document.finish[0].target === 'block:other'")

    def test_a_vignette_is_moved_on_the_stage(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "vignette"}])
        self.station("Finish")
        self.page.get_by_role("button", name="Middle of the vignette. Arrow keys move it.").focus()
        self.page.keyboard.press("Shift+ArrowLeft")
        self.wait_for_document(ident, "document.finish[0].x < 0")
        self.page.get_by_role("button", name="Where the vignette begins. Arrow keys move it.").focus()
        self.page.keyboard.press("Shift+ArrowRight")
        self.wait_for_document(ident, "document.finish[0].radius > 70")

    def test_a_curve_is_drawn_and_its_points_are_moved(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "tone"}])
        self.station("Finish")
        middle = self.page.get_by_role("button", name="What 50 % becomes. Arrow keys move it.")
        middle.focus()
        self.page.keyboard.press("Shift+ArrowUp")
        self.wait_for_document(ident, "document.finish[0].at_50 === 60")
        box = middle.bounding_box()
        assert box
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 40, steps=3)
        self.page.mouse.up()
        self.wait_for_document(ident, "document.finish[0].at_50 < 50")

    def test_the_edge_of_gloss_is_moved_on_the_stage(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "gloss"}])
        self.station("Finish")
        self.page.get_by_role("button", name="Edge of the gloss. Arrow keys move it.").focus()
        self.page.keyboard.press("Shift+ArrowDown")
        self.wait_for_document(ident, "document.finish[0].height > 50")

    def test_effects_are_dragged_and_keyed_to_another_place(self) -> None:
        kinds = "document.finish.map(e => e.kind).join()"
        ident = self.open_new(blocks=SMALL, finish=[{"kind": kind} for kind in ("bloom", "tone", "grain")])
        self.station("Finish")
        rows = self.page.get_by_role("list", name="Effects in their order").get_by_role("button")
        first, last = rows.nth(0).bounding_box(), rows.nth(2).bounding_box()
        assert first and last
        x = first["x"] + first["width"] / 2
        self.page.mouse.move(x, first["y"] + first["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(x, last["y"] + last["height"] / 2, steps=5)
        self.page.mouse.up()
        self.wait_for_document(ident, f"{kinds} === 'tone,grain,bloom'")
        expect(rows.nth(2)).to_have_attribute("aria-pressed", "true")
        rows.nth(2).press("Alt+ArrowUp")
        self.wait_for_document(ident, f"{kinds} === 'tone,bloom,grain'")

    def test_a_star_is_placed_by_a_click(self) -> None:
        ident = self.open_new(blocks=SMALL, finish=[{"kind": "glints"}])
        self.station("Finish")
        self.page.get_by_role("button", name="Place one on the stage").click()
        self.page.keyboard.press("Enter")
        spots = "document.finish[0].spots"
        self.wait_for_document(ident, f"{spots}.length === 1 && Math.abs({spots}[0].x - 50) < 0.1")
        self.page.get_by_role("button", name="Star 1. Arrow keys move it.").focus()
        self.page.keyboard.press("ArrowUp")
        self.wait_for_document(ident, f"{spots}[0].y > 50")
        self.page.get_by_role("group", name="Spot 1 of 1").get_by_role("button", name="Remove").click()
        self.wait_for_document(ident, f"{spots}.length === 0")

    def test_small_drawings_show_before_and_after(self) -> None:
        """Of a vignette that covers all, the right half is black and the left is not."""
        black = {"kind": "vignette", "strength": 100, "radius": 0, "softness": 0}
        ident = self.open_new(blocks=SMALL, backdrop={"colour": "#c0c0c0"}, finish=[black])
        answer = self.page.request.get(f"{self.server.address}/api/pieces/{ident}/finish/0")
        self.assertEqual((answer.status, answer.headers["content-type"]), (200, "image/webp"))
        sides = self.page.evaluate(
            """async (address) => {
              const image = await createImageBitmap(await (await fetch(address)).blob());
              const canvas = new OffscreenCanvas(image.width, image.height).getContext("2d");
              canvas.drawImage(image, 0, 0);
              return [0.1, 0.9].map((x) => canvas.getImageData(x * image.width, 4, 1, 1).data[0]);
            }""",
            f"/api/pieces/{ident}/finish/0",
        )
        self.assertGreater(sides[0], 40)
        self.assertLess(sides[1], 8)
        gone = self.page.request.get(f"{self.server.address}/api/pieces/{ident}/finish/7")
        self.assertEqual(gone.status, 422)
        self.assertIn("there is no effect 7", gone.json()["detail"])
