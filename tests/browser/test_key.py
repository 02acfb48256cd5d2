"""A workshop that is open to other machines asks for its access key."""

import tempfile
import unittest
import urllib.error
from pathlib import Path

from playwright.sync_api import expect, sync_playwright

from tests.browser.workshop import CHROMIUM, FLAGS, PATIENCE_MS, Server


class KeyServer(Server):
    def get(self, path: str) -> dict:
        """It answers nobody without the key: that it refuses is a sign of life."""
        try:
            return super().get(path)
        except urllib.error.HTTPError as refused:
            with refused:
                return {}


class KeyPageTest(unittest.TestCase):
    def test_the_key_opens_the_workshop_and_is_asked_for_once(self) -> None:
        with (
            tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder,
            sync_playwright() as playwright,
        ):
            server = KeyServer(Path(folder), "--host", "0.0.0.0", "--key", "slack water")
            server.start()
            self.addCleanup(server.kill)
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
            page = browser.new_page()
            page.set_default_timeout(PATIENCE_MS)
            expect.set_options(timeout=PATIENCE_MS)
            page.goto(server.address)
            expect(page.get_by_label("Access key")).to_be_focused()
            page.keyboard.type("high water")
            page.keyboard.press("Enter")
            expect(page.get_by_role("alert")).to_contain_text("not the key")
            page.get_by_label("Access key").fill("slack water")
            page.get_by_role("button", name="Open the workshop").click()
            page.locator("canvas[data-seq]").wait_for()
            page.reload()
            page.locator("canvas[data-seq]").wait_for()
            browser.close()


if __name__ == "__main__":
    unittest.main()
