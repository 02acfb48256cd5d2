"""The screen as a whole: nothing leaves its place, menus under the pointer, messages with a way back, the
width of the panel, and looking closer."""

from playwright.sync_api import expect

from tests.browser.layout import FAULTS, OPEN_ALL, WIDE_TEXT
from tests.browser.workshop import WorkshopTest

STATIONS = ("Set", "Form", "View", "Light", "Surface", "Backdrop", "Finish", "Export")
# The narrowest is a window of 1280 px at 200 %.
WIDTHS = (640, 1024, 1280, 1440, 1920)
TWO = [
    {"id": "quay", "words": "Quay", "size": 60},
    {"id": "star", "kind": "shape", "width": 40, "height": 40},
]


class ScreenTest(WorkshopTest):
    def test_nothing_leaves_its_place(self) -> None:
        """On every station with all folds open, at every width, and with longer words."""
        self.open_page()
        for text in ("usual", "wide"):
            if text == "wide":
                self.page.add_style_tag(content=WIDE_TEXT)
            for width in WIDTHS:
                self.page.set_viewport_size({"width": width, "height": 800})
                for station in STATIONS:
                    with self.subTest(text=text, width=width, station=station):
                        self.station(station)
                        expect(self.page.locator("[data-part=panel] h2")).to_have_text(station)
                        self.page.evaluate(OPEN_ALL)
                        self.page.wait_for_timeout(100)
                        self.assertEqual(self.page.evaluate(FAULTS), [])

    def test_the_menu_of_a_block_and_the_way_back(self) -> None:
        ident = self.open_new(blocks=TWO)
        self.page.locator("[data-part=block-frame]").last.click(button="right")
        self.page.get_by_role("menuitem", name="Duplicate this block").click()
        self.wait_for_document(ident, "document.blocks.length === 3")
        self.page.locator("[data-part=block-frame]").last.click(button="right")
        self.page.get_by_role("menuitem", name="Remove this block").click()
        self.wait_for_document(ident, "document.blocks.length === 2")
        self.page.get_by_role("button", name="Undo", exact=True).last.click()
        self.wait_for_document(ident, "document.blocks.length === 3")

    def test_the_menu_of_a_lamp(self) -> None:
        ident = self.open_new()
        self.station("Light")
        self.page.locator("[data-part=schedule] tbody button").first.click(button="right")
        self.page.get_by_role("menuitem", name="Switch off").click()
        self.wait_for_document(ident, "document.light.lamps[0].on === false")

    def test_the_panel_is_made_wider_and_stays_so(self) -> None:
        self.open_page()
        edge = self.page.get_by_role("separator", name="Width of the panel")
        edge.focus()
        edge.press("ArrowLeft")
        self.assertEqual(self.page.locator("[data-part=panel]").bounding_box()["width"], 335)
        box = edge.bounding_box()
        self.page.mouse.move(box["x"] + 4, 400)
        self.page.mouse.down()
        self.page.mouse.move(600, 400, steps=4)
        self.page.mouse.up()
        self.page.reload()
        self.page.locator("canvas[data-seq]").wait_for()
        self.assertEqual(edge.get_attribute("aria-valuenow"), "520")

    def test_numbers_slide_within_their_usual_range(self) -> None:
        ident = self.open_new()
        self.station("Form")
        rule = self.page.locator("[data-field='/blocks/0/form/depth'] [data-part=range]")
        box = rule.bounding_box()
        self.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 4)
        self.wait_for_document(ident, "document.blocks[0].form.depth === 100")
        self.page.keyboard.press("ArrowRight")
        self.wait_for_document(ident, "document.blocks[0].form.depth === 102")

    def test_looking_closer_renders_that_part(self) -> None:
        """The wheel zooms about the pointer; what is under it stays there; the piece does not change."""
        ident = self.open_new(blocks=TWO)
        before = self.document(ident)
        frame = self.page.locator("[data-part=block-frame]").first
        canvas = self.page.locator("canvas").bounding_box()
        self.page.mouse.move(canvas["x"] + canvas["width"] / 2, canvas["y"] + canvas["height"] / 2)
        small = frame.bounding_box()["width"]
        self.page.mouse.wheel(0, -433)
        self.page.wait_for_function("() => Number(document.querySelector('canvas').dataset.zoom) > 1.9")
        self.assertAlmostEqual(frame.bounding_box()["width"] / small, 2, delta=0.05)
        self.page.keyboard.press("0")
        self.page.wait_for_function("() => Number(document.querySelector('canvas').dataset.zoom) === 1")
        self.page.keyboard.press("F2")
        field = self.page.get_by_role("combobox", name="Find a command")
        field.fill("zoom picked")
        field.press("Enter")
        self.page.wait_for_function("() => Number(document.querySelector('canvas').dataset.zoom) > 1")
        self.assertEqual(self.document(ident), before)

    def test_two_fingers_look_closer_and_one_turns(self) -> None:
        ident = self.open_new()
        self.page.close()
        context = self.browser.new_context(viewport={"width": 1280, "height": 800}, has_touch=True)
        self.addCleanup(context.close)
        self.page = context.new_page()
        self.open_page(f"/piece/{ident}")
        self.station("View")
        session = context.new_cdp_session(self.page)
        box = self.page.locator("canvas").bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

        def touch(kind: str, *points: tuple[float, float]) -> None:
            touches = [{"x": x + a, "y": y + b, "id": number} for number, (a, b) in enumerate(points)]
            session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": touches})

        before = self.document(ident)
        touch("touchStart", (-40, 0))
        touch("touchStart", (-40, 0), (40, 0))
        for apart in (60, 90, 120):
            touch("touchMove", (-apart, 0), (apart, 0))
        touch("touchEnd", (-120, 0))
        # The finger that is left of the two turns nothing.
        touch("touchMove", (-30, 0))
        touch("touchEnd")
        self.page.wait_for_function("() => Number(document.querySelector('canvas').dataset.zoom) > 2")
        self.assertEqual(self.document(ident), before)
        touch("touchStart", (0, 0))
        for far in (10, 40, 80):
            touch("touchMove", (far, 0))
        touch("touchEnd")
        self.wait_for_document(ident, "Math.abs(document.view.turn.y - 20) < 1")

    def test_the_picture_alone(self) -> None:
        self.open_page()
        self.page.locator("canvas").focus()
        self.page.keyboard.press("p")
        expect(self.page.locator("[data-part=panel]")).to_have_count(0)
        self.page.keyboard.press("p")
        expect(self.page.locator("[data-part=panel]")).to_have_count(1)
