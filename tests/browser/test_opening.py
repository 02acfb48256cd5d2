"""A machine that has no kernels yet: the page says how far they are, and opens by itself."""

import json
import unittest

from playwright.sync_api import Route, expect

from tests.browser.workshop import WorkshopTest


class OpeningTest(WorkshopTest):
    def test_the_page_waits_for_the_kernels_and_opens_by_itself(self) -> None:
        said = {"share": 0.4, "seconds": 118.0}
        self.page.route("**/api/opening", lambda route: self.answer(route, said))
        self.page.goto(self.server.address)
        expect(self.page.get_by_text("About 2 minutes left")).to_be_visible()
        expect(self.page.get_by_role("progressbar")).to_have_attribute("aria-valuenow", "40")
        self.expect_no_finding("the page while kernels are compiled")
        said.update(share=0.95, seconds=22.0)
        expect(self.page.get_by_text("About 20 seconds left")).to_be_visible()
        said.update(share=0.99, seconds=0.0)
        expect(self.page.get_by_text("Almost there")).to_be_visible()
        self.assertEqual(self.page.locator("canvas").count(), 0)
        said.update(share=1.0)
        self.page.locator("canvas[data-seq]").wait_for()

    @staticmethod
    def answer(route: Route, said: dict[str, float]) -> None:
        route.fulfill(content_type="application/json", body=json.dumps(said))


if __name__ == "__main__":
    unittest.main()
