"""What may be looked at next is made while nothing else is asked for, unless somebody does not want that."""

from __future__ import annotations

from playwright.sync_api import Request

from e2e_tests.base import BrowserTestCase, expect

#: Bytes that came over the line for tiles of full size since the page was told to count.
FETCHED = """since => performance.getEntriesByType('resource')
  .filter(one => one.startTime > since && /\\/tiles\\/\\w+\\/0\\//.test(one.name)).map(one => one.transferSize)"""


class AheadTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.ahead: list[str] = []
        self.page.on("request", self.note)

    def note(self, request: Request) -> None:
        if request.headers.get("x-kite-ahead"):
            self.ahead.append(request.url)

    def test_full_size_is_there_before_it_is_asked_for(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        count = -1
        while count < len(self.ahead) or count < 6:
            count = len(self.ahead)
            self.page.wait_for_timeout(2500)
        since = self.page.evaluate("performance.now()")
        self.page.keyboard.press("2")
        self.page.wait_for_timeout(400)
        self.wait_until_computed()
        sizes = self.page.evaluate(FETCHED, since)
        self.assertGreater(len(sizes), 5)
        # The original below is fetched; of the take itself nothing is, that lies in view.
        cached = sum(size == 0 for size in sizes)
        self.assertGreaterEqual(cached, len(sizes) // 2, sizes)

    def test_it_can_be_switched_off(self) -> None:
        self.page.goto(f"{self.application.address}/settings")
        self.page.get_by_label("While nothing is asked for").uncheck()
        self.page.get_by_role("button", name="Save").click()
        expect(self.page.get_by_text("Saved.")).to_be_visible()
        self.page.goto(self.application.address)
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.wait_for_timeout(3000)
        self.assertEqual(self.ahead, [])
