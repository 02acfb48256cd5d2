"""Marks in a real browser: its own pictures of SVG files against ours, and a mark brought into a piece."""

import base64
import io
import unittest

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw
from playwright.sync_api import Page, sync_playwright

from halvex.core.lettering.marks import part_outline
from halvex.core.lettering.svg import reader
from halvex.core.piece.mark import MarkPart
from tests.browser.workshop import CHROMIUM, FLAGS
from tests.core.svg_drawings import DRAWINGS

SIDE_PX = 200
FINER = 6
# Both smooth edges by coverage, each in its own way; a shape at fault differs by far more than an
# edge's grey.
EDGE = 0.45
MOST_OFF = 4


class BrowserPicturesTest(unittest.TestCase):
    """Every drawing, painted by the browser (an independent renderer) and from our outlines, pixel
    by pixel."""

    def test_drawings_look_as_the_browser_paints_them(self) -> None:
        self.assertGreaterEqual(len(DRAWINGS), 40)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page(viewport={"width": SIDE_PX, "height": SIDE_PX})
            for name, text in DRAWINGS.items():
                with self.subTest(name):
                    difference = np.abs(_browser_picture(page, text) - _our_picture(text)).max(axis=2)
                    self.assertLessEqual(int((difference > EDGE).sum()), MOST_OFF)
                    self.assertLess(float(difference.mean()), 0.005)
            browser.close()


def _browser_picture(page: Page, text: str) -> NDArray[np.float64]:
    address = f"data:image/svg+xml;base64,{base64.b64encode(text.encode()).decode()}"
    page.set_content(
        f'<body style="margin:0;background:white"><img src="{address}" width="{SIDE_PX}" '
        f'height="{SIDE_PX}" style="display:block"></body>'
    )
    page.wait_for_function("document.images[0].complete")
    return np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("RGB")) / 255.0


def _our_picture(text: str) -> NDArray[np.float64]:
    """The parts painted in their order, each in its own colour, black where it has none."""
    side = SIDE_PX * FINER
    picture = Image.new("RGB", (side, side), "white")
    # Before they are moved to their middle: where they stand on the page is tried too.
    parts = reader._Reader(reader.fromstring(text.encode())).parts(96.0)
    for part in parts:
        mask = Image.new("1", (side, side))
        for ring in sorted(_rings(part), key=lambda ring: -len(ring)):
            own = Image.new("1", (side, side))
            ImageDraw.Draw(own).polygon(
                [tuple(point) for point in (ring * (SIDE_PX / 100 * FINER) - 0.5).tolist()], fill=1
            )
            # Rings are nested: one inside another takes away.
            mask = Image.fromarray(np.asarray(mask) ^ np.asarray(own))
        picture.paste(Image.new("RGB", picture.size, getattr(part.material, "colour", "#000000")), mask=mask)
    return np.asarray(picture.resize((SIDE_PX, SIDE_PX), Image.Resampling.BOX)) / 255.0


def _rings(part: MarkPart) -> list[NDArray[np.float64]]:
    drawn = part_outline(part, SIDE_PX / 100)
    return [ring * drawn[1] * (1, -1) for ring in drawn[0].rings] if drawn else []
