"""A camera raw from the card to a client's raw developer: balanced by light, its lens undone, delivered as linear DNG."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from e2e_tests.base import BrowserTestCase, expect
from e2e_tests.pixels import on_screen
from kitecore.files.source import read_facts

RAW = "Beach, camera raw.dng"


class RawsTest(BrowserTestCase):
    def settled(self) -> None:
        self.page.wait_for_timeout(500)
        expect(self.page.get_by_text("saved", exact=True)).to_be_visible()
        self.wait_until_computed()

    def warmth(self) -> float:
        """How much redder than blue the view is."""
        self.page.wait_for_timeout(300)
        seen = on_screen(self.page, self.page.locator(".view")).astype(float)[100:600, 200:700]
        return float(seen[..., 0].mean() - seen[..., 2].mean())

    def test_it_is_developed_and_delivered(self) -> None:
        self.open_job("Tern Sands: catalogue and banner")
        expect(self.page.get_by_text("14 bit mosaic")).to_be_visible()
        self.open_bench(RAW)
        steps = self.page.get_by_label("Steps")
        steps.get_by_text("develop", exact=True).click()
        expect(steps.get_by_text("as the camera had it")).to_be_visible()
        expect(steps.get_by_role("paragraph").filter(has_text="Tern 24mm f/2.8")).to_be_visible()
        before = self.warmth()
        steps.get_by_role("button", name="By light").click()
        steps.get_by_role("button", name="Bulb").click()
        self.settled()
        self.assertLess(self.warmth(), before - 30)
        self.page.keyboard.press("Control+z")
        self.page.keyboard.press("Control+z")
        self.settled()
        self.assertLess(abs(self.warmth() - before), 1)
        steps.get_by_role("button", name="By light").click()
        steps.get_by_role("button", name="Shade").click()
        steps.get_by_label("undo what the lens did").uncheck()
        self.settled()
        expect(steps.get_by_text("white 7500 K · lens as it is")).to_be_visible()

        self.page.get_by_role("button", name="Deliver").click()
        dialog = self.page.get_by_label("Deliver", exact=True)
        dialog.get_by_role("button", name="DNG").click()
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        finished = dialog.get_by_role("link", name="Download")
        expect(finished).to_be_visible(timeout=120_000)
        with self.page.expect_download() as download:
            finished.click()
        with TemporaryDirectory() as folder:
            path = Path(folder) / "made.dng"
            download.value.save_as(path)
            facts = read_facts(path)
        assert facts.raw is not None
        self.assertEqual((facts.width, facts.height, facts.iso), (2240, 1680, 800))
        self.assertLess(abs(facts.raw.kelvin - 7500), 80)
