"""Many pictures delivered in one go, and taken along as a bundle with its ledger."""

from __future__ import annotations

import hashlib
from zipfile import ZipFile

from e2e_tests.base import BrowserTestCase, expect


class BatchTest(BrowserTestCase):
    def test_pictures_are_planned_delivered_and_bundled(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.page.get_by_role("button", name="Deliver many").click()
        dialog = self.page.get_by_label("Deliver many")
        plan = dialog.get_by_label("Plan")
        expect(plan.get_by_text("2835 × 3780 px", exact=False)).to_be_visible()
        plan.get_by_label("Workshop at night.jpg").uncheck()
        plan.get_by_label("Harbour wall 1988.jpg").uncheck()
        expect(plan.get_by_text("left out")).to_have_count(2)
        dialog.get_by_role("button", name="Suggested").click()
        expect(dialog.get_by_text("1 files, about", exact=False)).to_be_visible()
        dialog.get_by_role("combobox", name="Written").click(force=True)
        self.page.get_by_role("option", name="JPEG", exact=True).click()
        dialog.get_by_role("button", name="Deliver 1").click()
        expect(dialog.get_by_text("1 of 1 pictures are being delivered")).to_be_visible()
        dialog.get_by_role("button", name="Close").click()

        deliveries = self.page.get_by_label("Deliveries")
        made = deliveries.get_by_role("listitem").filter(has_text="Festival 2003 web")
        expect(made).to_have_attribute("data-state", "done", timeout=120_000)
        expect(made).to_contain_text("take Suggested of Festival 2003 web.jpg")
        with self.page.expect_download() as downloading:
            self.page.get_by_role("link", name="Bundle with ledger").click()
        with ZipFile(downloading.value.path()) as archive:
            sums = dict(reversed(line.split("  ")) for line in archive.read("SHA256SUMS").decode().splitlines())
            self.assertEqual(len(sums), 2, "the demo's own delivery and this one")
            for name, digest in sums.items():
                self.assertEqual(hashlib.sha256(archive.read(name)).hexdigest(), digest)
            self.assertIn("Festival 2003 web", archive.read("ledger.html").decode())

    def test_a_batch_is_put_in_order_paused_and_reported(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.page.get_by_role("button", name="Deliver many").click()
        dialog = self.page.get_by_label("Deliver many")
        expect(dialog.get_by_label("Plan").get_by_text("2835 × 3780 px", exact=False)).to_be_visible()
        dialog.get_by_role("button", name="Deliver 3").click()
        # It is placed whatever becomes of the page.
        expect(dialog.get_by_text("of 3 pictures are being delivered", exact=False)).to_be_visible()
        dialog.get_by_role("link", name="Deliveries").click()
        queue = self.page.get_by_role("list", name="Queue").get_by_role("listitem")
        told = self.page.get_by_label("Batch Their takes").get_by_role("status")
        expect(told).to_contain_text("of 3 made")
        expect(told).not_to_contain_text("being put into the queue")
        # One that had not begun would be paused, too.
        expect(queue.and_(self.page.locator("[data-state=running]"))).to_have_count(1)
        self.page.get_by_role("button", name="Pause", exact=True).click()
        held = queue.and_(self.page.locator("[data-state=paused]"))
        expect(held).to_have_count(2)
        expect(self.page.get_by_text("2 files paused")).to_be_visible()
        last = held.nth(1).locator("strong").inner_text()
        held.nth(1).drag_to(held.nth(0))
        expect(held.nth(0).locator("strong")).to_have_text(last)
        # By the keys, and back by dragging what is then below.
        held.nth(0).press("Alt+ArrowDown")
        expect(held.nth(1).locator("strong")).to_have_text(last)
        held.nth(1).press("Alt+ArrowUp")
        expect(held.nth(0).locator("strong")).to_have_text(last)
        first = held.nth(1).locator("strong").inner_text()
        self.page.get_by_label(f"Cancel {first}").click()
        expect(held).to_have_count(1)
        self.page.reload()
        expect(held.nth(0).locator("strong")).to_have_text(last)
        self.page.get_by_role("button", name="Resume", exact=True).click()
        report = self.page.get_by_label("Batch Their takes")
        expect(report.get_by_role("status")).to_contain_text("2 of 3 made", timeout=120_000)
        expect(report.get_by_role("status")).to_contain_text("1 cancelled")
        expect(self.page.get_by_text("Nothing is being made")).to_be_visible()
        report.get_by_role("button", name="Report").click()
        expect(report.get_by_text("cancelled; no file was made")).to_be_visible()
        report.get_by_role("button", name="Try 1 again").click()
        expect(report.get_by_role("status")).to_contain_text("3 of 3 made", timeout=120_000)

    def test_choosing_a_wrap_orders_nothing(self) -> None:
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Harbour wall 1988.jpg")
        self.page.keyboard.press("d")
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="Border, canvas wrap", exact=False).click()
        wrap = dialog.get_by_label("Canvas wrap, mm")
        wrap.fill("30")
        wrap.press("Enter")
        # 2835 × 3780 px at 240 ppi, and 283 px of canvas on every side.
        expect(dialog.get_by_text("3401 × 4346 px", exact=False)).to_be_visible()
        dialog.get_by_role("button", name="Stretch").click()
        expect(dialog.get_by_role("button", name="Stretch")).to_have_attribute("aria-pressed", "true")
        expect(dialog.get_by_role("button", name="Deliver", exact=True)).to_be_visible()
