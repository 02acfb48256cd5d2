"""Take the pictures of docs/screenshots from a running Halvex with the demo pieces, at 1280 × 800.

.venv/bin/halvex serve --demo --data /tmp/halvex-pictures &
.venv/bin/python tools/screenshots.py [STATION ...]
"""

import sys
from pathlib import Path

from playwright.sync_api import sync_playwright

FOLDER = Path(__file__).parents[1] / "docs/screenshots"
CHROMIUM = "/usr/bin/chromium"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
# Each station with the piece it is shown on.
VIEWS = {
    "Set": "Regatta Crest",
    "Form": "High Tide",
    "View": "Harbour Ale",
    "Light": "Lantern Regatta",
    "Surface": "Harbour Ball",
    "Backdrop": "Lamp Night",
    "Finish": "High Tide",
    "Export": "Lantern Regatta",
}


def main(wanted: list[str]) -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto("http://127.0.0.1:8047/")
        pieces = {
            p["name"]: p["id"] for p in page.evaluate("fetch('/api/pieces').then(r => r.json())")["pieces"]
        }
        for station, piece in VIEWS.items():
            if wanted and station not in wanted:
                continue
            page.goto(f"http://127.0.0.1:8047/piece/{pieces[piece]}")
            page.locator("[data-part=recipe-cell]", has_text=station).click()
            page.locator("canvas[data-stage=clean]").wait_for(timeout=180_000)
            page.screenshot(path=FOLDER / f"{station.lower()}.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1:])
