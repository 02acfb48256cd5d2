"""Sources in a real browser: the bar of gradients, patterns, pictures, and gradients against Chromium's
own."""

import io
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from playwright.sync_api import expect
from scipy.ndimage import binary_erosion

from halvex.core.assets import SHIPPED, Assets
from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.render_piece import render_piece
from halvex.core.lettering.svg import read_svg
from halvex.core.piece.reading import piece_from_values
from tests.browser.workshop import WorkshopTest

# Opaque: ours are laid over what is below in linear light, those of the web in encoded sRGB.
STOPS = [
    {"at": 0, "colour": "#12306e"},
    {"at": 35, "colour": "#e8d040"},
    {"at": 80, "colour": "#c02860"},
]
CSS_STOPS = "#12306e 0%, #e8d040 35%, #c02860 80%"
PAINT = {"kind": "paint", "colour": "#c8402f"}


class SourceTest(WorkshopTest):
    def first_layer(self, ident: str) -> dict:
        return self.document(ident)["blocks"][0]["surface"]["face"]["colour"]["layers"][0]

    def open_with_gradient(self) -> str:
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": {"face": PAINT}}])
        self.station("Surface")
        self.page.get_by_role("button", name="Add gradient").click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.colour.layers?.length === 1")
        return ident

    def test_stops_are_added_moved_and_taken_away(self) -> None:
        ident = self.open_with_gradient()
        self.assertEqual(self.first_layer(ident)["stops"][0]["colour"], "#c8402f")
        bar = self.page.locator("[data-part=gradient-bar]")
        bar.scroll_into_view_if_needed()
        box = bar.bounding_box()
        assert box
        self.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 5)
        layers = "document.blocks[0].surface.face.colour.layers"
        self.wait_for_document(ident, f"{layers}[0].stops.length === 3")
        self.assertAlmostEqual(self.first_layer(ident)["stops"][1]["at"], 50, delta=1)
        middle = self.page.get_by_role("slider", name="Stop 2")
        middle.focus()
        before = self.first_layer(ident)["stops"][1]["at"]
        self.page.keyboard.press("ArrowRight")
        self.page.keyboard.press("Shift+ArrowRight")
        self.wait_for_document(ident, f"{layers}[0].stops[1].at === {before + 11}")
        x, y = self.middle(middle)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        # It stays between its neighbours.
        self.page.mouse.move(x + 600, y, steps=4)
        self.page.mouse.up()
        self.wait_for_document(ident, f"{layers}[0].stops[1].at === 100")
        self.page.keyboard.press("Control+z")
        self.wait_for_document(ident, f"{layers}[0].stops[1].at === {before + 11}")
        middle.focus()
        self.page.keyboard.press("Delete")
        self.wait_for_document(ident, f"{layers}[0].stops.length === 2")

    def test_layers_are_added_raised_and_removed_down_to_a_plain_colour(self) -> None:
        ident = self.open_with_gradient()
        self.page.get_by_role("button", name="Add gradient").click()
        layers = "document.blocks[0].surface.face.colour.layers"
        self.wait_for_document(ident, f"{layers}.length === 2")
        self.page.get_by_role("button", name="Raise").click()
        self.wait_for_document(ident, f"{layers}[1].stops[0].colour === '#c8402f'")
        self.page.get_by_role("button", name="Remove", exact=True).first.click()
        self.wait_for_document(ident, f"{layers}.length === 1")
        self.page.get_by_role("button", name="Remove", exact=True).click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.colour === '#c8402f'")
        expect(self.page.get_by_role("button", name="Add gradient")).to_be_visible()

    def test_a_gradients_line_is_moved_on_the_stage(self) -> None:
        ident = self.open_with_gradient()
        begins = self.page.get_by_role("button", name="Where the gradient of the face begins")
        ends = self.page.get_by_role("button", name="Where the gradient of the face ends")
        self.assertEqual(self.first_layer(ident)["bearing"], 270)
        x, y = self.middle(ends)
        start = self.middle(begins)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(start[0] + 120, start[1], steps=5)
        self.page.mouse.up()
        layers = "document.blocks[0].surface.face.colour.layers"
        self.wait_for_document(ident, f"{layers}[0].bearing < 20 || {layers}[0].bearing > 340")
        np.testing.assert_allclose(self.middle(begins), start, atol=2)
        np.testing.assert_allclose(self.middle(ends), (start[0] + 120, start[1]), atol=2)
        before = self.first_layer(ident)["scale"]
        ends.focus()
        self.page.keyboard.press("Shift+ArrowRight")
        self.wait_for_document(ident, f"{layers}[0].scale > {before}")

    def test_a_pattern_is_chosen_from_coupons_and_given_paints(self) -> None:
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": {"face": PAINT}}])
        self.station("Surface")
        self.page.get_by_role("button", name="Add pattern").click()
        layer = "document.blocks[0].surface.face.colour.layers?.[0]"
        self.wait_for_document(ident, f"{layer}?.kind === 'pattern'")
        coupons = self.page.get_by_role("group", name="Pattern", exact=True)
        expect(coupons.get_by_role("button")).to_have_count(12)
        expect(coupons.locator("img").first).to_be_visible()
        coupons.get_by_role("button", name="bricks").click()
        self.wait_for_document(ident, f"{layer}.pattern === 'bricks'")
        # Only what bricks have is offered.
        expect(self.page.get_by_role("textbox", name="Jitter of tone")).to_be_visible()
        expect(self.page.get_by_role("textbox", name="Points")).to_have_count(0)
        self.page.get_by_role("button", name="Add paint").click()
        self.wait_for_document(ident, f"{layer}.paints.length === 3")
        third = self.page.get_by_role("group", name="Paint 3 of 3")
        third.get_by_role("textbox", name="Paint 2", exact=True).fill("#123456")
        self.page.keyboard.press("Enter")
        self.wait_for_document(ident, f"{layer}.paints[2].colour === '#123456'")
        self.page.get_by_role("button", name="Remove paint").first.click()
        self.wait_for_document(ident, f"{layer}.paints.length === 2")

    def test_a_picture_is_brought_and_laid(self) -> None:
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": {"face": PAINT}}])
        self.station("Surface")
        self.page.get_by_role("button", name="Add picture to colour").click()
        layer = "document.blocks[0].surface.face.colour.layers?.[0]"
        self.wait_for_document(ident, f"{layer}?.picture === 'harbour'")
        self.page.get_by_label("Picture file").set_input_files(
            {"name": "Blue paper.png", "mimeType": "image/png", "buffer": picture("#2040c0")}
        )
        self.wait_for_document(ident, f"{layer}.picture.startsWith('blue-paper-')")
        pictures = self.page.get_by_role("group", name="Pictures")
        expect(pictures.get_by_role("button", name="blue-paper", pressed=True)).to_be_visible()
        # One that is missing is named, and shown as a checker.
        edit = {"op": "replace", "path": "/blocks/0/surface/face/colour/layers/0/picture", "value": "gone"}
        self.page.evaluate(
            "([id, edit]) => fetch(`/api/pieces/${id}/edits`, {method: 'POST', headers: {'Content-Type': "
            "'application/json'}, body: JSON.stringify({edits: [edit]})})",
            [ident, edit],
        )
        expect(self.page.get_by_text("The picture is missing")).to_be_visible()

    def test_files_that_are_dropped_are_laid_opened_or_refused(self) -> None:
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": {"face": PAINT}}])
        self.drop("sky.png", picture("#80b0e0"))
        layer = "document.blocks[0].surface.face.colour.layers?.[0]"
        self.wait_for_document(ident, f"{layer}?.picture.startsWith('sky-')")
        bundle = self.page.request.get(f"{self.server.address}/api/pieces/{ident}/bundle").body()
        self.drop("saved.halvex", bundle)
        self.page.wait_for_url(lambda address: ident not in address)
        opened = self.page.url.rsplit("/", 1)[1]
        self.assertEqual(self.first_layer(opened)["picture"], self.first_layer(ident)["picture"])
        self.drop("notes.txt", b"nothing")
        expect(self.page.get_by_text("drop a .halvex piece, an SVG drawing or a picture")).to_be_visible()

    def test_a_colour_becomes_a_paint_that_others_take(self) -> None:
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": {"face": PAINT}}])
        self.station("Surface")
        self.page.get_by_role("button", name="Pick colour").click()
        self.page.get_by_role("button", name="Make it a paint").click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.colour === 'paint:colour'")
        self.page.keyboard.press("Escape")
        self.page.locator("[data-part=fold]", has_text="Paints").click()
        self.page.get_by_role("group", name="Paints").get_by_role("button", name="Colour").click()
        self.page.get_by_role("textbox", name="Name").fill("Rust")
        self.page.keyboard.press("Enter")
        self.wait_for_document(ident, "document.paints[0].name === 'Rust'")
        self.page.get_by_role("button", name="Add its tones").click()
        self.wait_for_document(ident, "document.paints.length === 5")
        self.page.get_by_role("button", name="Darker").click()
        self.wait_for_document(ident, "document.paints[0].colour !== '#c8402f'")
        # On another station: taken from the picker, or by its name.
        self.station("Backdrop")
        self.page.get_by_role("button", name="Pick colour").click()
        self.page.get_by_role("group", name="Take a paint").get_by_role("button", name="Rust return").click()
        self.wait_for_document(ident, "document.backdrop.colour === 'paint:rust-return'")
        self.page.keyboard.press("Escape")
        colour = self.page.get_by_role("textbox", name="Colour", exact=True)
        expect(colour).to_have_value("Rust return")
        for typed, stored in (
            ("rust", "paint:colour"),
            ("teal", "#008080"),
            ("oklch(0.628 0.2577 29.23)", "#ff0000"),
        ):
            colour.fill(typed)
            self.page.keyboard.press("Enter")
            self.wait_for_document(ident, f"document.backdrop.colour === '{stored}'")
        colour.fill("no colour")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_text("“no colour” is no colour; write #rrggbb")).to_be_visible()

    def test_a_source_is_copied_to_another_part_and_dragged_onto_one(self) -> None:
        surface = {"face": PAINT, "bevel": {"kind": "plastic"}, "return": {"kind": "paint"}}
        ident = self.open_new(blocks=[{"words": "i", "size": 60, "surface": surface}])
        self.station("Surface")
        self.page.get_by_role("button", name="Add pattern").click()
        self.wait_for_document(ident, "document.blocks[0].surface.face.colour.layers?.length === 1")
        self.page.get_by_role("button", name="Copy colour").click()
        parts = self.page.get_by_role("list", name="Parts").get_by_role("button")
        face, bevel, side = (parts.nth(number) for number in range(3))
        bevel.click()
        self.page.get_by_role("button", name="Paste into colour").click()
        self.wait_for_document(ident, "document.blocks[0].surface.bevel.colour.layers?.length === 1")
        face.drag_to(side)
        self.wait_for_document(ident, "document.blocks[0].surface.return.colour.layers?.length === 1")
        stored = self.document(ident)["blocks"][0]["surface"]
        self.assertEqual(stored["return"]["colour"], stored["face"]["colour"])
        self.assertEqual((stored["bevel"]["kind"], stored["return"]["kind"]), ("plastic", "paint"))

    def drop(self, name: str, data: bytes) -> None:
        """Drop a file on the window."""
        self.page.evaluate(
            """([name, bytes]) => {
                const given = new DataTransfer();
                given.items.add(new File([new Uint8Array(bytes)], name));
                const how = { dataTransfer: given, bubbles: true, cancelable: true };
                document.body.dispatchEvent(new DragEvent("dragover", how));
                document.body.dispatchEvent(new DragEvent("drop", how));
            }""",
            [name, list(data)],
        )

    def test_colours_are_those_of_the_browsers_own_gradients(self) -> None:
        for mix, space in (("oklab", "oklab"), ("srgb", "srgb"), ("linear", "srgb-linear")):
            for gradient, css, flipped in (
                ({"bearing": 60}, f"linear-gradient(in {space} 30deg, {CSS_STOPS})", False),
                ({"bearing": 200}, f"linear-gradient(in {space} 250deg, {CSS_STOPS})", False),
                (
                    {"shape": "round"},
                    f"radial-gradient(circle farthest-corner in {space}, {CSS_STOPS})",
                    False,
                ),
                (
                    {"shape": "oval"},
                    f"radial-gradient(ellipse farthest-corner in {space}, {CSS_STOPS})",
                    False,
                ),
                (
                    {"bearing": 0, "scale": 50, "x": 25, "repeated": True},
                    f"repeating-linear-gradient(in {space} 90deg, #12306e 50%, #e8d040 67.5%, #c02860 90%)",
                    False,
                ),
                # Ours turns counter-clockwise from the right.
                ({"shape": "conic"}, f"conic-gradient(from 90deg in {space}, {CSS_STOPS})", True),
            ):
                theirs = self.painted(css)
                ours = drawn({"mix": mix, **gradient})
                apart = np.abs(ours - (theirs[::-1] if flipped else theirs)).max(axis=2)
                # Where a gradient begins again, a pixel's width about the break differs.
                self.assertLess(float(np.quantile(apart, 0.97)), 3.5 / 255, f"{mix} {gradient}")

    def test_gradients_of_svg_are_those_of_the_browser(self) -> None:
        stops = "".join(f"<stop offset='{stop['at']}%' stop-color='{stop['colour']}'/>" for stop in STOPS)
        box = "<rect x='0' y='0' width='200' height='100' fill='url(#g)'/>"
        turned = (
            "<g transform='skewX(20) rotate(15 100 50)'>"
            "<rect x='40' y='20' width='90' height='50' fill='url(#g)'/></g>"
        )
        for gradient, drawing in (
            ("<linearGradient id='g'>{}</linearGradient>", box),
            ("<linearGradient id='g' x1='20%' y1='10%' x2='70%' y2='90%'>{}</linearGradient>", box),
            (
                "<linearGradient id='g' gradientUnits='userSpaceOnUse' x1='50' y1='80' x2='120' y2='20'>{}"
                "</linearGradient>",
                box,
            ),
            ("<linearGradient id='g' gradientTransform='rotate(30)'>{}</linearGradient>", turned),
            ("<linearGradient id='g' x2='40%' spreadMethod='reflect'>{}</linearGradient>", box),
            ("<linearGradient id='g' x2='40%' spreadMethod='repeat'>{}</linearGradient>", box),
            ("<radialGradient id='g'>{}</radialGradient>", box),
            (
                "<radialGradient id='g' gradientUnits='userSpaceOnUse' cx='70' cy='40' r='90'>{}"
                "</radialGradient>",
                box,
            ),
            (
                "<linearGradient id='h'>{}</linearGradient>"
                "<radialGradient id='g' href='#h' cx='30%' r='60%'/>",
                box,
            ),
        ):
            svg = (
                "<svg xmlns='http://www.w3.org/2000/svg' width='200' height='100'><defs>"
                f"{gradient.format(stops)}</defs>{drawing}</svg>"
            )
            theirs = self.shown(svg)
            ours = drawn_mark(svg, theirs)
            inside = binary_erosion(theirs.max(axis=2) > 0.05, iterations=4)
            self.assertGreater(int(inside.sum()), 2500)
            apart = np.abs(ours - theirs).max(axis=2)[inside]
            self.assertLess(float(np.quantile(apart, 0.97)), 5 / 255, f"{gradient} {drawing}")

    def test_patterns_of_svg_are_those_of_the_browser(self) -> None:
        """Where they have edges a pixel differs: tiles are pictures. All of an edge's pixels are few."""
        ground = "<rect width='200' height='100' fill='#e0c080'/>"
        dots = f"{ground}<circle cx='7' cy='6' r='4' fill='#204080'/>"
        box = "<rect width='200' height='100' fill='url(#g)'/>"
        turned = (
            "<g transform='rotate(12 100 50)'>"
            "<rect x='40' y='20' width='120' height='60' fill='url(#g)'/></g>"
        )
        for pattern, drawing in (
            (f"<pattern id='g' patternUnits='userSpaceOnUse' width='20' height='14'>{dots}</pattern>", box),
            (
                "<pattern id='g' patternUnits='userSpaceOnUse' x='5' y='3' width='24' height='24' "
                f"patternTransform='rotate(30) scale(1.5 .8)'>{dots}</pattern>",
                box,
            ),
            (f"<pattern id='g' width='.1' height='.25'>{dots}</pattern>", turned),
            (
                "<pattern id='g' width='.2' height='.5' patternContentUnits='objectBoundingBox'>"
                "<rect width='1' height='1' fill='#406020'/>"
                "<path d='M0 0h.1v.5h-.1z' fill='#e0a0c0'/></pattern>",
                turned,
            ),
            (
                f"<pattern id='h' viewBox='0 0 20 20'>{dots}</pattern>"
                "<pattern id='g' href='#h' patternUnits='userSpaceOnUse' width='30' height='30'/>",
                box,
            ),
        ):
            svg = (
                "<svg xmlns='http://www.w3.org/2000/svg' width='200' height='100'><defs>"
                f"{pattern}</defs>{drawing}</svg>"
            )
            theirs = self.shown(svg)
            inside = binary_erosion(theirs.max(axis=2) > 0.05, iterations=4)
            apart = np.abs(drawn_mark(svg, theirs) - theirs).max(axis=2)[inside]
            with self.subTest(pattern):
                self.assertLess(float((apart > 0.2).mean()), 0.05)
                self.assertLess(float(apart.mean()), 0.045)

    def shown(self, svg: str) -> NDArray[np.float64]:
        """What Chromium shows of a drawing of 200 × 100 px over black."""
        self.page.set_content(f"<body style='margin:0;background:#000'>{svg}")
        data = self.page.screenshot(clip={"x": 0, "y": 0, "width": 200, "height": 100})
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float) / 255

    def painted(self, css: str) -> NDArray[np.float64]:
        """What Chromium paints of a gradient over 200 × 100 px of #406020 (h, w, 3), without its rim."""
        self.page.set_content(
            f"<body style='margin:0'><div style='width:200px;height:100px;background:{css},#406020'></div>"
        )
        data = self.page.screenshot(clip={"x": 0, "y": 0, "width": 200, "height": 100})
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), float)[4:96, 4:196] / 255


def picture(colour: str) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (40, 20), colour).save(out, "PNG")
    return out.getvalue()


def drawn(gradient: dict) -> NDArray[np.float64]:
    """The same as a flat face, drawn by Halvex."""
    colour = {"base": "#406020", "layers": [{"kind": "gradient", "stops": STOPS, **gradient}]}
    block = {
        "kind": "shape",
        "shape": "rectangle",
        "width": 200,
        "height": 100,
        "form": {"depth": 10, "bevel": {"width": 0, "height": 0}},
        "surface": {"face": {"kind": "flat", "colour": colour}},
    }
    return rendered(block)[4:96, 4:196]


def drawn_mark(svg: str, theirs: NDArray[np.float64]) -> NDArray[np.float64]:
    """The same drawing as a mark in flat colours, where the browser has its ink."""
    read = read_svg(svg.encode())
    assert not read.left_out, read.left_out
    parts = [part.model_dump(mode="json") for part in read.parts]
    for part in parts:
        part["material"] = {"kind": "flat", "colour": part["material"]["colour"]}
    rows, columns = np.nonzero(theirs.max(axis=2) > 0.05)
    block = {
        "kind": "mark",
        "parts": parts,
        "place": {
            "x": (columns.min() + columns.max() + 1) / 2 - 100,
            "y": 50 - (rows.min() + rows.max() + 1) / 2,
        },
        "form": {"depth": 10, "bevel": {"width": 0, "height": 0}},
    }
    with TemporaryDirectory() as folder:
        for name, data in read.pictures.items():
            (Path(folder) / f"{name}.png").write_bytes(data)
        own = Path(folder)
        return rendered(block, SHIPPED | Assets.of(typefaces=own, panoramas=own, pictures=own))


def rendered(block: dict, assets: Assets = SHIPPED) -> NDArray[np.float64]:
    values = {
        "canvas": {"width": 200, "height": 100},
        "view": {"projection": "parallel"},
        "backdrop": {"ground": "none"},
        "blocks": [block],
    }
    return np.asarray(render_piece(piece_from_values(values), DraftOrder(), assets=assets).display, float)
