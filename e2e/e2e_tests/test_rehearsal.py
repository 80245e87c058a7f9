"""A rehearsal: asked for on the bench, its candidates beside the truth, the best one made a take, the suggestion following."""

from __future__ import annotations

from e2e_tests.base import BrowserTestCase, expect


class RehearsalTest(BrowserTestCase):
    def test_the_best_chain_is_found_on_the_picture_itself_and_made_a_take(self) -> None:
        page = self.page
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        page.keyboard.press("Shift+E")
        dialog = page.get_by_role("dialog", name="Rehearsal", exact=True)
        expect(dialog.get_by_role("img", name="The truth")).to_be_visible(timeout=120_000)
        best = dialog.locator(".row.best")
        expect(best.locator("strong")).to_contain_text("repair")
        expect(best.locator("dd").first).to_contain_text("+")
        best.get_by_role("button", name="Make it a take").click()
        expect(page.get_by_text("is made of the rehearsed steps", exact=False)).to_be_visible()
        dialog.get_by_role("button", name="Close").click()
        steps = page.get_by_label("Steps")
        expect(steps.get_by_role("button", name="repair", exact=False).filter(has_text="100").first).to_be_visible()
        page.keyboard.press("l")
        expect(steps.get_by_text("rehearsed", exact=False).first).to_be_visible()
        # Kept: what was rehearsed once is there at once.
        page.get_by_role("button", name="Rehearse", exact=True).first.click()
        expect(dialog.get_by_role("img", name="The truth")).to_be_visible()
        page.keyboard.press("Escape")

    def test_it_can_be_called_off(self) -> None:
        page = self.page
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Harbour wall 1988.jpg")
        page.keyboard.press("Shift+E")
        dialog = page.get_by_role("dialog", name="Rehearsal", exact=True)
        dialog.get_by_role("button", name="Call it off").click(timeout=60_000)
        expect(dialog).to_have_count(0)
        expect(page.get_by_label("Steps")).to_be_visible()
