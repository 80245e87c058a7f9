"""What may be looked at next is made while nothing else is asked for, unless somebody does not want that."""

from __future__ import annotations

from playwright.sync_api import Request

from e2e_tests.base import BrowserTestCase, expect

#: Bytes that came over the line for parts of full size of a result since the page was told to count.
FETCHED = """([since, chain]) => performance.getEntriesByType('resource')
  .filter(one => one.startTime > since && one.name.includes(`/cuts/${chain}/`)).map(one => one.transferSize)"""


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
        take = self.page.url.rsplit("/", 1)[1]
        chain = self.page.request.get(f"{self.application.address}/api/takes/{take}").json()["plan"]["chain"]
        with self.page.expect_response(lambda answer: f"/cuts/{chain}/" in answer.url and answer.ok):
            pass
        self.page.wait_for_timeout(500)
        since = self.page.evaluate("performance.now()")
        self.page.keyboard.press("2")
        self.page.wait_for_timeout(400)
        self.wait_until_computed()
        self.assertEqual(self.page.evaluate(FETCHED, [since, chain]), [0])

    def test_what_lies_beside_a_view_is_made_before_it_is_looked_at(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("2")
        self.wait_until_computed()
        self.ahead.clear()
        self.page.wait_for_timeout(6000)
        self.assertTrue([address for address in self.ahead if "/0/" in address and "/tiles/" in address])

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
